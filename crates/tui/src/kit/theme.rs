//! Colours by role, and marks in glyphs that the terminal has.

use std::borrow::Cow;

use ratatui::style::{Color, Modifier, Style};
use revisum_engine::text::shown;
use revisum_record::outcome::Grade;

/// What a colour says. Nothing is told by colour alone: a word or a mark stands beside it.
#[derive(Clone, Debug)]
pub struct Theme {
    ground: Color,
    raised: Color,
    text: Color,
    label: Color,
    faint: Color,
    attention: Color,
    clean: Color,
    error: Color,
    simulated: Color,
    /// Marks.
    pub marks: Marks,
}

/// Marks, each a single column wide.
#[derive(Clone, Debug)]
pub struct Marks {
    /// Passed.
    pub passed: &'static str,
    /// Failed.
    pub failed: &'static str,
    /// At work, or where you are.
    pub here: &'static str,
    /// What a key would act on, where something else is at work.
    pub chosen: &'static str,
    /// Switched off, or still to come.
    pub open: &'static str,
    /// Switched on.
    pub on: &'static str,
    /// Whether quarter blocks can be drawn.
    pub quarter_blocks: bool,
}

const RICH: Marks =
    Marks { passed: "✓", failed: "✗", here: "▶", chosen: "›", open: "·", on: "●", quarter_blocks: true };
/// What the console font of a PC without further help has.
const CONSOLE: Marks =
    Marks { passed: "√", failed: "x", here: "►", chosen: ">", open: "·", on: "•", quarter_blocks: false };

/// The palette in the order of the console's sixteen colours.
const CONSOLE_PALETTE: [(u8, &str); 16] = [
    (0, "16181a"),
    (1, "ec5c42"),
    (2, "48beaa"),
    (3, "e8a838"),
    (4, "464746"),
    (5, "968cd2"),
    (6, "48beaa"),
    (7, "ded6c4"),
    (8, "807e76"),
    (9, "ec5c42"),
    (10, "48beaa"),
    (11, "e8a838"),
    (12, "464746"),
    (13, "968cd2"),
    (14, "48beaa"),
    (15, "ded6c4"),
];

/// What the console's font does not have, and what says the same there.
fn in_console_font(letter: char) -> char {
    match letter {
        '−' | '–' | '—' => '-',
        '…' => '.',
        '“' | '”' | '„' => '"',
        '‘' | '’' => '\'',
        letter => letter,
    }
}

