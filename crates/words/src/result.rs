//! What a run came to: in a line, and in the sentences under it.

use revisum_engine::units::{bytes_text, duration_text};
use revisum_record::outcome::{Claim, Coverage, EndedBy, Headline, Judgement, LeftOut, Outcome, Place, Progress, Told};
use revisum_record::warmth::Says;

use crate::said::Said;
use crate::{damage, say, tests_of};

/// Parts that are left out are named from this size on.
const LEAST_NAMED: u64 = 1 << 20;

/// `1 of 45 passes`, `49 min 02 s of 17 h 44 min`.
pub fn progress(progress: Progress) -> String {
    match progress {
        Progress::FirstPass => say::progress_first().to_owned(),
        Progress::Passes(done) => say::progress_passes(done),
        Progress::PassesOf(done, planned) => say::progress_of(done, planned),
        Progress::TimeOf(ran, planned) => say::progress_time(duration_text(ran), duration_text(planned)),
    }
}

/// A headline in one line.
pub fn headline_of(headline: &Headline) -> String {
    let place = match &headline.place {
        Some(Place::One(place)) => say::headline_in(place),
        Some(Place::Several(places)) => say::headline_places(*places),
        None => String::new(),
    };
    let part = match headline.part {
        Some((tested, Some(whole))) => say::headline_on(bytes_text(tested), bytes_text(whole)),
        Some((tested, None)) => say::headline_on_unknown(bytes_text(tested)),
        None => String::new(),
    };
    let ended = headline.ended.map_or(String::new(), |ended| say::headline_ended(ended.said()));
    let unproved = if headline.unproved { say::headline_unproved() } else { "" };
    let told = match &headline.told {
        Told::Void => say::told_void().to_owned(),
        Told::Errors(count) => say::told_errors(*count),
        Told::Uncorrectable(count) => say::told_uncorrectable(*count),
        Told::Miscalculated(count) => say::told_miscalculated(*count),
        Told::OnlyCorrected(count) => say::told_corrected(*count),
        Told::Clean => say::told_clean().to_owned(),
        Told::CleanSoFar(far) => say::told_so_far(progress(*far)),
        Told::NoFullPass => say::told_no_full_pass().to_owned(),
        Told::NotWhole => say::told_not_whole().to_owned(),
        Told::NothingTested => say::told_nothing_tested().to_owned(),
    };
    let damaged = if headline.damaged { say::headline_damaged() } else { "" };
    let again = match headline.again {
        Some(true) => say::headline_again(),
        Some(false) => say::headline_not_again(),
        None => "",
    };
    format!("{again}{told}{place}{part}{ended}{unproved}{damaged}")
}

/// Said of a run that nothing ended yet.
pub fn running() -> &'static str {
    say::standing_running()
}

/// The result in a few words.
pub fn headline(judgement: &Judgement) -> String {
    headline_of(&judgement.told())
}

/// The result, then the evidence, then the limits.
pub fn sentence(judgement: &Judgement) -> String {
    match judgement.outcome {
        Outcome::CheckingFailed => say::result_void().to_owned(),
        Outcome::ErrorsFound => joined([found(judgement), how_it_ended(judgement), not_whole(judgement)]),
        Outcome::NotWhole => joined([not_whole(judgement), how_it_ended(judgement), evidence(judgement)]),
        Outcome::CleanSoFar => say::result_none_so_far().to_owned(),
        Outcome::Clean | Outcome::CutShort | Outcome::Interrupted => joined([
            how_it_ended(judgement),
            evidence(judgement),
            not_again(judgement),
            claimed(judgement),
            scope(judgement),
        ]),
    }
}

/// What is damaged, and what that can hide.
fn not_whole(judgement: &Judgement) -> String {
    if !judgement.newer && !judgement.damage.any() {
        return String::new();
    }
    let newer = if judgement.newer { say::result_newer() } else { "" };
    let hides = match judgement.outcome {
        Outcome::ErrorsFound => say::result_may_be_more(),
        _ => say::result_may_have_held(),
    };
    joined([damage::sentence(&judgement.damage).unwrap_or_default(), newer.to_owned(), hides.to_owned()])
}

fn found(judgement: &Judgement) -> String {
    let counts = &judgement.counts;
    let mut parts = Vec::new();
    if counts.errors > 0 {
        parts.push(say::result_even_one().to_owned());
    }
    if counts.miscalculated > 0 {
        parts.push(say::result_computed(counts.miscalculated));
    }
    if counts.uncorrected > 0 {
        parts.push(say::result_reported(counts.uncorrected));
    }
    if counts.corrected > 0 {
        let rest = if counts.only_corrected() { say::result_read_none() } else { "" };
        parts.push(say::result_corrected(counts.corrected) + rest);
    }
    if judgement.miscounted > 0 {
        parts.push(say::result_miscounted().to_owned());
    }
    parts.extend(judgement.warmth.map(warmth));
    parts.join(" ")
}

