//! Memory that the booted kernel was told to leave alone, mapped by its physical address in windows. Each mapping costs the kernel tables for
//! its pages (one part in 512), and a kernel that was given little memory has little for them: only a few windows are open at a time.

use std::fs::{File, OpenOptions};
use std::io;
use std::os::unix::fs::OpenOptionsExt;
use std::sync::{Arc, Mutex, PoisonError};

use revisum_engine::units::{ByteRange, KIB, MIB, RangeSet};

use crate::boot::left_out;
use crate::firmware::memory_map;
use crate::sys::mapping::Mapping;
use crate::sys::pagemap::PAGE;

/// The device that gives physical memory.
const DEVICE: &str = "/dev/mem";
/// No window is larger, nor does it cross a multiple of this.
pub(crate) const LARGEST: u64 = 256 * MIB;
/// Memory below this belongs to firmware and the start of other processors.
pub(crate) const FIRST: u64 = MIB;
/// What of it is tested all the same. Some firmware writes to the first 64 KiB while a system runs; from 640 KiB on there is no memory.
pub(crate) const LOW: ByteRange = ByteRange { start: 64 * KIB, end: 640 * KIB };
/// Less than this is only what rounding left over.
const LEAST: u64 = 16 * MIB;
/// Windows that one worker has in use at a time: copying needs two.
const EACH: usize = 2;

/// Physical memory that nobody uses.
#[derive(Clone, Debug, Default)]
pub(crate) struct Withheld {
    /// Where.
    pub ranges: RangeSet,
    /// Why it cannot be mapped, where it cannot.
    pub refused: Option<String>,
}

/// What the firmware gives and the running kernel does not use. Where the kernel is locked down it cannot be mapped.
pub(crate) fn withheld() -> Withheld {
    let given = memory_map::read().usable();
    let ranges = left_alone(&given, &memory_map::kernels_own().usable()).minus(&left_out());
    let Some(first) = ranges.ranges().first().copied() else { return Withheld::default() };
    let tried = physical(ByteRange::new(first.start, first.start + PAGE));
    let low = below_first(&given).minus(&left_out());
    let low_is_given = tried.is_ok() && low.ranges().iter().all(|range| physical(*range).is_ok());
    let ranges = if low_is_given { both(&low, &ranges) } else { ranges };
    Withheld { ranges, refused: tried.err().map(|error| error.to_string()) }
}

fn both(a: &RangeSet, b: &RangeSet) -> RangeSet {
    a.ranges().iter().chain(b.ranges()).copied().collect()
}

/// Whole pages of `given` below the first MiB that firmware is not known to write to. Kernels of today keep all of it for the start of other processors,
/// which is over; what lies there is put back after a test.
fn below_first(given: &RangeSet) -> RangeSet {
    whole_pages(&given.intersection(&RangeSet::from(vec![LOW])), LOW.start)
}

/// Whole pages of `given` that are not in `used`, without the first MiB; nothing when there is hardly any.
fn left_alone(given: &RangeSet, used: &RangeSet) -> RangeSet {
    if used.ranges().is_empty() {
        return RangeSet::default();
    }
    let ranges = whole_pages(&given.minus(used), FIRST);
    if ranges.bytes() >= LEAST { ranges } else { RangeSet::default() }
}

/// What of these ranges is whole pages from an address on.
fn whole_pages(ranges: &RangeSet, from: u64) -> RangeSet {
    let whole = |range: &ByteRange| {
        let start = range.start.max(from).next_multiple_of(PAGE);
        let end = range.end / PAGE * PAGE;
        (start < end).then(|| ByteRange::new(start, end))
    };
    ranges.ranges().iter().filter_map(whole).collect()
}

fn device(uncached: bool) -> io::Result<File> {
    let mut options = OpenOptions::new();
    options.read(true).write(true);
    if uncached {
        // How this device is asked for memory past the caches.
        options.custom_flags(libc::O_SYNC);
    }
    options.open(DEVICE)
}

/// Maps physical memory that nobody uses, in whole pages and cached.
pub(crate) fn physical(range: ByteRange) -> io::Result<Mapping> {
    Mapping::of_device(&device(false)?, range.start, range.len() as usize)
}

/// Cuts ranges where windows end.
pub(crate) fn cut(ranges: &RangeSet) -> Vec<ByteRange> {
    let pieces = |range: &ByteRange| {
        let (start, end) = (range.start, range.end);
        (start / LARGEST..end.div_ceil(LARGEST))
            .map(move |number| ByteRange::new(start.max(number * LARGEST), end.min((number + 1) * LARGEST)))
            .collect::<Vec<_>>()
    };
    ranges.ranges().iter().flat_map(pieces).collect()
}

/// The windows of a lease. All of them are cached, or none: the same memory is never mapped in both ways.
pub(crate) struct Windows {
    device: File,
    /// Open ones with their number, the one used last in front.
    open: Mutex<Vec<(usize, Arc<Mapping>)>>,
    most_open: usize,
}

impl Windows {
    /// Opens the device, for so many workers.
    ///
    /// # Errors
    /// When the system does not allow it.
    pub fn new(uncached: bool, workers: usize) -> io::Result<Self> {
        Ok(Self::over(device(uncached)?, workers))
    }

