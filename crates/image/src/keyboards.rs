//! Keyboard layouts, from Debian's tables of keys in the form that the kernel takes.

use std::collections::BTreeMap;
use std::path::Path;
use std::process::Command;

use anyhow::{Context, Result, ensure};

use crate::parts::{unpack, workspace};

/// The package with the tables, and the one with the program that translates them.
pub(crate) const PACKAGES: [&str; 2] = ["console-data", "kbd"];
const TABLES: &str = "usr/share/keymaps/i386";

/// Layouts by the name that a drive's settings use: the country, with the language after it where it has several.
const LAYOUTS: [(&str, &str); 18] = [
    ("be", "azerty/be-latin1"),
    ("ch", "qwertz/sg-latin1"),
    ("ch-fr", "qwertz/fr_CH-latin1"),
    ("cz", "qwertz/cz-us-qwertz"),
    ("de", "qwertz/de-latin1-nodeadkeys"),
    ("dk", "qwerty/dk-latin1"),
    ("es", "qwerty/es"),
    ("fi", "qwerty/fi-latin1"),
    ("fr", "azerty/fr-latin1"),
    ("hu", "qwertz/hu"),
    ("it", "qwerty/it"),
    ("nl", "qwerty/nl"),
    ("no", "qwerty/no-latin1"),
    ("pl", "qwerty/pl"),
    ("pt", "qwerty/pt-latin1"),
    ("se", "qwerty/se-latin1"),
    ("uk", "qwerty/uk"),
    ("us", "qwerty/us"),
];

/// All layouts, in the form that the program gives to the console.
///
/// # Errors
/// When a package cannot be fetched, or a layout cannot be translated.
pub(crate) fn layouts() -> Result<BTreeMap<&'static str, Vec<u8>>> {
    let folder = workspace().join("target/guest/keyboards");
    for package in PACKAGES {
        if !folder.join("usr/share/doc").join(package).exists() {
            unpack(package, &folder)?;
        }
    }
    LAYOUTS.into_iter().map(|(name, table)| Ok((name, translated(&folder, table)?))).collect()
}

fn translated(folder: &Path, table: &str) -> Result<Vec<u8>> {
    let file = folder.join(TABLES).join(format!("{table}.kmap.gz"));
    let mut command = Command::new(folder.join("bin/loadkeys"));
    let told = command.args(["--bkeymap", "--unicode"]).arg(&file).output();
    let told = told.with_context(|| format!("loadkeys cannot be started for {}", file.display()))?;
    ensure!(
        told.status.success(),
        "{} cannot be translated: {}",
        file.display(),
        String::from_utf8_lossy(&told.stderr)
    );
    Ok(told.stdout)
}

/// Versions of the packages, for those who want to build the same again.
pub(crate) fn versions() -> Result<String> {
    let folder = workspace().join("target/guest");
    let version = |package: &&str| {
        let name = std::fs::read_to_string(folder.join(format!("{package}-package")));
        name.with_context(|| format!("it is not known which {package} was unpacked: remove target/guest and try again"))
    };
    let names: Vec<String> = PACKAGES.iter().map(version).collect::<Result<_>>()?;
    Ok(names.iter().map(|name| format!("{}\n", name.trim())).collect())
}
