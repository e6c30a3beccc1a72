//! What the program does without the full screen, and the way into it.

mod check;
mod log;
mod logs;
mod result;
mod tests;

use anyhow::Result;

use crate::cli::{Cli, Command};
use crate::exit::Exit;
use crate::tui;

/// Does what was asked.
///
/// # Errors
/// With what happened, what it means and what to do.
pub fn dispatch(cli: Cli) -> Result<Exit> {
    let data = cli.data.as_deref();
    match cli.command {
        None => tui::real(data),
        Some(Command::Demo(args)) => tui::demo(data, &args),
        Some(Command::Check(args)) => check::check(data, args),
        Some(Command::Logs(args)) => logs::logs(data, &args),
        Some(Command::Log(args)) => log::log(data, &args),
        Some(Command::Tests(args)) => tests::tests(&args),
    }
}
