//! What this package says: a function for each text of its catalogue.

// What is said of servers only.
#![cfg_attr(not(feature = "shared-ledger"), allow(dead_code))]

include!(concat!(env!("OUT_DIR"), "/records.rs"));
