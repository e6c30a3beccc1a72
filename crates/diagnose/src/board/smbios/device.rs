//! Type 17, memory devices: slots and what sits in them.

use smbioslib::{
    MemoryArrayUse, MemoryDeviceType, MemoryFormFactor, MemorySize, MemorySizeExtended, MemorySpeed,
    MemorySpeedExtended, SMBiosData, SMBiosMemoryDevice, SMBiosPhysicalMemoryArray, SMBiosStruct,
};

use super::topology::Site;
use super::{known, source, text};
use crate::board::fact::Facts;
use crate::board::fact_names as names;
use crate::board::maker::{MakerCode, bytes_of};
use revisum_engine::units::{GIB, KIB, MIB, bytes_text, volts_text};
use revisum_record::fitted::{Module, Slot};

/// Flash and ROM devices are listed as memory devices too, and so is the memory of video adapters.
pub(super) fn is_main_memory(table: &SMBiosMemoryDevice<'_>, data: &SMBiosData) -> bool {
    let kind = table.memory_type().map(|kind| kind.value);
    let is_rom = matches!(
        kind,
        Some(
            MemoryDeviceType::Flash
                | MemoryDeviceType::Rom
                | MemoryDeviceType::Eeprom
                | MemoryDeviceType::Feprom
                | MemoryDeviceType::Eprom
                | MemoryDeviceType::Vram
                | MemoryDeviceType::LogicalNonVolatileDevice
        )
    );
    let array = table
        .physical_memory_array_handle()
        .and_then(|handle| data.find_by_handle(&handle))
        .filter(|array| array.header.struct_type() == SMBiosPhysicalMemoryArray::STRUCT_TYPE);
    let other_use = array.and_then(|array| SMBiosPhysicalMemoryArray::new(array).usage()).is_some_and(|usage| {
        matches!(
            usage.value,
            MemoryArrayUse::VideoMemory
                | MemoryArrayUse::FlashMemory
                | MemoryArrayUse::NonVolatileRam
                | MemoryArrayUse::CacheMemory
        )
    });
    !is_rom && !other_use
}

/// The slot and its module.
pub(super) fn slot(table: &SMBiosMemoryDevice<'_>) -> Slot {
    let module = size(table).map(|bytes| Module {
        serial: known(table.serial_number()),
        maker: maker(table),
        part: part(table),
        bytes,
        generation: generation(table).to_owned(),
        speed: speed_in_force(table).or_else(|| rated_speed(table)),
        rated_speed: rated_speed(table),
        ranks: ranks(table),
        byte_lanes: byte_lanes(table),
        ..Module::default()
    });
    Slot { id: text(table.device_locator()), soldered: is_soldered(table), module, ..Slot::default() }
}

/// Where its two names say that it is.
pub(super) fn site(table: &SMBiosMemoryDevice<'_>) -> Site {
    Site::of(&text(table.device_locator()), &text(table.bank_locator()))
}

fn code(table: &SMBiosMemoryDevice<'_>) -> Option<MakerCode> {
    MakerCode::in_text(&text(table.manufacturer())).or_else(|| told_code(table))
}

/// Since version 3.2 the code stands in a field of its own, the continuation codes in the low byte (DSP0134, type 17, module manufacturer ID).
fn told_code(table: &SMBiosMemoryDevice<'_>) -> Option<MakerCode> {
    if !known(table.manufacturer()).is_empty() {
        return None;
    }
    let [continuations, code] = table.module_manufacturer_id()?.to_le_bytes();
    MakerCode::stored(continuations, code)
}

/// By its code, where firmware wrote that instead of a name and it is somebody's.
fn maker(table: &SMBiosMemoryDevice<'_>) -> String {
    code(table).and_then(MakerCode::name).unwrap_or_else(|| known(table.manufacturer()))
}

/// Some firmware writes the signs of the part number as hexadecimal digits.
fn part(table: &SMBiosMemoryDevice<'_>) -> String {
    let part = known(table.part_number());
    spelled_out(&part).unwrap_or(part)
}

