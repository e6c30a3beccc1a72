//! Handing the machine to another kernel (`kexec_file_load(2)`).

use std::ffi::CStr;
use std::fs::File;
use std::io;
use std::os::fd::AsRawFd;

/// Lays another kernel, its first files and its command line ready.
///
/// # Errors
/// When the kernel refuses: locked down, or no room for it.
pub(crate) fn load(kernel: &File, first_files: &File, line: &CStr) -> io::Result<()> {
    // SAFETY: the kernel reads the command line, whose length with its final zero is given, and which lives until the call returns.
    let done = unsafe {
        libc::syscall(
            libc::SYS_kexec_file_load,
            kernel.as_raw_fd(),
            first_files.as_raw_fd(),
            line.to_bytes_with_nul().len(),
            line.as_ptr(),
            0,
        )
    };
    if done < 0 { Err(io::Error::last_os_error()) } else { Ok(()) }
}
