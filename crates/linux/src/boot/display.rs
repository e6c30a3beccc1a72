//! Where the screen of a booted computer is when nobody says: its display, or the first serial line where it has none.

use std::path::Path;

use crate::text_files::entries;

/// The console on the display.
pub const DISPLAY: &str = "tty1";
/// The first serial line.
pub const SERIAL: &str = "ttyS0";

/// The console that somebody can see.
pub fn console_in_sight() -> &'static str {
    in_sight(Path::new("/sys/class/vtconsole"), Path::new("/proc/tty/driver/serial"))
}

fn in_sight(consoles: &Path, lines: &Path) -> &'static str {
    let read = |path: &Path| std::fs::read_to_string(path).unwrap_or_default();
    let consoles = entries(consoles);
    // Without any hardware behind it the kernel draws on a dummy.
    let is_shown =
        |console: &Path| read(&console.join("bind")).trim() == "1" && !read(&console.join("name")).contains("dummy");
    let is_line = |line: &str| line.starts_with("0:") && line.contains("uart:") && !line.contains("uart:unknown");
    let blind = !consoles.is_empty() && !consoles.iter().any(|console| is_shown(console));
    if blind && read(lines).lines().any(is_line) { SERIAL } else { DISPLAY }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::a_framebuffer(&[("(S) dummy device", "0"), ("(M) frame buffer device", "1")], "0: uart:16550A port:3F8", DISPLAY)]
    #[case::text_mode(&[("(S) VGA+", "1")], "0: uart:16550A port:3F8", DISPLAY)]
    #[case::no_display(&[("(S) dummy device", "1")], "0: uart:16550A port:3F8", SERIAL)]
    #[case::neither(&[("(S) dummy device", "1")], "0: uart:unknown port:3F8", DISPLAY)]
    #[case::a_display_that_is_not_used(&[("(S) VGA+", "0"), ("(S) dummy device", "1")], "0: uart:16550A", SERIAL)]
    #[case::nothing_known(&[], "0: uart:16550A", DISPLAY)]
    fn the_serial_line_is_for_those_without_a_display(
        #[case] consoles: &[(&str, &str)],
        #[case] line: &str,
        #[case] expected: &str,
    ) {
        let folder = tempfile::tempdir().unwrap();
        for (number, (name, bind)) in consoles.iter().enumerate() {
            let console = folder.path().join(format!("consoles/vtcon{number}"));
            std::fs::create_dir_all(&console).unwrap();
            std::fs::write(console.join("name"), name).unwrap();
            std::fs::write(console.join("bind"), format!("{bind}\n")).unwrap();
        }
        let lines = folder.path().join("serial");
        std::fs::write(&lines, format!("serinfo:1.0 driver revision:\n{line}\n1: uart:unknown\n")).unwrap();
        assert_eq!(in_sight(&folder.path().join("consoles"), &lines), expected);
    }
}
