//! What becomes of the program when the system gives it no memory for itself: it says so and ends, with the terminal as it was. Rust's own answer is
//! an abort (`alloc::alloc::handle_alloc_error`), which looks like a fault of the program or of the machine under test.
//!
//! Whoever can do without an allocation still gets the refusal: only the abort that follows where nobody can is answered here. Nothing is
//! allocated on the way, and only calls are made that a signal handler may make (`signal-safety(7)`).

use std::alloc::{GlobalAlloc, Layout, System};
use std::mem::MaybeUninit;
use std::sync::OnceLock;
use std::sync::atomic::{AtomicBool, Ordering};

/// Whether the system ever refused an allocation: an abort is the answer to that then.
static REFUSED: AtomicBool = AtomicBool::new(false);
static FAREWELL: OnceLock<Farewell> = OnceLock::new();
static WORDS: OnceLock<String> = OnceLock::new();
/// Leaves the other page of a terminal and shows its cursor (ECMA-48, DEC private modes 1049 and 25).
const USUAL_SCREEN: &[u8] = b"\x1b[?1049l\x1b[?25h";

/// Allocates as the system does, and notes when it refuses.
pub struct Allocator;

fn noted(given: *mut u8) -> *mut u8 {
    if given.is_null() {
        REFUSED.store(true, Ordering::SeqCst);
    }
    given
}

// SAFETY: every call goes to the system's allocator as it came.
unsafe impl GlobalAlloc for Allocator {
    unsafe fn alloc(&self, layout: Layout) -> *mut u8 {
        // SAFETY: as the caller promises.
        noted(unsafe { System.alloc(layout) })
    }

    unsafe fn alloc_zeroed(&self, layout: Layout) -> *mut u8 {
        // SAFETY: as the caller promises.
        noted(unsafe { System.alloc_zeroed(layout) })
    }

    unsafe fn realloc(&self, old: *mut u8, layout: Layout, size: usize) -> *mut u8 {
        // SAFETY: as the caller promises.
        noted(unsafe { System.realloc(old, layout, size) })
    }

    unsafe fn dealloc(&self, old: *mut u8, layout: Layout) {
        // SAFETY: as the caller promises.
        unsafe { System.dealloc(old, layout) }
    }
}

struct Farewell {
    code: i32,
    terminal: Option<libc::termios>,
}

/// From now on the program ends with this code when there is no memory left for it.
pub fn end_when_short_of_memory(code: u8) {
    if FAREWELL.set(Farewell { code: code.into(), terminal: terminal() }).is_err() {
        return;
    }
    // SAFETY: a zeroed sigaction is a valid one; the handler keeps to what is allowed in a signal handler.
    unsafe {
        let mut action: libc::sigaction = std::mem::zeroed();
        action.sa_sigaction = handle as *const () as usize;
        libc::sigaction(libc::SIGABRT, &raw const action, std::ptr::null_mut());
    }
}

/// These words are said then, behind what the language itself says; of several, the first.
pub fn say_when_short_of_memory(words: String) {
    // Whoever comes second is not heard.
    let _ = WORDS.set(words);
}

/// How the terminal is set, where there is one.
fn terminal() -> Option<libc::termios> {
    let mut set = MaybeUninit::uninit();
    // SAFETY: the call fills the settings when it succeeds, and only then are they read.
    unsafe { (libc::tcgetattr(libc::STDIN_FILENO, set.as_mut_ptr()) == 0).then(|| set.assume_init()) }
}

extern "C" fn handle(_signal: i32) {
    // An abort for another reason has its usual end: `abort(3)` raises the signal again when a handler returns.
    let Some(farewell) = FAREWELL.get().filter(|_| REFUSED.load(Ordering::SeqCst)) else { return };
    // SAFETY: plain calls on descriptors, each allowed in a signal handler; the bytes live as long as the program.
    unsafe {
        if let (Some(before), Some(now)) = (&farewell.terminal, terminal())
            && now.c_lflag != before.c_lflag
        {
            libc::write(libc::STDOUT_FILENO, USUAL_SCREEN.as_ptr().cast(), USUAL_SCREEN.len());
            libc::tcsetattr(libc::STDIN_FILENO, libc::TCSANOW, before);
        }
        if let Some(words) = WORDS.get() {
            libc::write(libc::STDERR_FILENO, words.as_ptr().cast(), words.len());
        }
        libc::_exit(farewell.code);
    }
}
