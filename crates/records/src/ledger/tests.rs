use revisum_engine::news::EndReason;
use revisum_linux::JournalFile;
use revisum_record::fitted::{Board, Module, Slot};
use revisum_record::journal::{Begin, Entry, JobEntry, JournalWriter};
use revisum_record::speed::SpeedRecord;
use rstest::rstest;

use super::*;
use crate::create_run;

const WALL_MS: i64 = 1_933_766_160_000;

impl Ledger {
    /// Everything in it in a fixed order, for comparing two. Where a journal is does not belong to it.
    pub(super) fn content(&self) -> Vec<String> {
        let (mut runs, count) = self.find("", usize::MAX >> 2).unwrap();
        assert_eq!(runs.len() as u64, count);
        runs.iter_mut().for_each(|run| run.elsewhere = None);
        let mut all: Vec<String> = runs.iter().map(|run| format!("{run:?}")).collect();
        let tables = [
            "SELECT serial, id, slot, CAST(modules.errors AS TEXT), kind, mainboard FROM modules JOIN runs ON nr = run",
            "SELECT why FROM holders WHERE why IS NOT NULL",
            "SELECT id, machine, CAST(opened_ms AS TEXT), closed, notes FROM jobs",
            "SELECT id, run FROM job_runs JOIN jobs ON nr = job",
            "SELECT serial, id, ends.machine, end_word FROM ends JOIN jobs ON nr = job",
            "SELECT id, CAST(speeds.nr AS TEXT), speeds.machine, kind, CAST(wall_ms AS TEXT) FROM speeds JOIN jobs ON jobs.nr = job",
        ];
        for table in tables {
            let mut rows: Vec<String> =
                self.base.rows(table, &[]).unwrap().iter().map(|row| format!("{:?}", row.0)).collect();
            rows.sort();
            all.extend(rows);
        }
        all
    }
}

pub(super) fn record(folder: &Path, machine: &str, serial: &str, at: i64) -> String {
    let (id, mut writer) = create_run(folder, machine, WALL_MS + at * 60_000).unwrap();
    let module = Module { serial: serial.into(), part: "HD8G32J".into(), ..Module::default() };
    let slot = Slot { id: "A1".into(), module: Some(module), ..Slot::default() };
    let board = Board { slots: vec![slot], ..Board::default() };
    let begin = Begin { machine: machine.into(), wall_ms: WALL_MS + at * 60_000, board, ..Begin::default() };
    writer.append(0, &Entry::Begin(Box::new(begin))).unwrap();
    writer.append(1, &Entry::Ended { reason: EndReason::Stopped }).unwrap();
    writer.sync().unwrap();
    id
}

fn filled() -> (tempfile::TempDir, Ledger) {
    let folder = tempfile::tempdir().unwrap();
    let runs = folder.path().join("runs");
    std::fs::create_dir(&runs).unwrap();
    record(&runs, "dome 1", "C5510093", 0);
    record(&runs, "stacker", "C5510093", 1);
    record(&runs, "dome 1", "C5510094", 2);
    std::fs::write(runs.join("junk.journal"), b"\x00\xff").unwrap();
    let ledger = Ledger::open(&DataDir::choose(Some(folder.path()), None).unwrap()).unwrap();
    (folder, ledger)
}

#[rstest]
#[case("", 3)]
#[case("dome", 2)]
#[case("0094", 1)]
#[case("A1 dome 0093", 1)]
#[case("a1", 3)]
#[case("dome \"", 0)]
#[case("\"; DROP", 0)]
#[case("med ome", 0)]
#[case::a_year_is_in_every_id("2031", 0)]
#[case::of_a_day("2031-04-12", 3)]
#[case::the_number_of_a_module("94", 1)]
fn runs_are_found_by_any_part_of_their_text(#[case] text: &str, #[case] count: usize) {
    let (_folder, ledger) = filled();
    let (runs, all) = ledger.find(text, 10).unwrap();
    assert_eq!((runs.len(), all), (count, count as u64), "{runs:?}");
    let scanned = crate::list_runs(&ledger.folder).unwrap().0;
    let words: Vec<String> = text.to_lowercase().split_whitespace().map(str::to_owned).collect();
    let expected: Vec<_> = scanned.into_iter().filter(|run| words.iter().all(|word| run.has(word))).collect();
    assert_eq!(runs, expected, "the same as a scan of the journals");
}

