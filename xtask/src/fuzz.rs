//! Foreign bytes thrown at everything that reads firmware, logs and journals: all targets at the same time, each for so many seconds.

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
    /// Files too (event logs and packed logs) and what comes over the network: both take long to build
    #[arg(long)]
    pub archives: bool,
}

const TARGETS: [&str; 4] = ["tables", "spd", "logs", "journal"];
const SLOW_TO_BUILD: [&str; 2] = ["archives", "link"];
const TRIPLE: &str = "x86_64-unknown-linux-gnu";
/// What lets the driver see which code an input reaches; the stable compiler has it under these names.
const COVERAGE: &str = "--cfg fuzzing -Cpasses=sancov-module -Cllvm-args=-sanitizer-coverage-level=4 \
    -Cllvm-args=-sanitizer-coverage-inline-8bit-counters -Cllvm-args=-sanitizer-coverage-pc-table \
    -Cllvm-args=-sanitizer-coverage-trace-compares";
/// Longest input: more than a mainboard's tables and any SPD image.
const LONGEST: u32 = 8192;
/// An input that takes longer has found a hang.
const HANG_SECONDS: u32 = 10;
/// Lines that the readers of logs know.
const LOG: &str = "EDAC MC0: 3 CE memory read error on CPU_DIMM_B1 (channel:1 slot:0 page:0x3ea4fb offset:0x600)\n\
    mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 7: 8c00004000010091\n\
    mce: [Hardware Error]: TSC 0 ADDR 3ea4fb600\nMemory failure: 0x3ea4fb: recovery action for x\n\
    000000001000-00000009fbff System RAM\n";

/// An event and an exported entry.
const EVENT: &str = r#"<Event xmlns="x"><System><Provider Name="WHEA-Logger"/><Level>2</Level><TimeCreated SystemTime="2031-04-12T11:31:00Z"/></System>
<EventData><Data Name="PhysicalAddress">0x3ea4fb600</Data><Data Name="RawData">43504552</Data><Data Name="BugcheckCode">26</Data></EventData></Event>"#;
const EXPORTED: &str = r#"{"__REALTIME_TIMESTAMP":"1933932660500000","MESSAGE":"EDAC MC0: 3 CE memory read error on A1 (page:0x1 offset:0x0)"}"#;

/// Records of a run and of a job; the target adds their checksums.
const RUN: &str = r#"{"journal":"j","seq":0,"t_ms":0,"record":"begin","format":1,"machine":"m","wall_ms":5,"recipe":{"depth":"triage","tests":["random"],"passes":1}}
{"journal":"j","seq":1,"t_ms":1,"record":"held","bytes":4096,"ranges":[["0x1000","0x2000"]],"cores":1,"expected":[["random",1.5]]}
{"journal":"j","seq":2,"t_ms":2,"record":"test-began","pass":1,"test":"random"}
{"journal":"j","seq":3,"t_ms":3,"record":"progress","pass":1,"test":"random","element":1,"done":9,"test_done":9,"test_ns":9,"test_ppm":9}
{"journal":"j","seq":4,"t_ms":4,"record":"errors","pass":1,"test":"random","tally":{"words":1,"lanes":[[19,1,0]],"places":{"shift":21,"counts":[[3,1]]},"slots":{"B1":1},"kinds":{"recurring":1},"cores":[[0,1]],"samples":[]}}
{"journal":"j","seq":5,"t_ms":5,"record":"paused"}
{"journal":"j","seq":6,"t_ms":6,"record":"resumed"}
{"journal":"j","seq":7,"t_ms":7,"record":"heat","sensor":"s","celsius":41.5}
{"journal":"j","seq":8,"t_ms":8,"record":"test-ended","pass":1,"test":"random","finished":true,"errors":1,"bytes_swept":4096,"sweep_ns":5}
{"journal":"j","seq":9,"t_ms":9,"record":"pass-ended","pass":1,"complete":true,"seconds":0.5}
{"journal":"j","seq":10,"t_ms":9,"record":"ended","reason":"completed"}
"#;
const JOB: &str = r#"{"journal":"j","seq":0,"t_ms":0,"record":"opened","format":1,"machine":"m","wall_ms":5}
{"journal":"j","seq":1,"t_ms":0,"record":"fitted","fitting":{"placement":[["A1","S1"],["B1","S2"]]}}
{"journal":"j","seq":2,"t_ms":0,"record":"ran","run":"r"}
{"journal":"j","seq":3,"t_ms":0,"record":"struck","run":"r","reason":"x"}
"#;

