//! Parts that several views draw.

pub mod big_words;
pub mod board_strip;
pub mod chrome;
pub mod gauge;
pub mod overlays;
pub mod plot;
pub mod ribbon;
