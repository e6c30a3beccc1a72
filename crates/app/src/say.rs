//! What commands say: a function for each text of their catalogue.

include!(concat!(env!("OUT_DIR"), "/commands.rs"));
