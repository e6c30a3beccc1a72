//! What is booted, on a real computer or as a guest: Debian's kernel with some of its modules, our program; a guest for tests also has a shell.

use std::path::{Path, PathBuf};
use std::process::Command;
use std::sync::OnceLock;

use anyhow::{Context, Result, bail};

use crate::program::Program;

/// The package whose dependency names the present kernel.
const KERNEL: &str = "linux-image-amd64";

/// Files to boot from.
#[derive(Clone, Debug)]
pub struct Parts {
    /// The kernel.
    pub kernel: PathBuf,
    /// Its modules, unpacked.
    modules: PathBuf,
    /// The program.
    pub program: Program,
    /// A shell with the usual small tools.
    pub busybox: PathBuf,
}

/// A module of the kernel with its parameters.
#[derive(Clone, Copy, Debug)]
pub struct KernelModule {
    /// Path below the kernel's module folder, such as `drivers/i2c/i2c-dev.ko`.
    pub path: &'static str,
    /// Parameters, as insmod takes them.
    pub parameters: &'static str,
}

impl Parts {
    /// Gets everything, once: the kernel is fetched and unpacked, the program is built.
    ///
    /// # Errors
    /// When a package cannot be fetched or the program cannot be built.
    pub fn get() -> Result<&'static Self> {
        static PARTS: OnceLock<Result<Parts, String>> = OnceLock::new();
        let parts = PARTS.get_or_init(|| Self::make().map_err(|error| format!("{error:#}")));
        parts.as_ref().map_err(|error| anyhow::anyhow!("{error}"))
    }

    fn make() -> Result<Self> {
        let root = workspace();
        let folder = root.join("target/guest");
        std::fs::create_dir_all(&folder)?;
        let unpacked = folder.join("kernel");
        if one_in(&unpacked.join("boot"), "vmlinuz-").is_none() {
            fetch_kernel(&folder, &unpacked)?;
        }
        let kernel = one_in(&unpacked.join("boot"), "vmlinuz-").context("the package holds no kernel")?;
        let modules = one_in(&unpacked.join("lib/modules"), "").context("the package holds no modules")?.join("kernel");
        Ok(Self { kernel, modules, program: Program::get()?, busybox: PathBuf::from("/bin/busybox") })
    }

    /// The file of a module.
    pub fn module(&self, module: &KernelModule) -> PathBuf {
        self.modules.join(module.path)
    }

    /// The same by its path as lists of modules have it, from the folder of the kernel's version.
    pub(crate) fn module_file(&self, path: &str) -> PathBuf {
        self.modules.parent().unwrap_or(&self.modules).join(path)
    }

    /// The folder in which the kernel's package was unpacked, and the kernel's version.
    pub(crate) fn unpacked(&self) -> (PathBuf, String) {
        let version = self.modules.parent().unwrap_or(&self.modules);
        let name = version.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        (version.ancestors().nth(3).unwrap_or(version).to_owned(), name)
    }
}

pub(crate) fn workspace() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).ancestors().nth(2).unwrap_or(Path::new(".")).to_owned()
}

/// The only entry with this beginning.
fn one_in(folder: &Path, beginning: &str) -> Option<PathBuf> {
    let mut entries = std::fs::read_dir(folder).ok()?.flatten().map(|entry| entry.path());
    entries.find(|path| path.file_name().is_some_and(|name| name.to_string_lossy().starts_with(beginning)))
}

/// The kernel's package: its name changes with each version, and another one names it.
fn fetch_kernel(folder: &Path, unpacked: &Path) -> Result<()> {
    let depends = output(Command::new("apt-cache").args(["depends", KERNEL]))?;
    let name = depends
        .lines()
        .find_map(|line| line.trim().strip_prefix("Depends: ").filter(|name| name.starts_with("linux-image-")))
        .context("apt does not know the kernel's package: run apt-get update")?;
    unpack_as(name, "kernel", folder, unpacked)
}

/// A package is unpacked beside, never installed: the computer that makes the image stays as it is.
///
/// # Errors
/// When it cannot be fetched or unpacked.
pub(crate) fn unpack(package: &str, unpacked: &Path) -> Result<()> {
    let folder = workspace().join("target/guest");
    std::fs::create_dir_all(&folder)?;
    unpack_as(package, package, &folder, unpacked)
}

fn unpack_as(package: &str, called: &str, folder: &Path, unpacked: &Path) -> Result<()> {
    output(Command::new("apt-get").args(["download", "-qq", package]).current_dir(folder))?;
    let file = one_in(folder, &format!("{package}_")).with_context(|| format!("{package} was not fetched"))?;
    // Name and version, for those who want to build the same again.
    let name = file.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    std::fs::write(folder.join(format!("{called}-package")), name)?;
    output(Command::new("dpkg").arg("-x").arg(&file).arg(unpacked))?;
    Ok(std::fs::remove_file(file)?)
}

pub(crate) fn output(command: &mut Command) -> Result<String> {
    let name = command.get_program().to_string_lossy().into_owned();
    let output = command.output().with_context(|| format!("{name} cannot be started"))?;
    if !output.status.success() {
        bail!("{name} failed: {}", String::from_utf8_lossy(&output.stderr));
    }
    Ok(String::from_utf8_lossy(&output.stdout).into_owned())
}
