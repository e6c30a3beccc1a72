//! The run, or what to do where there is none.

use revisum_engine::units::bytes_text;
use revisum_record::run_state::RunState;
use revisum_words as words;

use crate::say;
use super::Run;
use crate::room::screen::Screen;
use crate::kit::canvas::Canvas;
use crate::kit::{across, gauge};
use crate::kit::run_panel::{self, Shown};
use crate::shared::state::Shared;

/// Draws the view.
pub fn draw(canvas: &mut Canvas<'_>, screen: &Run, shared: &Shared) {
    if let Some(failure) = shared.run.as_ref().and_then(|run| run.failure.as_ref()) {
        return draw_failure(canvas, failure);
    }
    match shared.run_state() {
        Some(state) if screen.fills(shared) => {
            let next = screen.next(shared).map_or(String::new(), say::run_enter);
            let number = shared.facts.booted.as_ref().and_then(|booted| booted.settings.number);
            // The header is not in sight here: that nothing is recorded has to be.
            let kept = shared.kept_now();
            let shown = Shown { trouble: kept.trouble.as_deref(), ..shown(screen, shared, state) };
            across::draw(canvas, &shown, &say::run_esc_full(next), number, &kept.marks());
        }
        Some(state) => run_panel::draw(canvas, &shown(screen, shared, state)),
        None if shared.is_running() => {
            let (taken, of) = shared.run.as_ref().map(|run| run.taken).unwrap_or_default();
            let words = say::run_taking(bytes_text(taken), bytes_text(of));
            canvas.put(2, 0, canvas.theme.strong(), &words);
            gauge::draw(&mut canvas.part(2, 2, 60, 1), 0, "", taken as f64 / of.max(1) as f64, 40);
        }
        None => draw_nothing(canvas, screen, shared),
    }
}

fn draw_failure(canvas: &mut Canvas<'_>, failure: &str) {
    let theme = canvas.theme;
    canvas.put(2, 0, theme.error(), say::run_not_made());
    let width = canvas.width().saturating_sub(4).min(100);
    let rows = canvas.paragraph(2, 2, width, theme.text(), failure);
    canvas.put(2, 3 + rows, theme.label(), say::run_nothing_tested());
}

fn draw_nothing(canvas: &mut Canvas<'_>, screen: &Run, shared: &Shared) {
    let theme = canvas.theme;
    canvas.put(2, 0, theme.strong(), say::run_none());
    let words = screen.next(shared).unwrap_or_default();
    let x = canvas.put(2, 2, theme.attention(), "Enter");
    let x = canvas.put(x + 1, 2, theme.text(), &format!("{words}   "));
    let x = canvas.put(x, 2, theme.attention(), "3");
    let x = canvas.put(x + 1, 2, theme.text(), say::run_choose());
    let x = canvas.put(x, 2, theme.attention(), "8");
    canvas.put(x + 1, 2, theme.text(), say::run_earlier());
}

fn shown<'a>(screen: &Run, shared: &'a Shared, state: &'a RunState) -> Shown<'a> {
    let advice = shared.facts.advice.as_ref().filter(|_| shared.has_suspicion());
    Shown {
        state,
        live: shared.is_running(),
        chosen: shared.is_running().then_some(screen.test),
        trouble: shared.run.as_ref().and_then(|run| run.trouble.as_deref()),
        suspect: advice.map(|advice| words::odds::leading(&advice.odds, &|serial| shared.facts.name_of(serial))),
        wall_ms: shared.wall_ms,
    }
}
