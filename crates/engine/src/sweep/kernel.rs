//! One generic body for fill, verify and read-write elements; thin wrappers compile it for each instruction set.

use std::arch::x86_64::{__m128i, __m256i, __m512i, _MM_HINT_T0, _mm_prefetch};

use super::flush::put_back;
use super::gathered::Gathered;
use super::put_back::{BEHIND_LINES, PutBack};
use super::vector::Vector;
use super::{Isa, Kernels, LINE, Mismatches};
use crate::pattern;
use crate::pattern::WordRule;

/// Words in a cache line.
const WORDS: usize = LINE / 8;
/// How far ahead a verifying sweep prefetches, in bytes: far enough to hide the memory's latency. `cargo xtask speed` shows
/// what another distance costs.
const AHEAD_READ: isize = 4096;
/// How far ahead a read-write sweep prefetches, in bytes.
const AHEAD_READ_WRITE: isize = 1024;

/// Whole cache lines to sweep.
pub(super) struct Run {
    pub ptr: *mut u8,
    pub lines: usize,
    pub first_index: u64,
    pub read_flip: u64,
    pub write_flip: u64,
    /// What lies behind the last line is swept next and may be fetched already.
    pub fetches_on: bool,
}

/// What the body writes and how, as its compile-time parameter.
const NOTHING: u8 = 0;
/// Past the cache.
const STREAM: u8 = 1;
/// Into the cache, and the line some way behind back into the memory.
const BEHIND: u8 = 2;

/// Background kinds as the body's compile-time parameter.
const CONSTANT: u8 = 0;
const ADDRESS: u8 = 1;
const RANDOM: u8 = 2;
/// Every word turns by the same amount from line to line.
const TURNING: u8 = 3;

/// Chooses the compiled body for this work.
///
/// # Safety
/// `run` must be valid memory aligned to a cache line, and the kernels fit for this processor.
pub(super) unsafe fn dispatch(
    kernels: Kernels,
    run: &Run,
    rule: WordRule,
    down: bool,
    reads: bool,
    writes: bool,
    bad: &mut dyn Mismatches,
) {
    let isa = kernels.isa;
    let body: Body = match (reads, writes, kernels.put_back) {
        (false, ..) => choose::<false, STREAM>(isa, rule, down),
        (true, false, _) => choose::<true, NOTHING>(isa, rule, down),
        (true, true, PutBack::Behind) => choose::<true, BEHIND>(isa, rule, down),
        (true, true, PutBack::Streamed) => choose::<true, STREAM>(isa, rule, down),
    };
    // SAFETY: the caller's promise.
    unsafe { body(run, rule, bad) }
}

type Body = unsafe fn(&Run, WordRule, &mut dyn Mismatches);

fn choose<const READ: bool, const WRITE: u8>(isa: Isa, rule: WordRule, down: bool) -> Body {
    match (rule, down) {
        (WordRule::Constant(_), false) => wrapper::<CONSTANT, true, READ, WRITE>(isa),
        (WordRule::Constant(_), true) => wrapper::<CONSTANT, false, READ, WRITE>(isa),
        (WordRule::Address, false) => wrapper::<ADDRESS, true, READ, WRITE>(isa),
        (WordRule::Address, true) => wrapper::<ADDRESS, false, READ, WRITE>(isa),
        (WordRule::Striped { .. }, false) => wrapper::<CONSTANT, true, READ, WRITE>(isa),
        (WordRule::Striped { .. }, true) => wrapper::<CONSTANT, false, READ, WRITE>(isa),
        (WordRule::Walking { .. } | WordRule::Crosstalk { .. }, false) => wrapper::<TURNING, true, READ, WRITE>(isa),
        (WordRule::Walking { .. } | WordRule::Crosstalk { .. }, true) => wrapper::<TURNING, false, READ, WRITE>(isa),
        (WordRule::Random { .. }, false) => wrapper::<RANDOM, true, READ, WRITE>(isa),
        (WordRule::Random { .. }, true) => wrapper::<RANDOM, false, READ, WRITE>(isa),
    }
}

fn wrapper<const KIND: u8, const UP: bool, const READ: bool, const WRITE: u8>(isa: Isa) -> Body {
    match isa {
        Isa::Sse2 => lines_sse2::<KIND, UP, READ, WRITE>,
        Isa::Avx2 => lines_avx2::<KIND, UP, READ, WRITE>,
        // Lines written into the cache as a whole go back into the memory more slowly than in halves: a seventh, measured.
        Isa::Avx512 if WRITE == BEHIND => lines_avx2::<KIND, UP, READ, WRITE>,
        Isa::Avx512 => lines_avx512::<KIND, UP, READ, WRITE>,
    }
}

#[target_feature(enable = "avx512f")]
unsafe fn lines_avx512<const KIND: u8, const UP: bool, const READ: bool, const WRITE: u8>(
    run: &Run,
    rule: WordRule,
    bad: &mut dyn Mismatches,
) {
    // SAFETY: the caller's promise; AVX-512 is enabled here.
    unsafe { lines::<__m512i, 1, KIND, UP, READ, WRITE>(run, rule, bad) }
}

#[target_feature(enable = "avx2")]
unsafe fn lines_avx2<const KIND: u8, const UP: bool, const READ: bool, const WRITE: u8>(
    run: &Run,
    rule: WordRule,
    bad: &mut dyn Mismatches,
) {
    // SAFETY: the caller's promise; AVX2 is enabled here.
    unsafe { lines::<__m256i, 2, KIND, UP, READ, WRITE>(run, rule, bad) }
}

