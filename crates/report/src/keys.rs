//! The texts of the report by names that the compiler knows: one that is never said is warned of, and a test holds the names against the
//! catalogue.

use revisum_words::names;

names! {
    /// Name of a text.
    pub(crate) enum Key {
        Report = "report-title",
        Made = "report-made",
        By = "report-by",
        Machine = "report-machine",
        Owner = "report-owner",
        Told = "report-told",
        Changed = "report-changed",
        Tried = "report-tried",
        Job = "report-job",
        Simulated = "report-simulated",
        OpenNote = "report-open-note",
        Page = "report-page",
        Next = "report-next",
        Sure = "report-sure",
        VerdictModule = "report-verdict-module",
        VerdictUnfit = "report-verdict-unfit",
        VerdictSlot = "report-verdict-slot",
        VerdictNoPart = "report-verdict-no-part",
        VerdictCombination = "report-verdict-combination",
        VerdictPair = "report-verdict-pair",
        VerdictSettings = "report-verdict-settings",
        VerdictController = "report-verdict-controller",
        VerdictTwo = "report-verdict-two",
        VerdictModuleSlot = "report-verdict-module-slot",
        VerdictOther = "report-verdict-other",
        VerdictOpen = "report-verdict-open",
        VerdictUnproved = "report-verdict-unproved",
        VerdictGoingOn = "report-verdict-going-on",
        VerdictClean = "report-verdict-clean",
        VerdictNothing = "report-verdict-nothing",
        VerdictUnfinished = "report-verdict-unfinished",
        VerdictBelieve = "report-verdict-believe",
        VerdictNotWhole = "report-verdict-not-whole",
        RecordLost = "report-record-lost",
        WhyAlone = "report-why-alone",
        CleanWorth = "report-clean-worth",
        DoGoingOn = "report-do-going-on",
        DoCleanNext = "report-do-clean-next",
        DoBegin = "report-do-begin",
        NextRun = "report-next-run",
        Order = "report-order",
        Story = "report-story",
        StoryNone = "report-story-none",
        ColRun = "report-col-run",
        ColWhen = "report-col-when",
        ColFitted = "report-col-fitted",
        ColSettings = "report-col-settings",
        ColLong = "report-col-long",
        ColPasses = "report-col-passes",
        ColResult = "report-col-result",
        FittedIn = "report-fitted-in",
        InSlots = "report-in-slots",
        StruckOut = "report-struck-out",
        Times = "report-times",
        DoubtfulClock = "report-doubtful-clock",
        Modules = "report-modules",
        ColModule = "report-col-module",
        ColKind = "report-col-kind",
        ColSize = "report-col-size",
        ColSerial = "report-col-serial",
        ColOutcome = "report-col-outcome",
        EndUnknown = "report-end-unknown",
        Good = "report-good",
        Unnamed = "report-unnamed",
        Where = "report-where",
        WhereWords = "report-where-words",
        CertaintyCertain = "report-certainty-certain",
        CertaintyAssumed = "report-certainty-assumed",
        CertaintyOneOf = "report-certainty-one-of",
        CertaintyUnknown = "report-certainty-unknown",
        ShapeSeveral = "report-shape-several",
        Files = "report-files",
        FilesWords = "report-files-words",
        Detail = "report-detail",
        Tested = "report-tested",
        TestedWords = "report-tested-words",
        TestedUnknown = "report-tested-unknown",
        Never = "report-never",
        NeverRest = "report-never-rest",
        NeverComputing = "report-never-computing",
        NeverOvernight = "report-never-overnight",
        NeverModules = "report-never-modules",
        NeverHot = "report-never-hot",
        LoadsBoth = "report-loads-both",
        LoadsPatterns = "report-loads-patterns",
        Hottest = "report-hottest",
        OrderFrom = "report-order-from",
        OrderOfShares = "report-order-of-shares",
        RowsByMap = "report-rows-by-map",
        RowsByTiming = "report-rows-by-timing",
        RowsGuessed = "report-rows-guessed",
        Tests = "report-tests",
        ColTest = "report-col-test",
        ColFinished = "report-col-finished",
        ColWrong = "report-col-wrong",
        ColSwept = "report-col-swept",
        ChartErrors = "report-chart-errors",
        ChartErrorsHeat = "report-chart-errors-heat",
        ChartGrid = "report-chart-grid",
        ChartBoard = "report-chart-board",
        ChartAfter = "report-chart-after",
        AxisMinutes = "report-axis-minutes",
        AxisWords = "report-axis-words",
        AxisCelsius = "report-axis-celsius",
        Logged = "report-logged",
        LoggedMore = "report-logged-more",
        ColLast = "report-col-last",
        ColLogged = "report-col-logged",
        ColCount = "report-col-count",
        ColSlot = "report-col-slot",
        ColAddress = "report-col-address",
        Kept = "report-kept",
        KeptWords = "report-kept-words",
        Signed = "report-signed",
        Speed = "report-speed",
        SpeedGuest = "report-speed-guest",
        SpeedSmall = "report-speed-small",
        ColMeasured = "report-col-measured",
        ColSpeeds = "report-col-speeds",
        ColRead = "report-col-read",
        ColLatency = "report-col-latency",
        SpeedSimulated = "report-speed-simulated",
        SpeedProcessor = "report-speed-processor",
        SpeedCaches = "report-speed-caches",
        SpeedRepeats = "report-speed-repeats",
        SpeedLargePages = "report-speed-large-pages",
        SpeedLargeShare = "report-speed-large-share",
        SpeedDoes = "report-speed-does",
        SpeedTableNote = "report-speed-table-note",
        SpeedCharts = "report-speed-charts",
        SpeedEachOnce = "report-speed-each-once",
        SpeedStopped = "report-speed-stopped",
        SpeedShared = "report-speed-shared",
        SpeedCompared = "report-speed-compared",
        SpeedSpread = "report-speed-spread",
        SpeedExpected = "report-speed-expected",
    }
}

#[cfg(test)]
mod tests {
    use revisum_words::{Language, Name as _, Texts, entries};

    use super::*;

    #[test]
    fn the_catalogue_has_these_texts_and_no_others() {
        let known: Vec<String> = entries(Language::EN, Some("report")).unwrap().into_keys().collect();
        let mut named: Vec<&str> = Key::ALL.iter().map(|key| key.id()).collect();
        named.sort_unstable();
        assert_eq!(named, known);
    }

    #[test]
    fn numbers_choose_words() {
        let texts = Texts::of(Language::tagged("de").unwrap());
        let words = |count: u64| texts.put(Key::RecordLost, &[("count", count.into())]);
        assert!(words(1).starts_with("Die Aufzeichnung eines Laufs") && words(2).starts_with("2 Aufzeichnungen"));
        assert_eq!(texts.decimal(98.7, 1), "98,7");
    }
}
