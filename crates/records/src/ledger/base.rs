//! What the ledger asks of a database, in the SQL that both kinds of it understand: places `$1`, `$2` for whole numbers, text, and yes or no.

use anyhow::Result;
use thiserror::Error;

/// A value that is handed in or comes back.
#[derive(Clone, Debug, PartialEq)]
pub enum Value {
    /// Nothing.
    Null,
    /// A whole number; a database without yes and no keeps those as 1 and 0.
    Int(i64),
    /// Yes or no.
    Flag(bool),
    /// Text.
    Text(String),
    /// Something that no ledger holds.
    Other,
}

/// A row that the ledger did not write like this.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
#[error("unknown {0}")]
pub struct Unreadable(pub &'static str);

/// Values of one row, by their place.
pub struct Row(pub Vec<Value>);

impl Row {
    fn at(&self, at: usize) -> &Value {
        self.0.get(at).unwrap_or(&Value::Other)
    }

    /// Text.
    ///
    /// # Errors
    /// When something else stands there.
    pub fn text(&self, at: usize) -> Result<String, Unreadable> {
        self.maybe_text(at)?.ok_or(Unreadable("text"))
    }

    /// Text, or nothing.
    ///
    /// # Errors
    /// When something else stands there.
    pub fn maybe_text(&self, at: usize) -> Result<Option<String>, Unreadable> {
        match self.at(at) {
            Value::Text(text) => Ok(Some(text.clone())),
            Value::Null => Ok(None),
            _ => Err(Unreadable("text")),
        }
    }

    /// A whole number.
    ///
    /// # Errors
    /// When something else stands there.
    pub fn int(&self, at: usize) -> Result<i64, Unreadable> {
        self.maybe_int(at)?.ok_or(Unreadable("number"))
    }

    /// A whole number, or nothing.
    ///
    /// # Errors
    /// When something else stands there.
    pub fn maybe_int(&self, at: usize) -> Result<Option<i64>, Unreadable> {
        match self.at(at) {
            Value::Int(number) => Ok(Some(*number)),
            Value::Null => Ok(None),
            _ => Err(Unreadable("number")),
        }
    }

    /// Yes or no.
    ///
    /// # Errors
    /// When something else stands there.
    pub fn flag(&self, at: usize) -> Result<bool, Unreadable> {
        match self.at(at) {
            Value::Flag(flag) => Ok(*flag),
            Value::Int(number) => Ok(*number != 0),
            _ => Err(Unreadable("yes or no")),
        }
    }
}

impl From<&str> for Value {
    fn from(text: &str) -> Self {
        Self::Text(text.to_owned())
    }
}

impl From<&String> for Value {
    fn from(text: &String) -> Self {
        Self::Text(text.clone())
    }
}

impl From<String> for Value {
    fn from(text: String) -> Self {
        Self::Text(text)
    }
}

impl From<Option<&str>> for Value {
    fn from(text: Option<&str>) -> Self {
        text.map_or(Self::Null, Self::from)
    }
}

impl From<i64> for Value {
    fn from(number: i64) -> Self {
        Self::Int(number)
    }
}

impl From<bool> for Value {
    fn from(flag: bool) -> Self {
        Self::Flag(flag)
    }
}

/// How a database finds pieces of words, and what it has of its own besides.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Dialect {
    /// A file of this folder: a table of three-letter pieces beside the runs.
    Embedded,
    /// A server with folders of many: an index of three-letter pieces on the text itself, and rows that are held while they are decided on.
    Shared,
}

/// A database.
pub trait Base: Send {
    /// What a question finds.
    ///
    /// # Errors
    /// When it cannot be asked.
    fn rows(&self, sql: &str, values: &[Value]) -> Result<Vec<Row>>;

    /// Changes rows; how many.
    ///
    /// # Errors
    /// When they cannot be changed.
    fn change(&self, sql: &str, values: &[Value]) -> Result<u64>;

    /// Adds a row to a table that numbers its rows as `nr`; its number, or nothing where the statement leaves a row that is there alone.
    ///
    /// # Errors
    /// When it cannot be added.
    fn add(&self, sql: &str, values: &[Value]) -> Result<Option<i64>>;

    /// All of the work or nothing of it. It is done once more where it met the work of somebody else.
    ///
    /// # Errors
    /// When the work fails, or cannot be kept.
    fn whole(&self, work: &mut dyn FnMut() -> Result<()>) -> Result<()>;

    /// Throws everything away, where nobody else's is in it; whether it did.
    ///
    /// # Errors
    /// When it cannot be written.
    fn clear(&self) -> Result<bool>;

    /// Which kind it is.
    fn dialect(&self) -> Dialect;

    /// The first row that a question finds.
    ///
    /// # Errors
    /// As [`Self::rows`].
    fn row(&self, sql: &str, values: &[Value]) -> Result<Option<Row>> {
        Ok(self.rows(sql, values)?.into_iter().next())
    }
}
