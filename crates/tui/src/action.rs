//! Everything that the technician can do.

/// The views, under their fixed numbers.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum View {
    /// 0: the machines of the workshop.
    Jobs,
    /// 1: what is told of a machine that comes in.
    Intake,
    /// 2: what is fitted.
    Board,
    /// 3: what to run.
    Recipe,
    /// 4: the run.
    Run,
    /// 5: where errors are, and what failed.
    Locate,
    /// 6: which part it is.
    Swap,
    /// 7: how fast memory is.
    Speed,
    /// 8: earlier runs.
    Logs,
    /// 9: what goes to the counter.
    Report,
}

impl View {
    /// All views, in the order of their numbers.
    pub const ALL: [Self; 10] = [
        Self::Jobs,
        Self::Intake,
        Self::Board,
        Self::Recipe,
        Self::Run,
        Self::Locate,
        Self::Swap,
        Self::Speed,
        Self::Logs,
        Self::Report,
    ];

    /// Its number key.
    pub fn digit(self) -> char {
        match self {
            Self::Jobs => '0',
            Self::Intake => '1',
            Self::Board => '2',
            Self::Recipe => '3',
            Self::Run => '4',
            Self::Locate => '5',
            Self::Swap => '6',
            Self::Speed => '7',
            Self::Logs => '8',
            Self::Report => '9',
        }
    }

    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            Self::Jobs => "Jobs",
            Self::Intake => "Intake",
            Self::Board => "Board",
            Self::Recipe => "Recipe",
            Self::Run => "Run",
            Self::Locate => "Locate",
            Self::Swap => "Swap",
            Self::Speed => "Speed",
            Self::Logs => "Logs",
            Self::Report => "Report",
        }
    }
}

/// What a key asks for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Action {
    /// Show a view.
    Show(View),
    /// Up in a list.
    Up,
    /// Down in a list.
    Down,
    /// The value or choice before.
    Left,
    /// The value or choice after.
    Right,
    /// The next sensible step here.
    Proceed,
    /// Back, or the list of all actions when there is nothing to go back to.
    Back,
    /// Switch the chosen item, or take out and put in.
    Switch,
    /// Other settings in the firmware.
    Settings,
    /// Choose another step than the advised one.
    OtherStep,
    /// Strike a run out, or let it count again.
    Strike,
    /// Say what else is known of modules, mainboard and owner.
    Known,
    /// Choose the run for a comparison, or not.
    Choose,
    /// Every run of the chosen module.
    Life,
    /// What the machine's own systems logged.
    SystemLog,
    /// Bring in records from a drive.
    BringIn,
    /// Measure speed with working sets up to most of free memory.
    MeasureAll,
    /// Give up measuring speed.
    StopSpeed,
    /// Set the speed against another measurement.
    CompareSpeed,
    /// Make a boot drive.
    BootDrive,
    /// The results on a boot drive stay, or not.
    KeepResults,
    /// Give up writing a drive.
    GiveUp,
    /// The report in the other language.
    Language,
    /// Begin another job for the machine on the bench.
    NewJob,
    /// The job is done, or goes on.
    CloseOrReopen,
    /// Write words into the intake.
    Words,
    /// Only the lines of a list with some words in them.
    Find,
    /// What keeps a system out of bad ranges.
    Stopgap,
    /// Name the chosen module.
    Mark,
    /// All facts and who tells them.
    AllFacts,
    /// Hold the run, or let it go on.
    PauseOrGoOn,
    /// Leave the test at hand unfinished.
    SkipTest,
    /// End the run.
    StopRun,
    /// Go on with the run that ended early.
    GoOnWithRun,
    /// Show again what a run showed.
    RepeatWhatFailed,
    /// Leave the test at hand and go on with the chosen one.
    GoToTest,
    /// One pass more.
    AddPass,
    /// Write the recipe to a file.
    SaveRecipe,
    /// Read the next recipe file.
    NextRecipe,
    /// The recipe as its depth gives it.
    Defaults,
    /// All keys for here.
    Help,
    /// All actions by name.
    Actions,
    /// Draw everything again.
    Redraw,
    /// Leave the program.
    Quit,
}