/// Shorter numbers of nothing but hexadecimal digits may be meant so.
const LEAST_DIGITS: usize = 20;

fn spelled_out(part: &str) -> Option<String> {
    let bytes = if part.len() >= LEAST_DIGITS { bytes_of(part)? } else { return None };
    let end = bytes.iter().rposition(|byte| !matches!(byte, 0 | 0xff | b' '))? + 1;
    let is_text = bytes[..end].iter().all(|byte| (b' '..0x7f).contains(byte));
    is_text.then(|| bytes[..end].iter().map(|byte| char::from(*byte)).collect::<String>().trim().to_owned())
}

/// Everything that it tells, in words.
pub(super) fn tell(table: &SMBiosMemoryDevice<'_>, slot: &Slot, facts: &mut Facts) {
    let source = source::<SMBiosMemoryDevice<'_>>();
    let mut tell = |name, value: String| facts.tell(&slot.id, name, &source, value);
    tell(names::BANK, text(table.bank_locator()));
    tell(names::FORM, form(table).to_owned());
    if slot.module.is_none() {
        return;
    }
    let volts = |millivolts: Option<u16>| millivolts.filter(|mv| *mv > 0).map(|mv| volts_text(u32::from(mv)));
    let speed = |speed: Option<u32>| speed.map(|speed| format!("{speed} MT/s"));
    let bits = |bits: Option<u16>| bits.filter(|bits| (1..0xffff).contains(bits)).map(|bits| format!("{bits} bit"));
    tell(names::MAKER, maker(table));
    tell(names::MAKER_CODE, code(table).map(MakerCode::words).unwrap_or_default());
    tell(names::PART, part(table));
    tell(names::SERIAL, known(table.serial_number()));
    tell(names::SIZE, size(table).map(bytes_text).unwrap_or_default());
    tell(names::GENERATION, generation(table).to_owned());
    tell(names::RANKS, ranks(table).map(|ranks| ranks.to_string()).unwrap_or_default());
    tell(names::SPEED, speed(speed_in_force(table)).unwrap_or_default());
    tell(names::RATED, speed(rated_speed(table)).unwrap_or_default());
    tell(names::VOLTAGE, volts(table.configured_voltage()).unwrap_or_default());
    tell(names::WIDTH, bits(table.total_width()).unwrap_or_default());
    tell(names::DATA_WIDTH, bits(table.data_width()).unwrap_or_default());
    tell(names::TAG, known(table.asset_tag()));
}

/// The low half of the attributes; zero means unknown (DSP0134, type 17).
fn ranks(table: &SMBiosMemoryDevice<'_>) -> Option<u8> {
    table.attributes().map(|attributes| attributes & 0x0f).filter(|ranks| *ranks > 0)
}

