//! How the slots of a fitting share its addresses, as learned from words whose slot is known: first the channels, then the slots of each.
//!
//! Channels follow from parities or take turns; slots of one channel, and channels of unequal size, stand one behind the other or
//! follow from parities too.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};

use super::learn::{KnownWord, Learned, Open, learn, packed};
use super::linear::parity;
use revisum_engine::rows::{Channels, Turns, View};
use revisum_engine::units::ByteRange;

/// So many words of each label before one end of its addresses is believed to be an end.
const LEAST_WORDS: usize = 8;

/// How some labels share addresses.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Sharing {
    /// There is only this one.
    Alone(String),
    /// One behind the other: each with the lowest and highest packed address known of it, ascending. The border is somewhere between.
    Behind(Vec<(String, u64, u64)>),
    /// By the parities of these masks over packed addresses; each label with its parities, the first mask's lowest.
    Parities {
        /// Masks.
        masks: Vec<u64>,
        /// Parities and label.
        labels: Vec<(u64, String)>,
    },
    /// Granule by granule in this order.
    Turns {
        /// Bytes that stay together.
        granule: u64,
        /// Whose turn it is, from the first granule on.
        order: Vec<String>,
    },
    /// Not determined yet.
    Open(Open),
}

/// What is learned of a fitting.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Layout {
    ranges: Vec<ByteRange>,
    /// How channels share the addresses.
    pub channels: Sharing,
    /// How the slots of each channel share its addresses.
    pub slots: Vec<(String, Sharing)>,
}

/// Learns from words labelled by slot; `fitted` are all fitted slots with their channels. Words of other slots are left out.
pub fn learn_layout(words: &[KnownWord], fitted: &[(String, String)], ranges: &[ByteRange], lowest: u32) -> Layout {
    let channel_of = |slot: &str| fitted.iter().find(|(known, _)| known == slot).map(|(_, channel)| channel.clone());
    let by_channel: Vec<KnownWord> = words
        .iter()
        .filter_map(|word| Some(KnownWord { address: word.address, label: channel_of(&word.label)? }))
        .collect();
    let channels: BTreeSet<&str> = fitted.iter().map(|(_, channel)| channel.as_str()).collect();
    let slots = channels.iter().map(|channel| {
        let expected = fitted.iter().filter(|(_, of)| of == channel).map(|(slot, _)| slot.as_str()).collect();
        let own = words.iter().filter(|word| channel_of(&word.label).as_deref() == Some(channel)).cloned();
        ((*channel).to_owned(), sharing(&own.collect::<Vec<_>>(), &expected, ranges, lowest))
    });
    Layout {
        ranges: ranges.to_vec(),
        slots: slots.collect(),
        channels: sharing(&by_channel, &channels, ranges, lowest),
    }
}

fn sharing(words: &[KnownWord], expected: &BTreeSet<&str>, ranges: &[ByteRange], lowest: u32) -> Sharing {
    if let (Some(only), 1) = (expected.first(), expected.len()) {
        return Sharing::Alone((*only).to_owned());
    }
    let mut by_label: BTreeMap<&str, Vec<u64>> = BTreeMap::new();
    for word in words {
        if let Some(packed) = packed(ranges, word.address) {
            by_label.entry(&word.label).or_default().push(packed);
        }
    }
    let unseen: Vec<&str> = expected.iter().copied().filter(|label| !by_label.contains_key(label)).collect();
    if !unseen.is_empty() {
        let so_far = (!by_label.is_empty()).then(|| learn(words, ranges, lowest).open()).flatten();
        let labels = unseen.into_iter().map(str::to_owned).collect();
        return Sharing::Open(Open::NoWord { labels, so_far: so_far.map(Box::new) });
    }
    if let Some(behind) = behind(&by_label) {
        return behind;
    }
    let learned = learn(words, ranges, lowest);
    match learned.open() {
        Some(open) => Sharing::Open(open),
        None => determined(&learned, &by_label),
    }
}

/// One behind the other, where their addresses do not mingle.
fn behind(by_label: &BTreeMap<&str, Vec<u64>>) -> Option<Sharing> {
    let mut ends: Vec<(String, u64, u64)> = Vec::new();
    for (label, words) in by_label {
        if words.len() < LEAST_WORDS {
            return None;
        }
        ends.push(((*label).to_owned(), *words.iter().min()?, *words.iter().max()?));
    }
    ends.sort_by_key(|(_, first, _)| *first);
    ends.windows(2).all(|pair| pair[0].2 < pair[1].1).then_some(Sharing::Behind(ends))
}

