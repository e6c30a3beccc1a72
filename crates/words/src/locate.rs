//! Where errors are, what failed, and why that is believed.

use revisum_diagnose::address::{Ground, Layout, Open, Sharing};
use revisum_diagnose::locate::{Group, GroupKind, Location, NamedSlot, NamedWord, Place, Refusal, SameCell, Stopgap};
use revisum_diagnose::signature::{Shape, Signature};
use revisum_engine::units::{PhysAddr, bytes_text};

use crate::said::Said;
use crate::say;

/// Why attributions are as sure as they are, by its word in a journal; older journals have the sentence itself.
pub fn ground(word: &str) -> &str {
    Ground::ALL.into_iter().find(|ground| ground.word() == word).map_or(word, |ground| ground.said())
}

/// Data lines, to be put after a place: `, DQ 16 to 23`.
pub fn data_lines(lines: &[u8]) -> String {
    match *lines {
        [] => String::new(),
        [one] => say::locate_dq_one(one),
        [one, two] => say::locate_dq_two(one, two),
        [first, .., last] => say::locate_dq_range(first, last),
    }
}

/// What is known, as one sentence.
pub fn statement(location: &Location) -> String {
    let Some(signature) = &location.signature else {
        let none = location.distinct == 0;
        return if none { say::locate_none_known() } else { say::locate_beyond() }.to_owned();
    };
    let lanes = data_lines(&signature.lanes);
    let words = match location.is_whole {
        true => say::locate_words_failed(location.distinct),
        false => say::locate_words_sample(location.distinct, location.failures),
    };
    let strays = match signature.strays {
        0 => String::new(),
        strays => say::locate_strays(strays),
    };
    say::locate_statement(place(&location.place), shapes(signature), lanes, words, strays)
}

/// What failed.
pub fn shapes(signature: &Signature) -> String {
    signature.shapes.iter().map(Said::said).collect::<Vec<_>>().join(say::join_or())
}

fn place(place: &Place) -> String {
    let named = |slot: &NamedSlot| match &slot.module {
        Some(module) => format!("{} ({module})", slot.slot),
        None => slot.slot.clone(),
    };
    match place {
        Place::Slots(slots) => slots.iter().map(named).collect::<Vec<_>>().join(say::join_and()),
        Place::OneOf(slots) => say::locate_in_one_of(slots.join(", ")),
        Place::Unknown => say::locate_in_unknown().to_owned(),
    }
}

/// Why a shape points to its causes.
pub fn why(shape: Shape) -> &'static str {
    match shape {
        Shape::Cell | Shape::Row | Shape::Column | Shape::Bank => say::why_inside(),
        Shape::DecoderDoubles => say::why_decoder(),
        Shape::Lane | Shape::LanePair => say::why_lane(),
        Shape::ByteLane => say::why_byte_lane(),
        Shape::AddressLine => say::why_address_line(),
        Shape::HalfModule => say::why_rank(),
        Shape::WholeModule => say::why_whole(),
        Shape::Channel => say::why_channel(),
        Shape::Scattered => say::why_scattered(),
        Shape::Machine => say::why_machine(),
    }
}

/// How much better a clear shape fits than the others.
pub fn fit(location: &Location) -> Option<String> {
    Some(match location.fit()? {
        odds if odds.is_infinite() => say::locate_only_fit().to_owned(),
        odds => say::locate_fit(format!("{odds:.0}")),
    })
}

/// What a failing word did.
pub fn behaviour(word: &NamedWord) -> String {
    let reads = match (word.wrong & word.ones, word.wrong & !word.ones) {
        (_, 0) => say::word_one_for_zero(),
        (0, _) => say::word_zero_for_one(),
        _ => say::word_both(),
    };
    match (word.recurring, word.transient) {
        // Of a flood not every word is read again.
        (0, 0) => reads.to_owned(),
        (_, 0) => say::word_repeats(reads),
        (0, _) => say::word_gone(reads),
        (wrong, right) => say::word_gone_some(reads, right, right + wrong),
    }
}

