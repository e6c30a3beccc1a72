//! What the machine says of itself, put together, and whether it is right.

mod boot_errors;
mod channels;
mod coverage;
mod events;
mod fact;
pub mod fact_names;
mod finding;
mod findings;
mod firmware;
mod inventory;
mod log_lines;
mod maker;
mod mask;
mod raw;
mod smbios;
mod spd;

pub(crate) use boot_errors::read_record;
pub(crate) use channels::free_channels;
pub use coverage::{Coverage, Part, PartKind, Whole, coverage};
pub(crate) use events::placed;
pub use events::{EventSource, MemoryEvent, slot_named};
pub use fact::{Fact, Facts, Told};
pub use finding::{ErrorCounts, Finding, Found, MissingWhy, ModuleMove, SlotChange, SlotsAt, Trait, Weight};
pub use findings::{Known, findings, findings_of_board};
pub use firmware::{Firmware, SmbiosTables, SystemFacts};
pub use inventory::{Inventory, Unknown, board_of};
pub(crate) use log_lines::{LogLines, hex};
pub use mask::mask;
pub use raw::{MapEntry, MemoryMap, RawFirmware, SYSTEM_RAM, SpdImage, SystemFact};
pub use smbios::SmbiosFacts;
pub use spd::{Profile, Spd, SpdError, Timings};
