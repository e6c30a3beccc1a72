//! The first file system of a booted computer: our program as its first process, and modules of the kernel.

use std::collections::BTreeMap;
use std::io::{Cursor, Write};
use std::path::Path;
use std::process::{Command, Stdio};

use anyhow::{Context, Result, ensure};
use cpio::NewcBuilder;

use crate::kernel_modules::Modules;
use crate::parts::Parts;
use crate::program::Program;

const EXECUTABLE: u32 = 0o100_755;
const PLAIN: u32 = 0o100_644;
const FOLDER: u32 = 0o040_755;
/// A character device that only root may use.
const DEVICE: u32 = 0o020_600;
const FOLDERS: [&str; 9] = ["dev", "proc", "sys", "run", "tmp", "modules", "keyboards", "results", "etc"];

/// The archive in the form that the kernel unpacks, packed.
pub(crate) fn archive(
    parts: &Parts,
    program: &Program,
    modules: &Modules,
    layouts: &BTreeMap<&str, Vec<u8>>,
) -> Result<Vec<u8>> {
    let read = |path: &Path| std::fs::read(path).with_context(|| format!("{} is missing", path.display()));
    let mut entries: Vec<(String, u32, Vec<u8>)> =
        FOLDERS.iter().map(|name| ((*name).to_owned(), FOLDER, Vec::new())).collect();
    entries.push(("init".into(), EXECUTABLE, read(&program.file)?));
    entries.extend(beside(program)?);
    for (group, modules) in &modules.groups {
        let mut order = String::new();
        for (number, path) in modules.iter().enumerate() {
            let name = path.rsplit('/').next().unwrap_or(path);
            let file = format!("{group}-{number:03}-{name}");
            entries.push((format!("modules/{file}"), PLAIN, read(&parts.module_file(path))?));
            order.push_str(&format!("{file}\n"));
        }
        entries.push((format!("modules/{group}"), PLAIN, order.into_bytes()));
    }
    entries.extend(network(parts, modules)?);
    entries.extend(layouts.iter().map(|(name, table)| (format!("keyboards/{name}"), PLAIN, table.clone())));
    // What is only tested with is packed soon, what ships is packed small: slow drives and old firmware read it for seconds.
    packed(&entries, if program.libraries.is_empty() { "-19" } else { "-3" })
}

/// Drivers of networks, each file once, and for which devices each is loaded: `file file …:pci:8086:100e …`.
fn network(parts: &Parts, modules: &Modules) -> Result<Vec<(String, u32, Vec<u8>)>> {
    let known = modules.groups.iter().flat_map(|(_, modules)| modules);
    let known: Vec<&String> = known.collect();
    let mut files: BTreeMap<String, Vec<u8>> = BTreeMap::new();
    let mut list = String::new();
    for driver in &modules.network {
        let mut line = Vec::new();
        // What is loaded for other reasons is there already.
        for path in driver.modules.iter().filter(|path| !known.contains(path)) {
            let file = format!("network-{}", path.rsplit('/').next().unwrap_or(path));
            let read = || std::fs::read(parts.module_file(path)).with_context(|| format!("{path} is missing"));
            if !files.contains_key(&file) {
                files.insert(file.clone(), read()?);
            }
            line.push(file);
        }
        list.push_str(&format!("{}:{}\n", line.join(" "), driver.devices.join(" ")));
    }
    files.insert("network".to_owned(), list.into_bytes());
    Ok(files.into_iter().map(|(file, bytes)| (format!("modules/{file}"), PLAIN, bytes)).collect())
}

/// The libraries of a program with the folders that they lie in, as entries of an archive.
///
/// # Errors
/// When one cannot be read.
pub fn beside(program: &Program) -> Result<Vec<(String, u32, Vec<u8>)>> {
    let mut entries: Vec<(String, u32, Vec<u8>)> = Vec::new();
    for library in &program.libraries {
        let path = library.strip_prefix("/").unwrap_or(library);
        let folders: Vec<&Path> = path.ancestors().skip(1).filter(|folder| !folder.as_os_str().is_empty()).collect();
        for folder in folders.into_iter().rev().map(|folder| folder.display().to_string()) {
            if !entries.iter().any(|(name, ..)| *name == folder) {
                entries.push((folder, FOLDER, Vec::new()));
            }
        }
        let bytes = std::fs::read(library).with_context(|| format!("{} is missing", library.display()))?;
        entries.push((path.display().to_string(), EXECUTABLE, bytes));
    }
    Ok(entries)
}

/// The same content packs to the same bytes: one thread, no name and no time in it. The kernel unpacks this form several times as fast as others.
fn pack(bytes: &[u8], level: &str) -> Result<Vec<u8>> {
    let mut packer = Command::new("zstd")
        .args([level, "--single-thread", "--no-progress", "-q", "-c"])
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .context("zstd cannot be started: the package zstd has it")?;
    let mut into = packer.stdin.take().context("zstd does not listen")?;
    let written = std::thread::scope(|scope| {
        let writer = scope.spawn(move || into.write_all(bytes));
        let output = packer.wait_with_output();
        let written = writer.join().map_err(|_| std::io::Error::other("zstd was given nothing"));
        written.and_then(|written| written).and(output)
    })?;
    ensure!(written.status.success(), "zstd failed");
    Ok(written.stdout)
}

fn packed(entries: &[(String, u32, Vec<u8>)], level: &str) -> Result<Vec<u8>> {
    let mut out = Vec::new();
    // The kernel opens its console before anything is mounted.
    let console = NewcBuilder::new("dev/console").mode(DEVICE).rdev_major(5).rdev_minor(1).nlink(1);
    let numbered = entries.iter().zip(1u32..).map(|((name, mode, bytes), number)| {
        (NewcBuilder::new(name).mode(*mode).ino(number).nlink(1).mtime(0), Cursor::new(bytes.clone()))
    });
    let last = entries.len() as u32 + 1;
    cpio::write_cpio(numbered.chain([(console.ino(last).mtime(0), Cursor::new(Vec::new()))]), &mut out)?;
    pack(&out, level)
}
