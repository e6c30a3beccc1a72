use rstest::rstest;

use super::*;
use crate::controller::ShownChannels;

fn case(runs: Vec<RunFact>) -> Case {
    let slot = |id: &str| KnownSlot { id: id.into(), channel: Some(id[..1].into()), soldered: false };
    Case {
        slots: ["A1", "A2", "B1", "B2"].map(slot).into(),
        modules: ["green", "red"].map(KnownModule::of).into(),
        map_known: true,
        runs,
        ..Case::default()
    }
}

fn run(placement: &[(&str, &str)], passes: f64, evidence: Evidence) -> RunFact {
    let placement = placement.iter().map(|(slot, module)| ((*slot).into(), (*module).into())).collect();
    RunFact { evidence, ..RunFact::clean(placement, passes * 10.0, passes) }
}

fn errors(slot: &str) -> Evidence {
    Evidence::Errors(Place::Slot(slot.into()))
}

const ERRORS: Evidence = Evidence::Errors(Place::Unknown);

fn leader(runs: Vec<RunFact>) -> Odds {
    odds(&case(runs)).remove(0)
}

const BOTH: [(&str, &str); 2] = [("A1", "green"), ("B1", "red")];
const CROSSED: [(&str, &str); 2] = [("A1", "red"), ("B1", "green")];

#[rstest]
#[case::named_by_the_map(vec![run(&BOTH, 1.0, errors("B1"))], 0.4, 0.8)]
#[case::clean_without_it(vec![run(&BOTH, 1.0, errors("B1")), run(&[("A1", "green")], 1.0, Evidence::Clean)], 0.4, 0.85)]
#[case::it_went_with_the_module(vec![run(&BOTH, 1.0, errors("B1")), run(&CROSSED, 1.0, errors("A1"))], 0.8, 0.95)]
#[case::and_clean_without_it(
    vec![run(&BOTH, 1.0, errors("B1")), run(&[("A1", "red")], 1.0, ERRORS), run(&[("A1", "green")], 2.0, Evidence::Clean)],
    0.9, 1.0)]
fn the_red_module(#[case] runs: Vec<RunFact>, #[case] least: f64, #[case] most: f64) {
    let leader = leader(runs);
    assert_eq!(leader.suspect, Suspect::Module("red".into()));
    assert!((least..=most).contains(&leader.probability), "{}", leader.probability);
}

#[test]
fn what_stays_when_both_modules_moved_is_the_slot() {
    let moved = run(&CROSSED, 1.0, errors("B1"));
    let leader = leader(vec![run(&BOTH, 1.0, errors("B1")), moved.clone(), moved]);
    assert_eq!(leader.suspect, Suspect::Slot("B1".into()));
}

#[test]
fn gone_after_reseating_is_no_part() {
    let mut runs = vec![run(&BOTH, 1.0, errors("B1")), run(&[("A1", "green")], 1.0, Evidence::Clean)];
    runs.push(run(&BOTH, 8.0, Evidence::Clean));
    assert_eq!(leader(runs).suspect, Suspect::NoPart);
}

#[test]
fn a_struck_run_proves_nothing_but_touched_what_it_touched() {
    let first = run(&BOTH, 1.0, errors("B1"));
    let mut struck = run(&CROSSED, 1.0, errors("A1"));
    struck.struck = true;
    let none = odds(&case(vec![first.clone()]));
    let with = odds(&case(vec![first, struck]));
    assert_eq!(none, with);
}

#[rstest]
#[case::in_profile("profile", Suspect::Settings)]
#[case::in_stock("stock", Suspect::Module("red".into()))]
fn settings_are_weighed_where_there_is_a_choice(#[case] failing: &str, #[case] expected: Suspect) {
    let with = |settings: &str, evidence| RunFact { settings: settings.into(), ..run(&BOTH, 4.0, evidence) };
    let mut runs = vec![
        with("profile", errors("B1")),
        with("stock", Evidence::Clean),
        with("profile", Evidence::Errors(Place::Spread)),
    ];
    if failing == "stock" {
        runs = vec![with("profile", errors("B1")), with("stock", errors("B1")), with("stock", errors("B1"))];
    }
    let case = Case { settings: vec!["profile".into(), "stock".into()], ..case(runs) };
    assert_eq!(odds(&case)[0].suspect, expected);
}

