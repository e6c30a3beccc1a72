//! The detail: what was tested and what never was, files, tests with their counts, charts, and where it all comes from.

use std::collections::BTreeSet;

use revisum_diagnose::isolate::Load;
use revisum_engine::between::Between;
use revisum_engine::catalog::{TestSpec, find_test};
use revisum_engine::host::CoreClock;
use revisum_engine::news::{RowChoice, RowsOpened};
use revisum_engine::recipe::CoreSharing;
use revisum_engine::sweep::PutBack;
use revisum_engine::units::{bytes_text, count_text};
use revisum_record::run_state::{RunState, TestState};

use crate::charts::charts;
use crate::document::{Block, Table};
use crate::input::Input;
use crate::keys::Key;
use revisum_words::{Said as _, Texts, result, tests_of};

pub(super) fn blocks(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    let mut blocks = Vec::new();
    if input.counting().any(|run| run.state.has_errors()) {
        blocks.push(Block::Heading(texts.say(Key::Files)));
        blocks.push(Block::Paragraph(texts.say(Key::FilesWords)));
    }
    if !input.runs.is_empty() {
        blocks.push(Block::Heading(texts.say(Key::Detail)));
        blocks.extend(tested(input, texts));
        blocks.extend(tests(input, texts));
    }
    blocks.push(Block::Heading(texts.say(Key::Kept)));
    let program = ("program", input.program.into());
    blocks.push(Block::Paragraph(match input.checksum {
        Some(sum) => texts.put(Key::KeptWords, &[program, ("sum", sum.into())]),
        None => texts.put(Key::KeptUnread, &[program]),
    }));
    if !input.runs.is_empty() {
        blocks.push(Block::Small(input.runs.iter().map(|run| run.id).collect::<Vec<_>>().join("   ")));
    }
    blocks.push(Block::Small(texts.say(Key::Signed)));
    blocks
}

fn tested(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    let most = input.counting().max_by_key(|run| run.judgement.coverage.tested);
    let bytes = most.map_or(0, |run| run.judgement.coverage.tested);
    let fitted = most.and_then(|run| run.judgement.coverage.installed);
    let words = match fitted {
        Some(fitted) => {
            let percent = (bytes as f64 / fitted as f64 * 1000.0).floor() / 10.0;
            let values = [
                ("bytes", bytes_text(bytes).into()),
                ("fitted", bytes_text(fitted).into()),
                ("percent", texts.decimal(percent, 1).into()),
            ];
            texts.put(Key::TestedWords, &values)
        }
        None => texts.put(Key::TestedUnknown, &[("bytes", bytes_text(bytes).into())]),
    };
    let computing = input.case.runs.iter().any(|run| run.load != Load::Patterns);
    let mut blocks = vec![
        Block::SubHeading(texts.say(Key::Tested)),
        Block::Paragraph(words),
        Block::Paragraph(texts.say(if computing { Key::LoadsBoth } else { Key::LoadsPatterns })),
    ];
    let computed = input
        .counting()
        .flat_map(|run| &run.state.tests)
        .filter(|test| find_test(&test.name).is_some_and(|spec| spec.computes()));
    if let Some(clock) = computed.filter_map(|test| test.clock).reduce(CoreClock::with) {
        blocks.push(Block::Paragraph(clock_words(clock, texts)));
    }
    let hottest = input.case.runs.iter().filter_map(|run| run.signs.celsius).reduce(f64::max);
    if let Some(celsius) = hottest {
        blocks.push(Block::Paragraph(texts.put(Key::Hottest, &[("celsius", texts.decimal(celsius, 0).into())])));
    }
    blocks.extend(
        input.counting().find_map(|run| run.judgement.warmth).map(|says| Block::Paragraph(result::warmth(says))),
    );
    blocks.extend(
        input
            .counting()
            .filter_map(|run| run.state.rows_opened.as_ref())
            .max_by_key(|rows| rows.pass)
            .map(|rows| rows_opened(rows, texts)),
    );
    let mut never = Vec::new();
    // Parts of less than a MiB say nothing that anybody could act on.
    let left_out = most.iter().filter(|_| fitted.is_some()).flat_map(|run| &run.judgement.coverage.left_out);
    never.extend(left_out.filter(|part| part.bytes >= 1 << 20).map(|part| {
        texts.put(Key::NeverRest, &[("bytes", bytes_text(part.bytes).into()), ("reason", part.reason.said().into())])
    }));
    if !computing {
        never.push(texts.say(Key::NeverComputing));
    }
    if hottest.is_none() {
        never.push(texts.say(Key::NeverHot));
    }
    let finished: BTreeSet<String> = input
        .counting()
        .filter(|run| run.judgement.done.bytes > 0)
        .flat_map(|run| run.state.begin.board.known_placement())
        .map(|(_, id)| id)
        .collect();
    let missed: Vec<String> = input
        .case
        .modules
        .iter()
        .filter(|known| !finished.contains(&known.id))
        .map(|known| (input.name)(&known.id))
        .collect();
    if !missed.is_empty() {
        never.push(texts.put(Key::NeverModules, &[("modules", missed.join(", ").into())]));
    }
    never.push(texts.say(Key::NeverOvernight));
    blocks.extend([Block::SubHeading(texts.say(Key::Never)), Block::Bullets(never)]);
    blocks
}

