//! Arguments as they are typed.

mod drive;
mod ledger;
mod shop;

use std::ops::RangeInclusive;
use std::path::PathBuf;

use clap::{Args, CommandFactory, FromArgMatches, Parser, Subcommand, ValueEnum};
use revisum_engine::recipe::{Caches, CoreSharing, Depth};
use revisum_engine::speed::{Kind, MOST_STRIDE, REPEATS, Width};
use revisum_engine::units::ByteRange;

use revisum_words::Language;
use revisum_words::refused::{self, amount, duration, range};

use crate::say;

pub use drive::{DriveCommand, DriveWriteArgs, SettingsArgs};
pub use ledger::LedgerCommand;
pub use shop::{CardCommand, WallArgs};

/// Tests the memory of a suspect PC, names the part at fault, and says what a clean run is worth.
///
/// Without a command it opens the full screen on this machine.
#[derive(Debug, Parser)]
#[command(name = "revisum", version)]
pub struct Cli {
    /// Folder for records [default: the platform's data folder]
    #[arg(long, global = true, value_name = "DIR")]
    pub data: Option<PathBuf>,
    /// Let other users of this computer read what is written
    #[arg(long, global = true)]
    pub share: bool,
    /// Language, such as en or de [default: the system's]
    #[arg(long, global = true, value_name = "LANGUAGE", value_parser = language)]
    pub language: Option<String>,
    /// Open the full screen on facts that were saved with `board --save`, on this machine or another
    #[arg(long, value_name = "DIR", conflicts_with = "data")]
    pub firmware: Option<PathBuf>,
    /// What to do
    #[command(subcommand)]
    pub command: Option<Command>,
}

/// Commands.
#[derive(Debug, Subcommand)]
pub enum Command {
    /// Full screen on a simulated workshop, with records of its own
    Demo(DemoArgs),
    /// A run without the full screen: progress on stderr, the result on stdout
    ///
    /// Exit codes: 0 clean, 1 errors found (however it ended), 2 wrong use, 3 could not run or self-check failed,
    /// 4 not all that was planned was done, nothing found.
    Check(Box<CheckArgs>),
    /// What is installed, and what is wrong with it
    Board(BoardArgs),
    /// Lists recorded runs, newest first
    Logs(LogsArgs),
    /// Shows one recorded run
    Log(LogArgs),
    /// Where the ledger of all runs is kept: in the folder of the records, or by a server that shops share
    #[command(subcommand)]
    Ledger(LedgerCommand),
    /// Where errors are: slot, data line, fault pattern, and a workaround
    Locate(LocateArgs),
    /// Which part is it: suspicion and the next step of a job
    Swap(SwapArgs),
    /// The report of a job for its owner: PDF, Markdown, charts, errors as CSV, everything as JSON
    Report(ReportArgs),
    /// How fast memory is, and how fast it should be
    ///
    /// Bandwidth and latency over working sets, widths and distances. A whole measurement is kept in the machine's job.
    Speed(SpeedArgs),
    /// Which addresses share a bank, learned from time
    ///
    /// Times pairs of words that are read in turns. Where they lie in one bank but different rows they take longer; from such pairs follow the
    /// functions of address bits that choose channel, rank and bank.
    Rows(RowsArgs),
    /// The catalogue of tests, and what a march test detects
    Tests(TestsArgs),
    /// What operating systems logged about memory: this system, named logs, or disks
    SystemLog(SystemLogArgs),
    /// Boot drives: list, write, verify
    #[command(subcommand)]
    Drive(DriveCommand),
    /// All machines of the shop on one screen, while they are tested
    ///
    /// Machines that start from a drive that was made with `drive write --shop` link themselves to this computer: their records are copied
    /// here as they are written, and each can be opened and steered from here.
    Wall(WallArgs),
    /// Cards by which the counter knows machines: make, list, take back
    #[command(subcommand)]
    Card(CardCommand),
    /// The full screen on a console, as the first process of a booted machine starts it
    #[command(hide = true)]
    Session(SessionArgs),
}

/// The language is chosen before arguments are read; here only one that there is not is refused.
fn language(tag: &str) -> Result<String, String> {
    let known = || Language::all().map(Language::tag).collect::<Vec<_>>().join(", ");
    Language::tagged(tag).map(|_| tag.to_owned()).ok_or_else(|| say::language_unknown(format!("{tag:?}"), known()))
}

