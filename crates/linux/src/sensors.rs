//! Temperatures, as the kernel's hwmon drivers show them (`Documentation/hwmon/sysfs-interface.rst`).

use std::path::Path;

use revisum_engine::host::{Reading, Sensors};

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
