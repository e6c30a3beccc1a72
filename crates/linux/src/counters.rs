//! Error counters of the memory controller, as the kernel's EDAC drivers show them
//! (`Documentation/admin-guide/RAS` of the kernel).

use revisum_core::ports::{Counters, EccCount};

use crate::text_files::{entries, number, value};

/// Reads `/sys/devices/system/edac/mc`.
pub struct EdacCounters;

impl Counters for EdacCounters {
    fn read(&self) -> Vec<EccCount> {
        entries("/sys/devices/system/edac/mc")
            .into_iter()
            .filter_map(|controller| {
                let name = controller.file_name()?.to_str()?.to_owned();
                Some(EccCount {
                    label: value(controller.join("mc_name")).map_or(name.clone(), |driver| format!("{name} {driver}")),
                    corrected: number(controller.join("ce_count"))?,
                    uncorrected: number(controller.join("ue_count"))?,
                })
            })
            .collect()
    }
}
