//! Who sweeps what: core sharing turned into rounds of shares.

use std::ops::Range;

use crate::recipe::CoreSharing;

/// A piece of the held memory for one core.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Share {
    pub core: usize,
    pub held: Range<u64>,
}

/// Shares of one round run at the same time; rounds run one after the other.
pub(super) type Round = Vec<Share>;

/// Bytes that one core takes at a time when the work moves from core to core.
const ROTA_BYTES: u64 = 64 << 20;
/// Shares begin at pages, so that no page is split between cores.
const SHARE_ALIGN: u64 = 2 << 20;

/// How often a test runs in one pass: in a relay each core takes it in turn.
pub(super) fn turns(sharing: CoreSharing, cores: usize) -> usize {
    if sharing == CoreSharing::Relay { cores.max(1) } else { 1 }
}

/// The rounds of one element over `bytes` of held memory, in the element's direction.
pub(super) fn rounds(sharing: CoreSharing, cores: usize, turn: usize, bytes: u64, down: bool) -> Vec<Round> {
    let cores = cores.max(1);
    match sharing {
        CoreSharing::Solo => vec![vec![Share { core: 0, held: 0..bytes }]],
        CoreSharing::Relay => vec![vec![Share { core: turn % cores, held: 0..bytes }]],
        CoreSharing::Split => {
            let share = (bytes / cores as u64).next_multiple_of(SHARE_ALIGN).max(1);
            let shares = pieces(bytes, share).enumerate().map(|(core, held)| Share { core: core % cores, held });
            vec![shares.collect()]
        }
        CoreSharing::Rota => {
            let mut rounds: Vec<Round> = pieces(bytes, ROTA_BYTES)
                .enumerate()
                .map(|(index, held)| vec![Share { core: index % cores, held }])
                .collect();
            if down {
                rounds.reverse();
            }
            rounds
        }
    }
}

fn pieces(bytes: u64, piece: u64) -> impl Iterator<Item = Range<u64>> {
    (0..bytes.div_ceil(piece)).map(move |index| index * piece..((index + 1) * piece).min(bytes))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn every_byte_is_swept_exactly_once(
            sharing in prop_oneof![
                Just(CoreSharing::Solo), Just(CoreSharing::Split), Just(CoreSharing::Relay), Just(CoreSharing::Rota)
            ],
            cores in 1usize..9,
            pages in 1u64..200_000,
            down in any::<bool>(),
        ) {
            let bytes = pages * 4096;
            let rounds = rounds(sharing, cores, 0, bytes, down);
            let mut shares: Vec<Share> = rounds.iter().flatten().cloned().collect();
            prop_assert!(shares.iter().all(|share| share.core < cores));
            for round in &rounds {
                let distinct: std::collections::HashSet<usize> = round.iter().map(|share| share.core).collect();
                prop_assert_eq!(distinct.len(), round.len(), "one share a core at a time");
            }
            shares.sort_by_key(|share| share.held.start);
            prop_assert_eq!(shares.first().map(|share| share.held.start), Some(0));
            prop_assert_eq!(shares.last().map(|share| share.held.end), Some(bytes));
            prop_assert!(shares.windows(2).all(|pair| pair[0].held.end == pair[1].held.start));
        }
    }
}
