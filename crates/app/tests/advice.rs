//! Whoever follows the advice comes to the answer, on every simulated machine, and the report says it: keys and pictures of the full
//! screen without a terminal.

mod common;

use std::path::Path;

use common::followed::{Manner, Walk};
use revisum_words::{Language, entries};
use rstest::rstest;

/// From the complaint to the handover, by Enter alone. What is found on the way, and stages that are done at its end.
#[rstest]
#[case("dome-1", "FOUND  module red dot (very likely)", REPAIRED)]
#[case("spectro", "FOUND  slot B1", "found  fitted  proved")]
#[case("radio", "FOUND  module tin 2", REPAIRED)]
#[case("allsky", "FOUND  poor seating or a one-off error", "found  fitted  proved")]
#[case("tracker", "FOUND  the settings", "found  fitted  proved")]
#[case("guide", "FOUND  old 2 and new 2 together|FOUND  new 2 and old 2 together", REPAIRED)]
#[case("stacker", "FOUND  white 4 with others installed", REPAIRED)]
#[case("archive", "FOUND  module rack 3", REPAIRED)]
#[case("meteo", "OPEN   module …0302 (very likely), not proved|OPEN   One of these: module …0302", "narrowed down")]
#[case("heliostat", "FOUND  mainboard or processor", "found  fitted")]
#[case("frontdesk", "Look next at", RULED_OUT)]
#[case("plates", "Look next at", RULED_OUT)]
#[case("almanac", "Look next at", RULED_OUT)]
fn from_the_complaint_to_the_handover(#[case] machine: &str, #[case] found: &str, #[case] stages: &str) {
    follow(&Walk::of(machine, machine, found, stages));
}

/// Stages of a machine that left with a new module, and of one on which no test failed.
const REPAIRED: &str = "found  ordered  fitted  proved";
const RULED_OUT: &str = "not shown  ruled out  other causes";
const LEFT: &str = "found  ordered  fitted  proved|narrowed down  fitted  restored";

/// The benches on which advice by runs alone went wrong, in the whole program: as slow as all machines together, so only
/// where the advice changes.
#[rstest]
#[case("two-places", "FOUND  module 10B1 and slot A2", REPAIRED)]
#[case("stays", "FOUND  slot B1", "found")]
#[case("laptop", "OPEN   One of these: module 50A1; module 50B1", "narrowed down")]
#[case("socket", "FOUND  channel B", "found")]
#[case("too-many", "FOUND  too many modules", "found")]
#[case("near-slots", "FOUND  the slots in use", "found")]
#[case("flood", "FOUND  module 10B1", REPAIRED)]
#[ignore = "slow: cargo test -p revisum --test advice -- --ignored"]
fn from_the_complaint_to_the_handover_on_a_bench(#[case] bench: &str, #[case] found: &str, #[case] stages: &str) {
    follow(&Walk::of(bench, &file(bench), found, stages));
}

/// Machines of which no shipped one is: they do not start, tell nothing, hold two bad modules, or fail at night only.
#[rstest]
#[case("no-tables", "FOUND  module 60B1", REPAIRED)]
#[case("dark", "FOUND  module 70A2", REPAIRED)]
#[case("six-channels", "FOUND  modules 80B1 and 80E1|FOUND  modules 80E1 and 80B1", REPAIRED)]
#[case("night", "FOUND  module 90A1", REPAIRED)]
#[case("registers", "FOUND  module 20B1", REPAIRED)]
fn from_the_complaint_to_the_handover_of_another_kind(#[case] bench: &str, #[case] found: &str, #[case] stages: &str) {
    follow(&Walk::of(bench, &file(bench), found, stages));
}

/// What all machines come to, whoever follows: an answer on the way for those that have one, and the handover.
const EVERY_ANSWER: [(&str, &str, &str); 25] = [
    ("dome-1", "FOUND  module red dot", REPAIRED),
    ("spectro", "FOUND  slot B1", "found"),
    ("radio", "FOUND  module tin 2", REPAIRED),
    ("allsky", "FOUND  poor seating or a one-off error", "found"),
    ("tracker", "FOUND  the settings", "found"),
    ("guide", "FOUND  old 2 and new 2 together|FOUND  new 2 and old 2 together", REPAIRED),
    // Whoever leaves steps out may end where white 4 and another one look like a pair: then it is not proved, and that is said.
    ("stacker", "FOUND  white 4 with others installed|OPEN   white 4 with others installed (very likely), not", LEFT),
    ("archive", "FOUND  module rack 3", REPAIRED),
    ("meteo", "OPEN   module …0302 (very likely), not proved|OPEN   One of these: module …0302", "narrowed down"),
    ("heliostat", "FOUND  mainboard or processor", "found"),
    ("frontdesk", "Look next at", RULED_OUT),
    ("plates", "Look next at", RULED_OUT),
    ("almanac", "Look next at", RULED_OUT),
    ("two-places", "FOUND  module 10B1 and slot A2|FOUND  slot A2 and module 10B1", REPAIRED),
    ("stays", "FOUND  slot B1", "found"),
    ("laptop", "OPEN   One of these: module 50A1; module 50B1", "narrowed down"),
    ("socket", "FOUND  channel B", "found"),
    ("too-many", "FOUND  too many modules", "found"),
    ("near-slots", "FOUND  the slots in use", "found"),
    ("flood", "FOUND  module 10B1", REPAIRED),
    ("no-tables", "FOUND  module 60B1", REPAIRED),
    ("dark", "FOUND  module 70A2", REPAIRED),
    ("registers", "FOUND  module 20B1", REPAIRED),
    ("six-channels", "FOUND  modules 80B1 and 80E1|FOUND  modules 80E1 and 80B1", REPAIRED),
    ("night", "FOUND  module 90A1", REPAIRED),
];

