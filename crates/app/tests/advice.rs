//! Whoever follows the advice comes to the answer, on every simulated machine, and the report says it: keys and pictures of the full
//! screen without a terminal.

mod common;

use std::path::Path;

use common::driven::Driven;
use revisum_words::{Language, entries};
use rstest::rstest;

const SIZE: (u16, u16) = (128, 47);
/// More steps than any machine needs.
const MOST_STEPS: usize = 30;

/// The Swap view once no run goes on.
fn after_the_run(screen: &Driven) -> String {
    screen.keys(&["6"]);
    screen.until("the Swap view without a run", |text| {
        let keys = text.lines().find(|line| line.contains("? keys") && line.trim_start().starts_with("Enter "));
        let over = keys.is_some_and(|keys| !keys.contains("watch the run"));
        let steps = [
            "do step",
            "run ",
            "install, prove",
            "prove",
            "settle",
            "files",
            "list was",
            "boot",
            "backup",
            "settings",
            "hand over",
            "show report",
            "test this",
        ];
        let shown =
            keys.is_some_and(|keys| steps.iter().any(|step| keys.trim_start().starts_with(&format!("Enter {step}"))));
        over && !text.lines().take(3).any(|line| line.contains("run: ")) && shown && text.contains("select slot")
    })
}

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
#[case("meteo", "OPEN   module …0302 (very likely), not proved|OPEN   One of these: module …0302", "found")]
#[case("heliostat", "FOUND  mainboard or processor|OPEN   One of these: mainboard or processor", "found")]
#[case("frontdesk", "Look next at", RULED_OUT)]
#[case("plates", "Look next at", RULED_OUT)]
#[case("almanac", "Look next at", RULED_OUT)]
fn from_the_complaint_to_the_handover(#[case] machine: &str, #[case] found: &str, #[case] stages: &str) {
    follow(machine, machine, found, stages);
}

/// Stages of a machine that left with a new module, and of one on which no test failed.
const REPAIRED: &str = "found  ordered  fitted  proved";
const RULED_OUT: &str = "not shown  ruled out  other causes";

/// The benches on which advice by runs alone went wrong, in the whole program: as slow as all machines together, so only
/// where the advice changes.
#[rstest]
#[case("two-places", "FOUND  module 10B1 and slot A2", REPAIRED)]
#[case("stays", "FOUND  slot B1", "found")]
#[case("laptop", "OPEN   One of these: module 50A1; module 50B1", "found")]
#[case("socket", "FOUND  channel B", "found")]
#[case("too-many", "FOUND  too many modules", "found")]
#[case("near-slots", "FOUND  the slots in use", "found")]
#[case("flood", "FOUND  module 10B1", REPAIRED)]
#[ignore = "slow: cargo test -p revisum --test advice -- --ignored"]
fn from_the_complaint_to_the_handover_on_a_bench(#[case] bench: &str, #[case] found: &str, #[case] stages: &str) {
    let benches = Path::new(env!("CARGO_MANIFEST_DIR")).join("../sim/tests/benches");
    follow(bench, benches.join(format!("{bench}.toml")).to_str().unwrap(), found, stages);
}

/// What Enter does on the Swap view, by the footer.
fn enter_does(text: &str) -> String {
    let footer = text.lines().rev().find(|line| line.contains("? keys")).unwrap_or_default();
    let words = footer.trim_start().strip_prefix("Enter ").unwrap_or_default();
    words.split("   ").next().unwrap_or_default().trim().to_owned()
}

/// Presses Enter until the machine was handed over. Where a person is asked what replaces a part, it is here already.
fn follow(machine: &str, opened: &str, found: &str, stages: &str) {
    let data = tempfile::tempdir().unwrap();
    let screen = Driven::open(data.path(), opened, SIZE);
    // A machine that failed before it came in has its next step at once.
    let board = screen.until("the board", |text| text.contains("Enter run ") || text.contains("Enter show next step"));
    screen.keys(&["Enter"]);
    assert!(board.contains("complaint"), "{board}");
    let (mut was_found, mut course) = (false, Vec::new());
    for _ in 0..MOST_STEPS {
        let swap = after_the_run(&screen);
        was_found |= found.split('|').any(|answer| swap.contains(answer));
        let does = enter_does(&swap);
        course.push(does.clone());
        screen.keys(&["Enter"]);
        match does.as_str() {
            "settle replacement" => {
                screen.wait("What goes in place of");
                screen.keys(&["Down", "Enter"]);
            }
            "hand over, report" => {
                screen.wait("Written to");
                screen.keys(&["Escape"]);
                let shown = screen.wait("Memory report");
                assert!(was_found, "{course:?}: {found} never came:\n{swap}");
                screen.keys(&["6"]);
                let swap = screen.wait("show report");
                let line = swap.lines().find(|line| line.contains("handed over")).unwrap_or_default();
                let marks: String = line.chars().map(|c| if c.is_alphanumeric() { c } else { ' ' }).collect();
                let words =
                    marks.split("  ").map(str::trim).filter(|word| !word.is_empty()).collect::<Vec<_>>().join("  ");
                assert!(words.contains(stages), "{course:?}: {words}\n{shown}");
                assert!(!swap.contains("This job is open"), "{swap}");
                println!("{machine}: {course:?}");
                screen.leave();
                reported(data.path(), machine);
                return;
            }
            _ => {}
        }
    }
    panic!("{course:?}, no handover:\n{}", screen.text());
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
