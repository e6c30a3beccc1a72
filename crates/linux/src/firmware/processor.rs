//! Processor, microcode and caches, and whether the processor encrypts memory.

use std::fs::File;
use std::os::unix::fs::FileExt;
use std::path::Path;

use raw_cpuid::native_cpuid::cpuid_count;
use revisum_diagnose::board::{SystemFact, Told, fact_names as names};
use revisum_engine::speed::Cache;
use revisum_engine::text::cleaned;
use revisum_engine::units::{KIB, MIB, bytes_text};

use crate::text_files::{entries, number, value};

const CACHES: &str = "/sys/devices/system/cpu/cpu0/cache";

/// A fact with the one that tells it.
pub(super) fn fact(name: &str, source: &str, value: String) -> Option<SystemFact> {
    let told = Told { source: source.to_owned(), value };
    (!told.value.is_empty()).then(|| SystemFact { name: name.to_owned(), told })
}

/// What the processor and the kernel tell.
pub(super) fn facts() -> Vec<SystemFact> {
    let cpuid = raw_cpuid::CpuId::new();
    let brand = cpuid.get_processor_brand_string().map(|brand| cleaned(brand.as_str(), 64)).unwrap_or_default();
    let stepping = cpuid
        .get_feature_info()
        .map(|info| format!("family {}, model {}, stepping {}", info.family_id(), info.model_id(), info.stepping_id()));
    let mut facts: Vec<SystemFact> = [
        fact(names::PROCESSOR, "CPUID", brand),
        fact("processor kind", "CPUID", stepping.unwrap_or_default()),
        fact("microcode", "/proc/cpuinfo", microcode().unwrap_or_default()),
    ]
    .into_iter()
    .flatten()
    .collect();
    facts.extend(entries(CACHES).into_iter().filter_map(|index| {
        let (level, kind) = (value(index.join("level"))?, value(index.join("type"))?);
        let name = match kind.as_str() {
            "Unified" => format!("level {level} cache, core 0"),
            kind => format!("level {level} {}, core 0", kind.to_lowercase()),
        };
        fact(&name, CACHES, bytes_text(cache_size(&index)?))
    }));
    facts
}

fn microcode() -> Option<String> {
    let text = std::fs::read_to_string("/proc/cpuinfo").ok()?;
    let line = text.lines().find_map(|line| line.strip_prefix("microcode"))?;
    Some(cleaned(line.trim().trim_start_matches(':'), 40))
}

fn cache_size(index: &Path) -> Option<u64> {
    let text = value(index.join("size"))?;
    let (digits, unit) = text.split_at(text.find(|c: char| !c.is_ascii_digit()).unwrap_or(text.len()));
    let factor = match unit {
        "K" => KIB,
        "M" => MIB,
        _ => 1,
    };
    Some(digits.parse::<u64>().ok()? * factor)
}

/// Caches for data of the first core, the smallest first.
pub(crate) fn caches() -> Vec<Cache> {
    let one = |index: &std::path::PathBuf| {
        let kind = value(index.join("type"))?;
        let bytes = cache_size(index)?;
        let shared_by = cores_in(&value(index.join("shared_cpu_list"))?);
        (kind != "Instruction").then_some(Cache { level: number(index.join("level"))? as u8, bytes, shared_by })
    };
    let mut caches: Vec<Cache> = entries(CACHES).iter().filter_map(one).collect();
    caches.sort_by_key(|cache| cache.level);
    caches
}

/// Cores in a list such as `0-3,8`; at least one.
fn cores_in(list: &str) -> usize {
    let count = |part: &str| {
        let (first, last) = part.split_once('-').unwrap_or((part, part));
        let (first, last): (usize, usize) = (first.trim().parse().ok()?, last.trim().parse().ok()?);
        Some(last.checked_sub(first)? + 1)
    };
    list.split(',').filter_map(count).sum::<usize>().max(1)
}

/// Parts of memory that different cores are nearest to, by the kernel's list of them in this file; zero when unknown.
pub(super) fn nodes(online: &Path) -> usize {
    value(online).map_or(0, |list| cores_in(&list))
}

/// The largest cache in bytes; zero when unknown.
pub(super) fn cache_bytes() -> u64 {
    entries(CACHES).iter().filter_map(|index| cache_size(index)).max().unwrap_or(0)
}

/// Whether this is a virtual machine.
pub(super) fn is_guest() -> bool {
    raw_cpuid::CpuId::new().get_feature_info().is_some_and(|features| features.has_hypervisor())
}

/// By the processor's own switches (AMD: SYSCFG bit 23; Intel: IA32_TME_ACTIVATE bit 1), where they can be read. A processor
/// that cannot encrypt does not.
pub(super) fn memory_is_encrypted() -> Option<bool> {
    const SYSCFG: u64 = 0xc001_0010;
    const TME_ACTIVATE: u64 = 0x982;
    const TME_FEATURE: u32 = 1 << 13;
    let cpuid = raw_cpuid::CpuId::new();
    if is_guest() {
        // The host decides, and a guest is not told.
        return None;
    }
    let vendor = cpuid.get_vendor_info()?;
    match vendor.as_str() {
        "AuthenticAMD" | "HygonGenuine" => {
            let able = cpuid.get_memory_encryption_info().is_some_and(|info| info.has_sme());
            if able { Some(msr(SYSCFG)? >> 23 & 1 == 1) } else { Some(false) }
        }
        "GenuineIntel" => {
            let able = cpuid_count(7, 0).ecx & TME_FEATURE != 0;
            if able { Some(msr(TME_ACTIVATE)? >> 1 & 1 == 1) } else { Some(false) }
        }
        _ => None,
    }
}

/// A model-specific register of the first core, where the kernel shows them.
fn msr(register: u64) -> Option<u64> {
    let mut bytes = [0; 8];
    File::open("/dev/cpu/0/msr").ok()?.read_exact_at(&mut bytes, register).ok()?;
    Some(u64::from_le_bytes(bytes))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("0", 1)]
    #[case("0-3", 4)]
    #[case("0-3,8-9", 6)]
    #[case("0,4", 2)]
    #[case("", 1)]
    #[case("9-2", 1)]
    fn lists_of_cores(#[case] list: &str, #[case] expected: usize) {
        assert_eq!(cores_in(list), expected);
    }

    #[rstest]
    #[case::one("0\n", 1)]
    #[case::two("0-1\n", 2)]
    fn nodes_of_a_kernel(#[case] text: &str, #[case] expected: usize) {
        let file = tempfile::NamedTempFile::new().unwrap();
        std::fs::write(file.path(), text).unwrap();
        assert_eq!((nodes(file.path()), nodes(Path::new("/nowhere"))), (expected, 0));
    }
}
