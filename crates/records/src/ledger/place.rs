//! Where the ledger is kept, where that is not a file in the folder of the records: `ledger.toml` in that folder names a server.

use std::fs::Permissions;
use std::os::unix::fs::PermissionsExt as _;
use std::path::Path;

use anyhow::{Context, Result};
use revisum_linux::files;
use serde::{Deserialize, Serialize};

use crate::say;

/// Longest file read.
const LONGEST: u64 = 256 << 10;

/// A server, and how this folder is known there.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Place {
    /// Address as PostgreSQL's own programs take it: `postgresql://name@host/database`, or `host=… user=…`.
    pub address: String,
    /// Password, where it does not stand in the address.
    pub password: Option<String>,
    /// What the records of this folder are called for others who find them.
    pub name: String,
    /// Certificates, in PEM, of which one must vouch for the server. Without, only a server on this computer is spoken to.
    pub authority: Option<String>,
    /// What tells this folder from all others that share the server.
    pub origin: String,
    /// Device and number of the folder: a copy of it is another one.
    pub folder: String,
}

impl Place {
    /// What `ledger.toml` says; nothing where there is none.
    ///
    /// # Errors
    /// When it cannot be read or is no such file.
    pub fn read(file: &Path) -> Result<Option<Self>> {
        let unread = || say::ledger_place_unread(file.display().to_string());
        match files::read_text(file, LONGEST) {
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(None),
            Err(error) => Err(error).with_context(unread),
            Ok(text) => Ok(Some(toml::from_str(&text).with_context(unread)?)),
        }
    }

    /// Keeps it.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub fn keep(&self, file: &Path) -> Result<()> {
        let text = toml::to_string(self)?;
        // It may hold a password: it is for its owner alone also where others may read what is written.
        files::write(file, text.as_bytes())
            .and_then(|()| std::fs::set_permissions(file, Permissions::from_mode(0o600)))
            .with_context(|| say::ledger_place_not_kept(file.display().to_string()))
    }

    /// The address without its password.
    pub fn shown(&self) -> String {
        #[cfg(feature = "shared-ledger")]
        if let Ok(config) = self.address.parse::<postgres::Config>() {
            return shown(&config);
        }
        say::ledger_address_of_a_server().to_owned()
    }
}

/// `host:port/database`, as far as they are named.
#[cfg(feature = "shared-ledger")]
fn shown(config: &postgres::Config) -> String {
    use postgres::config::Host;
    let host = config.get_hosts().first().map(|host| match host {
        Host::Tcp(name) => name.clone(),
        Host::Unix(path) => path.display().to_string(),
    });
    let port = config.get_ports().first().map(|port| format!(":{port}")).unwrap_or_default();
    let database = config.get_dbname().or(config.get_user()).unwrap_or_default();
    revisum_engine::text::cleaned(&format!("{}{port}/{database}", host.unwrap_or_default()), 120)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_kept_is_read_again_by_its_owner_alone() {
        let folder = tempfile::tempdir().unwrap();
        let file = folder.path().join("ledger.toml");
        assert_eq!(Place::read(&file).unwrap(), None);
        let place = Place {
            address: "postgresql://shop@localhost/shop".into(),
            password: Some("\"quoted\" = \\ ü".into()),
            name: "North".into(),
            authority: None,
            origin: "a1".into(),
            folder: "1:2".into(),
        };
        place.keep(&file).unwrap();
        assert_eq!(Place::read(&file).unwrap(), Some(place));
        assert_eq!(std::fs::metadata(&file).unwrap().permissions().mode() & 0o777, 0o600);
        std::fs::write(&file, "address = 7").unwrap();
        let error = Place::read(&file).unwrap_err();
        assert!(error.to_string().contains("revisum ledger own"), "{error}");
    }
}
