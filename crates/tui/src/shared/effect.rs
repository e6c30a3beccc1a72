//! What the interface asks the rest of the program to do.

use std::path::PathBuf;

use revisum_drive::Drive;
use revisum_engine::recipe::Recipe;
use revisum_record::journal::JobEntry;
use revisum_report::Language;
use revisum_workbench::go_on::Start;

use crate::say;

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
    /// Look for recipe files.
    ListRecipes,
    /// Read a recipe file, for so much memory.
    OpenRecipe {
        /// The file.
        file: PathBuf,
        /// Bytes that it would hold.
        held: u64,
    },
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
    /// Go by the map of slots that was learned before.
    UseLearned,
    /// Learn from time, and where modules have thermometers from warmth, how addresses come to channels.
    LearnByTime,
    /// Give that up.
    StopByTime,
    /// Read the list of recorded runs with these words in them.
    ListLogs(String),
    /// Read a recorded run.
    OpenLog(String),
    /// Read runs to set them side by side.
    Compare(Vec<String>),
    /// Read a recorded run as it was at a moment.
    LogAt {
        /// The run.
        id: String,
        /// So many milliseconds after its beginning; nothing for its end.
        at: Option<u64>,
        /// Milliseconds that all of it took.
        length: u64,
    },
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
    /// Set a measurement against another one that is alike.
    CompareSpeed {
        /// When the one shown was made.
        shown: Option<i64>,
        /// Which of those that are alike.
        which: usize,
    },
    /// Put the report together in this language, or the shop's.
    MakeReport(Option<Language>),
    /// Write it to files.
    WriteReport(Option<Language>),
    /// The same without a word about it, unless it cannot be done.
    KeepReport,
    /// Take over how far what goes on beside everything else has come.
    Follow,
    /// Try again to write what could not be written.
    WriteUnwritten,
    /// Speak this language from now on.
    Speak(Language),
    /// Draw everything again.
    Redraw,
    /// Show all machines that are linked to this computer.
    Wall,
    /// Larger or smaller text, where the console can.
    TextSize,
}

impl Effect {
    /// What is being done, where it takes long.
    pub fn words(&self) -> &'static str {
        match self {
            Self::MakeReport(_) => say::doing_report(),
            Self::WriteReport(_) | Self::KeepReport => say::doing_write_report(),
            Self::ListLogs(_) | Self::ListJobs => say::doing_search(),
            Self::OpenLog(_) | Self::LogAt { .. } | Self::Compare(_) | Self::Life { .. } => say::doing_read(),
            Self::Locate => say::doing_locate(),
            Self::OpenJob { .. } | Self::NewJob => say::doing_open_job(),
            Self::ListDrives | Self::FindRecords => say::doing_drives(),
            Self::CompareSpeed { .. } => say::doing_measurements(),
            _ => say::doing_at_work(),
        }
    }

    /// Whether what it does changes the job or the machine: keys that follow wait for it, or they would act on what was before.
    pub fn changes(&self) -> bool {
        matches!(
            self,
            Self::StartRun(_)
                | Self::Refit(_)
                | Self::Set(_)
                | Self::Reseat(_)
                | Self::Decide(_)
                | Self::Mark { .. }
                | Self::OpenJob { .. }
                | Self::NewJob
                | Self::OpenRecipe { .. }
                | Self::KeepSystemLog
                | Self::MeasureSpeed { .. }
                | Self::LearnByTime
                | Self::BringIn(_)
                | Self::FindRecords
                | Self::ListDrives
        )
    }
}
