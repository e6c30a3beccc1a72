//! Slots and modules of a machine that tells none: how many slots there are, what they are called, and what each holds by its label.

use revisum_engine::text::cleaned;
use revisum_engine::units::parse_bytes;
use revisum_record::fitted::{Board, Module, Slot};
use revisum_record::journal::JobEntry;
use tui_input::Input;

use crate::dialogs::choice::Choice;
use crate::dialogs::line::Line;
use crate::kit::theme::Theme;
use crate::room::step::{Ask, Step, does, says};
use crate::say;
use crate::shared::effect::Effect;
use crate::shared::state::Shared;

/// Most slots, and letters of a name.
const MOST_SLOTS: usize = 32;
const LONGEST_NAME: usize = 16;
/// Letters of what stands on a label.
const LONGEST: usize = 60;
/// Names that mainboards print most, by the number of slots.
const USUAL: [&[&str]; 5] = [
    &["A1"],
    &["A1", "B1"],
    &["A1", "A2", "B1", "B2"],
    &["A1", "B1", "C1", "D1"],
    &["A1", "A2", "B1", "B2", "C1", "C2", "D1", "D2"],
];

/// Asks for the slots; once they are known, for the module in the chosen one.
pub fn ask(shared: &Shared) -> Step {
    match shared.facts.board.slots.get(shared.slot) {
        Some(slot) => ask_module(shared, slot),
        None => ask_slots(shared),
    }
}

/// Asks how many slots there are.
pub fn ask_slots(shared: &Shared) -> Step {
    let usual = USUAL.map(|names| (say::declare_count(names.len(), names.join(", ")), declared(slots(names))));
    let mut lines: Vec<(String, Step)> = usual.into();
    lines.push((say::declare_names().to_owned(), ask_names(shared)));
    Choice::open(say::declare_slots(), lines, "")
}

fn ask_names(shared: &Shared) -> Step {
    let now: Vec<&str> = shared.facts.board.slots.iter().map(|slot| slot.id.as_str()).collect();
    let line = Line {
        title: say::declare_names_title().to_owned(),
        style: Theme::strong,
        words: Vec::new(),
        label: "",
        input: Input::new(now.join(", ")),
        longest: LONGEST * 4,
        keys: say::keep_cancel(),
        kept: Box::new(|typed| {
            let names = names(typed);
            let names: Vec<&str> = names.iter().map(String::as_str).collect();
            if names.is_empty() { Vec::new() } else { declared(slots(&names)) }
        }),
    };
    vec![Ask::Show(Box::new(line))]
}

/// Names that were typed, each once.
fn names(typed: &str) -> Vec<String> {
    let mut names: Vec<String> = Vec::new();
    for name in typed.split([',', ';']).map(|name| cleaned(name.trim(), LONGEST_NAME)) {
        if !name.is_empty() && !names.contains(&name) && names.len() < MOST_SLOTS {
            names.push(name);
        }
    }
    names
}

fn slots(names: &[&str]) -> Vec<Slot> {
    names.iter().map(|name| Slot { id: (*name).to_owned(), declared: true, ..Slot::default() }).collect()
}

fn declared(slots: Vec<Slot>) -> Step {
    does(Effect::Decide(Box::new(JobEntry::Declared { slots })))
}

/// Asks what stands on the module's label.
fn ask_module(shared: &Shared, slot: &Slot) -> Step {
    let (id, board) = (slot.id.clone(), shared.facts.board.clone());
    // What lies on the table has its number too.
    let taken: Vec<String> = shared.facts.modules.values().map(|module| module.serial.clone()).collect();
    let now = slot.module.as_ref().map(label).unwrap_or_default();
    let line = Line {
        title: say::declare_module(&id),
        style: Theme::strong,
        words: vec![say::declare_example().to_owned(), say::declare_empty().to_owned()],
        label: "",
        input: Input::new(now),
        longest: LONGEST,
        keys: say::keep_cancel(),
        kept: Box::new(move |typed| match module(typed, &taken) {
            Ok(module) => declared(with(&board, &id, module)),
            Err(NoSize) => says(say::declare_no_size(cleaned(typed, LONGEST))),
        }),
    };
    vec![Ask::Show(Box::new(line))]
}

fn label(module: &Module) -> String {
    format!("{} {}", revisum_engine::units::bytes_text(module.bytes), module.serial).trim().to_owned()
}

/// The slots with this module in one of them. A part is in one slot only.
fn with(board: &Board, id: &str, module: Option<Module>) -> Vec<Slot> {
    let serial = module.as_ref().map(|module| module.serial.clone());
    let elsewhere = |slot: &Slot| slot.module.as_ref().is_some_and(|held| Some(&held.serial) == serial.as_ref());
    let one = |slot: &Slot| match () {
        () if slot.id == id => Slot { module: module.clone(), ..slot.clone() },
        () if elsewhere(slot) => Slot { module: None, ..slot.clone() },
        () => slot.clone(),
    };
    board.slots.iter().map(one).collect()
}

