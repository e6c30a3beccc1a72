//! Our program as it is booted: built as it ships, or the one that a test has built already, with the libraries that it needs.

use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::{Context, Result, ensure};

use crate::parts::{output, workspace};

const TARGET: &str = "x86_64-unknown-linux-gnu";
/// Names a program that is built already, to be booted in place of the one that ships.
pub const BUILT_ALREADY: &str = "REVISUM_PROGRAM";

/// The program and what has to lie beside it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Program {
    /// The program.
    pub file: PathBuf,
    /// Shared libraries and the loader, which are found under the same paths when it is booted; none when it is static.
    pub libraries: Vec<PathBuf>,
}

impl Program {
    /// The program that [`BUILT_ALREADY`] names, else the one that ships, which is built.
    ///
    /// # Errors
    /// When it cannot be built, or its libraries cannot be told.
    pub fn get() -> Result<Self> {
        match std::env::var_os(BUILT_ALREADY) {
            Some(file) => Self::of_file(Path::new(&file)),
            // A machine that was booted keeps no ledger for others.
            None => Ok(Self { file: build_static(&["--no-default-features"])?, libraries: Vec::new() }),
        }
    }

    /// The program for a system that is installed, with all that it can do.
    ///
    /// # Errors
    /// When it cannot be built.
    pub fn for_download() -> Result<PathBuf> {
        build_static(&[])
    }

    fn of_file(file: &Path) -> Result<Self> {
        let told =
            Command::new("ldd").arg(file).output().context("ldd cannot be started: it comes with the C library")?;
        // Of a static program it says so, and fails.
        let libraries =
            if told.status.success() { libraries(&String::from_utf8_lossy(&told.stdout)) } else { Vec::new() };
        Ok(Self { file: file.to_owned(), libraries })
    }

    /// The same without names that only a debugger reads.
    ///
    /// # Errors
    /// When `strip` is missing or fails.
    pub(crate) fn stripped(&self, folder: &Path) -> Result<Self> {
        let file = folder.join("revisum");
        output(Command::new("strip").arg("--strip-all").arg("-o").arg(&file).arg(&self.file))
            .context("the package binutils has strip")?;
        Ok(Self { file, libraries: self.libraries.clone() })
    }
}

/// The files that the loader's own list names.
fn libraries(list: &str) -> Vec<PathBuf> {
    let file = |line: &str| {
        let found = line.split_once("=>").map_or(line, |(_, file)| file);
        let path = found.split_whitespace().next()?;
        path.starts_with('/').then(|| PathBuf::from(path))
    };
    list.lines().filter_map(file).collect()
}

/// Builds our program as it ships: for size, because it lies in the memory that it is to test, and statically linked, so that it runs
/// without anything next to it. Cargo says on the terminal how far it is: this takes minutes.
///
/// # Errors
/// When it cannot be built.
fn build_static(features: &[&str]) -> Result<PathBuf> {
    let root = workspace();
    let folder = root.join("target/static");
    let cargo = std::env::var("CARGO").unwrap_or_else(|_| "cargo".to_owned());
    let mut build = Command::new(cargo);
    build
        .args(["build", "--profile", "image", "--package", "revisum", "--target", TARGET, "--target-dir"])
        .arg(&folder)
        .args(features);
    build.env("RUSTFLAGS", flags(&root)).current_dir(&root);
    let status = build.status().context("cargo cannot be started")?;
    ensure!(status.success(), "the program cannot be built");
    Ok(folder.join(TARGET).join("image/revisum"))
}

/// At a fixed place: nothing of it has to be changed when it is started, and what is not changed is held once for all processes. Where it was built
/// does not stand in it: the same sources give the same bytes everywhere.
fn flags(root: &Path) -> String {
    let home = std::env::var("CARGO_HOME").or_else(|_| std::env::var("HOME").map(|home| format!("{home}/.cargo")));
    let home = home.map(|home| format!(" --remap-path-prefix={home}=cargo")).unwrap_or_default();
    let root = root.display();
    format!("-C target-feature=+crt-static -C relocation-model=static --remap-path-prefix={root}=revisum{home}")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_loaders_list_is_read() {
        let list = "\tlinux-vdso.so.1 (0x00007ffd)\n\tlibgcc_s.so.1 => /lib/x86_64-linux-gnu/libgcc_s.so.1 (0x00007f)\n\
                    \tlibc.so.6 => /lib/x86_64-linux-gnu/libc.so.6 (0x00007f)\n\t/lib64/ld-linux-x86-64.so.2 (0x00007f)\n";
        let expected =
            ["/lib/x86_64-linux-gnu/libgcc_s.so.1", "/lib/x86_64-linux-gnu/libc.so.6", "/lib64/ld-linux-x86-64.so.2"];
        assert_eq!(libraries(list), expected.map(PathBuf::from));
        assert!(libraries("\tstatically linked\n").is_empty());
    }
}
