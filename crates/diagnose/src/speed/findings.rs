//! What measured speed says about the fitting. Nothing is concluded where the cores are the limit, or inside a virtual machine.

use super::expected::{Expected, expected};
use crate::board::{Finding, Weight, free_channels};
use revisum_engine::speed::{Kind, Spread};
use revisum_engine::units::rate_text;
use revisum_record::speed::SpeedRecord;

/// Readings spread; tables round.
const SLACK: f64 = 1.04;
/// More than this share of what all cores would do together if each had its own memory: the cores are the limit, not the memory.
const CORES_ARE_THE_LIMIT: f64 = 0.75;
/// Memory that is set up rightly carries at least this share of what its channels could.
const AS_EXPECTED: f64 = 0.65;
/// Less than this share of what two channels carry is what one carries.
const ONE_OF_TWO: f64 = 0.55;

/// A measurement that can be set against what the fitting lets one expect.
struct Judged {
    expected: Expected,
    reached: Spread,
    /// Each core was slowed down by the others.
    memory_is_the_limit: bool,
    /// A slot of each channel that has no module.
    free: Vec<String>,
}

/// The best that a number of cores read or wrote.
fn best(record: &SpeedRecord, cores: usize) -> Option<Spread> {
    let each = [Kind::Read, Kind::Stream].into_iter().filter_map(|kind| record.of_memory(kind, cores));
    each.max_by(|a, b| a.value.total_cmp(&b.value))
}

/// # Errors
/// Why nothing can be concluded, as a sentence.
fn judge(record: &SpeedRecord) -> Result<Judged, String> {
    if record.guest {
        return Err(
            "Inside a virtual machine: others share this memory, and the tables may describe another machine than \
                    the one that carries it. Nothing is concluded."
                .to_owned(),
        );
    }
    let expected = expected(&record.board).map_err(|why| format!("How fast it should be is not known: {why}"))?;
    let counts = record.core_counts();
    let most = counts.last().copied().unwrap_or(1);
    let Some(reached) = best(record, most) else {
        return Err("No working set was larger than the caches, so nothing is said about the memory itself.".to_owned());
    };
    let alone = best(record, 1).filter(|_| most > 1);
    let memory_is_the_limit = alone
        .is_some_and(|alone| reached.value < alone.value * most as f64 * CORES_ARE_THE_LIMIT)
        || reached.value >= expected.most() * AS_EXPECTED;
    let free = free_channels(&record.board);
    Ok(Judged { expected, reached, memory_is_the_limit, free })
}

/// What a measurement shows to be off, with what it follows from.
#[derive(Clone, Debug, PartialEq)]
pub enum SpeedSign {
    /// All modules share one channel of several.
    OneChannel {
        /// Bytes a second.
        rate: f64,
        /// Of what the modules could carry, spread out.
        share: f64,
        /// Channels that they could fill.
        could_fill: usize,
        /// A slot of each channel that has no module.
        free: Vec<String>,
    },
    /// A channel with a module carries nothing.
    LostChannel {
        /// Bytes a second.
        rate: f64,
        /// Of what the channels could carry.
        share: f64,
        /// Channels with a module.
        channels: usize,
    },
    /// A profile is stored in the modules and not in force.
    ProfileOff {
        /// Bytes a second.
        rate: f64,
        /// Speed in force in MT/s.
        speed: u32,
        /// Speed that the modules are sold for, where that is known.
        sold_for: Option<u32>,
    },
    /// More is carried than the tables allow.
    TablesAreWrong {
        /// Bytes a second.
        rate: f64,
        /// Channels by the tables.
        channels: usize,
        /// Speed by the tables in MT/s.
        speed: u32,
    },
}

/// What a measurement shows to be off.
pub fn speed_signs(record: &SpeedRecord) -> Vec<SpeedSign> {
    let Ok(judged) = judge(record) else { return Vec::new() };
    let rules: [fn(&Judged) -> Option<SpeedSign>; 4] = [one_channel, lost_channel, profile_off, tables_are_wrong];
    rules.iter().filter_map(|rule| rule(&judged)).collect()
}

