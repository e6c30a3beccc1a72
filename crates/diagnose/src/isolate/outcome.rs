//! What follows from a job that has come to its end: what becomes of every module, what to do, and what to look at next.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

use super::bench::Bench;
use super::case::{Case, Placement};
use super::fact::{Evidence, RunFact};
use super::plan::Reason;
use super::posterior::Odds;
use super::proof::proof;
use super::suspect::Suspect;
use revisum_record::confidence::Before;

/// What becomes of a module.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Disposition {
    /// Out, for good.
    Replace,
    /// Good by itself, but not beside these, or not in this machine.
    Elsewhere,
    /// One of several that could be it.
    InQuestion,
    /// It ran clean, in the last run with it too: it stays.
    Keep,
    /// It ran clean, but failed in the last run with it, and something else is at fault: it stays, and nobody calls it known-good.
    NotAtFault,
    /// It was in no run that says anything.
    Untested,
}

impl Disposition {
    /// All of them.
    pub const ALL: [Self; 6] =
        [Self::Replace, Self::Elsewhere, Self::InQuestion, Self::Keep, Self::NotAtFault, Self::Untested];

    /// The word in files and in the ledger.
    pub fn word(self) -> &'static str {
        match self {
            Self::Replace => "replace",
            Self::Elsewhere => "elsewhere",
            Self::InQuestion => "in-question",
            Self::Keep => "keep",
            Self::NotAtFault => "not-at-fault",
            Self::Untested => "untested",
        }
    }

    /// The one with this [`Self::word`].
    pub fn of_word(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|end| end.word() == word)
    }
}

/// Clean passes with a module in before it is called good.
const CLEAN_PASSES: f64 = 1.0;

/// What becomes of every module of the case, in its order.
pub fn dispositions(case: &Case, named: &[Odds], reason: Reason) -> Vec<(String, Disposition)> {
    let confident = reason == Reason::Confident;
    let of = |id: &str| {
        let with = |run: &&RunFact| !run.struck && run.placement.iter().any(|(_, module)| module == id);
        let clean = case.runs.iter().filter(with).filter(|run| !run.failed());
        let passes: f64 = clean.map(|run| run.passes).sum();
        let failed_last = case.runs.iter().rfind(with).is_some_and(RunFact::failed);
        let blamed = named.iter().find(|odds| odds.suspect.modules().contains(&id)).map(|odds| &odds.suspect);
        match blamed {
            Some(Suspect::Pair(_, second)) if confident && second == id => Disposition::Elsewhere,
            Some(Suspect::Pair(..)) if confident => Disposition::Keep,
            Some(Suspect::Unfit(_)) if confident => Disposition::Elsewhere,
            Some(_) if confident => Disposition::Replace,
            Some(_) => Disposition::InQuestion,
            None if passes < CLEAN_PASSES => Disposition::Untested,
            None if failed_last && confident => Disposition::NotAtFault,
            None if failed_last => Disposition::InQuestion,
            None => Disposition::Keep,
        }
    };
    case.modules.iter().map(|module| (module.id.clone(), of(&module.id))).collect()
}

/// The modules that have to go, and those that stay in the machine; both empty while nothing is named for certain.
pub fn gone_and_kept(case: &Case, named: &[Odds], reason: Reason) -> (Vec<String>, Vec<String>) {
    if reason != Reason::Confident {
        return (Vec::new(), Vec::new());
    }
    let goes = |end: Disposition| matches!(end, Disposition::Replace | Disposition::Elsewhere);
    let (gone, kept): (Vec<_>, Vec<_>) = dispositions(case, named, reason).into_iter().partition(|(_, end)| goes(*end));
    let ids = |all: Vec<(String, Disposition)>| all.into_iter().map(|(id, _)| id).collect();
    (ids(gone), ids(kept))
}

/// The machine as it leaves: what failed first without the parts that have to go, and the settings that it leaves with. Nothing while no
/// cause is named for certain, or nothing would be left.
pub fn what_stays(case: &Case, named: &[Odds], reason: Reason) -> Option<(Placement, String)> {
    let first = case.first_failure()?;
    let suspect = &named.first().filter(|_| reason == Reason::Confident)?.suspect;
    // A good module goes to another slot where one is free.
    let by_proof = matches!(
        suspect,
        Suspect::Channel(_)
            | Suspect::TooMany
            | Suspect::Position
            | Suspect::Kits
            | Suspect::Slot(_)
            | Suspect::ModuleAndSlot(..)
    );
    if by_proof {
        let bench = Bench::new(case);
        return proof(&bench, suspect).map(|fit| (bench.placement(&fit), first.settings.clone()));
    }
    let (gone, _) = gone_and_kept(case, named, reason);
    let mut placement = first.placement.clone();
    placement.retain(|(slot, module)| !gone.contains(module) && suspect.slot() != Some(slot));
    let stock = *suspect == Suspect::Settings;
    let settings = if stock { case.settings.last().cloned().unwrap_or_default() } else { first.settings.clone() };
    (!placement.is_empty()).then_some((placement, settings))
}