/// Arguments of `session`.
#[derive(Debug, Args)]
pub struct SessionArgs {
    /// Device of the console
    #[arg(long)]
    pub console: String,
    /// How the session before ended
    #[arg(long)]
    pub died: Option<String>,
    /// The hardware had reported a memory error
    #[arg(long)]
    pub by_memory: bool,
}

/// Arguments of `system-log`.
#[derive(Debug, Args)]
pub struct SystemLogArgs {
    /// Log files, folders with them, or the roots of mounted disks [default: this system and all mounted disks]
    pub paths: Vec<PathBuf>,
    /// A simulated machine by name, or a machine file
    #[arg(long, value_name = "NAME|FILE", conflicts_with = "paths")]
    pub sim: Option<String>,
    /// Only entries with these words
    #[arg(long, value_name = "TEXT")]
    pub find: Option<String>,
    /// Keep them as evidence in this job, by the machine's name or part of it
    #[arg(long, value_name = "JOB")]
    pub keep: Option<String>,
    /// As JSON
    #[arg(long)]
    pub json: bool,
}

/// Arguments of `report`.
#[derive(Debug, Args)]
pub struct ReportArgs {
    /// Job, by the machine's name or part of it [default: the only one]
    pub job: Option<String>,
    /// Folder to write to [default: reports/JOB in the data folder]
    #[arg(long, value_name = "DIR")]
    pub output: Option<PathBuf>,
    /// Language of the owner, such as en or de [default: the shop's, else the language spoken]
    #[arg(long, value_name = "LANGUAGE")]
    pub owner_language: Option<String>,
    /// The shop's settings, as TOML [default: shop.toml in the data folder]
    #[arg(long, value_name = "FILE")]
    pub shop: Option<PathBuf>,
    /// Compare the records with the checksum of a report, and write nothing
    #[arg(long, value_name = "SHA256")]
    pub verify: Option<String>,
}

/// Arguments of `swap`.
#[derive(Debug, Args)]
pub struct SwapArgs {
    /// Job, by the machine's name or part of it [default: the only one]
    #[arg(conflicts_with = "advise")]
    pub job: Option<String>,
    /// Answer a case given as JSON on stdin; nothing is kept
    #[arg(long)]
    pub advise: bool,
    /// The shop's own fault rates and costs, as TOML
    #[arg(long, value_name = "FILE")]
    pub priors: Option<PathBuf>,
    /// As JSON
    #[arg(long)]
    pub json: bool,
}

/// Arguments of `demo`.
#[derive(Debug, Args)]
pub struct DemoArgs {
    /// Simulated machine, by name or as a machine file [default: choose from a list]
    #[arg(long, value_name = "NAME|FILE")]
    pub machine: Option<String>,
    /// Show what is wrong with each machine, and open nothing
    #[arg(long)]
    pub reveal: bool,
    /// Seed for everything random
    #[arg(long, value_name = "N", default_value_t = 1)]
    pub seed: u64,
    /// Simulated seconds per real second
    #[arg(long, value_name = "FACTOR", default_value_t = 3.0, value_parser = pace)]
    pub pace: f64,
}

/// What says what a run of its own is to do; a run that is gone on with or repeated brings all of it along.
const RECIPE_ARGS: [&str; 15] = [
    "memory",
    "depth",
    "recipe",
    "save_recipe",
    "tests",
    "passes",
    "until",
    "for_time",
    "range",
    "cores",
    "which_cores",
    "caches",
    "idle",
    "soak",
    "stop_after",
];

