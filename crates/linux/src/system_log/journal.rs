//! Journals that a system keeps in its own binary form: the program that belongs to them exports them as JSON.

use std::io::BufReader;
use std::path::Path;
use std::process::Stdio;

use revisum_diagnose::system_log::{LineReader, SystemLogs, read_export_line};
use revisum_record::logged::LogEntry;

use super::files;
use crate::programs::program;

/// Journal files below this folder; false when it holds none, and is a folder like others.
pub(super) fn read(folder: &Path, logs: &mut SystemLogs) -> bool {
    if !holds_journals(folder, 2) {
        return false;
    }
    match exported(folder) {
        Ok(entries) => logs.take(&folder.display().to_string(), entries),
        Err(error) => logs.refuse(format!(
            "The journal files in {} are not read ({error}). Where journalctl is installed, journalctl -o json --directory={} \
             writes them in a form that is.",
            folder.display(),
            folder.display()
        )),
    }
    true
}

fn holds_journals(folder: &Path, deep: usize) -> bool {
    let Ok(entries) = std::fs::read_dir(folder) else { return false };
    entries.flatten().any(|entry| match entry.file_type() {
        Ok(kind) if kind.is_dir() => deep > 0 && holds_journals(&entry.path(), deep - 1),
        Ok(kind) if kind.is_file() => entry.path().extension().is_some_and(|ending| ending == "journal"),
        _ => false,
    })
}

fn exported(folder: &Path) -> std::io::Result<Vec<LogEntry>> {
    let mut directory = std::ffi::OsString::from("--directory=");
    directory.push(folder);
    let Some(mut command) = program("journalctl") else { return Err(std::io::ErrorKind::NotFound.into()) };
    command.arg(directory).args(["--output=json", "--output-fields=MESSAGE", "--no-pager", "_TRANSPORT=kernel"]);
    let mut child = command.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::null()).spawn()?;
    let Some(out) = child.stdout.take() else { return Err(std::io::Error::other("it says nothing")) };
    let take = |reader: &mut LineReader, line: &str| {
        if let Some((time, message)) = read_export_line(line) {
            reader.take_message(time, &message);
        }
    };
    let entries = files::lines(&mut BufReader::new(out), take);
    child.wait()?;
    entries
}
