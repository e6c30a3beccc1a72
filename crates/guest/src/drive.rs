//! A computer that boots from a drive: the image of the boot drive, plugged in over USB. Its screen over the serial line is read as a person
//! would, its memory is a file that can be spoiled from outside, and the drive can be pulled.

use std::collections::BTreeMap;
use std::io::{Read, Write};
use std::os::unix::fs::FileExt as _;
use std::os::unix::net::UnixStream;
use std::path::{Path, PathBuf};
use std::process::{Child, ChildStdin, Command, Stdio};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, bail};
use revisum_drive::{DriveSettings, SETTINGS_FILE};
use revisum_image::{RESULTS, fill, read_file, read_files, write_file};

use crate::sys::Shared;

/// How it starts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Start {
    /// Traditional firmware.
    Bios,
    /// UEFI.
    Uefi,
    /// UEFI with Secure Boot switched on.
    SecureBoot,
}

/// Chipset of the virtual mainboard.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Chipset {
    /// The older one.
    Pc,
    /// The newer one.
    Q35,
}

/// A computer to be booted.
#[derive(Clone, Debug)]
pub struct FromDrive {
    /// How it starts.
    pub start: Start,
    /// Its mainboard.
    pub chipset: Chipset,
    /// Memory in MiB.
    pub memory_mib: u64,
    /// Entry of the boot menu; nothing for what it boots by itself.
    pub entry: Option<&'static str>,
    /// Firmware tables, one structure each.
    pub structures: Vec<Vec<u8>>,
    /// A recipe that lies on the drive.
    pub recipe: Option<&'static str>,
    /// What is wrong with the drive.
    pub spoiled: Option<Spoiled>,
    /// What it boots from.
    pub medium: Medium,
    /// Cores.
    pub cores: u8,
    /// What shows its screen.
    pub display: Display,
    /// What its firmware says of the addresses of each slot counts.
    pub trust_ranges: bool,
    /// How the drive starts.
    pub settings: DriveSettings,
    /// Its wired network; the computer that it is emulated on is `10.0.2.2` there.
    pub network: Option<Network>,
    /// How many of its seconds pass in one of ours; each of them gets as much less done.
    pub haste: u32,
}

impl Default for FromDrive {
    /// A computer of 1 GiB with old firmware that boots from USB.
    fn default() -> Self {
        Self {
            start: Start::Bios,
            chipset: Chipset::Pc,
            memory_mib: 1024,
            entry: None,
            structures: Vec::new(),
            recipe: None,
            spoiled: None,
            medium: Medium::Usb,
            cores: 2,
            display: Display::Usual,
            trust_ranges: false,
            settings: DriveSettings::default(),
            network: None,
            haste: 1,
        }
    }
}

/// A wired network.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Network {
    /// A card that computers have had for decades.
    Usual,
    /// That of virtual computers.
    Virtual,
}

/// What a computer boots from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Medium {
    /// The drive, plugged in over USB.
    Usb,
    /// The drive's image as a disk that is built in.
    Disk,
    /// The optical disc, which lies beside the image.
    Disc,
    /// The network, from files in a folder `network` beside the image; no drive is plugged in.
    Network,
}

/// What shows its screen.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Display {
    /// One of 1024 × 768 points and more.
    Usual,
    /// None: there is only the serial line.
    None,
}

/// What can be wrong with the drive that it boots from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Spoiled {
    /// Nothing more fits beside the results.
    Full,
    /// It is write-protected.
    WriteProtected,
    /// The two tables of its file system for results differ.
    TwoTables,
}

/// Where is the cursor?
const QUESTION: &[u8] = b"\x1b[6n";
const COLUMNS: u16 = 100;
const ROWS: u16 = 40;
/// Longest wait for something on the screen.
const PATIENCE: Duration = Duration::from_secs(420);
const OVMF: &str = "/usr/share/OVMF";

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