/// The clock of the cores, in GHz.
fn clock_words(clock: CoreClock, texts: &Texts) -> String {
    let [lowest, highest] = [clock.lowest_mhz, clock.highest_mhz].map(|mhz| texts.decimal(f64::from(mhz) / 1000.0, 1));
    if lowest == highest {
        texts.put(Key::ClockSteady, &[("clock", highest.into())])
    } else {
        texts.put(Key::ClockRange, &[("lowest", lowest.into()), ("highest", highest.into())])
    }
}

/// How rows were opened to disturb others, and how sure it is that they were.
fn rows_opened(rows: &RowsOpened, texts: &Texts) -> Block {
    let values = [("rows", rows.rows.to_string().into()), ("openings", count_text(rows.openings).into())];
    let key = match rows.by {
        RowChoice::Map => Key::RowsByMap,
        RowChoice::Timing => Key::RowsByTiming,
        RowChoice::Guess => Key::RowsGuessed,
    };
    Block::Paragraph(texts.put(key, &values))
}

/// What the order in which march tests reach the cells leaves open.
fn order(state: &RunState, texts: &Texts) -> Vec<Block> {
    let Some(recipe) = &state.begin.recipe else { return Vec::new() };
    let couplings =
        |spec: &TestSpec| spec.is_march() && spec.march().0.iter().any(|element| element.writes() && element.reads());
    if !recipe.specs().is_ok_and(|specs| specs.iter().any(couplings)) {
        return Vec::new();
    }
    // Which way this processor puts lines back is not recorded: the longer distance of the two.
    let bytes = Between::cache_of(1, 1, PutBack::Behind).ordered_from();
    let mut blocks = vec![Block::Paragraph(texts.put(Key::OrderFrom, &[("bytes", bytes_text(bytes).into())]))];
    if recipe.cores == CoreSharing::Divide && recipe.which_cores.len() != 1 {
        blocks.push(Block::Paragraph(texts.say(Key::OrderOfShares)));
    }
    blocks
}

/// Tests and charts of the run with the most errors, or of the longest one.
fn tests(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    let worst = |(_, run): &(usize, &crate::input::Ran<'_>)| {
        (run.state.errors.words, run.state.hardware.corrected, run.state.full_passes)
    };
    let Some((at, run)) = input.runs.iter().enumerate().filter(|(_, run)| run.struck.is_none()).max_by_key(worst)
    else {
        return Vec::new();
    };
    let row = |test: &TestState| {
        vec![
            tests_of::title_of(&test.name),
            test.passes.to_string(),
            count_text(test.errors),
            // Few words tell how the address lines are: no memory is swept.
            if test.bytes_swept == 0 { "–".to_owned() } else { bytes_text(test.bytes_swept) },
        ]
    };
    let columns = [Key::ColTest, Key::ColFinished, Key::ColWrong, Key::ColSwept];
    let table = Table {
        columns: columns.iter().map(|key| texts.say(*key)).collect(),
        shares: vec![0.4, 0.2, 0.2, 0.2],
        rows: run.state.tests.iter().map(row).collect(),
    };
    let mut blocks = vec![Block::SubHeading(texts.put(Key::Tests, &[("run", (at + 1).into())])), Block::Table(table)];
    blocks.extend(order(run.state, texts));
    let drawn = charts(run.state, at + 1, texts);
    // The board is drawn further up where there is something to see on it.
    let skip = usize::from(input.located.is_some());
    blocks.extend(drawn.into_iter().skip(skip).map(Block::Figure));
    blocks
}
