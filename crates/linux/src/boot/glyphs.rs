//! Glyphs of the console: those of the kernel, larger, and our own for every mark that a screen shows and the kernel's font does not have.

use std::collections::BTreeSet;

use crate::sys::console_device::Glyphs;

/// Most glyphs that a console takes.
const MOST: usize = 512;
/// The size that the kernel's own glyphs have.
const OWN_WIDTH: u32 = 8;
const OWN_HEIGHT: u32 = 16;

/// A size of text.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum TextSize {
    /// 8 × 16 points.
    Small,
    /// 12 × 24 points.
    Middle,
    /// 16 × 32 points.
    Large,
}

impl TextSize {
    /// All of them, the largest first.
    pub const ALL: [Self; 3] = [Self::Large, Self::Middle, Self::Small];
    /// Columns and rows with which every screen is whole.
    const ROOM: (u32, u32) = (80, 25);

    /// Points across and down.
    pub fn points(self) -> (u32, u32) {
        match self {
            Self::Small => (8, 16),
            Self::Middle => (12, 24),
            Self::Large => (16, 32),
        }
    }

    /// The largest that leaves room for every screen on so many points.
    pub fn largest_for(points: (u32, u32)) -> Self {
        let fits = |size: &Self| {
            let (width, height) = size.points();
            points.0 / width >= Self::ROOM.0 && points.1 / height >= Self::ROOM.1
        };
        Self::ALL.into_iter().find(fits).unwrap_or(Self::Small)
    }

    /// The next one in turn that leaves room for every screen; the small one always does.
    #[must_use]
    pub fn next(self, points: (u32, u32)) -> Self {
        match self {
            Self::Small => Self::largest_for(points),
            Self::Middle => Self::Small,
            Self::Large => Self::Middle,
        }
    }
}

/// A bitmap: rows of points, the leftmost in the highest bit.
#[derive(Clone, Debug, PartialEq, Eq)]
struct Bitmap {
    width: u32,
    rows: Vec<u32>,
}

impl Bitmap {
    fn empty(width: u32, height: u32) -> Self {
        Self { width, rows: vec![0; height as usize] }
    }

    fn height(&self) -> u32 {
        self.rows.len() as u32
    }

    fn at(&self, x: i64, y: i64) -> bool {
        let inside = (0..i64::from(self.width)).contains(&x) && (0..self.rows.len() as i64).contains(&y);
        inside && self.rows[y as usize] >> (31 - x) & 1 == 1
    }

    fn fill(&mut self, across: std::ops::Range<u32>, down: std::ops::Range<u32>) {
        for y in down {
            for x in across.clone() {
                self.rows[y as usize] |= 1 << (31 - x);
            }
        }
    }

    /// Twice as large, with slopes that stay slopes: a corner takes the colour of the two sides that meet there.
    fn doubled(&self) -> Self {
        let mut large = Self::empty(self.width * 2, self.height() * 2);
        for y in 0..i64::from(self.height()) {
            for x in 0..i64::from(self.width) {
                let (own, up, down, left, right) =
                    (self.at(x, y), self.at(x, y - 1), self.at(x, y + 1), self.at(x - 1, y), self.at(x + 1, y));
                let corner = |one: bool, other: bool, against_one: bool, against_other: bool| {
                    if one == other && one != against_one && other != against_other { one } else { own }
                };
                let corners = [
                    corner(left, up, down, right),
                    corner(up, right, left, down),
                    corner(left, down, up, right),
                    corner(down, right, up, left),
                ];
                for (number, set) in corners.into_iter().enumerate() {
                    let (x, y) = (x as u32 * 2 + number as u32 % 2, y as u32 * 2 + number as u32 / 2);
                    if set {
                        large.fill(x..x + 1, y..y + 1);
                    }
                }
            }
        }
        large
    }

    /// Three quarters of the size: each point is what most of the points under it are.
    fn three_quarters(&self) -> Self {
        let mut small = Self::empty(self.width * 3 / 4, self.height() * 3 / 4);
        for y in 0..small.height() {
            for x in 0..small.width {
                // A point covers four thirds of one below, in each direction: whole ones count three, the others what is left.
                let parts = |at: u32| match at % 3 {
                    0 => [(at / 3 * 4, 3), (at / 3 * 4 + 1, 1)],
                    1 => [(at / 3 * 4 + 1, 2), (at / 3 * 4 + 2, 2)],
                    _ => [(at / 3 * 4 + 2, 1), (at / 3 * 4 + 3, 3)],
                };
                let mut weight = 0;
                for (below_y, tall) in parts(y) {
                    for (below_x, wide) in parts(x) {
                        weight += u32::from(self.at(i64::from(below_x), i64::from(below_y))) * tall * wide;
                    }
                }
                if weight >= 8 {
                    small.fill(x..x + 1, y..y + 1);
                }
            }
        }
        small
    }

