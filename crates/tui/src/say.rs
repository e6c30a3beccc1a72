//! What the full screen says: a function for each text of its catalogue.

include!(concat!(env!("OUT_DIR"), "/screens.rs"));
