//! 2 Board: what is fitted, whether it is right, and what of it can be tested.
//!
//! ```text
//! B1  red dot                               mainboard     Tarnwerk Holm M2
//!     maker        Haldry                   firmware      1.14 03/02/2030
//!     part         HD8G32J                  memory        16 GiB fitted
//!     serial       4A220094                               15.8 GiB    98.9 %  can be tested now
//!     label        8 GiB 1Rx8 DDR4-3200                    180 MiB     1.1 %  the running system
//! !   Modules of different makers are mixed …
//! ```

use ratatui::style::Style;
use revisum_diagnose::board::{Fact, Weight, fact_names as names};
use revisum_engine::units::bytes_text;
use revisum_record::fitted::{Module, Slot};
use revisum_words as words;
use revisum_words::Said as _;

use crate::say;
use crate::kit::canvas::{Canvas, FACT_INDENT, wrapped};
use crate::shared::state::Shared;

use super::Board;
use super::all_facts::{self, Kind};

/// Column of the machine's facts on a wide screen.
const RIGHT: u16 = 58;
const WIDE: u16 = 110;

/// Draws the view.
pub fn draw(canvas: &mut Canvas<'_>, screen: &Board, shared: &Shared) {
    if let Some(first) = screen.all_facts {
        draw_all_facts(canvas, shared, first);
        return;
    }
    if canvas.width() >= WIDE {
        let (width, height) = (canvas.width().saturating_sub(RIGHT + 2), canvas.height());
        let rows = module_card(&mut canvas.part(0, 0, RIGHT - 2, height), shared);
        machine_card(&mut canvas.part(RIGHT, 0, width, height), shared);
        findings_card(&mut canvas.part(0, rows + 1, RIGHT - 2, height.saturating_sub(rows + 1)), shared, true);
    } else {
        let rows = narrow_cards(canvas, shared);
        let left = canvas.height().saturating_sub(rows + 2);
        let width = canvas.width();
        let used = findings_card(&mut canvas.part(0, rows + 1, width, left), shared, false);
        next(canvas, shared, rows + 1 + used.max(1));
    }
}

/// What is not as it should be, worst first, as far as there is room. Returns the rows it took.
fn findings_card(canvas: &mut Canvas<'_>, shared: &Shared, with_advice: bool) -> u16 {
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(6);
    let mut y = 0;
    let all = &shared.facts.findings;
    for (at, finding) in all.iter().enumerate() {
        let (mark, style) = match finding.weight {
            Weight::Wrong => (theme.marks.failed, theme.error()),
            Weight::Doubtful => ("!", theme.attention()),
            Weight::Note => (theme.marks.open, theme.label()),
        };
        let rows = |text: &str| wrapped(text, width).len() as u16;
        let advice = with_advice || finding.weight < Weight::Note;
        let (what, to_do) = (words::board::found(finding), words::board::advice(finding));
        let needed = rows(&what) + if advice { rows(&to_do) } else { 0 };
        // The last row says what is left out.
        let room = canvas.height().saturating_sub(y + u16::from(at + 1 < all.len()));
        if needed > room {
            let words = say::more_i_shows(all.len() - at);
            canvas.put(4, y.min(canvas.height().saturating_sub(1)), theme.label(), &words);
            return y + 1;
        }
        canvas.put(2, y, style, mark);
        y += canvas.paragraph(4, y, width, theme.text(), &what);
        if advice {
            y += canvas.paragraph(4, y, width, theme.label(), &to_do);
        }
        y += u16::from(with_advice && room > needed + 1);
    }
    y
}

