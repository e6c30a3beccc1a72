//! A module as its banks, rows and columns with the failing words where they are: all of it, one bank, or the words around one.
//!
//! ```text
//! B1: 1 rank of 16 banks, 32 768 rows each
//! bank 0  ············✗···········
//!      1  ························
//!         row 0              32 767
//! ```

use revisum_diagnose::address::Cell;
use revisum_diagnose::locate::FailMap;
use revisum_engine::units::count_text;

use super::canvas::Canvas;
use crate::say;

/// What of a module is shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Window {
    /// Banks from top to bottom, rows from left to right.
    Module,
    /// Rows of the bank of this cell from top to bottom, columns from left to right.
    Bank(Cell),
    /// The same around this cell, a place for every word.
    Around(Cell),
}

/// A module and what of it is shown.
pub struct Picture<'a> {
    /// Its failing words.
    pub map: &'a FailMap,
    /// What of it.
    pub window: Window,
    /// Whether a word is a chosen one.
    pub chosen: &'a dyn Fn(Cell) -> bool,
}

/// The least that something is seen in.
const LEAST: (u16, u16) = (24, 4);
/// Columns of the labels on the left.
const LEFT: u16 = 13;

/// Values along one side, several to a place where there are more than places.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Axis {
    from: u32,
    count: u32,
    places: u16,
}

impl Axis {
    /// All of so many values in at most so many places.
    fn whole(count: u32, room: u16) -> Self {
        let count = count.max(1);
        Self { from: 0, count, places: room.min(u16::try_from(count).unwrap_or(u16::MAX)).max(1) }
    }

    /// The same with as many values in each place: banks come in powers of two.
    fn even(count: u32, room: u16) -> Self {
        let mut places = count.max(1);
        while places > u32::from(room.max(1)) {
            places = places.div_ceil(2);
        }
        Self { places: places as u16, ..Self::whole(count, room) }
    }

    /// One value to a place, with this one in the middle as far as there are so many on both sides.
    fn around(middle: u32, count: u32, room: u16) -> Self {
        let shown = u32::from(room.max(1)).min(count.max(1));
        let from = middle.saturating_sub(shown / 2).min(count.max(1) - shown);
        Self { from, count: shown, places: shown as u16 }
    }

    fn place(self, value: u32) -> Option<u16> {
        let at = value.checked_sub(self.from).filter(|at| *at < self.count)?;
        Some((u64::from(at) * u64::from(self.places) / u64::from(self.count)) as u16)
    }

    /// The first value of a place.
    fn first(self, place: u16) -> u32 {
        self.from + (u64::from(place) * u64::from(self.count)).div_ceil(u64::from(self.places)) as u32
    }

    fn last(self) -> u32 {
        self.from + self.count - 1
    }
}

/// Draws it on the whole canvas and returns the rows it took; none where there is no room.
pub fn draw(canvas: &mut Canvas<'_>, picture: &Picture<'_>) -> u16 {
    let (width, height) = (canvas.width(), canvas.height());
    if width < LEAST.0 || height < LEAST.1 {
        return 0;
    }
    let (across, down) = axes(picture, width - LEFT, height - 2);
    let theme = canvas.theme;
    canvas.put(0, 0, theme.label(), &title(picture));
    labels(canvas, picture, across, down);
    for (y, row) in (1..).zip(marks(picture, across, down).chunks(usize::from(across.places))) {
        let mut x = LEFT;
        for same in row.chunk_by(|a, b| a == b) {
            let (mark, style) = match same[0] {
                Mark::None => ("·", theme.faint()),
                Mark::Failed => (theme.marks.failed, theme.error()),
                Mark::Chosen => (theme.marks.failed, theme.chosen()),
            };
            x = canvas.put(x, y, style, &mark.repeat(same.len()));
        }
    }
    2 + down.places
}

/// What is at a place; what matters more comes later.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Mark {
    None,
    Failed,
    Chosen,
}

/// What is at each place, row by row.
fn marks(picture: &Picture<'_>, across: Axis, down: Axis) -> Vec<Mark> {
    let mut marks = vec![Mark::None; usize::from(across.places) * usize::from(down.places)];
    for (cell, _) in &picture.map.words {
        let Some((x, y)) = place_of(picture, *cell, across, down) else { continue };
        let mark = &mut marks[usize::from(y) * usize::from(across.places) + usize::from(x)];
        // Whether it is a chosen one is asked only where that can still be seen.
        if *mark < Mark::Chosen {
            *mark = if (picture.chosen)(*cell) { Mark::Chosen } else { Mark::Failed };
        }
    }
    marks
}

fn axes(picture: &Picture<'_>, across: u16, down: u16) -> (Axis, Axis) {
    let extent = picture.map.extent;
    match picture.window {
        Window::Module => (Axis::whole(extent.rows, across), Axis::even(extent.ranks * extent.banks, down)),
        Window::Bank(_) => (Axis::whole(extent.columns, across), Axis::whole(extent.rows, down)),
        Window::Around(cell) => {
            (Axis::around(cell.column, extent.columns, across), Axis::around(cell.row, extent.rows, down))
        }
    }
}

fn place_of(picture: &Picture<'_>, cell: Cell, across: Axis, down: Axis) -> Option<(u16, u16)> {
    let (x, y) = match picture.window {
        Window::Module => (cell.row, cell.rank * picture.map.extent.banks + cell.bank),
        Window::Bank(of) | Window::Around(of) if (of.rank, of.bank) != (cell.rank, cell.bank) => return None,
        Window::Bank(_) | Window::Around(_) => (cell.column, cell.row),
    };
    across.place(x).zip(down.place(y))
}

