//! The stages of a job as one line.

use ratatui::style::Style;
use revisum_words::Said as _;
use unicode_width::UnicodeWidthStr;

use super::canvas::Canvas;
use super::theme::Theme;
use crate::say;
use revisum_record::journal::Stage;
use revisum_records::{Course, Station};

/// Columns between two stages.
const GAP: u16 = 2;

/// Draws them, the open one emphasised. Where not all names fit, those of done stages are left out from the first on, then those of later ones
/// from behind; the open one keeps its name.
pub fn draw(canvas: &mut Canvas<'_>, course: &Course) {
    let theme = canvas.theme;
    let open = course.stations.iter().position(|station| !station.done);
    let room = usize::from(canvas.width().saturating_sub(4));
    let names = names(course, open.unwrap_or(course.stations.len()), theme.marks.passed.width(), room);
    let mut x = 2;
    for (at, (station, name)) in course.stations.iter().zip(names).enumerate() {
        let (mark, style) = looks(theme, *station, Some(at) == open);
        let after = canvas.put(x, 0, style, mark);
        x = name.map_or(after, |name| canvas.put(after + 1, 0, style, name)) + GAP;
    }
}

/// The names that fit; nothing for a stage that is shown by its mark alone.
fn names(course: &Course, open: usize, mark: usize, room: usize) -> Vec<Option<&'static str>> {
    let name = |station: &Station| match station.stage {
        Stage::Found if course.is_open_end => say::stage_narrowed(),
        stage => stage.said(),
    };
    let mut names: Vec<Option<&'static str>> = course.stations.iter().map(|station| Some(name(station))).collect();
    let count = names.len();
    let later = (open + 1..count.saturating_sub(1)).rev().chain((count > open + 1).then(|| count - 1));
    for at in (0..open.min(count)).chain(later) {
        let named: usize = names.iter().flatten().map(|name| name.width() + 1).sum();
        let all = named + count * mark + count.saturating_sub(1) * usize::from(GAP);
        if all <= room {
            break;
        }
        names[at] = None;
    }
    names
}

fn looks(theme: &Theme, station: Station, open: bool) -> (&'static str, Style) {
    match (station.done, open) {
        (true, _) => (theme.marks.passed, theme.label()),
        (false, true) => (theme.marks.here, theme.attention()),
        (false, false) => (theme.marks.open, theme.faint()),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::all(100, 2, "complaint shown found ordered fitted proved restored handed over")]
    #[case::done_ones_first(71, 2, "- - found ordered fitted proved restored handed over")]
    #[case::then_later_ones(62, 2, "- - found ordered fitted proved - handed over")]
    #[case::the_open_one_stays(30, 2, "- - found - - - - -")]
    #[case::all_done(65, 8, "- - - ordered fitted proved restored handed over")]
    fn names_fit(#[case] room: usize, #[case] open: usize, #[case] expected: &str) {
        let stages = [
            Stage::Complaint,
            Stage::Shown,
            Stage::Found,
            Stage::Ordered,
            Stage::Fitted,
            Stage::Proved,
            Stage::Restored,
            Stage::HandedOver,
        ];
        let station = |(at, stage)| Station { stage, done: at < open, at_ms: None };
        let course = Course { stations: (0..).zip(stages).map(station).collect(), ..Course::default() };
        let shown: Vec<&str> = names(&course, open, 1, room).into_iter().map(|name| name.unwrap_or("-")).collect();
        assert_eq!(shown.join(" "), expected);
    }
}
