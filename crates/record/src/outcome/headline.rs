//! The parts of a headline. Any reduction is among them, so that no language can leave it out.

use serde::{Deserialize, Serialize};

use super::judgement::Judgement;
use super::plan::EndedBy;
use super::word::Outcome;

/// What a headline is about.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Told {
    /// The self-check failed.
    Void,
    /// So many words read wrong.
    Errors(u64),
    /// So many errors that the hardware could not correct.
    Uncorrectable(u64),
    /// So many numbers were computed wrong.
    Miscalculated(u64),
    /// Nothing but so many errors that the hardware corrected.
    OnlyCorrected(u64),
    /// All that was planned was done.
    Clean,
    /// Nothing found as far as it came.
    CleanSoFar(Progress),
    /// It ended before any pass was full.
    NoFullPass,
    /// Nothing found in what can be read of a damaged record.
    NotWhole,
    /// No memory stayed in the test: all of it moved or was taken out.
    NothingTested,
}

/// How far a run came by its plan.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Progress {
    /// The first pass is not finished.
    FirstPass,
    /// So many passes; how many were planned is not known, or one was.
    Passes(u32),
    /// So many passes of so many.
    PassesOf(u32, u32),
    /// So many seconds of so many.
    TimeOf(f64, f64),
}

/// Where the hardware counted errors.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Place {
    /// In one place.
    One(String),
    /// In so many.
    Several(usize),
}

/// The headline, part by part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Headline {
    /// What it is about.
    pub told: Told,
    /// Where, for errors that the hardware counted.
    pub place: Option<Place>,
    /// Bytes that were tested, and of how many, where that is a reduction; of how many may be unknown.
    pub part: Option<(u64, Option<u64>)>,
    /// What ended it, where that was before its plan.
    pub ended: Option<EndedBy>,
    /// No self-check proved that errors are noticed.
    pub unproved: bool,
    /// The record is damaged: there may be more than is told.
    pub damaged: bool,
    /// Of a run that repeats another one: whether it showed errors again.
    pub again: Option<bool>,
}

impl Judgement {
    /// The headline, part by part.
    pub fn told(&self) -> Headline {
        let told = self.what();
        let early = self.ended_by.is_some() && !self.complete;
        let nothing = matches!(told, Told::Clean | Told::CleanSoFar(_));
        Headline {
            place: matches!(told, Told::OnlyCorrected(_) | Told::Uncorrectable(_)).then(|| self.place()).flatten(),
            part: if nothing { self.part() } else { None },
            ended: self.ended_by.filter(|_| early && !matches!(told, Told::Void | Told::NotWhole)),
            damaged: matches!(self.outcome, Outcome::ErrorsFound | Outcome::CheckingFailed)
                && (self.newer || self.damage.any()),
            again: self
                .repeats
                .as_ref()
                .map(|_| self.has_errors())
                .filter(|again| *again || (self.ended_by.is_some() && !matches!(told, Told::Void | Told::NotWhole))),
            unproved: nothing && self.ended_by.is_some() && self.counts.checks_caught == 0,
            told,
        }
    }

    fn what(&self) -> Told {
        let counts = &self.counts;
        match self.outcome {
            Outcome::CheckingFailed => Told::Void,
            Outcome::ErrorsFound if counts.errors > 0 => Told::Errors(counts.errors),
            Outcome::ErrorsFound if counts.uncorrected > 0 => Told::Uncorrectable(counts.uncorrected),
            Outcome::ErrorsFound if counts.miscalculated > 0 => Told::Miscalculated(counts.miscalculated),
            Outcome::ErrorsFound => Told::OnlyCorrected(counts.corrected),
            Outcome::NotWhole => Told::NotWhole,
            Outcome::Clean => Told::Clean,
            Outcome::CleanSoFar => Told::CleanSoFar(self.progress()),
            Outcome::CutShort | Outcome::Interrupted if self.done.passes == 0 => Told::NoFullPass,
            Outcome::CutShort | Outcome::Interrupted if self.done.bytes == 0 => Told::NothingTested,
            Outcome::CutShort | Outcome::Interrupted => Told::CleanSoFar(self.progress()),
        }
    }

    /// How far it came by its plan.
    pub fn progress(&self) -> Progress {
        match (self.planned.passes, self.planned.seconds) {
            _ if self.done.passes == 0 => Progress::FirstPass,
            (Some(planned), _) if planned > 1 => Progress::PassesOf(self.done.passes.min(planned), planned),
            (None, Some(seconds)) => Progress::TimeOf(self.times.ran.min(seconds), seconds),
            _ => Progress::Passes(self.done.passes),
        }
    }

    fn place(&self) -> Option<Place> {
        match (&self.place, self.places) {
            (Some(place), _) => Some(Place::One(place.clone())),
            (None, 0) => None,
            (None, places) => Some(Place::Several(places)),
        }
    }

    fn part(&self) -> Option<(u64, Option<u64>)> {
        let known = self.done.bytes > 0;
        (known && !self.coverage.is_whole()).then(|| (self.coverage.tested, self.coverage.whole()))
    }
}
