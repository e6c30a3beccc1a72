//! The languages that there are: a folder of `texts` each; and functions for what the computation has to say.

use std::fmt::Write as _;
use std::path::{Path, PathBuf};
use std::{env, fs, io};

fn main() -> io::Result<()> {
    println!("cargo::rerun-if-changed=texts");
    let texts = PathBuf::from(env::var("CARGO_MANIFEST_DIR").map_err(io::Error::other)?).join("texts");
    let mut folders = listed(&texts)?;
    // English first: what a language lacks is said in it.
    folders.sort_by_key(|folder| (!folder.ends_with("en"), folder.clone()));
    let mut code = String::from("&[\n");
    for folder in folders {
        write!(code, "Source {{ tag: {:?}, files: &[", name(&folder)).map_err(io::Error::other)?;
        for file in listed(&folder)? {
            let entry = format!("({:?}, include_str!({:?})),", name(&file), file.display().to_string());
            code.push_str(&entry);
        }
        code.push_str("] },\n");
    }
    code.push(']');
    let out = env::var("OUT_DIR").map_err(io::Error::other)?;
    fs::write(Path::new(&out).join("sources.rs"), code)?;
    revisum_words_build::write("meaning").map_err(io::Error::other)
}

fn listed(folder: &Path) -> io::Result<Vec<PathBuf>> {
    let mut all = fs::read_dir(folder)?.map(|entry| Ok(entry?.path())).collect::<io::Result<Vec<_>>>()?;
    all.sort();
    Ok(all)
}

fn name(path: &Path) -> String {
    path.file_stem().unwrap_or_default().to_string_lossy().into_owned()
}
