//! Functions for the texts of the commands.

fn main() -> Result<(), String> {
    revisum_words_build::write("commands")
}
