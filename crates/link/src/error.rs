//! What goes wrong between two machines.

use std::io;
use std::path::PathBuf;

/// Why a link cannot be had, or has ended.
#[derive(Debug, thiserror::Error)]
pub enum LinkError {
    /// The network or a file.
    #[error(transparent)]
    Io(#[from] io::Error),
    /// A file of keys.
    #[error("{}: {why}", path.display())]
    File {
        /// Which.
        path: PathBuf,
        /// What is wrong with it.
        why: String,
    },
    /// The other side is not of this shop, or its card was taken back.
    #[error("not of this shop: {0}")]
    Stranger(String),
    /// Something came that is no frame of this link.
    #[error("not understood: {0}")]
    Garbled(&'static str),
    /// No key could be made.
    #[error("keys: {0}")]
    Keys(String),
}

impl From<rustls::Error> for LinkError {
    fn from(error: rustls::Error) -> Self {
        Self::Stranger(error.to_string())
    }
}

impl From<rcgen::Error> for LinkError {
    fn from(error: rcgen::Error) -> Self {
        Self::Keys(error.to_string())
    }
}
