//! Colours on paper: the roles of the screen, darkened for a light ground.

use crate::scene::Colour;

/// Ink.
pub(crate) const INK: Colour = Colour::solid(0x23, 0x26, 0x2a);
/// Labels.
pub(crate) const LABEL: Colour = Colour::solid(0x6a, 0x67, 0x60);
/// Frames and empty things.
pub(crate) const FAINT: Colour = Colour::solid(0xd5, 0xd1, 0xc6);
/// Lines of a chart's ground.
pub(crate) const GRID: Colour = Colour::solid(0xe4, 0xe1, 0xd8);
/// Where a cache ends.
pub(crate) const CACHE: Colour = Colour::solid(0xb4, 0xb0, 0xa4);
/// Errors.
pub(crate) const ERROR: Colour = Colour::solid(0xc7, 0x43, 0x2c);
/// Clean.
pub(crate) const CLEAN: Colour = Colour::solid(0x1f, 0x82, 0x75);
/// Temperature.
pub(crate) const WARM: Colour = Colour::solid(0x9a, 0x6a, 0x10);
/// Upon something filled.
pub(crate) const PAPER: Colour = Colour::solid(0xff, 0xff, 0xff);
/// Lines of a chart, one after the other.
pub(crate) const SERIES: [Colour; 4] = [INK, CLEAN, WARM, Colour::solid(0x6d, 0x62, 0xb0)];
