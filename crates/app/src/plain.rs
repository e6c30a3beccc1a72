//! Text for a terminal without control characters: what journals, firmware and files hold is data, and must not rewrite a screen.

use std::io::{self, StdoutLock, Write};

/// A writer that lets through text, line ends and nothing else that a terminal would act on.
pub struct Plain<W> {
    inner: W,
    /// The first byte of a control character of two bytes (U+0080 to U+009F in UTF-8), held back until the second is seen.
    held: bool,
}

/// First byte of U+0080 to U+00BF.
const LEAD: u8 = 0xc2;

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
        Self { inner, held: false }
    }
}

impl<W: Write> Write for Plain<W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let mut clean = Vec::with_capacity(bytes.len() + 1);
        for byte in bytes {
            let held = std::mem::take(&mut self.held);
            match byte {
                0x80..=0x9f if held => clean.push(b' '),
                &LEAD => self.held = true,
                b'\n' => clean.push(b'\n'),
                byte if byte.is_ascii_control() => clean.push(b' '),
                byte => {
                    clean.extend(held.then_some(LEAD));
                    clean.push(*byte);
                }
            }
        }
        self.inner.write_all(&clean)?;
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
    fn only_text_comes_through(#[case] text: &str, #[case] expected: &str) {
        let mut plain = Plain::new(Vec::new());
        // In single bytes: characters may be split between calls.
        text.as_bytes().iter().for_each(|byte| plain.write_all(&[*byte]).unwrap());
        assert_eq!(String::from_utf8(plain.inner).unwrap(), expected);
    }
}
