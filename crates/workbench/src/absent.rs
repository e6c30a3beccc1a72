//! A machine that stands elsewhere and runs nothing: its job is written here, nothing of it is read or tested.

use std::io;
use std::sync::Arc;
use std::sync::atomic::AtomicBool;
use std::time::Duration;

use revisum_diagnose::address::AddressMap;
use revisum_diagnose::board::{Firmware, RawFirmware, SystemFacts};
use revisum_diagnose::machine::Machine;
use revisum_diagnose::system_log::{SystemLog, SystemLogs};
use revisum_engine::host::{Awake, Clock, Counters, EccCount, NoSleep, Reading, Sensors, Sleeper};
use revisum_engine::memory::{LeaseError, LeaseRequest, Memory, MemoryOffer, MemorySource};
use revisum_engine::speed::{Reach, SpeedTrack, Speedometer};

/// The machine of this name; time is that of the clock at hand.
pub fn absent(name: &str, clock: Arc<dyn Clock>) -> Machine {
    let nothing = Arc::new(Absent { name: name.to_owned() });
    Machine {
        memory: nothing.clone(),
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

struct Absent {
    name: String,
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
        RawFirmware::default()
    }

    fn facts(&self) -> SystemFacts {
        SystemFacts { machine: self.name.clone(), ..SystemFacts::default() }
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
    fn found(&self) -> SystemLogs {
        SystemLogs::default()
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
}
