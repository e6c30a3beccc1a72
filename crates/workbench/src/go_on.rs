//! Going on with a run that ended early, and repeating what a run showed: whether that can be done here and now.

use revisum_diagnose::repeat::repeat;
use revisum_engine::recipe::Recipe;
use revisum_record::carry::{Carried, Repeated};
use revisum_record::fitted::Board;
use revisum_record::go_on::carried;
use revisum_records::Recorded;
use thiserror::Error;

use crate::say;

/// A recipe with what it goes on with or repeats.
#[derive(Clone, Debug, PartialEq)]
pub struct Start {
    /// What to run.
    pub recipe: Recipe,
    /// What earlier parts came to.
    pub continues: Option<Carried>,
    /// What it repeats.
    pub repeats: Option<Repeated>,
}

impl Start {
    /// A run of its own.
    pub fn new(recipe: Recipe) -> Self {
        Self { recipe, continues: None, repeats: None }
    }
}

/// Why a run cannot be gone on with or repeated.
#[derive(Clone, Debug, Error, PartialEq, Eq)]
pub enum CannotGoOn {
    /// It did all that it was to do, or has no planned end.
    #[error("{}", say::go_on_over(.0))]
    Over(String),
    /// Another run goes on with it already.
    #[error("{}", say::go_on_continued(run, by))]
    Continued {
        /// The run.
        run: String,
        /// The run that goes on with it.
        by: String,
    },
    /// Its own check failed.
    #[error("{}", say::go_on_void(.0))]
    Void(String),
    /// It showed nothing.
    #[error("{}", say::go_on_nothing_shown(.0))]
    NothingShown(String),
    /// Modules sit elsewhere.
    #[error("{}", say::go_on_arrangement(run, then, now))]
    OtherArrangement {
        /// The run.
        run: String,
        /// Modules by slots in it.
        then: String,
        /// Modules by slots now.
        now: String,
    },
    /// Other settings are in force.
    #[error("{}", say::go_on_settings(run, then, now))]
    OtherSettings {
        /// The run.
        run: String,
        /// Settings in it.
        then: String,
        /// Settings now.
        now: String,
    },
}

/// The rest of this run; `others` are runs among which one may go on with it already.
///
/// # Errors
/// When it is over, gone on with, or the machine is not as it was.
pub fn going_on<'a>(
    recorded: &Recorded,
    mut others: impl Iterator<Item = &'a Recorded>,
    board: &Board,
    settings: &str,
) -> Result<Start, CannotGoOn> {
    let continues = |run: &&Recorded| run.state.begin.continues.as_ref().is_some_and(|part| part.run == recorded.id);
    if let Some(by) = others.find(continues) {
        return Err(CannotGoOn::Continued { run: recorded.id.clone(), by: by.id.clone() });
    }
    let judgement = recorded.judgement();
    if judgement.counts.checks_missed > 0 {
        return Err(CannotGoOn::Void(recorded.id.clone()));
    }
    let recipe = recorded.state.begin.recipe.clone().filter(|_| judgement.can_go_on());
    let recipe = recipe.ok_or_else(|| CannotGoOn::Over(recorded.id.clone()))?;
    as_it_was(recorded, board, settings)?;
    let continues = Carried { run: recorded.id.clone(), ..carried(&recorded.state) };
    Ok(Start { recipe, continues: Some(continues), repeats: recorded.state.begin.repeats.clone() })
}

/// What shows again what this run showed.
///
/// # Errors
/// When it showed nothing, or the machine is not as it was.
pub fn repeating(recorded: &Recorded, board: &Board, settings: &str) -> Result<Start, CannotGoOn> {
    let (recipe, of) = repeat(&recorded.state).ok_or_else(|| CannotGoOn::NothingShown(recorded.id.clone()))?;
    as_it_was(recorded, board, settings)?;
    let of = Repeated { run: recorded.id.clone(), ..of };
    Ok(Start { recipe, continues: None, repeats: Some(of) })
}

