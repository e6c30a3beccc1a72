//! Moving modules.

use revisum_record::fitted::Module;
use revisum_record::journal::Intake;

/// Hands that can move modules. Only simulated machines have them; on a real one the technician has.
pub trait Hands: Send + Sync {
    /// Puts modules into slots, `(slot, serial number)`, everything else out.
    ///
    /// # Errors
    /// A sentence that says why the machine cannot be fitted so.
    fn refit(&self, placement: &[(String, String)]) -> Result<(), String>;
    /// Takes modules out and puts them back where they are.
    ///
    /// # Errors
    /// A sentence that says why that cannot be done.
    fn reseat(&self, modules: &[String]) -> Result<(), String>;
    /// Whether the machine starts as it is fitted.
    ///
    /// # Errors
    /// What it does instead, in a sentence.
    fn starts(&self) -> Result<(), String>;
    /// The settings that its firmware offers.
    fn settings(&self) -> Vec<String>;
    /// Puts settings in force.
    ///
    /// # Errors
    /// When the firmware does not offer them.
    fn set(&self, settings: &str) -> Result<(), String>;
    /// Puts a module of another machine on the table.
    ///
    /// # Errors
    /// When there is none with this serial number.
    fn lend(&self, serial: &str) -> Result<(), String>;
    /// Puts a new module of the same kind as this one on the table.
    ///
    /// # Errors
    /// When there is none.
    fn deliver(&self, like: &str) -> Result<Module, String>;
    /// Modules on the table: known, but in no slot.
    fn on_the_table(&self) -> Vec<Module>;
    /// Names that the technician gave to modules: `(serial number, mark)`.
    fn marks(&self) -> Vec<(String, String)>;
    /// What the owner says.
    fn complaint(&self) -> String;
    /// What was written down when the machine came in, where something was.
    fn intake(&self) -> Option<Intake>;
}
