//! The text form of a march test, as in the literature (van de Goor, *Testing Semiconductor Memories*, 1991), typed
//! with words instead of arrows:
//!
//! ```text
//! any(w0); up(r0,w1); up(r1,w0); down(r0,w1); down(r1,w0); any(r0)
//! idle 5s
//! ```
//!
//! An element is one sweep over all addresses; its operations are done on each word in turn. `0` is the data
//! background, `1` its inverse. `idle` waits.

use std::fmt;
use std::str::FromStr;
use std::time::Duration;

use thiserror::Error;

/// The direction in which an element visits the addresses.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Order {
    /// Ascending addresses.
    Up,
    /// Descending addresses.
    Down,
    /// Either direction detects the same; ascending is used.
    Any,
}

/// One operation on one word. The flag tells whether the background's inverse is meant.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Op {
    /// Read and compare.
    Read {
        /// Compare with the inverse of the background.
        inverse: bool,
    },
    /// Write.
    Write {
        /// Write the inverse of the background.
        inverse: bool,
    },
}

/// One sweep over all addresses, or a wait.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Element {
    /// Do all operations on a word, then go to the next word.
    Sweep {
        /// Direction.
        order: Order,
        /// At least one operation.
        ops: Vec<Op>,
    },
    /// Leave the memory alone for this long.
    Idle(Duration),
}

impl Element {
    /// True when the element reads before or without writing, so that what earlier elements left behind is checked.
    pub fn reads(&self) -> bool {
        matches!(self, Self::Sweep { ops, .. } if ops.iter().any(|op| matches!(op, Op::Read { .. })))
    }

    /// True when the element writes.
    pub fn writes(&self) -> bool {
        matches!(self, Self::Sweep { ops, .. } if ops.iter().any(|op| matches!(op, Op::Write { .. })))
    }

    /// Its operations in the pieces that reach the memory one by one: a read with the write behind it, or one operation.
    pub fn pieces(&self) -> Vec<&[Op]> {
        let Self::Sweep { ops, .. } = self else { return Vec::new() };
        pieces(ops)
    }

    /// How often the element goes over the memory; none for a wait.
    pub fn steps(&self) -> usize {
        if let Self::Sweep { ops, .. } = self { count_pieces(ops) } else { 0 }
    }

    /// What the element leaves in each word: `Some(inverse)`, or nothing when it does not write.
    pub fn leaves(&self) -> Option<bool> {
        let Self::Sweep { ops, .. } = self else { return None };
        ops.iter().rev().find_map(|op| match op {
            Op::Write { inverse } => Some(*inverse),
            Op::Read { .. } => None,
        })
    }
}

/// Cuts operations into a read with the write behind it, or one operation.
pub fn pieces(ops: &[Op]) -> Vec<&[Op]> {
    let mut pieces = Vec::new();
    let mut rest = ops;
    while !rest.is_empty() {
        let pair = matches!(rest, [Op::Read { .. }, Op::Write { .. }, ..]);
        let (piece, behind) = rest.split_at(if pair { 2 } else { 1 });
        pieces.push(piece);
        rest = behind;
    }
    pieces
}

/// How many pieces there are.
pub fn count_pieces(ops: &[Op]) -> usize {
    let second_of_a_pair = |pair: &&[Op]| matches!(pair, [Op::Read { .. }, Op::Write { .. }]);
    // A write joins the read before it, and no read joins two writes: pairs never overlap.
    ops.len() - ops.windows(2).filter(second_of_a_pair).count()
}

/// A whole march test: its elements in order.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct March(pub Vec<Element>);

impl March {
    /// Operations on each word over the whole test: the usual measure of a march test's length.
    pub fn ops_per_cell(&self) -> usize {
        self.0.iter().map(|element| if let Element::Sweep { ops, .. } = element { ops.len() } else { 0 }).sum()
    }

    /// How often the test goes over the memory.
    pub fn steps(&self) -> usize {
        self.0.iter().map(Element::steps).sum()
    }

    /// Number of elements that sweep.
    pub fn sweeps(&self) -> usize {
        self.0.iter().filter(|element| matches!(element, Element::Sweep { .. })).count()
    }
}