/// Arguments of `check`.
#[derive(Debug, Args)]
pub struct CheckArgs {
    /// Memory to test, such as 256M or 8G [default: all that is free]
    #[arg(long, value_name = "SIZE", value_parser = amount)]
    pub memory: Option<u64>,
    /// How long to look
    #[arg(long, value_enum, conflicts_with = "recipe")]
    pub depth: Option<DepthArg>,
    /// Recipe file; other options override it
    #[arg(long, value_name = "FILE")]
    pub recipe: Option<PathBuf>,
    /// Save these settings as a recipe file
    #[arg(long, value_name = "FILE")]
    pub save_recipe: Option<PathBuf>,
    /// Tests by name, separated by commas [default: by depth, see `revisum tests`]
    #[arg(long, value_name = "A,B", value_delimiter = ',')]
    pub tests: Option<Vec<String>>,
    /// Number of passes [default: by depth]
    #[arg(long, value_name = "N")]
    pub passes: Option<u32>,
    /// End at this time of day
    #[arg(long, value_name = "HH:MM", conflicts_with = "for_time")]
    pub until: Option<String>,
    /// End after this time, such as 20min, 24h or 3d
    #[arg(long = "for", id = "for_time", value_name = "TIME", value_parser = duration)]
    pub for_time: Option<u64>,
    /// Only this range of physical addresses, such as 4G..6G or 0x100000000..0x180000000
    #[arg(long, value_name = "FROM..TO", value_parser = range)]
    pub range: Option<ByteRange>,
    /// Whether cores divide the memory or each covers all of it [default: divide]
    #[arg(long, value_enum)]
    pub cores: Option<CoresArg>,
    /// Which cores work, by number from 0, separated by commas [default: all]
    #[arg(long, value_name = "N,N", value_delimiter = ',')]
    pub which_cores: Option<Vec<usize>>,
    /// When caches are flushed [default: per-test]
    #[arg(long, value_enum)]
    pub caches: Option<CachesArg>,
    /// Length of waits in tests, such as 30s or 10min [default: by test and depth]
    #[arg(long, value_name = "TIME", value_parser = duration)]
    pub idle: Option<u64>,
    /// After the passes, continue until the temperature is stable for ten minutes
    #[arg(long)]
    pub soak: bool,
    /// End after this many errors
    #[arg(long, value_name = "N")]
    pub stop_after: Option<u64>,
    /// Continue a run that was stopped or broke off
    #[arg(long = "continue", id = "continues", value_name = "RUN", conflicts_with_all = RECIPE_ARGS)]
    pub continues: Option<String>,
    /// Repeat what a run showed, in a fraction of its time
    #[arg(long = "repeat", id = "repeats", value_name = "RUN", conflicts_with = "continues", conflicts_with_all = RECIPE_ARGS)]
    pub repeats: Option<String>,
    /// A simulated machine by name, or a machine file
    #[arg(long, value_name = "NAME|FILE")]
    pub sim: Option<String>,
    /// Seed of the random words [default: a new one; simulated: 1]
    #[arg(long, value_name = "N")]
    pub seed: Option<u64>,
    /// Result as JSON
    #[arg(long)]
    pub json: bool,
}

/// Arguments of `speed`.
#[derive(Debug, Args)]
pub struct SpeedArgs {
    /// A simulated machine by name, or a machine file
    #[arg(long, value_name = "NAME|FILE")]
    pub sim: Option<String>,
    /// What to measure: read, write, stream (non-temporal write), copy, latency [default: all]
    #[arg(long = "kind", value_name = "LIST", value_delimiter = ',', value_parser = kind)]
    pub kinds: Option<Vec<Kind>>,
    /// Working set of each core, such as 4K..1G [default: until caches no longer matter]
    #[arg(long, value_name = "FROM..TO", value_parser = sets)]
    pub sets: Option<RangeInclusive<u64>>,
    /// Include working sets up to most of free memory
    #[arg(long, conflicts_with = "sets")]
    pub all_memory: bool,
    /// Distances between loads in bytes, powers of two from 8 to 4096 [default: all]
    #[arg(long, value_name = "LIST", value_delimiter = ',', value_parser = stride)]
    pub strides: Option<Vec<u32>>,
    /// Bits per access, 8 to 512 as the processor supports [default: all]
    #[arg(long, value_name = "LIST", value_delimiter = ',', value_parser = width)]
    pub widths: Option<Vec<Width>>,
    /// Numbers of cores, or all [default: 1,all]
    #[arg(long, value_name = "LIST", value_delimiter = ',', value_parser = cores)]
    pub cores: Option<Vec<Option<usize>>>,
    /// How often each loop is timed
    #[arg(long, value_name = "N", default_value_t = REPEATS, value_parser = repeats)]
    pub repeats: u32,
    /// Do not keep it in the machine's job
    #[arg(long)]
    pub no_record: bool,
    /// As JSON
    #[arg(long)]
    pub json: bool,
    /// Write every timing as CSV
    #[arg(long, value_name = "FILE")]
    pub csv: Option<PathBuf>,
    /// Write all charts as SVG
    #[arg(long, value_name = "FILE")]
    pub svg: Option<PathBuf>,
    /// Write a PDF
    #[arg(long, value_name = "FILE")]
    pub pdf: Option<PathBuf>,
}

