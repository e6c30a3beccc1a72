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
    let mut y = 1 + u16::from(roomy);
    for (at, machine) in app.facts.bench.iter().enumerate() {
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
        y += canvas.paragraph(SAYS, y, width, style, &machine.complaint) + u16::from(roomy);
    }
}

/// How often it was run, and how the last run ended.
fn so_far(app: &App, machine: &str) -> String {
    let mut runs = app.logs.iter().filter(|log| log.machine == machine);
    let Some(last) = runs.next() else { return "not run yet".to_owned() };
    let count = 1 + runs.count() as u64;
    format!("{}, the last one: {}", counted(count, "run"), last.outcome.replace('-', " "))
}
