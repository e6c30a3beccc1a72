//! The commands from outside: results, exit codes and clear words for every mistake.

mod common;

use std::io::Write as _;
use std::path::Path;
use std::process::Stdio;

use common::{command, run, run_json};
use rstest::rstest;
use serde_json::{Value, json};

fn data() -> tempfile::TempDir {
    tempfile::tempdir().unwrap()
}

#[test]
fn this_machines_memory_is_tested_and_clean() {
    let data = data();
    let (code, result) =
        run_json(data.path(), &["check", "--memory", "6M", "--tests", "random,address-as-data,march-c-", "--json"]);
    assert_eq!((code, &result["outcome"]), (0, &json!("clean")));
    assert_eq!(result["held_bytes"], json!(6 << 20));
    assert_eq!(result["tested_bytes"], result["held_bytes"]);
    assert_eq!((&result["errors"], &result["passes"]), (&json!(0), &json!(1)));
    let ranges = result["ranges"].as_array().unwrap();
    let hex = |value: &Value| u64::from_str_radix(value.as_str().unwrap().trim_start_matches("0x"), 16).unwrap();
    let held: u64 = ranges.iter().map(|range| hex(&range[1]) - hex(&range[0])).sum();
    // Without root the addresses are hidden, and then no range may be made up.
    assert!(held == 6 << 20 || (ranges.is_empty() && !rustix::process::geteuid().is_root()));
    let sweeps: Vec<u64> = tests(&result).map(|test| test["bytes_swept"].as_u64().unwrap() / (6 << 20)).collect();
    assert_eq!(sweeps, [4, 3, 6]);
    assert!(tests(&result).all(|test| test["seconds"].as_f64().unwrap() > 0.0));
    assert!(Path::new(result["journal"].as_str().unwrap()).is_file());
}

/// Everything that can be chosen, on memory of this machine; what each sweeps is what the catalogue says. The machine that runs this is not put to
/// sleep: a guest is.
#[test]
fn every_test_runs_on_real_memory_and_is_clean() {
    let data = data();
    let output = command(data.path(), &["tests", "--json"]).output().unwrap();
    let catalogue: Value = serde_json::from_slice(&output.stdout).unwrap();
    let catalogue: Vec<&Value> =
        catalogue["tests"].as_array().unwrap().iter().filter(|test| test["name"] != "sleep").collect();
    let names: Vec<&str> = catalogue.iter().map(|test| test["name"].as_str().unwrap()).collect();
    let arguments = ["check", "--memory", "6M", "--idle", "1s", "--json", "--tests"];
    let (code, result) = run_json(data.path(), &[&arguments[..], &[&names.join(",")]].concat());
    assert_eq!((code, &result["outcome"]), (0, &json!("clean")), "{result}");
    assert_eq!(result["miscalculated"], json!(0));
    for (test, known) in tests(&result).zip(catalogue) {
        assert_eq!(test["name"], known["name"]);
        let sweeps = test["bytes_swept"].as_u64().unwrap() / (6 << 20);
        assert_eq!(Some(sweeps), known["sweeps_per_pass"].as_u64(), "{}", test["name"]);
    }
}

/// What is fitted, field by field as the machine file has it, and what is not as it should be.
#[test]
fn the_board_is_told() {
    let data = data();
    let (code, board) = run_json(data.path(), &["board", "--sim", "guide", "--json"]);
    assert_eq!((code, &board["simulated"], &board["fitted_bytes"]), (0, &json!(true), &json!(8u64 << 30)));
    let slot = &board["slots"][2];
    assert_eq!((&slot["id"], &slot["module"]["serial"]), (&json!("B1"), &json!("C5640072")));
    assert_eq!((&slot["module"]["rated_speed"], &slot["module"]["ranks"]), (&json!(2666), &json!(1)));
    let found: Vec<&str> = board["findings"].as_array().unwrap().iter().map(|f| f["what"].as_str().unwrap()).collect();
    assert_eq!(
        found,
        ["Modules of different makers are mixed", "The mainboard's firmware is 3 years old (2027-05-05)"]
    );
    let output = command(data.path(), &["board", "--sim", "guide"]).output().unwrap();
    let text = String::from_utf8_lossy(&output.stdout).into_owned();
    assert!(text.contains("4A910016") && text.contains("different makers"), "{text}");
}

