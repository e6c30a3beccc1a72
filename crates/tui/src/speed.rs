//! Measuring speed: beginning it, choosing what is shown of it.

use super::effect::Effect;
use super::state::{App, Overlay, SpeedChart};

/// What Enter does here.
pub fn next_step_words(app: &App) -> Option<String> {
    if app.speed.is_measuring() || app.is_running() {
        return None;
    }
    Some(if app.speed.shown(&app.facts).is_some() { "measure again" } else { "measure" }.to_owned())
}

/// Begins, unless something speaks against it.
pub fn measure(app: &mut App, all_memory: bool) -> Vec<Effect> {
    if app.speed.is_measuring() {
        return Vec::new();
    }
    let notice = if app.is_running() {
        "A run is going on: each would slow the other down. Wait for its end, or stop it.".to_owned()
    } else if let Some(sign) = &app.facts.dark {
        format!("The machine does not start: {sign}. 6 moves modules.")
    } else {
        return vec![Effect::MeasureSpeed { all_memory }];
    };
    app.overlay = Some(Overlay::Notice(notice));
    Vec::new()
}

/// From this width on charts stand beside the figures.
pub const WIDE: u16 = 120;

/// Another chart, round and round; where they do not fit beside each other the figures are one of them.
pub fn step(app: &mut App, by: isize) {
    let figures = (app.size.0 < WIDE).then_some(None);
    let all: Vec<Option<SpeedChart>> = figures.into_iter().chain(SpeedChart::ALL.map(Some)).collect();
    let at = all.iter().position(|chart| *chart == app.speed.chart).unwrap_or(0);
    app.speed.chart = all[(at as isize + by).rem_euclid(all.len() as isize) as usize];
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::state::Facts;

    #[rstest]
    #[case::beside_the_figures(128, &[1], Some(SpeedChart::OneCore))]
    #[case::round_and_round(128, &[1; 5], Some(SpeedChart::AllCores))]
    #[case::backwards(128, &[-1], Some(SpeedChart::Strides))]
    #[case::after_the_figures(80, &[1], Some(SpeedChart::AllCores))]
    #[case::back_to_the_figures(80, &[1; 6], None)]
    fn charts_follow_each_other(#[case] width: u16, #[case] steps: &[isize], #[case] expected: Option<SpeedChart>) {
        let mut app = App::new(Facts::default(), (width, 40));
        steps.iter().for_each(|by| step(&mut app, *by));
        assert_eq!(app.speed.chart, expected);
    }

    #[test]
    fn a_dark_machine_is_not_measured() {
        let facts = Facts { dark: Some("the screen stays dark".into()), ..Facts::default() };
        let mut app = App::new(facts, (128, 40));
        assert_eq!(measure(&mut app, false), []);
        assert!(matches!(&app.overlay, Some(Overlay::Notice(words)) if words.contains("does not start")));
    }
}
