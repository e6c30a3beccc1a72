//! Which faults a march test detects: every fault of the standard models on a small array, tried out.
//!
//! Nothing here is looked up. The test is run on an array of [`CELLS`] one-bit cells with one fault (for linked faults,
//! two) in it, for every initial content and every choice of direction of its `any` elements. A fault counts as detected
//! only when a read differs from what it expects in all of them.
//!
//! Fault primitives are written ⟨S/F/R⟩ as by van de Goor and Al-Ars, *Functional memory faults: a formal notation and a
//! taxonomy*, VTS 2000: the sensitising operation, what the cell holds afterwards, what a read returns.

mod array;
mod as_run;
mod models;

#[cfg(test)]
mod tests;

use serde::Serialize;
use thiserror::Error;

use self::array::Array;
use self::models::Fault;
use crate::march::{Element, March, Op, Order};

pub use self::as_run::{AsRun, AtDistance, DISTANCES, as_run, found_from, grade_as_run};
pub use self::models::Model;

/// Cells of the array: enough for three different cells and one that has nothing to do with them.
pub const CELLS: usize = 4;
/// Most `any` elements: each doubles the work.
const MOST_ANY: usize = 12;

/// How many faults of a model a test detects.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct Share {
    /// Detected whatever the memory holds at first and whichever way `any` goes.
    pub detected: usize,
    /// Faults of this model on the array.
    pub of: usize,
    /// Detected by of.
    pub share: f64,
}

/// Why a test cannot be graded.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum GradeError {
    /// A read that good memory would fail.
    #[error(
        "element {element} reads {found} expecting what was not written there: good memory would fail this test. \
         Write before reading, and read what was written last"
    )]
    GoodMemoryFails {
        /// Element, from 1.
        element: usize,
        /// The element.
        found: String,
    },
    /// Too many directions to try.
    #[error("the test has {0} elements of any direction; at most {MOST_ANY} can be tried in both. Write up or down")]
    TooManyDirections(usize),
}

/// The share of each model's faults that the test detects, in a fixed order of models.
///
/// # Errors
/// When good memory would fail the test, or it has too many elements of any direction.
pub fn grade(march: &March) -> Result<Vec<(Model, Share)>, GradeError> {
    let (sweeps, any) = prepared(march)?;
    let share = |model: Model| {
        let faults = model.faults();
        let detected = faults.iter().filter(|fault| is_detected(&sweeps, any, fault)).count();
        Share { detected, of: faults.len(), share: detected as f64 / faults.len() as f64 }
    };
    Ok(Model::ALL.into_iter().map(|model| (model, share(model))).collect())
}

/// Which faults of all models, in a fixed order, the test detects.
///
/// # Errors
/// As for [`grade`].
pub fn detected(march: &March) -> Result<Vec<bool>, GradeError> {
    let (sweeps, any) = prepared(march)?;
    let faults = Model::ALL.into_iter().flat_map(|model| model.faults());
    Ok(faults.map(|fault| is_detected(&sweeps, any, &fault)).collect())
}

/// Directions and operations of the sweeping elements.
type Sweeps<'a> = Vec<(Order, &'a [Op])>;

/// Sweeps of a march that good memory passes, and how many of them may go either way.
fn prepared(march: &March) -> Result<(Sweeps<'_>, usize), GradeError> {
    let sweeps: Sweeps<'_> = march
        .0
        .iter()
        .filter_map(|element| match element {
            Element::Sweep { order, ops } => Some((*order, ops.as_slice())),
            // Retention is not among these models.
            Element::Idle(_) => None,
        })
        .collect();
    let any = sweeps.iter().filter(|(order, _)| *order == Order::Any).count();
    if any > MOST_ANY {
        return Err(GradeError::TooManyDirections(any));
    }
    check_good_memory(march)?;
    Ok((sweeps, any))
}

/// Every read has to expect what was written last; before the first write nothing is known.
fn check_good_memory(march: &March) -> Result<(), GradeError> {
    let mut holds = None;
    for (at, element) in march.0.iter().enumerate() {
        let Element::Sweep { ops, .. } = element else { continue };
        for op in ops {
            match *op {
                Op::Write { inverse } => holds = Some(inverse),
                Op::Read { inverse } if holds != Some(inverse) => {
                    return Err(GradeError::GoodMemoryFails { element: at + 1, found: element.to_string() });
                }
                Op::Read { .. } => {}
            }
        }
    }
    Ok(())
}

fn is_detected(sweeps: &[(Order, &[Op])], any: usize, fault: &Fault) -> bool {
    (0..1u32 << any).all(|directions| Array::every_start(fault).all(|array| fails(sweeps, directions, array)))
}

/// Whether some read of the test differs from what it expects.
fn fails(sweeps: &[(Order, &[Op])], directions: u32, mut array: Array<'_>) -> bool {
    let mut any = 0;
    for (order, ops) in sweeps {
        let down = match order {
            Order::Up => false,
            Order::Down => true,
            Order::Any => {
                any += 1;
                directions >> (any - 1) & 1 == 1
            }
        };
        for step in 0..CELLS {
            let address = if down { CELLS - 1 - step } else { step };
            for op in *ops {
                match *op {
                    Op::Write { inverse } => array.write(address, inverse),
                    Op::Read { inverse } if array.read(address) != inverse => return true,
                    Op::Read { .. } => {}
                }
            }
        }
    }
    false
}
