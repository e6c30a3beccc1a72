//! Where the screen of a booted computer is when nobody says: its display, or the first serial line where it has none.

use std::path::Path;

use crate::text_files::entries;

/// The console on the display.
pub const DISPLAY: &str = "tty1";
/// The first serial line.
pub const SERIAL: &str = "ttyS0";

/// How the class of every display controller begins (PCI Code and ID Assignment Specification, base class 03h).
const DISPLAY_CONTROLLER: &str = "0x03";

/// Where the kernel tells what it found.
struct Told<'a> {
    consoles: &'a Path,
    devices: &'a Path,
    lines: &'a Path,
    /// There only where UEFI started the machine.
    uefi: &'a Path,
}

/// The console that somebody can see.
pub fn console_in_sight() -> &'static str {
    in_sight(&Told {
        consoles: Path::new("/sys/class/vtconsole"),
        devices: Path::new("/sys/bus/pci/devices"),
        lines: Path::new("/proc/tty/driver/serial"),
        uefi: Path::new("/sys/firmware/efi"),
    })
}

fn in_sight(told: &Told) -> &'static str {
    let read = |path: &Path| std::fs::read_to_string(path).unwrap_or_default();
    let consoles = entries(told.consoles);
    let is_adapter = |device: &Path| read(&device.join("class")).starts_with(DISPLAY_CONTROLLER);
    // Without an adapter the loader of a BIOS computer still tells of a screen, at the place of the first graphics cards, and the kernel draws there;
    // UEFI tells of a screen where there is one, also where it sits on no PCI bus.
    let may_be_shown = entries(told.devices).iter().any(|device| is_adapter(device)) || told.uefi.exists();
    // Without any hardware behind it the kernel draws on a dummy.
    let is_drawn =
        |console: &Path| read(&console.join("bind")).trim() == "1" && !read(&console.join("name")).contains("dummy");
    let is_line = |line: &str| line.starts_with("0:") && line.contains("uart:") && !line.contains("uart:unknown");
    let in_sight = may_be_shown && consoles.iter().any(|console| is_drawn(console));
    if !consoles.is_empty() && !in_sight && read(told.lines).lines().any(is_line) { SERIAL } else { DISPLAY }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    const NONE: (&str, &str) = ("(S) dummy device", "1");
    const OTHER: (&str, &str) = ("(S) dummy device", "0");
    const DRAWN: (&str, &str) = ("(M) frame buffer device", "1");
    const TEXT: (&str, &str) = ("(S) VGA+", "1");
    const LINE: &str = "0: uart:16550A port:3F8";

    #[rstest]
    #[case::a_framebuffer(&[OTHER, DRAWN], "0x030000", false, LINE, DISPLAY)]
    #[case::another_adapter(&[OTHER, DRAWN], "0x038000", false, LINE, DISPLAY)]
    #[case::a_screen_of_uefi_on_no_bus(&[OTHER, DRAWN], "0x060000", true, LINE, DISPLAY)]
    #[case::a_screen_that_the_loader_made_up(&[OTHER, DRAWN], "0x060000", false, LINE, SERIAL)]
    #[case::text_mode(&[TEXT], "0x030000", false, LINE, DISPLAY)]
    #[case::memory_in_place_of_a_display(&[TEXT], "0x060000", false, LINE, SERIAL)]
    #[case::no_display(&[NONE], "0x060000", false, LINE, SERIAL)]
    #[case::no_display_on_uefi(&[NONE], "0x060000", true, LINE, SERIAL)]
    #[case::neither(&[NONE], "0x060000", false, "0: uart:unknown port:3F8", DISPLAY)]
    #[case::a_display_that_is_not_used(&[("(S) VGA+", "0"), NONE], "0x030000", false, LINE, SERIAL)]
    #[case::nothing_known(&[], "0x060000", false, LINE, DISPLAY)]
    fn the_serial_line_is_for_those_without_a_display(
        #[case] consoles: &[(&str, &str)],
        #[case] class: &str,
        #[case] started_by_uefi: bool,
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
        let device = folder.path().join("devices/0000:00:02.0");
        std::fs::create_dir_all(&device).unwrap();
        std::fs::write(device.join("class"), format!("{class}\n")).unwrap();
        let lines = folder.path().join("serial");
        std::fs::write(&lines, format!("serinfo:1.0 driver revision:\n{line}\n1: uart:unknown\n")).unwrap();
        let uefi = folder.path().join("efi");
        if started_by_uefi {
            std::fs::create_dir(&uefi).unwrap();
        }
        let (consoles, devices) = (folder.path().join("consoles"), folder.path().join("devices"));
        assert_eq!(in_sight(&Told { consoles: &consoles, devices: &devices, lines: &lines, uefi: &uefi }), expected);
    }
}
