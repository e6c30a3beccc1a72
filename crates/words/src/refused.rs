//! Why something cannot be run.

use revisum_engine::memory::{LeaseError, Limit};
use revisum_engine::recipe::RecipeError;
use revisum_engine::units::bytes_text;

use crate::say;

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
