//! What can stand in front of any screen.

pub mod choice;
pub mod glossary;
pub mod line;
pub mod notice;
pub mod question;