#[test]
fn odds_add_up_to_one() {
    let odds = odds(&case(vec![run(&BOTH, 1.0, errors("B1"))]));
    assert!((odds.iter().map(|odds| odds.probability).sum::<f64>() - 1.0).abs() < 1e-9);
}

#[test]
fn without_errors_there_is_nothing_to_find() {
    let advice = advise(&case(vec![run(&BOTH, 1.0, Evidence::Clean)]));
    assert_eq!(advice.verdict, Verdict::NothingToFind);
    assert_eq!(advise(&case(Vec::new())).verdict, Verdict::NothingToFind);
}

#[test]
fn following_the_advice_names_the_bad_module_and_not_a_good_one() {
    let mut case = case(vec![run(&BOTH, 1.0, errors("B1"))]);
    for step in 0.. {
        assert!(step < 8, "no verdict after {step} steps: {:?}", advise(&case));
        match advise(&case).verdict {
            Verdict::Done { named, reason } => {
                assert_eq!((named[0].suspect.clone(), reason), (Suspect::Module("red".into()), Reason::Confident));
                assert!(step >= 2, "one run more is not a proof");
                return;
            }
            Verdict::NothingToFind | Verdict::NotWhole => panic!("there were errors"),
            Verdict::Open(step) => {
                let next = step.next;
                let home = next.placement.iter().find(|(_, module)| module == "red").map(|(slot, _)| slot.clone());
                let evidence = match home {
                    Some(slot) if next.placement.len() > 1 => errors(&slot),
                    Some(_) => ERRORS,
                    None => Evidence::Clean,
                };
                let clean = RunFact::clean(next.placement, next.minutes, next.passes);
                case.runs.push(RunFact { evidence, reseat: next.reseat, ..clean });
            }
        }
    }
}

#[test]
fn the_forecast_says_who_would_lead() {
    let Verdict::Open(step) = advise(&case(vec![run(&BOTH, 1.0, errors("B1"))])).verdict else {
        panic!("one run is not enough")
    };
    let Proposal { next, if_errors, if_clean, .. } = *step;
    assert_ne!(if_errors.leader.suspect, if_clean.leader.suspect, "the step tells them apart");
    assert!((if_errors.probability + if_clean.probability - 1.0).abs() < 1e-9);
    let again = forecast(&case(vec![run(&BOTH, 1.0, errors("B1"))]), &next).unwrap();
    assert_eq!(again, (if_errors, if_clean));
}

/// Whatever was run, in whatever order, with names that nobody knows: odds come out, and advice that can be followed.
#[test]
fn no_history_is_too_odd() {
    let mut state = 7u32;
    let mut next = |below: u32| {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        (state >> 16) % below
    };
    let (slots, modules) = (["A1", "A2", "B1", "Z9"], ["green", "red", "stranger", ""]);
    for _ in 0..60 {
        let runs = (0..next(9)).map(|_| {
            let placed =
                (0..next(5)).map(|_| (slots[next(4) as usize].to_owned(), modules[next(4) as usize].to_owned()));
            let placement = placed.collect();
            let evidence = match next(5) {
                0 => Evidence::Clean,
                1 => ERRORS,
                2 => Evidence::Dark,
                3 => Evidence::Errors(Place::Spread),
                _ => errors(slots[next(4) as usize]),
            };
            let clean = RunFact::clean(placement, f64::from(next(3000)) - 5.0, f64::from(next(40)) / 4.0 - 0.5);
            RunFact { evidence, struck: next(6) == 0, reseat: vec![modules[next(4) as usize].into()], ..clean }
        });
        let case = case(runs.collect());
        let advice = advise(&case);
        assert!(advice.odds.iter().all(|odds| odds.probability.is_finite()), "{case:?}");
        if let Verdict::Open(step) = advice.verdict {
            let next = step.next;
            assert!(!next.placement.is_empty() && next.minutes.is_finite() && next.hands_minutes >= 0.0);
            let mut seen: Vec<&String> = next.placement.iter().flat_map(|(slot, module)| [slot, module]).collect();
            let all = seen.len();
            seen.sort();
            seen.dedup();
            assert_eq!(seen.len(), all, "a slot or a module comes twice");
        }
    }
}