fn determined(learned: &Learned, by_label: &BTreeMap<&str, Vec<u64>>) -> Sharing {
    if let [(ways, granule)] = learned.turns[..] {
        let mut order = vec![String::new(); ways];
        for (label, words) in by_label {
            order[(words[0] / granule % ways as u64) as usize] = (*label).to_owned();
        }
        return Sharing::Turns { granule, order };
    }
    let labels = by_label.iter().map(|(label, words)| (parities(&learned.masks, words[0]), (*label).to_owned()));
    Sharing::Parities { labels: labels.collect(), masks: learned.masks.clone() }
}

fn parities(masks: &[u64], packed: u64) -> u64 {
    masks.iter().enumerate().fold(0, |bits, (at, mask)| bits | u64::from(parity(mask & packed)) << at)
}

impl Sharing {
    /// Whose a packed address is; nothing where that is not determined.
    pub fn label(&self, packed: u64) -> Option<&str> {
        match self {
            Self::Alone(label) => Some(label),
            Self::Behind(ends) => {
                let below = ends.iter().rposition(|(_, first, _)| packed >= *first);
                let at = match below {
                    None => 0,
                    // Between two known ends the border is open.
                    Some(at) if packed > ends[at].2 && at + 1 < ends.len() => return None,
                    Some(at) => at,
                };
                Some(&ends[at].0)
            }
            Self::Parities { masks, labels } => {
                let wanted = parities(masks, packed);
                labels.iter().find(|(bits, _)| *bits == wanted).map(|(_, label)| label.as_str())
            }
            Self::Turns { granule, order } => {
                order.get((packed / granule % order.len() as u64) as usize).map(String::as_str)
            }
            Self::Open(_) => None,
        }
    }

    /// What is not determined yet.
    pub fn open(&self) -> Option<&Open> {
        match self {
            Self::Open(what) => Some(what),
            _ => None,
        }
    }
}

impl Layout {
    /// One slot for each channel, whose functions and slots are known; `ranges` are where all memory is. Nothing where they count addresses in
    /// another way, or where channels take turns by several rules at once.
    pub fn of_channels(channels: &Channels, slots: &[(u64, String)], ranges: &[ByteRange]) -> Option<Self> {
        let View { offset, from, turns } = channels.view;
        let counted = |address: u64| if address >= from { address.wrapping_sub(offset) } else { address };
        if ranges.is_empty() || ranges.iter().any(|range| packed(ranges, range.start) != Some(counted(range.start))) {
            return None;
        }
        let mut slots = slots.to_vec();
        slots.sort();
        let each_once = slots.iter().map(|(channel, _)| *channel).eq(0..channels.count());
        let sharing = match turns {
            _ if !each_once => return None,
            Some(Turns { granule_bits, .. }) if channels.masks.is_empty() => Sharing::Turns {
                granule: 1 << granule_bits,
                order: slots.iter().map(|(_, slot)| slot.clone()).collect(),
            },
            Some(_) => return None,
            None => Sharing::Parities { masks: channels.masks.clone(), labels: slots.clone() },
        };
        let alone = slots.into_iter().map(|(_, slot)| (slot.clone(), Sharing::Alone(slot)));
        Some(Self { ranges: ranges.to_vec(), channels: sharing, slots: alone.collect() })
    }

    /// Where all memory is.
    pub(super) fn ranges(&self) -> &[ByteRange] {
        &self.ranges
    }

    /// Whether every address has its slot.
    pub fn is_determined(&self) -> bool {
        let all = std::iter::once(&self.channels).chain(self.slots.iter().map(|(_, sharing)| sharing));
        all.clone().all(|sharing| sharing.open().is_none()) && !self.ranges.is_empty()
    }

    /// The slot of a physical address; nothing where that is not determined.
    pub fn slot(&self, address: u64) -> Option<&str> {
        let packed = packed(&self.ranges, address)?;
        let channel = self.channels.label(packed)?;
        let (_, slots) = self.slots.iter().find(|(known, _)| known == channel)?;
        slots.label(packed)
    }
}
