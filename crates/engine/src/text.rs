//! Text that comes from firmware and files is data: it is cleaned before anybody looks at it.

use std::borrow::Cow;

use unicode_properties::{GeneralCategory, UnicodeGeneralCategory};

/// Makes foreign text safe to print: control characters become spaces, invisible and direction marks go, runs of white
/// space shrink to one space, and no more than `longest` characters remain.
///
/// A firmware string with an escape sequence could otherwise rewrite the screen or the title of the terminal.
pub fn cleaned(text: &str, longest: usize) -> String {
    let visible = text.chars().filter_map(shown_as);
    let mut out = String::new();
    let mut kept = 0;
    for c in visible {
        if kept == longest {
            out.push('…');
            break;
        }
        if c.is_whitespace() {
            if out.is_empty() || out.ends_with(' ') {
                continue;
            }
            out.push(' ');
        } else {
            out.push(c);
        }
        kept += 1;
    }
    out.truncate(out.trim_end().len());
    out
}

/// At most so many signs: the middle gives way, because names of slots and files differ at their ends.
pub fn squeezed(text: &str, most: usize) -> Cow<'_, str> {
    let signs: Vec<char> = text.chars().collect();
    if signs.len() <= most {
        return Cow::Borrowed(text);
    }
    let kept = most.saturating_sub(1);
    // Both halves; the end, where numbers are, has the odd one.
    let (before, behind) = (kept / 2, kept - kept / 2);
    let halves = [&signs[..before], &['…'][..], &signs[signs.len() - behind..]];
    Cow::Owned(halves.concat().into_iter().collect())
}

/// Text as it may go to a terminal, a document or a table, in one line: what would steer any of them is gone.
pub fn shown(text: &str) -> Cow<'_, str> {
    if text.chars().all(|c| shown_as(c) == Some(c)) {
        return Cow::Borrowed(text);
    }
    Cow::Owned(text.chars().filter_map(shown_as).collect())
}

/// Text as a cell of a table that a spreadsheet may open: nothing in it is taken for a formula.
pub fn cell(text: &str) -> Cow<'_, str> {
    let text = shown(text);
    match text.trim_start().chars().next() {
        Some('=' | '+' | '-' | '@' | '＝' | '＋' | '－' | '＠' | '|' | '%') => Cow::Owned(format!("'{text}")),
        _ => text,
    }
}

/// What a character is shown as: a space for control characters and for those that end a line or a paragraph; nothing for what
/// has no form of its own and changes how other text is read: direction marks, joiners, tags, fillers (Unicode, UAX #9 and UAX #44).
pub fn shown_as(c: char) -> Option<char> {
    if c.is_ascii() {
        return Some(if c.is_ascii_control() { ' ' } else { c });
    }
    match c.general_category() {
        GeneralCategory::Control | GeneralCategory::LineSeparator | GeneralCategory::ParagraphSeparator => Some(' '),
        GeneralCategory::Format | GeneralCategory::Unassigned => None,
        _ if is_filler(c) => None,
        _ => Some(c),
    }
}

/// Letters and marks that are drawn as nothing.
fn is_filler(c: char) -> bool {
    matches!(
        c,
        '\u{34f}' | '\u{115f}' | '\u{1160}' | '\u{17b4}' | '\u{17b5}' | '\u{180b}'..='\u{180f}' | '\u{2800}' | '\u{3164}' | '\u{ffa0}'
            | '\u{fe00}'..='\u{fe0f}' | '\u{e0100}'..='\u{e01ef}'
    )
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("DIMM_A1", 10, "DIMM_A1")]
    #[case("Controller0-ChannelA-DIMM0", 16, "Control…lA-DIMM0")]
    #[case("Kanäle-öffnen", 7, "Kan…nen")]
    #[case("abc", 1, "…")]
    #[case("abc", 0, "…")]
    fn the_middle_gives_way(#[case] text: &str, #[case] most: usize, #[case] expected: &str) {
        assert_eq!(squeezed(text, most), expected);
    }

    #[rstest]
    #[case("  HD8G32J  \0\0", "HD8G32J")]
    #[case("\x1b[2Jgone\x07", "[2Jgone")]
    #[case("a\u{202e}b\u{9b}31mc", "ab 31mc")]
    #[case("\n\n", "")]
    #[case("a\u{2028}b\u{e0041}c\u{61c}\u{ad}\u{2066}d", "a bcd")]
    fn nothing_that_steers_a_terminal_survives(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(cleaned(text, 40), expected);
    }

    #[rstest]
    #[case("=HYPERLINK(\"x\")", "'=HYPERLINK(\"x\")")]
    #[case(" \t@SUM(A1)", "'  @SUM(A1)")]
    #[case("\u{feff}+1", "'+1")]
    #[case("A1", "A1")]
    fn no_cell_is_a_formula(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(cell(text), expected);
    }

    /// Every character there is, by a second list: that of what must not come through.
    #[test]
    fn no_character_that_steers_is_shown() {
        let steers = |c: char| {
            c.is_control()
                || matches!(
                    c,
                    '\u{ad}' | '\u{61c}' | '\u{180e}' | '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}'
                        | '\u{feff}' | '\u{fff9}'..='\u{fffb}' | '\u{e0000}'..='\u{e007f}'
                )
        };
        for c in ('\0'..=char::MAX).filter(|c| steers(*c)) {
            assert!(matches!(shown_as(c), None | Some(' ')), "{:x}", u32::from(c));
            assert!(!shown(&format!("a{c}b")).contains(c), "{:x}", u32::from(c));
        }
        let plain = "plain words, 1 °C – “so” ü 漢 ✓ ▄ ■ █ ";
        assert_eq!(shown(plain), plain);
    }

    #[test]
    fn length_is_bounded() {
        assert_eq!(cleaned(&"x".repeat(10_000), 10), format!("{}…", "x".repeat(10)));
    }
}
