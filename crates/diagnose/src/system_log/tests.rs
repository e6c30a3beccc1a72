use revisum_record::logged::LogEntry;
use revisum_record::logged::LogKind;
use revisum_record::logged::LogTime;
use revisum_record::logged::tilt_answers;
use rstest::rstest;

use super::*;
use crate::board::Inventory;
use revisum_engine::units::PhysAddr;
use revisum_record::fitted::{Board, Module, Slot};

fn of_lines(lines: &[&str]) -> Vec<LogEntry> {
    let mut reader = LineReader::default();
    lines.iter().for_each(|line| reader.take(line));
    reader.entries()
}

const COUNTED: &str =
    "EDAC MC0: 3 CE memory read error on DIMM_B1 (channel:1 slot:0 page:0x3ea4fb offset:0x600 grain:32)";

#[rstest]
#[case::rfc_3339("2031-04-12T13:31:00.5+02:00 host kernel: [   12.5] ", Some(1_933_932_660_500 - 7_200_000 + 7_200_000), "")]
#[case::classic("Nov  2 10:11:12 host kernel: [    1.2] ", None, "Nov 2 10:11:12")]
#[case::kernel("[   12.345678] ", None, "+12.345678 s")]
#[case::none("", None, "")]
fn times_of_lines(#[case] before: &str, #[case] wall_ms: Option<i64>, #[case] words: &str) {
    let entries = of_lines(&[&format!("{before}{COUNTED}")]);
    let [entry] = &entries[..] else { panic!("{entries:?}") };
    assert_eq!((entry.first.wall_ms.is_some(), entry.first.words.as_str()), (wall_ms.is_some(), words));
    assert_eq!((entry.kind, entry.count, entry.address), (LogKind::Corrected, 3, Some(PhysAddr(0x3_ea4f_b600))));
    if let Some(wall_ms) = entry.first.wall_ms {
        let expected: jiff::Timestamp = "2031-04-12T11:31:00.5Z".parse().unwrap();
        assert_eq!(wall_ms, expected.as_millisecond());
    }
}

#[rstest]
#[case("Memory failure: 0x3ea4fb: recovery action for dirty LRU page: Recovered", Some((LogKind::PageRetired, Some(0x3_ea4f_b000))))]
#[case("mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 1: 8c0000000000010a", Some((LogKind::MachineCheck, None)))]
#[case("mce: [Hardware Error]: CPU 2: Machine Check: 4 Bank 7: be00000000800091", Some((LogKind::Uncorrected, None)))]
#[case("  5555555555555555 bad mem addr 0x0000000012345000 - 0x0000000012346000 reserved", Some((LogKind::CheckFound, Some(0x1234_5000))))]
#[case("Kernel panic - not syncing: Fatal exception", Some((LogKind::StopScreen, None)))]
#[case("usb 1-1: new high-speed USB device", None)]
#[case("Out of memory: Killed process 1 (x)", None)]
#[case("EDAC MC: Ver: 3.0.0", None)]
fn kinds_of_lines(#[case] line: &str, #[case] expected: Option<(LogKind, Option<u64>)>) {
    let read = of_lines(&[line]).first().map(|entry| (entry.kind, entry.address.map(|at| at.0)));
    assert_eq!(read, expected);
}

#[test]
fn an_address_on_the_next_line_belongs_to_the_error_before() {
    let entries = of_lines(&[
        "mce: [Hardware Error]: CPU 0: Machine Check: 0 Bank 7: 8c00004000010091",
        "mce: [Hardware Error]: TSC 0 ADDR 3ea4fb600 MISC 200000c000002286",
        COUNTED,
    ]);
    let read: Vec<_> = entries.iter().map(|entry| (entry.address, entry.count)).collect();
    assert_eq!(read, [(Some(PhysAddr(0x3_ea4f_b600)), 3)], "the driver's line tells of the same errors, and how many");
}

#[rstest]
#[case(r#"{"__REALTIME_TIMESTAMP":"1933932660500000","MESSAGE":"a b","PRIORITY":"3"}"#, Some((Some(1_933_932_660_500), "a b")))]
#[case(r#"{"MESSAGE":[97,32,98]}"#, Some((None, "a b")))]
#[case(r#"{"MESSAGE":null}"#, None)]
#[case(r#"[1]"#, None)]
#[case("not json", None)]
fn export_lines(#[case] line: &str, #[case] expected: Option<(Option<i64>, &str)>) {
    let read = read_export_line(line);
    assert_eq!(read.as_ref().map(|(time, text)| (time.wall_ms, text.as_str())), expected);
}

