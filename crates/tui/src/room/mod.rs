//! What a screen is: its keys, what they do, what it hears, and how it is drawn.

pub mod command;
pub mod screen;
pub mod step;
pub mod view;
