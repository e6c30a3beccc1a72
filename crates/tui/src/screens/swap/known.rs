//! What else may be known, as lines to choose from: modules that are good or were tried elsewhere, what the mainboard does not take, how
//! it went at the owner's, and modules of other jobs that can be borrowed.

use std::collections::BTreeSet;

use revisum_record::journal::{JobEntry, OwnerTold};

use crate::say;
use crate::shared::state::Shared;

/// A line and what it writes down.
#[derive(Clone, Debug)]
pub struct Known {
    /// What it says.
    pub words: String,
    /// What is written down when it is chosen.
    pub entries: Vec<JobEntry>,
}

/// Hours of use by the owner that can be told.
fn hours() -> [(u32, &'static str); 3] {
    [(8, say::known_day()), (50, say::known_week()), (200, say::known_month())]
}
/// Modules offered from other jobs.
const MOST_BORROWED: usize = 12;

/// The lines.
pub fn lines(shared: &Shared) -> Vec<Known> {
    let mut all = Vec::new();
    for module in &shared.facts.case.modules {
        all.extend(of_module(shared, &module.id, module.known_good, module.elsewhere));
    }
    all.extend(of_mainboard(shared));
    all.extend(of_owner(shared));
    all.extend(borrowed(shared));
    all
}

fn of_module(shared: &Shared, id: &str, good: bool, elsewhere: Option<bool>) -> Vec<Known> {
    let name = shared.facts.name_of(id);
    let module = id.to_owned();
    let tried = |clean: bool| {
        let same = elsewhere == Some(clean);
        let how = if clean { say::known_clean() } else { say::known_failed() };
        let entry = JobEntry::TriedElsewhere { module: module.clone(), clean: (!same).then_some(clean) };
        Known { words: say::known_elsewhere(&name, how, noted(same)), entries: vec![entry] }
    };
    let words = say::known_good(&name, noted(good));
    let is_good = Known { words, entries: vec![JobEntry::KnownGood { module: id.to_owned(), good: !good }] };
    vec![is_good, tried(true), tried(false)]
}

fn noted(holds: bool) -> &'static str {
    if holds { say::known_noted() } else { "" }
}

fn of_mainboard(shared: &Shared) -> Vec<Known> {
    let set = |placement: &[(String, String)]| placement.iter().map(|(slot, _)| slot.clone()).collect::<BTreeSet<_>>();
    let proposed = shared.proposal().map(|next| set(&next.placement));
    let mut sets: Vec<BTreeSet<String>> = shared.facts.refused.clone();
    sets.extend(proposed.filter(|slots| !shared.facts.refused.contains(slots)));
    let line = |slots: BTreeSet<String>| {
        let names: Vec<&str> = slots.iter().map(String::as_str).collect();
        let refused = shared.facts.refused.contains(&slots);
        let words =
            say::known_refuses(names.join(", "), noted(refused));
        Known { words, entries: vec![JobEntry::Refused { slots: slots.clone(), refused: !refused }] }
    };
    sets.into_iter().map(line).collect()
}

fn of_owner(shared: &Shared) -> Vec<Known> {
    if shared.facts.trials.is_empty() {
        return Vec::new();
    }
    let told = |came_back, hours| OwnerTold {
        came_back,
        hours,
        placement: shared.facts.board.known_placement(),
        settings: shared.facts.settings.clone(),
    };
    let line = |came_back: bool, (hours, long): (u32, &str)| {
        let how = if came_back { say::known_returned() } else { say::known_not_returned() };
        let words = say::known_complaint(how, long);
        Known { words, entries: vec![JobEntry::OwnerTold { told: told(came_back, hours) }] }
    };
    let [day, week, month] = hours();
    [line(false, day), line(false, week), line(false, month), line(true, day), line(true, week)].into()
}

fn borrowed(shared: &Shared) -> Vec<Known> {
    let own = |serial: &str| shared.facts.case.modules.iter().any(|module| module.id == serial);
    let others = shared.jobs.iter().filter(|job| job.id != shared.facts.job);
    let modules = others.flat_map(|job| job.good.iter().map(move |module| (job, module)));
    let line = |(job, module): (&revisum_records::JobSummary, &revisum_record::fitted::Module)| {
        let words = say::known_borrow(module.name(), &job.machine);
        Known { words, entries: vec![JobEntry::Borrowed { module: module.clone(), from: job.id.clone() }] }
    };
    // Only what can be put into this mainboard at all.
    let fits = |module: &revisum_record::fitted::Module| {
        let mut here = shared.facts.modules.values();
        here.all(|own| own.generation == module.generation && own.form == module.form)
    };
    modules.filter(|(_, module)| !own(&module.serial) && fits(module)).map(line).take(MOST_BORROWED).collect()
}
