//! The few vector operations that the kernels need, once per instruction set.
//!
//! Every function is `inline(always)` so that it ends up inside a wrapper compiled for its instruction set.

use std::arch::x86_64::*;

/// A register of 64-bit words.
///
/// # Safety
/// All functions require the instruction set to be present; pointers must be valid for one register and aligned to it.
pub(super) trait Vector: Copy {
    /// 64-bit words in one register.
    const WORDS: usize;
    unsafe fn splat(word: u64) -> Self;
    unsafe fn from_words(words: *const u64) -> Self;
    unsafe fn to_words(self, words: *mut u64);
    /// Volatile: the compiler may neither drop, repeat nor guess it.
    unsafe fn load(ptr: *const u8) -> Self;
    unsafe fn store(self, ptr: *mut u8);
    /// Past the cache.
    unsafe fn stream(self, ptr: *mut u8);
    unsafe fn xor(self, other: Self) -> Self;
    unsafe fn or(self, other: Self) -> Self;
    unsafe fn add(self, other: Self) -> Self;
    /// Product of the low halves of each word.
    unsafe fn multiply_low(self, other: Self) -> Self;
    unsafe fn high_half(self) -> Self;
    unsafe fn swap_halves(self) -> Self;
    unsafe fn rotate_left_16(self) -> Self;
    /// Each word turned to the left by this many bits, 0 to 63; one amount for all.
    unsafe fn rotate_left(self, bits: i64) -> Self;
    unsafe fn any(self) -> bool;
}

macro_rules! implement {
    ($vector:ty, $words:literal, $splat:ident, $loadu:ident, $storeu:ident, $stream:ident, $xor:ident, $or:ident,
     $add:ident, $multiply:ident, $right:ident, $shuffle:ident, $left_by:ident, $right_by:ident, $turn_16:expr, $any:expr) => {
        // SAFETY (each block): the trait's contract, that the instruction set is present and pointers are valid and
        // aligned, is exactly what the intrinsics ask for.
        impl Vector for $vector {
            const WORDS: usize = $words;
            #[inline(always)]
            unsafe fn splat(word: u64) -> Self {
                // SAFETY: the trait's contract.
                unsafe { $splat(word.cast_signed()) }
            }
            #[inline(always)]
            unsafe fn from_words(words: *const u64) -> Self {
                // SAFETY: the trait's contract; unaligned load.
                unsafe { $loadu(words.cast()) }
            }
            #[inline(always)]
            unsafe fn to_words(self, words: *mut u64) {
                // SAFETY: the trait's contract; unaligned store.
                unsafe { $storeu(words.cast(), self) }
            }
            #[inline(always)]
            unsafe fn load(ptr: *const u8) -> Self {
                // SAFETY: the trait's contract.
                unsafe { ptr.cast::<Self>().read_volatile() }
            }
            #[inline(always)]
            unsafe fn store(self, ptr: *mut u8) {
                // SAFETY: the trait's contract.
                unsafe { ptr.cast::<Self>().write_volatile(self) }
            }
            #[inline(always)]
            unsafe fn stream(self, ptr: *mut u8) {
                // SAFETY: the trait's contract.
                unsafe { $stream(ptr.cast(), self) }
            }
            #[inline(always)]
            unsafe fn xor(self, other: Self) -> Self {
                // SAFETY: the trait's contract.
                unsafe { $xor(self, other) }
            }
            #[inline(always)]
            unsafe fn or(self, other: Self) -> Self {
                // SAFETY: the trait's contract.
                unsafe { $or(self, other) }
            }
            #[inline(always)]
            unsafe fn add(self, other: Self) -> Self {
                // SAFETY: the trait's contract.
                unsafe { $add(self, other) }
            }
            #[inline(always)]
            unsafe fn multiply_low(self, other: Self) -> Self {
                // SAFETY: the trait's contract.
                unsafe { $multiply(self, other) }
            }
            #[inline(always)]
            unsafe fn high_half(self) -> Self {
                // SAFETY: the trait's contract.
                unsafe { $right::<32>(self) }
            }
            #[inline(always)]
            unsafe fn swap_halves(self) -> Self {
                // SAFETY: the trait's contract.
                unsafe { $shuffle::<0b10_11_00_01>(self) }
            }
            #[inline(always)]
            unsafe fn rotate_left_16(self) -> Self {
                // SAFETY: the trait's contract.
                unsafe { $turn_16(self) }
            }
            #[inline(always)]
            unsafe fn rotate_left(self, bits: i64) -> Self {
                // SAFETY: the trait's contract. A shift by 64 gives zero.
                unsafe {
                    let (left, right) = (_mm_cvtsi64_si128(bits), _mm_cvtsi64_si128(64 - bits));
                    $or($left_by(self, left), $right_by(self, right))
                }
            }
            #[inline(always)]
            unsafe fn any(self) -> bool {
                // SAFETY: the trait's contract.
                unsafe { $any(self) }
            }
        }
    };
}

