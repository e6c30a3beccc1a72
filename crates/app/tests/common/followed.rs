//! A machine followed from the complaint to the handover by what Enter proposes, with the answers that a person gives.

use std::path::Path;

use super::driven::Driven;

const SIZE: (u16, u16) = (128, 47);
/// More steps than any machine needs.
const MOST_STEPS: usize = 60;

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
    /// Stages that are done at the end.
    pub stages: &'a str,
    /// How it is followed.
    pub manner: Manner,
    /// Columns and rows.
    pub size: (u16, u16),
}

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

/// What Enter does on the Swap view, by the footer.
fn enter_does(text: &str) -> String {
    let footer = text.lines().rev().find(|line| line.contains("? keys")).unwrap_or_default();
    let words = footer.trim_start().strip_prefix("Enter ").unwrap_or_default();
    words.split("   ").next().unwrap_or_default().trim().to_owned()
}

impl<'a> Walk<'a> {
    /// Of somebody who does what it says.
    pub fn of(machine: &'a str, opened: &'a str, found: &'a str, stages: &'a str) -> Self {
        Self { machine, opened, found, stages, manner: Manner::Obedient, size: SIZE }
    }

    fn open(&self, data: &Path) -> Driven {
        Driven::open(data, self.opened, self.size)
    }

    /// Presses Enter until the machine was handed over. Where a person is asked what replaces a part, it is here already.
    pub fn follow(&self, data: &Path) {
        let mut screen = self.open(data);
        screen.until("the board", |text| text.contains("Enter ") && text.contains("complaint"));
        if screen.text().contains("e declare slots") {
            declare(&screen);
        }
        screen.keys(&["Enter"]);
        let (mut was_found, mut course) = (false, Vec::new());
        for step in 1..=MOST_STEPS {
            if self.manner == Manner::Interrupted {
                drop(after_the_run(&screen));
                drop(screen);
                screen = self.open(data);
            }
            let swap = after_the_run(&screen);
            was_found |= self.found.split('|').any(|answer| swap.contains(answer));
            let does = enter_does(&swap);
            self.keep(step, &swap);
            let next = swap.lines().find_map(|line| line.trim_start().strip_prefix("NEXT ")).unwrap_or_default();
            course.push(format!(
                "{does}: {}",
                next.split("   ").find(|part| !part.is_empty()).unwrap_or_default().trim()
            ));
            if self.manner == Manner::Stubborn && step % 3 == 0 && something_else(&screen, &swap, step / 3) {
                continue;
            }
            screen.keys(&["Enter"]);
            match does.as_str() {
                "settle replacement" => {
                    screen.wait("What goes in place of");
                    screen.keys(&["Down", "Enter"]);
                }
                "hand over, report" => {
                    screen.wait("Written to");
                    screen.keys(&["Escape"]);
                    screen.wait("Memory report");
                    assert!(was_found, "{course:?}: {} never came:\n{swap}", self.found);
                    screen.keys(&["6"]);
                    self.check_end(&screen, &course);
                    screen.leave();
                    return;
                }
                _ => {}
            }
        }
        panic!("{course:?}, no handover:\n{}", screen.text());
    }

    /// Keeps what a step showed where somebody looks at it.
    fn keep(&self, step: usize, swap: &str) {
        if let Ok(kept) = std::env::var("REVISUM_KEEP_SCREENS") {
            std::fs::write(Path::new(&kept).join(format!("{}-{step:02}.txt", self.machine)), swap).unwrap();
        }
    }

    fn check_end(&self, screen: &Driven, course: &[String]) {
        let swap = screen.wait("show report");
        let line = swap.lines().find(|line| line.contains("handed over")).unwrap_or_default();
        let marks: String = line.chars().map(|c| if c.is_alphanumeric() { c } else { ' ' }).collect();
        let words = marks.split("  ").map(str::trim).filter(|word| !word.is_empty()).collect::<Vec<_>>().join("  ");
        assert!(words.contains(self.stages), "{course:?}: {words}\n{swap}");
        assert!(!swap.contains("This job is open"), "{swap}");
        println!("{}: {course:?}", self.machine);
    }
}

/// Declares what a person sees of a machine that tells nothing: two slots, and what stands on the labels.
fn declare(screen: &Driven) {
    screen.keys(&["e"]);
    screen.wait("How many memory slots");
    screen.keys(&["Down", "Enter"]);
    for (slot, serial) in [("A1", "60A1"), ("B1", "60B1")] {
        screen.until("its slot", |text| text.contains("e declare module"));
        screen.keys(&["e"]);
        screen.wait(&format!("module in {slot}"));
        for letter in format!("1G {serial}").chars() {
            let mut bytes = [0; 4];
            screen.keys(&[if letter == ' ' { "Space" } else { letter.encode_utf8(&mut bytes) }]);
        }
        screen.keys(&["Enter"]);
        screen.wait(serial);
        screen.keys(&["Down"]);
    }
}

/// Does what is not proposed: another step of the list, a module taken out or put in, or a run struck out; the next one each time.
fn something_else(screen: &Driven, swap: &str, turn: usize) -> bool {
    let ways: [(&str, &[&str]); 3] =
        [("a other steps", &["a", "Enter"]), ("Space remove, insert", &["Space"]), ("memory test, ", &["u", "Enter"])];
    let able = ways.iter().filter(|(shown, _)| swap.contains(shown)).collect::<Vec<_>>();
    let Some((_, keys)) = able.get(turn % able.len().max(1)) else { return false };
    for key in *keys {
        screen.keys(&[key]);
    }
    true
}
