//! Arguments as they are typed.

use std::ops::RangeInclusive;
use std::path::PathBuf;

use clap::{Args, Parser, Subcommand, ValueEnum};
use revisum_engine::recipe::{Caches, CoreSharing, Depth};
use revisum_engine::speed::{Kind, MOST_STRIDE, REPEATS, Width};
use revisum_engine::units::{ByteRange, parse_bytes, parse_duration, parse_range};

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
    /// Exit codes: 0 clean, 1 errors found (however it ended), 2 wrong use, 3 could not run or the checking itself
    /// failed, 4 cut short with nothing found.
    Check(Box<CheckArgs>),
    /// What is fitted, and what is not as it should be
    Board(BoardArgs),
    /// Lists recorded runs, newest first
    Logs(LogsArgs),
    /// Shows one recorded run
    Log(LogArgs),
    /// Errors to parts: slot, lane, kind of fault, and a stopgap
    Locate(LocateArgs),
    /// Which part is it: odds of a job and the next step
    Swap(SwapArgs),
    /// The report of a job for its owner: PDF, Markdown, charts, errors as CSV, everything as JSON
    Report(ReportArgs),
    /// How fast memory is, and how fast it should be
    ///
    /// Bandwidth and latency over working sets, widths and distances; a whole measurement is kept in the machine's job.
    Speed(SpeedArgs),
    /// The catalogue of tests, and what a march test detects
    Tests(TestsArgs),
    /// What operating systems logged about memory: this one's, or logs and disks that are named
    SystemLog(SystemLogArgs),
    /// The boot drive: lists drives, writes and proves them
    #[command(subcommand)]
    Drive(DriveCommand),
    /// The full screen on a console, as the first process of a booted machine starts it
    #[command(hide = true)]
    Session(SessionArgs),
}

/// What to do with drives.
#[derive(Debug, Subcommand)]
pub enum DriveCommand {
    /// Drives that can be taken out
    List {
        /// The simulated ones
        #[arg(long)]
        sim: bool,
        /// As JSON
        #[arg(long)]
        json: bool,
    },
    /// Writes the image to a drive and reads all of it back; everything on the drive is lost
    Write(DriveWriteArgs),
    /// Compares a drive with the image, all but its results
    Verify {
        /// The image
        image: PathBuf,
        /// The drive's device, or a file in its place
        drive: PathBuf,
    },
    /// Lets the firmware boot the drive next, once
    BootOnce {
        /// All work is saved
        #[arg(long)]
        saved: bool,
    },
}

/// Arguments of `drive write`.
#[derive(Debug, Args)]
pub struct DriveWriteArgs {
    /// The image
    pub image: PathBuf,
    /// The drive's device as `drive list` shows it, or a file in its place
    pub drive: PathBuf,
    /// The drive's name, instead of typing it when asked
    #[arg(long, value_name = "NAME")]
    pub name: Option<String>,
    /// Keep the results on a drive that is a boot drive already
    #[arg(long)]
    pub keep_results: bool,
    /// The simulated drives
    #[arg(long)]
    pub sim: bool,
}

/// Arguments of `session`.
#[derive(Debug, Args)]
pub struct SessionArgs {
    /// Device of the console
    #[arg(long)]
    pub console: String,
    /// There is room for results
    #[arg(long)]
    pub results: bool,
    /// What is not right with the room for results
    #[arg(long)]
    pub doubt: Option<String>,
    /// Why results cannot be kept
    #[arg(long)]
    pub not_kept: Option<String>,
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
    /// Language: en or de [default: the shop's, else en]
    #[arg(long, value_name = "LANGUAGE")]
    pub language: Option<String>,
    /// The shop's settings, as TOML [default: shop.toml in the data folder]
    #[arg(long, value_name = "FILE")]
    pub shop: Option<PathBuf>,
    /// Only compare the journals with a checksum that stands in a report
    #[arg(long, value_name = "SHA256")]
    pub verify: Option<String>,
}

