//! Which part is at fault: odds over causes from all runs of a job, and the next fitting that tells most.
//!
//! The model is Bayesian: every cause says how likely each run's outcome was; the odds follow. Weights and rates are
//! guesses of a repair bench and stand together in [`model`].

mod case;
mod evidence;
mod model;
mod plan;
mod words;

pub use case::{Case, Evidence, Experiment, KnownModule, KnownSlot, Placement, RunFact, Suspect};
pub use evidence::one_module_pass_minutes;
pub use model::{Odds, odds};
pub use plan::{Advice, Forecast, Verdict, advise};
pub use words::{band, leading, suspect_words};
