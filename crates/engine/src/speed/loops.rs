//! The loops that are timed: in assembly, so that no compiler merges, drops or widens an access. Each goes over a range once for every pass.
//!
//! Everything here touches raw memory only; whoever calls keeps other hands off the range.
#![allow(unsafe_code)]

use std::arch::asm;

use super::work::{Kind, Width, Work};

/// Accesses in one turn of a loop that goes over a range without gaps.
const UNROLLED: u64 = 8;
/// The range of every loop is a multiple of this: one turn of the widest.
pub const TURN: u64 = 512;
/// From this size of a working set on, lines are fetched ahead: the caches close to a core are smaller, and in them it would only cost.
const AHEAD_FROM: u64 = 1 << 20;

/// A loop over `len` bytes from `ptr`, so many times.
type Loop = unsafe fn(ptr: *mut u8, len: usize, passes: u64);

/// Whether this processor has registers of this width.
pub fn has_width(width: Width) -> bool {
    match width {
        Width::W8 | Width::W16 | Width::W32 | Width::W64 | Width::W128 => true,
        Width::W256 => std::arch::is_x86_feature_detected!("avx"),
        Width::W512 => std::arch::is_x86_feature_detected!("avx512f"),
    }
}

/// One turn after the other until `end`; `$body` is what a turn does at `{p}`.
macro_rules! turns {
    ($name:ident, $step:literal, $clean:literal, [$($body:expr),+ $(,)?]) => {
        unsafe fn $name(ptr: *mut u8, len: usize, passes: u64) {
            for _ in 0..passes {
                // SAFETY: the caller's promise: `len` bytes from `ptr` may be read and written, and are whole turns.
                unsafe {
                    asm!(
                        "pxor xmm0, xmm0",
                        "2:",
                        $($body,)+
                        concat!("add {p}, ", $step),
                        "cmp {p}, {end}",
                        "jb 2b",
                        $clean,
                        p = inout(reg) ptr => _,
                        end = in(reg) ptr.wrapping_add(len),
                        inout("rax") 0u64 => _,
                        out("xmm0") _,
                        options(nostack)
                    );
                }
            }
        }
    };
}

/// The loops of one width: loads, loads with lines fetched ahead, stores, and a copy from the first half of the range to the second.
macro_rules! loops {
    ($read:ident, $ahead:ident, $write:ident, $copy:ident, $bytes:literal, $step:literal, $clean:literal,
     $load:literal, $store:literal, $register:literal, [$($fetch:literal),+]) => {
        turns!($read, $step, $clean, [loops!(@load $load, $bytes, 0), loops!(@load $load, $bytes, 1), loops!(@load $load, $bytes, 2),
            loops!(@load $load, $bytes, 3), loops!(@load $load, $bytes, 4), loops!(@load $load, $bytes, 5), loops!(@load $load, $bytes, 6),
            loops!(@load $load, $bytes, 7)]);
        turns!($ahead, $step, $clean, [$(concat!("prefetcht0 [{p} + 2048 + ", $fetch, "]"),)+
            loops!(@load $load, $bytes, 0), loops!(@load $load, $bytes, 1), loops!(@load $load, $bytes, 2),
            loops!(@load $load, $bytes, 3), loops!(@load $load, $bytes, 4), loops!(@load $load, $bytes, 5), loops!(@load $load, $bytes, 6),
            loops!(@load $load, $bytes, 7)]);
        turns!($write, $step, $clean, [loops!(@store $store, $register, $bytes, 0), loops!(@store $store, $register, $bytes, 1),
            loops!(@store $store, $register, $bytes, 2), loops!(@store $store, $register, $bytes, 3),
            loops!(@store $store, $register, $bytes, 4), loops!(@store $store, $register, $bytes, 5),
            loops!(@store $store, $register, $bytes, 6), loops!(@store $store, $register, $bytes, 7)]);
        unsafe fn $copy(ptr: *mut u8, len: usize, passes: u64) {
            let half = len / 2;
            for _ in 0..passes {
                // SAFETY: the caller's promise; both halves lie in the range and are whole turns.
                unsafe {
                    asm!(
                        "2:",
                        loops!(@both $load, $store, $register, $bytes, 0), loops!(@both $load, $store, $register, $bytes, 1),
                        loops!(@both $load, $store, $register, $bytes, 2), loops!(@both $load, $store, $register, $bytes, 3),
                        loops!(@both $load, $store, $register, $bytes, 4), loops!(@both $load, $store, $register, $bytes, 5),
                        loops!(@both $load, $store, $register, $bytes, 6), loops!(@both $load, $store, $register, $bytes, 7),
                        concat!("add {p}, ", $step),
                        concat!("add {q}, ", $step),
                        "cmp {p}, {end}",
                        "jb 2b",
                        $clean,
                        p = inout(reg) ptr => _,
                        q = inout(reg) ptr.wrapping_add(half) => _,
                        end = in(reg) ptr.wrapping_add(half),
                        out("rax") _,
                        out("xmm0") _,
                        options(nostack)
                    );
                }
            }
        }
    };
    (@load $load:literal, $bytes:literal, $at:literal) => { concat!($load, " [{p} + ", $at, " * ", $bytes, "]") };
    (@store $store:literal, $register:literal, $bytes:literal, $at:literal) => {
        concat!($store, " [{p} + ", $at, " * ", $bytes, "], ", $register)
    };
    (@both $load:literal, $store:literal, $register:literal, $bytes:literal, $at:literal) => {
        concat!($load, " [{p} + ", $at, " * ", $bytes, "]\n", $store, " [{q} + ", $at, " * ", $bytes, "], ", $register)
    };
}

