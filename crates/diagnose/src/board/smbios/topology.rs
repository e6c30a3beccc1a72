//! Where a slot is: processor socket, node, controller, channel and card, from the two names that firmware gives it, in the habits of many
//! makers. A letter or number that could mean several things tells nothing.

use std::collections::BTreeSet;

use revisum_record::fitted::Slot;

/// What the names of a slot tell.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Site {
    /// Number of the processor socket, as the firmware counts.
    pub socket: Option<String>,
    /// Number of the node.
    pub node: Option<String>,
    /// Number of the controller.
    pub controller: Option<String>,
    /// Number of the card, riser or board that the slot is on.
    pub card: Option<String>,
    /// Letter or number of the channel.
    pub channel: Option<String>,
}

/// Words before a number, the longest first.
const SOCKET: [&str; 5] = ["PROCESSOR", "SOCKET", "PROC", "CPU", "P"];
const NODE: [&str; 2] = ["NODE", "N"];
const CONTROLLER: [&str; 3] = ["CONTROLLER", "IMC", "MC"];
const CARD: [&str; 5] = ["MEMCARD", "MEMORY CARD", "RISER", "BOARD", "CARD"];
const CHANNEL: [&str; 3] = ["CHANNEL", "CHAN", "CH"];

impl Site {
    /// From both names; where they tell different things the bank's is the finer one.
    pub fn of(locator: &str, bank: &str) -> Self {
        let (locator, bank) = (locator.to_uppercase(), bank.to_uppercase());
        let either = |words: &[&str]| number_behind(&bank, words).or_else(|| number_behind(&locator, words));
        let socket = either(&SOCKET);
        let letter = || socket.as_ref().and_then(|_| channel_letter(&locator));
        Self {
            node: either(&NODE),
            controller: either(&CONTROLLER),
            card: either(&CARD),
            channel: channel_behind(&bank).or_else(|| channel_behind(&locator)).or_else(letter),
            socket,
        }
    }
}

/// Every place of these words where no letter stands before them.
fn starts<'a>(text: &'a str, words: &'a [&str]) -> impl Iterator<Item = &'a str> {
    words.iter().flat_map(move |word| {
        let whole = move |(at, _): &(usize, &str)| !text[..*at].ends_with(|c: char| c.is_alphabetic());
        text.match_indices(word).filter(whole).map(move |(at, _)| &text[at + word.len()..])
    })
}

/// The number right behind one of these words.
fn number_behind(text: &str, words: &[&str]) -> Option<String> {
    starts(text, words).find_map(|rest| {
        let digits = rest.trim_start_matches([' ', '_', '-', '#', ':']);
        let end = digits.find(|c: char| !c.is_ascii_digit()).unwrap_or(digits.len());
        let number = digits[..end].parse::<u16>().ok()?;
        Some(number.to_string())
    })
}

/// `CHANNEL B`, `ChannelA-DIMM0`, `CHAN A`, `CHB2`, `Channel-0`: one letter or a number.
fn channel_behind(text: &str) -> Option<String> {
    starts(text, &CHANNEL)
        .find_map(|rest| {
            let rest = rest.trim_start_matches([' ', '_', '-', '#', ':']);
            let run: String = rest.chars().take_while(char::is_ascii_alphanumeric).collect();
            let digits = run.chars().all(|c| c.is_ascii_digit());
            let letter = run.chars().next().filter(|c| ('A'..='P').contains(c))?;
            // More letters would be a word: `CHASSIS`, or the `DIMM` of a channel without a name.
            run[1..].chars().all(|c| c.is_ascii_digit()).then(|| letter.to_string()).filter(|_| !digits)
        })
        .or_else(|| number_behind(text, &CHANNEL))
}

/// `P1-DIMMA1`, `CPU1_DIMM_B2`, `DIMM_P0_C0`: behind a socket's number one letter, then a number. Turned around they may mean something else.
fn channel_letter(locator: &str) -> Option<String> {
    // A letter of its own behind a socket may be anything.
    let last = locator.contains("DIMM").then(|| locator.rsplit(['_', '-', ' ']).next())??;
    letter_and_number(last.trim_start_matches("SODIMM").trim_start_matches("DIMM"))
        .map(|(letter, _)| letter.to_string())
}

fn letter_and_number(name: &str) -> Option<(char, u16)> {
    let letter = name.chars().next().filter(|c| ('A'..='P').contains(c))?;
    Some((letter, name[1..].parse().ok()?))
}

