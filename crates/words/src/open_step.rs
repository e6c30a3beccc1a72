//! What a job waits for, by the stage that it came to last.

use revisum_record::journal::Stage;

use crate::say;

/// The step; nothing where the machine went back to its owner.
pub fn open_step(stage: Option<Stage>, is_written_down: bool) -> Option<&'static str> {
    if is_written_down {
        return Some(say::open_step_written_down());
    }
    Some(match stage {
        None | Some(Stage::Complaint) => say::open_step_first_run(),
        Some(Stage::Shown) => say::open_step_find(),
        Some(Stage::NotShown) => say::open_step_deeper(),
        Some(Stage::Found) => say::open_step_order(),
        Some(Stage::Ordered) => say::open_step_fit(),
        Some(Stage::Fitted) => say::open_step_prove(),
        Some(Stage::RuledOut) => say::open_step_suspects(),
        Some(Stage::Proved | Stage::Suspects) => say::open_step_restore(),
        Some(Stage::Restored) => say::open_step_hand_over(),
        Some(Stage::HandedOver) => return None,
    })
}
