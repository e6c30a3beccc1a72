//! The shop: simulated benches and a counter, each a program of its own, over real sockets.

mod common;

use std::collections::BTreeMap;
use std::io::{BufRead as _, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use common::{Screen, revisum, run, wait_for, wait_within};

/// A counter without a full screen.
struct Plain {
    child: Child,
    lines: Arc<Mutex<Vec<String>>>,
}

impl Plain {
    fn open(inside: &[&str], data: &Path, listen: &str) -> Self {
        let mut child = within(inside)
            .args(["wall", "--plain", "--listen", listen, "--data"])
            .arg(data)
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        let lines: Arc<Mutex<Vec<String>>> = Arc::default();
        let (out, heard) = (child.stdout.take().unwrap(), Arc::clone(&lines));
        std::thread::spawn(move || {
            BufReader::new(out).lines().map_while(Result::ok).for_each(|line| heard.lock().unwrap().push(line));
        });
        Self { child, lines }
    }

    fn heard(&self, words: &str) -> Option<String> {
        self.lines.lock().unwrap().iter().rev().find(|line| line.contains(words)).cloned()
    }

    fn address(&self) -> String {
        let line = wait_for("its address", || self.heard("listening on"));
        line.rsplit(' ').next().unwrap().to_owned()
    }
}

impl Drop for Plain {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// The program, where given behind what runs it elsewhere.
fn within(inside: &[&str]) -> Command {
    match inside {
        [] => Command::new(revisum()),
        [first, rest @ ..] => {
            let mut command = Command::new(first);
            command.args(rest).arg(revisum());
            command
        }
    }
}

fn card(counter: &Path, bench: &Path, number: u16, address: &str) {
    std::fs::create_dir_all(bench).unwrap();
    let (file, number) = (bench.join("shop-card.toml"), number.to_string());
    let arguments = ["card", "new", "--number", &number, "--counter", address, file.to_str().unwrap()];
    let made = run(counter, &arguments);
    assert!(made.status.success(), "{made:?}");
}

fn demo(inside: &str, bench: &Path, machine: &str, pace: f64) -> Screen {
    let program = revisum();
    let line =
        format!("{inside} {} demo --machine {machine} --pace {pace} --data {}", program.display(), bench.display());
    Screen::open((100, 30), line.trim())
}

/// Files of records below a data directory.
fn records(data: &Path) -> BTreeMap<String, Vec<u8>> {
    let mut all = BTreeMap::new();
    for folder in ["runs", "jobs"] {
        for file in std::fs::read_dir(data.join(folder)).into_iter().flatten().flatten() {
            let name = format!("{folder}/{}", file.file_name().to_string_lossy());
            // What is being written has a name for the time being, and may be renamed before it is read here.
            match std::fs::read(file.path()) {
                Ok(bytes) => _ = all.insert(name, bytes),
                Err(error) => assert_eq!(error.kind(), std::io::ErrorKind::NotFound, "{name}: {error}"),
            }
        }
    }
    all
}

/// Files that are not the same at the counter.
fn different(bench: &Path, counter: &Path) -> Vec<String> {
    let copies = records(counter);
    records(bench).into_iter().filter(|(name, bytes)| copies.get(name) != Some(bytes)).map(|(name, _)| name).collect()
}

/// From the wall a machine is opened, its run is held and goes on, and what it recorded is at the counter.
#[test]
fn a_machine_is_watched_and_steered_from_the_wall() {
    let folder = tempfile::tempdir().unwrap();
    let (counter, bench) = (folder.path().join("counter"), folder.path().join("bench"));
    // Once for its port: the wall then listens where the card says.
    let address = Plain::open(&[], &counter, "127.0.0.1:0").address();
    card(&counter, &bench, 7, &address);
    let line = format!("{} wall --listen {address} --data {}", revisum().display(), counter.display());
    let wall = Screen::open((128, 40), &line);
    wall.wait("No machine is linked");
    let machine = demo("", &bench, "guide", 1.0);
    wall.wait_all(&["guide", "1 machine", "Next: run"]);
    machine.wait("linked to");
    wall.keys(&["Enter"]);
    wall.wait_all(&["keys go to this machine", "mainboard"]);
    wall.keys(&["Enter"]);
    wall.wait_all(&["test 1 of", "Ctrl-W back to the wall"]);
    machine.wait("test 1 of");
    wall.keys(&["Space"]);
    machine.wait("paused after");
    wall.wait("paused after");
    wall.keys(&["C-w"]);
    wall.wait_all(&["1 machine", "heard"]);
    wall.keys(&["q"]);
    wall.wait("ready>");
    machine.keys(&["C-c"]);
    machine.wait("ready>");
}

/// A machine without a counter is tested all the same, says so, and what it recorded arrives when there is one.
#[test]
fn a_counter_that_comes_later_gets_everything() {
    let folder = tempfile::tempdir().unwrap();
    let (counter, bench) = (folder.path().join("counter"), folder.path().join("bench"));
    let address = Plain::open(&[], &counter, "127.0.0.1:0").address();
    card(&counter, &bench, 3, &address);
    let machine = demo("", &bench, "guide", 0.0);
    machine.wait("no counter");
    machine.keys(&["Enter"]);
    machine.wait("took");
    let plain = Plain::open(&[], &counter, &address);
    wait_for("all records", || different(&bench, &counter).is_empty().then_some(()));
    wait_for("its word", || plain.heard("guide"));
    assert!(!records(&bench).is_empty());
    machine.wait("linked to");
    machine.keys(&["C-c"]);
    machine.wait("ready>");
}

/// Networks of their own, gone when this is dropped.
struct Networks(Vec<String>);

const COUNTER: &str = "rv-counter";
const MACHINES: [&str; 8] = ["heliostat", "dome-1", "frontdesk", "guide", "meteo", "stacker", "tracker", "spectro"];

fn ip(line: &str) {
    let done = Command::new("ip").args(line.split_whitespace()).output().expect("iproute2 is installed");
    assert!(done.status.success(), "ip {line}: {}", String::from_utf8_lossy(&done.stderr));
}

impl Networks {
    fn new() -> Self {
        let all: Vec<String> = (1..=MACHINES.len()).map(|number| format!("rv-{number}")).collect();
        let networks = Self(all.clone());
        for name in all.iter().map(String::as_str).chain([COUNTER]) {
            // Left over from a trial that was ended.
            let _ = Command::new("ip").args(["netns", "del", name]).output();
            ip(&format!("netns add {name}"));
        }
        ip(&format!("-n {COUNTER} link add bridge type bridge"));
        ip(&format!("-n {COUNTER} address add 10.77.0.1/24 dev bridge"));
        ip(&format!("-n {COUNTER} link set bridge up"));
        for (at, name) in all.iter().enumerate() {
            ip(&format!("-n {COUNTER} link add v{at} type veth peer name eth0 netns {name}"));
            ip(&format!("-n {COUNTER} link set v{at} master bridge up"));
            ip(&format!("-n {name} address add 10.77.0.{}/24 dev eth0", at + 10));
            ip(&format!("-n {name} link set eth0 up"));
        }
        networks
    }
}

impl Drop for Networks {
    fn drop(&mut self) {
        for name in self.0.iter().map(String::as_str).chain([COUNTER]) {
            let _ = Command::new("ip").args(["netns", "del", name]).output();
        }
    }
}

/// A folder with so much room, and no more.
struct Room(PathBuf);

impl Room {
    fn new(at: PathBuf, size: &str) -> Self {
        std::fs::create_dir_all(&at).unwrap();
        let options = format!("size={size}");
        let done = Command::new("mount").args(["-t", "tmpfs", "-o", &options, "none"]).arg(&at).status().unwrap();
        assert!(done.success());
        Self(at)
    }

    fn resize(&self, size: &str) {
        let options = format!("remount,size={size}");
        assert!(Command::new("mount").args(["-o", &options]).arg(&self.0).status().unwrap().success());
    }
}

impl Drop for Room {
    fn drop(&mut self) {
        let _ = Command::new("umount").arg("-l").arg(&self.0).status();
    }
}

/// Eight benches in networks of their own against one counter, through 200 breaks of their links, kills of either side, and a full disk at the counter.
/// `cargo test -p revisum --test shop -- --ignored --nocapture`, as root.
#[test]
#[ignore = "minutes, and it needs the right to make networks"]
fn eight_benches_lose_and_double_nothing() {
    const BREAKS: usize = 200;
    let folder = tempfile::tempdir().unwrap();
    let _networks = Networks::new();
    let room = Room::new(folder.path().join("counter"), "4m");
    let counter = room.0.clone();
    let inside = ["ip", "netns", "exec", COUNTER];
    let mut plain = Plain::open(&inside, &counter, "10.77.0.1:7247");
    plain.address();
    let benches: Vec<PathBuf> =
        (1..=MACHINES.len()).map(|number| folder.path().join(format!("bench{number}"))).collect();
    let start = |at: usize| {
        let screen = demo(&format!("ip netns exec rv-{}", at + 1), &benches[at], MACHINES[at], 0.0);
        screen.wait(MACHINES[at]);
        screen
    };
    let mut screens: Vec<Screen> = Vec::new();
    for (at, bench) in benches.iter().enumerate() {
        card(&counter, bench, at as u16 + 1, "10.77.0.1:7247");
        let screen = start(at);
        screen.keys(&["Enter"]);
        screens.push(screen);
    }
    let begin = Instant::now();
    let mut full = false;
    for number in 0..BREAKS {
        let at = number * 5 % MACHINES.len();
        ip(&format!("-n {COUNTER} link set v{at} down"));
        std::thread::sleep(Duration::from_millis(150));
        ip(&format!("-n {COUNTER} link set v{at} up"));
        match number {
            // The counter dies and comes again.
            50 | 100 | 150 => plain = Plain::open(&inside, &counter, "10.77.0.1:7247"),
            // A bench dies and comes again.
            60 | 120 => {
                let victim = format!("demo --machine {}", MACHINES[at]);
                assert!(Command::new("pkill").args(["-9", "-f", &victim]).status().unwrap().success());
                screens[at] = start(at);
                screens[at].keys(&["Esc"]);
            }
            _ => {}
        }
        full |= plain.heard("disk is full").is_some();
        // Whoever waits for somebody goes on.
        screens[number % MACHINES.len()].keys(&["Enter"]);
    }
    println!("{BREAKS} breaks in {:.0} s", begin.elapsed().as_secs_f64());
    if !full {
        wait_within(Duration::from_secs(300), "a full disk", || plain.heard("disk is full"));
    }
    room.resize("512m");
    screens.iter().for_each(|screen| screen.keys(&["C-c"]));
    // Whoever asks whether a run is to be stopped is told so.
    screens.iter().for_each(|screen| screen.keys(&["C-c"]));
    // The last word of a machine that was left comes when it is there again.
    let again: Vec<Screen> = (0..MACHINES.len())
        .map(|at| {
            screens[at].wait("ready>");
            start(at)
        })
        .collect();
    for (at, bench) in benches.iter().enumerate() {
        wait_within(Duration::from_secs(120), MACHINES[at], || different(bench, &counter).is_empty().then_some(()));
    }
    let all: usize = benches.iter().map(|bench| records(bench).len()).sum();
    let bytes: usize = benches.iter().flat_map(|bench| records(bench).into_values()).map(|file| file.len()).sum();
    assert_eq!(records(&counter).len(), all, "nothing is there twice");
    println!("{all} files, {bytes} bytes: the same at the counter");
    drop(again);
}

/// How far a run is, as a screen says it: number of the test, and how many of a hundred of it.
type Far = (u32, u32);

/// `test 3 of 6, lane groups, 40 %` in this text.
fn far(text: &str) -> Option<Far> {
    let (_, after) = text.split_once("test ")?;
    let line = after.lines().next()?;
    let (number, _) = line.split_once(" of ")?;
    let (before, _) = line.split_once(" %")?;
    let percent = before.rsplit([' ', '\u{a0}']).next()?;
    Some((number.parse().ok()?, percent.parse().ok()?))
}

/// What a wall of one column shows of a machine: the lines from its name to the next one's.
fn tile<'a>(wall: &'a str, machine: &str) -> Option<&'a str> {
    let begin = wall.find(&format!(" {machine} "))?;
    let rest = &wall[begin..];
    Some(rest.match_indices(" heard ").nth(1).map_or(rest, |(end, _)| &rest[..end]))
}

