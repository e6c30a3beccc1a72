//! `revisum locate`: errors to parts, and what keeps a system out of bad ranges meanwhile.

use std::fmt::Write as _;
use std::io::Write as _;
use std::path::Path;

use anyhow::{Context, Result};
use revisum_diagnose::address::{AddressMap, KnownWord, LearnedMap, Locator, MapFile, MapStatus, learn_layout};
use revisum_diagnose::locate::{
    Basis, Group, Judgement, LEAST_BIT, Location, Refusal, Stopgap, judge, known_words, learned_map, locate,
    locate_run, locator_of, map_of, read_foreign, same_cells, shown_by, stopgap, trusted_locator,
};
use revisum_drawing::{location_scene, svg};
use revisum_engine::units::{bytes_text, counted};
use revisum_record::fitted::{Board, Slot};
use revisum_record::run_state::RunState;
use revisum_words as words;
use revisum_words::{Language, Said, speaking};
use serde_json::json;

use crate::cli::LocateArgs;
use crate::exit::Exit;
use crate::say;
use revisum_linux::files;
use revisum_records::DataDir;
use revisum_records::WrongUse;
use revisum_records::{find_run_here, keep_learned, learned_for, read_run, runs_of_machine};

/// Longest file that is read.
const LONGEST: u64 = 64 << 20;
/// Groups shown as text.
const SHOWN_GROUPS: usize = 12;

/// Tells where errors are.
///
/// # Errors
/// When the run, the map or the list of errors cannot be read.
pub fn run(data: Option<&Path>, args: &LocateArgs) -> Result<Exit> {
    let map = args.map.as_deref().map(read_map).transpose()?;
    let (location, gap, again) = match (&args.errors, &args.run) {
        (Some(file), _) => (of_foreign(file, map)?, None, None),
        (None, Some(run)) => {
            let (location, gap, again) = of_run(data, run, map, args)?;
            (location, Some(gap), again)
        }
        (None, None) => return Err(WrongUse(say::locate_name_a_run().to_owned()).into()),
    };
    let mut out = crate::plain::stdout();
    if args.json {
        let (written, refused) = match &gap {
            Some(Ok(gap)) => (Some(gap), None),
            Some(Err(refusal)) => (None, Some(speaking(Language::EN, || words::locate::refusal(refusal)))),
            None => (None, None),
        };
        writeln!(
            out,
            "{}",
            json!({ "location": for_programs(&location)?, "stopgap": written, "no_stopgap": refused, "again": again })
        )?;
    } else {
        write!(out, "{}", text(&location, gap.as_ref(), again.as_deref())?)?;
    }
    if let Some(file) = &args.svg {
        let drawing = svg(&location_scene(&location));
        files::write(file, drawing.as_bytes()).with_context(|| say::cli_not_written(file.display().to_string()))?;
    }
    Ok(Exit::Clean)
}

fn of_run(
    data: Option<&Path>,
    run: &str,
    map: Option<MapFile>,
    args: &LocateArgs,
) -> Result<(Location, Result<Stopgap, Refusal>, Option<String>)> {
    let data = DataDir::choose(data, None)?;
    let recorded = read_run(&find_run_here(&data, run)?)?;
    if let Some(damage) = recorded.trouble() {
        crate::tell!("revisum: {damage}");
    }
    if let Some(file) = &args.save_map {
        let Some(text) = &recorded.state.begin.map else {
            return Err(WrongUse(say::locate_no_map_to_write().to_owned()).into());
        };
        files::write(file, text.as_bytes()).with_context(|| say::cli_not_written(file.display().to_string()))?;
    }
    let state = &recorded.state;
    let others = runs_of_machine(&data.runs(), &state.begin.machine)?;
    let known = known_words(&others, state);
    if args.learn {
        tell_learned(state, &known);
    }
    let shown = shown_by(&others, &state.begin);
    let map = judged(map, state, &known)?;
    let learned = if map.is_none() { learned(&data, state, &others, args)? } else { None };
    let locator = locator_of(&state.begin, map, &shown);
    let locator = learned.map_or(locator.clone(), |map| locator.with_learned(map));
    let location = locate_run(state, &locator, &state.begin.board);
    let gap = stopgap(&recorded.state, &location);
    Ok((location, gap, again(&others)))
}

