//! What a job came to, as a document for people: first the answer and the next step in an owner's words, then how it was found, then detail.
//!
//! [`Input`] is what is known; [`compose`] makes a [`Document`] of it in one of the [`Language`]s; [`markdown`] and [`pdf`] write it
//! out. Drawings are scenes of `revisum-drawing`.

mod charts;
mod compose;
mod document;
mod flow;
mod input;
mod keys;
mod markdown;
mod paper;
mod speed;
mod written;

pub use charts::charts;
pub use compose::compose;
pub use document::{Block, Document, Figure, Table};
pub use flow::{PdfError, pdf};
pub use input::{Input, Ran, Reached, Shop, ShopError, checksum};
pub use markdown::markdown;
pub use revisum_words::{Language, Texts};
pub use speed::{speed_document, spread_text};
