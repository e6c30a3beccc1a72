//! Which module moves where: places now on the left, places then on the right, and lines between them.
//!
//! ```text
//!        now                        then
//! A1     green dot   ✓✓  ───┐     empty
//! B1     red dot     ✗✗  ─┐ └──▶  green dot
//! table  empty            └────▶  red dot
//! ```

use ratatui::style::Style;

use super::canvas::Canvas;
use crate::say;

/// A module in a place.
#[derive(Clone, Debug)]
pub struct Block {
    /// What tells it from others.
    pub id: String,
    /// Its name.
    pub name: String,
    /// How it is drawn.
    pub style: Style,
    /// What its runs came to, a mark each.
    pub marks: Vec<(&'static str, Style)>,
}

/// A place with what is in it now and then.
#[derive(Clone, Debug, Default)]
pub struct Place {
    /// Its name.
    pub name: String,
    /// What is in it now.
    pub now: Option<Block>,
    /// What is in it afterwards.
    pub then: Option<Block>,
}

/// Longest name of a place that is shown whole.
const LONGEST_NAME: usize = 12;
/// Columns between the two sides without any line, and of a line.
const GUTTER: u16 = 5;
const LINE: u16 = 2;
/// Columns of a block.
const BLOCK: (u16, u16) = (10, 26);

/// Sides of a cell that a line leaves it by.
const LEFT: usize = 1;
const RIGHT: usize = 2;
const UP: usize = 4;
const DOWN: usize = 8;
/// A cell by the sides that lines leave it by.
const GLYPHS: [&str; 16] = [" ", "─", "─", "─", "│", "┘", "└", "┴", "│", "┐", "┌", "┬", "│", "┤", "├", "┼"];

/// Rows that it takes.
pub fn rows(places: &[Place]) -> u16 {
    1 + places.len() as u16
}

/// Draws it and returns the rows it took; none where there is no room.
pub fn draw(canvas: &mut Canvas<'_>, places: &[Place]) -> u16 {
    let theme = canvas.theme;
    let moves = moves(places);
    let names = places.iter().map(|place| place.name.chars().count()).max().unwrap_or(0).min(LONGEST_NAME) as u16 + 2;
    let gutter = GUTTER + LINE * moves.len() as u16;
    let block = (canvas.width().saturating_sub(names + gutter) / 2).min(BLOCK.1);
    if block < BLOCK.0 || canvas.height() < rows(places) {
        return 0;
    }
    let right = names + block + gutter;
    canvas.put(names, 0, theme.label(), say::moves_now());
    canvas.put(right, 0, theme.label(), say::moves_then());
    for (y, place) in (1u16..).zip(places) {
        canvas.cell(0, y, names - 1, theme.strong(), &place.name);
        draw_block(canvas, place.now.as_ref(), (names, y), block);
        draw_block(canvas, place.then.as_ref(), (right, y), block);
    }
    let cells = lines(places.len(), usize::from(gutter), &moves);
    for (y, row) in (1u16..).zip(&cells) {
        let line: String = row.iter().map(|sides| GLYPHS[*sides]).collect();
        canvas.put(names + block, y, theme.attention(), &line);
    }
    for (_, to) in moves {
        canvas.put(right - 2, 1 + to as u16, theme.attention(), theme.marks.here);
    }
    rows(places)
}

fn draw_block(canvas: &mut Canvas<'_>, block: Option<&Block>, (x, y): (u16, u16), width: u16) {
    let theme = canvas.theme;
    let Some(block) = block else {
        canvas.put(x + 1, y, theme.faint(), say::strip_empty());
        return;
    };
    canvas.put(x, y, block.style, &" ".repeat(usize::from(width)));
    let marks = block.marks.len().min(usize::from(width) / 3) as u16;
    canvas.cell(x + 1, y, width - marks - 3, block.style, &block.name);
    let shown = block.marks.iter().skip(block.marks.len() - usize::from(marks));
    for (at, (mark, style)) in (x + width - marks - 1..).zip(shown) {
        canvas.put(at, y, style.bg(block.style.bg.unwrap_or_default()), mark);
    }
}

/// Rows that a module leaves and comes to, in the order in which their lines turn: what leaves a row turns before what comes to it, so that
/// the two do not run over each other; only where modules change places in a circle they have to.
fn moves(places: &[Place]) -> Vec<(usize, usize)> {
    let mut left = all_moves(places);
    let mut ordered = Vec::new();
    while !left.is_empty() {
        let free = left.iter().position(|(_, to)| left.iter().all(|(from, _)| from != to)).unwrap_or(0);
        ordered.push(left.remove(free));
    }
    ordered
}

fn all_moves(places: &[Place]) -> Vec<(usize, usize)> {
    let to = |id: &str| places.iter().position(|place| place.then.as_ref().is_some_and(|block| block.id == id));
    let from = places.iter().enumerate().filter_map(|(from, place)| Some((from, place.now.as_ref()?)));
    from.filter_map(|(from, block)| Some((from, to(&block.id)?))).filter(|(from, to)| from != to).collect()
}

/// The sides that lines leave each cell by. Each line has a column of its own in which it goes up or down.
fn lines(rows: usize, columns: usize, moves: &[(usize, usize)]) -> Vec<Vec<usize>> {
    let mut cells = vec![vec![0; columns]; rows];
    let last = columns - 2;
    for (at, (from, to)) in moves.iter().enumerate() {
        let turn = 2 + at * usize::from(LINE);
        cells[*from][1] |= RIGHT;
        cells[*from][2..turn].iter_mut().for_each(|cell| *cell |= LEFT | RIGHT);
        cells[*from][turn] |= LEFT | if to > from { DOWN } else { UP };
        let (upper, lower) = (from.min(to), from.max(to));
        cells[upper + 1..*lower].iter_mut().for_each(|row| row[turn] |= UP | DOWN);
        cells[*to][turn] |= RIGHT | if to > from { UP } else { DOWN };
        cells[*to][turn + 1..last].iter_mut().for_each(|cell| *cell |= LEFT | RIGHT);
    }
    cells
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use ratatui::buffer::Buffer;
    use ratatui::layout::Rect;
    use rstest::rstest;

    use super::*;
    use crate::kit::theme::Theme;

    fn places(now: &str, then: &str, theme: &Theme) -> Vec<Place> {
        let block = |letter: char| Block {
            id: letter.into(),
            name: format!("module {letter}"),
            style: theme.lane(),
            marks: vec![("✗", theme.error())],
        };
        let side = |letters: &str, at: usize| letters.chars().nth(at).filter(|letter| *letter != '.').map(block);
        (0..now.len()).map(|at| Place { name: format!("S{at}"), now: side(now, at), then: side(then, at) }).collect()
    }

    fn drawn(now: &str, then: &str, (width, height): (u16, u16)) -> (Vec<String>, u16) {
        let (theme, area) = (Theme::full(), Rect::new(0, 0, width, height));
        let mut buffer = Buffer::empty(area);
        let rows = draw(&mut Canvas::new(&mut buffer, area, &theme), &places(now, then, &theme));
        let row = |y: u16| (0..width).map(|x| buffer[(x, y)].symbol()).collect::<String>().trim_end().to_owned();
        ((0..height).map(row).collect(), rows)
    }

    #[rstest]
    #[case::one_down("a.", ".a", &[
        "    now              then",
        "S0   module a  ✗ ─┐     empty",
        "S1   empty        └──▶  module a  ✗",
    ])]
    #[case::one_up(".a", "a.", &[
        "    now              then",
        "S0   empty        ┌──▶  module a  ✗",
        "S1   module a  ✗ ─┘     empty",
    ])]
    #[case::makes_room("ab.", ".ab", &[
        "    now              then",
        "S0   module a  ✗ ───┐     empty",
        "S1   module b  ✗ ─┐ └──▶  module a  ✗",
        "S2   empty        └────▶  module b  ✗",
    ])]
    #[case::nothing_moves("ab", "ab", &[
        "    now              then",
        "S0   module a  ✗      module a  ✗",
        "S1   module b  ✗      module b  ✗",
    ])]
    fn moves_are_lines(#[case] now: &str, #[case] then: &str, #[case] expected: &[&str]) {
        let (lines, rows) = drawn(now, then, (52, expected.len() as u16));
        let lines: Vec<String> =
            lines.iter().map(|line| line.split_whitespace().collect::<Vec<_>>().join(" ")).collect();
        let expected: Vec<String> =
            expected.iter().map(|line| line.split_whitespace().collect::<Vec<_>>().join(" ")).collect();
        assert_eq!(rows, expected.len() as u16);
        assert_eq!(lines, expected);
    }

    #[rstest]
    #[case::narrow((20, 9))]
    #[case::flat((80, 2))]
    #[case::nothing((0, 0))]
    fn nothing_is_drawn_where_there_is_no_room(#[case] size: (u16, u16)) {
        let (lines, rows) = drawn("a.", ".a", size);
        assert!(rows == 0 && lines.iter().all(String::is_empty), "{lines:?}");
    }

    proptest! {
        /// Every line goes on from cell to cell: what leaves one to the right enters the next from the left, and so on down.
        #[test]
        fn lines_hold_together(order in Just((0..6usize).collect::<Vec<_>>()).prop_shuffle()) {
            let moves: Vec<(usize, usize)> = order.iter().copied().enumerate().filter(|(from, to)| from != to).collect();
            let columns = usize::from(GUTTER + LINE * moves.len() as u16);
            let cells = lines(6, columns, &moves);
            for (y, row) in cells.iter().enumerate() {
                for (x, cell) in row.iter().enumerate().take(columns - 3).skip(2) {
                    prop_assert_eq!(cell & RIGHT > 0, row[x + 1] & LEFT > 0 || x + 1 >= columns - 2, "{:?}", cells);
                    if let Some(below) = cells.get(y + 1) {
                        prop_assert_eq!(cell & DOWN > 0, below[x] & UP > 0);
                    }
                }
            }
        }
    }
}
