//! Functions for the texts of the full screen.

fn main() -> Result<(), String> {
    revisum_words_build::write("screens")
}