    /// Windows onto any file, by its offsets.
    pub fn over(device: File, workers: usize) -> Self {
        Self { device, open: Mutex::default(), most_open: EACH * workers + EACH }
    }

    /// The window of this number, which covers these physical addresses.
    ///
    /// # Panics
    /// When it cannot be mapped although it could be when the lease began: memory under test has gone, and nothing true could be said.
    pub fn window(&self, number: usize, range: ByteRange) -> Arc<Mapping> {
        let mut open = self.open.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(at) = open.iter().position(|(known, _)| *known == number) {
            let found = open.remove(at);
            open.insert(0, found.clone());
            return found.1;
        }
        open.truncate(self.most_open - 1);
        let mapped = Mapping::of_device(&self.device, range.start, (range.end - range.start) as usize);
        let mapped = Arc::new(
            mapped.unwrap_or_else(|error| panic!("memory at {:#x} cannot be mapped any more: {error}", range.start)),
        );
        open.insert(0, (number, mapped.clone()));
        mapped
    }

    /// Tries every window once.
    ///
    /// # Errors
    /// With the address that cannot be mapped.
    pub fn probe(&self, ranges: &[ByteRange]) -> io::Result<()> {
        for range in ranges {
            let length = (range.end - range.start) as usize;
            Mapping::of_device(&self.device, range.start, length)
                .map_err(|error| io::Error::other(format!("memory at {:#x} cannot be mapped: {error}", range.start)))?;
        }
        Ok(())
    }

    #[cfg(test)]
    fn open_count(&self) -> usize {
        self.open.lock().unwrap().len()
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn set(ranges: &[(u64, u64)]) -> RangeSet {
        ranges.iter().map(|(start, end)| ByteRange::new(*start, *end)).collect()
    }

    const GIB: u64 = 1 << 30;

    #[rstest]
    #[case::low_kernel(&[(0x1000, 0x9fc00), (0x10_0000, 3 * GIB), (4 * GIB, 5 * GIB)], &[(0x1000, 0x9fc00), (0x10_0000, GIB / 4)], &[(GIB / 4, 3 * GIB), (4 * GIB, 5 * GIB)])]
    #[case::high_kernel(&[(0x1000, 0x9fc00), (0x10_0000, 3 * GIB)], &[(0x1000, 0x9fc00), (0x10_0000, 0x20_0000), (0x1000_0000, 0x2000_0000)], &[(0x20_0000, 0x1000_0000), (0x2000_0000, 3 * GIB)])]
    #[case::nothing_withheld(&[(0x1000, 0x9fc00), (0x10_0000, GIB)], &[(0x1000, 0x9f000), (0x10_0000, GIB - 0x3000)], &[])]
    #[case::nothing_known(&[(0x10_0000, GIB)], &[], &[])]
    #[case::parts_of_pages(&[(0x10_0800, GIB)], &[(0x10_0000, 0x20_0000)], &[(0x20_0000, GIB)])]
    fn what_the_kernel_leaves_alone(
        #[case] given: &[(u64, u64)],
        #[case] used: &[(u64, u64)],
        #[case] free: &[(u64, u64)],
    ) {
        assert_eq!(left_alone(&set(given), &set(used)), set(free));
    }

    #[rstest]
    #[case::old_firmware(&[(0, 0x9fc00), (MIB, GIB)], &[(0x1_0000, 0x9_f000)])]
    #[case::in_pieces(&[(0x1000, 0x2_0800), (0x4_0000, 0xa_0000), (MIB, GIB)], &[(0x1_0000, 0x2_0000), (0x4_0000, 0xa_0000)])]
    #[case::all_of_it_kept(&[(0, 0x1_0000), (MIB, GIB)], &[])]
    fn memory_below_the_first_mib(#[case] given: &[(u64, u64)], #[case] tested: &[(u64, u64)]) {
        assert_eq!(below_first(&set(given)), set(tested));
    }

    #[test]
    fn windows_end_at_multiples_and_leave_nothing_out() {
        let ranges = set(&[(MIB, LARGEST + MIB), (3 * LARGEST, 5 * LARGEST)]);
        let pieces = cut(&ranges);
        assert_eq!(pieces.len(), 4);
        assert_eq!(pieces.iter().copied().collect::<RangeSet>(), ranges);
        assert!(pieces.iter().all(|piece| piece.start / LARGEST == (piece.end - 1) / LARGEST));
    }

    #[test]
    fn only_a_few_windows_are_open() {
        let file = tempfile::tempfile().unwrap();
        file.set_len(64 * PAGE).unwrap();
        let windows = Windows::over(file, 1);
        for round in 0..3 {
            for number in 0..9usize {
                let start = number as u64 * PAGE;
                let window = windows.window(number, ByteRange::new(start, start + PAGE));
                let mut word = window.word(8);
                if round > 0 {
                    assert_eq!(revisum_engine::sweep::second_look::WordAccess::read(&mut word), number as u64);
                }
                revisum_engine::sweep::second_look::WordAccess::write(&mut word, number as u64);
                assert!(windows.open_count() <= 4);
            }
        }
    }
}