/// What is saved on one machine reads the same on another, and without serial numbers when that is wanted.
#[test]
fn saved_facts_read_the_same() {
    let data = data();
    let (plain, masked) = (data.path().join("plain"), data.path().join("masked"));
    let told = |more: &[&str]| {
        let all: Vec<&str> = ["board", "--json"].iter().chain(more).copied().collect();
        let (code, board) = run_json(data.path(), &all);
        assert_eq!(code, 0);
        board
    };
    let here = told(&["--sim", "dome-1", "--save", plain.to_str().unwrap()]);
    let there = told(&["--firmware", plain.to_str().unwrap()]);
    for same in ["slots", "facts", "usable", "mapped_bytes", "not_known"] {
        assert_eq!(there[same], here[same], "{same}");
    }
    told(&["--sim", "dome-1", "--save", masked.to_str().unwrap(), "--mask"]);
    let masked = told(&["--firmware", masked.to_str().unwrap()]);
    assert!(!masked.to_string().contains("4A2200"), "{masked}");
    assert_ne!(masked["slots"][0]["module"]["serial"], masked["slots"][2]["module"]["serial"]);
    assert_eq!(masked["slots"][0]["module"]["bytes"], here["slots"][0]["module"]["bytes"]);
    let nothing = data.path().join("nothing");
    let output = run(data.path(), &["board", "--firmware", nothing.to_str().unwrap()]);
    assert_eq!(output.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&output.stderr).contains("--save DIR"));
    let output = run(data.path(), &["board", "--sim", "dome-1", "--save", "/proc/nowhere"]);
    assert_eq!(output.status.code(), Some(3));
}

/// Where nothing but the controller's registers tells the map, they are saved, read again, refused when damaged, and place errors.
#[test]
fn registers_place_errors() {
    let data = data();
    let bench = concat!(env!("CARGO_MANIFEST_DIR"), "/../sim/tests/benches/registers.toml");
    let folder = data.path().join("saved");
    let saved = folder.to_str().unwrap();
    let (_, here) = run_json(data.path(), &["board", "--sim", bench, "--json", "--save", saved]);
    let (_, there) = run_json(data.path(), &["board", "--firmware", saved, "--json"]);
    assert_eq!(here["controller"], there["controller"]);
    assert_eq!(here["controller"]["family"], "client-2015");
    let slots = |at: usize| &here["controller"]["positions"][at]["slots"];
    assert_eq!((slots(0), slots(1)), (&json!(["DIMM_A1"]), &json!(["DIMM_B1"])));
    let file = folder.join("registers");
    let damaged = std::fs::read_to_string(&file).unwrap().replace("120c3300", "120c3200");
    std::fs::write(&file, damaged).unwrap();
    let output = run(data.path(), &["board", "--firmware", saved]);
    assert_eq!(output.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&output.stderr).contains("the sum in the last line does not match"));
    assert_eq!(run_json(data.path(), &["check", "--sim", bench, "--json"]).0, 1);
    let (_, found) = run_json(data.path(), &["locate", "last", "--json"]);
    assert_eq!(found["location"]["certainty"], "told");
    assert!(found["location"]["because"].as_str().unwrap().contains("registers tell which slots"));
    assert_eq!(found["location"]["slots"].as_object().unwrap().keys().collect::<Vec<_>>(), ["DIMM_B1"]);
}

/// A run with a module less shows which channel each slot is on; the next machine with that mainboard notes it when its first run begins, one with
/// another firmware does not.
#[test]
fn what_a_mainboard_showed_is_known_of_the_next_one() {
    let data = data();
    let bench = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../sim/tests/benches/registers.toml"));
    let (whole, _) = bench.as_ref().unwrap().split_once("[[fault]]").unwrap();
    let (one, _) = whole.rsplit_once("[[module]]").unwrap();
    let known_in = |name: &str, firmware: &str, text: &str| {
        let file = data.path().join("bench.toml");
        let board = format!("\n[mainboard]\nmaker = \"Tarnwerk\"\nproduct = \"Holm M9\"\nfirmware = \"{firmware}\"\n");
        std::fs::write(&file, text.replacen("registers", name, 1) + &board).unwrap();
        let begin = ["check", "--sim", file.to_str().unwrap(), "--tests", "random", "--passes", "1", "--json"];
        let (code, told) = run_json(data.path(), &begin);
        assert_eq!(code, 0, "{told}");
        let journal = std::fs::read_to_string(told["journal"].as_str().unwrap()).unwrap();
        let begin = journal.lines().find(|line| line.contains("\"begin\"")).unwrap();
        begin.contains("\"channels\":{\"DIMM_A1\":0,\"DIMM_B1\":1}")
    };
    let at_desk = [whole, one, whole].map(|text| known_in("desk", "1.14", text));
    assert_eq!(at_desk, [false, false, true]);
    assert!(data.path().join("maps/tarnwerk-holm-m9-channels-1.toml").is_file());
    assert_eq!([known_in("till", "1.14", whole), known_in("shelf", "1.15", whole)], [true, false]);
}

