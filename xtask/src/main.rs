//! One entry for contributors: `cargo xtask test`, `cargo xtask guests`, `cargo xtask fuzz`, `cargo xtask screenshots`, `cargo xtask speed`.

mod build_report;
mod emitted;
mod fuzz;
mod guests;
mod image;
mod pack;
mod packages;
mod pictures;

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

/// Arguments of `docs`.
#[derive(clap::Args)]
struct DocsArgs {
    /// Write the generated pages anew
    #[arg(long)]
    write: bool,
}

/// Arguments of a study, which it takes apart itself.
#[derive(clap::Args)]
struct StudyArgs {
    /// See --help of the study
    #[arg(trailing_var_arg = true, allow_hyphen_values = true)]
    arguments: Vec<String>,
}

#[derive(Subcommand)]
enum Task {
    /// Formatting, lints and all tests: what has to pass before a change is accepted
    Test(TestArgs),
    /// Builds the program in an empty folder and prints where the time goes
    BuildReport(build_report::BuildReportArgs),
    /// Looks at the machine code of the sweeps: whether every kernel that reads really does
    Emitted,
    /// Looks at the documents: links, generated pages, banned words
    Docs(DocsArgs),
    /// Takes the pictures in docs/screenshots from the demonstration
    Screenshots(pictures::PicturesArgs),
    /// Makes the image of the boot drive from Debian packages
    Image(image::ImageArgs),
    /// Packs image, disc and program for those who only use them, with checksums and a signature
    Pack(pack::PackArgs),
    /// Boots virtual computers with tables written by hand and looks at what the program makes of them
    Guests(guests::GuestsArgs),
    /// Throws foreign bytes at everything that reads firmware
    Fuzz(fuzz::FuzzArgs),
    /// Simulates repair cases and tells how often and with how much work the part at fault is found
    #[command(disable_help_flag = true)]
    Isolation(StudyArgs),
    /// Finding and taking in fifty thousand journals, beside a scan and a copy of the same files
    #[command(disable_help_flag = true)]
    Ledger(StudyArgs),
    /// Eight folders that take fifty thousand journals into the ledger of one server at once, while it is killed too, and finding them
    #[command(disable_help_flag = true)]
    SharedLedger(StudyArgs),
    /// How soon the full screen answers a key beside a flood of errors, fifty thousand runs on record, and reports being written
    #[command(disable_help_flag = true)]
    Responsiveness(StudyArgs),
    /// A thousand simulated benches against one counter: processor, memory, and how long a record takes to arrive
    #[command(disable_help_flag = true)]
    Shop(StudyArgs),
    /// Measures the sweeps against the machine's limit, in pairs, and prints a table
    #[command(disable_help_flag = true)]
    Speed(StudyArgs),
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
        Task::Docs(args) => docs(&args),
        Task::Screenshots(args) => pictures::take(&args),
        Task::Image(args) => image::make(&args),
        Task::Pack(args) => pack::pack(&args),
        Task::Guests(args) => guests::run(&args, &[]),
        Task::Fuzz(args) => fuzz::fuzz(&args, &[]),
        Task::Isolation(args) => study("isolation", &args),
        Task::Ledger(args) => study("ledger", &args),
        Task::SharedLedger(args) => {
            packages::install(&[SERVER])?;
            study("shared-ledger", &args)
        }
        Task::Responsiveness(args) => study("responsiveness", &args),
        Task::Shop(args) => study("shop", &args),
        Task::Speed(args) => study("speed", &args),
    }
}

/// The tests that look at the documents; the pages that are made from the program's own tables can be written anew by them.
fn docs(args: &DocsArgs) -> Result<()> {
    let linted = LINTED.map(|(name, value)| (name, Path::new(value)));
    let write = args.write.then_some(("REVISUM_WRITE_DOCS", Path::new("1")));
    for tests in
        [["--package", "revisum", "--test", "docs"].as_slice(), &["--package", "revisum-tui", "--lib", "page_of_keys"]]
    {
        cargo_with(&[&["test"], tests].concat(), linted.into_iter().chain(write))?;
    }
    Ok(())
}

/// The server that many folders can share a ledger at, and its package.
const SERVER: (&str, &str) = ("pg_lsclusters", "postgresql");

/// What the names of tests that need it have in common.
const SHARED: &str = "shared_";

/// A study, in a program of its own: this one is built before every test, and has to be small.
fn study(name: &str, args: &StudyArgs) -> Result<()> {
    let mut arguments = vec!["run", "--quiet", "--release", "--package", "revisum-studies", "--", name];
    arguments.extend(args.arguments.iter().map(String::as_str));
    cargo(&arguments)
}

/// How long foreign bytes are thrown at each reader in every test.
const FUZZ_SECONDS: u32 = 60;

/// What makes cargo build our own packages with the compiler that lints as well, every warning an error: checking all of them once more
/// before they are built takes minutes. These are the variables by which `cargo clippy` itself asks for it.
const LINTED: [(&str, &str); 2] = [
    ("RUSTC_WORKSPACE_WRAPPER", "clippy-driver"),
    ("CLIPPY_ARGS", "--deny__CLIPPY_HACKERY__warnings__CLIPPY_HACKERY__"),
];

/// Property tests draw the same cases each time here, so that a change is judged by what it changed. `cargo test` alone draws new ones.
const SAME_CASES: (&str, &str) = ("PROPTEST_RNG_SEED", "20261129");

/// The program is built once, for its tests, and linted as it is built; guests boot that one. Guests mostly wait, so the programs that throw
/// foreign bytes are built and run beside them. A test that fails does not keep the others from being run: one go shows all that a change
/// broke.
fn test(args: &TestArgs) -> Result<()> {
    let needed = [("tmux", "tmux"), ("pdftotext", "poppler-utils"), ("objdump", "binutils"), ("python3", "python3")];
    packages::install(&needed)?;
    timed("formatting", || cargo(&["fmt", "--all", "--check"]))?;
    let linted = LINTED.map(|(name, value)| (name, Path::new(value)));
    timed("lints and tests", || {
        let drawn = std::iter::once((SAME_CASES.0, Path::new(SAME_CASES.1)));
        cargo_with(&["test", "--workspace", "--no-fail-fast"], linted.into_iter().chain(drawn))
    })?;
    timed("a server", || {
        packages::install(&[SERVER])?;
        let tests = ["test", "--workspace", "--lib", "--test", "ledger", "--", "--ignored", SHARED];
        cargo_with(&tests, linted.into_iter())
    })?;
    std::thread::scope(|scope| {
        let beside = scope.spawn(|| {
            timed("foreign bytes", || fuzz::fuzz(&fuzz::FuzzArgs { seconds: FUZZ_SECONDS, archives: false }, &linted))?;
            timed("machine code", emitted::check)
        });
        let booted = timed("guests", || {
            guests::run(&guests::GuestsArgs { all: args.guests, ..guests::GuestsArgs::default() }, &linted)
        });
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
