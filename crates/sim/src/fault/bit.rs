//! Faults of single bits.

use super::leak::{Climate, Leak};
use super::schedule::Schedule;
use super::{FaultKind, FaultSpec};

/// A moment of the machine.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Moment {
    pub now_ns: u64,
    /// When it woke up last; 0 when it never slept.
    pub woke_ns: u64,
}

/// What a read finds in the sense amplifiers.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Sensing {
    /// What was read last, whichever word that was.
    pub amplifier: u64,
    /// Another row of the bank was open.
    pub opens_row: bool,
    /// Another rank of the module is written at the same time: the data lines turn round.
    pub turns: bool,
}

/// A fault of one bit of one word, as the memory applies it.
#[derive(Clone, Debug)]
pub(crate) struct BitFault {
    kind: FaultKind,
    bit: u64,
    value: bool,
    /// Only in reads that find another row open.
    conflict: bool,
    /// Only in reads while another rank is written.
    turns: bool,
    /// When upsets are due.
    upsets: Schedule,
    /// When it forgets.
    leak: Option<Leak>,
    written_ns: u64,
}

impl BitFault {
    /// The fault as it acts from `now_ns` on; `seed` decides when upsets come.
    pub fn new(spec: &FaultSpec, lane: u8, climate: Climate, now_ns: u64, seed: u64) -> Self {
        let per_hour = if spec.kind == FaultKind::Upset { spec.per_hour } else { 0.0 };
        let seed = seed ^ u64::from(lane) << 56;
        Self {
            kind: spec.kind,
            bit: 1 << lane,
            value: spec.value == 1,
            conflict: spec.conflict,
            turns: spec.turns,
            upsets: Schedule::new(per_hour, spec.growth, now_ns, seed),
            leak: (spec.kind == FaultKind::Retention).then(|| Leak::new(spec, climate, now_ns, seed)),
            written_ns: now_ns,
        }
    }

    /// Lets the stored bit change by itself: for every upset that is due, and by decay.
    pub fn pass_time(&mut self, now: Moment, held: &mut u64) {
        if self.leak.as_mut().is_some_and(|leak| leak.loses(self.written_ns, now)) {
            *held = self.with(*held, self.value);
        }
        self.written_ns = now.now_ns;
        while self.upsets.is_due(now.now_ns) {
            *held ^= self.bit;
        }
    }

    /// Whether it shows only when its row is opened.
    pub fn minds_rows(&self) -> bool {
        self.conflict
    }

    fn holds_value(&self, held: u64) -> bool {
        (held & self.bit != 0) == self.value
    }

    fn with(&self, held: u64, value: bool) -> u64 {
        if value { held | self.bit } else { held & !self.bit }
    }

    /// What is held after `written` was written over `held`.
    pub fn after_write(&self, held: u64, written: u64) -> u64 {
        match self.kind {
            FaultKind::StuckAt => self.with(written, self.value),
            FaultKind::StuckOpen => written & !self.bit | held & self.bit,
            FaultKind::Transition if self.holds_value(held) => self.with(written, self.value),
            FaultKind::WriteDisturb if self.holds_value(held) && self.holds_value(written) => {
                self.with(written, !self.value)
            }
            _ => written,
        }
    }

    /// What a read returns, and what is held after it.
    pub fn read(&self, held: u64, returned: u64, sensing: Sensing) -> (u64, u64) {
        if (self.conflict && !sensing.opens_row) || (self.turns && !sensing.turns) {
            return (returned, held);
        }
        let (right, wrong) = (self.with(returned, self.value), self.with(returned, !self.value));
        match self.kind {
            FaultKind::StuckAt => (right, self.with(held, self.value)),
            FaultKind::StuckOpen => (returned & !self.bit | sensing.amplifier & self.bit, held),
            FaultKind::ReadDestructive if self.holds_value(held) => (wrong, self.with(held, !self.value)),
            FaultKind::DeceptiveRead if self.holds_value(held) => (right, self.with(held, !self.value)),
            FaultKind::IncorrectRead if self.holds_value(held) => (wrong, held),
            _ => (returned, held),
        }
    }
}

#[cfg(test)]
mod tests {
    use revisum_diagnose::address::Cell;
    use rstest::rstest;

    use super::*;

    fn fault(kind: FaultKind, value: u8) -> BitFault {
        let spec = FaultSpec::plain(kind, Cell::default(), 0, value);
        BitFault::new(&spec, 0, Climate { heat: None, refresh_ns: 64_000_000 }, 0, 1)
    }

    /// Held, written, held then: the write side of each kind.
    #[rstest]
    #[case(FaultKind::StuckAt, 1, 1, 0, 1)]
    #[case(FaultKind::Transition, 0, 0, 1, 0)]
    #[case(FaultKind::Transition, 0, 1, 0, 0)]
    #[case(FaultKind::WriteDisturb, 0, 0, 0, 1)]
    #[case(FaultKind::WriteDisturb, 0, 1, 0, 0)]
    #[case(FaultKind::IncorrectRead, 0, 1, 0, 0)]
    #[case(FaultKind::StuckOpen, 0, 0, 1, 0)]
    fn writes(#[case] kind: FaultKind, #[case] value: u8, #[case] held: u64, #[case] word: u64, #[case] then: u64) {
        assert_eq!(fault(kind, value).after_write(held, word), then);
    }

    /// Held, returned, held then: the read side of each kind.
    #[rstest]
    #[case(FaultKind::ReadDestructive, 0, 0, (1, 1))]
    #[case(FaultKind::ReadDestructive, 0, 1, (1, 1))]
    #[case(FaultKind::DeceptiveRead, 0, 0, (0, 1))]
    #[case(FaultKind::IncorrectRead, 1, 1, (0, 1))]
    #[case(FaultKind::StuckAt, 1, 0, (1, 1))]
    #[case(FaultKind::StuckOpen, 0, 1, (0, 1))]
    fn reads(#[case] kind: FaultKind, #[case] value: u8, #[case] held: u64, #[case] then: (u64, u64)) {
        assert_eq!(fault(kind, value).read(held, held, Sensing::default()), then);
    }
}