/// The same as findings about the board.
pub fn speed_findings(record: &SpeedRecord) -> Vec<Finding> {
    speed_signs(record).iter().map(SpeedSign::finding).collect()
}

/// Whether it shows that modules share a channel.
pub fn shows_one_channel(record: &SpeedRecord) -> bool {
    speed_signs(record).iter().any(|sign| matches!(sign, SpeedSign::OneChannel { .. }))
}

/// Whether it shows that a profile is off.
pub fn shows_profile_off(record: &SpeedRecord) -> bool {
    speed_signs(record).iter().any(|sign| matches!(sign, SpeedSign::ProfileOff { .. }))
}

/// How it is, in a sentence; the findings say what is not right.
pub fn speed_sentence(record: &SpeedRecord) -> String {
    let judged = match judge(record) {
        Ok(judged) => judged,
        Err(why) => return why,
    };
    let Judged { expected, reached, memory_is_the_limit, .. } = judged;
    let share = reached.value / expected.most();
    let channels = channels_words(expected.channels);
    let what = format!(
        "{}, {:.0} % of what {channels} at {} MT/s could carry",
        rate_text(reached.value),
        share * 100.0,
        expected.speed
    );
    if share > SLACK {
        format!("{what}: the tables say too little.")
    } else if share >= AS_EXPECTED {
        format!("{what}: as expected.")
    } else if memory_is_the_limit {
        format!("{what}: less than usual.")
    } else {
        format!("{what}. The cores are the limit here, not the memory.")
    }
}

/// `one channel`, `2 channels`.
fn channels_words(channels: usize) -> String {
    if channels == 1 { "one channel".to_owned() } else { format!("{channels} channels") }
}

/// Whether a share is what one of two gives.
pub fn is_about_half(share: f64) -> bool {
    (0.40..=ONE_OF_TWO).contains(&share)
}

/// `about half`, or the share in percent.
fn share_words(share: f64) -> String {
    if is_about_half(share) { "about half".to_owned() } else { format!("{:.0} %", share * 100.0) }
}

impl SpeedSign {
    /// In words, with what to do.
    pub fn finding(&self) -> Finding {
        let (weight, what, advice) = match self {
            Self::OneChannel { rate, share, could_fill, free } => (
                Weight::Doubtful,
                format!(
                    "Memory carries {}, {} of what {could_fill} channels give: {} share one channel",
                    rate_text(*rate),
                    share_words(*share),
                    if *could_fill == 2 { "both modules" } else { "all modules" }
                ),
                format!("Move one of them to {}, then measure again.", free.join(" or ")),
            ),
            Self::LostChannel { rate, share, channels } => (
                Weight::Doubtful,
                format!(
                    "Memory carries {}, {} of what {channels} channels give, although each has a module",
                    rate_text(*rate),
                    share_words(*share)
                ),
                "A channel may be lost: a contact that does not close, or a setting. Reseat the modules, then measure again."
                    .to_owned(),
            ),
            Self::ProfileOff { rate, speed, sold_for } => (
                Weight::Note,
                format!(
                    "Memory carries {}, as expected for {speed} MT/s; {}",
                    rate_text(*rate),
                    match sold_for {
                        Some(sold) => format!("these modules are sold for {sold}: the profile is off"),
                        None => "a profile is stored in the modules, and it is off".to_owned(),
                    }
                ),
                "Leave it off while errors are looked for. For speed, switch it on in the firmware and test again: not \
                 every processor bears it."
                    .to_owned(),
            ),
            Self::TablesAreWrong { rate, channels, speed } => (
                Weight::Note,
                format!(
                    "Memory carries {}, more than {} of {speed} MT/s could: the firmware's tables are wrong",
                    rate_text(*rate),
                    channels_words(*channels)
                ),
                "Do not rely on what they say about channels and speeds, nor on slots that are named by them alone."
                    .to_owned(),
            ),
        };
        Finding { weight, what, advice }
    }
}

