//! The headline and the sentences under it, in English.

use revisum_engine::units::{bytes_text, count_text, counted, duration_text};

use super::coverage::LeftOut;
use super::headline::{Headline, Place, Progress, Told};
use super::judgement::{Claim, Judgement};
use super::plan::EndedBy;
use super::word::Outcome;
use crate::warmth::Says;

/// Parts that are left out are named from this size on.
const LEAST_NAMED: u64 = 1 << 20;

impl EndedBy {
    /// How it ended, after a comma: `stopped by hand`.
    pub fn words(self) -> &'static str {
        match self {
            Self::Plan => "all passes done",
            Self::Time => "the time was up",
            Self::ErrorLimit => "stopped at the error limit",
            Self::Hand => "stopped by hand",
            Self::BrokeOff => "broken off by power loss, hang or restart",
        }
    }
}

impl Progress {
    /// `1 of 45 passes`, `49 min 02 s of 17 h 44 min`.
    pub fn words(self) -> String {
        match self {
            Self::FirstPass => "first pass not finished".to_owned(),
            Self::Passes(done) => passes(done),
            Self::PassesOf(done, planned) => format!("{done} of {planned} passes"),
            Self::TimeOf(ran, planned) => format!("{} of {}", duration_text(ran), duration_text(planned)),
        }
    }
}

impl Headline {
    /// In English, in one line.
    pub fn words(&self) -> String {
        let place = match &self.place {
            Some(Place::One(place)) => format!(" in {place}"),
            Some(Place::Several(places)) => format!(" in {places} places"),
            None => String::new(),
        };
        let part = match self.part {
            Some((tested, Some(whole))) => format!(" on {} of {}", bytes_text(tested), bytes_text(whole)),
            Some((tested, None)) => format!(" on {}, installed memory unknown", bytes_text(tested)),
            None => String::new(),
        };
        let ended = self.ended.map_or(String::new(), |ended| format!(", {}", ended.words()));
        let unproved = if self.unproved { ", no self-check ran" } else { "" };
        let told = match &self.told {
            Told::Void => "Self-check failed: result void".to_owned(),
            Told::Errors(count) => counted(*count, "memory error"),
            Told::Uncorrectable(count) => counted(*count, "uncorrectable hardware error"),
            Told::Miscalculated(count) => format!("Computed wrong: {}", counted(*count, "number")),
            Told::OnlyCorrected(count) => format!("Only corrected errors: {}", count_text(*count)),
            Told::Clean => "Clean".to_owned(),
            Told::CleanSoFar(progress) => format!("Clean so far: {}", progress.words()),
            Told::NoFullPass => "Nothing found, but no full pass".to_owned(),
            Told::NotWhole => "Record damaged: nothing found in the rest of it".to_owned(),
            Told::NothingTested => "Nothing found, but no memory stayed in the test".to_owned(),
        };
        let damaged = if self.damaged { ", record damaged" } else { "" };
        let again = match self.again {
            Some(true) => "Shown again: ",
            Some(false) => "Not shown again: ",
            None => "",
        };
        format!("{again}{told}{place}{part}{ended}{unproved}{damaged}")
    }
}

impl Judgement {
    /// The result in a few words.
    pub fn headline(&self) -> String {
        self.told().words()
    }

    /// The result, then the evidence, then the limits.
    pub fn sentence(&self) -> String {
        match self.outcome {
            Outcome::CheckingFailed => {
                "The tester failed its self-check: it did not notice an error that it had made. The result is void: run it again, and \
                 from another boot drive if this happens again."
                    .to_owned()
            }
            Outcome::ErrorsFound => joined([self.found(), self.how_it_ended(), self.not_whole()]),
            Outcome::NotWhole => joined([self.not_whole(), self.how_it_ended(), self.evidence()]),
            Outcome::CleanSoFar => "No errors so far.".to_owned(),
            Outcome::Clean | Outcome::CutShort | Outcome::Interrupted => {
                joined([self.how_it_ended(), self.evidence(), self.not_again(), self.claimed(), self.scope()])
            }
        }
    }

    /// What is damaged, and what that can hide.
    fn not_whole(&self) -> String {
        if !self.newer && !self.damage.any() {
            return String::new();
        }
        let newer = if self.newer { "A newer program wrote this record: not all of it is understood." } else { "" };
        let hides = match self.outcome {
            Outcome::ErrorsFound => "There may be more errors than are counted here.",
            _ => "The lost records may have held errors: run the test again.",
        };
        joined([self.damage.sentence().unwrap_or_default(), newer.to_owned(), hides.to_owned()])
    }

    fn found(&self) -> String {
        let counts = &self.counts;
        let mut parts = Vec::new();
        if counts.errors > 0 {
            parts.push("Even one memory error means a fault.".to_owned());
        }
        if counts.miscalculated > 0 {
            parts.push(format!(
                "{} came out wrong while computing under load.",
                counted(counts.miscalculated, "number")
            ));
        }
        if counts.uncorrected > 0 {
            parts.push(format!("The hardware reported {}.", counted(counts.uncorrected, "uncorrectable memory error")));
        }
        if counts.corrected > 0 {
            let rest = if counts.only_corrected() { " The test itself read no error." } else { "" };
            parts.push(format!("The hardware corrected {}.{rest}", counted(counts.corrected, "memory error")));
        }
        parts.extend(self.warmth.map(warmth_words));
        parts.join(" ")
    }