/// Four modules in two channels, of which registers tell the channel and not the slots: while nothing shows which is which, modules of both are as
/// suspect; where the mainboard showed it in another machine, those of the channel with the errors are.
#[rstest]
#[case::nothing_was_shown(false)]
#[case::another_machine_showed_it(true)]
fn a_channel_that_was_shown_tells_modules_apart(#[case] shown: bool) {
    let data = data();
    let run = |name: &str, slots: &[&str], faulty: &str| {
        let of_slot = |slot: &&str| format!("[[slot]]\nid = \"{slot}\"\nchannel = \"{}\"\n", &slot[..1]);
        let module = |slot: &&str| {
            let part = "maker = \"Haldry\"\npart = \"HD1G32\"\nsize = \"1 GiB\"\nspeed = 3200";
            format!("[[module]]\nserial = \"{name}{slot}\"\n{part}\nslot = \"{slot}\"\n")
        };
        let text = [
            format!(
                "name = \"{name}\"\ncores = 2\ncache = \"8 MiB\"\nheld_by_system = \"64 MiB\"\n[map]\nregisters = true\n"
            ),
            ["A1", "A2", "B1", "B2"].iter().map(of_slot).collect(),
            slots.iter().map(module).collect(),
            "[mainboard]\nmaker = \"Tarnwerk\"\nproduct = \"Holm M9\"\nfirmware = \"1.14\"\n".to_owned(),
            faulty.to_owned(),
        ];
        let file = data.path().join("bench.toml");
        std::fs::write(&file, text.concat()).unwrap();
        let begin = ["check", "--sim", file.to_str().unwrap(), "--tests", "random", "--passes", "1", "--json"];
        run_json(data.path(), &begin)
    };
    if shown {
        for slots in [&["A1", "A2", "B1", "B2"][..], &["A1", "A2"], &["A1", "A2", "B1", "B2"]] {
            assert_eq!(run("desk", slots, "").0, 0);
        }
    }
    let faulty =
        "[[fault]]\nkind = \"stuck-at\"\nmodule = \"tillB1\"\ncell = { bank = 3, row = 700, column = 41 }\nlane = 13\n";
    let (code, told) = run("till", &["A1", "A2", "B1", "B2"], faulty);
    assert_eq!(code, 1, "{told}");
    let (_, advice) = run_json(data.path(), &["swap", "till", "--json"]);
    let of = |letter: &str| -> f64 {
        let modules =
            ["1", "2"].map(|at| advice["posterior"][format!("module:till{letter}{at}")].as_f64().unwrap_or(0.0));
        modules.iter().sum()
    };
    assert!(of("B") > 0.1, "{advice}");
    assert_eq!(of("B") > 3.0 * of("A"), shown, "{advice}");
}

/// Where nothing tells the map, time tells two channels and warmth their slots: errors get a half at once, and a slot by a map on request.
#[test]
fn time_and_warmth_place_errors() {
    let data = data();
    let bench = concat!(env!("CARGO_MANIFEST_DIR"), "/../sim/tests/benches/by-time.toml");
    assert_eq!(run_json(data.path(), &["check", "--sim", bench, "--json"]).0, 1);
    let said = |arguments: &[&str]| {
        let (_, told) = run_json(data.path(), &[&["locate", "last", "--json"], arguments].concat());
        let location = &told["location"];
        let because = location["because"].as_str().unwrap().to_owned();
        (because, location["slots"].as_object().unwrap().keys().cloned().collect::<Vec<_>>())
    };
    assert!(said(&[]).0.contains("any slot in use is possible"));
    let (_, learned) = run_json(data.path(), &["rows", "--sim", bench, "--warm", "--keep", "--json"]);
    assert_eq!(learned["channels"]["functions"], json!(["0x2084100"]));
    let slots = json!([{ "slot": "DIMM_A1", "channel": 0 }, { "slot": "DIMM_B1", "channel": 1 }]);
    assert_eq!((&learned["slots"], &learned["kept"]["outcome"]), (&slots, &json!("kept")));
    let (_, again) = run_json(data.path(), &["rows", "--sim", bench, "--keep", "--json"]);
    assert_eq!((&again["slots"], &again["kept"]["outcome"]), (&Value::Null, &json!("known")));
    // The run was made before the halves were known, the next one after.
    assert_eq!(said(&["--learned"]).1, ["DIMM_B1"]);
    assert_eq!(run_json(data.path(), &["check", "--sim", bench, "--json"]).0, 1);
    let (because, slots) = said(&[]);
    assert!(because.contains("same half of the addresses"), "{because}");
    assert_eq!(slots, ["DIMM_A1 DIMM_B1"], "a map that was learned is never gone by silently");
}