/// The rows of a module for comparing with the label in hand.
fn module_rows(shared: &Shared, slot: &Slot, module: &Module) -> Vec<(&'static str, String)> {
    let facts = &shared.facts.inventory.facts;
    let value = |name: &str| facts.value(&slot.id, name).unwrap_or_default().to_owned();
    let told = |name: &str, text: &str| {
        let disputed = facts.about(&slot.id).find(|fact| fact.name == name && !fact.is_agreed());
        match (disputed.map(Fact::in_words), text.is_empty()) {
            (Some(both), _) => both,
            (None, true) => say::unknown().to_owned(),
            (None, false) => text.to_owned(),
        }
    };
    let speed = module.speed.map_or(say::unknown().to_owned(), |speed| format!("{speed} MT/s"));
    let in_force = [speed, value(names::VOLTAGE)].into_iter().filter(|text| !text.is_empty()).collect::<Vec<_>>();
    let states = [module.timings.clone(), value(names::RATED_VOLTAGE)];
    let states: Vec<String> = states.into_iter().filter(|text| !text.is_empty()).collect();
    let form = if module.form.is_empty() { say::board_module() } else { module.form.as_str() };
    let mut seat = if slot.soldered { say::board_soldered().to_owned() } else { say::board_socketed(form) };
    if let Some(channel) = &slot.channel {
        seat.push_str(&say::board_channel(channel));
    }
    let profiles = module.profiles.iter().enumerate();
    let profiles = profiles.map(|(at, profile)| (if at == 0 { say::board_profiles() } else { "" }, profile.clone()));
    let before = [
        (say::board_maker(), told(names::MAKER, &module.maker)),
        (say::board_part(), told(names::PART, &module.part)),
        (say::board_serial(), told(names::SERIAL, &module.serial)),
        (say::board_label(), label(module)),
        (say::board_runs_at(), in_force.join(say::board_at())),
        (say::board_spd_timings(), states.join("   ")),
    ];
    let behind = [
        (say::board_made(), value(names::MADE)),
        (say::board_type(), seat),
        (say::board_earlier(), history(shared, slot, &module.serial)),
    ];
    let mut rows: Vec<_> = before.into_iter().chain(profiles).chain(behind).collect();
    rows.retain(|(_, value)| !value.is_empty());
    rows
}

/// As labels print it: `8 GiB 1Rx8 DDR4-3200`.
fn label(module: &Module) -> String {
    let organization = match (module.ranks, module.package_width) {
        (Some(ranks), Some(width)) => format!("{ranks}Rx{width}"),
        (Some(ranks), None) => say::ranks(u64::from(ranks)),
        _ => String::new(),
    };
    let speed = module.base_speed.or(module.rated_speed).map(|speed| speed.to_string());
    let kind = match (module.generation.is_empty(), speed) {
        (false, Some(speed)) => format!("{}-{speed}", module.generation),
        (false, None) => module.generation.clone(),
        (true, Some(speed)) => format!("{speed} MT/s"),
        (true, None) => String::new(),
    };
    let ecc = if module.byte_lanes == 9 { "ECC" } else { "" };
    let words = [bytes_text(module.bytes), organization, kind, ecc.to_owned(), module.form.clone()];
    words.into_iter().filter(|word| !word.is_empty()).collect::<Vec<_>>().join(" ")
}

/// Returns the rows it took.
fn module_card(canvas: &mut Canvas<'_>, shared: &Shared) -> u16 {
    let theme = canvas.theme;
    let Some(slot) = shared.facts.board.slots.get(shared.slot) else { return without_slots(canvas) };
    let Some(module) = &slot.module else {
        slot_heading(canvas, slot, theme.label(), say::board_empty_slot());
        return 1;
    };
    slot_heading(canvas, slot, theme.strong(), &module.name());
    let rows = module_rows(shared, slot, module);
    for (y, (label, value)) in (1u16..).zip(&rows) {
        canvas.fact(2, y, label, value);
    }
    1 + rows.len() as u16
}

/// The slot's whole name, and behind it what is in it. Returns the column behind that.
fn slot_heading(canvas: &mut Canvas<'_>, slot: &Slot, style: Style, words: &str) -> u16 {
    let x = canvas.put(2, 0, canvas.theme.strong(), &slot.id);
    canvas.put((x + 2).max(2 + FACT_INDENT), 0, style, words)
}

fn without_slots(canvas: &mut Canvas<'_>) -> u16 {
    let text = say::board_slots_unknown();
    let (width, style) = (canvas.width().saturating_sub(4).min(RIGHT - 6), canvas.theme.text());
    canvas.paragraph(2, 0, width, style, text)
}