/// Sixteen bits are two bytes: each half is a shuffle of four pieces.
#[inline(always)]
unsafe fn turn_16_sse2(v: __m128i) -> __m128i {
    // SAFETY: SSE2 is part of the 64-bit base.
    unsafe { _mm_shufflehi_epi16::<0b10_01_00_11>(_mm_shufflelo_epi16::<0b10_01_00_11>(v)) }
}

#[inline(always)]
unsafe fn turn_16_avx2(v: __m256i) -> __m256i {
    // SAFETY: only reached where AVX2 is present.
    unsafe { _mm256_shufflehi_epi16::<0b10_01_00_11>(_mm256_shufflelo_epi16::<0b10_01_00_11>(v)) }
}

#[inline(always)]
unsafe fn turn_16_avx512(v: __m512i) -> __m512i {
    // SAFETY: only reached where AVX-512 is present.
    unsafe { _mm512_rol_epi64::<16>(v) }
}

#[inline(always)]
unsafe fn any_sse2(v: __m128i) -> bool {
    // SAFETY: SSE2 is part of the 64-bit base.
    unsafe { _mm_movemask_epi8(_mm_cmpeq_epi8(v, _mm_setzero_si128())) != 0xffff }
}

#[inline(always)]
unsafe fn any_avx512(v: __m512i) -> bool {
    // SAFETY: only reached where AVX-512 is present.
    unsafe { _mm512_test_epi64_mask(v, v) != 0 }
}

#[inline(always)]
unsafe fn any_avx2(v: __m256i) -> bool {
    // SAFETY: only reached where AVX2 is present.
    unsafe { _mm256_testz_si256(v, v) == 0 }
}

implement!(
    __m128i,
    2,
    _mm_set1_epi64x,
    _mm_loadu_si128,
    _mm_storeu_si128,
    _mm_stream_si128,
    _mm_xor_si128,
    _mm_or_si128,
    _mm_add_epi64,
    _mm_mul_epu32,
    _mm_srli_epi64,
    _mm_shuffle_epi32,
    _mm_sll_epi64,
    _mm_srl_epi64,
    turn_16_sse2,
    any_sse2
);
implement!(
    __m256i,
    4,
    _mm256_set1_epi64x,
    _mm256_loadu_si256,
    _mm256_storeu_si256,
    _mm256_stream_si256,
    _mm256_xor_si256,
    _mm256_or_si256,
    _mm256_add_epi64,
    _mm256_mul_epu32,
    _mm256_srli_epi64,
    _mm256_shuffle_epi32,
    _mm256_sll_epi64,
    _mm256_srl_epi64,
    turn_16_avx2,
    any_avx2
);
implement!(
    __m512i,
    8,
    _mm512_set1_epi64,
    _mm512_loadu_si512,
    _mm512_storeu_si512,
    _mm512_stream_si512,
    _mm512_xor_si512,
    _mm512_or_si512,
    _mm512_add_epi64,
    _mm512_mul_epu32,
    _mm512_srli_epi64,
    _mm512_shuffle_epi32,
    _mm512_sll_epi64,
    _mm512_srl_epi64,
    turn_16_avx512,
    any_avx512
);
