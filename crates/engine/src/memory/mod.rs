//! Memory under test: what is held, how it is taken and swept. `revisum-linux` has the real kind, `revisum-sim` the simulated one.

mod layout;
mod lease;
mod own;

pub use layout::{Layout, Segment};
pub use lease::{
    BLOCK_BYTES, BadStretch, Changes, Kept, KeptBy, LeaseError, LeaseRequest, Limit, Load, Memory, MemoryOffer,
    MemorySource, MismatchSink, Streamed,
};
pub use own::OwnMemory;
