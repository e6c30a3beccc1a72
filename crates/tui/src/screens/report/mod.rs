//! 9 Report: what goes to the counter.

mod draw;

use std::sync::Arc;

use revisum_report::{Document, Language};

use crate::say;
use crate::kit::canvas::Canvas;
use crate::room::command::Command;
use crate::room::screen::Screen;
use crate::room::step::{Entry, Step, does};
use crate::shared::effect::Effect;
use crate::shared::news::News;
use crate::shared::state::{Shared, stepped};

/// Lines that one key press moves.
const STEP: isize = 4;

/// The report.
#[derive(Debug, Default)]
pub struct Report {
    /// As it would be written now.
    report: Option<Arc<Document>>,
    /// First line of it that is shown.
    line: usize,
    /// Its language; nothing for the shop's.
    language: Option<Language>,
}

/// What its keys say.
#[derive(Clone, Copy, Debug)]
pub enum Message {
    /// Write it to files.
    Write,
    /// Other lines.
    Step(isize),
    /// The other language.
    Language,
}

impl Screen for Report {
    type Message = Message;

    fn purpose() -> &'static str {
        say::report_purpose()
    }

    fn commands(&self, _shared: &Shared) -> Vec<Command<Message>> {
        vec![
            Command::enter(Message::Write, say::key_write_report()),
            Command::list(Message::Step, say::key_further_down()),
            Command::letter('o', "o", Message::Language, say::key_owner_language()),
        ]
    }

    fn update(&mut self, message: Message, shared: &Shared) -> Step {
        match message {
            Message::Write => does(Effect::WriteReport(self.language)),
            Message::Step(by) => {
                let lines = draw::report_lines(self, usize::from(shared.size.0)).len();
                self.line = stepped(self.line, by.saturating_mul(STEP), lines);
                Vec::new()
            }
            Message::Language => {
                let shown = self.report.as_ref().and_then(|report| Language::tagged(report.language));
                self.language = Some(shown.unwrap_or_default().next());
                does(Effect::MakeReport(self.language))
            }
        }
    }

    fn entered(&mut self, _entry: &Entry, _shared: &Shared) -> Step {
        does(Effect::MakeReport(self.language))
    }

    fn told(&mut self, news: &News, _shared: &Shared) -> Step {
        if let News::Report(report) = news {
            self.report = Some(report.clone());
        }
        Vec::new()
    }

    fn draw(&self, canvas: &mut Canvas<'_>, _shared: &Shared) {
        draw::draw(canvas, self);
    }
}
