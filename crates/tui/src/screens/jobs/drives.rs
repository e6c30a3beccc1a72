//! Making a boot drive: choosing one, confirming by its name, watching.

use std::sync::Arc;
use std::sync::atomic::Ordering;

use revisum_drive::Drive;
use revisum_engine::units::bytes_text;
use tui_input::Input;

use crate::say;
use crate::dialogs::line::Line;
use crate::kit::theme::Theme;
use crate::room::step::{Ask, Step, does, says};
use crate::shared::effect::Effect;
use crate::shared::news::Writing;

/// Longest name that is typed.
const LONGEST: usize = 80;

/// Drives that the boot drive could be written to.
#[derive(Debug, Default)]
pub struct DrivePage {
    /// What there is.
    pub drives: Vec<Drive>,
    /// The image that would be written.
    pub image: Option<String>,
    /// Chosen drive.
    pub at: usize,
    /// The results on a boot drive stay.
    pub keep: bool,
    /// A drive that is being written, or was.
    pub writing: Option<Arc<Writing>>,
}

impl DrivePage {
    /// Whether a drive is being written at the moment.
    pub fn is_writing(&self) -> bool {
        self.writing.as_ref().is_some_and(|writing| writing.ended.get().is_none())
    }

    /// The chosen drive, where it can be written to.
    pub fn offered(&self) -> Option<&Drive> {
        let drive = self.drives.get(self.at).filter(|drive| drive.refused.is_none())?;
        (self.image.is_some() && !self.is_writing()).then_some(drive)
    }

    /// Gives up writing; the drive is then known as unfinished.
    pub fn give_up(&self) {
        if let Some(writing) = &self.writing {
            writing.give_up.store(true, Ordering::SeqCst);
        }
    }

    /// Asks for the name.
    pub fn ask(&self) -> Step {
        let Some(drive) = self.offered().cloned() else { return Vec::new() };
        let contents =
            if drive.contents.is_empty() { say::drives_unknown_content().to_owned() } else { drive.contents.join(", ") };
        let mut words = vec![say::drives_line(&drive.path, bytes_text(drive.bytes), contents)];
        if self.keep {
            words.push(say::drives_results_stay_if().to_owned());
        }
        let keep = self.keep;
        let line = Line {
            title: say::drives_all_erased(&drive.name),
            style: Theme::error,
            words,
            label: say::drives_type_name(),
            input: Input::default(),
            longest: LONGEST,
            keys: say::drives_keys(),
            kept: Box::new(move |typed| confirmed(&drive, keep, typed)),
        };
        vec![Ask::Show(Box::new(line))]
    }
}

fn confirmed(drive: &Drive, keep: bool, typed: &str) -> Step {
    if typed.trim() != drive.name {
        return says(say::drives_name_wrong(&drive.name));
    }
    does(Effect::WriteDrive { drive: Box::new(drive.clone()), keep })
}
