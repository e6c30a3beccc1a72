//! Values of which there are a few, each with its words.

use revisum_diagnose::address::Ground;
use revisum_diagnose::board::{EventSource, Trait, Whole};
use revisum_diagnose::controller::{Contradiction as Contradictory, Undocumented};
use revisum_diagnose::isolate::{Band, Beyond, Disposition};
use revisum_diagnose::locate::{Limit, Surer};
use revisum_diagnose::signature::{Cause, Shape};
use revisum_diagnose::speed::NotKnown;
use revisum_engine::places::Certainty;
use revisum_engine::recipe::Depth;
use revisum_engine::speed::Kind as Measured;
use revisum_engine::sweep::second_look::Kind as Reread;
use revisum_record::journal::{BrokeOff, Stage, Tick};
use revisum_record::logged::LogKind;
use revisum_record::outcome::{EndedBy, Outcome, Reason};

use crate::say;

/// Something that is said in a few words.
pub trait Said {
    /// Its words, in the language that is spoken.
    fn said(&self) -> &'static str;
}

macro_rules! said {
    ($($kind:ident { $($value:ident => $text:ident),* $(,)? })*) => {
        $(impl Said for $kind {
            fn said(&self) -> &'static str {
                match self { $(Self::$value => say::$text(),)* }
            }
        })*
    };
}

said! {
    Stage {
        Complaint => stage_complaint,
        Shown => stage_shown,
        NotShown => stage_not_shown,
        Found => stage_found,
        Ordered => stage_ordered,
        Fitted => stage_fitted,
        Proved => stage_proved,
        RuledOut => stage_ruled_out,
        Suspects => stage_suspects,
        Restored => stage_restored,
        HandedOver => stage_handed_over,
    }
    Tick {
        Ordered => tick_ordered,
        NothingOrdered => tick_nothing_ordered,
        Arrived => tick_arrived,
        SuspectsRead => tick_suspects_read,
        Settings => tick_settings,
        FilesChecked => tick_files,
        BackupTold => tick_backup,
        Returned => tick_returned,
        BootOrder => tick_boot_order,
        DriveOut => tick_drive_out,
    }
    Contradictory {
        SwitchedOff => contradiction_switched_off,
        NoMemory => contradiction_no_memory,
        Sizes => contradiction_sizes,
        Channels => contradiction_channels,
        Window => contradiction_window,
        NotOneToOne => contradiction_not_one_to_one,
        Reserved => contradiction_reserved,
    }
    Undocumented {
        ChannelHash => undocumented_channel_hash,
        ChannelOrder => undocumented_channel_order,
        Nodes => undocumented_nodes,
        PartlyInterleaved => undocumented_partly_interleaved,
        Exchanged => undocumented_exchanged,
        Ganged => undocumented_ganged,
        SecondSelect => undocumented_second_select,
    }
    Depth { Triage => depth_triage, Survey => depth_survey, Overnight => depth_overnight }
    Certainty {
        Certain => certainty_certain,
        Told => certainty_told,
        Assumed => certainty_assumed,
        OneOf => certainty_one_of,
        Unknown => certainty_unknown,
    }
    Reread {
        Recurring => reread_recurring,
        Stored => reread_stored,
        Transient => reread_transient,
        Unsteady => reread_unsteady,
        NotLooked => reread_not_looked,
    }
    Measured {
        Read => measured_read,
        Write => measured_write,
        Stream => measured_stream,
        Copy => measured_copy,
        Latency => measured_latency,
    }
    EndedBy {
        Plan => ended_plan,
        Time => ended_time,
        ErrorLimit => ended_error_limit,
        Hand => ended_hand,
        BrokeOff => ended_broke_off,
    }
    Reason {
        Unfinished => left_unfinished,
        Moved => left_moved,
        TakenOut => left_taken_out,
        Chosen => left_chosen,
        Firmware => left_firmware,
        System => left_system,
    }
    Outcome {
        CleanSoFar => outcome_clean_so_far,
        Clean => outcome_clean,
        ErrorsFound => outcome_errors_found,
        CutShort => outcome_cut_short,
        Interrupted => outcome_interrupted,
        NotWhole => outcome_not_whole,
        CheckingFailed => outcome_checking_failed,
    }
    BrokeOff {
        PowerCut => broke_power,
        Hang => broke_hang,
        Restart => broke_restart,
        MemoryError => broke_memory,
        Fault => broke_fault,
        OnPurpose => broke_purpose,
        Unknown => broke_unknown,
    }
    LogKind {
        Uncorrected => log_uncorrected,
        CheckFound => log_check_found,
        PageRetired => log_page_retired,
        Corrected => log_corrected,
        MachineCheck => log_machine_check,
        StopScreen => log_stop_screen,
        CheckClean => log_check_clean,
    }
    Whole { Installed => whole_installed, Given => whole_given, Seen => whole_seen }
    EventSource { KernelLog => source_kernel_log, Crash => source_crash, BootRecord => source_boot_record }
    Trait { Maker => trait_maker, Size => trait_size, Ranks => trait_ranks, Speed => trait_speed }
    NotKnown { Modules => not_known_modules, Channels => not_known_channels, Speeds => not_known_speeds }
    Band {
        VeryLikely => band_very_likely,
        Likely => band_likely,
        Possible => band_possible,
        Unlikely => band_unlikely,
    }
    Disposition {
        Replace => end_replace,
        Elsewhere => end_elsewhere,
        InQuestion => end_in_question,
        Keep => end_keep,
        NotAtFault => end_not_at_fault,
        Untested => end_untested,
    }
    Beyond {
        Updates => beyond_updates,
        SystemFiles => beyond_files,
        Drivers => beyond_drivers,
        Firmware => beyond_firmware,
        Storage => beyond_storage,
        FreshInstall => beyond_install,
        MemoryAgain => beyond_memory,
    }
    Ground {
        AssumedMap => ground_assumed_map,
        Map => ground_map,
        SlotsUnknown => ground_slots_unknown,
        OneModule => ground_one_module,
        LearnedMap => ground_learned_map,
        Registers => ground_registers,
        FirmwareRanges => ground_firmware_ranges,
        OneHalf => ground_one_half,
        NoMap => ground_no_map,
    }
    Surer {
        MoveAny => surer_move_any,
        RunAlone => surer_run_alone,
        OneAtATime => surer_one_at_a_time,
        Exchange => surer_exchange,
        Declare => surer_declare,
    }
    Limit {
        MapRefuted => locate_refuted,
        NoAddresses => locate_no_addresses,
        NoMap => locate_without_map,
        Flood => locate_flood,
        Encrypted => locate_encrypted,
        Guest => locate_guest,
        RangesTrusted => locate_ranges_trusted,
        OnDie => locate_on_die,
    }
    Cause {
        Module => cause_module,
        Contact => cause_contact,
        Slot => cause_slot,
        Settings => cause_settings,
        Controller => cause_controller,
    }
    Shape {
        Cell => shape_cell,
        Column => shape_column,
        Row => shape_row,
        Bank => shape_bank,
        Lane => shape_lane,
        LanePair => shape_lane_pair,
        ByteLane => shape_byte_lane,
        AddressLine => shape_address_line,
        HalfModule => shape_half_module,
        WholeModule => shape_whole_module,
        Channel => shape_channel,
        DecoderDoubles => shape_decoder_doubles,
        Scattered => shape_scattered,
        Machine => shape_machine,
    }
}