    fn sized(&self, size: TextSize) -> Self {
        match size {
            TextSize::Small => self.clone(),
            TextSize::Middle => self.doubled().three_quarters(),
            TextSize::Large => self.doubled(),
        }
    }
}

/// Marks that the kernel's font lacks, 8 points across, from the row on that stands beside them.
const MARKS: [(char, usize, &[&str]); 17] = [
    ('✓', 3, &["......##", "......##", ".....##.", ".....##.", "##..##..", ".##.##..", "..####..", "...##..."]),
    ('✗', 3, &["##....##", ".##..##.", "..####..", "...##...", "...##...", "..####..", ".##..##.", "##....##"]),
    ('▶', 2, &["##......", "####....", "######..", "########", "########", "######..", "####....", "##......"]),
    ('›', 4, &[".##.....", "..##....", "...##...", "....##..", "...##...", "..##....", ".##....."]),
    ('‹', 4, &["....##..", "...##...", "..##....", ".##.....", "..##....", "...##...", "....##.."]),
    ('●', 4, &["..####..", ".######.", "########", "########", "########", "########", ".######.", "..####.."]),
    ('…', 10, &["##.##.##", "##.##.##"]),
    ('“', 2, &[".##..##.", "##..##..", "##..##..", "##..##.."]),
    ('”', 2, &["..##..##", "..##..##", "..##..##", ".##..##."]),
    ('„', 10, &["..##..##", "..##..##", ".##..##.", "##..##.."]),
    ('‘', 2, &["...##...", "..##....", "..##...."]),
    ('’', 2, &["...##...", "...##...", "..##...."]),
    ('–', 7, &[".######."]),
    ('—', 7, &["########"]),
    ('−', 7, &[".######."]),
    ('▼', 5, &["########", ".######.", ".######.", "..####..", "..####..", "...##...", "...##..."]),
    ('□', 4, &["########", "##....##", "##....##", "##....##", "##....##", "##....##", "##....##", "########"]),
];

/// Quadrants and their quarters: upper left, upper right, lower left, lower right.
const QUADRANTS: [(char, [bool; 4]); 10] = [
    ('▖', [false, false, true, false]),
    ('▗', [false, false, false, true]),
    ('▘', [true, false, false, false]),
    ('▙', [true, false, true, true]),
    ('▚', [true, false, false, true]),
    ('▛', [true, true, true, false]),
    ('▜', [true, true, false, true]),
    ('▝', [false, true, false, false]),
    ('▞', [false, true, true, false]),
    ('▟', [false, true, true, true]),
];

fn quadrant(quarters: [bool; 4], (width, height): (u32, u32)) -> Bitmap {
    let mut bitmap = Bitmap::empty(width, height);
    for (number, set) in quarters.into_iter().enumerate() {
        let (x, y) = (number as u32 % 2 * (width / 2), number as u32 / 2 * (height / 2));
        if set {
            bitmap.fill(x..x + width / 2, y..y + height / 2);
        }
    }
    bitmap
}

/// Eighths of a block from below (U+2581 on) and from the left (U+258F back).
fn eighths((width, height): (u32, u32)) -> Vec<(char, Bitmap)> {
    let mut all = Vec::new();
    for eighth in 1..8u32 {
        let (mut below, mut left) = (Bitmap::empty(width, height), Bitmap::empty(width, height));
        below.fill(0..width, height - height * eighth / 8..height);
        left.fill(0..(width * eighth).div_ceil(8), 0..height);
        all.extend(char::from_u32(0x2580 + eighth).map(|letter| (letter, below)));
        all.extend(char::from_u32(0x2590 - eighth).map(|letter| (letter, left)));
    }
    all
}

