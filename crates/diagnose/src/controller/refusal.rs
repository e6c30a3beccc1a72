//! Why registers give no map.

use thiserror::Error;

use super::registers::Place;

/// Why registers give no map.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum Refusal {
    /// No family lists this controller.
    #[error("the controller {vendor:04x}:{device:04x} is not known")]
    Unknown {
        /// Vendor.
        vendor: u16,
        /// Device.
        device: u16,
    },
    /// A register that the family needs was not read.
    #[error("the register {0} was not read")]
    Missing(Place),
    /// What registers say does not fit together.
    #[error("the registers contradict each other: {0}")]
    Contradiction(Contradiction),
    /// A setting of which no document is certain how it works.
    #[error("no document is certain about this: {0}")]
    Undocumented(Undocumented),
}

/// What does not fit together.
#[derive(Clone, Copy, Debug, Error, PartialEq, Eq)]
pub enum Contradiction {
    /// The host bridge's registers are switched off.
    #[error("the controller's registers are switched off")]
    SwitchedOff,
    /// No memory.
    #[error("no channel has memory")]
    NoMemory,
    /// Sizes of modules and the top of memory.
    #[error("the sizes of modules and the end of memory")]
    Sizes,
    /// Sizes of channels.
    #[error("the sizes of channels")]
    Channels,
    /// The window for memory that devices hide.
    #[error("the window for memory under devices")]
    Window,
    /// Two ranges or chip selects answer to one address, or a piece belongs to nobody.
    #[error("one address would have two places, or none")]
    NotOneToOne,
    /// A reserved value.
    #[error("a reserved value")]
    Reserved,
}

/// Of what no document is certain.
#[derive(Clone, Copy, Debug, Error, PartialEq, Eq)]
pub enum Undocumented {
    /// A function that chooses the channel.
    #[error("the function that chooses the channel")]
    ChannelHash,
    /// Stacked or three channels.
    #[error("the order of channels")]
    ChannelOrder,
    /// More than one node.
    #[error("several processors that share memory")]
    Nodes,
    /// Interleaved below and stacked above.
    #[error("channels of unequal size that are interleaved in part")]
    PartlyInterleaved,
    /// A region that is exchanged with another one.
    #[error("an exchanged region of addresses")]
    Exchanged,
    /// Both channels as one of 128 bits.
    #[error("two channels that work as one")]
    Ganged,
    /// Spare or second chip selects.
    #[error("second addresses of a chip select")]
    SecondSelect,
}

impl From<Contradiction> for Refusal {
    fn from(what: Contradiction) -> Self {
        Self::Contradiction(what)
    }
}

impl From<Undocumented> for Refusal {
    fn from(what: Undocumented) -> Self {
        Self::Undocumented(what)
    }
}
