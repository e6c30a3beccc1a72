//! Strings that firmware leaves where it has nothing to say: words of its vendor's template, and shapes such as `Manufacturer0`.

/// Nothing where the text says nothing.
pub(super) fn told(text: &str) -> Option<&str> {
    let text = text.trim();
    (!is_one_sign(text) && !is_counted_up(text) && !is_template(text)).then_some(text)
}

/// Zeros, all bits set, crosses, dashes: one sign over and over, also behind `0x`.
fn is_one_sign(text: &str) -> bool {
    let bare = text.strip_prefix("0x").or(text.strip_prefix("0X")).unwrap_or(text);
    let mut signs: Vec<char> = bare.chars().filter(|c| !c.is_whitespace()).map(|c| c.to_ascii_lowercase()).collect();
    let blank = signs.iter().all(|c| matches!(c, '0' | '.' | '-' | '_' | '*' | '?' | '#'));
    let long = signs.len() > 3;
    signs.dedup();
    blank || long && matches!(signs[..], ['f' | 'x'])
}

/// `12345678`: what a template counts up to.
fn is_counted_up(text: &str) -> bool {
    const LEAST: usize = 6;
    text.len() >= LEAST && ("0123456789".contains(text) || "123456789012".contains(text))
}

/// Words of which templates are made. A text of nothing else, with numbers and single letters between them, was never filled in.
const WORDS: [&str; 57] = [
    "actual",
    "array",
    "asset",
    "available",
    "bad",
    "bank",
    "base",
    "be",
    "board",
    "by",
    "chassis",
    "default",
    "device",
    "dimm",
    "empty",
    "field",
    "filled",
    "in",
    "index",
    "info",
    "installed",
    "invalid",
    "manufacturer",
    "maker",
    "memory",
    "module",
    "na",
    "name",
    "no",
    "none",
    "not",
    "null",
    "num",
    "number",
    "oem",
    "of",
    "out",
    "part",
    "pn",
    "present",
    "product",
    "provided",
    "reserved",
    "ser",
    "serial",
    "sernum",
    "slot",
    "sn",
    "specified",
    "string",
    "system",
    "tag",
    "to",
    "undefined",
    "unknown",
    "value",
    "vendor",
];

/// Those of them that nobody would write on a thing: `asset 5` is somebody's own word, `AssetTagNum0` is a template's.
const TELLING: [&str; 27] = [
    "actual",
    "available",
    "bad",
    "default",
    "empty",
    "field",
    "filled",
    "index",
    "info",
    "installed",
    "invalid",
    "maker",
    "manufacturer",
    "na",
    "no",
    "null",
    "num",
    "oem",
    "pn",
    "reserved",
    "serial",
    "sn",
    "string",
    "tag",
    "undefined",
    "unknown",
    "vendor",
];

/// Placeholders whose signs between the letters are what makes them one.
const WHOLE: [&str; 4] = ["n/a", "o.e.m.", "<out of spec>", "to be filled by o.e.m."];

fn is_template(text: &str) -> bool {
    let lower = text.to_lowercase();
    if WHOLE.contains(&lower.as_str()) {
        return true;
    }
    // `O.E.M.` is one word.
    let lower = lower.replace("o.e.m", "oem");
    let runs = lower.split(|c: char| !c.is_ascii_alphabetic()).filter(|run| run.len() > 1);
    let mut told = false;
    let all = runs.inspect(|run| told |= TELLING.iter().any(|word| run.contains(word))).all(is_composed);
    all && told && lower.is_ascii()
}

/// Whether letters are nothing but such words, one behind the other.
fn is_composed(letters: &str) -> bool {
    let mut reached = vec![false; letters.len() + 1];
    reached[0] = true;
    for at in 0..letters.len() {
        if !reached[at] {
            continue;
        }
        for word in WORDS.iter().filter(|word| letters[at..].starts_with(**word)) {
            reached[at + word.len()] = true;
        }
    }
    reached[letters.len()]
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::words("Not Specified")]
    #[case::shape("Manufacturer0")]
    #[case::part("PartNum0")]
    #[case::serial("SerNum0")]
    #[case::long_shape("ModulePartNumber00")]
    #[case::with_slot("A1_AssetTagNum0")]
    #[case::array("Array1_PartNumber1")]
    #[case::template("To Be Filled By O.E.M.")]
    #[case::default("Default string")]
    #[case::none("NO DIMM")]
    #[case::bracketed("[Empty]")]
    #[case::zeros("0x00000000")]
    #[case::set("FFFFFFFF")]
    #[case::crosses("xxxxxxxxxx")]
    #[case::dashes("---")]
    #[case::counted("12345678")]
    #[case::na("N/A")]
    #[case::undefined("Undefined Value")]
    #[case::index("<BAD INDEX>")]
    #[case::specified("not specified")]
    #[case::provided("Not Provided")]
    #[case::serial("Serial Number")]
    #[case::nothing("   ")]
    fn says_nothing(#[case] text: &str) {
        assert_eq!(told(text), None);
    }

    #[rstest]
    #[case("Haldry")]
    #[case("HD8G32J")]
    #[case("5A220093")]
    #[case("00AD")]
    #[case("FF01")]
    #[case("A1")]
    #[case("Memory Works")]
    #[case("asset 5")]
    #[case("Bank 3")]
    #[case("Orbit")]
    #[case("0xFFFE")]
    #[case("9876543")]
    fn says_something(#[case] text: &str) {
        assert_eq!(told(text), Some(text));
    }
}