/// Module, machine and memory in few rows. Returns the rows they took.
fn narrow_cards(canvas: &mut Canvas<'_>, shared: &Shared) -> u16 {
    let theme = canvas.theme;
    let mut y = match shared.facts.board.slots.get(shared.slot) {
        None => without_slots(canvas),
        Some(slot) => {
            let words = slot.module.as_ref().map_or(say::board_empty_slot().to_owned(), Module::name);
            let x = slot_heading(canvas, slot, theme.strong(), &words);
            if let Some(module) = &slot.module {
                canvas.put(x + 3, 0, theme.text(), &label(module));
                let wanted = [say::board_maker(), say::board_part(), say::board_serial()];
                let rows = module_rows(shared, slot, module);
                let values: Vec<&str> =
                    rows.iter().filter(|(name, _)| wanted.contains(name)).map(|(_, value)| value.as_str()).collect();
                canvas.fact(2, 1, say::board_module(), &values.join("   "));
                let runs = rows.iter().find(|(name, _)| *name == say::board_runs_at()).map_or("", |(_, value)| value);
                canvas.fact(2, 2, say::board_runs_at(), runs);
                canvas.fact(2, 3, say::board_earlier(), &history(shared, slot, &module.serial));
                4
            } else {
                1
            }
        }
    };
    let firmware = words::board::firmware(&shared.facts.board.firmware);
    let machine = [shared.facts.board.mainboard.as_str(), &firmware].join("   ");
    canvas.fact(2, y, say::board_mainboard(), machine.trim());
    y += 1;
    y + memory_card(canvas, shared, y)
}

fn history(shared: &Shared, slot: &Slot, serial: &str) -> String {
    let past = shared.facts.history.get(serial).map(Vec::as_slice).unwrap_or_default();
    let failed = past.iter().filter(|run| run.errors > 0).count() as u64;
    // What this job makes of it stands under 6; what another one made of it is news.
    let elsewhere =
        shared.facts.ends.get(serial).into_iter().flatten().rfind(|(machine, _)| *machine != shared.facts.machine);
    let ended = elsewhere.map(|(machine, end)| say::board_elsewhere(machine, words::advice::end(*end))).unwrap_or_default();
    let words = match (past.len() as u64, failed) {
        (0, _) => say::board_none().to_owned(),
        (runs, 0) => say::board_runs_clean(runs),
        (runs, failed) => {
            let here = past.iter().filter(|run| run.errors > 0 && run.slot == slot.id).count();
            let elsewhere = if (here as u64) < failed { say::board_other_slots() } else { "" };
            say::board_runs_failed(runs, failed, elsewhere)
        }
    };
    format!("{words}{ended}")
}

/// The account of all memory. Returns the rows it took.
fn memory_card(canvas: &mut Canvas<'_>, shared: &Shared, y: u16) -> u16 {
    let theme = canvas.theme;
    let coverage = &shared.facts.coverage;
    if shared.facts.elsewhere {
        let fitted = shared.facts.board.fitted_bytes().map_or_else(|| say::unknown().to_owned(), bytes_text);
        canvas.fact(2, y, say::board_memory(), &say::board_memory_fitted(fitted));
        return 1;
    }
    canvas.fact(2, y, say::board_memory(), &format!("{} {}", bytes_text(coverage.whole_bytes), coverage.whole.said()));
    let x = 2 + FACT_INDENT;
    for (row, part) in (y + 1..).zip(&coverage.parts) {
        let style = if part.testable { theme.text() } else { theme.label() };
        canvas.put_right(x + 9, row, style, &bytes_text(part.bytes));
        canvas.put_right(x + 18, row, style, &format!("{:.1} %", part.percent));
        canvas.put(x + 20, row, style, &words::board::part(part));
    }
    let rows = 1 + coverage.parts.len() as u16;
    let Some((tested, installed)) = shared.facts.tested_in_job else { return rows };
    let percent = (tested as f64 / installed as f64 * 1000.0).floor() / 10.0;
    let [tested, installed] = [tested, installed].map(bytes_text);
    let words = say::board_tested(tested, installed, format!("{:.1}", percent));
    canvas.put(x, y + rows, theme.text(), &words);
    rows + 1
}

