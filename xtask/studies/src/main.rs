//! Studies: what takes minutes, needs the program's own packages, and is optimised. `cargo xtask isolation`, `ledger`, `responsiveness` and `speed` start it.

mod isolation;
mod ledger;
mod responsiveness;
mod shared_ledger;
mod shop;
mod speed;

use std::process::{Command, ExitCode};

use anyhow::{Context, Result, bail, ensure};
use clap::{Parser, Subcommand};

/// Measurements and studies.
#[derive(Parser)]
#[command(name = "cargo xtask")]
struct Cli {
    #[command(subcommand)]
    study: Study,
}

#[derive(Subcommand)]
enum Study {
    /// Simulates repair cases and tells how often and with how much work the part at fault is found
    Isolation(isolation::IsolationArgs),
    /// Finding and taking in fifty thousand journals, beside a scan and a copy of the same files
    Ledger(ledger::LedgerArgs),
    /// Eight folders that take fifty thousand journals into the ledger of one server at once, while it is killed too, and finding them
    SharedLedger(shared_ledger::SharedLedgerArgs),
    /// How soon the full screen answers a key beside a flood of errors, fifty thousand runs on record, and reports being written
    Responsiveness(responsiveness::ResponsivenessArgs),
    /// A thousand simulated benches against one counter: processor, memory, and how long a record takes to arrive
    Shop(shop::ShopArgs),
    /// Measures the sweeps against the machine's limit, in pairs, and prints a table
    Speed(speed::SpeedArgs),
}

fn main() -> ExitCode {
    match perform(Cli::parse().study) {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            eprintln!("xtask: {error:#}");
            ExitCode::FAILURE
        }
    }
}

fn perform(study: Study) -> Result<()> {
    // Measuring code that was not optimised would say nothing.
    ensure!(!cfg!(debug_assertions), "studies are optimised: start them by `cargo xtask`, or with --release");
    match study {
        Study::Isolation(args) => isolation::study(&args),
        Study::Ledger(args) => ledger::measure(&args),
        Study::SharedLedger(args) => shared_ledger::measure(&args),
        Study::Responsiveness(args) => responsiveness::measure(&args),
        Study::Shop(args) => {
            shop::measure(&args)?;
            of_tui("frames_of_a_wall")
        }
        Study::Speed(args) if args.is_redraw() => redraw(),
        Study::Speed(args) => speed::measure(&args),
    }
}

/// How long the view of where errors are takes to draw after ten million distinct failing words.
fn redraw() -> Result<()> {
    of_tui("redraw_of_a_flood")
}

/// A measurement within the full screen.
fn of_tui(name: &str) -> Result<()> {
    let of_app = ["test", "--quiet", "--release", "--package", "revisum-tui", name, "--"];
    cargo(&[&of_app[..], &["--ignored", "--nocapture"]].concat())
}

fn cargo(arguments: &[&str]) -> Result<()> {
    let program = std::env::var("CARGO").unwrap_or_else(|_| "cargo".to_owned());
    let status = Command::new(program).args(arguments).status().context("cargo cannot be started")?;
    if !status.success() {
        bail!("cargo {} failed", arguments.join(" "));
    }
    Ok(())
}
