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

/// Likely causes, the likeliest first.
pub fn causes(shape: Shape) -> &'static [Cause] {
    use Cause::{Contact, Controller, Module, Settings, Slot};
    match shape {
        // They exist only inside a chip: nothing outside the module fails like this.
        Shape::Cell | Shape::Row | Shape::Column | Shape::Bank => &[Module],
        Shape::DecoderDoubles | Shape::HalfModule => &[Module, Contact],
        // A data line is one contact and one trace; an address line goes to every chip.
        Shape::Lane | Shape::LanePair | Shape::AddressLine | Shape::WholeModule => &[Contact, Module, Slot],
        Shape::ByteLane => &[Module, Contact, Slot],
        // What modules of a channel share is the channel, its settings and its side of the controller.
        Shape::Channel => &[Settings, Controller, Slot],
        Shape::Scattered => &[Settings, Module, Controller],
        Shape::Machine => &[Settings, Controller],
    }
}
