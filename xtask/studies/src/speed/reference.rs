//! What the machine can do at most: the shortest loops that move memory, in assembly, so that no compiler changes them.
#![allow(unsafe_code)]

use std::arch::asm;

/// Bytes in one turn of each loop.
const TURN: usize = 128;

/// How far behind lines are put back, in bytes; stands in the loop as well.
const BEHIND: usize = 512;

/// Whether this processor has what the loops use.
pub fn is_supported() -> bool {
    std::arch::is_x86_feature_detected!("avx2")
}

fn check(ptr: *mut u8, len: usize) {
    assert!(is_supported() && len > 0 && len.is_multiple_of(TURN) && ptr.align_offset(32) == 0);
}

/// Writes zeros past the cache.
pub fn write(ptr: *mut u8, len: usize) {
    check(ptr, len);
    // SAFETY: `pieces` gives whole parts of a pool that nobody else uses meanwhile; checked for size and alignment.
    unsafe {
        asm!(
            "vpxor ymm0, ymm0, ymm0",
            "2:",
            "vmovntdq [{p}], ymm0",
            "vmovntdq [{p} + 32], ymm0",
            "vmovntdq [{p} + 64], ymm0",
            "vmovntdq [{p} + 96], ymm0",
            "add {p}, 128",
            "cmp {p}, {end}",
            "jb 2b",
            "sfence",
            "vzeroupper",
            p = inout(reg) ptr => _,
            end = in(reg) ptr.wrapping_add(len),
            out("ymm0") _,
            options(nostack)
        );
    }
}

/// Reads everything, two cache lines prefetched ahead at a distance of 4 KiB.
pub fn read(ptr: *mut u8, len: usize) {
    check(ptr, len);
    // SAFETY: as above; prefetching past the end never faults.
    unsafe {
        asm!(
            "vpxor ymm0, ymm0, ymm0",
            "vpxor ymm1, ymm1, ymm1",
            "2:",
            "prefetcht0 [{p} + 4096]",
            "prefetcht0 [{p} + 4160]",
            "vpor ymm0, ymm0, [{p}]",
            "vpor ymm1, ymm1, [{p} + 32]",
            "vpor ymm0, ymm0, [{p} + 64]",
            "vpor ymm1, ymm1, [{p} + 96]",
            "add {p}, 128",
            "cmp {p}, {end}",
            "jb 2b",
            "vzeroupper",
            p = inout(reg) ptr => _,
            end = in(reg) ptr.wrapping_add(len),
            out("ymm0") _,
            out("ymm1") _,
            options(nostack)
        );
    }
}

/// Turns every bit over from one place to another; `$behind` is what each turn does besides.
macro_rules! invert {
    ($from:expr, $to:expr, [$($behind:literal),*]) => {
        asm!(
            "vpcmpeqd ymm4, ymm4, ymm4",
            "2:",
            "prefetcht0 [{p} + 1024]",
            "prefetcht0 [{p} + 1088]",
            "vpxor ymm0, ymm4, [{p}]",
            "vpxor ymm1, ymm4, [{p} + 32]",
            "vpxor ymm2, ymm4, [{p} + 64]",
            "vpxor ymm3, ymm4, [{p} + 96]",
            "vmovdqa [{p}], ymm0",
            "vmovdqa [{p} + 32], ymm1",
            "vmovdqa [{p} + 64], ymm2",
            "vmovdqa [{p} + 96], ymm3",
            $($behind,)*
            "add {p}, 128",
            "cmp {p}, {end}",
            "jb 2b",
            "mfence",
            "vzeroupper",
            p = inout(reg) $from => _,
            end = in(reg) $to,
            out("ymm0") _,
            out("ymm1") _,
            out("ymm2") _,
            out("ymm3") _,
            out("ymm4") _,
            options(nostack)
        )
    };
}

/// Turns every bit over in place.
pub fn invert(ptr: *mut u8, len: usize) {
    check(ptr, len);
    // SAFETY: as above.
    unsafe { invert!(ptr, ptr.wrapping_add(len), []) };
}

/// Turns every bit over in place and puts each line back into memory [`BEHIND`] bytes behind.
pub fn invert_and_put_back(ptr: *mut u8, len: usize) {
    check(ptr, len);
    assert!(std::arch::x86_64::__cpuid_count(7, 0).ebx & 1 << 23 != 0 && len > BEHIND, "clflushopt");
    invert(ptr, BEHIND);
    let (from, to) = (ptr.wrapping_add(BEHIND), ptr.wrapping_add(len));
    // SAFETY: as above; the lines put back lie `BEHIND` bytes before those that are turned over.
    unsafe { invert!(from, to, ["clflushopt [{p} - 512]", "clflushopt [{p} - 448]"]) };
}
