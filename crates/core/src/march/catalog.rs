//! The tests that can be chosen, as data.

use crate::march::March;
use crate::pattern::Background;

/// Which background a test of the catalogue uses; the random one takes the seed of the pass.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum BackgroundKind {
    /// All zeros, inverse all ones.
    Solid,
    /// Each word its own address.
    AddressAsData,
    /// New random words in each pass.
    Random,
}

/// One test of the catalogue.
#[derive(Clone, Copy, Debug)]
pub struct TestSpec {
    /// Name on the command line, in recipes and in journals.
    pub name: &'static str,
    /// Name on the screen.
    pub title: &'static str,
    /// What it is for, in one plain sentence.
    pub purpose: &'static str,
    /// March notation.
    pub notation: &'static str,
    /// Data background.
    pub background: BackgroundKind,
}

impl TestSpec {
    /// The elements of the test.
    pub fn march(&self) -> March {
        self.notation.parse().expect("every notation of the catalogue is parsed by a test")
    }

    /// The background for a pass with this seed.
    pub fn background(&self, pass_seed: u64) -> Background {
        match self.background {
            BackgroundKind::Solid => Background::Solid(0),
            BackgroundKind::AddressAsData => Background::AddressAsData,
            BackgroundKind::Random => Background::Random(pass_seed),
        }
    }
}

/// All tests, broad and cheap ones first: the order in which a pass runs them.
pub static CATALOG: [TestSpec; 3] = [
    TestSpec {
        name: "random",
        title: "random",
        purpose: "Fills all memory with random words and reads them back, then the same with every bit turned over: \
                  the most faults for the time.",
        notation: "any(w0); any(r0); any(w1); any(r1)",
        background: BackgroundKind::Random,
    },
    TestSpec {
        name: "address-as-data",
        title: "address as data",
        purpose: "Writes its own address into every word, then the inverse from the top down: two addresses that \
                  reach the same cell overwrite each other.",
        notation: "up(w0); up(r0,w1); down(r1)",
        background: BackgroundKind::AddressAsData,
    },
    TestSpec {
        name: "march-c-",
        title: "march C−",
        purpose: "Walks up and down the addresses turning every cell over and back: finds cells that stick, fail to \
                  change, or disturb another cell. Source: Marinescu 1982 as shortened by van de Goor 1991.",
        notation: "any(w0); up(r0,w1); up(r1,w0); down(r0,w1); down(r1,w0); any(r0)",
        background: BackgroundKind::Solid,
    },
];

/// The test of this name.
pub fn find_test(name: &str) -> Option<&'static TestSpec> {
    CATALOG.iter().find(|test| test.name == name)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;
    use crate::march::Op;

    #[test]
    fn every_notation_parses_and_prints_as_written() {
        for test in &CATALOG {
            assert_eq!(test.march().to_string(), test.notation, "{}", test.name);
        }
    }

    /// A test that reads a value which nothing wrote would report errors on good memory.
    #[test]
    fn every_read_expects_what_was_written_last() {
        for test in &CATALOG {
            let mut holds = None;
            for element in test.march().0 {
                let crate::march::Element::Sweep { ops, .. } = element else { continue };
                for op in ops {
                    match op {
                        Op::Write { inverse } => holds = Some(inverse),
                        Op::Read { inverse } => assert_eq!(holds, Some(inverse), "{}", test.name),
                    }
                }
            }
        }
    }

    #[rstest]
    #[case("march-c-", 10)]
    #[case("address-as-data", 4)]
    #[case("random", 4)]
    fn lengths(#[case] name: &str, #[case] ops: usize) {
        assert_eq!(find_test(name).unwrap().march().ops_per_cell(), ops);
    }
}
