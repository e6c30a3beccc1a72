//! A shop: the key that signs its cards, and the cards that are in use.

use std::collections::BTreeMap;
use std::fs::OpenOptions;
use std::io::{self, Write};
use std::os::unix::fs::OpenOptionsExt as _;
use std::path::{Path, PathBuf};

use rcgen::{
    BasicConstraints, CertificateParams, DnType, ExtendedKeyUsagePurpose, IsCa, Issuer, KeyPair, KeyUsagePurpose,
};
use rustls::pki_types::CertificateDer;
use rustls::pki_types::pem::PemObject as _;
use serde::{Deserialize, Serialize};

use crate::card::Card;
use crate::error::LinkError;
use crate::secure::{COUNTER, random};

const SHOP: &str = "shop.toml";
const CARDS: &str = "cards";
/// Cards looked at.
const MOST_CARDS: usize = 10_000;

/// The shop's key and certificate.
#[derive(Clone, Serialize, Deserialize)]
struct Keys {
    name: String,
    certificate: String,
    key: String,
}

/// A card that is in use.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Issued {
    /// Which.
    pub id: String,
    /// Number of the drive that it is on.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub number: Option<u16>,
    /// Several machines start with it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub shared: bool,
    /// Its certificate, as PEM.
    pub certificate: String,
}

/// A shop's keys, in a folder that belongs to it.
#[derive(Clone)]
pub struct Shop {
    folder: PathBuf,
    keys: Keys,
}

impl Shop {
    /// The shop whose keys are in this folder; nothing where there are none.
    ///
    /// # Errors
    /// When they cannot be read.
    pub fn open(folder: &Path) -> Result<Option<Self>, LinkError> {
        let path = folder.join(SHOP);
        match std::fs::read_to_string(&path) {
            Ok(text) => {
                let keys =
                    toml::from_str(&text).map_err(|error| LinkError::File { path, why: error.message().to_owned() })?;
                Ok(Some(Self { folder: folder.to_owned(), keys }))
            }
            Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(None),
            Err(error) => Err(error.into()),
        }
    }

    /// The same; makes them where there are none.
    ///
    /// # Errors
    /// When they cannot be read or written.
    pub fn open_or_found(folder: &Path, name: &str) -> Result<Self, LinkError> {
        if let Some(shop) = Self::open(folder)? {
            return Ok(shop);
        }
        std::fs::create_dir_all(folder.join(CARDS))?;
        let key = KeyPair::generate()?;
        let certificate = shop_params(name)?.self_signed(&key)?.pem();
        let keys = Keys { name: name.to_owned(), certificate, key: key.serialize_pem() };
        let text = toml::to_string(&keys).map_err(|error| LinkError::Keys(error.to_string()))?;
        write_new(&folder.join(SHOP), &text)?;
        Ok(Self { folder: folder.to_owned(), keys })
    }

    /// Its name.
    pub fn name(&self) -> &str {
        &self.keys.name
    }

    /// Its certificate, as PEM.
    pub(crate) fn certificate(&self) -> &str {
        &self.keys.certificate
    }

    /// Makes a card for a drive of this number; `counter` is where the machine finds the counter.
    ///
    /// # Errors
    /// When it cannot be noted down.
    pub fn issue(&self, number: Option<u16>, counter: Option<&str>) -> Result<Card, LinkError> {
        self.issue_for(number, counter, false)
    }

    /// Makes a card with which several machines start.
    ///
    /// # Errors
    /// When it cannot be noted down.
    pub fn issue_shared(&self, counter: Option<&str>) -> Result<Card, LinkError> {
        self.issue_for(None, counter, true)
    }

    fn issue_for(&self, number: Option<u16>, counter: Option<&str>, shared: bool) -> Result<Card, LinkError> {
        let id = random()?.iter().map(|byte| format!("{byte:02x}")).collect::<String>();
        let (certificate, key) = self.sign(&id, ExtendedKeyUsagePurpose::ClientAuth)?;
        let issued = Issued { id: id.clone(), number, shared, certificate: certificate.clone() };
        let text = toml::to_string(&issued).map_err(|error| LinkError::Keys(error.to_string()))?;
        std::fs::create_dir_all(self.folder.join(CARDS))?;
        write_new(&self.path_of(&id), &text)?;
        Ok(Card {
            shop: self.keys.name.clone(),
            id,
            counter: counter.map(str::to_owned),
            shared,
            shop_certificate: self.keys.certificate.clone(),
            certificate,
            key,
        })
    }