fn event(source: &str, level: u32, data: &str) -> String {
    format!(
        r#"<?xml version="1.0" encoding="utf-8"?><Event xmlns="http://schemas.microsoft.com/win/2004/08/events/event"><System>
        <Provider Name="{source}" Guid="x"/><EventID>1</EventID><Level>{level}</Level>
        <TimeCreated SystemTime="2031-04-12T11:31:00.500000000Z"/></System><EventData>{data}</EventData></Event>"#
    )
}

#[rstest]
#[case::check_clean("Os-MemoryDiagnostics-Results", 4, "", Some(LogKind::CheckClean))]
#[case::check_found("Os-MemoryDiagnostics-Results", 2, "", Some(LogKind::CheckFound))]
#[case::check_planned("Os-MemoryDiagnostics-Schedule", 4, "", None)]
#[case::stop_by_name("Power", 1, r#"<Data Name="BugcheckCode">26</Data>"#, Some(LogKind::StopScreen))]
#[case::no_stop("Power", 1, r#"<Data Name="BugcheckCode">0</Data>"#, None)]
#[case::stop_reported("SystemErrorReporting", 2, "<Data>0x0000001a (0x1, 0x2)</Data>", Some(LogKind::StopScreen))]
#[case::hardware("WHEA-Logger", 2, r#"<Data Name="PhysicalAddress">0x3ea4fb600</Data>"#, Some(LogKind::Uncorrected))]
#[case::hardware_corrected(
    "WHEA-Logger",
    3,
    r#"<Data Name="PhysicalAddress">0x3ea4fb600</Data>"#,
    Some(LogKind::Corrected)
)]
#[case::hardware_elsewhere("WHEA-Logger", 2, r#"<Data Name="MciStat">0x1</Data>"#, Some(LogKind::MachineCheck))]
#[case::hardware_says("WHEA-Logger", 4, "", None)]
#[case::something_else("Disk", 2, "<Data>memory</Data>", None)]
fn events(#[case] source: &str, #[case] level: u32, #[case] data: &str, #[case] expected: Option<LogKind>) {
    let entries = read_event(&event(source, level, data));
    assert_eq!(entries.first().map(|entry| entry.kind), expected);
    assert!(entries.iter().all(|entry| entry.first.wall_ms.is_some()));
}

