//! Which part it is, what to try next and why, and what was tried.
//!
//! ```text
//! Most suspect: module red dot (likely. Not ruled out: slot B1.          suspicion
//! NEXT  All but red dot                                                  module red dot  ███████··· likely
//!       5 min of hands, 25 min of machine
//!       1  Take red dot out of B1. Keep it at hand.
//! if errors  slot B1, likely                                             what each went through  A1   B1
//! if clean   module red dot, very likely                                 red dot                       ✗✗
//! run  A1         B1        long    outcome              moved
//! ```

use revisum_diagnose::isolate::{Beyond, Experiment, Odds, Proposal, Reason, Verdict, band, contradictions, gone_and_kept, to_do};
use revisum_engine::units::duration_text;
use revisum_record::journal::Stage;
use revisum_words as words;
use revisum_words::Said as _;

use crate::kit::canvas::Canvas;
use crate::moves::next;
use crate::say;
use crate::shared::state::Shared;

use super::{arrangement, history};

const RIGHT: u16 = 69;
/// From this many columns on suspicion stands at the right.
pub const WIDE: u16 = 116;
const BAR: u16 = 10;
/// Rows that the drawing of a step has at most.
const DRAWN: u16 = 14;
/// Rows that what was tried has at least below it.
const WITH_RUNS: u16 = 4;
/// Canvases that are lower show the step in words only.
const TALL: u16 = 24;
/// Columns for the name of a suspect, where there is room; and at least.
const NAME: u16 = 34;
const SHORT_NAME: u16 = 26;
/// Columns for how likely it is.
const GRADE: u16 = 14;

/// Draws the view.
pub fn draw(canvas: &mut Canvas<'_>, shared: &Shared) {
    let wide = canvas.width() >= WIDE;
    let roomy = canvas.height() >= TALL;
    let left = if wide { RIGHT - 4 } else { canvas.width().saturating_sub(4) };
    let mut y = card(canvas, shared, left);
    if wide {
        let (width, height) = (canvas.width() - RIGHT, canvas.height());
        let right = &mut canvas.part(RIGHT, 0, width, height);
        let odds = odds(right, shared, 8);
        y = y.max(odds + 1 + history::parts(&mut right.below(odds + 1), shared));
    } else if shared.has_suspicion() && canvas.height() > y + 4 {
        let height = if roomy { 4 } else { 3 };
        y += u16::from(roomy);
        let width = canvas.width();
        y += odds(&mut canvas.part(2, y, width - 2, height), shared, usize::from(height) - 1);
    }
    y += 1;
    history::trials(&mut canvas.below(y), shared);
}

/// Damaged records that are told one by one.
const MOST_TROUBLES: usize = 3;

