//! The machine on the bench and its job: what one knows of the other.

use anyhow::Result;
use revisum_diagnose::board::board_of;
use revisum_diagnose::machine::Machine;
use revisum_record::fitted::Board;
use revisum_records::Job;

/// Puts a simulated machine into the arrangement and settings in which the job left it, and writes down what its owner says of it. On a real
/// machine nothing can be done.
///
/// # Errors
/// When the job's journal cannot be written.
pub fn arrange(machine: &Machine, job: &mut Job) -> Result<()> {
    let Some(hands) = &machine.hands else { return Ok(()) };
    let state = job.state();
    for serial in state.borrowed.keys().chain(&state.arrived) {
        // A module that is not there any more is missed in the fittings.
        let _ = hands.lend(serial);
    }
    for fitting in &state.fittings {
        // A machine file that changed since then may no longer allow it: it then stays as the file says.
        let _ = hands.refit(&fitting.placement);
    }
    state.settings.iter().for_each(|settings| drop(hands.set(settings)));
    if let Some(intake) = hands.intake().filter(|_| state.intake.is_none()) {
        job.take_in(intake)?;
    }
    Ok(())
}

/// What is installed, with the technician's marks.
pub fn board(machine: &Machine, job: &Job) -> Board {
    let mut board = board_of(machine.firmware.as_ref());
    put_marks(job, &mut board);
    board
}

/// Names modules as the technician does.
pub fn put_marks(job: &Job, board: &mut Board) {
    for slot in &mut board.slots {
        if let Some(module) = &mut slot.module {
            module.mark = job.mark_of(&slot.id, module);
        }
    }
}

/// Writes down every module that is here.
///
/// # Errors
/// When the job's journal cannot be written.
pub fn see_modules(machine: &Machine, job: &mut Job) -> Result<()> {
    let marks = machine.hands.as_ref().map(|hands| hands.marks()).unwrap_or_default();
    let mut modules: Vec<_> = board(machine, job).modules().map(|(_, module)| module.clone()).collect();
    modules.extend(machine.hands.as_ref().map(|hands| hands.on_the_table()).unwrap_or_default());
    for module in &mut modules {
        if module.mark.is_none() {
            module.mark = marks.iter().find(|(serial, _)| *serial == module.serial).map(|(_, mark)| mark.clone());
        }
    }
    job.see(modules)
}

/// Writes down what is there now: the next look is compared with it.
///
/// # Errors
/// When the job's journal cannot be written.
pub fn note_look(machine: &Machine, job: &mut Job) -> Result<()> {
    let board = board(machine, job);
    job.look(&board, machine.firmware.usable().bytes())
}
