//! SMBIOS tables of a simulated machine as real bytes (DMTF DSP0134, version 3.2), so that they go through the same
//! parser as those of a real machine.

use revisum_diagnose::board::SmbiosTables;
use revisum_diagnose::board::{MapEntry, MemoryMap, SYSTEM_RAM};
use revisum_engine::units::{ByteRange, KIB, MIB, RangeSet};

use crate::mapping::physical;
use crate::spec::{MachineSpec, ModuleSpec, SlotSpec};

/// Size field that refers to the extended size.
const SEE_EXTENDED: u16 = 0x7fff;
const DDR4: u8 = 0x1a;
const DIMM: u8 = 0x09;
/// Form factor of soldered memory.
const ROW_OF_CHIPS: u8 = 0x0b;
/// The voltage of DDR4 in millivolts.
const MILLIVOLTS: u16 = 1200;
/// Handles.
const ARRAY: u16 = 0x1000;
const FIRST_DEVICE: u16 = 0x1100;
const FIRST_ARRAY_RANGE: u16 = 0x1300;

/// The tables of this fitting.
pub(crate) fn tables(machine: &MachineSpec, placement: &[(String, String)], setting: &str) -> SmbiosTables {
    let mut bytes = Vec::new();
    let board = &machine.mainboard;
    structure(&mut bytes, 0, 0x00, &firmware_fields(), &[&board.maker, &board.firmware, &board.firmware_date]);
    structure(&mut bytes, 2, 0x02, &[1, 2, 0, 0, 0, 0, 0, 0, 0, 0x0a, 0], &[&board.maker, &board.product]);
    if !machine.processor.is_empty() {
        structure(&mut bytes, 4, 0x04, &processor_fields(machine), &["SOCKET0", &machine.processor]);
    }
    if machine.cache > 0 {
        structure(&mut bytes, 7, 0x07, &cache_fields(machine.cache), &[]);
    }
    structure(&mut bytes, 16, ARRAY, &array_fields(machine), &[]);
    let mut fitted_bytes = 0;
    for (index, slot) in (0u16..).zip(&machine.slots) {
        let serial = placement.iter().find(|(id, _)| *id == slot.id).map(|(_, serial)| serial);
        let module = serial.and_then(|serial| machine.module(serial));
        fitted_bytes += module.map_or(0, |module| module.size);
        memory_device(&mut bytes, FIRST_DEVICE + index, slot, module, Manner { setting, ecc: machine.ecc });
    }
    for (index, range) in (0u16..).zip(physical(machine, fitted_bytes)) {
        structure(&mut bytes, 19, FIRST_ARRAY_RANGE + index, &array_range_fields(range), &[]);
    }
    structure(&mut bytes, 127, 0x7f00, &[], &[]);
    SmbiosTables::of_version((3, 2), bytes)
}

/// The memory map that this firmware hands over.
pub(crate) fn memory_map(machine: &MachineSpec, fitted_bytes: u64) -> MemoryMap {
    let ram = RangeSet::from(physical(machine, fitted_bytes)).minus(&RangeSet::from(vec![ByteRange::new(0, MIB)]));
    let entry = |kind: &str| {
        let kind = kind.to_owned();
        move |range: &ByteRange| MapEntry { range: *range, kind: kind.clone() }
    };
    let mut entries: Vec<MapEntry> = ram.ranges().iter().map(entry(SYSTEM_RAM)).collect();
    entries.push(entry("Reserved")(&ByteRange::new(0, MIB)));
    entries.sort_by_key(|entry| entry.range.start);
    MemoryMap { source: "simulated memory map".to_owned(), entries }
}

/// Type 0 from offset 4 on: strings 1 and 2, segment, string 3, sizes and characteristics.
fn firmware_fields() -> Vec<u8> {
    let mut fields = vec![1, 2, 0, 0, 3, 0xff];
    fields.extend([0; 8]);
    fields.extend([0, 0, 1, 14, 0xff, 0xff]);
    fields
}

/// Type 4: strings 1 (socket) and 2 (version), speeds unknown, three caches, cores.
fn processor_fields(machine: &MachineSpec) -> Vec<u8> {
    let mut fields = vec![1, 3, 0xfe, 0];
    fields.extend([0; 8]);
    fields.extend([2, 0, 0, 0, 0, 0, 0, 0, 0x41, 6, 0xff, 0xff, 0xff, 0xff, 0x07, 0, 0, 0, 0]);
    fields.extend([machine.cores.min(254) as u8, machine.cores.min(254) as u8, 0, 0, 0]);
    fields
}

