//! The wall: every machine that is linked to the counter, from across the room, those first that wait for somebody. Enter opens the full screen of a
//! machine: its own picture, and keys go to it.

mod draw;
mod keys;
mod lines;
mod need;
mod picture;
mod place;
mod row;
mod standing;
mod tile;

use std::collections::BTreeMap;
use std::time::Instant;

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};
use ratatui::Frame;
use revisum_link::{BenchNow, Look, Order};

use self::need::Need;
use crate::kit::canvas::{Canvas, Target, Targets};
use crate::kit::theme::Theme;
use crate::shared::state::stepped;

pub use self::keys::pressed;
pub use self::lines::WallLines;
pub use self::picture::picture_of;
pub use self::place::{Door, Place};
pub use self::standing::standing_of;

/// Rows that the wall keeps of a machine's full screen for itself.
const OWN_ROWS: u16 = 1;

/// What the wall asks for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Asks {
    /// Something is done to a machine.
    Order(String, Order),
    /// Back to where one came from.
    Leave,
    /// A sound.
    Ring,
    /// All of it is drawn anew.
    Wipe,
}

/// The wall.
pub struct Wall {
    door: Door,
    benches: Vec<BenchNow>,
    /// The card of the chosen machine: its place changes.
    chosen: Option<String>,
    /// The machine whose full screen is open.
    open: Option<String>,
    sound: bool,
    /// What each machine needed when it was looked at last.
    needed: BTreeMap<String, Need>,
    size: (u16, u16),
}

impl Wall {
    /// Of the counter behind this door, on a screen of this size.
    pub fn new(door: Door, size: (u16, u16)) -> Self {
        Self { door, benches: Vec::new(), chosen: None, open: None, sound: true, needed: BTreeMap::new(), size }
    }

    /// Takes in what is known of all machines now. A sound is asked for when one needs somebody that did not before.
    pub fn see(&mut self, mut benches: Vec<BenchNow>, now: Instant) -> Vec<Asks> {
        benches.sort_by_cached_key(|bench| need::order(bench, now));
        let needs: BTreeMap<String, Need> =
            benches.iter().map(|bench| (bench.id.clone(), Need::of(bench, now))).collect();
        let is_new = |(id, need): (&String, &Need)| {
            need.calls() && self.needed.get(id).is_none_or(|before| !before.calls() || before < need)
        };
        let rings = self.sound && needs.iter().any(is_new);
        (self.benches, self.needed) = (benches, needs);
        if rings { vec![Asks::Ring] } else { Vec::new() }
    }

    /// Takes a key.
    pub fn key(&mut self, key: KeyEvent) -> Vec<Asks> {
        let back = key.modifiers.contains(KeyModifiers::CONTROL) && key.code == KeyCode::Char('w');
        match self.open.clone() {
            Some(_) if back => self.close(),
            Some(id) => keys::order_of(key).map(|key| Asks::Order(id, Order::Press(key))).into_iter().collect(),
            None => self.key_on_wall(key),
        }
    }

    fn key_on_wall(&mut self, key: KeyEvent) -> Vec<Asks> {
        if key.modifiers.contains(KeyModifiers::CONTROL) {
            return match key.code {
                KeyCode::Char('c') => vec![Asks::Leave],
                KeyCode::Char('l') => vec![Asks::Wipe],
                _ => Vec::new(),
            };
        }
        match key.code {
            KeyCode::Enter => return self.open_chosen(),
            KeyCode::Up | KeyCode::Left | KeyCode::Char('k') => self.step(-1),
            KeyCode::Down | KeyCode::Right | KeyCode::Char('j') => self.step(1),
            KeyCode::PageUp => self.step(-10),
            KeyCode::PageDown => self.step(10),
            KeyCode::Home => self.step(isize::MIN),
            KeyCode::End => self.step(isize::MAX),
            KeyCode::Char('s') => self.sound = !self.sound,
            KeyCode::Char('g') => return vec![Asks::Wipe],
            KeyCode::Esc | KeyCode::Char('q') => return vec![Asks::Leave],
            _ => {}
        }
        Vec::new()
    }

    /// A machine on it was pointed at: chosen, or opened where it was chosen already.
    pub fn pointed(&mut self, target: Target) -> Vec<Asks> {
        let Target::Line(at) = target else { return Vec::new() };
        if self.open.is_some() || at >= self.benches.len() {
            return Vec::new();
        }
        if self.chosen_at() == at && self.chosen.is_some() {
            return self.open_chosen();
        }
        self.chosen = Some(self.benches[at].id.clone());
        Vec::new()
    }

    /// The terminal has another size.
    pub fn resized(&mut self, size: (u16, u16)) -> Vec<Asks> {
        self.size = size;
        self.open.clone().map(|id| Asks::Order(id, Order::Look(Some(self.look())))).into_iter().collect()
    }

    /// Looks no more at the machine that is open.
    pub fn close(&mut self) -> Vec<Asks> {
        self.open.take().map(|id| Asks::Order(id, Order::Look(None))).into_iter().collect()
    }

    fn chosen_at(&self) -> usize {
        self.benches.iter().position(|bench| Some(&bench.id) == self.chosen.as_ref()).unwrap_or(0)
    }

    fn step(&mut self, by: isize) {
        let at = stepped(self.chosen_at(), by, self.benches.len());
        self.chosen = self.benches.get(at).map(|bench| bench.id.clone());
    }

    fn open_chosen(&mut self) -> Vec<Asks> {
        let Some(bench) = self.benches.get(self.chosen_at()) else { return Vec::new() };
        (self.open, self.chosen) = (Some(bench.id.clone()), Some(bench.id.clone()));
        vec![Asks::Order(bench.id.clone(), Order::Look(Some(self.look())))]
    }

    fn look(&self) -> Look {
        Look { columns: self.size.0, rows: self.size.1.saturating_sub(OWN_ROWS) }
    }

    /// Draws it as it is at this moment, which is this time of day in milliseconds since 1970.
    pub fn draw(&self, frame: &mut Frame<'_>, theme: &Theme, targets: &Targets, now: Instant, wall_ms: i64) {
        let area = frame.area();
        let mut canvas = Canvas::new(frame.buffer_mut(), area, theme).pointed(targets);
        for y in 0..canvas.height() {
            canvas.fill_row(y, theme.ground());
        }
        let open = self.open.as_ref().and_then(|id| self.benches.iter().find(|bench| bench.id == *id));
        match open {
            Some(bench) => draw::machine(&mut canvas, bench, now, wall_ms),
            None => draw::wall(&mut canvas, self, now, wall_ms),
        }
    }
}

#[cfg(test)]
mod tests;
