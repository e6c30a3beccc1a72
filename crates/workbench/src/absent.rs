//! A machine that stands elsewhere and runs nothing: its job is written here, and at most what was saved of it is read.

use std::io;
use std::sync::Arc;
use std::sync::atomic::AtomicBool;
use std::time::Duration;

use revisum_diagnose::address::AddressMap;
use revisum_diagnose::board::{Firmware, RawFirmware, SystemFacts};
use revisum_diagnose::machine::Machine;
use revisum_diagnose::system_log::{LineReader, SystemLog, SystemLogs};
use revisum_engine::host::{Awake, Clock, Counters, EccCount, NoSleep, Reading, Sensors, Sleeper};
use revisum_engine::memory::{LeaseError, LeaseRequest, Memory, MemoryOffer, MemorySource};
use revisum_engine::speed::{Reach, SpeedTrack, Speedometer};

/// The machine of this name; time is that of the clock at hand.
pub fn absent(name: &str, clock: Arc<dyn Clock>) -> Machine {
    without_hardware(Absent { name: name.to_owned(), ..Absent::default() }, clock)
}

/// A machine of which this was saved.
pub fn saved(name: &str, raw: RawFirmware, clock: Arc<dyn Clock>) -> Machine {
    without_hardware(Absent { name: name.to_owned(), raw, is_saved: true }, clock)
}

fn without_hardware(absent: Absent, clock: Arc<dyn Clock>) -> Machine {
    let nothing = Arc::new(absent);
    Machine {
        memory: nothing.clone(),
        own_memory: Arc::default(),
        clock,
        firmware: nothing.clone(),
        sensors: nothing.clone(),
        counters: nothing.clone(),
        awake: nothing.clone(),
        sleeper: nothing.clone(),
        speed: nothing.clone(),
        log: nothing,
        is_here: false,
        hands: None,
    }
}

#[derive(Default)]
struct Absent {
    name: String,
    raw: RawFirmware,
    is_saved: bool,
}

impl MemorySource for Absent {
    fn offer(&self) -> MemoryOffer {
        MemoryOffer::default()
    }

    fn lease(&self, _: &LeaseRequest, _: &dyn Fn(u64, u64) -> bool) -> Result<Arc<dyn Memory>, LeaseError> {
        Err(LeaseError::Elsewhere)
    }
}

impl Firmware for Absent {
    fn raw(&self) -> RawFirmware {
        self.raw.clone()
    }

    fn facts(&self) -> SystemFacts {
        let (guest, saved) = (self.raw.guest, self.is_saved);
        SystemFacts { machine: self.name.clone(), guest, saved, ..SystemFacts::default() }
    }

    fn address_map(&self) -> Option<AddressMap> {
        None
    }
}

impl Sensors for Absent {
    fn temperatures(&self) -> Vec<Reading> {
        Vec::new()
    }
}

impl Counters for Absent {
    fn read(&self) -> Vec<EccCount> {
        Vec::new()
    }
}

impl Awake for Absent {
    fn hold(&self) -> Option<Box<dyn Send>> {
        None
    }
}

impl Sleeper for Absent {
    fn refuses(&self) -> Option<NoSleep> {
        Some(NoSleep::NotOffered)
    }

    fn sleep(&self, _: Duration) -> io::Result<Duration> {
        Err(io::ErrorKind::Unsupported.into())
    }
}

impl Speedometer for Absent {
    fn reach(&self) -> Reach {
        Reach { cores: 1, caches: Vec::new(), widths: Vec::new(), most_bytes: 0 }
    }

    fn open(&self, _: u64, _: &AtomicBool) -> Result<Box<dyn SpeedTrack>, LeaseError> {
        Err(LeaseError::Elsewhere)
    }
}

impl SystemLog for Absent {
    /// Lines of the kernel's log and of what a crash left, where they were saved.
    fn found(&self) -> SystemLogs {
        let mut logs = SystemLogs::default();
        for (name, lines) in [("kernel-log", &self.raw.kernel_log), ("crash-log", &self.raw.crash_log)] {
            if !lines.is_empty() {
                let mut reader = LineReader::default();
                lines.iter().for_each(|line| reader.take(line));
                logs.take(name, reader.entries());
            }
        }
        logs
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_is_read_or_tested_of_it() {
        let machine = absent("west-1", crate::wire::real().clock);
        assert_eq!(machine.firmware.facts().machine, "west-1");
        assert_eq!(machine.firmware.raw(), RawFirmware::default());
        assert_eq!(machine.memory.offer(), MemoryOffer::default());
        let request = LeaseRequest::default();
        assert!(matches!(machine.memory.lease(&request, &|_, _| true), Err(LeaseError::Elsewhere)));
        assert!(!machine.is_here && !machine.is_simulated());
    }

    #[test]
    fn what_was_saved_is_read_and_nothing_is_tested() {
        let line = "EDAC MC0: 2 CE memory read error on DIMM_B1 (page:0x1 offset:0x0)";
        let raw = RawFirmware { kernel_log: vec![line.to_owned()], guest: true, ..RawFirmware::default() };
        let machine = saved("west-1", raw.clone(), crate::wire::real().clock);
        let facts = machine.firmware.facts();
        assert_eq!((machine.firmware.raw(), facts.saved, facts.guest), (raw, true, true));
        let logs = machine.log.found();
        assert_eq!((logs.read, logs.entries[0].count), (vec!["kernel-log".to_owned()], 2));
        assert!(!machine.is_here && machine.memory.lease(&LeaseRequest::default(), &|_, _| true).is_err());
    }
}
