//! 2 Board: what is fitted, and what of it can be tested.
//!
//! ```text
//! B1  red dot                               machine       Tarnwerk Holm M2
//!     maker        Haldry                   firmware      1.14 03/02/2030
//!     serial       4A220094                 memory        16 GiB fitted, 15.8 GiB can be tested
//!     before       2026-…  errors found     the owner     Stops dead about twice a night …
//! ```

use revisum_core::board::{Slot, Weight};
use revisum_core::units::{bytes_text, counted};

use crate::tui::canvas::{Canvas, FACT_INDENT};
use crate::tui::state::App;

/// Column of the machine's facts on a wide screen.
const RIGHT: u16 = 58;
const WIDE: u16 = 110;

/// Draws the view.
pub fn draw(canvas: &mut Canvas<'_>, app: &App) {
    let wide = canvas.width() >= WIDE;
    let rows = module_card(canvas, app);
    if wide {
        let (width, height) = (canvas.width().saturating_sub(RIGHT + 2), canvas.height());
        machine_card(&mut canvas.part(RIGHT, 0, width, height), app);
        findings_card(&mut canvas.part(0, rows + 2, RIGHT - 2, height.saturating_sub(rows + 2)), app);
    } else {
        let below = rows + 1 + machine_card(&mut canvas.below(rows + 1), app) + 1;
        findings_card(&mut canvas.below(below), app);
    }
}

/// What is not as it should be, worst first, as far as there is room.
fn findings_card(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(6);
    let mut y = 0;
    for finding in &app.facts.findings {
        let (mark, style) = match finding.weight {
            Weight::Wrong => (theme.marks.failed, theme.error()),
            Weight::Doubtful => ("!", theme.attention()),
            Weight::Note => (theme.marks.open, theme.label()),
        };
        if y + 2 > canvas.height() {
            return;
        }
        canvas.put(2, y, style, mark);
        y += canvas.paragraph(4, y, width, theme.text(), &finding.what);
        y += canvas.paragraph(4, y, width, theme.label(), &finding.advice) + 1;
    }
}

fn module_card(canvas: &mut Canvas<'_>, app: &App) -> u16 {
    let theme = canvas.theme;
    let Some(slot) = app.facts.board.slots.get(app.slot) else {
        let text = "Slots are unknown here, so errors cannot be placed. Testing works all the same: take modules out one \
                    at a time by hand, and run again after each change.";
        let width = canvas.width().saturating_sub(4).min(RIGHT - 6);
        return canvas.paragraph(2, 0, width, theme.text(), text);
    };
    let Some(module) = &slot.module else {
        canvas.put(2, 0, theme.strong(), &slot.id);
        canvas.put(8, 0, theme.label(), "empty slot");
        return 1;
    };
    canvas.put(2, 0, theme.strong(), &slot.id);
    canvas.put(8, 0, theme.strong(), &module.name());
    let or_unknown = |text: &str| if text.is_empty() { "not told by the firmware".to_owned() } else { text.to_owned() };
    let speed = module.speed.map_or("not told by the firmware".to_owned(), |speed| format!("{speed} MT/s"));
    let facts = [
        ("maker", or_unknown(&module.maker)),
        ("part", or_unknown(&module.part)),
        ("serial", or_unknown(&module.serial)),
        ("size", bytes_text(module.bytes)),
        ("speed", speed),
        ("seat", if slot.soldered { "soldered: it stays".to_owned() } else { "module in a slot".to_owned() }),
        ("channel", slot.channel.clone().unwrap_or("not told by the firmware".into())),
        ("earlier runs", history(app, slot, &module.serial)),
    ];
    for (y, (label, value)) in (1u16..).zip(&facts) {
        canvas.fact(2, y, label, value);
    }
    1 + facts.len() as u16
}

fn history(app: &App, slot: &Slot, serial: &str) -> String {
    let past = app.facts.history.get(serial).map(Vec::as_slice).unwrap_or_default();
    let failed = past.iter().filter(|run| run.errors > 0).count() as u64;
    match (past.len() as u64, failed) {
        (0, _) => "none: first time here".to_owned(),
        (runs, 0) => format!("{}, none with errors placed on it", counted(runs, "run")),
        (runs, failed) => {
            let here = past.iter().filter(|run| run.errors > 0 && run.slot == slot.id).count();
            let elsewhere = if (here as u64) < failed { ", in other slots too" } else { "" };
            format!("{}, errors in {failed}{elsewhere}", counted(runs, "run"))
        }
    }
}

/// Returns the rows it took.
fn machine_card(canvas: &mut Canvas<'_>, app: &App) -> u16 {
    let theme = canvas.theme;
    let facts = &app.facts;
    let fitted = facts
        .board
        .fitted_bytes()
        .map_or("fitted: unknown".to_owned(), |bytes| format!("{} fitted", bytes_text(bytes)));
    let rows = [
        ("mainboard", facts.board.mainboard.clone()),
        ("firmware", facts.board.firmware.clone()),
        ("processor", facts.processor.clone()),
        ("cores", facts.cores.to_string()),
        ("settings", facts.settings.clone()),
        ("memory", format!("{fitted}, {} can be tested now", bytes_text(facts.offer.reachable_bytes))),
    ];
    let mut y = 0;
    for (label, value) in rows.iter().filter(|(_, value)| !value.is_empty()) {
        canvas.fact(2, y, label, value);
        y += 1;
    }
    let width = canvas.width().saturating_sub(2 + FACT_INDENT);
    for limit in &facts.offer.limits {
        y += canvas.paragraph(2 + FACT_INDENT, y, width, theme.label(), limit);
    }
    if !facts.offer.addresses_known {
        let words =
            "Physical addresses are hidden from this user: errors will have no address. Run as root to see them.";
        y += canvas.paragraph(2 + FACT_INDENT, y, width, theme.attention(), words);
    }
    if facts.guest {
        let words = "A virtual machine: only its own share of memory is tested, and addresses are its own.";
        y += canvas.paragraph(2 + FACT_INDENT, y, width, theme.simulated(), words);
    }
    if let Some(sign) = &facts.dark {
        let words = format!("The machine does not start: {sign}.");
        y += canvas.paragraph(2 + FACT_INDENT, y, width, theme.error(), &words);
    }
    if !facts.complaint.is_empty() {
        y += 1;
        canvas.put(2, y, theme.label(), "the owner");
        y += canvas.paragraph(2 + FACT_INDENT, y, width, theme.text(), &format!("“{}”", facts.complaint));
    }
    let todo = match (app.has_suspicion(), facts.trials.is_empty()) {
        (true, _) => "Errors were found in this job. 6 says which part is suspect and what to try next.",
        (false, true) => "Nothing was run yet. Enter runs a first look at all memory; 3 chooses something else.",
        (false, false) => "No errors in this job so far. 3 chooses a longer look; 8 shows the runs.",
    };
    canvas.put(2, y + 1, theme.label(), "next");
    y + 1 + canvas.paragraph(2 + FACT_INDENT, y + 1, width, theme.strong(), todo)
}