/// Arguments of `swap`.
#[derive(Debug, Args)]
pub struct SwapArgs {
    /// Job, by the machine's name or part of it [default: the only one]
    #[arg(conflicts_with = "advise")]
    pub job: Option<String>,
    /// Answer a case that is read as JSON from stdin: one stateless question a step
    #[arg(long)]
    pub advise: bool,
    /// Weights, rates and costs that a shop knows better, as TOML
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
    /// Say what is really wrong with the machines, and open nothing
    #[arg(long)]
    pub reveal: bool,
    /// Seed of all that is random
    #[arg(long, value_name = "N", default_value_t = 1)]
    pub seed: u64,
    /// Simulated seconds in a real second
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
    /// Memory to hold, as in 256M or 8G [default: all that can be had]
    #[arg(long, value_name = "SIZE", value_parser = parse_bytes)]
    pub memory: Option<u64>,
    /// How long to look
    #[arg(long, value_enum, conflicts_with = "recipe")]
    pub depth: Option<DepthArg>,
    /// A recipe file; what is given beside it counts instead
    #[arg(long, value_name = "FILE")]
    pub recipe: Option<PathBuf>,
    /// Write what is run as a recipe file
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
    /// End after this time, as in 20min, 24h or 3d
    #[arg(long = "for", id = "for_time", value_name = "TIME", value_parser = parse_duration)]
    pub for_time: Option<u64>,
    /// Only memory in this physical range, as in 4G..6G or 0x100000000..0x180000000
    #[arg(long, value_name = "FROM..TO", value_parser = parse_range)]
    pub range: Option<ByteRange>,
    /// Whether cores divide the memory or each covers all of it [default: divide]
    #[arg(long, value_enum)]
    pub cores: Option<CoresArg>,
    /// Which cores work, by number from 0, separated by commas [default: all]
    #[arg(long, value_name = "N,N", value_delimiter = ',')]
    pub which_cores: Option<Vec<usize>>,
    /// How caches are kept out of the way [default: per-test]
    #[arg(long, value_enum)]
    pub caches: Option<CachesArg>,
    /// How long tests wait where they wait, as in 30s or 10min [default: by test and depth]
    #[arg(long, value_name = "TIME", value_parser = parse_duration)]
    pub idle: Option<u64>,
    /// Beyond its passes go on until the temperature is stable for ten minutes
    #[arg(long)]
    pub soak: bool,
    /// End once this many words have read wrong
    #[arg(long, value_name = "N")]
    pub stop_after: Option<u64>,
    /// Go on with a run that was stopped or broke off, where it was
    #[arg(long = "continue", id = "continues", value_name = "RUN", conflicts_with_all = RECIPE_ARGS)]
    pub continues: Option<String>,
    /// Show again what a run showed, in a fraction of its time
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
    /// What to measure: read, write, stream (stores past the caches), copy, latency [default: all]
    #[arg(long = "kind", value_name = "LIST", value_delimiter = ',', value_parser = kind)]
    pub kinds: Option<Vec<Kind>>,
    /// Working sets of each core, as 4K..1G [default: up to where caches do not matter any more]
    #[arg(long, value_name = "FROM..TO", value_parser = sets)]
    pub sets: Option<RangeInclusive<u64>>,
    /// Go on with working sets to most of free memory
    #[arg(long, conflicts_with = "sets")]
    pub all_memory: bool,
    /// Distances between loads in bytes, powers of two from 8 to 4096 [default: all of them]
    #[arg(long, value_name = "LIST", value_delimiter = ',', value_parser = stride)]
    pub strides: Option<Vec<u32>>,
    /// Bits of one access: 8 to 512, as the processor has them [default: all of them]
    #[arg(long, value_name = "LIST", value_delimiter = ',', value_parser = width)]
    pub widths: Option<Vec<Width>>,
    /// Numbers of cores, or all [default: 1,all]
    #[arg(long, value_name = "LIST", value_delimiter = ',', value_parser = cores)]
    pub cores: Option<Vec<Option<usize>>>,
    /// How often each loop is timed, each once before any of them again
    #[arg(long, value_name = "N", default_value_t = REPEATS, value_parser = clap::value_parser!(u32).range(1..=100))]
    pub repeats: u32,
    /// Do not keep it in the machine's job
    #[arg(long)]
    pub no_record: bool,
    /// As JSON
    #[arg(long)]
    pub json: bool,
    /// Every timing into a table
    #[arg(long, value_name = "FILE")]
    pub csv: Option<PathBuf>,
    /// All charts into one drawing
    #[arg(long, value_name = "FILE")]
    pub svg: Option<PathBuf>,
    /// For printing
    #[arg(long, value_name = "FILE")]
    pub pdf: Option<PathBuf>,
}

