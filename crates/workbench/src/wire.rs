//! The only place that chooses between real and simulated hardware.

use std::path::Path;
use std::sync::Arc;

use anyhow::{Context, Result};
use revisum_diagnose::machine::Machine;
use revisum_drive::Drives;
use revisum_drive::ImageSource;
use revisum_engine::text::cleaned;
use revisum_linux::{ImageFile, LinuxDrives, files};
use revisum_sim::{
    EarlierRun, MachineSpec, SimDrives, SimImage, SimOptions, shipped, shipped_names, simulated_machine,
};

use revisum_records::WrongUse;

use crate::say;

/// Longest name of a machine.
const LONGEST_NAME: usize = 64;
/// Longest machine file that is read.
const LONGEST_FILE: u64 = 1 << 20;

/// The machine that this program runs on.
pub fn real() -> Machine {
    revisum_linux::this_machine()
}

/// A machine that stands elsewhere and cannot run anything.
pub fn elsewhere(name: &str) -> Machine {
    crate::absent::absent(name, real().clock)
}

/// A machine of which facts were saved in a folder; it is called as the folder is.
///
/// # Errors
/// When the folder holds none.
pub fn saved(folder: &Path) -> Result<Machine> {
    let raw = revisum_linux::read_folder(folder).map_err(|error| WrongUse(error.to_string()))?;
    let name = folder.file_name().unwrap_or(folder.as_os_str());
    Ok(crate::absent::saved(&cleaned(&name.to_string_lossy(), LONGEST_NAME), raw, real().clock))
}

/// Drives of this machine, or the simulated ones.
pub fn drives(simulated: bool) -> Arc<dyn Drives> {
    if simulated { Arc::new(SimDrives) } else { Arc::new(LinuxDrives) }
}

/// The image of the boot drive: beside the records, beside the program, or where it is made; the simulated one in the demonstration.
pub fn image(simulated: bool, data: &Path) -> Option<(String, Box<dyn ImageSource + Send>)> {
    if simulated {
        return Some((say::simulated_image().to_owned(), Box::new(SimImage::new())));
    }
    let beside = std::env::current_exe().ok().and_then(|exe| exe.parent().map(Path::to_owned));
    let folders = [Some(data.to_owned()), beside, Some("target".into()), Some(".".into())];
    let mut files = folders.into_iter().flatten().map(|folder| folder.join(IMAGE));
    files.find_map(|file| {
        let open: Box<dyn ImageSource + Send> = Box::new(ImageFile::open(&file).ok()?);
        Some((file.display().to_string(), open))
    })
}

/// Name of the image.
const IMAGE: &str = "revisum-boot.img";

/// A run that a simulated machine had before it came to the bench.
pub struct Earlier {
    /// The machine as it was then.
    pub machine: Machine,
    /// Which of its runs this is, from 1.
    pub number: usize,
    /// Passes.
    pub passes: u32,
    /// Seed.
    pub seed: u64,
    /// How it came to the bench: `(slot, serial number)`.
    pub found: Vec<(String, String)>,
}

/// The earlier runs of a simulated machine, oldest first; `opens_ms` is when the workshop opens.
///
/// # Errors
/// As for [`simulated`].
pub fn earlier_runs(name_or_file: &str, opens_ms: i64) -> Result<Vec<Earlier>> {
    let spec = spec(name_or_file)?;
    let one = |(at, earlier): (usize, &EarlierRun)| {
        let begin_ms = Some(opens_ms - i64::from(earlier.hours_ago) * 3_600_000);
        let machine =
            simulated_machine(spec.clone(), SimOptions { begin_ms, seed: earlier.seed, ..SimOptions::default() });
        let fitting: Vec<_> = earlier.fitting.clone().into_iter().collect();
        if let Some(hands) = &machine.hands {
            if !fitting.is_empty() {
                hands.refit(&fitting).map_err(anyhow::Error::msg)?;
            }
            if let Some(setting) = &earlier.setting {
                hands.set(setting).map_err(anyhow::Error::msg)?;
            }
        }
        Ok(Earlier { machine, number: at + 1, passes: earlier.passes, seed: earlier.seed, found: spec.placement() })
    };
    spec.earlier.iter().enumerate().map(one).collect()
}

/// A simulated machine by name, or from a machine file.
///
/// # Errors
/// When there is neither, or the file is wrong.
pub fn simulated(name_or_file: &str, options: SimOptions) -> Result<Machine> {
    Ok(simulated_machine(spec(name_or_file)?, options))
}

