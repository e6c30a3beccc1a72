//! What stands in front of a view: help, the list of actions, questions and notices.

use std::path::PathBuf;

use crate::canvas::Canvas;
use crate::keymap::{bindings, matching};
use crate::mark::PROPOSALS;
use crate::pick;
use crate::state::{App, Overlay, Pick};

/// Draws the overlay, if there is one, over the body of the view.
pub fn draw(canvas: &mut Canvas<'_>, app: &App) {
    let Some(overlay) = &app.overlay else { return };
    for y in 0..canvas.height() {
        canvas.fill_row(y, canvas.theme.ground());
    }
    match overlay {
        Overlay::Help => help(canvas, app),
        Overlay::Actions { typed, chosen } => actions(canvas, app, typed, *chosen),
        Overlay::Mark { name, input, chosen, .. } => mark(canvas, name, input.value(), *chosen),
        Overlay::LeaveWhileRunning => question(canvas),
        Overlay::Notice(words) => notice(canvas, words),
        Overlay::Pick { of, chosen } => choice(canvas, app, *of, *chosen),
        Overlay::Words(input) => words(canvas, input.value()),
        Overlay::DriveName(input) => drive_name(canvas, app, input.value()),
        Overlay::BringIn { input, found } => bring_in(canvas, input.value(), found),
        // Drawn above the list that it narrows down.
        Overlay::Find => {}
    }
}

fn help(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    canvas.put(2, 1, theme.strong(), &format!("Keys in {}", app.view.name()));
    let columns = if canvas.width() >= 100 { 2 } else { 1 };
    let all = bindings(app);
    let rows = (all.len() as u16).div_ceil(columns);
    for (at, binding) in (0u16..).zip(&all) {
        let (x, y) = (2 + at / rows * 56, 3 + at % rows);
        canvas.put(x, y, theme.attention(), binding.name);
        canvas.put(x + 8, y, theme.text(), &binding.words);
    }
    canvas.put(
        2,
        4 + rows,
        theme.label(),
        "Arrows, Enter, Esc and digits are enough for everything. Any key closes this.",
    );
}

fn drive_name(canvas: &mut Canvas<'_>, app: &App, typed: &str) {
    let theme = canvas.theme;
    let Some((page, drive)) = app.drive_page.as_ref().and_then(|page| Some((page, page.drives.get(page.at)?))) else {
        return;
    };
    canvas.put(2, 1, theme.error(), &format!("Everything on {} will be lost", drive.name));
    let contents =
        if drive.contents.is_empty() { "nothing that is known".to_owned() } else { drive.contents.join(", ") };
    canvas.put(
        2,
        3,
        theme.label(),
        &format!("{}   {}   on it: {contents}", drive.path, revisum_engine::units::bytes_text(drive.bytes)),
    );
    if page.keep {
        canvas.put(2, 4, theme.text(), "Its results stay, if it is a boot drive already.");
    }
    let x = canvas.put(2, 6, theme.text(), "Type its name to go on: ");
    let x = canvas.put(x, 6, theme.attention(), typed);
    canvas.put(x, 6, theme.attention(), "_");
    canvas.put(2, 8, theme.label(), "Enter go on   Esc leave it as it is");
}

fn bring_in(canvas: &mut Canvas<'_>, typed: &str, found: &[PathBuf]) {
    let theme = canvas.theme;
    canvas.put(2, 1, theme.strong(), "Bring in the records of another drive or folder");
    let width = canvas.width().saturating_sub(4);
    let told = match found.len() {
        0 => "No drive that is mounted here holds records. Mount it and press i again, or type a folder.".to_owned(),
        1 => "This drive holds records:".to_owned(),
        several => format!("{several} drives hold records; ↑↓ chooses another:"),
    };
    let rows = canvas.paragraph(2, 3, width, theme.label(), &told);
    let typed = canvas.paragraph(2, 4 + rows, width, theme.attention(), &format!("{typed}_"));
    let y = 5 + rows + typed;
    let words = "Runs and jobs are copied and compared; what is here already is left alone, and nothing on the drive is changed.";
    let rows = canvas.paragraph(2, y, width, theme.text(), words);
    canvas.put(2, y + rows + 1, theme.label(), "Enter bring them in   Esc leave it");
}