loops!(read_8, ahead_8, write_8, copy_8, "1", "8", "", "movzx eax, byte ptr", "mov byte ptr", "al", ["0"]);
loops!(read_16, ahead_16, write_16, copy_16, "2", "16", "", "movzx eax, word ptr", "mov word ptr", "ax", ["0"]);
loops!(read_32, ahead_32, write_32, copy_32, "4", "32", "", "mov eax, dword ptr", "mov dword ptr", "eax", ["0"]);
loops!(read_64, ahead_64, write_64, copy_64, "8", "64", "", "mov rax, qword ptr", "mov qword ptr", "rax", ["0"]);
loops!(
    read_128,
    ahead_128,
    write_128,
    copy_128,
    "16",
    "128",
    "",
    "movdqa xmm0, xmmword ptr",
    "movdqa xmmword ptr",
    "xmm0",
    ["0", "64"]
);
loops!(
    read_256,
    ahead_256,
    write_256,
    copy_256,
    "32",
    "256",
    "vzeroupper",
    "vmovdqa ymm0, ymmword ptr",
    "vmovdqa ymmword ptr",
    "ymm0",
    ["0", "64", "128", "192"]
);
loops!(
    read_512,
    ahead_512,
    write_512,
    copy_512,
    "64",
    "512",
    "vzeroupper",
    "vmovdqa64 zmm0, zmmword ptr",
    "vmovdqa64 zmmword ptr",
    "zmm0",
    ["0", "64", "128", "192", "256", "320", "384", "448"]
);

turns!(
    stream_128,
    "64",
    "sfence",
    ["movntdq [{p}], xmm0", "movntdq [{p} + 16], xmm0", "movntdq [{p} + 32], xmm0", "movntdq [{p} + 48], xmm0"]
);
turns!(
    stream_256,
    "128",
    "sfence\nvzeroupper",
    ["vmovntdq [{p}], ymm0", "vmovntdq [{p} + 32], ymm0", "vmovntdq [{p} + 64], ymm0", "vmovntdq [{p} + 96], ymm0"]
);
turns!(
    stream_512,
    "256",
    "sfence\nvzeroupper",
    ["vmovntdq [{p}], zmm0", "vmovntdq [{p} + 64], zmm0", "vmovntdq [{p} + 128], zmm0", "vmovntdq [{p} + 192], zmm0"]
);

