//! What is not as it should be with what is fitted, in plain words with what to do. No rule fires without the facts.

use std::collections::{BTreeMap, BTreeSet};

use serde::Serialize;

use super::{Board, Module, Slot};
use crate::ports::{EccCount, SystemFacts};
use crate::units::{bytes_text, counted};

/// How much it matters.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Weight {
    /// Memory is missing or fails.
    Wrong,
    /// It works, but not as it could, or not for long.
    Doubtful,
    /// Good to know before a test.
    Note,
}

/// One finding.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Finding {
    /// How much it matters.
    pub weight: Weight,
    /// What was found.
    pub what: String,
    /// What to do about it.
    pub advice: String,
}

/// What the rules look at.
#[derive(Clone, Copy, Debug)]
pub struct Facts<'a> {
    /// What is fitted.
    pub board: &'a Board,
    /// What the operating system knows.
    pub system: &'a SystemFacts,
    /// Memory that the firmware gives to the operating system, in bytes; zero when unknown.
    pub usable_bytes: u64,
    /// Counts of the error-correcting hardware since the system started.
    pub counters: &'a [EccCount],
}

/// More than this share of the fitted memory is not kept back by devices: a module is missing from the map.
const MISSING_SHARE: f64 = 1.0 / 8.0;

/// Everything found, worst first.
pub fn findings(facts: &Facts<'_>) -> Vec<Finding> {
    let rules: [fn(&Facts<'_>) -> Option<Finding>; 9] = [
        counted_errors,
        missing_memory,
        crowded_channel,
        idle_channels,
        below_rating,
        mixed_modules,
        no_serial_numbers,
        virtual_machine,
        no_tables,
    ];
    let mut all: Vec<Finding> = rules.iter().filter_map(|rule| rule(facts)).collect();
    all.sort_by_key(|finding| finding.weight);
    all
}

fn finding(weight: Weight, what: String, advice: &str) -> Option<Finding> {
    Some(Finding { weight, what, advice: advice.to_owned() })
}

fn counted_errors(facts: &Facts<'_>) -> Option<Finding> {
    let bad: Vec<&EccCount> = facts.counters.iter().filter(|count| count.corrected + count.uncorrected > 0).collect();
    if bad.is_empty() {
        return None;
    }
    let corrected: u64 = bad.iter().map(|count| count.corrected).sum();
    let uncorrected: u64 = bad.iter().map(|count| count.uncorrected).sum();
    let places: Vec<&str> = bad.iter().map(|count| count.label.as_str()).collect();
    let numbers = match (corrected, uncorrected) {
        (corrected, 0) => counted(corrected, "corrected memory error"),
        (0, uncorrected) => counted(uncorrected, "uncorrected memory error"),
        (corrected, uncorrected) => format!("{corrected} corrected and {uncorrected} uncorrected memory errors"),
    };
    finding(
        Weight::Wrong,
        format!("The hardware counted {numbers} since the start, at {}", places.join(", ")),
        "Corrected errors that go on belong to a module that is failing. Test it, and replace it before they become uncorrected.",
    )
}

fn missing_memory(facts: &Facts<'_>) -> Option<Finding> {
    let fitted = facts.board.fitted_bytes().filter(|_| facts.usable_bytes > 0 && !facts.system.guest)?;
    let missing = fitted.saturating_sub(facts.usable_bytes);
    if missing as f64 <= fitted as f64 * MISSING_SHARE {
        return None;
    }
    finding(
        Weight::Wrong,
        format!(
            "{} are fitted, but the firmware hands over {} only",
            bytes_text(fitted),
            bytes_text(facts.usable_bytes)
        ),
        "A module that is not seen sits badly, is broken, or is more than the mainboard takes. Re-seat it, then try it alone.",
    )
}

/// Slots by channel, where every slot tells its channel and there are several channels.
fn channels(board: &Board) -> Option<BTreeMap<&str, Vec<&Slot>>> {
    let mut channels: BTreeMap<&str, Vec<&Slot>> = BTreeMap::new();
    for slot in &board.slots {
        channels.entry(slot.channel.as_deref()?).or_default().push(slot);
    }
    (channels.len() > 1).then_some(channels)
}

fn fitted(slots: &[&Slot]) -> usize {
    slots.iter().filter(|slot| slot.module.is_some()).count()
}

fn crowded_channel(facts: &Facts<'_>) -> Option<Finding> {
    let channels = channels(facts.board)?;
    let (crowded, _) = channels.iter().find(|(_, slots)| fitted(slots) > 1)?;
    let free: Vec<&str> = channels
        .values()
        .filter(|slots| fitted(slots) == 0)
        .filter_map(|slots| slots.last())
        .map(|slot| slot.id.as_str())
        .collect();
    if free.is_empty() {
        return None;
    }
    finding(
        Weight::Doubtful,
        format!("Several modules share channel {crowded} while another channel is empty"),
        &format!("Move one of them to {}: two channels carry nearly twice as much.", free.join(" or ")),
    )
}

fn idle_channels(facts: &Facts<'_>) -> Option<Finding> {
    let channels = channels(facts.board)?;
    let used = channels.values().filter(|slots| fitted(slots) > 0).count();
    let modules = facts.board.modules().count();
    if used == 0 || used == channels.len() || modules > used {
        return None;
    }
    finding(
        Weight::Note,
        format!("{used} of {} memory channels are used", channels.len()),
        "More modules of the same kind, one in each channel, would make memory faster. For a test it does not matter.",
    )
}

fn below_rating(facts: &Facts<'_>) -> Option<Finding> {
    let slow = |(slot, module): (&Slot, &Module)| {
        let (speed, rated) = (module.speed?, module.rated_speed?);
        (speed < rated).then(|| format!("{} at {speed} of {rated} MT/s", slot.id))
    };
    let slow: Vec<String> = facts.board.modules().filter_map(slow).collect();
    if slow.is_empty() {
        return None;
    }
    finding(
        Weight::Note,
        format!("Runs below its rated speed: {}", slow.join(", ")),
        "Stock settings, a slower module beside it, or the processor's limit. Leave it so while errors are looked for.",
    )
}

fn mixed_modules(facts: &Facts<'_>) -> Option<Finding> {
    let modules: Vec<&Module> =
        facts.board.modules().filter(|(slot, _)| !slot.soldered).map(|(_, module)| module).collect();
    let differ = |values: BTreeSet<String>| values.len() > 1 && !values.contains("");
    let mixed: Vec<&str> = [
        ("makers", differ(modules.iter().map(|module| module.maker.to_lowercase()).collect())),
        ("sizes", differ(modules.iter().map(|module| module.bytes.to_string()).collect())),
        (
            "ranks",
            differ(
                modules.iter().map(|module| module.ranks.map_or(String::new(), |ranks| ranks.to_string())).collect(),
            ),
        ),
    ]
    .into_iter()
    .filter_map(|(name, mixed)| mixed.then_some(name))
    .collect();
    if mixed.is_empty() {
        return None;
    }
    finding(
        Weight::Doubtful,
        format!("Modules of different {} are mixed", mixed.join(" and ")),
        "Each may be good and the mix not. If errors show, test the kits apart before blaming one.",
    )
}

fn no_serial_numbers(facts: &Facts<'_>) -> Option<Finding> {
    let without: Vec<&str> = facts
        .board
        .modules()
        .filter(|(_, module)| module.serial.is_empty())
        .map(|(slot, _)| slot.id.as_str())
        .collect();
    if without.is_empty() {
        return None;
    }
    finding(
        Weight::Note,
        format!("The firmware gives no serial number for {}", without.join(", ")),
        "Mark these modules by hand, with a dot of paint: only so can they be told apart after a swap.",
    )
}

fn virtual_machine(facts: &Facts<'_>) -> Option<Finding> {
    if !facts.system.guest {
        return None;
    }
    finding(
        Weight::Note,
        "This is a virtual machine".to_owned(),
        "Only its own share of the memory is tested, and addresses are its own. To test the computer, start it without.",
    )
}

fn no_tables(facts: &Facts<'_>) -> Option<Finding> {
    if !facts.board.slots.is_empty() {
        return None;
    }
    finding(
        Weight::Note,
        "The firmware's tables do not tell what is fitted".to_owned(),
        "Errors cannot be placed on slots here. Test one module at a time and write down which.",
    )
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::units::GIB;

    fn module(serial: &str) -> Module {
        Module {
            serial: serial.into(),
            maker: "Haldry".into(),
            bytes: 8 * GIB,
            speed: Some(3200),
            rated_speed: Some(3200),
            ranks: Some(1),
            ..Module::default()
        }
    }

    /// Two channels with two slots each, modules in `fitted`.
    fn board(fitted: &[&str]) -> Board {
        let slot = |id: &str| Slot {
            id: id.into(),
            channel: Some(id[..1].into()),
            soldered: false,
            module: fitted.contains(&id).then(|| module(&format!("HA{id}"))),
        };
        Board { slots: ["A1", "A2", "B1", "B2"].map(slot).into(), ..Board::default() }
    }

    fn change(mut board: Board, slot: &str, change: fn(&mut Module)) -> Board {
        board
            .slots
            .iter_mut()
            .filter(|known| known.id == slot)
            .filter_map(|slot| slot.module.as_mut())
            .for_each(change);
        board
    }

    fn found(board: &Board, usable_bytes: u64, counters: &[EccCount], guest: bool) -> Vec<String> {
        let system = SystemFacts { guest, ..SystemFacts::default() };
        let facts = Facts { board, system: &system, usable_bytes, counters };
        findings(&facts).into_iter().map(|finding| finding.what).collect()
    }

    /// Each rule with a board that makes it fire and one just beside it that does not.
    #[rstest]
    #[case::sound(board(&["A1", "B1"]), 16 * GIB, None)]
    #[case::missing(board(&["A1", "B1"]), 8 * GIB, Some("hands over 8 GiB only"))]
    #[case::not_missing(board(&["A1", "B1"]), 15 * GIB, None)]
    #[case::usable_unknown(board(&["A1", "B1"]), 0, None)]
    #[case::crowded(board(&["A1", "A2"]), 16 * GIB, Some("share channel A while another"))]
    #[case::full(board(&["A1", "A2", "B1"]), 24 * GIB, None)]
    #[case::one_channel(board(&["A1"]), 8 * GIB, Some("1 of 2 memory channels"))]
    #[case::slow(change(board(&["A1", "B1"]), "B1", |m| m.speed = Some(2666)), 16 * GIB, Some("B1 at 2666 of 3200"))]
    #[case::speed_unknown(change(board(&["A1", "B1"]), "B1", |m| m.speed = None), 16 * GIB, None)]
    #[case::makers(change(board(&["A1", "B1"]), "B1", |m| m.maker = "Ostrand".into()), 16 * GIB, Some("different makers"))]
    #[case::maker_unknown(change(board(&["A1", "B1"]), "B1", |m| m.maker = String::new()), 16 * GIB, None)]
    #[case::sizes(change(board(&["A1", "B1"]), "B1", |m| m.bytes = 4 * GIB), 12 * GIB, Some("different sizes"))]
    #[case::ranks(change(board(&["A1", "B1"]), "B1", |m| m.ranks = Some(2)), 16 * GIB, Some("different ranks"))]
    #[case::ranks_unknown(change(board(&["A1", "B1"]), "B1", |m| m.ranks = None), 16 * GIB, None)]
    #[case::no_serial(change(board(&["A1", "B1"]), "B1", |m| m.serial.clear()), 16 * GIB, Some("no serial number for B1"))]
    #[case::no_tables(Board::default(), 0, Some("do not tell what is fitted"))]
    fn rules(#[case] board: Board, #[case] usable_bytes: u64, #[case] expected: Option<&str>) {
        let found = found(&board, usable_bytes, &[], false);
        match expected {
            Some(words) => assert!(found.len() == 1 && found[0].contains(words), "{found:?}"),
            None => assert!(found.is_empty(), "{found:?}"),
        }
    }

    #[rstest]
    #[case(0, 0, None)]
    #[case(1, 0, Some("1 corrected memory error since"))]
    #[case(3, 1, Some("3 corrected and 1 uncorrected"))]
    fn counters(#[case] corrected: u64, #[case] uncorrected: u64, #[case] expected: Option<&str>) {
        let counts = [EccCount { label: "B1".into(), corrected, uncorrected }];
        let found = found(&board(&["A1", "B1"]), 16 * GIB, &counts, false);
        assert_eq!(found.len(), usize::from(expected.is_some()));
        assert!(expected.is_none_or(|words| found[0].contains(words)), "{found:?}");
    }

    #[test]
    fn a_virtual_machine_says_so_and_misses_nothing() {
        assert_eq!(found(&board(&["A1", "B1"]), GIB, &[], true), ["This is a virtual machine"]);
    }

    #[test]
    fn the_worst_stands_first() {
        let counts = [EccCount { label: "A1".into(), corrected: 2, uncorrected: 0 }];
        let weights: Vec<Weight> = {
            let board = change(board(&["A1", "A2"]), "A2", |module| module.serial.clear());
            let facts =
                Facts { board: &board, system: &SystemFacts::default(), usable_bytes: 16 * GIB, counters: &counts };
            findings(&facts).into_iter().map(|finding| finding.weight).collect()
        };
        assert_eq!(weights, [Weight::Wrong, Weight::Doubtful, Weight::Note]);
    }
}
