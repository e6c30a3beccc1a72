//! Numbers and dates on paper, as the language writes them. Screens keep the form that sorts.

use revisum_words::Texts;

use crate::document::{Block, Document};

/// What a number with a point stands before, where it is a quantity and no version.
const UNITS: [&str; 14] = ["B", "KiB", "MiB", "GiB", "TiB", "kB/s", "MB/s", "GB/s", "GB", "V", "°C", "ns", "s", "MT/s"];
/// Letters of a date as the program writes it (ISO 8601).
const DATE: usize = 10;

/// The document with its quantities and dates as the language writes them.
pub fn written(mut document: Document, texts: &Texts) -> Document {
    let change = |text: &mut String| *text = decimals(&dates(text, texts), texts);
    document.facts.iter_mut().for_each(|(_, value)| change(value));
    for block in &mut document.blocks {
        match block {
            Block::Answer { words, beneath, .. } => std::iter::once(words).chain(beneath).for_each(change),
            Block::Heading(text) | Block::SubHeading(text) | Block::Paragraph(text) | Block::Small(text) => {
                change(text)
            }
            Block::Numbered(all) | Block::Bullets(all) => all.iter_mut().for_each(change),
            Block::Table(table) => table.rows.iter_mut().flatten().for_each(change),
            Block::Figure(figure) => change(&mut figure.caption),
        }
    }
    document
}

/// Dates between spaces and signs; those at the beginning of a run's id are part of a name.
fn dates(text: &str, texts: &Texts) -> String {
    let mut out = String::new();
    let mut rest = text;
    while let Some(at) = rest.find(|c: char| c.is_ascii_digit()) {
        let (skipped, from) = rest.split_at(at);
        let before = skipped.chars().last().or_else(|| out.chars().last());
        out.push_str(skipped);
        let date = from.get(..DATE).filter(|_| !before.is_some_and(is_of_name)).and_then(|date| date_of(date, texts));
        let after = from.get(DATE..).and_then(|after| after.chars().next());
        let taken = match date.filter(|_| !after.is_some_and(is_of_name)) {
            Some(date) => {
                out.push_str(&date);
                DATE
            }
            None => {
                let end = from.find(|c: char| !is_of_name(c)).unwrap_or(from.len());
                out.push_str(&from[..end]);
                end
            }
        };
        rest = &from[taken..];
    }
    out + rest
}

fn is_of_name(letter: char) -> bool {
    letter.is_alphanumeric() || letter == '-'
}

fn date_of(date: &str, texts: &Texts) -> Option<String> {
    let mut parts = date.split('-');
    let mut number = |digits: usize| parts.next().filter(|part| part.len() == digits)?.parse::<u32>().ok();
    let (year, month, day) = (number(4)?, number(2)?, number(2)?);
    ((1..=12).contains(&month) && (1..=31).contains(&day)).then(|| texts.date(year, month, day))
}

fn decimals(text: &str, texts: &Texts) -> String {
    let mut words: Vec<String> = text.split(' ').map(str::to_owned).collect();
    for at in 0..words.len() {
        let unit = words.get(at + 1).map(|next| next.trim_end_matches([',', '.', ';', ':', ')']));
        if unit.is_some_and(|unit| UNITS.contains(&unit)) {
            let word = &words[at];
            let number = word.trim_start_matches('(');
            if let Some((whole, decimals)) = number.split_once('.')
                && [whole, decimals].iter().all(|part| part.chars().all(|c| c.is_ascii_digit()) && !part.is_empty())
            {
                let sign = texts.decimal(0.5, 1).replace(['0', '5'], "");
                words[at] = format!("{}{whole}{sign}{decimals}", &word[..word.len() - number.len()]);
            }
        }
    }
    words.join(" ")
}

#[cfg(test)]
mod tests {
    use revisum_words::Language;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("15.8 of 16 GiB", "15.8 of 16 GiB", "15.8 of 16 GiB")]
    #[case("(15.8 GiB), 0.05 V.", "(15.8 GiB), 0.05 V.", "(15,8 GiB), 0,05 V.")]
    #[case("revisum 0.1.0 and 1.14 B2", "revisum 0.1.0 and 1.14 B2", "revisum 0.1.0 and 1.14 B2")]
    #[case("2031-04-12 13:31 – 2031-05-01", "12 Apr 2031 13:31 – 1 May 2031", "12. Apr. 2031 13:31 – 1. Mai 2031")]
    #[case("2031-04-12-133119-dome-1", "2031-04-12-133119-dome-1", "2031-04-12-133119-dome-1")]
    #[case("2031-13-40, x2031-04-12", "2031-13-40, x2031-04-12", "2031-13-40, x2031-04-12")]
    #[case("ä2 übrig 2031-04-12", "ä2 übrig 12 Apr 2031", "ä2 übrig 12. Apr. 2031")]
    fn quantities_and_dates_follow_the_language(#[case] text: &str, #[case] english: &str, #[case] german: &str) {
        for (language, expected) in [(Language::EN, english), (Language::tagged("de").unwrap(), german)] {
            let texts = Texts::of(language);
            assert_eq!(decimals(&dates(text, texts), texts), expected);
        }
    }
}
