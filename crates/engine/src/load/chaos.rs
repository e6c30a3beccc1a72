//! Vector work whose answer is known: the logistic map x → r·x·(1 − x) in its chaotic range (May, Nature 261, 1976).
//!
//! Every step is a multiplication and a fused multiplication and subtraction that are rounded as IEEE 754 says, so each lane of each
//! vector unit must come to the same bits as plain arithmetic. Chaos doubles a difference from step to step, but near ½ rounding may
//! swallow one; therefore every number on the way also goes into an exclusive-or. All bits of the fraction change at each step, and the
//! numbers stay between 0 and 1.
#![allow(unsafe_code)]

use std::arch::x86_64::{
    __m256d, __m512d, _mm256_castpd_si256, _mm256_fnmadd_pd, _mm256_loadu_pd, _mm256_loadu_si256, _mm256_mul_pd,
    _mm256_set1_pd, _mm256_storeu_pd, _mm256_storeu_si256, _mm256_xor_si256, _mm512_castpd_si512, _mm512_fnmadd_pd,
    _mm512_loadu_pd, _mm512_loadu_si512, _mm512_mul_pd, _mm512_set1_pd, _mm512_storeu_pd, _mm512_storeu_si512,
    _mm512_xor_si512,
};

use crate::pattern::{STEP, mix};

/// The map's parameter: chaotic, and short of 4, where numbers could leave the range.
const R: f64 = 3.99;
/// Vectors worked on side by side: as many as keep both multipliers of a core busy.
const VECTORS: usize = 12;
/// Lanes of the widest vectors.
const WIDEST: usize = 8;
/// Steps between two looks at the clock: about half a microsecond.
const BURST_STEPS: u32 = 128;
/// Steps until the numbers are compared and begin again.
const CHECKED_STEPS: u32 = BURST_STEPS * 512;

/// Which instructions do the work.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Unit {
    /// No fused multiplication.
    Plain,
    Avx2,
    Avx512,
}

impl Unit {
    fn detect() -> Self {
        if is_x86_feature_detected!("avx512f") {
            Self::Avx512
        } else if is_x86_feature_detected!("avx2") && is_x86_feature_detected!("fma") {
            Self::Avx2
        } else {
            Self::Plain
        }
    }

    /// Numbers in one vector.
    fn lanes(self) -> usize {
        match self {
            Self::Plain => 2,
            Self::Avx2 => 4,
            Self::Avx512 => WIDEST,
        }
    }
}

/// One step in plain arithmetic.
fn step(x: f64, fused: bool) -> f64 {
    let inner = if fused { (-x).mul_add(x, x) } else { x - x * x };
    R * inner
}

/// Numbers at some step.
#[derive(Clone, Debug, PartialEq)]
struct Numbers {
    /// Vector after vector.
    at: Vec<f64>,
    /// The exclusive-or of all numbers that were in a lane so far.
    seen: [u64; WIDEST],
}

impl Numbers {
    /// Steps in plain arithmetic.
    fn go_on(&mut self, lanes: usize, steps: u32, fused: bool) {
        for _ in 0..steps {
            for (place, x) in self.at.iter_mut().enumerate() {
                self.seen[place % lanes] ^= x.to_bits();
                *x = step(*x, fused);
            }
        }
    }

    /// How many differ.
    fn wrong(&self, known: &Self) -> u64 {
        let numbers = self.at.iter().zip(&known.at).filter(|(one, other)| one.to_bits() != other.to_bits());
        let seen = self.seen.iter().zip(&known.seen).filter(|(one, other)| one != other);
        (numbers.count() + seen.count()) as u64
    }
}

/// Numbers on one core.
#[derive(Debug)]
pub struct Vectors {
    unit: Unit,
    begin: Numbers,
    known: Numbers,
    numbers: Numbers,
    done: u32,
}

impl Vectors {
    /// Numbers that follow from the seed, for the widest unit that this processor has. Computes the answer first.
    pub fn new(seed: u64) -> Self {
        Self::on(Unit::detect(), seed)
    }

    fn on(unit: Unit, seed: u64) -> Self {
        let lanes = unit.lanes();
        let fraction =
            |place: u64| (mix(seed.wrapping_add(STEP.wrapping_mul(place + 1))) >> 12) as f64 / (1u64 << 52) as f64;
        // Away from the ends: what begins at 0 stays there.
        let at = (0..(lanes * VECTORS) as u64).map(|place| 0.01 + 0.98 * fraction(place)).collect();
        let begin = Numbers { at, seen: [0; WIDEST] };
        let mut known = begin.clone();
        known.go_on(lanes, CHECKED_STEPS, unit != Unit::Plain);
        Self { unit, numbers: begin.clone(), begin, known, done: 0 }
    }

    /// Works for about half a microsecond; returns how many numbers came out wrong, where it came to an answer.
    pub fn burst(&mut self) -> u64 {
        match self.unit {
            Unit::Plain => self.numbers.go_on(self.unit.lanes(), BURST_STEPS, false),
            // SAFETY: the unit was detected, and there are as many numbers as its vectors hold.
            Unit::Avx2 => unsafe { avx2(&mut self.numbers) },
            // SAFETY: as above.
            Unit::Avx512 => unsafe { avx512(&mut self.numbers) },
        }
        self.done += BURST_STEPS;
        if self.done < CHECKED_STEPS {
            return 0;
        }
        self.done = 0;
        let wrong = self.numbers.wrong(&self.known);
        self.numbers.clone_from(&self.begin);
        wrong
    }

