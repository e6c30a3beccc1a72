//! Who made a module: by the published code (JEDEC JEP106), in every form in which firmware and modules write it, or by name.

use revisum_engine::text::cleaned;

/// A maker's code: how many continuation codes stand before it, and the code without its parity bit.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct MakerCode {
    continuations: u8,
    code: u8,
}

/// Longest name.
const LONGEST: usize = 64;
/// The continuation code.
const CONTINUED: u8 = 0x7f;

impl MakerCode {
    /// Two bytes as modules store them: the number of continuation codes, then the code, each with odd parity in its highest bit.
    /// Nothing where nothing was written.
    pub fn stored(continuations: u8, code: u8) -> Option<Self> {
        let written = !matches!((continuations, code), (0, 0) | (0xff, 0xff));
        written.then_some(Self { continuations: continuations & 0x7f, code: code & 0x7f })
    }

    /// Bytes as older modules store them: the continuation codes themselves, then the code (JESD21-C, annexes of SDRAM to DDR2).
    pub fn spelled(bytes: &[u8]) -> Option<Self> {
        let continuations = bytes.iter().take_while(|byte| **byte == CONTINUED).count();
        let code = *bytes.get(continuations)?;
        let rest = &bytes[continuations + 1..];
        let blank = |filler: u8| rest.iter().all(|byte| *byte == filler);
        let is_code = has_odd_parity(code) && code & 0x7f != 0 && (blank(0) || blank(0xff));
        is_code.then_some(Self { continuations: continuations as u8, code: code & 0x7f })
    }

    /// Who that is; nothing when the code is none of the published ones.
    pub fn name(self) -> Option<String> {
        let name = jep106::JEP106Code::new(self.continuations, self.code).get()?;
        Some(cleaned(name, LONGEST))
    }

    /// The code in words, counted as the standard does.
    pub fn words(self) -> String {
        format!("bank {}, code {}", u16::from(self.continuations) + 1, self.code)
    }

    /// From what firmware writes instead of a name: `80CE`, `0x80CE`, `JEDEC ID:80 CE`, `00AD00B300AD` (module, register, chips),
    /// `CE00000000000000`, `7F7F7F0B00000000`, `Unknown [0x859B]`. Nothing where it is none of these, or a code of nobody.
    pub fn in_text(text: &str) -> Option<Self> {
        let bytes = digits(text)?;
        let pair = |continuations: u8, code: u8| {
            let stored = continuations == 0 || has_odd_parity(continuations);
            let known = stored && has_odd_parity(code) && code & 0x7f != 0;
            let known = known.then_some(Self { continuations: continuations & 0x7f, code: code & 0x7f });
            known.filter(|code| code.name().is_some())
        };
        let spelled = || Self::spelled(&bytes).filter(|code| code.name().is_some());
        match bytes[..] {
            [_] => spelled(),
            // A code of the first bank alone, before it is tried the other way around.
            [first, second, ..] if first != CONTINUED => {
                let whole = if bytes.len() > 2 { spelled() } else { None };
                whole.or_else(|| pair(first, second)).or_else(|| pair(second, first)).or_else(spelled)
            }
            _ => spelled(),
        }
    }
}

fn has_odd_parity(byte: u8) -> bool {
    byte.count_ones() % 2 == 1
}

/// The bytes of a text that is nothing but hexadecimal digits and what is written around a code.
fn digits(text: &str) -> Option<Vec<u8>> {
    let upper = text.to_uppercase();
    let mut rest = upper.as_str();
    for before in ["UNKNOWN", "MANUFACTURER", "JEDEC", "ID"] {
        rest = rest.trim_start_matches([' ', '-', ':', '[', '(', '{']).trim_start_matches(before);
    }
    let rest = rest.trim_matches([' ', '-', ':', '[', ']', '(', ')', '{', '}', ',']);
    let mut hex = String::new();
    for part in rest.split([' ', ',', ':']).filter(|part| !part.is_empty()) {
        hex.push_str(part.strip_prefix("0X").unwrap_or(part));
    }
    let fits =
        (2..=16).contains(&hex.len()) && hex.len().is_multiple_of(2) && hex.bytes().all(|c| c.is_ascii_hexdigit());
    fits.then(|| bytes_of(&hex)).flatten()
}

/// The bytes that hexadecimal digits stand for.
pub(super) fn bytes_of(hex: &str) -> Option<Vec<u8>> {
    let pairs = (0..hex.len()).step_by(2);
    pairs.map(|at| hex.get(at..at + 2).and_then(|pair| u8::from_str_radix(pair, 16).ok())).collect()
}

/// Words that many makers have in their names.
const COMMON: [&str; 17] = [
    "technology",
    "technologies",
    "semiconductor",
    "semiconductors",
    "electronics",
    "electronic",
    "memory",
    "memories",
    "module",
    "international",
    "company",
    "corporation",
    "limited",
    "systems",
    "computer",
    "industries",
    "information",
];
/// Shorter words tell no maker.
const LEAST_WORD: usize = 4;

