//! Timings that a memory controller works with, in clocks: of the families whose documents give them for certain.
//!
//! Source: datasheets, volume 2, of the client processors of 2011 to 2013 (TC_DBP and TC_RAP of each channel), and the developer's guide of
//! family 15h, models 00h to 0Fh (42301: D18F2x94 and D18F2x200 of each controller).

use serde::Serialize;

use super::family::{Family, identifier, split};
use super::registers::{Place, Registers};

/// Timings of a channel.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct InForce {
    /// The channel.
    pub channel: u8,
    /// From a read to its data (CL).
    pub cas: u8,
    /// From opening a row to a read (tRCD).
    pub row_to_column: u8,
    /// Closing a row (tRP).
    pub precharge: u8,
    /// A row stays open at least so long (tRAS).
    pub active: u8,
    /// Clocks of a command: 1 or 2, rarely 3.
    pub command_rate: u8,
}

/// Host bridges whose channels have both registers at these offsets.
const HOSTS: [u16; 6] = [0x0100, 0x0104, 0x0108, 0x0150, 0x0154, 0x0158];
const BINS: u32 = 0x4000;
const RAP: u32 = 0x4004;
/// The second channel's registers follow so far behind.
const SECOND: u32 = 0x400;
/// Family 15h.
const CONFIGURATION: u16 = 0x94;
const TIMING: u16 = 0x200;
const CONTROLLERS: u8 = 2;
/// Channels of these families.
const CHANNELS: u8 = 2;

#[derive(Clone, Copy, PartialEq, Eq)]
enum Kind {
    Client,
    Node,
}

fn kind(registers: &Registers) -> Option<Kind> {
    match Family::of(registers).ok()? {
        Family::Client2011 => {
            let (_, host) = split(registers.get(identifier(0))?);
            HOSTS.contains(&host).then_some(Kind::Client)
        }
        Family::Northbridge2011 => Some(Kind::Node),
        _ => None,
    }
}

fn of_channel(kind: Kind, channel: u8) -> [Place; 2] {
    match kind {
        Kind::Client => [BINS, RAP].map(|offset| Place::Mapped { offset: offset + SECOND * u32::from(channel) }),
        Kind::Node => {
            [TIMING, CONFIGURATION].map(|offset| Place::Chosen { chosen: channel, function: CONTROLLERS, offset })
        }
    }
}

/// What has to be read for them; nothing with other controllers.
pub(super) fn places(registers: &Registers) -> Vec<Place> {
    kind(registers)
        .into_iter()
        .flat_map(|kind| (0..CHANNELS).flat_map(move |channel| of_channel(kind, channel)))
        .collect()
}

/// Timings in force of every channel whose registers hold some that memory can have.
pub fn in_force(registers: &Registers) -> Vec<InForce> {
    let Some(kind) = kind(registers) else { return Vec::new() };
    let read = |channel: u8| {
        let [timings, rate] = of_channel(kind, channel).map(|place| registers.get(place));
        let found = match kind {
            Kind::Client => of_client(channel, timings?, rate?),
            Kind::Node => of_node(channel, timings?, rate?),
        };
        found.filter(InForce::can_be)
    };
    (0..CHANNELS).filter_map(read).collect()
}

fn bits(word: u32, lowest: u32, count: u32) -> u8 {
    (word >> lowest & ((1 << count) - 1)) as u8
}

/// Bits 3 to 0 tRCD, 7 to 4 tRP, 11 to 8 CL, 23 to 16 tRAS; bits 31 and 30 of the other register by how many clocks commands are stretched.
fn of_client(channel: u8, bins: u32, rap: u32) -> Option<InForce> {
    let command_rate = match bits(rap, 30, 2) {
        0 => 1,
        2 => 2,
        3 => 3,
        _ => return None,
    };
    Some(InForce {
        channel,
        cas: bits(bins, 8, 4),
        row_to_column: bits(bins, 0, 4),
        precharge: bits(bins, 4, 4),
        active: bits(bins, 16, 8),
        command_rate,
    })
}

