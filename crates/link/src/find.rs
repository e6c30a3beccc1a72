//! Finding the counter on the local network (multicast DNS, RFC 6762, and service discovery, RFC 6763).

use std::collections::HashMap;
use std::net::{IpAddr, SocketAddr};
use std::time::{Duration, Instant};

use mdns_sd::{ServiceDaemon, ServiceEvent, ServiceInfo};

use crate::error::LinkError;

/// The port that a counter listens on.
pub const PORT: u16 = 7247;
const KIND: &str = "_revisum-link._tcp.local.";
/// The property that says which shop it is.
const SHOP: &str = "shop";

/// What tells shops of one name apart: the checksum of the shop's certificate (CRC-32C).
pub(crate) fn mark_of(shop_certificate: &str) -> String {
    format!("{:08x}", crc32c::crc32c(shop_certificate.trim().as_bytes()))
}

/// Says on the local network that a counter is here, until it is dropped.
pub(crate) struct Announced(ServiceDaemon);

impl Announced {
    /// # Errors
    /// When the network does not take it.
    pub fn now(shop: &str, port: u16) -> Result<Self, LinkError> {
        let daemon = ServiceDaemon::new().map_err(told)?;
        let name = format!("counter-{}", std::process::id());
        let properties = HashMap::from([(SHOP.to_owned(), shop.to_owned())]);
        let info = ServiceInfo::new(KIND, &name, &format!("{name}.local."), "", port, properties).map_err(told)?;
        daemon.register(info.enable_addr_auto()).map_err(told)?;
        Ok(Self(daemon))
    }
}

impl Drop for Announced {
    fn drop(&mut self) {
        // Nobody can be told where this fails.
        let _ = self.0.shutdown();
    }
}

/// Addresses of counters of this shop, the first that answers.
///
/// # Errors
/// When the network cannot be asked.
pub(crate) fn counters(shop: &str, at_most: Duration) -> Result<Vec<SocketAddr>, LinkError> {
    let daemon = ServiceDaemon::new().map_err(told)?;
    let found = daemon.browse(KIND).map_err(told)?;
    let until = Instant::now() + at_most;
    let mut addresses = Vec::new();
    while addresses.is_empty() {
        let Ok(event) = found.recv_timeout(until.saturating_duration_since(Instant::now())) else { break };
        let ServiceEvent::ServiceResolved(service) = event else { continue };
        if service.txt_properties.get_property_val_str(SHOP) == Some(shop) {
            addresses.extend(service.addresses.iter().map(|ip| SocketAddr::new(ip.to_ip_addr(), service.port)));
        }
    }
    // An address of version 4 needs no zone.
    addresses.sort_by_key(|address| !matches!(address.ip(), IpAddr::V4(_)));
    let _ = daemon.shutdown();
    Ok(addresses)
}

/// Addresses by which others reach this computer.
pub fn own_addresses() -> Vec<IpAddr> {
    // Without them the port alone is said.
    let all = if_addrs::get_if_addrs().unwrap_or_default();
    all.into_iter().map(|interface| interface.ip()).filter(|ip| ip.is_ipv4() && !ip.is_loopback()).collect()
}

fn told(error: mdns_sd::Error) -> LinkError {
    LinkError::Io(std::io::Error::other(error.to_string()))
}