/// Whether two names are one maker's: they share a word that is not everybody's, or one is the beginning of the other.
pub(super) fn is_same(one: &str, other: &str) -> bool {
    let bare =
        |name: &str| -> String { name.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect() };
    let (bare_one, bare_other) = (bare(one), bare(other));
    let shorter = bare_one.len().min(bare_other.len());
    if bare_one == bare_other
        || shorter >= LEAST_WORD && (bare_one.starts_with(&bare_other) || bare_other.starts_with(&bare_one))
    {
        return true;
    }
    let words = |name: &str| -> Vec<String> {
        let words = name.split(|c: char| !c.is_alphanumeric()).map(str::to_lowercase);
        words.filter(|word| word.len() >= LEAST_WORD && !COMMON.contains(&word.as_str())).collect()
    };
    let of_other = words(other);
    words(one).iter().any(|word| of_other.contains(word))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    /// Codes of the table with their banks: 0x4e, 0x2d and 0x2c of the first, 0x18 and 0x1b of others.
    #[rstest]
    #[case::pair("80CE", Some((0, 0x4e)))]
    #[case::pair_without_parity_of_the_bank("00AD", Some((0, 0x2d)))]
    #[case::turned("CE80", Some((0, 0x4e)))]
    #[case::prefixed("0x80CE", Some((0, 0x4e)))]
    #[case::spaced("JEDEC ID:80 AD", Some((0, 0x2d)))]
    #[case::one_byte("JEDEC ID:CE", Some((0, 0x4e)))]
    #[case::unknown("Unknown - [0x859B]", Some((5, 0x1b)))]
    #[case::module_register_chips("00AD00B300AD", Some((0, 0x2d)))]
    #[case::module_register_chips_with_parity("80CE808980CE", Some((0, 0x4e)))]
    #[case::spelled("7F7F7F0B00000000", Some((3, 0x0b)))]
    #[case::spelled_without_continuations("CE00000000000000", Some((0, 0x4e)))]
    #[case::spelled_filled_up("2CFFFFFFFFFFFFFF", Some((0, 0x2c)))]
    #[case::second_bank("0198", Some((1, 0x18)))]
    #[case::turned_with_more("2C00B304", Some((0, 0x2c)))]
    #[case::of_nobody("7FFF", None)]
    #[case::wrong_parity("80CF", None)]
    #[case::name("Haldry", None)]
    #[case::odd("80C", None)]
    #[case::nothing("", None)]
    #[case::letters("üü", None)]
    fn codes_in_text(#[case] text: &str, #[case] expected: Option<(u8, u8)>) {
        let found = MakerCode::in_text(text).map(|code| (code.continuations, code.code));
        assert_eq!(found, expected, "{:?}", MakerCode::in_text(text).and_then(MakerCode::name));
    }

    #[rstest]
    #[case("SK Hynix", "Hynix/Hyundai", true)]
    #[case("Micron Technology", "Micron", true)]
    #[case("Samsung", "Samsung Electronics", true)]
    #[case("Haldry Memory", "Ostrand Memory", false)]
    #[case("Kingston Technology", "Micron Technology", false)]
    #[case("PNY", "PNX", false)]
    fn makers_with_several_names(#[case] one: &str, #[case] other: &str, #[case] same: bool) {
        assert_eq!((is_same(one, other), is_same(other, one)), (same, same));
    }

    proptest! {
        /// Every published code is found again in every form.
        #[test]
        fn every_code_is_found_in_every_form(continuations in 0u8..17, code in 1u8..0x7f) {
            let expected = MakerCode { continuations, code };
            prop_assume!(expected.name().is_some());
            let odd = |byte: u8| if has_odd_parity(byte) { byte } else { byte | 0x80 };
            let (bank, number) = (odd(continuations), odd(code));
            for text in [format!("{bank:02X}{number:02X}"), format!("0x{bank:02x}{number:02x}"), format!("JEDEC ID:{bank:02X} {number:02X}")] {
                prop_assert_eq!(MakerCode::in_text(&text), Some(expected), "{}", text);
            }
            if continuations < 7 {
                let mut spelled = vec![CONTINUED; usize::from(continuations)];
                spelled.push(number);
                spelled.resize(8, 0);
                let text: String = spelled.iter().map(|byte| format!("{byte:02X}")).collect();
                prop_assert_eq!(MakerCode::in_text(&text), Some(expected), "{}", text);
            }
            prop_assert_eq!(MakerCode::stored(bank, number), Some(expected));
        }

        #[test]
        fn any_text_does_no_harm(text in ".{0,24}") {
            let _ = MakerCode::in_text(&text).and_then(MakerCode::name);
        }
    }
}
