//! Who sweeps what: turns of cores, and their rounds of shares.

use std::ops::Range;

use crate::catalog::TestSpec;
use crate::recipe::CoreSharing;

/// How cores take turns in one sweep over all memory.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Turns {
    /// All at once, each its share.
    Shares,
    /// This one takes all of it.
    One(usize),
    /// From core to core, block by block.
    Rotate,
}

/// The turns of a test in one pass, one after the other.
pub(super) fn turns(sharing: CoreSharing, spec: &TestSpec, cores: usize) -> Vec<Turns> {
    match sharing {
        _ if spec.rotates => vec![Turns::Rotate],
        CoreSharing::Divide => vec![Turns::Shares],
        CoreSharing::Each => (0..cores.max(1)).map(Turns::One).collect(),
    }
}

/// A piece of the held memory for one core.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Share {
    pub core: usize,
    pub held: Range<u64>,
}

/// Shares of one round run at the same time; rounds run one after the other.
pub(super) type Round = Vec<Share>;

/// Bytes that one core takes at a time when the work moves from core to core.
const ROTATED_BYTES: u64 = 64 << 20;
/// Shares begin at pages, so that no page is split between cores.
const SHARE_ALIGN: u64 = 2 << 20;

/// The rounds of one element over `bytes` of held memory, in the element's direction. Where all cores share the work, each gets as much as
/// its speed is of all of them; the same where no speeds are given.
pub(super) fn rounds(turns: Turns, cores: usize, speeds: &[f64], bytes: u64, down: bool) -> Vec<Round> {
    let cores = cores.max(1);
    match turns {
        Turns::One(core) => vec![vec![Share { core: core % cores, held: 0..bytes }]],
        Turns::Shares => {
            let equal = vec![1.0; cores];
            vec![split(if speeds.len() == cores { speeds } else { &equal }, bytes)]
        }
        Turns::Rotate => {
            let mut rounds: Vec<Round> = pieces(bytes, ROTATED_BYTES)
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

/// One share for each of these speeds, in order; those for which no page is left get none.
fn split(speeds: &[f64], bytes: u64) -> Round {
    let all: f64 = speeds.iter().sum();
    let (mut begin, mut sum, mut shares) = (0, 0.0, Round::new());
    for (core, speed) in speeds.iter().enumerate() {
        sum += speed;
        let end = ((bytes as f64 * (sum / all)) as u64).next_multiple_of(SHARE_ALIGN).min(bytes);
        let end = if core + 1 == speeds.len() { bytes } else { end };
        if end > begin {
            shares.push(Share { core, held: begin..end });
            begin = end;
        }
    }
    shares
}

/// What each core swept and how long that took it, so far.
#[derive(Debug, Default)]
pub(super) struct CoreSpeeds(Vec<(u64, u64)>);

/// A core has to have swept so much before its speed counts.
const MEASURED_BYTES: u64 = 256 << 20;
/// Cores whose speeds lie closer together than this are the same: what is left is chance.
const UNEQUAL: f64 = 0.85;

impl CoreSpeeds {
    /// A core swept something.
    pub fn note(&mut self, core: usize, bytes: u64, busy_ns: u64) {
        if self.0.len() <= core {
            self.0.resize(core + 1, (0, 0));
        }
        self.0[core].0 += bytes;
        self.0[core].1 += busy_ns;
    }

    /// The speeds of so many cores where they are known and differ: a processor may have fast and slow ones, and memory may be near some of
    /// them only.
    pub fn unequal(&self, cores: usize) -> Option<Vec<f64>> {
        let known = self.0.get(..cores)?.iter().all(|(bytes, busy_ns)| *bytes >= MEASURED_BYTES && *busy_ns > 0);
        let speeds: Vec<f64> =
            self.0[..cores].iter().map(|(bytes, busy_ns)| *bytes as f64 / (*busy_ns).max(1) as f64).collect();
        let (slowest, fastest) = (speeds.iter().copied().reduce(f64::min)?, speeds.iter().copied().reduce(f64::max)?);
        (known && slowest < fastest * UNEQUAL).then_some(speeds)
    }
}

fn pieces(bytes: u64, piece: u64) -> impl Iterator<Item = Range<u64>> {
    (0..bytes.div_ceil(piece)).map(move |index| index * piece..((index + 1) * piece).min(bytes))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    proptest! {
        #[test]
        fn every_byte_is_swept_exactly_once(
            turns in prop_oneof![Just(Turns::Shares), (0usize..20).prop_map(Turns::One), Just(Turns::Rotate)],
            cores in 1usize..9,
            pages in 1u64..200_000,
            down in any::<bool>(),
            speeds in proptest::collection::vec(0.1f64..10.0, 0..9),
        ) {
            let bytes = pages * 4096;
            let rounds = rounds(turns, cores, &speeds, bytes, down);
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

    /// Two fast cores and two slow ones: all are done at nearly the same time.
    #[test]
    fn shares_follow_speeds() {
        let mut speeds = CoreSpeeds::default();
        for (core, speed) in [3, 3, 1, 1].into_iter().enumerate() {
            speeds.note(core, speed * MEASURED_BYTES, 1_000_000_000);
        }
        let speeds = speeds.unequal(4).unwrap();
        let round = rounds(Turns::Shares, 4, &speeds, 8 << 30, false).remove(0);
        let seconds = round.iter().map(|share| (share.held.end - share.held.start) as f64 / speeds[share.core]);
        let (least, most) = seconds.fold((f64::MAX, 0f64), |(least, most), time| (least.min(time), most.max(time)));
        assert!(most < least * 1.01, "{least} {most}");
    }

    #[rstest]
    #[case::too_little(&[(1, 1), (1, 9)])]
    #[case::alike(&[(MEASURED_BYTES, 100), (MEASURED_BYTES, 110)])]
    #[case::one_unknown(&[(MEASURED_BYTES, 100)])]
    fn chance_makes_no_difference(#[case] swept: &[(u64, u64)]) {
        let mut speeds = CoreSpeeds::default();
        swept.iter().enumerate().for_each(|(core, (bytes, ns))| speeds.note(core, *bytes, *ns));
        assert_eq!(speeds.unequal(2), None);
    }
}
