//! The full screen.
use std::path::Path;
use crate::{cli::DemoArgs, exit::Exit};
pub fn real(_data: Option<&Path>) -> anyhow::Result<Exit> { anyhow::bail!("x") }
pub fn demo(_data: Option<&Path>, _args: &DemoArgs) -> anyhow::Result<Exit> { anyhow::bail!("x") }
