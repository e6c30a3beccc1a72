//! What a run came to: one value, computed here and nowhere else. Screens, commands, lists and reports take their numbers from it.

mod coverage;
mod headline;
mod job;
mod judgement;
mod plan;
mod word;

pub use coverage::{Coverage, LeftOut, Reason};
pub use headline::{Headline, Place, Progress, Told};
pub use job::tested_of_job;
pub use judgement::{Claim, Grade, Judgement, Times};
pub use plan::{Done, EndedBy, Planned};
pub use word::Outcome;
