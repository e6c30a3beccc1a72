//! Text that comes from firmware and files is data: it is cleaned before anybody looks at it.

/// Makes foreign text safe to print: control characters become spaces, invisible direction marks go, runs of white
/// space shrink to one space, and no more than `longest` characters remain.
///
/// A firmware string with an escape sequence could otherwise rewrite the screen or the title of the terminal.
pub fn cleaned(text: &str, longest: usize) -> String {
    let visible = text.chars().filter(|c| !is_invisible(*c)).map(|c| if c.is_control() { ' ' } else { c });
    let mut out = String::new();
    let mut kept = 0;
    for c in visible {
        if kept == longest {
            out.push('…');
            break;
        }
        if c.is_whitespace() {
            if out.is_empty() || out.ends_with(' ') {
                continue;
            }
            out.push(' ');
        } else {
            out.push(c);
        }
        kept += 1;
    }
    out.truncate(out.trim_end().len());
    out
}

fn is_invisible(c: char) -> bool {
    matches!(c, '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2060}'..='\u{2069}' | '\u{feff}')
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("  HD8G32J  \0\0", "HD8G32J")]
    #[case("\x1b[2Jgone\x07", "[2Jgone")]
    #[case("a\u{202e}b\u{9b}31mc", "ab 31mc")]
    #[case("\n\n", "")]
    fn nothing_that_steers_a_terminal_survives(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(cleaned(text, 40), expected);
    }

    #[test]
    fn length_is_bounded() {
        assert_eq!(cleaned(&"x".repeat(10_000), 10), format!("{}…", "x".repeat(10)));
    }
}
