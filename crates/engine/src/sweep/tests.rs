use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::march::{March, Order};

/// Memory under test for the property tests: an owned allocation that is only reached through its pointer.
struct Buffer {
    ptr: *mut u8,
    bytes: usize,
}

const LAYOUT_ALIGN: usize = 4096;

impl Buffer {
    fn new(bytes: usize) -> Self {
        let layout = std::alloc::Layout::from_size_align(bytes, LAYOUT_ALIGN).unwrap();
        // SAFETY: the layout has a size above zero.
        Self { ptr: unsafe { std::alloc::alloc_zeroed(layout) }, bytes }
    }

    fn span(&self, offset: usize, len: usize, first_index: u64) -> Span {
        assert!(offset + len <= self.bytes);
        // SAFETY: within the allocation.
        Span { ptr: unsafe { self.ptr.add(offset) }, len, first_index }
    }

    fn words(&self) -> Vec<u64> {
        // SAFETY: within the allocation, aligned.
        (0..self.bytes / 8).map(|at| unsafe { self.ptr.cast::<u64>().add(at).read_volatile() }).collect()
    }

    fn spoil(&self, word: usize, mask: u64) {
        // SAFETY: within the allocation, aligned.
        unsafe {
            let at = self.ptr.cast::<u64>().add(word);
            at.write_volatile(at.read_volatile() ^ mask);
        }
    }
}

impl Drop for Buffer {
    fn drop(&mut self) {
        let layout = std::alloc::Layout::from_size_align(self.bytes, LAYOUT_ALIGN).unwrap();
        // SAFETY: allocated with this layout.
        unsafe { std::alloc::dealloc(self.ptr, layout) };
    }
}

const BUFFER: usize = 16 << 10;

fn rule() -> impl Strategy<Value = WordRule> {
    prop_oneof![
        any::<u64>().prop_map(WordRule::Constant),
        Just(WordRule::Address),
        any::<u64>().prop_map(|seed| WordRule::Random { seed }),
        (any::<u64>(), 0u8..12).prop_map(|(word, bit)| WordRule::Striped { word, bit }),
        (0u8..64).prop_map(|lane| WordRule::Walking { lane }),
        (0u8..64).prop_map(|lane| WordRule::Crosstalk { lane }),
    ]
}

fn ops() -> impl Strategy<Value = Vec<Op>> {
    let read = |inverse| Op::Read { inverse };
    let write = |inverse| Op::Write { inverse };
    prop_oneof![
        any::<bool>().prop_map(move |i| vec![write(i)]),
        any::<bool>().prop_map(move |i| vec![read(i)]),
        any::<(bool, bool)>().prop_map(move |(r, w)| vec![read(r), write(w)]),
        any::<(bool, bool)>().prop_map(move |(a, b)| vec![read(a), write(!a), read(!a), write(b)]),
    ]
}

/// Every kernel that this processor can run.
fn all_kernels() -> Vec<Kernels> {
    let best = Kernels::detect();
    let isas = [Isa::Sse2, Isa::Avx2, Isa::Avx512].into_iter().filter(|isa| *isa <= best.isa);
    let ways = [PutBack::Streamed, best.put_back];
    isas.flat_map(|isa| ways.map(|put_back| Kernels { isa, put_back })).collect()
}

/// Fills, spoils some words, runs the element; returns what was reported and what the memory then holds.
fn run_one(
    how: impl Fn(Span, &ElementWork, &mut dyn Mismatches),
    work: &ElementWork,
    (offset, len, first_index): (usize, usize, u64),
    spoiled: &[(usize, u64)],
) -> (Vec<BadWord>, Vec<u64>) {
    let buffer = Buffer::new(BUFFER);
    let span = buffer.span(offset, len, first_index);
    let filled_with = match work.ops[0] {
        Op::Read { inverse } => inverse,
        Op::Write { inverse } => !inverse,
    };
    let fill = ElementWork { ops: vec![Op::Write { inverse: filled_with }], ..work.clone() };
    // SAFETY: a span of the buffer, which nobody else uses.
    unsafe { scalar::sweep(span, &fill, &mut |_: BadWord| unreachable!("a fill reads nothing")) };
    for (word, mask) in spoiled {
        if len >= 8 {
            buffer.spoil(offset / 8 + word % (len / 8), *mask);
        }
    }
    let mut reported = Vec::new();
    how(span, work, &mut |word: BadWord| reported.push(word));
    (reported, buffer.words())
}

