//! Which slot a position is: by sizes where only one assignment fits, and by names that tell a channel. Order alone tells nothing.

use std::collections::{BTreeMap, BTreeSet};

use revisum_engine::units::PhysAddr;
use revisum_record::fitted::{Board, Slot};
use serde::Serialize;

use super::position_map::{Position, PositionMap};
use super::refusal::{Contradiction, Refusal};
use super::shown::ShownChannels;

/// What the name of a position rests on, the surest first.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Naming {
    /// Sizes, or the number of modules, allow only one.
    Sizes,
    /// Other arrangements of the mainboard showed which slots are on which channel.
    Shown,
    /// The firmware's names tell channels, and among those only one fits.
    Names,
    /// Several are possible.
    #[default]
    Open,
}

/// Slots that a position can be.
#[derive(Clone, Debug, PartialEq, Eq)]
struct Label {
    slots: BTreeSet<String>,
    naming: Naming,
}

/// A map over positions, with the slots that each can be.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Labelled {
    map: PositionMap,
    labels: BTreeMap<Position, Label>,
    /// For each channel its slots, in the order of their names, joined by blanks.
    joined: BTreeMap<Vec<Position>, String>,
}

/// More modules than a controller of these families has.
const MOST: usize = 8;

impl Labelled {
    /// Names the positions of a map by the board in which it was read.
    ///
    /// # Errors
    /// When the modules that the board has are not those that the registers speak of.
    pub fn new(map: PositionMap, board: &Board, shown: &ShownChannels) -> Result<Self, Refusal> {
        let positions = map.positions();
        let slots: Vec<&Slot> = board.slots.iter().filter(|slot| slot.module.is_some()).collect();
        let all = assignments(&positions, &slots, &|_, _| true);
        if positions.len() > MOST || all.is_empty() {
            return Err(Contradiction::Sizes.into());
        }
        let is_shown = |at: &Position, slot: &Slot| shown.channel(&slot.id).is_none_or(|channel| channel == at.channel);
        let by_moves = assignments(&positions, &slots, &is_shown);
        // A number that fits no slot tells nothing, and the channel still does.
        let numbered = assignments(&positions, &slots, &|at, slot| {
            is_shown(at, slot) && has_number(board, *at, slot) && is_channel(*at, slot)
        });
        let lettered = || assignments(&positions, &slots, &|at, slot| is_shown(at, slot) && is_channel(*at, slot));
        let named = if numbered.is_empty() { lettered() } else { numbered };
        let label = |(position, _): &(Position, u64)| {
            let of = |found: &[Assignment<'_>]| {
                found
                    .iter()
                    .filter_map(|one| one.get(position).map(|id| (*id).to_owned()))
                    .collect::<BTreeSet<String>>()
            };
            // What fits no assignment tells nothing; the first that leaves one slot names it.
            let ways = [(of(&all), Naming::Sizes), (of(&by_moves), Naming::Shown), (of(&named), Naming::Names)];
            let told = ways
                .into_iter()
                .filter(|(slots, _)| !slots.is_empty())
                .reduce(|known, next| if known.0.len() == 1 { known } else { next });
            let (slots, naming) = told.unwrap_or_default();
            (*position, Label { naming: if slots.len() == 1 { naming } else { Naming::Open }, slots })
        };
        let labels = positions.iter().map(label).collect();
        let mut labelled = Self { map, labels, joined: BTreeMap::new() };
        let joined = |group: Vec<Position>| (labelled.slots_of(&group).join(" "), group);
        labelled.joined = labelled.groups().map(joined).map(|(slots, group)| (group, slots)).collect();
        Ok(labelled)
    }

