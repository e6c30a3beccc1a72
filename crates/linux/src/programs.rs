//! Programs of the system: called by where they lie, never by where a search path leads, with nothing of this program's own environment.

use std::path::{Path, PathBuf};
use std::process::Command;

/// Where systems keep them.
const FOLDERS: [&str; 5] = ["/usr/bin", "/bin", "/usr/sbin", "/sbin", "/run/current-system/sw/bin"];

/// A command of the system; nothing where it does not have that one.
pub(crate) fn program(name: &str) -> Option<Command> {
    let path = FOLDERS.iter().map(|folder| Path::new(folder).join(name)).find(|path| path.is_file())?;
    Some(clean(path))
}

fn clean(path: PathBuf) -> Command {
    let mut command = Command::new(path);
    command.env_clear().env("PATH", FOLDERS.join(":")).env("LANG", "C.UTF-8");
    command
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_programs_of_the_system_are_called_and_they_inherit_nothing() {
        assert!(program("no-such-command-anywhere").is_none());
        let said = program("env").unwrap().output().unwrap();
        let said = String::from_utf8(said.stdout).unwrap();
        assert!(said.lines().all(|line| line.starts_with("PATH=/usr/bin:") || line == "LANG=C.UTF-8"), "{said}");
    }
}