/// Frames of the link: a piece of a file, a question about it, and the answer.
const FRAMES: [&[u8]; 3] = [
    b"\x02\x01\x02\x0eruns/a.journal\x00\x02x\n",
    b"\x02\x01\x01\x0eruns/a.journal",
    b"\x04\x01\x01\x0eruns/a.journal\x01\x0eruns/a.journal\x00\x00\x10runs/a~2.journal",
];

/// Builds the targets and runs them. `built_with` are variables with which the program is built that gives the first inputs.
///
/// # Errors
/// When one cannot be built, or finds an input that does harm.
pub fn fuzz(args: &FuzzArgs, built_with: &[(&str, &Path)]) -> Result<()> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    let folder = root.join("target/fuzz");
    build(&root, &folder, args.archives)?;
    seed(&folder, built_with)?;
    let targets = TARGETS.into_iter().chain(if args.archives { &SLOW_TO_BUILD[..] } else { &[] }.iter().copied());
    let running: Vec<(&str, PathBuf, Child)> =
        targets.map(|target| start(&folder, target, args.seconds)).collect::<Result<_>>()?;
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

fn build(root: &Path, folder: &Path, archives: bool) -> Result<()> {
    let cargo = std::env::var("CARGO").unwrap_or_else(|_| "cargo".to_owned());
    let status = Command::new(cargo)
        .args(["build", "--quiet", "--release", "--target", TRIPLE, "--target-dir"])
        .arg(folder)
        .args(archives.then_some(["--features", "archives"]).into_iter().flatten())
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
fn seed(folder: &Path, built_with: &[(&str, &Path)]) -> Result<()> {
    for target in TARGETS.into_iter().chain(SLOW_TO_BUILD) {
        std::fs::create_dir_all(folder.join("corpus").join(target))?;
    }
    std::fs::write(folder.join("corpus/logs/lines"), LOG)?;
    std::fs::write(folder.join("corpus/logs/event"), EVENT)?;
    for (kind, text) in [
        ("binary", "\0\x0f\x01\x01\0"),
        ("packed", "\x02"),
        ("twice", "\x03"),
        ("wide", "\x04"),
        ("journal", "\x06"),
        ("xz", "\x07"),
        ("bzip2", "\x08"),
        ("zstd", "\x09"),
        ("plain", "\x0a"),
    ] {
        std::fs::write(folder.join("corpus/archives").join(kind), format!("{text}{EVENT}\n{LOG}\n{EXPORTED}"))?;
    }
    for (at, frame) in FRAMES.iter().enumerate() {
        std::fs::write(folder.join(format!("corpus/link/frame{at}")), frame)?;
    }
    std::fs::write(folder.join("corpus/logs/exported"), EXPORTED)?;
    std::fs::write(folder.join("corpus/journal/run"), RUN)?;
    std::fs::write(folder.join("corpus/journal/job"), JOB)?;
    let program = crate::guests::of_the_tests(built_with)?;
    for machine in ["dome-1", "stacker", "radio"] {
        let saved = folder.join("saved").join(machine);
        save(&program, machine, &saved)?;
        std::fs::copy(saved.join("DMI"), folder.join("corpus/tables").join(machine))?;
        for image in std::fs::read_dir(saved.join("spd"))?.flatten() {
            let name = format!("{machine}-{}", image.file_name().to_string_lossy());
            std::fs::copy(image.path(), folder.join("corpus/spd").join(name))?;
        }
    }
    Ok(())
}

fn save(program: &Path, machine: &str, folder: &Path) -> Result<()> {
    let mut command = Command::new(program);
    command.args(["board", "--sim", machine, "--save"]).arg(folder);
    let output = command.output().context("the program cannot be started")?;
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
