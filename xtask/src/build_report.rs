//! Where the time of a clean build goes: units, seconds, and the chain of packages that no number of cores could build faster.

use std::collections::BTreeMap;
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
    version: String,
    /// What of the package it is, where it is not the library.
    target: String,
    /// Seconds.
    duration: f64,
}

impl Unit {
    fn label(&self) -> String {
        format!("{}{}", self.name, self.target)
    }
}

/// What cargo says of the packages.
#[derive(Deserialize)]
struct Metadata {
    packages: Vec<Package>,
    resolve: Resolve,
}

#[derive(Deserialize)]
struct Package {
    id: String,
    name: String,
    version: String,
}

#[derive(Deserialize)]
struct Resolve {
    nodes: Vec<Node>,
}

/// A package and what it is built upon.
#[derive(Deserialize)]
struct Node {
    id: String,
    deps: Vec<Dependency>,
}

#[derive(Deserialize)]
struct Dependency {
    pkg: String,
    dep_kinds: Vec<DependencyKind>,
}

#[derive(Deserialize)]
struct DependencyKind {
    kind: Option<String>,
}

impl Dependency {
    /// Whether it is needed for more than tests.
    fn is_built(&self) -> bool {
        self.dep_kinds.iter().any(|kind| kind.kind.as_deref() != Some("dev"))
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
    println!("\n{:>8}  critical path, last to first: no number of cores would be faster", "seconds");
    for (name, seconds) in critical_path(&units, &metadata()?, "revisum") {
        println!("{seconds:>8.1}  {name}");
    }
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
}

/// The packages as they are resolved for this system.
fn metadata() -> Result<Metadata> {
    let cargo = std::env::var("CARGO").unwrap_or_else(|_| "cargo".to_owned());
    let mut command = Command::new(cargo);
    command.args(["metadata", "--format-version", "1", "--filter-platform", "x86_64-unknown-linux-gnu"]);
    let output = command.output().context("cargo cannot be started")?;
    serde_json::from_slice(&output.stdout).context("cargo's account of the packages is not understood")
}

/// The chain of packages from this one down that takes longest when each waits for what it is built upon, and the seconds of each.
fn critical_path(units: &[Unit], metadata: &Metadata, top: &str) -> Vec<(String, f64)> {
    let mut seconds: BTreeMap<(&str, &str), f64> = BTreeMap::new();
    for unit in units {
        *seconds.entry((&unit.name, &unit.version)).or_default() += unit.duration;
    }
    let packages: BTreeMap<&str, &Package> =
        metadata.packages.iter().map(|package| (package.id.as_str(), package)).collect();
    let own = |id: &str| {
        packages.get(id).and_then(|package| seconds.get(&(&*package.name, &*package.version))).copied().unwrap_or(0.0)
    };
    let nodes: BTreeMap<&str, &Node> = metadata.resolve.nodes.iter().map(|node| (node.id.as_str(), node)).collect();
    let mut known = BTreeMap::new();
    let Some(mut at) = packages.values().find(|package| package.name == top).map(|package| package.id.as_str()) else {
        return Vec::new();
    };
    let mut path = Vec::new();
    loop {
        path.push((packages[at].name.clone(), own(at)));
        let below = nodes.get(at).into_iter().flat_map(|node| &node.deps).filter(|dependency| dependency.is_built());
        let longest = below
            .map(|dependency| (longest_below(&dependency.pkg, &nodes, &own, &mut known), dependency.pkg.as_str()))
            .max_by(|a, b| a.0.total_cmp(&b.0));
        match longest {
            Some((_, next)) => at = next,
            None => return path,
        }
    }
}

/// Seconds of a package together with the longest chain under it.
fn longest_below<'a>(
    id: &'a str,
    nodes: &BTreeMap<&'a str, &'a Node>,
    own: &dyn Fn(&str) -> f64,
    known: &mut BTreeMap<&'a str, f64>,
) -> f64 {
    if let Some(seconds) = known.get(id) {
        return *seconds;
    }
    let below = nodes.get(id).into_iter().flat_map(|node| &node.deps).filter(|dependency| dependency.is_built());
    let longest = below.map(|dependency| longest_below(&dependency.pkg, nodes, own, known)).fold(0.0, f64::max);
    let seconds = own(id) + longest;
    known.insert(id, seconds);
    seconds
}

#[cfg(test)]
mod tests {
    use super::*;

    const PAGE: &str = r#"<script>
const UNIT_DATA = [
  {"i":7,"name":"top","version":"1","mode":"todo","target":" bin","start":9.0,"duration":1.0,"sections":null},
  {"i":5,"name":"long","version":"1","mode":"todo","target":"","start":0.0,"duration":4.0,"sections":null},
  {"i":3,"name":"long","version":"1","mode":"todo","target":" build-script","start":4.0,"duration":2.0,"sections":null},
  {"i":2,"name":"short","version":"1","mode":"todo","target":"","start":4.0,"duration":5.0,"sections":null},
  {"i":1,"name":"for-tests","version":"1","mode":"todo","target":"","start":4.0,"duration":50.0,"sections":null},
  {"i":0,"name":"ground","version":"1","mode":"todo","target":"","start":0.0,"duration":1.5,"sections":null}
];
const CONCURRENCY_DATA = [];
</script>"#;

    /// `top` stands on `long`, `short` and, in tests, `for-tests`; `long` stands on `ground`.
    const PACKAGES: &str = r#"{"packages": [{"id": "t", "name": "top", "version": "1"}, {"id": "l", "name": "long", "version": "1"},
        {"id": "s", "name": "short", "version": "1"}, {"id": "f", "name": "for-tests", "version": "1"},
        {"id": "g", "name": "ground", "version": "1"}],
        "resolve": {"nodes": [{"id": "t", "deps": [{"pkg": "s", "dep_kinds": [{"kind": null}]},
        {"pkg": "l", "dep_kinds": [{"kind": "build"}]}, {"pkg": "f", "dep_kinds": [{"kind": "dev"}]}]},
        {"id": "l", "deps": [{"pkg": "g", "dep_kinds": [{"kind": null}]}]}, {"id": "s", "deps": []}, {"id": "f", "deps": []},
        {"id": "g", "deps": []}]}}"#;

    #[test]
    fn the_chain_that_takes_longest_is_found_without_what_only_tests_need() {
        let (units, metadata) = (read_timings(PAGE).unwrap(), serde_json::from_str(PACKAGES).unwrap());
        let path = critical_path(&units, &metadata, "top");
        assert_eq!(path, [("top".to_owned(), 1.0), ("long".to_owned(), 6.0), ("ground".to_owned(), 1.5)]);
        assert!(critical_path(&units, &metadata, "absent").is_empty());
        assert_eq!(units[2].label(), "long build-script");
    }

    #[test]
    fn a_page_without_units_is_refused() {
        assert!(read_timings("<html></html>").is_err());
        assert!(read_timings("const UNIT_DATA = [{\"name\":1}];").is_err());
    }

    #[test]
    fn time_of_children_only_grows() {
        let before = children_seconds().unwrap();
        assert!(Command::new("true").status().unwrap().success());
        assert!(children_seconds().unwrap() >= before);
    }
}