/// A job of which the only module failed in every run.
pub(super) fn job(folder: &std::path::Path, run: &str) {
    let mut writer =
        JournalWriter::new(Box::new(JournalFile::open_to_append(&folder.join("dome-1.job")).unwrap()), "dome-1");
    let module = Module { serial: "C5510093".into(), ..Module::default() };
    let entries = [
        JobEntry::Opened { format: 1, machine: "dome 1".into(), wall_ms: WALL_MS },
        JobEntry::Seen { module },
        JobEntry::Ran { run: run.into() },
        JobEntry::Noted { words: "Dust in the Fan".into(), wall_ms: WALL_MS },
        JobEntry::Closed { answer: "replaced".into() },
    ];
    entries.into_iter().for_each(|entry| writer.append(0, &entry).unwrap());
    writer.sync().unwrap();
}

#[test]
fn jobs_are_taken_in_with_what_becomes_of_their_modules() {
    let (folder, mut ledger) = filled();
    let jobs = folder.path().join("jobs");
    std::fs::create_dir(&jobs).unwrap();
    let run = ledger.life("C5510093").unwrap().runs[0].run.clone();
    job(&jobs, &run);
    ledger.refresh().unwrap();
    let ends = ledger.life("C5510093").unwrap().ends;
    let [end] = &ends[..] else { panic!("{ends:?}") };
    assert_eq!((end.job.as_str(), end.machine.as_str(), end.closed.as_deref()), ("dome-1", "dome 1", Some("replaced")));
    let grown = ledger.content();
    ledger.rebuild().unwrap();
    assert_eq!(ledger.content(), grown);
    for (text, count) in [("fan dust", 1), ("fan", 1), ("fan rain", 0)] {
        let (runs, all) = ledger.find(text, 10).unwrap();
        assert_eq!((runs.len(), all), (count, count as u64), "by its job's notes: {text}");
        assert!(runs.iter().all(|found| found.id == run));
    }
    std::fs::remove_file(jobs.join("dome-1.job")).unwrap();
    ledger.refresh().unwrap();
    assert!(ledger.life("C5510093").unwrap().ends.is_empty());
}

#[test]
fn the_rebuilt_ledger_equals_the_grown_one() {
    let (_folder, mut ledger) = filled();
    record(&ledger.folder, "late", "C5510095", 9);
    std::fs::remove_file(ledger.folder.join("junk.journal")).unwrap();
    ledger.refresh().unwrap();
    let grown = ledger.content();
    assert_eq!(grown.len(), 8, "{grown:?}");
    ledger.rebuild().unwrap();
    assert_eq!(ledger.content(), grown);
}

