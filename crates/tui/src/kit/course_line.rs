//! The stages of a job as one line.

use ratatui::style::Style;
use revisum_words::Said as _;
use unicode_width::UnicodeWidthStr;

use super::canvas::Canvas;
use super::theme::Theme;
use revisum_records::{Course, Station};

/// Columns between two stages.
const GAP: u16 = 2;

/// Draws them, the open one emphasised. Where not all names fit, those of done stages are left out from the first on.
pub fn draw(canvas: &mut Canvas<'_>, course: &Course) {
    let theme = canvas.theme;
    let open = course.present();
    let parts: Vec<(&str, Style, String)> = course
        .stations
        .iter()
        .map(|station| {
            let (mark, style) = looks(theme, *station, open.is_some_and(|open| open == station.stage));
            (mark, style, station.stage.said().to_owned())
        })
        .collect();
    let room = usize::from(canvas.width().saturating_sub(4));
    let width = |named: usize| -> usize {
        let one = |(at, (mark, _, words)): (usize, &(&str, Style, String))| {
            mark.width() + usize::from(GAP) + if at >= named { words.width() + 1 } else { 0 }
        };
        parts.iter().enumerate().map(one).sum()
    };
    // The open one keeps its name.
    let last = course.stations.iter().position(|station| !station.done).unwrap_or(course.stations.len());
    let first = (0..=last).find(|named| width(*named) <= room + usize::from(GAP)).unwrap_or(last);
    let mut x = 2;
    for (at, (mark, style, words)) in parts.iter().enumerate() {
        let after = canvas.put(x, 0, *style, mark);
        x = if at >= first { canvas.put(after + 1, 0, *style, words) } else { after } + GAP;
    }
}

fn looks(theme: &Theme, station: Station, open: bool) -> (&'static str, Style) {
    match (station.done, open) {
        (true, _) => (theme.marks.passed, theme.label()),
        (false, true) => (theme.marks.here, theme.attention()),
        (false, false) => (theme.marks.open, theme.faint()),
    }
}
