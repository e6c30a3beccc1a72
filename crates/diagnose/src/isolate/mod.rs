//! Which part is at fault: odds over causes from all runs of a job, and the next fitting that tells most.
//!
//! The model is Bayesian: every cause says how likely each run's outcome was; the odds follow. Weights, rates and costs are
//! guesses of a repair bench and stand together in one file, `priors.toml`, that a shop can change.

mod band;
mod because;
mod bench;
mod candidates;
mod case;
mod case_file;
mod cause;
mod clean_for;
mod evidence;
mod exchange;
mod expectation;
mod fact;
mod intake;
mod likelihood;
mod moves;
mod outcome;
mod plan;
mod planner;
mod posterior;
mod priors;
mod proof;
mod seen_cells;
mod signs;
mod suspect;
#[cfg(test)]
mod tests;
mod tilt;
mod witness;

pub use band::{Band, band};
pub use because::{Because, Came, Observed, because};
pub use case::{Case, Experiment, KnownModule, KnownSlot, Placement};
pub use case_file::CaseError;
pub use clean_for::CleanFor;
pub use evidence::{half_of, halves_of, in_order_of_channels, one_module_pass_minutes, placed_anew};
pub use exchange::{Answer, answer, answer_case, answer_with};
pub use expectation::{Length, WhyNext, chance_to_show};
pub use fact::{Evidence, Load, Mark, MarkClass, Place, RunFact};
pub use intake::{QUESTIONS, Question, is_answer, tilt};
pub use moves::{Move, moves};
pub use outcome::{
    Action, Beyond, Contradiction, Disposition, Proof, Shown, before_the_change, clean_again, contradictions,
    dispositions, gone_and_kept, shown, to_do, what_stays,
};
pub use plan::{Advice, Forecast, Proposal, Reason, Verdict, advise, forecast};
pub use posterior::{Odds, odds};
pub use priors::{Priors, PriorsError};
pub use seen_cells::{look_of, marks, reach_of, reached};
pub use signs::{Look, Signs};
pub use suspect::Suspect;
pub use tilt::Tilt;
