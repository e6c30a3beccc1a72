//! Journals on disk: finding, reading and writing them.

mod brought_over;
mod data_dir;
mod digest;
mod find;
mod import;
mod job;
mod jobs;
mod last_moment;
mod learned_maps;
mod ledger;
mod logged;
mod moment;
mod past;
mod runs;
mod say;
pub mod wall_time;
mod wrong_use;

pub use brought_over::BroughtOver;
pub use data_dir::DataDir;
pub use digest::Digest;
pub use find::{Found, find_run_here, find_runs, scan_runs};
pub use import::{Imported, import};
pub use job::{Course, Job, Station};
pub use jobs::{JobSummary, Which, list_jobs};
pub use last_moment::last_moment;
pub use learned_maps::{channels_for, halves_for, keep_halves, keep_learned, learned_for};
pub use ledger::{Holding, KeptUp, Ledger, Life, LifeLine, Place, Sharing, SpeedFound, end_sharing};
pub use logged::{MOST_KEPT, shown_time};
pub use moment::{Moment, next_moment};
pub use past::{Past, PastRun};
pub use runs::{
    Recorded, RunSummary, Standing, create_run, find_run, list_runs, read_run, read_run_until, runs_of_machine,
};
pub use wrong_use::WrongUse;
