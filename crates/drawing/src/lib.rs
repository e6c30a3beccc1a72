//! Drawings and charts for documents. Each is described once, as a [`Scene`] of shapes and text in our own fonts; the scene is then
//! written as SVG, or onto a page by whoever makes one. Nothing here knows the terminal.

mod board;
mod fonts;
mod location;
mod palette;
mod plot;
mod run;
mod say;
mod scene;
mod speed;
mod svg;

pub use board::board_scene;
pub use fonts::{Fonts, Glyph, Weight};
pub use location::location_scene;
pub use run::{RunLabels, errors_over_time, tests_by_pass};
pub use scene::{Anchor, Colour, Scene, Shape, Text};
pub use speed::{Chart, speed_charts, speed_scene};
pub use svg::svg;