fn one_channel(judged: &Judged) -> Option<SpeedSign> {
    let Judged { expected, reached, free, .. } = judged;
    let crowded = expected.channels == 1 && expected.could_fill > 1;
    if !crowded || free.is_empty() || !judged.memory_is_the_limit || reached.value > expected.most() * SLACK {
        return None;
    }
    let (rate, could_fill) = (reached.value, expected.could_fill);
    Some(SpeedSign::OneChannel { rate, share: rate / expected.of_channels(could_fill), could_fill, free: free.clone() })
}

fn lost_channel(judged: &Judged) -> Option<SpeedSign> {
    let Judged { expected, reached, .. } = judged;
    let (rate, channels) = (reached.value, expected.channels);
    let share = rate / expected.most();
    let lost = channels > 1 && judged.memory_is_the_limit && share <= ONE_OF_TWO;
    lost.then_some(SpeedSign::LostChannel { rate, share, channels })
}

fn profile_off(judged: &Judged) -> Option<SpeedSign> {
    let Judged { expected, reached, .. } = judged;
    let sold_for = expected.sold_for.filter(|sold| f64::from(*sold) > f64::from(expected.speed) * SLACK);
    let as_expected = (AS_EXPECTED..=SLACK).contains(&(reached.value / expected.most()));
    let sign = SpeedSign::ProfileOff { rate: reached.value, speed: expected.speed, sold_for };
    (expected.profile_off && as_expected).then_some(sign)
}

