//! Colours on paper: the roles of the screen, darkened for a light ground.

/// Ink.
pub(crate) const TEXT: &str = "#23262a";
/// Labels.
pub(crate) const LABEL: &str = "#7a776e";
/// Frames and empty things.
pub(crate) const FAINT: &str = "#d5d1c6";
/// Errors.
pub(crate) const ERROR: &str = "#c7432c";
/// Clean.
pub(crate) const CLEAN: &str = "#1f8275";
