//! Every screen with the longest names, counts and sentences at every size: no letter is written over another.

use crossterm::event::KeyCode;
use ratatui::Terminal;
use ratatui::backend::TestBackend;
use revisum_record::fitted::Board;
use revisum_words::{Language, speaking};
use rstest::rstest;

use super::samples::{self, run_state};
use super::*;
use crate::kit::canvas::collisions;
use crate::kit::theme::Theme;

const SIZES: [(u16, u16); 5] = [(80, 25), (100, 30), (128, 40), (160, 47), (60, 20)];

/// A name of forty letters that differ from slot to slot.
fn long(id: &str) -> String {
    format!("{id} upper bank of the second riser card xy")
}

fn with_long_names(board: &mut Board) {
    for slot in &mut board.slots {
        slot.id = long(&slot.id);
        if let Some(module) = &mut slot.module {
            module.maker = "Haldry Halbleiterwerke Gesellschaft".into();
            module.part = "HD8G32J-3200C16-REV-B2-X".into();
            module.mark = Some("rot-weiss gestreifter Punkt".into());
        }
    }
    board.mainboard = "Tarnwerk Holm M2 Donaudampfschifffahrtsausgabe".into();
}

fn crowded(over: bool) -> App {
    let mut app = samples::app(true, over);
    let facts = &mut app.shared.facts;
    with_long_names(&mut facts.board);
    facts.names.values_mut().for_each(|name| name.push_str(" mit blauem Aufkleber an der Seite"));
    facts.title = "Skerry Point, dome control, Wetterdienstrechner im Keller".into();
    facts.machine = "dome-1-kuppelsteuerung-nord-2".into();
    facts.settings = "profile 2 as stored by the module".into();
    facts.offered = vec!["profile 2 as stored by the module".into(), "stock as the firmware gives it".into()];
    facts.table = facts.board.modules().map(|(_, module)| module.clone()).collect();
    for trial in &mut facts.trials {
        trial.placement = trial.placement.iter().map(|(slot, id)| (long(slot), id.clone())).collect();
        trial.slots = trial.slots.iter().map(|slot| long(slot)).collect();
        (trial.errors, trial.seconds) = (u64::MAX, 1e7);
    }
    facts.trials = vec![facts.trials[0].clone(); 12];
    let mut state = run_state(true, over);
    with_long_names(&mut state.begin.board);
    state.begin.machine = facts.machine.clone();
    for sample in &mut state.errors.samples {
        sample.slots = vec![long("B1")];
    }
    state.errors.words = u64::MAX;
    state.errors.slots = [(long("B1"), u64::MAX)].into();
    app.shared.run = Some(RunView { state: std::sync::Arc::new(state), over, ..RunView::default() });
    app.shared.located = samples::located(true);
    app
}

fn assert_clear(app: &App, what: &str) {
    for (width, height) in SIZES {
        collisions::take();
        let Ok(mut terminal) = Terminal::new(TestBackend::new(width, height));
        let Ok(_) = terminal.draw(|frame| app.draw(frame, &Theme::full(), &Targets::default()));
        let buffer = terminal.backend().buffer();
        let rows = buffer.content().chunks(usize::from(width));
        let picture: String = rows.map(|row| row.iter().map(|cell| cell.symbol()).collect::<String>() + "\n").collect();
        let found = collisions::take();
        assert!(found.is_empty(), "{what} at {width}x{height}:\n{}\n{picture}", found.join("\n"));
    }
}

#[rstest]
fn nothing_is_written_over_anything(#[values(false, true)] over: bool, #[values("en", "de")] language: &str) {
    speaking(Language::tagged(language).unwrap(), || walked(over));
}

fn walked(over: bool) {
    for view in View::ALL {
        let mut app = crowded(over);
        app.shared.size = (128, 40);
        app.view = *view;
        assert_clear(&app, view.name());
        for code in [KeyCode::Down, KeyCode::Right, KeyCode::Char('i'), KeyCode::End] {
            app.key(code.into());
            assert_clear(&app, &format!("{} after {code:?}", view.name()));
        }
        let mut app = crowded(over);
        app.view = *view;
        for code in
            [KeyCode::Char('?'), KeyCode::Esc, KeyCode::Esc, KeyCode::Char('u'), KeyCode::Esc, KeyCode::Char('f')]
        {
            app.key(code.into());
            assert_clear(&app, &format!("{} after {code:?}", view.name()));
        }
    }
}
