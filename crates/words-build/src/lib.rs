//! For the build script of a package that says something to people: a function for each text of its catalogue.
//!
//! The functions are private to the package, so that the compiler refuses a text that there is not, a value too many or too few, and
//! warns of a text that is never said.

use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::path::{Path, PathBuf};

use fluent_syntax::ast::{self, InlineExpression, Pattern, PatternElement};
use fluent_syntax::parser::parse;

/// The folder of all catalogues, a folder in it for each language.
pub fn texts() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../words/texts")
}

/// The functions for `catalogue` are written where the package includes them from: `include!(concat!(env!("OUT_DIR"), "/CATALOGUE.rs"))`.
///
/// # Errors
/// When the catalogue cannot be read, is no Fluent, or the functions cannot be written.
pub fn write(catalogue: &str) -> Result<(), String> {
    let path = texts().join("en").join(format!("{catalogue}.ftl"));
    println!("cargo::rerun-if-changed={}", path.display());
    let source = std::fs::read_to_string(&path).map_err(|error| format!("{}: {error}", path.display()))?;
    let code = functions(&source)?;
    let out = std::env::var("OUT_DIR").map_err(|error| error.to_string())?;
    std::fs::write(Path::new(&out).join(format!("{catalogue}.rs")), code).map_err(|error| error.to_string())
}

/// A function for each text of a catalogue.
///
/// # Errors
/// When it is no Fluent, or an id cannot be a function's name.
pub fn functions(source: &str) -> Result<String, String> {
    let resource = parse(source).map_err(|(_, errors)| format!("{errors:?}"))?;
    let mut code = String::new();
    for entry in &resource.body {
        let ast::Entry::Message(message) = entry else { continue };
        let Some(pattern) = &message.value else { continue };
        function(message.id.name, pattern, &mut code)?;
    }
    Ok(code)
}

fn function(id: &str, pattern: &Pattern<&str>, code: &mut String) -> Result<(), String> {
    if !id.chars().all(|c| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-') {
        return Err(format!("{id} is no name of a function: small letters, digits and hyphens only"));
    }
    let name = id.replace('-', "_");
    let values = values(pattern);
    let said = words(pattern).split_whitespace().collect::<Vec<_>>().join(" ").replace('`', "'");
    let written = if values.is_empty() {
        format!("/// `{said}`\npub(crate) fn {name}() -> &'static str {{ ::revisum_words::fixed({id:?}) }}\n")
    } else {
        let given: String =
            values.iter().map(|value| format!("{value}: impl Into<::revisum_words::Put<'p>>, ")).collect();
        let put: String = values.iter().map(|value| format!("({value:?}, {value}.into()), ")).collect();
        format!(
            "/// `{said}`\n#[allow(clippy::too_many_arguments)]\npub(crate) fn {name}<'p>({given}) -> String {{ \
             ::revisum_words::put({id:?}, &[{put}]) }}\n"
        )
    };
    code.write_str(&written).map_err(|error| error.to_string())
}

/// The values of a text, each once, in the order in which its words first name them.
fn values(pattern: &Pattern<&str>) -> Vec<String> {
    let mut all = BTreeMap::new();
    walk(pattern, &mut |element| {
        if let Found::Value(name) = element {
            let next = all.len();
            all.entry(name.to_owned()).or_insert(next);
        }
    });
    let mut ordered: Vec<(String, usize)> = all.into_iter().collect();
    ordered.sort_by_key(|(_, at)| *at);
    ordered.into_iter().map(|(name, _)| name).collect()
}

/// The words of a text for whoever reads the code, values in braces.
fn words(pattern: &Pattern<&str>) -> String {
    let mut said = String::new();
    walk(pattern, &mut |element| match element {
        Found::Words(words) => said.push_str(words),
        Found::Value(name) => said.push_str(&format!("{{{name}}}")),
    });
    said
}

enum Found<'a> {
    Words(&'a str),
    Value(&'a str),
}

fn walk(pattern: &Pattern<&str>, see: &mut dyn FnMut(Found<'_>)) {
    for element in &pattern.elements {
        match element {
            PatternElement::TextElement { value } => see(Found::Words(value)),
            PatternElement::Placeable { expression: ast::Expression::Inline(inline) } => value(inline, see),
            PatternElement::Placeable { expression: ast::Expression::Select { selector, variants } } => {
                value(selector, see);
                variants.iter().for_each(|variant| walk(&variant.value, see));
            }
        }
    }
}

fn value(inline: &InlineExpression<&str>, see: &mut dyn FnMut(Found<'_>)) {
    match inline {
        InlineExpression::VariableReference { id } => see(Found::Value(id.name)),
        InlineExpression::StringLiteral { value } => see(Found::Words(value)),
        _ => {}
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::plain("all-clean = Clean", &["/// `Clean`", "fn all_clean() -> &'static str", "fixed(\"all-clean\")"])]
    #[case::in_order("at = { $place } of { $all }", &["fn at<'p>(place: impl", ", all: impl", "(\"place\", place.into()), (\"all\""])]
    #[case::once("runs = { $n -> \n    [one] { $n } run\n   *[other] { $n } runs of { $all }\n }", &["fn runs<'p>(n: impl", "all: impl"])]
    #[case::a_term_of_the_glossary("term = SPD\n    .is = what a module says of itself", &["fn term()"])]
    fn a_text_is_a_function(#[case] source: &str, #[case] parts: &[&str]) {
        let code = functions(source).unwrap();
        for part in parts {
            assert!(code.contains(part), "{part} is missing in {code}");
        }
        assert_eq!(code.matches("pub(crate) fn").count(), 1, "{code}");
    }

    #[rstest]
    #[case("Upper = letters")]
    #[case("no fluent")]
    fn what_cannot_be_a_function_is_refused(#[case] source: &str) {
        assert!(functions(source).is_err());
    }
}
