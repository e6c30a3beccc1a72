//! `revisum drive`: the boot drive.

use std::io::{BufRead as _, IsTerminal as _, Write};
use std::path::Path;
use std::time::Instant;

use anyhow::{Context, Result};
use revisum_drive::{Drive, Drives};
use revisum_drive::{DriveMedium, Progress, Stage, network_files, verify, write_with};
use revisum_engine::units::bytes_text;
use revisum_linux::{ImageFile, boot_drive_next, open_image_as_drive, open_image_to_read};
use serde_json::json;

use super::drive_settings;
use crate::cli::{DriveCommand, DriveWriteArgs, SettingsArgs};
use crate::exit::Exit;
use crate::say;
use revisum_records::WrongUse;
use revisum_workbench::wire;

/// Does what was asked.
///
/// # Errors
/// With what happened, what it means for the drive, and what to do.
pub fn run(data: Option<&Path>, what: &DriveCommand) -> Result<Exit> {
    match what {
        DriveCommand::List { sim, json } => list(*sim, *json),
        DriveCommand::Write(args) => write_to(data, args),
        DriveCommand::Verify { image, drive } => compare(image, drive),
        DriveCommand::Network { image, into, settings } => network(data, image, into, settings),
        DriveCommand::BootOnce { saved } => boot_once(*saved),
    }
}

fn list(sim: bool, as_json: bool) -> Result<Exit> {
    let drives = wire::drives(sim).list()?;
    let mut out = crate::plain::stdout();
    if as_json {
        writeln!(out, "{}", json!({ "drives": drives }))?;
        return Ok(Exit::Clean);
    }
    for drive in &drives {
        let contents =
            if drive.contents.is_empty() { say::drive_unknown_content().to_owned() } else { drive.contents.join(", ") };
        let refused = drive.refused.as_ref().map(say::drive_refused).unwrap_or_default();
        writeln!(
            out,
            "{}",
            say::drive_line(
                format!("{:<12}", drive.path),
                format!("{:<28}", drive.name),
                format!("{:>10}", bytes_text(drive.bytes)),
                contents,
                refused
            )
        )?;
    }
    if drives.is_empty() {
        writeln!(out, "{}", say::drive_none())?;
    }
    Ok(Exit::Clean)
}

/// A drive that is to be written.
struct Target {
    name: String,
    medium: Box<dyn DriveMedium + Send>,
    settings: Option<Vec<u8>>,
}

fn write_to(data: Option<&Path>, args: &DriveWriteArgs) -> Result<Exit> {
    let first = drive_settings::first(&args.settings)?;
    let shop = args.settings.shop.then(|| super::card::shop(data)).transpose()?;
    let drives = wire::drives(args.sim);
    if let Some(twice) = args.drives.iter().enumerate().find(|(at, drive)| args.drives[..*at].contains(drive)) {
        return Err(WrongUse(say::drive_twice(twice.1.display().to_string())).into());
    }
    // All of them are confirmed before anything is written.
    let targets = args.drives.iter().enumerate().map(|(at, drive)| {
        let settings = first.as_ref().map(|first| drive_settings::at(first, at)).transpose()?;
        let (name, medium) = confirmed(args, drives.as_ref(), drive, args.name.get(at).map(String::as_str))?;
        let settings = match &shop {
            Some(shop) => Some(drive_settings::with_card(settings.unwrap_or_default(), shop, &args.settings)?),
            None => settings,
        };
        let settings =
            settings.map(|settings| settings.file()).transpose().map_err(|error| WrongUse(error.to_string()))?;
        Ok(Target { name, medium, settings })
    });
    let targets = targets.collect::<Result<Vec<Target>>>()?;
    let several = targets.len() > 1;
    let written = std::thread::scope(|scope| {
        let one = |target: Target| {
            let (image, keep) = (open(&args.image), args.keep_results);
            let name = target.name.clone();
            (name, scope.spawn(move || write_one(image?, target, keep, several)))
        };
        let threads: Vec<_> = targets.into_iter().map(one).collect();
        let done = |(name, thread): (String, std::thread::ScopedJoinHandle<'_, Result<String>>)| {
            (name, thread.join().unwrap_or_else(|_| Err(anyhow::anyhow!(say::drive_broke_off()))))
        };
        threads.into_iter().map(done).collect::<Vec<_>>()
    });
    crate::tell!("");
    let mut out = crate::plain::stdout();
    let mut failed = Vec::new();
    for (name, result) in written {
        match result {
            Ok(words) => writeln!(out, "{words}")?,
            Err(error) => failed.push((name, error)),
        }
    }
    let Some((name, error)) = failed.pop() else { return Ok(Exit::Clean) };
    for (name, error) in &failed {
        crate::tell!("{name}: {error:#}");
    }
    Err(if several { error.context(name) } else { error })
}

/// The drive or the file that was named, once its name was typed.
fn confirmed(
    args: &DriveWriteArgs,
    drives: &dyn Drives,
    wanted: &Path,
    given: Option<&str>,
) -> Result<(String, Box<dyn DriveMedium + Send>)> {
    let image = open(&args.image)?;
    let listed = listed(drives, wanted)?;
    let Some(drive) = listed else {
        let target = open_image_as_drive(wanted, &image)
            .map_err(|error| WrongUse(say::drive_neither(wanted.display().to_string(), error.to_string())))?;
        crate::tell!("{}", say::drive_file_lost(wanted.display().to_string()));
        let name = file_name(wanted);
        confirm(&name, given)?;
        return Ok((name, target));
    };
    if let Some(why) = &drive.refused {
        return Err(WrongUse(say::drive_not_written(&drive.path, why)).into());
    }
    tell_loss(&drive, args.keep_results);
    confirm(&drive.name, given)?;
    let target = drives.open(&drive).with_context(|| say::drive_cannot_write(&drive.path))?;
    Ok((drive.name, target))
}

