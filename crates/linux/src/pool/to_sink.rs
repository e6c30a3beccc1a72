//! What a piece of the pool found, on its way to who counts it: pages that failed are noted, and what lies on a lost page is left out.

use std::sync::atomic::Ordering;

use revisum_engine::memory::MismatchSink;
use revisum_engine::sweep::{BadLine, BadWord, LINE, Mismatches};

use super::Pool;
use super::kept_out::WithKept;
use crate::sys::bus_error;
use crate::sys::mapping::Mapping;
use crate::sys::pagemap::PAGE;

/// Passes on what one piece of the pool found, in offsets of the lease.
pub(super) struct ToSink<'a> {
    pub pool: &'a Pool,
    pub ground: &'a Mapping,
    /// What is not in a window can be kept.
    pub pooled: Option<&'a WithKept>,
    pub from: u64,
    pub virt: usize,
    /// The page that was noted last as one that failed.
    pub page: Option<usize>,
    /// What the sink said last: it is asked again after each word that it looked at.
    pub looks_again: bool,
    pub sink: &'a mut dyn MismatchSink,
}

impl ToSink<'_> {
    /// A word or line at this offset of the piece read wrong. Where that was arranged the page did not fail.
    #[inline]
    fn note(&mut self, offset: u64) {
        let place = self.virt + offset as usize;
        let page = place / PAGE as usize;
        let arranged = self.pool.poked.load(Ordering::Relaxed) / LINE as u64 == (self.from + offset) / LINE as u64;
        if self.page != Some(page) && !arranged {
            self.page = Some(page);
            self.pooled.into_iter().for_each(|pooled| pooled.failed(place));
        }
    }
}

impl Mismatches for ToSink<'_> {
    fn word(&mut self, word: BadWord) {
        let offset = self.from + word.offset;
        if !self.pool.is_lost(offset) {
            self.note(word.offset);
            let mut again = self.ground.word(self.virt + word.offset as usize);
            self.sink.mismatch(BadWord { offset, ..word }, &mut again);
            self.looks_again = self.sink.looks_again();
        }
    }

    fn line(&mut self, offset: u64, line: &BadLine, down: bool) {
        if self.looks_again {
            line.words(offset, down).for_each(|word| self.word(word));
        } else if !self.pool.is_lost(self.from + offset) {
            self.note(offset);
            self.sink.line(self.from + offset, line);
        }
    }

    fn lines(&mut self, offsets: &[u64], lines: &[BadLine], down: bool) {
        let (first, last) = (offsets.first().copied().unwrap_or(0), offsets.last().copied().unwrap_or(0));
        let (low, high) = (first.min(last), first.max(last));
        let page = |offset: u64| (self.virt as u64 + offset) / PAGE;
        let one_page = page(low) == page(high);
        if self.looks_again || !one_page || !bus_error::none_reported() {
            return offsets.iter().zip(lines).for_each(|(offset, line)| self.line(*offset, line, down));
        }
        // One of them at most was arranged.
        self.note(first);
        self.note(last);
        self.sink.lines(self.from, offsets, lines);
    }

    fn at_once(&self) -> bool {
        self.looks_again
    }
}
