//! What the computation found, advises and refuses: a function for each text.

include!(concat!(env!("OUT_DIR"), "/meaning.rs"));
