//! How close the modules are looked at.

use crate::shared::state::{Shared, stepped};

/// From this many columns on the module is seen beside the groups.
pub const WIDE: u16 = 110;

/// What of the modules is looked at.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Zoom {
    /// What failed, in words, and the groups.
    #[default]
    All,
    /// The module of the chosen group.
    Module,
    /// The bank of the chosen word.
    Bank,
    /// The words around the chosen one.
    Around,
}

impl Zoom {
    /// Whether the list names the words of the chosen group, not the groups.
    pub fn names_words(self) -> bool {
        matches!(self, Self::Bank | Self::Around)
    }

    /// Closer, or farther away where it is negative.
    pub fn stepped(self, by: isize, shared: &Shared) -> Self {
        let steps = steps(shared);
        let at = steps.iter().position(|step| *step == self).unwrap_or(0);
        steps[stepped(at, by, steps.len())]
    }
}

/// The steps that there are: without a map of cells there is nothing to look into, and a wide screen has the module in sight anyway.
pub fn steps(shared: &Shared) -> &'static [Zoom] {
    let told = shared.located.as_ref().is_some_and(|located| !located.fail_maps.is_empty());
    match (told, shared.size.0 >= WIDE) {
        (false, _) => &[Zoom::All, Zoom::Bank],
        (true, true) => &[Zoom::All, Zoom::Bank, Zoom::Around],
        (true, false) => &[Zoom::All, Zoom::Module, Zoom::Bank, Zoom::Around],
    }
}
