//! What the boot loader's entry says on the kernel's command line.

use std::sync::OnceLock;

/// Longest address in bytes.
const LONGEST_ADDRESS: usize = 100;

/// Which part of memory the kernel lives in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Entry {
    /// Below 256 MiB; all above is tested.
    Low,
    /// Above; what lies below is tested.
    High,
    /// Anywhere: the firmware locks the kernel down, and memory is tested as far as pages can be locked.
    Pool,
}

impl Entry {
    /// Its name in the boot loader's menu.
    pub fn name(self) -> &'static str {
        match self {
            Self::Low => "a",
            Self::High => "b",
            Self::Pool => "pool",
        }
    }

    /// The entry that reaches what this one cannot.
    pub fn other(self) -> Option<Self> {
        match self {
            Self::Low => Some(Self::High),
            Self::High => Some(Self::Low),
            Self::Pool => None,
        }
    }
}

/// All of it that concerns us.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct CommandLine {
    /// The entry.
    pub entry: Entry,
    /// Where the screen is, where that was chosen: `tty1`, or a serial line.
    pub console: Option<String>,
    /// The other entry is booted by itself once this one has done its part.
    pub chained: bool,
    /// The boot loader saw no drive with room for results.
    pub no_drive: bool,
    /// What firmware says of the ranges of slots counts in a virtual machine too: for tests.
    pub trust_ranges: bool,
    /// Tag of the language that was chosen in the boot loader's menu.
    pub language: Option<String>,
    /// Where the shop's counter is, `host:port`, where that was said in the boot loader's menu.
    pub counter: Option<String>,
}

impl CommandLine {
    /// Reads the running kernel's.
    pub fn read() -> Self {
        Self::parse(&std::fs::read_to_string("/proc/cmdline").unwrap_or_default())
    }

    /// The same, where we were booted from the drive.
    pub fn booted() -> Option<Self> {
        static LINE: OnceLock<Option<CommandLine>> = OnceLock::new();
        let read = || {
            let line = std::fs::read_to_string("/proc/cmdline").unwrap_or_default();
            line.contains("revisum.entry=").then(|| Self::parse(&line))
        };
        LINE.get_or_init(read).clone()
    }

    /// Takes `revisum.entry=`, `revisum.console=`, `revisum.language=`, `revisum.counter=`, `revisum.chained`, `revisum.no-drive` and
    /// `revisum.trust-ranges` out of a command line; what is not said is as it mostly is.
    pub fn parse(line: &str) -> Self {
        let value =
            |name: &str| line.split_whitespace().rev().find_map(|word| word.strip_prefix(name)?.strip_prefix('='));
        let entry = match value("revisum.entry") {
            Some("b") => Entry::High,
            Some("pool") => Entry::Pool,
            _ => Entry::Low,
        };
        // Only a name of a device in /dev.
        let plain = |name: &&str| !name.is_empty() && name.chars().all(|c| c.is_ascii_alphanumeric());
        let console = value("revisum.console").filter(plain).map(str::to_owned);
        let language = value("revisum.language").filter(plain).map(str::to_owned);
        let is_of_an_address = |c: char| c.is_ascii_alphanumeric() || ".:-[]".contains(c);
        let address = |name: &&str| (1..=LONGEST_ADDRESS).contains(&name.len()) && name.chars().all(is_of_an_address);
        let counter = value("revisum.counter").filter(address).map(str::to_owned);
        let says = |name: &str| line.split_whitespace().any(|word| word == name);
        Self {
            entry,
            console,
            chained: says("revisum.chained"),
            no_drive: says("revisum.no-drive"),
            trust_ranges: says("revisum.trust-ranges"),
            language,
            counter,
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("quiet mem=256M revisum.entry=a revisum.no-drive", Entry::Low, None, false)]
    #[case("revisum.entry=b revisum.console=ttyS0 revisum.chained", Entry::High, Some("ttyS0"), true)]
    #[case("revisum.entry=pool revisum.console=../../etc revisum.trust-ranges", Entry::Pool, None, false)]
    #[case("revisum.entry=a revisum.language=de", Entry::Low, None, false)]
    #[case("revisum.entry=b revisum.counter=192.0.2.7:7247", Entry::High, None, false)]
    #[case("revisum.entry=b revisum.counter=a;b revisum.counter=", Entry::High, None, false)]
    #[case("", Entry::Low, None, false)]
    fn command_lines(#[case] line: &str, #[case] entry: Entry, #[case] console: Option<&str>, #[case] chained: bool) {
        let console = console.map(str::to_owned);
        let (no_drive, trust_ranges) = (line.contains("no-drive"), line.contains("trust-ranges"));
        let language = line.contains("language=de").then(|| "de".to_owned());
        let counter = line.contains("192.0.2.7:7247").then(|| "192.0.2.7:7247".to_owned());
        let expected = CommandLine { entry, console, chained, no_drive, trust_ranges, language, counter };
        assert_eq!(CommandLine::parse(line), expected);
    }
}
