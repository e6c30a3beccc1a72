//! How far circumstances lean towards one cause or another.

use serde::{Deserialize, Serialize};

/// Factors on the weights of causes; 1 says nothing.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Tilt {
    /// Modules themselves.
    pub module: f64,
    /// Seats.
    pub seating: f64,
    /// Settings.
    pub settings: f64,
    /// Slots.
    pub slot: f64,
    /// Modules that fail beside others, and pairs.
    pub together: f64,
    /// Controller, mainboard, processor.
    pub controller: f64,
    /// Whole channels.
    pub channel: f64,
    /// Too many modules for the settings.
    pub many: f64,
    /// Which slots are used.
    pub position: f64,
    /// Modules of several kits.
    pub kits: f64,
}

impl Default for Tilt {
    fn default() -> Self {
        Self {
            module: 1.0,
            seating: 1.0,
            settings: 1.0,
            slot: 1.0,
            together: 1.0,
            controller: 1.0,
            channel: 1.0,
            many: 1.0,
            position: 1.0,
            kits: 1.0,
        }
    }
}

impl Tilt {
    /// All factors.
    pub fn all(&self) -> [f64; 10] {
        [
            self.module,
            self.seating,
            self.settings,
            self.slot,
            self.together,
            self.controller,
            self.channel,
            self.many,
            self.position,
            self.kits,
        ]
    }
}

impl std::ops::Mul for Tilt {
    type Output = Self;

    fn mul(self, other: Self) -> Self {
        Self {
            module: self.module * other.module,
            seating: self.seating * other.seating,
            settings: self.settings * other.settings,
            slot: self.slot * other.slot,
            together: self.together * other.together,
            controller: self.controller * other.controller,
            channel: self.channel * other.channel,
            many: self.many * other.many,
            position: self.position * other.position,
            kits: self.kits * other.kits,
        }
    }
}
