//! Whether tables are those of a virtual machine: by what the standard has for that, else by the names that hosts give their guests.

use smbioslib::{
    SMBiosBaseboardInformation, SMBiosData, SMBiosInformation, SMBiosProcessorInformation, SMBiosSystemInformation,
};

use super::text;

/// What stands in names of guests and of no real computer, in small letters.
const NAMES: [&str; 22] = [
    "vmware",
    "virtualbox",
    "innotek",
    "qemu",
    "bochs",
    "kvm",
    "hvm domu",
    "xen",
    "virtual machine",
    "virtual platform",
    "parallels virtual",
    "parallels arm",
    "virtualization",
    "standard pc",
    "rhev",
    "ovirt",
    "openstack",
    "bhyve",
    "compute engine",
    "droplet",
    "cloud ecs",
    "vmm",
];

/// Whether it is one.
pub(super) fn is_one(data: &SMBiosData) -> bool {
    is_told(data) || names(data).iter().any(|name| is_guest_name(name))
}

/// DSP0134, type 0, second extension byte of the characteristics: bit 4.
fn is_told(data: &SMBiosData) -> bool {
    let table = data.first::<SMBiosInformation<'_>>();
    table
        .and_then(|table| table.characteristics_extension1())
        .is_some_and(|features| features.smbios_table_describes_avirtual_machine())
}

fn names(data: &SMBiosData) -> Vec<String> {
    let mut names = Vec::new();
    if let Some(table) = data.first::<SMBiosSystemInformation<'_>>() {
        names.extend([table.manufacturer(), table.product_name(), table.family()].map(text));
    }
    if let Some(table) = data.first::<SMBiosBaseboardInformation<'_>>() {
        names.extend([table.manufacturer(), table.product()].map(text));
    }
    if let Some(table) = data.first::<SMBiosProcessorInformation<'_>>() {
        names.extend([table.processor_manufacturer(), table.processor_version()].map(text));
    }
    names
}

fn is_guest_name(name: &str) -> bool {
    let name = name.to_lowercase();
    NAMES.iter().any(|part| {
        let whole = |c: Option<char>| c.is_none_or(|c| !c.is_alphanumeric());
        name.match_indices(part)
            .any(|(at, _)| whole(name[..at].chars().next_back()) && whole(name[at + part.len()..].chars().next()))
    })
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::is_guest_name;

    #[rstest]
    #[case("VMware, Inc.", true)]
    #[case("VMware Virtual Platform", true)]
    #[case("VirtualBox", true)]
    #[case("Standard PC (Q35 + ICH9, 2009)", true)]
    #[case("QEMU", true)]
    #[case("HVM domU", true)]
    #[case("Virtual Machine", true)]
    #[case("KVM", true)]
    #[case("Holm tower", false)]
    #[case("Xenon 5", false)]
    #[case("Virtuoso", false)]
    #[case("Standard tower", false)]
    fn names_of_guests(#[case] name: &str, #[case] expected: bool) {
        assert_eq!(is_guest_name(name), expected);
    }
}