/// Every fact of a simulated machine that is told twice is told alike, and every module tells its own description.
#[rstest]
fn simulated_machines_tell_their_boards(
    #[values(
        "dome-1",
        "stacker",
        "allsky",
        "spectro",
        "guide",
        "tracker",
        "meteo",
        "archive",
        "radio",
        "heliostat",
        "frontdesk",
        "plates",
        "almanac"
    )]
    machine: &str,
) {
    let data = data();
    let (code, board) = run_json(data.path(), &["board", "--sim", machine, "--json"]);
    assert_eq!(code, 0);
    let parts = board["coverage"]["parts"].as_array().unwrap();
    let percent: f64 = parts.iter().map(|part| part["percent"].as_f64().unwrap()).sum();
    assert!((percent - 100.0).abs() < 1e-6, "{parts:?}");
    for fact in board["facts"].as_array().unwrap() {
        let values: std::collections::BTreeSet<&str> =
            fact["told"].as_array().unwrap().iter().map(|told| told["value"].as_str().unwrap()).collect();
        assert_eq!(values.len(), 1, "{fact}");
    }
    let found: Vec<&str> = board["findings"].as_array().unwrap().iter().map(|f| f["what"].as_str().unwrap()).collect();
    assert!(!found.iter().any(|what| what.contains("disagree") || what.contains("are installed, but")), "{found:?}");
    for slot in board["slots"].as_array().unwrap().iter().filter(|slot| !slot["module"].is_null()) {
        let tells_itself = machine != "frontdesk" && slot["soldered"] == false;
        assert_eq!(!slot["module"]["base_speed"].is_null(), tells_itself, "{slot}");
    }
}

/// The run's own map names slot and cell; the same map as a file does so too, and is then an assumption.
#[test]
fn errors_are_located() {
    let data = data();
    let (map, list) = (data.path().join("map.toml"), data.path().join("errors.csv"));
    run_json(data.path(), &["check", "--sim", "dome-1", "--tests", "march-c-", "--json"]);
    let (code, told) = run_json(data.path(), &["locate", "last", "--json", "--save-map", map.to_str().unwrap()]);
    let location = &told["location"];
    assert_eq!((code, &location["certainty"], &location["signature"]["lanes"]), (0, &json!("certain"), &json!([19])));
    assert!(location["statement"].as_str().unwrap().starts_with("B1 (red dot): a single cell"), "{location}");
    assert_eq!(told["stopgap"]["costs"], 4096);
    let text = std::fs::read_to_string(&map).unwrap().replace("\"confirmed\"", "\"assumed\"");
    std::fs::write(&map, text).unwrap();
    let (_, told) = run_json(data.path(), &["locate", "last", "--json", "--map", map.to_str().unwrap()]);
    assert_eq!(told["location"]["certainty"], "assumed");
    std::fs::write(&list, "address,expected,actual\n0x10000000,0,1\nrubbish\n0xffffffff0000,0,1\n").unwrap();
    let output =
        run(data.path(), &["locate", "--errors", list.to_str().unwrap(), "--map", map.to_str().unwrap(), "--json"]);
    let told: Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!((&told["location"]["distinct"], &told["location"]["outside"]), (&json!(2), &json!(1)));
    assert!(String::from_utf8_lossy(&output.stderr).contains("line 3: 1 field instead"));
    std::fs::write(&map, "format = 1\nranges = [").unwrap();
    let output = run(data.path(), &["locate", "last", "--map", map.to_str().unwrap()]);
    assert_eq!(output.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&output.stderr).contains("line 2"));
}

/// The machine with a dead package, with its two modules in these slots; nothing takes a module out.
fn radio(folder: &Path, sound: Option<&str>, dead: Option<&str>) -> String {
    let text = include_str!("../../sim/src/machines/radio.toml");
    let place = |slot: Option<&str>| slot.map_or(String::new(), |slot| format!("slot = \"{slot}\""));
    let text = text.replace("slot = \"A1\"", "SOUND").replace("slot = \"B1\"", "DEAD");
    let text = text.replace("SOUND", &place(sound)).replace("DEAD", &place(dead));
    let text = text.split("[[earlier]]").next().unwrap().to_owned()
        + text.split_once("[[slot]]").map_or("", |_| "")
        + &text[text.find("[[slot]]").unwrap()..];
    let file = folder.join("radio.toml");
    std::fs::write(&file, text).unwrap();
    file.to_str().unwrap().to_owned()
}

