//! SMBIOS tables of a simulated machine as real bytes (DMTF DSP0134, version 3.2), so that they go through the same
//! parser as those of a real machine.

use revisum_core::ports::SmbiosTables;
use revisum_core::units::MIB;

use crate::spec::{MachineSpec, ModuleSpec, SlotSpec};

/// Size field that refers to the extended size.
const SEE_EXTENDED: u16 = 0x7fff;
const DDR4: u8 = 0x1a;
const DIMM: u8 = 0x09;
/// Form factor of soldered memory.
const ROW_OF_CHIPS: u8 = 0x0b;

/// The tables of this fitting.
pub(crate) fn tables(machine: &MachineSpec, placement: &[(String, String)], setting: &str) -> SmbiosTables {
    let mut bytes = Vec::new();
    let board = &machine.mainboard;
    structure(&mut bytes, 0, 0x00, &firmware_fields(), &[&board.maker, &board.firmware, &board.firmware_date]);
    structure(&mut bytes, 2, 0x02, &[1, 2, 0, 0, 0, 0, 0, 0, 0, 0x0a, 0], &[&board.maker, &board.product]);
    for (index, slot) in (0u16..).zip(&machine.slots) {
        let serial = placement.iter().find(|(id, _)| *id == slot.id).map(|(_, serial)| serial);
        let module = serial.and_then(|serial| machine.module(serial));
        memory_device(&mut bytes, 0x1100 + index, slot, module, Manner { setting, ecc: machine.ecc });
    }
    structure(&mut bytes, 127, 0x7f00, &[], &[]);
    SmbiosTables { version: (3, 2), bytes }
}

/// Type 0 from offset 4 on: strings 1 and 2, segment, string 3, sizes and characteristics.
fn firmware_fields() -> Vec<u8> {
    let mut fields = vec![1, 2, 0, 0, 3, 0xff];
    fields.extend([0; 8]);
    fields.extend([0, 0, 1, 14, 0xff, 0xff]);
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
        module.profile_speed.filter(|_| self.setting == "profile").unwrap_or(module.speed)
    }
}

fn memory_device(bytes: &mut Vec<u8>, handle: u16, slot: &SlotSpec, module: Option<&ModuleSpec>, manner: Manner<'_>) {
    let mib = module.map_or(0, |module| module.size / MIB);
    let extended = mib >= u64::from(SEE_EXTENDED);
    let best = module.map_or(0, |module| module.profile_speed.unwrap_or(module.speed)).to_le_bytes();
    let in_force = module.map_or(0, |module| manner.speed(module)).to_le_bytes();
    let total_width = if manner.ecc { 72 } else { 64 };
    let form = if slot.soldered { ROW_OF_CHIPS } else { DIMM };
    let mut fields = Vec::new();
    fields.extend([0x00, 0x10, 0xfe, 0xff, total_width, 0, 64, 0]);
    fields.extend(if extended { SEE_EXTENDED } else { mib as u16 }.to_le_bytes());
    fields.extend([form, 0, 1, 2, DDR4, 0x80, 0x00]);
    fields.extend(best);
    fields.extend([3, 4, 0, 5, module.map_or(0, |module| module.ranks as u8)]);
    fields.extend(if extended { mib as u32 } else { 0 }.to_le_bytes());
    fields.extend(in_force);
    fields.extend([0; 6]);
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
