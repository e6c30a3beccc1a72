//! The ledger's database as a file in the folder of the records.

use std::path::Path;
use std::time::Duration;

use anyhow::{Context, Result};
use revisum_linux::files;
use rusqlite::types::{ToSql, ToSqlOutput, ValueRef};
use rusqlite::{Connection, params_from_iter};

use super::base::{Base, Dialect, Row, Value};
use super::tables;
use crate::say;

/// Statements kept ready.
const STATEMENTS: usize = 64;

/// The file, open.
pub struct Embedded(Connection);

impl Embedded {
    /// Opens the file, with empty tables where it has none of this version.
    ///
    /// # Errors
    /// When it cannot be opened or written.
    pub fn open(file: &Path) -> Result<Self> {
        // It holds serial numbers: it is made for its owner alone before anything is in it.
        let _ = files::open_or_create(file);
        let base = Connection::open(file).with_context(|| say::ledger_not_opened(file.display().to_string()))?;
        base.busy_timeout(Duration::from_secs(5))?;
        base.set_prepared_statement_cache_capacity(STATEMENTS);
        base.pragma_update(None, "journal_mode", "WAL")?;
        // What a power cut takes out of it is in the journals.
        base.pragma_update(None, "synchronous", "OFF")?;
        let version: i64 = base.pragma_query_value(None, "user_version", |row| row.get(0))?;
        let embedded = Self(base);
        if version != tables::VERSION {
            embedded.clear()?;
        }
        Ok(embedded)
    }
}

impl Base for Embedded {
    fn rows(&self, sql: &str, values: &[Value]) -> Result<Vec<Row>> {
        let mut statement = self.0.prepare_cached(&numbered(sql))?;
        let columns = statement.column_count();
        let row = |row: &rusqlite::Row<'_>| {
            (0..columns).map(|at| row.get_ref(at).map(value_of)).collect::<rusqlite::Result<_>>().map(Row)
        };
        Ok(statement.query_map(params_from_iter(values), row)?.collect::<rusqlite::Result<_>>()?)
    }

    fn change(&self, sql: &str, values: &[Value]) -> Result<u64> {
        Ok(self.0.prepare_cached(&numbered(sql))?.execute(params_from_iter(values))? as u64)
    }

    fn add(&self, sql: &str, values: &[Value]) -> Result<Option<i64>> {
        Ok((self.change(sql, values)? > 0).then(|| self.0.last_insert_rowid()))
    }

    fn whole(&self, work: &mut dyn FnMut() -> Result<()>) -> Result<()> {
        let transaction = self.0.unchecked_transaction()?;
        work()?;
        Ok(transaction.commit()?)
    }

    fn clear(&self) -> Result<bool> {
        self.0.execute_batch(&tables::embedded())?;
        self.0.pragma_update(None, "user_version", tables::VERSION)?;
        Ok(true)
    }

    fn dialect(&self) -> Dialect {
        Dialect::Embedded
    }
}

impl ToSql for Value {
    fn to_sql(&self) -> rusqlite::Result<ToSqlOutput<'_>> {
        Ok(ToSqlOutput::Borrowed(match self {
            Self::Null | Self::Other => ValueRef::Null,
            Self::Int(number) => ValueRef::Integer(*number),
            Self::Flag(flag) => ValueRef::Integer(i64::from(*flag)),
            Self::Text(text) => ValueRef::Text(text.as_bytes()),
        }))
    }
}

/// Here a place with a `$` is numbered by where it stands first, not by its number.
fn numbered(sql: &str) -> String {
    sql.replace('$', "?")
}

fn value_of(value: ValueRef<'_>) -> Value {
    match value {
        ValueRef::Null => Value::Null,
        ValueRef::Integer(number) => Value::Int(number),
        ValueRef::Text(text) => std::str::from_utf8(text).map_or(Value::Other, Value::from),
        ValueRef::Real(_) | ValueRef::Blob(_) => Value::Other,
    }
}
