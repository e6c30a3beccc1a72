//! The first file system of a guest: busybox, our program, the modules and files of the test, and what is to be said.

use std::io::Cursor;

use anyhow::{Context, Result};
use cpio::NewcBuilder;
use revisum_image::{KernelModule, Parts, beside};

const EXECUTABLE: u32 = 0o100_755;
const PLAIN: u32 = 0o100_644;
const FOLDER: u32 = 0o040_755;
/// A character device that only root may use.
const DEVICE: u32 = 0o020_600;
const FOLDERS: [&str; 8] = ["bin", "dev", "proc", "sys", "tmp", "modules", "files", "root"];

/// An archive in the form that the kernel unpacks.
pub(crate) fn archive(
    parts: &Parts,
    modules: &[KernelModule],
    files: &[(String, Vec<u8>)],
    script: &str,
) -> Result<Vec<u8>> {
    let mut entries: Vec<(String, u32, Vec<u8>)> =
        FOLDERS.iter().map(|name| ((*name).to_owned(), FOLDER, Vec::new())).collect();
    let read = |path: &std::path::Path| std::fs::read(path).with_context(|| format!("{} is missing", path.display()));
    entries.push(("bin/busybox".into(), EXECUTABLE, read(&parts.busybox)?));
    entries.push(("bin/revisum".into(), EXECUTABLE, read(&parts.program.file)?));
    entries.extend(beside(&parts.program)?);
    let mut load = String::new();
    for (at, module) in modules.iter().enumerate() {
        entries.push((format!("modules/{at}.ko"), PLAIN, read(&parts.module(module))?));
        load.push_str(&format!("insmod /modules/{at}.ko {}\n", module.parameters));
    }
    entries.extend(files.iter().map(|(name, bytes)| (format!("files/{name}"), PLAIN, bytes.clone())));
    entries.push(("init".into(), EXECUTABLE, init(&load, script).into_bytes()));
    pack(&entries)
}

/// What the guest does: everything said goes to the serial line, each answer between two marks.
fn init(load: &str, script: &str) -> String {
    format!(
        "#!/bin/busybox sh\n\
         /bin/busybox --install -s /bin\n\
         export PATH=/bin HOME=/root TERM=vt100\n\
         mount -t proc none /proc; mount -t sysfs none /sys; mount -t devtmpfs none /dev\n\
         exec >/dev/ttyS0 2>&1\n\
         stty -F /dev/ttyS0 -onlcr\n\
         say() {{ name=$1; shift; echo \"==begin $name==\"; \"$@\"; echo \"==end $name $?==\"; }}\n\
         {load}{script}\n\
         echo ==over==\n\
         poweroff -f\n"
    )
}

fn pack(entries: &[(String, u32, Vec<u8>)]) -> Result<Vec<u8>> {
    let mut out = Vec::new();
    // The kernel opens its console before anything is mounted.
    let console = NewcBuilder::new("dev/console").mode(DEVICE).rdev_major(5).rdev_minor(1).nlink(1);
    cpio::write_cpio(
        entries
            .iter()
            .enumerate()
            .map(|(at, (name, mode, bytes))| {
                (NewcBuilder::new(name).mode(*mode).ino(at as u32 + 1).nlink(1), Cursor::new(bytes.clone()))
            })
            .chain([(console.ino(entries.len() as u32 + 1), Cursor::new(Vec::new()))]),
        &mut out,
    )?;
    Ok(out)
}
