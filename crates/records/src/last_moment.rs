//! How far the records go in time.

use anyhow::Result;

use crate::DataDir;
use crate::jobs::{job_ids, path_of, read_job};
use crate::runs::{Recorded, journals, read_run};

/// The latest moment of which a run or a job tells, in milliseconds since 1970; nothing where there is neither. What cannot be read tells
/// none.
///
/// # Errors
/// When a folder itself cannot be read.
pub fn last_moment(data: &DataDir) -> Result<Option<i64>> {
    let runs = journals(&data.runs())?.into_iter().filter_map(|path| read_run(&path).ok());
    let end = |run: Recorded| run.state.begin.wall_ms.saturating_add_unsigned(run.state.t_ms);
    let jobs = job_ids(&data.jobs())?.into_iter().filter_map(|id| read_job(&path_of(&data.jobs(), &id)).ok());
    Ok(runs.map(end).chain(jobs.map(|(job, _)| job.last_ms())).max())
}
