//! The only place that chooses between real and simulated hardware.

use std::path::Path;

use anyhow::{Context, Result};
use revisum_core::ports::Machine;
use revisum_sim::{MachineSpec, SimOptions, shipped, shipped_names, simulated_machine};

use crate::exit::WrongUse;

/// Longest machine file that is read.
const LONGEST_FILE: u64 = 1 << 20;

/// The machine that this program runs on.
pub fn real() -> Machine {
    revisum_linux::this_machine()
}

/// A simulated machine by name, or from a machine file.
///
/// # Errors
/// When there is neither, or the file is wrong.
pub fn simulated(name_or_file: &str, options: SimOptions) -> Result<Machine> {
    if let Some(spec) = shipped(name_or_file) {
        return Ok(simulated_machine(spec?, options));
    }
    let path = Path::new(name_or_file);
    if !path.is_file() {
        let names: Vec<&str> = shipped_names().collect();
        return Err(WrongUse(format!(
            "there is no simulated machine and no machine file named {name_or_file:?}. The machines are: {}",
            names.join(", ")
        ))
        .into());
    }
    let size = std::fs::metadata(path).map_or(0, |data| data.len());
    if size > LONGEST_FILE {
        return Err(WrongUse(format!("{name_or_file} is larger than any machine file")).into());
    }
    let text = std::fs::read_to_string(path).with_context(|| format!("{name_or_file} cannot be read"))?;
    let spec = MachineSpec::parse(&text).map_err(|error| WrongUse(format!("{name_or_file}: {error}")))?;
    Ok(simulated_machine(spec, options))
}