/// A run in two files of which the second comes later, one more of a name that is here with other records, and one that is no journal.
#[test]
fn what_is_imported_is_in_the_ledger_as_if_it_were_built_again() {
    let (folder, _) = filled();
    let data = DataDir::choose(Some(folder.path()), None).unwrap();
    let drive = tempfile::tempdir().unwrap();
    let [whole, split] = ["whole", "split"].map(|machine| record(drive.path(), machine, "D1", 20));
    let other = record(drive.path(), "dome 1", "D2", 0);
    std::fs::write(drive.path().join("rubbish.journal"), "rubbish").unwrap();
    let first = drive.path().join(format!("{split}.journal"));
    let text = std::fs::read_to_string(&first).unwrap();
    let end = text.find("\"record\":\"ended\"").and_then(|at| text[..at].rfind('\n')).unwrap() + 1;
    std::fs::write(&first, &text[..end]).unwrap();
    let import = || crate::import(&data, drive.path(), &mut |_, _| {}).unwrap();
    let done = import();
    assert_eq!((done.copied, done.beside, done.failed.len()), (3, 1, 0), "{done:?}");
    std::fs::write(drive.path().join(format!("{split}.journal-2")), &text[end..]).unwrap();
    let outcome = |ledger: &Ledger, id: &str| {
        let all = ledger.find(id, 10).unwrap().0;
        all.into_iter().map(|run| run.outcome.word()).collect::<Vec<_>>()
    };
    assert_eq!(outcome(&Ledger::open(&data).unwrap(), &split), ["interrupted"]);
    assert_eq!((import().copied, import().known), (1, 5));
    let mut ledger = Ledger::open(&data).unwrap();
    assert_eq!(outcome(&ledger, &split), ["cut-short"]);
    assert_eq!((outcome(&ledger, &whole).len(), outcome(&ledger, &other).len()), (1, 2));
    let grown = ledger.content();
    ledger.rebuild().unwrap();
    assert_eq!(ledger.content(), grown);
}

#[test]
fn a_modules_life_goes_over_machines() {
    let (_folder, ledger) = filled();
    let life = ledger.life("C5510093").unwrap().runs;
    let machines: Vec<&str> = life.iter().map(|line| line.machine.as_str()).collect();
    assert_eq!(machines, ["dome 1", "stacker"]);
    assert_eq!(life[0].slot, "A1");
    assert!(ledger.unreadable().unwrap()[0].contains("junk"));
}

/// A machine's own measurements first, the newest in front; then those of machines with the same mainboard and modules.
#[test]
fn measurements_are_found_of_this_machine_and_of_those_like_it() {
    let (folder, mut ledger) = filled();
    let jobs = folder.path().join("jobs");
    std::fs::create_dir(&jobs).unwrap();
    let board = |part: &str| {
        let module = Module { part: part.into(), bytes: 8 << 30, ..Module::default() };
        let slot = Slot { id: "A1".into(), module: Some(module), ..Slot::default() };
        Board { mainboard: "Tarnwerk Holm M2".into(), slots: vec![slot], ..Board::default() }
    };
    let job = |machine: &str, measured: &[(&str, i64)]| {
        let path = jobs.join(format!("{machine}.job"));
        let mut writer = JournalWriter::new(Box::new(JournalFile::open_to_append(&path).unwrap()), machine);
        let opened = JobEntry::Opened { format: 1, machine: machine.into(), wall_ms: WALL_MS };
        let speeds = measured.iter().map(|(part, at)| {
            let speed = SpeedRecord { board: board(part), wall_ms: WALL_MS + at, ..SpeedRecord::default() };
            JobEntry::SpeedMeasured { speed: Box::new(speed) }
        });
        [opened].into_iter().chain(speeds).for_each(|entry| writer.append(0, &entry).unwrap());
        writer.sync().unwrap();
    };
    job("own", &[("HD8", 1), ("HD9", 5)]);
    job("alike", &[("HD8", 9)]);
    job("other", &[("OS8", 7)]);
    ledger.refresh().unwrap();
    let found = ledger.speeds("own", &board("HD8")).unwrap();
    let told: Vec<(&str, i64)> = found.iter().map(|one| (one.machine.as_str(), one.wall_ms - WALL_MS)).collect();
    assert_eq!(told, [("own", 5), ("own", 1), ("alike", 9)]);
    assert_eq!(ledger.speed(&found[1]).unwrap().board, board("HD8"));
    assert!(ledger.speed(&SpeedFound { nr: 7, ..found[0].clone() }).is_err());
    assert_eq!(ledger.speeds("nobody", &Board::default()).unwrap(), []);
    let grown = ledger.content();
    ledger.rebuild().unwrap();
    assert_eq!(ledger.content(), grown);
}
