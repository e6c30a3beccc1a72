//! Reports of jobs: gathering what they are made from, and writing them in all their forms.

use std::path::Path;

use anyhow::{Context, Result, ensure};
use revisum_diagnose::isolate::{Advice, Case, Disposition, answer_case, dispositions};
use revisum_diagnose::isolate::{Reason, Verdict};
use revisum_drawing::{location_scene, svg};
use revisum_engine::text::{cell, cleaned, shown};
use revisum_linux::{files, open_parts};
use revisum_record::journal::{JobState, Stage, Tick};
use revisum_record::outcome::{EndedBy, Judgement};
use revisum_record::speed::SpeedRecord;
use revisum_report::{
    Block, Document, Figure, Input, Language, Ran, Reached, Shop, Texts, checksum, compose, markdown, pdf,
};
use serde_json::{Value, json};

use revisum_records::WrongUse;
use revisum_records::wall_time;
use revisum_records::{Job, Recorded, shown_time};
use revisum_words::{Said as _, result, speaking};

use crate::say;

/// What a report is about.
pub struct Source<'a> {
    /// The job.
    pub job: &'a Job,
    /// It as evidence.
    pub case: &'a Case,
    /// What follows; nothing while no run was made.
    pub advice: Option<&'a Advice>,
}

/// A report in all its forms but the last ones, which are made when it is written.
pub struct Report {
    /// The report.
    pub document: Document,
    /// Drawings that are not in it.
    pub further: Vec<Figure>,
    /// Wrong words one by one, as far as they were kept.
    pub errors: Vec<[String; 6]>,
    /// What is written on each module, a line each.
    pub labels: Vec<String>,
    /// Everything, for machines.
    pub json: Value,
}

/// Longest settings file, in bytes.
const LONGEST_SHOP: u64 = 64 << 10;

/// Reads the shop's settings; where there is no such file, and none was named, they are empty.
///
/// # Errors
/// When it cannot be read.
pub fn read_shop(file: &Path, named: bool) -> Result<Shop> {
    match files::read_text(file, LONGEST_SHOP) {
        Ok(text) => Ok(Shop::parse(&text).map_err(|error| WrongUse(format!("{}: {error}", file.display())))?),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound && !named => Ok(Shop::default()),
        Err(error) => Err(error).with_context(|| say::file_not_read(file.display().to_string())),
    }
}

/// Puts a report together. Records that cannot be read now leave it without a checksum, and it says so.
pub fn make(source: &Source<'_>, shop: &Shop, language: Option<Language>, now_ms: i64) -> Report {
    let job = source.job;
    let runs: Vec<&Recorded> = job.runs().collect();
    let simulated = runs.iter().any(|run| run.state.begin.simulated);
    let zone = wall_time::zone(simulated);
    let when: Vec<String> = runs.iter().map(|run| wall_time::date_and_time(run.state.begin.wall_ms, &zone)).collect();
    let judgements: Vec<Judgement> = runs.iter().map(|run| run.judgement()).collect();
    let ran: Vec<Ran<'_>> = runs
        .iter()
        .zip(&when)
        .zip(&judgements)
        .map(|((run, when), judgement)| Ran {
            id: &run.id,
            state: &run.state,
            judgement,
            when,
            struck: job.state().struck.get(&run.id).map(String::as_str),
        })
        .collect();
    let located = job.located();
    // A drive that was pulled hides what was read from it; what is in memory is reported all the same.
    let sum = checksum_of(job).ok();
    let name = |id: &str| cleaned(&job.name_of(id), 60);
    let texts = Texts::of(language.or(shop.language).unwrap_or_else(revisum_words::spoken));
    // Simulated time may be ahead of the real one.
    let ends = runs.iter().map(|run| run.state.begin.wall_ms + run.state.t_ms as i64);
    let latest = ends.chain(course(job.state()).map(|(ms, _)| ms)).max().filter(|_| simulated);
    let made = wall_time::date_and_time(latest.map_or(now_ms, |latest| latest.max(now_ms)), &zone);
    let program = concat!("revisum ", env!("CARGO_PKG_VERSION"));
    let logged: Vec<_> = job.state().logged.iter().map(|entry| (shown_time(entry, &zone), entry)).collect();
    let speed_time = |speed: &SpeedRecord| wall_time::date_and_time(speed.wall_ms, &wall_time::zone(speed.simulated));
    let speeds: Vec<_> = job.state().speeds.iter().map(|speed| (speed_time(speed), speed.as_ref())).collect();
    let course: Vec<(Reached, String)> =
        course(job.state()).map(|(ms, reached)| (reached, wall_time::date_and_time(ms, &zone))).collect();
    let notes: Vec<(String, &str)> =
        job.state().notes.iter().map(|(ms, words)| (wall_time::date_and_time(*ms, &zone), words.as_str())).collect();
    let document = compose(
        &Input {
            job: job.state(),
            id: job.id(),
            case: source.case,
            advice: source.advice,
            runs: &ran,
            course: &course,
            notes: &notes,
            lost_records: job.troubles().len(),
            speeds: &speeds,
            logged: &logged,
            located: located.as_ref().map(|(run, location)| (&run.state, location)),
            name: &name,
            shop,
            made: &made,
            program,
            checksum: sum.as_deref(),
        },
        texts,
    );
    let further = located.iter().map(|(run, location)| Figure {
        name: "errors-located".to_owned(),
        caption: run.id.clone(),
        scene: location_scene(location),
    });
    Report {
        document,
        further: further.collect(),
        errors: runs.iter().flat_map(|run| errors(run)).collect(),
        labels: speaking(texts.language, || labels(source, &made)),
        json: everything(source, &runs, sum.as_deref()),
    }
}

