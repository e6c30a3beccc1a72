//! One entry for contributors: `cargo xtask test`, `cargo xtask guests`, `cargo xtask fuzz`, `cargo xtask screenshots`, `cargo xtask speed`.

mod build_report;
mod emitted;
mod fuzz;
mod guests;
mod image;
mod isolation;
mod ledger;
mod packages;
mod pictures;
mod speed;

use std::path::Path;
use std::process::{Command, ExitCode};
use std::time::Instant;

use anyhow::{Context, Result, bail};
use clap::{Parser, Subcommand};

/// Tasks for people who work on Revisum.
#[derive(Parser)]
#[command(name = "cargo xtask")]
struct Cli {
    #[command(subcommand)]
    task: Task,
}

/// Arguments of `test`.
#[derive(clap::Args)]
struct TestArgs {
    /// The whole matrix of virtual computers too
    #[arg(long)]
    guests: bool,
}

#[derive(Subcommand)]
enum Task {
    /// Formatting, lints and all tests: what has to pass before a change is accepted
    Test(TestArgs),
    /// Builds the program in an empty folder and prints where the time goes
    BuildReport(build_report::BuildReportArgs),
    /// Looks at the machine code of the sweeps: whether every kernel that reads really does
    Emitted,
    /// Takes the pictures in docs/screenshots from the demonstration
    Screenshots,
    /// Makes the image of the boot drive from Debian packages
    Image(image::ImageArgs),
    /// Boots virtual computers with tables written by hand and looks at what the program makes of them
    Guests(guests::GuestsArgs),
    /// Throws foreign bytes at everything that reads firmware
    Fuzz(fuzz::FuzzArgs),
    /// Simulates repair cases and tells how often and with how much work the part at fault is found
    Isolation(isolation::IsolationArgs),
    /// Finding and taking in fifty thousand journals, beside a scan and a copy of the same files
    Ledger(ledger::LedgerArgs),
    /// Measures the sweeps against the machine's limit, in pairs, and prints a table
    Speed(speed::SpeedArgs),
}

fn main() -> ExitCode {
    match perform(Cli::parse().task) {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            eprintln!("xtask: {error:#}");
            ExitCode::FAILURE
        }
    }
}

fn perform(task: Task) -> Result<()> {
    match task {
        Task::Test(args) => test(&args),
        Task::BuildReport(args) => build_report::report(&args),
        Task::Emitted => emitted::check(),
        Task::Screenshots => pictures::take_all(),
        Task::Image(args) => image::make(&args),
        Task::Guests(args) => guests::run(&args),
        Task::Fuzz(args) => fuzz::fuzz(&args),
        Task::Isolation(_) if cfg!(debug_assertions) => again_in_release(),
        Task::Isolation(args) => isolation::study(&args),
        Task::Ledger(args) => ledger::measure(&args),
        Task::Speed(args) if args.is_redraw() => redraw(),
        Task::Speed(_) if cfg!(debug_assertions) => again_in_release(),
        Task::Speed(args) => speed::measure(&args),
    }
}

/// How long the view of where errors are takes to draw after ten million distinct failing words.
fn redraw() -> Result<()> {
    let of_app = ["test", "--quiet", "--release", "--package", "revisum", "redraw_of_a_flood", "--"];
    cargo(&[&of_app[..], &["--ignored", "--nocapture"]].concat())
}

/// Measuring code that was not optimised would say nothing: the same task again, optimised.
fn again_in_release() -> Result<()> {
    let mut arguments: Vec<String> =
        ["run", "--quiet", "--release", "--package", "xtask", "--"].map(str::to_owned).into();
    arguments.extend(std::env::args().skip(1));
    cargo(&arguments.iter().map(String::as_str).collect::<Vec<_>>())
}

/// How long foreign bytes are thrown at each reader in every test.
const FUZZ_SECONDS: u32 = 60;

/// The program is built once, for its tests; guests boot that one. Guests mostly wait, so the programs that throw foreign bytes are
/// built and run beside them.
fn test(args: &TestArgs) -> Result<()> {
    packages::install(&[("tmux", "tmux"), ("pdftotext", "poppler-utils"), ("objdump", "binutils")])?;
    timed("formatting", || cargo(&["fmt", "--all", "--check"]))?;
    timed("lints", || cargo(&["clippy", "--workspace", "--all-targets", "--", "--deny", "warnings"]))?;
    timed("tests", || cargo(&["test", "--workspace"]))?;
    std::thread::scope(|scope| {
        let beside = scope.spawn(|| {
            timed("foreign bytes", || fuzz::fuzz(&fuzz::FuzzArgs { seconds: FUZZ_SECONDS }))?;
            timed("machine code", emitted::check)
        });
        let booted =
            timed("guests", || guests::run(&guests::GuestsArgs { all: args.guests, only: None, shipped: false }));
        booted.and(beside.join().unwrap_or_else(|_| bail!("the foreign bytes ended in a panic")))
    })
}

/// Does it and says how long it took.
fn timed(what: &str, work: impl FnOnce() -> Result<()>) -> Result<()> {
    let begin = Instant::now();
    let done = work();
    println!("{what}: {} s", begin.elapsed().as_secs());
    done
}

fn cargo(arguments: &[&str]) -> Result<()> {
    cargo_with(arguments, std::iter::empty())
}

/// With these variables.
fn cargo_with<'a>(arguments: &[&str], variables: impl Iterator<Item = (&'a str, &'a Path)>) -> Result<()> {
    println!("cargo {}", arguments.join(" "));
    let program = std::env::var("CARGO").unwrap_or_else(|_| "cargo".to_owned());
    let status = Command::new(program).args(arguments).envs(variables).status().context("cargo cannot be started")?;
    if !status.success() {
        bail!("cargo {} failed", arguments.join(" "));
    }
    Ok(())
}
