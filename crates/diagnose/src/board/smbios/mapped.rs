//! Types 19 and 20: which physical addresses an array and, where the firmware tells, each device answers to.

use revisum_record::fitted::MappedDevice;
use smbioslib::{
    SMBiosData, SMBiosMemoryArrayMappedAddress, SMBiosMemoryDeviceMappedAddress, SMBiosPhysicalMemoryArray,
    SMBiosStruct,
};

use super::{MOST_SLOTS, SmbiosFacts, source};
use crate::board::fact_names as names;
use revisum_engine::units::{ByteRange, KIB, PhysAddr};

/// Reads both.
pub(super) fn read(data: &SMBiosData, read: &mut SmbiosFacts) {
    let arrays: Vec<ByteRange> = data
        .collect::<SMBiosMemoryArrayMappedAddress<'_>>()
        .iter()
        .take(MOST_SLOTS)
        .filter(|table| is_of_main_memory(table, data))
        .filter_map(|table| {
            range(table.starting_address()?, table.ending_address()?, || {
                Some((table.extended_starting_address()?, table.extended_ending_address()?))
            })
        })
        .collect();
    for range in &arrays {
        read.facts.tell("", names::ARRAY_RANGE, &source::<SMBiosMemoryArrayMappedAddress<'_>>(), words(*range));
    }
    read.arrays = arrays.into_iter().collect();
    for table in data.collect::<SMBiosMemoryDeviceMappedAddress<'_>>().iter().take(2 * MOST_SLOTS) {
        let Some(device) = device(table, read) else { continue };
        let source = source::<SMBiosMemoryDeviceMappedAddress<'_>>();
        read.facts.tell(&device.slot, names::RANGE, &source, words(device.range));
        let turn = device.interleave_position.filter(|position| *position > 0);
        let turn = turn.map(|position| position.to_string()).unwrap_or_default();
        read.facts.tell(&device.slot, names::TURN, &source, turn);
        read.mapped.push(device);
    }
}

fn is_of_main_memory(table: &SMBiosMemoryArrayMappedAddress<'_>, data: &SMBiosData) -> bool {
    let array = table.physical_memory_array_handle().and_then(|handle| data.find_by_handle(&handle));
    let array = array.filter(|array| array.header.struct_type() == SMBiosPhysicalMemoryArray::STRUCT_TYPE);
    let usage = array.and_then(|array| SMBiosPhysicalMemoryArray::new(array).usage());
    usage.is_none_or(|usage| matches!(usage.value, smbioslib::MemoryArrayUse::SystemMemory))
}

fn device(table: &SMBiosMemoryDeviceMappedAddress<'_>, read: &SmbiosFacts) -> Option<MappedDevice> {
    let slot = read.handles.get(&*table.memory_device_handle()?)?.clone();
    let range = range(table.starting_address()?, table.ending_address()?, || {
        Some((table.extended_starting_address()?, table.extended_ending_address()?))
    })?;
    let told = |value: Option<u8>| value.filter(|value| *value != 0xff);
    Some(MappedDevice {
        slot,
        range,
        interleave_position: told(table.interleave_position()),
        interleave_depth: told(table.interleaved_data_depth()).filter(|depth| *depth > 0),
    })
}

/// Addresses are in KiB, the last one included; all ones refer to the extended fields, which are in bytes.
fn range(start: u32, end: u32, extended: impl Fn() -> Option<(u64, u64)>) -> Option<ByteRange> {
    let (start, last) = match (start, end) {
        (u32::MAX, _) => extended()?,
        (start, end) => (u64::from(start) * KIB, (u64::from(end) * KIB).saturating_add(KIB - 1)),
    };
    (start < last).then(|| ByteRange::new(start, last.saturating_add(1)))
}

fn words(range: ByteRange) -> String {
    format!("{} to {}", PhysAddr(range.start), PhysAddr(range.end - 1))
}
