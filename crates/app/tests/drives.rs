//! Boot drives are written to the right place, from a whole image, and blamed for nothing that is not their fault.

mod common;

use std::os::unix::fs::symlink;
use std::path::Path;
use std::process::Command;

use common::image::{SETTINGS_AT, small_image};
use common::{run, run_json};
use revisum_drive::{Begin, DriveSettings, SEAL_AT, SETTINGS_BYTES};
use rstest::rstest;

#[test]
fn drives_are_written_proven_and_confirmed_by_name() {
    let folder = tempfile::tempdir().unwrap();
    let image = folder.path().join("image");
    std::fs::write(&image, small_image()).unwrap();
    let drive = folder.path().join("stick");
    std::fs::write(&drive, vec![9; 10 << 20]).unwrap();
    let other = folder.path().join("photos");
    std::fs::write(&other, vec![5; 1 << 20]).unwrap();
    let [image, drive, other] = [&image, &drive, &other].map(|path| path.to_str().unwrap().to_owned());
    let told = |arguments: &[&str]| {
        let done = run(folder.path(), arguments);
        (done.status.code().unwrap(), String::from_utf8_lossy(&[done.stdout, done.stderr].concat()).into_owned())
    };
    let cases: [(&[&str], i32, &str); 8] = [
        (&["drive", "write", &image, &drive], 2, "--name"),
        (&["drive", "write", &image, &drive, "--name", "stck"], 2, "not its name"),
        (&["drive", "write", &image, &drive, "--name", "stick", "--keep-results"], 3, "no results to keep"),
        (&["drive", "write", &other, &drive, "--name", "stick"], 3, "not the image"),
        (&["drive", "write", &image, "/dev/null", "--name", "null"], 2, "neither a drive"),
        (&["drive", "write", &image, "/sim/three", "--sim", "--name", "Kestrel Pocket 32"], 2, "in use"),
        (&["drive", "write", &image, "/sim/two", "--sim", "--name", "Lantern Worn 8"], 0, "written"),
        (&["drive", "boot-once"], 2, "Save all work"),
    ];
    for (arguments, code, words) in cases {
        let (got, text) = told(arguments);
        // The worn drive fails behind the end of so small an image.
        assert!(got == code && text.contains(words), "{arguments:?}: {got} {text}");
    }
    assert_eq!(std::fs::read(&drive).unwrap(), vec![9; 10 << 20], "nothing was written without its name");
    assert_eq!(told(&["drive", "write", &image, &drive, "--name", "stick"]).0, 0);
    assert_eq!(std::fs::read(&drive).unwrap()[..9 << 20], std::fs::read(&image).unwrap());
    assert_eq!(told(&["drive", "verify", &image, &drive]).0, 0);
    let mut spoiled = std::fs::read(&drive).unwrap();
    spoiled[3 << 20] ^= 1;
    std::fs::write(&drive, spoiled).unwrap();
    let (code, text) = told(&["drive", "verify", &image, &drive]);
    assert!(code == 3 && text.contains("0x300000"), "{code} {text}");
    let (code, drives) = run_json(folder.path(), &["drive", "list", "--sim", "--json"]);
    assert_eq!((code, drives["drives"].as_array().unwrap().len()), (0, 3));
}

/// The image under another name: what is asked for would destroy it.
#[rstest]
#[case::its_own_name(|_: &Path, _: &Path| {})]
#[case::a_link(|image: &Path, other: &Path| symlink(image, other).unwrap())]
#[case::another_name_of_the_file(|image: &Path, other: &Path| std::fs::hard_link(image, other).unwrap())]
fn an_image_is_not_written_over_itself(#[case] make: fn(&Path, &Path)) {
    let folder = tempfile::tempdir().unwrap();
    let image = folder.path().join("image");
    std::fs::write(&image, small_image()).unwrap();
    let before = std::fs::read(&image).unwrap();
    let other = folder.path().join("other");
    make(&image, &other);
    let target = if other.exists() { &other } else { &image };
    let name = target.file_name().unwrap().to_str().unwrap();
    let (image, target) = (image.to_str().unwrap(), target.to_str().unwrap());
    let done = run(folder.path(), &["drive", "write", image, target, "--name", name]);
    let words = String::from_utf8_lossy(&done.stderr).into_owned();
    assert!(
        done.status.code() == Some(2)
            && words.contains("it is the image itself")
            && words.contains("Nothing was written"),
        "{words}"
    );
    assert_eq!(std::fs::read(image).unwrap(), before);
}

