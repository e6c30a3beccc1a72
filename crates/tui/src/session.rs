//! What is open on the screen, and who carries out what it asks for. Needs no terminal: keys go in, pictures come out.

use crossterm::event::KeyEvent;
use ratatui::backend::TestBackend;
use ratatui::{Frame, Terminal};
use revisum_engine::recipe::Depth;
use revisum_records::wall_time;

use super::action::View;
use super::effect::Effect;
use super::pick;
use super::state::{App, Pick};
use super::theme::Theme;
use super::workshop::Workshop;
use super::{step, update, views};
use crate::booted::Leave;

/// Seconds after a boot until testing begins by itself; less when it goes on from the other entry.
const BOOTED_BEGINS_IN_SECONDS: u32 = 20;
const CHAINED_BEGINS_IN_SECONDS: u32 = 5;
/// Seconds in which a key holds a planned run.
const BEGINS_IN_SECONDS: u32 = 30;
/// Makes what is called, on any thread, when a run has something new.
pub type Told = Box<dyn Fn() -> Box<dyn Fn() + Send + Sync>>;

/// What only a terminal can do.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Wish {
    /// Draw everything anew.
    Wipe,
    /// Make a sound.
    Ring,
}

/// The state of the screen and the workshop behind it.
pub struct Session {
    app: App,
    workshop: Workshop,
    told: Told,
}

impl Session {
    /// Opens it on a view, with what is open from the last time.
    pub(crate) fn open(mut workshop: Workshop, first: View, size: (u16, u16), told: Told) -> Self {
        let mut app = App::new(workshop.facts(), size);
        app.view = first;
        if app.planned_matches() {
            app.view = View::Swap;
            app.begins_in = Some(BEGINS_IN_SECONDS);
        } else if app.facts.plan.is_some() {
            app.view = View::Swap;
        }
        workshop.perform(&mut app, Effect::ListJobs, || {});
        app.job = app.own_row();
        if app.facts.unexplained.is_some() && first != View::Jobs {
            app.begins_in = None;
            pick::open(&mut app, Pick::BrokeOff);
        }
        if let Some(booted) = &app.facts.booted {
            app.unattended = true;
            app.begins_in = Some(if booted.chained { CHAINED_BEGINS_IN_SECONDS } else { BOOTED_BEGINS_IN_SECONDS });
        }
        if first == View::Jobs {
            workshop.perform(&mut app, Effect::ListLogs, || {});
        }
        app.kept = workshop.kept(&app);
        Self { app, workshop, told }
    }

    /// Whether somebody left it.
    pub fn is_over(&self) -> bool {
        self.app.quit
    }

    /// Ends what still runs and says what shall become of a booted machine, and why something is not recorded.
    pub fn close(mut self) -> (Option<Leave>, Option<String>) {
        self.workshop.close(&mut self.app);
        self.workshop.write_unwritten();
        (self.app.leave, self.workshop.kept(&self.app).trouble)
    }

    /// Takes the time for the header.
    pub fn look_at_the_clock(&mut self) {
        let app = &mut self.app;
        app.facts.wall_ms = self.workshop.wall_ms();
        app.minute_of_day = wall_time::minute_of_day(app.facts.wall_ms, &wall_time::zone(app.facts.simulated));
    }

    /// What is on the screen as text, line by line, as a terminal with many colours shows it.
    pub fn text(&self) -> String {
        let (width, height) = self.app.size;
        let Ok(mut terminal) = Terminal::new(TestBackend::new(width, height));
        let Ok(_) = terminal.draw(|frame| views::draw(frame, &self.app, &Theme::full()));
        let buffer = terminal.backend().buffer();
        let cells = |row: u16| (0..width).map(|column| buffer[(column, row)].symbol()).collect::<String>();
        (0..height).map(|row| cells(row).trim_end().to_owned() + "\n").collect()
    }

    /// Draws it.
    pub(crate) fn draw(&self, frame: &mut Frame<'_>, theme: &Theme) {
        views::draw(frame, &self.app, theme);
    }

    /// Takes a key.
    pub fn key(&mut self, key: KeyEvent) -> Option<Wish> {
        let effects = update::key(&mut self.app, key);
        let wipe = effects.contains(&Effect::Redraw);
        self.perform(effects);
        wipe.then_some(Wish::Wipe)
    }

    /// The terminal has another size.
    pub fn resized(&mut self, width: u16, height: u16) -> Option<Wish> {
        self.app.size = (width, height);
        None
    }

    /// A run has something new.
    pub fn published(&mut self) -> Option<Wish> {
        let before = heard(&self.app);
        self.workshop.follow_run(&mut self.app);
        self.app.kept = self.workshop.kept(&self.app);
        let now = heard(&self.app);
        if !before.1 && now.1 && self.app.facts.booted.is_some() {
            self.after_a_booted_run();
        }
        // A question that a run covered comes back when it is over.
        if !before.1
            && now.1
            && self.app.facts.unexplained.is_some()
            && self.app.overlay.is_none()
            && !self.app.unattended
        {
            pick::open(&mut self.app, Pick::BrokeOff);
        }
        (self.app.sound && now != before && self.app.run.is_some()).then_some(Wish::Ring)
    }

