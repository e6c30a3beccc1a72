//! Frames: a length of four bytes, the lowest first, and a value in postcard's form (its specification of the wire format, version 1).

use std::io::{Read, Write};

use serde::Serialize;
use serde::de::DeserializeOwned;

use crate::error::LinkError;

/// Largest frame in bytes. Nothing larger is taken, so that nobody can ask for memory without sending what fills it.
pub(crate) const LARGEST: usize = 256 << 10;
/// Bytes made room for at a time.
const STEP: usize = 16 << 10;

/// Sends a value.
///
/// # Errors
/// When it is too large, or the other side is gone.
pub(crate) fn send<T: Serialize>(to: &mut dyn Write, value: &T) -> Result<(), LinkError> {
    let bytes = postcard::to_allocvec(value).map_err(|_| LinkError::Garbled("a value without a form"))?;
    if bytes.len() > LARGEST {
        return Err(LinkError::Garbled("a frame that is too large"));
    }
    let mut frame = Vec::with_capacity(bytes.len() + 4);
    frame.extend_from_slice(&(bytes.len() as u32).to_le_bytes());
    frame.extend_from_slice(&bytes);
    to.write_all(&frame)?;
    Ok(to.flush()?)
}

/// Receives a value.
///
/// # Errors
/// When the frame is too large or is no such value, or the other side is gone.
pub(crate) fn receive<T: DeserializeOwned>(from: &mut dyn Read) -> Result<T, LinkError> {
    let mut length = [0; 4];
    from.read_exact(&mut length)?;
    let length = u32::from_le_bytes(length) as usize;
    if length > LARGEST {
        return Err(LinkError::Garbled("a frame that is too large"));
    }
    let mut bytes = Vec::new();
    while bytes.len() < length {
        let there = bytes.len();
        bytes.resize(length.min(there + STEP), 0);
        from.read_exact(&mut bytes[there..])?;
    }
    match postcard::take_from_bytes(&bytes) {
        Ok((value, [])) => Ok(value),
        _ => Err(LinkError::Garbled("a frame with something else in it")),
    }
}
