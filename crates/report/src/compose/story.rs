//! The story: every run with its arrangement and its result. Runs one after the other that were alike and clean share a row.

use revisum_engine::units::duration_text;
use revisum_record::journal::Start;
use revisum_record::outcome::Grade;

use crate::document::{Block, Table};
use crate::input::{Input, Ran};
use crate::keys::Key;
use revisum_words::{Texts, card, result};

/// A run with its number, or a start before anything was run.
#[derive(Clone, Copy)]
enum Tried<'a> {
    Run(usize, &'a Ran<'a>),
    Start(&'a Start),
}

pub(super) fn blocks(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    let heading = Block::Heading(texts.say(Key::Story));
    let starts = input.job.starts();
    let tried = tried(input.runs, &starts);
    if tried.is_empty() {
        return vec![heading, Block::Paragraph(texts.say(Key::StoryNone))];
    }
    let settings = input.runs.iter().any(|run| run.state.begin.settings != input.runs[0].state.begin.settings);
    let mut columns = vec![(Key::ColRun, 0.05), (Key::ColWhen, 0.18), (Key::ColFitted, 0.3)];
    if settings {
        columns.push((Key::ColSettings, 0.1));
    }
    columns.extend([(Key::ColLong, 0.12), (Key::ColPasses, 0.09), (Key::ColResult, 0.26)]);
    let alike =
        |a: &Tried<'_>, b: &Tried<'_>| matches!((a, b), (Tried::Run(_, a), Tried::Run(_, b)) if shares_row(a, b));
    let rows = tried.chunk_by(alike).map(|alike| match alike {
        [Tried::Start(start), ..] => start_row(input, texts, start, settings),
        runs => row(input, texts, &numbered(runs), settings),
    });
    vec![
        heading,
        Block::Table(Table {
            columns: columns.iter().map(|(key, _)| texts.say(*key)).collect(),
            shares: columns.iter().map(|(_, share)| *share).collect(),
            rows: rows.collect(),
        }),
    ]
}

/// Runs and starts in their order.
fn tried<'a>(runs: &'a [Ran<'a>], starts: &'a [Start]) -> Vec<Tried<'a>> {
    let mut starts = starts.iter().peekable();
    let mut all = Vec::new();
    for (at, run) in runs.iter().enumerate() {
        while let Some(start) = starts.next_if(|start| start.after <= at) {
            all.push(Tried::Start(start));
        }
        all.push(Tried::Run(at + 1, run));
    }
    all.extend(starts.map(Tried::Start));
    all
}

fn numbered<'a>(tried: &[Tried<'a>]) -> Vec<(usize, &'a Ran<'a>)> {
    let run = |one: &Tried<'a>| match one {
        Tried::Run(number, run) => Some((*number, *run)),
        Tried::Start(_) => None,
    };
    tried.iter().filter_map(run).collect()
}

/// A start: it has no number, no length and no passes.
fn start_row(input: &Input<'_>, texts: &Texts, start: &Start, settings: bool) -> Vec<String> {
    let result = texts.say(if start.started { Key::Started } else { Key::NoStart });
    let mut cells = vec![String::new(), String::new(), fitted(input, texts, start.placement.iter().cloned())];
    if settings {
        cells.push(String::new());
    }
    cells.extend([String::new(), String::new(), result]);
    cells
}

fn fitted(input: &Input<'_>, texts: &Texts, placement: impl Iterator<Item = (String, String)>) -> String {
    let one = |(slot, id): (String, String)| {
        texts.put(Key::FittedIn, &[("module", (input.name)(&id).into()), ("slot", slot.into())])
    };
    placement.map(one).collect::<Vec<_>>().join(", ")
}

/// Whether two runs say the same: nothing but that it was clean once more.
fn shares_row(a: &Ran<'_>, b: &Ran<'_>) -> bool {
    let clean = |run: &Ran<'_>| run.judgement.grade == Grade::Clean && run.struck.is_none();
    clean(a) && clean(b) && a.is_like(b) && a.state.begin.wall_doubtful == b.state.begin.wall_doubtful
}

/// A row of one run, or of several that were alike: their times and passes add up.
fn row(input: &Input<'_>, texts: &Texts, runs: &[(usize, &Ran<'_>)], settings: bool) -> Vec<String> {
    let [(first, run), rest @ ..] = runs else { return Vec::new() };
    let last = rest.last();
    let span = |first: &str, last: Option<&str>| match last {
        Some(last) => format!("{first} – {last}"),
        None => first.to_owned(),
    };
    let state = run.state;
    let fitted = fitted(input, texts, state.begin.board.known_placement().into_iter());
    let when = match state.begin.wall_doubtful {
        true => texts.put(Key::DoubtfulClock, &[("when", run.when.into())]),
        false => span(run.when, last.map(|(_, run)| run.when)),
    };
    let number = span(&first.to_string(), last.map(|(number, _)| number.to_string()).as_deref());
    let mut cells = vec![number, when, fitted];
    if settings {
        cells.push(card::settings(&state.begin.settings).to_owned());
    }
    let result = match run.struck {
        Some(reason) => texts.put(Key::StruckOut, &[("result", came_to(texts, run).into()), ("reason", reason.into())]),
        None if rest.is_empty() => came_to(texts, run),
        None => texts.put(Key::Times, &[("count", runs.len().into()), ("result", came_to(texts, run).into())]),
    };
    let seconds: f64 = runs.iter().map(|(_, run)| run.judgement.times.ran).sum();
    let passes: u64 = runs.iter().map(|(_, run)| u64::from(run.judgement.done.passes)).sum();
    cells.extend([duration_text(seconds), passes.to_string(), result]);
    cells
}