/// Names each slot's channel so that no two channels of the machine have one name, and its socket where there are several.
pub(super) fn settle(slots: &mut [Slot], sites: &[Site], processors: usize) {
    let told = |of: fn(&Site) -> Option<&String>| -> BTreeSet<&String> { sites.iter().filter_map(of).collect() };
    let several = |of: fn(&Site) -> Option<&String>| told(of).len() > 1;
    let with_socket = several(|site| site.socket.as_ref());
    let with_node = several(|site| site.node.as_ref());
    let with_controller = several(|site| site.controller.as_ref());
    let with_card = several(|site| site.card.as_ref());
    for (slot, site) in slots.iter_mut().zip(sites) {
        slot.socket = site.socket.clone().filter(|_| with_socket);
        let part = |with: bool, sign: &str, number: &Option<String>| {
            number.as_ref().filter(|_| with).map(|number| format!("{sign}{number}"))
        };
        slot.channel = site.channel.as_ref().map(|channel| {
            let before = [
                part(with_socket, "P", &site.socket),
                part(with_node && !with_socket, "N", &site.node),
                part(with_card && !with_socket, "card ", &site.card),
                part(with_controller, "C", &site.controller),
                Some(channel.clone()),
            ];
            before.into_iter().flatten().collect::<Vec<_>>().join("-")
        });
    }
    if processors < 2 && slots.iter().all(|slot| slot.channel.is_none()) {
        by_letters(slots);
    }
}

/// More slots of one letter than this are a processor's or a row's, no channel's.
const MOST_ON_A_CHANNEL: usize = 2;

/// `DIMM_A1 DIMM_A2 DIMM_B1 DIMM_B2`, `DIMM_A DIMM_B`, `A1 B1`: where one processor has one or two slots of each of two or four letters, the
/// letters are its channels.
fn by_letters(slots: &mut [Slot]) {
    let letters: Option<Vec<char>> = slots.iter().map(|slot| letter_of(&slot.id)).collect();
    let Some(letters) = letters else { return };
    let kinds: BTreeSet<char> = letters.iter().copied().collect();
    let of = |letter: char| letters.iter().filter(|other| **other == letter).count();
    let each = kinds.iter().map(|letter| of(*letter)).collect::<BTreeSet<usize>>();
    let ascending = kinds.iter().zip('A'..).all(|(letter, expected)| *letter == expected);
    let fits = matches!(kinds.len(), 2 | 4) && ascending && each.len() == 1;
    if fits && each.iter().all(|count| *count <= MOST_ON_A_CHANNEL) {
        for (slot, letter) in slots.iter_mut().zip(letters) {
            slot.channel = Some(letter.to_string());
        }
    }
}