/// A file that a loop device stands for is somebody's disk. Where the kernel here has no loop devices the list of what is in use is tested alone.
#[test]
fn a_file_behind_a_loop_device_is_not_written() {
    let folder = tempfile::tempdir().unwrap();
    let image = folder.path().join("image");
    std::fs::write(&image, small_image()).unwrap();
    let disk = folder.path().join("disk");
    std::fs::write(&disk, vec![9; 10 << 20]).unwrap();
    let made = Command::new("losetup").args(["--find", "--show"]).arg(&disk).output();
    let Some(device) = made.ok().filter(|made| made.status.success()) else {
        println!("no loop device can be had here");
        return;
    };
    let device = String::from_utf8(device.stdout).unwrap().trim().to_owned();
    let done =
        run(folder.path(), &["drive", "write", image.to_str().unwrap(), disk.to_str().unwrap(), "--name", "disk"]);
    let words = String::from_utf8_lossy(&done.stderr).into_owned();
    Command::new("losetup").args(["--detach", &device]).status().unwrap();
    assert!(done.status.code() == Some(2) && words.contains("in use by loop"), "{words}");
    assert!(std::fs::read(&disk).unwrap().iter().all(|byte| *byte == 9));
}

#[rstest]
#[case::cut_short(|image: &mut Vec<u8>| { image.truncate(8 << 20); }, "not whole")]
#[case::a_bit(|image: &mut Vec<u8>| image[8 << 20] ^= 4, "not whole")]
#[case::no_checksum(|image: &mut Vec<u8>| image[SEAL_AT as usize] ^= 4, "no checksum")]
fn an_image_that_is_not_whole_is_not_written(#[case] spoil: fn(&mut Vec<u8>), #[case] expected: &str) {
    let folder = tempfile::tempdir().unwrap();
    let image = folder.path().join("image");
    std::fs::write(&image, small_image()).unwrap();
    let mut bytes = std::fs::read(&image).unwrap();
    spoil(&mut bytes);
    std::fs::write(&image, bytes).unwrap();
    let stick = folder.path().join("stick");
    std::fs::write(&stick, vec![9; 10 << 20]).unwrap();
    let (image, target) = (image.to_str().unwrap(), stick.to_str().unwrap());
    let done = run(folder.path(), &["drive", "write", image, target, "--name", "stick"]);
    let words = String::from_utf8_lossy(&done.stderr).into_owned();
    assert!(
        done.status.code() == Some(3) && words.contains(expected) && words.contains("Nothing was written"),
        "{words}"
    );
    assert!(std::fs::read(&stick).unwrap().iter().all(|byte| *byte == 9));
}

/// A pipe in the place of an image or of a drive waits for nobody, and comparing needs no right to write.
#[test]
fn what_is_no_file_is_refused_and_comparing_only_reads() {
    let folder = tempfile::tempdir().unwrap();
    let image = folder.path().join("image");
    std::fs::write(&image, small_image()).unwrap();
    let pipe = folder.path().join("pipe");
    assert!(Command::new("mkfifo").arg(&pipe).status().unwrap().success());
    let copy = folder.path().join("copy");
    std::fs::copy(&image, &copy).unwrap();
    let mut rights = std::fs::metadata(&copy).unwrap().permissions();
    rights.set_readonly(true);
    std::fs::set_permissions(&copy, rights).unwrap();
    let [image, pipe, copy] = [&image, &pipe, &copy].map(|path| path.to_str().unwrap());
    for arguments in [
        ["drive", "write", pipe, copy],
        ["drive", "write", image, pipe],
        ["drive", "verify", pipe, copy],
        ["drive", "verify", image, pipe],
    ] {
        let done = run(
            folder.path(),
            &[&arguments[..], if arguments[1] == "write" { &["--name", "x"] } else { &[] }].concat(),
        );
        assert_eq!(done.status.code(), Some(2), "{arguments:?} {}", String::from_utf8_lossy(&done.stderr));
    }
    let before = std::fs::metadata(copy).unwrap().modified().unwrap();
    assert_eq!(run(folder.path(), &["drive", "verify", image, copy]).status.code(), Some(0));
    assert_eq!(std::fs::metadata(copy).unwrap().modified().unwrap(), before);
}