/// No size was typed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct NoSize;

/// A module by its size and what else stands on its label; nothing where nothing was typed. Without a serial number it gets a number of
/// its own.
fn module(typed: &str, taken: &[String]) -> Result<Option<Module>, NoSize> {
    let typed = cleaned(typed.trim(), LONGEST);
    if typed.is_empty() {
        return Ok(None);
    }
    let words: Vec<&str> = typed.split_whitespace().collect();
    // A size may be written with a space before its unit.
    let size = |at: usize| {
        let one = parse_size(words[at]).map(|bytes| (bytes, 1));
        let unit = words.get(at + 1).filter(|unit| unit.chars().all(char::is_alphabetic));
        one.or_else(|| Some((parse_size(&format!("{}{}", words[at], unit?))?, 2)))
    };
    let (at, (bytes, long)) = (0..words.len()).find_map(|at| Some((at, size(at)?))).ok_or(NoSize)?;
    let rest: Vec<&str> = words[..at].iter().chain(&words[at + long..]).copied().collect();
    let (kinds, rest): (Vec<&str>, Vec<&str>) = rest.into_iter().partition(|word| is_generation(word));
    let serial = match rest.is_empty() {
        false => rest.join(" "),
        true => free_number(taken),
    };
    let generation = kinds.first().map(|kind| kind.to_uppercase()).unwrap_or_default();
    Ok(Some(Module { serial, bytes, generation, byte_lanes: 8, ..Module::default() }))
}

/// Sizes as they stand on labels: powers of two, whatever the unit is written like.
fn parse_size(word: &str) -> Option<u64> {
    let upper = word.to_uppercase();
    let number = upper.trim_end_matches(|c: char| c.is_alphabetic());
    let unit = match &upper[number.len()..] {
        "G" | "GB" | "GIB" => "GiB",
        "M" | "MB" | "MIB" => "MiB",
        _ => return None,
    };
    parse_bytes(&format!("{number} {unit}")).ok().filter(|bytes| *bytes > 0)
}

fn is_generation(word: &str) -> bool {
    let upper = word.to_uppercase();
    ["DDR", "LPDDR"].iter().any(|kind| upper.strip_prefix(kind).is_some_and(|rest| rest.len() <= 2))
}

/// A name that no module of the job has.
fn free_number(taken: &[String]) -> String {
    (1..).map(say::declare_numbered).find(|name| !taken.contains(name)).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    const GIB: u64 = 1 << 30;

    #[rstest]
    #[case::size_and_serial("8G 12AB34CD", 8 * GIB, "12AB34CD", "")]
    #[case::as_people_write("8 GB ddr4 red dot", 8 * GIB, "red dot", "DDR4")]
    #[case::serial_first("12AB 512MiB", GIB / 2, "12AB", "")]
    #[case::nothing_but_a_size("16GiB", 16 * GIB, "module 1", "")]
    #[case::a_number_is_no_size("2133 4G", 4 * GIB, "2133", "")]
    fn what_stands_on_a_label(#[case] typed: &str, #[case] bytes: u64, #[case] serial: &str, #[case] generation: &str) {
        let read = module(typed, &[]).unwrap().unwrap();
        assert_eq!((read.bytes, read.serial.as_str(), read.generation.as_str()), (bytes, serial, generation));
    }

    #[rstest]
    #[case("")]
    #[case("   ")]
    fn an_empty_line_empties_the_slot(#[case] typed: &str) {
        assert_eq!(module(typed, &[]), Ok(None));
    }

    #[rstest]
    #[case("red dot")]
    #[case("0G x")]
    #[case("99999999999999999999G")]
    fn without_a_size_it_is_asked_again(#[case] typed: &str) {
        assert_eq!(module(typed, &[]), Err(NoSize));
    }

    #[test]
    fn a_part_is_in_one_slot_only() {
        let board = Board { slots: slots(&["A1", "B1"]), ..Board::default() };
        let of = |typed: &str| module(typed, &[]).unwrap();
        let one = Board { slots: with(&board, "A1", of("8G one")), ..Board::default() };
        let moved = Board { slots: with(&one, "B1", of("8G one")), ..Board::default() };
        assert_eq!(moved.placement(), [("B1".to_owned(), "one".to_owned())]);
        assert_eq!(free_number(&["module 1".to_owned()]), "module 2");
        assert_eq!(names(" A, B;A,,  C "), ["A", "B", "C"]);
    }
}
