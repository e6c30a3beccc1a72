//! `revisum report`: what a job came to, for its owner and for the shop.

use std::io::Write as _;
use std::path::Path;

use anyhow::Result;
use revisum_diagnose::isolate::advise;
use revisum_report::Language;

use crate::cli::ReportArgs;
use crate::exit::Exit;
use crate::say;
use revisum_records::DataDir;
use revisum_records::Job;
use revisum_records::WrongUse;
use revisum_workbench::reports::{self, Source, checksum_of, read_shop};

/// Writes the report of a job, or compares its journals with a checksum.
///
/// # Errors
/// When the job or the settings cannot be read, or the report cannot be written.
pub fn run(data: Option<&Path>, args: &ReportArgs) -> Result<Exit> {
    let data = DataDir::choose(data, None)?;
    let job = Job::read_only(&data.jobs(), &data.runs(), args.job.as_deref())?;
    let mut out = crate::plain::stdout();
    if let Some(wanted) = &args.verify {
        let sum = checksum_of(&job)?;
        let same = sum == wanted.trim().to_lowercase();
        let words = if same { say::report_follows() } else { say::report_other_journals() };
        writeln!(out, "{}", say::report_checksum(words, sum))?;
        return Ok(if same { Exit::Clean } else { Exit::ErrorsFound });
    }
    let known = || Language::all().map(Language::tag).collect::<Vec<_>>().join(", ");
    let language = args
        .owner_language
        .as_deref()
        .map(|tag| Language::tagged(tag).ok_or_else(|| WrongUse(say::language_unknown(format!("{:?}", tag), known()))));
    let shop = match &args.shop {
        Some(file) => read_shop(file, true)?,
        None => read_shop(&data.shop(), false)?,
    };
    let case = job.case_of_record();
    let advice = (!case.runs.is_empty() || case.record_damaged).then(|| advise(&case));
    let now_ms = jiff::Timestamp::now().as_millisecond();
    let source = Source { job: &job, case: &case, advice: advice.as_ref() };
    let report = reports::make(&source, &shop, language.transpose()?, now_ms);
    let folder = match &args.output {
        Some(folder) => folder.clone(),
        None => data.reports(job.id())?,
    };
    for name in reports::write(&report, &folder)? {
        writeln!(out, "{}", folder.join(name).display())?;
    }
    Ok(Exit::Clean)
}
