//! A run across the room: the ground in the colour of its outcome, a word and a number as large as the terminal allows, then slot, test,
//! times, where it is recorded, and the one thing to do next.

use revisum_engine::units::{count_text, duration_text};
use revisum_record::outcome::{Judgement, Told};
use revisum_record::run_state::RunState;
use revisum_words as words;

use super::big_words::{self, Pixel};
use super::canvas::Canvas;
use super::run_panel::{Shown, large_words, test_words, time_words};
use crate::say;

/// Slots that are named.
const MOST_SLOTS: usize = 4;

/// Draws it over all of the screen, with the number of the drive where it has one; `marks` say where it is recorded, the longest wording first.
pub fn draw(canvas: &mut Canvas<'_>, run: &Shown<'_>, next: &str, number: Option<u16>, marks: &[String]) {
    let theme = canvas.theme;
    let judgement = Judgement::of(run.state, run.live);
    let style = theme.filled(judgement.grade);
    (0..canvas.height()).for_each(|y| canvas.fill_row(y, style));
    let width = canvas.width().saturating_sub(4);
    let mut small = small_lines(run, &judgement, number);
    // That it is not recorded, and why, is said further up.
    let fits = |mark: &&String| mark.chars().count() <= usize::from(width);
    small.extend(marks.iter().find(fits).filter(|_| run.trouble.is_none()).cloned());
    let corner = if number.is_some() { big_words::ROWS } else { 0 };
    let room = canvas.height().saturating_sub(small.len() as u16 + 5 + corner);
    let lines = fitting(&wordings(&judgement), (width, room), theme.marks.quarter_blocks);
    let mut y = 1;
    for (words, pixel) in &lines {
        match pixel {
            Some(pixel) => {
                let height = pixel.size(words).1;
                big_words::draw_at(&mut canvas.part(2, y, width, height), 0, words, *pixel, style);
                y += height;
            }
            None => {
                canvas.put(2, y, style, words);
                y += 1;
            }
        }
    }
    y += 1;
    let last = canvas.height().saturating_sub(2);
    for line in &small {
        // On a tiny screen the next step is worth more than the last of these.
        if y < last {
            y += canvas.paragraph(2, y, width, style, line);
        }
    }
    canvas.put(2, last, style, next);
    if let Some(number) = number.map(|number| number.to_string()).filter(|_| y + big_words::ROWS < last) {
        // In the corner that nothing else is in.
        let wide = Pixel::Square(1).size(&number).0;
        let left = canvas.width().saturating_sub(wide + 2);
        let mut corner = canvas.part(left, last - big_words::ROWS, wide, big_words::ROWS);
        big_words::draw_at(&mut corner, 0, &number, Pixel::Square(1), style);
    }
}

