//! What to order in place of a module: a specification that a shop understands, from what the module tells of itself.

use revisum_engine::units::bytes_text;
use revisum_record::fitted::Module;

/// What to order, and what to see to, one sentence each; `kept` are the modules that stay in this mainboard.
pub fn purchase(bad: &Module, kept: &[&Module], mainboard: &str) -> Vec<String> {
    let mut all = vec![specification(bad)];
    let part = format!("{} {}", bad.maker, bad.part);
    if !bad.part.trim().is_empty() {
        all.push(format!("Preferably the same part number: {}.", part.trim()));
    }
    let twins = kept.iter().filter(|module| module.part == bad.part && !bad.part.is_empty()).count();
    all.push(match (kept.is_empty(), twins) {
        (true, _) => "It is the only module: size and speed are free within what the mainboard accepts.".to_owned(),
        (false, 0) => "The modules that stay are of another kind: a matched set for all slots is safer than one more kind.".to_owned(),
        (false, _) => "Combine it with modules of the same part number. If that one is no longer sold, buy a matched set for the channel.".to_owned(),
    });
    let slowest = kept.iter().filter_map(|module| module.rated_speed).min();
    if let Some(slowest) = slowest.filter(|slowest| bad.rated_speed.is_some_and(|rated| rated > *slowest)) {
        all.push(format!("All run as fast as the slowest: {slowest} is enough."));
    }
    all.push(
        "New rather than used. Do not mix registered with unbuffered, ECC with non-ECC, or different ranks in one channel."
            .to_owned(),
    );
    if !mainboard.is_empty() {
        all.push(format!("Check the memory support list (QVL) of the {}.", mainboard));
    }
    all
}

/// Type, size, ranks, speed, form and ECC in one line.
fn specification(module: &Module) -> String {
    let mut words: Vec<String> = vec!["one".to_owned()];
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
        words.push(format!("{ranks} rank{}", if ranks == 1 { "" } else { "s" }));
    }
    if !module.timings.is_empty() {
        words.push(format!("timings {} or lower", module.timings));
    }
    words.push(if module.byte_lanes > 8 { "with ECC" } else { "without ECC" }.to_owned());
    format!("{}.", words.join(", ").replacen("one, ", "one ", 1))
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
        let all = purchase(&bad, &[&kept], "Tarnwerk Holm");
        assert_eq!(all[0], "one DDR4, UDIMM, 8 GiB, 3200 MT/s, 1 rank, without ECC.");
        let text = all.join(" ");
        for words in
            ["part number: Haldry HD8", "with modules of the same", "slowest: 2666", "New rather", "Tarnwerk Holm"]
        {
            assert!(text.contains(words), "{words}: {text}");
        }
        let alone = purchase(&bad, &[], "").join(" ");
        assert!(alone.contains("only module"), "{alone}");
    }
}
