//! Maps of slots that were learned: kept beside the records, one file for each arrangement of a mainboard.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result};
use revisum_diagnose::address::{KnownChannels, KnownHalves, LearnedMap, LearnedMapError};
use revisum_diagnose::locate::fitting_key;
use revisum_engine::rows::Halves;
use revisum_linux::files;
use revisum_record::fitted::Board;
use revisum_record::journal::Begin;

use crate::DataDir;
use crate::say;

/// Longest file that is read, and most files that are looked at.
const LONGEST: u64 = 1 << 20;
const MOST_FILES: usize = 1_000;
/// Letters of a mainboard's name in the name of a file.
const LONGEST_NAME: usize = 40;

/// Keeps a map, unless the same is kept; says in which file.
///
/// # Errors
/// When the folder or the file cannot be written.
pub fn keep_learned(data: &DataDir, map: &LearnedMap) -> Result<Option<PathBuf>> {
    if every(&data.root(), LearnedMap::parse).contains(map) {
        return Ok(None);
    }
    keep(data, &slug(map.mainboard()), &map.text().context(say::records_map_not_written())?)
}

/// The map that was learned when this arrangement was here before; the latest where there are several.
pub fn learned_for(data: &DataDir, begin: &Begin) -> Option<LearnedMap> {
    let key = fitting_key(begin);
    every(&data.root(), LearnedMap::parse).into_iter().rfind(|map| map.belongs_to(&key, begin.memory.ranges()))
}

/// Keeps the halves of an arrangement, unless the same are kept; says in which file.
///
/// # Errors
/// When the folder or the file cannot be written.
pub fn keep_halves(data: &DataDir, halves: &KnownHalves) -> Result<Option<PathBuf>> {
    if all_halves(&data.root()).contains(halves) {
        return Ok(None);
    }
    keep(data, &format!("{}-halves", slug(halves.mainboard())), &halves.text().context(say::records_map_not_written())?)
}

/// The halves that time told when this arrangement was here before; the latest where there are several.
pub fn halves_for(data: &DataDir, begin: &Begin) -> Option<Halves> {
    halves_among(&all_halves(&data.root()), begin)
}

/// All halves that are kept in a data folder.
pub(crate) fn all_halves(root: &Path) -> Vec<KnownHalves> {
    every(root, KnownHalves::parse)
}

/// Those of the arrangement of a run.
pub(crate) fn halves_among(known: &[KnownHalves], begin: &Begin) -> Option<Halves> {
    let key = fitting_key(begin);
    known.iter().rev().find_map(|known| known.of(&key, begin.memory.ranges()))
}

/// Keeps which channel each slot of a mainboard is on, unless the same is kept.
///
/// # Errors
/// When the folder or the file cannot be written.
pub(crate) fn keep_channels(data: &DataDir, channels: &KnownChannels) -> Result<Option<PathBuf>> {
    if every(&data.root(), KnownChannels::parse).contains(channels) {
        return Ok(None);
    }
    let name = format!("{}-channels", slug(channels.mainboard()));
    keep(data, &name, &channels.text().context(say::records_map_not_written())?)
}

/// The channel of each slot as it was shown when this mainboard was here before, in this machine or in another one; the latest where there are several.
pub fn channels_for(data: &DataDir, board: &Board) -> BTreeMap<String, u8> {
    let known = every(&data.root(), KnownChannels::parse);
    known.iter().rev().find_map(|known| known.of(board).cloned()).unwrap_or_default()
}

/// Writes a file of this name and the next free number.
fn keep(data: &DataDir, name: &str, text: &str) -> Result<Option<PathBuf>> {
    let folder = data.maps()?;
    let named = |number: usize| folder.join(format!("{name}-{number}.toml"));
    let file = (1..).map(named).find(|file| !file.exists()).context(say::records_map_not_written())?;
    files::write(&file, text.as_bytes()).with_context(|| file.display().to_string())?;
    Ok(Some(file))
}

/// All that can be read; a file that cannot be says nothing.
fn every<T>(root: &Path, parse: fn(&str) -> Result<T, LearnedMapError>) -> Vec<T> {
    let Ok(entries) = std::fs::read_dir(root.join(FOLDER)) else { return Vec::new() };
    let mut files: Vec<PathBuf> = entries.flatten().map(|entry| entry.path()).take(MOST_FILES).collect();
    files.sort();
    files.iter().filter_map(|file| parse(&files::read_text(file, LONGEST).ok()?).ok()).collect()
}

/// Where they are.
pub(crate) const FOLDER: &str = "maps";

fn slug(name: &str) -> String {
    let letters = name.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' });
    letters.take(LONGEST_NAME).collect()
}

#[cfg(test)]
mod tests {
    use revisum_diagnose::address::{KnownWord, learn_layout};
    use revisum_engine::units::{ByteRange, GIB};
    use revisum_record::fitted::{Board, Module, Slot};

    use super::*;

    fn begin(sizes: [u64; 2]) -> Begin {
        let slot = |(id, bytes): (&str, u64)| Slot {
            id: id.into(),
            module: Some(Module { bytes, ..Module::default() }),
            ..Slot::default()
        };
        let slots = ["A1", "B1"].into_iter().zip(sizes).map(slot).collect();
        let board = Board { mainboard: "Tarnwerk Holm M2".into(), firmware: "1.14".into(), slots };
        Begin { board, memory: vec![ByteRange::new(0, 2 * GIB)].into(), ..Begin::default() }
    }

    fn map(begin: &Begin) -> LearnedMap {
        let word = |at: u64| KnownWord { address: at, label: if at < GIB { "A1" } else { "B1" }.into() };
        let words: Vec<KnownWord> = (0..64).map(|at| word(at << 25)).collect();
        let fitted = [("A1".to_owned(), "A".to_owned()), ("B1".to_owned(), "B".to_owned())];
        LearnedMap::new(fitting_key(begin), learn_layout(&words, &fitted, begin.memory.ranges(), 6)).unwrap()
    }

    #[test]
    fn a_map_is_found_for_its_arrangement_alone() {
        let folder = tempfile::tempdir().unwrap();
        let data = DataDir::choose(Some(folder.path()), None).unwrap();
        let (here, other) = (begin([GIB, GIB]), begin([GIB, 2 * GIB]));
        assert_eq!(learned_for(&data, &here), None);
        let file = keep_learned(&data, &map(&here)).unwrap().unwrap();
        assert!(file.ends_with("maps/tarnwerk-holm-m2-1.toml"), "{file:?}");
        assert_eq!(keep_learned(&data, &map(&here)).unwrap(), None, "the same is kept once");
        assert_eq!(learned_for(&data, &here).as_ref(), Some(&map(&here)));
        assert_eq!(learned_for(&data, &other), None);
        std::fs::write(&file, "rubbish").unwrap();
        assert_eq!(learned_for(&data, &here), None);
    }
}
