//! The ledger of many: eight folders that share a server take in their journals at once, once undisturbed and once while the server is killed; each
//! time the same comes out as in one folder with all of them. Then finding, and what it takes on the server's disk.

use std::collections::BTreeSet;
use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Output, Stdio};
use std::time::Instant;

use anyhow::{Context, Result, ensure};
use clap::Args;
use revisum_records::{DataDir, Ledger};
use revisum_server::Server;
use serde_json::Value;

use crate::ledger::{FINDS, PROGRAM, REPEATS, generate, timed};

/// Arguments of the measurement.
#[derive(Args)]
pub struct SharedLedgerArgs {
    /// Journals
    #[arg(long, default_value_t = 50_000)]
    journals: u32,
    /// Folders that share the server
    #[arg(long, default_value_t = 8)]
    folders: u32,
}

/// Every so many journals is held by two folders.
const TWICE: usize = 10;

/// Measures and prints.
///
/// # Errors
/// When the program or the server cannot be run, or two ledgers are not the same.
pub fn measure(args: &SharedLedgerArgs) -> Result<()> {
    crate::cargo(&["build", "--release", "--package", "revisum"])?;
    let place = tempfile::tempdir()?;
    let drive = place.path().join("drive");
    fs::create_dir(&drive)?;
    let bytes = generate(args.journals, &place.path().join("template"), &drive)?;
    println!("{} journals, {:.1} KiB each", args.journals, bytes as f64 / f64::from(args.journals) / 1024.0);
    let journals: Vec<PathBuf> = {
        let mut all: Vec<PathBuf> = fs::read_dir(&drive)?.map(|entry| Ok(entry?.path())).collect::<Result<_>>()?;
        all.sort();
        all
    };
    let alone = place.path().join("alone");
    held(&alone, journals.iter())?;
    let taking = timed(|| asked(&alone, &["logs", "--most", "1"]).map(drop))?;
    println!("one folder, a file of its own: taken in after {taking:.1} s");

    let folders: Vec<PathBuf> = (1..=args.folders).map(|nr| place.path().join(format!("bench-{nr}"))).collect();
    for (at, folder) in folders.iter().enumerate() {
        let of_it =
            |nr: usize| nr % folders.len() == at || (nr.is_multiple_of(TWICE) && (nr + 1) % folders.len() == at);
        held(folder, journals.iter().enumerate().filter(|(nr, _)| of_it(*nr)).map(|(_, journal)| journal))?;
    }
    let mut server = Server::start()?;
    let address = server.address();
    let begin = Instant::now();
    let children = all_at_once(&folders, |folder| {
        let name = folder.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        vec!["ledger".to_owned(), "share".to_owned(), address.clone(), "--name".to_owned(), name]
    })?;
    for child in children {
        ensure!(child.wait_with_output()?.status.success(), "a folder could not share");
    }
    let shared = begin.elapsed().as_secs_f64();
    println!("{} folders at once, one server: taken in after {shared:.1} s", folders.len());
    same(&alone, &folders[0])?;

    let again = all_at_once(&folders, |_| ["logs", "--rebuild", "--most", "1"].map(str::to_owned).to_vec())?;
    let count = || -> Result<u32> { Ok(server.ask("SELECT count(*) FROM revisum.runs")?.parse()?) };
    let (mut least, mut dying) = (args.journals, 0);
    // They let go of what they hold, and take it in anew: in the middle of that.
    while dying < least.max(args.journals / 10) + args.journals / 5 {
        dying = count()?;
        least = least.min(dying);
    }
    server.kill()?;
    println!("the server was killed when it had {dying} of {} runs, after it had {least}", args.journals);
    let ended: Vec<Output> = again.into_iter().map(Child::wait_with_output).collect::<Result<_, _>>()?;
    let broken = ended.iter().filter(|output| !output.stderr.is_empty()).count();
    ensure!(broken > 0, "nobody noticed");
    server.run()?;
    let after = server.ask("SELECT count(*) FROM revisum.runs")?;
    println!("{broken} folders said so; started again it had {after}");
    for child in all_at_once(&folders, |_| ["logs", "--most", "1"].map(str::to_owned).to_vec())? {
        let output = child.wait_with_output()?;
        ensure!(output.status.success() && output.stderr.is_empty(), "{}", String::from_utf8_lossy(&output.stderr));
    }
    same(&alone, &folders[0])?;

    finding(&folders[0], &alone)?;
    println!("on the server's disk:");
    let sizes = "SELECT relname || ' ' || pg_size_pretty(pg_table_size(oid)) || ', indexes ' || pg_size_pretty(pg_indexes_size(oid)) \
                 FROM pg_class WHERE relnamespace = 'revisum'::regnamespace AND relkind = 'r' ORDER BY pg_total_relation_size(oid) DESC LIMIT 4";
    println!("{}", server.ask(sizes)?);
    println!("{} for all", server.ask("SELECT pg_size_pretty(pg_database_size(current_database()))")?);
    Ok(())
}