fn how_it_ended(judgement: &Judgement) -> String {
    let (pass, ratio, test) = &judgement.at;
    match judgement.ended_by {
        Some(EndedBy::BrokeOff) if test.is_empty() => say::result_broke_first().to_owned(),
        Some(EndedBy::BrokeOff) => say::result_broke_in(*pass, format!("{:.0}", (ratio * 100.0).floor()), test),
        // How any other run ended is in its headline.
        _ => String::new(),
    }
}

/// `No errors in 3 full passes (11 min 25 s of the 16 min 43 s that it ran).`
fn evidence(judgement: &Judgement) -> String {
    let times = &judgement.times;
    if judgement.done.passes == 0 {
        return say::result_in_time(duration_text(times.ran));
    }
    let (within, ran) = (duration_text(times.in_full_passes), duration_text(times.ran));
    let time = if times.ran - times.in_full_passes < 1.0 { ran } else { say::result_within(within, ran) };
    say::result_in_passes(judgement.done.passes, time)
}

/// What may have been missing for a fault to show again.
fn not_again(judgement: &Judgement) -> String {
    let Some(of) = &judgement.repeats else { return String::new() };
    let time = duration_text(of.first_error_seconds);
    let first = match of.celsius {
        Some(celsius) => say::result_first_at(time, format!("{celsius:.0}")),
        None => time,
    };
    say::result_repeats(&of.run, first)
}

fn claimed(judgement: &Judgement) -> String {
    match judgement.claim {
        Claim::None => String::new(),
        Claim::TooLittle => say::result_too_little().to_owned(),
        Claim::RuledOut(worth) => {
            say::result_ruled_out(duration_text(worth.interval_s()), format!("{:.0}", worth.percent_of_passes()))
        }
    }
}

/// What it covered, and what it did not.
fn scope(judgement: &Judgement) -> String {
    if judgement.done.bytes == 0 {
        return String::new();
    }
    let load = if judgement.computing { say::result_patterns_and_load() } else { say::result_patterns() };
    let asleep = match judgement.slept_s {
        slept if slept < 1.0 => String::new(),
        slept => say::result_asleep(duration_text(slept)),
    };
    let warm = match judgement.celsius {
        Some((low, high)) if low.round() == high.round() => say::result_at_one(format!("{high:.0}")),
        Some((low, high)) => say::result_at_range(format!("{low:.0}"), format!("{high:.0}")),
        None => String::new(),
    };
    let mut missing: Vec<String> = judgement.coverage.left_out.iter().filter_map(named).collect();
    if !judgement.computing {
        missing.push(say::result_not_computing().to_owned());
    }
    if judgement.planned.soak && judgement.celsius.is_none() {
        missing.push(say::result_not_warm().to_owned());
    }
    if judgement.corrects_on_die {
        missing.push(say::result_not_on_die().to_owned());
    }
    let least = match &judgement.least {
        Some((test, seconds)) => say::result_shortest(tests_of::title_of(test), duration_text(*seconds)),
        None => String::new(),
    };
    let covered = say::result_covered(load, warm, asleep, coverage(&judgement.coverage), least);
    if missing.is_empty() { covered } else { say::result_not_covered(covered, missing.join(", ")) }
}

/// How long a run took, so that no two figures of a page differ: `16 min 43 s, 5 min 00 s of it paused`.
pub fn took(judgement: &Judgement) -> String {
    let times = &judgement.times;
    let part = |seconds: f64, words: fn(String) -> String| match seconds < 1.0 {
        true => String::new(),
        false => words(duration_text(seconds)),
    };
    let paused = part(times.paused, say::result_of_it_paused);
    let stalled = part(times.stalled, say::result_of_it_stalled);
    format!("{}{paused}{stalled}", duration_text(times.elapsed))
}

/// `15.8 of 16 GiB tested (98.7 %)`.
pub fn coverage(coverage: &Coverage) -> String {
    let tested = bytes_text(coverage.tested);
    match coverage.whole() {
        Some(whole) => say::coverage_of(tested, bytes_text(whole), percent(coverage)),
        None => say::coverage_unknown(tested),
    }
}

/// The tested share as a percentage, rounded down: `98.7 %`, `less than 0.1 %`.
pub fn percent(coverage: &Coverage) -> String {
    let tenths = (coverage.share().unwrap_or(0.0) * 1000.0).floor();
    match () {
        () if tenths >= 1000.0 => "100 %".to_owned(),
        () if tenths == 0.0 && coverage.tested > 0 => say::coverage_less().to_owned(),
        () => format!("{:.1} %", tenths / 10.0),
    }
}

/// Whether warmth makes a difference to the errors.
pub fn warmth(says: Says) -> String {
    match says {
        Says::OnlyFrom { celsius } => say::result_only_warm(celsius.to_string()),
        Says::NoDifference { from, to } => say::result_warmth_none(from.to_string(), to.to_string()),
    }
}

/// Those that say something, one after the other.
fn joined<const N: usize>(sentences: [String; N]) -> String {
    sentences.into_iter().filter(|sentence| !sentence.is_empty()).collect::<Vec<_>>().join(" ")
}

/// `512 MiB kept by the firmware`.
fn named(part: &LeftOut) -> Option<String> {
    (part.bytes >= LEAST_NAMED).then(|| say::left_out(bytes_text(part.bytes), part.reason.said()))
}
