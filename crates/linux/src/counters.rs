//! Error counters of the memory controller, as the kernel's EDAC drivers show them
//! (`Documentation/admin-guide/RAS` of the kernel).

use std::path::Path;

use revisum_engine::host::{Counters, EccCount};

use crate::text_files::{entries, number, value};

/// Reads `/sys/devices/system/edac/mc`.
pub struct EdacCounters;

impl Counters for EdacCounters {
    fn read(&self) -> Vec<EccCount> {
        read(Path::new("/sys/devices/system/edac/mc"))
    }
}

fn read(folder: &Path) -> Vec<EccCount> {
    let controllers = entries(folder);
    controllers.iter().filter(|path| has_name(path, "mc")).flat_map(|controller| of_controller(controller)).collect()
}

fn has_name(path: &Path, beginning: &str) -> bool {
    path.file_name().is_some_and(|name| name.to_string_lossy().starts_with(beginning))
}

/// One count for each module where the driver tells them apart, and what it could not place; else one for all.
fn of_controller(controller: &Path) -> Vec<EccCount> {
    let Some(name) = controller.file_name().map(|name| name.to_string_lossy().into_owned()) else { return Vec::new() };
    let name = value(controller.join("mc_name")).map_or(name.clone(), |driver| format!("{name} {driver}"));
    let places = entries(controller).into_iter().filter(|path| has_name(path, "dimm") || has_name(path, "rank"));
    let mut counts: Vec<EccCount> = places.filter_map(|place| of_place(&place)).collect();
    let total = |file: &str| number(controller.join(file)).unwrap_or(0);
    let (corrected, uncorrected) = if counts.is_empty() {
        (total("ce_count"), total("ue_count"))
    } else {
        (total("ce_noinfo_count"), total("ue_noinfo_count"))
    };
    if counts.is_empty() || corrected + uncorrected > 0 {
        counts.push(EccCount { label: name, corrected, uncorrected });
    }
    counts
}

fn of_place(place: &Path) -> Option<EccCount> {
    let location = value(place.join("dimm_location")).unwrap_or_default();
    let label = value(place.join("dimm_label")).filter(|label| !label.is_empty()).unwrap_or(location);
    Some(EccCount {
        label: if label.is_empty() { place.file_name()?.to_string_lossy().into_owned() } else { label },
        corrected: number(place.join("dimm_ce_count"))?,
        uncorrected: number(place.join("dimm_ue_count"))?,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn write(folder: &Path, files: &[(&str, &str)]) {
        for (name, text) in files {
            let path = folder.join(name);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, text).unwrap();
        }
    }

    fn count(label: &str, corrected: u64, uncorrected: u64) -> EccCount {
        EccCount { label: label.into(), corrected, uncorrected }
    }

    #[test]
    fn counts_by_module_where_the_driver_tells() {
        let folder = tempfile::tempdir().unwrap();
        write(
            folder.path(),
            &[
                ("mc0/mc_name", "a_driver\n"),
                ("mc0/ce_count", "7\n"),
                ("mc0/ue_count", "0\n"),
                ("mc0/ce_noinfo_count", "2\n"),
                ("mc0/ue_noinfo_count", "0\n"),
                ("mc0/dimm0/dimm_label", "CPU_DIMM_A1\n"),
                ("mc0/dimm0/dimm_ce_count", "5\n"),
                ("mc0/dimm0/dimm_ue_count", "0\n"),
                ("mc0/dimm1/dimm_location", "channel 1 slot 0 \n"),
                ("mc0/dimm1/dimm_ce_count", "0\n"),
                ("mc0/dimm1/dimm_ue_count", "0\n"),
                ("mc1/ce_count", "3\n"),
                ("mc1/ue_count", "1\n"),
                ("power/ce_count", "9\n"),
            ],
        );
        let expected = [
            count("CPU_DIMM_A1", 5, 0),
            count("channel 1 slot 0", 0, 0),
            count("mc0 a_driver", 2, 0),
            count("mc1", 3, 1),
        ];
        assert_eq!(read(folder.path()), expected);
    }
}
