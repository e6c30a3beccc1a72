//! A journal: whatever is in it, it is read as far as it is sound, and says what it comes to.
#![no_main]

use libfuzzer_sys::fuzz_target;
use revisum_record::journal::{Entry, JobEntry, JobState, read_brief, read_journal};
use revisum_record::run_state::RunState;

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

fn read(bytes: &[u8]) {
    let (mut full, mut brief, mut job) = (RunState::default(), RunState::default(), JobState::default());
    let damage = read_journal::<Entry>(&mut &*bytes, |framed| full.apply(&framed)).expect("memory can be read");
    read_brief(&mut &*bytes, |framed| brief.absorb(framed)).expect("memory can be read");
    read_journal::<JobEntry>(&mut &*bytes, |framed| job.apply(&framed.entry)).expect("memory can be read");
    let _ = damage.sentence();
    for live in [false, true] {
        let _ = (full.sentence(live), full.outcome(live), brief.outcome(live));
    }
    let _ = (full.plan_ratio(), full.seconds_left(), full.pass_ratio(), full.running_seconds());
}

fuzz_target!(|data: &[u8]| {
    read(data);
    read(&signed(data));
});
