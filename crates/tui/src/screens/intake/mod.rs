//! 1 Intake: what is told of a machine that comes in, picked from lists; nothing is required.

mod draw;

use revisum_diagnose::isolate::QUESTIONS;
use revisum_engine::text::cleaned;
use revisum_record::journal::{Intake as Told, JobEntry};
use tui_input::Input;

use crate::say;
use crate::dialogs::line::Line;
use crate::kit::canvas::Canvas;
use crate::kit::theme::Theme;
use crate::moves::next;
use crate::room::command::Command;
use crate::room::screen::Screen;
use crate::room::step::{Ask, Step, does};
use crate::shared::effect::Effect;
use crate::shared::state::{Shared, stepped};

/// Longest words.
const LONGEST: usize = 400;

/// What was told.
#[derive(Debug, Default)]
pub struct Intake {
    /// Chosen answer.
    answer: usize,
}

/// What its keys say.
#[derive(Clone, Copy, Debug)]
pub enum Message {
    /// Run what is chosen.
    Run,
    /// Another answer.
    Step(isize),
    /// Pick it, or take it back.
    Pick,
    /// Seen here, or said.
    Seen,
    /// Write words.
    Words,
}

/// How many answers there are.
fn answers() -> usize {
    QUESTIONS.iter().map(|question| question.answers.len()).sum()
}

impl Screen for Intake {
    type Message = Message;

    fn purpose() -> &'static str {
        say::intake_purpose()
    }

    fn commands(&self, shared: &Shared) -> Vec<Command<Message>> {
        let mut all = Vec::new();
        if !shared.is_busy() {
            all.push(Command::enter(Message::Run, next::words_elsewhere(shared)));
        }
        all.push(Command::list(Message::Step, say::key_select_row()));
        let pick = Command { name: "→", ..Command::sides(|_| Message::Pick, say::key_toggle()) };
        all.push(pick);
        all.push(Command::letter('s', "s", Message::Seen, say::key_seen_or_said()));
        all.push(Command::letter('w', "w", Message::Words, say::key_add_notes()));
        all
    }

    fn update(&mut self, message: Message, shared: &Shared) -> Step {
        match message {
            Message::Run => next::proceed_elsewhere(shared),
            Message::Step(by) => {
                self.answer = stepped(self.answer, by, answers());
                Vec::new()
            }
            Message::Pick => self.pick(shared),
            Message::Seen => self.seen(shared),
            Message::Words => words(shared),
        }
    }

    fn pointed(&mut self, at: usize, shared: &Shared) -> Step {
        self.answer = at.min(answers().saturating_sub(1));
        self.pick(shared)
    }

    fn draw(&self, canvas: &mut Canvas<'_>, shared: &Shared) {
        draw::draw(canvas, self, shared);
    }
}

impl Intake {
    /// Picks the chosen answer, or takes it back.
    fn pick(&self, shared: &Shared) -> Step {
        let Some(name) = self.chosen() else { return Vec::new() };
        let mut intake = shared.facts.intake.clone();
        match intake.picked.contains(name) {
            true => intake.take_back(name),
            false => intake.pick(name, shared.wall_ms, false),
        }
        kept(intake)
    }

    /// The chosen answer was seen here, or somebody only said it.
    fn seen(&self, shared: &Shared) -> Step {
        let Some(name) = self.chosen() else { return Vec::new() };
        let mut intake = shared.facts.intake.clone();
        intake.pick(name, shared.wall_ms, !intake.seen.contains(name));
        kept(intake)
    }

    fn chosen(&self) -> Option<&'static str> {
        QUESTIONS.iter().flat_map(|question| question.answers).nth(self.answer).copied()
    }
}

/// Asks for words.
fn words(shared: &Shared) -> Step {
    let intake = shared.facts.intake.clone();
    let line = Line {
        title: say::intake_anything_else().to_owned(),
        style: Theme::strong,
        words: Vec::new(),
        label: "",
        input: Input::new(intake.words.clone()),
        longest: LONGEST,
        keys: say::keep_cancel(),
        kept: Box::new(move |typed| kept(Told { words: cleaned(typed, LONGEST), ..intake.clone() })),
    };
    vec![Ask::Show(Box::new(line))]
}

fn kept(intake: Told) -> Step {
    does(Effect::Decide(Box::new(JobEntry::TakenIn { intake })))
}
