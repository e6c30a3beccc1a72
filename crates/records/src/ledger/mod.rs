//! The ledger: what all journals of a data directory come to, in a database, so that one of fifty thousand is found at once. It holds nothing
//! that the journals do not: it can be thrown away and built again. The database is a file beside the journals, or a server that the folders of
//! many share.

mod base;
mod embedded;
mod jobs;
mod kept_up;
mod life;
mod place;
mod search;
#[cfg(feature = "shared-ledger")]
mod shared;
#[cfg(all(test, feature = "shared-ledger"))]
mod shared_tests;
mod sharing;
mod speeds;
mod tables;
mod take;
#[cfg(test)]
mod tests;
mod trouble;

pub use kept_up::KeptUp;
pub use life::{Life, LifeEnd, LifeLine};
pub use place::Place;
pub use sharing::{Holding, Sharing, end_sharing};
pub use speeds::SpeedFound;
pub(super) use take::Arrival;

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::time::{SystemTime, UNIX_EPOCH};

use anyhow::{Context, Result};

use revisum_linux::stamp_of_parts;

use self::base::{Base, Dialect, Row, Value};
use self::embedded::Embedded;
use super::runs::{left_out, stamps};
use crate::DataDir;
use crate::say;

/// Names asked for at once.
const AT_ONCE: usize = 500;

/// An open ledger.
pub struct Ledger {
    base: Box<dyn Base>,
    /// The number of this folder among those that share the database.
    origin: i64,
    folder: PathBuf,
    jobs: PathBuf,
    aside: Option<String>,
}

impl Ledger {
    /// Opens the ledger of these records, and takes in what is new there. Where a server keeps it and does not answer, it is the one in the
    /// folder, and [`Self::aside`] says why.
    ///
    /// # Errors
    /// When the file cannot be opened or written; the journals can then still be read one by one.
    pub fn open(data: &DataDir) -> Result<Self> {
        let (shared, aside) = match sharing::lent(data) {
            Ok(shared) => (shared, None),
            Err(error) => (None, Some(format!("{error:#}"))),
        };
        let ledger = match shared {
            Some((base, place)) => Self::over(data, base, &place.origin, &place.name)?,
            None => Self::over(data, Box::new(Embedded::open(&data.ledger())?), "", "")?,
        };
        let mut ledger = Self { aside, ..ledger };
        ledger.refresh()?;
        Ok(ledger)
    }

    fn over(data: &DataDir, base: Box<dyn Base>, id: &str, name: &str) -> Result<Self> {
        let origin = origin_of(&*base, id, name)?;
        Ok(Self { base, origin, folder: data.runs(), jobs: data.jobs(), aside: None })
    }

    /// Why this is the ledger of this folder alone, where a server was to keep it.
    pub fn aside(&self) -> Option<&str> {
        self.aside.as_deref()
    }

    /// Lets go of everything that this folder holds and reads all journals again.
    ///
    /// # Errors
    /// When the ledger cannot be written.
    pub fn rebuild(&mut self) -> Result<()> {
        match self.base.clear()? {
            true => self.origin = origin_of(&*self.base, "", "")?,
            false => self.let_go()?,
        }
        self.refresh()
    }

    /// Lets go of everything that this folder holds: what no other holds is gone.
    fn let_go(&self) -> Result<()> {
        let names: Vec<String> = self.stamps()?.into_keys().collect();
        for names in names.chunks(AT_ONCE) {
            self.forget(names)?;
        }
        self.forget_jobs()?;
        self.base.change("DELETE FROM folders WHERE origin = $1", &[self.origin.into()])?;
        Ok(())
    }

    /// Takes in journals that are new or have changed. An unchanged folder costs one look at it.
    ///
    /// # Errors
    /// When the folder cannot be read or the ledger cannot be written.
    pub fn refresh(&mut self) -> Result<()> {
        let changed_ns = changed_ns(&self.folder);
        let known = self.base.row("SELECT changed_ns FROM folders WHERE origin = $1", &[self.origin.into()])?;
        let known = known.map(|row| row.int(0)).transpose()?;
        let (open, folder) = (self.open_runs()?, self.folder.clone());
        let arrival = |name: &String| Arrival::from(folder.join(format!("{name}.journal")));
        if changed_ns.is_some() && known == changed_ns {
            self.take(open.iter().map(arrival))?;
            return self.refresh_jobs(&open);
        }
        let (here, known) = (stamps(&self.folder)?, self.stamps()?);
        let is_fresh = |name: &String, stamp: &u64| known.get(name) != Some(stamp) || open.contains(name);
        let fresh: Vec<&String> =
            here.iter().filter(|(name, stamp)| is_fresh(name, stamp)).map(|(name, _)| name).collect();
        let gone: Vec<String> = known.keys().filter(|name| !here.contains_key(*name)).cloned().collect();
        let changed: Vec<String> = fresh.iter().copied().chain(&gone).cloned().collect();
        self.take(fresh.into_iter().map(arrival))?;
        for gone in gone.chunks(AT_ONCE) {
            self.forget(gone)?;
        }
        self.base.change("DELETE FROM folders WHERE origin = $1", &[self.origin.into()])?;
        if let Some(changed_ns) = changed_ns.filter(|changed_ns| is_settled(*changed_ns)) {
            let sql = "INSERT INTO folders VALUES ($1, $2) ON CONFLICT (origin) DO UPDATE SET changed_ns = excluded.changed_ns";
            self.base.change(sql, &[self.origin.into(), changed_ns.into()])?;
        }
        self.refresh_jobs(&changed)
    }