/// Several drives at once, each with its number and its own settings, and nothing else of the image differs.
#[test]
fn drives_written_in_a_row_count_on() {
    let folder = tempfile::tempdir().unwrap();
    let image = folder.path().join("image");
    std::fs::write(&image, small_image()).unwrap();
    let drives = ["one", "two", "three"].map(|name| {
        let drive = folder.path().join(name);
        std::fs::write(&drive, vec![9; 10 << 20]).unwrap();
        drive
    });
    let mut arguments = vec!["drive", "write", image.to_str().unwrap()];
    arguments.extend(drives.iter().map(|drive| drive.to_str().unwrap()));
    arguments.extend(["--name", "one", "--name", "two", "--name", "three"]);
    arguments.extend(["--number", "7", "--begin", "at-once", "--keyboard", "ch-fr", "--sound", "--shop-name", "Hafen"]);
    let done = run(folder.path(), &arguments);
    let told = String::from_utf8_lossy(&done.stderr).into_owned();
    assert_eq!(done.status.code(), Some(0), "{told}");
    assert!(told.contains("two   writing") && told.contains("three   reading back"), "{told}");
    for (number, drive) in (7..).zip(&drives) {
        let written = std::fs::read(drive).unwrap();
        let settings = &written[SETTINGS_AT..SETTINGS_AT + SETTINGS_BYTES];
        let settings = DriveSettings::parse(std::str::from_utf8(settings).unwrap()).unwrap();
        assert_eq!((settings.number, settings.begin, settings.sound), (Some(number), Begin::AtOnce, true));
        let mut as_image = written[..9 << 20].to_vec();
        as_image[SETTINGS_AT..SETTINGS_AT + SETTINGS_BYTES].copy_from_slice(&DriveSettings::default().file().unwrap());
        assert_eq!(as_image, small_image());
    }
}

/// What cannot be as it is said is refused before any of the drives is touched.
#[rstest]
#[case::numbers_that_run_out(&["--number", "999"], 2, "past 999")]
#[case::no_such_keyboard(&["--keyboard", "xx"], 2, "ch-fr")]
#[case::kept_results(&["--number", "1", "--keep-results"], 3, "settings.toml")]
#[case::nobody_to_ask(&["--ask"], 2, "nobody can answer")]
fn settings_that_cannot_be_are_refused(#[case] options: &[&str], #[case] code: i32, #[case] expected: &str) {
    let folder = tempfile::tempdir().unwrap();
    let image = folder.path().join("image");
    std::fs::write(&image, small_image()).unwrap();
    let drives = ["one", "two"].map(|name| {
        let drive = folder.path().join(name);
        std::fs::write(&drive, vec![9; 10 << 20]).unwrap();
        drive
    });
    let mut arguments = vec!["drive", "write", image.to_str().unwrap()];
    arguments.extend(drives.iter().map(|drive| drive.to_str().unwrap()));
    arguments.extend(["--name", "one", "--name", "two"].iter().chain(options));
    let done = run(folder.path(), &arguments);
    let told = String::from_utf8_lossy(&done.stderr).into_owned();
    assert!(done.status.code() == Some(code) && told.contains(expected), "{:?} {told}", done.status);
    assert!(drives.iter().all(|drive| std::fs::read(drive).unwrap().iter().all(|byte| *byte == 9)));
}
