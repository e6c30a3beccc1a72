//! What the state asks the rest of the program to do.

use std::path::PathBuf;

use revisum_drive::Drive;
use revisum_engine::recipe::Recipe;
use revisum_record::journal::JobEntry;
use revisum_workbench::go_on::Start;

/// An effect.
#[derive(Clone, Debug, PartialEq)]
pub enum Effect {
    /// Begin a run, go on with one, or repeat one.
    StartRun(Box<Start>),
    /// Hold the run, or let it go on.
    PauseOrGoOn,
    /// Leave the test at hand.
    SkipTest,
    /// Leave the test at hand and go on with the one at this place.
    GoToTest(usize),
    /// One pass more.
    AddPass,
    /// Write the recipe to a file.
    SaveRecipe(Recipe),
    /// Read the next recipe file.
    NextRecipe,
    /// End the run, if there is one.
    StopRun,
    /// Put modules so: `(slot, serial number)`.
    Refit(Vec<(String, String)>),
    /// Put these settings in force.
    Set(String),
    /// Take modules out and put them back.
    Reseat(Vec<String>),
    /// Write something down in the job.
    Decide(Box<JobEntry>),
    /// Call a module so.
    Mark {
        /// What the module is known by.
        module: String,
        /// Its name; empty to take the mark off.
        mark: String,
    },
    /// Put a machine of the workshop on the bench, with one of its jobs.
    OpenJob {
        /// Machine.
        machine: String,
        /// Job; nothing for the latest.
        job: Option<String>,
    },
    /// Begin another job for the machine on the bench.
    NewJob,
    /// Read the list of jobs.
    ListJobs,
    /// Work out where the errors of the latest run are.
    Locate,
    /// Read the list of recorded runs.
    ListLogs,
    /// Read a recorded run.
    OpenLog(String),
    /// Read runs to set them side by side.
    Compare(Vec<String>),
    /// Read a recorded run as it was so many milliseconds after its beginning; nothing for its end.
    LogAt(String, Option<u64>),
    /// Read everything known of a module.
    Life {
        /// Its serial number.
        serial: String,
        /// What it is called.
        name: String,
    },
    /// List the drives that a boot drive could be written to.
    ListDrives,
    /// Write the image to this drive; its results stay where that is asked for.
    WriteDrive {
        /// The drive as it was listed.
        drive: Box<Drive>,
        /// Whether results stay.
        keep: bool,
    },
    /// Look for records on mounted drives.
    FindRecords,
    /// Bring in the records below this folder.
    BringIn(PathBuf),
    /// Read what systems logged.
    ReadSystemLog,
    /// Keep what they logged in the job.
    KeepSystemLog,
    /// Measure how fast memory is.
    MeasureSpeed {
        /// With working sets up to most of free memory.
        all_memory: bool,
    },
    /// Give up measuring.
    StopSpeed,
    /// Set the measurement against the next one that is alike.
    CompareSpeed,
    /// Put the report together.
    MakeReport,
    /// Write the report to files.
    WriteReport,
    /// The same without a word about it, unless it cannot be done.
    KeepReport,
    /// Draw everything again.
    Redraw,
}
