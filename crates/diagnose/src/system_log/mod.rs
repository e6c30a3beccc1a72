//! What the operating system itself logged about memory: corrected and uncorrected errors, machine checks, pages taken out of use, stop
//! screens, results of the system's own memory check. Entries are recognised by their source, level, words and error records.

mod event_xml;
mod export;
mod found;
mod lines;
mod place;
#[cfg(test)]
mod tests;

pub use event_xml::read_event;
pub use export::read_export_line;
pub use found::{SystemLog, SystemLogs};
pub use lines::LineReader;
pub use place::{Collected, merge, place};
