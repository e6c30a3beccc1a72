//! A hundred thousand states that keys, answers and a run's own progress lead to: every command does something, Esc leads back, Enter goes on.

use std::path::PathBuf;
use std::sync::atomic::AtomicBool;
use std::sync::{Arc, Mutex, OnceLock};
use std::time::Instant;

use crossterm::event::KeyCode;
use ratatui::Terminal;
use ratatui::backend::TestBackend;
use revisum_diagnose::system_log::SystemLogs;
use revisum_drive::Drive;
use revisum_record::logged::LogEntry;
use revisum_record::run_state::RunState;
use revisum_records::{Imported, JobSummary, Life, LifeLine, Recorded, RunSummary, Standing};
use revisum_report::{Block, Document};
use revisum_workbench::by_time::TimingStage;
use revisum_workbench::go_on::Start;
use revisum_workbench::speed_run::SpeedSnapshot;
use rstest::rstest;

use super::samples::{self, run_state};
use super::*;
use crate::kit::canvas::Targets;
use crate::shared::news::{BringingIn, Compared, Listed, Writing};
use crate::shared::run::RunView;

/// Keys pressed in one walk.
const STEPS: usize = 12_500;

/// The same walk for the same seed: numbers by a linear congruence (Knuth, The Art of Computer Programming, volume 2, 3.2.1).
struct Walk {
    at: u64,
    /// What is known of a job without errors, and of one with them.
    facts: [Facts; 2],
    /// Runs without errors and with them, going on and over.
    runs: [Arc<RunState>; 4],
}

impl Walk {
    fn new(seed: u64) -> Self {
        let facts = [false, true].map(|errors| samples::app(errors, true).shared.facts);
        let runs = [(false, false), (false, true), (true, false), (true, true)];
        Self { at: seed, facts, runs: runs.map(|(errors, over)| Arc::new(run_state(errors, over))) }
    }

    fn run_state(&mut self, over: bool) -> Arc<RunState> {
        self.runs[2 * self.below(2) + usize::from(over)].clone()
    }

