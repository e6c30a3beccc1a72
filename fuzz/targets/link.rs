//! What comes over the network: at the door of a counter, from a machine that was let in, and to a machine.

#![no_main]

use std::path::PathBuf;
use std::sync::OnceLock;

use libfuzzer_sys::fuzz_target;
use revisum_link::{Card, Foreign, Shop, hear_foreign};

struct Place {
    folder: PathBuf,
    counter: Foreign,
    card: Card,
}

/// In memory, where there is a file system for that: each input may write.
fn place() -> &'static Place {
    static PLACE: OnceLock<Place> = OnceLock::new();
    PLACE.get_or_init(|| {
        let folder = PathBuf::from(format!("/dev/shm/revisum-fuzz-{}", std::process::id()));
        std::fs::create_dir_all(&folder).unwrap();
        let shop = Shop::open_or_found(&folder.join("link"), "Corner").unwrap();
        let counter = Foreign::below(&folder).unwrap();
        let card = shop.issue(Some(7), Some("127.0.0.1:9")).unwrap();
        Place { folder, counter, card }
    })
}

/// A frame of this length around bytes: most inputs would break off at the length.
fn framed(bytes: &[u8]) -> Vec<u8> {
    let mut frame = (bytes.len() as u32).to_le_bytes().to_vec();
    frame.extend_from_slice(bytes);
    frame
}

fuzz_target!(|bytes: &[u8]| {
    let Place { folder, counter, card } = place();
    let Some((which, bytes)) = bytes.split_first() else { return };
    match which % 5 {
        0 => counter.at_the_door(bytes),
        1 => counter.inside(bytes),
        2 => counter.inside(&framed(bytes)),
        3 => hear_foreign(folder, card, bytes),
        _ => hear_foreign(folder, card, &framed(bytes)),
    }
    // What was written would fill memory in time.
    for kind in ["runs", "jobs"] {
        for file in std::fs::read_dir(folder.join(kind)).into_iter().flatten().flatten() {
            let name = file.file_name();
            assert!(!name.to_string_lossy().starts_with('.'), "no record: {name:?}");
            let _ = std::fs::remove_file(file.path());
        }
    }
});
