//! The failing cell as a witness: what failed again after a move went with the module or stayed with the slot.
//!
//! Two runs can be compared where a failure is known by cell or line in both: the same module in another slot, or another module in the
//! same slot. Each comparison is one observation; a cause says how likely it makes that the same failed again.

use super::bench::{Bench, BenchRun, Fit};
use super::cause::{Hypothesis, Kind, Part};
use super::fact::{Mark, MarkClass};

/// What was compared.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
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

fn compared(now: &[Seen<'_>], before: &[Seen<'_>]) -> Vec<Relation> {
    let mut all: Vec<Relation> = Vec::new();
    for one in now {
        for about in [About::Moved(one.module), About::Stayed(one.slot)] {
            let other = |old: &&Seen<'_>| {
                old.mark.class == one.mark.class
                    && match about {
                        About::Moved(module) => old.module == module && old.slot != one.slot,
                        About::Stayed(slot) => old.slot == slot && old.module != one.module,
                    }
            };
            let mut old = before.iter().filter(other).peekable();
            if old.peek().is_none() {
                continue;
            }
            let same = old.any(|old| old.mark.id == one.mark.id);
            let class = one.mark.class;
            // Of several failures the one that is known again counts.
            match all.iter_mut().find(|known| known.about == about && known.class == class) {
                Some(known) => known.same |= same,
                None => all.push(Relation { about, class, same }),
            }
        }
    }
    all
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