fn as_it_was(recorded: &Recorded, board: &Board, settings: &str) -> Result<(), CannotGoOn> {
    let begin = &recorded.state.begin;
    let (then, now) = (arrangement(&begin.board), arrangement(board));
    if then != now {
        return Err(CannotGoOn::OtherArrangement {
            run: recorded.id.clone(),
            then: then.join(", "),
            now: now.join(", "),
        });
    }
    let in_force = |board: &Board, settings: &str| match settings.is_empty() {
        true => board.settings_shown().unwrap_or_default().to_owned(),
        false => settings.to_owned(),
    };
    let (then, now) = (in_force(&begin.board, &begin.settings), in_force(board, settings));
    if then != now && !then.is_empty() && !now.is_empty() {
        return Err(CannotGoOn::OtherSettings { run: recorded.id.clone(), then, now });
    }
    Ok(())
}

/// `module in slot` for every slot, in order.
fn arrangement(board: &Board) -> Vec<String> {
    let mut all: Vec<String> =
        board.known_placement().into_iter().map(|(slot, module)| say::module_in_slot_then(module, slot)).collect();
    all.sort_unstable();
    all
}

#[cfg(test)]
mod tests {
    use revisum_engine::news::{EndReason, ErrorReport, TestEnd};
    use revisum_engine::recipe::Depth;
    use revisum_engine::tally::Tally;
    use revisum_record::fitted::{Module, Slot};
    use revisum_record::journal::{Begin, Entry, Framed, Held};
    use revisum_record::outcome::{Judgement, Outcome};
    use revisum_record::run_state::RunState;
    use revisum_records::Standing;
    use rstest::rstest;

    use super::*;

    fn board(fitted: &[(&str, &str)]) -> Board {
        let module = |serial: &str| Some(Module { serial: serial.to_owned(), bytes: 1 << 30, ..Module::default() });
        let slot =
            |(id, serial): &(&str, &str)| Slot { id: (*id).to_owned(), module: module(serial), ..Slot::default() };
        Board { slots: fitted.iter().map(slot).collect(), ..Board::default() }
    }

    const HERE: [(&str, &str); 2] = [("A1", "one"), ("B1", "two")];

    /// A run of one of three passes with these modules, and what came after that pass.
    fn recorded(id: &str, begin: Begin, more: Vec<Entry>) -> Recorded {
        let recipe = Recipe { passes: Some(3), ..Recipe::with_tests(Depth::Triage, vec!["random".into()]) };
        let begin = Begin { recipe: Some(recipe), board: board(&HERE), settings: "stock".into(), ..begin };
        let mut entries = vec![
            Entry::Begin(Box::new(begin)),
            Entry::Held(Held { bytes: 1 << 31, ..Held::default() }),
            Entry::PassBegan { pass: 1, seed: 1 },
            Entry::Planted { pass: 1, test: "random".into(), address: None, caught: true },
            Entry::TestEnded(TestEnd { pass: 1, test: "random".into(), finished: true, ..TestEnd::default() }),
            Entry::PassEnded { pass: 1, complete: true, seconds: 60.0 },
        ];
        entries.extend(more);
        let mut state = RunState::default();
        for (seq, entry) in (0u64..).zip(entries) {
            state.apply(&Framed { journal: id.to_owned(), seq, t_ms: seq, entry });
        }
        let standing = Standing::Over(Judgement::of(&state, false).outcome);
        Recorded { id: id.to_owned(), bytes: 0, records: 0, state, standing }
    }

    fn stopped() -> Entry {
        Entry::Ended { reason: EndReason::Stopped }
    }

    fn wrong() -> Entry {
        let tally = Tally { words: 3, ..Tally::default() };
        Entry::Errors(Box::new(ErrorReport { pass: 1, test: "random".into(), tally }))
    }

    fn missed() -> Entry {
        Entry::Planted { pass: 1, test: "random".into(), address: None, caught: false }
    }

    fn other() -> CannotGoOn {
        let (then, now) = ("one in A1, two in B1".to_owned(), "one in B1, two in A1".to_owned());
        CannotGoOn::OtherArrangement { run: "r".into(), then, now }
    }

