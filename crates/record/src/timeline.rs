//! Wrong words over the time of a run, beside the temperature, in bounded memory however long it runs.

/// Most spans; when time goes on beyond, neighbours become one and every span is twice as long.
pub const MOST_SPANS: usize = 64;
/// How long a span is at first.
const FIRST_SPAN_MS: u64 = 1000;

/// One span of time.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Span {
    /// Words that read wrong in it.
    pub errors: u64,
    /// Highest temperature seen in it, in °C.
    pub celsius: Option<f64>,
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
    Span { errors: spans.iter().fold(0, |all: u64, span| all.saturating_add(span.errors)), celsius: highest }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn nothing_is_lost_however_long_it_runs(records in prop::collection::vec((0u64..1 << 33, 1u64..1000), 1..60)) {
            let mut timeline = Timeline::default();
            for (t_ms, words) in &records {
                timeline.add_errors(*t_ms, *words);
                timeline.add_heat(*t_ms, *words as f64);
            }
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
