//! When the cores that compute work and when they rest.

/// Lengths of bursts, and of the pauses between them, in nanoseconds: 50 kHz down to 50 Hz.
const HALVES_NS: [u64; 10] =
    [10_000, 20_000, 50_000, 100_000, 200_000, 500_000, 1_000_000, 2_000_000, 5_000_000, 10_000_000];
/// Each length is kept for so long, and so is steady work before them.
const KEPT_NS: u64 = 100_000_000;

/// How the load behaves for a while.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Phase {
    /// Without a pause.
    Steady,
    /// As long a pause after each burst as the burst was.
    Bursts {
        /// Length of a burst in nanoseconds.
        half_ns: u64,
    },
}

/// What goes on this long after the load began.
pub fn phase(elapsed_ns: u64) -> Phase {
    let round = KEPT_NS * (HALVES_NS.len() as u64 + 1);
    match (elapsed_ns % round / KEPT_NS) as usize {
        0 => Phase::Steady,
        number => Phase::Bursts { half_ns: HALVES_NS[number - 1] },
    }
}

/// Whether the cores work at this moment.
pub fn works(elapsed_ns: u64) -> bool {
    match phase(elapsed_ns) {
        Phase::Steady => true,
        Phase::Bursts { half_ns } => (elapsed_ns % KEPT_NS / half_ns).is_multiple_of(2),
    }
}

/// Nanoseconds until that may be different.
pub fn until_change(elapsed_ns: u64) -> u64 {
    let within = elapsed_ns % KEPT_NS;
    match phase(elapsed_ns) {
        Phase::Steady => KEPT_NS - within,
        Phase::Bursts { half_ns } => half_ns - within % half_ns,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_length_comes_and_takes_half_of_its_time() {
        let round = KEPT_NS * (HALVES_NS.len() as u64 + 1);
        for (number, half_ns) in (1u64..).zip(HALVES_NS) {
            let begin = 3 * round + number * KEPT_NS;
            assert_eq!(phase(begin), Phase::Bursts { half_ns });
            let (mut at, mut working, mut bursts) = (begin, 0, 0);
            while at < begin + KEPT_NS {
                let wait = until_change(at);
                assert_eq!(wait, half_ns);
                if works(at) {
                    working += wait;
                    bursts += 1;
                }
                at += wait;
            }
            assert_eq!((working * 2, bursts * 2 * half_ns), (KEPT_NS, KEPT_NS));
        }
        assert!((0..KEPT_NS).step_by(777).all(|at| phase(at) == Phase::Steady && works(at)));
    }
}
