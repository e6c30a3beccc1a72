//! What of the memory can be tested, and what of it not and why: in bytes, in percent, and as ranges where they are known.

use serde::Serialize;

use super::Inventory;
use revisum_engine::memory::{KeptBy, MemoryOffer};
use revisum_engine::units::RangeSet;

/// The account of all memory.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct Coverage {
    /// Memory fitted, by the modules; nothing where no table tells.
    pub fitted_bytes: Option<u64>,
    /// What shares are taken of: fitted, else usable memory, else what the system sees.
    pub whole_bytes: u64,
    /// What the whole is.
    pub whole: Whole,
    /// Parts that add up to the whole, the one that can be tested first.
    pub parts: Vec<Part>,
}

/// What shares of memory are taken of.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Whole {
    /// What is installed.
    Installed,
    /// What the firmware gives to the operating system.
    Given,
    /// What the system sees.
    #[default]
    Seen,
}

/// What became of a part of memory.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum PartKind {
    /// It can be tested now.
    #[default]
    Testable,
    /// Somebody holds it.
    Kept(KeptBy),
    /// Firmware and devices have it.
    Firmware,
    /// Nothing accounts for it.
    Unaccounted,
}

/// One part.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct Part {
    /// Whether it can be tested now.
    pub testable: bool,
    /// What it is, or who holds it.
    pub what: PartKind,
    /// What the system said of it; else empty.
    pub detail: String,
    /// Its size in bytes.
    pub bytes: u64,
    /// Its share of the whole, in percent.
    pub percent: f64,
    /// Physical ranges; empty where only the size is known.
    pub ranges: RangeSet,
}

/// Adds it up.
pub fn coverage(inventory: &Inventory, offer: &MemoryOffer, seen_bytes: u64, guest: bool) -> Coverage {
    let usable = inventory.usable.bytes();
    let fitted_bytes = inventory.board.fitted_bytes();
    // A guest's tables are its host's invention: its memory is what it was given.
    let fitted = fitted_bytes.filter(|fitted| !guest && *fitted >= usable);
    let (whole, whole_bytes) = match (fitted, usable) {
        (Some(fitted), _) => (Whole::Installed, fitted),
        (None, 0) => (Whole::Seen, seen_bytes),
        (None, usable) => (Whole::Given, usable),
    };
    let percent = |bytes: u64| if whole_bytes == 0 { 0.0 } else { 100.0 * bytes as f64 / whole_bytes as f64 };
    let mut parts = vec![Part {
        testable: true,
        what: PartKind::Testable,
        detail: String::new(),
        bytes: offer.reachable_bytes,
        percent: percent(offer.reachable_bytes),
        ranges: offer.reachable.clone(),
    }];
    let held = |what: PartKind, bytes: u64, ranges: &RangeSet| Part {
        testable: false,
        what,
        detail: String::new(),
        bytes,
        percent: percent(bytes),
        ranges: ranges.clone(),
    };
    parts.extend(
        offer.kept.iter().map(|kept| Part {
            detail: kept.detail.clone(),
            ..held(PartKind::Kept(kept.by), kept.bytes, &kept.ranges)
        }),
    );
    if let Some(reserved) = fitted.filter(|_| usable > 0).map(|fitted| fitted - usable) {
        parts.push(held(PartKind::Firmware, reserved, &RangeSet::default()));
    }
    let told: u64 = parts.iter().map(|part| part.bytes).sum();
    parts.push(held(PartKind::Unaccounted, whole_bytes.saturating_sub(told), &RangeSet::default()));
    parts.retain(|part| part.testable || part.bytes > 0);
    Coverage { fitted_bytes, whole_bytes, whole, parts }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use revisum_engine::memory::Kept;
    use revisum_engine::units::{ByteRange, GIB, MIB};
    use revisum_record::fitted::{Board, Module, Slot};

    fn inventory(fitted: u64, usable: u64) -> Inventory {
        let slot = |bytes| Slot { module: Some(Module { bytes, ..Module::default() }), ..Slot::default() };
        Inventory {
            board: Board { slots: if fitted > 0 { vec![slot(fitted)] } else { Vec::new() }, ..Board::default() },
            usable: if usable > 0 { RangeSet::from(vec![ByteRange::new(0, usable)]) } else { RangeSet::default() },
            ..Inventory::default()
        }
    }

    fn offer(reachable_bytes: u64, kept: u64) -> MemoryOffer {
        let kept = vec![Kept { bytes: kept, ..Kept::default() }];
        MemoryOffer { reachable_bytes, kept, ..MemoryOffer::default() }
    }

    #[rstest]
    #[case::all_told(inventory(8 * GIB, 7 * GIB), offer(6 * GIB, GIB), false, Whole::Installed, &[PartKind::Testable, PartKind::Kept(KeptBy::System), PartKind::Firmware])]
    #[case::a_rest(inventory(8 * GIB, 8 * GIB), offer(6 * GIB, GIB), false, Whole::Installed, &[PartKind::Testable, PartKind::Kept(KeptBy::System), PartKind::Unaccounted])]
    #[case::no_tables(inventory(0, 7 * GIB), offer(6 * GIB, GIB), false, Whole::Given, &[PartKind::Testable, PartKind::Kept(KeptBy::System)])]
    #[case::guest(inventory(16 * GIB, 7 * GIB), offer(6 * GIB, GIB), true, Whole::Given, &[PartKind::Testable, PartKind::Kept(KeptBy::System)])]
    #[case::nothing_told(inventory(0, 0), offer(MIB, 7 * GIB - MIB), false, Whole::Seen, &[PartKind::Testable, PartKind::Kept(KeptBy::System)])]
    fn accounts(
        #[case] inventory: Inventory,
        #[case] offer: MemoryOffer,
        #[case] guest: bool,
        #[case] whole: Whole,
        #[case] parts: &[PartKind],
    ) {
        let coverage = coverage(&inventory, &offer, 7 * GIB, guest);
        assert_eq!(coverage.whole, whole);
        assert_eq!(coverage.parts.iter().map(|part| part.what).collect::<Vec<_>>(), parts);
        let percent: f64 = coverage.parts.iter().map(|part| part.percent).sum();
        assert!((percent - 100.0).abs() < 1e-9, "{percent}");
    }
}