/// Arguments of `rows`.
#[derive(Debug, Args)]
pub struct RowsArgs {
    /// A simulated machine by name, or a machine file
    #[arg(long, value_name = "NAME|FILE")]
    pub sim: Option<String>,
    /// Memory to take for it
    #[arg(long, value_name = "BYTES", value_parser = amount, default_value = "256 MiB")]
    pub memory: u64,
    /// Warm the modules of each channel in turns, to find out by their thermometers which slots it has; some minutes
    #[arg(long)]
    pub warm: bool,
    /// Keep what was learned for runs and for Locate
    #[arg(long)]
    pub keep: bool,
    /// As JSON
    #[arg(long)]
    pub json: bool,
}

/// How often a loop can be timed: more tells nothing new.
const MOST_REPEATS: u32 = 100;

fn kind(text: &str) -> Result<Kind, String> {
    let names: Vec<&str> = Kind::ALL.into_iter().map(Kind::name).collect();
    let found = Kind::ALL.into_iter().find(|kind| kind.name() == text);
    found.ok_or_else(|| say::arg_none_of(names.join(", ")))
}

fn sets(text: &str) -> Result<RangeInclusive<u64>, String> {
    let (from, to) = text.split_once("..").ok_or(say::arg_from_to())?;
    Ok(amount(from)?..=amount(to)?)
}

fn stride(text: &str) -> Result<u32, String> {
    let stride: u32 = text.parse().map_err(|_| say::arg_bytes())?;
    let fits = stride.is_power_of_two() && (8..=MOST_STRIDE).contains(&stride);
    fits.then_some(stride).ok_or_else(|| say::arg_power(MOST_STRIDE))
}

fn width(text: &str) -> Result<Width, String> {
    text.parse::<u16>()
        .map_err(|_| say::arg_bits().to_owned())
        .and_then(|bits| Width::try_from(bits).map_err(refused::width))
}

fn repeats(text: &str) -> Result<u32, String> {
    let repeats = text.parse().ok().filter(|repeats| (1..=MOST_REPEATS).contains(repeats));
    repeats.ok_or_else(|| say::arg_from_one(MOST_REPEATS))
}

fn cores(text: &str) -> Result<Option<usize>, String> {
    if text == "all" { Ok(None) } else { text.parse().map(Some).map_err(|_| say::arg_number_or_all().to_owned()) }
}

/// Arguments of `board`.
#[derive(Debug, Args)]
pub struct BoardArgs {
    /// A simulated machine by name, or a machine file
    #[arg(long, value_name = "NAME|FILE")]
    pub sim: Option<String>,
    /// Data saved with --save, on this machine or another
    #[arg(long, value_name = "DIR", conflicts_with = "sim")]
    pub firmware: Option<PathBuf>,
    /// Save raw data (tables, SPD, memory map, logs) in a folder
    #[arg(long, value_name = "DIR")]
    pub save: Option<PathBuf>,
    /// Without serial numbers and the machine's name
    #[arg(long)]
    pub mask: bool,
    /// Every fact with its sources, the memory map, and what is unknown
    #[arg(long, conflicts_with = "json")]
    pub raw: bool,
    /// As JSON
    #[arg(long)]
    pub json: bool,
}

/// Arguments of `logs`.
#[derive(Debug, Args)]
pub struct LogsArgs {
    /// Only runs with this text in machine, modules, tests, result or id
    #[arg(long, value_name = "TEXT")]
    pub find: Option<String>,
    /// Folder with records, read one by one [default: the data folder, from its ledger]
    pub dir: Option<PathBuf>,
    /// Most runs to list
    #[arg(long, value_name = "NUMBER", default_value_t = 500)]
    pub most: usize,
    /// Every run of one module, by its serial number
    #[arg(long, value_name = "SERIAL")]
    pub module: Option<String>,
    /// First import the records in this folder, such as a drive
    #[arg(long, value_name = "DIR")]
    pub import: Option<PathBuf>,
    /// Write what is known of every module as one file, for a drive's data folder
    #[arg(long, value_name = "FILE")]
    pub digest: Option<PathBuf>,
    /// First rebuild the ledger from the records
    #[arg(long)]
    pub rebuild: bool,
    /// List as JSON
    #[arg(long)]
    pub json: bool,
}

/// Arguments of `log`.
#[derive(Debug, Args)]
pub struct LogArgs {
    /// Id of a run, the beginning of one, "last", or a journal file
    pub run: String,
    /// Result as JSON
    #[arg(long)]
    pub json: bool,
    /// Also draw the board with the errors on it
    #[arg(long, value_name = "FILE")]
    pub svg: Option<PathBuf>,
}

