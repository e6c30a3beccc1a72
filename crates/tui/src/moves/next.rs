//! The open step of the present stage: what Enter does wherever there is nothing else to do, and what it says.

use revisum_engine::recipe::{Depth, Recipe};
use revisum_record::journal::{JobEntry, Stage, Tick};
use revisum_words as words;
use revisum_words::Said as _;

use super::{dark, declare, start, steps};
use crate::dialogs::choice::Choice;
use crate::room::step::{Ask, Entry, Step, does, says};
use crate::room::view::View;
use crate::say;
use crate::shared::effect::Effect;
use crate::shared::state::Shared;

/// What Enter does, in words.
pub fn words(shared: &Shared) -> String {
    match before_a_run(shared) {
        Some(Before::Starts) => return say::key_no_start().to_owned(),
        Some(Before::Fitted) => return say::key_fitted_as_planned().to_owned(),
        Some(Before::Declare) => return say::key_declare_slots().to_owned(),
        None if shared.planned_matches() => return say::key_start_planned().to_owned(),
        None => {}
    }
    match ending(shared) {
        Some(Ending::Order) => return say::key_replacement().to_owned(),
        Some(Ending::Await) => return say::key_part_arrived().to_owned(),
        Some(Ending::Install) => return say::key_how_to_install().to_owned(),
        Some(Ending::PutBack) => return say::key_put_back().to_owned(),
        Some(Ending::Prove) => {
            let hands = shared.leaves_with().is_some_and(|stays| shared.needs_hands(&stays));
            return match (hands, proof_depth(shared)) {
                (true, _) => say::key_install_prove().to_owned(),
                (false, depth) => say::key_prove(depth.said()),
            };
        }
        Some(Ending::Suspects) => return say::key_list_read().to_owned(),
        Some(Ending::Confirm(tick)) => return say::key_confirm(tick.said()),
        Some(Ending::HandOver) => return say::key_hand_over().to_owned(),
        Some(Ending::Over) => return say::key_show_report().to_owned(),
        None => {}
    }
    if tests_as_installed(shared) {
        return say::key_test_arrangement().to_owned();
    }
    match shared.proposal() {
        Some(_) if shared.facts.can_move => say::key_do_step().to_owned(),
        Some(next) if !shared.needs_hands(next) => say::key_just_run().to_owned(),
        Some(_) => say::key_write_step().to_owned(),
        None => say::key_run(depth(shared).map_or_else(|| shared.chosen.words(), |depth| depth.said().to_owned())),
    }
}

/// Does the open step.
pub fn proceed(shared: &Shared) -> Step {
    match before_a_run(shared) {
        Some(Before::Starts) if shared.facts.dark.is_some() => return dark::dark(shared, None),
        Some(Before::Starts) => return dark::ask(shared),
        Some(Before::Fitted) => return steps::fitted_as_planned(shared),
        Some(Before::Declare) => return declare::ask_slots(shared),
        None if shared.planned_matches() => return steps::begin_planned(shared),
        None => {}
    }
    match ending(shared) {
        Some(Ending::Order) => return order(shared),
        Some(Ending::Await) => return arrived(shared),
        Some(Ending::Install) => return says(say::course_install()),
        Some(Ending::PutBack) => return put_back(shared),
        Some(Ending::Prove) => return prove(shared),
        Some(Ending::Suspects) => return tick(shared, Tick::SuspectsRead, true),
        Some(Ending::Confirm(next)) => return tick(shared, next, true),
        Some(Ending::HandOver) => return hand_over(shared),
        Some(Ending::Over) => return vec![Ask::Go(Entry::Plain(View::Report))],
        None => {}
    }
    if tests_as_installed(shared) {
        return start::chosen(shared);
    }
    match (shared.proposal(), depth(shared)) {
        (Some(next), _) => steps::follow(shared, next),
        (None, Some(depth)) => start::depth(shared, depth),
        (None, None) => start::chosen(shared),
    }
}

/// Whether it tests the modules as a person has put them, instead of the step that is proposed.
pub fn tests_as_installed(shared: &Shared) -> bool {
    let open = before_a_run(shared).is_none() && !shared.planned_matches() && ending(shared).is_none();
    let has_modules = shared.facts.board.modules().next().is_some();
    open && has_modules && shared.has_suspicion() && shared.moved_since_last_run()
}