/// What the runs themselves show of a suspect.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shown {
    /// Runs that failed while it could show.
    pub failed: u64,
    /// Passes of the longest run that was clean while it could not; nothing where there was none.
    pub clean_passes: Option<f64>,
}

/// How many runs failed with the suspect in play, and the longest that was clean without it.
pub fn shown(case: &Case, suspect: &Suspect) -> Shown {
    let runs = || case.runs.iter().filter(|run| !run.struck);
    let failed = runs().filter(|run| run.failed() && in_play(case, suspect, run)).count() as u64;
    let without = runs().filter(|run| !run.failed() && !in_play(case, suspect, run)).map(|run| run.passes);
    Shown { failed, clean_passes: without.reduce(f64::max) }
}

/// Passes of the longest clean run in the arrangement that failed first, where there was one: it is clean after a touch.
pub fn clean_again(case: &Case) -> Option<f64> {
    let same = |run: &&RunFact| case.first_failure().is_some_and(|first| first.placement == run.placement);
    let runs = case.runs.iter().filter(|run| !run.struck && !run.failed());
    runs.filter(same).map(|run| run.passes).reduce(f64::max)
}

/// Whether a suspect could show in a run at all.
fn in_play(case: &Case, suspect: &Suspect, run: &RunFact) -> bool {
    let fitted = |id: &str| run.placement.iter().any(|(_, module)| module == id);
    match suspect {
        Suspect::Settings => case.settings.last() != Some(&run.settings),
        Suspect::Pair(a, b) => fitted(a) && fitted(b),
        Suspect::Combination(id) => fitted(id) && case.channels(&run.placement) > 1,
        Suspect::TooMany => case.is_crowded(&run.placement) || case.is_as_many(&run.placement),
        Suspect::Position => {
            case.first_failure().is_some_and(|first| case.singles(&run.placement) == case.singles(&first.placement))
        }
        Suspect::Kits => case.kits(&run.placement) > 1,
        Suspect::Channel(channel) => run.placement.iter().any(|(slot, _)| case.channel_of(slot) == *channel),
        Suspect::NoPart | Suspect::Controller | Suspect::Other => true,
        _ => {
            let used = |slot: &str| run.placement.iter().any(|(known, _)| known == slot);
            suspect.modules().into_iter().any(fitted) || suspect.slot().is_some_and(used)
        }
    }
}

/// Something to do at the end of a job.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Action {
    /// Replace the module; the order says by what.
    Replace,
    /// Both modules are replaced.
    ReplaceBoth,
    /// Test it in another machine before it is scrapped.
    TryElsewhere,
    /// It ran clean elsewhere: use it there, after defaults and an update of the firmware did not help.
    UseElsewhere,
    /// Buy from the mainboard's support list.
    BuyListed,
    /// Replace it by one like the others.
    ReplaceAlike,
    /// First the firmware's defaults and an update.
    FirmwareFirst,
    /// Keep one of the two, use the other elsewhere.
    KeepOne,
    /// Buy the part number of the one that stays, or a matched set.
    BuyAlike,
    /// Clean the slot and look at its contacts.
    CleanSlot,
    /// Leave the slot empty, or replace the mainboard.
    LeaveSlot,
    /// Replace the module, and leave the slot empty or replace the mainboard.
    ReplaceAndLeave,
    /// Reseat the processor and look at the contacts of its socket.
    InspectSocket,
    /// Leave the channel empty, or replace the mainboard.
    LeaveChannel,
    /// Run all modules at a lower speed.
    LowerSpeed,
    /// Use fewer modules, one in each channel.
    FewerModules,
    /// Buy one set that is sold for as many slots.
    BuyMatched,
    /// Use the other slot of each channel.
    OtherSlots,
    /// Keep the modules of one kit.
    OneKit,
    /// Leave the profile off.
    ProfileOff,
    /// Raise the voltage by one step, only then.
    RaiseVoltage,
    /// Buy nothing, test overnight.
    BuyNothing,
    /// Firmware, processor's seat and cooler.
    SeeToProcessor,
    /// The modules in another machine before mainboard or processor is replaced.
    ModulesElsewhere,
    /// Power supply, heat, storage.
    LookBeyond,
    /// Borrow a known-good module.
    BorrowGood,
    /// Replace what fails together by a matched set.
    MatchedSet,
    /// The modules in another machine: clean there, it is this mainboard or processor.
    CompareElsewhere,
    /// Back up, and check files.
    CheckFiles,
    /// Prove the repair.
    Prove(Proof),
}

