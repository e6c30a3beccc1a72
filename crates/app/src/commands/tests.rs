//! `revisum tests`: the catalogue, and the grade of any march test.

use std::fmt::Write as _;
use std::io::Write as _;

use anyhow::Result;
use revisum_engine::catalog::{CATALOG, TestSpec, Work, find_test};
use revisum_engine::grade::{AsRun, DISTANCES, Model, Share, grade, grade_as_run};
use revisum_engine::march::{March, NotationError};
use revisum_engine::path::Path;
use revisum_engine::units::bytes_text;
use revisum_words as words;
use revisum_words::{Language, speaking};
use serde_json::{Map, Value, json};

use crate::cli::TestsArgs;
use crate::exit::Exit;
use crate::say;
use revisum_records::WrongUse;

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
    let mut out = crate::plain::stdout();
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
        WrongUse(say::tests_not_march(error.to_string(), notation, pointer))
    })?;
    let grades = grade(&march).map_err(|error| WrongUse(error.to_string()))?;
    let text = format!("{march}\n{}\n\n{}", length(&march), table(&grades));
    Ok((text, json!({ "notation": march.to_string(), "models": models(&grades) })))
}

fn page(name: &str) -> Result<(String, Value)> {
    let spec = find_test(name).ok_or_else(|| {
        let names: Vec<&str> = CATALOG.iter().map(|spec| spec.name.as_ref()).collect();
        WrongUse(say::tests_no_test(format!("{:?}", name), names.join(", ")))
    })?;
    let mut text = format!("{}\n{}\n\n", words::tests_of::title(spec), words::tests_of::purpose(spec));
    if let Work::March { notation, backgrounds, path } = &spec.work {
        let backgrounds: Vec<String> = backgrounds.iter().map(name_of).collect();
        writeln!(text, "{}", say::tests_notation(notation.to_string(), length(&spec.march())))?;
        writeln!(text, "{}", say::tests_backgrounds(backgrounds.join(", ")))?;
        writeln!(text, "{}", say::tests_order(name_of(path)))?;
    }
    writeln!(text, "{}", say::tests_pass(spec.sweeps()))?;
    if !spec.literature.is_empty() {
        writeln!(text, "{}", say::tests_source(spec.literature))?;
    }
    writeln!(text, "{}", say::tests_sees(words::tests_of::sees(spec), words::tests_of::limits(spec)))?;
    if spec.on_request {
        writeln!(text, "{}", say::tests_on_request())?;
    }
    let grades = grades_of(spec)?;
    if let Some(grades) = &grades {
        write!(text, "\n{}", say::tests_as_march(table(grades)))?;
        write!(text, "{}", as_run_table(spec)?)?;
    }
    Ok((text, entry(spec, grades.as_ref())))
}

/// What it finds of couplings the way it is run here, by the distance of the two cells; nothing for marches that hop.
fn as_run_table(spec: &TestSpec) -> Result<String> {
    if spec.path() != Path::Linear {
        return Ok(String::new());
    }
    let rows = grade_as_run(&spec.march(), &AsRun::here(1)).map_err(|error| WrongUse(error.to_string()))?;
    let mut text = format!("\n{}\n\n{:7}", say::tests_as_run(), "");
    for distance in DISTANCES {
        write!(text, "{:>9}", bytes_text(distance))?;
    }
    text.push('\n');
    for (model, row) in rows {
        write!(text, "{:<7}", model.short())?;
        for at in row {
            write!(text, "{:>9.0}", (at.share() * 100.0).floor())?;
        }
        text.push('\n');
    }
    Ok(text)
}

/// The grade of a march; other tests have none.
fn grades_of(spec: &TestSpec) -> Result<Option<Grades>> {
    Ok(if spec.is_march() { Some(grade(&spec.march()).map_err(|error| WrongUse(error.to_string()))?) } else { None })
}

fn name_of(value: &impl serde::Serialize) -> String {
    serde_json::to_value(value).ok().and_then(|name| name.as_str().map(str::to_owned)).unwrap_or_default()
}

fn list() -> Result<(String, Value)> {
    let mut text = String::new();
    let mut entries = Vec::new();
    for spec in CATALOG.iter() {
        for (at, line) in textwrap::wrap(&words::tests_of::purpose(spec), 92).iter().enumerate() {
            writeln!(text, "{:<17} {line}", if at == 0 { spec.name.as_ref() } else { "" })?;
        }
        entries.push(entry(spec, grades_of(spec)?.as_ref()));
    }
    writeln!(text, "\n{}", say::tests_more())?;
    Ok((text, json!({ "tests": entries })))
}

fn entry(spec: &TestSpec, grades: Option<&Grades>) -> Value {
    speaking(Language::EN, || in_json(spec, grades))
}

fn in_json(spec: &TestSpec, grades: Option<&Grades>) -> Value {
    let (notation, backgrounds, path) = match &spec.work {
        Work::March { notation, backgrounds, path } => (Some(notation), Some(backgrounds), Some(path)),
        _ => (None, None, None),
    };
    json!({
        "name": spec.name,
        "title": words::tests_of::title(spec),
        "purpose": words::tests_of::purpose(spec),
        "notation": notation,
        "backgrounds": backgrounds,
        "path": path,
        "operations_per_cell": notation.map(|_| spec.march().ops_per_cell()),
        "sweeps_per_pass": spec.sweeps(),
        "literature": spec.literature,
        "memory_sees": words::tests_of::sees(spec),
        "cannot_say": words::tests_of::limits(spec),
        "on_request": spec.on_request,
        "models": grades.map(models),
    })
}

fn models(grades: &Grades) -> Value {
    let models: Map<String, Value> =
        grades.iter().map(|(model, share)| (model.short().to_owned(), json!(share))).collect();
    Value::Object(models)
}

fn length(march: &March) -> String {
    let operations = say::tests_operations(march.ops_per_cell() as u64);
    say::tests_length(operations, march.sweeps() as u64)
}

fn table(grades: &Grades) -> String {
    let rows = grades.iter().map(|(model, share)| {
        let Share { detected, of, share } = share;
        let percent = (share * 100.0).floor();
        format!("{:<6} {detected:>4} of {of:>3}  {percent:>3.0} %  {}\n", model.short(), words::tests_of::model(*model))
    });
    rows.collect()
}
