//! Word by word: slow, obviously right, and the measure for every fast kernel. Also does the elements that have none.

use super::{BadWord, ElementWork, Mismatches, Span, flip};
use crate::march::Op;

/// Runs one element over one span, one word after the other.
///
/// # Safety
/// As for [`super::sweep`].
pub unsafe fn sweep(span: Span, work: &ElementWork, bad: &mut dyn Mismatches) {
    let words = span.len / 8;
    for step in 0..words {
        let at = if work.down { words - 1 - step } else { step };
        // SAFETY: `at` is below the number of words in the span.
        let word = unsafe { span.ptr.cast::<u64>().add(at) };
        let plain = work.rule.word(span.first_index.wrapping_add(at as u64));
        for op in &work.ops {
            match *op {
                Op::Write { inverse } => {
                    // SAFETY: within the span, aligned by the caller's promise.
                    unsafe { word.write_volatile(plain ^ flip(inverse)) };
                }
                Op::Read { inverse } => {
                    let expected = plain ^ flip(inverse);
                    // SAFETY: within the span, aligned by the caller's promise.
                    let actual = unsafe { word.read_volatile() };
                    if actual != expected {
                        bad.word(BadWord { offset: at as u64 * 8, expected, actual });
                    }
                }
            }
        }
    }
}
