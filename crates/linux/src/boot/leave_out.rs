//! Pages that the hardware reported bad in a way that ended the test: the next one leaves them out.

use std::fs::OpenOptions;
use std::io::{self, Write};
use std::path::Path;

use revisum_engine::units::{ByteRange, RangeSet};

use crate::sys::pagemap::PAGE;

/// Survives the tester, not the machine.
const LIST: &str = "/run/revisum-leave-out";
/// Longest list that is read.
const MOST: usize = 10_000;

/// Leaves out the page of this physical address from now on.
///
/// # Errors
/// When that cannot be noted.
pub fn leave_out(address: u64) -> io::Result<()> {
    let mut list = OpenOptions::new().create(true).append(true).open(LIST)?;
    writeln!(list, "{address:x}")
}

/// All pages that are left out.
pub fn left_out() -> RangeSet {
    read(Path::new(LIST))
}

fn read(list: &Path) -> RangeSet {
    let text = std::fs::read_to_string(list).unwrap_or_default();
    let address = |line: &str| u64::from_str_radix(line.trim(), 16).ok();
    let page = |address: u64| {
        let start = address / PAGE * PAGE;
        ByteRange::new(start, start.saturating_add(PAGE))
    };
    text.lines().take(MOST).filter_map(address).map(page).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn whole_pages_are_left_out() {
        let folder = tempfile::tempdir().unwrap();
        let list = folder.path().join("list");
        assert_eq!(read(&list), RangeSet::default());
        std::fs::write(&list, "1234567\nrubbish\n1234fff\n").unwrap();
        assert_eq!(read(&list).ranges(), [ByteRange::new(0x123_4000, 0x123_5000)]);
    }
}
