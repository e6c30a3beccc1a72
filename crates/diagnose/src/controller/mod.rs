//! What the registers of a memory controller say of where addresses are: from a saved set of registers to an address map over
//! *positions* (controller, channel, slot of the channel). Which name a mainboard prints beside a position is another question.
//!
//! Pure: reading is done by whoever has a [`RegisterBus`]. Only controllers that are listed by their exact identifier are read,
//! and a map is given only where everything that the registers say fits together.
//!
//! What is read of which family, from which documents, and what is refused: `docs/method/address-maps.md`.

mod channel;
mod client;
mod fabric;
mod family;
mod in_force;
mod labels;
mod northbridge;
mod position_map;
mod read;
mod refusal;
mod registers;
mod shown;
#[cfg(test)]
pub(crate) mod tests;

use revisum_record::fitted::Board;

pub use channel::{Channel, Inside, Select};
pub use family::Family;
pub use in_force::{InForce, in_force};
pub use labels::{Labelled, Naming};
pub use position_map::{Interleave, Position, PositionMap, Spread, Zone};
pub use read::{NoRead, RegisterBus, read};
pub use refusal::{Contradiction, Refusal, Undocumented};
pub use registers::{Place, Registers, RegistersError};
pub use shown::ShownChannels;

/// What a set of registers comes to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Decoded {
    /// The family of controllers.
    pub family: Family,
    /// Where addresses are.
    pub map: PositionMap,
}

/// A decoded controller with the slots of a board.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct KnownController {
    /// The family of controllers.
    pub family: Family,
    /// Where addresses are.
    pub map: Labelled,
}

impl KnownController {
    /// What registers say of the board in which they were read, with what other arrangements of it showed; nothing where none were read.
    ///
    /// # Errors
    /// When they give no map, or it does not fit the board.
    pub fn read(registers: &Registers, board: &Board, shown: &ShownChannels) -> Result<Option<Self>, Refusal> {
        if registers.is_empty() {
            return Ok(None);
        }
        let Decoded { family, map } = decode(registers)?;
        Ok(Some(Self { family, map: Labelled::new(map, board, shown)? }))
    }
}

/// Decodes a set of registers.
///
/// # Errors
/// When the controller is not known, a register is missing, what they say does not fit together, or it is something of which
/// no document is certain.
pub fn decode(registers: &Registers) -> Result<Decoded, Refusal> {
    let family = Family::of(registers)?;
    let map = match family {
        Family::Client2011 | Family::Client2015 => client::decode(registers, family)?,
        Family::Northbridge2007 | Family::Northbridge2011 => northbridge::decode(registers, family)?,
        Family::Fabric2017 => fabric::decode(registers)?,
    };
    Ok(Decoded { family, map })
}
