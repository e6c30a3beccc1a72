//! Putting cache lines back into memory, so that the next read comes from there.

use std::arch::asm;
use std::arch::x86_64::{__cpuid, __cpuid_count, _mm_clflush, _mm_mfence};
use std::sync::LazyLock;

use super::LINE;

/// CPUID leaf 7, EBX bit 23 (Intel SDM volume 2A, CPUID).
static HAS_CLFLUSHOPT: LazyLock<bool> =
    LazyLock::new(|| __cpuid(0).eax >= 7 && __cpuid_count(7, 0).ebx & (1 << 23) != 0);

/// Writes back and drops every cache line of the span, then waits until that is done.
///
/// `clflushopt` where the processor has it: the older `clflush` waits after every line, which is many times slower.
///
/// # Safety
/// `ptr` must be valid for `len` bytes.
pub unsafe fn flush(ptr: *mut u8, len: usize) {
    let optimised = *HAS_CLFLUSHOPT;
    for offset in (0..len).step_by(LINE) {
        // SAFETY: within the span; flushing changes no data.
        unsafe {
            let line = ptr.add(offset);
            if optimised {
                asm!("clflushopt [{}]", in(reg) line, options(nostack, preserves_flags));
            } else {
                _mm_clflush(line);
            }
        }
    }
    // SAFETY: SSE2 is part of the base.
    unsafe { _mm_mfence() };
}