/// What was learned of this arrangement: kept when that is asked for, used only when that is asked for.
fn learned(data: &DataDir, state: &RunState, runs: &[RunState], args: &LocateArgs) -> Result<Option<LearnedMap>> {
    if args.learn {
        let kept = learned_map(runs, state).map(|map| keep_learned(data, &map)).transpose()?.flatten();
        if let Some(file) = kept {
            crate::tell!("{}", say::learned_kept(file.display().to_string()));
        }
    }
    let known = learned_for(data, &state.begin);
    if known.is_some() && !args.learned {
        crate::tell!("{}", say::learned_fits());
    }
    Ok(known.filter(|_| args.learned))
}

/// Cells that failed in several runs of the machine, in a sentence.
fn again(runs: &[RunState]) -> Option<String> {
    let failed: Vec<(&RunState, Locator)> =
        runs.iter().filter(|run| run.has_errors()).map(|run| (run, trusted_locator(run, runs))).collect();
    let name = |serial: &str| {
        let mut modules = runs.iter().flat_map(|run| run.begin.board.modules());
        modules
            .find(|(_, module)| module.serial == serial)
            .map_or_else(|| serial.to_owned(), |(_, module)| module.name())
    };
    words::locate::again(&same_cells(failed.iter().map(|(run, locator)| (*run, locator))), &name)
}

/// A map that runs with single modules refute is dropped, and that is said; one that they confirm is no assumption any more.
fn judged(given: Option<MapFile>, state: &RunState, known: &[KnownWord]) -> Result<Option<MapFile>> {
    let in_journal = || map_of(&state.begin).context(say::locate_map_unusable());
    let Some(file) = given.map_or_else(in_journal, |file| Ok(Some(file)))? else { return Ok(None) };
    match judge(&file.map, known) {
        Judgement::Open => Ok(Some(file)),
        Judgement::Confirmed => Ok(Some(MapFile { status: MapStatus::Confirmed, ..file })),
        Judgement::Refuted => {
            crate::tell!("{}", say::locate_map_wrong(say::cli_failing_words(known.len())));
            Ok(None)
        }
    }
}

/// What known words say of how slots follow from addresses.
fn tell_learned(state: &RunState, known: &[KnownWord]) {
    let ranges = state.begin.memory.ranges();
    if ranges.is_empty() {
        crate::tell!("{}", say::learned_no_addresses());
        return;
    }
    if known.is_empty() {
        crate::tell!("{}", say::learned_nothing_yet());
        return;
    }
    let channel = |slot: &Slot| slot.channel.clone().unwrap_or_else(|| slot.id.clone());
    let fitted: Vec<_> = state.begin.board.modules().map(|(slot, _)| (slot.id.clone(), channel(slot))).collect();
    crate::tell!("{}", say::learned_from(say::cli_words(known.len())));
    words::locate::layout(&learn_layout(known, &fitted, ranges, LEAST_BIT))
        .iter()
        .for_each(|line| crate::tell!("           {line}"));
}

/// Without a run there is no board: with a map its slots are the board.
fn of_foreign(file: &Path, map: Option<MapFile>) -> Result<Location> {
    let read = read_foreign(&read_text(file)?);
    for (line, why) in &read.refused {
        crate::tell!("revisum: {}: {}", file.display(), revisum_words::refused::line(*line, why));
    }
    if read.refused_count > read.refused.len() {
        crate::tell!("{}", say::locate_not_understood(read.refused_count - read.refused.len()));
    }
    if read.used == 0 {
        return Err(WrongUse(say::locate_no_lines(file.display().to_string())).into());
    }
    let board = map.as_ref().map(|file| board_of(&file.map)).unwrap_or_default();
    let locator = match map {
        Some(file) => Locator::new(&board, None).assuming(file.map),
        None => Locator::new(&board, None),
    };
    let ground = Basis {
        board: &board,
        failures: 0,
        is_fair: true,
        locator: &locator,
        addresses_known: true,
        encrypted: false,
        guest: false,
        ranges_trusted: false,
    };
    Ok(locate(&read.digest, &ground))
}

fn board_of(map: &AddressMap) -> Board {
    use revisum_record::fitted::{Module, Slot};
    let mut slots: Vec<Slot> = Vec::new();
    for (number, way) in map.regions().iter().flat_map(|region| region.ways.iter().enumerate()) {
        for id in way.stacks.iter().flat_map(|stack| &stack.slots) {
            if !slots.iter().any(|slot| slot.id == *id) {
                let channel = Some(number.to_string());
                slots.push(Slot { id: id.clone(), channel, module: Some(Module::default()), ..Slot::default() });
            }
        }
    }
    Board { slots, ..Board::default() }
}

