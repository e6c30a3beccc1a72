//! Whether a fault of a machine file can exist.

use super::{Extent, FaultKind, FaultSpec, UnderLoad};
use crate::mapping;
use crate::spec::MachineSpec;

impl FaultSpec {
    /// Refuses what cannot be, with the reason.
    pub(crate) fn check(&self, machine: &MachineSpec) -> Result<(), String> {
        self.check_home(machine)?;
        self.check_place(machine)?;
        self.check_aggressor()?;
        self.check_conditions(machine)?;
        self.check_chances()
    }

    fn check_home(&self, machine: &MachineSpec) -> Result<(), String> {
        let given = [self.module.is_some(), self.slot.is_some(), self.channel.is_some(), self.mainboard];
        if given.iter().filter(|given| **given).count() != 1 {
            return Err("a fault belongs to a module, a slot, a channel or the mainboard, to one of them".to_owned());
        }
        if let Some(serial) = self.module.as_ref().filter(|serial| machine.module(serial).is_none()) {
            return Err(format!("there is no module {serial} for a fault"));
        }
        if let Some(slot) = self.slot.as_ref().filter(|slot| machine.slot(slot).is_none()) {
            return Err(format!("there is no slot {slot} for a fault"));
        }
        let unknown = |channel: &&String| machine.slots.iter().all(|slot| slot.channel != **channel);
        if let Some(channel) = self.channel.as_ref().filter(unknown) {
            return Err(format!("there is no channel {channel} for a fault"));
        }
        Ok(())
    }

    fn check_place(&self, machine: &MachineSpec) -> Result<(), String> {
        if self.kind == FaultKind::NoStart {
            return Ok(());
        }
        if self.is_anywhere() != self.cell.is_none() {
            return Err("a fault has a cell, or the extent \"module\", one of them".to_owned());
        }
        if self.is_anywhere() && !matches!(self.kind, FaultKind::Noise | FaultKind::Upset) {
            return Err("only noise and upsets reach a whole module".to_owned());
        }
        if self.kind == FaultKind::Noise && !(self.is_anywhere() && self.module.is_some()) {
            return Err("noise is on a whole module: it needs the extent \"module\" and a module".to_owned());
        }
        if self.kind == FaultKind::Noise && machine.ecc {
            return Err("noise cannot be simulated on a machine that corrects errors".to_owned());
        }
        if !self.is_anywhere() && !self.kind.is_decoder() && self.lane.is_none() && self.package.is_none() {
            return Err("a fault needs a data line or a chip".to_owned());
        }
        let homes =
            machine.modules.iter().filter(|module| self.module.as_ref().is_none_or(|own| *own == module.serial));
        for module in homes {
            let cells = [self.cell, self.aggressor.map(|aggressor| aggressor.cell)];
            if let Some(cell) = cells.into_iter().flatten().find(|cell| !mapping::holds(module, *cell)) {
                return Err(format!("a fault's cell {cell:?} lies outside the module {}", module.serial));
            }
            if let Some(lane) = [self.lanes(module.width).end - 1].into_iter().find(|lane| *lane > 63) {
                return Err(format!("a fault is on data line {lane}, but data lines are 0 to 63"));
            }
        }
        Ok(())
    }

    fn check_aggressor(&self) -> Result<(), String> {
        let other = self.aggressor.is_some_and(|other| {
            let elsewhere = Some(other.cell) != self.cell;
            other.lane < 64 && (elsewhere || (self.kind.is_coupling() && Some(other.lane) != self.lane))
        });
        let needs = self.kind.has_aggressor();
        if needs != other || needs != self.aggressor.is_some() {
            return Err(
                "couplings and decoder faults need another cell as their aggressor, no other kind has one".into()
            );
        }
        if needs && (self.module.is_none() || self.extent != Extent::Word || self.package.is_some()) {
            return Err("couplings and decoder faults are between two words of one module".to_owned());
        }
        if self.value > 1 || self.aggressor.is_some_and(|aggressor| aggressor.trigger > 1) {
            return Err(format!("a fault has the value {}, but a bit is 0 or 1", self.value));
        }
        Ok(())
    }

    fn check_conditions(&self, machine: &MachineSpec) -> Result<(), String> {
        if let Some(beside) = self.beside.as_ref().filter(|beside| machine.module(beside).is_none()) {
            return Err(format!("there is no module {beside} that a fault could need installed"));
        }
        if let Some(setting) = self.setting.as_ref().filter(|setting| !machine.settings.contains(setting)) {
            return Err(format!("there are no settings {setting:?} for a fault"));
        }
        if self.warm.is_some() && (machine.heat.is_none() || self.kind != FaultKind::Retention) {
            return Err("warm needs a machine with heat, and belongs to retention faults".to_owned());
        }
        if (self.keeps.is_some() || self.two_states.is_some()) && self.kind != FaultKind::Retention {
            return Err("keeps and two_states belong to retention faults".to_owned());
        }
        if self.keeps.is_some() && (self.warm.is_some() || self.after_seconds != super::refresh_seconds()) {
            return Err("keeps says when the bit decays: after_seconds and warm say it in another way".to_owned());
        }
        self.keeps.map_or(Ok(()), |keeps| keeps.check())?;
        self.two_states.map_or(Ok(()), |states| states.check())?;
        if self.load.is_some() && !(self.kind == FaultKind::Upset && self.is_anywhere()) {
            return Err("a load belongs to upsets with the extent \"module\"".to_owned());
        }
        if self.asleep && self.kind != FaultKind::Retention {
            return Err("asleep belongs to retention faults".to_owned());
        }
        if (self.conflict || self.turns) && (self.kind != FaultKind::IncorrectRead || self.is_anywhere()) {
            return Err("conflict and turns belong to incorrect-read faults of a cell".to_owned());
        }
        if (self.load == Some(UnderLoad::Supply)) != self.supply.is_some() {
            return Err("the load \"supply\" needs a supply, and no other load takes it".to_owned());
        }
        self.supply.map_or(Ok(()), |supply| supply.check())
    }

    fn check_chances(&self) -> Result<(), String> {
        if [self.touch_cures, self.touch_returns, self.chance].iter().any(|chance| !(0.0..=1.0).contains(chance)) {
            return Err("touch_cures, touch_returns and chance are chances, from 0 to 1".to_owned());
        }
        if !(0.0..=1e6).contains(&self.after_seconds) {
            return Err("after_seconds is a time from 0 to 1000000".to_owned());
        }
        let upset = self.kind == FaultKind::Upset;
        if upset != (self.per_hour > 0.0) || !self.per_hour.is_finite() {
            return Err("an upset needs per_hour above 0, and no other kind takes it".to_owned());
        }
        if (self.kind == FaultKind::RowDisturb) != (self.threshold > 0) {
            return Err("row disturbance needs a threshold above 0, and no other kind takes it".to_owned());
        }
        if !(0.0..=1000.0).contains(&self.growth) || (self.growth > 0.0 && !upset) {
            return Err("growth belongs to upsets and is a share, from 0 to 1000".to_owned());
        }
        Ok(())
    }
}
