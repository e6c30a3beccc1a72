//! 6 Swap: which part it is, what to try next and why, and what was tried.

mod arrangement;
mod draw;
mod history;
mod known;
mod lists;

use revisum_record::journal::JobEntry;

use crate::say;
use crate::kit::board_strip::Strip;
use crate::kit::canvas::Canvas;
use crate::moves::{next, notes};
use crate::room::command::Command;
use crate::room::screen::Screen;
use crate::room::step::{Ask, Step, does, says};
use crate::shared::effect::Effect;
use crate::shared::state::{Shared, stepped};

/// Which part it is.
#[derive(Debug, Default)]
pub struct Swap {
    /// Which loose module would be put in.
    loose: usize,
}

/// What its keys say.
#[derive(Clone, Copy, Debug)]
pub enum Message {
    /// The next sensible step.
    Proceed,
    /// Another slot.
    Slot(isize),
    /// Another module on the table.
    Loose(isize),
    /// Take out, put in.
    Switch,
    /// Other settings in the firmware.
    Settings,
    /// Another step than the advised one.
    OtherStep,
    /// Strike a run out, or let it count again.
    Strike,
    /// Say what else is known.
    Known,
    /// Write a note.
    Note,
    /// The job is done, or goes on.
    CloseOrReopen,
}

impl Screen for Swap {
    type Message = Message;

    fn purpose() -> &'static str {
        say::swap_purpose()
    }

    fn commands(&self, shared: &Shared) -> Vec<Command<Message>> {
        let mut all = Vec::new();
        if !shared.is_busy() {
            all.push(Command::enter(Message::Proceed, next::words(shared)));
        }
        if shared.facts.can_move || shared.facts.board.is_declared() {
            all.push(Command::list(Message::Slot, say::key_select_slot()));
            all.push(Command::letter(' ', say::key_space(), Message::Switch, say::key_remove_insert()));
            all.push(Command::sides(Message::Loose, say::key_select_module()).aside());
        }
        if shared.facts.can_move && shared.facts.offered.len() > 1 {
            all.push(Command::letter('s', "s", Message::Settings, say::key_other_settings()));
        }
        if shared.is_running() {
            return all;
        }
        if shared.facts.advice.as_ref().is_some_and(|advice| !advice.alternatives.is_empty()) {
            all.push(Command::letter('a', "a", Message::OtherStep, say::key_other_steps()));
        }
        if !shared.facts.trials.is_empty() {
            all.push(Command::letter('u', "u", Message::Strike, say::key_exclude_run()).aside());
        }
        all.push(Command::letter('b', "b", Message::Known, say::key_add_known()).aside());
        all.push(Command::letter('n', "n", Message::Note, say::key_add_note()).aside());
        let words = if shared.facts.closed.is_some() { say::key_reopen_job() } else { say::key_close_job() };
        let close = Command::letter('c', "c", Message::CloseOrReopen, words);
        all.push(close.in_footer(shared.answer().is_some()));
        all
    }

    fn update(&mut self, message: Message, shared: &Shared) -> Step {
        match message {
            Message::Proceed => next::proceed(shared),
            Message::Slot(by) => vec![Ask::Slot(stepped(shared.slot, by, shared.facts.board.slots.len()))],
            Message::Loose(by) => {
                self.loose = stepped(self.loose, by, shared.facts.table.len());
                Vec::new()
            }
            Message::Switch => self.switch(shared),
            Message::Settings => other_settings(shared),
            Message::OtherStep => lists::other_steps(shared),
            Message::Strike => lists::strike(shared),
            Message::Known => lists::what_else(shared),
            Message::Note => notes::ask(shared),
            Message::CloseOrReopen => close_or_reopen(shared),
        }
    }

    fn strip<'a>(&'a self, shared: &'a Shared) -> Strip<'a> {
        let in_question = !shared.is_running();
        let next = shared.proposal().filter(|_| in_question).map(|next| next.placement.as_slice());
        Strip { chosen: Some(shared.slot), loose: Some(self.loose), in_question, next, ..Strip::of(shared) }
    }

    fn draw(&self, canvas: &mut Canvas<'_>, shared: &Shared) {
        draw::draw(canvas, shared);
    }
}

/// The job is done, with its answer written down; or it goes on.
fn close_or_reopen(shared: &Shared) -> Step {
    if shared.facts.closed.is_some() {
        return lists::decides(JobEntry::Reopened);
    }
    next::close(shared)
}

/// The next settings that the firmware offers.
fn other_settings(shared: &Shared) -> Step {
    if shared.is_running() {
        return says(say::swap_stop_settings());
    }
    let offered = &shared.facts.offered;
    let at = offered.iter().position(|settings| *settings == shared.facts.settings).map_or(0, |at| at + 1);
    let next = offered.get(at).or(offered.first()).filter(|next| **next != shared.facts.settings);
    next.map(|next| does(Effect::Set(next.clone()))).unwrap_or_default()
}

impl Swap {
    /// Takes the module out of the chosen slot, or puts the chosen loose module in.
    fn switch(&mut self, shared: &Shared) -> Step {
        if shared.is_running() {
            return says(say::swap_stop_move());
        }
        let Some(slot) = shared.facts.board.slots.get(shared.slot) else {
            return says(say::swap_no_slots());
        };
        if slot.soldered {
            return says(say::swap_soldered(&slot.id));
        }
        let mut placement = shared.facts.board.placement();
        if slot.module.is_some() {
            placement.retain(|(used, _)| *used != slot.id);
        } else {
            let Some(module) = shared.facts.table.get(self.loose).or(shared.facts.table.first()) else {
                return says(say::swap_none_removed());
            };
            placement.push((slot.id.clone(), module.serial.clone()));
        }
        self.loose = 0;
        does(Effect::Refit(placement))
    }
}

#[cfg(test)]
mod tests;