/// What is written on each module: what it is called, what becomes of it, when that was found, and in which job.
fn labels(source: &Source<'_>, made: &str) -> Vec<String> {
    let ends = match source.advice.map(|advice| &advice.verdict) {
        Some(Verdict::Done { named, reason }) => dispositions(source.case, named, *reason),
        Some(Verdict::NothingToFind) => dispositions(source.case, &[], Reason::Confident),
        _ => Vec::new(),
    };
    let label = |(id, end): &(String, Disposition)| {
        let name = source.job.name_of(id);
        let name = if *id == name { name } else { format!("{name} ({id})") };
        say::label(cleaned(&name, 80), end.said(), made, source.job.id())
    };
    ends.iter().map(label).collect()
}

/// Stages and what was confirmed, the oldest first; that a replacement was settled is said by what was confirmed.
fn course(state: &JobState) -> impl Iterator<Item = (i64, Reached)> {
    let stages = state.reached.iter().filter(|(stage, _)| !matches!(stage, Stage::Ordered | Stage::Suspects));
    let stages = stages.map(|(stage, ms)| (*ms, Reached::Stage(*stage)));
    let ticks = state.ticks.iter().map(|(tick, ms)| (*ms, Reached::Tick(*tick)));
    let mut all: Vec<(i64, Reached)> = ticks.chain(stages).collect();
    // What was reached and confirmed at the same look goes by its order in a job.
    all.sort_by_key(|(ms, reached)| (*ms, place(*reached)));
    std::iter::once((state.opened_ms, Reached::Stage(Stage::Complaint))).chain(all)
}

/// Where something stands in a job's course.
fn place(reached: Reached) -> (Stage, u8) {
    match reached {
        Reached::Stage(stage) => (stage, 2),
        Reached::Tick(Tick::Ordered | Tick::NothingOrdered) => (Stage::Ordered, 0),
        Reached::Tick(Tick::Arrived) => (Stage::Ordered, 1),
        Reached::Tick(Tick::SuspectsRead) => (Stage::Suspects, 0),
        Reached::Tick(_) => (Stage::Restored, 0),
    }
}

/// Checksum of the journals that a job's report follows from.
///
/// # Errors
/// When one cannot be read.
pub fn checksum_of(job: &Job) -> Result<String> {
    let read = |run: &Recorded| {
        let path = job.journal_of(&run.id);
        let unreadable = || say::file_not_read(path.display().to_string());
        let mut bytes = Vec::new();
        let mut parts = open_parts(&path).with_context(unreadable)?;
        parts.reader.read_to_end(&mut bytes).with_context(unreadable)?;
        ensure!(parts.unreadable.count() == 0, "{}: a checksum of half of it would be none", unreadable());
        Ok((run.id.clone(), bytes))
    };
    let mut journals = job.runs().map(read).collect::<Result<Vec<_>>>()?;
    Ok(checksum(&mut journals))
}

fn errors(run: &Recorded) -> Vec<[String; 6]> {
    let row = |sample: &revisum_engine::tally::Sample| {
        [
            sample.address.map(|address| address.plain()).unwrap_or_default(),
            format!("{:#018x}", sample.expected.0),
            format!("{:#018x}", sample.actual.0),
            sample.slots.join(" "),
            format!("{:#018x}", sample.expected.0 ^ sample.actual.0),
            run.id.clone(),
        ]
    };
    run.state.errors.samples.iter().map(row).collect()
}