/// How long clean running takes to show that a change helped.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Proof {
    /// No failing run says how often the fault shows.
    Unknown,
    /// It failed once before: a clean run alone does not prove it.
    FailedOnce,
    /// So many seconds without an error show it with 95 % confidence.
    Clean(f64),
}

/// What to do, in order.
pub fn to_do(case: &Case, named: &[Odds], reason: Reason) -> Vec<Action> {
    use Action::*;
    let has_good = case.modules.iter().any(|module| module.known_good);
    let Some(first) = named.first() else { return Vec::new() };
    let mut all = match (&first.suspect, reason) {
        (_, Reason::Indistinguishable | Reason::Budget) => open_ends(named, has_good),
        (Suspect::Module(id), _) if elsewhere(case, id).is_none() => vec![Replace, TryElsewhere],
        (Suspect::Module(_), _) => vec![Replace],
        (Suspect::TwoModules(..), _) => vec![ReplaceBoth],
        (Suspect::Unfit(_), _) => vec![UseElsewhere, BuyListed],
        (Suspect::Combination(_), _) => vec![ReplaceAlike, FirmwareFirst],
        (Suspect::Pair(..), _) => vec![KeepOne, BuyAlike],
        (Suspect::Slot(_), _) => vec![CleanSlot, LeaveSlot],
        (Suspect::ModuleAndSlot(..), _) => vec![ReplaceAndLeave],
        (Suspect::Channel(_), _) => vec![InspectSocket, LeaveChannel],
        (Suspect::TooMany, _) => vec![LowerSpeed, FewerModules, BuyMatched],
        (Suspect::Position, _) => vec![OtherSlots, LowerSpeed],
        (Suspect::Kits, _) => vec![OneKit, LowerSpeed],
        (Suspect::Settings, _) => vec![ProfileOff, RaiseVoltage],
        (Suspect::NoPart, _) => vec![BuyNothing],
        (Suspect::Controller, _) => vec![SeeToProcessor, ModulesElsewhere],
        (Suspect::Other, _) => vec![LookBeyond],
    };
    if !matches!(first.suspect, Suspect::NoPart) {
        all.push(CheckFiles);
    }
    all.push(Prove(time_to_prove(case)));
    all
}

/// How a module did in another machine, where it was tried.
fn elsewhere(case: &Case, id: &str) -> Option<bool> {
    case.modules.iter().find(|module| module.id == id)?.elsewhere
}

/// What ran before a change, fitted and set as the machine failed most often: runs that failed, and the time that all such runs really took.
/// Nothing where no run failed. A machine that did not start, and what may have come from something else, are no failures of a run; their time counts.
pub fn before_the_change(case: &Case) -> Option<Before> {
    let runs: Vec<&RunFact> = case.runs.iter().filter(|run| !run.struck).collect();
    let counts =
        |run: &RunFact| matches!(run.evidence, Evidence::Errors(_)) && run.doubt == 0.0 && run.ran_minutes > 0.0;
    let like = |one: &RunFact| -> Before {
        let same = runs.iter().filter(|run| run.placement == one.placement && run.settings == one.settings);
        same.fold(Before::default(), |all, run| Before {
            failures: all.failures + u32::from(counts(run)),
            seconds: all.seconds + run.ran_minutes * 60.0,
        })
    };
    let failed = runs.iter().filter(|run| counts(run));
    failed.map(|run| like(run)).max_by_key(|before| before.failures)
}

fn time_to_prove(case: &Case) -> Proof {
    match before_the_change(case).map(Before::clean_to_show_help) {
        None => Proof::Unknown,
        Some(None) => Proof::FailedOnce,
        Some(Some(seconds)) => Proof::Clean(seconds),
    }
}