    /// Cards that are in use, by their certificates.
    ///
    /// # Errors
    /// When the folder cannot be read. A card that cannot be is left out: it opens nothing.
    pub fn issued(&self) -> Result<BTreeMap<Vec<u8>, Issued>, LinkError> {
        let files = match std::fs::read_dir(self.folder.join(CARDS)) {
            Err(error) if error.kind() == io::ErrorKind::NotFound => return Ok(BTreeMap::new()),
            files => files?,
        };
        let one = |file: std::fs::DirEntry| -> Option<(Vec<u8>, Issued)> {
            let issued: Issued = toml::from_str(&std::fs::read_to_string(file.path()).ok()?).ok()?;
            let der = CertificateDer::from_pem_slice(issued.certificate.as_bytes()).ok()?;
            Some((der.to_vec(), issued))
        };
        Ok(files.flatten().take(MOST_CARDS).filter_map(one).collect())
    }

    /// Whether a card is in use.
    pub(crate) fn is_in_use(&self, id: &str) -> bool {
        self.path_of(id).exists()
    }

    /// Changes when a card is issued or taken back; nothing where that cannot be told.
    pub(crate) fn cards_changed(&self) -> Option<std::time::SystemTime> {
        std::fs::metadata(self.folder.join(CARDS)).and_then(|folder| folder.modified()).ok()
    }

    /// Takes a card back: whoever holds it gets nothing from now on. Whether there was one.
    ///
    /// # Errors
    /// When it cannot be taken away.
    pub fn take_back(&self, id: &str) -> Result<bool, LinkError> {
        if !id.bytes().all(|letter| letter.is_ascii_alphanumeric()) {
            return Ok(false);
        }
        match std::fs::remove_file(self.path_of(id)) {
            Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(false),
            Err(error) => Err(error.into()),
            Ok(()) => Ok(true),
        }
    }

    /// A certificate for the counter itself, as PEM, and its key.
    pub(crate) fn counter_certificate(&self) -> Result<(String, String), LinkError> {
        self.sign(COUNTER, ExtendedKeyUsagePurpose::ServerAuth)
    }

    fn sign(&self, name: &str, purpose: ExtendedKeyUsagePurpose) -> Result<(String, String), LinkError> {
        let shop_key = KeyPair::from_pem(&self.keys.key)?;
        let issuer = Issuer::new(shop_params(&self.keys.name)?, shop_key);
        let key = KeyPair::generate()?;
        // Valid for as long as can be said: the clocks of machines that no longer start are often wrong.
        let mut params = CertificateParams::new(vec![name.to_owned()])?;
        params.distinguished_name.push(DnType::CommonName, name);
        params.key_usages = vec![KeyUsagePurpose::DigitalSignature];
        params.extended_key_usages = vec![purpose];
        Ok((params.signed_by(&key, &issuer)?.pem(), key.serialize_pem()))
    }

    fn path_of(&self, id: &str) -> PathBuf {
        self.folder.join(CARDS).join(format!("{id}.toml"))
    }
}

fn shop_params(name: &str) -> Result<CertificateParams, LinkError> {
    let mut params = CertificateParams::new(Vec::new())?;
    params.distinguished_name.push(DnType::CommonName, name);
    params.is_ca = IsCa::Ca(BasicConstraints::Constrained(0));
    params.key_usages = vec![KeyUsagePurpose::KeyCertSign];
    Ok(params)
}

/// A file for its owner alone.
fn write_new(path: &Path, text: &str) -> io::Result<()> {
    let mut file = OpenOptions::new().write(true).create_new(true).mode(0o600).open(path)?;
    file.write_all(text.as_bytes())?;
    file.sync_all()
}