fn card(canvas: &mut Canvas<'_>, shared: &Shared, width: u16) -> u16 {
    let theme = canvas.theme;
    let (mut y, roomy) = (0, canvas.height() >= TALL);
    if let Some(answer) = &shared.facts.closed {
        y += canvas.paragraph(2, y, width, theme.clean(), &say::swap_closed(answer));
    }
    for trouble in shared.facts.troubles.iter().take(MOST_TROUBLES) {
        y += canvas.paragraph(2, y, width, theme.attention(), trouble);
    }
    y += planned(canvas, shared, y, width);
    let Some(advice) = &shared.facts.advice else { return y + nothing_known(&mut canvas.below(y), shared, width) };
    let name = |id: &str| shared.facts.name_of(id);
    let now = ending(&mut canvas.below(y), shared, width);
    y += now + u16::from(now > 0 && roomy);
    match &advice.verdict {
        Verdict::NothingToFind => y += clean_so_far(&mut canvas.below(y), shared, width),
        Verdict::NotWhole => y += canvas.paragraph(2, y, width, theme.attention(), words::advice::not_whole()),
        Verdict::Done { named, reason } => {
            y += answer(&mut canvas.below(y), shared, named, *reason, (width, roomy));
            y += because(&mut canvas.below(y), shared, width, roomy);
            // What stays in the machine, where that is not how it is now; what was tried keeps its rows.
            if let Some(stays) = shared.leaves_with().filter(|_| canvas.height() >= y + DRAWN + WITH_RUNS) {
                y += arrangement::draw(&mut canvas.part(9, y + 1, width - 7, DRAWN), shared, &stays);
            }
        }
        Verdict::Open(proposal) => {
            let Proposal { next, is_proof, if_errors, if_clean } = proposal.as_ref();
            y += canvas.paragraph(2, y, width, theme.strong(), &words::odds::leading(&advice.odds, &name));
            y += because(&mut canvas.below(y), shared, width, roomy) + 1;
            y = step(canvas, shared, next, *is_proof, y, width);
            for (label, style, forecast) in
                [(say::swap_if_errors(), theme.error(), if_errors), (say::swap_if_clean(), theme.clean(), if_clean)]
            {
                canvas.put(2, y, style, label);
                y += canvas.paragraph(13, y, width.saturating_sub(11), theme.text(), &words::odds::forecast(forecast, &name));
            }
        }
    }
    if shared.facts.offered.len() > 1 {
        let (now, all) = (words::card::settings(&shared.facts.settings), shared.facts.offered.iter().map(|name| words::card::settings(name)).collect::<Vec<_>>().join(", "));
        canvas.put(2, y, theme.attention(), "s");
        y += canvas.paragraph(
            4,
            y,
            width - 2,
            theme.label(),
            &say::swap_settings(now, all),
        );
    }
    if let Some(sign) = &shared.facts.dark {
        canvas.put(2, y, theme.error(), say::swap_dark());
        y += canvas.paragraph(8, y, width - 6, theme.text(), &say::does_not_start(sign));
    }
    for contradiction in contradictions(&shared.facts.case).iter().take(2) {
        canvas.put(2, y, theme.attention(), "!");
        y += canvas.paragraph(4, y, width - 2, theme.text(), &words::advice::contradiction(contradiction));
    }
    if next::tests_as_installed(shared) {
        canvas.put(2, y, theme.attention(), "Enter");
        let words = say::swap_as_installed();
        y += canvas.paragraph(8, y, width - 6, theme.text(), words);
    }
    y
}

/// What speaks most for who leads; on low screens the weightiest only.
fn because(canvas: &mut Canvas<'_>, shared: &Shared, width: u16, roomy: bool) -> u16 {
    let theme = canvas.theme;
    let shown = if roomy { shared.facts.reasons.len() } else { 1 };
    let mut y = 0;
    for reason in shared.facts.reasons.iter().take(shown) {
        if y == 0 {
            canvas.put(2, y, theme.label(), say::swap_because());
        }
        y += canvas.paragraph(13, y, width.saturating_sub(11), theme.text(), reason);
    }
    y
}

/// The step that was written down before the machine was off, set against what is fitted now.
fn planned(canvas: &mut Canvas<'_>, shared: &Shared, y: u16, width: u16) -> u16 {
    let theme = canvas.theme;
    let Some((plan, differences)) = &shared.facts.plan else { return 0 };
    if differences.is_empty() {
        let soon = shared.begins_in.map(say::swap_automatically);
        let words = say::swap_as_planned(u64::from(plan.passes), soon.unwrap_or_default());
        return canvas.paragraph(2, y, width, theme.clean(), &words) + 1;
    }
    let words = say::swap_not_as_planned(differences.join("; "));
    canvas.paragraph(2, y, width, theme.attention(), &words) + 1
}

/// Findings of board and speed that are told before what else to look at.
const MOST_FINDINGS: usize = 3;

