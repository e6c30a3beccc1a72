//! Computing with known answers: what goes in comes out again, bit by bit, or something computed wrong.
//!
//! Random integers are transformed and transformed back, once over a prime field (number-theoretic transform, exact) and
//! once in floating point (fast Fourier transform): there it is done twice and the two results are compared bit by bit, and
//! what comes back, rounded to integers, is exact for numbers of this size.

use std::sync::Arc;

use rustfft::num_complex::Complex;
use rustfft::{Fft, FftPlannerScalar};

use crate::pattern::{STEP, mix};

/// The prime 2⁶⁴ − 2³² + 1, whose multiplicative group has a subgroup of 2³² elements.
const PRIME: u64 = 0xffff_ffff_0000_0001;
/// Generates that group.
const GENERATOR: u64 = 7;

fn multiply(a: u64, b: u64) -> u64 {
    (u128::from(a) * u128::from(b) % u128::from(PRIME)) as u64
}

fn power(base: u64, mut exponent: u64) -> u64 {
    let (mut result, mut square) = (1, base);
    while exponent > 0 {
        if exponent & 1 == 1 {
            result = multiply(result, square);
        }
        square = multiply(square, square);
        exponent >>= 1;
    }
    result
}

/// Transforms in place with this root of unity of the array's length, a power of two (Cooley and Tukey 1965).
fn transform(values: &mut [u64], root: u64) {
    let bits = values.len().trailing_zeros();
    for at in 0..values.len() {
        let other = at.reverse_bits() >> (usize::BITS - bits);
        if at < other {
            values.swap(at, other);
        }
    }
    for level in 1..=bits {
        let half = 1usize << (level - 1);
        let step = power(root, (values.len() >> level) as u64);
        for block in values.chunks_exact_mut(2 * half) {
            let (low, high) = block.split_at_mut(half);
            let mut twiddle = 1;
            for (a, b) in low.iter_mut().zip(high) {
                let turned = multiply(*b, twiddle);
                let (sum, difference) = (add(*a, turned), add(*a, PRIME - turned));
                (*a, *b) = (sum, difference);
                twiddle = multiply(twiddle, step);
            }
        }
    }
}

fn add(a: u64, b: u64) -> u64 {
    ((u128::from(a) + u128::from(b)) % u128::from(PRIME)) as u64
}

/// Length of the arrays of numbers as a power of two, where there is room: 4 MiB of integers and 4 MiB of complex numbers, beyond the caches of one
/// core. Integers are twice as many.
const NUMBER_BITS: u32 = 18;
/// The same where there is hardly any room.
const LEAST_BITS: u32 = 10;
/// Bytes for each number: on each core twice as many integers, two arrays and room to work in; and once for all cores what both plans have worked out.
const EACH_CORE: u64 = 2 * 8 + 3 * 16;
const SHARED: u64 = 2 * 16;

/// What all computing cores share.
pub(super) struct Plans {
    bits: u32,
    forward: Arc<dyn Fft<f64>>,
    back: Arc<dyn Fft<f64>>,
}

impl Plans {
    /// For so many cores, which together may take so many bytes.
    pub fn fitting(cores: usize, spare_bytes: u64) -> Self {
        Self::of_bits(fitting_bits(cores, spare_bytes))
    }

    fn of_bits(bits: u32) -> Self {
        // The scalar planner: which instructions are used must not decide what comes out.
        let mut planner = FftPlannerScalar::new();
        Self { bits, forward: planner.plan_fft_forward(1 << bits), back: planner.plan_fft_inverse(1 << bits) }
    }
}

fn fitting_bits(cores: usize, spare_bytes: u64) -> u32 {
    let bytes = |bits: &u32| (EACH_CORE.saturating_mul(cores as u64) + SHARED).saturating_mul(1 << bits);
    (LEAST_BITS..=NUMBER_BITS).rev().find(|bits| bytes(bits) <= spare_bytes).unwrap_or(LEAST_BITS)
}

/// The arrays of one computing core.
pub(super) struct Computer<'a> {
    plans: &'a Plans,
    integers: Vec<u64>,
    numbers: Vec<Complex<f64>>,
    again: Vec<Complex<f64>>,
    /// What the transforms work in: taken once, so that there is never more.
    scratch: Vec<Complex<f64>>,
    state: u64,
}

impl<'a> Computer<'a> {
    /// A computer whose numbers follow from the seed.
    pub fn new(seed: u64, plans: &'a Plans) -> Self {
        let scratch = plans.forward.get_inplace_scratch_len().max(plans.back.get_inplace_scratch_len());
        Self {
            plans,
            integers: vec![0; 2 << plans.bits],
            numbers: vec![Complex::default(); 1 << plans.bits],
            again: vec![Complex::default(); 1 << plans.bits],
            scratch: vec![Complex::default(); scratch],
            state: seed,
        }
    }

