//! Drawings for documents, made from snapshots of a run. Nothing here knows the terminal.

mod board;
mod location;
mod palette;

pub use board::board_drawing;
pub use location::location_drawing;