fn open_ends(named: &[Odds], has_good: bool) -> Vec<Action> {
    let any = |of: fn(&Suspect) -> bool| named.iter().any(|odds| of(&odds.suspect));
    let together = any(|suspect| matches!(suspect, Suspect::Pair(..) | Suspect::Combination(_)));
    let board = any(|suspect| matches!(suspect, Suspect::Controller | Suspect::Slot(_)));
    let all = [(!has_good, Action::BorrowGood), (together, Action::MatchedSet), (board, Action::CompareElsewhere)];
    all.into_iter().filter(|(holds, _)| *holds).map(|(_, action)| action).collect()
}

/// What to look at next when memory is clean.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Beyond {
    /// The system's updates.
    Updates,
    /// The system's own check of its files.
    SystemFiles,
    /// Drivers.
    Drivers,
    /// The firmware.
    Firmware,
    /// Storage and cables.
    Storage,
    /// A fresh install.
    FreshInstall,
    /// Memory again, overnight and under computing load.
    MemoryAgain,
}

impl Beyond {
    /// All of them, in order.
    pub const ALL: [Self; 7] = [
        Self::Updates,
        Self::SystemFiles,
        Self::Drivers,
        Self::Firmware,
        Self::Storage,
        Self::FreshInstall,
        Self::MemoryAgain,
    ];
}

/// What in a case contradicts itself. The odds work around each.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Contradiction {
    /// Two modules have this serial number.
    SameSerial(String),
    /// A run has two modules in one slot; the first counts.
    TwoInSlot {
        /// Number of the run, from 1 on.
        run: usize,
        /// Slot.
        slot: String,
    },
    /// A run has one module in two slots; the first counts.
    TwoSlots {
        /// Number of the run, from 1 on.
        run: usize,
        /// Module.
        module: String,
    },
    /// The same arrangement passed and failed.
    PassedAndFailed,
}