fn letter_of(id: &str) -> Option<char> {
    let upper = id.to_uppercase();
    let name = ["SO-DIMM", "SODIMM", "DIMM", ""].iter().find_map(|before| upper.strip_prefix(before))?;
    let name = name.trim_start_matches([' ', '_', '-']);
    match name.len() {
        1 => name.chars().next().filter(char::is_ascii_uppercase),
        _ => letter_and_number(name).map(|(letter, _)| letter),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    /// Names in the habits of many firmwares; what they tell of socket, node, controller, card and channel.
    #[rstest]
    #[case::channel_in_both("DIMM 0", "P0 CHANNEL B", ["0", "", "", "", "B"])]
    #[case::in_the_locator("ChannelA-DIMM0", "BANK 0", ["", "", "", "", "A"])]
    #[case::controller("Controller1-ChannelA-DIMM0", "BANK 0", ["", "", "1", "", "A"])]
    #[case::everything("P2-DIMME1", "P1_Node1_Channel0_Dimm0", ["1", "1", "", "", "0"])]
    #[case::node_only("DIMM_A1", "NODE 1 CHANNEL 0 DIMM 0", ["", "1", "", "", "0"])]
    #[case::short_word("J8J1", "CHAN A DIMM 1", ["", "", "", "", "A"])]
    #[case::shortest_word("DIMM CHB2", "", ["", "", "", "", "B"])]
    #[case::number("Channel-3-DIMM-0", "", ["", "", "", "", "3"])]
    #[case::letter_behind_a_socket("CPU1_DIMM_B2", "", ["1", "", "", "", "B"])]
    #[case::socket_within("DIMM_P0_C0", "", ["0", "", "", "", "C"])]
    #[case::letter_behind_dimm("P1-DIMMA1", "", ["1", "", "", "", "A"])]
    #[case::number_then_letter("PROC 1 DIMM 2D", "", ["1", "", "", "", ""])]
    #[case::path("D3", "/SYS/MB/P1", ["1", "", "", "", ""])]
    #[case::cards("DIMM5", "Node1/Bank2/MemCard3", ["", "1", "", "3", ""])]
    #[case::boards("Board 2, DIMM 05", "", ["", "", "", "2", ""])]
    #[case::nothing("DIMM 1", "BANK 1", ["", "", "", "", ""])]
    #[case::bottom("Bottom - Slot 1", "BANK 0", ["", "", "", "", ""])]
    #[case::a_word("CHASSIS DIMM", "", ["", "", "", "", ""])]
    #[case::top("TOP 1", "", ["", "", "", "", ""])]
    fn sites(#[case] locator: &str, #[case] bank: &str, #[case] expected: [&str; 5]) {
        let [socket, node, controller, card, channel] =
            expected.map(|text| Some(text.to_owned()).filter(|text| !text.is_empty()));
        assert_eq!(Site::of(locator, bank), Site { socket, node, controller, card, channel });
    }

    fn settled(names: &[(&str, &str)], processors: usize) -> Vec<(Option<String>, Option<String>)> {
        let mut slots: Vec<Slot> = names.iter().map(|(id, _)| Slot { id: (*id).into(), ..Slot::default() }).collect();
        let sites: Vec<Site> = names.iter().map(|(locator, bank)| Site::of(locator, bank)).collect();
        settle(&mut slots, &sites, processors);
        slots.into_iter().map(|slot| (slot.socket, slot.channel)).collect()
    }

    /// Channels of two sockets, nodes or controllers are not one channel; a machine with one of each keeps short names.
    #[rstest]
    #[case::sockets(&[("D1", "P0_Node0_Channel0_Dimm0"), ("D2", "P1_Node1_Channel0_Dimm0")], 2, &["P0-0", "P1-0"])]
    #[case::nodes(&[("D1", "NODE 0 CHANNEL 0"), ("D2", "NODE 1 CHANNEL 0")], 2, &["N0-0", "N1-0"])]
    #[case::controllers(&[("Controller0-ChannelA-DIMM0", ""), ("Controller1-ChannelA-DIMM0", "")], 1, &["C0-A", "C1-A"])]
    #[case::one(&[("ChannelA-DIMM0", ""), ("ChannelB-DIMM0", "")], 1, &["A", "B"])]
    #[case::letters(&[("DIMM_A1", ""), ("DIMM_A2", ""), ("DIMM_B1", ""), ("DIMM_B2", "")], 1, &["A", "A", "B", "B"])]
    #[case::single_letters(&[("DIMM_A", ""), ("DIMM_B", "")], 1, &["A", "B"])]
    #[case::letters_of_sockets(&[("A1", ""), ("A2", ""), ("B1", ""), ("B2", "")], 2, &["", "", "", ""])]
    #[case::too_many(&[("A1", ""), ("A2", ""), ("A3", ""), ("B1", ""), ("B2", ""), ("B3", "")], 1, &[""; 6])]
    #[case::one_letter(&[("A1", ""), ("A2", "")], 1, &["", ""])]
    #[case::unequal(&[("A1", ""), ("A2", ""), ("B1", "")], 1, &["", "", ""])]
    #[case::numbers(&[("DIMM 1", ""), ("DIMM 2", "")], 1, &["", ""])]
    fn channels_of_a_machine(#[case] names: &[(&str, &str)], #[case] processors: usize, #[case] expected: &[&str]) {
        let channels: Vec<String> =
            settled(names, processors).into_iter().map(|(_, channel)| channel.unwrap_or_default()).collect();
        assert_eq!(channels, expected);
    }

    #[test]
    fn the_socket_is_told_only_where_there_are_several() {
        let two = settled(&[("CPU0 DIMM1", ""), ("CPU1 DIMM1", "")], 2);
        assert_eq!(two.iter().map(|(socket, _)| socket.as_deref()).collect::<Vec<_>>(), [Some("0"), Some("1")]);
        assert_eq!(settled(&[("CPU1 DIMM1", ""), ("CPU1 DIMM2", "")], 1)[0].0, None);
    }
}