fn clean_so_far(canvas: &mut Canvas<'_>, shared: &Shared, width: u16) -> u16 {
    let theme = canvas.theme;
    let over = shared.facts.course.is_done(Stage::RuledOut) == Some(true);
    let words = if over { say::course_suspects() } else { say::swap_clean() };
    let mut y = canvas.paragraph(2, 0, width, theme.text(), words);
    let shown = proposed(&mut canvas.below(y), shared, width);
    y += shown + u16::from(shown > 0);
    for finding in shared.facts.findings.iter().take(MOST_FINDINGS) {
        canvas.put(4, y, theme.attention(), "!");
        let words = format!("{}. {}", words::board::found(finding), words::board::advice(finding));
        y += canvas.paragraph(7, y, width.saturating_sub(5), theme.strong(), &words);
    }
    for (number, next) in (1u16..).zip(Beyond::ALL) {
        canvas.put(4, y, theme.attention(), &number.to_string());
        canvas.put(7, y, theme.text(), next.said());
        y += 1;
    }
    y
}

/// What is left to do before the computer goes.
fn ending(canvas: &mut Canvas<'_>, shared: &Shared, width: u16) -> u16 {
    let theme = canvas.theme;
    let course = &shared.facts.course;
    match shared.stage() {
        Some(Stage::Fitted) if course.awaits_part => {
            canvas.put(2, 0, theme.attention(), say::course_now());
            canvas.paragraph(9, 0, width.saturating_sub(7), theme.strong(), say::course_await())
        }
        Some(Stage::Fitted) if course.leaves_as_it_came => {
            canvas.put(2, 0, theme.attention(), say::course_now());
            canvas.paragraph(9, 0, width.saturating_sub(7), theme.strong(), say::course_put_back())
        }
        Some(Stage::Restored | Stage::HandedOver) if shared.facts.closed.is_none() => {
            canvas.put(2, 0, theme.attention(), say::course_now());
            let mut y = canvas.paragraph(9, 0, width.saturating_sub(7), theme.strong(), say::course_confirm());
            for (tick, done) in &course.to_confirm {
                let (mark, style) =
                    if *done { (theme.marks.passed, theme.clean()) } else { (theme.marks.open, theme.text()) };
                canvas.put(9, y, style, mark);
                canvas.put(11, y, style, tick.said());
                y += 1;
            }
            y
        }
        _ => 0,
    }
}

fn answer(
    canvas: &mut Canvas<'_>,
    shared: &Shared,
    named: &[Odds],
    reason: Reason,
    (width, roomy): (u16, bool),
) -> u16 {
    let theme = canvas.theme;
    let name = |id: &str| shared.facts.name_of(id);
    let (word, style) = match reason {
        Reason::Confident => (say::swap_found(), theme.attention()),
        _ => (say::swap_open(), theme.attention()),
    };
    canvas.put(2, 0, style, word);
    let words = words::advice::answer(&shared.facts.case, named, reason, &name);
    let mut y = canvas.paragraph(9, 0, width - 7, theme.strong(), &words);
    // What is asked above is not told once more.
    if only_confirming(shared) {
        return y;
    }
    for (number, action) in (1..).zip(to_do(&shared.facts.case, named, reason)) {
        canvas.put(6, y, theme.attention(), &format!("{number}"));
        y += canvas.paragraph(9, y, width - 7, theme.text(), &words::advice::action(&action));
    }
    y + order(&mut canvas.below(y), shared, named, reason, (width, roomy))
}

/// Whether only what is to be confirmed is left.
fn only_confirming(shared: &Shared) -> bool {
    let settled = shared.facts.course.is_done(Stage::Proved).unwrap_or(true);
    settled && matches!(shared.stage(), Some(Stage::Restored | Stage::HandedOver)) && shared.facts.closed.is_none()
}

/// What to order in place of the modules that have to go, while that is not settled.
fn order(
    canvas: &mut Canvas<'_>,
    shared: &Shared,
    named: &[Odds],
    reason: Reason,
    (width, roomy): (u16, bool),
) -> u16 {
    let theme = canvas.theme;
    if shared.facts.course.is_done(Stage::Ordered) == Some(true) {
        return 0;
    }
    let (gone, kept) = gone_and_kept(&shared.facts.case, named, reason);
    let modules = |ids: &[String]| ids.iter().filter_map(|id| shared.facts.modules.get(id)).collect::<Vec<_>>();
    let bad = modules(&gone);
    if bad.is_empty() {
        return 0;
    }
    let mut y = 0;
    // Low screens leave the rest of it to the report.
    let lines = if roomy { usize::MAX } else { 1 };
    for (at, words) in words::order(&bad, &modules(&kept), &shared.facts.board.mainboard).iter().take(lines).enumerate() {
        let style = if at == 0 { theme.strong() } else { theme.label() };
        y += canvas.paragraph(9, y, width - 7, style, words);
    }
    canvas.put(2, 0, theme.attention(), say::swap_order());
    y
}