    /// Runs that were being written when they were taken in, and those of which somebody else's better copy went: they are to be looked at.
    fn open_runs(&self) -> Result<Vec<String>> {
        // By the plus no plan takes the way over all names of the folder: few rows are open.
        let rows = self.base.rows("SELECT name FROM holders WHERE +origin = $1 AND open", &[self.origin.into()])?;
        Ok(rows.iter().map(|row| row.text(0)).collect::<Result<_, _>>()?)
    }

    /// Stamps of the journals that were taken in, by name.
    fn stamps(&self) -> Result<BTreeMap<String, u64>> {
        let rows = self.base.rows("SELECT name, stamp FROM holders WHERE origin = $1", &[self.origin.into()])?;
        let pair = |row: &Row| Ok((row.text(0)?, row.int(1)?.cast_unsigned()));
        rows.iter().map(pair).collect()
    }

    /// Takes in again those of these runs that were changed in place, which the folder does not show; whether there were any.
    fn freshen<'a>(&self, ids: impl Iterator<Item = &'a str>) -> Result<bool> {
        let ids: Vec<&str> = ids.collect();
        let mut stale = Vec::new();
        for row in self.rows_of("SELECT name, stamp FROM holders WHERE origin = $1 AND name", &ids)? {
            let name = row.text(0)?;
            let path = self.folder.join(format!("{name}.journal"));
            if Some(row.int(1)?) != stamp_of_parts(&path).map(u64::cast_signed) {
                stale.push((name, path));
            }
        }
        if stale.is_empty() {
            return Ok(false);
        }
        let (ids, paths): (Vec<String>, Vec<PathBuf>) = stale.into_iter().unzip();
        self.take(paths.into_iter().map(Arrival::from))?;
        self.refresh_jobs(&ids)?;
        Ok(true)
    }

    /// What a question with this folder for `$1` finds for each of these names, which its end is compared with.
    fn rows_of(&self, question: &str, names: &[impl AsRef<str>]) -> Result<Vec<Row>> {
        let mut found = Vec::new();
        for names in names.chunks(AT_ONCE) {
            let places: Vec<String> = (2..names.len() + 2).map(|at| format!("${at}")).collect();
            let names = names.iter().map(|name| name.as_ref().into());
            let values: Vec<Value> = std::iter::once(self.origin.into()).chain(names).collect();
            found.extend(self.base.rows(&format!("{question} IN ({})", places.join(", ")), &values)?);
        }
        Ok(found)
    }

    /// Journals of this folder that could not be read, and why.
    ///
    /// # Errors
    /// When the ledger cannot be read.
    pub fn unreadable(&self) -> Result<Vec<String>> {
        let sql = "SELECT why FROM holders WHERE +origin = $1 AND why IS NOT NULL ORDER BY name";
        let rows = self.base.rows(sql, &[self.origin.into()])?;
        let mut all: Vec<String> = rows.iter().map(|row| row.text(0)).collect::<Result<_, _>>()?;
        let read = match self.base.dialect() {
            Dialect::Embedded => self.base.row("SELECT count(*) FROM holders", &[])?,
            Dialect::Shared => {
                self.base.row("SELECT count(*) FROM holders WHERE origin = $1", &[self.origin.into()])?
            }
        };
        let read = read.map(|row| row.int(0)).transpose()?.unwrap_or(0);
        all.extend(left_out(read as usize, &self.folder));
        Ok(all)
    }
}

/// The number of a folder; it gets one, and its name is kept up to date.
fn origin_of(base: &dyn Base, id: &str, name: &str) -> Result<i64> {
    let sql = "INSERT INTO origins (id, name) VALUES ($1, $2) ON CONFLICT (id) DO NOTHING";
    let known = base.row("SELECT nr, name FROM origins WHERE id = $1", &[id.into()])?;
    match known {
        Some(row) if row.text(1)? == name => Ok(row.int(0)?),
        Some(row) => {
            base.change("UPDATE origins SET name = $1 WHERE id = $2", &[name.into(), id.into()])?;
            Ok(row.int(0)?)
        }
        None => base.add(sql, &[id.into(), name.into()])?.context(say::ledger_held()),
    }
}

fn changed_ns(folder: &Path) -> Option<i64> {
    let changed = std::fs::metadata(folder).ok()?.modified().ok()?;
    i64::try_from(changed.duration_since(UNIX_EPOCH).ok()?.as_nanos()).ok()
}

/// Whether a change is so long ago that another one would have another time: file systems of drives count in steps of two seconds.
fn is_settled(changed_ns: i64) -> bool {
    const STEP_NS: u128 = 3_000_000_000;
    let now = SystemTime::now().duration_since(UNIX_EPOCH).map_or(0, |now| now.as_nanos());
    now.abs_diff(u128::try_from(changed_ns).unwrap_or(0)) > STEP_NS
}
