use std::sync::Mutex;

use rstest::rstest;

use super::*;

/// A small image with a partition table as a boot drive has it.
fn image(fill: u8) -> Vec<u8> {
    static MADE: Mutex<BTreeMap<u8, Vec<u8>>> = Mutex::new(BTreeMap::new());
    MADE.lock().unwrap().entry(fill).or_insert_with(|| made(fill)).clone()
}

fn made(fill: u8) -> Vec<u8> {
    const LENGTH: usize = 12 << 20;
    let mut image = vec![fill; LENGTH];
    image[..64 << 10].fill(0);
    image[512..520].copy_from_slice(b"EFI PART");
    image[512 + 72..512 + 80].copy_from_slice(&2u64.to_le_bytes());
    image[512 + 80..512 + 84].copy_from_slice(&4u32.to_le_bytes());
    image[512 + 84..512 + 88].copy_from_slice(&128u32.to_le_bytes());
    for (number, (name, first, last)) in
        [("REVISUM-BOOT", 4096u64, 8191u64), ("REVISUM-RESULTS", 8192, 16383)].into_iter().enumerate()
    {
        let entry = &mut image[1024 + number * 128..1024 + (number + 1) * 128];
        entry[0] = 1;
        entry[32..40].copy_from_slice(&first.to_le_bytes());
        entry[40..48].copy_from_slice(&last.to_le_bytes());
        for (at, letter) in name.encode_utf16().enumerate() {
            entry[56 + at * 2..58 + at * 2].copy_from_slice(&letter.to_le_bytes());
        }
    }
    sealed(image)
}

fn sealed(image: Vec<u8>) -> Vec<u8> {
    let mut image = Source(image);
    let seal = Seal::of(image.bytes(), &mut |bytes, at| image.read_at(bytes, at), &mut |_| true).unwrap().unwrap();
    image.0[SEAL_AT as usize..HEAD as usize].copy_from_slice(&seal.sector(None));
    image.0
}

/// Another image after so many reads.
struct Changing(Source, u32);

impl ImageSource for Changing {
    fn bytes(&self) -> u64 {
        self.0.bytes()
    }
    fn read_at(&mut self, bytes: &mut [u8], at: u64) -> io::Result<()> {
        self.1 = self.1.saturating_sub(1);
        if self.1 == 0 {
            self.0 = Source(image(4));
        }
        self.0.read_at(bytes, at)
    }
}

const RESULTS: Range<u64> = 8192 * 512..16384 * 512;

struct Source(Vec<u8>);

impl ImageSource for Source {
    fn bytes(&self) -> u64 {
        self.0.len() as u64
    }
    fn read_at(&mut self, bytes: &mut [u8], at: u64) -> io::Result<()> {
        bytes.copy_from_slice(&self.0[at as usize..at as usize + bytes.len()]);
        Ok(())
    }
}

#[derive(Default)]
struct Stick {
    bytes: Vec<u8>,
    /// Writes until one fails.
    good_writes: Option<u32>,
    /// A byte that reads wrong.
    bad: Option<usize>,
}

impl DriveMedium for Stick {
    fn bytes(&self) -> u64 {
        self.bytes.len() as u64
    }
    fn write_at(&mut self, bytes: &[u8], at: u64) -> io::Result<()> {
        if let Some(left) = &mut self.good_writes {
            *left = left.checked_sub(1).ok_or_else(|| io::Error::other("gone"))?;
        }
        self.bytes[at as usize..at as usize + bytes.len()].copy_from_slice(bytes);
        Ok(())
    }
    fn sync(&mut self) -> io::Result<()> {
        Ok(())
    }
    fn read_back(&mut self, bytes: &mut [u8], at: u64) -> io::Result<()> {
        let at = at as usize;
        bytes.copy_from_slice(&self.bytes[at..at + bytes.len()]);
        if let Some(bad) = self.bad.filter(|bad| (at..at + bytes.len()).contains(bad)) {
            bytes[bad - at] ^= 1;
        }
        Ok(())
    }
}

fn stick(bytes: Vec<u8>) -> Stick {
    Stick { bytes, ..Stick::default() }
}

fn content(stick: &mut Stick) -> Content {
    content_of(&mut |bytes, at| stick.read_back(bytes, at))
}

#[test]
fn a_drive_is_written_and_proven() {
    let mut drive = stick(vec![9; 20 << 20]);
    let mut steps = Vec::new();
    let written = write(&mut Source(image(3)), &mut drive, false, &mut |step| {
        steps.push(step);
        true
    });
    assert_eq!(written.unwrap(), 12 << 20);
    assert_eq!(drive.bytes[..12 << 20], image(3));
    assert_eq!(drive.bytes[12 << 20..], vec![9; 8 << 20]);
    assert_eq!(content(&mut drive), Content::BootDrive { results: RESULTS });
    assert_eq!(steps.last(), Some(&Progress { stage: Stage::Verifying, done: 12 << 20, of: 12 << 20 }));
    assert!(verify(&mut Source(image(3)), &mut drive, &mut |_| true).is_ok());
}

/// Whatever write is the last one that succeeds: the drive is either finished or known as not finished.
#[test]
fn breaking_off_anywhere_leaves_a_drive_that_is_known_as_unfinished() {
    for good_writes in 0..20 {
        let mut drive = Stick { good_writes: Some(good_writes), ..stick(image(7)) };
        let done = write(&mut Source(image(3)), &mut drive, false, &mut |_| true);
        let expected = match (good_writes, done.is_ok()) {
            (_, true) => continue,
            // Nothing was written yet: it is still what it was.
            (0, false) => Content::BootDrive { results: RESULTS },
            _ => Content::Unfinished,
        };
        assert_eq!(content(&mut drive), expected, "{good_writes}");
    }
}

