//! `revisum card`: the cards by which the shop's counter knows machines.

use std::io::Write as _;
use std::path::Path;

use anyhow::{Context as _, Result};
use revisum_link::{Issued, Shop};
use revisum_linux::files;
use revisum_records::{DataDir, WrongUse};
use serde_json::json;

use crate::cli::CardCommand;
use crate::exit::Exit;
use crate::say;

/// The shop with these records; one without keys gets them.
///
/// # Errors
/// When keys cannot be read or kept.
pub(super) fn shop(data: Option<&Path>) -> Result<Shop> {
    let data = DataDir::choose(data, None)?;
    data.prepare()?;
    Shop::open_or_found(&data.link(), say::card_shop()).context(say::card_no_keys())
}

/// Does what was asked.
///
/// # Errors
/// With what happened and what to do.
pub fn run(data: Option<&Path>, what: &CardCommand) -> Result<Exit> {
    let shop = shop(data)?;
    let mut out = crate::plain::stdout();
    match what {
        CardCommand::New { file, number, counter } => {
            let mut target = files::create_new(file)
                .map_err(|error| WrongUse(say::card_not_written(file.display().to_string(), error.to_string())))?;
            let card = shop.issue(*number, counter.as_deref())?;
            target.write_all(card.text()?.as_bytes())?;
            target.sync_all()?;
            writeln!(out, "{}", say::card_written(card.id, file.display().to_string()))?;
        }
        CardCommand::List { json } => {
            let mut issued: Vec<Issued> = shop.issued()?.into_values().collect();
            issued.sort_by_key(|card| (card.number, card.id.clone()));
            if *json {
                let cards = issued.iter().map(|card| json!({ "id": card.id, "number": card.number }));
                writeln!(out, "{}", json!({ "shop": shop.name(), "cards": cards.collect::<Vec<_>>() }))?;
                return Ok(Exit::Clean);
            }
            for card in &issued {
                let number = card.number.map(|number| number.to_string()).unwrap_or_default();
                writeln!(out, "{}", say::card_line(format!("{number:>4}"), &card.id))?;
            }
            if issued.is_empty() {
                writeln!(out, "{}", say::card_none())?;
            }
        }
        CardCommand::TakeBack { card } => {
            let is_meant =
                |known: &&Issued| known.id == *card || known.number.is_some_and(|number| number.to_string() == *card);
            let meant: Vec<Issued> = shop.issued()?.values().filter(is_meant).cloned().collect();
            if meant.is_empty() {
                return Err(WrongUse(say::card_not_known(format!("{card:?}"))).into());
            }
            for card in meant {
                shop.take_back(&card.id)?;
                writeln!(out, "{}", say::card_taken_back(&card.id))?;
            }
        }
    }
    Ok(Exit::Clean)
}