/// Type 7 of the largest cache: level 3, sizes in steps of 64 KiB.
fn cache_fields(cache: u64) -> Vec<u8> {
    let steps = (0x8000 | (cache / (64 * KIB)).min(0x7fff) as u16).to_le_bytes();
    let mut fields = vec![0, 0x82, 0x01];
    fields.extend(steps);
    fields.extend(steps);
    fields.extend([0; 8]);
    fields
}

/// Type 16: on the mainboard, system memory, its correction, at most what its slots can take.
fn array_fields(machine: &MachineSpec) -> Vec<u8> {
    let largest = machine.modules.iter().map(|module| module.size).max().unwrap_or(0);
    let most_kib = largest * machine.slots.len() as u64 / KIB;
    let mut fields = vec![3, 3, if machine.ecc { 5 } else { 3 }];
    fields.extend(u32::try_from(most_kib).ok().filter(|kib| *kib < 0x8000_0000).unwrap_or(0).to_le_bytes());
    fields.extend([0xfe, 0xff, machine.slots.len() as u8, 0]);
    fields.extend([0; 8]);
    fields
}

/// Type 19, by its extended fields.
fn array_range_fields(range: ByteRange) -> Vec<u8> {
    let mut fields = vec![0xff; 8];
    fields.extend(ARRAY.to_le_bytes());
    fields.push(1);
    fields.extend(range.start.to_le_bytes());
    fields.extend((range.end - 1).to_le_bytes());
    fields
}

/// How the machine runs its memory.
#[derive(Clone, Copy)]
struct Manner<'a> {
    setting: &'a str,
    ecc: bool,
}

impl Manner<'_> {
    /// Speed in force, in MT/s.
    fn speed(self, module: &ModuleSpec) -> u16 {
        module.speed_with(self.setting)
    }
}

fn memory_device(bytes: &mut Vec<u8>, handle: u16, slot: &SlotSpec, module: Option<&ModuleSpec>, manner: Manner<'_>) {
    let mib = module.map_or(0, |module| module.size / MIB);
    let extended = mib >= u64::from(SEE_EXTENDED);
    let best = module.map_or(0, |module| module.profile_speed.unwrap_or(module.speed)).to_le_bytes();
    let in_force = module.map_or(0, |module| manner.speed(module)).to_le_bytes();
    let total_width = if manner.ecc { 72 } else { 64 };
    let form = if slot.soldered { ROW_OF_CHIPS } else { DIMM };
    let mut fields = ARRAY.to_le_bytes().to_vec();
    fields.extend([0xfe, 0xff, total_width, 0, 64, 0]);
    fields.extend(if extended { SEE_EXTENDED } else { mib as u16 }.to_le_bytes());
    fields.extend([form, 0, 1, 2, DDR4, 0x80, 0x00]);
    fields.extend(best);
    fields.extend([3, 4, 0, 5, module.map_or(0, |module| module.ranks as u8)]);
    fields.extend(if extended { mib as u32 } else { 0 }.to_le_bytes());
    fields.extend(in_force);
    fields.extend([0; 4]);
    fields.extend(module.map_or(0, |_| MILLIVOLTS).to_le_bytes());
    let channel = format!("CHANNEL {}", slot.channel);
    let texts = module.map_or(["", "", ""], |module| [&module.maker, &module.serial, &module.part]);
    structure(bytes, 17, handle, &fields, &[&slot.id, &channel, texts[0], texts[1], texts[2]]);
}

fn structure(bytes: &mut Vec<u8>, kind: u8, handle: u16, fields: &[u8], strings: &[&str]) {
    bytes.extend([kind, fields.len() as u8 + 4]);
    bytes.extend(handle.to_le_bytes());
    bytes.extend(fields);
    for string in strings {
        // An empty string would end the list: one blank stands for it, and the parser trims it away.
        bytes.extend(if string.is_empty() { b" ".as_slice() } else { string.as_bytes() });
        bytes.push(0);
    }
    if strings.is_empty() {
        bytes.push(0);
    }
    bytes.push(0);
}
