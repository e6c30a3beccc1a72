//! A computer that boots from a drive: the image of the boot drive, plugged in over USB. Its screen over the serial line is read as a person
//! would, its memory is a file that can be spoiled from outside, and the drive can be pulled.

use std::collections::BTreeMap;
use std::io::{Read, Write};
use std::os::unix::fs::FileExt as _;
use std::os::unix::net::UnixStream;
use std::path::{Path, PathBuf};
use std::process::{Child, ChildStdin, Stdio};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, bail};
use revisum_drive::{DriveSettings, SETTINGS_FILE};
use revisum_image::{RESULTS, fill, read_file, read_files, write_file};

use crate::emulator::command;
use crate::from_drive::{Chipset, FromDrive, Medium, Spoiled};
use crate::sys::Shared;

/// Where is the cursor?
const QUESTION: &[u8] = b"\x1b[6n";
const COLUMNS: u16 = 100;
const ROWS: u16 = 40;
/// Longest wait for something on the screen.
const PATIENCE: Duration = Duration::from_secs(420);

impl FromDrive {
    /// Switches it on, with a copy of this image plugged in.
    ///
    /// # Errors
    /// When it cannot be started.
    pub fn switch_on(&self, image: &Path) -> Result<Booted> {
        let folder = tempfile::tempdir()?;
        let drive = folder.path().join("drive.img");
        std::fs::copy(image, &drive)?;
        if self.medium == Medium::Disc {
            std::fs::copy(image.with_extension("iso"), drive.with_extension("iso"))
                .context("there is no disc beside the image")?;
        }
        if self.medium == Medium::Network {
            std::os::unix::fs::symlink(image.with_file_name("network").canonicalize()?, folder.path().join("network"))?;
        }
        Booted::start(self.clone(), folder, drive)
    }
}

/// What a terminal at the serial line shows.
struct Screen(vt100::Parser);

/// A computer that is on.
pub struct Booted {
    computer: FromDrive,
    child: Child,
    keys: Arc<Mutex<ChildStdin>>,
    screen: Arc<Mutex<Screen>>,
    folder: tempfile::TempDir,
    drive: PathBuf,
}

