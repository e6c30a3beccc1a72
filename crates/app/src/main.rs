//! Revisum: tests the memory of a suspect PC, names the part at fault and says what a clean run is worth.
//!
//! `cli` reads arguments; `wire` chooses real or simulated hardware, nobody else does; `runner` runs a recipe and
//! `recorder` is the only writer of its journal; `commands` work without the full screen, `tui` is the full screen.

mod boot;
mod cli;
mod commands;
mod exit;
mod help;
mod language;
mod misuse;
mod plain;
mod say;

use std::process::ExitCode;
use std::sync::Arc;

use signal_hook::consts::signal::SIGXFSZ;

/// What is refused is noted, so that its end is told apart from other aborts.
#[global_allocator]
static ALLOCATOR: revisum_linux::Allocator = revisum_linux::Allocator;

fn main() -> ExitCode {
    revisum_linux::end_when_short_of_memory(exit::SHORT_OF_MEMORY);
    if boot::is_first_process() {
        boot::supervise();
    }
    // A limit on the length of files is told by the write that it refuses. Where the signal cannot be caught the limit ends the program.
    let _ = signal_hook::flag::register(SIGXFSZ, Arc::default());
    language::choose();
    revisum_linux::say_when_short_of_memory(format!("{}\n", say::short_of_memory()));
    let asked = cli::parse();
    // The screen of a booted machine sets up its console, and nobody else is there.
    if !matches!(asked.command, Some(cli::Command::Session(_))) {
        revisum_linux::give_up_privileges();
    }
    match commands::dispatch(asked) {
        Ok(exit) => exit.into(),
        Err(error) => {
            crate::tell!("revisum: {error:#}");
            exit::code_of(&error).into()
        }
    }
}