unsafe fn lines_sse2<const KIND: u8, const UP: bool, const READ: bool, const WRITE: u8>(
    run: &Run,
    rule: WordRule,
    bad: &mut dyn Mismatches,
) {
    // SAFETY: the caller's promise; SSE2 is part of the base.
    unsafe { lines::<__m128i, 4, KIND, UP, READ, WRITE>(run, rule, bad) }
}

/// The body. `N` registers make one cache line. What it wrote is on its way; a fence waits for it.
#[inline(always)]
unsafe fn lines<V: Vector, const N: usize, const KIND: u8, const UP: bool, const READ: bool, const WRITE: u8>(
    run: &Run,
    rule: WordRule,
    bad: &mut dyn Mismatches,
) {
    let first_line = if UP { 0 } else { run.lines - 1 };
    let index = run.first_index.wrapping_add((first_line * WORDS) as u64);
    let mut states = [0; WORDS];
    for (word, state) in states.iter_mut().enumerate() {
        *state = state_at(rule, index.wrapping_add(word as u64));
    }
    let line_step = word_step(rule).wrapping_mul(WORDS as u64);
    let turn = if UP { line_turn(rule) } else { (64 - line_turn(rule)) & 63 };
    let stride = if UP { LINE as isize } else { -(LINE as isize) };
    let ahead = if WRITE != NOTHING { AHEAD_READ_WRITE } else { AHEAD_READ };
    let fetching = if run.fetches_on { run.lines } else { run.lines.saturating_sub(ahead as usize / LINE) };
    // SAFETY: the instruction set is present; every `line` below is one of the run's lines. Prefetching past the end
    // is allowed: it never faults.
    unsafe {
        // Loops, not closures: a closure is a function of its own, compiled without the wrapper's instruction set.
        let mut state = [V::splat(0); N];
        for (j, state) in state.iter_mut().enumerate() {
            *state = V::from_words(states.as_ptr().add(j * V::WORDS));
        }
        let step = V::splat(if UP { line_step } else { line_step.wrapping_neg() });
        let last = if KIND == RANDOM { pattern::FINAL_XOR } else { 0 };
        let (read_flip, write_flip) = (V::splat(run.read_flip ^ last), V::splat(run.write_flip ^ last));
        let mut found = Gathered::new(bad);
        let mut line = run.ptr.add(first_line * LINE);
        for at in 0..run.lines {
            let mut plain = state;
            if KIND == RANDOM {
                for word in &mut plain {
                    *word = mixed(*word);
                }
            }
            if READ {
                if at < fetching {
                    _mm_prefetch::<_MM_HINT_T0>(line.wrapping_offset(if UP { ahead } else { -ahead }).cast());
                }
                let (mut read, mut wanted) = (plain, plain);
                for j in 0..N {
                    read[j] = V::load(line.add(j * LINE / N));
                    wanted[j] = plain[j].xor(read_flip);
                }
                let mut differs = read[0].xor(wanted[0]);
                for j in 1..N {
                    differs = differs.or(read[j].xor(wanted[j]));
                }
                if differs.any() {
                    // Stored once, where it is read from: copies in narrower pieces would hold up a flood.
                    let (expected, actual) = found.next();
                    for j in 0..N {
                        wanted[j].to_words(expected.add(j * V::WORDS));
                        read[j].to_words(actual.add(j * V::WORDS));
                    }
                    found.push(line.offset_from(run.ptr) as u64, !UP, bad);
                }
            }
            if WRITE != NOTHING {
                for (j, plain) in plain.iter().enumerate() {
                    let word = plain.xor(write_flip);
                    let place = line.add(j * LINE / N);
                    if WRITE == BEHIND { word.store(place) } else { word.stream(place) }
                }
            }
            if WRITE == BEHIND && at >= BEHIND_LINES {
                put_back(line.wrapping_offset(-stride * BEHIND_LINES as isize));
            }
            if KIND == TURNING {
                for state in &mut state {
                    *state = state.rotate_left(turn);
                }
            } else if KIND != CONSTANT {
                for state in &mut state {
                    *state = state.add(step);
                }
            }
            line = line.wrapping_offset(stride);
        }
        found.finish(!UP, bad);
        if WRITE == BEHIND {
            // The last lines, in the order of the sweep.
            for left in (1..=BEHIND_LINES.min(run.lines)).rev() {
                put_back(line.wrapping_offset(-stride * left as isize));
            }
        }
    }
}

/// What the word at an index is made from: its state for random words, itself otherwise.
#[inline(always)]
fn state_at(rule: WordRule, index: u64) -> u64 {
    match rule {
        WordRule::Random { seed } => seed.wrapping_add(pattern::STEP.wrapping_mul(index)),
        _ => rule.word(index),
    }
}

/// What each further word adds to the state.
fn word_step(rule: WordRule) -> u64 {
    match rule {
        WordRule::Address => 8,
        WordRule::Random { .. } => pattern::STEP,
        _ => 0,
    }
}

/// By how many lanes the words of the next line are turned.
fn line_turn(rule: WordRule) -> i64 {
    match rule {
        WordRule::Walking { .. } => WORDS as i64,
        WordRule::Crosstalk { .. } => 1,
        _ => 0,
    }
}

/// [`pattern::mix`] on a register, without its last step: that is a part of the masks that turn words over.
#[inline(always)]
unsafe fn mixed<V: Vector>(state: V) -> V {
    // SAFETY: the instruction set is present.
    unsafe {
        let low = state.multiply_low(V::splat(u64::from(pattern::MULTIPLY_LOW)));
        let high = state.high_half().multiply_low(V::splat(u64::from(pattern::MULTIPLY_HIGH)));
        low.xor(high.swap_halves()).add(state.rotate_left_16())
    }
}
