//! A machine followed from the complaint to the handover by what Enter proposes, with the answers that a person gives.

use std::path::Path;

use std::time::{Duration, Instant};

use super::driven::Driven;
use super::{Screen, revisum};

const SIZE: (u16, u16) = (128, 47);
/// More steps than any machine needs.
const MOST_STEPS: usize = 60;

/// The full screen, with a terminal or without one.
pub trait Front {
    /// Presses keys by the names that tmux has for them.
    fn press(&self, keys: &[&str]);
    /// What is on the screen once it is as wanted.
    fn seen(&self, what: &str, is_there: &dyn Fn(&str) -> bool) -> String;
    /// Leaves it by its key.
    fn left(self: Box<Self>);

    /// What is on the screen once this is.
    fn shows(&self, text: &str) -> String {
        self.seen(text, &|seen| seen.contains(text))
    }
}

impl Front for Driven {
    fn press(&self, keys: &[&str]) {
        self.keys(keys);
    }

    fn seen(&self, what: &str, is_there: &dyn Fn(&str) -> bool) -> String {
        self.until(what, is_there)
    }

    fn left(self: Box<Self>) {
        self.leave();
    }
}

/// The screen without its first line, which holds a clock.
fn below_clock(text: &str) -> Option<&str> {
    text.split_once('\n').map(|(_, rest)| rest)
}

/// How long a run in a real terminal may take. Only a limit.
const PATIENCE: Duration = Duration::from_secs(60);

impl Front for Screen {
    fn press(&self, keys: &[&str]) {
        self.keys(keys);
    }

    fn seen(&self, what: &str, is_there: &dyn Fn(&str) -> bool) -> String {
        let begin = Instant::now();
        loop {
            // A picture may be taken in the middle of a drawing: two that follow each other have to be alike but for the clock.
            let text = self.text();
            if is_there(&text) && below_clock(&self.text()) == below_clock(&text) {
                return text;
            }
            assert!(begin.elapsed() < PATIENCE, "{what} never came:\n{text}");
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    fn left(self: Box<Self>) {
        self.keys(&["q"]);
        self.wait("left-0");
    }
}

/// How somebody follows what is proposed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Manner {
    /// Does what it says.
    Obedient,
    /// Both machines lose power after each step.
    Interrupted,
    /// Does something else at every third step.
    Stubborn,
}

/// A machine, and what it comes to.
pub struct Walk<'a> {
    /// Its name.
    pub machine: &'a str,
    /// What the demonstration is opened with.
    pub opened: &'a str,
    /// What is found on the way; one of several.
    pub found: &'a str,
    /// Stages that are done at the end; one of several.
    pub stages: &'a str,
    /// How it is followed.
    pub manner: Manner,
    /// Columns and rows.
    pub size: (u16, u16),
    /// In a real terminal.
    pub in_terminal: bool,
}

/// The Swap view once no run goes on, and once it is not as it was before.
fn after_the_run(screen: &dyn Front, before: Option<&str>) -> String {
    screen.press(&["6"]);
    screen.seen("the Swap view without a run", &|text| {
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
            "put all back",
            "settings",
            "hand over",
            "show report",
            "test this",
        ];
        let shown =
            keys.is_some_and(|keys| steps.iter().any(|step| keys.trim_start().starts_with(&format!("Enter {step}"))));
        let new = before.is_none_or(|before| below_clock(before) != below_clock(text));
        // What is still being done stands beside the names of the screens.
        let idle = text.lines().nth(1).is_some_and(|names| !names.contains('…'));
        new && idle
            && over
            && !text.lines().take(3).any(|line| line.contains("run: "))
            && shown
            && text.contains("select slot")
    })
}

/// What Enter does on the Swap view, by the footer.
fn enter_does(text: &str) -> String {
    let footer = text.lines().rev().find(|line| line.contains("? keys")).unwrap_or_default();
    let words = footer.trim_start().strip_prefix("Enter ").unwrap_or_default();
    words.split("   ").next().unwrap_or_default().trim().to_owned()
}

impl<'a> Walk<'a> {
    /// Of somebody who does what it says.
    pub fn of(machine: &'a str, opened: &'a str, found: &'a str, stages: &'a str) -> Self {
        Self { machine, opened, found, stages, manner: Manner::Obedient, size: SIZE, in_terminal: false }
    }

    fn open(&self, data: &Path) -> Box<dyn Front> {
        if !self.in_terminal {
            return Box::new(Driven::open(data, self.opened, self.size));
        }
        let (program, data) = (revisum().display().to_string(), data.display());
        let line = format!("{program} demo --machine {} --pace 0 --data {data}; echo left-$?", self.opened);
        Box::new(Screen::open(self.size, &line))
    }

