//! Two simulated drives that a boot drive can be written to, and one that cannot.

use revisum_drive::Drive;
use revisum_drive::Drives;
use std::collections::BTreeMap;
use std::io;
use std::path::PathBuf;

use revisum_drive::{DriveMedium, ImageSource, SEAL_AT, Seal};

const GIB: u64 = 1 << 30;
/// Bytes that are kept together.
const PIECE: u64 = 4096;

/// An image like that of the boot drive, with nothing in it that boots.
#[derive(Clone, Copy, Debug, Default)]
pub struct SimImage {
    /// It carries its checksum; not while that is worked out.
    sealed: bool,
}

impl SimImage {
    /// The image.
    pub fn new() -> Self {
        Self { sealed: true }
    }
}

fn seal() -> &'static [u8] {
    static SEAL: std::sync::LazyLock<[u8; 512]> = std::sync::LazyLock::new(|| {
        // Nothing in it fails to be read, and nobody gives up.
        let seal = Seal::of(IMAGE_BYTES, &mut |bytes, at| SimImage { sealed: false }.read_at(bytes, at), &mut |_| true);
        seal.ok().flatten().map_or([0; 512], |seal| seal.sector(None))
    });
    &*SEAL
}

const IMAGE_BYTES: u64 = 64 << 20;

impl ImageSource for SimImage {
    fn bytes(&self) -> u64 {
        IMAGE_BYTES
    }

    fn read_at(&mut self, bytes: &mut [u8], at: u64) -> io::Result<()> {
        for (offset, byte) in (at..).zip(bytes.iter_mut()) {
            *byte = if (SEAL_AT..SEAL_AT + 512).contains(&offset) {
                if self.sealed { seal()[(offset - SEAL_AT) as usize] } else { 0 }
            } else if offset < TABLE_END {
                table().get(offset as usize).copied().unwrap_or(0)
            } else {
                (offset >> 9) as u8
            };
        }
        Ok(())
    }
}

const TABLE_END: u64 = 4096;

/// A partition table with the names of a boot drive.
fn table() -> &'static [u8] {
    static TABLE: std::sync::LazyLock<Vec<u8>> = std::sync::LazyLock::new(|| {
        let mut table = vec![0u8; TABLE_END as usize];
        table[512..520].copy_from_slice(b"EFI PART");
        table[584..592].copy_from_slice(&2u64.to_le_bytes());
        table[592..596].copy_from_slice(&2u32.to_le_bytes());
        table[596..600].copy_from_slice(&128u32.to_le_bytes());
        let sectors = [("REVISUM-BOOT", 4096u64, 65_535u64), ("REVISUM-RESULTS", 65_536, 131_071)];
        for ((name, first, last), entry) in sectors.into_iter().zip(table[1024..].chunks_mut(128)) {
            entry[0] = 1;
            entry[32..40].copy_from_slice(&first.to_le_bytes());
            entry[40..48].copy_from_slice(&last.to_le_bytes());
            for (letter, pair) in name.encode_utf16().zip(entry[56..].chunks_mut(2)) {
                pair.copy_from_slice(&letter.to_le_bytes());
            }
        }
        table
    });
    &TABLE
}

/// The drives at the bench of the workshop.
#[derive(Debug, Default)]
pub struct SimDrives;

fn all() -> Vec<Drive> {
    let drive = |path: &str, name: &str, bytes, contents: &[&str]| Drive {
        path: path.to_owned(),
        name: name.to_owned(),
        serial: String::new(),
        bytes,
        contents: contents.iter().map(|one| (*one).to_owned()).collect(),
        refused: None,
        medium: "1".to_owned(),
    };
    let worn = "WORN";
    vec![
        drive("/sim/one", "Kestrel Pocket 16", 16 * GIB, &["STAR CHARTS (14.5 GiB)"]),
        Drive { serial: worn.to_owned(), ..drive("/sim/two", "Lantern Worn 8", 8 * GIB, &["no name (7.4 GiB)"]) },
        Drive {
            refused: Some("it is in use: mounted on /simulated. Unmount it first".to_owned()),
            ..drive("/sim/three", "Kestrel Pocket 32", 32 * GIB, &["NIGHT LOGS (29 GiB)"])
        },
    ]
}