/// Contradictions of a case.
pub fn contradictions(case: &Case) -> Vec<Contradiction> {
    let mut all = Vec::new();
    let mut seen = BTreeSet::new();
    for module in &case.modules {
        if !seen.insert(&module.id) {
            all.push(Contradiction::SameSerial(module.id.clone()));
        }
    }
    for (number, run) in (1..).zip(&case.runs) {
        let mut slots = BTreeSet::new();
        let mut modules = BTreeSet::new();
        for (slot, module) in &run.placement {
            if !slots.insert(slot) {
                all.push(Contradiction::TwoInSlot { run: number, slot: slot.clone() });
            }
            if !modules.insert(module) {
                all.push(Contradiction::TwoSlots { run: number, module: module.clone() });
            }
        }
    }
    let sides = |failed: bool| {
        case.runs
            .iter()
            .filter(move |run| !run.struck && run.failed() == failed && run.passes >= 1.0)
            .collect::<Vec<_>>()
    };
    for clean in sides(false) {
        let same = |run: &&&RunFact| {
            let (mut a, mut b) = (run.placement.clone(), clean.placement.clone());
            a.sort();
            b.sort();
            a == b && run.settings == clean.settings
        };
        if sides(true).iter().find(same).is_some() {
            all.push(Contradiction::PassedAndFailed);
            break;
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::isolate::{Evidence, KnownModule, Place};

    fn run(placement: &[(&str, &str)], evidence: Evidence) -> RunFact {
        let placed = placement.iter().map(|(slot, module)| ((*slot).to_owned(), (*module).to_owned()));
        RunFact { evidence, ..RunFact::clean(placed.collect(), 30.0, 3.0) }
    }

    fn case() -> Case {
        Case {
            modules: ["one", "two", "three"].map(KnownModule::of).into(),
            runs: vec![
                run(&[("A1", "one"), ("B1", "two")], Evidence::Errors(Place::Unknown)),
                run(&[("A1", "one")], Evidence::Clean),
            ],
            ..Case::default()
        }
    }

    fn named(suspect: Suspect) -> Vec<Odds> {
        vec![Odds { suspect, probability: 0.97 }]
    }

    /// A module that ran clean and failed again, because of something else, is not called clean.
    #[rstest]
    #[case::settled(Reason::Confident, Disposition::NotAtFault)]
    #[case::open(Reason::Indistinguishable, Disposition::InQuestion)]
    fn the_last_run_with_a_module_counts(#[case] reason: Reason, #[case] expected: Disposition) {
        let mut case = case();
        case.runs.push(run(&[("A1", "one")], Evidence::Errors(Place::Unknown)));
        let all = dispositions(&case, &named(Suspect::Controller), reason);
        assert_eq!(all[0], ("one".to_owned(), expected));
        // In no run without errors: nothing speaks for it.
        assert_eq!(all[1], ("two".to_owned(), Disposition::Untested));
    }

    #[rstest]
    #[case::module(Suspect::Module("two".into()), Reason::Confident, [Disposition::Keep, Disposition::Replace, Disposition::Untested])]
    #[case::pair(Suspect::Pair("one".into(), "two".into()), Reason::Confident, [Disposition::Keep, Disposition::Elsewhere, Disposition::Untested])]
    #[case::open(Suspect::Module("two".into()), Reason::Indistinguishable, [Disposition::Keep, Disposition::InQuestion, Disposition::Untested])]
    fn every_module_has_a_disposition(
        #[case] suspect: Suspect,
        #[case] reason: Reason,
        #[case] expected: [Disposition; 3],
    ) {
        let named = named(suspect);
        let all = dispositions(&case(), &named, reason);
        assert_eq!(all.iter().map(|(_, disposition)| *disposition).collect::<Vec<_>>(), expected);
        let gone = gone_and_kept(&case(), &named, reason).0;
        assert_eq!(gone, if reason == Reason::Confident { vec!["two"] } else { vec![] });
    }

    #[rstest]
    #[case(Suspect::Module("two".into()), Action::Replace)]
    #[case(Suspect::Slot("A1".into()), Action::LeaveSlot)]
    #[case(Suspect::Settings, Action::RaiseVoltage)]
    #[case(Suspect::NoPart, Action::BuyNothing)]
    #[case(Suspect::Controller, Action::ModulesElsewhere)]
    #[case(Suspect::Pair("one".into(), "two".into()), Action::BuyAlike)]
    fn what_to_do_ends_with_the_proof(#[case] suspect: Suspect, #[case] expected: Action) {
        let all = to_do(&case(), &named(suspect), Reason::Confident);
        assert!(all.contains(&expected), "{all:?}");
        assert_eq!(all.last(), Some(&Action::Prove(Proof::FailedOnce)));
    }

    #[rstest]
    #[case::module(Suspect::Module("two".into()), &[("A1", "one")])]
    #[case::slot(Suspect::Slot("A1".into()), &[("B1", "two")])]
    #[case::no_part(Suspect::NoPart, &[("A1", "one"), ("B1", "two")])]
    fn what_stays_is_put_back(#[case] suspect: Suspect, #[case] expected: &[(&str, &str)]) {
        let (placement, _) = what_stays(&case(), &named(suspect.clone()), Reason::Confident).unwrap();
        let expected: Placement = expected.iter().map(|(slot, id)| ((*slot).into(), (*id).into())).collect();
        assert_eq!(placement, expected);
        assert_eq!(what_stays(&case(), &named(suspect), Reason::Budget), None);
    }

    #[test]
    fn an_open_end_says_what_would_decide() {
        let set = [Suspect::Pair("one".into(), "two".into()), Suspect::Controller]
            .map(|suspect| Odds { suspect, probability: 0.5 });
        let mut case = case();
        let open = |case: &Case| to_do(case, &set, Reason::Indistinguishable);
        let all = open(&case);
        assert_eq!(all[..3], [Action::BorrowGood, Action::MatchedSet, Action::CompareElsewhere]);
        // With one failure it cannot be told from luck, whatever ran clean in other fittings.
        assert_eq!(all.last(), Some(&Action::Prove(Proof::FailedOnce)));
        case.runs.push(case.runs.iter().find(|run| run.failed()).unwrap().clone());
        let clean = |action: &Action| matches!(action, Action::Prove(Proof::Clean(seconds)) if (seconds / 60.0 - 260.0).abs() < 1.0);
        assert!(open(&case).last().is_some_and(clean), "{:?}", open(&case));
        case.modules[2].known_good = true;
        assert!(!open(&case).contains(&Action::BorrowGood));
    }

    #[test]
    fn contradictions_are_told() {
        let mut case = case();
        assert_eq!(contradictions(&case), []);
        case.modules.push(KnownModule::of("one"));
        case.runs.push(run(&[("A1", "one"), ("A1", "two"), ("B1", "one")], Evidence::Clean));
        case.runs.push(run(&[("A1", "one")], Evidence::Errors(Place::Unknown)));
        let expected = [
            Contradiction::SameSerial("one".into()),
            Contradiction::TwoInSlot { run: 3, slot: "A1".into() },
            Contradiction::TwoSlots { run: 3, module: "one".into() },
            Contradiction::PassedAndFailed,
        ];
        assert_eq!(contradictions(&case), expected);
    }
}