/// Loads that lie `stride` bytes apart, so many times over the range.
macro_rules! strided {
    ($name:ident, $load:literal, $clean:literal) => {
        unsafe fn $name(ptr: *mut u8, len: usize, stride: usize, passes: u64) {
            for _ in 0..passes {
                // SAFETY: the caller's promise; the range is whole groups of four strides, and each load lies within its stride.
                unsafe {
                    asm!(
                        "2:",
                        concat!($load, " [{p}]"),
                        concat!($load, " [{p} + {s}]"),
                        concat!($load, " [{p} + 2 * {s}]"),
                        concat!($load, " [{p} + {s3}]"),
                        "lea {p}, [{p} + 4 * {s}]",
                        "cmp {p}, {end}",
                        "jb 2b",
                        $clean,
                        p = inout(reg) ptr => _,
                        s = in(reg) stride,
                        s3 = in(reg) stride * 3,
                        end = in(reg) ptr.wrapping_add(len),
                        out("rax") _,
                        out("xmm0") _,
                        options(nostack)
                    );
                }
            }
        }
    };
}

strided!(strided_8, "movzx eax, byte ptr", "");
strided!(strided_16, "movzx eax, word ptr", "");
strided!(strided_32, "mov eax, dword ptr", "");
strided!(strided_64, "mov rax, qword ptr", "");
strided!(strided_128, "movdqa xmm0, xmmword ptr", "");
strided!(strided_256, "vmovdqa ymm0, ymmword ptr", "vzeroupper");
strided!(strided_512, "vmovdqa64 zmm0, zmmword ptr", "vzeroupper");

/// The loop of a kind and width without gaps.
fn plain(work: &Work) -> Loop {
    let ahead = work.bytes >= AHEAD_FROM;
    match (work.kind, work.width) {
        (Kind::Read, Width::W8) => [read_8, ahead_8][usize::from(ahead)],
        (Kind::Read, Width::W16) => [read_16, ahead_16][usize::from(ahead)],
        (Kind::Read, Width::W32) => [read_32, ahead_32][usize::from(ahead)],
        (Kind::Read, Width::W64) => [read_64, ahead_64][usize::from(ahead)],
        (Kind::Read, Width::W128) => [read_128, ahead_128][usize::from(ahead)],
        (Kind::Read, Width::W256) => [read_256, ahead_256][usize::from(ahead)],
        (Kind::Read, Width::W512) => [read_512, ahead_512][usize::from(ahead)],
        (Kind::Write, Width::W8) => write_8,
        (Kind::Write, Width::W16) => write_16,
        (Kind::Write, Width::W32) => write_32,
        (Kind::Write, Width::W64) => write_64,
        (Kind::Write, Width::W128) => write_128,
        (Kind::Write, Width::W256) => write_256,
        (Kind::Write, Width::W512) => write_512,
        (Kind::Stream, Width::W256) => stream_256,
        (Kind::Stream, Width::W512) => stream_512,
        (Kind::Stream, _) => stream_128,
        (Kind::Copy, Width::W8) => copy_8,
        (Kind::Copy, Width::W16) => copy_16,
        (Kind::Copy, Width::W32) => copy_32,
        (Kind::Copy, Width::W64) => copy_64,
        (Kind::Copy, Width::W128) => copy_128,
        (Kind::Copy, Width::W256) => copy_256,
        (Kind::Copy, Width::W512) => copy_512,
        // A chain is followed by `follow`.
        (Kind::Latency, _) => read_64,
    }
}

