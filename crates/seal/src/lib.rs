//! The seal of an image: how long it is and its checksum, in a sector of its own before the first partition, so that a file that was cut short or
//! damaged is known before anything is written.

use std::io;

use sha2::{Digest as _, Sha256};

/// Bytes of the seal.
pub const SEAL_BYTES: u64 = 512;
/// Where it stands: the last sector before the first partition, which no partition table and no boot loader uses.
pub const SEAL_AT: u64 = (1 << 20) - SEAL_BYTES;

const MARK: &str = "REVISUM IMAGE 1";
/// Bytes read at a time.
const PIECE: u64 = 4 << 20;

/// Fills a buffer from an offset of an image or a drive on.
pub type ReadAt<'a> = &'a mut dyn FnMut(&mut [u8], u64) -> io::Result<()>;

/// Where in an image the file with the drive's settings lies, by its seal.
pub fn settings_at(read_at: ReadAt<'_>) -> Option<u64> {
    let mut sector = [0; SEAL_BYTES as usize];
    read_at(&mut sector, SEAL_AT).ok()?;
    let end = sector.iter().position(|byte| *byte == 0)?;
    let mut lines = std::str::from_utf8(&sector[..end]).ok()?.lines();
    lines.next().filter(|mark| *mark == MARK)?;
    lines.find_map(|line| line.strip_prefix("settings "))?.parse().ok()
}

/// How long an image is, and its checksum.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Seal {
    /// Bytes of the whole image.
    pub bytes: u64,
    /// SHA-256 (FIPS 180-4) of all of it but the seal, in hexadecimal digits.
    pub sha256: String,
}

impl Seal {
    /// Reads the seal of an image or a drive; nothing where there is none.
    pub fn read(read_at: ReadAt<'_>) -> Option<Self> {
        let mut sector = [0; SEAL_BYTES as usize];
        read_at(&mut sector, SEAL_AT).ok()?;
        let end = sector.iter().position(|byte| *byte == 0)?;
        let mut lines = std::str::from_utf8(&sector[..end]).ok()?.lines();
        let (mark, bytes, sha256) = (lines.next()?, lines.next()?, lines.next()?);
        let sha256 = sha256.strip_prefix("sha256 ").filter(|digits| digits.len() == 64)?.to_owned();
        let bytes = bytes.strip_prefix("bytes ")?.parse().ok()?;
        (mark == MARK && sha256.bytes().all(|digit| digit.is_ascii_hexdigit())).then_some(Self { bytes, sha256 })
    }

    /// What the seal of an image of so many bytes has to be. `watch` is told how many bytes are done and says whether to go on; nothing when it does not.
    ///
    /// # Errors
    /// When the image cannot be read.
    pub fn of(bytes: u64, read_at: ReadAt<'_>, watch: &mut dyn FnMut(u64) -> bool) -> io::Result<Option<Self>> {
        let (mut sum, mut at) = (Sha256::new(), 0);
        let mut piece = Vec::new();
        while at < bytes {
            if !watch(at) {
                return Ok(None);
            }
            // The seal itself is left out.
            let end = if at < SEAL_AT { SEAL_AT } else { bytes };
            piece.resize((end - at).min(PIECE) as usize, 0);
            if at == SEAL_AT {
                at += SEAL_BYTES;
                continue;
            }
            read_at(&mut piece, at)?;
            sum.update(&piece);
            at += piece.len() as u64;
        }
        let sha256 = sum.finalize().iter().map(|byte| format!("{byte:02x}")).collect();
        Ok(Some(Self { bytes, sha256 }))
    }

    /// The sector that says it, and where in the image the file with the drive's settings lies.
    pub fn sector(&self, settings: Option<u64>) -> [u8; SEAL_BYTES as usize] {
        let mut sector = [0; SEAL_BYTES as usize];
        let settings = settings.map(|at| format!("settings {at}\n")).unwrap_or_default();
        let text = format!("{MARK}\nbytes {}\nsha256 {}\n{settings}", self.bytes, self.sha256);
        sector[..text.len()].copy_from_slice(text.as_bytes());
        sector
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn seal_of(image: &[u8]) -> Seal {
        let mut read = |bytes: &mut [u8], at: u64| {
            bytes.copy_from_slice(&image[at as usize..at as usize + bytes.len()]);
            Ok(())
        };
        Seal::of(image.len() as u64, &mut read, &mut |_| true).unwrap().unwrap()
    }

    #[test]
    fn a_seal_is_of_all_but_itself() {
        let mut image = vec![3; 9 << 20];
        let seal = seal_of(&image);
        image[SEAL_AT as usize..(SEAL_AT + SEAL_BYTES) as usize].copy_from_slice(&seal.sector(None));
        assert_eq!(seal_of(&image), seal);
        for at in [0, SEAL_AT as usize - 1, 1 << 20, (9 << 20) - 1] {
            let mut other = image.clone();
            other[at] ^= 1;
            assert_ne!(seal_of(&other), seal, "{at}");
        }
        assert_ne!(seal_of(&image[..8 << 20]), seal);
    }

    #[test]
    fn the_place_of_the_settings_stands_beside_it() {
        let seal = Seal { bytes: 77, sha256: "0".repeat(64) };
        for at in [None, Some(123_456)] {
            let sector = seal.sector(at);
            let mut read = |bytes: &mut [u8], _: u64| {
                bytes.copy_from_slice(&sector);
                Ok(())
            };
            assert_eq!(settings_at(&mut read), at);
            assert_eq!(Seal::read(&mut read), Some(seal.clone()));
        }
    }

    #[test]
    fn a_seal_is_read_as_it_was_written_and_nothing_else_is_one() {
        let seal = Seal { bytes: 77, sha256: "0".repeat(64) };
        let read = |sector: [u8; SEAL_BYTES as usize]| {
            Seal::read(&mut |bytes, at| {
                assert_eq!(at, SEAL_AT);
                bytes.copy_from_slice(&sector);
                Ok(())
            })
        };
        assert_eq!(read(seal.sector(None)), Some(seal.clone()));
        assert_eq!(read([0; SEAL_BYTES as usize]), None);
        assert_eq!(read([b'x'; SEAL_BYTES as usize]), None);
        for at in (0..seal.sector(None).len()).take_while(|at| seal.sector(None)[*at] != 0) {
            let mut sector = seal.sector(None);
            sector[at] ^= 0x80;
            assert_ne!(read(sector), Some(seal.clone()), "{at}");
        }
        assert_eq!(Seal::read(&mut |_, _| Err(io::Error::other("gone"))), None);
    }
}