/// Every machine with a power cut after each step, and in the hands of somebody stubborn: half an hour.
#[rstest]
#[ignore = "slow: cargo test -p revisum --test advice -- --ignored every"]
fn every_machine_in_every_manner(#[values(Manner::Interrupted, Manner::Stubborn)] manner: Manner) {
    let others = EVERY_ANSWER.iter().filter(|(machine, found, stages)| {
        let opened = opened(machine);
        let walk = Walk { manner, ..Walk::of(machine, &opened, found, stages) };
        std::panic::catch_unwind(|| follow(&walk)).inspect_err(|_| eprintln!("{manner:?}: {machine}")).is_err()
    });
    let others: Vec<_> = others.map(|(machine, ..)| machine).collect();
    assert!(others.is_empty(), "{manner:?}: {others:?} came to something else");
}

/// Everything in a real terminal, by what Enter proposes: all machines at two sizes.
#[rstest]
#[ignore = "slow: cargo test -p revisum --test advice -- --ignored terminal"]
fn in_a_terminal_too(#[values((128, 40), (80, 25))] size: (u16, u16)) {
    let shipped = revisum_sim::shipped_names().map(|name| (name.to_owned(), name.to_owned()));
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../sim/tests/benches");
    let name = |entry: std::fs::DirEntry| entry.path().file_stem().unwrap().to_string_lossy().into_owned();
    let benches = std::fs::read_dir(folder).unwrap().flatten().map(name).map(|name| (name.clone(), file(&name)));
    for (machine, opened) in shipped.chain(benches) {
        let data = tempfile::tempdir().unwrap();
        Walk { in_terminal: true, size, ..Walk::of(&machine, &opened, "", "handed over") }.follow(data.path());
    }
}

/// Both machines lose power after each step: the job goes on at the same one.
#[rstest]
#[case("dome-1", "FOUND  module red dot (very likely)", REPAIRED)]
#[case("plates", "Look next at", RULED_OUT)]
#[case("no-tables", "FOUND  module 60B1", REPAIRED)]
#[case("dark", "FOUND  module 70A2", REPAIRED)]
fn a_power_cut_after_each_step_loses_none(#[case] machine: &str, #[case] found: &str, #[case] stages: &str) {
    follow(&Walk { manner: Manner::Interrupted, ..Walk::of(machine, &opened(machine), found, stages) });
}

/// Somebody who does something else at every third step comes to the handover all the same.
#[rstest]
#[case("dome-1", "FOUND  module red dot", REPAIRED)]
#[case("spectro", "FOUND  slot B1", "found")]
#[case("archive", "FOUND  module rack 3", REPAIRED)]
#[case("plates", "Look next at", RULED_OUT)]
fn somebody_stubborn_comes_to_the_handover(#[case] machine: &str, #[case] found: &str, #[case] stages: &str) {
    follow(&Walk { manner: Manner::Stubborn, ..Walk::of(machine, machine, found, stages) });
}

/// What opens a machine: the name of a shipped one, the file of a bench.
fn opened(machine: &str) -> String {
    let bench = file(machine);
    if Path::new(&bench).exists() { bench } else { machine.to_owned() }
}

fn file(bench: &str) -> String {
    let benches = Path::new(env!("CARGO_MANIFEST_DIR")).join("../sim/tests/benches");
    benches.join(format!("{bench}.toml")).to_str().unwrap().to_owned()
}

/// Follows the machine, and reads its report.
fn follow(walk: &Walk) {
    let data = tempfile::tempdir().unwrap();
    walk.follow(data.path());
    reported(data.path(), walk.machine);
}

/// When the workshop opens.
const FIRST_SITTING: &str = "2031-04-12";

