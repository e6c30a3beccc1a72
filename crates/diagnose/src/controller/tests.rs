//! Registers decoded by hand, and what is refused.

use proptest::prelude::*;
use revisum_engine::units::{GIB, PhysAddr};
use rstest::rstest;

use super::*;

fn host(offset: u16) -> Place {
    Place::Config { device: 0, function: 0, offset }
}

/// A machine of 2015 with these registers: 8 GiB in each channel, devices from 2 GiB on.
fn client() -> Registers {
    let mut registers = Registers::default();
    let words = [
        (0x00, 0x191f_8086),
        (0x70, 0),
        (0x74, 0),
        (0x78, 0),
        (0x7c, 0),
        (0x90, 0x0000_0000),
        (0x94, 0x4),
        (0x98, 0x7ff0_0000),
        (0x9c, 0x4),
        (0xa0, 0x0000_0000),
        (0xa4, 0x4),
        (0xa8, 0x8000_0000),
        (0xac, 0x4),
        (0xbc, 0x8000_0000),
    ];
    words.into_iter().for_each(|(offset, value)| registers.insert(host(offset), value));
    let mapped = [(0x5000, 8 << 12), (0x500c, 8), (0x5010, 8), (0x5024, 0x1200_0000 | 0x30cc << 6)];
    mapped.into_iter().for_each(|(offset, value)| registers.insert(Place::Mapped { offset }, value));
    registers
}

/// By hand: bits 8, 9, 12, 13, 18 and 19 choose, and what devices hide lies behind the end of memory.
#[rstest]
#[case(0, 0, 0)]
#[case(0x100, 1, 0)]
#[case(0x200, 1, 0x100)]
#[case(0xff, 0, 0xff)]
#[case(0x1ff, 1, 0xff)]
#[case(0x300, 0, 0x100)]
#[case(0x1000, 1, 0x800)]
#[case(0xc_3300, 0, 0x6_1900)]
#[case(4 * GIB, 0, 2 * GIB)]
#[case(16 * GIB, 0, GIB)]
#[case(16 * GIB + 0x100, 1, GIB)]
fn a_client_by_hand(#[case] address: u64, #[case] channel: u8, #[case] inside: u64) {
    let map = decode(&client()).unwrap().map;
    let (found, at) = map.channel(PhysAddr(address)).unwrap();
    assert_eq!((found.number, at), (channel, inside));
    assert_eq!(map.locate(PhysAddr(address)), [Position { channel, slot: 0 }]);
}

#[rstest]
#[case(2 * GIB)]
#[case(4 * GIB - 1)]
#[case(18 * GIB)]
fn devices_are_nowhere(#[case] address: u64) {
    let map = decode(&client()).unwrap().map;
    assert!(map.channel(PhysAddr(address)).is_none() && map.locate(PhysAddr(address)).is_empty());
    assert!(map.run(PhysAddr(address)).contains(address));
}

/// One register with another value, and what is said of it.
#[rstest]
#[case(host(0), 0x1234_8086, Refusal::Unknown { vendor: 0x8086, device: 0x1234 })]
#[case(host(0), 0x191f_1af4, Refusal::Unknown { vendor: 0x1af4, device: 0x191f })]
#[case(host(0), 0x1450_1022, Refusal::Missing(Place::Config { device: 0x18, function: 0, offset: 0 }))]
#[case(host(0xa4), 3, Contradiction::Sizes.into())]
#[case(host(0xbc), 0x8000_0002, Contradiction::Reserved.into())]
#[case(host(0xbc), 0x7000_0000, Contradiction::Window.into())]
#[case(Place::Mapped { offset: 0x5000 }, 4 << 12, Contradiction::Channels.into())]
#[case(Place::Mapped { offset: 0x5010 }, 4, Contradiction::Channels.into())]
#[case(Place::Mapped { offset: 0x500c }, 4, Contradiction::Channels.into())]
#[case(Place::Mapped { offset: 0x500c }, 16, Contradiction::Sizes.into())]
#[case(Place::Mapped { offset: 0x5024 }, 0x1200_0000 | 0x30c8 << 6, Undocumented::ChannelHash.into())]
fn a_client_that_is_refused(#[case] place: Place, #[case] value: u32, #[case] why: Refusal) {
    let mut registers = client();
    registers.insert(place, value);
    assert_eq!(decode(&registers), Err(why));
}

