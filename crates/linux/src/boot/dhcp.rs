//! Asking the local network for an address (DHCP, RFC 2131 and 2132): a client that asks, takes the first offer, and asks again when half of its time is over.

use std::io;
use std::net::{Ipv4Addr, UdpSocket};
use std::time::{Duration, Instant};

use smoltcp::wire::{DhcpMessageType, DhcpPacket, DhcpRepr, EthernetAddress};

use crate::sys::interface::bind_to;

const CLIENT: u16 = 68;
const SERVER: u16 = 67;
/// How often is asked, and how long each answer is waited for.
const ATTEMPTS: u32 = 5;
const ANSWER: Duration = Duration::from_secs(3);
/// What is asked for: mask, router (RFC 2132, 3.3 and 3.5).
const WANTED: [u8; 2] = [1, 3];
/// Longest answer.
const LONGEST: usize = 1500;
/// Where none is told an address holds for an hour.
const USUAL: Duration = Duration::from_secs(3600);

/// An address for a while.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Lease {
    pub address: Ipv4Addr,
    pub mask: Ipv4Addr,
    pub router: Option<Ipv4Addr>,
    pub holds: Duration,
}

/// Asks on this interface.
///
/// # Errors
/// When nobody answers, or the interface does not send.
pub(super) fn ask(interface: &str, hardware: [u8; 6]) -> io::Result<Lease> {
    let socket = UdpSocket::bind((Ipv4Addr::UNSPECIFIED, CLIENT))?;
    bind_to(&socket, interface)?;
    socket.set_broadcast(true)?;
    let id = hardware.iter().fold(0x811c_9dc5, |sum: u32, byte| (sum ^ u32::from(*byte)).wrapping_mul(0x0100_0193));
    let mut last = io::Error::from(io::ErrorKind::TimedOut);
    for _ in 0..ATTEMPTS {
        match exchange(&socket, hardware, id) {
            Ok(lease) => return Ok(lease),
            Err(error) => last = error,
        }
    }
    Err(last)
}

fn exchange(socket: &UdpSocket, hardware: [u8; 6], id: u32) -> io::Result<Lease> {
    let say = |bytes: &[u8]| socket.send_to(bytes, (Ipv4Addr::BROADCAST, SERVER));
    say(&message(hardware, id, DhcpMessageType::Discover, None))?;
    let offer = answer(socket, id, DhcpMessageType::Offer)?;
    say(&message(hardware, id, DhcpMessageType::Request, Some((offer.lease.address, offer.server))))?;
    answer(socket, id, DhcpMessageType::Ack).map(|answer| answer.lease)
}

/// What a server says.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Answer {
    kind: DhcpMessageType,
    lease: Lease,
    server: Ipv4Addr,
}

fn answer(socket: &UdpSocket, id: u32, wanted: DhcpMessageType) -> io::Result<Answer> {
    let until = Instant::now() + ANSWER;
    let mut bytes = [0; LONGEST];
    loop {
        let left = until.saturating_duration_since(Instant::now());
        if left.is_zero() {
            return Err(io::ErrorKind::TimedOut.into());
        }
        socket.set_read_timeout(Some(left))?;
        let (length, _) = socket.recv_from(&mut bytes)?;
        match answer_in(&bytes[..length], id) {
            Some(answer) if answer.kind == wanted => return Ok(answer),
            Some(Answer { kind: DhcpMessageType::Nak, .. }) => return Err(io::ErrorKind::ConnectionRefused.into()),
            _ => {}
        }
    }
}

fn message(hardware: [u8; 6], id: u32, kind: DhcpMessageType, request: Option<(Ipv4Addr, Ipv4Addr)>) -> Vec<u8> {
    let repr = DhcpRepr {
        message_type: kind,
        transaction_id: id,
        secs: 0,
        client_hardware_address: EthernetAddress(hardware),
        client_ip: Ipv4Addr::UNSPECIFIED,
        your_ip: Ipv4Addr::UNSPECIFIED,
        server_ip: Ipv4Addr::UNSPECIFIED,
        router: None,
        subnet_mask: None,
        relay_agent_ip: Ipv4Addr::UNSPECIFIED,
        broadcast: true,
        requested_ip: request.map(|(address, _)| address),
        client_identifier: Some(EthernetAddress(hardware)),
        server_identifier: request.map(|(_, server)| server),
        parameter_request_list: Some(&WANTED),
        dns_servers: None,
        max_size: Some(LONGEST as u16),
        lease_duration: None,
        renew_duration: None,
        rebind_duration: None,
        additional_options: &[],
    };
    let mut bytes = vec![0; repr.buffer_len()];
    // It has just the length that it asked for.
    let _ = repr.emit(&mut DhcpPacket::new_unchecked(&mut bytes));
    bytes
}

