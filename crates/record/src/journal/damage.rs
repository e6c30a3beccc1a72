//! What a reader had to leave out.

use serde::Serialize;

/// What a reader had to leave out.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Damage {
    /// The last line was not complete and was cut off.
    pub torn_tail: bool,
    /// Lines whose checksum or form is wrong.
    pub damaged: u64,
    /// Records missing by their numbers.
    pub missing: u64,
    /// Records that a newer program wrote and this one does not know.
    pub unknown: u64,
}

impl Damage {
    /// A sentence about it; nothing when all is well.
    pub fn sentence(&self) -> Option<String> {
        let mut parts = Vec::new();
        if self.torn_tail {
            parts.push("the last record was torn off and is left out".to_owned());
        }
        if self.damaged > 0 {
            parts.push(format!("{} damaged and left out", revisum_engine::units::counted(self.damaged, "record")));
        }
        if self.missing > 0 {
            parts.push(format!("{} missing", revisum_engine::units::counted(self.missing, "record")));
        }
        if self.unknown > 0 {
            let records = revisum_engine::units::counted(self.unknown, "record");
            parts.push(format!("{records} of a newer program not understood"));
        }
        (!parts.is_empty()).then(|| format!("This journal is not whole: {}.", parts.join("; ")))
    }
}