/// Returns the rows it took.
fn machine_card(canvas: &mut Canvas<'_>, shared: &Shared) -> u16 {
    let theme = canvas.theme;
    let facts = &shared.facts;
    let told = |name: &str| facts.inventory.facts.value("", name).unwrap_or_default().to_owned();
    let rows = [
        (say::board_computer(), told(names::COMPUTER)),
        (say::board_mainboard(), facts.board.mainboard.clone()),
        (say::board_firmware(), words::board::firmware(&facts.board.firmware)),
        (say::board_processor(), processor(shared)),
        (say::board_controller(), told("memory controller")),
        (say::board_max_memory(), told(names::MOST_MEMORY)),
        (say::board_settings(), words::card::settings(&facts.settings).to_owned()),
    ];
    let mut y = 0;
    for (label, value) in rows.iter().filter(|(_, value)| !value.is_empty()) {
        canvas.fact(2, y, label, value);
        y += 1;
    }
    if let Some(warmest) = facts.temperatures.first() {
        canvas.fact(2, y, say::board_temperature(), &format!("{:.0} °C, {}", warmest.celsius, warmest.sensor));
        y += 1;
    }
    y += 1;
    y += memory_card(canvas, shared, y);
    let width = canvas.width().saturating_sub(2 + FACT_INDENT);
    if !facts.offer.addresses_known && !facts.elsewhere {
        let words =
            say::board_hidden();
        y += canvas.paragraph(2 + FACT_INDENT, y, width, theme.attention(), words);
    }
    if let Some(sign) = &facts.dark {
        let words = say::does_not_start(sign);
        y += canvas.paragraph(2 + FACT_INDENT, y, width, theme.error(), &words);
    }
    if !facts.complaint.is_empty() {
        y += 1;
        canvas.put(2, y, theme.label(), say::the_owner());
        y += canvas.paragraph(2 + FACT_INDENT, y, width, theme.text(), &format!("“{}”", facts.complaint));
    }
    y + 1 + next(canvas, shared, y + 1)
}

/// By the running system, else by the tables.
fn processor(shared: &Shared) -> String {
    let facts = &shared.facts;
    let told = |name: &str| facts.inventory.facts.value("", name).unwrap_or_default();
    let name = if facts.processor.is_empty() { told(names::PROCESSOR) } else { &facts.processor };
    let cores = if facts.cores > 0 { facts.cores as u64 } else { told(names::CORES).parse().unwrap_or(0) };
    match (name.is_empty(), cores) {
        (_, 0) => name.to_owned(),
        (true, cores) => say::cores(cores),
        (false, cores) => format!("{name}, {}", say::cores(cores)),
    }
}

/// What to do now. Returns the rows it took.
fn next(canvas: &mut Canvas<'_>, shared: &Shared, y: u16) -> u16 {
    let theme = canvas.theme;
    let proposed = shared.proposed_run();
    let todo = match (shared.has_suspicion(), shared.facts.trials.is_empty(), &proposed) {
        _ if shared.facts.saved => say::board_next_saved(),
        (true, ..) => say::board_next_errors(),
        (false, _, Some(words)) => words.as_str(),
        (false, true, None) => say::board_next_nothing(),
        (false, false, None) => say::board_next_clean(),
    };
    canvas.put(2, y, theme.label(), say::next());
    let width = canvas.width().saturating_sub(2 + FACT_INDENT);
    canvas.paragraph(2 + FACT_INDENT, y, width, theme.strong(), todo)
}

/// Column of values, and of sources on a wide screen.
const VALUE: u16 = 32;
const SOURCE: u16 = 84;

fn draw_all_facts(canvas: &mut Canvas<'_>, shared: &Shared, first: usize) {
    let theme = canvas.theme;
    let lines = all_facts::lines(shared);
    let room = usize::from(canvas.height().saturating_sub(1));
    let first = first.min(lines.len().saturating_sub(1));
    let wide = canvas.width() >= WIDE;
    let value_width = if wide { SOURCE - VALUE - 2 } else { canvas.width().saturating_sub(VALUE + 2) };
    let mut y = 0;
    let mut shown = 0;
    for line in lines.iter().skip(first) {
        if usize::from(y) + 1 >= room {
            break;
        }
        shown += 1;
        match line.kind {
            Kind::Heading => {
                y += u16::from(y > 0);
                canvas.put(2, y, theme.strong(), &line.label);
            }
            Kind::Words => {
                y += canvas.paragraph(4, y, value_width + VALUE - 4, theme.text(), &line.value);
                continue;
            }
            Kind::Fact | Kind::Disputed => {
                let style = if line.kind == Kind::Disputed { theme.attention() } else { theme.text() };
                canvas.cell(4, y, VALUE - 5, theme.label(), &line.label);
                if wide {
                    canvas.put(SOURCE, y, theme.label(), &line.source);
                }
                let source =
                    if wide || line.source.is_empty() { String::new() } else { format!("  ({})", line.source) };
                y += canvas.paragraph(VALUE, y, value_width, style, &format!("{}{source}", line.value));
                continue;
            }
        }
        y += 1;
    }
    let shown = say::lines_of(first + 1, first + shown, lines.len());
    canvas.put(2, canvas.height().saturating_sub(1), theme.label(), &shown);
}
