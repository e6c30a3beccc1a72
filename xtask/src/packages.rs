//! Debian packages that tasks need: installed when that is allowed, named when it is not.

use std::path::Path;
use std::process::Command;

use anyhow::{Context, Result, bail};

/// Makes sure that each program is there; `(program or file, package)`.
pub fn install(needed: &[(&str, &str)]) -> Result<()> {
    let missing: Vec<&str> =
        needed.iter().filter(|(program, _)| !is_there(program)).map(|(_, package)| *package).collect();
    if missing.is_empty() {
        return Ok(());
    }
    println!("installing {}", missing.join(" "));
    let apt = |arguments: &[&str]| -> Result<bool> {
        let status = Command::new("apt-get").args(arguments).env("DEBIAN_FRONTEND", "noninteractive").status();
        Ok(status.context("apt-get cannot be started")?.success())
    };
    let mut install = vec!["install", "-y", "-qq", "--no-install-recommends"];
    install.extend(&missing);
    let installed = apt(&["update", "-qq"]).and_then(|_| apt(&install));
    if !installed.as_ref().is_ok_and(|done| *done) {
        bail!(
            "these packages are needed and could not be installed: {0}. Run as root: apt-get install {0}",
            missing.join(" ")
        );
    }
    Ok(())
}

fn is_there(program: &str) -> bool {
    if program.starts_with('/') {
        return Path::new(program).exists();
    }
    let paths = std::env::var_os("PATH").unwrap_or_default();
    std::env::split_paths(&paths).any(|folder| folder.join(program).is_file())
}
