//! A boot drive's image is not at hand in these tests: bytes with its partition table and its seal are enough to be written.

use revisum_drive::{DriveSettings, SEAL_AT, SETTINGS_BYTES, Seal};

/// Where its settings lie.
pub const SETTINGS_AT: usize = 5 << 20;

/// A small image with the table of a boot drive, its settings and its seal.
pub fn small_image() -> Vec<u8> {
    let mut image = vec![3u8; 9 << 20];
    image[..4096].fill(0);
    image[512..520].copy_from_slice(b"EFI PART");
    image[584..592].copy_from_slice(&2u64.to_le_bytes());
    image[592..596].copy_from_slice(&2u32.to_le_bytes());
    image[596..600].copy_from_slice(&128u32.to_le_bytes());
    for (at, (name, first, last)) in
        [("REVISUM-BOOT", 4096u64, 8191u64), ("REVISUM-RESULTS", 8192, 12287)].into_iter().enumerate()
    {
        let entry = &mut image[1024 + at * 128..1152 + at * 128];
        entry[0] = 1;
        entry[32..40].copy_from_slice(&first.to_le_bytes());
        entry[40..48].copy_from_slice(&last.to_le_bytes());
        name.encode_utf16()
            .zip(entry[56..].chunks_mut(2))
            .for_each(|(letter, pair)| pair.copy_from_slice(&letter.to_le_bytes()));
    }
    let settings = DriveSettings::default().file().unwrap();
    image[SETTINGS_AT..SETTINGS_AT + SETTINGS_BYTES].copy_from_slice(&settings);
    let bytes = image.len() as u64;
    let mut read = |buffer: &mut [u8], at: u64| {
        buffer.copy_from_slice(&image[at as usize..at as usize + buffer.len()]);
        Ok(())
    };
    let seal = Seal::of(bytes, &mut read, &mut |_| true).unwrap().unwrap();
    image[SEAL_AT as usize..SEAL_AT as usize + 512].copy_from_slice(&seal.sector(Some(SETTINGS_AT as u64)));
    image
}
