//! The wall without a full screen: a line for each machine.

use std::net::SocketAddr;
use std::sync::Arc;
use std::time::Instant;

use anyhow::Result;
use revisum_records::{DataDir, wall_time};

use super::need::Need;
use super::place::Place;
use super::row::Said;

/// The wall of a counter, line by line.
pub struct WallLines(Place);

impl WallLines {
    /// Opens the counter of these records; `told` is called when something changed.
    ///
    /// # Errors
    /// When the address is taken, or keys and records cannot be kept.
    pub fn open(data: &DataDir, listen: Option<SocketAddr>, told: Arc<dyn Fn() + Send + Sync>) -> Result<Self> {
        Ok(Self(Place::open(data, listen, told)?))
    }

    /// Where machines reach it.
    pub fn address(&self) -> &str {
        &self.0.door.address
    }

    /// What is known of each machine now, by its card. What changes with every second is left out.
    pub fn lines(&mut self) -> Vec<(String, String)> {
        let now = Instant::now();
        let line = |bench: &revisum_link::BenchNow| {
            let said = Said::of(bench, now, wall_time::now_ms());
            let test = said.test.rsplit_once(", ").map_or_else(String::new, |(test, _)| test.to_owned());
            let next = if said.need == Need::Silent { crate::say::wall_silent_short().to_owned() } else { said.next };
            let parts = [
                said.number,
                said.machine,
                said.stage,
                said.headline,
                said.slots,
                test,
                next,
                said.trouble.unwrap_or_default(),
            ];
            (bench.id.clone(), parts.into_iter().filter(|part| !part.is_empty()).collect::<Vec<_>>().join("   "))
        };
        self.0.counter.benches().iter().map(line).collect()
    }
}