    /// Groups of positions that an address can come to.
    fn groups(&self) -> impl Iterator<Item = Vec<Position>> + '_ {
        let by_channel = self.map.channels().iter().map(|channel| {
            let own = self.labels.keys().filter(|position| position.channel == channel.number);
            own.copied().collect::<Vec<_>>()
        });
        by_channel.chain(self.labels.keys().map(|position| vec![*position]))
    }

    /// Whether some addresses come to a single slot: the name of each position alone says nothing where two of them share a channel in a way that is not known.
    pub fn tells_a_slot(&self) -> bool {
        self.map.channels().iter().any(|channel| {
            let position =
                |slot: &u8| self.labels.keys().find(|at| at.channel == channel.number && at.slot == *slot).copied();
            let groups =
                channel.together().into_iter().map(|slots| slots.iter().filter_map(position).collect::<Vec<_>>());
            groups.into_iter().any(|group| self.slots_of(&group).len() == 1)
        })
    }

    fn slots_of(&self, positions: &[Position]) -> Vec<String> {
        let labels = positions.iter().filter_map(|position| self.labels.get(position));
        labels.flat_map(|label| label.slots.iter().cloned()).collect::<BTreeSet<_>>().into_iter().collect()
    }

    /// The channel of a slot, where only positions of one channel can be it.
    pub fn channel_of(&self, slot: &str) -> Option<u8> {
        let mut channels = self.labels.iter().filter(|(_, label)| label.slots.contains(slot)).map(|(at, _)| at.channel);
        let first = channels.next()?;
        channels.all(|other| other == first).then_some(first)
    }

    /// The map over positions.
    pub fn map(&self) -> &PositionMap {
        &self.map
    }

    /// Each position with the slots that it can be, and what that rests on.
    pub fn labels(&self) -> impl Iterator<Item = (Position, Vec<String>, Naming)> + '_ {
        self.labels.iter().map(|(position, label)| (*position, label.slots.iter().cloned().collect(), label.naming))
    }

    /// Slots that can hold an address; nothing where it is no memory.
    pub fn slots(&self, address: PhysAddr) -> Option<Vec<String>> {
        let positions = self.map.locate(address);
        (!positions.is_empty()).then(|| self.slots_of(&positions))
    }

    /// The same joined by blanks.
    pub fn joined(&self, address: PhysAddr) -> Option<&str> {
        self.joined.get(&self.map.locate(address)).map(String::as_str)
    }
}

type Assignment<'a> = BTreeMap<Position, &'a str>;

/// Every way to give each position a slot of its own with a module of its size; all slots are used.
fn assignments<'a>(
    positions: &[(Position, u64)],
    slots: &[&'a Slot],
    fits: &dyn Fn(&Position, &Slot) -> bool,
) -> Vec<Assignment<'a>> {
    if positions.len() != slots.len() || positions.len() > MOST {
        return Vec::new();
    }
    let mut found = Vec::new();
    extend(positions, slots, fits, &mut Vec::new(), &mut found);
    let named = |order: Vec<usize>| {
        let pairs = order.iter().zip(positions);
        pairs.map(|(at, (of, _))| (*of, slots[*at].id.as_str())).collect()
    };
    found.into_iter().map(named).collect()
}

fn extend(
    positions: &[(Position, u64)],
    slots: &[&Slot],
    fits: &dyn Fn(&Position, &Slot) -> bool,
    so_far: &mut Vec<usize>,
    found: &mut Vec<Vec<usize>>,
) {
    let Some((position, bytes)) = positions.get(so_far.len()) else {
        found.push(so_far.clone());
        return;
    };
    for (at, slot) in slots.iter().enumerate() {
        let size = slot.module.as_ref().is_some_and(|module| module.bytes == *bytes);
        if size && !so_far.contains(&at) && fits(position, slot) {
            so_far.push(at);
            extend(positions, slots, fits, so_far, found);
            so_far.pop();
        }
    }
}

/// Whether a slot's name says this channel, by letter or number.
fn is_channel(position: Position, slot: &Slot) -> bool {
    slot.channel.as_deref().and_then(number) == Some(position.channel)
}

/// Whether a slot's number in its channel is this one; always where the slots of the channel are not numbered in a row.
fn has_number(board: &Board, position: Position, slot: &Slot) -> bool {
    let of_channel: Vec<&Slot> = board.slots.iter().filter(|other| other.channel == slot.channel).collect();
    let numbers: Option<BTreeSet<u8>> = of_channel.iter().map(|other| last_number(&other.id)).collect();
    let (Some(own), Some(numbers)) = (last_number(&slot.id), numbers) else { return true };
    let first = numbers.first().copied().unwrap_or(0);
    numbers.len() < of_channel.len() || first > 1 || own - first == position.slot
}

/// The first channel is A or 0, the second one B or 1.
fn number(channel: &str) -> Option<u8> {
    match channel {
        "A" | "0" => Some(0),
        "B" | "1" => Some(1),
        _ => None,
    }
}

/// The number that a name ends with.
fn last_number(name: &str) -> Option<u8> {
    let digits = name.len() - name.bytes().rev().take_while(u8::is_ascii_digit).count();
    name.get(digits..)?.parse().ok()
}
