//! What all screens see of machine, job and run, what they can ask for, and what that comes to. They only read it.

pub mod chosen;
pub mod effect;
pub mod facts;
pub mod news;
pub mod run;
pub mod state;