fn title(picture: &Picture<'_>) -> String {
    let (slot, extent) = (&picture.map.slot, picture.map.extent);
    match picture.window {
        Window::Module => say::map_module(slot, extent.ranks, extent.banks, extent.rows),
        Window::Bank(cell) => say::map_bank(slot, cell.rank.to_string(), cell.bank.to_string()),
        Window::Around(cell) => say::map_around(
            slot,
            cell.rank.to_string(),
            cell.bank.to_string(),
            cell.row.to_string(),
            cell.column.to_string(),
        ),
    }
}

fn labels(canvas: &mut Canvas<'_>, picture: &Picture<'_>, across: Axis, down: Axis) {
    let theme = canvas.theme;
    let banks = picture.map.extent.banks;
    let label = |place: u16| match picture.window {
        Window::Module if picture.map.extent.ranks > 1 => {
            let value = down.first(place);
            say::map_rank_bank(value / banks, value % banks)
        }
        Window::Module => say::map_bank_of(down.first(place)),
        _ => say::map_row_of(count_text(down.first(place).into())),
    };
    for place in (0..down.places).step_by(4) {
        canvas.cell(0, 1 + place, LEFT - 1, theme.label(), &label(place));
    }
    let name = if picture.window == Window::Module { say::map_row() } else { say::map_column() };
    let y = 1 + down.places;
    let end = canvas.put(LEFT, y, theme.label(), &format!("{name} {}", count_text(across.from.into())));
    let last = count_text(across.last().into());
    if LEFT + across.places > end + last.len() as u16 {
        canvas.put_right(LEFT + across.places, y, theme.label(), &last);
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use ratatui::buffer::Buffer;
    use ratatui::layout::Rect;
    use revisum_diagnose::address::Extent;
    use rstest::rstest;

    use super::*;
    use crate::kit::theme::Theme;

    const EXTENT: Extent = Extent { ranks: 2, banks: 4, rows: 64, columns: 32 };

    fn cell(rank: u32, bank: u32, row: u32, column: u32) -> Cell {
        Cell { rank, bank, row, column }
    }

    fn drawn(window: Window, (width, height): (u16, u16)) -> (Vec<String>, u16) {
        let words = vec![(cell(1, 3, 63, 31), 1), (cell(0, 1, 16, 8), 1), (cell(0, 1, 16, 9), 1)];
        let map = FailMap { slot: "B1".into(), extent: EXTENT, words };
        let (theme, area) = (Theme::full(), Rect::new(0, 0, width, height));
        let mut buffer = Buffer::empty(area);
        let picture = Picture { map: &map, window, chosen: &|cell| cell.column == 9 };
        let rows = draw(&mut Canvas::new(&mut buffer, area, &theme), &picture);
        let row = |y: u16| (0..width).map(|x| buffer[(x, y)].symbol()).collect::<String>().trim_end().to_owned();
        ((0..height).map(row).collect(), rows)
    }

    #[rstest]
    #[case::all_of_it(Window::Module, 2, "             ····✗···········")]
    #[case::the_last_rank(Window::Module, 8, "             ···············✗")]
    #[case::a_bank(Window::Bank(cell(0, 1, 0, 0)), 3, "             ····✗···········")]
    #[case::around(Window::Around(cell(0, 1, 16, 9)), 5, "row 16       ·······✗✗·······")]
    fn words_are_where_they_failed(#[case] window: Window, #[case] row: usize, #[case] expected: &str) {
        let (lines, rows) = drawn(window, (29, 10));
        assert_eq!(lines[row], expected, "{lines:#?}");
        assert_eq!(rows, 10);
    }

    #[rstest]
    #[case((23, 10))]
    #[case((80, 3))]
    #[case((0, 0))]
    fn nothing_is_drawn_where_there_is_no_room(#[case] size: (u16, u16)) {
        let (lines, rows) = drawn(Window::Module, size);
        assert!(rows == 0 && lines.iter().all(String::is_empty), "{lines:?}");
    }

    #[rstest]
    #[case::all(16, 16, 16)]
    #[case::in_twos(16, 14, 8)]
    #[case::in_fours(32, 8, 8)]
    #[case::few(3, 9, 3)]
    fn banks_are_shared_out_evenly(#[case] count: u32, #[case] room: u16, #[case] places: u16) {
        assert_eq!(Axis::even(count, room).places, places);
    }

    proptest! {
        /// Each value has one place, in ascending order, and each place begins with the value it names.
        #[test]
        fn values_keep_their_order(count in 1u32..1 << 20, room in 1u16..300, value in 0u32..1 << 20) {
            let (axis, value) = (Axis::whole(count, room), value % count);
            let place = axis.place(value).unwrap();
            prop_assert!(place < axis.places && axis.first(place) <= value);
            prop_assert_eq!(axis.place(axis.first(place)), Some(place));
            prop_assert_eq!(axis.place(count), None);
        }

        /// What is looked at is always in sight, alone in its place.
        #[test]
        fn what_is_looked_at_is_in_sight(count in 1u32..1 << 20, room in 1u16..300, value in 0u32..1 << 20) {
            let value = value % count;
            let axis = Axis::around(value, count, room);
            prop_assert_eq!(axis.place(value).map(|place| axis.first(place)), Some(value));
            prop_assert!(axis.last() < count);
        }
    }
}