    /// Goes on to the next answer, so that no work stays unchecked.
    pub fn finish(&mut self) -> u64 {
        while self.done != 0 {
            let wrong = self.burst();
            if self.done == 0 {
                return wrong;
            }
        }
        0
    }
}

#[target_feature(enable = "avx2,fma")]
fn avx2(numbers: &mut Numbers) {
    let r = _mm256_set1_pd(R);
    let mut held = [r; VECTORS];
    for (vector, numbers) in held.iter_mut().zip(numbers.at.chunks_exact(4)) {
        // SAFETY: as many numbers are there as a vector holds; unaligned loads are allowed.
        *vector = unsafe { _mm256_loadu_pd(numbers.as_ptr()) };
    }
    // SAFETY: `seen` holds a vector of the widest kind.
    let mut seen = unsafe { _mm256_loadu_si256(numbers.seen.as_ptr().cast()) };
    let step = |x: __m256d| _mm256_mul_pd(r, _mm256_fnmadd_pd(x, x, x));
    for _ in 0..BURST_STEPS {
        // In a tree: one after the other they would wait for each other.
        let bits = held.map(|x| _mm256_castpd_si256(x));
        let join = |a, b| _mm256_xor_si256(a, b);
        let four = |at: usize| join(join(bits[at], bits[at + 1]), join(bits[at + 2], bits[at + 3]));
        seen = join(seen, join(join(four(0), four(4)), four(8)));
        held = held.map(step);
    }
    // SAFETY: as above.
    unsafe { _mm256_storeu_si256(numbers.seen.as_mut_ptr().cast(), seen) }
    for (vector, numbers) in held.into_iter().zip(numbers.at.chunks_exact_mut(4)) {
        // SAFETY: as many numbers are there as a vector holds; unaligned stores are allowed.
        unsafe { _mm256_storeu_pd(numbers.as_mut_ptr(), vector) }
    }
}

#[target_feature(enable = "avx512f")]
fn avx512(numbers: &mut Numbers) {
    let r = _mm512_set1_pd(R);
    let mut held = [r; VECTORS];
    for (vector, numbers) in held.iter_mut().zip(numbers.at.chunks_exact(WIDEST)) {
        // SAFETY: as many numbers are there as a vector holds; unaligned loads are allowed.
        *vector = unsafe { _mm512_loadu_pd(numbers.as_ptr()) };
    }
    // SAFETY: `seen` holds a vector of the widest kind.
    let mut seen = unsafe { _mm512_loadu_si512(numbers.seen.as_ptr().cast()) };
    let step = |x: __m512d| _mm512_mul_pd(r, _mm512_fnmadd_pd(x, x, x));
    for _ in 0..BURST_STEPS {
        // In a tree: one after the other they would wait for each other.
        let bits = held.map(|x| _mm512_castpd_si512(x));
        let join = |a, b| _mm512_xor_si512(a, b);
        let four = |at: usize| join(join(bits[at], bits[at + 1]), join(bits[at + 2], bits[at + 3]));
        seen = join(seen, join(join(four(0), four(4)), four(8)));
        held = held.map(step);
    }
    // SAFETY: as above.
    unsafe { _mm512_storeu_si512(numbers.seen.as_mut_ptr().cast(), seen) }
    for (vector, numbers) in held.into_iter().zip(numbers.at.chunks_exact_mut(WIDEST)) {
        // SAFETY: as many numbers are there as a vector holds; unaligned stores are allowed.
        unsafe { _mm512_storeu_pd(numbers.as_mut_ptr(), vector) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Those that this processor has.
    fn units() -> Vec<Unit> {
        let mut units = vec![Unit::Plain];
        if is_x86_feature_detected!("avx2") && is_x86_feature_detected!("fma") {
            units.push(Unit::Avx2);
        }
        if is_x86_feature_detected!("avx512f") {
            units.push(Unit::Avx512);
        }
        units
    }

    #[test]
    fn every_unit_comes_to_the_answer_of_plain_arithmetic() {
        for unit in units() {
            let mut vectors = Vectors::on(unit, 5);
            let wrong: u64 = (0..1024).map(|_| vectors.burst()).sum();
            assert_eq!((wrong, vectors.done), (0, 0), "{unit:?}");
            assert!(vectors.known.at.iter().all(|x| *x > 0.0 && *x < 1.0));
        }
    }

    #[test]
    fn one_wrong_bit_anywhere_is_a_wrong_answer() {
        for unit in units() {
            for bit in [0, 1, 20, 51, 52, 54] {
                let mut vectors = Vectors::on(unit, 6);
                vectors.burst();
                let place = bit as usize % (unit.lanes() * VECTORS);
                vectors.numbers.at[place] = f64::from_bits(vectors.numbers.at[place].to_bits() ^ 1 << bit);
                assert!(vectors.finish() > 0, "{unit:?} bit {bit}");
                assert_eq!(vectors.finish(), 0);
            }
        }
    }
}
