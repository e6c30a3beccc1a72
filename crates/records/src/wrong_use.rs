//! Mistakes of whoever called.

use thiserror::Error;

/// A mistake in how the program was called.
#[derive(Debug, Error)]
#[error("{0}")]
pub struct WrongUse(pub String);
