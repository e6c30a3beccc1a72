//! Which addresses share a bank, learned from time: two words in one bank but different rows are read more slowly in turns, because each
//! read has to open its row again (a row conflict). What all such pairs have in common are the linear functions of address bits by which
//! the memory controller chooses channel, rank and bank (Pessl et al., USENIX Security 2016; Wang et al., DAC 2020).

mod channels;
mod gf2;
mod learn;
mod sample;
mod timer;
mod view;
mod warmth;

pub use channels::{Channels, Halves, NoChannels, channels};
pub use learn::{Rejected, RowFunctions, learn};
pub use timer::{MemoryTimer, RowTimer};
pub use view::{Turns, View, holes};
pub use warmth::{Second, Warming, channels_by_warmth, learn_by_warmth};
