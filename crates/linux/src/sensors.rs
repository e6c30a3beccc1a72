//! Temperatures, as the kernel's hwmon drivers show them (`Documentation/hwmon/sysfs-interface.rst`), and the clock of the cores
//! (`Documentation/admin-guide/pm/cpufreq.rst`).

use std::path::Path;

use revisum_engine::host::{CoreClock, Reading, Sensors};

use crate::text_files::{entries, number, value};

/// Reads `/sys/class/hwmon`.
pub struct HwmonSensors;

/// Drivers of sensors that sit on memory modules.
const ON_MODULES: [&str; 2] = ["jc42", "spd5118"];

impl Sensors for HwmonSensors {
    fn temperatures(&self) -> Vec<Reading> {
        let mut readings: Vec<Reading> = entries("/sys/class/hwmon").iter().flat_map(|chip| of_chip(chip)).collect();
        readings.sort_by_key(|reading| !ON_MODULES.iter().any(|driver| reading.sensor.starts_with(driver)));
        readings
    }

    fn core_clock(&self) -> Option<CoreClock> {
        clock_of(Path::new("/sys/devices/system/cpu"))
    }
}

/// From the slowest core to the fastest; those that are switched off tell nothing.
fn clock_of(cores: &Path) -> Option<CoreClock> {
    let is_core = |core: &Path| {
        let name = core.file_name().and_then(|name| name.to_str()).unwrap_or_default();
        name.strip_prefix("cpu").is_some_and(|number| !number.is_empty() && number.bytes().all(|c| c.is_ascii_digit()))
    };
    let khz = |core: &Path| number(core.join("cpufreq/scaling_cur_freq"));
    let clocks = entries(cores).into_iter().filter(|core| is_core(core)).filter_map(|core| khz(&core));
    let mhz = clocks.filter_map(|khz| u32::try_from(khz / 1000).ok()).filter(|mhz| *mhz > 0);
    let each = mhz.map(|mhz| CoreClock { lowest_mhz: mhz, highest_mhz: mhz });
    each.reduce(CoreClock::with)
}

fn of_chip(chip: &Path) -> Vec<Reading> {
    let driver = value(chip.join("name")).unwrap_or_default();
    (1..=16)
        .filter_map(|index| {
            let millidegrees = number(chip.join(format!("temp{index}_input")))?;
            let label = value(chip.join(format!("temp{index}_label"))).unwrap_or_default();
            Some(Reading {
                sensor: format!("{driver} {label}").trim().to_owned(),
                celsius: millidegrees as f64 / 1000.0,
            })
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::two_cores(&[("cpu0", "3600000"), ("cpu1", "4199998"), ("cpufreq", "1"), ("cpuidle", "2")], Some((3600, 4199)))]
    #[case::one_tells_nothing(&[("cpu0", "2400000"), ("cpu1", "")], Some((2400, 2400)))]
    #[case::none_tells(&[("cpu0", "none"), ("cpu10", "0")], None)]
    fn the_clock_of_the_cores(#[case] told: &[(&str, &str)], #[case] expected: Option<(u32, u32)>) {
        let folder = tempfile::tempdir().unwrap();
        for (core, khz) in told {
            let place = folder.path().join(core).join("cpufreq");
            std::fs::create_dir_all(&place).unwrap();
            std::fs::write(place.join("scaling_cur_freq"), format!("{khz}\n")).unwrap();
        }
        let expected = expected.map(|(lowest_mhz, highest_mhz)| CoreClock { lowest_mhz, highest_mhz });
        assert_eq!(clock_of(folder.path()), expected);
    }
}
