//! `revisum log`: one recorded run.

use std::io::Write;
use std::path::Path;

use anyhow::{Context, Result};

use super::result::{RunResult, text};
use crate::cli::LogArgs;
use crate::exit::Exit;
use crate::say;
use revisum_drawing::{board_scene, svg};
use revisum_linux::files;
use revisum_records::DataDir;
use revisum_records::{Standing, find_run_here, read_run};

/// Shows one run.
///
/// # Errors
/// When there is no such run or its journal cannot be read.
pub fn log(data: Option<&Path>, args: &LogArgs) -> Result<Exit> {
    let path = find_run_here(&DataDir::choose(data, None)?, &args.run)?;
    let recorded = read_run(&path)?;
    let live = recorded.standing == Standing::Running;
    if let Some(damage) = recorded.trouble() {
        crate::tell!("revisum: {damage}");
    }
    let mut out = crate::plain::stdout();
    if args.json {
        serde_json::to_writer(&mut out, &RunResult::new(&recorded.state, live, Some(&path)))?;
        writeln!(out)?;
    } else {
        write!(out, "{}", text(&recorded.state, live))?;
    }
    if let Some(file) = &args.svg {
        let drawing = svg(&board_scene(&recorded.state));
        files::write(file, drawing.as_bytes()).with_context(|| say::cli_not_written(file.display().to_string()))?;
    }
    Ok(Exit::Clean)
}
