//! How far something has come.

use super::canvas::Canvas;

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

/// A bar without a label, cut where its parts end; `ends` are shares of the whole, ascending. Returns the column behind its percentage.
pub fn draw_parts(canvas: &mut Canvas<'_>, y: u16, ratio: f64, ends: &[f64], width: u16) -> u16 {
    let theme = canvas.theme;
    let column = |share: f64| (share.clamp(0.0, 1.0) * f64::from(width)).floor() as u16;
    let filled = column(ratio);
    canvas.put(0, y, theme.label(), &"█".repeat(usize::from(filled)));
    canvas.put(filled, y, theme.faint(), &"░".repeat(usize::from(width - filled)));
    // So many cuts that they leave no bar between them say nothing; of two parts that end beside each other the first is shown.
    if ends.len() <= usize::from(width / 3) {
        let mut last = 0;
        for at in ends.iter().map(|end| column(*end)) {
            if at >= last + 2 && at < width {
                canvas.put(at, y, theme.text(), "│");
                last = at;
            }
        }
    }
    canvas.put(width + 1, y, theme.strong(), &format!("{:.0} %", (ratio * 100.0).floor()))
}

#[cfg(test)]
mod tests {
    use ratatui::buffer::Buffer;
    use ratatui::layout::Rect;
    use rstest::rstest;

    use super::*;
    use crate::kit::theme::Theme;

    #[rstest]
    #[case(0.5, &[0.25, 0.75], 20, "█████│████░░░░░│░░░░ 50 %")]
    #[case(1.0, &[0.5, 1.0], 10, "█████│████ 100 %")]
    #[case(0.0, &[0.3, 0.35, 0.8], 10, "░░░│░░░░│░ 0 %")]
    #[case(0.0, &[0.2, 0.4, 0.6, 0.8], 10, "░░░░░░░░░░ 0 %")]
    fn parts(#[case] ratio: f64, #[case] ends: &[f64], #[case] width: u16, #[case] expected: &str) {
        let (theme, area) = (Theme::full(), Rect::new(0, 0, 40, 1));
        let mut buffer = Buffer::empty(area);
        draw_parts(&mut Canvas::new(&mut buffer, area, &theme), 0, ratio, ends, width);
        let drawn: String = (0..40).map(|x| buffer[(x, 0)].symbol().to_owned()).collect();
        assert_eq!(drawn.trim_end(), expected);
    }
}