/// How long finding takes, as a whole process and as one question of a program that runs.
fn finding(shared: &Path, alone: &Path) -> Result<()> {
    let open = |data: &Path| Ledger::open(&DataDir::choose(Some(data), None)?);
    let (of_all, own) = (open(shared)?, open(alone)?);
    for find in FINDS {
        let process =
            |data: &Path| median_ms(|| asked(data, &["logs", "--find", find, "--json", "--most", "50"]).map(drop));
        let question = |ledger: &Ledger| median_ms(|| ledger.find(find, 50).map(drop));
        println!(
            "find {find:?}: whole processes: shared {:.1} ms, own {:.1} ms; the question alone: shared {:.1} ms, own {:.1} ms",
            process(shared)?,
            process(alone)?,
            question(&of_all)?,
            question(&own)?
        );
    }
    Ok(())
}

/// The median of [`REPEATS`] times, in milliseconds.
fn median_ms(work: impl Fn() -> Result<()>) -> Result<f64> {
    let mut times = (0..REPEATS).map(|_| timed(&work)).collect::<Result<Vec<_>>>()?;
    times.sort_by(f64::total_cmp);
    Ok(times[REPEATS / 2] * 1e3)
}

/// A folder of records that holds these journals.
fn held<'a>(folder: &Path, journals: impl Iterator<Item = &'a PathBuf>) -> Result<()> {
    let runs = folder.join("runs");
    fs::create_dir_all(&runs)?;
    for journal in journals {
        fs::hard_link(journal, runs.join(journal.file_name().context("a journal has a name")?))?;
    }
    Ok(())
}

fn command(data: &Path) -> Command {
    let mut command = Command::new(PROGRAM);
    command.arg("--data").arg(data);
    command
}

fn asked(data: &Path, arguments: &[&str]) -> Result<Vec<u8>> {
    let output = command(data).args(arguments).output()?;
    ensure!(output.status.success(), "{arguments:?}: {}", String::from_utf8_lossy(&output.stderr));
    Ok(output.stdout)
}

fn all_at_once(folders: &[PathBuf], arguments: impl Fn(&Path) -> Vec<String>) -> Result<Vec<Child>> {
    let start = |folder: &PathBuf| {
        let mut command = command(folder);
        command.args(arguments(folder)).stdout(Stdio::null()).stderr(Stdio::piped());
        Ok(command.spawn()?)
    };
    folders.iter().map(start).collect()
}

/// Makes sure that two ledgers hold the same: every run with all that is known of it, and the lives of all modules.
fn same(alone: &Path, shared: &Path) -> Result<()> {
    let runs = |data: &Path| -> Result<BTreeSet<String>> {
        let text = asked(data, &["logs", "--json", "--most", "1000000"])?;
        let mut found: Value = serde_json::from_slice(&text)?;
        let count = found["count"].as_u64();
        let all = found["runs"].as_array_mut().context("no list of runs")?;
        ensure!(count == Some(all.len() as u64), "the count is not that of the runs");
        all.iter_mut().for_each(|run| run["elsewhere"] = Value::Null);
        Ok(all.iter().map(Value::to_string).collect())
    };
    let lives = |data: &Path| -> Result<Vec<u8>> {
        let file = data.join("digest.json");
        let file_name = file.display().to_string();
        asked(data, &["logs", "--digest", &file_name])?;
        Ok(fs::read(file)?)
    };
    let (one, other) = (runs(alone)?, runs(shared)?);
    ensure!(one == other, "the runs differ: {} and {}", one.len(), other.len());
    let (life, other_life) = (lives(alone)?, lives(shared)?);
    ensure!(life == other_life, "the lives of modules differ");
    println!("the same: {} runs, {} bytes of modules' lives", one.len(), life.len());
    Ok(())
}