/// Runs with one module show whose the errors are: from that the map is confirmed, a wrong one refuted, and the right one learned.
#[test]
fn runs_with_one_module_confirm_refute_and_teach_a_map() {
    let data = data();
    let check = |sound, dead| {
        let file = radio(data.path(), sound, dead);
        run_json(data.path(), &["check", "--sim", &file, "--tests", "random,march-c-", "--passes", "2", "--json"]).0
    };
    assert_eq!(check(Some("A1"), Some("B1")), 1);
    let learned = |run_id: &str, expected: &str| {
        let output = run(data.path(), &["locate", run_id, "--learn"]);
        let said = String::from_utf8_lossy(&output.stderr).into_owned();
        assert!(said.contains(expected), "{said}");
    };
    learned("last", "nothing yet");
    assert_eq!((check(None, Some("B1")), check(Some("A1"), None), check(None, Some("A1"))), (1, 0, 1));
    assert_eq!(check(Some("B1"), Some("A1")), 1);
    // By the simulation's clock the runs follow each other within a second: the last one has the highest number.
    let (_, logs) = run_json(data.path(), &["logs", "--json"]);
    let ids = logs["runs"].as_array().unwrap().iter().map(|run| run["id"].as_str().unwrap().to_owned());
    let last = ids.max_by_key(|id| (id.len(), id.clone())).unwrap();
    learned(&last, "A, B by the parities of 0x2084100");
    let map = data.path().join("map.toml");
    run(data.path(), &["locate", &last, "--save-map", map.to_str().unwrap()]);
    let right = std::fs::read_to_string(&map).unwrap().replace("confirmed", "assumed");
    for (text, certainty, loud) in
        [(right.clone(), "certain", false), (right.replace("0x2084100", "0x2088100"), "one-of", true)]
    {
        std::fs::write(&map, text).unwrap();
        let output = run(data.path(), &["locate", &last, "--json", "--map", map.to_str().unwrap()]);
        let told: Value = serde_json::from_slice(&output.stdout).unwrap();
        assert_eq!(told["location"]["certainty"], certainty);
        assert_eq!(told["location"]["signature"]["lanes"], json!([16, 17, 18, 19, 20, 21, 22, 23]));
        assert_eq!(String::from_utf8_lossy(&output.stderr).contains("THE ADDRESS MAP IS WRONG"), loud);
    }
}

/// What such runs teach is kept where nothing is open, proposed when the arrangement comes again, and gone by on request alone.
#[test]
fn a_learned_map_is_kept_and_proposed() {
    let data = data();
    let check = |sound, dead| {
        let file = radio(data.path(), sound, dead);
        let text = std::fs::read_to_string(&file).unwrap();
        // Nothing but registers tells the map, so that there is something to learn.
        std::fs::write(&file, text.replace("[mainboard]", "[map]\nregisters = true\n\n[mainboard]")).unwrap();
        run_json(data.path(), &["check", "--sim", &file, "--tests", "random,march-c-", "--passes", "2", "--json"]).0
    };
    let runs = [
        (Some("A1"), Some("B1")),
        (None, Some("B1")),
        (Some("A1"), None),
        (None, Some("A1")),
        (Some("B1"), Some("A1")),
    ];
    assert_eq!(runs.map(|(sound, dead)| check(sound, dead)), [1, 1, 0, 1, 1]);
    let (_, logs) = run_json(data.path(), &["logs", "--json"]);
    let ids = logs["runs"].as_array().unwrap().iter().map(|run| run["id"].as_str().unwrap().to_owned());
    let last = ids.max_by_key(|id| (id.len(), id.clone())).unwrap();
    let said = |arguments: &[&str]| {
        let output = run(data.path(), &[&["locate", &last, "--json"], arguments].concat());
        let told: Value = serde_json::from_slice(&output.stdout).unwrap();
        (told["location"].clone(), String::from_utf8_lossy(&output.stderr).into_owned())
    };
    let (before, quiet) = said(&[]);
    assert!(!quiet.contains("--learned") && before["certainty"] != "assumed", "{quiet}");
    assert!(said(&["--learn"]).1.contains("kept in"));
    let (still, proposed) = said(&[]);
    assert!(proposed.contains("--learned goes by it"), "{proposed}");
    assert_eq!(still["certainty"], before["certainty"], "it is never gone by silently");
    let (by_map, _) = said(&["--learned"]);
    assert_eq!((&by_map["certainty"], by_map["slots"].as_object().unwrap().len()), (&json!("assumed"), 1));
    assert!(by_map["slots"].get("A1").is_some(), "the dead module is in A1 now: {by_map}");
}

