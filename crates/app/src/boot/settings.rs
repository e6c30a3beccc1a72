//! How this machine is to start: by the file on the drive, else by the one that came over the network.

use std::path::Path;

use revisum_drive::{DriveSettings, SETTINGS_FILE};
use revisum_engine::text::cleaned;
use revisum_linux::files;

/// Longest file; anybody may have written into it.
const LONGEST: u64 = 1 << 16;
/// Where the first files are: a start over the network lays settings there.
const FIRST_FILES: &str = "/";

/// As usual where nothing is said.
///
/// # Errors
/// Why what is said cannot be understood.
pub(super) fn settings(results: Option<&Path>) -> Result<DriveSettings, String> {
    let folders = results.into_iter().chain([Path::new(FIRST_FILES)]);
    let mut files = folders.map(|folder| folder.join(SETTINGS_FILE)).filter(|file| file.exists());
    files.next().map_or_else(|| Ok(DriveSettings::default()), |file| settings_in(&file))
}

fn settings_in(file: &Path) -> Result<DriveSettings, String> {
    let text = files::read_text(file, LONGEST).map_err(|error| error.to_string())?;
    DriveSettings::parse(&text).map_err(|error| cleaned(&error.to_string(), 200))
}