fn everything(source: &Source<'_>, runs: &[&Recorded], sum: Option<&str>) -> Value {
    let job = source.job;
    let run = |run: &&Recorded| {
        let (state, judgement) = (&run.state, run.judgement());
        json!({
            "id": run.id,
            "outcome": run.standing.word(),
            "headline": speaking(Language::EN, || result::headline(&judgement)),
            "grade": judgement.grade.word(),
            "complete": judgement.complete,
            "ended_by": judgement.ended_by.map(EndedBy::word),
            "started": wall_time::machine_form(state.begin.wall_ms),
            "simulated": state.begin.simulated,
            "placement": state.begin.board.known_placement().into_iter().collect::<std::collections::BTreeMap<_, _>>(),
            "settings": state.begin.settings,
            "seconds": judgement.times.ran,
            "first_error_seconds": state.first_error_ms.map(|ms| ms as f64 / 1000.0),
            "full_passes": judgement.done.passes,
            "tested_bytes": judgement.coverage.tested,
            "fitted_bytes": state.begin.fitted_bytes,
            "wrong_words": state.errors.words,
            "wrong_words_by_slots": state.errors.slots,
            "struck_out": job.state().struck.get(&run.id),
        })
    };
    let ends = match source.advice.map(|advice| &advice.verdict) {
        Some(Verdict::Done { named, reason }) => dispositions(source.case, named, *reason),
        Some(Verdict::NothingToFind) => dispositions(source.case, &[], Reason::Confident),
        _ => Vec::new(),
    };
    let module = |module: &revisum_record::fitted::Module| {
        let end = ends.iter().find(|(id, _)| *id == module.serial).map(|(_, end)| end.word());
        json!({ "facts": module, "name": job.name_of(&module.serial), "disposition": end })
    };
    json!({
        "version": 1,
        "job": job.id(),
        "machine": job.state().machine,
        "closed": job.state().closed,
        "damage": job.troubles(),
        "answer": source.advice.map(|_| answer_case(source.case)),
        "modules": job.state().modules.iter().map(module).collect::<Vec<_>>(),
        "runs": runs.iter().map(run).collect::<Vec<_>>(),
        "journals_sha256": sum,
    })
}

/// The same with all its texts as they may be shown.
fn without_steering(json: Value) -> Value {
    match json {
        Value::String(text) => Value::String(shown(&text).into_owned()),
        Value::Array(all) => all.into_iter().map(without_steering).collect(),
        Value::Object(all) => {
            all.into_iter().map(|(name, value)| (shown(&name).into_owned(), without_steering(value))).collect()
        }
        other => other,
    }
}

/// Writes a report in all its forms into a folder; returns the files' names.
///
/// # Errors
/// When the PDF cannot be made or a file cannot be written.
pub fn write(report: &Report, folder: &Path) -> Result<Vec<String>> {
    files::make_folder(folder).with_context(|| say::folder_not_made(folder.display().to_string()))?;
    let mut table = csv::Writer::from_writer(Vec::new());
    table.write_record(["address", "expected", "actual", "slots", "wrong_bits", "run"])?;
    report.errors.iter().try_for_each(|row| table.write_record(row.iter().map(|text| cell(text).into_owned())))?;
    let mut files: Vec<(String, Vec<u8>)> = vec![
        ("report.pdf".to_owned(), pdf(&report.document)?),
        ("report.md".to_owned(), markdown(&report.document).into_bytes()),
        (
            "labels.txt".to_owned(),
            report.labels.iter().map(|line| format!("{line}\n")).collect::<String>().into_bytes(),
        ),
        ("errors.csv".to_owned(), table.into_inner().map_err(|error| anyhow::anyhow!("{error}"))?),
        ("job.json".to_owned(), serde_json::to_vec_pretty(&without_steering(report.json.clone()))?),
    ];
    let in_text = report.document.blocks.iter().filter_map(|block| match block {
        Block::Figure(figure) => Some(figure),
        _ => None,
    });
    let figures = in_text.chain(&report.further);
    files.extend(figures.map(|figure| (format!("{}.svg", figure.name), svg(&figure.scene).into_bytes())));
    for (name, bytes) in &files {
        let path = folder.join(name);
        files::write(&path, bytes).with_context(|| say::file_not_written(path.display().to_string()))?;
    }
    Ok(files.into_iter().map(|(name, _)| name).collect())
}
