//! Through the time of a recorded run.

use crossterm::event::KeyCode;
use revisum_record::run_state::RunState;
use revisum_records::{Recorded, Standing};

use super::*;
use std::sync::Arc;
use crate::room::step::Ask;
use crate::room::screen::Room;
use crate::shared::facts::Facts;

fn recorded(t_ms: u64) -> Arc<Recorded> {
    let state = RunState { id: "r".into(), t_ms, ..RunState::default() };
    Arc::new(Recorded { id: "r".into(), bytes: 0, records: 0, state, standing: Standing::Running })
}

fn asked(logs: &mut Logs, key: KeyCode) -> Option<u64> {
    let step = logs.press(key, &Shared::new(Facts::default(), (128, 40))).unwrap();
    let [Ask::Do(Effect::LogAt { at, .. })] = step.as_slice() else { panic!("{step:?}") };
    *at
}

/// Records take a while to read: every key counts from what was asked last, not from what is shown.
#[test]
fn keys_that_come_faster_than_records_are_read_are_not_lost() {
    let shared = Shared::new(Facts::default(), (128, 40));
    let mut logs = Logs::default();
    logs.told(&News::Recorded(recorded(4000), None), &shared);
    assert_eq!([(); 3].map(|()| asked(&mut logs, KeyCode::Left)), [Some(3900), Some(3800), Some(3700)]);
    logs.told(&News::Recorded(recorded(3900), Some((3900, 4000))), &shared);
    assert_eq!(asked(&mut logs, KeyCode::Left), Some(3600));
    assert_eq!([(); 5].map(|()| asked(&mut logs, KeyCode::Right))[4], None, "the end is the run itself");
}
