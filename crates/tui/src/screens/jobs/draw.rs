//! 0 Jobs: every machine that came in, each with what its owner says and what its job came to.

use revisum_engine::units::counted;

use crate::kit::canvas::Canvas;
use crate::shared::state::Shared;

use super::{Jobs, draw_drives};
use super::rows::{JobRow, job_rows};

/// Column of what the owner says.
const SAYS: u16 = 18;

/// Draws the list.
pub fn draw(canvas: &mut Canvas<'_>, screen: &Jobs, shared: &Shared) {
    if let Some(page) = &screen.drives {
        return draw_drives::draw(canvas, page);
    }
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(SAYS + 4).min(96);
    let roomy = canvas.height() >= 24;
    canvas.put(4, 0, theme.label(), "machine");
    canvas.put(SAYS, 0, theme.label(), "what its owner says");
    let top = 1 + u16::from(roomy);
    let all = job_rows(shared);
    let rows = |at: usize| {
        let says = textwrap::wrap(&all.get(at).map_or_else(String::new, says), usize::from(width.max(8))).len() as u16;
        says.max(1) + 2 * u16::from(roomy)
    };
    let first = first_shown(screen.job, canvas.height().saturating_sub(top), &rows);
    let mut y = top;
    let mut below = 0;
    for (at, row) in all.iter().enumerate().skip(first) {
        if y + rows(at).saturating_sub(u16::from(roomy)) > canvas.height() {
            break;
        }
        let chosen = at == screen.job;
        (y..y + rows(at).min(canvas.height() - y)).for_each(|line| canvas.line(line, at));
        if chosen {
            canvas.put(2, y, theme.attention(), theme.marks.here);
        }
        canvas.cell(4, y, SAYS - 5, if chosen { theme.strong() } else { theme.text() }, row.machine);
        if roomy {
            let mut x = SAYS;
            if let Some(machine) = row.bench {
                x = canvas.put(x, y, theme.label(), &machine.title) + 3;
            }
            let closed = row.job.is_some_and(|job| job.closed.is_some());
            canvas.put(x, y, if closed { theme.clean() } else { theme.label() }, &so_far(screen, row));
            y += 1;
        }
        let style = if chosen { theme.text() } else { theme.label() };
        below = at + 1;
        y += canvas.paragraph(SAYS, y, width, style, &says(row)).max(1) + u16::from(roomy);
    }
    if all.is_empty() {
        canvas.paragraph(4, top, width, theme.text(), "No job is on record here.");
    }
    let more = [(first, "above"), (all.len().saturating_sub(below), "below")];
    let more: Vec<String> =
        more.iter().filter(|(count, _)| *count > 0).map(|(count, place)| format!("{count} more {place}")).collect();
    canvas.put_right(canvas.width().saturating_sub(2), 0, theme.label(), &more.join(", "));
}

/// What was told of the machine.
fn says(row: &JobRow<'_>) -> String {
    let told = row.job.map(|job| job.told.as_str()).filter(|told| !told.is_empty());
    match (row.bench, told) {
        (Some(machine), _) => machine.complaint.clone(),
        (None, Some(told)) => told.to_owned(),
        (None, None) => "nothing was written down".to_owned(),
    }
}

/// The first machine to draw, so that the chosen one and the one after it fit.
fn first_shown(chosen: usize, room: u16, rows: &dyn Fn(usize) -> u16) -> usize {
    let mut taken = 0;
    let mut first = chosen;
    for at in (0..=chosen).rev() {
        taken += rows(at);
        if taken > room {
            break;
        }
        first = at;
    }
    first
}

/// What the job came to, or how far it is.
fn so_far(screen: &Jobs, row: &JobRow<'_>) -> String {
    let Some(job) = row.job.filter(|job| job.runs > 0) else { return "not run yet".to_owned() };
    let runs = counted(job.runs as u64, "run");
    if let Some(answer) = &job.closed {
        let answer = answer.split_once(". ").map_or(answer.as_str(), |(first, _)| first);
        return format!("closed after {runs}: {answer}");
    }
    let last = screen.latest.iter().find(|log| log.machine == row.machine);
    let last = last.map_or_else(String::new, |last| format!(", the last one: {}", last.headline));
    format!("{runs}{last}")
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::first_shown;

    #[rstest]
    #[case(0, 10, 0)]
    #[case(2, 10, 0)]
    #[case(3, 10, 1)]
    #[case(9, 10, 7)]
    #[case(9, 2, 9)]
    fn the_chosen_machine_is_always_shown(#[case] chosen: usize, #[case] room: u16, #[case] first: usize) {
        assert_eq!(first_shown(chosen, room, &|_| 3), first);
    }
}