    fn below(&mut self, count: usize) -> usize {
        self.at = self.at.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.at >> 33) as usize % count.max(1)
    }

    fn is_one_in(&mut self, count: usize) -> bool {
        self.below(count) == 0
    }

    fn facts(&mut self) -> Facts {
        let mut facts = self.facts[self.below(2)].clone();
        facts.can_move = self.is_one_in(2);
        facts.closed = self.is_one_in(4).then(|| "red dot has to go.".to_owned());
        facts.dark = self.is_one_in(6).then(|| "three beeps".to_owned());
        facts.go_on = self.is_one_in(3).then(|| Start::new(facts_recipe()));
        facts.repeat = self.is_one_in(3).then(|| Start::new(facts_recipe()));
        facts.unexplained = self.is_one_in(8).then(|| ("r".to_owned(), "It broke off.".to_owned()));
        facts.offered = if self.is_one_in(2) { vec!["profile".into(), "stock".into()] } else { Vec::new() };
        if self.is_one_in(4) {
            facts.trials.clear();
        }
        if self.is_one_in(10) {
            facts.board.slots.clear();
        }
        facts.table = facts.board.modules().map(|(_, module)| module.clone()).take(self.below(3)).collect();
        facts
    }

    fn recorded(&mut self) -> Recorded {
        let over = self.is_one_in(2);
        let state = self.run_state(over).as_ref().clone();
        let standing = if self.is_one_in(3) { Standing::Running } else { Standing::Over(samples::judged(&state)) };
        Recorded { bytes: 0, records: 0, id: state.id.clone(), state, standing }
    }

    fn listed(&mut self, find: &str) -> News {
        let runs = (0..self.below(4)).map(|at| RunSummary { id: at.to_string(), ..samples::summary() }).collect();
        News::Runs(Listed { find: find.to_owned(), runs, count: 3, unreadable: Vec::new(), aside: None })
    }

    fn running(&mut self) -> RunView {
        RunView { state: self.run_state(false), ..RunView::default() }
    }

    /// What the workshop might answer.
    fn answers(&mut self, effect: &Effect, app: &App) -> Vec<News> {
        let busy = app.shared.is_busy();
        match effect {
            Effect::StartRun(_) if !busy => vec![News::RunBegan],
            Effect::StopRun if app.shared.is_running() => {
                let state = self.run_state(true);
                vec![
                    News::RunOver(RunView { state, over: true, ..RunView::default() }),
                    News::Facts(Box::new(self.facts())),
                ]
            }
            Effect::OpenJob { .. } | Effect::NewJob if !busy => vec![News::Opened(Box::new(self.facts()))],
            Effect::ListJobs => {
                let job = JobSummary { id: "j".into(), machine: "dome-1".into(), ..JobSummary::default() };
                vec![News::Jobs(vec![job; self.below(3)])]
            }
            Effect::Locate => vec![News::Located(samples::located(self.is_one_in(2)))],
            Effect::ListLogs(find) => vec![self.listed(find)],
            Effect::OpenLog(_) => vec![News::Recorded(Arc::new(self.recorded()), None)],
            Effect::LogAt { at, length, .. } => {
                vec![News::Recorded(Arc::new(self.recorded()), at.map(|at| (at, *length)))]
            }
            Effect::Compare(ids) => {
                let runs = ids.iter().map(|_| self.recorded()).collect();
                vec![News::Compared(Arc::new(Compared { runs, in_common: "Nothing.".into() }))]
            }
            Effect::Life { serial, name } => {
                let runs = vec![life_line(); self.below(3)];
                let life = Life { serial: serial.clone(), ends: Vec::new(), runs };
                vec![News::Life(Arc::new(life), name.clone())]
            }
            Effect::ListDrives => {
                let drive = Drive { name: "Korund".into(), ..Drive::default() };
                vec![News::Drives(vec![drive; self.below(3)], self.is_one_in(2).then(|| "image".to_owned()))]
            }
            Effect::WriteDrive { .. } => vec![News::Writing(Arc::new(Writing {
                name: "Korund".into(),
                progress: Mutex::default(),
                begin: Instant::now(),
                give_up: AtomicBool::default(),
                ended: if self.is_one_in(2) { OnceLock::new() } else { OnceLock::from(Err("given up".to_owned())) },
            }))],
            Effect::FindRecords => vec![News::RecordsFound(vec![PathBuf::from("/mnt"); self.below(3)])],
            Effect::BringIn(from) => {
                let now = BringingIn { from: from.clone(), progress: Arc::default(), ended: Arc::default() };
                vec![News::BringingIn(now)]
            }
            Effect::ReadSystemLog => {
                let logs = SystemLogs { entries: vec![log_entry(); self.below(3)], ..SystemLogs::default() };
                vec![News::SystemLog(Arc::new(if self.is_one_in(3) { OnceLock::new() } else { OnceLock::from(logs) }))]
            }
            Effect::KeepSystemLog => vec![News::SystemLogKept],
            Effect::MeasureSpeed { .. } if !busy => vec![News::Speed(Some(SpeedSnapshot::default()))],
            Effect::LearnByTime if !busy => vec![News::ByTime(Some(TimingStage::Rows))],
            Effect::StopByTime => vec![News::ByTime(None), News::Said("Stopped.".into())],
            Effect::StopSpeed => vec![News::Speed(None), News::SpeedMeasured(Arc::new(samples::speed_record(true)))],
            Effect::CompareSpeed { .. } if self.is_one_in(2) => vec![News::Said("Nothing to compare with.".into())],
            Effect::CompareSpeed { which, .. } => {
                vec![News::SpeedCompared(Some((*which, Arc::new(samples::speed_record(true)))))]
            }
            Effect::MakeReport(language) => vec![News::Report(Arc::new(document(language.is_some())))],
            Effect::OpenRecipe { .. } => vec![News::Recipe(Box::new(facts_recipe()))],
            Effect::ListRecipes => vec![News::Recipes(vec![PathBuf::from("/r/survey-1.toml"); self.below(3)])],
            Effect::WriteReport(_) | Effect::SaveRecipe(_) => {
                vec![News::Said("Written.".into())]
            }
            Effect::Decide(_) | Effect::Refit(_) | Effect::Set(_) | Effect::Reseat(_) | Effect::Mark { .. } => {
                vec![News::Facts(Box::new(self.facts()))]
            }
            _ => Vec::new(),
        }
    }

    /// Something happens without a key.
    fn by_itself(&mut self, app: &mut App) -> Vec<Effect> {
        match self.below(6) {
            0 if app.shared.is_running() => {
                app.shared.run = Some(self.running());
                Vec::new()
            }
            1 => app.told(News::Facts(Box::new(self.facts()))),
            2 => app.told(News::BroughtIn(Ok(Imported::default()))),
            3 => app.told(News::Located(samples::located(self.is_one_in(2)))),
            4 if app.shared.is_measuring() => app.told(News::Speed(None)),
            _ => Vec::new(),
        }
    }

    fn settle(&mut self, app: &mut App, effects: Vec<Effect>) {
        let mut effects = std::collections::VecDeque::from(effects);
        while let Some(effect) = effects.pop_front() {
            for news in self.answers(&effect, app) {
                effects.extend(app.told(news));
            }
        }
        if app.shared.run.as_ref().is_some_and(|run| !run.over && run.state.records == 0) {
            app.shared.run = Some(self.running());
        }
        // Who left comes back: the walk goes on.
        app.left = None;
    }

    /// A key that is shown, or any other.
    fn key(&mut self, app: &App) -> KeyCode {
        const OTHERS: [KeyCode; 12] = [
            KeyCode::Enter,
            KeyCode::Esc,
            KeyCode::Down,
            KeyCode::Up,
            KeyCode::Backspace,
            KeyCode::Tab,
            KeyCode::Char('x'),
            KeyCode::Char('e'),
            KeyCode::Char('1'),
            KeyCode::Char('?'),
            KeyCode::F(7),
            KeyCode::Home,
        ];
        let shown: Vec<KeyCode> = app.commands().into_iter().flat_map(|known| known.key.codes).collect();
        if self.is_one_in(4) { OTHERS[self.below(OTHERS.len())] } else { shown[self.below(shown.len())] }
    }
}

