//! Whether a FAT file system is as one that was written to its end: its tables agree (Microsoft FAT specification, version 1.03). The kernel mounts one
//! whose tables are damaged without a word, and would then give the places of old files to new ones.

use std::fs::File;
use std::io;
use std::os::unix::fs::FileExt;
use std::path::Path;

/// Bytes compared at a time.
const PIECE: u64 = 64 << 10;

/// How well a file system is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Fat {
    /// Nothing is wrong that can be seen.
    Sound,
    /// It can be written to, but something on it is not right: a power cut can leave that too.
    Doubtful(String),
    /// Nothing on it can be relied on.
    Damaged(String),
}

/// How well the file system on this device is.
///
/// # Errors
/// When the device cannot be read.
pub(super) fn state_of(device: &Path) -> io::Result<Fat> {
    let file = File::open(device)?;
    let mut sector = [0; 512];
    file.read_exact_at(&mut sector, 0)?;
    let word = |at: usize| u64::from(u16::from_le_bytes([sector[at], sector[at + 1]]));
    let long = |at: usize| u64::from(u32::from_le_bytes([sector[at], sector[at + 1], sector[at + 2], sector[at + 3]]));
    let (bytes_per_sector, reserved, tables) = (word(11), word(14), u64::from(sector[16]));
    let sectors = if word(22) == 0 { long(36) } else { word(22) };
    if sector[510..] != [0x55, 0xaa]
        || !bytes_per_sector.is_power_of_two()
        || bytes_per_sector < 512
        || reserved == 0
        || sectors == 0
    {
        return Ok(Fat::Damaged("its first sector is damaged".to_owned()));
    }
    let (first, bytes) = (reserved * bytes_per_sector, sectors * bytes_per_sector);
    let mut beginning = [0; 2];
    file.read_exact_at(&mut beginning, first)?;
    // The first entry repeats the kind of medium.
    if beginning != [sector[21], 0xff] {
        return Ok(Fat::Damaged("its table of files is damaged".to_owned()));
    }
    let (mut one, mut two) = (Vec::new(), Vec::new());
    for at in (0..bytes).step_by(PIECE as usize).filter(|_| tables > 1) {
        let length = (bytes - at).min(PIECE) as usize;
        for (piece, table) in [(&mut one, 0), (&mut two, 1)] {
            piece.resize(length, 0);
            file.read_exact_at(piece, first + table * bytes + at)?;
        }
        if one != two {
            return Ok(Fat::Doubtful("its two tables of files differ".to_owned()));
        }
    }
    Ok(Fat::Sound)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// A FAT16 file system of 1 MiB as far as it is looked at: one reserved sector, two tables of four sectors.
    fn image() -> Vec<u8> {
        let mut image = vec![0; 1 << 20];
        image[11..13].copy_from_slice(&512u16.to_le_bytes());
        image[14] = 1;
        image[16] = 2;
        image[21] = 0xf8;
        image[22] = 4;
        image[510..512].copy_from_slice(&[0x55, 0xaa]);
        for table in [512, 512 * 5] {
            image[table..table + 6].copy_from_slice(&[0xf8, 0xff, 0xff, 0xff, 3, 0]);
        }
        image
    }

    #[rstest]
    #[case::whole(|_: &mut Vec<u8>| {}, Fat::Sound)]
    #[case::no_signature(|image: &mut Vec<u8>| image[510] = 0, Fat::Damaged("its first sector is damaged".into()))]
    #[case::no_sectors(|image: &mut Vec<u8>| image[22] = 0, Fat::Damaged("its first sector is damaged".into()))]
    #[case::zeroed(|image: &mut Vec<u8>| image[512..1024].fill(0), Fat::Damaged("its table of files is damaged".into()))]
    #[case::a_bit(|image: &mut Vec<u8>| image[512 * 6] ^= 1, Fat::Doubtful("its two tables of files differ".into()))]
    fn damage_is_found(#[case] spoil: fn(&mut Vec<u8>), #[case] expected: Fat) {
        let file = tempfile::NamedTempFile::new().unwrap();
        let mut image = image();
        spoil(&mut image);
        std::fs::write(file.path(), image).unwrap();
        assert_eq!(state_of(file.path()).unwrap(), expected);
    }
}
