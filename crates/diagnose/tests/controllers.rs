//! Registers decoded against an encoder that was written in another language and goes the other way: from a word of a channel to
//! its address. `MACHINES=10000` asks for more of each family.

use std::process::Command;

use revisum_diagnose::controller::{Decoded, Family, Registers, decode};
use revisum_engine::units::PhysAddr;
use rstest::rstest;

const MACHINES: &str = "300";
const SEED: &str = "1";

/// What the encoder says of a word.
struct At {
    address: PhysAddr,
    channel: u8,
    inside: u64,
    slots: Vec<u8>,
}

struct Machine {
    expected: String,
    text: String,
    words: Vec<At>,
}

fn machines(family: Family) -> Vec<Machine> {
    let encoder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/controllers/encoder.py");
    let count = std::env::var("MACHINES").unwrap_or(MACHINES.to_owned());
    let done = Command::new("python3").args([encoder, family.word(), &count, SEED]).output();
    let done = done.expect("python3 is installed; `cargo xtask test` installs it when it may");
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    let mut machines: Vec<Machine> = Vec::new();
    for line in String::from_utf8(done.stdout).unwrap().lines() {
        let words: Vec<&str> = line.split(' ').collect();
        match words[..] {
            ["machine", _, expected] => {
                machines.push(Machine { expected: expected.into(), text: String::new(), words: Vec::new() });
            }
            ["at", address, channel, inside, slots] => machines.last_mut().unwrap().words.push(At {
                address: PhysAddr(u64::from_str_radix(address, 16).unwrap()),
                channel: channel.parse().unwrap(),
                inside: u64::from_str_radix(inside, 16).unwrap(),
                slots: slots.split(',').map(|slot| slot.parse().unwrap()).collect(),
            }),
            ["end"] => {}
            _ => machines.last_mut().unwrap().text.extend([line, "\n"]),
        }
    }
    assert_eq!(machines.len().to_string(), count);
    machines
}

/// The first word that is somewhere else than the encoder says.
fn wrong<'a>(decoded: &Decoded, words: &'a [At]) -> Option<&'a At> {
    words.iter().find(|word| {
        let found = decoded.map.channel(word.address).map(|(channel, inside)| (channel.number, inside));
        let slots: Vec<u8> = decoded.map.locate(word.address).iter().map(|position| position.slot).collect();
        found != Some((word.channel, word.inside)) || slots != word.slots
    })
}

/// Every machine is decoded right, or refused where the encoder made it so; what bits that are turned over do is counted.
#[rstest]
fn registers_are_decoded_right_or_refused(
    #[values(
        Family::Client2011,
        Family::Client2015,
        Family::Northbridge2007,
        Family::Northbridge2011,
        Family::Fabric2017
    )]
    family: Family,
) {
    let machines = machines(family);
    let (mut refused, mut checked, mut flipped, mut believed) = (0, 0, 0, 0);
    for (number, machine) in machines.iter().enumerate() {
        let registers = Registers::parse(&machine.text).unwrap_or_else(|error| panic!("{error}: {}", machine.text));
        match decode(&registers) {
            Ok(decoded) => {
                assert_eq!(machine.expected, "decoded", "{family:?} {number}: {}", machine.text);
                assert_eq!(decoded.family, family);
                if let Some(At { address, channel, inside, .. }) = wrong(&decoded, &machine.words) {
                    let found = decoded.map.channel(*address).map(|(channel, inside)| (channel.number, inside));
                    panic!("{number}: {address:x?}: {channel} {inside:x}, not {found:x?}\n{}", machine.text);
                }
                checked += machine.words.len();
            }
            Err(why) => {
                assert_eq!(machine.expected, "refused", "{family:?} {number}: {why}\n{}", machine.text);
                refused += 1;
                continue;
            }
        }
        let (turned, wrongly) = turned_over(machine, &registers, number);
        flipped += turned;
        believed += wrongly;
    }
    println!(
        "{}: {} machines, {checked} words right, {refused} refused; one bit of a value turned over: {believed} of {flipped} wrong",
        family.word(),
        machines.len()
    );
}

/// Bits tried of each machine.
const FLIPS: usize = 8;

/// With one bit turned over in the file nothing is read; in a value that was read so the rest has to contradict it, or does not. How many
/// of so many came to another map.
fn turned_over(machine: &Machine, registers: &Registers, number: usize) -> (usize, usize) {
    let places: Vec<_> = registers.iter().collect();
    let mut wrongly = 0;
    for flip in 0..FLIPS {
        // Spread over all bits of all registers, another one for each machine.
        let at = (number * FLIPS + flip).wrapping_mul(2_654_435_761) % (places.len() * 32);
        let (place, value) = places[at / 32];
        let mut other = registers.clone();
        other.insert(place, value ^ 1 << (at % 32));
        wrongly += usize::from(decode(&other).is_ok_and(|decoded| wrong(&decoded, &machine.words).is_some()));
        let mut bytes = machine.text.clone().into_bytes();
        let byte = at % bytes.len();
        bytes[byte] ^= 1 << (flip % 8);
        let read = String::from_utf8(bytes).ok().and_then(|text| Registers::parse(&text).ok());
        assert!(read.is_none_or(|read| read == *registers), "bit {flip} of byte {byte}: {}", machine.text);
    }
    (FLIPS, wrongly)
}
