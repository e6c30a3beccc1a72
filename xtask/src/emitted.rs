//! Looks at the machine code of the sweeps: every kernel that reads must still read, compare and branch. A compiler that
//! knows what was just written could leave that out, and no test on good memory would notice.

use std::collections::BTreeMap;
use std::process::{Command, Stdio};

use anyhow::{Context, Result, bail};
use serde::Deserialize;

/// Kernels of one instruction set for each combination of what they read and how they write: four kinds of words, two directions.
const OF_A_SHAPE: usize = 8;

/// What the kernels of an instruction set are called, how many registers make a line, and what they are for. Lines that are put back are
/// written by halves even where a register takes a whole one.
const SETS: [(&str, usize, &[Shape]); 3] = [
    ("lines_sse2", 4, &[Shape::Fill, Shape::Verify, Shape::PutBack, Shape::Streamed]),
    ("lines_avx2", 2, &[Shape::Fill, Shape::Verify, Shape::PutBack, Shape::Streamed]),
    ("lines_avx512", 1, &[Shape::Fill, Shape::Verify, Shape::Streamed]),
];

/// What one kernel's code does.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
struct Kernel {
    /// Loads of vector registers from memory that is not the stack.
    loads: usize,
    /// Comparisons of whole registers.
    tests: usize,
    /// Stores past the cache.
    streams: usize,
    /// Lines put back into the memory.
    put_back: usize,
}

/// What a kernel is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Shape {
    Fill,
    Verify,
    /// Reads, writes, and puts its lines back behind it.
    PutBack,
    /// Reads, and writes past the cache.
    Streamed,
}

impl Kernel {
    /// Nothing where it does not do what any of them should.
    fn shape(&self, registers_in_a_line: usize) -> Option<Shape> {
        let compares = self.tests > 0 && self.loads >= registers_in_a_line;
        match (compares, self.streams > 0, self.put_back > 0) {
            (false, true, false) => Some(Shape::Fill),
            (true, false, false) => Some(Shape::Verify),
            (true, false, true) => Some(Shape::PutBack),
            (true, true, false) => Some(Shape::Streamed),
            _ => None,
        }
    }
}

/// Builds the sweeps as they are in the optimised program and checks their kernels.
///
/// # Errors
/// When they cannot be built, or one of them does not do what it should.
pub fn check() -> Result<()> {
    crate::packages::install(&[("objdump", "binutils")])?;
    let output = Command::new("objdump").args(["--disassemble", "--no-show-raw-insn"]).arg(engine()?).output();
    let listing = String::from_utf8_lossy(&output.context("objdump cannot be started")?.stdout).into_owned();
    for (name, registers_in_a_line, shapes) in SETS {
        let kernels = kernels(&listing, name);
        judge(name, &kernels, registers_in_a_line, shapes)?;
        println!(
            "{name}: {} kernels, every one that reads does, every one that reads and writes puts its lines back",
            kernels.len()
        );
    }
    Ok(())
}

/// The engine's object code: nothing is optimised any further when the program is linked.
fn engine() -> Result<String> {
    let cargo = std::env::var("CARGO").unwrap_or_else(|_| "cargo".to_owned());
    let mut build = Command::new(cargo);
    build.args(["build", "--release", "--package", "revisum-engine", "--message-format", "json"]);
    let output = build.stderr(Stdio::inherit()).output().context("cargo cannot be started")?;
    if !output.status.success() {
        bail!("the engine cannot be built");
    }
    let messages = String::from_utf8_lossy(&output.stdout);
    optimised_engine(messages.lines())
}

/// The file of the engine among cargo's messages, which also tell how it was optimised: less than in full is slower by a multiple, and
/// the machine code still reads and compares.
fn optimised_engine<'a>(messages: impl Iterator<Item = &'a str>) -> Result<String> {
    let built = messages.filter_map(|line| serde_json::from_str::<Message>(line).ok());
    let engines = built.filter_map(|built| {
        let is_engine = |file: &String| file.ends_with(".rlib") && file.contains("librevisum_engine");
        Some((built.filenames.into_iter().find(is_engine)?, built.profile.opt_level))
    });
    let (file, level) = engines.last().context("cargo does not say where the engine is")?;
    if level != "3" {
        bail!("the engine is built with opt-level {level}, not 3: Cargo.toml has to name it in the release profile");
    }
    Ok(file)
}

/// What cargo says of something that it built.
#[derive(Deserialize)]
struct Message {
    filenames: Vec<String>,
    profile: Profile,
}

/// How it was built.
#[derive(Deserialize)]
struct Profile {
    opt_level: String,
}

/// The kernels of this name, by their place in the listing.
fn kernels(listing: &str, name: &str) -> Vec<Kernel> {
    let mut found: BTreeMap<usize, Kernel> = BTreeMap::new();
    let mut inside = None;
    for (number, line) in listing.lines().enumerate() {
        if line.ends_with(">:") {
            inside = line.contains(name).then(|| {
                found.insert(number, Kernel::default());
                number
            });
        } else if let Some(kernel) = inside.and_then(|number| found.get_mut(&number)) {
            take(kernel, line);
        }
    }
    found.into_values().collect()
}

