//! Which of the functions choose the channel: lines of one channel alone are read with a part of the bandwidth of all.

use serde::{Deserialize, Serialize};

use super::gf2::{basis, parity};
use super::learn::RowFunctions;
use super::timer::RowTimer;
use super::view::{Turns, View};
use crate::pattern::pass_seed;
use crate::units::PhysAddr;

/// By what addresses come to channels.
#[derive(Clone, Debug, PartialEq)]
pub struct Channels {
    /// How addresses are counted; what takes turns there are channels.
    pub view: View,
    /// A basis of the functions that choose the channel, among those that take turns.
    pub masks: Vec<u64>,
    /// What half of the channels, or one way, carries of what all do: the most that was measured.
    pub share: f64,
}

/// Why no channels are known.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NoChannels {
    /// Streams cannot be timed here.
    NotTimed,
    /// No function takes bandwidth away: one channel, or too few cores to fill several.
    NoneShow,
    /// What was measured contradicts itself.
    Open,
}

/// More functions than this are not tried: each of their sums is measured.
const MOST_FUNCTIONS: usize = 9;
/// A function that leaves at most this part of the bandwidth may choose the channel; one that leaves more than the second does not.
const LESS: f64 = 0.70;
const NEARLY_ALL: f64 = 0.80;
/// A way that takes turns carries its part, and at most so many times that: under another granule it would seem to carry two thirds.
const ITS_PART: f64 = 1.4;
/// Streams of which the median counts, where one alone does not tell.
const AGAIN: usize = 5;
/// Most lines that are drawn for each line of a stream.
const DRAWN: usize = 24;

/// A stream's lines with their addresses, and what all of them carry.
struct Streams<'a> {
    timer: &'a dyn RowTimer,
    lines: Vec<(u64, u64)>,
    wanted: usize,
    all: f64,
}

impl<'a> Streams<'a> {
    fn new(timer: &'a dyn RowTimer, seed: u64) -> Result<Self, NoChannels> {
        let wanted = timer.stream_lines();
        let count = u32::try_from(wanted * DRAWN).unwrap_or(u32::MAX);
        let draw = |at: u32| {
            let line = pass_seed(seed ^ 0x57ea_d1e5, at) % timer.lines().max(1);
            Some((line, timer.address(line)?.0))
        };
        // A quarter of what could be needed is enough for two channels.
        let lines: Vec<(u64, u64)> = (0..count / 4).filter_map(draw).collect();
        let mut streams = Self { timer, lines, wanted, all: 0.0 };
        streams.all = streams.median(&|_| true).ok_or(NoChannels::NotTimed)?;
        if streams.all > 0.0 { Ok(streams) } else { Err(NoChannels::NotTimed) }
    }

    fn once(&self, goes: &dyn Fn(u64) -> bool) -> Option<f64> {
        let lines = self.lines.iter().filter(|(_, address)| goes(*address)).map(|(line, _)| *line);
        let lines: Vec<u64> = lines.take(self.wanted).collect();
        if lines.len() * 2 < self.wanted { None } else { self.timer.stream(&lines) }
    }

    fn median(&self, goes: &dyn Fn(u64) -> bool) -> Option<f64> {
        let mut times: Vec<f64> = (0..AGAIN).map(|_| self.once(goes)).collect::<Option<_>>()?;
        times.sort_by(f64::total_cmp);
        Some(times[AGAIN / 2])
    }

    /// What these lines carry of what all do: measured once where that is plainly nearly all, else as the median.
    fn share(&self, goes: &dyn Fn(u64) -> bool) -> Option<f64> {
        let once = self.once(goes)? / self.all;
        if once > NEARLY_ALL { Some(once) } else { Some(self.median(goes)? / self.all) }
    }
}

/// Learns which of these functions choose the channel.
///
/// # Errors
/// When that cannot be told, and why.
pub fn channels(timer: &dyn RowTimer, rows: &RowFunctions, seed: u64) -> Result<Channels, NoChannels> {
    if rows.functions.len() > MOST_FUNCTIONS {
        return Err(NoChannels::Open);
    }
    let streams = Streams::new(timer, seed)?;
    let view = rows.view;
    let mut share = by_turns(&streams, view)?;
    let mut masks = Vec::new();
    for mask in sums(&rows.functions) {
        let halves = [false, true].map(|odd| {
            let goes = |address: u64| parity(mask & view.of(address).1) == odd;
            streams.share(&goes)
        });
        let [Some(one), Some(other)] = halves else { return Err(NoChannels::NotTimed) };
        match (one.max(other) <= LESS, one.min(other) > NEARLY_ALL) {
            (true, _) => {
                masks.push(mask);
                share = share.max(one).max(other);
            }
            (_, true) => {}
            // One half is slow and the other is not, or neither quite.
            _ => return Err(NoChannels::Open),
        }
    }
    let of = basis(masks.iter().copied());
    // What chooses channels is a space: with two functions their sum is one too.
    if masks.len() + 1 != 1 << of.len() {
        return Err(NoChannels::Open);
    }
    if of.is_empty() && view.turns.is_none() {
        return Err(NoChannels::NoneShow);
    }
    Ok(Channels { view, masks: of, share })
}

/// What a way that takes turns carries of all; zero where none takes turns.
fn by_turns(streams: &Streams<'_>, view: View) -> Result<f64, NoChannels> {
    let Some(Turns { ways, .. }) = view.turns else { return Ok(0.0) };
    let shares = (0..ways).map(|way| streams.share(&|address| view.of(address).0 == way));
    let shares: Vec<f64> = shares.collect::<Option<_>>().ok_or(NoChannels::NotTimed)?;
    let most = shares.into_iter().fold(0.0, f64::max);
    if most <= ITS_PART / ways as f64 { Ok(most) } else { Err(NoChannels::Open) }
}

/// Every sum of these masks but nothing.
fn sums(masks: &[u64]) -> impl Iterator<Item = u64> + '_ {
    (1u32..1 << masks.len()).map(|chosen| {
        let taken = masks.iter().enumerate().filter(|(at, _)| chosen >> at & 1 == 1);
        taken.fold(0, |sum, (_, mask)| sum ^ mask)
    })
}

impl Channels {
    /// How many there are.
    pub fn count(&self) -> u64 {
        self.view.turns.map_or(1, |turns| turns.ways) << self.masks.len()
    }

    /// Which one an address comes to, from 0; nothing tells which the mainboard calls so.
    pub fn of(&self, address: PhysAddr) -> u64 {
        let (way, inside) = self.view.of(address.0);
        let bits = self.masks.iter().enumerate();
        bits.fold(way << self.masks.len(), |number, (at, mask)| number | u64::from(parity(mask & inside)) << at)
    }

    /// The two halves of the addresses, where there are two channels.
    pub fn halves(&self) -> Option<Halves> {
        let [mask] = self.masks[..] else { return None };
        let View { offset, from, turns } = self.view;
        turns.is_none().then_some(Halves { mask, from, offset })
    }
}

/// Two halves of the addresses, one for each of two channels; which is which nobody said.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Halves {
    /// Address bits whose parity is the half.
    pub mask: u64,
    /// First address that `offset` is taken off.
    pub from: u64,
    /// What is taken off addresses from there on: the hole below them.
    pub offset: u64,
}

impl Halves {
    /// The half of an address: 0 or 1.
    pub fn of(&self, address: PhysAddr) -> u8 {
        let view = View { offset: self.offset, from: self.from, turns: None };
        u8::from(parity(self.mask & view.of(address.0).1))
    }
}