fn generation(table: &SMBiosMemoryDevice<'_>) -> &'static str {
    match table.memory_type().map(|kind| kind.value) {
        Some(MemoryDeviceType::Sdram) => "SDRAM",
        Some(MemoryDeviceType::Ddr) => "DDR",
        Some(MemoryDeviceType::Ddr2 | MemoryDeviceType::Ddr2Fbdimm) => "DDR2",
        Some(MemoryDeviceType::Ddr3) => "DDR3",
        Some(MemoryDeviceType::Ddr4) => "DDR4",
        Some(MemoryDeviceType::Ddr5) => "DDR5",
        Some(MemoryDeviceType::Lpddr) => "LPDDR",
        Some(MemoryDeviceType::Lpddr2) => "LPDDR2",
        Some(MemoryDeviceType::Lpddr3) => "LPDDR3",
        Some(MemoryDeviceType::Lpddr4) => "LPDDR4",
        Some(MemoryDeviceType::Lpddr5) => "LPDDR5",
        Some(MemoryDeviceType::Hbm) => "HBM",
        Some(MemoryDeviceType::Hbm2) => "HBM2",
        Some(MemoryDeviceType::Hbm3) => "HBM3",
        _ => "",
    }
}

fn form(table: &SMBiosMemoryDevice<'_>) -> &'static str {
    match table.form_factor().map(|form| form.value) {
        Some(MemoryFormFactor::Dimm) => "DIMM",
        Some(MemoryFormFactor::Sodimm) => "SO-DIMM",
        Some(MemoryFormFactor::Camm) => "compression-attached module",
        Some(MemoryFormFactor::Cudimm) => "clocked DIMM",
        Some(MemoryFormFactor::Csodimm) => "clocked SO-DIMM",
        Some(MemoryFormFactor::Fbdimm) => "fully buffered DIMM",
        Some(MemoryFormFactor::Chip | MemoryFormFactor::RowOfChips | MemoryFormFactor::Die) => "soldered",
        _ => "",
    }
}

/// By its form factor: chips on the mainboard instead of a module in a socket.
fn is_soldered(table: &SMBiosMemoryDevice<'_>) -> bool {
    form(table) == "soldered"
}

fn size(table: &SMBiosMemoryDevice<'_>) -> Option<u64> {
    match table.size()? {
        MemorySize::Kilobytes(kib) => Some(u64::from(kib) * KIB),
        MemorySize::Megabytes(mib) => Some(u64::from(mib) * MIB),
        MemorySize::SeeExtendedSize => match table.extended_size()? {
            MemorySizeExtended::Megabytes(mib) => Some(u64::from(mib) * MIB),
            MemorySizeExtended::SeeSize => None,
        },
        MemorySize::NotInstalled | MemorySize::Unknown => None,
    }
    .filter(|bytes| (1..1024 * GIB).contains(bytes))
}

fn speed_in_force(table: &SMBiosMemoryDevice<'_>) -> Option<u32> {
    megatransfers(table.configured_memory_speed()?, || table.extended_configured_memory_speed())
}

fn rated_speed(table: &SMBiosMemoryDevice<'_>) -> Option<u32> {
    megatransfers(table.speed()?, || table.extended_speed())
}

fn megatransfers(speed: MemorySpeed, extended: impl Fn() -> Option<MemorySpeedExtended>) -> Option<u32> {
    match speed {
        MemorySpeed::MTs(speed) => Some(u32::from(speed)).filter(|speed| *speed > 0),
        MemorySpeed::SeeExtendedSpeed => match extended()? {
            MemorySpeedExtended::MTs(speed) => Some(speed).filter(|speed| (1..1_000_000).contains(speed)),
            MemorySpeedExtended::SeeSpeed => None,
        },
        MemorySpeed::Unknown => None,
    }
}

fn byte_lanes(table: &SMBiosMemoryDevice<'_>) -> u8 {
    match (table.total_width(), table.data_width()) {
        (Some(total), Some(data)) if total != 0xffff && data != 0xffff && total > data && data > 0 => 9,
        _ => 8,
    }
}

/// Where several slots have one name the firmware's second name for them tells them apart, else a number does. All names differ afterwards.
pub(super) fn tell_apart(slots: &mut [Slot], banks: &[String]) {
    let name = |id: &str, bank: &str| match (id.is_empty(), bank.is_empty()) {
        (true, true) => "slot".to_owned(),
        (true, false) => bank.to_owned(),
        (false, true) => id.to_owned(),
        (false, false) => format!("{bank} {id}"),
    };
    renamed(slots, |at, id| name(id, &banks[at]));
    renamed(slots, |at, id| format!("{id}#{}", at + 1));
}

/// Gives a new name to each slot that has none or that shares its name.
fn renamed(slots: &mut [Slot], name: impl Fn(usize, &str) -> String) {
    let ids: Vec<String> = slots.iter().map(|slot| slot.id.clone()).collect();
    for (at, slot) in slots.iter_mut().enumerate() {
        let twins = ids.iter().filter(|id| **id == slot.id).count();
        if slot.id.is_empty() || twins > 1 {
            slot.id = name(at, &slot.id);
        }
    }
}