fn came_to(texts: &Texts, run: &Ran<'_>) -> String {
    let words = result::headline(run.judgement);
    let slots: Vec<&str> =
        run.state.errors.slots.keys().map(String::as_str).filter(|slots| !slots.is_empty()).collect();
    match slots.is_empty() {
        true => words,
        false => texts.put(Key::InSlots, &[("told", words.into()), ("slots", slots.join("; ").into())]),
    }
}

#[cfg(test)]
mod tests {
    use revisum_diagnose::isolate::Case;
    use revisum_engine::news::{EndReason, ErrorReport, TestEnd};
    use revisum_engine::recipe::{Depth, Recipe};
    use revisum_engine::tally::Tally;
    use revisum_record::journal::{Begin, Entry, Framed, Held, JobState};
    use revisum_record::outcome::Judgement;
    use revisum_record::run_state::RunState;
    use revisum_words::Language;
    use rstest::rstest;

    use super::*;
    use crate::input::Shop;

    const GIB: u64 = 1 << 30;

    /// A run of one pass over all memory with these settings, which found so many errors.
    fn run(settings: &str, errors: u64) -> RunState {
        let recipe = Recipe::with_tests(Depth::Triage, vec!["random".into()]);
        let begin =
            Begin { recipe: Some(recipe), fitted_bytes: Some(16 * GIB), settings: settings.into(), ..Begin::default() };
        let tally = Tally { words: errors, ..Tally::default() };
        let test = || "random".to_owned();
        let mut entries = vec![
            Entry::Begin(Box::new(begin)),
            Entry::Held(Held { bytes: 16 * GIB, ..Held::default() }),
            Entry::Planted { pass: 1, test: test(), address: None, caught: true },
        ];
        if errors > 0 {
            entries.push(Entry::Errors(Box::new(ErrorReport { pass: 1, test: test(), tally })));
        }
        entries.extend([
            Entry::TestEnded(TestEnd { pass: 1, test: test(), finished: true, errors, ..TestEnd::default() }),
            Entry::PassEnded { pass: 1, complete: true, seconds: 60.0 },
            Entry::Ended { reason: EndReason::Completed },
        ]);
        let mut state = RunState::default();
        for (seq, entry) in (0u64..).zip(entries) {
            state.apply(&Framed { journal: "j".into(), seq, t_ms: seq * 10_000, entry });
        }
        state
    }

    /// Runs that were alike and clean are one row; what is different, failed or excluded has its own.
    #[rstest]
    #[case::all_alike(&[("", 0, false); 58], &[("1 – 58", "58 × Clean")])]
    #[case::errors_between(&[("", 0, false), ("", 3, false), ("", 0, false)], &[("1", "Clean"), ("2", "3 memory errors"), ("3", "Clean")])]
    #[case::errors_each(&[("", 3, false), ("", 3, false)], &[("1", "3 memory errors"), ("2", "3 memory errors")])]
    #[case::other_settings(&[("stock", 0, false), ("profile", 0, false)], &[("1", "Clean"), ("2", "Clean")])]
    #[case::excluded(&[("", 0, false), ("", 0, true)], &[("1", "Clean"), ("2", "Clean (excluded: by hand)")])]
    fn alike_runs_share_a_row(#[case] runs: &[(&str, u64, bool)], #[case] expected: &[(&str, &str)]) {
        let states: Vec<RunState> = runs.iter().map(|(settings, errors, _)| run(settings, *errors)).collect();
        let judgements: Vec<Judgement> = states.iter().map(|state| Judgement::of(state, false)).collect();
        let ran = states.iter().zip(&judgements).zip(runs).map(|((state, judgement), (.., struck))| Ran {
            id: "run",
            state,
            judgement,
            when: "today",
            struck: struck.then_some("by hand"),
        });
        let ran: Vec<Ran<'_>> = ran.collect();
        let (job, case, shop) = (JobState::default(), Case::default(), Shop::default());
        let input = Input {
            job: &job,
            id: "job",
            case: &case,
            advice: None,
            runs: &ran,
            course: &[],
            notes: &[],
            lost_records: 0,
            speeds: &[],
            logged: &[],
            located: None,
            name: &str::to_owned,
            shop: &shop,
            made: "",
            program: "",
            checksum: None,
        };
        let blocks = blocks(&input, Texts::of(Language::EN));
        let Some(Block::Table(table)) = blocks.last() else { panic!("{blocks:?}") };
        let ends = |row: &Vec<String>| (row[0].clone(), row[row.len() - 1].clone());
        let shown: Vec<(String, String)> = table.rows.iter().map(ends).collect();
        let expected: Vec<(String, String)> = expected.iter().map(|(a, b)| ((*a).into(), (*b).into())).collect();
        assert_eq!(shown, expected);
    }
}