    const MOVED: [(&str, &str); 2] = [("A1", "two"), ("B1", "one")];

    #[rstest]
    #[case::stopped(vec![stopped()], &HERE, "stock", None)]
    #[case::broken_off(vec![], &HERE, "stock", None)]
    #[case::with_errors(vec![wrong(), stopped()], &HERE, "stock", None)]
    #[case::settings_unknown_now(vec![stopped()], &HERE, "", None)]
    #[case::other_settings(vec![stopped()], &HERE, "profile", Some(CannotGoOn::OtherSettings { run: "r".into(), then: "stock".into(), now: "profile".into() }))]
    #[case::moved(vec![stopped()], &MOVED, "stock", Some(other()))]
    #[case::void(vec![missed(), stopped()], &HERE, "stock", Some(CannotGoOn::Void("r".into())))]
    #[case::over(vec![Entry::Ended { reason: EndReason::Completed }], &HERE, "stock", Some(CannotGoOn::Over("r".into())))]
    fn a_run_goes_on_where_and_as_it_was(
        #[case] more: Vec<Entry>,
        #[case] now: &[(&str, &str)],
        #[case] settings: &str,
        #[case] refused: Option<CannotGoOn>,
    ) {
        let run = recorded("r", Begin::default(), more);
        let going = going_on(&run, std::iter::empty(), &board(now), settings);
        assert_eq!(going.as_ref().err(), refused.as_ref());
        if let Ok(Start { recipe, continues: Some(part), repeats }) = going {
            assert_eq!((recipe.passes, part.pass, part.passes, part.run.as_str()), (Some(3), 2, 1, "r"));
            assert_eq!(repeats, None);
        }
    }

    /// Each refusal says what to do.
    #[rstest]
    #[case(other(), "Put the modules back")]
    #[case(CannotGoOn::Over("r".into()), "makes a new one")]
    #[case(CannotGoOn::Continued { run: "r".into(), by: "s".into() }, "--continue s")]
    #[case(CannotGoOn::Void("r".into()), "makes a new one")]
    fn refusals_say_what_to_do(#[case] refusal: CannotGoOn, #[case] words: &str) {
        assert!(refusal.to_string().contains(words), "{refusal}");
    }

    #[test]
    fn a_run_is_gone_on_with_once() {
        let first = recorded("r", Begin::default(), vec![stopped()]);
        let going = going_on(&first, std::iter::empty(), &board(&HERE), "stock").unwrap();
        let second = recorded("s", Begin { continues: going.continues, ..Begin::default() }, vec![stopped()]);
        let again = going_on(&first, [&first, &second].into_iter(), &board(&HERE), "stock");
        assert_eq!(again, Err(CannotGoOn::Continued { run: "r".into(), by: "s".into() }));
        // The second part goes on with both.
        let third = going_on(&second, [&first, &second].into_iter(), &board(&HERE), "stock").unwrap();
        assert_eq!(third.continues.map(|part| (part.run, part.passes)), Some(("s".to_owned(), 2)));
    }

    #[rstest]
    #[case::errors(vec![wrong(), stopped()], &HERE, None)]
    #[case::nothing(vec![stopped()], &HERE, Some(CannotGoOn::NothingShown("r".into())))]
    #[case::moved(vec![wrong(), stopped()], &MOVED, Some(other()))]
    fn only_what_was_shown_is_repeated(
        #[case] more: Vec<Entry>,
        #[case] now: &[(&str, &str)],
        #[case] refused: Option<CannotGoOn>,
    ) {
        let run = recorded("r", Begin::default(), more);
        assert_eq!(
            run.standing,
            Standing::Over(if refused.is_none() || now == MOVED { Outcome::ErrorsFound } else { Outcome::CutShort })
        );
        let repeating = repeating(&run, &board(now), "stock");
        assert_eq!(repeating.as_ref().err(), refused.as_ref());
        if let Ok(Start { recipe, repeats: Some(of), continues }) = repeating {
            assert_eq!((recipe.stop_after, of.run.as_str(), continues), (Some(1), "r", None));
        }
    }
}
