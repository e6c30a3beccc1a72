//! Drawings for documents, made from snapshots of a run. Nothing here knows the terminal.

mod board;
mod palette;

pub use board::board_drawing;
