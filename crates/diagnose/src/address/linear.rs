//! Linear functions of address bits over GF(2): how memory controllers hash addresses.

/// A square matrix: output bit `i` is the parity of the input bits in `rows[i]`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct BitMatrix {
    rows: Vec<u64>,
    inverse: Vec<u64>,
}

impl BitMatrix {
    /// Checks that the matrix is one-to-one on inputs of as many bits as it has rows, and keeps its inverse.
    ///
    /// Returns nothing when two inputs would have the same output, or when a row uses higher bits.
    pub fn new(rows: Vec<u64>) -> Option<Self> {
        let inverse = inverse(&rows)?;
        Some(Self { rows, inverse })
    }

    /// Number of input bits, which is the number of output bits.
    pub fn bits(&self) -> usize {
        self.rows.len()
    }

    /// Input to output.
    pub fn apply(&self, input: u64) -> u64 {
        product(&self.rows, input)
    }

    /// Output to input.
    pub fn invert(&self, output: u64) -> u64 {
        product(&self.inverse, output)
    }
}

fn product(rows: &[u64], input: u64) -> u64 {
    rows.iter().enumerate().fold(0, |output, (bit, row)| output | u64::from(parity(row & input)) << bit)
}

/// Whether an odd number of bits is set.
pub(super) fn parity(bits: u64) -> bool {
    bits.count_ones() % 2 == 1
}

/// Gauss–Jordan elimination over GF(2) on the matrix beside the identity.
fn inverse(rows: &[u64]) -> Option<Vec<u64>> {
    let size = rows.len();
    if size > 63 || rows.iter().any(|row| row >> size != 0) {
        return None;
    }
    let mut left = rows.to_vec();
    let mut right: Vec<u64> = (0..size).map(|bit| 1 << bit).collect();
    for column in 0..size {
        let pivot = (column..size).find(|row| left[*row] >> column & 1 == 1)?;
        left.swap(column, pivot);
        right.swap(column, pivot);
        for row in (0..size).filter(|row| *row != column) {
            if left[row] >> column & 1 == 1 {
                left[row] ^= left[column];
                right[row] ^= right[column];
            }
        }
    }
    Some(right)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// A matrix that is one-to-one by construction: row operations on the identity.
    fn invertible() -> impl Strategy<Value = Vec<u64>> {
        prop::collection::vec((0usize..20, 0usize..20), 0..80).prop_map(|steps| {
            let mut rows: Vec<u64> = (0..20).map(|bit| 1u64 << bit).collect();
            for (into, from) in steps {
                if into != from {
                    rows[into] ^= rows[from];
                }
            }
            rows
        })
    }

    proptest! {
        #[test]
        fn the_inverse_undoes(rows in invertible(), input in 0u64..1 << 20) {
            let matrix = BitMatrix::new(rows).expect("built one-to-one");
            prop_assert_eq!(matrix.invert(matrix.apply(input)), input);
            prop_assert_eq!(matrix.apply(matrix.invert(input)), input);
        }

        #[test]
        fn a_doubled_row_is_refused(rows in invertible(), from in 0usize..20, step in 1usize..20) {
            let mut doubled = rows;
            doubled[(from + step) % 20] = doubled[from];
            prop_assert_eq!(BitMatrix::new(doubled), None);
        }
    }
}
