//! What to order in place of a module: a specification that a shop understands, from what the module tells of itself.

use revisum_engine::units::bytes_text;
use revisum_record::fitted::Module;

use crate::say;

/// What to order, and what to see to, one sentence each; `kept` are the modules that stay in this mainboard. Nothing where nothing goes.
pub fn order(gone: &[&Module], kept: &[&Module], mainboard: &str) -> Vec<String> {
    let Some(bad) = gone.first() else { return Vec::new() };
    let specifications: Vec<String> = gone.iter().map(|module| specification(module)).collect();
    let count = |one: &String| specifications.iter().filter(|other| *other == one).count() as u64;
    let line = |one: &String| match count(one) {
        1 => say::order_one(one),
        several => say::order_several(several, one),
    };
    let mut all: Vec<String> = specifications.iter().map(line).collect();
    all.dedup();
    let part = format!("{} {}", bad.maker, bad.part);
    if !bad.part.trim().is_empty() {
        all.push(say::order_part(part.trim()));
    }
    let twins = kept.iter().filter(|module| module.part == bad.part && !bad.part.is_empty()).count();
    all.push(match (kept.is_empty(), twins) {
        (true, _) => say::order_only().to_owned(),
        (false, _) if bad.part.is_empty() => say::order_labels().to_owned(),
        (false, 0) => say::order_others().to_owned(),
        (false, _) => say::order_twins().to_owned(),
    });
    let slowest = kept.iter().filter_map(|module| module.rated_speed).min();
    if let Some(slowest) = slowest.filter(|slowest| bad.rated_speed.is_some_and(|rated| rated > *slowest)) {
        all.push(say::order_slowest(slowest.to_string()));
    }
    all.push(say::order_new().to_owned());
    if !mainboard.is_empty() {
        all.push(say::order_list(mainboard));
    }
    all
}

/// Type, size, ranks, speed, form and ECC in one line.
fn specification(module: &Module) -> String {
    let mut words: Vec<String> = Vec::new();
    if !module.generation.is_empty() {
        words.push(module.generation.clone());
    }
    if !module.form.is_empty() {
        words.push(module.form.clone());
    }
    words.push(bytes_text(module.bytes));
    if let Some(speed) = module.base_speed.or(module.rated_speed).or(module.speed) {
        words.push(format!("{speed} MT/s"));
    }
    if let Some(ranks) = module.ranks {
        words.push(say::order_ranks(ranks));
    }
    if !module.timings.is_empty() {
        words.push(say::order_timings(&module.timings));
    }
    // Of a module that was declared nothing tells it.
    if !module.generation.is_empty() || !module.part.is_empty() {
        words.push(if module.byte_lanes > 8 { say::order_ecc() } else { say::order_no_ecc() }.to_owned());
    }
    words.join(", ")
}

#[cfg(test)]
mod tests {
    use super::*;
    use revisum_engine::units::GIB;

    fn module(serial: &str, part: &str, speed: u32) -> Module {
        Module {
            serial: serial.into(),
            part: part.into(),
            maker: "Haldry".into(),
            generation: "DDR4".into(),
            form: "UDIMM".into(),
            bytes: 8 * GIB,
            rated_speed: Some(speed),
            ranks: Some(1),
            byte_lanes: 8,
            ..Module::default()
        }
    }

    #[test]
    fn a_shop_understands_it() {
        let (bad, kept) = (module("1", "HD8", 3200), module("2", "HD8", 2666));
        let all = order(&[&bad], &[&kept], "Tarnwerk Holm");
        assert_eq!(all[0], "one module: DDR4, UDIMM, 8 GiB, 3200 MT/s, 1 rank, without ECC.");
        let text = all.join(" ");
        for words in
            ["part number: Haldry HD8", "with modules of the same", "slowest: 2666", "New rather", "Tarnwerk Holm"]
        {
            assert!(text.contains(words), "{words}: {text}");
        }
        let two = order(&[&bad, &module("3", "HD8", 3200)], &[&kept], "");
        assert_eq!(two[0], "2 modules: DDR4, UDIMM, 8 GiB, 3200 MT/s, 1 rank, without ECC.");
        assert_eq!(order(&[], &[&kept], ""), [""; 0]);
        let declared = Module { bytes: 8 * GIB, byte_lanes: 8, ..Module::default() };
        let unknown = order(&[&declared], &[&kept], "").join(" ");
        assert!(unknown.starts_with("one module: 8 GiB.") && unknown.contains("compare the labels"), "{unknown}");
        let alone = order(&[&bad], &[], "").join(" ");
        assert!(alone.contains("only module"), "{alone}");
    }
}