/// Goes over `len` bytes so many times and returns the bytes that were moved: for a copy each byte once.
///
/// # Safety
/// `len` bytes from `ptr` may be read and written by nobody else meanwhile; the processor has the width. Panics where `ptr` is not aligned to a
/// cache line, or `len` is not whole turns (twice that for a copy, four strides with a stride).
pub unsafe fn go_over(work: &Work, ptr: *mut u8, len: usize, passes: u64) -> u64 {
    assert!(ptr.align_offset(64) == 0 && has_width(work.width), "a cache line, and a width that is there");
    let bytes = len as u64;
    if let Some(stride) = work.gap() {
        assert!(bytes.is_multiple_of(u64::from(stride) * 4) && bytes > 0, "whole groups of strides");
        let strided = match work.width {
            Width::W8 => strided_8,
            Width::W16 => strided_16,
            Width::W32 => strided_32,
            Width::W64 => strided_64,
            Width::W128 => strided_128,
            Width::W256 => strided_256,
            Width::W512 => strided_512,
        };
        // SAFETY: the caller's promise.
        unsafe { strided(ptr, len, stride as usize, passes) };
        return bytes / u64::from(stride) * u64::from(work.width.bytes()) * passes;
    }
    let least = if work.kind == Kind::Copy { 2 * TURN } else { TURN };
    assert!(bytes.is_multiple_of(least) && bytes > 0, "whole turns");
    // SAFETY: the caller's promise, and the length was looked at.
    unsafe { plain(work)(ptr, len, passes) };
    passes * if work.kind == Kind::Copy { bytes / 2 } else { bytes }
}

/// Follows a chain of pointers from `from` for so many loads, each of which waits for the one before; returns where it came to.
///
/// # Safety
/// `from` points to a pointer of a closed chain, all of it readable. `loads` is a multiple of eight.
pub unsafe fn follow(from: *mut u8, loads: u64) -> *mut u8 {
    assert!(loads.is_multiple_of(UNROLLED) && loads > 0, "whole turns");
    let mut at = from;
    // SAFETY: the caller's promise.
    unsafe {
        asm!(
            "2:",
            "mov {at}, [{at}]", "mov {at}, [{at}]", "mov {at}, [{at}]", "mov {at}, [{at}]",
            "mov {at}, [{at}]", "mov {at}, [{at}]", "mov {at}, [{at}]", "mov {at}, [{at}]",
            "sub {turns}, 1",
            "jnz 2b",
            at = inout(reg) at,
            turns = inout(reg) loads / UNROLLED => _,
            options(nostack, readonly)
        );
    }
    at
}

/// Lays a closed chain through the range that visits one line in each of `links` equal pieces, in random order: Sattolo's algorithm
/// (S. Sattolo, *An algorithm to generate a random cyclic permutation*, Information Processing Letters 22, 1986). Returns where it begins.
///
/// # Safety
/// `len` bytes from `ptr` may be written by nobody else meanwhile; `ptr` is aligned to eight bytes. Panics where the range is too small.
pub unsafe fn lay_chain(ptr: *mut u8, len: usize, links: usize, seed: u64) -> *mut u8 {
    const LINE: usize = 64;
    let piece = len / links / LINE * LINE;
    assert!(links >= 2 && piece >= LINE && ptr.align_offset(8) == 0, "a line for each link");
    let mut drawn = 0;
    let mut next = |below: usize| {
        drawn += 1;
        ((u128::from(crate::pattern::pass_seed(seed, drawn)) * below as u128) >> 64) as usize
    };
    // Where in its piece each line lies, so that they are not all the same distance apart.
    let place: Vec<usize> = (0..links).map(|link| link * piece + next(piece / LINE) * LINE).collect();
    let mut order: Vec<u32> = (0..links as u32).collect();
    for at in (1..links).rev() {
        order.swap(at, next(at));
    }
    for (from, to) in place.iter().zip(&order) {
        let to = ptr.wrapping_add(place[*to as usize]);
        // SAFETY: both lie within the range.
        unsafe { ptr.add(*from).cast::<*mut u8>().write_volatile(to) };
    }
    ptr.wrapping_add(place[0])
}