fn command(computer: &FromDrive, folder: &Path, drive: &Path) -> Result<Command> {
    let mut command = Command::new("qemu-system-x86_64");
    if computer.haste > 1 {
        command.env("LD_PRELOAD", hasty_clock(folder)?).env("REVISUM_HASTE", computer.haste.to_string());
    }
    let memory = folder.join("memory");
    let chipset = match (computer.chipset, computer.start) {
        (Chipset::Pc, _) => "pc,memory-backend=ram",
        (Chipset::Q35, Start::SecureBoot) => "q35,smm=on,memory-backend=ram",
        (Chipset::Q35, _) => "q35,memory-backend=ram",
    };
    let size = format!("{}M", computer.memory_mib);
    let cores = computer.cores.to_string();
    command.args(["-machine", chipset, "-m", &size, "-smp", &cores, "-display", "none"]);
    network(&mut command, computer, folder);
    match computer.display {
        Display::Usual => command.args(["-vga", "std"]),
        Display::None => command.args(["-vga", "none"]),
    };
    command
        .args(["-object", &format!("memory-backend-file,id=ram,size={size},mem-path={},share=on", memory.display())]);
    command.args(["-serial", "stdio", "-monitor", &format!("unix:{},server,nowait", folder.join("monitor").display())]);
    let protected = if computer.spoiled == Some(Spoiled::WriteProtected) { "on" } else { "off" };
    let image = format!("if=none,id=image,format=raw,cache=writethrough,readonly={protected},file={}", drive.display());
    match computer.medium {
        Medium::Usb => {
            let stick = "usb-storage,id=stick,drive=image,bus=usb.0,removable=on,bootindex=0";
            command.args(["-drive", &image, "-device", "qemu-xhci,id=usb", "-device", stick]);
        }
        Medium::Disk => {
            command.args(["-drive", &image, "-device", "ide-hd,drive=image,bus=ide.0,bootindex=0"]);
        }
        Medium::Disc => {
            command.args(["-cdrom", &drive.with_extension("iso").display().to_string(), "-boot", "d"]);
            command.args(["-device", "qemu-xhci,id=usb"]);
        }
        Medium::Network => {}
    }
    match computer.start {
        Start::Bios => {}
        Start::Uefi => firmware(&mut command, folder, "OVMF_CODE_4M.fd", "OVMF_VARS_4M.fd")?,
        Start::SecureBoot => {
            command.args(["-global", "driver=cfi.pflash01,property=secure,value=on"]);
            firmware(&mut command, folder, "OVMF_CODE_4M.secboot.fd", "OVMF_VARS_4M.ms.fd")?;
        }
    }
    for (at, structure) in computer.structures.iter().enumerate() {
        let path = folder.join(format!("structure-{at}"));
        std::fs::write(&path, structure)?;
        command.args(["-smbios", &format!("file={}", path.display())]);
    }
    Ok(command)
}

/// What the emulator asks for the time instead of the system.
fn hasty_clock(folder: &Path) -> Result<PathBuf> {
    let (source, built) = (concat!(env!("CARGO_MANIFEST_DIR"), "/hasty-clock.c"), folder.join("hasty-clock.so"));
    let arguments = ["-shared", "-fPIC", "-O2", "-Wall", "-Wextra", "-Werror", source, "-ldl", "-o"];
    let status = Command::new("cc").args(arguments).arg(&built).status().context("there is no compiler of C: cc")?;
    if !status.success() {
        bail!("{source} cannot be compiled");
    }
    Ok(built)
}

fn network(command: &mut Command, computer: &FromDrive, folder: &Path) {
    let Some(network) = computer.network else {
        command.args(["-net", "none"]);
        return;
    };
    let mut user = "user,id=net".to_owned();
    if computer.medium == Medium::Network {
        let first = if computer.start == Start::Bios { "revisum.pxe" } else { "shimx64.efi" };
        user.push_str(&format!(",tftp={},bootfile={first}", folder.join("network").display()));
    }
    let card = match network {
        Network::Usual => "e1000",
        Network::Virtual => "virtio-net-pci",
    };
    let boot = if computer.medium == Medium::Network { ",bootindex=0" } else { "" };
    command.args(["-netdev", &user, "-device", &format!("{card},netdev=net{boot}")]);
}

/// The firmware and a copy of its variables, which it writes to.
fn firmware(command: &mut Command, folder: &Path, code: &str, variables: &str) -> Result<()> {
    let own = folder.join("variables.fd");
    if !own.exists() {
        std::fs::copy(Path::new(OVMF).join(variables), &own).context("the package ovmf has the firmware")?;
    }
    command.args(["-drive", &format!("if=pflash,format=raw,unit=0,readonly=on,file={OVMF}/{code}")]);
    command.args(["-drive", &format!("if=pflash,format=raw,unit=1,file={}", own.display())]);
    Ok(())
}
