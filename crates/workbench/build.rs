//! Functions for the texts of this package.

fn main() -> Result<(), String> {
    revisum_words_build::write("workbench")
}
