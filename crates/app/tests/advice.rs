//! Whoever follows the advice comes to the answer, on every simulated machine, and the report says it: keys and pictures of the full
//! screen without a terminal.

mod common;

use std::path::Path;

use common::driven::Driven;
use revisum_words::{Language, entries};
use rstest::rstest;

const SIZE: (u16, u16) = (128, 47);
/// More steps than any machine needs.
const MOST_STEPS: usize = 20;

/// The Swap view once no run goes on.
fn after_the_run(screen: &Driven) -> String {
    screen.keys(&["6"]);
    screen.until("the Swap view without a run", |text| {
        let keys = text.lines().find(|line| line.contains("? keys") && line.trim_start().starts_with("Enter "));
        let over = keys.is_some_and(|keys| !keys.contains("watch the run"));
        over && !text.lines().take(3).any(|line| line.contains("run: ")) && text.contains("effect")
    })
}

/// From complaint to answer, following nothing but what Enter proposes; the first run finds the errors, or there are none.
#[rstest]
#[case("dome-1", "FOUND  module red dot (very likely)")]
#[case("spectro", "FOUND  slot B1")]
#[case("radio", "FOUND  module tin 2")]
#[case("allsky", "FOUND  poor seating or a one-off error")]
#[case("tracker", "FOUND  the settings")]
#[case("guide", "FOUND  old 2 and new 2 together|FOUND  new 2 and old 2 together")]
#[case("stacker", "FOUND  white 4 with others installed")]
#[case("archive", "FOUND  module rack 3")]
#[case("meteo", "OPEN   module …0302 (very likely), not proved|OPEN   One of these: module …0302")]
#[case("heliostat", "FOUND  mainboard or processor|OPEN   One of these: mainboard or processor")]
#[case("frontdesk", "No run of this job found an error")]
#[case("plates", "No run of this job found an error")]
#[case("almanac", "No run of this job found an error")]
fn following_only_the_advice(#[case] machine: &str, #[case] answers: &str) {
    follow(machine, machine, answers);
}

/// The benches on which advice by runs alone went wrong, in the whole program: as slow as all machines together, so only
/// where the advice changes.
#[rstest]
#[case("two-places", "FOUND  module 10B1 and slot A2")]
#[case("stays", "FOUND  slot B1")]
#[case("laptop", "OPEN   One of these: module 50A1; module 50B1")]
#[case("socket", "FOUND  channel B")]
#[case("too-many", "FOUND  too many modules")]
#[case("near-slots", "FOUND  the slots in use")]
#[case("flood", "FOUND  module 10B1")]
#[ignore = "slow: cargo test -p revisum --test advice -- --ignored"]
fn following_only_the_advice_on_a_bench(#[case] bench: &str, #[case] answers: &str) {
    let benches = Path::new(env!("CARGO_MANIFEST_DIR")).join("../sim/tests/benches");
    follow(bench, benches.join(format!("{bench}.toml")).to_str().unwrap(), answers);
}

fn follow(machine: &str, opened: &str, answers: &str) {
    let data = tempfile::tempdir().unwrap();
    let screen = Driven::open(data.path(), opened, SIZE);
    screen.wait("Enter run triage");
    screen.keys(&["Enter"]);
    for _ in 0..MOST_STEPS {
        let swap = after_the_run(&screen);
        if answers.split('|').any(|answer| swap.contains(answer)) {
            screen.keys(&["c"]);
            if !swap.contains("No run of this job") {
                screen.wait("This job is closed");
                assert!(swap.contains("Prove the repair"), "{swap}");
            }
            screen.leave();
            reported(data.path(), machine);
            return;
        }
        assert!(swap.contains("do step, run") || swap.contains("run survey"), "{swap}");
        screen.keys(&["Enter"]);
    }
    panic!("no answer:\n{}", screen.text());
}

/// The report of the job says what the job came to; its text can be taken out of the PDF, and its drawings are XML.
fn reported(data: &Path, machine: &str) {
    let done = common::run(data, &["report", machine]);
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    let folder = data.join("reports").join(machine);
    keep(&folder, &format!("{machine}-en"));
    let json: serde_json::Value = serde_json::from_slice(&std::fs::read(folder.join("job.json")).unwrap()).unwrap();
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
