//! A virtual computer: what it has, and what it says when it runs.

use std::collections::BTreeMap;
use std::io::Read;
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{self, RecvTimeoutError};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, bail};
use revisum_image::{KernelModule, Parts};

use crate::initramfs;

/// Longest time that a boot may take: software emulation on a busy machine is slow.
const PATIENCE: Duration = Duration::from_secs(300);
/// Only a panic is said on the serial line, where it does not garble answers. The kernel looks early whether interrupts of the timer arrive in
/// time; an emulator that shares its cores does not keep that time, and the guest would panic before it ran anything.
const KERNEL_COMMAND_LINE: &str = "console=ttyS0 console=tty0 quiet loglevel=1 panic=-1 no_timer_check";
/// UEFI firmware for virtual computers.
const OVMF: &str = "/usr/share/ovmf/OVMF.fd";

/// How it starts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Firmware {
    /// Traditional firmware.
    Bios,
    /// UEFI.
    Uefi,
}

/// A computer to be started.
#[derive(Clone, Debug)]
pub struct Computer {
    /// How it starts.
    pub firmware: Firmware,
    /// Memory in MiB.
    pub memory_mib: u32,
    /// Firmware tables, one structure each.
    pub structures: Vec<Vec<u8>>,
    /// Modules of the kernel, in the order in which they are loaded.
    pub modules: Vec<KernelModule>,
    /// Files under `/files`.
    pub files: Vec<(String, Vec<u8>)>,
    /// Shell commands; `say NAME COMMAND` keeps what the command says.
    pub script: String,
}

/// What it said: by name, the answer and the exit code.
pub type Said = BTreeMap<String, (String, i32)>;

impl Computer {
    /// A computer of this kind with 1 GiB and nothing else.
    pub fn new(firmware: Firmware) -> Self {
        Self {
            firmware,
            memory_mib: 1024,
            structures: Vec::new(),
            modules: Vec::new(),
            files: Vec::new(),
            script: String::new(),
        }
    }

    /// Starts it and waits until it is over.
    ///
    /// # Errors
    /// When it cannot be started, or does not come to its end; with what it said until then.
    pub fn run(&self) -> Result<Said> {
        let parts = Parts::get()?;
        let folder = tempfile::tempdir()?;
        let folder = folder.path();
        let archive = folder.join("initramfs");
        std::fs::write(&archive, initramfs::archive(parts, &self.modules, &self.files, &self.script)?)?;
        let mut command = Command::new("qemu-system-x86_64");
        command.args([
            "-machine",
            "pc",
            "-display",
            "none",
            "-no-reboot",
            "-net",
            "none",
            "-serial",
            "stdio",
            "-monitor",
        ]);
        command.args(["none", "-m", &format!("{}M", self.memory_mib), "-smp", "2", "-append"]);
        command.arg(KERNEL_COMMAND_LINE).arg("-kernel").arg(&parts.kernel).arg("-initrd").arg(&archive);
        if self.firmware == Firmware::Uefi {
            command.args(["-bios", OVMF]);
        }
        for (at, structure) in self.structures.iter().enumerate() {
            let path = folder.join(format!("structure-{at}"));
            std::fs::write(&path, structure)?;
            command.args(["-smbios", &format!("file={}", path.display())]);
        }
        let child = command.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::inherit()).spawn();
        let child = child.context("qemu-system-x86_64 cannot be started: `cargo xtask guests` installs it")?;
        sections(&listen(child)?)
    }
}

/// Everything on the serial line until the end mark.
fn listen(mut child: Child) -> Result<String> {
    let mut line = child.stdout.take().context("the serial line is not connected")?;
    let (sender, receiver) = mpsc::channel();
    std::thread::spawn(move || {
        let mut buffer = [0; 4096];
        while let Ok(count @ 1..) = line.read(&mut buffer) {
            if sender.send(buffer[..count].to_vec()).is_err() {
                return;
            }
        }
    });
    let begin = Instant::now();
    let mut heard = Vec::new();
    while !contains(&heard, b"==over==") {
        match receiver.recv_timeout(PATIENCE.saturating_sub(begin.elapsed())) {
            Ok(bytes) => heard.extend(bytes),
            Err(RecvTimeoutError::Disconnected) => {
                let status = child.wait()?;
                bail!("the guest ended too early ({status}); it said:\n{}", String::from_utf8_lossy(&heard));
            }
            Err(RecvTimeoutError::Timeout) => {
                let _ = child.kill();
                let _ = child.wait();
                bail!("the guest did not come to its end; it said:\n{}", String::from_utf8_lossy(&heard));
            }
        }
    }
    let _ = child.kill();
    let _ = child.wait();
    Ok(String::from_utf8_lossy(&heard).replace('\r', ""))
}

fn contains(heard: &[u8], mark: &[u8]) -> bool {
    heard.windows(mark.len()).any(|window| window == mark)
}

/// Cuts what was heard at its marks.
fn sections(heard: &str) -> Result<Said> {
    if !heard.contains("==over==") {
        bail!("the guest ended too early; it said:\n{heard}");
    }
    let mut said = Said::new();
    for piece in heard.split("==begin ").skip(1) {
        let (name, rest) = piece.split_once("==\n").with_context(|| format!("a garbled mark in:\n{piece}"))?;
        let mark = format!("==end {name} ");
        let (text, rest) = rest.split_once(&mark).with_context(|| format!("no end of {name:?} in:\n{heard}"))?;
        let code = rest.split("==").next().and_then(|code| code.parse().ok()).unwrap_or(-1);
        said.insert(name.to_owned(), (text.to_owned(), code));
    }
    Ok(said)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_said_is_cut_at_its_marks() {
        let said =
            sections("noise\n==begin one==\na\nb\n==end one 0==\n==begin two==\n==end two 3==\n==over==\n").unwrap();
        assert_eq!(said["one"], ("a\nb\n".to_owned(), 0));
        assert_eq!(said["two"], (String::new(), 3));
        assert!(sections("kernel panic").is_err());
        assert!(sections("==begin one==\na\n==over==").is_err());
    }
}