impl Booted {
    fn start(computer: FromDrive, folder: tempfile::TempDir, drive: PathBuf) -> Result<Self> {
        if let Some(entry) = computer.entry {
            write_file(&drive, RESULTS, "next.env", &block(&format!("next_entry={entry}\n"), computer.trust_ranges))?;
        } else if computer.trust_ranges {
            write_file(&drive, RESULTS, "next.env", &block("", true))?;
        }
        if computer.settings != DriveSettings::default() {
            write_file(&drive, RESULTS, SETTINGS_FILE, &computer.settings.file()?)?;
        }
        match computer.spoiled {
            Some(Spoiled::Full) => fill(&drive, RESULTS)?,
            Some(Spoiled::TwoTables) => turn_second_table(&drive)?,
            Some(Spoiled::WriteProtected) | None => {}
        }
        if let Some(recipe) = computer.recipe {
            write_file(&drive, RESULTS, "revisum/recipes/test.toml", recipe.as_bytes())?;
        }
        let mut child = command(&computer, folder.path(), &drive)?
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::inherit())
            .spawn()
            .context("qemu-system-x86_64 cannot be started: `cargo xtask guests` installs it")?;
        let keys = Arc::new(Mutex::new(child.stdin.take().context("the serial line is not connected")?));
        let mut line = child.stdout.take().context("the serial line is not connected")?;
        let screen = Arc::new(Mutex::new(Screen(vt100::Parser::new(ROWS, COLUMNS, 0))));
        let (seen, answering) = (screen.clone(), keys.clone());
        std::thread::spawn(move || {
            let (mut buffer, mut last) = ([0; 4096], Vec::new());
            while let Ok(count @ 1..) = line.read(&mut buffer) {
                seen.lock().unwrap_or_else(PoisonError::into_inner).0.process(&buffer[..count]);
                // A terminal that is asked where its cursor is answers. The question may come in pieces.
                last.extend_from_slice(&buffer[..count]);
                let asked = last.windows(QUESTION.len()).any(|window| window == QUESTION);
                let kept = if asked { 0 } else { last.len().min(QUESTION.len() - 1) };
                last.drain(..last.len() - kept);
                if asked {
                    let answer = format!("\x1b[{ROWS};{COLUMNS}R");
                    let mut keys = answering.lock().unwrap_or_else(PoisonError::into_inner);
                    // A computer that is off already is met by the next wait.
                    let _ = keys.write_all(answer.as_bytes()).and_then(|()| keys.flush());
                }
            }
        });
        Ok(Self { computer, child, keys, screen, folder, drive })
    }

    /// What is on the screen.
    pub fn text(&self) -> String {
        self.screen.lock().unwrap_or_else(PoisonError::into_inner).0.screen().contents()
    }

    /// Waits until all of these are on the screen, wherever its lines break, and gives its words with single spaces.
    ///
    /// # Errors
    /// When they never come; with the screen.
    pub fn wait(&self, words: &[&str]) -> Result<String> {
        let text = self.wait_for(&format!("{words:?}"), |text| {
            let text = on_one_line(text);
            words.iter().all(|word| text.contains(word))
        })?;
        Ok(on_one_line(&text))
    }

    /// Waits until the screen is as wanted; `what` says how.
    ///
    /// # Errors
    /// When it never is; with the screen.
    pub fn wait_for(&self, what: &str, wanted: impl Fn(&str) -> bool) -> Result<String> {
        let begin = Instant::now();
        loop {
            let text = self.text();
            if wanted(&text) {
                return Ok(text);
            }
            if begin.elapsed() > PATIENCE {
                bail!("{what} never came; the screen is:\n{text}");
            }
            std::thread::sleep(Duration::from_millis(100));
        }
    }

    /// Types something.
    ///
    /// # Errors
    /// When the computer is off.
    pub fn keys(&self, keys: &[u8]) -> Result<()> {
        let mut line = self.keys.lock().unwrap_or_else(PoisonError::into_inner);
        line.write_all(keys)?;
        Ok(line.flush()?)
    }

    /// Its memory, seen from outside.
    ///
    /// # Errors
    /// When the file cannot be mapped.
    pub fn memory(&self) -> Result<Shared> {
        Ok(Shared::open(&self.folder.path().join("memory"))?)
    }

    /// Where a physical address lies in that file: the part below the hole comes first.
    pub fn offset_of(&self, address: u64) -> u64 {
        const GIB: u64 = 1 << 30;
        let low = match (self.computer.chipset, self.computer.memory_mib) {
            (Chipset::Pc, _) => 3 * GIB,
            (Chipset::Q35, ..2816) => 4 * GIB,
            (Chipset::Q35, _) => 2 * GIB,
        };
        if address < 4 * GIB { address } else { address - 4 * GIB + low }
    }

    /// Whether there is memory at a physical address.
    pub fn has_memory_at(&self, address: u64) -> bool {
        const GIB: u64 = 1 << 30;
        let bytes = self.computer.memory_mib << 20;
        let low = self.offset_of(4 * GIB).min(bytes);
        address < low || (4 * GIB..4 * GIB + (bytes - low)).contains(&address)
    }

    /// Pulls the drive out.
    ///
    /// # Errors
    /// When the emulator does not answer.
    pub fn pull_drive(&self) -> Result<()> {
        self.monitor("device_del stick").map(drop)
    }

    /// Plugs it in again.
    ///
    /// # Errors
    /// When the emulator refuses.
    pub fn put_back_drive(&self) -> Result<()> {
        self.plug_drive("again", &self.drive)
    }

    /// Journals of runs that are on the drive by now.
    ///
    /// # Errors
    /// When the partition cannot be read.
    pub fn journals(&self) -> Result<Vec<(String, Vec<u8>)>> {
        journals_on(&self.drive)
    }

    /// Records of jobs that are on the drive by now, one behind the other.
    ///
    /// # Errors
    /// When the partition cannot be read.
    pub fn jobs(&self) -> Result<String> {
        let files = read_files(&self.drive, RESULTS, "revisum/jobs")?;
        Ok(files.into_values().map(|bytes| String::from_utf8_lossy(&bytes).into_owned()).collect())
    }

    /// A file on the drive by now.
    ///
    /// # Errors
    /// When there is none, or the partition cannot be read.
    pub fn file(&self, path: &str) -> Result<Vec<u8>> {
        read_file(&self.drive, RESULTS, path)
    }

    /// A picture of its screen.
    ///
    /// # Errors
    /// When the emulator does not answer.
    pub fn picture(&self, file: &Path) -> Result<()> {
        self.monitor(&format!("screendump {} -f png", file.display())).map(drop)
    }

    /// What is on its screen, where that is in text mode: 25 rows of 80 characters, read as its graphics card does. What is not ASCII is a question mark.
    ///
    /// # Errors
    /// When the emulator does not answer.
    pub fn displayed(&self) -> Result<String> {
        const COLUMNS: usize = 80;
        const ROWS: usize = 25;
        let file = self.folder.path().join("displayed");
        self.monitor(&format!("pmemsave 0xb8000 {} \"{}\"", 2 * COLUMNS * ROWS, file.display()))?;
        let cells = std::fs::read(file)?;
        let letter = |cell: &[u8]| if (0x20..0x7f).contains(&cell[0]) { char::from(cell[0]) } else { '?' };
        let row = |row: &[u8]| row.chunks_exact(2).map(letter).collect::<String>().trim_end().to_owned();
        Ok(cells.chunks_exact(2 * COLUMNS).map(row).collect::<Vec<_>>().join("\n"))
    }

    /// Presses a key on its keyboard, by the emulator's name of it.
    ///
    /// # Errors
    /// When the emulator does not answer.
    pub fn press(&self, key: &str) -> Result<()> {
        self.monitor(&format!("sendkey {key}")).map(drop)
    }

    /// Plugs another drive in, with this image; only where it was not started from one over USB.
    ///
    /// # Errors
    /// When the emulator does not answer.
    pub fn plug_in(&self, image: &Path) -> Result<PathBuf> {
        let drive = self.folder.path().join("late.img");
        std::fs::copy(image, &drive)?;
        self.plug_drive("late", &drive)?;
        Ok(drive)
    }

    fn plug_drive(&self, name: &str, drive: &Path) -> Result<()> {
        let file = drive.display();
        self.monitor(&format!("drive_add 0 if=none,id={name},format=raw,cache=writethrough,file={file}"))?;
        self.monitor(&format!("device_add usb-storage,id={name}-stick,drive={name},bus=usb.0,removable=on")).map(drop)
    }

    /// Pulls the network cable, or puts it back.
    ///
    /// # Errors
    /// When the emulator does not answer.
    pub fn plug(&self, in_place: bool) -> Result<()> {
        self.monitor(&format!("set_link net {}", if in_place { "on" } else { "off" })).map(drop)
    }

    fn monitor(&self, line: &str) -> Result<String> {
        let mut monitor = UnixStream::connect(self.folder.path().join("monitor"))?;
        monitor.set_read_timeout(Some(Duration::from_secs(20)))?;
        let prompt = |monitor: &mut UnixStream| -> Result<String> {
            let mut heard = Vec::new();
            let mut byte = [0];
            while !heard.ends_with(b"(qemu) ") {
                monitor.read_exact(&mut byte)?;
                heard.push(byte[0]);
            }
            Ok(String::from_utf8_lossy(&heard).into_owned())
        };
        prompt(&mut monitor)?;
        writeln!(monitor, "{line}")?;
        prompt(&mut monitor)
    }

    /// Cuts its power. What was on the drive stays there.
    ///
    /// # Errors
    /// When the drive cannot be read afterwards.
    pub fn cut_power(mut self) -> Result<Left> {
        self.child.kill()?;
        self.child.wait()?;
        Ok(Left { drive: self.drive.clone(), folder: std::mem::replace(&mut self.folder, tempfile::tempdir()?) })
    }

    /// Waits until it has switched itself off.
    ///
    /// # Errors
    /// When it never does.
    pub fn wait_off(mut self) -> Result<Left> {
        let begin = Instant::now();
        while self.child.try_wait()?.is_none() {
            if begin.elapsed() > PATIENCE {
                bail!("it does not switch off; the screen is:\n{}", self.text());
            }
            std::thread::sleep(Duration::from_millis(100));
        }
        Ok(Left { drive: self.drive.clone(), folder: std::mem::replace(&mut self.folder, tempfile::tempdir()?) })
    }
}

