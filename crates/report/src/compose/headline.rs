//! The result of a run in the report's language, part by part as the record tells it.

use revisum_engine::units::{bytes_text, count_text, duration_text};
use revisum_record::outcome::{EndedBy, Headline, Place, Progress, Told};

use crate::keys::Key;
use revisum_words::Texts;

/// One line. In English it is the line that every screen shows.
pub(super) fn words(headline: &Headline, texts: &Texts) -> String {
    let told = told(&headline.told, texts);
    let told = match &headline.place {
        Some(Place::One(place)) => texts.put(Key::InPlace, &[("told", told.into()), ("place", place.as_str().into())]),
        Some(Place::Several(places)) => {
            texts.put(Key::InPlaces, &[("told", told.into()), ("places", places.to_string().into())])
        }
        None => told,
    };
    let told = match headline.part {
        Some((tested, Some(whole))) => {
            let values =
                [("told", told.into()), ("tested", bytes_text(tested).into()), ("whole", bytes_text(whole).into())];
            texts.put(Key::OnPart, &values)
        }
        Some((tested, None)) => {
            texts.put(Key::OnUnknown, &[("told", told.into()), ("tested", bytes_text(tested).into())])
        }
        None => told,
    };
    let told = match headline.ended {
        Some(ended) => texts.put(ended_key(ended), &[("told", told.into())]),
        None => told,
    };
    let told = if headline.unproved { texts.put(Key::Unproved, &[("told", told.into())]) } else { told };
    let told = if headline.damaged { texts.put(Key::RecordDamaged, &[("told", told.into())]) } else { told };
    match headline.again {
        Some(true) => texts.put(Key::ShownAgain, &[("told", told.into())]),
        Some(false) => texts.put(Key::NotShownAgain, &[("told", told.into())]),
        None => told,
    }
}

fn told(told: &Told, texts: &Texts) -> String {
    let counted =
        |key: Key, count: u64| texts.put(key, &[("count", count.into()), ("shown", count_text(count).into())]);
    match told {
        Told::Void => texts.say(Key::ToldVoid),
        Told::Errors(count) => counted(Key::ToldErrors, *count),
        Told::Uncorrectable(count) => counted(Key::ToldUncorrectable, *count),
        Told::Miscalculated(count) => counted(Key::ToldMiscalculated, *count),
        Told::OnlyCorrected(count) => counted(Key::ToldCorrected, *count),
        Told::Clean => texts.say(Key::ToldClean),
        Told::CleanSoFar(progress) => {
            texts.put(Key::ToldCleanSoFar, &[("progress", self::progress(*progress, texts).into())])
        }
        Told::NoFullPass => texts.say(Key::ToldNoFullPass),
        Told::NotWhole => texts.say(Key::ToldNotWhole),
        Told::NothingTested => texts.say(Key::ToldNothingTested),
    }
}

fn progress(progress: Progress, texts: &Texts) -> String {
    match progress {
        Progress::FirstPass => texts.say(Key::ProgressFirst),
        Progress::Passes(done) => {
            let done = u64::from(done);
            texts.put(Key::ProgressPasses, &[("count", done.into()), ("shown", count_text(done).into())])
        }
        Progress::PassesOf(done, planned) => {
            let values = [("done", done.to_string().into()), ("planned", planned.to_string().into())];
            texts.put(Key::ProgressPassesOf, &values)
        }
        Progress::TimeOf(done, planned) => {
            let values = [("done", duration_text(done).into()), ("planned", duration_text(planned).into())];
            texts.put(Key::ProgressTimeOf, &values)
        }
    }
}

fn ended_key(ended: EndedBy) -> Key {
    match ended {
        EndedBy::Plan => Key::EndedPlan,
        EndedBy::Time => Key::EndedTime,
        EndedBy::ErrorLimit => Key::EndedErrorLimit,
        EndedBy::Hand => Key::EndedHand,
        EndedBy::BrokeOff => Key::EndedBrokeOff,
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use revisum_words::Language;

    fn headline(told: Told) -> Headline {
        Headline { told, place: None, part: None, ended: None, unproved: false, damaged: false, again: None }
    }

    #[rstest]
    #[case(headline(Told::Void))]
    #[case(headline(Told::Errors(1)))]
    #[case(headline(Told::Errors(12_345)))]
    #[case(Headline { place: Some(Place::One("A1".into())), ..headline(Told::Uncorrectable(2)) })]
    #[case(Headline { place: Some(Place::Several(3)), ..headline(Told::OnlyCorrected(64)) })]
    #[case(headline(Told::Miscalculated(1)))]
    #[case(Headline { ended: Some(EndedBy::BrokeOff), ..headline(Told::Miscalculated(5)) })]
    #[case(headline(Told::Clean))]
    #[case(Headline { part: Some((256 << 20, Some(24 << 30))), ..headline(Told::Clean) })]
    #[case(Headline { part: Some((256 << 20, None)), unproved: true, ..headline(Told::CleanSoFar(Progress::FirstPass)) })]
    #[case(Headline { ended: Some(EndedBy::Hand), ..headline(Told::CleanSoFar(Progress::PassesOf(1, 45))) })]
    #[case(Headline { ended: Some(EndedBy::Time), ..headline(Told::CleanSoFar(Progress::TimeOf(2942.0, 63_840.0))) })]
    #[case(Headline { ended: Some(EndedBy::Plan), ..headline(Told::CleanSoFar(Progress::Passes(1))) })]
    #[case(Headline { ended: Some(EndedBy::ErrorLimit), ..headline(Told::CleanSoFar(Progress::Passes(3))) })]
    #[case(headline(Told::NoFullPass))]
    #[case(headline(Told::NothingTested))]
    #[case(headline(Told::NotWhole))]
    #[case(Headline { damaged: true, ended: Some(EndedBy::Hand), ..headline(Told::Errors(5)) })]
    #[case(Headline { again: Some(true), ..headline(Told::Errors(5)) })]
    #[case(Headline { again: Some(false), part: Some((64 << 20, Some(24 << 30))), ..headline(Told::Clean) })]
    fn in_english_the_report_says_what_every_screen_says(#[case] headline: Headline) {
        assert_eq!(words(&headline, Texts::of(Language::EN)), headline.words());
        let german = words(&headline, Texts::of(Language::tagged("de").unwrap()));
        assert!(german != headline.words() && !german.is_empty(), "{german}");
    }
}
