//! What a job came to, in words.

use revisum_diagnose::isolate::{Case, Evidence, KnownModule, Odds, Place, Reason, RunFact, Suspect, to_do};
use revisum_words::advice::{action, answer};
use rstest::rstest;

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
#[case(Suspect::Module("two".into()), "Replace it")]
#[case(Suspect::Slot("A1".into()), "Leave it empty")]
#[case(Suspect::Settings, "at most 0.05 V")]
#[case(Suspect::NoPart, "Buy nothing")]
#[case(Suspect::Controller, "mainboard or the processor")]
#[case(Suspect::Pair("one".into(), "two".into()), "matched set")]
fn what_to_do_ends_with_the_proof(#[case] suspect: Suspect, #[case] words: &str) {
    let all: Vec<String> = to_do(&case(), &named(suspect.clone()), Reason::Confident).iter().map(action).collect();
    assert!(all.join(" ").contains(words), "{all:?}");
    assert!(all.last().unwrap().contains("Prove the repair"));
    assert!(all.last().unwrap().contains("no arrangement failed more than once"), "{all:?}");
    assert!(answer(&case(), &named(suspect), Reason::Confident, &str::to_owned).contains("very likely"));
}

#[test]
fn an_open_end_names_all() {
    let set = [Suspect::Pair("one".into(), "two".into()), Suspect::Controller]
        .map(|suspect| Odds { suspect, probability: 0.5 });
    let mut case = case();
    case.runs.push(case.runs.iter().find(|run| run.failed()).unwrap().clone());
    let all: Vec<String> = to_do(&case, &set, Reason::Indistinguishable).iter().map(action).collect();
    assert!(all.join(" ").contains("4 h 20 min without an error"), "{all:?}");
    let words = answer(&case, &set, Reason::Indistinguishable, &str::to_owned);
    assert!(words.starts_with("One of these: one and two together; "), "{words}");
}