impl Drives for SimDrives {
    /// Nothing was ever recorded on them.
    fn records(&self) -> Vec<PathBuf> {
        Vec::new()
    }

    fn list(&self) -> io::Result<Vec<Drive>> {
        Ok(all())
    }

    fn open_to_read(&self, drive: &Drive) -> io::Result<Box<dyn DriveMedium + Send>> {
        self.open(drive)
    }

    fn open(&self, drive: &Drive) -> io::Result<Box<dyn DriveMedium + Send>> {
        let now = all().into_iter().find(|one| one == drive);
        let now = now.ok_or_else(|| io::Error::other("it is another drive than the one that was listed"))?;
        if let Some(why) = now.refused {
            return Err(io::Error::other(why));
        }
        Ok(Box::new(SimDrive { bytes: now.bytes, pieces: BTreeMap::new(), worn: now.serial == "WORN" }))
    }
}

/// Keeps only what was written to it; a worn one gives a byte back wrong.
struct SimDrive {
    bytes: u64,
    pieces: BTreeMap<u64, Vec<u8>>,
    worn: bool,
}

/// Where the worn drive fails.
const WORN_AT: u64 = 30 << 20;

impl DriveMedium for SimDrive {
    fn bytes(&self) -> u64 {
        self.bytes
    }

    fn write_at(&mut self, bytes: &[u8], at: u64) -> io::Result<()> {
        for (number, piece) in (at / PIECE..).zip(bytes.chunks(PIECE as usize)) {
            // Zeros are what is there anyway.
            if piece.iter().all(|byte| *byte == 0) {
                self.pieces.remove(&number);
            } else {
                self.pieces.insert(number, piece.to_vec());
            }
        }
        Ok(())
    }

    fn sync(&mut self) -> io::Result<()> {
        Ok(())
    }

    fn read_back(&mut self, bytes: &mut [u8], at: u64) -> io::Result<()> {
        let mut done = 0;
        while done < bytes.len() {
            let (number, skip) = ((at + done as u64) / PIECE, ((at + done as u64) % PIECE) as usize);
            let room = (PIECE as usize - skip).min(bytes.len() - done);
            let into = &mut bytes[done..done + room];
            match self.pieces.get(&number).and_then(|piece| piece.get(skip..skip + room)) {
                Some(piece) => into.copy_from_slice(piece),
                None => into.fill(0),
            }
            done += room;
        }
        if self.worn && (at..at + bytes.len() as u64).contains(&WORN_AT) {
            bytes[(WORN_AT - at) as usize] ^= 0x40;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_image_is_one_of_a_boot_drive() {
        let content = revisum_drive::content_of(&mut |bytes, at| SimImage::new().read_at(bytes, at));
        assert!(matches!(content, revisum_drive::Content::BootDrive { .. }), "{content:?}");
    }

    #[test]
    fn what_is_written_is_read_and_the_worn_one_is_not_to_be_trusted() {
        let listed = SimDrives.list().unwrap();
        assert!(SimDrives.open(&listed[2]).is_err());
        assert!(SimDrives.open(&Drive { bytes: 1, ..listed[0].clone() }).is_err());
        for (drive, right) in [(&listed[0], true), (&listed[1], false)] {
            let mut open = SimDrives.open(drive).unwrap();
            open.write_at(&[5; 8192], WORN_AT - 4096).unwrap();
            let mut back = [0; 8192];
            open.read_back(&mut back, WORN_AT - 4096).unwrap();
            assert_eq!(back == [5; 8192], right);
        }
    }
}
