//! Simulated machines with true faults: the demonstration, and the ground on which locating and isolating are judged.
//!
//! Everything comes out of the same ports as on Linux: firmware tables as real SMBIOS bytes, memory as elements swept
//! over ranges, time as a clock of its own. Faults belong to parts, so that moving a part moves its faults.

mod bench;
mod clock;
mod correction;
mod crash_store;
mod drives;
mod fault;
mod firmware_tables;
mod heat;
mod held;
mod machine_file;
mod mapping;
mod memory;
mod registers;
mod spd_image;
mod spec;
mod speed;
mod timing;
mod warmth;

pub use bench::{Bench, SimOptions, simulated_machine};
pub use clock::{BEGIN_MS, SimClock};
pub use crash_store::CrashStore;
pub use drives::{SimDrives, SimImage};
pub use fault::{Aggressor, Extent, FaultKind, FaultSpec, Keeps, Supply, TwoStates, UnderLoad};
pub use heat::{CoreSpeed, Heat};
pub use machine_file::{SpecError, shipped, shipped_names};
pub use spec::{EarlierRun, IntakeSpec, MachineSpec, ModuleSpec, SlotSpec};
pub use timing::{TimingMemory, TimingSpec};
pub use warmth::{ModuleWarmth, Thermometers};