#[test]
fn what_was_not_read_is_named() {
    let mut registers = Registers::default();
    client().iter().filter(|(place, _)| *place != host(0xbc)).for_each(|(place, value)| registers.insert(place, value));
    assert_eq!(decode(&registers), Err(Refusal::Missing(host(0xbc))));
}

fn board(slots: &[(&str, Option<&str>, u64)]) -> revisum_record::fitted::Board {
    use revisum_record::fitted::{Board, Module, Slot};
    let slot = |(id, channel, gib): &(&str, Option<&str>, u64)| Slot {
        id: (*id).into(),
        channel: channel.map(str::to_owned),
        module: (*gib > 0).then(|| Module { bytes: gib * GIB, ..Module::default() }),
        ..Slot::default()
    };
    Board { slots: slots.iter().map(slot).collect(), ..Board::default() }
}

/// The slot of channel 0 and of channel 1, by the names that a board has.
#[rstest]
#[case::letters(&[("DIMM_A1", Some("A"), 0), ("DIMM_A2", Some("A"), 8), ("DIMM_B1", Some("B"), 0), ("DIMM_B2", Some("B"), 8)], &["DIMM_A2", "DIMM_B2"])]
#[case::numbers(&[("DIMM 0", Some("0"), 8), ("DIMM 1", Some("1"), 8)], &["DIMM 0", "DIMM 1"])]
#[case::no_names(&[("X", None, 8), ("Y", None, 8)], &["X Y", "X Y"])]
#[case::other_names(&[("X", Some("C"), 8), ("Y", Some("D"), 8)], &["X Y", "X Y"])]
fn labels_by_name(#[case] slots: &[(&str, Option<&str>, u64)], #[case] expected: &[&str]) {
    let labelled = Labelled::new(decode(&client()).unwrap().map, &board(slots), &ShownChannels::default()).unwrap();
    let at = |address| labelled.joined(PhysAddr(address)).unwrap().to_owned();
    assert_eq!([at(0), at(0x100)], [expected[0], expected[1]]);
}

/// Sizes tell more than names that contradict them.
#[test]
fn labels_by_size() {
    let mut registers = client();
    let words = [(host(0xa4), 6), (host(0x94), 6), (host(0x9c), 6), (host(0xac), 6)];
    words.into_iter().for_each(|(place, value)| registers.insert(place, value));
    registers.insert(Place::Mapped { offset: 0x5000 }, 8 << 12 | 1 << 4);
    registers.insert(Place::Mapped { offset: 0x5010 }, 16);
    let map = decode(&registers).unwrap().map;
    let slots = [("DIMM_A1", Some("A"), 16), ("DIMM_B1", Some("B"), 8)];
    let labelled = Labelled::new(map.clone(), &board(&slots), &ShownChannels::default()).unwrap();
    let found: Vec<_> = labelled.labels().collect();
    let of = |channel, slot: &str| (Position { channel, slot: 0 }, vec![slot.to_owned()], Naming::Sizes);
    assert_eq!(found, [of(0, "DIMM_B1"), of(1, "DIMM_A1")]);
    // What is left of the larger channel follows behind the end of what both share.
    assert_eq!(labelled.slots(PhysAddr(17 * GIB)), Some(vec!["DIMM_A1".to_owned()]));
    assert_eq!(
        Labelled::new(map, &board(&[("A", None, 16), ("B", None, 16)]), &ShownChannels::default()),
        Err(Contradiction::Sizes.into())
    );
}

