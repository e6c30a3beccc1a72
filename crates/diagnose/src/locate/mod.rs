//! From failing addresses to slot, lane and kind of fault: what is known, how sure, and why.

mod again;
mod alone;
mod fail_map;
mod foreign;
mod groups;
mod learned;
mod stopgap;
mod surer;

use std::collections::{BTreeMap, BTreeSet};

use serde::Serialize;

pub(crate) use again::inside;
pub use again::{Inside, SameCell, same_cells};
pub use alone::{Alone, Judgement, Refuted, is_confirmed, judge, known_words, trusted_locator, trusted_map};
pub use fail_map::{FailMap, fail_maps};
pub use foreign::{ForeignErrors, NotUsed, read_foreign};
pub use groups::{Group, GroupKind, NamedWord, lanes_of};
pub use learned::{LEAST_BIT, fitting_key, learned_map};
pub use stopgap::{Refusal, Stopgap, stopgap};
pub use surer::Surer;

use crate::address::{Cell, Ground, Locator, MapFile, MapFileError, MapStatus};
use crate::controller::{KnownController, Registers, ShownChannels};
use crate::signature::{Cause, Geometry, LocatedCell, MOST_ODDS, Shape, Signature, Tested, causes};
use revisum_engine::places::Certainty;
use revisum_engine::units::PhysAddr;
use revisum_record::digest::{BadCell, Digest};
use revisum_record::fitted::{Board, Module};
use revisum_record::journal::Begin;
use revisum_record::run_state::RunState;

/// Everything that is known of where errors are.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct Location {
    /// Why attributions are as sure as they are.
    pub because: Ground,
    /// How sure the least sure of them is.
    pub certainty: Option<Certainty>,
    /// Distinct failing words by the set of slots that they can be in.
    pub slots: BTreeMap<String, u64>,
    /// What the failing words look like.
    pub signature: Option<Signature>,
    /// The slots that the signature's numbers stand for.
    pub slot_names: Vec<String>,
    /// Of the distinct failing words, how many read wrong on each data lane.
    pub lanes: Vec<u64>,
    /// Failing words that belong together, the largest first.
    pub groups: Vec<Group>,
    /// Distinct failing words that it was read from: all of them, or a sample.
    pub distinct: u64,
    /// Every failing word was kept.
    pub is_whole: bool,
    /// Words whose address the map does not hold.
    pub outside: u64,
    /// What limits the statement.
    pub limits: Vec<Limit>,
    /// What would make it surer which slot it is.
    pub surer: Option<Surer>,
    /// Failing reads in all.
    pub failures: u64,
    /// Where the words of the signature are.
    pub place: Place,
    /// Likely causes in order.
    pub causes: Vec<Cause>,
}

/// A slot and what its module is called; nothing where none is known.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct NamedSlot {
    /// Slot.
    pub slot: String,
    /// Module.
    pub module: Option<String>,
}

/// Where the words of a signature are.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Place {
    /// In these slots.
    Slots(Vec<NamedSlot>),
    /// In one of these.
    OneOf(Vec<String>),
    /// In a slot that is not known.
    #[default]
    Unknown,
}

/// What limits a statement about where errors are.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Limit {
    /// The address map of the run is wrong: others contradict it.
    MapRefuted,
    /// Addresses are unknown.
    NoAddresses,
    /// Without an address map rows, columns and banks are unknown.
    NoMap,
    /// Too many errors to keep one by one.
    Flood,
    /// Memory is encrypted: data lines are unknown.
    Encrypted,
    /// Addresses are a virtual machine's own.
    Guest,
    /// What a virtual machine's firmware says of the addresses of each device was made to count, for a test.
    RangesTrusted,
    /// DDR5 corrects single cells on the die, and a word is two beats of 32 lines.
    OnDie,
}

/// What attributions rest on.
#[derive(Clone, Debug)]
pub struct Basis<'a> {
    /// What was fitted.
    pub board: &'a Board,
    /// Attributes addresses.
    pub locator: &'a Locator,
    /// Failing reads in all; the words that are kept one by one may be fewer.
    pub failures: u64,
    /// The words that are kept one by one stand for all that failed: in a flood those at the beginning of a sweep are seen first, and
    /// what they share would be taken for the fault.
    pub is_fair: bool,
    /// Addresses are known.
    pub addresses_known: bool,
    /// Memory is encrypted.
    pub encrypted: bool,
    /// Addresses are a virtual machine's own.
    pub guest: bool,
    /// What its firmware says of the addresses of each device was made to count.
    pub ranges_trusted: bool,
}

impl Basis<'_> {
    /// Whether rows, columns and banks can be spoken of.
    fn tells_cells(&self) -> bool {
        self.locator.tells_cells() && self.is_fair
    }
}

/// The map that was known when a run was made.
///
/// # Errors
/// When the map in the journal cannot be read.
pub fn map_of(begin: &Begin) -> Result<Option<MapFile>, MapFileError> {
    begin.map.as_deref().map(MapFile::parse).transpose()
}

