//! What is written onto a drive so that the machine that starts from it knows the counter, and the counter knows it.

use std::path::Path;

use serde::{Deserialize, Serialize};

use crate::error::LinkError;

/// Largest file of a card in bytes.
const LARGEST: u64 = 64 << 10;

/// A card of a shop: a key, what the shop says of it, and what it knows the shop by. Whoever holds it is taken for that machine.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Card {
    /// Name of the shop.
    pub shop: String,
    /// Which card it is.
    pub id: String,
    /// Where the counter is, `host:port`; it is looked for on the local network where this is missing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub counter: Option<String>,
    /// Several machines start with it, from the network: each also says which it is.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub shared: bool,
    /// The shop's certificate, as PEM (RFC 7468).
    pub shop_certificate: String,
    /// This card's certificate, as PEM.
    pub certificate: String,
    /// This card's key, as PEM.
    pub key: String,
}

impl Card {
    /// The name of its file.
    pub const FILE: &str = "shop-card.toml";

    /// Reads a card; nothing where there is none.
    ///
    /// # Errors
    /// When what is there is no card.
    pub fn read(path: &Path) -> Result<Option<Self>, LinkError> {
        let wrong = |why: String| LinkError::File { path: path.to_owned(), why };
        let meta = match std::fs::metadata(path) {
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => return Ok(None),
            meta => meta?,
        };
        if !meta.is_file() || meta.len() > LARGEST {
            return Err(wrong("no file of a card".into()));
        }
        let text = std::fs::read_to_string(path)?;
        toml::from_str(&text).map(Some).map_err(|error| wrong(error.message().to_owned()))
    }

    /// As it stands in its file.
    ///
    /// # Errors
    /// Never with what a shop has made.
    pub fn text(&self) -> Result<String, LinkError> {
        toml::to_string(self).map_err(|error| LinkError::Keys(error.to_string()))
    }
}
