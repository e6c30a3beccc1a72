//! Where the time of a clean build goes: units, seconds, and the chain of units that none of it could have been shorter than.

use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::Instant;

use anyhow::{Context, Result, bail};
use clap::Args;
use serde::Deserialize;

/// Arguments of `build-report`.
#[derive(Args)]
pub struct BuildReportArgs {
    /// How many units to name
    #[arg(long, default_value_t = 25)]
    most: usize,
    /// The program for development instead of the optimised one
    #[arg(long)]
    dev: bool,
}

/// One unit of cargo's own timings.
#[derive(Clone, Debug, PartialEq, Deserialize)]
struct Unit {
    name: String,
    #[serde(default)]
    target: String,
    /// Seconds from the beginning of the build.
    start: f64,
    /// Seconds.
    duration: f64,
    /// Which units could begin once this one was done, by their place in the list.
    #[serde(default, alias = "unlocked_units")]
    unblocked_units: Vec<usize>,
    /// Which could begin once its types were known.
    #[serde(default, alias = "unlocked_rmeta_units")]
    unblocked_rmeta_units: Vec<usize>,
}

impl Unit {
    fn end(&self) -> f64 {
        self.start + self.duration
    }

    fn label(&self) -> String {
        format!("{}{}", self.name, self.target)
    }
}

/// Builds in an empty folder and prints the report.
///
/// # Errors
/// When the program cannot be built, or cargo's timings are not understood.
pub fn report(args: &BuildReportArgs) -> Result<()> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../target/build-report");
    if folder.exists() {
        std::fs::remove_dir_all(&folder).context("the folder of the build before cannot be emptied")?;
    }
    let cargo = std::env::var("CARGO").unwrap_or_else(|_| "cargo".to_owned());
    let mut build = Command::new(cargo);
    build.args(["build", "--quiet", "--timings", "--package", "revisum", "--target-dir"]).arg(&folder);
    if !args.dev {
        build.arg("--release");
    }
    let (before, begin) = (children_seconds()?, Instant::now());
    if !build.status().context("cargo cannot be started")?.success() {
        bail!("the program cannot be built");
    }
    let (wall, processor) = (begin.elapsed().as_secs_f64(), children_seconds()? - before);
    let units = read_timings(&std::fs::read_to_string(newest(&folder.join("cargo-timings"))?)?)?;
    print(&units, args.most);
    println!("\n{} units, {wall:.0} s by the clock, {:.1} processor minutes", units.len(), processor / 60.0);
    Ok(())
}

/// Seconds of processor time of all children that have ended (proc(5): `cutime` and `cstime`, in hundredths).
fn children_seconds() -> Result<f64> {
    let stat = std::fs::read_to_string("/proc/self/stat").context("the kernel does not tell processor times")?;
    let fields: Vec<&str> = stat.rsplit(')').next().unwrap_or_default().split_whitespace().collect();
    let ticks = |at: usize| fields.get(at).and_then(|field| field.parse::<f64>().ok()).unwrap_or(0.0);
    Ok((ticks(13) + ticks(14)) / 100.0)
}

fn newest(folder: &Path) -> Result<PathBuf> {
    let pages = std::fs::read_dir(folder).context("cargo left no timings")?.flatten().map(|entry| entry.path());
    pages.filter(|page| page.extension().is_some_and(|kind| kind == "html")).max().context("cargo left no timings")
}

/// The units as cargo's page of timings holds them.
fn read_timings(page: &str) -> Result<Vec<Unit>> {
    const BEFORE: &str = "const UNIT_DATA = ";
    let (_, rest) = page.split_once(BEFORE).context("cargo's timings hold no units")?;
    let mut units = serde_json::Deserializer::from_str(rest).into_iter::<Vec<Unit>>();
    Ok(units.next().context("cargo's timings hold no units")??)
}

fn print(units: &[Unit], most: usize) {
    let mut longest: Vec<&Unit> = units.iter().collect();
    longest.sort_by(|a, b| b.duration.total_cmp(&a.duration));
    let all: f64 = units.iter().map(|unit| unit.duration).sum();
    println!("{:>8}  unit ({all:.0} unit-seconds in all)", "seconds");
    longest.iter().take(most).for_each(|unit| println!("{:>8.1}  {}", unit.duration, unit.label()));
    println!("\n{:>8}  {:>8}  critical path, last to first", "begin", "seconds");
    for unit in critical_path(units) {
        println!("{:>8.1}  {:>8.1}  {}", unit.start, unit.duration, unit.label());
    }
}

/// The unit that ended last, the one that it waited for longest, and so on.
fn critical_path(units: &[Unit]) -> Vec<&Unit> {
    let waited_for = |at: usize| {
        let frees = |unit: &Unit| unit.unblocked_units.contains(&at) || unit.unblocked_rmeta_units.contains(&at);
        (0..units.len())
            .filter(|other| frees(&units[*other]))
            .max_by(|a, b| units[*a].end().total_cmp(&units[*b].end()))
    };
    let last = (0..units.len()).max_by(|a, b| units[*a].end().total_cmp(&units[*b].end()));
    let mut path: Vec<usize> = last.into_iter().collect();
    while let Some(before) = path.last().and_then(|at| waited_for(*at)).filter(|before| !path.contains(before)) {
        path.push(before);
    }
    path.into_iter().map(|at| &units[at]).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    const PAGE: &str = r#"<script>
const UNIT_DATA = [
  {"i":0,"name":"a","version":"1","mode":"todo","target":"","start":0.0,"duration":4.0,"rmeta_time":1.0,"unblocked_units":[2],"unblocked_rmeta_units":[1],"sections":null},
  {"i":1,"name":"b","version":"1","mode":"todo","target":" build-script","start":1.0,"duration":2.0,"rmeta_time":null,"unblocked_units":[2],"unblocked_rmeta_units":[],"sections":null},
  {"i":2,"name":"c","version":"1","mode":"todo","target":"","start":4.0,"duration":3.5,"rmeta_time":null,"unblocked_units":[],"unblocked_rmeta_units":[],"sections":null}
];
const CONCURRENCY_DATA = [];
</script>"#;

    #[test]
    fn units_and_the_chain_that_took_longest_are_read() {
        let units = read_timings(PAGE).unwrap();
        let path: Vec<String> = critical_path(&units).into_iter().map(Unit::label).collect();
        assert_eq!(path, ["c", "a"]);
        assert_eq!(units[1].label(), "b build-script");
    }

    #[test]
    fn a_page_without_units_is_refused() {
        assert!(read_timings("<html></html>").is_err());
        assert!(read_timings("const UNIT_DATA = [{\"name\":1}];").is_err());
        assert_eq!(critical_path(&[]).len(), 0);
    }

    #[test]
    fn time_of_children_only_grows() {
        let before = children_seconds().unwrap();
        assert!(Command::new("true").status().unwrap().success());
        assert!(children_seconds().unwrap() >= before);
    }
}