impl fmt::Display for Op {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let (letter, inverse) = match self {
            Self::Read { inverse } => ('r', inverse),
            Self::Write { inverse } => ('w', inverse),
        };
        write!(f, "{letter}{}", u8::from(*inverse))
    }
}

impl fmt::Display for Element {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Idle(wait) if wait.subsec_millis() == 0 => write!(f, "idle {}s", wait.as_secs()),
            Self::Idle(wait) => write!(f, "idle {}ms", wait.as_millis()),
            Self::Sweep { order, ops } => {
                let word = match order {
                    Order::Up => "up",
                    Order::Down => "down",
                    Order::Any => "any",
                };
                let ops: Vec<String> = ops.iter().map(Op::to_string).collect();
                write!(f, "{word}({})", ops.join(","))
            }
        }
    }
}

impl fmt::Display for March {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let elements: Vec<String> = self.0.iter().map(Element::to_string).collect();
        f.write_str(&elements.join("; "))
    }
}

/// A mistake in the notation, with the place where it was noticed.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("column {column}: expected {expected}, found {found}")]
pub struct NotationError {
    /// Column in characters, from 1.
    pub column: usize,
    /// What would have been right there.
    pub expected: &'static str,
    /// What stands there instead.
    pub found: String,
}

impl FromStr for March {
    type Err = NotationError;

    fn from_str(text: &str) -> Result<Self, NotationError> {
        Reader { chars: text.chars().collect(), at: 0 }.march()
    }
}

/// Longest wait that the notation accepts, in milliseconds: one day.
const LONGEST_IDLE_MS: u64 = 86_400_000;

struct Reader {
    chars: Vec<char>,
    at: usize,
}

impl Reader {
    fn march(mut self) -> Result<March, NotationError> {
        let mut elements = vec![self.element()?];
        loop {
            self.blanks();
            match self.peek() {
                None => return Ok(March(elements)),
                Some(';') => self.at += 1,
                Some(_) => return Err(self.wrong("';' or the end")),
            }
            self.blanks();
            if self.peek().is_none() {
                return Ok(March(elements));
            }
            elements.push(self.element()?);
        }
    }

    fn element(&mut self) -> Result<Element, NotationError> {
        self.blanks();
        let start = self.at;
        let order = match self.word().as_str() {
            "up" => Order::Up,
            "down" => Order::Down,
            "any" => Order::Any,
            "idle" => return self.idle(),
            _ => {
                self.at = start;
                return Err(self.wrong("up, down, any or idle"));
            }
        };
        self.expect('(', "'('")?;
        let mut ops = vec![self.op()?];
        loop {
            self.blanks();
            match self.peek() {
                Some(',') => self.at += 1,
                Some(')') => break,
                _ => return Err(self.wrong("',' or ')'")),
            }
            ops.push(self.op()?);
        }
        self.at += 1;
        Ok(Element::Sweep { order, ops })
    }

    fn op(&mut self) -> Result<Op, NotationError> {
        self.blanks();
        let letter = self.peek().filter(|c| matches!(c, 'r' | 'w')).ok_or_else(|| self.wrong("r0, r1, w0 or w1"))?;
        self.at += 1;
        let inverse = match self.peek() {
            Some('0') => false,
            Some('1') => true,
            _ => return Err(self.wrong("0 or 1")),
        };
        self.at += 1;
        Ok(if letter == 'r' { Op::Read { inverse } } else { Op::Write { inverse } })
    }

    fn idle(&mut self) -> Result<Element, NotationError> {
        self.blanks();
        let start = self.at;
        let mut digits = String::new();
        while let Some(digit) = self.peek().filter(char::is_ascii_digit) {
            digits.push(digit);
            self.at += 1;
        }
        let number: u64 = digits.parse().map_err(|_| self.wrong("a whole number of ms, s or min"))?;
        let unit_at = self.at;
        let unit_ms = match self.word().as_str() {
            "ms" => 1,
            "s" => 1000,
            "min" => 60_000,
            _ => {
                self.at = unit_at;
                return Err(self.wrong("ms, s or min"));
            }
        };
        let wait_ms = number.checked_mul(unit_ms).filter(|ms| *ms <= LONGEST_IDLE_MS);
        wait_ms.map(|ms| Element::Idle(Duration::from_millis(ms))).ok_or_else(|| {
            self.at = start;
            self.wrong("a wait of at most one day")
        })
    }