/// What is known of where errors are, for other programs: with its sentences in English whatever is spoken.
fn for_programs(location: &Location) -> Result<serde_json::Value> {
    let mut value = serde_json::to_value(location)?;
    speaking(Language::EN, || {
        value["statement"] = words::locate::statement(location).into();
        value["because"] = location.because.said().into();
        value["why"] = location.shape().map(words::locate::why).into();
        value["surer"] = location.surer.map(|surer| surer.said()).into();
        value["limits"] = location.limits.iter().map(Said::said).collect::<Vec<_>>().into();
    });
    Ok(value)
}

fn read_map(file: &Path) -> Result<MapFile> {
    Ok(MapFile::parse(&read_text(file)?).map_err(|error| WrongUse(format!("{}: {error}", file.display())))?)
}

fn read_text(file: &Path) -> Result<String> {
    files::read_text(file, LONGEST).with_context(|| say::cli_not_read(file.display().to_string()))
}

fn text(location: &Location, gap: Option<&Result<Stopgap, Refusal>>, again: Option<&str>) -> Result<String> {
    let mut text = String::new();
    writeln!(text, "{}", words::locate::statement(location))?;
    if location.signature.is_none() && location.groups.is_empty() {
        return Ok(text);
    }
    let certainty = location.certainty.map_or(say::cli_unknown(), |certainty| certainty.said());
    writeln!(text, "{certainty}: {}", location.because.said())?;
    if let Some(surer) = location.surer {
        writeln!(text, "{}", surer.said())?;
    }
    if !location.causes.is_empty() {
        let causes: Vec<&str> = location.causes.iter().map(|cause| cause.said()).collect();
        writeln!(text, "\n{}", say::locate_cli_likely(causes.join(say::locate_cli_then())))?;
        writeln!(text, "           {}", location.shape().map_or("", words::locate::why))?;
    }
    if let Some(odds) = words::locate::fit(location) {
        writeln!(text, "           {odds}")?;
    }
    if let Some(again) = again {
        writeln!(text, "{}", say::locate_cli_again(again))?;
    }
    if location.outside > 0 {
        writeln!(text, "{}", say::locate_cli_outside(location.outside))?;
    }
    for limit in &location.limits {
        writeln!(text, "{}", say::locate_cli_limit(limit.said()))?;
    }
    text.push('\n');
    for group in location.groups.iter().take(SHOWN_GROUPS) {
        writeln!(text, "{}", group_line(group))?;
    }
    if location.groups.len() > SHOWN_GROUPS {
        writeln!(
            text,
            "{}",
            say::locate_cli_more(counted((location.groups.len() - SHOWN_GROUPS) as u64, "more group"))
        )?;
    }
    match gap {
        Some(Ok(gap)) => write_stopgap(&mut text, gap)?,
        Some(Err(refusal)) if *refusal != Refusal::Nothing => {
            writeln!(text, "\n{}", say::locate_cli_no_workaround(words::locate::refusal(refusal)))?
        }
        _ => {}
    }
    Ok(text)
}

fn group_line(group: &Group) -> String {
    let lanes: Vec<String> = group.lanes().iter().map(u8::to_string).collect();
    let lanes = if lanes.len() > 8 { say::locate_cli_many().to_owned() } else { format!("DQ {}", lanes.join(" ")) };
    let first = group.named.first().map(|word| word.place.to_string()).unwrap_or_default();
    let slot = group.slot.as_deref().unwrap_or("?");
    say::locate_cli_group(
        format!("{:<8}", slot),
        format!("{:<32}", words::locate::group(group)),
        format!("{:>9}", say::cli_words_plain(group.words)),
        format!("{:<24}", lanes),
        first,
    )
}

fn write_stopgap(text: &mut String, gap: &Stopgap) -> Result<()> {
    writeln!(text, "\n{}", say::locate_cli_workaround(bytes_text(gap.costs)))?;
    writeln!(text, "{}\n", words::locate::warning(gap))?;
    writeln!(text, "{}", say::locate_cli_kernel(&gap.kernel_parameters))?;
    writeln!(text, "{}", say::locate_cli_grub(&gap.boot_loader))?;
    for line in &gap.windows {
        writeln!(text, "{}", say::locate_cli_windows(line))?;
    }
    Ok(())
}
