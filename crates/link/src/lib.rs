//! The link between a machine under test and the counter.
//!
//! A machine sends what it has recorded, byte for byte as it stands in its files, what it waits for, and its picture while somebody looks at it. The
//! counter answers each frame with how much it has and with the keys that were pressed there. Only the machine calls, and only the counter
//! listens. Each knows the other by a certificate that the shop's own key has signed (X.509, RFC 5280, over TLS 1.3, RFC 8446), and the
//! counter by the certificate itself, so that a drive that was lost can be shut out.
//!
//! Files are copied by position: the counter tells how long its copy is and the checksum of it, and the machine goes on there if its own file begins with
//! the same bytes. Nothing is lost or doubled, wherever the link breaks; the machine's drive stays the truth.

mod bench;
mod card;
mod copies;
mod counter;
mod error;
mod find;
mod frame;
mod held;
mod message;
mod name;
mod secure;
mod shop;
mod timed;

#[cfg(test)]
mod tests;

pub use bench::{Bench, Linked, Source, hear_foreign};
pub use card::Card;
pub use copies::{Copies, CopyOf};
pub use counter::{BenchNow, Counter, Foreign, Silence};
pub use error::LinkError;
pub use find::{PORT, own_addresses};
pub use message::{At, Key, Look, Order, Picture, Refusal, Row, Span, Standing};
pub use shop::{Issued, Shop};
