//! Revisum: tests the memory of a suspect PC, names the part at fault and says what a clean run is worth.
//!
//! `cli` reads arguments; `wire` chooses real or simulated hardware, nobody else does; `runner` runs a recipe and
//! `recorder` is the only writer of its journal; `commands` work without the full screen, `tui` is the full screen.

mod boot;
mod cli;
mod commands;
mod exit;
mod plain;

use std::process::ExitCode;

fn main() -> ExitCode {
    if boot::is_first_process() {
        boot::supervise();
    }
    match commands::dispatch(cli::parse()) {
        Ok(exit) => exit.into(),
        Err(error) => {
            crate::tell!("revisum: {error:#}");
            exit::code_of(&error).into()
        }
    }
}