/// A record as the hardware writes it, as digits: a corrected error at 0x3ea4fb600 in module 2.
#[test]
fn an_error_record_in_an_event_is_read() {
    let mut section = vec![0u8; 80];
    section[0..8].copy_from_slice(&(1u64 << 1 | 1 << 5).to_le_bytes());
    section[16..24].copy_from_slice(&0x3_ea4f_b600u64.to_le_bytes());
    section[36] = 2;
    let mut record = b"CPER".to_vec();
    record.resize(200, 0);
    record[10] = 1;
    record[128] = 200;
    record[132] = 80;
    let guid = [0x14, 0x11, 0xbc, 0xa5, 0x64, 0x6f, 0xde, 0x4e, 0xb8, 0x63, 0x3e, 0x83, 0xed, 0x7c, 0x83, 0xb1];
    record[144..160].copy_from_slice(&guid);
    record[176] = 2;
    record.extend(section);
    let digits: String = record.iter().map(|byte| format!("{byte:02x}")).collect();
    let entries = read_event(&event("WHEA-Logger", 3, &format!(r#"<Data Name="RawData">{digits}</Data>"#)));
    let [entry] = &entries[..] else { panic!("{entries:?}") };
    assert_eq!(
        (entry.kind, entry.address, entry.place.as_str()),
        (LogKind::Corrected, Some(PhysAddr(0x3_ea4f_b600)), "module 2")
    );
}

#[rstest]
#[case("")]
#[case("<Event>")]
#[case("<Event/>")]
#[case("<Event><System><Provider/></System></Event>")]
#[case(&"<a>".repeat(100_000))]
fn no_events(#[case] xml: &str) {
    assert!(read_event(xml).is_empty());
}

#[test]
fn the_same_is_counted_and_the_newest_stands_first() {
    let at = |hour: u32, rest: &str| format!("2031-04-12T{hour:02}:00:00Z host kernel: {rest}");
    let lines = [at(10, COUNTED), at(11, "Kernel panic - not syncing: x"), at(9, COUNTED)];
    let merged = merge(of_lines(&lines.iter().map(String::as_str).collect::<Vec<_>>()));
    let told: Vec<_> = merged.iter().map(|entry| (entry.kind, entry.count)).collect();
    assert_eq!(told, [(LogKind::StopScreen, 1), (LogKind::Corrected, 6)]);
    assert!(merged[1].first.wall_ms < merged[1].last.wall_ms);
}

#[test]
fn entries_are_placed_and_their_module_is_noted() {
    let module = |serial: &str| Some(Module { serial: serial.into(), ..Module::default() });
    let slot = |id: &str, serial: &str| Slot { id: id.into(), module: module(serial), ..Slot::default() };
    let board = Board { slots: vec![slot("DIMM_A1", "one"), slot("DIMM_B1", "two")], ..Board::default() };
    let inventory = Inventory { board, ..Inventory::default() };
    let mut entries = of_lines(&[COUNTED]);
    place(&mut entries, &inventory);
    assert_eq!((entries[0].slots.as_slice(), entries[0].module.as_deref()), (&["DIMM_B1".to_owned()][..], Some("two")));
}

#[test]
fn answers_follow_from_entries() {
    let of = |kinds: &[LogKind]| {
        let entries: Vec<LogEntry> =
            kinds.iter().map(|kind| LogEntry::new(*kind, LogTime::default(), String::new())).collect();
        tilt_answers(&entries).collect::<Vec<_>>()
    };
    assert_eq!(of(&[LogKind::Corrected, LogKind::StopScreen]), ["log-has-errors"]);
    assert_eq!(of(&[LogKind::CheckFound, LogKind::CheckClean]), ["check-found-errors"]);
    assert_eq!(of(&[LogKind::CheckClean]), ["check-was-clean"]);
    assert!(of(&[LogKind::StopScreen, LogKind::MachineCheck]).is_empty());
}

/// Events of one crash, told by the one that lost power and by the report, at so many seconds after a time; how many stops that is.
#[rstest]
#[case::told_twice(&[("Power", 0), ("BugCheck-Report", 46)], 1)]
#[case::the_other_way_round(&[("BugCheck-Report", 0), ("Power", 46)], 1)]
#[case::two_crashes(&[("Power", 0), ("BugCheck-Report", 46), ("Power", 300), ("BugCheck-Report", 340)], 2)]
#[case::far_apart(&[("Power", 0), ("BugCheck-Report", 3600)], 2)]
#[case::one_teller(&[("Power", 0), ("Power", 46)], 2)]
fn a_stop_is_counted_once(#[case] told: &[(&str, i64)], #[case] expected: u64) {
    let one = |(source, seconds): &(&str, i64)| {
        let data = match *source {
            "Power" => r#"<Data Name="BugcheckCode">26</Data>"#,
            _ => "<Data>0x0000001a (0x1, 0x2)</Data>",
        };
        let at: jiff::Timestamp = "2031-04-12T11:31:00.5Z".parse().unwrap();
        let stamp = (at + jiff::SignedDuration::from_secs(*seconds)).to_string();
        event(source, 2, data).replace("2031-04-12T11:31:00.500000000Z", &stamp)
    };
    let mut collected = Collected::default();
    told.iter().for_each(|told| collected.extend(read_event(&one(told))));
    let entries = collected.entries();
    assert_eq!(entries.iter().map(|entry| entry.count).sum::<u64>(), expected, "{entries:?}");
    // Merged again, as a folder of several logs is, it stays so.
    assert_eq!(merge(entries).iter().map(|entry| entry.count).sum::<u64>(), expected);
}

/// That there was a machine check is nothing of its own where the same second says which.
#[rstest]
#[case::before(&["[ 5.1] mce: [Hardware Error]: Machine check events logged", "[ 5.2] EDAC MC0: 1 CE memory read error on DIMM_B1 (page:0x1 offset:0x0)"], &[LogKind::Corrected])]
#[case::behind(&["[ 5.1] EDAC MC0: 1 CE memory read error on DIMM_B1 (page:0x1 offset:0x0)", "[ 5.2] mce: [Hardware Error]: Machine check events logged"], &[LogKind::Corrected])]
#[case::later(&["[ 5.1] EDAC MC0: 1 CE memory read error on DIMM_B1 (page:0x1 offset:0x0)", "[ 99.2] mce: [Hardware Error]: Machine check events logged"], &[LogKind::MachineCheck, LogKind::Corrected])]
#[case::alone(&["[ 5.1] mce: [Hardware Error]: Machine check events logged"], &[LogKind::MachineCheck])]
fn machine_checks_that_are_named_count_once(#[case] lines: &[&str], #[case] expected: &[LogKind]) {
    let mut kinds: Vec<LogKind> = of_lines(lines).iter().map(|entry| entry.kind).collect();
    kinds.sort_unstable_by_key(|kind| std::cmp::Reverse(*kind));
    assert_eq!(kinds, expected);
}
