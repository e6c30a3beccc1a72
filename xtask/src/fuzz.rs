//! Foreign bytes thrown at everything that reads firmware: all targets at the same time, each for so many seconds.

use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};

use anyhow::{Context, Result, bail};
use clap::Args;

/// Arguments of `fuzz`.
#[derive(Args)]
pub struct FuzzArgs {
    /// Seconds for each target
    #[arg(long, default_value_t = 60)]
    pub seconds: u32,
}

const TARGETS: [&str; 3] = ["tables", "spd", "logs"];
const TRIPLE: &str = "x86_64-unknown-linux-gnu";
/// What lets the driver see which code an input reaches; the stable compiler has it under these names.
const COVERAGE: &str = "--cfg fuzzing -Cpasses=sancov-module -Cllvm-args=-sanitizer-coverage-level=4 \
    -Cllvm-args=-sanitizer-coverage-inline-8bit-counters -Cllvm-args=-sanitizer-coverage-pc-table \
    -Cllvm-args=-sanitizer-coverage-trace-compares -Ccodegen-units=1";
/// Longest input: more than a mainboard's tables and any SPD image.
const LONGEST: u32 = 8192;
/// An input that takes longer has found a hang.
const HANG_SECONDS: u32 = 10;
/// Lines that the readers of logs know.
const LOG: &str = "EDAC MC0: 3 CE memory read error on CPU_DIMM_B1 (channel:1 slot:0 page:0x3ea4fb offset:0x600)\n\
    mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 7: 8c00004000010091\n\
    mce: [Hardware Error]: TSC 0 ADDR 3ea4fb600\nMemory failure: 0x3ea4fb: recovery action for x\n\
    000000001000-00000009fbff System RAM\n";

/// Builds the targets and runs them.
///
/// # Errors
/// When one cannot be built, or finds an input that does harm.
pub fn fuzz(args: &FuzzArgs) -> Result<()> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    let folder = root.join("target/fuzz");
    build(&root, &folder)?;
    seed(&folder)?;
    let running: Vec<(&str, PathBuf, Child)> =
        TARGETS.iter().map(|target| start(&folder, target, args.seconds)).collect::<Result<_>>()?;
    let mut harmful = Vec::new();
    for (target, log, mut child) in running {
        let status = child.wait()?;
        let text = std::fs::read_to_string(&log).unwrap_or_default();
        let last = text.lines().rev().find(|line| line.starts_with("Done ")).unwrap_or("no end was reached");
        println!("{target}: {last}");
        if !status.success() {
            harmful.push(format!("{target} (see {})", log.display()));
        }
    }
    if !harmful.is_empty() {
        bail!("an input that does harm was found by {}", harmful.join(", "));
    }
    Ok(())
}

fn build(root: &Path, folder: &Path) -> Result<()> {
    let cargo = std::env::var("CARGO").unwrap_or_else(|_| "cargo".to_owned());
    let status = Command::new(cargo)
        .args(["build", "--quiet", "--release", "--target", TRIPLE, "--target-dir"])
        .arg(folder)
        .current_dir(root.join("fuzz"))
        .env("RUSTFLAGS", COVERAGE)
        .status()
        .context("cargo cannot be started")?;
    if !status.success() {
        bail!("the targets cannot be built");
    }
    Ok(())
}

/// What the simulated machines tell is where the inputs begin.
fn seed(folder: &Path) -> Result<()> {
    for target in TARGETS {
        std::fs::create_dir_all(folder.join("corpus").join(target))?;
    }
    std::fs::write(folder.join("corpus/logs/lines"), LOG)?;
    for machine in ["dome-1", "stacker", "radio"] {
        let saved = folder.join("saved").join(machine);
        save(machine, &saved)?;
        std::fs::copy(saved.join("DMI"), folder.join("corpus/tables").join(machine))?;
        for image in std::fs::read_dir(saved.join("spd"))?.flatten() {
            let name = format!("{machine}-{}", image.file_name().to_string_lossy());
            std::fs::copy(image.path(), folder.join("corpus/spd").join(name))?;
        }
    }
    Ok(())
}

fn save(machine: &str, folder: &Path) -> Result<()> {
    let cargo = std::env::var("CARGO").unwrap_or_else(|_| "cargo".to_owned());
    let mut command = Command::new(cargo);
    command.args(["run", "--quiet", "--package", "revisum", "--", "board", "--sim", machine, "--save"]).arg(folder);
    let output = command.output().context("cargo cannot be started")?;
    if !output.status.success() {
        bail!("the board of {machine} cannot be saved: {}", String::from_utf8_lossy(&output.stderr));
    }
    Ok(())
}

fn start(folder: &Path, target: &'static str, seconds: u32) -> Result<(&'static str, PathBuf, Child)> {
    let log = folder.join(format!("{target}.log"));
    let out = std::fs::File::create(&log)?;
    let child = Command::new(folder.join(TRIPLE).join("release").join(target))
        .arg(folder.join("corpus").join(target))
        .arg(format!("-max_total_time={seconds}"))
        .arg(format!("-max_len={LONGEST}"))
        .arg(format!("-timeout={HANG_SECONDS}"))
        .arg(format!("-artifact_prefix={}/{target}-", folder.display()))
        .stdout(Stdio::null())
        .stderr(out)
        .spawn()
        .with_context(|| format!("the target {target} cannot be started"))?;
    Ok((target, log, child))
}