fn take(kernel: &mut Kernel, line: &str) {
    let Some((_, instruction)) = line.split_once(":\t") else { return };
    let (operation, operands) = instruction.trim().split_once(char::is_whitespace).unwrap_or((instruction.trim(), ""));
    let operation = operation.trim_start_matches('v');
    if operation.starts_with("movntdq") || operation.starts_with("movntp") {
        kernel.streams += 1;
    }
    if operation.starts_with("clflushopt") {
        kernel.put_back += 1;
    }
    if ["ptest", "pmovmskb"].iter().any(|test| operation.starts_with(test)) || is_mask(operation, operands) {
        kernel.tests += 1;
    }
    // In this notation sources stand first: a load has its memory operand before the comma behind the bracket.
    let from_memory =
        operands.split(')').next().is_some_and(|source| source.contains("(%") && operands.contains("),%"));
    let vector = ["%xmm", "%ymm", "%zmm"].iter().any(|register| operands.contains(register));
    if from_memory && vector && !operands.contains("(%rsp") && !operands.contains("(%rip") {
        kernel.loads += 1;
    }
}

/// A comparison of 512-bit registers leaves its result in a register of masks.
fn is_mask(operation: &str, operands: &str) -> bool {
    operation.starts_with("pcmp") && operands.split(',').next_back().is_some_and(|target| target.starts_with("%k"))
}

fn judge(name: &str, kernels: &[Kernel], registers_in_a_line: usize, shapes: &[Shape]) -> Result<()> {
    let wanted: Vec<Option<Shape>> = shapes.iter().flat_map(|shape| [Some(*shape); OF_A_SHAPE]).collect();
    let mut found: Vec<Option<Shape>> = kernels.iter().map(|kernel| kernel.shape(registers_in_a_line)).collect();
    found.sort_unstable();
    if found != wanted {
        bail!(
            "{name}: {OF_A_SHAPE} kernels of each shape should be in the program, these are: {found:?}, from {kernels:?}"
        );
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    const READS: &str = "0000000000001000 <_ZN5sweep10lines_avx2E>:\n    1000:\tvmovdqa (%rdi),%ymm0\n    1004:\tvpxor \
                         0x20(%rdi),%ymm1,%ymm2\n    1009:\tvptest %ymm0,%ymm0\n    100e:\tvmovdqa %ymm0,(%rdi)\n    1012:\tclflushopt -0x200(%rdi)\n";
    const MASKS: &str = "0000000000003000 <_ZN5sweep12lines_avx512E>:\n    3000:\tvpcmpneqq (%rdi),%zmm0,%k0\n    3006:\tkortestb %k0,%k0\n";
    const FORGETS: &str = "0000000000002000 <_ZN5sweep10lines_avx2E>:\n    2000:\tvmovdqu 0x20(%rsp),%ymm0\n    2009:\tvmovdqa \
                           %ymm0,(%rdi)\n    2010:\tret\n\n0000000000003000 <other>:\n    3000:\tvptest %ymm0,%ymm0\n";

    #[test]
    fn loads_and_tests_are_seen_and_stores_and_the_stack_are_not() {
        assert_eq!(kernels(READS, "lines_avx2"), [Kernel { loads: 2, tests: 1, streams: 0, put_back: 1 }]);
        assert_eq!(kernels(MASKS, "lines_avx512"), [Kernel { loads: 1, tests: 1, streams: 0, put_back: 0 }]);
        assert_eq!(kernels(FORGETS, "lines_avx2"), [Kernel::default()]);
    }

    const FILL: Kernel = Kernel { loads: 0, tests: 0, streams: 2, put_back: 0 };
    const VERIFY: Kernel = Kernel { loads: 2, tests: 1, streams: 0, put_back: 0 };
    const PUTS_BACK: Kernel = Kernel { loads: 2, tests: 1, streams: 0, put_back: 2 };
    const STREAMED: Kernel = Kernel { loads: 2, tests: 1, streams: 2, put_back: 0 };

    #[rstest::rstest]
    #[case::all_there([FILL, VERIFY, PUTS_BACK, STREAMED], 2, true)]
    #[case::one_forgets_to_read([FILL, Kernel { loads: 0, tests: 0, ..VERIFY }, PUTS_BACK, STREAMED], 2, false)]
    #[case::one_reads_half_a_line([FILL, VERIFY, PUTS_BACK, STREAMED], 4, false)]
    #[case::one_leaves_its_lines_in_the_cache([FILL, VERIFY, Kernel { put_back: 0, ..PUTS_BACK }, STREAMED], 2, false)]
    fn a_kernel_that_does_less_than_it_should_is_refused(
        #[case] shapes: [Kernel; 4],
        #[case] registers: usize,
        #[case] good: bool,
    ) {
        let all: Vec<Kernel> = (0..OF_A_SHAPE).flat_map(|_| shapes.clone()).collect();
        let wanted = SETS[0].2;
        assert_eq!(judge("x", &all, registers, wanted).is_ok(), good);
        assert!(judge("x", &all[1..], registers, wanted).is_err());
        assert!(judge("x", &all, registers, SETS[2].2).is_err());
    }

    #[test]
    fn an_engine_that_is_not_optimised_in_full_is_refused() {
        let message = |level: &str| {
            format!(
                r#"{{"reason":"compiler-artifact","profile":{{"opt_level":"{level}"}},"filenames":["/t/librevisum_engine-1.rlib"]}}"#
            )
        };
        let of = |level: &str| optimised_engine([r#"{"reason":"build-finished"}"#, &message(level)].into_iter());
        assert_eq!(of("3").unwrap(), "/t/librevisum_engine-1.rlib");
        assert!(of("1").unwrap_err().to_string().contains("opt-level 1"));
        assert!(optimised_engine(std::iter::empty()).is_err());
    }
}
