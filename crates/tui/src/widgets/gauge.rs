//! How far something has come.

use crate::canvas::Canvas;

/// A bar of `width` columns with its label before and its percentage behind.
pub fn draw(canvas: &mut Canvas<'_>, y: u16, label: &str, ratio: f64, width: u16) -> u16 {
    let theme = canvas.theme;
    let at = canvas.put(0, y, theme.label(), label) + 1;
    let at = at.max(6);
    let filled = (ratio.clamp(0.0, 1.0) * f64::from(width)).floor() as u16;
    canvas.put(at, y, theme.label(), &"█".repeat(usize::from(filled)));
    canvas.put(at + filled, y, theme.faint(), &"░".repeat(usize::from(width - filled)));
    canvas.put(at + width + 1, y, theme.strong(), &format!("{:>3.0} %", (ratio * 100.0).floor()))
}
