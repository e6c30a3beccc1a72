//! Where a wall hangs: the counter that it shows.

use std::net::SocketAddr;
use std::sync::Arc;

use anyhow::{Context as _, Result};
use revisum_link::{Counter, PORT, Shop};
use revisum_records::{DataDir, KeptUp};

use crate::say;

/// What stands over the wall.
#[derive(Clone, Debug, Default)]
pub struct Door {
    /// The shop.
    pub shop: String,
    /// Where its counter listens.
    pub address: String,
    /// Why machines cannot find it without its address, where they cannot.
    pub trouble: Option<String>,
}

/// A counter, and what it listens for.
pub struct Place {
    /// The counter.
    pub counter: Counter,
    /// What stands over the wall.
    pub door: Door,
    _ledger: Option<KeptUp>,
}

impl Place {
    /// Opens the counter of the shop with these records. A shop without keys gets them.
    ///
    /// # Errors
    /// When the address is taken, or keys and records cannot be kept.
    pub fn open(data: &DataDir, listen: Option<SocketAddr>, told: Arc<dyn Fn() + Send + Sync>) -> Result<Self> {
        data.prepare()?;
        revisum_linux::allow_many_files();
        let shop = Shop::open_or_found(&data.link(), say::wall_shop())?;
        let address = listen.unwrap_or_else(|| SocketAddr::from(([0, 0, 0, 0], PORT)));
        let counter = Counter::open(&shop, &data.root(), address, true, told)
            .with_context(|| say::wall_not_opened(address.to_string()))?;
        let door = Door {
            shop: shop.name().to_owned(),
            address: own_addresses(counter.address()),
            trouble: counter.unannounced().map(say::wall_unannounced),
        };
        Ok(Self { counter, door, _ledger: KeptUp::start(data) })
    }
}

/// Where machines reach it: the address that it listens on, or those of this computer.
fn own_addresses(listens: SocketAddr) -> String {
    if !listens.ip().is_unspecified() {
        return listens.to_string();
    }
    let found = revisum_link::own_addresses();
    let all: Vec<String> = found.into_iter().map(|ip| SocketAddr::new(ip, listens.port()).to_string()).collect();
    if all.is_empty() { listens.to_string() } else { all.join("  ") }
}
