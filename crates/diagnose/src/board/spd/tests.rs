//! Images written out by hand from the tables of the standards, byte by byte, with sums computed by a second routine.

use proptest::prelude::*;
use rstest::rstest;

use super::*;
use revisum_engine::units::GIB;

/// The bitwise sum as the standards print it in C.
fn sum(bytes: &[u8]) -> [u8; 2] {
    let mut crc = 0u16;
    for byte in bytes {
        crc ^= u16::from(*byte) << 8;
        for _ in 0..8 {
            crc = if crc & 0x8000 == 0 { crc << 1 } else { crc << 1 ^ 0x1021 };
        }
    }
    crc.to_le_bytes()
}

fn put(image: &mut [u8], at: usize, bytes: &[u8]) {
    image[at..at + bytes.len()].copy_from_slice(bytes);
}

/// An unbuffered DDR4 module of 8 GiB: eight packages of 8 Gbit and eight lanes, one rank, 3200 at 22-22-22-52.
fn ddr4() -> Vec<u8> {
    let mut image = vec![0; 512];
    // Bytes used and in all, revision 1.1, DDR4, unbuffered, 8 Gbit in 16 banks, 16 rows 10 columns, one die.
    put(&mut image, 0, &[0x23, 0x11, 0x0c, 0x02, 0x85, 0x21, 0x00]);
    // 1.2 V; one rank of eight lanes; 64 bits without check bits; no sensor; steps of 125 ps and 1 ps.
    put(&mut image, 11, &[0x03, 0x01, 0x03, 0x00, 0x00, 0x00, 0x00]);
    // tCK 625 ps; then tAA, tRCD, tRP 13.75 ns; tRAS 32 ns, tRC 45.75 ns.
    put(&mut image, 18, &[0x05, 0x0d]);
    put(&mut image, 24, &[0x6e, 0x6e, 0x6e, 0x11, 0x00, 0x6e]);
    // Module maker bank 127 code 5 with parity, site, 2030 week 14, serial, part, revision, package maker none.
    put(&mut image, 320, &[0xfe, 0x85, 0x01, 0x30, 0x14, 0x5a, 0x22, 0x00, 0x93]);
    put(&mut image, 329, b"HD8G32J             ");
    let general = sum(&image[..126]);
    put(&mut image, 126, &general);
    let module = sum(&image[128..254]);
    put(&mut image, 254, &module);
    image
}

/// A DDR3 notebook module of 4 GiB: two ranks of eight 2-Gbit packages, 1600 at 11-11-11-28, 1.35 V.
fn ddr3() -> Vec<u8> {
    let mut image = vec![0; 256];
    // Bytes used, revision 1.3, DDR3, SO-DIMM, 2 Gbit, 15 rows 10 columns, 1.35 V, two ranks of eight lanes, 64 bits.
    put(&mut image, 0, &[0x92, 0x13, 0x0b, 0x03, 0x03, 0x19, 0x02, 0x09, 0x03]);
    // Fine step 1 ps; medium step 1/8 ns; tCK 1.25 ns.
    put(&mut image, 9, &[0x11, 0x01, 0x08, 0x0a]);
    // tAA 13.125 ns, tWR 15 ns, tRCD 13.125 ns, tRRD 6 ns, tRP 13.125 ns, tRAS 35 ns, tRC 48.125 ns.
    put(&mut image, 16, &[0x69, 0x78, 0x69, 0x30, 0x69, 0x11, 0x18, 0x81]);
    put(&mut image, 117, &[0xfe, 0x85, 0x00, 0x27, 0x52, 0xa0, 0x01, 0x02, 0x03]);
    put(&mut image, 128, b"OS4G16L           ");
    let general = sum(&image[..117]);
    put(&mut image, 126, &general);
    image
}

/// A DDR5 module of 16 GiB: one rank, four packages of 16 Gbit and eight lanes in each of two subchannels, 4800 at 40-39-39-77.
fn ddr5() -> Vec<u8> {
    let mut image = vec![0; 1024];
    // 1024 bytes, revision 1.0, DDR5, unbuffered, one die of 16 Gbit, 16 rows 10 columns, eight lanes, banks.
    put(&mut image, 0, &[0x30, 0x10, 0x12, 0x02, 0x04, 0x00, 0x20, 0x62]);
    // tCK 416 ps; tAA 16 640 ps; tRCD and tRP 16 000 ps; tRAS 32 000 ps.
    put(&mut image, 20, &[0xa0, 0x01]);
    put(&mut image, 30, &[0x00, 0x41, 0x80, 0x3e, 0x80, 0x3e, 0x00, 0x7d]);
    // One rank; two subchannels of 32 lanes without check bits.
    put(&mut image, 234, &[0x00, 0x22]);
    let base = sum(&image[..510]);
    put(&mut image, 510, &base);
    put(&mut image, 512, &[0xfe, 0x85, 0x00, 0x30, 0x05, 0x12, 0x34, 0x56, 0x78]);
    put(&mut image, 521, b"HD16G48N");
    put(&mut image, 529, &[b' '; 22]);
    put(&mut image, 832, b"EXPO");
    image
}

const UNKNOWN_MAKER: &str = "bank 127, code 5";

#[test]
fn a_ddr4_module_by_the_table() {
    let expected = Spd {
        generation: "DDR4",
        form: "DIMM",
        bytes: Some(8 * GIB),
        speed: Some(3200),
        timings: Some(Timings { cl: 22, rcd: 22, rp: 22, ras: 52 }),
        millivolts: Some(1200),
        ranks: Some(1),
        package_width: Some(8),
        maker_code: UNKNOWN_MAKER.into(),
        made: Some((2030, 14)),
        serial: "5A220093".into(),
        part: "HD8G32J".into(),
        ..Spd::default()
    };
    assert_eq!(Spd::read(&ddr4()), Ok(expected));
}