fn tables_are_wrong(judged: &Judged) -> Option<SpeedSign> {
    let Judged { expected, reached, .. } = judged;
    let (rate, channels, speed) = (reached.value, expected.channels, expected.speed);
    (reached.low > expected.most() * SLACK).then_some(SpeedSign::TablesAreWrong { rate, channels, speed })
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::board::SystemFacts;
    use crate::board::{Inventory, Known, findings};
    use revisum_engine::speed::Point;
    use revisum_engine::speed::{Cache, Width, Work};
    use revisum_engine::units::{GIB, MIB};
    use revisum_record::fitted::{Board, Module, Slot};

    fn board(slots: [(&str, &str, bool); 3], speed: u32, rated: u32, profile: bool) -> Board {
        let module = Module {
            bytes: 8 * GIB,
            speed: Some(speed),
            rated_speed: Some(rated),
            base_speed: Some(if profile { 2133 } else { rated }),
            profiles: if profile { vec!["XMP 2.0".to_owned()] } else { Vec::new() },
            timings: "22-22-22-52".to_owned(),
            ..Module::default()
        };
        let slot = |(id, channel, fitted): (&str, &str, bool)| Slot {
            id: id.to_owned(),
            channel: Some(channel.to_owned()),
            module: fitted.then(|| module.clone()),
            ..Slot::default()
        };
        Board { slots: slots.map(slot).to_vec(), ..Board::default() }
    }

    /// One core reaches `one`, four reach `all`, in GB a second.
    fn record(board: Board, one: f64, all: f64) -> SpeedRecord {
        let point = |cores, value: f64| Point {
            work: Work { kind: Kind::Read, width: Width::W64, stride: 8, bytes: 256 * MIB, cores },
            samples: vec![value * 1e9 * 0.99, value * 1e9, value * 1e9 * 1.01],
        };
        let caches = vec![Cache { level: 3, bytes: 8 * MIB, shared_by: 4 }];
        SpeedRecord { cores: 4, board, caches, points: vec![point(1, one), point(4, all)], ..SpeedRecord::default() }
    }

    const PAIR: [(&str, &str, bool); 3] = [("A1", "A", true), ("A2", "A", false), ("B1", "B", true)];
    const CROWDED: [(&str, &str, bool); 3] = [("A1", "A", true), ("A2", "A", true), ("B1", "B", false)];
    const ALONE: [(&str, &str, bool); 3] = [("A1", "A", true), ("A2", "A", false), ("B1", "B", false)];

    #[rstest]
    #[case::as_it_should_be(record(board(PAIR, 3200, 3200, false), 14.0, 43.0), None, "as expected")]
    #[case::one_channel(
        record(board(CROWDED, 3200, 3200, false), 14.0, 21.0),
        Some("about half of what 2 channels give: both modules share"),
        "as expected"
    )]
    #[case::one_module(record(board(ALONE, 3200, 3200, false), 14.0, 21.0), None, "as expected")]
    #[case::lost(
        record(board(PAIR, 3200, 3200, false), 14.0, 21.5),
        Some("although each has a module"),
        "less than usual"
    )]
    #[case::cores_are_the_limit(record(board(PAIR, 3200, 3200, false), 6.0, 23.0), None, "The cores are the limit")]
    #[case::between(record(board(PAIR, 3200, 3200, false), 14.0, 31.0), None, "less than usual")]
    #[case::profile_off(
        record(board(PAIR, 2133, 3200, true), 14.0, 29.0),
        Some("as expected for 2133 MT/s; these modules are sold for 3200: the profile is off"),
        "as expected"
    )]
    #[case::profile_on(record(board(PAIR, 3200, 3200, true), 14.0, 43.0), None, "as expected")]
    #[case::slower_without_a_profile(record(board(PAIR, 2133, 3200, false), 14.0, 29.0), None, "as expected")]
    #[case::tables_are_wrong(
        record(board(CROWDED, 3200, 3200, false), 14.0, 43.0),
        Some("the firmware's tables are wrong"),
        "too little"
    )]
    #[case::no_tables(record(Board::default(), 14.0, 43.0), None, "not known: no table")]
    #[case::guest(SpeedRecord { guest: true, ..record(board(CROWDED, 3200, 3200, false), 14.0, 21.0) }, None, "virtual machine")]
    fn each_with_its_facts_only(#[case] record: SpeedRecord, #[case] found: Option<&str>, #[case] sentence: &str) {
        let findings = speed_findings(&record);
        assert_eq!(findings.len(), usize::from(found.is_some()), "{findings:?}");
        assert!(found.is_none_or(|words| findings[0].what.contains(words)), "{findings:?}");
        let told = speed_sentence(&record);
        assert!(told.contains(sentence), "{told}");
    }

    /// The board says each thing once: what was measured in this fitting stands for what the tables alone suggest.
    #[rstest]
    #[case::one_channel(CROWDED, 3200, false, 21.0, "share")]
    #[case::profile(PAIR, 2133, true, 29.0, "2133")]
    fn what_is_measured_stands_for_the_tables(
        #[case] slots: [(&str, &str, bool); 3],
        #[case] speed: u32,
        #[case] profile: bool,
        #[case] all: f64,
        #[case] about: &str,
    ) {
        let record = record(board(slots, speed, 3200, profile), 14.0, all);
        let inventory = Inventory { board: record.board.clone(), ..Inventory::default() };
        let system = SystemFacts::default();
        let known =
            Known { inventory: &inventory, system: &system, counters: &[], before: None, wall_ms: None, speed: None };
        let said = |known: &Known<'_>| {
            let all = findings(known).into_iter().map(|finding| finding.what);
            all.filter(|what| what.contains(about)).collect::<Vec<_>>()
        };
        let (tables, measured) = (said(&known), said(&Known { speed: Some(&record), ..known }));
        assert!(tables.len() == 1 && measured.len() == 1 && !tables[0].contains("GB/s"), "{tables:?}");
        assert!(measured[0].contains("GB/s"), "{measured:?}");
        let elsewhere = SpeedRecord { board: Board::default(), ..record.clone() };
        assert_eq!(said(&Known { speed: Some(&elsewhere), ..known }), tables);
    }

    #[test]
    fn without_channels_or_memory_nothing_is_said() {
        let mut unnamed = board(PAIR, 3200, 3200, false);
        unnamed.slots[0].channel = None;
        assert!(speed_sentence(&record(unnamed, 14.0, 43.0)).contains("to which channel"));
        let mut small = record(board(PAIR, 3200, 3200, false), 14.0, 43.0);
        small.points.iter_mut().for_each(|point| point.work.bytes = MIB);
        assert!(speed_sentence(&small).contains("larger than the caches") && speed_findings(&small).is_empty());
        let row_ns = expected(&board(PAIR, 3200, 3200, false)).unwrap().row_ns.unwrap();
        assert!((row_ns - 41.25).abs() < 1e-9);
    }
}