    /// The system asks the program to end.
    pub fn end(&mut self) -> Option<Wish> {
        self.app.quit = true;
        None
    }

    /// A second has passed: a planned run begins by itself when the machine is fitted as planned and nobody touches a key.
    pub fn second(&mut self) {
        self.workshop.write_unwritten();
        self.app.kept = self.workshop.kept(&self.app);
        let app = &mut self.app;
        let Some(left) = app.begins_in else { return };
        app.begins_in = Some(left.saturating_sub(1)).filter(|left| *left > 0);
        if app.begins_in.is_none() {
            app.overlay = None;
            let effects =
                if app.planned_matches() { step::begin_planned(app) } else { update::begin_depth(app, Depth::Triage) };
            self.perform(effects);
        }
    }

    fn perform(&mut self, effects: Vec<Effect>) {
        for effect in effects {
            let told = (self.told)();
            self.workshop.perform(&mut self.app, effect, told);
        }
        self.app.kept = self.workshop.kept(&self.app);
    }

    /// Its report is kept beside the results; and where nobody is there, the next thing is done.
    fn after_a_booted_run(&mut self) {
        self.perform(vec![Effect::KeepReport]);
        let app = &mut self.app;
        let Some(state) = app.run_state().filter(|_| app.unattended) else { return };
        let depth = state.begin.recipe.as_ref().map(|recipe| recipe.depth);
        if state.has_errors() {
            return;
        }
        match depth {
            Some(Depth::Triage) => {
                let effects = update::begin_depth(app, Depth::Survey);
                self.perform(effects);
            }
            Some(_) if app.can_test_the_rest() && app.facts.booted.as_ref().is_some_and(|booted| !booted.chained) => {
                app.leave = Some(Leave::Other);
                app.quit = true;
            }
            _ => {}
        }
    }
}

/// What a sound tells: whether there were errors, and whether the run is over.
fn heard(app: &App) -> (bool, bool) {
    (app.run_state().is_some_and(|state| state.has_errors()), !app.is_running())
}

#[cfg(test)]
mod tests {
    use crossterm::event::{KeyCode, KeyModifiers};
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;
    use crate::{Demo, demo_session};

    fn opened(data: &std::path::Path, machine: Option<&str>) -> Session {
        let demo = Demo { machine: machine.map(str::to_owned), seed: 1, pace: 0.0 };
        demo_session(Some(data), &demo, (100, 30), Box::new(|| Box::new(|| ()))).unwrap()
    }

    fn press(session: &mut Session, code: KeyCode) -> Option<Wish> {
        session.key(KeyEvent::new(code, KeyModifiers::NONE))
    }

    #[test]
    fn it_opens_where_the_work_is_and_leaves_by_a_key() {
        let data = tempfile::tempdir().unwrap();
        let mut session = opened(data.path(), Some("meteo"));
        session.look_at_the_clock();
        assert!(session.text().contains("meteo") && session.text().contains("simulated"), "{}", session.text());
        assert!(!session.is_over());
        press(&mut session, KeyCode::Char('q'));
        assert!(session.is_over());
        assert_eq!(session.close(), (None, None));
    }

    #[test]
    fn a_garbled_screen_is_wiped_on_request_only() {
        let data = tempfile::tempdir().unwrap();
        let mut session = opened(data.path(), Some("meteo"));
        assert_eq!(press(&mut session, KeyCode::Char('3')), None);
        assert_eq!(press(&mut session, KeyCode::Char('g')), Some(Wish::Wipe));
        session.close();
    }

    #[test]
    fn the_picture_has_the_terminals_size_whatever_that_is() {
        let data = tempfile::tempdir().unwrap();
        let mut session = opened(data.path(), Some("meteo"));
        for (width, height) in [(100, 30), (80, 25), (160, 47), (20, 5), (1, 1)] {
            assert_eq!(session.resized(width, height), None);
            let text = session.text();
            assert_eq!(text.lines().count(), usize::from(height));
            assert!(text.lines().all(|line| line.chars().count() <= usize::from(width)), "{text}");
        }
        session.close();
    }