/// The probability of a suspect.
fn chance(case: &Case, suspect: &Suspect) -> f64 {
    odds(case).iter().find(|odds| odds.suspect == *suspect).map_or(0.0, |odds| odds.probability)
}

fn red() -> Suspect {
    Suspect::Module("red".into())
}

fn first_failed() -> RunFact {
    run(&BOTH, 1.0, errors("B1"))
}

#[rstest]
#[case::cells_speak_for_silicon(Signs { look: Some(Look::Cells), ..Signs::default() }, red(), true)]
#[case::lanes_speak_for_contacts(Signs { look: Some(Look::Lanes), ..Signs::default() }, Suspect::Slot("B1".into()), true)]
#[case::an_address_line_does_not_speak_for_the_module(Signs { look: Some(Look::Addresses), ..Signs::default() }, red(), false)]
#[case::scattered_bits_speak_for_the_controller(Signs { look: Some(Look::Scattered), ..Signs::default() }, Suspect::Controller, true)]
#[case::the_same_cells_in_another_slot(Signs { same_cells: Some("red".into()), ..Signs::default() }, red(), true)]
fn signs_move_the_odds(#[case] signs: Signs, #[case] suspect: Suspect, #[case] up: bool) {
    let plain = case(vec![first_failed()]);
    let told = case(vec![RunFact { signs, ..first_failed() }]);
    let (before, after) = (chance(&plain, &suspect), chance(&told, &suspect));
    assert_eq!(after > before, up, "{before} {after}");
    assert!((after - before).abs() > 0.01, "{before} {after}");
}

#[test]
fn a_look_counts_once_however_often_it_is_seen() {
    let signs = Signs { look: Some(Look::Lanes), ..Signs::default() };
    let seen = RunFact { signs, ..first_failed() };
    let once = case(vec![seen.clone(), first_failed()]);
    let twice = case(vec![seen.clone(), seen]);
    assert_eq!(odds(&once), odds(&twice));
}

/// A clean run that stayed cold, or had another load, says less; so the suspect that was out of it gains less.
#[rstest]
#[case::cold(RunFact { signs: Signs { celsius: Some(30.0), ..Signs::default() }, ..without_red() })]
#[case::another_load(RunFact { load: Load::Patterns, ..without_red() })]
fn clean_runs_under_easier_conditions_say_less(#[case] easier: RunFact) {
    let hot = Signs { celsius: Some(70.0), ..Signs::default() };
    let failed = RunFact { signs: hot.clone(), load: Load::Computing, ..run(&BOTH, 4.0, ERRORS) };
    let same = RunFact { signs: hot, load: Load::Computing, ..without_red() };
    assert!(chance(&case(vec![failed.clone(), same]), &red()) > chance(&case(vec![failed, easier]), &red()) + 0.01);
}

fn without_red() -> RunFact {
    run(&[("A1", "green")], 12.0, Evidence::Clean)
}

/// What happened at the owner's says something, and less than a run does.
#[rstest]
#[case::stayed_away(Evidence::Clean, true)]
#[case::came_back(ERRORS, false)]
fn the_complaint_of_the_owner_counts(#[case] evidence: Evidence, #[case] up: bool) {
    let at_owner =
        |minutes| RunFact { minutes, evidence: evidence.clone(), ..without_red() }.by_owner(&Priors::default());
    let plain = case(vec![first_failed()]);
    let told = case(vec![first_failed(), at_owner(3000.0)]);
    let run = case(vec![first_failed(), RunFact { minutes: 3000.0, evidence: evidence.clone(), ..without_red() }]);
    let (before, after, by_run) = (chance(&plain, &red()), chance(&told, &red()), chance(&run, &red()));
    assert_eq!(after > before, up, "{before} {after}");
    assert!((by_run - before).abs() > (after - before).abs(), "{before} {after} {by_run}");
}