impl Drop for Booted {
    fn drop(&mut self) {
        // Off already when it ended well.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// A drive after its computer is off.
pub struct Left {
    /// Its image.
    pub drive: PathBuf,
    folder: tempfile::TempDir,
}

impl Left {
    /// Journals of runs on it, by their names.
    ///
    /// # Errors
    /// When the partition cannot be read.
    pub fn journals(&self) -> Result<Vec<(String, Vec<u8>)>> {
        journals_on(&self.drive)
    }

    /// Files in a folder of the results.
    ///
    /// # Errors
    /// When there is none, or the partition cannot be read.
    pub fn files(&self, folder: &str) -> Result<BTreeMap<String, Vec<u8>>> {
        read_files(&self.drive, RESULTS, folder)
    }

    /// Plugs it into a computer of this kind and switches that on.
    ///
    /// # Errors
    /// When it cannot be started.
    pub fn switch_on(self, computer: &FromDrive) -> Result<Booted> {
        Booted::start(computer.clone(), self.folder, self.drive)
    }
}

/// Lines as one, with single spaces: a sentence is the same wherever its lines break.
fn on_one_line(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// Journals of runs on a drive that is in use or was.
///
/// # Errors
/// When the partition cannot be read.
pub fn journals_on(drive: &Path) -> Result<Vec<(String, Vec<u8>)>> {
    let files = read_files(drive, RESULTS, "revisum/runs")?;
    Ok(files.into_iter().filter(|(name, _)| name.ends_with(".journal")).collect())
}

/// Turns a bit over in the last sector of the second table of the file system for results, where no file has its clusters.
fn turn_second_table(drive: &Path) -> Result<()> {
    let file = std::fs::OpenOptions::new().read(true).write(true).open(drive)?;
    let mut sector = [0; 512];
    file.read_exact_at(&mut sector, RESULTS.start)?;
    let word = |at: usize| u64::from(u16::from_le_bytes([sector[at], sector[at + 1]]));
    let long = u64::from(u32::from_le_bytes([sector[36], sector[37], sector[38], sector[39]]));
    let sectors = if word(22) == 0 { long } else { word(22) };
    let last = RESULTS.start + (word(14) + 2 * sectors) * word(11) - 512;
    let mut byte = [0];
    file.read_exact_at(&mut byte, last)?;
    file.write_all_at(&[byte[0] ^ 1], last)?;
    Ok(())
}

/// The boot loader's block of variables with these lines.
fn block(lines: &str, trust_ranges: bool) -> Vec<u8> {
    let trusted = if trust_ranges { "trust_ranges=1\n" } else { "" };
    let mut block = format!("# GRUB Environment Block\n{lines}{trusted}").into_bytes();
    block.resize(1024, b'#');
    block
}
