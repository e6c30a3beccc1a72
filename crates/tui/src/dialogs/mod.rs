//! What can stand in front of any screen.

pub mod choice;
pub mod line;
pub mod notice;
pub mod question;