/// A simulated machine of the workshop: modules of the others can be lent to it.
///
/// # Errors
/// As [`simulated`].
pub fn in_workshop(name_or_file: &str, options: SimOptions) -> Result<Machine> {
    let mut spec = spec(name_or_file)?;
    shipped_names().filter_map(|name| shipped(name)?.ok()).for_each(|other| spec.neighbour(&other));
    Ok(simulated_machine(spec, options))
}

fn spec(name_or_file: &str) -> Result<MachineSpec> {
    if let Some(spec) = shipped(name_or_file) {
        return Ok(spec?);
    }
    let path = Path::new(name_or_file);
    if !path.is_file() {
        let names: Vec<&str> = shipped_names().collect();
        return Err(WrongUse(say::no_such_machine(format!("{:?}", name_or_file), names.join(", "))).into());
    }
    let text = files::read_text(path, LONGEST_FILE).with_context(|| say::file_not_read(name_or_file))?;
    Ok(MachineSpec::parse(&text).map_err(|error| WrongUse(format!("{name_or_file}: {error}")))?)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn fast() -> SimOptions {
        SimOptions { pace: 0.0, ..SimOptions::default() }
    }

    #[rstest]
    #[case::no_such_machine("nobody", "no simulated machine and no machine file")]
    #[case::no_such_file("/nowhere/machine.toml", "no simulated machine and no machine file")]
    fn a_machine_that_is_not_there_is_said_with_those_that_are(#[case] name: &str, #[case] words: &str) {
        let Err(error) = simulated(name, fast()) else { panic!("there is a machine {name}") };
        let told = error.to_string();
        assert!(error.is::<WrongUse>() && told.contains(words) && told.contains("dome-1"), "{told}");
    }

    #[rstest]
    #[case::not_toml("name = ", "line 1")]
    #[case::impossible("name = \"a b\"\ntitle = \"x\"\n", "")]
    fn a_machine_file_that_is_wrong_is_said_with_its_name(#[case] text: &str, #[case] words: &str) {
        let folder = tempfile::tempdir().unwrap();
        let file = folder.path().join("mine.toml");
        std::fs::write(&file, text).unwrap();
        let Err(error) = simulated(file.to_str().unwrap(), fast()) else { panic!("{text:?} is a machine") };
        let told = format!("{error:#}");
        assert!(error.is::<WrongUse>() && told.contains("mine.toml") && told.contains(words), "{told}");
    }

    #[test]
    fn a_file_that_is_too_large_is_not_read() {
        let folder = tempfile::tempdir().unwrap();
        let file = folder.path().join("huge.toml");
        std::fs::File::create(&file).unwrap().set_len(LONGEST_FILE + 1).unwrap();
        let Err(error) = simulated(file.to_str().unwrap(), fast()) else { panic!("a huge file is a machine") };
        assert!(format!("{error:#}").contains("it is longer than"));
    }

    #[test]
    fn what_is_simulated_says_so_and_what_is_real_does_not() {
        assert!(simulated("dome-1", fast()).unwrap().is_simulated());
        assert!(!real().is_simulated());
    }

    /// Machines of the workshop lend each other modules; a machine by itself knows none but its own.
    #[test]
    fn modules_of_other_machines_can_be_lent_in_the_workshop_only() {
        let serial = |machine: &Machine| machine.hands.as_ref().unwrap().on_the_table().len();
        let foreign = revisum_diagnose::board::board_of(simulated("stacker", fast()).unwrap().firmware.as_ref());
        let (_, module) = foreign.modules().next().unwrap();
        let alone = simulated("dome-1", fast()).unwrap();
        assert!(alone.hands.as_ref().unwrap().lend(&module.serial).is_err());
        let among = in_workshop("dome-1", fast()).unwrap();
        let before = serial(&among);
        among.hands.as_ref().unwrap().lend(&module.serial).unwrap();
        assert_eq!(serial(&among), before + 1);
    }

    #[test]
    fn runs_from_before_are_as_the_machine_was_then() {
        let earlier = earlier_runs("stacker", 1_933_766_160_000).unwrap();
        assert!(!earlier.is_empty());
        for (at, run) in earlier.iter().enumerate() {
            assert_eq!(run.number, at + 1);
            assert!(run.machine.is_simulated() && run.machine.clock.wall_ms() < 1_933_766_160_000);
            assert!(!run.found.is_empty() && run.passes > 0);
        }
    }

    #[test]
    fn the_simulated_image_is_named_as_such() {
        let (name, _) = image(true, Path::new("/nowhere")).unwrap();
        assert!(name.contains("simulated"));
    }
}
