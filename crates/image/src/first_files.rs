//! The first file system of a booted computer: our program as its first process, and modules of the kernel.

use std::io::{Cursor, Write};
use std::path::Path;

use anyhow::{Context, Result};
use cpio::NewcBuilder;
use flate2::{Compression, GzBuilder};

use crate::parts::Parts;
use crate::program::Program;

const EXECUTABLE: u32 = 0o100_755;
const PLAIN: u32 = 0o100_644;
const FOLDER: u32 = 0o040_755;
/// A character device that only root may use.
const DEVICE: u32 = 0o020_600;
const FOLDERS: [&str; 8] = ["dev", "proc", "sys", "run", "tmp", "modules", "results", "etc"];

/// The archive in the form that the kernel unpacks, packed.
pub(crate) fn archive(parts: &Parts, program: &Program, modules: &[String]) -> Result<Vec<u8>> {
    let read = |path: &Path| std::fs::read(path).with_context(|| format!("{} is missing", path.display()));
    let mut entries: Vec<(String, u32, Vec<u8>)> =
        FOLDERS.iter().map(|name| ((*name).to_owned(), FOLDER, Vec::new())).collect();
    entries.push(("init".into(), EXECUTABLE, read(&program.file)?));
    entries.extend(beside(program)?);
    let mut order = String::new();
    for (number, path) in modules.iter().enumerate() {
        let name = path.rsplit('/').next().unwrap_or(path);
        let file = format!("{number:03}-{name}");
        entries.push((format!("modules/{file}"), PLAIN, read(&parts.module_file(path))?));
        order.push_str(&format!("{file}\n"));
    }
    entries.push(("modules/order".into(), PLAIN, order.into_bytes()));
    packed(&entries)
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

fn packed(entries: &[(String, u32, Vec<u8>)]) -> Result<Vec<u8>> {
    let mut out = Vec::new();
    // The kernel opens its console before anything is mounted.
    let console = NewcBuilder::new("dev/console").mode(DEVICE).rdev_major(5).rdev_minor(1).nlink(1);
    let numbered = entries.iter().zip(1u32..).map(|((name, mode, bytes), number)| {
        (NewcBuilder::new(name).mode(*mode).ino(number).nlink(1).mtime(0), Cursor::new(bytes.clone()))
    });
    let last = entries.len() as u32 + 1;
    cpio::write_cpio(numbered.chain([(console.ino(last).mtime(0), Cursor::new(Vec::new()))]), &mut out)?;
    // No name and no time in it: the same content packs to the same bytes.
    let mut packer = GzBuilder::new().mtime(0).write(Vec::new(), Compression::best());
    packer.write_all(&out)?;
    Ok(packer.finish()?)
}