/// Eight benches at the pace of their own memory, and a wall: both sides' screens are read side by side, and how long the wall still showed what a
/// bench had left is printed. `cargo test -p revisum --test shop right_to_the_second -- --ignored --nocapture`.
#[test]
#[ignore = "minutes, and what it finds is a time"]
fn the_wall_is_right_to_the_second() {
    const READINGS: usize = 400;
    let folder = tempfile::tempdir().unwrap();
    let counter = folder.path().join("counter");
    let address = Plain::open(&[], &counter, "127.0.0.1:0").address();
    let line = format!("{} wall --listen {address} --data {}", revisum().display(), counter.display());
    let wall = Screen::open((70, 120), &line);
    wall.wait("No machine is linked");
    let benches: Vec<Screen> = (1..)
        .zip(MACHINES)
        .map(|(number, machine)| {
            let bench = folder.path().join(machine);
            card(&counter, &bench, number, &address);
            let screen = demo("", &bench, machine, 1.0);
            screen.wait("linked to");
            screen.keys(&["Enter"]);
            screen
        })
        .collect();
    let mut seen: Vec<Vec<(Instant, Far)>> = vec![Vec::new(); MACHINES.len()];
    let (mut ages, mut compared, mut ahead) = (vec![0.0_f64; MACHINES.len()], vec![0; MACHINES.len()], 0);
    for reading in 0..READINGS {
        let (begin, shown) = (Instant::now(), wall.text());
        for (at, screen) in benches.iter().enumerate() {
            let text = screen.text();
            if text.contains("Next:") && far(&text).is_none() && reading.is_multiple_of(20) {
                screen.keys(&["Enter"]);
            }
            let Some(own) = far(&text) else {
                seen[at].clear();
                continue;
            };
            // Another run counts from one again.
            if seen[at].last().is_some_and(|(_, before)| *before > own) {
                seen[at].clear();
            }
            seen[at].push((begin, own));
            let Some(of_wall) = tile(&shown, MACHINES[at]).and_then(far) else { continue };
            if of_wall > own {
                ahead += 1;
                continue;
            }
            // The last time at which the bench was no further than the wall says now.
            let last = seen[at].iter().rev().find(|(_, far)| *far <= of_wall);
            let since = last.or(seen[at].first()).unwrap().0;
            ages[at] = ages[at].max((begin - since).as_secs_f64());
            compared[at] += 1;
        }
    }
    println!("{READINGS} readings: {compared:?} compared, {ahead} times the wall was ahead of the bench's own screen");
    println!("the wall was behind by at most, in seconds: {ages:.2?}");
    assert!(compared.iter().all(|count| *count > 10), "{compared:?}");
    assert!(ages.iter().all(|seconds| *seconds < 1.0), "{ages:?}");
}