fn facts_recipe() -> revisum_engine::recipe::Recipe {
    revisum_engine::recipe::Recipe::of_depth(revisum_engine::recipe::Depth::Survey)
}

fn life_line() -> LifeLine {
    serde_json::from_value(serde_json::json!({
        "run": "r", "job": "j", "started": "2031-04-12T13:16:00", "machine": "dome-1", "mainboard": "Holm", "slot": "A1",
        "kind": "DDR4", "outcome": "clean", "headline": samples::summary().headline, "errors": 0, "passes": 1, "wall_ms": 0, "order_ms": 0,
    }))
    .expect("a line of a module's life")
}

fn log_entry() -> LogEntry {
    serde_json::from_value(serde_json::json!({ "kind": "corrected", "count": 1, "text": "an entry" }))
        .expect("an entry")
}

fn document(german: bool) -> Document {
    Document {
        title: "Report".into(),
        letterhead: Vec::new(),
        facts: Vec::new(),
        blocks: vec![Block::Paragraph("One sentence after the other. ".repeat(60))],
        foot: String::new(),
        language: if german { "de" } else { "en" },
    }
}

fn picture(app: &App, (width, height): (u16, u16)) -> String {
    let Ok(mut terminal) = Terminal::new(TestBackend::new(width, height));
    let Ok(_) = terminal.draw(|frame| app.draw(frame, &Theme::full(), &Targets::default()));
    terminal.backend().buffer().content().iter().map(|cell| cell.symbol()).collect()
}