/// Blocks that touch each other: whole, halves, and shades by how many points of a pattern are set.
fn blocks((width, height): (u32, u32)) -> Vec<(char, Bitmap)> {
    let part = |across: std::ops::Range<u32>, down: std::ops::Range<u32>| {
        let mut bitmap = Bitmap::empty(width, height);
        bitmap.fill(across, down);
        bitmap
    };
    // A point of a pattern is as large as one of the small glyphs.
    let dot = (width / OWN_WIDTH).max(1);
    let shade = |is_set: fn(u32, u32) -> bool| {
        let mut bitmap = Bitmap::empty(width, height);
        for (x, y) in (0..height).flat_map(|y| (0..width).map(move |x| (x, y))) {
            if is_set(x / dot, y / dot) {
                bitmap.fill(x..x + 1, y..y + 1);
            }
        }
        bitmap
    };
    vec![
        ('█', part(0..width, 0..height)),
        ('▀', part(0..width, 0..height / 2)),
        ('▄', part(0..width, height / 2..height)),
        ('▌', part(0..width / 2, 0..height)),
        ('▐', part(width / 2..width, 0..height)),
        ('░', shade(|x, y| (x + 2 * (y % 2)).is_multiple_of(4))),
        ('▒', shade(|x, y| (x + y).is_multiple_of(2))),
        ('▓', shade(|x, y| !(x + 2 * (y % 2)).is_multiple_of(4))),
    ]
}

/// A pattern of dots (U+2800 to U+28FF): two across, four down.
fn dots(pattern: u32, (width, height): (u32, u32)) -> Bitmap {
    /// Column and row of each bit.
    const PLACES: [(u32, u32); 8] = [(0, 0), (0, 1), (0, 2), (1, 0), (1, 1), (1, 2), (0, 3), (1, 3)];
    let mut bitmap = Bitmap::empty(width, height);
    let dot = width / 4;
    for (bit, (column, row)) in PLACES.into_iter().enumerate() {
        if pattern >> bit & 1 == 1 {
            let (x, y) = (column * width / 2 + dot / 2, row * height / 4 + dot / 2);
            bitmap.fill(x..x + dot, y..y + dot);
        }
    }
    bitmap
}

/// Whether a letter of the kernel's font is kept: what is typed and read, lines, blocks and arrows; not the pictures of old times.
fn is_wanted(letter: u16) -> bool {
    matches!(letter, 0x20..0x7f | 0xa0..0x180 | 0x2190..0x2200 | 0x2200..0x2300 | 0x2022 | 0x20ac | 0x2500..0x2600)
}

/// Glyphs of our own in this size.
fn own(size: TextSize) -> Vec<(u16, Bitmap)> {
    let points = size.points();
    let mark = |(letter, from, rows): (char, usize, &[&str])| {
        let mut bitmap = Bitmap::empty(OWN_WIDTH, OWN_HEIGHT);
        for (y, row) in rows.iter().enumerate() {
            for (x, _) in row.chars().enumerate().filter(|(_, point)| *point == '#') {
                bitmap.fill(x as u32..x as u32 + 1, (from + y) as u32..(from + y) as u32 + 1);
            }
        }
        (letter, bitmap.sized(size))
    };
    let quadrants = QUADRANTS.into_iter().map(|(letter, quarters)| (letter, quadrant(quarters, points)));
    let all = MARKS.into_iter().map(mark).chain(quadrants).chain(blocks(points)).chain(eighths(points));
    let dots = (0..256u16).map(|pattern| (0x2800 + pattern, dots(u32::from(pattern), points)));
    all.filter_map(|(letter, bitmap)| Some((u16::try_from(u32::from(letter)).ok()?, bitmap))).chain(dots).collect()
}

