//! Where an image is read from.

use std::io;

/// An image, byte by byte at any place.
pub trait ImageSource {
    /// Its length in bytes.
    fn bytes(&self) -> u64;
    /// Fills the buffer from an offset on.
    ///
    /// # Errors
    /// When it cannot be read.
    fn read_at(&mut self, bytes: &mut [u8], at: u64) -> io::Result<()>;
}
