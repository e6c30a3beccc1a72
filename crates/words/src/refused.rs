//! Why something cannot be run.

use revisum_diagnose::locate::NotUsed;
use revisum_engine::memory::{LeaseError, Limit};
use revisum_engine::recipe::RecipeError;
use revisum_engine::speed::{LEAST_SET, NoWidth, NotMeasured};
use revisum_engine::text::cleaned;
use revisum_engine::units::{ByteRange, NotRead, bytes_text, parse_bytes, parse_duration, parse_range};

use crate::say;

/// Letters of a reason.
const LONGEST: usize = 200;

/// Why no memory was to be had.
pub fn lease(error: &LeaseError) -> String {
    match error {
        LeaseError::TooMuch { asked, reachable, why } => {
            let why = match why {
                Limit::LockLimit => say::limit_lock_limit(),
                Limit::System => say::limit_system(),
            };
            say::lease_too_much(bytes_text(*asked), bytes_text(*reachable), why)
        }
        LeaseError::Elsewhere => say::lease_elsewhere().to_owned(),
        LeaseError::Abandoned => say::lease_abandoned().to_owned(),
        LeaseError::DoesNotStart(sign) => say::lease_does_not_start(sign),
        LeaseError::OutOfReach(range) => say::lease_out_of_reach(range),
        // What the system itself says is in its own words.
        LeaseError::Refused { .. } => error.to_string(),
    }
}

/// Why a recipe cannot be run.
pub fn recipe(error: &RecipeError) -> String {
    match error {
        RecipeError::UnknownTest { name, known } => say::recipe_unknown_test(name, known),
        RecipeError::NoTest => say::recipe_no_test().to_owned(),
        RecipeError::NoPass => say::recipe_no_pass().to_owned(),
        RecipeError::NoError => say::recipe_no_error().to_owned(),
        RecipeError::LittleMemory(bytes) => say::recipe_too_little(*bytes),
        RecipeError::NoSuchCore { core, last } => say::recipe_no_such_core(core.to_string(), last.to_string()),
        // A test of one's own is quoted with the place of the mistake in it.
        RecipeError::Own(error) => error.to_string(),
    }
}

/// An amount of memory in bytes.
///
/// # Errors
/// With what is wrong and how it is written.
pub fn amount(typed: &str) -> Result<u64, String> {
    parse_bytes(typed).map_err(|error| text(&error))
}

/// A duration in seconds.
///
/// # Errors
/// With what is wrong and how it is written.
pub fn duration(typed: &str) -> Result<u64, String> {
    parse_duration(typed).map_err(|error| text(&error))
}

/// A range of physical addresses.
///
/// # Errors
/// With what is wrong and how it is written.
pub fn range(typed: &str) -> Result<ByteRange, String> {
    parse_range(typed).map_err(|error| text(&error))
}

/// Why an amount, an address, a duration or a range cannot be read.
pub fn text(error: &NotRead) -> String {
    match error {
        NotRead::Amount(text) => say::not_read_amount(quoted(text)),
        NotRead::Unit { text, unit } => say::not_read_unit(quoted(text), quoted(unit)),
        NotRead::OutOfBounds(text) => say::not_read_bounds(quoted(text)),
        NotRead::Address(text) => say::not_read_address(quoted(text)),
        NotRead::Duration(text) => say::not_read_duration(quoted(text)),
        NotRead::Range(text) => say::not_read_range(quoted(text)),
        NotRead::EmptyRange(text) => say::not_read_empty(quoted(text)),
    }
}

/// A line of errors from elsewhere that was not used, and why.
pub fn line(line: u64, why: &NotUsed) -> String {
    let why = match why {
        NotUsed::Fields(count) => say::not_used_fields(*count),
        NotUsed::Same => say::not_used_same().to_owned(),
        NotUsed::Field(error) => text(error),
        NotUsed::Line(said) => said.clone(),
    };
    say::not_used_line(line.to_string(), cleaned(&why, LONGEST))
}

/// Why the speed of memory cannot be measured as it is wanted.
pub fn measuring(why: NotMeasured) -> String {
    match why {
        NotMeasured::Cores { asked, here } => say::not_measured_cores(asked, here),
        NotMeasured::Width(width) => say::not_measured_width(width.bits().to_string()),
        NotMeasured::TooSmall => say::not_measured_small(bytes_text(LEAST_SET)),
        NotMeasured::TooLarge { asked, largest, cores } => {
            say::not_measured_large(bytes_text(asked), bytes_text(largest), cores)
        }
        NotMeasured::Nothing => say::not_measured_nothing().to_owned(),
    }
}

/// Why a number of bits is no width.
pub fn width(error: NoWidth) -> String {
    say::no_such_width(error.0.to_string())
}

/// With marks around it and without characters that a terminal obeys.
fn quoted(text: &str) -> String {
    format!("{text:?}")
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What a file holds reaches no terminal as a command to it.
    #[test]
    fn a_line_that_is_refused_holds_no_control_characters() {
        let said = line(6, &NotUsed::Field(NotRead::Amount("\u{1b}[2J".into())));
        assert!(said.starts_with("line 6: ") && !said.chars().any(char::is_control), "{said}");
        assert_eq!(line(3, &NotUsed::Fields(1)), "line 3: 1 field instead of address, expected and actual");
    }
}