    /// Computes once; returns how many numbers came out wrong.
    pub fn round(&mut self) -> u64 {
        self.state = self.state.wrapping_add(STEP);
        self.integer_round(|_| {}) + self.number_round(|_| {})
    }

    /// `between` sees the transformed integers.
    fn integer_round(&mut self, between: impl FnOnce(&mut [u64])) -> u64 {
        let state = self.state;
        let plain = |at: usize| mix(state.wrapping_add(STEP.wrapping_mul(at as u64))) % PRIME;
        self.integers.iter_mut().enumerate().for_each(|(at, value)| *value = plain(at));
        let length = self.integers.len() as u64;
        let root = power(GENERATOR, (PRIME - 1) / length);
        transform(&mut self.integers, root);
        between(&mut self.integers);
        transform(&mut self.integers, power(root, PRIME - 2));
        let shrink = power(length, PRIME - 2);
        let wrong = |(at, value): (usize, &u64)| multiply(*value, shrink) != plain(at);
        self.integers.iter().enumerate().filter(|entry| wrong(*entry)).count() as u64
    }

    /// `between` sees the transformed numbers.
    fn number_round(&mut self, between: impl FnOnce(&mut [Complex<f64>])) -> u64 {
        let state = self.state;
        let plain = |at: usize| {
            let word = mix(state.wrapping_mul(3).wrapping_add(STEP.wrapping_mul(at as u64)));
            (f64::from((word & 1023) as u32) - 512.0, f64::from((word >> 32 & 1023) as u32) - 512.0)
        };
        self.numbers.iter_mut().enumerate().for_each(|(at, value)| {
            let (re, im) = plain(at);
            *value = Complex::new(re, im);
        });
        self.again.copy_from_slice(&self.numbers);
        self.plans.forward.process_with_scratch(&mut self.numbers, &mut self.scratch);
        between(&mut self.numbers);
        self.plans.forward.process_with_scratch(&mut self.again, &mut self.scratch);
        let bits = |value: &Complex<f64>| (value.re.to_bits(), value.im.to_bits());
        let pairs = self.numbers.iter().zip(&self.again);
        let differ = pairs.filter(|(once, again)| bits(once) != bits(again)).count() as u64;
        self.plans.back.process_with_scratch(&mut self.numbers, &mut self.scratch);
        let length = self.numbers.len() as f64;
        let wrong = |(at, value): (usize, &Complex<f64>)| {
            let back = ((value.re / length).round(), (value.im / length).round());
            back != plain(at)
        };
        differ + self.numbers.iter().enumerate().filter(|entry| wrong(*entry)).count() as u64
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::units::MIB;

    /// A processor of 16 cores, half of them computing, took 190 MiB where 22 are left.
    #[rstest]
    #[case::plenty(8, u64::MAX, 18)]
    #[case::just_enough(1, 24 * MIB, 18)]
    #[case::one_core_booted(1, 11 * MIB, 16)]
    #[case::eight_cores_booted(8, 11 * MIB, 14)]
    #[case::nothing_left(64, 0, 10)]
    fn arrays_are_as_long_as_there_is_room(#[case] cores: usize, #[case] spare: u64, #[case] expected: u32) {
        assert_eq!(fitting_bits(cores, spare), expected);
        let plans = Plans::of_bits(expected);
        let computer = Computer::new(9, &plans);
        let numbers = computer.numbers.len() + computer.again.len() + computer.scratch.len();
        assert!(8 * computer.integers.len() + 16 * numbers <= (EACH_CORE as usize) << expected);
    }

    fn plans() -> Plans {
        Plans::of_bits(LEAST_BITS)
    }

    #[test]
    fn what_goes_in_comes_out() {
        let plans = plans();
        let mut computer = Computer::new(9, &plans);
        assert_eq!((0..5).map(|_| computer.round()).sum::<u64>(), 0);
    }

    #[test]
    fn one_flipped_bit_anywhere_is_noticed() {
        let plans = plans();
        let computer = || Computer::new(9, &plans);
        for bit in [0, 1, 31, 62] {
            assert!(computer().integer_round(|values| values[77] = (values[77] ^ 1 << bit) % PRIME) > 0, "bit {bit}");
        }
        for bit in [0, 1, 31, 51, 55, 63] {
            let flip = |values: &mut [Complex<f64>]| values[77].re = f64::from_bits(values[77].re.to_bits() ^ 1 << bit);
            assert!(computer().number_round(flip) > 0, "bit {bit}");
        }
    }

    /// The transform of a single one at place 1 is the powers of the root.
    #[test]
    fn the_transform_is_the_transform() {
        let root = power(GENERATOR, (PRIME - 1) / 16);
        let mut values = vec![0; 16];
        values[1] = 1;
        transform(&mut values, root);
        let powers: Vec<u64> = (0..16).map(|exponent| power(root, exponent)).collect();
        assert_eq!(values, powers);
        assert_eq!((power(root, 16), power(root, 8)), (1, PRIME - 1));
    }
}
