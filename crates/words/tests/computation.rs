//! The crates of computation hold values and no text for people: words are made of them here.
//!
//! Read are the tokens of their source: comments, attributes (with the text of an error for other programs), tests and the reasons of
//! panics are left out.

use std::path::{Path, PathBuf};
use std::str::FromStr;

use proc_macro2::{Delimiter, TokenStream, TokenTree};

/// Files whose text is another's: names of standards, the literature, file formats, and what other programs write or take.
const OF_OTHERS: &[(&str, &str)] = &[
    ("engine/src/catalog/table.rs", "papers and standards"),
    ("engine/src/march/notation.rs", "what the notation has at that place"),
    ("engine/src/speed/loops.rs", "assembler"),
    ("engine/src/tally/buckets.rs", "a journal that cannot be, for its reader"),
    ("diagnose/src/board/log_lines.rs", "what the kernel writes"),
    ("diagnose/src/board/fact_names.rs", "keys of saved facts"),
    ("diagnose/src/board/raw.rs", "what the kernel writes"),
    ("diagnose/src/board/smbios/", "names of the SMBIOS tables"),
    ("diagnose/src/board/spd/", "names of the SPD standards"),
    ("diagnose/src/isolate/case_file.rs", "fields of the case format"),
    ("diagnose/src/isolate/priors.rs", "fields of the file of rates"),
    ("diagnose/src/locate/stopgap.rs", "a command of an operating system"),
    ("diagnose/src/system_log/event_xml.rs", "what operating systems write"),
    ("diagnose/src/system_log/lines.rs", "what operating systems write"),
];

fn sources(folder: &Path, into: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        let name = path.file_name().unwrap().to_string_lossy().into_owned();
        match path.is_dir() {
            true if name != "tests" => sources(&path, into),
            false if name.ends_with(".rs") && !name.contains("tests") => into.push(path),
            _ => {}
        }
    }
}

/// String literals with words in them, without those of attributes, tests and panics.
fn literals(tokens: TokenStream, into: &mut Vec<String>) {
    const OF_PANICS: [&str; 11] = [
        "expect",
        "expect_err",
        "panic",
        "unreachable",
        "assert",
        "assert_eq",
        "assert_ne",
        "debug_assert",
        "debug_assert_eq",
        "todo",
        "unimplemented",
    ];
    let mut tokens = tokens.into_iter().peekable();
    let (mut of_panic, mut of_test) = (false, false);
    while let Some(token) = tokens.next() {
        match token {
            TokenTree::Punct(sign) if sign.as_char() == '#' => {
                // `#[…]` and `#![…]`.
                tokens.next_if(|next| matches!(next, TokenTree::Punct(sign) if sign.as_char() == '!'));
                if let Some(TokenTree::Group(attribute)) = tokens.next() {
                    of_test |= attribute.to_string().replace(' ', "") == "[cfg(test)]";
                }
            }
            TokenTree::Ident(name) => of_panic = OF_PANICS.contains(&name.to_string().as_str()),
            TokenTree::Punct(sign) => {
                of_panic &= sign.as_char() == '!';
                // `#[cfg(test)] mod tests;` ends here.
                of_test &= sign.as_char() != ';';
            }
            TokenTree::Group(group) => {
                let body = group.delimiter() == Delimiter::Brace;
                if !(of_panic || of_test && body) {
                    literals(group.stream(), into);
                }
                of_panic = false;
                of_test &= !body;
            }
            TokenTree::Literal(literal) => {
                let text = literal.to_string();
                if text.contains('"') && is_text(&text) {
                    into.push(text);
                }
            }
        }
    }
}

/// Two words one after the other.
fn is_text(literal: &str) -> bool {
    let is_word = |word: &&str| word.len() > 1 && word.chars().all(|c| c.is_alphabetic() || ",.:;'".contains(c));
    let words: Vec<&str> = literal.trim_matches(|c| "br#\"".contains(c)).split(' ').collect();
    words.windows(2).any(|pair| pair.iter().all(is_word))
}

#[test]
fn texts_are_told_from_values() {
    let source = r##"
        //! One comment here.
        #[error("an error for programs")]
        struct A;
        const KEY: &str = "single-word";
        fn f() { x.expect("never seen here"); panic!("not for people"); let y = "two words"; g("{} MiB", "a {b} c"); }
        #[cfg(test)] mod tests { const T: &str = "of a test"; }
        const LATER: &[u8] = b"more words";
    "##;
    let mut found = Vec::new();
    literals(TokenStream::from_str(source).unwrap(), &mut found);
    assert_eq!(found, ["\"two words\"", "b\"more words\""]);
}

#[test]
fn computation_holds_no_text_for_people() {
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    let mut files = Vec::new();
    for name in ["engine", "record", "diagnose"] {
        sources(&crates.join(name).join("src"), &mut files);
    }
    assert!(files.len() > 100, "{}", files.len());
    let mut found = Vec::new();
    let mut used = [false; OF_OTHERS.len()];
    for file in files {
        let mut texts = Vec::new();
        literals(TokenStream::from_str(&std::fs::read_to_string(&file).unwrap()).unwrap(), &mut texts);
        let name = file.strip_prefix(&crates).unwrap().to_string_lossy().into_owned();
        match OF_OTHERS.iter().position(|(of, _)| name.starts_with(of)) {
            Some(at) if !texts.is_empty() => used[at] = true,
            _ => found.extend(texts.into_iter().map(|text| format!("{name}: {text}"))),
        }
    }
    // What is left out has a reason only as long as there is text in it.
    let idle = OF_OTHERS.iter().zip(used).filter(|(_, used)| !used);
    found.extend(idle.map(|((of, why), _)| format!("{of}: holds no text any more ({why})")));
    assert!(found.is_empty(), "{}", found.join("\n"));
}
