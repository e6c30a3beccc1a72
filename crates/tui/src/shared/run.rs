//! The run of this sitting as it is shown.

use std::sync::Arc;

use revisum_record::run_state::RunState;

/// The run of this sitting.
#[derive(Clone, Debug, Default)]
pub struct RunView {
    /// What it has come to.
    pub state: Arc<RunState>,
    /// Nothing more will come.
    pub over: bool,
    /// Why records are not kept.
    pub trouble: Option<String>,
    /// Why it could not be made.
    pub failure: Option<String>,
    /// Bytes taken before it begins, and bytes wanted.
    pub taken: (u64, u64),
}
