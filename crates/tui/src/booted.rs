//! What the full screen knows of the drive that it was booted from, and how it is left again: told from child to parent by the exit code.

use std::path::PathBuf;

use revisum_drive::DriveSettings;
use revisum_link::Linked;
use revisum_linux::boot::Entry;

use crate::say;

/// What the interface knows of the boot drive.
#[derive(Clone, Debug, PartialEq)]
pub struct Booted {
    /// Which entry was booted.
    pub entry: Entry,
    /// It was booted by itself after the other one.
    pub chained: bool,
    /// Where results go that stay; nothing when there is no room for them on any drive.
    pub results: Option<PathBuf>,
    /// What is not right with the file system there.
    pub doubt: Option<String>,
    /// Why results cannot be kept there, where they cannot.
    pub not_kept: Option<String>,
    /// How the session before this one ended, where it ended by itself.
    pub died: Option<String>,
    /// It ended because the hardware reported a memory error.
    pub by_memory: bool,
    /// How the drive is to start.
    pub settings: DriveSettings,
    /// What was not as it should be while it started.
    pub troubles: Vec<String>,
}

/// Where what happens is recorded.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Kept {
    /// On which drive, where that has a name of its own.
    pub place: String,
    /// Why it is not, where it is not.
    pub trouble: Option<String>,
    /// Where the link to the shop's counter is, where there is one.
    pub linked: Option<Linked>,
    /// It is brought there from where it was kept before.
    pub brought: bool,
    /// Nothing is to be recorded: saved facts are looked at.
    pub only_shown: bool,
}

impl Kept {
    /// The mark in the header: the longest wording first.
    pub fn marks(&self) -> Vec<String> {
        if self.only_shown {
            return vec![say::saved_facts().to_owned(), say::saved_facts_short().to_owned()];
        }
        let here = match (&self.trouble, self.place.is_empty()) {
            (Some(why), _) => vec![say::not_recorded_why(why), say::not_recorded().to_owned()],
            (None, false) => vec![say::recorded_on(&self.place), say::recorded().to_owned()],
            (None, true) => vec![say::recorded().to_owned()],
        };
        let Some(linked) = &self.linked else { return here };
        let (long, short) = match linked {
            Linked::To { shop, .. } => (say::linked_to(shop), say::linked()),
            Linked::Searching => (say::linked_searching().to_owned(), say::linked_not()),
            Linked::Broken { .. } => (say::linked_broken().to_owned(), say::linked_not()),
        };
        let shortest = here.last().cloned().unwrap_or_default();
        let with = |mark: &String, link: &str| format!("{mark}, {link}");
        here.iter().map(|mark| with(mark, &long)).chain([with(&shortest, short), shortest.clone()]).collect()
    }
}

/// What is to become of the machine.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Leave {
    /// Start it again.
    Restart,
    /// Switch it off.
    PowerOff,
    /// Start it again into the other entry, which reaches what this one cannot.
    Other,
}

impl Leave {
    /// All of them, in the order in which they are offered.
    pub const ALL: [Self; 3] = [Self::PowerOff, Self::Restart, Self::Other];

    /// Exit code of the child; beyond those of commands.
    pub fn code(self) -> u8 {
        match self {
            Self::Restart => 40,
            Self::PowerOff => 41,
            Self::Other => 42,
        }
    }

    /// By the exit code.
    pub fn of_code(code: i32) -> Option<Self> {
        Self::ALL.into_iter().find(|leave| i32::from(leave.code()) == code)
    }

    /// In words.
    pub fn words(self) -> &'static str {
        match self {
            Self::Restart => say::booted_restart(),
            Self::PowerOff => say::booted_off(),
            Self::Other => say::booted_rest(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_mark_says_where_or_why_not() {
        let kept = |place: &str, trouble: Option<&str>| Kept {
            place: place.into(),
            trouble: trouble.map(str::to_owned),
            ..Kept::default()
        };
        assert_eq!(kept("REVISUM", None).marks(), ["recorded on REVISUM", "recorded"]);
        assert_eq!(kept("", None).marks(), ["recorded"]);
        assert_eq!(
            kept("REVISUM", Some("the drive is full")).marks(),
            ["NOT RECORDED: the drive is full", "NOT RECORDED"]
        );
    }

    #[test]
    fn codes_are_told_apart() {
        for leave in Leave::ALL {
            assert_eq!(Leave::of_code(i32::from(leave.code())), Some(leave));
        }
        assert_eq!(Leave::of_code(0), None);
    }
}