fn nothing_known(canvas: &mut Canvas<'_>, shared: &Shared, width: u16) -> u16 {
    let theme = canvas.theme;
    let words = if shared.facts.board.slots.is_empty() {
        say::swap_no_tables()
    } else {
        say::swap_nothing_run()
    };
    let y = canvas.paragraph(2, 0, width, theme.text(), words);
    y + proposed(&mut canvas.below(y), shared, width)
}

/// The run that comes next while nothing failed, and why.
fn proposed(canvas: &mut Canvas<'_>, shared: &Shared, width: u16) -> u16 {
    let Some(words) = shared.proposed_run().filter(|_| !shared.facts.elsewhere) else { return 0 };
    let theme = canvas.theme;
    canvas.put(2, 1, theme.attention(), say::swap_next());
    1 + canvas.paragraph(9, 1, width.saturating_sub(7), theme.strong(), &words)
}

fn step(
    canvas: &mut Canvas<'_>,
    shared: &Shared,
    next: &Experiment,
    is_proof: bool,
    y: u16,
    width: u16,
) -> u16 {
    let theme = canvas.theme;
    let (now, name) = (shared.facts.board.known_placement(), |id: &str| shared.facts.name_of(id));
    let scene = shared.scene(&now, &name);
    canvas.put(2, y, theme.attention(), if is_proof { say::swap_proof() } else { say::swap_next() });
    let mut y = y + canvas.paragraph(9, y, width - 7, theme.strong(), &words::card::headline(&shared.facts.case, next, &scene));
    let machine = duration_text(next.minutes * 60.0);
    let effort = say::swap_cost(format!("{:.0}", next.hands_minutes), machine);
    y += canvas.paragraph(9, y, width - 7, theme.label(), &effort);
    if canvas.height() >= TALL {
        y += arrangement::draw(&mut canvas.part(9, y + 1, width - 7, DRAWN), shared, next);
    }
    for (number, step) in (1..).zip(words::card::steps(next, &scene)) {
        canvas.put(9, y, theme.attention(), &format!("{number}"));
        y += canvas.paragraph(12, y, width.saturating_sub(10), theme.text(), &step);
    }
    y
}

/// Suspects as bars with their bands; nothing while no run has failed. Returns the rows it took.
fn odds(canvas: &mut Canvas<'_>, shared: &Shared, most: usize) -> u16 {
    let theme = canvas.theme;
    let Some(advice) = shared.facts.advice.as_ref().filter(|_| shared.has_suspicion()) else { return 0 };
    let room = canvas.width().saturating_sub(BAR + 1 + GRADE).clamp(SHORT_NAME, NAME);
    let shown: Vec<&Odds> = advice.odds.iter().filter(|odds| odds.probability >= 0.005).take(most).collect();
    canvas.put(0, 0, theme.label(), say::swap_suspicion());
    for (y, odds) in (1u16..).zip(&shown) {
        let leads = y == 1;
        let words = words::odds::suspect(&odds.suspect, &|id| shared.facts.name_of(id));
        let style = if leads { theme.strong() } else { theme.label() };
        canvas.cell(0, y, room - 1, style, &words);
        let filled = (odds.probability * f64::from(BAR)).round() as u16;
        let bar = if leads { theme.error() } else { theme.label() };
        canvas.put(room, y, bar, &"█".repeat(usize::from(filled)));
        canvas.put(room + filled, y, theme.faint(), &"·".repeat(usize::from(BAR - filled.min(BAR))));
        canvas.put(room + BAR + 1, y, style, band(odds.probability).said());
    }
    1 + shown.len() as u16
}
