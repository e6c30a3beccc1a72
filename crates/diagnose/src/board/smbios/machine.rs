//! Types 0, 1, 2, 4, 7 and 16: firmware, computer, mainboard, processor, caches and what memory the mainboard takes.

use smbioslib::{
    CacheMemorySize, CoreCount, MaximumMemoryCapacity, MemoryArrayErrorCorrection, MemoryArrayUse, ProcessorSpeed,
    SMBiosBaseboardInformation, SMBiosCacheInformation, SMBiosData, SMBiosInformation, SMBiosPhysicalMemoryArray,
    SMBiosProcessorInformation, SMBiosString, SMBiosSystemInformation,
};

use super::{LONGEST, SmbiosFacts, known, source};
use crate::board::fact_names as names;
use revisum_engine::text::cleaned;
use revisum_engine::units::{KIB, bytes_text};

/// Reads them all.
pub(super) fn read(data: &SMBiosData, read: &mut SmbiosFacts) {
    system(data, read);
    mainboard(data, read);
    firmware(data, read);
    data.collect::<SMBiosProcessorInformation<'_>>().iter().take(MOST_OF_A_KIND).for_each(|one| processor(one, read));
    data.collect::<SMBiosCacheInformation<'_>>().iter().take(MOST_OF_A_KIND).for_each(|one| cache(one, read));
    data.collect::<SMBiosPhysicalMemoryArray<'_>>().iter().take(MOST_OF_A_KIND).for_each(|one| array(one, read));
}

/// Sockets with a processor in them, as far as the tables tell.
pub(super) fn processors(data: &SMBiosData) -> usize {
    let fitted = |one: &SMBiosProcessorInformation<'_>| one.status().is_none_or(|status| status.socket_populated());
    data.collect::<SMBiosProcessorInformation<'_>>().iter().filter(|one| fitted(one)).count()
}

/// More processors, caches or arrays of one machine tell a person nothing.
const MOST_OF_A_KIND: usize = 16;

fn joined(parts: [SMBiosString; 2]) -> String {
    cleaned(&parts.map(known).join(" "), 2 * LONGEST)
}

fn system(data: &SMBiosData, read: &mut SmbiosFacts) {
    let Some(table) = data.first::<SMBiosSystemInformation<'_>>() else { return };
    let source = source::<SMBiosSystemInformation<'_>>();
    read.facts.tell("", names::COMPUTER, &source, joined([table.manufacturer(), table.product_name()]));
    read.facts.tell("", names::COMPUTER_SERIAL, &source, known(table.serial_number()));
}

fn mainboard(data: &SMBiosData, read: &mut SmbiosFacts) {
    let Some(table) = data.first::<SMBiosBaseboardInformation<'_>>() else { return };
    read.board.mainboard = joined([table.manufacturer(), table.product()]);
    let source = source::<SMBiosBaseboardInformation<'_>>();
    read.facts.tell("", names::MAINBOARD, &source, read.board.mainboard.clone());
    read.facts.tell("", names::MAINBOARD_SERIAL, &source, known(table.serial_number()));
}

fn firmware(data: &SMBiosData, read: &mut SmbiosFacts) {
    let Some(table) = data.first::<SMBiosInformation<'_>>() else { return };
    read.firmware_date = known(table.release_date());
    read.board.firmware = joined([table.version(), table.release_date()]);
    let source = source::<SMBiosInformation<'_>>();
    read.facts.tell("", names::FIRMWARE_MAKER, &source, known(table.vendor()));
    read.facts.tell("", names::FIRMWARE, &source, known(table.version()));
    read.facts.tell("", names::FIRMWARE_DATE, &source, read.firmware_date.clone());
}

fn processor(table: &SMBiosProcessorInformation<'_>, read: &mut SmbiosFacts) {
    let source = source::<SMBiosProcessorInformation<'_>>();
    read.facts.tell("", names::PROCESSOR, &source, known(table.processor_version()));
    read.facts.tell("", names::SOCKET, &source, known(table.socket_designation()));
    let cores = match table.core_count() {
        Some(CoreCount::Count(cores)) => Some(u16::from(cores)),
        Some(CoreCount::SeeCoreCount2) => match table.core_count_2() {
            Some(smbioslib::CoreCount2::Count(cores)) => Some(cores),
            _ => None,
        },
        _ => None,
    };
    read.facts.tell("", names::CORES, &source, cores.map(|cores| cores.to_string()).unwrap_or_default());
    if let Some(ProcessorSpeed::MHz(speed)) = table.current_speed() {
        read.facts.tell("", names::CLOCK, &source, format!("{speed} MHz"));
    }
}

fn cache(table: &SMBiosCacheInformation<'_>, read: &mut SmbiosFacts) {
    let size = match table.installed_size() {
        Some(CacheMemorySize::Kilobytes(kib)) => Some(kib),
        Some(CacheMemorySize::SeeCacheSize2) => match table.installed_cache_size_2() {
            Some(CacheMemorySize::Kilobytes(kib)) => Some(kib),
            _ => None,
        },
        None => None,
    };
    let Some(bytes) = size.and_then(|kib| kib.checked_mul(KIB)).filter(|bytes| *bytes > 0) else { return };
    let level = table.cache_configuration().map_or(0, |configuration| configuration.cache_level());
    let name = if (1..=4).contains(&level) { format!("cache level {level}") } else { "cache".to_owned() };
    read.facts.tell("", &name, &source::<SMBiosCacheInformation<'_>>(), bytes_text(bytes));
}

fn array(table: &SMBiosPhysicalMemoryArray<'_>, read: &mut SmbiosFacts) {
    if table.usage().is_some_and(|usage| !matches!(usage.value, MemoryArrayUse::SystemMemory)) {
        return;
    }
    let source = source::<SMBiosPhysicalMemoryArray<'_>>();
    let most = match table.maximum_capacity() {
        Some(MaximumMemoryCapacity::Kilobytes(kib)) => Some(u64::from(kib) * KIB),
        Some(MaximumMemoryCapacity::SeeExtendedMaximumCapacity) => table.extended_maximum_capacity(),
        None => None,
    };
    read.facts.tell("", names::MOST_MEMORY, &source, most.filter(|most| *most > 0).map(bytes_text).unwrap_or_default());
    let slots = table.number_of_memory_devices().filter(|slots| *slots > 0);
    read.facts.tell("", names::SLOTS, &source, slots.map(|slots| slots.to_string()).unwrap_or_default());
    let correction = table.memory_error_correction().map(|correction| match correction.value {
        MemoryArrayErrorCorrection::NoCorrection => "none",
        MemoryArrayErrorCorrection::Parity => "parity",
        MemoryArrayErrorCorrection::SingleBitEcc => "corrects single bits",
        MemoryArrayErrorCorrection::MultiBitEcc => "corrects several bits",
        MemoryArrayErrorCorrection::Crc => "CRC",
        _ => "",
    });
    read.facts.tell("", names::CORRECTION, &source, correction.unwrap_or_default());
}
