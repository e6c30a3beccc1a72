//! A run across the room: the ground in the colour of its outcome, a word and a number as large as the terminal allows, then slot, test,
//! times, and the one thing to do next.

use revisum_engine::units::count_text;
use revisum_record::outcome::{Judgement, Told};
use revisum_record::run_state::RunState;

use super::big_words::{self, Pixel};
use super::canvas::Canvas;
use super::run_panel::{Shown, large_words, test_words, time_words};

/// Draws it over all of the screen.
pub fn draw(canvas: &mut Canvas<'_>, run: &Shown<'_>, next: &str) {
    let theme = canvas.theme;
    let judgement = Judgement::of(run.state, run.live);
    let style = theme.filled(judgement.grade);
    (0..canvas.height()).for_each(|y| canvas.fill_row(y, style));
    let small = small_lines(run, &judgement);
    let room = canvas.height().saturating_sub(small.len() as u16 + 5);
    let width = canvas.width().saturating_sub(4);
    let (words, pixel) = fitting(&wordings(&judgement), (width, room), theme.marks.quarter_blocks);
    let mut y = 1;
    for line in &words {
        match pixel {
            Some(pixel) => {
                let height = pixel.size(line).1;
                big_words::draw_at(&mut canvas.part(2, y, width, height), 0, line, pixel, style);
                y += height;
            }
            None => {
                canvas.put(2, y, style, line);
                y += 1;
            }
        }
    }
    y += 1;
    for line in &small {
        y += canvas.paragraph(2, y, width, style, line);
    }
    let last = canvas.height().saturating_sub(2);
    canvas.put(2, last, style, next);
}

/// What is said large, one or two lines; the longest wording first.
fn wordings(judgement: &Judgement) -> Vec<Vec<String>> {
    let grade = large_words(judgement);
    match judgement.told().told {
        Told::Errors(count) => {
            let word = if count == 1 { "ERROR" } else { "ERRORS" };
            counts(count).into_iter().map(|number| vec![number, word.to_owned()]).collect()
        }
        _ => grade.into_iter().flat_map(|words| [broken(&words), vec![words]]).collect(),
    }
}

/// Words on two lines: each can be larger then.
fn broken(words: &str) -> Vec<String> {
    match words.split_once(' ') {
        Some((first, rest)) => vec![first.to_owned(), rest.to_owned()],
        None => vec![words.to_owned()],
    }
}

const UNITS: [(u64, &str, &str); 5] = [
    (1_000_000, "million", "M"),
    (1_000_000_000, "billion", "bn"),
    (1_000_000_000_000, "trillion", "tn"),
    (1_000_000_000_000_000, "quadrillion", "qd"),
    (1_000_000_000_000_000_000, "quintillion", "qn"),
];

/// A count as it is, or as far as it can be read from afar: `47.6 billion`, `47.6 bn`. Never more than it is.
fn counts(count: u64) -> Vec<String> {
    let whole = count_text(count);
    let Some((unit, name, short)) = UNITS.iter().rev().find(|(unit, ..)| count >= *unit) else { return vec![whole] };
    let (before, after) = (count / unit, count % unit / (unit / 10));
    vec![format!("{before}.{after} {name}"), format!("{before}.{after} {short}")]
}

/// The wording and the size in which it is largest; nothing where not even small letters fit.
fn fitting(all: &[Vec<String>], room: (u16, u16), quarter_blocks: bool) -> (Vec<String>, Option<Pixel>) {
    let fits = |lines: &[String], pixel: Pixel| {
        let sizes = lines.iter().map(|line| pixel.size(line));
        sizes.clone().all(|(width, _)| width <= room.0) && sizes.map(|(_, height)| height).sum::<u16>() <= room.1
    };
    let found = big_words::sizes(quarter_blocks)
        .find_map(|pixel| all.iter().find(|lines| fits(lines, pixel)).map(|lines| (lines.clone(), Some(pixel))));
    found.unwrap_or_else(|| (all.last().cloned().unwrap_or_default(), None))
}

fn small_lines(run: &Shown<'_>, judgement: &Judgement) -> Vec<String> {
    let state: &RunState = run.state;
    let mut lines = vec![format!("{}   {}", state.begin.machine, judgement.headline())];
    let slots: Vec<&str> = state.errors.slots.keys().map(String::as_str).take(4).collect();
    if !slots.is_empty() {
        lines.push(format!("in {}", slots.join(", ")));
    }
    if let Some(suspect) = run.suspect.as_ref().filter(|_| !run.live) {
        lines.push(suspect.clone());
    }
    let times = time_words(run);
    lines.push(if run.live { format!("{}   {times}", test_words(state)) } else { times });
    lines
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(1, &["1"])]
    #[case(999_999, &["999 999"])]
    #[case(1_999_999, &["1.9 million", "1.9 M"])]
    #[case(47_612_345_678, &["47.6 billion", "47.6 bn"])]
    #[case(u64::MAX, &["18.4 quintillion", "18.4 qn"])]
    fn counts_are_read_from_afar_and_never_rounded_up(#[case] count: u64, #[case] expected: &[&str]) {
        assert_eq!(counts(count), expected);
    }

    #[rstest]
    #[case::large((128, 30), true, &["CLEAN"], Some(Pixel::Square(3)))]
    #[case::on_a_small_screen((76, 16), true, &["CLEAN"], Some(Pixel::Square(1)))]
    #[case::tiny((22, 6), true, &["CLEAN"], Some(Pixel::Narrow))]
    #[case::tiny_without_quarters((22, 6), false, &["CLEAN"], None)]
    fn words_are_as_large_as_fits(
        #[case] room: (u16, u16),
        #[case] quarters: bool,
        #[case] words: &[&str],
        #[case] pixel: Option<Pixel>,
    ) {
        let all = vec![vec!["CLEAN".to_owned()]];
        let (found, size) = fitting(&all, room, quarters);
        assert_eq!((found.iter().map(String::as_str).collect::<Vec<_>>().as_slice(), size), (words, pixel));
    }
}