/// Whether the memory controller's registers of a run tell the slot of some addresses.
pub fn names_slots(begin: &Begin, shown: &ShownChannels) -> bool {
    controller_of(begin, shown).is_some_and(|known| known.map.tells_a_slot())
}

/// The memory controller of a recorded run; nothing in a virtual machine, whose registers are its host's invention.
fn controller_of(begin: &Begin, shown: &ShownChannels) -> Option<KnownController> {
    KnownController::read(&registers_of(begin)?, &begin.board, shown).ok().flatten()
}

fn registers_of(begin: &Begin) -> Option<Registers> {
    Registers::parse(&begin.registers).ok().filter(|registers| !begin.guest && !registers.is_empty())
}

/// Which slots are on which channel, as all runs of this mainboard showed it, and as was known of it when this run began.
pub fn shown_by<'a>(runs: impl IntoIterator<Item = &'a RunState>, begin: &Begin) -> ShownChannels {
    let same = |of: &Begin| of.machine == begin.machine && of.board.mainboard == begin.board.mainboard;
    let read: Vec<(Registers, &Board)> = runs
        .into_iter()
        .filter(|run| same(&run.begin))
        .filter_map(|run| Some((registers_of(&run.begin)?, &run.begin.board)))
        .collect();
    ShownChannels::of(read.iter().map(|(registers, board)| (registers, *board))).with(&begin.channels)
}

/// The locator of a recorded run by this map, or without one.
pub fn locator_of(begin: &Begin, map: Option<MapFile>, shown: &ShownChannels) -> Locator {
    // A virtual machine's tables are its host's invention.
    let firmware_ranges = if begin.guest && !begin.ranges_trusted { &[][..] } else { &begin.mapped };
    let controller = controller_of(begin, shown);
    let locator = Locator::new(&begin.board, None)
        .with_firmware_ranges(firmware_ranges)
        .with_registers(controller.as_ref())
        .with_halves(begin.halves.filter(|_| !begin.guest));
    match map {
        None => locator,
        Some(file) if file.status == MapStatus::Confirmed => locator.knowing(file.map),
        Some(file) => locator.assuming(file.map),
    }
}

/// Locates what a run found; `board` is its board with the names that modules have now.
pub fn locate_run(state: &RunState, locator: &Locator, board: &Board) -> Location {
    let begin = &state.begin;
    let ground = Basis {
        board,
        failures: state.errors.words,
        is_fair: is_fair(state),
        locator,
        addresses_known: state.held.addresses_known,
        encrypted: begin.encrypted,
        guest: begin.guest,
        ranges_trusted: begin.guest && begin.ranges_trusted,
    };
    locate(&state.digest, &ground)
}

/// Bytes in the pages that errors are counted by, as long as there are not too many of them.
const PAGE: u64 = 4096;

/// Whether the words kept one by one were all there were, or come from at least half of all pages with errors, which are counted exactly.
pub fn is_fair(state: &RunState) -> bool {
    let seen: u64 = state.digest.cells().map(|(_, bad)| u64::from(bad.seen)).sum();
    if seen >= state.errors.words {
        return true;
    }
    let pages: BTreeSet<u64> = state.digest.cells().map(|(place, _)| place / PAGE).collect();
    let counted: Vec<u64> = state.errors.places.places().map(|(_, bytes, _)| bytes).collect();
    counted.iter().all(|bytes| *bytes == PAGE) && pages.len() * 2 >= counted.len()
}

/// Locates failing words.
pub fn locate(digest: &Digest, ground: &Basis<'_>) -> Location {
    let slot_names: Vec<String> = ground.board.modules().map(|(slot, _)| slot.id.clone()).collect();
    let mut location = Location {
        because: ground.locator.reason(),
        failures: ground.failures,
        slot_names: slot_names.clone(),
        distinct: digest.cells().count() as u64,
        is_whole: digest.is_whole()
            && digest.cells().map(|(_, bad)| u64::from(bad.seen)).sum::<u64>() >= ground.failures,
        limits: limits(ground),
        ..Location::default()
    };
    if digest.is_empty() {
        return location;
    }
    location.lanes =
        (0..64).map(|lane| digest.cells().filter(|(_, bad)| bad.wrong >> lane & 1 == 1).count() as u64).collect();
    let mut cells = Vec::new();
    let mut certainties = Vec::new();
    for (place, bad) in digest.cells() {
        let address = ground.addresses_known.then_some(PhysAddr(place));
        let attribution = ground.locator.attribute(address);
        if ground.locator.tells_cells() && attribution.cell.is_none() {
            location.outside += 1;
        }
        *location.slots.entry(attribution.slots.join(" ")).or_default() += 1;
        certainties.push(attribution.certainty);
        let only = match &attribution.slots[..] {
            [only] => slot_names.iter().position(|name| name == only),
            _ => None,
        };
        cells.push((place, only, attribution.cell, bad));
    }
    location.certainty = certainties.into_iter().max();
    if location.because == Ground::NoMap && ground.addresses_known && in_one_half(digest, ground.locator) {
        location.because = Ground::OneHalf;
    }
    location.surer = surer::surer(location.certainty, location.because).filter(|_| !ground.guest);
    let located = located(&cells, ground.tells_cells());
    let tested = tested(ground, &located);
    location.signature = Signature::read(&located, &tested);
    location.groups = groups::groups(&cells, &slot_names, location.shape());
    if let Some(signature) = &location.signature {
        location.causes = causes(signature.shapes[0]).to_vec();
        location.place = place(&location, signature, ground.board);
    }
    location
}