/// A recipe that was saved is the same run on another start; a wrong one is refused with its place.
#[test]
fn recipes_are_saved_and_loaded() {
    let data = data();
    let file = data.path().join("mine.toml");
    let path = file.to_str().unwrap();
    let given = ["check", "--sim", "dome-1", "--tests", "mats-plus", "--passes", "2", "--memory", "1G", "--json"];
    let (_, first) = run_json(data.path(), &[&given[..], &["--save-recipe", path]].concat());
    let (_, second) = run_json(data.path(), &["check", "--sim", "dome-1", "--recipe", path, "--json"]);
    for same in ["outcome", "errors", "passes", "held_bytes", "ranges", "samples", "seed"] {
        assert_eq!(first[same], second[same], "{same}");
    }
    std::fs::write(&file, "passes = 2\ntest = 3\n").unwrap();
    let output = command(data.path(), &["check", "--sim", "dome-1", "--recipe", path]).output().unwrap();
    let words = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(output.status.code(), Some(2));
    assert!(words.contains("line 2, column 8"), "{words}");
}

fn tests(result: &Value) -> impl Iterator<Item = &Value> {
    result["tests"].as_array().unwrap().iter()
}

#[test]
fn the_simulated_fault_is_placed_and_the_journal_tells_the_same() {
    let data = data();
    let (code, result) = run_json(data.path(), &["check", "--sim", "dome-1", "--json"]);
    assert_eq!((code, &result["outcome"]), (1, &json!("errors-found")));
    assert_eq!((&result["simulated"], &result["fitted_bytes"]), (&json!(true), &json!(16u64 << 30)));
    let samples = result["samples"].as_array().unwrap();
    assert!(!samples.is_empty());
    for sample in samples {
        assert_eq!((&sample["slots"], &sample["certainty"]), (&json!(["B1"]), &json!("certain")));
        assert_eq!(sample["kind"], json!("recurring"));
    }
    let (_, again) = run_json(data.path(), &["log", "last", "--json"]);
    for key in ["outcome", "errors", "passes", "held_bytes", "tested_bytes", "ranges", "tests", "samples"] {
        assert_eq!(again[key], result[key], "{key}");
    }
    let (_, logs) = run_json(data.path(), &["logs", "--json"]);
    assert_eq!(logs["runs"][0]["outcome"], json!("errors-found"));
    assert_eq!(logs["runs"][0]["machine"], json!("dome-1"));
    assert_eq!(logs["runs"][0]["errors"], result["errors"]);
}

#[test]
fn the_fault_moves_with_its_module() {
    let data = data();
    let file = data.path().join("moved.toml");
    let dome = include_str!("../../sim/src/machines/dome-1.toml");
    let swapped = dome.replace("slot = \"A1\"", "slot = \"?\"").replace("slot = \"B1\"", "slot = \"A1\"");
    std::fs::write(&file, swapped.replace("slot = \"?\"", "slot = \"B1\"")).unwrap();
    let (_, before) = run_json(data.path(), &["check", "--sim", "dome-1", "--json"]);
    let (_, after) = run_json(data.path(), &["check", "--sim", file.to_str().unwrap(), "--json"]);
    assert_eq!(after["samples"][0]["slots"], json!(["A1"]));
    assert_ne!(after["samples"][0]["address"], before["samples"][0]["address"]);
}

#[test]
fn the_same_seed_gives_the_same_journal_to_the_byte() {
    let journal = |seed: &str| {
        let data = data();
        let (_, result) = run_json(data.path(), &["check", "--sim", "dome-1", "--seed", seed, "--json"]);
        std::fs::read(result["journal"].as_str().unwrap()).unwrap()
    };
    assert_eq!(journal("5"), journal("5"));
    assert_ne!(journal("5"), journal("6"));
}

