//! What this program never needs is given up before it does anything: rights of root, and calls to the system that only harm could want.
//!
//! It reads what strangers wrote, as root, on computers whose memory fails. Should a reader be led astray, or a bit turn over in its own code, the kernel still
//! refuses what is given up here. What testing itself takes stays: memory that is locked, physical addresses, registers, drives.

use std::collections::BTreeMap;
use std::io;

use rustix::thread::{
    CapabilitySet, CapabilitySets, capabilities, remove_capability_from_bounding_set, set_capabilities,
    set_no_new_privs,
};
use seccompiler::{BpfProgram, SeccompAction, SeccompFilter, TargetArch, apply_filter};

/// Rights of root that stay: files of others, locked memory, physical addresses and registers, drives, the next start, priorities and limits, the
/// kernel's log. Also the mark of files that nobody may change, which entries of UEFI have.
const KEPT: CapabilitySet = CapabilitySet::CHOWN
    .union(CapabilitySet::DAC_OVERRIDE)
    .union(CapabilitySet::DAC_READ_SEARCH)
    .union(CapabilitySet::FOWNER)
    .union(CapabilitySet::FSETID)
    .union(CapabilitySet::LINUX_IMMUTABLE)
    .union(CapabilitySet::IPC_LOCK)
    .union(CapabilitySet::SYS_RAWIO)
    .union(CapabilitySet::SYS_ADMIN)
    .union(CapabilitySet::SYS_NICE)
    .union(CapabilitySet::SYS_RESOURCE)
    .union(CapabilitySet::SYSLOG);

/// Calls that are refused from then on: other processes, the kernel's modules and programs, file systems, clocks, names, ports of devices, keys, and rings of
/// calls that no filter sees.
const REFUSED: [i64; 41] = [
    libc::SYS_ptrace,
    libc::SYS_process_vm_readv,
    libc::SYS_process_vm_writev,
    libc::SYS_init_module,
    libc::SYS_finit_module,
    libc::SYS_delete_module,
    libc::SYS_kexec_load,
    libc::SYS_kexec_file_load,
    libc::SYS_bpf,
    libc::SYS_userfaultfd,
    libc::SYS_perf_event_open,
    libc::SYS_add_key,
    libc::SYS_request_key,
    libc::SYS_keyctl,
    libc::SYS_swapon,
    libc::SYS_swapoff,
    libc::SYS_acct,
    libc::SYS_mount,
    libc::SYS_umount2,
    libc::SYS_move_mount,
    libc::SYS_open_tree,
    libc::SYS_fsopen,
    libc::SYS_fsmount,
    libc::SYS_mount_setattr,
    libc::SYS_pivot_root,
    libc::SYS_chroot,
    libc::SYS_setns,
    libc::SYS_unshare,
    libc::SYS_open_by_handle_at,
    libc::SYS_iopl,
    libc::SYS_ioperm,
    libc::SYS_reboot,
    libc::SYS_settimeofday,
    libc::SYS_clock_settime,
    libc::SYS_clock_adjtime,
    libc::SYS_sethostname,
    libc::SYS_setdomainname,
    libc::SYS_quotactl,
    libc::SYS_io_uring_setup,
    libc::SYS_io_uring_enter,
    libc::SYS_io_uring_register,
];

/// Gives up what is never needed, for this thread and all that it starts from now on, other programs among them. What a kernel cannot do is done without.
pub fn give_up_privileges() {
    let _ = set_no_new_privs(true);
    let _ = give_up_rights();
    let _ = refuse_calls();
}

fn give_up_rights() -> io::Result<()> {
    let now = capabilities(None)?;
    for right in now.permitted.difference(KEPT).iter() {
        // Without the right to it the list stays: nothing is gained by a right that is in no other.
        let _ = remove_capability_from_bounding_set(right);
    }
    let kept = |rights: CapabilitySet| rights.intersection(KEPT);
    Ok(set_capabilities(
        None,
        CapabilitySets {
            effective: kept(now.effective),
            permitted: kept(now.permitted),
            inheritable: kept(now.inheritable),
        },
    )?)
}

fn refuse_calls() -> io::Result<()> {
    let calls: BTreeMap<i64, Vec<_>> = REFUSED.into_iter().map(|call| (call, Vec::new())).collect();
    let refused = SeccompAction::Errno(libc::EPERM as u32);
    let filter =
        SeccompFilter::new(calls, SeccompAction::Allow, refused, TargetArch::x86_64).map_err(io::Error::other)?;
    let program: BpfProgram = filter.try_into().map_err(io::Error::other)?;
    apply_filter(&program).map_err(io::Error::other)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// In a thread of its own: the others of this test keep what they have.
    fn given_up<T: Send + 'static>(look: impl FnOnce() -> T + Send + 'static) -> T {
        let thread = std::thread::spawn(|| {
            give_up_privileges();
            look()
        });
        thread.join().unwrap()
    }

    #[test]
    fn what_is_refused_is_refused_from_then_on() {
        let (own, unshared, right) = given_up(|| {
            let own = std::fs::read_to_string("/proc/thread-self/status").unwrap();
            let unshared = rustix::process::chroot("/").unwrap_err();
            (own, unshared, capabilities(None).unwrap())
        });
        let says = |line: &str| own.lines().any(|one| one.split_whitespace().eq(line.split(' ')));
        assert!(says("NoNewPrivs: 1") && says("Seccomp: 2"), "{own}");
        assert_eq!(unshared, rustix::io::Errno::PERM);
        assert!(KEPT.contains(right.permitted) && KEPT.contains(right.effective), "{right:?}");
    }

    /// Files, memory, threads and other programs go on as before.
    #[test]
    fn what_testing_takes_still_works() {
        let before = capabilities(None).unwrap().permitted.intersection(KEPT);
        let (said, memory, rights) = given_up(|| {
            let folder = tempfile::tempdir().unwrap();
            std::fs::write(folder.path().join("a"), "b").unwrap();
            let said = std::process::Command::new("/bin/echo").arg("so").output().unwrap();
            let memory = std::thread::spawn(|| vec![1u8; 1 << 20].len()).join().unwrap();
            (said.stdout, memory, capabilities(None).unwrap().permitted)
        });
        assert_eq!((said, memory), (b"so\n".to_vec(), 1 << 20));
        assert_eq!(rights, before);
    }
}
