//! Errors that something else found: `address,expected,actual` in lines.

use revisum_engine::sweep::second_look::Kind;
use revisum_engine::text::cleaned;
use revisum_engine::units::{NotRead, parse_address};
use revisum_record::digest::Digest;

/// What was read.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ForeignErrors {
    /// The failing words.
    pub digest: Digest,
    /// Lines that were used.
    pub used: usize,
    /// Lines that were not, each with its number from 1 and why, as far as they are kept.
    pub refused: Vec<(u64, NotUsed)>,
    /// How many were not.
    pub refused_count: usize,
}

/// Why a line was not used.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum NotUsed {
    /// Another number of fields than address, expected and actual.
    Fields(usize),
    /// Expected and actual are the same: no error.
    Same,
    /// A field that is no number.
    Field(NotRead),
    /// What the reader of comma-separated values says.
    Line(String),
}

/// Refused lines told one by one.
const MOST_REFUSED: usize = 20;
/// Letters of what the reader says.
const LONGEST: usize = 120;

/// Reads such lines; a first line with names is skipped, rubbish is told by line, the rest is used.
pub fn read_foreign(text: &str) -> ForeignErrors {
    let mut read = ForeignErrors::default();
    let mut reader =
        csv::ReaderBuilder::new().has_headers(false).flexible(true).trim(csv::Trim::All).from_reader(text.as_bytes());
    let mut record = csv::ByteRecord::new();
    loop {
        let line = reader.position().line();
        match reader.read_byte_record(&mut record) {
            Ok(false) => return read,
            Ok(true) => {
                let fields: Vec<String> =
                    record.iter().map(|field| String::from_utf8_lossy(field).into_owned()).collect();
                let line = record.position().map_or(line, csv::Position::line);
                if read.used + read.refused_count == 0 && fields.first().is_some_and(|first| first == "address") {
                    continue;
                }
                take(&mut read, line, &fields);
            }
            Err(error) => {
                refuse(&mut read, line, NotUsed::Line(cleaned(&error.to_string(), LONGEST)));
                if error.is_io_error() {
                    return read;
                }
            }
        }
    }
}

fn take(read: &mut ForeignErrors, line: u64, fields: &[String]) {
    let [address, expected, actual] = fields else {
        return refuse(read, line, NotUsed::Fields(fields.len()));
    };
    let parsed = [address, expected, actual].map(|field| parse_address(field));
    match parsed {
        [Ok(address), Ok(expected), Ok(actual)] if expected != actual => {
            read.digest.add(address & !7, expected, actual, Kind::NotLooked);
            read.used += 1;
        }
        [Ok(_), Ok(_), Ok(_)] => refuse(read, line, NotUsed::Same),
        parsed => {
            if let Some(error) = parsed.into_iter().find_map(Result::err) {
                refuse(read, line, NotUsed::Field(error));
            }
        }
    }
}

fn refuse(read: &mut ForeignErrors, line: u64, why: NotUsed) {
    read.refused_count += 1;
    if read.refused.len() < MOST_REFUSED {
        read.refused.push((line, why));
    }
}