proptest! {
    #[test]
    fn every_kernel_agrees_with_the_oracle(
        rule in rule(),
        ops in ops(),
        down in any::<bool>(),
        start in 0usize..40,
        words in 0usize..900,
        first_index in 0u64..1 << 40,
        spoiled in prop::collection::vec((0usize..1000, 1u64..), 0..5),
    ) {
        let work = ElementWork { rule, down, ops, path: Path::Linear, moved: 0 };
        let place = (start * 8, words * 8, first_index);
        let by_word = |span: Span, work: &ElementWork, bad: &mut dyn Mismatches| {
            // SAFETY: run_one passes a span of its own buffer.
            unsafe { scalar::sweep(span, work, bad) }
        };
        let oracle = run_one(by_word, &work, place, &spoiled);
        for kernels in all_kernels() {
            let by_kernel = |span: Span, work: &ElementWork, bad: &mut dyn Mismatches| {
                // SAFETY: as above; the instruction set was detected.
                unsafe { sweep(kernels, span, work, bad) }
            };
            let fast = run_one(by_kernel, &work, place, &spoiled);
            // Several operations come piece by piece: the same reports, in the order of the pieces.
            let sorted = |mut words: Vec<BadWord>| {
                words.sort_by_key(|word| (word.offset, word.expected));
                words
            };
            let several = work.pieces().len() > 1;
            let (reported, wanted) = if several { (sorted(fast.0), sorted(oracle.0.clone())) } else { (fast.0, oracle.0.clone()) };
            prop_assert_eq!(reported, wanted, "reports of {:?}", kernels);
            prop_assert!(fast.1 == oracle.1, "memory after {:?}", kernels);
        }
    }
}

#[test]
fn the_report_comes_before_the_word_is_overwritten() {
    let buffer = Buffer::new(4096);
    let march: March = "up(w0); up(r0,w1)".parse().unwrap();
    let works: Vec<_> = march.0.iter().filter_map(|element| ElementWork::of(element, WordRule::Constant(0))).collect();
    let span = buffer.span(0, 4096, 0);
    // SAFETY: a span of the buffer.
    unsafe { sweep(Kernels::detect(), span, &works[0], &mut |_: BadWord| {}) };
    buffer.spoil(3, 1 << 19);
    let mut held = None;
    // SAFETY: a span of the buffer.
    unsafe {
        sweep(Kernels::detect(), span, &works[1], &mut |_: BadWord| {
            held = Some(span.ptr.cast::<u64>().add(3).read_volatile())
        })
    };
    assert_eq!(held, Some(1 << 19));
    assert!(buffer.words().iter().all(|word| *word == u64::MAX));
    assert_eq!(march.0[0], crate::march::Element::Sweep { order: Order::Up, ops: works[0].ops.clone() });
}

/// Row hopping visits every word once, in the order that it says, and leaves the same memory behind.
#[rstest::rstest]
#[case(false)]
#[case(true)]
fn hopping_is_another_order_of_the_same_words(#[case] down: bool) {
    let bytes = 3 * HOP_BYTES as usize + 4096;
    let buffer = Buffer::new(bytes);
    let span = buffer.span(0, bytes, 0);
    let fill = ElementWork {
        rule: WordRule::Address,
        down,
        ops: vec![Op::Write { inverse: false }],
        path: Path::RowHopping,
        moved: 0,
    };
    // SAFETY: a span of the buffer.
    unsafe { sweep(Kernels::detect(), span, &fill, &mut |_: BadWord| unreachable!("a fill reads nothing")) };
    assert!(buffer.words().iter().zip(0u64..).all(|(word, at)| *word == at * 8));
    let check = ElementWork { ops: vec![Op::Read { inverse: true }], ..fill };
    let mut seen = Vec::new();
    // SAFETY: as above.
    unsafe {
        sweep(Kernels::detect(), span, &check, &mut |word: BadWord| seen.push(check.visited(word.offset, bytes as u64)))
    };
    assert_eq!(seen.len(), bytes / 8);
    assert!(seen.is_sorted());
    seen.dedup();
    assert_eq!(seen.len(), bytes / 8);
}

#[rstest]
#[case(Path::Linear, 4 << 20)]
#[case(Path::RowHopping, 16 << 20)]
#[case(Path::RowHopping, (1 << 20) + 3 * 4096)]
fn lines_are_where_they_are_visited(#[case] path: Path, #[case] bytes: u64) {
    for down in [false, true] {
        let ops = vec![Op::Read { inverse: false }];
        let work = ElementWork { rule: WordRule::Constant(0), down, ops, path, moved: 0 };
        for number in (0..bytes / 64).step_by(37) {
            let line = work.line_at(number, bytes);
            assert_eq!(work.visited(line, bytes) / 64, number, "{path:?} {down} {number}");
        }
    }
}
