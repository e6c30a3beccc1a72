//! Linear algebra over the field of two elements, on rows of bits.

/// Whether an odd number of bits is set.
pub(super) fn parity(bits: u64) -> bool {
    bits.count_ones() % 2 == 1
}

/// A basis of the span of these vectors, each with a highest bit of its own that no other one has, the highest first.
pub(super) fn basis(vectors: impl IntoIterator<Item = u64>) -> Vec<u64> {
    let mut rows: Vec<u64> = Vec::new();
    for vector in vectors {
        let left = reduced(&rows, vector);
        if left != 0 {
            let top = highest(left);
            rows.iter_mut().filter(|row| **row >> top & 1 == 1).for_each(|row| *row ^= left);
            rows.push(left);
        }
    }
    rows.sort_unstable_by(|a, b| b.cmp(a));
    rows
}

/// What is left of a vector once the rows are taken out of it: zero where it lies in their span.
pub(super) fn reduced(rows: &[u64], vector: u64) -> u64 {
    rows.iter().fold(vector, |left, row| if left >> highest(*row) & 1 == 1 { left ^ row } else { left })
}

/// A basis of all masks below `bits` that have even parity on every one of these vectors.
pub(super) fn complement(rows: &[u64], bits: u32) -> Vec<u64> {
    let rows = basis(rows.iter().copied());
    let pivots: Vec<u32> = rows.iter().map(|row| highest(*row)).collect();
    let free = (0..bits).filter(|bit| !pivots.contains(bit));
    // A free bit, and with it the highest bit of each row that it stands in.
    let mask = |bit: u32| {
        rows.iter().filter(|row| **row >> bit & 1 == 1).fold(1u64 << bit, |mask, row| mask | 1 << highest(*row))
    };
    basis(free.map(mask))
}

fn highest(vector: u64) -> u32 {
    63 - vector.leading_zeros()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn a_space_and_its_complement_fill_the_whole(vectors in prop::collection::vec(0u64..1 << 20, 0..30)) {
            let span = basis(vectors.iter().copied());
            let masks = complement(&vectors, 20);
            prop_assert_eq!(span.len() + masks.len(), 20);
            prop_assert!(masks.iter().all(|mask| vectors.iter().all(|vector| !parity(mask & vector))));
            prop_assert_eq!(basis(complement(&masks, 20)), span);
        }

        #[test]
        fn what_lies_in_the_span_is_reduced_to_nothing(vectors in prop::collection::vec(1u64..1 << 20, 1..12), chosen in any::<u16>()) {
            let rows = basis(vectors.iter().copied());
            let sum = vectors.iter().enumerate().filter(|(at, _)| chosen >> at & 1 == 1).fold(0, |sum, (_, vector)| sum ^ vector);
            prop_assert_eq!(reduced(&rows, sum), 0);
        }
    }
}
