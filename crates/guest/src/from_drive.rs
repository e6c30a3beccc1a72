//! Kinds of computers that boot from a drive.

use revisum_drive::DriveSettings;

/// How it starts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Start {
    /// Traditional firmware.
    Bios,
    /// UEFI.
    Uefi,
    /// UEFI of 32 bits, as some tablets and early computers have it.
    Uefi32,
    /// UEFI with Secure Boot switched on.
    SecureBoot,
}

/// Chipset of the virtual mainboard.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Chipset {
    /// The older one.
    Pc,
    /// The newer one.
    Q35,
}

/// A computer to be booted.
#[derive(Clone, Debug)]
pub struct FromDrive {
    /// How it starts.
    pub start: Start,
    /// Its mainboard.
    pub chipset: Chipset,
    /// Memory in MiB.
    pub memory_mib: u64,
    /// Entry of the boot menu; nothing for what it boots by itself.
    pub entry: Option<&'static str>,
    /// Firmware tables, one structure each.
    pub structures: Vec<Vec<u8>>,
    /// A recipe that lies on the drive.
    pub recipe: Option<&'static str>,
    /// What is wrong with the drive.
    pub spoiled: Option<Spoiled>,
    /// What it boots from.
    pub medium: Medium,
    /// Cores.
    pub cores: u8,
    /// What shows its screen.
    pub display: Display,
    /// What its firmware says of the addresses of each slot counts.
    pub trust_ranges: bool,
    /// How the drive starts.
    pub settings: DriveSettings,
    /// Its wired network; the computer that it is emulated on is `10.0.2.2` there.
    pub network: Option<Network>,
    /// How many of its seconds pass in one of ours; each of them gets as much less done.
    pub haste: u32,
}

impl Default for FromDrive {
    /// A computer of 1 GiB with old firmware that boots from USB.
    fn default() -> Self {
        Self {
            start: Start::Bios,
            chipset: Chipset::Pc,
            memory_mib: 1024,
            entry: None,
            structures: Vec::new(),
            recipe: None,
            spoiled: None,
            medium: Medium::Usb,
            cores: 2,
            display: Display::Usual,
            trust_ranges: false,
            settings: DriveSettings::default(),
            network: None,
            haste: 1,
        }
    }
}

/// A wired network.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Network {
    /// A card that computers have had for decades.
    Usual,
    /// That of virtual computers.
    Virtual,
}

/// What a computer boots from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Medium {
    /// The drive, plugged in over USB.
    Usb,
    /// The drive's image as a disk that is built in.
    Disk,
    /// The optical disc, which lies beside the image.
    Disc,
    /// The network, from files in a folder `network` beside the image; no drive is plugged in.
    Network,
}

/// What shows its screen.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Display {
    /// One of 1024 × 768 points and more.
    Usual,
    /// None: there is only the serial line.
    None,
}

/// What can be wrong with the drive that it boots from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Spoiled {
    /// Nothing more fits beside the results.
    Full,
    /// It is write-protected.
    WriteProtected,
    /// The two tables of its file system for results differ.
    TwoTables,
}
