//! Putting cache lines back into memory, so that the next read comes from there.

use std::arch::asm;
use std::arch::x86_64::{__cpuid, __cpuid_count, _MM_HINT_T0, _mm_clflush, _mm_mfence, _mm_prefetch};
use std::sync::LazyLock;

use super::LINE;

/// CPUID leaf 7, EBX bit 23 (Intel SDM volume 2A, CPUID).
static HAS_CLFLUSHOPT: LazyLock<bool> =
    LazyLock::new(|| __cpuid(0).eax >= 7 && __cpuid_count(7, 0).ebx & (1 << 23) != 0);

/// Whether the processor has `clflushopt`; the older `clflush` waits after every line, which is many times slower.
pub fn is_optimised() -> bool {
    *HAS_CLFLUSHOPT
}

/// Writes one cache line back and drops it, without waiting for that.
///
/// # Safety
/// The line is mapped, and the processor has `clflushopt`.
#[inline(always)]
pub(super) unsafe fn put_back(line: *mut u8) {
    // SAFETY: the caller's promise; flushing changes no data.
    unsafe { asm!("clflushopt [{}]", in(reg) line, options(nostack, preserves_flags)) };
}

/// Asks for a cache line that is read soon.
///
/// # Safety
/// The line is mapped.
#[inline(always)]
pub(super) unsafe fn fetch(line: *const u8) {
    // SAFETY: fetching changes nothing.
    unsafe { _mm_prefetch::<_MM_HINT_T0>(line.cast()) };
}

/// Waits until everything that was written or put back is done.
#[inline(always)]
pub(super) fn fence() {
    // SAFETY: SSE2 is part of the base.
    unsafe { _mm_mfence() };
}

/// Drops cache lines of the span, without waiting for that.
///
/// # Safety
/// `ptr` must be valid for `len` bytes.
pub(super) unsafe fn drop_lines(ptr: *mut u8, len: usize) {
    // SAFETY: the caller's promise.
    unsafe { each_line(ptr, len, false) };
}

/// Writes back and drops every cache line of the span in the direction of the sweep before it, then waits until that is done.
///
/// # Safety
/// `ptr` must be valid for `len` bytes.
pub unsafe fn flush(ptr: *mut u8, len: usize, down: bool) {
    // SAFETY: the caller's promise.
    unsafe { each_line(ptr, len, down) };
    fence();
}

/// # Safety
/// `ptr` must be valid for `len` bytes.
unsafe fn each_line(ptr: *mut u8, len: usize, down: bool) {
    let (optimised, lines) = (is_optimised(), len.div_ceil(LINE));
    for step in 0..lines {
        let line = if down { lines - 1 - step } else { step };
        // SAFETY: within the span; flushing changes no data.
        unsafe {
            let line = ptr.add(line * LINE);
            if optimised { put_back(line) } else { _mm_clflush(line) }
        }
    }
}