/// Presses a key that is shown and says whether anything came of it.
fn does_something(app: &mut App, walk: &mut Walk, known: &Known) -> bool {
    let before = (app.view, picture(app, (128, 40)));
    let effects = app.key(known.key.codes[0].into());
    let asked = !effects.is_empty();
    let left = app.left.is_some();
    let after = (app.view, picture(app, (128, 40)));
    walk.settle(app, effects);
    asked || left || before != after
}

/// Esc leads back, one step at a time, until there is nothing to go back to and it opens the list of actions.
fn leads_back(app: &mut App, walk: &mut Walk) {
    for _ in 0..8 {
        let covered = app.front.is_some();
        let before = picture(app, (128, 40));
        let effects = app.key(KeyCode::Esc.into());
        let asked = !effects.is_empty();
        let changed = before != picture(app, (128, 40));
        assert!(asked || changed, "Esc does nothing:\n{before}");
        walk.settle(app, effects);
        if !covered && matches!(app.front, Some(Front::Actions { .. })) {
            app.key(KeyCode::Esc.into());
            assert!(app.front.is_none());
            return;
        }
    }
    // While a drive is written there is no way back before that ends: it says so each time.
    assert!(format!("{:?}", app.front).contains("being written"), "Esc never comes to an end: {:?}", app.front);
    app.front = None;
}

#[rstest]
fn every_command_does_something_and_every_state_is_left(#[values(1, 2, 3, 4, 5, 6, 7, 8)] seed: u64) {
    const SIZES: [(u16, u16); 5] = [(80, 25), (128, 40), (160, 47), (60, 20), (20, 5)];
    let mut walk = Walk::new(seed);
    let mut app = samples::app(seed.is_multiple_of(2), true);
    for step in 0..STEPS {
        let all = app.commands();
        assert!(all.iter().any(|known| known.key.codes == [KeyCode::Enter]), "no next step in {:?}: {all:?}", app.view);
        assert!(all.iter().any(|known| known.key.codes == [KeyCode::Esc]), "no way back in {:?}", app.view);
        if walk.is_one_in(100) {
            let size = SIZES[walk.below(SIZES.len())];
            assert!(!picture(&app, size).trim().is_empty(), "{:?} is blank at {size:?}", app.view);
        }
        if walk.is_one_in(200) {
            leads_back(&mut app, &mut walk);
        } else if app.front.is_none() && walk.is_one_in(60) {
            let single: Vec<&Known> = all.iter().filter(|known| known.key.codes.len() == 1).collect();
            let known = single[walk.below(single.len())].clone();
            let here = matches!(known.taker, Taker::Common(Common::Show(view)) if view == app.view);
            let typing = app.rooms[app.view as usize].takes(KeyCode::F(12).into(), &app.shared).is_some();
            if !here && !typing {
                let view = app.view;
                assert!(
                    does_something(&mut app, &mut walk, &known),
                    "{:?} of {view:?} does nothing, step {step}",
                    known.key
                );
            }
        } else if walk.is_one_in(10) {
            let effects = walk.by_itself(&mut app);
            walk.settle(&mut app, effects);
        } else {
            let code = walk.key(&app);
            let effects = app.key(code.into());
            walk.settle(&mut app, effects);
        }
    }
}

/// Shows every state of a walk of so many steps.
pub(super) fn visit(seed: u64, steps: usize, mut seen: impl FnMut(&App)) {
    let mut walk = Walk::new(seed);
    let mut app = samples::app(seed.is_multiple_of(2), true);
    for _ in 0..steps {
        seen(&app);
        let effects = if walk.is_one_in(10) {
            walk.by_itself(&mut app)
        } else {
            let code = walk.key(&app);
            app.key(code.into())
        };
        walk.settle(&mut app, effects);
    }
}
