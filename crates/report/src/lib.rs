//! What a job came to, as a document for people: first the answer and the next step in an owner's words, then how it was found, then detail.
//!
//! [`Input`] is what is known; [`compose`] makes a [`Document`] of it in one of the [`Language`]s; [`markdown`] and [`pdf`] write it
//! out. Charts are SVG documents of their own.

mod charts;
mod compose;
mod document;
mod input;
mod markdown;
mod pdf;
mod speed;
mod texts;

pub use charts::charts;
pub use compose::compose;
pub use document::{Block, Document, Figure, Table};
pub use input::{Input, Ran, Shop, ShopError, checksum};
pub use markdown::markdown;
pub use pdf::{PdfError, pdf};
pub use speed::{speed_document, speed_drawing, speed_figures, spread_text};
pub use texts::{Language, Texts};
