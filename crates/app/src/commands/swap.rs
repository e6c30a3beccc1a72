//! `revisum swap`: which part of a job is it, and what to try next; or the answer to a case from elsewhere.

use revisum_linux::files;
use revisum_words as words;
use revisum_words::Said as _;
use std::fmt::Write as _;
use std::io::{Read as _, Write as _};
use std::path::Path;

use anyhow::{Context, Result};
use revisum_diagnose::isolate::{
    Beyond, Case, Experiment, Priors, Proposal, Reason, Verdict, advise, answer_case, answer_with, contradictions,
    dispositions, gone_and_kept, to_do,
};
use revisum_engine::units::duration_text;

use crate::cli::SwapArgs;
use crate::exit::Exit;
use crate::say;
use revisum_records::DataDir;
use revisum_records::Job;
use revisum_records::WrongUse;

/// Longest case or file of priors that is read.
const LONGEST: u64 = 16 << 20;

/// Tells the odds and the next step.
///
/// # Errors
/// When the job, the case or the priors cannot be read.
pub fn run(data: Option<&Path>, args: &SwapArgs) -> Result<Exit> {
    let priors = args.priors.as_deref().map(read_priors).transpose()?;
    if args.advise {
        let mut text = String::new();
        std::io::stdin().take(LONGEST).read_to_string(&mut text).context(say::swap_case_unreadable())?;
        let answer = answer_with(&text, priors.unwrap_or_default()).map_err(|error| WrongUse(error.to_string()))?;
        writeln!(crate::plain::stdout(), "{}", serde_json::to_string(&answer)?)?;
        return Ok(Exit::Clean);
    }
    let data = DataDir::choose(data, None)?;
    let job = Job::read_only(&data.jobs(), &data.runs(), args.job.as_deref())?;
    let mut case = job.case_of_record();
    if let Some(priors) = priors {
        case.priors = priors;
    }
    let mut out = crate::plain::stdout();
    if args.json {
        let mut answer = serde_json::to_value(answer_case(&case))?;
        answer["damage"] = job.troubles().into();
        writeln!(out, "{answer}")?;
    } else {
        write!(out, "{}", text(&job, &case)?)?;
    }
    Ok(Exit::Clean)
}

fn read_priors(file: &Path) -> Result<Priors> {
    let text = files::read_text(file, LONGEST).with_context(|| say::cli_not_read(file.display().to_string()))?;
    Ok(Priors::parse(&text).map_err(|error| WrongUse(format!("{}: {error}", file.display())))?)
}

fn text(job: &Job, case: &Case) -> Result<String> {
    let name = |id: &str| job.name_of(id);
    let mut text = String::new();
    writeln!(text, "{}", say::swap_cli_job(&job.state().machine, case.runs.len()))?;
    if let Some(answer) = &job.state().closed {
        writeln!(text, "{}", say::swap_cli_closed(answer))?;
    }
    let advice = advise(case);
    match &advice.verdict {
        Verdict::NothingToFind => {
            writeln!(text, "{}", say::swap_cli_clean())?;
            for (number, next) in (1..).zip(Beyond::ALL) {
                writeln!(text, "  {number}  {}", next.said())?;
            }
        }
        Verdict::NotWhole => writeln!(text, "{}", words::advice::not_whole())?,
        Verdict::Done { named, reason } => {
            let word = if *reason == Reason::Confident { say::swap_cli_found() } else { say::swap_cli_open() };
            writeln!(text, "{word}  {}", words::advice::answer(case, named, *reason, &name))?;
            for (number, action) in (1..).zip(to_do(case, named, *reason)) {
                writeln!(text, "  {number}  {}", words::advice::action(&action))?;
            }
            let (gone, kept) = gone_and_kept(case, named, *reason);
            let modules = |ids: &[String]| ids.iter().filter_map(|id| job.module(id)).collect::<Vec<_>>();
            let board = job.state().looked.as_ref().map(|looked| looked.board.mainboard.as_str());
            let order = words::order(&modules(&gone), &modules(&kept), board.unwrap_or_default());
            for (at, words) in order.iter().enumerate() {
                let label = if at == 0 { say::swap_cli_order() } else { "" };
                writeln!(text, "     {label:<7}{words}")?;
            }
            for (module, end) in dispositions(case, named, *reason) {
                writeln!(text, "{:<16} {}", name(&module), end.said())?;
            }
        }
        Verdict::Open(step) => {
            let Proposal { next, is_proof, if_errors, if_clean } = step.as_ref();
            writeln!(text, "{}", words::odds::leading(&advice.odds, &name))?;
            let title = if *is_proof { say::swap_cli_proof() } else { say::swap_cli_next() };
            write_step(&mut text, case, next, title, &name)?;
            writeln!(text, "{}", say::swap_cli_if_errors(words::odds::forecast(if_errors, &name)))?;
            writeln!(text, "{}", say::swap_cli_if_clean(words::odds::forecast(if_clean, &name)))?;
            for other in &advice.alternatives {
                write_step(&mut text, case, other, say::swap_cli_or(), &name)?;
            }
        }
    }
    for (at, reason) in words::odds::reasons(case, &advice, &name).iter().enumerate() {
        let label = if at == 0 { say::swap_cli_because() } else { "" };
        writeln!(text, "{label:<10} {reason}")?;
    }
    for words in job.troubles() {
        writeln!(text, "!  {words}")?;
    }
    for contradiction in contradictions(case) {
        writeln!(text, "!  {}", words::advice::contradiction(&contradiction))?;
    }
    Ok(text)
}

fn write_step(
    text: &mut String,
    case: &Case,
    next: &Experiment,
    title: &str,
    name: &dyn Fn(&str) -> String,
) -> Result<()> {
    let nothing = Vec::new();
    let (now, settings) = match (&case.present, case.runs.last()) {
        (Some((now, settings)), _) => (now, settings.as_str()),
        (None, Some(last)) => (&last.placement, last.settings.as_str()),
        (None, None) => (&nothing, ""),
    };
    let scene = words::card::Scene { now, settings, by_program: false, laptop: None, moved_before: false, name };
    let machine = duration_text(next.minutes * 60.0);
    writeln!(
        text,
        "{}",
        say::swap_cli_step(
            format!("{:<5}", title),
            words::card::headline(case, next, &scene),
            format!("{:.0}", next.hands_minutes),
            machine
        )
    )?;
    if title != say::swap_cli_or() {
        for (number, words) in (1..).zip(words::card::steps(next, &scene)) {
            writeln!(text, "      {number}  {words}")?;
        }
    }
    Ok(())
}