/// What has to be said before anything can be run.
#[derive(Clone, Copy)]
enum Before {
    /// Whether the machine starts.
    Starts,
    /// That modules were moved as it was written down.
    Fitted,
    /// Which slots there are.
    Declare,
}

fn before_a_run(shared: &Shared) -> Option<Before> {
    let facts = &shared.facts;
    // A board without modules is passed through while they are moved: it starts nothing, and says nothing of anything.
    if facts.dark.is_some() && !facts.dark_noted && facts.board.modules().next().is_some() {
        return Some(Before::Starts);
    }
    let not_as_planned = facts.plan.as_ref().is_some_and(|(_, differences)| !differences.is_empty());
    match () {
        () if facts.board.is_declared() && !facts.can_move && not_as_planned => Some(Before::Fitted),
        () if !facts.elsewhere => None,
        // Nothing can be run from here: what is done is declared, and what it comes to.
        () if facts.board.slots.is_empty() => Some(Before::Declare),
        () if shared.planned_matches() || facts.advice.is_none() => Some(Before::Starts),
        () => None,
    }
}

/// The same on screens that do not show the step: one that is more than a run is shown first.
pub fn words_elsewhere(shared: &Shared) -> String {
    match () {
        () if shared.facts.saved => say::key_back_board().to_owned(),
        () if is_to_be_seen(shared) => say::key_run(shared.chosen.words()),
        () if is_shown_first(shared) => say::key_what_next().to_owned(),
        () => words(shared),
    }
}

/// What Enter does there.
pub fn proceed_elsewhere(shared: &Shared) -> Step {
    match () {
        () if shared.facts.saved => vec![Ask::Go(Entry::Plain(View::Board))],
        () if is_to_be_seen(shared) => start::chosen(shared),
        () if is_shown_first(shared) => vec![Ask::Go(Entry::Plain(View::Swap))],
        () => proceed(shared),
    }
}

/// Whether the machine came in with a run that failed, and nothing was run at this bench yet: before modules are moved it is run as it came.
fn is_to_be_seen(shared: &Shared) -> bool {
    let came_in = shared.facts.trials.len() == 1 && !shared.moved_since_last_run();
    came_in && shared.run.is_none() && shared.stage() == Some(Stage::Found) && shared.facts.plan.is_none()
}

fn is_shown_first(shared: &Shared) -> bool {
    !shared.planned_matches() && (shared.has_suspicion() || ending(shared).is_some())
}

/// What is left to do once it is known what it is, or that it is nothing.
#[derive(Clone, Copy)]
enum Ending {
    Order,
    Await,
    Install,
    PutBack,
    Prove,
    Suspects,
    Confirm(Tick),
    HandOver,
    Over,
}

fn ending(shared: &Shared) -> Option<Ending> {
    let course = &shared.facts.course;
    let confirm = course.to_confirm.iter().find(|(_, done)| !done).map(|(tick, _)| Ending::Confirm(*tick));
    match shared.stage() {
        // A job of which no record was made yet has no stages.
        None => (!course.stations.is_empty()).then_some(Ending::Over),
        // It may be closed before its time.
        Some(_) if shared.facts.closed.is_some() => Some(Ending::Over),
        Some(Stage::Ordered) => Some(Ending::Order),
        Some(Stage::Fitted) if course.awaits_part && course.part_arrived => Some(Ending::Install),
        Some(Stage::Fitted) if course.awaits_part => Some(Ending::Await),
        Some(Stage::Proved) if course.proof_given_up => confirm.or(Some(Ending::HandOver)),
        Some(Stage::Fitted) if course.leaves_as_it_came => Some(Ending::PutBack),
        Some(Stage::Fitted | Stage::Proved) if course.leaves.is_some() => Some(Ending::Prove),
        Some(Stage::Fitted | Stage::Proved) => confirm.or(Some(Ending::HandOver)),
        Some(Stage::Suspects) => Some(Ending::Suspects),
        Some(Stage::Restored) => confirm,
        Some(Stage::HandedOver) => Some(Ending::HandOver),
        Some(Stage::Complaint | Stage::Shown | Stage::NotShown | Stage::Found | Stage::RuledOut) => None,
    }
}

