//! What the two sides say to each other.

use serde::{Deserialize, Serialize};

/// Changes when the messages do: two sides that differ say so and part.
pub(crate) const PROTOCOL: u16 = 2;
/// Longest text in a message, in characters.
pub(crate) const LONGEST: usize = 300;
/// Most rows and columns of a picture.
pub(crate) const LARGEST_PICTURE: (u16, u16) = (400, 150);

/// One frame of a machine.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Say {
    pub notes: Vec<Note>,
}

/// Something that a machine says.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) enum Note {
    /// The first frame holds this, and nothing else; `machine` tells those apart that share a card.
    Hello {
        protocol: u16,
        machine: String,
    },
    /// Asks how much the counter has of a file.
    Asks {
        name: String,
    },
    /// More of a file, which goes to the end of the copy with this name.
    Piece {
        name: String,
        at: u64,
        bytes: Vec<u8>,
    },
    Stands(Standing),
    Shows(Picture),
}

/// One frame of the counter: the answer to a frame of the machine.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Heard {
    pub answers: Vec<Answer>,
}

/// Something that the counter says.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) enum Answer {
    /// `start` differs each time a counter is opened: what it said before may not hold.
    Welcome { protocol: u16, shop: String, start: u64 },
    /// Copies of a file under its name and the names beside it.
    Copies { name: String, copies: Vec<(String, u64, u32)>, free: String },
    /// A copy is so long now.
    Kept { name: String, len: u64 },
    /// A copy could not be added to.
    Refused { name: String, why: Refusal },
    /// Somebody did something at the counter.
    Does(Order),
}

/// Why the counter takes no more of a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum Refusal {
    /// No room is left.
    Full,
    /// It cannot be written.
    NotWritten,
    /// Its copy ends elsewhere.
    Elsewhere,
    /// It is no name of a record.
    NoRecord,
}

/// What is done at the counter to a machine.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum Order {
    /// A key is pressed.
    Press(Key),
    /// Its picture is wanted in this size; nothing when nobody looks any more.
    Look(Option<Look>),
}

/// The size of a picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Look {
    /// Columns.
    pub columns: u16,
    /// Rows.
    pub rows: u16,
}

/// A key.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum Key {
    /// A letter.
    Char(char),
    /// A letter with Ctrl.
    Ctrl(char),
    /// Enter.
    Enter,
    /// Esc.
    Esc,
    /// Backspace.
    Backspace,
    /// Tab.
    Tab,
    /// Tab with Shift.
    BackTab,
    /// Arrow up.
    Up,
    /// Arrow down.
    Down,
    /// Arrow left.
    Left,
    /// Arrow right.
    Right,
    /// Page up.
    PageUp,
    /// Page down.
    PageDown,
    /// First line.
    Home,
    /// Last line.
    End,
    /// Delete.
    Delete,
}

/// What a machine says of itself.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Standing {
    /// Its name.
    pub machine: String,
    /// The number of its drive, where it has one.
    pub number: Option<u16>,
    /// The journal of the run of this sitting: the file's name.
    pub run: Option<String>,
    /// Where that run is now: what is recorded of it is up to a second older.
    pub at: Option<At>,
    /// Memory errors of that run, recorded or not: what the copies tell may be behind.
    pub errors: u64,
    /// The stage of its job, in its own language.
    pub stage: String,
    /// Somebody has to do something at it.
    pub waits: bool,
    /// The next step, in its own language.
    pub next: String,
    /// Seconds until the run ends, as far as can be told.
    pub ends_in_s: Option<u64>,
    /// Why it does not record, where it does not.
    pub not_recorded: Option<String>,
    /// What is there is simulated.
    pub simulated: bool,
}

/// Where a run is.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct At {
    /// Pass, from 1.
    pub pass: u32,
    /// Test.
    pub test: String,
    /// Share of this test that is done, in millionths.
    pub test_ppm: u32,
}

/// A picture of a screen, or the rows of it that have changed.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Picture {
    /// Columns.
    pub columns: u16,
    /// Rows.
    pub rows: u16,
    /// Rows, each with its number.
    pub changed: Vec<(u16, Row)>,
}

/// One row of a picture.
pub type Row = Vec<Span>;

/// Characters that look alike.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Span {
    /// The characters.
    pub text: String,
    /// Colour of the letters: as the picture's maker numbers them.
    pub front: u32,
    /// Colour of the ground.
    pub ground: u32,
    /// Bold, underlined and so on, as bits.
    pub marks: u16,
}

impl Picture {
    /// What changes this picture into the other one; all of it where the size differs.
    pub fn to(&self, next: &Self) -> Self {
        let same_size = (self.columns, self.rows) == (next.columns, next.rows);
        let known = |row: &(u16, Row)| same_size && self.changed.contains(row);
        let changed = next.changed.iter().filter(|row| !known(row)).cloned().collect();
        Self { changed, ..*next }
    }

    /// Takes in what has changed. Rows outside the picture are left out.
    pub fn take(&mut self, change: Self) {
        let size = (change.columns.min(LARGEST_PICTURE.0), change.rows.min(LARGEST_PICTURE.1));
        if (self.columns, self.rows) != size {
            (self.columns, self.rows) = size;
            self.changed = (0..size.1).map(|row| (row, Row::new())).collect();
        }
        for (at, mut row) in change.changed {
            row.truncate(usize::from(self.columns));
            if let Some((_, known)) = self.changed.get_mut(usize::from(at)) {
                *known = row;
            }
        }
    }
}

impl Standing {
    /// Texts of a length that a screen can show.
    pub(crate) fn cut(mut self) -> Self {
        for text in [&mut self.machine, &mut self.stage, &mut self.next] {
            cut(text);
        }
        self.run.iter_mut().chain(self.at.iter_mut().map(|at| &mut at.test)).for_each(cut);
        self.not_recorded.iter_mut().for_each(cut);
        self
    }
}

pub(crate) fn cut(text: &mut String) {
    if let Some((end, _)) = text.char_indices().nth(LONGEST) {
        text.truncate(end);
    }
}