#[rstest]
#[case::clean_there(Some(true), Suspect::Unfit("red".into()))]
#[case::errors_there(Some(false), red())]
#[case::not_tried(None, red())]
fn a_trial_in_another_machine_tells_bad_from_unfit(#[case] elsewhere: Option<bool>, #[case] expected: Suspect) {
    let alone = run(&[("A1", "red")], 2.0, ERRORS);
    let mut case = case(vec![first_failed(), alone.clone(), without_red(), alone]);
    case.modules[1].elsewhere = elsewhere;
    let leader = odds(&case).remove(0);
    assert_eq!(leader.suspect, expected, "{leader:?}");
}

#[rstest]
#[case::refused(vec![["B1".to_owned()].into()], Vec::new())]
#[case::needed(Vec::new(), vec!["A1".to_owned()])]
fn what_the_mainboard_does_not_take_is_never_proposed(
    #[case] refused: Vec<std::collections::BTreeSet<String>>,
    #[case] needed: Vec<String>,
) {
    let plain = case(vec![first_failed()]);
    let bound = Case { refused, needed, ..plain.clone() };
    let proposed = |case: &Case| {
        let advice = advise(case);
        let Verdict::Open(step) = advice.verdict else { panic!("open") };
        let fits = advice.alternatives.into_iter().chain([step.next]).map(|next| next.placement);
        fits.map(|fit| fit.into_iter().map(|(slot, _)| slot).collect::<Vec<_>>()).collect::<Vec<_>>()
    };
    assert!(proposed(&bound).iter().all(|slots| *slots != ["B1"] && bound.takes(slots.iter().map(String::as_str))));
    assert!(
        proposed(&plain).iter().any(|slots| !bound.takes(slots.iter().map(String::as_str))),
        "{:?}",
        proposed(&plain)
    );
}

#[test]
fn a_machine_that_hung_failed_less_surely_than_one_that_read_wrong() {
    let told = |evidence: RunFact| chance(&case(vec![first_failed(), evidence]), &red());
    let alone = run(&[("A1", "red")], 2.0, Evidence::Clean);
    let hung = told(alone.clone().broken_off(&Priors::default()));
    let (clean, wrong) = (told(alone.clone()), told(RunFact { evidence: ERRORS, ..alone }));
    assert!(clean < hung && hung < wrong, "{clean} {hung} {wrong}");
}

fn mark(slot: &str, class: MarkClass, id: &str) -> Mark {
    Mark { slot: slot.into(), class, id: id.into() }
}

/// What failed again is a witness: it went with the module, or stayed with the slot.
#[rstest]
#[case::cells_went_with_the_module(&[("A1", "red")], mark("A1", MarkClass::Cells, "c1"), red())]
#[case::a_line_went_with_the_module(&[("A1", "red")], mark("A1", MarkClass::Lines, "c1"), red())]
#[case::a_line_stayed_with_the_slot(&[("B1", "green")], mark("B1", MarkClass::Lines, "c1"), Suspect::Slot("B1".into()))]
fn what_failed_again_is_a_witness(#[case] moved: &[(&str, &str)], #[case] again: Mark, #[case] suspect: Suspect) {
    let first = |class| RunFact { marks: vec![mark("B1", class, "c1")], ..first_failed() };
    let second = |id: &str| RunFact { marks: vec![Mark { id: id.into(), ..again.clone() }], ..run(moved, 2.0, ERRORS) };
    let odds_of = |id: &str| chance(&case(vec![first(again.class), second(id)]), &suspect);
    let plain = chance(&case(vec![first_failed(), run(moved, 2.0, ERRORS)]), &suspect);
    assert!(odds_of("c1") > plain + 0.005, "{} {plain}", odds_of("c1"));
    assert!(odds_of("c2") < plain - 0.005, "{} {plain}", odds_of("c2"));
}

/// A clean run acquits what it reached, and nothing else.
#[test]
fn what_was_not_reached_is_not_acquitted() {
    let alone =
        |reach: f64| RunFact { reach: vec![("red".into(), reach)], ..run(&[("A1", "red")], 4.0, Evidence::Clean) };
    let after = |reach| chance(&case(vec![first_failed(), alone(reach)]), &red());
    let before = chance(&case(vec![first_failed()]), &red());
    assert!(after(1.0) < before * 0.7, "{} {before}", after(1.0));
    assert!((after(0.0) - before).abs() < 0.1, "{} {before}", after(0.0));
}