/// The depth of the next run while nothing failed, unless something else was chosen by hand.
fn depth(shared: &Shared) -> Option<Depth> {
    shared.facts.course.next_depth.filter(|_| !shared.chosen.changed)
}

/// Somebody confirms something, or takes it back.
pub fn tick(shared: &Shared, tick: Tick, done: bool) -> Step {
    does(Effect::Decide(Box::new(JobEntry::Ticked { tick, done, wall_ms: shared.wall_ms })))
}

/// What goes in place of the part that has to go.
fn order(shared: &Shared) -> Step {
    let gone: Vec<String> = shared.facts.course.gone.iter().map(|id| shared.facts.name_of(id)).collect();
    let here = tick(shared, Tick::Ordered, true).into_iter().chain(arrived(shared)).collect();
    let lines = vec![
        (say::order_ordered().to_owned(), tick(shared, Tick::Ordered, true)),
        (say::order_here().to_owned(), here),
        (say::order_nothing().to_owned(), tick(shared, Tick::NothingOrdered, true)),
    ];
    Choice::open(say::order_title(gone.join(say::order_and())), lines, "")
}

fn arrived(shared: &Shared) -> Step {
    does(Effect::Decide(Box::new(JobEntry::Arrived { module: None, wall_ms: shared.wall_ms })))
}

/// A night where a survey would be over long before.
const LONG_PROOF_S: f64 = 2.0 * 3600.0;

fn proof_depth(shared: &Shared) -> Depth {
    if shared.facts.course.proof_left_s > LONG_PROOF_S { Depth::Overnight } else { Depth::Survey }
}

/// Puts in what stays and proves it.
fn prove(shared: &Shared) -> Step {
    let Some(stays) = shared.leaves_with() else { return Vec::new() };
    let chosen = shared.chosen.of_depth(&shared.facts, proof_depth(shared));
    let recipe = Recipe { range: None, memory: None, ..chosen.recipe.clone() };
    let mut step = vec![Ask::Choose(Box::new(chosen))];
    step.extend(steps::follow_with(shared, &stays, recipe));
    step
}

/// Everything goes back as it came in: by the program where it can, by declaring it where nothing tells; else it is said how.
fn put_back(shared: &Shared) -> Step {
    let Some(back) = shared.leaves_with() else { return Vec::new() };
    if shared.facts.can_move || shared.facts.declares {
        let mut step = vec![Ask::Do(Effect::Refit(back.placement.clone()))];
        if shared.facts.can_move && !back.settings.is_empty() && back.settings != shared.facts.settings {
            step.push(Ask::Do(Effect::Set(back.settings)));
        }
        return step;
    }
    let (now, name) = (shared.facts.board.known_placement(), |id: &str| shared.facts.name_of(id));
    says(words::card::steps(&back, &shared.scene(&now, &name)).join(" "))
}

/// The machine goes: its answer is written down, and its report.
fn hand_over(shared: &Shared) -> Step {
    let mut step = close(shared);
    step.push(Ask::Do(Effect::WriteReport(None)));
    step.push(Ask::Go(Entry::Plain(View::Report)));
    step
}

/// The job is done, with its answer written down, and what of it was not proved.
pub fn close(shared: &Shared) -> Step {
    let name = |id: &str| shared.facts.name_of(id);
    let answer = match shared.answer() {
        Some((named, reason)) => words::advice::answer(&shared.facts.case, named, reason, &name),
        None if shared.has_suspicion() => say::close_not_named().to_owned(),
        None if shared.facts.case.record_damaged => say::close_damaged().to_owned(),
        None => say::close_no_error().to_owned(),
    };
    let proved = shared.facts.course.is_done(Stage::Proved);
    let open = shared.has_suspicion() && proved != Some(true);
    let answer = if open { format!("{answer} {}", say::close_unproved()) } else { answer };
    does(Effect::Decide(Box::new(JobEntry::Closed { answer })))
}