/// What the words of a group share.
pub fn group(group: &Group) -> String {
    let plain = |number: u32| number.to_string();
    match group.kind {
        GroupKind::Row { rank, bank, row } => say::group_row(plain(rank), plain(bank), plain(row)),
        GroupKind::Column { rank, bank, column } => say::group_column(plain(rank), plain(bank), plain(column)),
        GroupKind::Bank { rank, bank } => say::group_bank(plain(rank), plain(bank)),
        GroupKind::Page { start } => say::group_page(PhysAddr(start).to_string()),
        GroupKind::Rest => say::group_rest().to_owned(),
    }
}

/// What matched cells say, in a sentence; nothing when there are none. `name` tells what people call a module.
pub fn again(cells: &[SameCell], name: &dyn Fn(&str) -> String) -> Option<String> {
    let first = cells.first()?;
    let slots: Vec<&str> = first.slots.iter().map(String::as_str).collect();
    let same = |words: usize| match words {
        1 => say::again_same_one().to_owned(),
        several => say::again_same_some(several),
    };
    Some(match slots[..] {
        [slot] => say::again_stayed(same(cells.len()), name(&first.module), first.runs.len(), slot),
        _ => {
            let moved = cells.iter().filter(|cell| cell.slots.len() > 1).count();
            say::again_moved(same(moved), name(&first.module), slots.join(say::again_then()))
        }
    })
}

/// What has to be known before a workaround is used.
pub fn warning(workaround: &Stopgap) -> String {
    say::workaround_warning(if workaround.guest { say::workaround_own() } else { "" })
}

/// Why there is no workaround.
pub fn refusal(refusal: &Refusal) -> String {
    match refusal {
        Refusal::Nothing => say::refusal_nothing().to_owned(),
        Refusal::NoAddresses => say::refusal_no_addresses().to_owned(),
        Refusal::Shape(shape) => say::refusal_shape(shape.said()),
        Refusal::TooMuch { bytes, ranges } => say::refusal_too_much(bytes_text(*bytes), *ranges),
    }
}

/// Everything that is learned of how slots share addresses, and what is open, a line each.
pub fn layout(layout: &Layout) -> Vec<String> {
    let mut lines = vec![say::layout_channels(sharing(&layout.channels))];
    let several = layout.slots.iter().filter(|(_, sharing)| !matches!(sharing, Sharing::Alone(_)));
    lines.extend(several.map(|(channel, how)| say::layout_channel(channel, sharing(how))));
    lines
}

fn sharing(sharing: &Sharing) -> String {
    let hex = |number: u64| format!("{number:#x}");
    match sharing {
        Sharing::Alone(label) => say::layout_alone(label),
        Sharing::Behind(ends) => {
            let border = |pair: &[(String, u64, u64)]| {
                say::layout_border(&pair[0].0, &pair[1].0, hex(pair[0].2), hex(pair[1].1))
            };
            say::layout_behind(ends.windows(2).map(border).collect::<Vec<_>>().join("; "))
        }
        Sharing::Parities { masks, labels } => {
            let masks: Vec<String> = masks.iter().map(|mask| hex(*mask)).collect();
            let labels: Vec<&str> = labels.iter().map(|(_, label)| label.as_str()).collect();
            say::layout_parities(labels.join(", "), masks.join(", "))
        }
        Sharing::Turns { granule, order } => say::layout_turns(order.join(", "), *granule),
        Sharing::Open(what) => say::layout_open(open(what)),
    }
}

fn open(what: &Open) -> String {
    match what {
        Open::NoWord { labels, so_far } => {
            let so_far = so_far.as_ref().map(|what| say::open_so_far(open(what))).unwrap_or_default();
            say::open_no_word(labels.join(say::join_and()), so_far)
        }
        Open::NoParity => say::open_no_parity().to_owned(),
        Open::Dimensions { more, bits } => {
            let bits: Vec<String> = bits.iter().map(u32::to_string).collect();
            let bits = if bits.is_empty() { say::open_unseen_bits().to_owned() } else { bits.join(", ") };
            say::open_dimensions(*more, bits)
        }
    }
}
