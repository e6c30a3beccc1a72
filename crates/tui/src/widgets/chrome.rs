//! Header, tabs and footer.

use unicode_width::UnicodeWidthStr;

use crate::action::View;
use crate::canvas::{Canvas, shortened};
use crate::keymap::bindings;
use crate::state::App;
use revisum_record::outcome::Judgement;
use revisum_records::wall_time;

/// Rows of header and tabs.
pub const TOP_ROWS: u16 = 2;

/// The longest mark for which a machine's name gives way.
const LONGEST_MARK: usize = 24;

/// Draws the header and the tabs.
pub fn draw_top(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    canvas.fill_row(0, theme.bar());
    let end = canvas.width().saturating_sub(2);
    let zone = wall_time::zone(app.facts.simulated);
    let pattern = if canvas.width() >= 120 { "%Y-%m-%d  %H:%M:%S" } else { "%H:%M:%S" };
    let clock = wall_time::format(app.facts.wall_ms, &zone, pattern);
    canvas.put_right(end, 0, theme.on_bar(theme.label()), &clock);
    let said = match (app.facts.simulated, app.facts.guest) {
        (true, _) => "simulated",
        (false, true) => "virtual machine",
        (false, false) => "",
    };
    let before_clock = end.saturating_sub(clock.width() as u16 + 3);
    canvas.put_right(before_clock, 0, theme.on_bar(theme.simulated()), said);
    let before_said = before_clock.saturating_sub(if said.is_empty() { 0 } else { said.width() as u16 + 3 });
    let x = canvas.put(2, 0, theme.on_bar(theme.attention()), "Revisum");
    // Whether what happens is recorded is never left out: the name gives way to it.
    let mark = app.kept.marks().into_iter().find(|mark| mark.width() <= LONGEST_MARK).unwrap_or_default();
    let room = usize::from(before_said.saturating_sub(x + 4)).saturating_sub(mark.width());
    let x = canvas.put(x + 2, 0, theme.on_bar(theme.strong()), &shortened(&app.facts.machine, room));
    let mark = draw_kept(canvas, app, x, before_said);
    let title = shortened(&app.facts.title, usize::from(mark.saturating_sub(x + 4)));
    canvas.put(x + 2, 0, theme.on_bar(theme.label()), &title);
    draw_tabs(canvas, app);
}

/// Draws whether what happens is recorded, in the room between these columns; returns where it begins. It is never left out.
fn draw_kept(canvas: &mut Canvas<'_>, app: &App, from: u16, to: u16) -> u16 {
    let theme = canvas.theme;
    let marks = app.kept.marks();
    let room = usize::from(to.saturating_sub(from + 2));
    let shortest = marks.last().cloned().unwrap_or_default();
    let mark = marks.into_iter().find(|mark| mark.width() <= room).unwrap_or(shortest);
    let style = if app.kept.trouble.is_some() { theme.error() } else { theme.label() };
    canvas.put_right(to, 0, theme.on_bar(style), &mark);
    to.saturating_sub(mark.width() as u16)
}

/// How much of each view's name is shown in the row of views.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Tabs {
    /// Names with air between them.
    Roomy,
    /// Names close together.
    Tight,
    /// Numbers; the present view has its name.
    Numbers,
}

impl Tabs {
    fn words(self, view: View, is_present: bool) -> String {
        match self {
            Self::Roomy => format!(" {} {}  ", view.digit(), view.name()),
            Self::Numbers if !is_present => format!("{} ", view.digit()),
            Self::Tight | Self::Numbers => format!("{} {} ", view.digit(), view.name()),
        }
    }

    /// The roomiest that fits.
    fn fitting(present: View, room: usize) -> Self {
        let margin = |tabs: &Self| if *tabs == Self::Tight { 0 } else { 3 };
        let words = |tabs: &Self| View::ALL.iter().map(|view| tabs.words(*view, *view == present).len()).sum::<usize>();
        let width = |tabs: &Self| words(tabs) + margin(tabs);
        let all = [Self::Roomy, Self::Tight, Self::Numbers];
        all.into_iter().find(|tabs| width(tabs) <= room).unwrap_or(Self::Numbers)
    }
}

fn draw_tabs(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    let running = (app.is_running() && app.view != View::Run).then(|| run_words(app));
    let taken = running.as_ref().map_or(0, |words| words.width() + 2);
    let tabs = Tabs::fitting(app.view, usize::from(canvas.width()).saturating_sub(taken));
    let mut x = if tabs == Tabs::Tight { 1 } else { 2 };
    for view in View::ALL {
        let words = tabs.words(view, view == app.view);
        if view == app.view {
            let shown = words.trim_end();
            let shown = if tabs == Tabs::Roomy { format!("{shown} ") } else { shown.to_owned() };
            canvas.put(x, 1, theme.chosen(), &shown);
        } else {
            let digit = x + u16::from(tabs == Tabs::Roomy);
            canvas.put(digit, 1, theme.attention(), &view.digit().to_string());
            if words.trim().len() > 1 {
                canvas.put(digit + 2, 1, theme.label(), view.name());
            }
        }
        x += words.width() as u16;
    }
    if let Some(words) = running {
        let bad = app.run_state().is_some_and(|state| state.has_errors());
        let style = if bad { theme.error() } else { theme.clean() };
        canvas.put_right(canvas.width().saturating_sub(2), 1, style, &words);
    }
}

/// How far the run is that goes on behind another view.
fn run_words(app: &App) -> String {
    app.run_state().map_or("a run begins".to_owned(), |state| {
        format!("run: {} · {:.0} %", Judgement::of(state, true).outcome.words(), (state.pass_ratio() * 100.0).floor())
    })
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

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(120, "0 Jobs", "9 Report", 2)]
    #[case(79, "0 Jobs", "9 Report", 1)]
    #[case(40, "0", "9", 1)]
    fn every_view_has_its_place_however_narrow(
        #[case] room: usize,
        #[case] first: &str,
        #[case] last: &str,
        #[case] air: usize,
    ) {
        let tabs = Tabs::fitting(View::Swap, room);
        let all: Vec<String> = View::ALL.iter().map(|view| tabs.words(*view, *view == View::Swap)).collect();
        assert!(all.concat().len() <= room, "{all:?}");
        assert_eq!((all[0].trim(), all[all.len() - 1].trim()), (first, last));
        assert_eq!(all[0].len() - all[0].trim_end().len(), air);
        assert!(all.concat().contains("6 Swap"));
    }
}