/// The report of the job says what the job came to; its text can be taken out of the PDF, and its drawings are XML.
fn reported(data: &Path, machine: &str) {
    let done = common::run(data, &["report", machine]);
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    let folder = data.join("reports").join(machine);
    keep(&folder, &format!("{machine}-en"));
    let json: serde_json::Value = serde_json::from_slice(&std::fs::read(folder.join("job.json")).unwrap()).unwrap();
    counted(machine, &json);
    let text = text_of(&folder);
    for words in ["Memory report", "simulated", "What to do next", " tested (", "What was never tested"] {
        assert!(text.contains(words), "{words}: {text}");
    }
    for module in json["modules"].as_array().unwrap() {
        assert!(text.contains(module["facts"]["serial"].as_str().unwrap()), "{module}: {text}");
    }
    reported_in_german(data, machine, &json);
    let sum = json["journals_sha256"].as_str().unwrap();
    assert!(text.contains(sum), "{text}");
    assert_eq!(common::run(data, &["report", machine, "--verify", sum]).status.code(), Some(0));
    assert_eq!(common::run(data, &["report", machine, "--verify", "00"]).status.code(), Some(1));
    for run in json["runs"].as_array().unwrap() {
        assert!(text.contains(run["headline"].as_str().unwrap()), "{run}: {text}");
    }
    let files = std::fs::read_dir(&folder).unwrap().flatten().map(|file| file.path());
    let drawings: Vec<_> = files.filter(|path| path.extension().is_some_and(|ending| ending == "svg")).collect();
    assert!(!drawings.is_empty());
    for path in drawings {
        let svg = std::fs::read_to_string(&path).unwrap();
        let document = roxmltree::Document::parse(&svg).unwrap_or_else(|error| panic!("{}: {error}", path.display()));
        assert_eq!(document.root_element().tag_name().name(), "svg");
    }
}

/// The same report for an owner who speaks German: the same modules and runs, and no English sentence of the page.
fn reported_in_german(data: &Path, machine: &str, english: &serde_json::Value) {
    let folder = data.join("german");
    let asked = ["report", machine, "--owner-language", "de", "--output", folder.to_str().unwrap()];
    assert!(common::run(data, &asked).status.success());
    keep(&folder, &format!("{machine}-de"));
    let text = text_of(&folder);
    for words in ["Bericht über den Arbeitsspeicher", "simuliert", "Was als Nächstes zu tun ist", "Nie getestet"] {
        assert!(text.contains(words), "{words}: {text}");
    }
    let texts = |language| entries(language, Some("report")).unwrap();
    let german = texts(Language::tagged("de").unwrap());
    for (id, entry) in texts(Language::EN).into_iter().filter(|(_, entry)| entry.values.is_empty()) {
        let words = entry.words.trim();
        // One word alone may be an owner's.
        assert!(!words.contains(' ') || german[&id].words.trim() == words || !text.contains(words), "{id}: {words}");
    }
    assert!(text.contains(english["journals_sha256"].as_str().unwrap()), "{text}");
    for module in english["modules"].as_array().unwrap() {
        assert!(text.contains(module["facts"]["serial"].as_str().unwrap()), "{module}: {text}");
    }
}

/// What the way took, for the table of machines: runs, hours of running, and when the first error came.
fn counted(machine: &str, json: &serde_json::Value) {
    let runs = json["runs"].as_array().unwrap();
    let hours: f64 = runs.iter().map(|run| run["seconds"].as_f64().unwrap()).sum::<f64>() / 3600.0;
    // Runs before the machine came in are none of this bench.
    let own = || runs.iter().skip_while(|run| run["started"].as_str().unwrap() < FIRST_SITTING);
    let failed = own().position(|run| !run["first_error_seconds"].is_null());
    let first = failed.map(|at| {
        let before: f64 = own().take(at).map(|run| run["seconds"].as_f64().unwrap()).sum();
        (before + own().nth(at).unwrap()["first_error_seconds"].as_f64().unwrap()) / 60.0
    });
    println!("{machine}: {} runs, {hours:.1} h, first error after {first:?} min", own().count());
}

/// Copies the PDF to where somebody looks at it.
fn keep(folder: &Path, name: &str) {
    if let Ok(kept) = std::env::var("REVISUM_KEEP_REPORTS") {
        std::fs::copy(folder.join("report.pdf"), Path::new(&kept).join(format!("{name}.pdf"))).unwrap();
    }
}

fn text_of(folder: &Path) -> String {
    let text = std::process::Command::new("pdftotext").arg("-raw").arg(folder.join("report.pdf")).arg("-").output();
    let text = text.expect("pdftotext is installed; `cargo xtask test` installs it when it may").stdout;
    String::from_utf8(text).unwrap().split_whitespace().collect::<Vec<_>>().join(" ")
}
