//! Where an address belongs, as far as anybody knows.

use serde::{Deserialize, Serialize};

use crate::units::{ByteRange, PhysAddr};

/// How sure an attribution is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Certainty {
    /// Only this slot is possible.
    Certain,
    /// By the memory controller's registers, read as documents say, and names that go with them.
    Told,
    /// By a map that nothing has confirmed yet.
    Assumed,
    /// One of several slots.
    OneOf,
    /// Nothing is known.
    Unknown,
}

/// Who tells a run where addresses belong: an address map, the firmware, or nobody.
pub trait Places: Send + Sync {
    /// The slots that an address can be in, and how sure that is; an unknown address can be in any installed one.
    fn slots_of(&self, address: Option<PhysAddr>) -> (Vec<String>, Certainty);
    /// The same slots joined by blanks, with the piece of the address space around the address in which they are the same.
    fn slots_run(&self, address: Option<PhysAddr>) -> (&str, ByteRange);
    /// The addresses of the same column in the rows on both sides of this one's, where that is known.
    fn rows_beside(&self, address: PhysAddr) -> Option<[PhysAddr; 2]>;
}