/// The answer in a packet, if it is one to this question and names an address.
fn answer_in(bytes: &[u8], id: u32) -> Option<Answer> {
    let packet = DhcpPacket::new_checked(bytes).ok()?;
    let repr = DhcpRepr::parse(&packet).ok().filter(|repr| repr.transaction_id == id)?;
    let lease = Lease {
        address: repr.your_ip,
        mask: repr.subnet_mask.unwrap_or(Ipv4Addr::new(255, 255, 255, 0)),
        router: repr.router.filter(|router| !router.is_unspecified()),
        holds: repr.lease_duration.map_or(USUAL, |seconds| Duration::from_secs(seconds.into())),
    };
    let is_address = !lease.address.is_unspecified() && !lease.address.is_broadcast() && !lease.address.is_multicast();
    let server = repr.server_identifier.unwrap_or(repr.server_ip);
    (is_address || repr.message_type == DhcpMessageType::Nak).then_some(Answer {
        kind: repr.message_type,
        lease,
        server,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    const HARDWARE: [u8; 6] = [2, 0, 0, 0, 0, 7];

    /// What a server would send back to this.
    fn served(question: &[u8], kind: DhcpMessageType) -> Vec<u8> {
        let packet = DhcpPacket::new_checked(question).unwrap();
        let asked = DhcpRepr::parse(&packet).unwrap();
        let reply = DhcpRepr {
            message_type: kind,
            your_ip: Ipv4Addr::new(192, 0, 2, 9),
            subnet_mask: Some(Ipv4Addr::new(255, 255, 255, 128)),
            router: Some(Ipv4Addr::new(192, 0, 2, 1)),
            server_identifier: Some(Ipv4Addr::new(192, 0, 2, 2)),
            lease_duration: Some(600),
            parameter_request_list: None,
            client_identifier: None,
            max_size: None,
            ..asked
        };
        let mut bytes = vec![0; reply.buffer_len()];
        reply.emit(&mut DhcpPacket::new_unchecked(&mut bytes)).unwrap();
        bytes
    }

    #[test]
    fn an_offer_is_understood_and_asked_for() {
        let question = message(HARDWARE, 5, DhcpMessageType::Discover, None);
        let offer = answer_in(&served(&question, DhcpMessageType::Offer), 5).unwrap();
        let lease = Lease {
            address: Ipv4Addr::new(192, 0, 2, 9),
            mask: Ipv4Addr::new(255, 255, 255, 128),
            router: Some(Ipv4Addr::new(192, 0, 2, 1)),
            holds: Duration::from_secs(600),
        };
        assert_eq!(offer, Answer { kind: DhcpMessageType::Offer, lease, server: Ipv4Addr::new(192, 0, 2, 2) });
        let request = message(HARDWARE, 5, DhcpMessageType::Request, Some((lease.address, offer.server)));
        let packet = DhcpPacket::new_checked(&request).unwrap();
        let asked = DhcpRepr::parse(&packet).unwrap();
        assert_eq!((asked.requested_ip, asked.server_identifier), (Some(lease.address), Some(offer.server)));
    }

    #[test]
    fn what_is_not_for_us_is_passed_over() {
        let question = message(HARDWARE, 5, DhcpMessageType::Discover, None);
        let offer = served(&question, DhcpMessageType::Offer);
        assert_eq!(answer_in(&offer, 6), None);
        assert_eq!(answer_in(&question, 5), None, "it names no address");
        assert!((0..240).all(|length| answer_in(&offer[..length], 5).is_none()), "it is cut short");
        (240..offer.len()).map(|length| answer_in(&offer[..length], 5)).for_each(|answer| {
            assert!(answer.is_none_or(|answer| answer.lease.address == Ipv4Addr::new(192, 0, 2, 9)));
        });
        assert_eq!(answer_in(&[0xff; 400], 5), None);
    }
}