impl Theme {
    /// Text in glyphs that this terminal has, without anything that would steer it.
    pub fn drawable<'a>(&self, text: &'a str) -> Cow<'a, str> {
        let text = shown(text);
        if self.marks.quarter_blocks || text.chars().all(|letter| in_console_font(letter) == letter) {
            return text;
        }
        Cow::Owned(text.chars().map(in_console_font).collect())
    }

    /// The best that this terminal can show; a bare console may have glyphs of our own.
    pub fn detect(own_glyphs: bool) -> Self {
        let term = std::env::var("TERM").unwrap_or_default();
        let colours = std::env::var("COLORTERM").unwrap_or_default();
        if term == "linux" {
            // Our palette makes these three distinct; elsewhere bright black may be as good as black.
            let marks = if own_glyphs { RICH } else { CONSOLE };
            return Self { text: Color::Gray, label: Color::DarkGray, faint: Color::Blue, ..Self::sixteen(marks) };
        }
        if colours.contains("truecolor") || colours.contains("24bit") { Self::full() } else { Self::sixteen(RICH) }
    }

    /// All colours.
    pub fn full() -> Self {
        Self {
            ground: Color::Rgb(0x16, 0x18, 0x1a),
            raised: Color::Rgb(0x26, 0x2a, 0x2e),
            text: Color::Rgb(0xde, 0xd6, 0xc4),
            label: Color::Rgb(0x94, 0x91, 0x88),
            faint: Color::Rgb(0x5c, 0x5d, 0x5b),
            attention: Color::Rgb(0xe8, 0xa8, 0x38),
            clean: Color::Rgb(0x48, 0xbe, 0xaa),
            error: Color::Rgb(0xec, 0x5c, 0x42),
            simulated: Color::Rgb(0x96, 0x8c, 0xd2),
            marks: RICH,
        }
    }

    /// Sixteen colours.
    pub fn sixteen(marks: Marks) -> Self {
        Self {
            ground: Color::Black,
            raised: Color::Black,
            text: Color::White,
            label: Color::Gray,
            faint: Color::Gray,
            attention: Color::Yellow,
            clean: Color::Cyan,
            error: Color::LightRed,
            simulated: Color::LightMagenta,
            marks,
        }
    }

    /// What to print so that the bare console shows this palette; nothing elsewhere.
    pub fn console_setup() -> Option<String> {
        let on_console = std::env::var("TERM").is_ok_and(|term| term == "linux");
        on_console.then(|| CONSOLE_PALETTE.iter().map(|(slot, rgb)| format!("\x1b]P{slot:X}{rgb}")).collect())
    }

    fn style(&self, colour: Color) -> Style {
        Style::default().fg(colour).bg(self.ground)
    }

    /// Empty ground.
    pub fn ground(&self) -> Style {
        self.style(self.text)
    }

    /// Values.
    pub fn text(&self) -> Style {
        self.style(self.text)
    }

    /// All of the screen in the colour of an outcome.
    pub fn filled(&self, grade: Grade) -> Style {
        let colour = self.graded(grade).fg.unwrap_or(self.text);
        let style = Style::default().fg(self.ground).bg(colour);
        // Of sixteen colours bold black is grey, which is hard to read on any of them.
        if self.ground == Color::Black { style } else { style.add_modifier(Modifier::BOLD) }
    }

    /// Values that matter most.
    pub fn strong(&self) -> Style {
        self.text().add_modifier(Modifier::BOLD)
    }

    /// Labels.
    pub fn label(&self) -> Style {
        self.style(self.label)
    }

    /// What is hardly there.
    pub fn faint(&self) -> Style {
        self.style(self.faint)
    }

    /// Keys, and where you are.
    pub fn attention(&self) -> Style {
        self.style(self.attention).add_modifier(Modifier::BOLD)
    }

    /// No errors.
    pub fn clean(&self) -> Style {
        self.style(self.clean)
    }

    /// Errors.
    pub fn error(&self) -> Style {
        self.style(self.error).add_modifier(Modifier::BOLD)
    }

    /// A result.
    pub fn graded(&self, grade: Grade) -> Style {
        match grade {
            Grade::Clean | Grade::Open => self.clean(),
            Grade::Reduced | Grade::Corrected => self.attention(),
            Grade::Errors | Grade::Void => self.error(),
        }
    }

    /// Simulated or doubtful.
    pub fn simulated(&self) -> Style {
        self.style(self.simulated)
    }

    /// Header and footer.
    pub fn bar(&self) -> Style {
        Style::default().fg(self.text).bg(self.raised)
    }

    /// The chosen one of several.
    pub fn chosen(&self) -> Style {
        Style::default().fg(self.ground).bg(self.attention)
    }

    /// A byte lane.
    pub fn lane(&self) -> Style {
        Style::default().fg(self.label).bg(self.raised)
    }

    /// A byte lane with errors.
    pub fn bad_lane(&self) -> Style {
        Style::default().fg(self.ground).bg(self.error)
    }

    /// The same style on the ground of a bar.
    pub fn on_bar(&self, style: Style) -> Style {
        style.bg(self.raised)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_console_gets_only_what_its_font_has() {
        assert_eq!(Theme::sixteen(CONSOLE).drawable("march C− …0093 “x”"), "march C- .0093 \"x\"");
        assert_eq!(Theme::sixteen(RICH).drawable("march C− …0093"), "march C− …0093");
    }
}