    /// Results that have nowhere to go are shown and counted, and no screen says that they are written.
    #[test]
    fn what_is_not_recorded_is_in_sight_and_counts_all_the_same() {
        let data = tempfile::tempdir().unwrap();
        let mut session = opened(data.path(), Some("meteo"));
        assert!(session.text().contains("recorded") && !session.text().contains("NOT RECORDED"), "{}", session.text());
        let before = session.app.facts.trials.len();
        std::fs::remove_dir_all(data.path()).unwrap();
        press(&mut session, KeyCode::Enter);
        while session.app.run.is_none() || session.app.is_running() {
            session.published();
            std::thread::yield_now();
        }
        for view in ['2', '4', '6', '9'] {
            press(&mut session, KeyCode::Char(view));
            assert!(session.text().contains("NOT RECORDED"), "{}", session.text());
        }
        assert_eq!(session.app.facts.trials.len(), before + 1, "the run counts as long as it is known");
        let (_, not_kept) = session.close();
        assert!(not_kept.is_some());
    }

    #[test]
    fn a_planned_run_begins_when_its_seconds_are_over_and_not_before() {
        let data = tempfile::tempdir().unwrap();
        let mut session = opened(data.path(), Some("meteo"));
        session.app.begins_in = Some(2);
        session.second();
        assert_eq!((session.app.begins_in, session.app.run.is_some()), (Some(1), false));
        session.second();
        assert_eq!((session.app.begins_in, session.app.run.is_some()), (None, true));
        session.second();
        session.close();
    }

    #[test]
    fn any_key_holds_a_run_that_would_begin_by_itself() {
        let data = tempfile::tempdir().unwrap();
        let mut session = opened(data.path(), Some("meteo"));
        session.app.begins_in = Some(1);
        press(&mut session, KeyCode::Char('2'));
        session.second();
        assert!(session.app.run.is_none());
        session.close();
    }

    #[rstest]
    #[case('0', "Jobs")]
    #[case('1', "Intake")]
    #[case('2', "Board")]
    #[case('3', "Recipe")]
    #[case('4', "Run")]
    #[case('5', "Locate")]
    #[case('6', "Swap")]
    #[case('7', "Speed")]
    #[case('8', "Logs")]
    #[case('9', "Report")]
    fn every_view_is_one_digit_away_at_every_size(#[case] digit: char, #[case] name: &str) {
        let data = tempfile::tempdir().unwrap();
        let mut session = opened(data.path(), Some("meteo"));
        press(&mut session, KeyCode::Char(digit));
        for size in [(160, 47), (128, 40), (100, 30), (80, 25)] {
            session.resized(size.0, size.1);
            let text = session.text();
            assert!(
                text.contains(name),
                "{name} at {size:?}:
{text}"
            );
            assert!(
                text.contains("? keys"),
                "{name} at {size:?} shows no keys:
{text}"
            );
        }
        session.close();
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 12, ..ProptestConfig::default() })]

        /// Whatever is pressed, in whatever order: there is a picture after each key, and it can be left.
        #[test]
        fn keys_of_any_kind_do_no_harm(keys in proptest::collection::vec(0usize..KEYS.len(), 1..60)) {
            let data = tempfile::tempdir().unwrap();
            let mut session = opened(data.path(), Some("meteo"));
            for at in keys {
                press(&mut session, KEYS[at]);
                session.published();
                session.second();
                prop_assert_eq!(session.text().lines().count(), 30);
            }
            session.end();
            prop_assert!(session.is_over());
            session.close();
        }
    }

    /// All but those that leave.
    const KEYS: [KeyCode; 44] = [
        KeyCode::Enter,
        KeyCode::Esc,
        KeyCode::Up,
        KeyCode::Down,
        KeyCode::Left,
        KeyCode::Right,
        KeyCode::Tab,
        KeyCode::Home,
        KeyCode::End,
        KeyCode::PageUp,
        KeyCode::PageDown,
        KeyCode::Backspace,
        KeyCode::Char(' '),
        KeyCode::Char('0'),
        KeyCode::Char('1'),
        KeyCode::Char('2'),
        KeyCode::Char('3'),
        KeyCode::Char('4'),
        KeyCode::Char('5'),
        KeyCode::Char('6'),
        KeyCode::Char('7'),
        KeyCode::Char('8'),
        KeyCode::Char('9'),
        KeyCode::Char('a'),
        KeyCode::Char('b'),
        KeyCode::Char('c'),
        KeyCode::Char('d'),
        KeyCode::Char('f'),
        KeyCode::Char('g'),
        KeyCode::Char('h'),
        KeyCode::Char('i'),
        KeyCode::Char('l'),
        KeyCode::Char('m'),
        KeyCode::Char('n'),
        KeyCode::Char('p'),
        KeyCode::Char('r'),
        KeyCode::Char('s'),
        KeyCode::Char('t'),
        KeyCode::Char('u'),
        KeyCode::Char('w'),
        KeyCode::Char('x'),
        KeyCode::Char('?'),
        KeyCode::Char('/'),
        KeyCode::Char('+'),
    ];

    #[test]
    fn the_system_can_end_it() {
        let data = tempfile::tempdir().unwrap();
        let mut session = opened(data.path(), None);
        assert_eq!(session.end(), None);
        assert!(session.is_over());
    }
}