/// All glyphs in this size with the letters that they stand for, from the kernel's own; nothing where those are of a size that is not known. What the
/// kernel has keeps its place: it fills what it clears with the glyph in the place of the space, whatever that stands for.
pub(super) fn all(kernel: &Glyphs, letters: &[(u16, u16)], size: TextSize) -> Option<(Glyphs, Vec<(u16, u16)>)> {
    if (kernel.width, kernel.height) != (OWN_WIDTH, OWN_HEIGHT) || kernel.rows.len() > MOST {
        return None;
    }
    let own = own(size);
    let ours: BTreeSet<u16> = own.iter().map(|(letter, _)| *letter).collect();
    let mut stands: Vec<(u16, u16)> = Vec::new();
    let mut places: Vec<Option<Bitmap>> = vec![None; MOST];
    for (letter, glyph) in letters.iter().filter(|(letter, _)| is_wanted(*letter) && !ours.contains(letter)) {
        let rows = kernel.rows.get(usize::from(*glyph))?;
        places[usize::from(*glyph)] = Some(Bitmap { width: OWN_WIDTH, rows: rows.clone() }.sized(size));
        stands.push((*letter, *glyph));
    }
    let free: Vec<usize> = (1..MOST).filter(|place| places[*place].is_none()).collect();
    for (place, (letter, bitmap)) in free.into_iter().zip(own) {
        stands.push((letter, place as u16));
        places[place] = Some(bitmap);
    }
    let (width, height) = size.points();
    let rows = places.into_iter().map(|place| place.unwrap_or_else(|| Bitmap::empty(width, height)).rows).collect();
    Some((Glyphs { width, height, rows }, stands))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn drawn(bitmap: &Bitmap) -> Vec<String> {
        let row = |y: i64| (0..i64::from(bitmap.width)).map(|x| if bitmap.at(x, y) { '#' } else { '.' }).collect();
        (0..i64::from(bitmap.height())).map(row).collect()
    }

    fn bitmap(rows: &[&str]) -> Bitmap {
        let mut bitmap = Bitmap::empty(rows[0].len() as u32, rows.len() as u32);
        for (y, row) in (0..).zip(rows) {
            for (x, _) in (0..).zip(row.chars()).filter(|(_, point)| *point == '#') {
                bitmap.fill(x..x + 1, y..y + 1);
            }
        }
        bitmap
    }

    #[rstest]
    #[case::a_slope(&["#.", ".#"], &["##..", "###.", ".###", "..##"])]
    #[case::a_round(&["##", "##"], &[".##.", "####", "####", ".##."])]
    #[case::a_line(&["....", "####", "...."], &["........", "........", "########", "########", "........", "........"])]
    #[case::nothing(&[".."], &["....", "...."])]
    fn a_larger_glyph_keeps_its_form(#[case] small: &[&str], #[case] large: &[&str]) {
        assert_eq!(drawn(&bitmap(small).doubled()), large);
    }

    #[test]
    fn a_stroke_stays_when_it_gets_smaller() {
        let stroke = bitmap(&["..##....", "..##....", "..##....", "..##...."]).three_quarters();
        assert!(drawn(&stroke).iter().all(|row| row == ".##..." || row == "..#..." || row == ".#...."), "{stroke:?}");
    }

    #[rstest]
    #[case((1024, 768), TextSize::Middle)]
    #[case((1280, 800), TextSize::Large)]
    #[case((1920, 1080), TextSize::Large)]
    #[case((640, 480), TextSize::Small)]
    #[case((800, 600), TextSize::Small)]
    fn text_is_as_large_as_every_screen_allows(#[case] points: (u32, u32), #[case] size: TextSize) {
        assert_eq!(TextSize::largest_for(points), size);
        let turn = [size.next(points), size.next(points).next(points), size.next(points).next(points).next(points)];
        assert!(turn.contains(&size) && turn.contains(&TextSize::Small), "{turn:?}");
    }

    /// A font as the kernel has it: 256 glyphs, letters where ASCII has them.
    fn kernel() -> (Glyphs, Vec<(u16, u16)>) {
        let rows = (0..256u32).map(|glyph| vec![glyph << 24; 16]).collect();
        (Glyphs { width: 8, height: 16, rows }, (0x20..0xff).map(|letter| (letter, letter)).collect())
    }

    #[rstest]
    #[case(TextSize::Small)]
    #[case(TextSize::Middle)]
    #[case(TextSize::Large)]
    fn every_mark_of_a_screen_has_a_glyph(#[case] size: TextSize) {
        let (kernel, letters) = kernel();
        let (glyphs, stands) = all(&kernel, &letters, size).unwrap();
        assert!(glyphs.rows.len() <= MOST);
        assert!(glyphs.rows.iter().all(|rows| rows.len() == size.points().1 as usize));
        for letter in "AZaz09✓✗▶›‹●…“”„–−▖▟▌▂ß⠿⣀".chars().filter(|letter| *letter != 'ß')
        {
            assert!(stands.iter().any(|(known, _)| u32::from(*known) == u32::from(letter)), "{letter}");
        }
        let of = |letter: char| stands.iter().find(|(known, _)| u32::from(*known) == u32::from(letter)).unwrap().1;
        let points: u32 = glyphs.rows[usize::from(of('⠿'))].iter().map(|row| row.count_ones()).sum();
        assert_eq!(points, 6 * (size.points().0 / 4).pow(2), "six dots of eight");
        let block = &glyphs.rows[usize::from(of('█'))];
        assert!(block.iter().all(|row| row.count_ones() == size.points().0), "no gap in a block");
        assert_eq!(of(' '), 0x20, "what is cleared is filled with what is there");
    }

    #[test]
    fn glyphs_of_another_size_are_left_as_they_are() {
        let (kernel, letters) = kernel();
        assert_eq!(all(&Glyphs { width: 16, ..kernel }, &letters, TextSize::Small), None);
    }
}
