//! Lines under titles: columns share the width by constraints, what does not fit in one is cut off and marked, and the chosen line is in sight.

use ratatui::layout::{Constraint, Layout, Rect};
use ratatui::style::Style;
use unicode_width::UnicodeWidthStr;

use super::canvas::Canvas;

/// A column.
#[derive(Clone, Copy, Debug)]
pub struct Column<'a> {
    /// Its title.
    pub title: &'a str,
    /// Columns that it takes; nothing for as many as its widest text, where there is room.
    pub width: Option<u16>,
    /// Numbers end in line.
    pub right: bool,
    /// It gives way before all others.
    pub yields: bool,
}

/// Columns that one that gives way first keeps as long as others have more.
const YIELDS_TO: u16 = 12;

impl<'a> Column<'a> {
    /// So many columns.
    pub const fn fixed(title: &'a str, columns: u16) -> Self {
        Self { title, width: Some(columns), right: false, yields: false }
    }

    /// As many as its widest text; where there is not room for all, the widest give way first.
    pub const fn fit(title: &'a str) -> Self {
        Self { title, width: None, right: false, yields: false }
    }

    /// The same for numbers.
    pub const fn number(title: &'a str) -> Self {
        Self { title, width: None, right: true, yields: false }
    }

    /// As many as there are left: what is the least important.
    pub const fn rest(title: &'a str) -> Self {
        Self { title, width: None, right: false, yields: true }
    }
}

/// A line: each cell with its style.
pub type Line = Vec<(String, Style)>;

/// Columns between two of them.
const GAP: u16 = 2;

/// Draws titles, and as many of the lines as there is room for, and returns the rows taken. Lines are made only where they are shown.
pub fn draw(
    canvas: &mut Canvas<'_>,
    columns: &[Column<'_>],
    count: usize,
    chosen: Option<usize>,
    line: &dyn Fn(usize) -> Line,
) -> u16 {
    let theme = canvas.theme;
    let room = canvas.height().saturating_sub(1);
    let first = chosen.map_or(0, |chosen| (chosen + 1).saturating_sub(usize::from(room)));
    let shown = (count - first.min(count)).min(usize::from(room));
    let lines: Vec<Line> = (first..first + shown).map(line).collect();
    let areas = areas(columns, &lines, canvas.width());
    for (column, area) in columns.iter().zip(&areas) {
        put(canvas, column, *area, 0, theme.label(), column.title);
    }
    for (y, (at, line)) in (1u16..).zip((first..).zip(lines)) {
        if chosen == Some(at) {
            canvas.put(0, y, theme.attention(), theme.marks.here);
        }
        if chosen.is_some() {
            canvas.line(y, at);
        }
        for ((column, area), (text, style)) in columns.iter().zip(&areas).zip(line) {
            put(canvas, column, *area, y, style, &text);
        }
    }
    canvas.scroll_bar(1, room, first, count);
    1 + shown as u16
}

/// Where the columns lie: the first one behind the mark of the chosen line, the last one before the scroll bar.
fn areas(columns: &[Column<'_>], lines: &[Line], width: u16) -> Vec<Rect> {
    let whole = Rect::new(2, 0, width.saturating_sub(4), 1);
    let gaps = GAP * (columns.len() as u16).saturating_sub(1);
    let widths = widths(columns, lines, whole.width.saturating_sub(gaps));
    Layout::horizontal(widths.into_iter().map(Constraint::Length)).spacing(GAP).split(whole).to_vec()
}

fn widths(columns: &[Column<'_>], lines: &[Line], room: u16) -> Vec<u16> {
    let widest = |at: usize| lines.iter().filter_map(|line| line.get(at)).map(|(text, _)| text.width()).max();
    let wanted = |(at, column): (usize, &Column<'_>)| {
        column.width.unwrap_or_else(|| widest(at).unwrap_or(0).max(column.title.width()) as u16)
    };
    let mut widths: Vec<u16> = columns.iter().enumerate().map(wanted).collect();
    while widths.iter().map(|width| u32::from(*width)).sum::<u32>() > u32::from(room) {
        let yields = |(width, column): &(&mut u16, &Column<'_>)| column.yields && **width > YIELDS_TO;
        let some_yields = widths.iter_mut().zip(columns).any(|pair| yields(&pair));
        let loose = widths.iter_mut().zip(columns).filter(|(_, column)| column.width.is_none());
        match loose.filter(|pair| !some_yields || yields(pair)).map(|(width, _)| width).max() {
            Some(width) if *width > 1 => *width -= 1,
            _ => break,
        }
    }
    widths
}

fn put(canvas: &mut Canvas<'_>, column: &Column<'_>, area: Rect, y: u16, style: Style, text: &str) {
    if area.width == 0 {
        return;
    }
    if column.right {
        canvas.cell_right(area.x, y, area.width, style, text);
    } else {
        canvas.cell(area.x, y, area.width, style, text);
    }
}

#[cfg(test)]
mod tests {
    use ratatui::buffer::Buffer;
    use rstest::rstest;

    use super::*;
    use crate::kit::theme::Theme;

    const COLUMNS: [Column<'_>; 3] = [Column::fixed("slot", 4), Column::fit("what"), Column::number("words")];

    /// The least important column is cut before one that is wider.
    #[test]
    fn what_is_least_important_gives_way_first() {
        let columns = [Column::fit("what"), Column::rest("more")];
        let (wide, narrow) = ("w".repeat(30), "m".repeat(20));
        let line = |_: usize| [wide.clone(), narrow.clone()].map(|text| (text, Theme::full().text())).to_vec();
        assert_eq!(widths(&columns, &[line(0)], 45), [30, 15]);
        assert_eq!(widths(&columns, &[line(0)], 30), [18, 12]);
    }

    #[rstest]
    #[case::all(3, None, 40, &["  slot  what             words", "  A0    everything in 0      0"])]
    #[case::cut(3, None, 26, &["  slot  what       words", "  A0    everythi…      0"])]
    #[case::chosen_in_sight(9, Some(7), 40, &["  slot  what             words", "  A5    everything in 5     50         │"])]
    fn columns_share_the_width(
        #[case] count: usize,
        #[case] chosen: Option<usize>,
        #[case] width: u16,
        #[case] expected: &[&str],
    ) {
        let (theme, area) = (Theme::full(), Rect::new(0, 0, width, 4));
        let mut buffer = Buffer::empty(area);
        let line = |at: usize| {
            let cells = [format!("A{at}"), format!("everything in {at}"), (at * 10).to_string()];
            cells.map(|text| (text, theme.text())).to_vec()
        };
        let rows = draw(&mut Canvas::new(&mut buffer, area, &theme), &COLUMNS, count, chosen, &line);
        let drawn: Vec<String> = (0..2)
            .map(|y| (0..width).map(|x| buffer[(x, y)].symbol()).collect::<String>().trim_end().to_owned())
            .collect();
        assert_eq!(drawn, expected);
        assert_eq!(usize::from(rows), 1 + count.min(3));
    }
}