fn actions(canvas: &mut Canvas<'_>, app: &App, typed: &str, chosen: usize) {
    let theme = canvas.theme;
    let x = canvas.put(2, 1, theme.strong(), "Actions");
    let x = canvas.put(x + 2, 1, theme.attention(), typed);
    canvas.put(x, 1, theme.attention(), "_");
    let found = matching(bindings(app), typed);
    let chosen = chosen.min(found.len().saturating_sub(1));
    for (at, binding) in (0u16..).zip(&found) {
        let here = usize::from(at) == chosen;
        if here {
            canvas.put(2, 3 + at, theme.attention(), theme.marks.here);
        }
        canvas.put(4, 3 + at, if here { theme.strong() } else { theme.text() }, &binding.words);
        canvas.put(50, 3 + at, theme.label(), binding.name);
    }
    let below = 4 + found.len() as u16;
    let words = if found.is_empty() {
        "Nothing has this in its name. Esc closes."
    } else {
        "↑↓ choose   Enter do it   type to narrow down   Esc close"
    };
    canvas.put(2, below, theme.label(), words);
}

fn mark(canvas: &mut Canvas<'_>, name: &str, typed: &str, chosen: usize) {
    let theme = canvas.theme;
    canvas.put(2, 1, theme.strong(), &format!("Mark {name}"));
    let x = canvas.put(2, 2, theme.label(), "What is on it, to know it again on the table: ");
    let x = canvas.put(x, 2, theme.attention(), typed);
    canvas.put(x, 2, theme.attention(), "_");
    for (at, proposal) in (0u16..).zip(PROPOSALS) {
        let here = typed.is_empty() && usize::from(at) == chosen;
        if here {
            canvas.put(2, 4 + at, theme.attention(), theme.marks.here);
        }
        canvas.put(4, 4 + at, if here { theme.strong() } else { theme.text() }, proposal);
    }
    let below = 5 + PROPOSALS.len() as u16;
    canvas.put(2, below, theme.label(), "↑↓ choose, or type another   Enter keep it   Esc leave it as it is");
}

fn choice(canvas: &mut Canvas<'_>, app: &App, of: Pick, chosen: usize) {
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(4);
    let top = canvas.paragraph(2, 1, width, theme.strong(), &pick::title(app, of)) + 2;
    let lines = pick::lines(app, of);
    let room = usize::from(canvas.height().saturating_sub(top + 2)).max(1);
    let first = if chosen < lines.len() { (chosen + 1).saturating_sub(room) } else { 0 };
    for (y, (at, line)) in (top..).zip(lines.iter().enumerate().skip(first).take(room)) {
        if at == chosen {
            canvas.put(2, y, theme.attention(), theme.marks.here);
        }
        canvas.put(4, y, if at == chosen { theme.strong() } else { theme.text() }, line);
    }
    let below = top + 1 + lines.len().min(room) as u16;
    canvas.put(2, below, theme.label(), "↑↓ choose   Enter do it   Esc close");
}

fn words(canvas: &mut Canvas<'_>, typed: &str) {
    let theme = canvas.theme;
    canvas.put(2, 1, theme.strong(), "Anything else that was told");
    let width = canvas.width().saturating_sub(4);
    let rows = canvas.paragraph(2, 3, width, theme.attention(), &format!("{typed}_"));
    canvas.put(2, 4 + rows, theme.label(), "Enter keep it   Esc leave it as it was");
}

fn question(canvas: &mut Canvas<'_>) {
    let theme = canvas.theme;
    canvas.put(2, 1, theme.strong(), "A run is going on.");
    let width = canvas.width().saturating_sub(4).min(90);
    canvas.paragraph(
        2,
        3,
        width,
        theme.text(),
        "Leaving stops it. What it found so far is recorded and stays in the logs.",
    );
    canvas.put(2, 5, theme.attention(), "Enter");
    canvas.put(8, 5, theme.text(), "stop and leave");
    canvas.put(26, 5, theme.attention(), "any other key");
    canvas.put(40, 5, theme.text(), "stay");
}

fn notice(canvas: &mut Canvas<'_>, words: &str) {
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(4).min(90);
    let rows = canvas.paragraph(2, 1, width, theme.text(), words);
    canvas.put(2, 2 + rows, theme.label(), "Any key closes this.");
}
