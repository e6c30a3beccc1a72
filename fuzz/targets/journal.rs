//! A journal: whatever is in it, it is read as far as it is sound, and says what it comes to.
#![no_main]

use libfuzzer_sys::fuzz_target;
use revisum_record::go_on::carried;
use revisum_record::journal::{Begin, Entry, JobEntry, JobState, read_brief, read_journal};
use revisum_record::outcome::{Judgement, Outcome};
use revisum_record::run_state::RunState;
use revisum_words::result;

/// Each line of the input gets its right checksum: else hardly one would ever come past it.
fn signed(data: &[u8]) -> Vec<u8> {
    let mut all = Vec::new();
    for line in data.split(|byte| *byte == b'\n') {
        let Some(open) = line.strip_suffix(b"}") else {
            all.extend_from_slice(line);
            all.push(b'\n');
            continue;
        };
        all.extend_from_slice(open);
        all.extend_from_slice(format!(",\"crc\":\"{:08x}\"}}\n", crc32c::crc32c(line)).as_bytes());
    }
    all
}

/// The same with each line chained to the one before.
fn chained(data: &[u8]) -> Vec<u8> {
    let (mut all, mut prev) = (Vec::new(), None);
    for line in data.split(|byte| *byte == b'\n') {
        let Some(open) = line.strip_suffix(b"}") else { continue };
        let mut body = open.to_vec();
        if let Some(prev) = prev {
            body.extend_from_slice(format!(",\"prev\":\"{prev:08x}\"").as_bytes());
        }
        body.push(b'}');
        let crc = crc32c::crc32c(&body);
        body.pop();
        body.extend_from_slice(format!(",\"crc\":\"{crc:08x}\"}}\n").as_bytes());
        all.extend(body);
        prev = Some(crc);
    }
    all
}

/// Whatever was read: clean is only what is complete, shares and times stay within what they are of, and there are words.
fn judged(judgement: &Judgement) {
    assert_eq!(
        judgement.outcome == Outcome::Clean,
        judgement.complete && !judgement.has_errors() && judgement.counts.checks_missed == 0
    );
    assert!(judgement.coverage.share().is_none_or(|share| (0.0..=1.0).contains(&share)));
    let times = &judgement.times;
    assert!(times.in_full_passes <= times.ran && times.ran <= times.elapsed, "{times:?}");
    assert!(!result::headline(judgement).is_empty() && !result::sentence(judgement).is_empty());
}

fn read(bytes: &[u8]) {
    let (mut full, mut brief, mut job) = (RunState::default(), RunState::default(), JobState::default());
    let reading = read_journal::<Entry>(&mut &*bytes, |framed| full.apply(&framed)).expect("memory can be read");
    let short = read_brief(&mut &*bytes, |framed| brief.absorb(framed)).expect("memory can be read");
    assert_eq!((&short.totals, short.link), (&reading.totals, reading.link));
    full.heed(&reading);
    brief.heed(&short);
    assert!(!reading.damage.any() || Judgement::of(&full, false).outcome != Outcome::Clean);
    assert!(full.errors.words >= reading.totals.errors);
    let damage = reading.damage;
    read_journal::<JobEntry>(&mut &*bytes, |framed| job.apply(&framed.entry)).expect("memory can be read");
    let _ = revisum_words::damage::sentence(&damage);
    for (state, live) in [(&full, false), (&full, true), (&brief, false)] {
        judged(&Judgement::of(state, live));
    }
    // What goes on with it can be judged too.
    let begin = Begin { continues: Some(carried(&full)), ..full.begin.clone() };
    judged(&Judgement::of(&RunState { begin, ..full.clone() }, false));
    let _ = (full.plan_ratio(), full.seconds_left(), full.pass_ratio(), full.running_seconds());
}

fuzz_target!(|data: &[u8]| {
    read(data);
    read(&signed(data));
    read(&chained(data));
});
