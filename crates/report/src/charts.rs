//! The drawings of a run, with captions in the document's language.

use revisum_drawing::{RunLabels, board_scene, errors_over_time, tests_by_pass};
use revisum_record::run_state::RunState;

use crate::document::Figure;
use crate::keys::Key;
use revisum_words::Texts;

/// The drawings of a run that have something to show: `number` is what the report calls it.
pub fn charts(state: &RunState, number: usize, texts: &Texts) -> Vec<Figure> {
    let caption = |key: Key| texts.put(key, &[("run", number.into())]);
    let named = |what: &str| format!("run-{number}-{what}");
    let mut all = vec![Figure { name: named("board"), caption: caption(Key::ChartBoard), scene: board_scene(state) }];
    let heat = state.timeline.spans().iter().any(|span| span.celsius.is_some());
    if state.errors.words > 0 {
        let labels = RunLabels {
            minutes: texts.say(Key::AxisMinutes),
            errors: texts.say(Key::AxisWords),
            celsius: texts.say(Key::AxisCelsius),
            decimal: &|value| texts.decimal(value, 1),
        };
        let caption = if heat { caption(Key::ChartErrorsHeat) } else { caption(Key::ChartErrors) };
        let scene = errors_over_time(state, &labels);
        all.extend(scene.map(|scene| Figure { name: named("errors"), caption, scene }));
    }
    all.extend(tests_by_pass(state).map(|scene| Figure {
        name: named("tests"),
        caption: caption(Key::ChartGrid),
        scene,
    }));
    all
}