/// Registers of a machine with these modules in GiB, for each channel.
fn with_modules(channels: [&[u64]; 2]) -> Registers {
    let mut registers = client();
    let sums = channels.map(|modules| modules.iter().sum::<u64>());
    let larger = u32::from(sums[1] > sums[0]);
    let top = sums[0] + sums[1];
    let high = (top.max(4) * GIB, (top.max(4) * GIB) + 2 * GIB * u64::from(top > 2));
    let limit = if top > 2 { high.1 - 1024 * 1024 } else { 0 };
    let base = if top > 2 { high.0 } else { 0x7f_fff0_0000 };
    for (offset, value) in [(0x90, base), (0x98, limit), (0xa0, top * GIB), (0xa8, high.1)] {
        registers.insert(host(offset), value as u32);
        registers.insert(host(offset + 4), (value >> 32) as u32);
    }
    registers.insert(Place::Mapped { offset: 0x5000 }, (sums[0].min(sums[1]) as u32) << 12 | larger << 4);
    for (offset, modules) in [0x500c, 0x5010].into_iter().zip(channels) {
        let mut sizes = [modules.first().copied().unwrap_or(0), modules.get(1).copied().unwrap_or(0)];
        sizes.sort_unstable_by(|a, b| b.cmp(a));
        registers.insert(Place::Mapped { offset }, sizes[0] as u32 | (sizes[1] as u32) << 16);
    }
    registers
}

/// A board whose names tell nothing, and its registers: each slot with its channel and the GiB in it.
pub(crate) fn arranged(slots: &[(u8, u64)]) -> (Registers, revisum_record::fitted::Board) {
    const NAMES: [&str; 4] = ["P", "Q", "R", "S"];
    let of = |channel| {
        slots.iter().filter(|(own, gib)| *own == channel && *gib > 0).map(|(_, gib)| *gib).collect::<Vec<_>>()
    };
    let named: Vec<_> = NAMES.iter().zip(slots).map(|(name, (_, gib))| (*name, None, *gib)).collect();
    (with_modules([&of(0), &of(1)]), board(&named))
}

/// Two equal modules in slots whose names tell nothing; one is taken out, and both slots are known.
#[test]
fn one_module_taken_out_names_the_channels() {
    let (before, after) = (arranged(&[(1, 8), (0, 8)]), arranged(&[(1, 8), (0, 0)]));
    let seen = [(&before.0, &before.1), (&after.0, &after.1)];
    let alone = ShownChannels::of([seen[0]]);
    assert_eq!((alone.count(), alone.channel("P")), (0, None));
    let shown = ShownChannels::of(seen);
    assert_eq!([shown.channel("P"), shown.channel("Q")], [Some(1), Some(0)]);
    let labelled = Labelled::new(decode(&before.0).unwrap().map, &before.1, &shown).unwrap();
    assert_eq!(labelled.slots(PhysAddr(0)), Some(vec!["Q".to_owned()]));
    assert!(labelled.labels().all(|(_, slots, naming)| slots.len() == 1 && naming == Naming::Shown));
    // Arrangements that cannot be of one mainboard show nothing.
    let other = arranged(&[(0, 8), (1, 0)]);
    assert_eq!(ShownChannels::of([seen[0], seen[1], (&other.0, &other.1)]).count(), 0);
}

proptest! {
    /// A module that goes to a slot of the other channel, or to the table, shows its slot's channel: always, and never a wrong one.
    #[test]
    fn one_moved_module_shows_its_slot(
        channels in Just(vec![0u8, 0, 1, 1]).prop_shuffle(),
        mut sizes in prop::collection::vec(prop::sample::select(vec![0u64, 8, 8, 8, 16]), 4),
        from in 0usize..4,
        to in 0usize..5,
    ) {
        sizes[from] = sizes[from].max(8);
        let now: Vec<(u8, u64)> = channels.iter().copied().zip(sizes.iter().copied()).collect();
        let mut then = now.clone();
        then[from].1 = 0;
        let free = to < 4 && to != from && sizes[to] == 0;
        if free {
            then[to].1 = sizes[from];
        }
        let some = |slots: &[(u8, u64)]| slots.iter().any(|(_, gib)| *gib > 0);
        prop_assume!(some(&then));
        let (before, after) = (arranged(&now), arranged(&then));
        let shown = ShownChannels::of([(&before.0, &before.1), (&after.0, &after.1)]);
        for (name, (channel, _)) in ["P", "Q", "R", "S"].iter().zip(&now) {
            prop_assert!(shown.channel(name).is_none_or(|told| told == *channel), "{} of {:?}", name, now);
        }
        if !free || channels[from] != channels[to] {
            prop_assert_eq!(shown.channel(["P", "Q", "R", "S"][from]), Some(channels[from]));
        }
    }
}