/// Arguments of `locate`.
#[derive(Debug, Args)]
pub struct LocateArgs {
    /// Id of a run, the beginning of one, "last", or a journal file
    #[arg(required_unless_present = "errors")]
    pub run: Option<String>,
    /// Address map to use
    #[arg(long, value_name = "FILE")]
    pub map: Option<PathBuf>,
    /// Errors from another tool: lines of address, expected, actual
    #[arg(long, value_name = "FILE.csv", conflicts_with = "run")]
    pub errors: Option<PathBuf>,
    /// Learn an address map from the machine's other runs, and keep it where nothing is open
    #[arg(long, requires = "run")]
    pub learn: bool,
    /// Go by a map that was learned when the same arrangement was here before
    #[arg(long, requires = "run", conflicts_with = "map")]
    pub learned: bool,
    /// Save the address map of the run
    #[arg(long, value_name = "FILE", requires = "run")]
    pub save_map: Option<PathBuf>,
    /// Draw the fault as SVG
    #[arg(long, value_name = "FILE")]
    pub svg: Option<PathBuf>,
    /// As JSON
    #[arg(long)]
    pub json: bool,
}

/// Arguments of `tests`.
#[derive(Debug, Args)]
pub struct TestsArgs {
    /// One test of the catalogue
    pub name: Option<String>,
    /// Grade this march test, such as 'any(w0); up(r0,w1); down(r1,w0)'
    #[arg(long, value_name = "NOTATION", conflicts_with = "name")]
    pub grade: Option<String>,
    /// Result as JSON
    #[arg(long)]
    pub json: bool,
}

/// [`Depth`] on the command line.
#[derive(Clone, Copy, Debug, ValueEnum)]
pub enum DepthArg {
    /// One pass, minutes
    Triage,
    /// About an hour
    Survey,
    /// Eight hours, or until --for or --until
    Overnight,
}

impl From<DepthArg> for Depth {
    fn from(depth: DepthArg) -> Self {
        match depth {
            DepthArg::Triage => Self::Triage,
            DepthArg::Survey => Self::Survey,
            DepthArg::Overnight => Self::Overnight,
        }
    }
}

/// [`CoreSharing`] on the command line.
#[derive(Clone, Copy, Debug, ValueEnum)]
pub enum CoresArg {
    /// Cores divide the memory and work at the same time
    Divide,
    /// Every core covers all memory, one after the other
    Each,
}

impl From<CoresArg> for CoreSharing {
    fn from(cores: CoresArg) -> Self {
        match cores {
            CoresArg::Divide => Self::Divide,
            CoresArg::Each => Self::Each,
        }
    }
}

/// [`Caches`] on the command line.
#[derive(Clone, Copy, Debug, ValueEnum)]
pub enum CachesArg {
    /// As each test needs
    PerTest,
    /// Flush after every sweep
    Flush,
}

impl From<CachesArg> for Caches {
    fn from(caches: CachesArg) -> Self {
        match caches {
            CachesArg::PerTest => Self::PerTest,
            CachesArg::Flush => Self::Flush,
        }
    }
}

fn pace(text: &str) -> Result<f64, String> {
    let pace: f64 = text.parse().map_err(|_| say::arg_not_a_number(format!("{:?}", text)))?;
    if (0.0..=1e6).contains(&pace) { Ok(pace) } else { Err(say::arg_pace().into()) }
}

/// Reads the arguments; on a mistake says so and ends with the code for wrong use.
pub fn parse() -> Cli {
    let read = crate::help::localized(Cli::command()).try_get_matches();
    read.and_then(|matches| Cli::from_arg_matches(&matches)).unwrap_or_else(|error| crate::misuse::exit(&error))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[test]
    fn the_definitions_are_consistent() {
        Cli::command().debug_assert();
    }

    #[rstest]
    #[case(&["check", "--memory", "lots"], false)]
    #[case(&["check", "--range", "6G..4G"], false)]
    #[case(&["check", "--range", "4G"], false)]
    #[case(&["check", "--for", "3", "--passes", "2"], false)]
    #[case(&["check", "--until", "07:00", "--for", "3h"], false)]
    #[case(&["check", "--depth", "deep"], false)]
    #[case(&["demo", "--pace", "-3"], false)]
    #[case(&["check", "--memory", "256M", "--range", "0x1_0000_0000..6G", "--cores", "each"], true)]
    fn what_is_understood(#[case] arguments: &[&str], #[case] understood: bool) {
        let all = std::iter::once("revisum").chain(arguments.iter().copied());
        assert_eq!(Cli::try_parse_from(all).is_ok(), understood);
    }
}
