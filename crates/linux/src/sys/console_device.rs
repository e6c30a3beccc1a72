//! What the kernel's console takes: glyphs, which letters they stand for, and what keys mean (`ioctl_console(2)`).

use std::fs::File;
use std::io;
use std::os::fd::AsRawFd;

/// Reads or sets glyphs.
const KDFONTOP: libc::c_ulong = 0x4b72;
/// Reads which letters the glyphs stand for.
const GIO_UNIMAP: libc::c_ulong = 0x4b66;
/// Sets it.
const PIO_UNIMAP: libc::c_ulong = 0x4b67;
/// Forgets it.
const PIO_UNIMAPCLR: libc::c_ulong = 0x4b68;
/// Sets what one key means.
const KDSKBENT: libc::c_ulong = 0x4b47;
const SET: u32 = 0;
const GET: u32 = 1;
/// Rows that each glyph has in what is handed over, however high it is.
const PITCH: usize = 32;
/// Most glyphs of a console.
const MOST_GLYPHS: usize = 512;
/// Most bytes of a row.
const WIDEST: usize = 4;

/// Glyphs of one size: each as many rows as it is high, the leftmost point of a row in the highest bit.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Glyphs {
    /// Points across.
    pub width: u32,
    /// Points down.
    pub height: u32,
    /// Rows of each glyph.
    pub rows: Vec<Vec<u32>>,
}

/// The kernel's `struct console_font_op`.
#[repr(C)]
struct FontOp {
    op: u32,
    flags: u32,
    width: u32,
    height: u32,
    count: u32,
    data: *mut u8,
}

/// The kernel's `struct unipair`.
#[repr(C)]
#[derive(Clone, Copy, Default)]
struct Pair {
    letter: u16,
    glyph: u16,
}

/// The kernel's `struct unimapdesc`.
#[repr(C)]
struct Map {
    count: u16,
    pairs: *mut Pair,
}

/// The kernel's `struct unimapinit`.
#[repr(C)]
#[derive(Default)]
struct MapHints {
    size: u16,
    step: u16,
    level: u16,
}

/// The kernel's `struct kbentry`.
#[repr(C)]
struct KeyEntry {
    table: u8,
    key: u8,
    value: u16,
}

fn done(result: libc::c_int) -> io::Result<()> {
    if result < 0 { Err(io::Error::last_os_error()) } else { Ok(()) }
}

/// The glyphs of a console.
///
/// # Errors
/// When it has none of its own, as in text mode or on a serial line.
pub(crate) fn glyphs(console: &File) -> io::Result<Glyphs> {
    let mut data = vec![0u8; MOST_GLYPHS * PITCH * WIDEST];
    let mut op =
        FontOp { op: GET, flags: 0, width: 32, height: 32, count: MOST_GLYPHS as u32, data: data.as_mut_ptr() };
    // SAFETY: the kernel writes the structure and at most 512 glyphs of 32 rows of 4 bytes, which is how long the buffer is; both live until
    // the call returns.
    done(unsafe { libc::ioctl(console.as_raw_fd(), KDFONTOP as _, &raw mut op) })?;
    if !(1..=32).contains(&op.width) || !(1..=32).contains(&op.height) || op.count as usize > MOST_GLYPHS {
        return Err(io::Error::other("the console has glyphs of a size that is none"));
    }
    let bytes = op.width.div_ceil(8) as usize;
    let row = |row: &[u8]| row.iter().fold(0u32, |bits, byte| bits << 8 | u32::from(*byte)) << (32 - 8 * bytes);
    let glyph = |glyph: &[u8]| glyph.chunks(bytes).take(op.height as usize).map(row).collect();
    let rows = data.chunks(bytes * PITCH).take(op.count as usize).map(glyph).collect();
    Ok(Glyphs { width: op.width, height: op.height, rows })
}

/// Gives a console these glyphs; its lines and columns change with their size.
///
/// # Errors
/// When it takes none.
pub(crate) fn set_glyphs(console: &File, glyphs: &Glyphs) -> io::Result<()> {
    let bytes = glyphs.width.div_ceil(8) as usize;
    let mut data = vec![0u8; glyphs.rows.len() * bytes * PITCH];
    for (place, rows) in data.chunks_mut(bytes * PITCH).zip(&glyphs.rows) {
        for (place, row) in place.chunks_mut(bytes).zip(rows) {
            place.copy_from_slice(&row.to_be_bytes()[..bytes]);
        }
    }
    let mut op = FontOp {
        op: SET,
        flags: 0,
        width: glyphs.width,
        height: glyphs.height,
        count: glyphs.rows.len() as u32,
        data: data.as_mut_ptr(),
    };
    // SAFETY: the kernel reads the structure and, for each glyph, 32 rows of as many bytes as its width takes, which is how long the buffer
    // is; both live until the call returns.
    done(unsafe { libc::ioctl(console.as_raw_fd(), KDFONTOP as _, &raw mut op) })
}

/// Which letters the glyphs of a console stand for: `(letter, glyph)`.
///
/// # Errors
/// When it has none.
pub(crate) fn letters(console: &File) -> io::Result<Vec<(u16, u16)>> {
    let mut pairs = vec![Pair::default(); u16::MAX as usize];
    let mut map = Map { count: u16::MAX, pairs: pairs.as_mut_ptr() };
    // SAFETY: the kernel writes the structure and at most as many pairs as its count says, which is how long the buffer is; both live until
    // the call returns.
    done(unsafe { libc::ioctl(console.as_raw_fd(), GIO_UNIMAP as _, &raw mut map) })?;
    Ok(pairs.iter().take(map.count as usize).map(|pair| (pair.letter, pair.glyph)).collect())
}

/// Says which letters the glyphs of a console stand for.
///
/// # Errors
/// When it does not take that.
pub(crate) fn set_letters(console: &File, letters: &[(u16, u16)]) -> io::Result<()> {
    let hints = MapHints::default();
    // SAFETY: the kernel reads the structure, which lives until the call returns.
    done(unsafe { libc::ioctl(console.as_raw_fd(), PIO_UNIMAPCLR as _, &raw const hints) })?;
    let mut pairs: Vec<Pair> = letters.iter().map(|(letter, glyph)| Pair { letter: *letter, glyph: *glyph }).collect();
    let count = u16::try_from(pairs.len()).map_err(io::Error::other)?;
    let map = Map { count, pairs: pairs.as_mut_ptr() };
    // SAFETY: the kernel reads the structure and as many pairs as its count says, which is how long the buffer is; both live until the call
    // returns.
    done(unsafe { libc::ioctl(console.as_raw_fd(), PIO_UNIMAP as _, &raw const map) })
}

/// Says what a key means in one of the tables of the keyboard.
///
/// # Errors
/// When the console has no keyboard, or the kernel does not take it.
pub(crate) fn set_key(console: &File, table: u8, key: u8, value: u16) -> io::Result<()> {
    let entry = KeyEntry { table, key, value };
    // SAFETY: the kernel reads the structure, which lives until the call returns.
    done(unsafe { libc::ioctl(console.as_raw_fd(), KDSKBENT as _, &raw const entry) })
}
