//! What a shape points to, in order.

use serde::Serialize;

use super::Shape;

/// Where a fault sits.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Cause {
    /// The module itself.
    Module,
    /// Its seat: dirt, a loose contact.
    Contact,
    /// The slot or its traces.
    Slot,
    /// Settings that are too fast.
    Settings,
    /// The memory controller, in the processor or on the mainboard.
    Controller,
}

impl Cause {
    /// In words.
    pub fn words(self) -> &'static str {
        match self {
            Self::Module => "the module",
            Self::Contact => "its contacts in the slot",
            Self::Slot => "the slot",
            Self::Settings => "the settings",
            Self::Controller => "the memory controller",
        }
    }
}

/// Likely causes, the likeliest first, and why in a sentence.
pub fn causes(shape: Shape) -> (&'static [Cause], &'static str) {
    use Cause::{Contact, Controller, Module, Settings, Slot};
    match shape {
        Shape::Cell | Shape::Row | Shape::Column | Shape::Bank => (
            &[Module],
            "Cells, rows, columns and banks exist only inside a chip: nothing outside the module fails like this.",
        ),
        Shape::DecoderDoubles => {
            (&[Module, Contact], "An address decoder inside a chip is faulty, or an address line reaches it weakly.")
        }
        Shape::Lane | Shape::LanePair => (
            &[Contact, Module, Slot],
            "A data line is one contact and one trace: clean the contacts and reseat before you blame a part.",
        ),
        Shape::ByteLane => (
            &[Module, Contact, Slot],
            "A byte lane is one chip, or two, with its own strobe: a dead chip, or its contacts.",
        ),
        Shape::AddressLine => (
            &[Contact, Module, Slot],
            "An address line goes to every chip: a contact, a trace, or the register on the module.",
        ),
        Shape::HalfModule => {
            (&[Module, Contact], "A rank is one side of many modules and has a select line of its own.")
        }
        Shape::WholeModule => {
            (&[Contact, Module, Slot], "Everything in it fails: it may not be seated, or not be set up.")
        }
        Shape::Channel => (
            &[Settings, Controller, Slot],
            "Several modules of one channel seldom fail together: what they share is the channel, its settings and its side of the controller.",
        ),
        Shape::Scattered => (
            &[Settings, Module, Controller],
            "Single bits without a pattern come with too little margin: settings that are too fast, heat, a weak supply.",
        ),
        Shape::Machine => (
            &[Settings, Controller],
            "Modules seldom fail alike at the same time: what they share is the controller, its supply and the settings.",
        ),
    }
}