#[test]
fn giving_up_leaves_it_unfinished() {
    let mut drive = stick(image(7));
    let mut left = 7;
    let done = write(&mut Source(image(3)), &mut drive, false, &mut |_| {
        left -= 1;
        left > 0
    });
    assert!(matches!(done, Err(DriveError::GivenUp)));
    assert_eq!(content(&mut drive), Content::Unfinished);
}

#[test]
fn results_are_kept_where_they_are() {
    let mut drive = stick(image(7));
    write(&mut Source(image(3)), &mut drive, true, &mut |_| true).unwrap();
    let (start, end) = (RESULTS.start as usize, RESULTS.end as usize);
    assert!(drive.bytes[start..end].iter().all(|byte| *byte == 7));
    assert!(drive.bytes[..start] == image(3)[..start] && drive.bytes[end..] == image(3)[end..]);
    assert!(verify(&mut Source(image(3)), &mut drive, &mut |_| true).is_ok());
}

#[rstest]
#[case::wrong_bytes(Stick { bad: Some(5 << 20), ..stick(vec![0; 12 << 20]) }, image(3), false, "gives back something else", Content::Unfinished)]
#[case::wrong_head(Stick { bad: Some(700_000), ..stick(vec![0; 12 << 20]) }, image(3), false, "gives back something else", Content::Unfinished)]
#[case::too_small(stick(vec![0; 11 << 20]), image(3), false, "larger drive", Content::Other)]
#[case::no_image(stick(vec![0; 12 << 20]), vec![1; 4 << 20], false, "not the image", Content::Other)]
#[case::nothing_to_keep(stick(vec![0; 12 << 20]), image(3), true, "no results to keep", Content::Other)]
fn what_goes_wrong_is_said(
    #[case] mut drive: Stick,
    #[case] image: Vec<u8>,
    #[case] keep: bool,
    #[case] words: &str,
    #[case] left: Content,
) {
    let error = write(&mut Source(image), &mut drive, keep, &mut |_| true).unwrap_err().to_string();
    assert!(error.contains(words), "{error}");
    assert_eq!(content(&mut drive), left);
}

/// An image that changes is to blame, not the drive; and what was written of it does not boot.
#[test]
fn an_image_that_changes_at_any_read_is_noticed_and_the_drive_is_not_blamed() {
    for reads in 1..46 {
        let mut drive = stick(vec![0; 12 << 20]);
        let done = write(&mut Changing(Source(image(3)), reads), &mut drive, false, &mut |_| true);
        match done {
            Ok(_) => assert!(drive.bytes == image(3) || drive.bytes == image(4), "{reads}: a mixture"),
            Err(error) => {
                assert!(
                    matches!(error, DriveError::ImageDamaged | DriveError::ImageChanged { .. }),
                    "{reads}: {error}"
                );
                assert_ne!(content(&mut drive), Content::BootDrive { results: RESULTS }, "{reads}");
            }
        }
    }
}

fn spoiled(change: impl FnOnce(&mut Vec<u8>)) -> Vec<u8> {
    let mut image = image(3);
    change(&mut image);
    image
}

#[rstest]
#[case::cut_short(spoiled(|image| image.truncate(11 << 20)), "not whole")]
#[case::longer(spoiled(|image| image.extend([0; 512])), "not whole")]
#[case::a_bit(spoiled(|image| image[9 << 20] ^= 1), "not whole")]
#[case::a_bit_of_the_beginning(spoiled(|image| image[5000] ^= 1), "not whole")]
#[case::no_seal(spoiled(|image| image[SEAL_AT as usize] ^= 1), "carries no checksum")]
#[case::another_sum(spoiled(|image| image[SEAL_AT as usize + 50] ^= 1), "")]
fn an_image_that_is_not_as_it_was_made_is_not_written(#[case] image: Vec<u8>, #[case] words: &str) {
    let mut drive = stick(vec![9; 20 << 20]);
    let error = write(&mut Source(image), &mut drive, false, &mut |_| true).unwrap_err();
    assert!(error.to_string().contains(words) && error.to_string().contains("Nothing was written"), "{error}");
    assert!(drive.bytes.iter().all(|byte| *byte == 9));
}

#[rstest]
#[case::another_image(stick(image(4)), "holds another image")]
#[case::nothing(stick(vec![0; 12 << 20]), "holds another image")]
#[case::not_finished(stick([UNFINISHED, &vec![0; 12 << 20]].concat()), "not to blame")]
#[case::changed_since(stick(spoiled(|image| image[3 << 20] ^= 1)), "something wrote to it since")]
fn what_a_comparison_finds_is_put_down_to_the_right_cause(#[case] mut drive: Stick, #[case] words: &str) {
    let error = verify(&mut Source(image(3)), &mut drive, &mut |_| true).unwrap_err().to_string();
    assert!(error.contains(words) && !error.contains("cannot be trusted"), "{error}");
}

#[test]
fn any_beginning_is_looked_at_without_harm() {
    for seed in 0..2000u64 {
        let mut bytes = image(0);
        let mut state = seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1;
        for _ in 0..40 {
            state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1);
            bytes[(state >> 33) as usize % 1600] = (state >> 20) as u8;
        }
        let length = bytes.len() as u64;
        let mut read = |buffer: &mut [u8], at: u64| {
            let end = at.checked_add(buffer.len() as u64).filter(|end| *end <= length);
            let end = end.ok_or_else(|| io::Error::other("beyond the end"))?;
            buffer.copy_from_slice(&bytes[at as usize..end as usize]);
            Ok(())
        };
        let _ = content_of(&mut read);
    }
}
