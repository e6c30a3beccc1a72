//! What measured speed comes to.

use revisum_diagnose::speed::{Against, NotJudged, SpeedSign, is_about_half, speed_verdict};
use revisum_engine::units::rate_text;
use revisum_record::speed::SpeedRecord;

use crate::board::plain;
use crate::said::Said;
use crate::say;

/// What a measurement shows to be off.
pub fn sign(sign: &SpeedSign) -> String {
    match sign {
        SpeedSign::OneChannel { rate, share, could_fill: 2, .. } => {
            say::speed_one_channel_both(rate_text(*rate), share_of(*share), 2_u32)
        }
        SpeedSign::OneChannel { rate, share, could_fill, .. } => {
            say::speed_one_channel_all(rate_text(*rate), share_of(*share), *could_fill)
        }
        SpeedSign::LostChannel { rate, share, channels } => {
            say::speed_lost_channel(rate_text(*rate), share_of(*share), *channels)
        }
        SpeedSign::ProfileOff { rate, speed, sold_for: Some(sold) } => {
            say::speed_profile_sold(rate_text(*rate), plain(*speed), plain(*sold))
        }
        SpeedSign::ProfileOff { rate, speed, sold_for: None } => {
            say::speed_profile_stored(rate_text(*rate), plain(*speed))
        }
        SpeedSign::TablesAreWrong { rate, channels, speed } => {
            say::speed_tables_wrong(rate_text(*rate), self::channels(*channels), plain(*speed))
        }
    }
}

/// What to do about it.
pub fn advice(sign: &SpeedSign) -> String {
    match sign {
        SpeedSign::OneChannel { free, .. } => say::do_one_channel(free.join(say::join_or())),
        SpeedSign::LostChannel { .. } => say::do_lost_channel().to_owned(),
        SpeedSign::ProfileOff { .. } => say::do_profile().to_owned(),
        SpeedSign::TablesAreWrong { .. } => say::do_tables_wrong().to_owned(),
    }
}

/// How fast memory is, in a sentence; the findings say what is not right.
pub fn sentence(record: &SpeedRecord) -> String {
    match speed_verdict(record) {
        Ok(verdict) => {
            let percent = format!("{:.0}", verdict.share * 100.0);
            let (rate, channels) = (rate_text(verdict.rate), channels(verdict.channels));
            let what = say::verdict_speed(rate, percent, channels, plain(verdict.speed));
            match verdict.against {
                Against::More => say::verdict_more(what),
                Against::AsExpected => say::verdict_expected(what),
                Against::Less => say::verdict_less(what),
                Against::CoresLimit => say::verdict_cores(what),
            }
        }
        Err(NotJudged::Guest) => say::not_judged_guest().to_owned(),
        Err(NotJudged::Small) => say::not_judged_small().to_owned(),
        Err(NotJudged::NotExpected(why)) => not_expected(why),
    }
}

/// Why it is not known how fast memory should be.
pub fn not_expected(why: revisum_diagnose::speed::NotKnown) -> String {
    say::not_judged_unknown(why.said())
}

/// `one channel`, `2 channels`.
fn channels(channels: usize) -> String {
    if channels == 1 { say::channels_one().to_owned() } else { say::channels_some(channels) }
}

/// `about half`, or the share in percent.
fn share_of(share: f64) -> String {
    if is_about_half(share) { say::about_half().to_owned() } else { say::percent(format!("{:.0}", share * 100.0)) }
}