#[test]
fn a_file_says_the_same() {
    let registers = client();
    let text = registers.text();
    assert_eq!(Registers::parse(&text), Ok(registers));
    assert_eq!(Registers::parse(""), Ok(Registers::default()));
    assert_eq!(Registers::parse(&text.replacen("config", "konfig", 1)), Err(RegistersError::Sum));
    let sum = |lines: &str| format!("{lines}sum {:08x}\n", crc32c::crc32c(lines.as_bytes()));
    assert_eq!(Registers::parse(&sum("mapped 5000 1\nmapped 5000 1\n")), Err(RegistersError::Twice(2)));
    assert_eq!(Registers::parse(&sum("mapped 5000\n")), Err(RegistersError::Line(1)));
}

proptest! {
    /// Nothing that a file can hold does harm, and whatever is taken for a map is one: no two addresses come to one place.
    #[test]
    fn whatever_registers_hold_is_no_harm(flips in prop::collection::vec((0usize..16, 0u32..32), 1..4), at in 0u64..20 * GIB / 64) {
        let mut registers = client();
        let places: Vec<Place> = registers.iter().map(|(place, _)| place).collect();
        for (which, bit) in flips {
            let place = places[which % places.len()];
            registers.insert(place, registers.get(place).unwrap() ^ 1 << bit);
        }
        if let Ok(Decoded { map, .. }) = decode(&registers) {
            let placed = |line: u64| map.channel(PhysAddr(line * 64)).map(|(channel, at)| (channel.number, at));
            if let Some(place) = placed(at) {
                let near = (at.saturating_sub(40)..at + 40).filter(|other| *other != at);
                prop_assert!(near.into_iter().all(|other| placed(other) != Some(place)));
            }
            let run = map.run(PhysAddr(at * 64));
            prop_assert!(run.contains(at * 64));
            let here = map.locate(PhysAddr(at * 64));
            for other in [run.start, run.end - 1] {
                prop_assert_eq!(&map.locate(PhysAddr(other)), &here);
            }
        }
    }

    #[test]
    fn a_damaged_file_is_refused(byte in 0usize..600, bit in 0u8..8) {
        let mut text = client().text().into_bytes();
        let at = byte % text.len();
        text[at] ^= 1 << bit;
        let read = String::from_utf8(text).ok().map(|text| Registers::parse(&text));
        prop_assert!(!matches!(read, Some(Ok(ref read)) if *read != client()), "{:?}", read);
    }
}

/// A bus that knows this machine's registers, and nothing else: whoever asks for more, or writes what is no index, fails.
struct FakeBus {
    registers: Registers,
    chosen: u32,
    fabric: u32,
    management: u32,
    /// Reads so far.
    reads: usize,
    /// From this read on every value is another one.
    unsteady_from: usize,
    /// The host bridge shows no mapped registers.
    switched_off: bool,
}

impl FakeBus {
    fn of(registers: Registers) -> Self {
        Self {
            registers,
            chosen: 0,
            fabric: 0,
            management: 0,
            reads: 0,
            unsteady_from: usize::MAX,
            switched_off: false,
        }
    }

    fn value(&mut self, place: Place) -> Result<u32, String> {
        self.reads += 1;
        let value = self.registers.get(place).unwrap_or_else(|| panic!("{place} was asked for"));
        Ok(if self.reads > self.unsteady_from { value ^ (self.reads as u32) << 8 } else { value })
    }
}

/// Where the fake machine shows mapped registers.
const MAPPED: u64 = 0x4_fed1_0000;