/// Bits 4 to 0 CL, 12 to 8 tRCD, 20 to 16 tRP, 29 to 24 tRAS; bit 20 of the other register for two clocks a command.
fn of_node(channel: u8, timing: u32, configuration: u32) -> Option<InForce> {
    Some(InForce {
        channel,
        cas: bits(timing, 0, 5),
        row_to_column: bits(timing, 8, 5),
        precharge: bits(timing, 16, 5),
        active: bits(timing, 24, 6),
        command_rate: 1 + bits(configuration, 20, 1),
    })
}

impl InForce {
    /// DDR3 has these (JESD79-3): 5 to 16 clocks, and a row stays open longer than it takes to open it and to read.
    fn can_be(&self) -> bool {
        let usual = 5..=16;
        usual.contains(&self.cas)
            && usual.contains(&self.row_to_column)
            && usual.contains(&self.precharge)
            && (self.row_to_column + 4..=64).contains(&self.active)
    }

    /// As on a label, with the command rate: `11-11-11-28 2T`.
    pub fn text(&self) -> String {
        let Self { cas, row_to_column, precharge, active, command_rate, .. } = self;
        format!("{cas}-{row_to_column}-{precharge}-{active} {command_rate}T")
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::super::family::NODE;
    use super::*;

    fn client(host: u16, words: [u32; 4]) -> Registers {
        let mut registers = Registers::default();
        registers.insert(identifier(0), u32::from(host) << 16 | 0x8086);
        [0x4000, 0x4004, 0x4400, 0x4404].into_iter().zip(words).for_each(|(offset, word)| {
            registers.insert(Place::Mapped { offset }, word);
        });
        registers
    }

    fn node(words: [u32; 4]) -> Registers {
        let mut registers = Registers::default();
        registers.insert(identifier(0), 0x0001_1022);
        registers.insert(identifier(NODE), 0x1600_1022);
        let places = [(0, 0x200), (0, 0x94), (1, 0x200), (1, 0x94)];
        places.into_iter().zip(words).for_each(|((chosen, offset), word)| {
            registers.insert(Place::Chosen { chosen, function: 2, offset }, word);
        });
        registers
    }

    #[rstest]
    #[case::both_channels(client(0x0150, [0x001c_8bbb, 0x0000_0000, 0x001b_7999, 0x8000_0000]), &["11-11-11-28 1T", "9-9-9-27 2T"])]
    #[case::one_channel_has_no_module(client(0x0100, [0x0018_7999, 0xc000_0000, 0, 0]), &["9-9-9-24 3T"])]
    #[case::a_rate_that_there_is_not(client(0x0100, [0x0018_7999, 0x4000_0000, 0, 0]), &[])]
    #[case::later_hosts_have_other_registers(client(0x0c00, [0x001c_8bbb, 0, 0x001c_8bbb, 0]), &[])]
    #[case::node(node([0x1c0b_0b0b, 0x0010_0000, 0x1809_0909, 0]), &["11-11-11-28 2T", "9-9-9-24 1T"])]
    #[case::rows_that_close_before_they_are_open(node([0x0c0b_0b0b, 0, 0, 0]), &[])]
    fn timings_are_read(#[case] registers: Registers, #[case] expected: &[&str]) {
        let texts: Vec<String> = in_force(&registers).iter().map(InForce::text).collect();
        assert_eq!(texts, expected);
        assert!(places(&registers).iter().all(|place| registers.get(*place).is_some()));
    }

    proptest! {
        #[test]
        fn any_words_give_what_can_be_or_nothing(words in any::<[u32; 4]>()) {
            for registers in [client(0x0104, words), node(words)] {
                for found in in_force(&registers) {
                    prop_assert!(found.can_be() && (1..=3).contains(&found.command_rate), "{found:?}");
                }
            }
        }
    }
}
