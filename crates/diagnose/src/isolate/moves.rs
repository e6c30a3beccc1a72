//! Why the odds are as they are: which run moved which suspicion by how much.

use super::bench::Bench;
use super::case::Case;
use super::cause::Space;
use super::posterior::{Named, Odds, summed, take};
use super::suspect::Suspect;

/// What one run did to one suspicion.
#[derive(Clone, Debug, PartialEq)]
pub struct Move {
    /// The suspect that it moved most.
    pub suspect: Suspect,
    /// Its probability before the run.
    pub before: f64,
    /// Its probability after.
    pub after: f64,
}

/// Less is not worth a word.
const LEAST: f64 = 0.05;

/// For each run of the case what it moved most; nothing where it moved hardly anything or was struck out.
pub fn moves(case: &Case) -> Vec<Option<Move>> {
    let bench = Bench::new(case);
    let mut space = Space::new(&bench);
    let mut named = Named::new();
    let mut odds = summed(&space);
    let mut all = Vec::new();
    for (at, run) in bench.runs.iter().enumerate() {
        let before = at.checked_sub(1).map(|before| &bench.runs[before].fit);
        take(&bench, &mut space, &mut named, before, run, at == bench.first);
        let after = summed(&space);
        all.push(most(&odds, &after));
        odds = after;
    }
    all
}

fn most(before: &[Odds], after: &[Odds]) -> Option<Move> {
    let was =
        |suspect: &Suspect| before.iter().find(|odds| odds.suspect == *suspect).map_or(0.0, |odds| odds.probability);
    let each = after.iter().map(|odds| Move {
        suspect: odds.suspect.clone(),
        before: was(&odds.suspect),
        after: odds.probability,
    });
    let size = |one: &Move| (one.after - one.before).abs();
    each.max_by(|a, b| size(a).total_cmp(&size(b))).filter(|one| size(one) >= LEAST)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::isolate::{Evidence, KnownModule, Place, RunFact};

    #[test]
    fn the_run_that_moved_most_is_known() {
        let both = vec![("A1".to_owned(), "green".to_owned()), ("B1".to_owned(), "red".to_owned())];
        let errors =
            |placement| RunFact { evidence: Evidence::Errors(Place::Unknown), ..RunFact::clean(placement, 40.0, 4.0) };
        let mut struck = errors(both.clone());
        struck.struck = true;
        let runs = vec![errors(both), RunFact::clean(vec![("A1".into(), "green".into())], 40.0, 4.0), struck];
        let case = Case { modules: ["green", "red"].map(KnownModule::of).into(), runs, ..Case::default() };
        let all = moves(&case);
        let second = all[1].as_ref().unwrap();
        let rises = second.suspect == Suspect::Module("red".into());
        assert!(rises || second.suspect == Suspect::Module("green".into()), "{second:?}");
        assert_eq!(second.after > second.before, rises, "{second:?}");
        assert_eq!(all[2], None, "a struck run moves nothing");
    }
}
