//! Measured speed in words: each finding with its facts only.

use revisum_diagnose::board::{Inventory, Known, SystemFacts, findings};
use revisum_diagnose::speed::{expected, speed_findings};
use revisum_engine::speed::{Cache, Kind, Point, Width, Work};
use revisum_engine::units::{GIB, MIB};
use revisum_record::fitted::{Board, Module, Slot};
use revisum_record::speed::SpeedRecord;
use revisum_words::board::found as found_words;
use revisum_words::speed::sentence as sentence_of;
use rstest::rstest;

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
#[case::lost(record(board(PAIR, 3200, 3200, false), 14.0, 21.5), Some("although each has a module"), "less than usual")]
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
    "understate it"
)]
#[case::no_tables(record(Board::default(), 14.0, 43.0), None, "not known: no table")]
#[case::guest(SpeedRecord { guest: true, ..record(board(CROWDED, 3200, 3200, false), 14.0, 21.0) }, None, "virtual machine")]
fn each_with_its_facts_only(#[case] record: SpeedRecord, #[case] found: Option<&str>, #[case] sentence: &str) {
    let findings = speed_findings(&record);
    assert_eq!(findings.len(), usize::from(found.is_some()), "{findings:?}");
    assert!(found.is_none_or(|words| found_words(&findings[0]).contains(words)), "{findings:?}");
    let told = sentence_of(&record);
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
        let all = findings(known).into_iter().map(|finding| found_words(&finding));
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
    assert!(sentence_of(&record(unnamed, 14.0, 43.0)).contains("the channel of each slot"));
    let mut small = record(board(PAIR, 3200, 3200, false), 14.0, 43.0);
    small.points.iter_mut().for_each(|point| point.work.bytes = MIB);
    assert!(sentence_of(&small).contains("larger than the caches") && speed_findings(&small).is_empty());
    let row_ns = expected(&board(PAIR, 3200, 3200, false)).unwrap().row_ns.unwrap();
    assert!((row_ns - 41.25).abs() < 1e-9);
}
