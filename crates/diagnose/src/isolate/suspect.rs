//! The causes that the odds are over.

/// A cause that the odds are over.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Suspect {
    /// The module itself, always or now and then.
    Module(String),
    /// The module is good, but not for this mainboard or its firmware.
    Unfit(String),
    /// The slot.
    Slot(String),
    /// All slots of a channel: a trace, a contact of the processor's socket, half of the controller.
    Channel(String),
    /// A loose contact, or an event that will not come again: no part to replace.
    NoPart,
    /// The module fails only with others installed.
    Combination(String),
    /// Each of the two is good, but not together; in the order of their names.
    Pair(String, String),
    /// More modules or ranks than these settings bear: each is good, and so are fewer of them.
    TooMany,
    /// The slots that are used: with one module a channel the others carry these settings.
    Position,
    /// Modules of several kits: each kit is good by itself.
    Kits,
    /// Settings that are too fast.
    Settings,
    /// Memory controller, mainboard or processor.
    Controller,
    /// Two bad modules, in the order of their names.
    TwoModules(String, String),
    /// A bad module and a bad slot.
    ModuleAndSlot(String, String),
    /// Something that this model does not know.
    Other,
}

impl Suspect {
    /// Modules that it blames.
    pub fn modules(&self) -> Vec<&str> {
        match self {
            Self::Module(module) | Self::Unfit(module) | Self::Combination(module) | Self::ModuleAndSlot(module, _) => {
                vec![module]
            }
            Self::Pair(a, b) | Self::TwoModules(a, b) => vec![a, b],
            _ => Vec::new(),
        }
    }

    /// The slot that it blames.
    pub fn slot(&self) -> Option<&str> {
        match self {
            Self::Slot(slot) | Self::ModuleAndSlot(_, slot) => Some(slot),
            _ => None,
        }
    }

    /// The channel that it blames.
    pub fn channel(&self) -> Option<&str> {
        match self {
            Self::Channel(channel) => Some(channel),
            _ => None,
        }
    }
}
