//! Sharing a ledger with the folders of others.

use std::os::unix::fs::MetadataExt as _;
use std::path::Path;
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, anyhow};
use revisum_engine::text::cleaned;
use revisum_linux::files;
use serde::Serialize;

use super::base::{Base, Row};
use super::{Ledger, Place};
use crate::say;
use crate::{DataDir, WrongUse};

/// Longest name of a folder.
const LONGEST_NAME: usize = 60;
/// Longest file with a password or certificates.
const LONGEST_FILE: u64 = 128 << 10;
/// How long a server that did not answer is not asked again: whoever looks at records does not wait for it each time.
const REST: Duration = Duration::from_secs(20);

/// Whom it was, when and why that a server did not answer.
pub(super) static SILENT: Mutex<Option<(Place, Instant, String)>> = Mutex::new(None);

/// What one folder holds of a ledger.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Holding {
    /// What the folder is called.
    pub name: String,
    /// Journals of runs, those that cannot be read too.
    pub runs: u64,
    /// Jobs.
    pub jobs: u64,
    /// Whether it is this folder.
    pub here: bool,
}

/// A server that is to keep the ledger of a folder.
#[derive(Clone, Copy, Debug)]
pub struct Sharing<'a> {
    /// Its address.
    pub address: &'a str,
    /// File with the password.
    pub password: Option<&'a Path>,
    /// File of certificates of which one must vouch for the server.
    pub authority: Option<&'a Path>,
    /// What the folder is called for the others.
    pub name: &'a str,
}

impl Sharing<'_> {
    /// Has the ledger of these records kept by the server from now on, and takes everything in there.
    ///
    /// # Errors
    /// When the server cannot be reached or cannot keep it: all stays as it was.
    pub fn begin(&self, data: &DataDir) -> Result<Place> {
        let file = data.ledger_place();
        let folder = number_of(&data.root())?;
        let before = Place::read(&file).ok().flatten().filter(|place| place.folder == folder);
        let read = |file: &Path| {
            files::read_text(file, LONGEST_FILE).with_context(|| say::ledger_file_unread(file.display().to_string()))
        };
        let password = self.password.map(read).transpose()?;
        let place = Place {
            address: self.address.to_owned(),
            password: password.map(|text| text.lines().next().unwrap_or_default().to_owned()),
            name: named(self.name)?,
            authority: self.authority.map(read).transpose()?,
            origin: before.map_or_else(fresh_origin, |place| Ok(place.origin))?,
            folder,
        };
        let base = lent_to(&place)?;
        let mut ledger = Ledger::over(data, base, &place.origin, &place.name)?;
        place.keep(&file)?;
        ledger.refresh()?;
        Ok(place)
    }
}

/// Has the ledger kept in the folder again. What this folder holds is let go of at the server; why that could not be done is given, where it was
/// not.
///
/// # Errors
/// When the folder cannot be written.
pub fn end_sharing(data: &DataDir) -> Result<Option<String>> {
    let file = data.ledger_place();
    let let_go = || -> Result<()> {
        // What a copied folder has not held yet belongs to the one that it was copied from.
        let folder = number_of(&data.root())?;
        let Some(place) = Place::read(&file)?.filter(|place| place.folder == folder) else { return Ok(()) };
        Ledger::over(data, lent_to(&place)?, &place.origin, &place.name)?.let_go()
    };
    let trouble = let_go().err().map(|error| format!("{error:#}"));
    match std::fs::remove_file(&file) {
        Err(error) if error.kind() != std::io::ErrorKind::NotFound => {
            Err(error).with_context(|| say::ledger_place_not_kept(file.display().to_string()))
        }
        _ => Ok(trouble),
    }
}

impl Ledger {
    /// What a folder is called that holds the run with this id, where it is another one.
    ///
    /// # Errors
    /// When the ledger cannot be read.
    pub fn keeper(&self, id: &str) -> Result<Option<String>> {
        let sql = "SELECT origins.name FROM holders JOIN origins ON origins.nr = holders.origin \
                   WHERE holders.name = $1 AND holders.origin <> $2 ORDER BY origins.nr";
        let row = self.base.row(sql, &[id.into(), self.origin.into()])?;
        Ok(row.map(|row| row.text(0)).transpose()?)
    }

    /// What each folder holds of it, by name.
    ///
    /// # Errors
    /// When the ledger cannot be read.
    pub fn holdings(&self) -> Result<Vec<Holding>> {
        let sql = "SELECT name, (SELECT count(*) FROM holders WHERE origin = nr), (SELECT count(*) FROM job_holders WHERE origin = nr), nr \
                   FROM origins ORDER BY name, nr";
        let holding = |row: &Row| -> Result<Holding> {
            let (runs, jobs) = (row.int(1)?.cast_unsigned(), row.int(2)?.cast_unsigned());
            Ok(Holding { name: row.text(0)?, runs, jobs, here: row.int(3)? == self.origin })
        };
        let all = self.base.rows(sql, &[])?.iter().map(holding).collect::<Result<Vec<_>>>()?;
        Ok(all.into_iter().filter(|holding| holding.here || holding.runs + holding.jobs > 0).collect())
    }
}

/// The server that keeps this folder's ledger, where one does.
pub(super) fn lent(data: &DataDir) -> Result<Option<(Box<dyn Base>, Place)>> {
    let file = data.ledger_place();
    let Some(mut place) = Place::read(&file)? else { return Ok(None) };
    let folder = number_of(&data.root())?;
    if folder != place.folder {
        // A copy of the folder that called itself the same would take from the ledger what only the other one holds.
        place = Place { origin: fresh_origin()?, folder, ..place };
        place.keep(&file)?;
    }
    let mut silent = SILENT.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some((_, _, why)) = silent.as_ref().filter(|(whom, since, _)| *whom == place && since.elapsed() < REST) {
        return Err(anyhow!(why.clone()));
    }
    let base = lent_to(&place);
    *silent = base.as_ref().err().map(|error| (place.clone(), Instant::now(), format!("{error:#}")));
    Ok(Some((base?, place)))
}

#[cfg(feature = "shared-ledger")]
fn lent_to(place: &Place) -> Result<Box<dyn Base>> {
    Ok(Box::new(super::shared::Lent::to(place)?))
}

#[cfg(not(feature = "shared-ledger"))]
fn lent_to(_place: &Place) -> Result<Box<dyn Base>> {
    anyhow::bail!("this program was built to know no servers")
}

fn named(name: &str) -> Result<String> {
    let name = cleaned(name.trim(), LONGEST_NAME);
    if name.is_empty() { Err(WrongUse(say::ledger_no_name().to_owned()).into()) } else { Ok(name) }
}

/// What no other folder is called.
fn fresh_origin() -> Result<String> {
    use std::io::Read as _;
    let mut bytes = [0; 16];
    std::fs::File::open("/dev/urandom").and_then(|mut file| file.read_exact(&mut bytes)).context("/dev/urandom")?;
    Ok(bytes.iter().map(|byte| format!("{byte:02x}")).collect())
}

/// Device and number of a folder.
fn number_of(folder: &Path) -> Result<String> {
    let meta = std::fs::metadata(folder).with_context(|| say::records_cannot_be_read(folder.display().to_string()))?;
    Ok(format!("{}:{}", meta.dev(), meta.ino()))
}