    fn how_it_ended(&self) -> String {
        let (pass, ratio, test) = &self.at;
        match self.ended_by {
            Some(EndedBy::BrokeOff) if test.is_empty() => {
                "The record breaks off before the first test began: power loss, hang or restart.".to_owned()
            }
            Some(EndedBy::BrokeOff) => format!(
                "The record breaks off in pass {pass} at {:.0} % of it, in {test}: power loss, hang or restart.",
                (ratio * 100.0).floor()
            ),
            // How any other run ended is in its headline.
            _ => String::new(),
        }
    }

    /// `No errors in 3 full passes (11 min 25 s of the 16 min 43 s that it ran).`
    fn evidence(&self) -> String {
        if self.done.passes == 0 {
            return format!("No errors in the {} that it ran.", duration_text(self.times.ran));
        }
        let (within, ran) = (duration_text(self.times.in_full_passes), duration_text(self.times.ran));
        let time = if self.times.ran - self.times.in_full_passes < 1.0 {
            ran
        } else {
            format!("{within} of the {ran} that it ran")
        };
        format!("No errors in {} ({time}).", passes(self.done.passes).replace("pass", "full pass"))
    }

    /// What may have been missing for a fault to show again.
    fn not_again(&self) -> String {
        let Some(of) = &self.repeats else { return String::new() };
        let first = match of.celsius {
            Some(celsius) => format!("{}, at {celsius:.0} °C", duration_text(of.first_error_seconds)),
            None => duration_text(of.first_error_seconds),
        };
        format!("The run {} showed it after {first} in the same tests.", of.run)
    }

    fn claimed(&self) -> String {
        match self.claim {
            Claim::None => String::new(),
            Claim::TooLittle => "That is too little to rule anything out.".to_owned(),
            Claim::RuledOut(worth) => format!(
                "Ruled out with 95 % confidence: random faults more often than once in {}, and faults that show in more than {:.0} % of \
                 passes. Rarer faults are not ruled out.",
                duration_text(worth.interval_s()),
                worth.percent_of_passes()
            ),
        }
    }

    /// What it covered, and what it did not.
    fn scope(&self) -> String {
        if self.done.bytes == 0 {
            return String::new();
        }
        let load = if self.computing { "test patterns and computing load" } else { "test patterns" };
        let asleep = match self.slept_s {
            slept if slept < 1.0 => String::new(),
            slept => format!(", asleep for {}", duration_text(slept)),
        };
        let warm = match self.celsius {
            Some((low, high)) if low.round() == high.round() => format!(" at {high:.0} °C"),
            Some((low, high)) => format!(" at {low:.0} to {high:.0} °C"),
            None => String::new(),
        };
        let mut missing: Vec<String> = self.coverage.left_out.iter().filter_map(named).collect();
        if !self.computing {
            missing.push("computing load".to_owned());
        }
        if self.planned.soak && self.celsius.is_none() {
            missing.push("warm memory: no sensor reported a temperature".to_owned());
        }
        if self.corrects_on_die {
            missing.push("single bits that DDR5 corrects on the die".to_owned());
        }
        let least = match &self.least {
            Some((test, seconds)) => format!(" Shortest test over all memory: {test}, {}.", duration_text(*seconds)),
            None => String::new(),
        };
        let covered = format!("Covered: {load}{warm}{asleep}, {}.{least}", self.coverage.words());
        if missing.is_empty() { covered } else { format!("{covered} Not covered: {}.", missing.join(", ")) }
    }

    /// How long it took, so that no two figures of a page differ: `16 min 43 s, 5 min 00 s of it paused`.
    pub fn took(&self) -> String {
        let part = |seconds: f64, words: &str| match seconds < 1.0 {
            true => String::new(),
            false => format!(", {} of it {words}", duration_text(seconds)),
        };
        let (elapsed, paused) = (duration_text(self.times.elapsed), part(self.times.paused, "paused"));
        format!("{elapsed}{paused}{}", part(self.times.stalled, "stopped from outside: nothing ran"))
    }
}

fn warmth_words(says: Says) -> String {
    match says {
        Says::OnlyFrom { celsius } => {
            format!("Errors came only at {celsius} °C and above: the fault shows when it is warm.")
        }
        Says::NoDifference { from, to } => {
            format!("From {from} to {to} °C warmth made no difference to the errors.")
        }
    }
}

/// Those that say something, one after the other.
fn joined<const N: usize>(sentences: [String; N]) -> String {
    sentences.into_iter().filter(|sentence| !sentence.is_empty()).collect::<Vec<_>>().join(" ")
}

/// `512 MiB kept by the firmware`.
fn named(part: &LeftOut) -> Option<String> {
    (part.bytes >= LEAST_NAMED).then(|| format!("{} {}", bytes_text(part.bytes), part.reason.words()))
}

fn passes(count: u32) -> String {
    format!("{} pass{}", count_text(u64::from(count)), if count == 1 { "" } else { "es" })
}