    /// Presses Enter until the machine was handed over. Where a person is asked what replaces a part, it is here already.
    pub fn follow(&self, data: &Path) {
        let mut screen = self.open(data);
        let board = screen.seen("the board", &|text| text.contains("Enter ") && text.contains("handed over"));
        if board.contains("e declare slots") {
            declare(screen.as_ref());
        }
        screen.press(&["Enter"]);
        let (mut was_found, mut course, mut last) = (false, Vec::new(), None);
        for step in 1..=MOST_STEPS {
            if self.manner == Manner::Interrupted {
                drop(after_the_run(screen.as_ref(), None));
                drop(screen);
                screen = self.open(data);
            }
            let swap = after_the_run(screen.as_ref(), last.as_deref().filter(|_| self.in_terminal));
            last = Some(swap.clone());
            was_found |= self.found.split('|').any(|answer| swap.contains(answer));
            let does = enter_does(&swap);
            self.keep(step, &swap);
            let next = swap.lines().find_map(|line| line.trim_start().strip_prefix("NEXT ")).unwrap_or_default();
            course.push(format!(
                "{does}: {}",
                next.split("   ").find(|part| !part.is_empty()).unwrap_or_default().trim()
            ));
            if self.manner == Manner::Stubborn && step % 3 == 0 && something_else(screen.as_ref(), &swap, step / 3) {
                continue;
            }
            screen.press(&["Enter"]);
            if self.in_terminal {
                // A key is taken when it is: what was there before is no answer to it.
                screen.seen("an answer", &|text| below_clock(text) != below_clock(&swap));
            }
            match does.as_str() {
                "settle replacement" => {
                    screen.shows("What goes in place of");
                    screen.press(&["Down", "Enter"]);
                }
                "hand over, report" => {
                    screen.shows("Written to");
                    screen.press(&["Enter"]);
                    screen.shows("Memory report");
                    assert!(was_found, "{course:?}: {} never came:\n{swap}", self.found);
                    screen.press(&["6"]);
                    self.check_end(screen.as_ref(), &course);
                    screen.left();
                    return;
                }
                _ => {}
            }
        }
        panic!("{course:?}, no handover:\n{}", screen.seen("", &|_| true));
    }

    /// Keeps what a step showed where somebody looks at it.
    fn keep(&self, step: usize, swap: &str) {
        if let Ok(kept) = std::env::var("REVISUM_KEEP_SCREENS") {
            let name = format!("{}-{}-{step:02}.txt", self.machine, self.size.0);
            std::fs::write(Path::new(&kept).join(name), swap).unwrap();
        }
    }

    fn check_end(&self, screen: &dyn Front, course: &[String]) {
        let swap = screen.shows("show report");
        let line = swap.lines().find(|line| line.contains("handed over")).unwrap_or_default();
        let marks: String = line.chars().map(|c| if c.is_alphanumeric() { c } else { ' ' }).collect();
        let words = marks.split("  ").map(str::trim).filter(|word| !word.is_empty()).collect::<Vec<_>>().join("  ");
        assert!(self.stages.split('|').any(|stages| words.contains(stages)), "{course:?}: {words}\n{swap}");
        assert!(!swap.contains("This job is open"), "{swap}");
        println!("{}: {course:?}", self.machine);
    }
}

/// Declares what a person sees of a machine that tells nothing: two slots, and what stands on the labels.
fn declare(screen: &dyn Front) {
    screen.press(&["e"]);
    screen.shows("How many memory slots");
    screen.press(&["Down", "Enter"]);
    for (slot, serial) in [("A1", "60A1"), ("B1", "60B1")] {
        screen.seen("its slot", &|text| text.contains("e declare module"));
        screen.press(&["e"]);
        screen.shows(&format!("module in {slot}"));
        for letter in format!("8G {serial}").chars() {
            let mut bytes = [0; 4];
            screen.press(&[if letter == ' ' { "Space" } else { letter.encode_utf8(&mut bytes) }]);
        }
        screen.press(&["Enter"]);
        screen.shows(serial);
        screen.press(&["Down"]);
    }
}

/// Does what is not proposed: another step of the list, a module taken out or put in, or a run struck out; the next one each time.
fn something_else(screen: &dyn Front, swap: &str, turn: usize) -> bool {
    let ways: [(&str, &[&str]); 3] =
        [("a other steps", &["a", "Enter"]), ("Space remove, insert", &["Space"]), ("memory test, ", &["u", "Enter"])];
    let able = ways.iter().filter(|(shown, _)| swap.contains(shown)).collect::<Vec<_>>();
    let Some((_, keys)) = able.get(turn % able.len().max(1)) else { return false };
    for key in *keys {
        screen.press(&[key]);
    }
    true
}