#[rstest]
#[case::unknown_test(&["check", "--tests", "marsh"], 2, "there is no test named \"marsh\"")]
#[case::no_pass(&["check", "--passes", "0"], 2, "0 passes would test nothing")]
#[case::silly_size(&["check", "--memory", "-5"], 2, "")]
#[case::not_a_size(&["check", "--memory", "lots"], 2, "\"lots\" is not an amount")]
#[case::too_much(&["check", "--memory", "900T"], 2, "900 TiB were asked for, and at most")]
#[case::no_such_machine(&["check", "--sim", "nowhere"], 2, "there is no simulated machine and no machine file")]
#[case::not_a_time(&["check", "--until", "noon"], 2, "\"noon\" is not a time of day")]
#[case::range_without_memory(
    &["check", "--sim", "dome-1", "--range", "3G..4G"], 2, "there is no usable memory from 3 GiB to 4 GiB: this machine's memory ends at 17 GiB"
)]
#[case::no_such_run(&["log", "never"], 2, "there is no run \"never\"")]
#[case::notation(&["tests", "--grade", "any(w0); up(r0,x1)"], 2, "column 16: expected r0, r1, w0 or w1")]
#[case::good_memory_fails(&["tests", "--grade", "any(r0)"], 2, "good memory would fail this test")]
#[case::no_such_test(&["tests", "marsh"], 2, "there is no test named")]
#[case::no_run_yet(&["log", "last"], 2, "there is no recorded run yet")]
fn mistakes_get_a_clear_word_and_a_proper_code(#[case] arguments: &[&str], #[case] code: i32, #[case] says: &str) {
    let output = run(data().path(), arguments);
    let words = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(output.status.code(), Some(code), "{words}");
    assert!(words.contains(says), "{words}");
    assert!(!words.contains("panicked"), "{words}");
}

#[test]
fn records_that_cannot_be_kept_are_said_before_anything_runs() {
    let output = run(Path::new("/proc/no-place"), &["check", "--sim", "dome-1"]);
    let words = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(output.status.code(), Some(3));
    assert!(words.contains("records cannot be kept in /proc/no-place") && words.contains("--data"), "{words}");
    assert!(output.stdout.is_empty());
}

#[test]
fn damaged_and_foreign_files_among_the_journals_are_said_and_the_rest_is_listed() {
    let data = data();
    run_json(data.path(), &["check", "--sim", "dome-1", "--json"]);
    let whole = std::fs::read(common::journal(data.path())).unwrap();
    let runs = data.path().join("runs");
    std::fs::write(runs.join("torn.journal"), &whole[..whole.len() * 2 / 3]).unwrap();
    std::fs::write(runs.join("foreign.journal"), b"\x1b]0;owned\x07\x00\xff").unwrap();
    std::fs::create_dir(runs.join("folder.journal")).unwrap();
    let output = run(data.path(), &["logs"]);
    let (list, words) = (String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr));
    assert_eq!(output.status.code(), Some(0));
    assert!(list.contains("24 memory errors\n") && list.contains("broken off by power loss"), "{list}");
    assert!(words.contains("foreign.journal") && words.contains("folder.journal"), "{words}");
    assert!(!list.contains('\x1b') && !words.contains('\x1b'));
    let torn = run(data.path(), &["log", "torn"]);
    assert!(String::from_utf8_lossy(&torn.stderr).contains("torn off"), "the cut is said");
    assert!(String::from_utf8_lossy(&torn.stdout).contains("broken off by power loss"));
    assert_eq!(run(data.path(), &["log", "foreign"]).status.code(), Some(3));
}

#[test]
fn runs_are_found_by_what_was_fitted() {
    let data = data();
    run_json(data.path(), &["check", "--sim", "dome-1", "--json"]);
    let found = |text: &str| {
        let (_, logs) = run_json(data.path(), &["logs", "--json", "--find", text]);
        logs["runs"].as_array().unwrap().len()
    };
    assert_eq!((found("4a220094"), found("errors found"), found("somewhere else")), (1, 1, 0));
}

#[test]
fn a_terminated_run_ends_with_a_result() {
    let data = data();
    let child = common::spawn(data.path(), &["check", "--memory", "6M", "--passes", "100000", "--json"]);
    let journal = common::journal(data.path());
    common::wait_for("a first test", || std::fs::read_to_string(&journal).ok()?.contains("test-began").then_some(()));
    let pid = rustix::process::Pid::from_raw(child.id() as i32).unwrap();
    rustix::process::kill_process(pid, rustix::process::Signal::TERM).unwrap();
    let output = child.wait_with_output().unwrap();
    let result: Value = serde_json::from_slice(&output.stdout).unwrap();
    let code = output.status.code().unwrap();
    assert!(
        (code, &result["outcome"]) == (4, &json!("cut-short")) || (code, &result["outcome"]) == (0, &json!("clean"))
    );
}