/// Whether all failing words are in the same half of the addresses, where halves are known.
fn in_one_half(digest: &Digest, locator: &Locator) -> bool {
    let mut halves = digest.cells().map(|(place, _)| locator.channel(PhysAddr(place)));
    let first = halves.next().flatten();
    first.is_some() && halves.all(|half| half == first)
}

/// A failing word: place, slot where only one is possible, cell where a map tells.
type Found = (u64, Option<usize>, Option<Cell>, BadCell);

/// Words for the signature. Without a map the address stands for the cell, so that distinct words stay distinct; nothing is then
/// said of rows and the like.
fn located(cells: &[Found], told: bool) -> Vec<LocatedCell> {
    let mapped = cells.iter().filter(|(_, _, cell, _)| !told || cell.is_some());
    let stand_in =
        |place: u64| Cell { rank: 0, bank: 0, row: (place >> 13) as u32, column: (place >> 3 & 0x3ff) as u32 };
    mapped
        .map(|(place, slot, cell, bad)| LocatedCell {
            slot: slot.unwrap_or(0),
            cell: cell.unwrap_or_else(|| stand_in(*place)),
            bad: *bad,
        })
        .collect()
}

fn tested(ground: &Basis<'_>, cells: &[LocatedCell]) -> Tested {
    let mut names: Vec<&str> = Vec::new();
    let mut channels: Vec<usize> = Vec::new();
    for (slot, _) in ground.board.modules() {
        let name = slot.channel.as_deref().unwrap_or(&slot.id);
        let at = names.iter().position(|known| *known == name).unwrap_or_else(|| {
            names.push(name);
            names.len() - 1
        });
        channels.push(at);
    }
    if channels.is_empty() {
        channels.push(0);
    }
    let width = ground.board.modules().filter_map(|(_, module)| module.package_width).min().unwrap_or(8);
    Tested {
        channels,
        geometry: Geometry { package_width: u32::from(width), ..Geometry::holding(cells) },
        cells_told: ground.tells_cells(),
        lanes_told: !ground.encrypted,
    }
}

fn limits(ground: &Basis<'_>) -> Vec<Limit> {
    let blind = !ground.addresses_known;
    let on_die = ground.board.modules().any(|(_, module)| module.generation == "DDR5");
    let all = [
        (blind, Limit::NoAddresses),
        (!blind && !ground.locator.tells_cells(), Limit::NoMap),
        (!ground.is_fair, Limit::Flood),
        (ground.encrypted, Limit::Encrypted),
        (ground.guest, Limit::Guest),
        (ground.ranges_trusted, Limit::RangesTrusted),
        (on_die, Limit::OnDie),
    ];
    all.into_iter().filter(|(holds, _)| *holds).map(|(_, limit)| limit).collect()
}

fn place(location: &Location, signature: &Signature, board: &Board) -> Place {
    let named = |id: &String| {
        let module = board.slot(id).and_then(|slot| slot.module.as_ref()).filter(|module| module.bytes > 0);
        NamedSlot { slot: id.clone(), module: module.map(Module::name) }
    };
    let sets: Vec<Vec<&str>> = location.slots.keys().map(|joined| board.slots_in(joined)).collect();
    if sets.iter().all(|set| set.len() == 1) {
        return Place::Slots(
            signature.slots.iter().filter_map(|slot| location.slot_names.get(*slot)).map(named).collect(),
        );
    }
    let all: Vec<String> = sets.into_iter().flatten().map(str::to_owned).collect();
    if all.is_empty() { Place::Unknown } else { Place::OneOf(all) }
}

impl Location {
    /// How many times better a clear shape fits than all others together; infinite where no other fits. Nothing where none is clear.
    pub fn fit(&self) -> Option<f64> {
        let odds = self.signature.as_ref().filter(|signature| signature.shapes.len() == 1)?.odds?;
        Some(if odds >= MOST_ODDS { f64::INFINITY } else { odds })
    }

    /// The likeliest shape.
    pub fn shape(&self) -> Option<Shape> {
        self.signature.as_ref().and_then(|signature| signature.shapes.first().copied())
    }
}

#[cfg(test)]
mod tests;