/// What is said large, one or two lines; the longest wording first.
fn wordings(judgement: &Judgement) -> Vec<Vec<String>> {
    let grade = large_words(judgement);
    match judgement.told().told {
        Told::Errors(count) => {
            let word = if count == 1 { say::big_error() } else { say::big_errors() };
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

fn units() -> [(u64, &'static str, &'static str); 5] {
    [
        (1_000_000, say::million(), "M"),
        (1_000_000_000, say::billion(), say::billion_short()),
        (1_000_000_000_000, say::trillion(), say::trillion_short()),
        (1_000_000_000_000_000, say::quadrillion(), say::quadrillion_short()),
        (1_000_000_000_000_000_000, say::quintillion(), say::quintillion_short()),
    ]
}

/// A count as it is, or as far as it can be read from afar: `47.6 billion`, `47.6 bn`. Never more than it is.
fn counts(count: u64) -> Vec<String> {
    let whole = count_text(count);
    let Some((unit, name, short)) = units().into_iter().rev().find(|(unit, ..)| count >= *unit) else {
        return vec![whole];
    };
    let (before, after) = (count / unit, count % unit / (unit / 10));
    vec![format!("{before}.{after} {name}"), format!("{before}.{after} {short}")]
}

/// The longest wording that can be large, each line as large as it can be; small letters where not even those fit.
fn fitting(all: &[Vec<String>], room: (u16, u16), quarter_blocks: bool) -> Vec<(String, Option<Pixel>)> {
    let sizes: Vec<Pixel> = big_words::sizes(quarter_blocks).collect();
    let large = |lines: &Vec<String>| -> Option<Vec<(String, Pixel)>> {
        let widest = |line: &String| sizes.iter().position(|pixel| pixel.size(line).0 <= room.0);
        let mut at = lines.iter().map(widest).collect::<Option<Vec<usize>>>()?;
        let is_number = lines.first().is_some_and(|line| line.starts_with(|letter: char| letter.is_ascii_digit()));
        let height = |at: &[usize]| at.iter().map(|at| sizes[*at].size("").1).sum::<u16>();
        // The tallest line gives way first. Of equals it is the one below a number, else the first: what limits a word must not be smaller than the word.
        while height(&at) > room.1 {
            let sizes_now = at.iter_mut();
            let tallest =
                if is_number { sizes_now.rev().min_by_key(|at| **at) } else { sizes_now.min_by_key(|at| **at) }?;
            *tallest = Some(*tallest + 1).filter(|next| *next < sizes.len())?;
        }
        Some(lines.iter().cloned().zip(at.iter().map(|at| sizes[*at])).collect())
    };
    // What can be read from afar matters more than that it is long.
    let area = |lines: &[(String, Pixel)]| lines.iter().map(|(_, pixel)| pixel.size("").1).min().unwrap_or(0);
    let mut best: Option<Vec<(String, Pixel)>> = None;
    for lines in all.iter().filter_map(large) {
        if best.as_ref().is_none_or(|best| area(&lines) > area(best)) {
            best = Some(lines);
        }
    }
    let small = || all.last().into_iter().flatten().map(|line| (line.clone(), None)).collect();
    best.map_or_else(small, |lines| lines.into_iter().map(|(line, pixel)| (line, Some(pixel))).collect())
}

fn small_lines(run: &Shown<'_>, judgement: &Judgement, number: Option<u16>) -> Vec<String> {
    let state: &RunState = run.state;
    let number = number.map(|number| format!("{number}   ")).unwrap_or_default();
    let simulated = if state.begin.simulated { format!("   {}", say::chrome_simulated()) } else { String::new() };
    let headline = words::result::headline(judgement);
    let mut lines = vec![format!("{number}{}{simulated}   {headline}", state.begin.machine)];
    if let Some(trouble) = run.trouble {
        lines.push(say::not_recorded_why(trouble));
    }
    let slots: Vec<&str> = state.errors.slots.keys().map(String::as_str).collect();
    if !slots.is_empty() {
        let more = slots.len().saturating_sub(MOST_SLOTS);
        let more = if more > 0 { say::and_more(more) } else { String::new() };
        lines.push(say::in_slots(slots[..slots.len().min(MOST_SLOTS)].join(", "), more));
    }
    if let Some(suspect) = run.suspect.as_ref().filter(|_| !run.live) {
        lines.push(suspect.clone());
    }
    let times = time_words(run, u16::MAX);
    if run.live {
        lines.push(test_words(state, &state.progress));
        // Where no end can be told, or it is held, the words say already for how long it ran.
        let has_end = !state.paused && state.seconds_left().is_some();
        lines.push(if has_end { say::across_so_far(duration_text(judgement.times.ran), times) } else { times });
    } else {
        lines.push(times);
    }
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
    #[case::large((128, 30), true, &["CLEAN"], &[Some(Pixel::Square(3))])]
    #[case::on_a_small_screen((76, 16), true, &["CLEAN"], &[Some(Pixel::Tall)])]
    #[case::on_two_lines((76, 16), true, &["CLEAN", "IN PART"], &[Some(Pixel::Tall), Some(Pixel::Tall)])]
    #[case::with_less_room((76, 12), true, &["24", "ERRORS"], &[Some(Pixel::Tall), Some(Pixel::Square(1))])]
    #[case::limited_with_less_room((76, 12), true, &["CLEAN", "IN PART"], &[Some(Pixel::Square(1)), Some(Pixel::Tall)])]
    #[case::low((76, 7), true, &["CLEAN"], &[Some(Pixel::Square(1))])]
    #[case::tiny((22, 6), true, &["CLEAN"], &[Some(Pixel::Narrow)])]
    #[case::tiny_without_quarters((22, 6), false, &["CLEAN"], &[None])]
    #[case::each_as_large_as_it_can_be((124, 32), true, &["4", "ERRORS"], &[Some(Pixel::Square(6)), Some(Pixel::Square(2))])]
    #[case::the_tallest_gives_way((124, 20), true, &["4", "ERRORS"], &[Some(Pixel::Square(3)), Some(Pixel::Square(2))])]
    fn words_are_as_large_as_fits(
        #[case] room: (u16, u16),
        #[case] quarters: bool,
        #[case] words: &[&str],
        #[case] expected: &[Option<Pixel>],
    ) {
        let all = vec![words.iter().map(|word| (*word).to_owned()).collect::<Vec<_>>()];
        let sizes: Vec<Option<Pixel>> = fitting(&all, room, quarters).into_iter().map(|(_, size)| size).collect();
        assert_eq!(sizes, expected);
    }

    /// Without an end that can be told, how long it ran is said once.
    #[test]
    fn how_long_it_ran_is_said_once() {
        let state = RunState { paused: true, ..RunState::default() };
        let run = Shown { state: &state, live: true, chosen: None, trouble: None, suspect: None, wall_ms: 0 };
        let lines = small_lines(&run, &Judgement::of(&state, true), None);
        assert_eq!(lines.last().map(String::as_str), Some(time_words(&run, u16::MAX).as_str()));
    }
}