#[test]
fn a_drawing_of_the_board_is_written() {
    let data = data();
    run_json(data.path(), &["check", "--sim", "dome-1", "--json"]);
    let file = data.path().join("board.svg");
    let output = command(data.path(), &["log", "last", "--svg", file.to_str().unwrap()]).output().unwrap();
    assert!(output.status.success());
    assert!(std::fs::read_to_string(&file).unwrap().contains(" errors"));
}

#[test]
fn a_notation_is_graded() {
    let (code, grade) = run_json(data().path(), &["tests", "--grade", "any(w0); up(r0,w1); down(r1,w0)", "--json"]);
    assert_eq!((code, &grade["models"]["SAF"]), (0, &json!({"detected": 8, "of": 8, "share": 1.0})));
    assert_eq!(grade["models"]["CFds"]["of"], json!(144));
    let (_, page) = run_json(data().path(), &["tests", "march-c-", "--json"]);
    assert_eq!((&page["models"]["CFid"]["share"], &page["operations_per_cell"]), (&json!(1.0), &json!(10)));
}

#[test]
fn the_truth_is_told_only_to_those_who_ask() {
    let all = run(data().path(), &["demo", "--reveal"]);
    let words = String::from_utf8_lossy(&all.stdout).into_owned();
    assert!(words.contains("spectro") && words.contains("Slot B1 is bad"), "{words}");
    assert_eq!(run(data().path(), &["demo", "--reveal", "--machine", "nowhere"]).status.code(), Some(2));
    let checked = run(data().path(), &["check", "--sim", "spectro"]);
    assert!(!String::from_utf8_lossy(&checked.stdout).contains("is bad"));
}

/// A case from elsewhere is answered; one that cannot be is refused with its fault.
#[test]
fn cases_are_answered() {
    let data = data();
    let ask = |case: &str, more: &[&str]| {
        let mut child = command(data.path(), &[&["swap", "--advise"], more].concat())
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        child.stdin.take().unwrap().write_all(case.as_bytes()).unwrap();
        child.wait_with_output().unwrap()
    };
    let case = json!({"version": 1, "slots": [{"id": "A1"}, {"id": "B1"}], "modules": [{"id": "M1"}, {"id": "M2"}],
        "address_map": "known", "runs": [{"placement": {"A1": "M1", "B1": "M2"}, "planned_minutes": 60, "outcome": "errors", "slot": "A1"}]});
    let output = ask(&case.to_string(), &[]);
    assert_eq!(output.status.code(), Some(0));
    let told: Value = serde_json::from_slice(&output.stdout).unwrap();
    let odds = |told: &Value| told["posterior"]["slot:A1"].as_f64().unwrap();
    assert!(told["action"] == "run" && odds(&told) < 0.3, "{told}");
    let priors = data.path().join("shop.toml");
    std::fs::write(&priors, "[weights]\nslot = 500.0\n").unwrap();
    let output = ask(&case.to_string(), &["--priors", priors.to_str().unwrap()]);
    assert!(odds(&serde_json::from_slice(&output.stdout).unwrap()) > 0.8);
    for (wrong, words) in [("{", "cannot be read"), ("{\"version\": 9}", "version 9")] {
        let output = ask(wrong, &[]);
        assert_eq!(output.status.code(), Some(2));
        assert!(String::from_utf8_lossy(&output.stderr).contains(words));
    }
    std::fs::write(&priors, "[weights]\nsolt = 1.0\n").unwrap();
    assert_eq!(ask(&case.to_string(), &["--priors", priors.to_str().unwrap()]).status.code(), Some(2));
}

/// The job of a machine is told without its machine, and a name that fits nothing says what there is.
#[test]
fn a_job_is_told_from_its_records() {
    let data = data();
    let screen = common::Screen::open(
        (128, 40),
        &format!("{} demo --machine radio --data {}", common::revisum().display(), data.path().display()),
    );
    screen.wait("Enter run triage");
    screen.keys(&["q"]);
    let output = common::wait_for("the end of the demonstration", || {
        let output = run(data.path(), &["swap", "radio"]);
        output.status.success().then_some(output)
    });
    let text = String::from_utf8_lossy(&output.stdout).into_owned();
    assert!(text.contains("Most suspect: module") && text.contains("NEXT") && text.contains("if clean"), "{text}");
    let (code, told) = run_json(data.path(), &["swap", "--json"]);
    assert_eq!((code, &told["action"]), (0, &json!("run")));
    let output = run(&data.path().join("empty"), &["swap"]);
    assert_eq!(output.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&output.stderr).contains("there are no jobs"));
    let output = run(data.path(), &["swap", "nothing"]);
    assert_eq!(output.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&output.stderr).contains("jobs here: radio"));
}
