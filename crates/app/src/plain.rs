//! Text for a terminal without control characters: what journals, firmware and files hold is data, and must not rewrite a screen.

use std::io::{self, StdoutLock, Write};

use revisum_engine::text::shown_as;

/// A writer that lets through text, line ends and nothing else that a terminal would act on.
pub struct Plain<W> {
    inner: W,
    /// The beginning of a character whose other bytes are yet to come.
    begun: Vec<u8>,
}

/// Standard output.
pub fn stdout() -> Plain<StdoutLock<'static>> {
    Plain::new(io::stdout().lock())
}

/// One line on standard error; where that is closed nobody reads it.
pub fn tell(line: std::fmt::Arguments<'_>) {
    let _ = writeln!(Plain::new(io::stderr().lock()), "{line}");
}

/// Like `eprintln!`, without control characters.
#[macro_export]
macro_rules! tell {
    ($($words:tt)*) => { $crate::plain::tell(format_args!($($words)*)) };
}

impl<W: Write> Plain<W> {
    fn new(inner: W) -> Self {
        Self { inner, begun: Vec::new() }
    }
}

impl<W: Write> Write for Plain<W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let mut all = std::mem::take(&mut self.begun);
        all.extend_from_slice(bytes);
        let mut clean = String::with_capacity(all.len());
        let mut chunks = all.utf8_chunks().peekable();
        while let Some(chunk) = chunks.next() {
            clean.extend(chunk.valid().chars().filter_map(|c| if c == '\n' { Some(c) } else { shown_as(c) }));
            let invalid = chunk.invalid();
            // The end may be half a character; anything else is none.
            let may_go_on =
                chunks.peek().is_none() && std::str::from_utf8(invalid).is_err_and(|error| error.error_len().is_none());
            if may_go_on {
                self.begun = invalid.to_vec();
            } else if !invalid.is_empty() {
                clean.push('?');
            }
        }
        self.inner.write_all(clean.as_bytes())?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.inner.flush()
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("plain words, 1 °C – “so”\n", "plain words, 1 °C – “so”\n")]
    #[case("\u{1b}[2Jgone\u{7}\r\n", " [2Jgone  \n")]
    #[case("a\u{9b}2Jb\u{a0}c", "a 2Jb\u{a0}c")]
    #[case("tab\there", "tab here")]
    #[case("a\u{202e}b\u{2028}c\u{e0041}d\u{61c}\u{feff}", "ab cd")]
    fn only_text_comes_through(#[case] text: &str, #[case] expected: &str) {
        let mut plain = Plain::new(Vec::new());
        // In single bytes: characters may be split between calls.
        text.as_bytes().iter().for_each(|byte| plain.write_all(&[*byte]).unwrap());
        assert_eq!(String::from_utf8(plain.inner).unwrap(), expected);
    }
}