fn kind(text: &str) -> Result<Kind, String> {
    let names: Vec<&str> = Kind::ALL.into_iter().map(Kind::name).collect();
    let found = Kind::ALL.into_iter().find(|kind| kind.name() == text);
    found.ok_or_else(|| format!("it is none of {}", names.join(", ")))
}

fn sets(text: &str) -> Result<RangeInclusive<u64>, String> {
    let (from, to) = text.split_once("..").ok_or("give it as FROM..TO, as 4K..1G")?;
    Ok(parse_bytes(from)?..=parse_bytes(to)?)
}

fn stride(text: &str) -> Result<u32, String> {
    let stride: u32 = text.parse().map_err(|_| "it is a number of bytes")?;
    let fits = stride.is_power_of_two() && (8..=MOST_STRIDE).contains(&stride);
    fits.then_some(stride).ok_or_else(|| format!("it is a power of two from 8 to {MOST_STRIDE}"))
}

fn width(text: &str) -> Result<Width, String> {
    text.parse::<u16>().map_err(|_| "it is a number of bits".to_owned()).and_then(Width::try_from)
}

fn cores(text: &str) -> Result<Option<usize>, String> {
    if text == "all" { Ok(None) } else { text.parse().map(Some).map_err(|_| "it is a number, or all".to_owned()) }
}

/// Arguments of `board`.
#[derive(Debug, Args)]
pub struct BoardArgs {
    /// A simulated machine by name, or a machine file
    #[arg(long, value_name = "NAME|FILE")]
    pub sim: Option<String>,
    /// Facts that were saved with --save, on this machine or another
    #[arg(long, value_name = "DIR", conflicts_with = "sim")]
    pub firmware: Option<PathBuf>,
    /// Write everything raw (tables, SPD, memory map, logs) into a folder
    #[arg(long, value_name = "DIR")]
    pub save: Option<PathBuf>,
    /// Without serial numbers and the machine's name
    #[arg(long)]
    pub mask: bool,
    /// Every fact with its sources, the memory map, and what is not known
    #[arg(long, conflicts_with = "json")]
    pub raw: bool,
    /// As JSON
    #[arg(long)]
    pub json: bool,
}

/// Arguments of `logs`.
#[derive(Debug, Args)]
pub struct LogsArgs {
    /// Only runs with this text in their machine, modules, tests, outcome or id
    #[arg(long, value_name = "TEXT")]
    pub find: Option<String>,
    /// Folder with journals, read one by one [default: the records' own, from their ledger]
    pub dir: Option<PathBuf>,
    /// Most runs to list
    #[arg(long, value_name = "NUMBER", default_value_t = 500)]
    pub most: usize,
    /// The life of a module instead: every run of it, by its serial number
    #[arg(long, value_name = "SERIAL")]
    pub module: Option<String>,
    /// First bring in the journals below this folder, from a drive for example
    #[arg(long, value_name = "DIR")]
    pub import: Option<PathBuf>,
    /// Write what is known of every module as one file, for the data folder of a drive that travels
    #[arg(long, value_name = "FILE")]
    pub digest: Option<PathBuf>,
    /// First build the ledger again from the journals
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
    /// An address map to go by
    #[arg(long, value_name = "FILE")]
    pub map: Option<PathBuf>,
    /// Errors that something else found: lines of address, expected, actual
    #[arg(long, value_name = "FILE.csv", conflicts_with = "run")]
    pub errors: Option<PathBuf>,
    /// Learn how slots follow from addresses, from the other runs of this machine
    #[arg(long, requires = "run")]
    pub learn: bool,
    /// Write the map that the run went by
    #[arg(long, value_name = "FILE", requires = "run")]
    pub save_map: Option<PathBuf>,
    /// Draw what failed
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
    /// Grade this march test, as in 'any(w0); up(r0,w1); down(r1,w0)'
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
    /// Eight hours, or as --for or --until say
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
    let pace: f64 = text.parse().map_err(|_| format!("{text:?} is not a number"))?;
    if (0.0..=1e6).contains(&pace) {
        Ok(pace)
    } else {
        Err("a pace lies between 0 (as fast as possible) and 1000000".into())
    }
}

/// Reads the arguments; on a mistake says so and ends with the code for wrong use.
pub fn parse() -> Cli {
    Cli::parse()
}

#[cfg(test)]
mod tests {
    use clap::CommandFactory;
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
