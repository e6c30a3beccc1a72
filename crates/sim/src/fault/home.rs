//! Where a fault is, and where it shows as the machine is filled now.

use revisum_diagnose::address::Cell;

use super::{Extent, FaultSpec};
use crate::mapping;
use crate::spec::{MachineSpec, ModuleSpec};

/// What of a machine decides whether a fault shows.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Conditions<'a> {
    /// `(slot, serial number)`.
    pub placement: &'a [(String, String)],
    /// Channels with at least one module.
    pub channels: usize,
    /// Settings in force.
    pub setting: &'a str,
}

impl FaultSpec {
    /// Every word that the fault is in.
    pub(crate) fn cells(&self, module: &ModuleSpec) -> Vec<Cell> {
        let Some(cell) = self.cell else { return Vec::new() };
        let size = mapping::size(module);
        match self.extent {
            Extent::Word => vec![cell],
            Extent::Row => (0..size.column).map(|column| Cell { column, ..cell }).collect(),
            Extent::Column => (0..size.row).map(|row| Cell { row, ..cell }).collect(),
            Extent::Module => Vec::new(),
        }
    }

    /// The slots that it shows in under these conditions.
    pub(crate) fn homes<'a>(&self, machine: &MachineSpec, now: Conditions<'a>) -> Vec<&'a str> {
        let fitted = |serial: &String| now.placement.iter().any(|(_, fitted)| fitted == serial);
        let shows = now.channels >= self.channels
            && now.placement.len() >= self.modules
            && (!self.first_slots || uses_first_slots(machine, now.placement))
            && self.beside.as_ref().is_none_or(fitted)
            && self.setting.as_ref().is_none_or(|setting| setting == now.setting);
        let is_home = |(slot, serial): &&(String, String)| {
            let of_channel = |channel: &String| machine.slot(slot).is_some_and(|slot| slot.channel == *channel);
            self.mainboard
                || self.module.as_ref() == Some(serial)
                || self.slot.as_ref() == Some(slot)
                || self.channel.as_ref().is_some_and(of_channel)
        };
        now.placement.iter().filter(|place| shows && is_home(place)).map(|(slot, _)| slot.as_str()).collect()
    }
}

/// Whether a channel with several slots has its only module in the first of them.
fn uses_first_slots(machine: &MachineSpec, placement: &[(String, String)]) -> bool {
    let filled = |id: &String| placement.iter().any(|(slot, _)| slot == id);
    machine.slots.iter().filter(|slot| filled(&slot.id)).any(|slot| {
        let own: Vec<_> = machine.slots.iter().filter(|other| other.channel == slot.channel).collect();
        own.len() > 1 && own[0].id == slot.id && own.iter().filter(|other| filled(&other.id)).count() == 1
    })
}
