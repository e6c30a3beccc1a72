//! `revisum tests`: the catalogue, and the grade of any march test.

use std::fmt::Write as _;
use std::io::Write as _;

use anyhow::Result;
use revisum_core::grade::{Model, Share, grade};
use revisum_core::march::{CATALOG, March, NotationError, TestSpec, find_test};
use revisum_core::units::counted;
use serde_json::{Map, Value, json};

use crate::cli::TestsArgs;
use crate::exit::{Exit, WrongUse};

type Grades = Vec<(Model, Share)>;

/// Lists the tests, shows one, or grades a notation.
///
/// # Errors
/// When there is no such test, or the notation is wrong.
pub fn tests(args: &TestsArgs) -> Result<Exit> {
    let (text, json) = match (&args.grade, &args.name) {
        (Some(notation), _) => graded(notation)?,
        (None, Some(name)) => page(name)?,
        (None, None) => list()?,
    };
    let mut out = std::io::stdout().lock();
    if args.json {
        writeln!(out, "{json}")?
    } else {
        write!(out, "{text}")?
    }
    Ok(Exit::Clean)
}

fn graded(notation: &str) -> Result<(String, Value)> {
    let march: March = notation.parse().map_err(|error: NotationError| {
        let pointer = format!("{}^", " ".repeat(error.column.saturating_sub(1)));
        WrongUse(format!("this is not march notation: {error}\n  {notation}\n  {pointer}"))
    })?;
    let grades = grade(&march).map_err(|error| WrongUse(error.to_string()))?;
    let text = format!("{march}\n{}\n\n{}", length(&march), table(&grades));
    Ok((text, json!({ "notation": march.to_string(), "models": models(&grades) })))
}

fn page(name: &str) -> Result<(String, Value)> {
    let spec = find_test(name).ok_or_else(|| {
        let names = CATALOG.map(|spec| spec.name).join(", ");
        WrongUse(format!("there is no test named {name:?}. The tests are: {names}"))
    })?;
    let grades = grade(&spec.march()).map_err(|error| WrongUse(error.to_string()))?;
    let text = format!(
        "{}\n{}\n\n{}\n{}\n\nAs a march on single bits, computed on a small array:\n\n{}",
        spec.title,
        spec.purpose,
        spec.notation,
        length(&spec.march()),
        table(&grades)
    );
    Ok((text, entry(spec, &grades)))
}

fn list() -> Result<(String, Value)> {
    let mut text = String::new();
    let mut entries = Vec::new();
    for spec in &CATALOG {
        let grades = grade(&spec.march()).map_err(|error| WrongUse(error.to_string()))?;
        writeln!(text, "{:<18} {}\n{:<18} {}", spec.name, spec.purpose, "", spec.notation)?;
        entries.push(entry(spec, &grades));
    }
    text.push_str("\n`revisum tests NAME` shows what a test detects.\n");
    Ok((text, json!({ "tests": entries })))
}

fn entry(spec: &TestSpec, grades: &Grades) -> Value {
    json!({
        "name": spec.name,
        "title": spec.title,
        "purpose": spec.purpose,
        "notation": spec.notation,
        "operations_per_cell": spec.march().ops_per_cell(),
        "models": models(grades),
    })
}

fn models(grades: &Grades) -> Value {
    let models: Map<String, Value> =
        grades.iter().map(|(model, share)| (model.short().to_owned(), json!(share))).collect();
    Value::Object(models)
}

fn length(march: &March) -> String {
    let operations = counted(march.ops_per_cell() as u64, "operation");
    format!("{operations} on each cell, in {}", counted(march.sweeps() as u64, "sweep"))
}

fn table(grades: &Grades) -> String {
    let rows = grades.iter().map(|(model, share)| {
        let Share { detected, of, share } = share;
        let percent = (share * 100.0).floor();
        format!("{:<6} {detected:>4} of {of:>3}  {percent:>3.0} %  {}\n", model.short(), model.meaning())
    });
    rows.collect()
}
