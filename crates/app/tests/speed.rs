//! How fast memory is: on the command line and on the full screen, and that it is kept and found again.

mod common;

use common::{Screen, revisum, run, run_json};
use rstest::rstest;

fn data() -> tempfile::TempDir {
    tempfile::tempdir().unwrap()
}

#[rstest]
#[case("plates", Some("both modules share one channel"))]
#[case("almanac", Some("the profile is off"))]
#[case("dome-1", None)]
fn the_command_says_what_is_wrong(#[case] machine: &str, #[case] finding: Option<&str>) {
    let data = data();
    let file = |name: &str| data.path().join(name).display().to_string();
    let (csv, svg, pdf) = (file("s.csv"), file("s.svg"), file("s.pdf"));
    let all = ["speed", "--sim", machine, "--json", "--csv", &csv, "--svg", &svg, "--pdf", &pdf];
    let (code, told) = run_json(data.path(), &all);
    let findings = told["findings"].as_array().unwrap();
    assert_eq!((code, findings.len()), (0, usize::from(finding.is_some())), "{findings:?}");
    assert!(finding.is_none_or(|words| findings[0]["what"].as_str().unwrap().contains(words)), "{findings:?}");
    assert!(told["speed"]["simulated"] == true && told["speed"]["complete"] == true);
    let memory = told["memory"].as_array().unwrap();
    assert_eq!(memory.len(), 10, "five kinds on one core and on all");
    let points = told["speed"]["points"].as_array().unwrap();
    let lines = std::fs::read_to_string(&csv).unwrap().lines().count();
    assert_eq!(lines, 1 + points.len() * 5);
    let drawing = std::fs::read_to_string(&svg).unwrap();
    let drawing = roxmltree::Document::parse(&drawing).unwrap();
    let texts: Vec<&str> = drawing.descendants().filter_map(|node| node.text()).map(str::trim).collect();
    for words in ["GB/s", "ns", "working set of each core", "bits of one access", "distance between loads"] {
        assert!(texts.contains(&words), "{words}: {texts:?}");
    }
    assert!(std::fs::read(&pdf).unwrap().starts_with(b"%PDF"));
}

#[rstest]
#[case::kind(&["--kind", "rread"], "none of read, write, stream, copy, latency")]
#[case::sets(&["--sets", "4K..900G"], "can be had")]
#[case::no_range(&["--sets", "4K"], "FROM..TO")]
#[case::stride(&["--strides", "9"], "power of two")]
#[case::width(&["--widths", "48"], "not a width")]
#[case::cores(&["--cores", "99"], "there are 4")]
#[case::repeats(&["--repeats", "0"], "repeats")]
fn wrong_use_is_said(#[case] more: &[&str], #[case] words: &str) {
    let data = data();
    let all: Vec<&str> = ["speed", "--sim", "dome-1"].iter().chain(more).copied().collect();
    let output = run(data.path(), &all);
    let told = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(output.status.code(), Some(2), "{told}");
    assert!(told.contains(words), "{told}");
}

/// Chosen kinds, sets and widths alone are measured; on this machine, whatever it is.
#[test]
fn this_machine_is_measured_as_far_as_is_asked() {
    let data = data();
    let all = [
        "speed",
        "--kind",
        "read,latency",
        "--sets",
        "4K..4M",
        "--cores",
        "1",
        "--widths",
        "64",
        "--repeats",
        "2",
        "--json",
    ];
    let (code, told) = run_json(data.path(), &all);
    let points = told["speed"]["points"].as_array().unwrap();
    assert_eq!((code, &told["speed"]["simulated"]), (0, &serde_json::json!(false)));
    assert!(
        points
            .iter()
            .all(|point| point["cores"] == 1 && point["width"] == 64 && point["bytes"].as_u64() <= Some(4 << 20))
    );
    let samples = points.iter().flat_map(|point| point["samples"].as_array().unwrap());
    assert!(
        samples.clone().count() == points.len() * 2 && samples.clone().all(|sample| sample.as_f64().unwrap() > 0.0)
    );
}

/// Measured, told on the board and to the complaint, mended, measured again and compared with before.
#[rstest]
#[case((128, 40))]
#[case((80, 25))]
fn a_slow_machine_from_complaint_to_proof(#[case] size: (u16, u16)) {
    let data = data();
    let line = format!(
        "{} demo --machine plates --pace 4000 --data {}; echo left-$?",
        revisum().display(),
        data.path().display()
    );
    let screen = Screen::open(size, &line);
    screen.wait("Enter run ");
    screen.keys(&["1"]);
    screen.wait("7 measures whether memory is as fast");
    screen.keys(&["7"]);
    screen.wait("Not measured yet");
    screen.keys(&["Enter"]);
    screen.wait_all(&["about half of what 2 channels give", "Enter measure again"]);
    screen.keys(&["2"]);
    // The board's column is narrow.
    screen.wait("about half of what 2");
    screen.keys(&["1"]);
    screen.wait("about half of what 2 channels give");
    // The lower module goes from A2 to B1.
    screen.keys(&["6", "Down", "Space"]);
    screen.wait("removed:");
    screen.keys(&["Down", "Space"]);
    screen.wait_gone("removed:");
    screen.keys(&["7"]);
    screen.wait("Measured in another arrangement");
    screen.keys(&["Enter"]);
    screen.wait_all(&["theoretical peak of 2 channels at 3200", "expected.", "Enter measure again"]);
    screen.keys(&["c"]);
    screen.wait_all(&["Compared with plates", "another arrangement", "200 % of"]);
    screen.keys(&["q"]);
    screen.wait("left-0");
    let written = run(data.path(), &["report", "plates", "--language", "de"]);
    assert!(written.status.success(), "{}", String::from_utf8_lossy(&written.stderr));
    let report = std::fs::read_to_string(data.path().join("reports/plates/report.md")).unwrap();
    assert!(report.contains("Wie schnell der Speicher ist") && report.contains("A1 3200, A2 3200"), "{report}");
}

/// A key stops it at once, and what was not measured is not kept.
#[test]
fn a_key_stops_it() {
    let data = data();
    let line = format!(
        "{} demo --machine dome-1 --pace 1 --data {}; echo left-$?",
        revisum().display(),
        data.path().display()
    );
    let screen = Screen::open((128, 40), &line);
    screen.wait("Enter run ");
    screen.keys(&["7", "Enter"]);
    screen.wait("repeat 1 of 5");
    screen.keys(&["2", "Enter"]);
    screen.wait("x stop at once");
    screen.keys(&["x"]);
    screen.wait("nothing is kept");
    screen.keys(&["Escape"]);
    screen.wait("Not measured yet");
    screen.keys(&["q"]);
    screen.wait("left-0");
}
