//! Header, tabs and footer.

use crossterm::event::KeyCode;
use unicode_width::UnicodeWidthStr;

use super::commands::Known;
use crate::booted::Kept;
use crate::kit::canvas::{Canvas, Target, shortened};
use crate::room::view::View;
use crate::say;
use crate::shared::state::Shared;
use revisum_record::outcome::Judgement;
use revisum_records::wall_time;
use revisum_words::Said as _;

/// Rows of header and tabs.
pub const TOP_ROWS: u16 = 2;

/// Less of what a machine is for is not shown.
const LEAST_TITLE: usize = 6;
/// The longest mark for which a machine's name gives way.
const LONGEST_MARK: usize = 24;

/// Draws the header and the tabs.
pub fn draw_top(canvas: &mut Canvas<'_>, view: View, shared: &Shared) {
    let theme = canvas.theme;
    canvas.fill_row(0, theme.bar());
    let end = canvas.width().saturating_sub(2);
    let zone = wall_time::zone(shared.facts.simulated);
    let pattern = if canvas.width() >= 120 { "%Y-%m-%d  %H:%M:%S" } else { "%H:%M:%S" };
    let clock = wall_time::format(shared.wall_ms, &zone, pattern);
    canvas.put_right(end, 0, theme.on_bar(theme.label()), &clock);
    let said = match (shared.facts.simulated, shared.facts.guest) {
        (true, _) => say::chrome_simulated(),
        (false, true) if shared.facts.ranges_trusted => say::chrome_ranges_trusted(),
        (false, true) => say::chrome_virtual_machine(),
        (false, false) => "",
    };
    let before_clock = end.saturating_sub(clock.width() as u16 + 3);
    canvas.put_right(before_clock, 0, theme.on_bar(theme.simulated()), said);
    let before_said = before_clock.saturating_sub(if said.is_empty() { 0 } else { said.width() as u16 + 3 });
    let x = canvas.put(2, 0, theme.on_bar(theme.attention()), "Revisum");
    let number = shared.facts.booted.as_ref().and_then(|booted| booted.settings.number);
    let x = number.map_or(x, |number| canvas.put(x + 2, 0, theme.chosen(), &format!(" {number} ")));
    // Whether what happens is recorded is never left out: the name gives way to it.
    let kept = shared.kept_now();
    let mark = kept.marks().into_iter().find(|mark| mark.width() <= LONGEST_MARK).unwrap_or_default();
    let room = usize::from(before_said.saturating_sub(x + 4)).saturating_sub(mark.width());
    let x = canvas.put(x + 2, 0, theme.on_bar(theme.strong()), &shortened(&shared.facts.machine, room));
    let mark = draw_kept(canvas, &kept, x, before_said);
    let room = usize::from(mark.saturating_sub(x + 4));
    // A word or nothing: the rest of one says nothing.
    if room >= LEAST_TITLE {
        canvas.put(x + 2, 0, theme.on_bar(theme.label()), &shortened(&shared.facts.title, room));
    }
    draw_tabs(canvas, view, shared);
}

/// Draws whether what happens is recorded, in the room between these columns; returns where it begins. It is never left out.
fn draw_kept(canvas: &mut Canvas<'_>, kept: &Kept, from: u16, to: u16) -> u16 {
    let theme = canvas.theme;
    let marks = kept.marks();
    let room = usize::from(to.saturating_sub(from + 2));
    let shortest = marks.last().cloned().unwrap_or_default();
    let mark = marks.into_iter().find(|mark| mark.width() <= room).unwrap_or(shortest);
    let style = if kept.trouble.is_some() { theme.error() } else { theme.label() };
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
        let words =
            |tabs: &Self| View::ALL.iter().map(|view| tabs.words(*view, *view == present).width()).sum::<usize>();
        let width = |tabs: &Self| words(tabs) + margin(tabs);
        let all = [Self::Roomy, Self::Tight, Self::Numbers];
        all.into_iter().find(|tabs| width(tabs) <= room).unwrap_or(Self::Numbers)
    }
}

fn draw_tabs(canvas: &mut Canvas<'_>, present: View, shared: &Shared) {
    let theme = canvas.theme;
    let running = (shared.is_running() && present != View::Run).then(|| run_words(shared));
    let waiting = shared.waiting.map(|words| format!("{words} …"));
    let running = waiting.or(running);
    let taken = running.as_ref().map_or(0, |words| words.width() + 2);
    let tabs = Tabs::fitting(present, usize::from(canvas.width()).saturating_sub(taken));
    let mut x = if tabs == Tabs::Tight { 1 } else { 2 };
    for view in View::ALL.iter().copied() {
        let words = tabs.words(view, view == present);
        canvas.target(x, 1, words.width() as u16, Target::Key(KeyCode::Char(view.digit())));
        if view == present {
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
        let bad = shared.run_state().is_some_and(|state| state.has_errors());
        let style = if bad { theme.error() } else { theme.clean() };
        canvas.put_right(canvas.width().saturating_sub(2), 1, style, &words);
    }
}

/// How far the run is that goes on behind another view.
fn run_words(shared: &Shared) -> String {
    shared.run_state().map_or(say::chrome_run_begins().to_owned(), |state| {
        say::chrome_run(
            Judgement::of(state, true).outcome.said(),
            format!("{:.0}", (state.pass_ratio() * 100.0).floor()),
        )
    })
}

/// Draws the keys that matter here, most important first; what does not fit is in the help.
pub fn draw_footer(canvas: &mut Canvas<'_>, keys: &[Known]) {
    let theme = canvas.theme;
    canvas.fill_row(0, theme.bar());
    if keys.is_empty() {
        return;
    }
    let end = canvas.width().saturating_sub(2);
    let words = say::chrome_keys();
    let help = end.saturating_sub(words.width() as u16 + 2);
    let after = canvas.put(help, 0, theme.on_bar(theme.attention()), "?");
    canvas.put(after + 1, 0, theme.bar(), words);
    canvas.target(help, 0, end - help, Target::Key(KeyCode::Char('?')));
    let mut x = 2;
    for key in keys.iter().map(|known| &known.key).filter(|key| key.footer) {
        let width = (key.name.width() + 1 + key.words.width()) as u16;
        if x + width + 1 > help {
            continue;
        }
        if let [code] = key.codes.as_slice() {
            canvas.target(x, 0, width, Target::Key(*code));
        }
        x = canvas.put(x, 0, theme.on_bar(theme.attention()), key.name) + 1;
        x = canvas.put(x, 0, theme.bar(), &key.words) + 3;
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
