//! What this package says: a function for each text of its catalogue.

include!(concat!(env!("OUT_DIR"), "/workbench.rs"));