    fn word(&mut self) -> String {
        let mut word = String::new();
        while let Some(letter) = self.peek().filter(char::is_ascii_alphabetic) {
            word.push(letter);
            self.at += 1;
        }
        word
    }

    fn expect(&mut self, wanted: char, expected: &'static str) -> Result<(), NotationError> {
        self.blanks();
        if self.peek() != Some(wanted) {
            return Err(self.wrong(expected));
        }
        self.at += 1;
        Ok(())
    }

    fn blanks(&mut self) {
        while self.peek().is_some_and(char::is_whitespace) {
            self.at += 1;
        }
    }

    fn peek(&self) -> Option<char> {
        self.chars.get(self.at).copied()
    }

    fn wrong(&self, expected: &'static str) -> NotationError {
        let found = match self.peek() {
            None => "the end".to_owned(),
            Some(_) => format!("{:?}", self.chars[self.at..].iter().take(8).collect::<String>()),
        };
        NotationError { column: self.at + 1, expected, found }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("up(r0,w1)", 1)]
    #[case("up(w0)", 1)]
    #[case("up(r0,r0,w0,r0,w1)", 3)]
    #[case("up(w0,w1,r1)", 3)]
    #[case("idle 5s", 0)]
    fn pieces_are_counted(#[case] element: &str, #[case] pieces: usize) {
        let march: March = element.parse().unwrap();
        assert_eq!((march.0[0].steps(), march.0[0].pieces().len()), (pieces, pieces));
    }

    #[rstest]
    #[case("up(r0,w2)", 8, "0 or 1")]
    #[case("up(r0 w1)", 7, "',' or ')'")]
    #[case("sideways(r0)", 1, "up, down, any or idle")]
    #[case("any(w0); up", 12, "'('")]
    #[case("any()", 5, "r0, r1, w0 or w1")]
    #[case("any(w0) up(r0)", 9, "';' or the end")]
    #[case("idle 5", 7, "ms, s or min")]
    #[case("idle s", 6, "a whole number of ms, s or min")]
    #[case("idle 99999999999min", 6, "a wait of at most one day")]
    #[case("", 1, "up, down, any or idle")]
    fn mistakes_name_column_and_expectation(#[case] text: &str, #[case] column: usize, #[case] expected: &str) {
        let error = text.parse::<March>().unwrap_err();
        assert_eq!((error.column, error.expected), (column, expected), "{error}");
    }

    #[test]
    fn what_an_element_leaves_behind() {
        let march: March = "any(w0); up(r0,w1); any(r1); idle 2s".parse().unwrap();
        let leaves: Vec<_> = march.0.iter().map(Element::leaves).collect();
        assert_eq!(leaves, [Some(false), Some(true), None, None]);
        assert_eq!((march.ops_per_cell(), march.sweeps()), (4, 3));
    }

    fn element() -> impl Strategy<Value = Element> {
        let order = prop_oneof![Just(Order::Up), Just(Order::Down), Just(Order::Any)];
        let op = (any::<bool>(), any::<bool>())
            .prop_map(|(read, inverse)| if read { Op::Read { inverse } } else { Op::Write { inverse } });
        let sweep = (order, prop::collection::vec(op, 1..6)).prop_map(|(order, ops)| Element::Sweep { order, ops });
        prop_oneof![4 => sweep, 1 => (0..LONGEST_IDLE_MS).prop_map(|ms| Element::Idle(Duration::from_millis(ms)))]
    }

    proptest! {
        #[test]
        fn printing_and_parsing_are_inverse(elements in prop::collection::vec(element(), 1..8)) {
            let march = March(elements);
            prop_assert_eq!(march.to_string().parse::<March>(), Ok(march));
        }

        #[test]
        fn any_text_is_refused_or_read_without_panic(text in "[updownay(rw01,); idle9ms\u{e9}]{0,40}") {
            if let Err(error) = text.parse::<March>() {
                prop_assert!(error.column <= text.chars().count() + 1);
            }
        }
    }
}
