//! The failing cell as a witness: what failed again after a move went with the module or stayed with the slot.
//!
//! Two runs can be compared where a failure is known by cell or line in both: the same module in another slot, or another module in the
//! same slot. Each comparison is one observation; a cause says how likely it makes that the same failed again.

use super::bench::{Bench, BenchRun, Fit};
use super::cause::{Hypothesis, Kind, Part};
use super::fact::{Mark, MarkClass};

/// What was compared.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum About {
    /// A module that failed in another slot before.
    Moved(u8),
    /// A slot in which another module failed before.
    Stayed(u8),
}

/// One comparison with earlier runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Relation {
    pub about: About,
    pub class: MarkClass,
    /// The same failed again.
    pub same: bool,
}

/// A failure by index.
struct Seen<'a> {
    slot: u8,
    module: u8,
    mark: &'a Mark,
}

/// What each run has in common with those before it.
pub(super) fn relations(bench: &Bench<'_>) -> Vec<Vec<Relation>> {
    let mut before: Vec<Seen<'_>> = Vec::new();
    let mut all = Vec::new();
    for (fact, run) in bench.case.runs.iter().zip(&bench.runs) {
        let mut own = Vec::new();
        if !run.struck {
            own.extend(said(bench, fact.signs.same_cells.as_deref()));
            let seen: Vec<Seen<'_>> = fact.marks.iter().filter_map(|mark| seen(bench, run, mark)).collect();
            own.extend(compared(&seen, &before));
            before.extend(seen);
        }
        all.push(own);
    }
    all
}

/// What somebody else compared already.
fn said(bench: &Bench<'_>, same_cells: Option<&str>) -> Option<Relation> {
    let module = bench.module(same_cells?)?;
    Some(Relation { about: About::Moved(module), class: MarkClass::Cells, same: true })
}

fn seen<'a>(bench: &Bench<'_>, run: &BenchRun, mark: &'a Mark) -> Option<Seen<'a>> {
    let slot = bench.slot(&mark.slot)?;
    let module = run.fit.module_in[usize::from(slot)]?;
    Some(Seen { slot, module, mark })
}

/// For each module that moved and each slot with another module what it has in common with before: cells where the same failed, else lines
/// where both runs tell them, else cells.
fn compared(now: &[Seen<'_>], before: &[Seen<'_>]) -> Vec<Relation> {
    let mut about: Vec<About> =
        now.iter().flat_map(|one| [About::Moved(one.module), About::Stayed(one.slot)]).collect();
    about.sort();
    about.dedup();
    let relation = |about: About| {
        let cells = same_again(about, MarkClass::Cells, now, before);
        let lines = same_again(about, MarkClass::Lines, now, before);
        let (class, same) = match (cells, lines) {
            (Some(true), _) | (Some(false), None) => (MarkClass::Cells, cells?),
            (_, lines) => (MarkClass::Lines, lines?),
        };
        Some(Relation { about, class, same })
    };
    about.into_iter().filter_map(relation).collect()
}

/// Whether the same failed again; nothing where there is nothing to compare.
fn same_again(about: About, class: MarkClass, now: &[Seen<'_>], before: &[Seen<'_>]) -> Option<bool> {
    let mut same = None;
    for one in now.iter().filter(|one| one.mark.class == class) {
        let other = |old: &&Seen<'_>| {
            old.mark.class == class
                && match about {
                    About::Moved(module) => one.module == module && old.module == module && old.slot != one.slot,
                    About::Stayed(slot) => one.slot == slot && old.slot == slot && old.module != one.module,
                }
        };
        for old in before.iter().filter(other) {
            same = Some(same.unwrap_or(false) || old.mark.id == one.mark.id);
        }
    }
    same
}

/// How likely a cause makes what was compared.
pub(super) fn factor(bench: &Bench<'_>, hypothesis: &Hypothesis, relations: &[Relation], fit: &Fit) -> f64 {
    let each = relations.iter().map(|relation| {
        let parts = hypothesis.parts().iter().map(|part| same(bench, *part, *relation, fit));
        let same = parts.fold(0.0, f64::max);
        if relation.same { same } else { 1.0 - same }
    });
    each.product()
}

/// Probability that the same failed again.
fn same(bench: &Bench<'_>, part: Part, relation: Relation, fit: &Fit) -> f64 {
    let by = &bench.priors.witness;
    let chance = match relation.class {
        MarkClass::Cells => by.chance_cells,
        MarkClass::Lines => by.chance_lines,
    };
    match relation.about {
        About::Moved(module) => match part.kind {
            Kind::Module(own) | Kind::Unreached(own) if own == module => match relation.class {
                MarkClass::Cells => by.cells_follow,
                MarkClass::Lines => by.lines_follow,
            },
            Kind::Combination { module: own, .. } if own == module => by.partly,
            Kind::Pair(a, b) if a == module || b == module => by.partly,
            Kind::Settings { weakest, .. } if weakest == module => by.partly,
            Kind::TooMany { .. } | Kind::Kits { .. } => by.partly.min(0.3),
            _ => chance,
        },
        About::Stayed(slot) => match (part.kind, relation.class) {
            (Kind::Slot(own), MarkClass::Lines) if own == slot => by.lines_stay,
            (Kind::Channel(own), MarkClass::Lines) if own == bench.channel[usize::from(slot)] => by.lines_stay,
            (Kind::Slot(own), MarkClass::Cells) if own == slot => by.partly.min(0.3),
            (Kind::Controller { nearest, .. }, _) if nearest == slot && fit.count > 0 => by.partly.max(chance),
            _ => chance,
        },
    }
}
