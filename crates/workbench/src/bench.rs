//! The machine on the bench and its job: what one knows of the other.

use anyhow::Result;
use revisum_diagnose::board::board_of;
use revisum_diagnose::machine::Machine;
use revisum_record::fitted::{Board, Module};
use revisum_records::Job;

use crate::say;

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
    complete(machine, job, &mut board);
    board
}

/// Completes what a machine tells by what the job knows: slots and modules that a person declared, and the names that modules have here.
pub fn complete(machine: &Machine, job: &Job, board: &mut Board) {
    job.fill_in(board, machine.is_here);
    for slot in &mut board.slots {
        if let Some(module) = &mut slot.module {
            module.mark = job.mark_of(&slot.id, module);
        }
    }
}

/// Modules that the machine's own hands have and that sit in no slot. Those without a number of their own are known by nothing.
fn on_the_table(machine: &Machine) -> Vec<Module> {
    let all = machine.hands.as_ref().map(|hands| hands.on_the_table()).unwrap_or_default();
    all.into_iter().filter(|module| !module.serial.is_empty()).collect()
}

/// Modules in no slot.
pub fn loose(machine: &Machine, job: &Job, board: &Board) -> Vec<Module> {
    if board.is_declared() {
        return job.loose(board);
    }
    on_the_table(machine)
}

/// Puts modules into these slots, as far as a program can: a simulated machine moves them, of one that tells nothing it is written down.
///
/// # Errors
/// When the machine cannot be fitted so, or the journal not be written.
pub fn refit(machine: &Machine, job: &mut Job, placement: &[(String, String)]) -> Result<()> {
    let board = board(machine, job);
    if let Some(hands) = &machine.hands {
        hands.refit(placement).map_err(|reason| anyhow::anyhow!(say::hands_cannot_put(reason)))?;
    } else if !board.is_declared() {
        return Ok(());
    }
    if board.is_declared() {
        job.declare_placement(&board, placement)?;
    }
    job.fitted(placement.to_vec())?;
    note_look(machine, job)
}

/// Writes down every module that is here.
///
/// # Errors
/// When the job's journal cannot be written.
pub fn see_modules(machine: &Machine, job: &mut Job) -> Result<()> {
    let marks = machine.hands.as_ref().map(|hands| hands.marks()).unwrap_or_default();
    let mut modules: Vec<_> = board(machine, job).modules().map(|(_, module)| module.clone()).collect();
    modules.extend(on_the_table(machine));
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