/// Two places in one run are two suspects.
#[test]
fn errors_in_two_slots_speak_for_two_faults() {
    let all = [("A1", "green"), ("A2", "blue"), ("B1", "red"), ("B2", "white")];
    let with = |place| {
        let failed = run(&all, 4.0, Evidence::Errors(place));
        Case { modules: ["green", "blue", "red", "white"].map(KnownModule::of).into(), ..case(vec![failed]) }
    };
    let two = Suspect::TwoModules("green".into(), "red".into());
    let several = chance(&with(Place::Several(vec!["A1".into(), "B1".into()])), &two);
    assert!(several > 10.0 * chance(&with(Place::Spread), &two), "{several}");
    // In all of them it is the machine rather than all of its parts.
    let everywhere = odds(&with(Place::Several(all.map(|(slot, _)| slot.into()).to_vec())));
    assert!(matches!(everywhere[0].suspect, Suspect::Controller | Suspect::TooMany), "{:?}", everywhere[0]);
}

/// Errors that came back in later passes were no single event.
#[rstest]
#[case::again(Some(true), false)]
#[case::once(Some(false), true)]
fn an_event_comes_once(#[case] steady: Option<bool>, #[case] up: bool) {
    let told = case(vec![RunFact { steady, ..run(&BOTH, 4.0, errors("B1")) }]);
    let plain = case(vec![run(&BOTH, 4.0, errors("B1"))]);
    let (before, after) = (chance(&plain, &Suspect::NoPart), chance(&told, &Suspect::NoPart));
    assert_eq!(after > before, up, "{before} {after}");
}

/// Whatever leads, mainboard and processor are not named while everything sits where it sat.
#[test]
fn the_controller_is_not_named_before_anything_was_moved() {
    let scattered = Signs { look: Some(Look::Scattered), ..Signs::default() };
    let spread = |placement: &[(&str, &str)]| RunFact {
        signs: scattered.clone(),
        ..run(placement, 4.0, Evidence::Errors(Place::Spread))
    };
    let tilt = Tilt { controller: 100.0, ..Tilt::default() };
    let named = |runs: Vec<RunFact>| {
        let mut case = Case { tilt, ..case(runs) };
        case.priors.stop.at = 0.8;
        let leader = odds(&case).remove(0);
        assert!(leader.suspect == Suspect::Controller && leader.probability > 0.8, "{leader:?}");
        matches!(advise(&case).verdict, Verdict::Done { reason: Reason::Confident, .. })
    };
    assert!(!named(vec![spread(&BOTH); 3]));
    assert!(named([vec![spread(&BOTH); 3], vec![spread(&CROSSED)]].concat()));
}

/// Short runs of the same proof add up.
#[rstest]
#[case::enough(&[2.0, 2.0], None)]
#[case::half(&[2.0], Some(2.0))]
fn proof_adds_up_over_runs(#[case] clean: &[f64], #[case] missing: Option<f64>) {
    let failed = |slot: &str, run: RunFact| RunFact { marks: vec![mark(slot, MarkClass::Cells, "c1")], ..run };
    let mut runs = vec![failed("B1", run(&BOTH, 4.0, errors("B1"))), failed("A1", run(&[("A1", "red")], 4.0, ERRORS))];
    runs.extend(clean.iter().map(|passes| run(&[("A1", "green")], *passes, Evidence::Clean)));
    match (advise(&case(runs)).verdict, missing) {
        (Verdict::Done { reason: Reason::Confident, .. }, None) => {}
        (Verdict::Open(step), Some(missing)) => {
            assert!(step.is_proof && (step.next.passes - missing).abs() < 0.01, "{step:?}");
        }
        (verdict, _) => panic!("{verdict:?}"),
    }
}