fn write_one(mut image: ImageFile, mut target: Target, keep: bool, several: bool) -> Result<String> {
    let begin = Instant::now();
    let mut tell = teller(if several { target.name.clone() } else { String::new() });
    let settings = target.settings.as_deref();
    let written = write_with(&mut image, target.medium.as_mut(), keep, settings, &mut tell)?;
    let rate = written as f64 * 2.0 / begin.elapsed().as_secs_f64().max(0.001);
    Ok(say::drive_written(bytes_text(written), target.name, bytes_text(rate as u64)))
}

fn compare(image: &Path, drive: &Path) -> Result<Exit> {
    let mut image = open(image)?;
    let drives = wire::drives(false);
    let mut target = match listed(drives.as_ref(), drive)? {
        Some(drive) => drives.open_to_read(&drive)?,
        None => open_image_to_read(drive).map_err(|error| WrongUse(format!("{}: {error}", drive.display())))?,
    };
    let compared = verify(&mut image, target.as_mut(), &mut teller(String::new()))?;
    crate::tell!("");
    writeln!(crate::plain::stdout(), "{}", say::drive_as_image(bytes_text(compared)))?;
    Ok(Exit::Clean)
}

/// Lays out what a server hands out to machines without a drive.
fn network(data: Option<&Path>, image: &Path, into: &Path, args: &SettingsArgs) -> Result<Exit> {
    let settings = drive_settings::first(args)?.unwrap_or_default();
    if args.number.is_some() {
        return Err(WrongUse(say::network_no_number().to_owned()).into());
    }
    if std::fs::read_dir(into).is_ok_and(|mut there| there.next().is_some()) {
        return Err(WrongUse(say::network_not_empty(into.display().to_string())).into());
    }
    let shop = args.shop.then(|| super::card::shop(data)).transpose()?;
    let settings = match &shop {
        Some(shop) => drive_settings::with_shared_card(settings, shop, args)?,
        None => settings,
    };
    let files = network_files(&mut open(image)?, &settings)
        .map_err(|error| WrongUse(say::network_no_image(image.display().to_string(), error.to_string())))?;
    for (name, bytes) in files {
        let path = into.join(name);
        path.parent().map(std::fs::create_dir_all).transpose()?;
        // Whoever serves it is often somebody else than who made it.
        std::fs::write(&path, bytes).with_context(|| say::network_not_written(path.display().to_string()))?;
    }
    writeln!(crate::plain::stdout(), "{}", say::network_written(into.display().to_string()))?;
    Ok(Exit::Clean)
}

fn boot_once(saved: bool) -> Result<Exit> {
    if !saved {
        let words = say::drive_say_saved();
        return Err(WrongUse(words.to_owned()).into());
    }
    let entry = boot_drive_next()?;
    writeln!(crate::plain::stdout(), "{}", say::drive_next_start(entry))?;
    Ok(Exit::Clean)
}

fn open(image: &Path) -> Result<ImageFile> {
    Ok(ImageFile::open(image)
        .map_err(|error| WrongUse(say::drive_image_unreadable(image.display().to_string(), error.to_string())))?)
}

fn listed(drives: &dyn Drives, wanted: &Path) -> Result<Option<Drive>> {
    Ok(drives.list().unwrap_or_default().into_iter().find(|drive| Path::new(&drive.path) == wanted))
}

fn file_name(path: &Path) -> String {
    path.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default()
}

fn tell_loss(drive: &Drive, keep: bool) {
    crate::tell!("{}  {}  {}", drive.path, drive.name, bytes_text(drive.bytes));
    for content in &drive.contents {
        crate::tell!("{}", say::drive_on_it(content));
    }
    let words = if keep { say::drive_all_but_results() } else { say::drive_all_lost() };
    crate::tell!("{words}");
}

/// The name has to be typed, so that it was read.
fn confirm(name: &str, given: Option<&str>) -> Result<()> {
    let typed = match given {
        Some(given) => given.to_owned(),
        None => {
            if !std::io::stdin().is_terminal() {
                return Err(WrongUse(say::drive_give_name(format!("{:?}", name))).into());
            }
            eprint!("{}", say::drive_type_name(name));
            let mut line = String::new();
            std::io::stdin().lock().read_line(&mut line)?;
            line
        }
    };
    if typed.trim() == name.trim() {
        return Ok(());
    }
    Err(WrongUse(say::drive_not_its_name(format!("{:?}", typed.trim()), format!("{:?}", name))).into())
}

/// Tells how far it has come, a line for every tenth, with the drive's name where there are several.
fn teller(name: String) -> impl FnMut(Progress) -> bool {
    let name = if name.is_empty() { name } else { name + "   " };
    let (begin, mut last) = (Instant::now(), None);
    move |progress: Progress| {
        let tenth = (progress.stage, progress.done * 10 / progress.of.max(1));
        if last != Some(tenth) {
            last = Some(tenth);
            let words = match progress.stage {
                Stage::Checking => say::drive_checking(),
                Stage::Writing => say::drive_writing(),
                Stage::Verifying => say::drive_reading_back(),
            };
            let percent = progress.done * 100 / progress.of.max(1);
            crate::tell!("{name}{words} {percent:>3} %   {:.0} s", begin.elapsed().as_secs_f64());
        }
        true
    }
}
