//! 0 Jobs: the machines of the workshop, each with what its owner says.

use revisum_core::units::counted;

use crate::tui::canvas::Canvas;
use crate::tui::state::App;

/// Column of what the owner says.
const SAYS: u16 = 18;

/// Draws the list.
pub fn draw(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(SAYS + 4).min(96);
    let roomy = canvas.height() >= 24;
    canvas.put(4, 0, theme.label(), "machine");
    canvas.put(SAYS, 0, theme.label(), "what its owner says");
    let top = 1 + u16::from(roomy);
    let rows = |at: usize| {
        let complaint = app.facts.bench.get(at).map_or("", |machine| machine.complaint.as_str());
        let says = textwrap::wrap(complaint, usize::from(width.max(8))).len() as u16;
        says + 2 * u16::from(roomy)
    };
    let first = first_shown(app.job, canvas.height().saturating_sub(top), &rows);
    let mut y = top;
    let mut below = 0;
    for (at, machine) in app.facts.bench.iter().enumerate().skip(first) {
        if y + rows(at).saturating_sub(u16::from(roomy)) > canvas.height() {
            break;
        }
        let chosen = at == app.job;
        if chosen {
            canvas.put(2, y, theme.attention(), theme.marks.here);
        }
        canvas.put(4, y, if chosen { theme.strong() } else { theme.text() }, &machine.name);
        if roomy {
            let x = canvas.put(SAYS, y, theme.label(), &machine.title);
            canvas.put(x + 3, y, theme.label(), &so_far(app, &machine.name));
            y += 1;
        }
        let style = if chosen { theme.text() } else { theme.label() };
        below = at + 1;
        y += canvas.paragraph(SAYS, y, width, style, &machine.complaint) + u16::from(roomy);
    }
    let more = [(first, "above"), (app.facts.bench.len().saturating_sub(below), "below")];
    let more: Vec<String> =
        more.iter().filter(|(count, _)| *count > 0).map(|(count, place)| format!("{count} more {place}")).collect();
    canvas.put_right(canvas.width().saturating_sub(2), 0, theme.label(), &more.join(", "));
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

/// How often it was run, and how the last run ended.
fn so_far(app: &App, machine: &str) -> String {
    let mut runs = app.logs.iter().filter(|log| log.machine == machine);
    let Some(last) = runs.next() else { return "not run yet".to_owned() };
    let count = 1 + runs.count() as u64;
    format!("{}, the last one: {}", counted(count, "run"), last.outcome.replace('-', " "))
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
