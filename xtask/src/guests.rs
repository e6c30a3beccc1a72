//! The tests that boot virtual computers, with everything they need.

use std::path::{Path, PathBuf};

use anyhow::Result;
use clap::Args;
use revisum_image::BUILT_ALREADY;

use crate::image::PACKAGES;
use crate::packages::install;

/// Arguments of `guests`.
#[derive(Args, Default)]
pub struct GuestsArgs {
    /// Every kind of firmware, chipset and memory size, power cuts and many bad cells too, with the program as it ships: more than half an hour
    #[arg(long)]
    pub all: bool,
    /// Guests of every kind, left alone to a verdict, for the table in the guide to the boot drive: hours
    #[arg(long)]
    pub kinds: bool,
    /// Only tests with this in their name
    #[arg(long, value_name = "TEXT")]
    pub only: Option<String>,
    /// Boot the program as it ships, which takes a build of its own, instead of the optimised one with shared libraries
    #[arg(long)]
    pub shipped: bool,
}

/// The guest that boots from the drive in every test.
const ONE: &str = "case_1_bios";

/// Guests that are on at the same time: each has up to 2 GiB.
const MOST_TOGETHER: usize = 2;

/// The guests on the wall in every test.
const LINKED: &str = "on_the_wall";

/// Installs an emulator, firmware, a shell and what the boot drive is made from, and runs the tests. Where they cannot be installed that is
/// said, and nothing is booted. `built_with` are variables with which the program and its tests are built.
///
/// # Errors
/// When a test fails.
pub fn run(args: &GuestsArgs, built_with: &[(&str, &Path)]) -> Result<()> {
    let emulator = [
        ("qemu-system-x86_64", "qemu-system-x86"),
        ("/usr/share/ovmf/OVMF.fd", "ovmf"),
        ("/bin/busybox", "busybox-static"),
        ("/usr/lib/ipxe/qemu/pxe-e1000.rom", "ipxe-qemu"),
    ];
    // Only the table has a computer of that kind.
    let rare = [("/usr/share/OVMF/OVMF32_VARS_4M.fd", "ovmf-ia32")];
    let rare = if args.kinds { &rare[..] } else { &[] };
    if let Err(error) = install(&[&emulator[..], rare, &PACKAGES].concat()) {
        println!("SKIPPED: no virtual computer was booted. {error:#}");
        return Ok(());
    }
    let program = if args.all || args.shipped { None } else { Some(of_the_tests(built_with)?) };
    // A guest that starts keeps one core busy. Those whose figures count, and those that have a network, are alone.
    let together = std::thread::available_parallelism().map_or(1, |cores| cores.get().min(MOST_TOGETHER)).to_string();
    let tests = |test: &str, only: Option<&str>| {
        let at_a_time = if ["kinds", "network"].contains(&test) { "1" } else { &together };
        let mut arguments = vec!["test", "--workspace", "--test", test, "--"];
        arguments.extend(["--ignored", "--test-threads", at_a_time, "--nocapture"]);
        arguments.extend(only);
        crate::cargo_with(
            &arguments,
            program.iter().map(|file| (BUILT_ALREADY, file.as_path())).chain(built_with.iter().copied()),
        )
    };
    let only = args.only.as_deref();
    if args.kinds {
        return tests("kinds", only);
    }
    tests("board", only)?;
    if args.all || only.is_some() {
        tests("slots", only)?;
    }
    tests("network", only.or(if args.all { None } else { Some(LINKED) }))?;
    tests("boot", only.or(if args.all { None } else { Some(ONE) }))
}

/// The program of the tests, with shared libraries.
pub fn of_the_tests(built_with: &[(&str, &Path)]) -> Result<PathBuf> {
    crate::cargo_with(&["build", "--quiet", "--package", "revisum"], built_with.iter().copied())?;
    Ok(Path::new(env!("CARGO_MANIFEST_DIR")).join("../target/debug/revisum").canonicalize()?)
}
