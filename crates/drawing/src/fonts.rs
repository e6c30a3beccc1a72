//! Our two fonts: how wide text is in them, and which glyphs it consists of.

use ttf_parser::{Face, GlyphId};

/// Open Sans, weight 400.
const REGULAR: &[u8] = include_bytes!("../fonts/OpenSans-Regular.ttf");
/// Open Sans, weight 600.
const SEMIBOLD: &[u8] = include_bytes!("../fonts/OpenSans-Semibold.ttf");

/// Weight of a font.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Weight {
    /// Running text.
    #[default]
    Regular,
    /// Titles.
    Semibold,
}

impl Weight {
    /// Both.
    pub const ALL: [Self; 2] = [Self::Regular, Self::Semibold];

    /// The font file of this weight (TrueType outlines).
    pub fn file(self) -> &'static [u8] {
        match self {
            Self::Regular => REGULAR,
            Self::Semibold => SEMIBOLD,
        }
    }
}

/// One letter as it is set.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Glyph {
    /// The letter.
    pub letter: char,
    /// Its number in the font; 0 where the font lacks it.
    pub id: u16,
    /// Distance to where the next one begins, in units of the font, as long as no pair of letters is moved together.
    pub advance: u16,
    /// By how much the next one is moved, in units of the font; mostly negative.
    pub kerning: i16,
}

/// Both fonts, read.
pub struct Fonts([Face<'static>; 2]);

impl Fonts {
    /// Reads both; nothing when one of them is no font.
    pub fn read() -> Option<Self> {
        let face = |weight: Weight| Face::parse(weight.file(), 0).ok();
        Some(Self([face(Weight::Regular)?, face(Weight::Semibold)?]))
    }

    /// The font itself.
    pub fn face(&self, weight: Weight) -> &Face<'static> {
        &self.0[weight as usize]
    }

    /// The glyphs of a text.
    pub fn glyphs(&self, text: &str, weight: Weight) -> Vec<Glyph> {
        let face = self.face(weight);
        let letters: Vec<(char, GlyphId)> =
            text.chars().map(|letter| (letter, face.glyph_index(letter).unwrap_or_default())).collect();
        let one = |(at, (letter, id)): (usize, &(char, GlyphId))| Glyph {
            letter: *letter,
            id: id.0,
            advance: face.glyph_hor_advance(*id).unwrap_or_default(),
            kerning: letters.get(at + 1).map_or(0, |(_, next)| kerning(face, *id, *next)),
        };
        letters.iter().enumerate().map(one).collect()
    }

    /// Width of a text at this size, in the unit of the size.
    pub fn width(&self, text: &str, weight: Weight, size: f32) -> f32 {
        let units: i32 =
            self.glyphs(text, weight).iter().map(|glyph| i32::from(glyph.advance) + i32::from(glyph.kerning)).sum();
        units as f32 * size / f32::from(self.face(weight).units_per_em())
    }
}

/// By how much a pair is moved together (OpenType 1.9, table `kern`).
fn kerning(face: &Face<'_>, first: GlyphId, second: GlyphId) -> i16 {
    let pairs = face.tables().kern.into_iter().flat_map(|table| table.subtables);
    pairs.filter(|pairs| pairs.horizontal).find_map(|pairs| pairs.glyphs_kerning(first, second)).unwrap_or(0)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("", 0.0)]
    #[case("00", 2.0 * 1171.0 / 2048.0 * 10.0)]
    fn widths_are_the_sum_of_advances(#[case] text: &str, #[case] expected: f32) {
        let fonts = Fonts::read().unwrap();
        assert!((fonts.width(text, Weight::Regular, 10.0) - expected).abs() < 1e-3);
    }

    #[test]
    fn pairs_are_moved_together_and_unknown_letters_have_a_width() {
        let fonts = Fonts::read().unwrap();
        let apart = fonts.width("T", Weight::Regular, 10.0) + fonts.width("o", Weight::Regular, 10.0);
        let together = fonts.width("To", Weight::Regular, 10.0);
        assert!(together < apart && together > apart * 0.8, "{together} {apart}");
        assert_eq!(fonts.glyphs("\u{4e2d}", Weight::Regular)[0].id, 0);
        assert!(fonts.width("\u{4e2d}", Weight::Semibold, 10.0) > 0.0);
    }
}
