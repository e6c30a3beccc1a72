//! 7 Speed: how fast memory is, and how fast it should be.

mod draw;

use std::sync::Arc;

use revisum_record::speed::SpeedRecord;

use crate::say;
use crate::kit::canvas::Canvas;
use crate::room::command::Command;
use crate::room::screen::Screen;
use crate::room::step::{Step, does, goes, says};
use crate::room::view::View;
use crate::shared::effect::Effect;
use crate::shared::news::News;
use crate::shared::state::Shared;

/// From this width on charts are drawn beside the figures.
const WIDE: u16 = 120;

/// How fast memory is.
#[derive(Debug, Default)]
pub struct Speed {
    /// What was measured last in this sitting.
    record: Option<Arc<SpeedRecord>>,
    /// The chart shown; nothing for the first one, or on a small screen for the figures alone.
    chart: Option<Chart>,
    /// The one compared with, and which of those that are alike it is.
    compared: Option<(usize, Arc<SpeedRecord>)>,
}

/// Charts of a measurement.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Chart {
    /// Bandwidth over the working set, all cores.
    AllCores,
    /// Bandwidth over the working set, one core.
    OneCore,
    /// Latency over the working set.
    Latency,
    /// Bandwidth by width.
    Widths,
    /// Time of a load by distance.
    Strides,
}

impl Chart {
    /// In the order in which they follow each other.
    const ALL: [Self; 5] = [Self::AllCores, Self::OneCore, Self::Latency, Self::Widths, Self::Strides];
}

/// What its keys say.
#[derive(Clone, Copy, Debug)]
pub enum Message {
    /// Measure, with working sets up to most of free memory or not.
    Measure(bool),
    /// Give it up.
    Stop,
    /// Another chart.
    Chart(isize),
    /// Set it against another measurement.
    Compare,
    /// To the machine at hand.
    Meanwhile,
}

impl Screen for Speed {
    type Message = Message;

    fn purpose() -> &'static str {
        say::speed_purpose()
    }

    fn commands(&self, shared: &Shared) -> Vec<Command<Message>> {
        let chart = self.shown(shared).map(|_| Command::sides(Message::Chart, say::key_select_chart()));
        if shared.is_measuring() {
            let stop = Command::letter('x', "x", Message::Stop, say::key_stop_at_once());
            let next = Command::enter(Message::Meanwhile, say::key_continue_meanwhile());
            return [stop, next].into_iter().chain(chart).collect();
        }
        let mut all = Vec::new();
        // While a run goes on nothing can be measured.
        if shared.facts.elsewhere {
            all.push(Command::enter(Message::Meanwhile, say::key_back_board()));
        } else if !shared.is_running() {
            let words = if chart.is_some() { say::key_measure_again() } else { say::key_measure() };
            all.push(Command::enter(Message::Measure(false), words));
        }
        all.extend(chart);
        all.push(Command::letter('c', "c", Message::Compare, say::key_compare()));
        if !shared.is_running() && !shared.facts.elsewhere {
            all.push(Command::letter('a', "a", Message::Measure(true), say::key_measure_all()));
        }
        all
    }

    fn update(&mut self, message: Message, shared: &Shared) -> Step {
        match message {
            Message::Measure(all_memory) => match &shared.facts.dark {
                Some(sign) => says(say::does_not_start_six(sign)),
                None => does(Effect::MeasureSpeed { all_memory }),
            },
            Message::Stop => does(Effect::StopSpeed),
            Message::Meanwhile => goes(View::Board),
            Message::Chart(by) => {
                self.step(by, shared.size.0);
                Vec::new()
            }
            Message::Compare => {
                let shown = self.shown(shared).map(|record| record.wall_ms);
                let which = self.compared.as_ref().map_or(0, |(at, _)| at + 1);
                does(Effect::CompareSpeed { shown, which })
            }
        }
    }

    fn told(&mut self, news: &News, _shared: &Shared) -> Step {
        match news {
            News::Speed(Some(_)) => self.record = None,
            News::SpeedMeasured(record) => self.record = Some(record.clone()),
            News::SpeedCompared(other) => self.compared.clone_from(other),
            _ => {}
        }
        Vec::new()
    }

    fn draw(&self, canvas: &mut Canvas<'_>, shared: &Shared) {
        draw::draw(canvas, self, shared);
    }
}

impl Speed {
    /// What is shown: what is being measured, was measured, or was measured last in this job.
    fn shown<'a>(&'a self, shared: &'a Shared) -> Option<&'a SpeedRecord> {
        let now = shared.speed.as_ref().map(|now| &now.record);
        let latest = now.or(self.record.as_ref()).or(shared.facts.speed.as_ref());
        latest.map(Arc::as_ref).filter(|record| !record.points.is_empty())
    }

    /// Another chart, round and round; where they do not fit beside the figures, these are one of them.
    fn step(&mut self, by: isize, width: u16) {
        let figures = (width < WIDE).then_some(None);
        let all: Vec<Option<Chart>> = figures.into_iter().chain(Chart::ALL.map(Some)).collect();
        let at = all.iter().position(|chart| *chart == self.chart).unwrap_or(0);
        self.chart = all[(at as isize + by).rem_euclid(all.len() as isize) as usize];
    }
}

#[cfg(test)]
mod tests {
    use crossterm::event::KeyCode;
    use rstest::rstest;

    use super::*;
    use crate::room::screen::Room;
    use crate::room::step::Ask;
    use crate::shared::facts::Facts;

    #[rstest]
    #[case::beside_the_figures(128, &[1], Some(Chart::OneCore))]
    #[case::round_and_round(128, &[1; 5], Some(Chart::AllCores))]
    #[case::backwards(128, &[-1], Some(Chart::Strides))]
    #[case::after_the_figures(80, &[1], Some(Chart::AllCores))]
    #[case::back_to_the_figures(80, &[1; 6], None)]
    fn charts_follow_each_other(#[case] width: u16, #[case] steps: &[isize], #[case] expected: Option<Chart>) {
        let mut speed = Speed::default();
        steps.iter().for_each(|by| speed.step(*by, width));
        assert_eq!(speed.chart, expected);
    }

    /// Of a machine that is not here nothing is measured, and Enter is no dead end.
    #[test]
    fn an_absent_machine_is_not_measured() {
        let shared = Shared::new(Facts { elsewhere: true, ..Facts::default() }, (128, 40));
        let step = Speed::default().press(KeyCode::Enter, &shared).unwrap();
        assert!(matches!(step.as_slice(), [Ask::Go(_)]), "{step:?}");
        assert!(Speed::default().press(KeyCode::Char('a'), &shared).is_none());
    }

    #[test]
    fn a_dark_machine_is_not_measured() {
        let facts = Facts { dark: Some("the screen stays dark".into()), ..Facts::default() };
        let step = Speed::default().press(KeyCode::Enter, &Shared::new(facts, (128, 40))).unwrap();
        assert!(matches!(step.as_slice(), [Ask::Say(words)] if words.contains("does not start")), "{step:?}");
    }
}
