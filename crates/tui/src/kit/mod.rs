//! What screens are drawn with.

pub mod across;
pub mod bars;
pub mod big_words;
pub mod board_grid;
pub mod board_strip;
pub mod canvas;
pub mod course_line;
#[cfg(test)]
pub mod drawn;
pub mod fail_map;
pub mod gauge;
pub mod moves_drawn;
pub mod plot;
pub mod ribbon;
pub mod run_panel;
pub mod table;
pub mod theme;
pub mod typing;
