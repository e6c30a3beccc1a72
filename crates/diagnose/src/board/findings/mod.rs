//! What is not as it should be with what is fitted. No rule fires without the facts.

mod balance;
mod errors;
mod knowledge;
mod missing;
mod population;
mod settings;

use super::finding::{Finding, Found, Weight};
use super::inventory::Inventory;
use crate::board::SystemFacts;
use crate::speed::speed_findings;
use revisum_engine::host::EccCount;
use revisum_record::fitted::{Before, Board};
use revisum_record::speed::SpeedRecord;

/// What the rules look at.
#[derive(Clone, Copy, Debug)]
pub struct Known<'a> {
    /// What is fitted.
    pub inventory: &'a Inventory,
    /// What the operating system knows.
    pub system: &'a SystemFacts,
    /// Counts of the error-correcting hardware since the system started.
    pub counters: &'a [EccCount],
    /// How the machine was last time, where it was here before.
    pub before: Option<&'a Before>,
    /// Milliseconds since 1970; nothing when the clock is plainly wrong.
    pub wall_ms: Option<i64>,
    /// How fast it was when it was measured last.
    pub speed: Option<&'a SpeedRecord>,
}

impl Known<'_> {
    fn board(&self) -> &Board {
        &self.inventory.board
    }

    /// A guest's tables are its host's invention.
    fn is_guest(&self) -> bool {
        self.system.guest || self.inventory.guest
    }

    /// What was measured in another fitting says nothing of this one.
    fn speed(&self) -> Option<&SpeedRecord> {
        self.speed.filter(|speed| speed.is_of(self.board(), &self.system.settings))
    }
}

/// A rule: at most one finding.
type Rule = fn(&Known<'_>) -> Option<Finding>;

/// Every rule; among findings of one weight this order stays.
const RULES: [Rule; 22] = [
    errors::counted,
    errors::logged,
    missing::missing_memory,
    errors::less_than_before,
    errors::changed_since,
    errors::damaged_spd,
    population::crowded_channel,
    balance::unbalanced,
    population::mixed_modules,
    settings::off_profile,
    settings::profile_on,
    knowledge::disputed,
    population::idle_channels,
    settings::below_rating,
    settings::old_firmware,
    settings::encryption,
    knowledge::no_serial_numbers,
    knowledge::same_serial_numbers,
    knowledge::no_spd,
    knowledge::virtual_machine,
    knowledge::no_tables,
    knowledge::hidden_addresses,
];

/// Everything found, worst first.
pub fn findings(known: &Known<'_>) -> Vec<Finding> {
    let mut all: Vec<Finding> = RULES.iter().filter_map(|rule| rule(known)).collect();
    all.extend(known.speed().map(speed_findings).unwrap_or_default());
    all.sort_by_key(|finding| finding.weight);
    all
}

/// What a board alone shows, without the tables that it was read from, and its speed where that was measured: how modules share channels and
/// what they run at.
pub fn findings_of_board(board: &Board, speed: Option<&SpeedRecord>) -> Vec<Finding> {
    let inventory = Inventory { board: board.clone(), ..Inventory::default() };
    // It is asked what the settings were that it was measured with.
    let settings = speed.map(|speed| speed.settings.clone()).unwrap_or_default();
    let system = SystemFacts { settings, ..SystemFacts::default() };
    let known = Known { inventory: &inventory, system: &system, counters: &[], before: None, wall_ms: None, speed };
    let rules = [population::crowded_channel, balance::unbalanced, population::idle_channels, settings::below_rating];
    let mut all: Vec<Finding> = rules.iter().filter_map(|rule| rule(&known)).collect();
    all.extend(known.speed().map(speed_findings).unwrap_or_default());
    all.sort_by_key(|finding| finding.weight);
    all
}

fn finding(weight: Weight, what: Found) -> Option<Finding> {
    Some(Finding { weight, what })
}
