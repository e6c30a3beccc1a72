//! Slots and modules that nothing tells: a person declares them, and what was moved.

use anyhow::Result;
use revisum_record::fitted::{Board, Module, Slot};
use revisum_record::journal::JobEntry;

use super::Job;

impl Job {
    /// Fills in a board of which nothing tells slots: as they were declared; of a machine that is not here as they were last seen.
    pub fn fill_in(&self, board: &mut Board, is_here: bool) {
        if !board.slots.is_empty() {
            return;
        }
        let seen = self.state.looked.as_ref().filter(|_| !is_here).map(|looked| &looked.board);
        if let Some(seen) = seen {
            board.clone_from(seen);
        }
        if !self.state.declared.is_empty() {
            board.slots.clone_from(&self.state.declared);
        }
        board.slots.iter_mut().for_each(|slot| slot.declared = true);
    }

    /// Writes down that modules of a declared board are in these slots now, everything else out.
    ///
    /// # Errors
    /// When the journal cannot be written.
    pub fn declare_placement(&mut self, board: &Board, placement: &[(String, String)]) -> Result<()> {
        let module = |slot: &str| {
            let (_, serial) = placement.iter().find(|(used, _)| used == slot)?;
            Some(self.module(serial).cloned().unwrap_or_else(|| Module { serial: serial.clone(), ..Module::default() }))
        };
        let slots = board.slots.iter().map(|slot| Slot { module: module(&slot.id), ..slot.clone() }).collect();
        self.note(JobEntry::Declared { slots })
    }

    /// Modules that were seen in this job and are in no slot of this board: they lie on the table. A part that was not declared by its serial
    /// number cannot be told from another one.
    pub fn loose(&self, board: &Board) -> Vec<Module> {
        let fitted = |module: &Module| board.modules().any(|(_, here)| here.serial == module.serial);
        self.state.modules.iter().filter(|module| !module.serial.is_empty() && !fitted(module)).cloned().collect()
    }
}