#[test]
fn a_ddr3_module_by_the_table() {
    let expected = Spd {
        generation: "DDR3",
        form: "SO-DIMM",
        bytes: Some(4 * GIB),
        speed: Some(1600),
        timings: Some(Timings { cl: 11, rcd: 11, rp: 11, ras: 28 }),
        millivolts: Some(1350),
        ranks: Some(2),
        package_width: Some(8),
        maker_code: UNKNOWN_MAKER.into(),
        made: Some((2027, 52)),
        serial: "A0010203".into(),
        part: "OS4G16L".into(),
        ..Spd::default()
    };
    assert_eq!(Spd::read(&ddr3()), Ok(expected));
}

#[test]
fn a_ddr5_module_by_the_table() {
    let expected = Spd {
        generation: "DDR5",
        form: "DIMM",
        bytes: Some(16 * GIB),
        speed: Some(4800),
        timings: Some(Timings { cl: 40, rcd: 39, rp: 39, ras: 77 }),
        millivolts: Some(1100),
        ranks: Some(1),
        package_width: Some(8),
        maker_code: UNKNOWN_MAKER.into(),
        made: Some((2030, 5)),
        serial: "12345678".into(),
        part: "HD16G48N".into(),
        profiles: vec!["EXPO"],
        ..Spd::default()
    };
    assert_eq!(Spd::read(&ddr5()), Ok(expected));
}

/// Capacities of other organisations, by the formula of the standard worked out by hand.
#[rstest]
#[case::four_lanes_two_ranks(&[(12, 0x08)], 32)]
#[case::sixteen_lanes(&[(12, 0x02)], 4)]
#[case::with_check_bits(&[(13, 0x0b)], 8)]
#[case::stack_of_four(&[(6, 0xb2)], 32)]
#[case::two_dies_with_two_loads(&[(6, 0x91)], 8)]
#[case::twelve_gigabit(&[(4, 0x88)], 12)]
fn ddr4_capacities(#[case] changes: &[(usize, u8)], #[case] gib: u64) {
    let mut image = ddr4();
    changes.iter().for_each(|(at, byte)| image[*at] = *byte);
    assert_eq!(Spd::read(&image).unwrap().bytes, Some(gib * GIB));
}

#[rstest]
#[case::two_ranks(&[(234, 0x08)], 32)]
#[case::sixteen_lanes(&[(6, 0x40)], 8)]
#[case::stack_of_four(&[(4, 0x64)], 64)]
#[case::twenty_four_gigabit(&[(4, 0x05)], 24)]
#[case::with_check_bits(&[(235, 0x2a)], 16)]
#[case::two_kinds_of_package(&[(234, 0x48), (8, 0x05), (10, 0x20)], 40)]
fn ddr5_capacities(#[case] changes: &[(usize, u8)], #[case] gib: u64) {
    let mut image = ddr5();
    changes.iter().for_each(|(at, byte)| image[*at] = *byte);
    assert_eq!(Spd::read(&image).unwrap().bytes, Some(gib * GIB));
}

#[rstest]
#[case::ddr3(ddr3(), 20, "general")]
#[case::ddr4_general(ddr4(), 20, "general")]
#[case::ddr4_module(ddr4(), 130, "module")]
#[case::ddr5(ddr5(), 20, "base, module")]
fn a_changed_byte_shows_in_the_sum(#[case] mut image: Vec<u8>, #[case] at: usize, #[case] section: &str) {
    image[at] ^= 0x10;
    assert_eq!(Spd::read(&image).unwrap().bad_sums, [section]);
}

#[rstest]
#[case(&[], SpdError::TooShort(0))]
#[case(&[0x23; 127], SpdError::TooShort(127))]
#[case(&[0; 256], SpdError::Blank)]
#[case(&[0xff; 512], SpdError::Blank)]
#[case(&[0x07; 256], SpdError::OtherKind(7))]
fn what_is_no_image_is_said(#[case] bytes: &[u8], #[case] expected: SpdError) {
    assert_eq!(Spd::read(bytes), Err(expected));
}

#[test]
fn the_first_page_of_a_ddr4_module_alone_tells_size_and_speed() {
    let spd = Spd::read(&ddr4()[..256]).unwrap();
    assert_eq!((spd.bytes, spd.speed, spd.serial.as_str()), (Some(8 * GIB), Some(3200), ""));
}

#[rstest]
#[case::first_bank([0x80, 0x2c], "Micron Technology", "bank 1, code 44")]
#[case::second_bank([0x01, 0x98], "Kingston", "bank 2, code 24")]
#[case::nobody([0xfe, 0x85], "", "bank 127, code 5")]
#[case::unwritten([0x00, 0x00], "", "")]
fn makers(#[case] stored: [u8; 2], #[case] name: &str, #[case] code: &str) {
    let mut image = ddr4();
    put(&mut image, 320, &stored);
    let spd = Spd::read(&image).unwrap();
    assert_eq!((spd.maker.as_str(), spd.maker_code.as_str()), (name, code));
}

proptest! {
    #[test]
    fn any_bytes_are_read_without_harm(kind in prop::sample::select(vec![0x0bu8, 0x0c, 0x12]),
                                       mut bytes in prop::collection::vec(any::<u8>(), 0..1100)) {
        if let Some(byte) = bytes.get_mut(2) {
            *byte = kind;
        }
        if let Ok(spd) = Spd::read(&bytes) {
            prop_assert!(!spd.part.chars().any(char::is_control));
        }
    }
}
