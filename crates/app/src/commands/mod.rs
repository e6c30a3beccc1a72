//! What the program does without the full screen, and the way into it.

pub mod board;
mod card;
mod check;
mod drive;
mod drive_settings;
mod ledger;
mod locate;
mod log;
mod logs;
mod report;
mod result;
mod rows;
mod speed;
mod swap;
mod system_log;
mod tests;
mod wall;

use anyhow::Result;
use revisum_sim::{shipped, shipped_names};

use crate::cli::{Cli, Command};
use crate::exit::Exit;
use crate::say;
use revisum_records::WrongUse;
use revisum_tui::Demo;

/// Does what was asked.
///
/// # Errors
/// With what happened, what it means and what to do.
pub fn dispatch(cli: Cli) -> Result<Exit> {
    if cli.share {
        revisum_linux::files::share();
    }
    let data = cli.data.as_deref();
    if let Some(folder) = &cli.firmware {
        return match cli.command {
            None => revisum_tui::saved(folder).map(|()| Exit::Clean),
            Some(_) => Err(WrongUse(say::firmware_without_command().to_owned()).into()),
        };
    }
    match cli.command {
        None => revisum_tui::real(data).map(|()| Exit::Clean),
        Some(Command::Demo(args)) if args.reveal => reveal(args.machine.as_deref()),
        Some(Command::Demo(args)) => {
            let demo = Demo { machine: args.machine, seed: args.seed, pace: args.pace };
            revisum_tui::demo(data, &demo).map(|()| Exit::Clean)
        }
        Some(Command::Board(args)) => board::board(&args),
        Some(Command::Check(args)) => check::check(data, &args),
        Some(Command::Logs(args)) => logs::logs(data, &args),
        Some(Command::Ledger(what)) => ledger::run(data, &what),
        Some(Command::Log(args)) => log::log(data, &args),
        Some(Command::Locate(args)) => locate::run(data, &args),
        Some(Command::Report(args)) => report::run(data, &args),
        Some(Command::Swap(args)) => swap::run(data, &args),
        Some(Command::Speed(args)) => speed::run(data, &args),
        Some(Command::Rows(args)) => rows::run(data, &args),
        Some(Command::Tests(args)) => tests::tests(&args),
        Some(Command::Drive(what)) => drive::run(data, &what),
        Some(Command::Wall(args)) => wall::run(data, &args),
        Some(Command::Card(what)) => card::run(data, &what),
        Some(Command::Session(args)) => crate::boot::session(&args),
        Some(Command::SystemLog(args)) => system_log::run(data, &args),
    }
}

/// Says what is really wrong with one machine of the workshop, or with all of them.
fn reveal(machine: Option<&str>) -> Result<Exit> {
    let mut told = false;
    for name in shipped_names().filter(|name| machine.is_none_or(|wanted| wanted == *name)) {
        let Some(spec) = shipped(name) else { continue };
        let spec = spec?;
        println!("{:<10} {}", spec.name, spec.truth);
        told = true;
    }
    if told { Ok(Exit::Clean) } else { Err(WrongUse(say::demo_no_machine().to_owned()).into()) }
}
