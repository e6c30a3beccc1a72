//! Temperatures, as the kernel's hwmon drivers show them (`Documentation/hwmon/sysfs-interface.rst`), and the clock of the cores
//! (`Documentation/admin-guide/pm/cpufreq.rst`).

use std::path::{Path, PathBuf};

use revisum_engine::host::{CoreClock, ModuleReading, Reading, Sensors};

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

    fn modules(&self) -> Vec<ModuleReading> {
        modules_of(Path::new("/sys/class/hwmon"))
    }

    fn core_clock(&self) -> Option<CoreClock> {
        clock_of(Path::new("/sys/devices/system/cpu"))
    }
}

/// Thermometers of modules by the place of their descriptions: DDR5 has both in one chip (JESD300-5), before that they share the low three bits
/// of their addresses, 0x18 and 0x50 (JEDEC 21-C, 4.1.4).
fn modules_of(chips: &Path) -> Vec<ModuleReading> {
    let one = |chip: &PathBuf| {
        let driver = value(chip.join("name"))?;
        ON_MODULES.contains(&driver.as_str()).then_some(())?;
        let device = std::fs::canonicalize(chip.join("device")).ok()?;
        let (bus, address) = device.file_name()?.to_str()?.split_once('-')?;
        let address = u16::from_str_radix(address, 16).ok()?;
        let millidegrees = number(chip.join("temp1_input"))?;
        let place = format!("{bus}-{:04x}", 0x50 | address & 7);
        Some(ModuleReading { place, celsius: millidegrees as f64 / 1000.0 })
    };
    let mut readings: Vec<ModuleReading> = entries(chips).iter().filter_map(one).collect();
    readings.sort_by(|a, b| a.place.cmp(&b.place));
    readings
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

    #[test]
    fn thermometers_stand_where_descriptions_do() {
        let folder = tempfile::tempdir().unwrap();
        let chips = folder.path().join("class");
        for (chip, driver, device, told) in [
            ("hwmon0", "coretemp", "0-0018", "50000"),
            ("hwmon1", "jc42", "1-001b", "41250"),
            ("hwmon2", "spd5118", "0-0051", "38500"),
            ("hwmon3", "spd5118", "0-0050", "none"),
        ] {
            let device = folder.path().join(device);
            std::fs::create_dir_all(&device).unwrap();
            std::fs::create_dir_all(chips.join(chip)).unwrap();
            std::os::unix::fs::symlink(&device, chips.join(chip).join("device")).unwrap();
            std::fs::write(chips.join(chip).join("name"), format!("{driver}\n")).unwrap();
            std::fs::write(chips.join(chip).join("temp1_input"), format!("{told}\n")).unwrap();
        }
        let told: Vec<(String, f64)> =
            modules_of(&chips).into_iter().map(|reading| (reading.place, reading.celsius)).collect();
        assert_eq!(told, [("0-0051".to_owned(), 38.5), ("1-0053".to_owned(), 41.25)]);
    }

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
