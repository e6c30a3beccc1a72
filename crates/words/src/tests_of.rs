//! What tests, depths and fault models are for.

use revisum_engine::catalog::{SeenMarch, Sees, TestSpec};
use revisum_engine::grade::Model;
use revisum_engine::news::{ADDRESS_BITS, OF_COPIES, OPENING_ROWS};
use revisum_engine::recipe::{Depth, Recipe};
use revisum_engine::units::{bytes_text, duration_text};

use crate::say;
use crate::texts::lookup;

/// Its name on the screen; that of a test of one's own is its name in recipes.
pub fn title(spec: &TestSpec) -> String {
    of(spec, None).map_or_else(|| spec.name.replace('-', " "), str::to_owned)
}

/// The name on the screen of a test of the catalogue, by its name in recipes and journals; others keep theirs.
pub fn title_of(name: &str) -> String {
    lookup(&format!("test-{name}"), None).map_or_else(|| name.replace('-', " "), str::to_owned)
}

/// What it is for.
pub fn purpose(spec: &TestSpec) -> String {
    match &spec.about {
        Some(about) if about.is_empty() => say::own_purpose().to_owned(),
        Some(about) => about.clone(),
        None => of(spec, Some("purpose")).unwrap_or_default().to_owned(),
    }
}

/// What it cannot say.
pub fn limits(spec: &TestSpec) -> &'static str {
    of(spec, Some("limits")).unwrap_or_else(say::own_limits)
}

fn of(spec: &TestSpec, text: Option<&str>) -> Option<&'static str> {
    spec.about.is_none().then(|| lookup(&format!("test-{}", spec.name), text)).flatten()
}

/// What the memory itself sees of it.
pub fn sees(spec: &TestSpec) -> String {
    match spec.sees() {
        Sees::FewWords => say::sees_address_lines().to_owned(),
        Sees::Copies => say::sees_copies().to_owned(),
        Sees::Rows => say::sees_disturbance().to_owned(),
        Sees::March(march) => sees_march(march),
    }
}

fn sees_march(march: SeenMarch) -> String {
    let mut words = vec![say::sees_every().to_owned()];
    if march.fills {
        words.push(say::sees_fills().to_owned());
    }
    if let Some(put_back) = march.put_back {
        let behind = put_back.behind_bytes.map(|bytes| say::sees_behind(bytes_text(bytes)));
        words.push(behind.unwrap_or_else(|| say::sees_streamed().to_owned()));
    }
    words.extend(march.block_bytes.map(|bytes| say::sees_several(bytes_text(bytes))));
    words.extend(march.put_back.map(|put_back| say::sees_order(bytes_text(put_back.ordered_from))));
    words.join(" ")
}

/// What a depth means, in a line.
pub fn depth(depth: Depth) -> &'static str {
    match depth {
        Depth::Triage => say::depth_triage_is(),
        Depth::Survey => say::depth_survey_is(),
        Depth::Overnight => say::depth_overnight_is(),
    }
}

/// The end of a run that is planned: `1 pass`, `for 1 h 00 min`, `until stopped`.
pub fn end(recipe: &Recipe) -> String {
    let mut ends = Vec::new();
    ends.extend(recipe.passes.map(say::end_passes));
    if recipe.soak {
        ends.push(say::end_soak().to_owned());
    }
    ends.extend(recipe.for_seconds.map(|seconds| say::end_for(duration_text(seconds as f64))));
    if ends.is_empty() { say::end_never().to_owned() } else { ends.join(say::end_at_most()) }
}

/// What a fault model means, in a few words.
pub fn model(model: Model) -> &'static str {
    match model {
        Model::StuckAt => say::model_saf(),
        Model::Transition => say::model_tf(),
        Model::WriteDisturb => say::model_wdf(),
        Model::ReadDestructive => say::model_rdf(),
        Model::DeceptiveReadDestructive => say::model_drdf(),
        Model::IncorrectRead => say::model_irf(),
        Model::StuckOpen => say::model_sof(),
        Model::AddressDecoder => say::model_af(),
        Model::CouplingState => say::model_cfst(),
        Model::CouplingInversion => say::model_cfin(),
        Model::CouplingIdempotent => say::model_cfid(),
        Model::CouplingDisturb => say::model_cfds(),
        Model::CouplingTransition => say::model_cftr(),
        Model::CouplingWriteDisturb => say::model_cfwd(),
        Model::CouplingReadDestructive => say::model_cfrd(),
        Model::CouplingDeceptiveRead => say::model_cfdrd(),
        Model::CouplingIncorrectRead => say::model_cfir(),
        Model::LinkedCoupling => say::model_lcf(),
    }
}

/// So many cores: `one core`, `6 cores`.
pub fn cores(cores: usize) -> String {
    if cores == 1 { say::cores_one().to_owned() } else { say::cores_some(cores) }
}

/// The step that a test is at: a march element in its notation, or what else it does.
pub fn element(notation: &str) -> String {
    match notation {
        ADDRESS_BITS => say::element_address_bits().to_owned(),
        OPENING_ROWS => say::element_opening_rows().to_owned(),
        march => march.strip_suffix(OF_COPIES).map_or_else(|| march.to_owned(), say::element_of_copies),
    }
}

#[cfg(test)]
mod tests {
    use revisum_engine::catalog::CATALOG;

    use super::*;
    use crate::{Language, entries, speaking};

    /// Each test of the catalogue has a title, a purpose and limits, and the file has no others.
    #[test]
    fn every_test_says_what_it_is_for_and_what_it_cannot_say() {
        let known = entries(Language::EN, Some("tests")).unwrap();
        let mut named: Vec<String> = CATALOG.iter().map(|test| format!("test-{}", test.name)).collect();
        named.sort();
        assert_eq!(known.keys().cloned().collect::<Vec<_>>(), named);
        for language in Language::all() {
            speaking(language, || {
                for test in CATALOG.iter() {
                    let (purpose, limits) = (purpose(test), limits(test));
                    assert!(purpose.len() > 40 && limits.len() > 20, "{language:?} {}: {purpose} {limits}", test.name);
                    assert!(!title(test).is_empty() && !sees(test).is_empty());
                }
            });
        }
    }
}
