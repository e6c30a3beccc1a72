//! What follows from a job that has come to its end: what becomes of every module, what to do, and what to look at next.

use std::collections::BTreeSet;

use super::case::{Case, Evidence, Placement, RunFact, Suspect};
use super::plan::Reason;
use super::posterior::Odds;
use super::words::{band, suspect_words};
use revisum_engine::units::{counted, duration_text};
use revisum_record::confidence::Before;

/// What becomes of a module.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Disposition {
    /// Out, for good.
    Replace,
    /// Good by itself, but not beside these, or not in this machine.
    Elsewhere,
    /// One of several that could be it.
    InQuestion,
    /// It stays.
    Keep,
    /// It was in no run that says anything.
    Untested,
}

impl Disposition {
    /// In words.
    pub fn words(self) -> &'static str {
        match self {
            Self::Replace => "replace it",
            Self::Elsewhere => "good alone, not here: use it elsewhere",
            Self::InQuestion => "in question",
            Self::Keep => "ran clean, stays",
            Self::Untested => "not tested",
        }
    }
}

/// Clean passes with a module in before it is called good.
const CLEAN_PASSES: f64 = 1.0;

/// What becomes of every module of the case, in its order.
pub fn dispositions(case: &Case, named: &[Odds], reason: Reason) -> Vec<(String, Disposition)> {
    let confident = reason == Reason::Confident;
    let of = |id: &str| {
        let clean =
            |run: &&RunFact| !run.failed() && !run.struck && run.placement.iter().any(|(_, module)| module == id);
        let passes: f64 = case.runs.iter().filter(clean).map(|run| run.passes).sum();
        let blamed = named.iter().find(|odds| odds.suspect.modules().contains(&id)).map(|odds| &odds.suspect);
        match blamed {
            Some(Suspect::Pair(_, second)) if confident && second == id => Disposition::Elsewhere,
            Some(Suspect::Pair(..)) if confident => Disposition::Keep,
            Some(Suspect::Unfit(_)) if confident => Disposition::Elsewhere,
            Some(_) if confident => Disposition::Replace,
            Some(_) => Disposition::InQuestion,
            None if passes >= CLEAN_PASSES => Disposition::Keep,
            None => Disposition::Untested,
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
    let (gone, _) = gone_and_kept(case, named, reason);
    let mut placement = first.placement.clone();
    placement.retain(|(slot, module)| !gone.contains(module) && suspect.slot() != Some(slot));
    let stock = *suspect == Suspect::Settings;
    let settings = if stock { case.settings.last().cloned().unwrap_or_default() } else { first.settings.clone() };
    (!placement.is_empty()).then_some((placement, settings))
}

/// The answer in a sentence: what it is, how surely, and what shows it.
pub fn answer_words(case: &Case, named: &[Odds], reason: Reason, name: &dyn Fn(&str) -> String) -> String {
    let Some(first) = named.first() else { return "Nothing is known.".to_owned() };
    let part = suspect_words(&first.suspect, name);
    match reason {
        Reason::Confident => format!("{part} ({}). {}", band(first.probability), why(case, &first.suspect)),
        _ if named.len() == 1 => format!(
            "{part} ({}), not proved: no run was possible without it. Test a known-good module in its place.",
            band(first.probability)
        ),
        _ => {
            let all: Vec<String> = named.iter().map(|odds| suspect_words(&odds.suspect, name)).collect();
            let stop = match reason {
                Reason::Budget => "The limit of runs, hands-on time or hours for a job is reached.",
                _ => "No further run with these parts would separate them.",
            };
            format!("One of these: {}. {stop}", all.join("; "))
        }
    }
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

fn why(case: &Case, suspect: &Suspect) -> String {
    let Shown { failed, clean_passes } = shown(case, suspect);
    let runs = || case.runs.iter().filter(|run| !run.struck);
    let passes = |passes: Option<f64>| {
        passes.map_or_else(String::new, |passes| format!(" ({:.0} passes in the longest such run)", passes.floor()))
    };
    let clean = passes(clean_passes);
    let failed = counted(failed, "run");
    match suspect {
        Suspect::NoPart => {
            let same = |run: &&RunFact| case.first_failure().is_some_and(|first| first.placement == run.placement);
            let clean = passes(runs().filter(|run| !run.failed()).filter(same).map(|run| run.passes).reduce(f64::max));
            format!("After reseating, the first arrangement ran clean{clean}.")
        }
        Suspect::Settings => format!("{failed} with the profile failed; at stock settings it ran clean{clean}."),
        Suspect::Controller => "It explains the runs better than any module or slot does.".to_owned(),
        Suspect::Combination(_) => {
            format!(
                "{failed} with it and others installed failed; with it alone, and without it, all were clean{clean}."
            )
        }
        Suspect::Unfit(_) => format!("{failed} with it failed here; in another machine it ran clean."),
        _ => format!("{failed} with it failed; without it the rest ran clean{clean}."),
    }
}

/// Whether a suspect could show in a run at all.
fn in_play(case: &Case, suspect: &Suspect, run: &RunFact) -> bool {
    let fitted = |id: &str| run.placement.iter().any(|(_, module)| module == id);
    match suspect {
        Suspect::Settings => case.settings.last() != Some(&run.settings),
        Suspect::Pair(a, b) => fitted(a) && fitted(b),
        Suspect::Combination(id) => fitted(id) && case.channels(&run.placement) > 1,
        Suspect::NoPart | Suspect::Controller | Suspect::Other => true,
        _ => {
            let used = |slot: &str| run.placement.iter().any(|(known, _)| known == slot);
            suspect.modules().into_iter().any(fitted) || suspect.slot().is_some_and(used)
        }
    }
}

/// What to do, in order.
pub fn to_do(case: &Case, named: &[Odds], reason: Reason) -> Vec<String> {
    let has_good = case.modules.iter().any(|module| module.known_good);
    let Some(first) = named.first() else { return Vec::new() };
    let mut all = match (&first.suspect, reason) {
        (_, Reason::Indistinguishable | Reason::Budget) => open_ends(named, has_good),
        (Suspect::Module(id), _) if elsewhere(case, id).is_none() => strings(&[
            "Replace it; see the order below.",
            "Before scrapping it, test it in another PC. If it passes there, it is good but incompatible with this mainboard.",
        ]),
        (Suspect::Module(_) | Suspect::TwoModules(..), _) => strings(&["Replace it; see the order below."]),
        (Suspect::Unfit(_), _) => strings(&[
            "It ran clean elsewhere: use it there. First load the firmware's defaults and update the firmware: sometimes that is enough.",
            "Buy a module from the mainboard's memory support list (QVL).",
        ]),
        (Suspect::Combination(_), _) => strings(&[
            "It is unfit for this machine: replace it, preferably with the same part number as the others.",
            "First load the firmware's defaults and update the firmware: sometimes that cures it.",
        ]),
        (Suspect::Pair(..), _) => strings(&[
            "Keep one of the two and use the other in another machine: each is good alone.",
            "Buy the same part number as the one that stays, or a matched set.",
        ]),
        (Suspect::Slot(_), _) => strings(&[
            "Blow the slot out, check for bent or dull contacts, and test once more.",
            "Leave it empty if another slot is free; otherwise replace the mainboard.",
        ]),
        (Suspect::ModuleAndSlot(..), _) => {
            strings(&["Replace the module, and leave the slot empty or replace the mainboard."])
        }
        (Suspect::Settings, _) => strings(&[
            "Leave the profile off. If the owner needs its speed: update the firmware, then test the profile once more, overnight.",
            "Only then raise the memory voltage by one step, at most 0.05 V for DDR4 or DDR5. Go back to stock after any error.",
        ]),
        (Suspect::NoPart, _) => {
            strings(&["Buy nothing. Test overnight before the handover: a contact can come loose again."])
        }
        (Suspect::Controller, _) => strings(&[
            "Load the firmware's defaults and update the firmware; reseat the processor and check its cooler.",
            "Then it is the mainboard or the processor: test the modules in another PC first.",
        ]),
        (Suspect::Other, _) => strings(&["Look beyond memory: power supply, heat, storage."]),
    };
    if !matches!(first.suspect, Suspect::NoPart) {
        all.push("Files may be damaged: back up, and check the system files after the repair.".to_owned());
    }
    all.push(format!(
        "Prove the repair with all modules in: a survey (1 h), with computing load{}. Then restore the boot order and remove the boot drive.",
        time_to_prove(case)
    ));
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

/// How long clean running takes to show that a change helped.
fn time_to_prove(case: &Case) -> String {
    match before_the_change(case).map(Before::clean_to_show_help) {
        None => String::new(),
        Some(Some(clean)) => {
            format!("; {} without an error show with 95 % confidence that it helped", duration_text(clean))
        }
        Some(None) => "; it failed only once before, so a clean run alone does not prove the repair".to_owned(),
    }
}

fn open_ends(named: &[Odds], has_good: bool) -> Vec<String> {
    let together = named.iter().any(|odds| matches!(odds.suspect, Suspect::Pair(..) | Suspect::Combination(_)));
    let mut all = Vec::new();
    if !has_good {
        all.push(
            "Borrow or order one known-good module of the same kind. Swap it in for each module in turn to settle it."
                .to_owned(),
        );
    }
    if together {
        all.push("Replace modules that pass alone and fail together with a matched set.".to_owned());
    }
    if named.iter().any(|odds| matches!(odds.suspect, Suspect::Controller | Suspect::Slot(_))) {
        all.push("Test the modules in another PC: if they pass there, it is this mainboard or processor.".to_owned());
    }
    all
}

fn strings(words: &[&str]) -> Vec<String> {
    words.iter().map(|words| (*words).to_owned()).collect()
}

/// Said where records of a job are damaged, and no error is known of.
pub const NOT_WHOLE: &str = "Records of this job are damaged, so a missing error proves nothing. Run the test again. Each run says what was \
                             lost.";

/// What to look at next when memory is clean, in order.
pub const WHEN_CLEAN: [&str; 7] = [
    "the system's updates",
    "the system's own check and repair of its files",
    "drivers of chipset, storage and graphics",
    "the firmware: update, or its defaults",
    "storage: its own health report, cables",
    "a fresh install, on another drive if there is one",
    "then memory again, overnight and under computing load",
];

/// Contradictions of a case, in sentences: what was found, what it means, what to do. The odds work around each.
pub fn contradictions(case: &Case) -> Vec<String> {
    let mut all = Vec::new();
    let mut seen = BTreeSet::new();
    for module in &case.modules {
        if !seen.insert(&module.id) {
            all.push(format!(
                "Two modules have the serial number {}: after a restart nothing distinguishes them. Mark them and test one at a time.",
                module.id
            ));
        }
    }
    for (number, run) in (1..).zip(&case.runs) {
        let mut slots = BTreeSet::new();
        let mut modules = BTreeSet::new();
        for (slot, module) in &run.placement {
            if !slots.insert(slot) {
                all.push(format!("Run {number} has two modules in {slot}; the first of them counts. Exclude the run if that is wrong."));
            }
            if !modules.insert(module) {
                all.push(format!(
                    "Run {number} has module {module} in two slots; the first counts. Exclude the run if that is wrong."
                ));
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
            all.push("This arrangement both passed and failed: the fault is intermittent, or reseating cured it. Longer runs show more.".to_owned());
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
    #[case(Suspect::Module("two".into()), "Replace it")]
    #[case(Suspect::Slot("A1".into()), "Leave it empty")]
    #[case(Suspect::Settings, "at most 0.05 V")]
    #[case(Suspect::NoPart, "Buy nothing")]
    #[case(Suspect::Controller, "mainboard or the processor")]
    #[case(Suspect::Pair("one".into(), "two".into()), "matched set")]
    fn what_to_do_ends_with_the_proof(#[case] suspect: Suspect, #[case] words: &str) {
        let all = to_do(&case(), &named(suspect.clone()), Reason::Confident);
        assert!(all.join(" ").contains(words), "{all:?}");
        assert!(all.last().unwrap().contains("Prove the repair"));
        assert!(answer_words(&case(), &named(suspect), Reason::Confident, &str::to_owned).contains("very likely"));
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
        let all = to_do(&case, &set, Reason::Indistinguishable).join(" ");
        assert!(all.contains("known-good") && all.contains("another PC"), "{all}");
        // With one failure it cannot be told from luck, whatever ran clean in other fittings.
        assert!(all.contains("it failed only once before"), "{all}");
        case.runs.push(case.runs.iter().find(|run| run.failed()).unwrap().clone());
        let all = to_do(&case, &set, Reason::Indistinguishable).join(" ");
        assert!(all.contains("4 h 20 min without an error"), "{all}");
        case.modules[2].known_good = true;
        assert!(!to_do(&case, &set, Reason::Indistinguishable).join(" ").contains("Borrow"));
        assert!(
            answer_words(&case, &set, Reason::Indistinguishable, &str::to_owned)
                .starts_with("One of these: one and two together; ")
        );
    }

    #[test]
    fn contradictions_are_told() {
        let mut case = case();
        assert_eq!(contradictions(&case), [""; 0]);
        case.modules.push(KnownModule::of("one"));
        case.runs.push(run(&[("A1", "one"), ("A1", "two"), ("B1", "one")], Evidence::Clean));
        case.runs.push(run(&[("A1", "one")], Evidence::Errors(Place::Unknown)));
        let all = contradictions(&case);
        assert_eq!(all.len(), 4, "{all:?}");
        assert!(all[1].starts_with("Run 3 has two modules in A1") && all[3].contains("both passed and failed"));
    }
}