/// Two modules, of which nothing tells in which half of the addresses they are: exchanging them shows whether the half with the errors follows.
#[rstest]
#[case::it_follows(1, true)]
#[case::it_stays(0, false)]
fn exchanged_modules_show_whether_the_half_follows(#[case] then: u8, #[case] modules: bool) {
    let placed = |one: &str, other: &str| vec![("X".to_owned(), one.to_owned()), ("Y".to_owned(), other.to_owned())];
    let failed = |placement: Vec<(String, String)>, half: u8| RunFact {
        evidence: Evidence::Errors(Place::Half(half)),
        ..RunFact::clean(placement, 40.0, 4.0)
    };
    let slot = |id: &str| KnownSlot { id: id.into(), channel: None, soldered: false };
    let of_kind = |case: &Case| {
        let odds = advise(case).odds;
        let sum = |wanted: fn(&Suspect) -> bool| -> f64 {
            odds.iter().filter(|odds| wanted(&odds.suspect)).map(|odds| odds.probability).sum()
        };
        [sum(|suspect| matches!(suspect, Suspect::Module(_))), sum(|suspect| matches!(suspect, Suspect::Slot(_)))]
    };
    let mut case = Case {
        slots: ["X", "Y"].map(slot).into(),
        modules: ["one", "two"].map(KnownModule::of).into(),
        halves: Some([vec!["X".into()], vec!["Y".into()]]),
        runs: vec![failed(placed("one", "two"), 0)],
        ..Case::default()
    };
    let before = of_kind(&case);
    let each = |case: &Case| -> Vec<f64> {
        let name = |id: &str| {
            advise(case)
                .odds
                .iter()
                .find(|odds| odds.suspect == Suspect::Module(id.into()))
                .map_or(0.0, |odds| odds.probability)
        };
        vec![name("one"), name("two")]
    };
    // Which of the two it is no half tells by itself.
    assert!((each(&case)[0] - each(&case)[1]).abs() < 1e-9);
    case.runs.push(failed(placed("two", "one"), then));
    let after = of_kind(&case);
    let ratio = |odds: [f64; 2]| odds[0] / odds[1];
    assert_eq!(ratio(after) > 3.0 * ratio(before), modules, "{before:?} {after:?}");
    assert_eq!(ratio(after) < ratio(before) / 3.0, !modules, "{before:?} {after:?}");
}

/// Once an arrangement showed on which channels slots are, the half that errors are in names the modules of one channel.
#[rstest]
#[case::nothing_shown(&[], None)]
#[case::one_slot(&[("A2", 0)], Some(["A1", "B1"]))]
#[case::the_other_way(&[("A1", 1), ("B2", 0)], Some(["B1", "A1"]))]
#[case::contradicting(&[("A1", 0), ("A2", 1)], None)]
fn halves_get_their_names_from_an_arrangement(#[case] shown: &[(&str, u8)], #[case] firsts: Option<[&str; 2]>) {
    let ids = |names: [&str; 2]| names.map(str::to_owned).to_vec();
    let groups = [ids(["A1", "A2"]), ids(["B1", "B2"])];
    let shown = ShownChannels::known(shown.iter().map(|(slot, channel)| ((*slot).to_owned(), *channel)).collect());
    let named = in_order_of_channels(&groups, &shown);
    assert_eq!(named.as_ref().map(|named| [&*named[0][0], &*named[1][0]]), firsts);
    let placement: Vec<(String, String)> =
        ["A1", "A2", "B1", "B2"].map(|slot| (slot.to_owned(), slot.to_lowercase())).into();
    let failed = RunFact { evidence: Evidence::Errors(Place::Half(0)), ..RunFact::clean(placement, 40.0, 4.0) };
    let case = Case {
        slots: ["A1", "A2", "B1", "B2"]
            .map(|id| KnownSlot { id: id.into(), channel: Some(id[..1].to_owned()), soldered: false })
            .into(),
        modules: ["a1", "a2", "b1", "b2"].map(KnownModule::of).into(),
        halves_named: named.is_some(),
        halves: named.or(Some(groups)),
        runs: vec![failed],
        ..Case::default()
    };
    let odds = advise(&case).odds;
    let of = |letter: &str| -> f64 {
        let of_it = |odds: &&Odds| matches!(&odds.suspect, Suspect::Module(id) if id.starts_with(letter));
        odds.iter().filter(of_it).map(|odds| odds.probability).sum()
    };
    match firsts {
        None => assert!((of("a") - of("b")).abs() < 1e-9),
        Some([first, _]) => {
            let (bad, other) = if first == "A1" { (of("a"), of("b")) } else { (of("b"), of("a")) };
            assert!(bad > 3.0 * other, "{bad} {other}");
        }
    }
}
