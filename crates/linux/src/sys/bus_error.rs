//! Uncorrectable memory errors that the hardware reports arrive as SIGBUS. They become evidence: the bad page is
//! replaced by a fresh one and noted, and the sweep goes on.
//!
//! The handler only stores numbers and maps memory, both allowed at any moment.

#[cfg(test)]
use std::io;
use std::ptr::null_mut;
use std::sync::Once;
use std::sync::atomic::{AtomicU64, AtomicUsize, Ordering};

use super::pagemap::PAGE;

/// si_code of an error that was about to be used (`sigaction(2)`).
const BUS_MCEERR_AR: i32 = 4;
/// si_code of an error that was found before anything used it.
const BUS_MCEERR_AO: i32 = 5;
/// Pools alive at once, tests included.
const MOST_POOLS: usize = 32;
/// Errors remembered; later ones are still survived.
const MOST_ERRORS: usize = 256;

static POOLS: [(AtomicU64, AtomicU64); MOST_POOLS] = [const { (AtomicU64::new(0), AtomicU64::new(0)) }; MOST_POOLS];
static ERRORS: [AtomicU64; MOST_ERRORS] = [const { AtomicU64::new(0) }; MOST_ERRORS];
static COUNT: AtomicUsize = AtomicUsize::new(0);

/// Keeps a pool's addresses known to the handler while it lives.
pub(crate) struct Watched {
    index: usize,
}

impl Watched {
    /// Installs the handler and watches this memory. Nothing when too many pools are alive.
    pub fn watch(ptr: *mut u8, len: usize) -> Option<Self> {
        static INSTALL: Once = Once::new();
        INSTALL.call_once(install);
        let (start, end) = (ptr as u64, ptr as u64 + len as u64);
        forget(start..end);
        for (index, (from, to)) in POOLS.iter().enumerate() {
            if from.compare_exchange(0, start, Ordering::SeqCst, Ordering::SeqCst).is_ok() {
                to.store(end, Ordering::SeqCst);
                return Some(Self { index });
            }
        }
        None
    }
}

impl Drop for Watched {
    fn drop(&mut self) {
        let (from, to) = &POOLS[self.index];
        forget(from.load(Ordering::SeqCst)..to.load(Ordering::SeqCst));
        to.store(0, Ordering::SeqCst);
        from.store(0, Ordering::SeqCst);
    }
}

/// Addresses are used again by later pools: what was reported of an earlier one says nothing about them.
fn forget(range: std::ops::Range<u64>) {
    for page in &ERRORS {
        if range.contains(&page.load(Ordering::SeqCst)) {
            page.store(0, Ordering::SeqCst);
        }
    }
}

/// First bytes of the pages that were reported bad, in all pools since the program began.
pub(crate) fn reported() -> Vec<u64> {
    let count = COUNT.load(Ordering::SeqCst).min(MOST_ERRORS);
    ERRORS[..count].iter().map(|page| page.load(Ordering::SeqCst)).filter(|page| *page != 0).collect()
}

/// True when no error was ever reported: the usual case, cheap to ask.
#[inline]
pub(crate) fn none_reported() -> bool {
    COUNT.load(Ordering::Relaxed) == 0
}

fn install() {
    // SAFETY: a zeroed sigaction is a valid one; the handler keeps to what is allowed in a signal handler. PR_MCE_KILL
    // asks to be told of errors early, as said in prctl(2).
    unsafe {
        let mut action: libc::sigaction = std::mem::zeroed();
        action.sa_sigaction = handle as *const () as usize;
        action.sa_flags = libc::SA_SIGINFO;
        libc::sigaction(libc::SIGBUS, &raw const action, null_mut());
        libc::prctl(libc::PR_MCE_KILL, libc::PR_MCE_KILL_SET, libc::PR_MCE_KILL_EARLY, 0, 0);
    }
}

extern "C" fn handle(_signal: i32, info: *mut libc::siginfo_t, _context: *mut libc::c_void) {
    // SAFETY: the kernel passes valid information with SA_SIGINFO.
    let (code, address) = unsafe { ((*info).si_code, (*info).si_addr() as u64) };
    let page = address / PAGE * PAGE;
    let hardware = matches!(code, BUS_MCEERR_AR | BUS_MCEERR_AO);
    let ours = POOLS.iter().any(|(from, to)| (from.load(Ordering::SeqCst)..to.load(Ordering::SeqCst)).contains(&page));
    if !(hardware && ours && replace(page)) {
        // Not a bad page of a pool: let it have its usual end. It strikes again on return.
        // SAFETY: setting a default action is allowed here.
        unsafe { libc::signal(libc::SIGBUS, libc::SIG_DFL) };
        return;
    }
    let at = COUNT.fetch_add(1, Ordering::SeqCst);
    if at < MOST_ERRORS {
        ERRORS[at].store(page, Ordering::SeqCst);
    }
}

/// Puts a fresh page in the place of the bad one.
fn replace(page: u64) -> bool {
    // SAFETY: the page lies in a watched pool, which holds no Rust objects; mmap is a plain system call.
    let fresh = unsafe {
        libc::mmap(
            page as *mut libc::c_void,
            PAGE as usize,
            libc::PROT_READ | libc::PROT_WRITE,
            libc::MAP_PRIVATE | libc::MAP_ANONYMOUS | libc::MAP_FIXED,
            -1,
            0,
        )
    };
    fresh != libc::MAP_FAILED
}

#[cfg(test)]
/// Sends this process the signal that the kernel sends for a bad page. For tests: no kernel option is needed.
///
/// # Errors
/// When the kernel refuses.
pub(crate) fn pretend(address: u64) -> io::Result<()> {
    // SAFETY: a zeroed siginfo is valid; its fields are laid out as in sigaction(2): signal, errno, code, then, at 16
    // bytes on 64-bit machines, the address. A process may send itself any code.
    let answer = unsafe {
        let mut info: libc::siginfo_t = std::mem::zeroed();
        info.si_signo = libc::SIGBUS;
        info.si_code = BUS_MCEERR_AO;
        (&raw mut info).cast::<u8>().add(16).cast::<u64>().write(address);
        libc::syscall(libc::SYS_rt_tgsigqueueinfo, libc::getpid(), libc::gettid(), libc::SIGBUS, &raw mut info)
    };
    if answer == 0 { Ok(()) } else { Err(io::Error::last_os_error()) }
}
