//! Header, tabs and footer.

use unicode_width::UnicodeWidthStr;

use crate::tui::action::View;
use crate::tui::canvas::Canvas;
use crate::tui::keymap::bindings;
use crate::tui::state::App;
use crate::wall_time;

/// Rows of header and tabs.
pub const TOP_ROWS: u16 = 2;

/// Draws the header and the tabs.
pub fn draw_top(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    canvas.fill_row(0, theme.bar());
    let x = canvas.put(2, 0, theme.on_bar(theme.attention()), "Revisum");
    let x = canvas.put(x + 2, 0, theme.on_bar(theme.strong()), &app.facts.machine);
    canvas.put(x + 2, 0, theme.on_bar(theme.label()), &app.facts.title);
    let end = canvas.width().saturating_sub(2);
    let zone = wall_time::zone(app.facts.simulated);
    let pattern = if canvas.width() >= 100 { "%Y-%m-%d  %H:%M:%S" } else { "%H:%M:%S" };
    let clock = wall_time::format(app.facts.wall_ms, &zone, pattern);
    canvas.put_right(end, 0, theme.on_bar(theme.label()), &clock);
    let said = match (app.facts.simulated, app.facts.guest) {
        (true, _) => "simulated",
        (false, true) => "virtual machine",
        (false, false) => "",
    };
    let before_clock = end.saturating_sub(clock.width() as u16 + 3);
    canvas.put_right(before_clock, 0, theme.on_bar(theme.simulated()), said);
    draw_tabs(canvas, app);
}

fn draw_tabs(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    let mut x = 2;
    for view in View::ALL {
        if view == app.view {
            x = canvas.put(x, 1, theme.chosen(), &format!(" {} {} ", view.digit(), view.name()));
        } else {
            x = canvas.put(x, 1, theme.attention(), &format!(" {} ", view.digit()));
            x = canvas.put(x, 1, theme.label(), &format!("{} ", view.name()));
        }
        x += 1;
    }
    if app.is_running() && app.view != View::Run {
        let state = app.run_state();
        let words = state.map_or("a run begins".to_owned(), |state| {
            format!("run: {} · {:.0} %", state.outcome(true).words(), (state.pass_ratio() * 100.0).floor())
        });
        let bad = state.is_some_and(|state| state.has_errors());
        let style = if bad { theme.error() } else { theme.clean() };
        canvas.put_right(canvas.width().saturating_sub(2), 1, style, &words);
    }
}

/// Draws the keys that matter here, most important first; what does not fit is in the help.
pub fn draw_footer(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    canvas.fill_row(0, theme.bar());
    if app.overlay.is_some() {
        // What stands in front of the view names its own keys.
        return;
    }
    let end = canvas.width().saturating_sub(2);
    canvas.put_right(end, 0, theme.bar(), "keys");
    canvas.put_right(end.saturating_sub(5), 0, theme.on_bar(theme.attention()), "?");
    let mut x = 2;
    for binding in bindings(app).iter().filter(|binding| binding.footer) {
        let width = (binding.name.width() + 1 + binding.words.width()) as u16;
        if x + width > end.saturating_sub(8) {
            continue;
        }
        x = canvas.put(x, 0, theme.on_bar(theme.attention()), binding.name) + 1;
        x = canvas.put(x, 0, theme.bar(), &binding.words) + 3;
    }
}