impl RegisterBus for FakeBus {
    fn config(&mut self, device: u8, function: u8, offset: u16) -> Result<u32, String> {
        let is_client = self.registers.get(host(0)).is_some_and(|id| id as u16 == 0x8086);
        match (device, function, offset) {
            (0, 0, 0x48) if is_client => Ok(MAPPED as u32 | u32::from(!self.switched_off)),
            (0, 0, 0x4c) if is_client => Ok((MAPPED >> 32) as u32),
            (0x18, 1, 0x10c) => Ok(self.chosen),
            (0x18, 4, 0x98) => {
                let index = self.fabric;
                assert_eq!(index & 1, 1);
                let (instance, function) = ((index >> 16) as u8, (index >> 11 & 7) as u8);
                self.value(Place::Fabric { instance, function, offset: (index & 0x3fc) as u16 })
            }
            (0, 0, 0x64) if !is_client => self.value(Place::Management { address: self.management }),
            _ => {
                let chosen = Place::Chosen { chosen: self.chosen as u8, function, offset };
                let plain = Place::Config { device, function, offset };
                self.value(if self.registers.get(chosen).is_some() { chosen } else { plain })
            }
        }
    }

    fn write_index(&mut self, device: u8, function: u8, offset: u16, value: u32) -> Result<(), String> {
        match (device, function, offset) {
            (0x18, 1, 0x10c) => self.chosen = value,
            (0x18, 4, 0x5c) => self.fabric = value,
            (0, 0, 0x60) => self.management = value,
            _ => panic!("{device:x}.{function} {offset:x} was written"),
        }
        Ok(())
    }

    fn mapped(&mut self, address: u64) -> Result<u32, String> {
        self.value(Place::Mapped { offset: (address - MAPPED) as u32 })
    }
}

#[test]
fn a_client_is_read_whole() {
    let mut bus = FakeBus::of(client());
    assert_eq!(read(&mut bus), (client(), None));
    let mut bus = FakeBus { unsteady_from: 7, ..FakeBus::of(client()) };
    let (so_far, why) = read(&mut bus);
    assert!(matches!(why, Some(NoRead::Unsteady(_))) && so_far.iter().count() == 3, "{why:?}");
}

/// Nothing but its identifier is read of a controller that is not known: any further access of this bus fails the test.
#[rstest]
#[case::emulated(&[(0, 0x1237_8086)])]
#[case::emulated_with_express(&[(0, 0x29c0_8086)])]
#[case::newer_client(&[(0, 0x4660_8086)])]
#[case::newer_node(&[(0, 0x14d8_1022), (0x18, 0x14e0_1022)])]
#[case::other(&[(0, 0x0001_1d0f)])]
#[case::nothing(&[(0, 0xffff_ffff)])]
fn unknown_controllers_are_left_alone(#[case] identifiers: &[(u8, u32)]) {
    let mut registers = Registers::default();
    for (device, value) in identifiers {
        registers.insert(Place::Config { device: *device, function: 0, offset: 0 }, *value);
    }
    let mut bus = FakeBus::of(registers);
    assert!(matches!(read(&mut bus).1, Some(NoRead::Refused(Refusal::Unknown { .. }))));
    assert_eq!(bus.reads, 2 * identifiers.len());
}

#[test]
fn registers_that_are_switched_off_are_told() {
    let mut bus = FakeBus { switched_off: true, ..FakeBus::of(client()) };
    assert_eq!(read(&mut bus).1, Some(NoRead::Refused(Contradiction::SwitchedOff.into())));
}

#[test]
fn a_lock_is_told() {
    struct Locked(FakeBus);
    impl RegisterBus for Locked {
        fn config(&mut self, device: u8, function: u8, offset: u16) -> Result<u32, String> {
            self.0.config(device, function, offset)
        }
        fn write_index(&mut self, _: u8, _: u8, _: u16, _: u32) -> Result<(), String> {
            Err("locked".into())
        }
        fn mapped(&mut self, _: u64) -> Result<u32, String> {
            Err("locked".into())
        }
    }
    let told = read(&mut Locked(FakeBus::of(client()))).1.unwrap().to_string();
    assert_eq!(told, "the register mapped 05000 cannot be read: locked");
}
