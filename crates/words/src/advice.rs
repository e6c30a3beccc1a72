//! What a job came to, why, and what to do.

use revisum_diagnose::isolate::{
    Action, Case, Contradiction, Disposition, Evidence, Odds, Proof, Reason, Shown, Suspect, band, clean_again, shown,
};
use revisum_engine::units::duration_text;

use crate::odds::suspect;
use crate::said::Said;
use crate::say;

/// The answer in a sentence: what it is, how surely, and what shows it. `name` tells what people call a module.
pub fn answer(case: &Case, named: &[Odds], reason: Reason, name: &dyn Fn(&str) -> String) -> String {
    let Some(first) = named.first() else { return say::answer_nothing().to_owned() };
    let part = suspect(&first.suspect, name);
    let grade = band(first.probability).said();
    match reason {
        Reason::Confident => say::answer_sure(part, grade, why(case, &first.suspect)),
        _ if named.len() == 1 && ran_without(case, &first.suspect) => say::answer_alike(part, grade),
        _ if named.len() == 1 => say::answer_unproved(part, grade),
        _ => {
            let all: Vec<String> = named.iter().map(|odds| suspect(&odds.suspect, name)).collect();
            let stop = if reason == Reason::Budget { say::answer_budget() } else { say::answer_open() };
            say::answer_one_of(all.join("; "), stop)
        }
    }
}

/// Whether there was a run without a module that is blamed.
pub fn ran_without(case: &Case, suspect: &Suspect) -> bool {
    let modules = suspect.modules();
    let without = |placement: &[(String, String)]| {
        modules.iter().any(|module| placement.iter().all(|(_, fitted)| fitted != module))
    };
    case.runs.iter().any(|run| !run.struck && !run.placement.is_empty() && without(&run.placement))
}

/// What the runs themselves show of a suspect.
pub fn why(case: &Case, suspect: &Suspect) -> String {
    let Shown { failed, clean_passes } = shown(case, suspect);
    let passes = |passes: Option<f64>| {
        passes.map_or_else(String::new, |passes| say::why_passes(format!("{:.0}", passes.floor())))
    };
    let clean = passes(clean_passes);
    match suspect {
        Suspect::NoPart => say::why_reseated(passes(clean_again(case))),
        Suspect::Settings => say::why_profile(failed, clean),
        Suspect::Controller | Suspect::TooMany | Suspect::Position | Suspect::Kits => say::why_explains().to_owned(),
        Suspect::Combination(_) => say::why_with_others(failed, clean),
        Suspect::Unfit(_) => say::why_unfit(failed),
        Suspect::Pair(..) => say::why_pair(failures(case, failed), clean),
        Suspect::TwoModules(..) | Suspect::ModuleAndSlot(..) => say::why_without_both(failures(case, failed), clean),
        _ => say::why_without(failures(case, failed), clean),
    }
}

/// How many runs failed, where some of them did not even start as runs or starts.
fn failures(case: &Case, failed: u64) -> String {
    let dark = case.runs.iter().any(|run| !run.struck && run.evidence == Evidence::Dark);
    if dark && failed > 1 { say::why_starts(failed) } else { say::why_runs(failed) }
}

/// Something to do at the end of a job.
pub fn action(action: &Action) -> String {
    match action {
        Action::Replace => say::act_replace(),
        Action::ReplaceBoth => say::act_replace_both(),
        Action::TryElsewhere => say::act_try_elsewhere(),
        Action::UseElsewhere => say::act_use_elsewhere(),
        Action::BuyListed => say::act_buy_listed(),
        Action::ReplaceAlike => say::act_replace_alike(),
        Action::FirmwareFirst => say::act_firmware_first(),
        Action::KeepOne => say::act_keep_one(),
        Action::BuyAlike => say::act_buy_alike(),
        Action::CleanSlot => say::act_clean_slot(),
        Action::LeaveSlot => say::act_leave_slot(),
        Action::ReplaceAndLeave => say::act_replace_and_leave(),
        Action::ProfileOff => say::act_profile_off(),
        Action::RaiseVoltage => say::act_raise_voltage(),
        Action::BuyNothing => say::act_buy_nothing(),
        Action::SeeToProcessor => say::act_see_to_processor(),
        Action::InspectSocket => say::act_inspect_socket(),
        Action::LeaveChannel => say::act_leave_channel(),
        Action::LowerSpeed => say::act_lower_speed(),
        Action::FewerModules => say::act_fewer_modules(),
        Action::BuyMatched => say::act_buy_matched(),
        Action::OtherSlots => say::act_other_slots(),
        Action::OneKit => say::act_one_kit(),
        Action::ModulesElsewhere => say::act_modules_elsewhere(),
        Action::LookBeyond => say::act_look_beyond(),
        Action::BorrowGood => say::act_borrow_good(),
        Action::MatchedSet => say::act_matched_set(),
        Action::CompareElsewhere => say::act_compare_elsewhere(),
        Action::CheckFiles => say::act_check_files(),
        Action::Prove(proof) => return say::act_prove(time_to_prove(*proof)),
    }
    .to_owned()
}

fn time_to_prove(proof: Proof) -> String {
    match proof {
        Proof::Unknown => String::new(),
        Proof::FailedOnce => say::prove_once().to_owned(),
        Proof::Clean(seconds) => say::prove_clean(duration_text(seconds)),
    }
}

/// Said where records of a job are damaged, and no error is known of.
pub fn not_whole() -> &'static str {
    say::job_not_whole()
}

/// A contradiction of a case: what was found, what it means, what to do.
pub fn contradiction(contradiction: &Contradiction) -> String {
    match contradiction {
        Contradiction::SameSerial(serial) => say::contra_serial(serial),
        Contradiction::TwoInSlot { run, slot } => say::contra_two_in_slot(*run, slot),
        Contradiction::TwoSlots { run, module } => say::contra_two_slots(*run, module),
        Contradiction::PassedAndFailed => say::contra_both().to_owned(),
    }
}

/// What becomes of a module, or that this is not decided yet.
pub fn end(end: Option<Disposition>) -> &'static str {
    end.map_or_else(say::end_undecided, |end| end.said())
}
