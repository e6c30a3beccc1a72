//! Wrong words over the time of a run and over its addresses, with the temperature, in bounded memory however long it runs.

/// Most spans; when time goes on beyond, neighbours become one and every span is twice as long.
pub const MOST_SPANS: usize = 64;
/// How long a span is at first.
const FIRST_SPAN_MS: u64 = 1000;

/// Parts that the addresses of a run are told apart in over time.
pub const PARTS: usize = 64;

/// One span of time.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Span {
    /// Words that read wrong in it.
    pub errors: u64,
    /// Highest temperature seen in it, in °C.
    pub celsius: Option<f64>,
    /// Parts of the addresses that words read wrong in, a bit each, the lowest address first.
    pub parts: u64,
}

/// Equal spans of a run's time, from its start.
#[derive(Clone, Debug, PartialEq)]
pub struct Timeline {
    span_ms: u64,
    spans: Vec<Span>,
}

impl Default for Timeline {
    fn default() -> Self {
        Self { span_ms: FIRST_SPAN_MS, spans: Vec::new() }
    }
}

impl Timeline {
    /// Counts words that were reported wrong at this time since the start.
    pub fn add_errors(&mut self, t_ms: u64, words: u64) {
        let span = self.span_at(t_ms);
        span.errors = span.errors.saturating_add(words);
    }

    /// Notes that words in `[from, to)` of `top` bytes were reported wrong at this time since the start.
    pub fn add_place(&mut self, t_ms: u64, from: u64, to: u64, top: u64) {
        let part = |at: u64| (u128::from(at) * PARTS as u128 / u128::from(top.max(1))).min(PARTS as u128 - 1) as u32;
        let (first, last) = (part(from), part(to.saturating_sub(1).max(from)));
        self.span_at(t_ms).parts |= (u64::MAX >> (PARTS as u32 - 1 - (last - first))) << first;
    }

    /// The run has come to this time since the start, whatever happened until then.
    pub fn reach(&mut self, t_ms: u64) {
        self.span_at(t_ms);
    }

    /// Notes a temperature at this time since the start.
    pub fn add_heat(&mut self, t_ms: u64, celsius: f64) {
        let span = self.span_at(t_ms);
        span.celsius = Some(span.celsius.map_or(celsius, |highest| highest.max(celsius)));
    }

    /// Length of each span in milliseconds.
    pub fn span_ms(&self) -> u64 {
        self.span_ms
    }

    /// Spans from the start to the latest record; at most [`MOST_SPANS`].
    pub fn spans(&self) -> &[Span] {
        &self.spans
    }

    fn span_at(&mut self, t_ms: u64) -> &mut Span {
        while t_ms / self.span_ms >= MOST_SPANS as u64 {
            self.spans = self.spans.chunks(2).map(joined).collect();
            self.span_ms = self.span_ms.saturating_mul(2);
        }
        let at = (t_ms / self.span_ms) as usize;
        if self.spans.len() <= at {
            self.spans.resize(at + 1, Span::default());
        }
        &mut self.spans[at]
    }
}

fn joined(spans: &[Span]) -> Span {
    let highest = spans.iter().filter_map(|span| span.celsius).max_by(f64::total_cmp);
    Span {
        errors: spans.iter().fold(0, |all: u64, span| all.saturating_add(span.errors)),
        celsius: highest,
        parts: spans.iter().fold(0, |all, span| all | span.parts),
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::the_lowest(0, 1, 6400, 1)]
    #[case::the_highest(6399, 6400, 6400, 1 << 63)]
    #[case::all(0, 6400, 6400, u64::MAX)]
    #[case::two(50, 150, 6400, 0b11)]
    #[case::up_to_an_end(0, 100, 6400, 0b1)]
    #[case::beyond_the_top(9000, 9001, 6400, 1 << 63)]
    #[case::nothing_held(5, 6, 0, 1 << 63)]
    fn places_are_parts_of_the_addresses(#[case] from: u64, #[case] to: u64, #[case] top: u64, #[case] parts: u64) {
        let mut timeline = Timeline::default();
        timeline.add_place(0, from, to, top);
        assert_eq!(timeline.spans()[0].parts, parts);
    }

    proptest! {
        #[test]
        fn nothing_is_lost_however_long_it_runs(records in prop::collection::vec((0u64..1 << 33, 1u64..1000), 1..60)) {
            let mut timeline = Timeline::default();
            for (t_ms, words) in &records {
                timeline.add_errors(*t_ms, *words);
                timeline.add_heat(*t_ms, *words as f64);
                timeline.add_place(*t_ms, *words % 64, *words % 64 + 1, 64);
            }
            let parts = timeline.spans().iter().fold(0, |all, span| all | span.parts);
            prop_assert_eq!(parts, records.iter().fold(0, |all, record| all | 1 << (record.1 % 64)));
            prop_assert!(timeline.spans().len() <= MOST_SPANS);
            prop_assert_eq!(timeline.spans().iter().map(|span| span.errors).sum::<u64>(), records.iter().map(|record| record.1).sum::<u64>());
            let hottest = timeline.spans().iter().filter_map(|span| span.celsius).fold(0.0, f64::max);
            prop_assert_eq!(hottest, records.iter().map(|record| record.1).max().unwrap() as f64);
            for (t_ms, _) in records {
                prop_assert!(timeline.spans()[(t_ms / timeline.span_ms()) as usize].errors > 0);
            }
        }
    }
}
