//! Keeping the operating system out of bad ranges until the module is replaced.

use std::collections::BTreeSet;

use serde::Serialize;

use super::Location;
use crate::signature::Shape;
use revisum_engine::units::{ByteRange, RangeSet};
use revisum_record::run_state::RunState;

/// Pages that systems manage memory in.
const PAGE: u64 = 4096;
/// More ranges do not fit into a kernel's command line.
const MOST_RANGES: usize = 64;
/// More memory than this share is not worth keeping a module for.
const MOST_BYTES: u64 = 256 << 20;

/// Text for the common systems.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Stopgap {
    /// Bad ranges, padded to pages.
    pub ranges: RangeSet,
    /// Memory that is lost to the system, in bytes.
    pub costs: u64,
    /// Parameters for the Linux kernel.
    pub kernel_parameters: String,
    /// The line for the GRUB boot loader's own settings file.
    pub boot_loader: String,
    /// Commands for Windows, run as administrator.
    pub windows: Vec<String>,
    /// The addresses are a virtual machine's own.
    pub guest: bool,
}

/// Why ranges cannot help.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Refusal {
    /// Nothing failed.
    Nothing,
    /// The addresses are unknown.
    NoAddresses,
    /// A fault of this shape will fail elsewhere as well.
    Shape(Shape),
    /// Too many or too large.
    TooMuch {
        /// Bytes that would be lost.
        bytes: u64,
        /// Ranges.
        ranges: usize,
    },
}

/// The stopgap for a run's errors.
///
/// # Errors
/// With the reason why there is none.
pub fn stopgap(state: &RunState, location: &Location) -> Result<Stopgap, Refusal> {
    if state.errors.is_empty() {
        return Err(Refusal::Nothing);
    }
    if !state.held.addresses_known {
        return Err(Refusal::NoAddresses);
    }
    if let Some(shape) = location.shape().filter(|shape| !is_local(*shape)) {
        return Err(Refusal::Shape(shape));
    }
    let places = state.errors.places.places();
    let ranges: RangeSet = places
        .map(|(start, bytes, _)| ByteRange::new(start / PAGE * PAGE, (start + bytes).next_multiple_of(PAGE)))
        .collect();
    let costs = ranges.bytes();
    if ranges.ranges().len() > MOST_RANGES || costs > MOST_BYTES {
        return Err(Refusal::TooMuch { bytes: costs, ranges: ranges.ranges().len() });
    }
    Ok(written(ranges, state.begin.guest))
}

/// Shapes that stay where they are.
fn is_local(shape: Shape) -> bool {
    matches!(shape, Shape::Cell | Shape::Row | Shape::Column | Shape::Bank | Shape::DecoderDoubles)
}

fn written(ranges: RangeSet, guest: bool) -> Stopgap {
    let each = ranges.ranges();
    let kernel = each.iter().map(|range| format!("memmap={}K${:#x}", range.len() / 1024, range.start));
    let masks = each.iter().flat_map(|range| aligned(*range)).map(|(start, mask)| format!("{start:#x},{mask:#x}"));
    let pages: BTreeSet<u64> =
        each.iter().flat_map(|range| (range.start / PAGE..range.end / PAGE).collect::<Vec<_>>()).collect();
    let listed: Vec<String> = pages.iter().map(|page| format!("{page:#x}")).collect();
    Stopgap {
        costs: ranges.bytes(),
        kernel_parameters: kernel.collect::<Vec<_>>().join(" "),
        boot_loader: format!("GRUB_BADRAM=\"{}\"", masks.collect::<Vec<_>>().join(",")),
        windows: vec![
            format!("bcdedit /set {{badmemory}} badmemorylist {}", listed.join(" ")),
            "bcdedit /set {badmemory} badmemoryaccess no".to_owned(),
        ],
        guest,
        ranges,
    }
}

/// Aligned powers of two that make up a range, each with the mask that the boot loader wants.
fn aligned(range: ByteRange) -> Vec<(u64, u64)> {
    let (mut at, mut pieces) = (range.start, Vec::new());
    while at < range.end {
        let mut size = if at == 0 { 1 << 62 } else { 1u64 << at.trailing_zeros() };
        while at + size > range.end {
            size >>= 1;
        }
        pieces.push((at, !(size - 1)));
        at += size;
    }
    pieces
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_forms_that_systems_take() {
        let ranges = RangeSet::from(vec![ByteRange::new(0x1_2345_6000, 0x1_2345_7000), ByteRange::new(0x5000, 0x8000)]);
        let stopgap = written(ranges, false);
        assert_eq!(stopgap.costs, 4 * PAGE);
        assert_eq!(stopgap.kernel_parameters, "memmap=12K$0x5000 memmap=4K$0x123456000");
        assert_eq!(
            stopgap.boot_loader,
            "GRUB_BADRAM=\"0x5000,0xfffffffffffff000,0x6000,0xffffffffffffe000,0x123456000,0xfffffffffffff000\""
        );
        assert_eq!(stopgap.windows[0], "bcdedit /set {badmemory} badmemorylist 0x5 0x6 0x7 0x123456");
    }

    #[test]
    fn masks_cover_exactly_the_range() {
        let range = ByteRange::new(0x3000, 0x20_9000);
        let covered: RangeSet =
            aligned(range).into_iter().map(|(start, mask)| ByteRange::new(start, start + !mask + 1)).collect();
        assert_eq!(covered.ranges(), [range]);
    }
}
