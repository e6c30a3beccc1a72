//! Network interfaces by the old requests of a socket (`netdevice(7)`): enough for a machine with one address.

use std::ffi::CString;
use std::io;
use std::net::{Ipv4Addr, UdpSocket};
use std::os::fd::AsRawFd as _;

/// One interface.
pub(crate) struct Interface {
    name: String,
    socket: UdpSocket,
}

impl Interface {
    /// By its name.
    ///
    /// # Errors
    /// When the kernel has no network.
    pub fn named(name: &str) -> io::Result<Self> {
        Ok(Self { name: name.to_owned(), socket: UdpSocket::bind((Ipv4Addr::UNSPECIFIED, 0))? })
    }

    /// Switches it on.
    ///
    /// # Errors
    /// When its driver refuses.
    pub fn up(&self) -> io::Result<()> {
        let mut request = self.request()?;
        request.ifr_ifru.ifru_flags = (libc::IFF_UP | libc::IFF_RUNNING) as i16;
        self.ask(libc::SIOCSIFFLAGS as libc::c_ulong, &mut request)
    }

    /// Gives it an address.
    ///
    /// # Errors
    /// When the kernel refuses it.
    pub fn address(&self, address: Ipv4Addr, mask: Ipv4Addr) -> io::Result<()> {
        for (kind, address) in [(libc::SIOCSIFADDR, address), (libc::SIOCSIFNETMASK, mask)] {
            let mut request = self.request()?;
            request.ifr_ifru.ifru_addr = socket_address(address);
            self.ask(kind as libc::c_ulong, &mut request)?;
        }
        Ok(())
    }

    /// Sends what goes elsewhere to this address.
    ///
    /// # Errors
    /// When the kernel refuses it.
    pub fn gateway(&self, gateway: Ipv4Addr) -> io::Result<()> {
        // SAFETY: a structure of numbers and pointers, for which zeros are a value.
        let mut route: libc::rtentry = unsafe { std::mem::zeroed() };
        route.rt_dst = socket_address(Ipv4Addr::UNSPECIFIED);
        route.rt_genmask = socket_address(Ipv4Addr::UNSPECIFIED);
        route.rt_gateway = socket_address(gateway);
        route.rt_flags = libc::RTF_UP | libc::RTF_GATEWAY;
        // SAFETY: the kernel reads the structure, which lives until the call returns; its pointers are none.
        let done = unsafe { libc::ioctl(self.socket.as_raw_fd(), libc::SIOCADDRT as _, &raw mut route) };
        if done < 0 { Err(io::Error::last_os_error()) } else { Ok(()) }
    }

    fn request(&self) -> io::Result<libc::ifreq> {
        // SAFETY: a structure of numbers, for which zeros are a value.
        let mut request: libc::ifreq = unsafe { std::mem::zeroed() };
        let name = CString::new(self.name.as_str())?;
        let bytes = name.as_bytes_with_nul();
        if bytes.len() > request.ifr_name.len() {
            return Err(io::ErrorKind::InvalidInput.into());
        }
        request.ifr_name.iter_mut().zip(bytes).for_each(|(to, from)| *to = *from as libc::c_char);
        Ok(request)
    }

    fn ask(&self, kind: libc::c_ulong, request: &mut libc::ifreq) -> io::Result<()> {
        // SAFETY: the kernel reads and writes the structure only, which lives until the call returns.
        let done = unsafe { libc::ioctl(self.socket.as_raw_fd(), kind as _, &raw mut *request) };
        if done < 0 { Err(io::Error::last_os_error()) } else { Ok(()) }
    }
}

/// Lets a socket hear and speak on one interface only, before that has an address.
///
/// # Errors
/// When the kernel refuses it.
pub(crate) fn bind_to(socket: &UdpSocket, name: &str) -> io::Result<()> {
    let at = name.as_ptr().cast();
    let len = name.len() as libc::socklen_t;
    // SAFETY: the kernel reads as many bytes as it is told, all of them of this string.
    let done = unsafe { libc::setsockopt(socket.as_raw_fd(), libc::SOL_SOCKET, libc::SO_BINDTODEVICE, at, len) };
    if done < 0 { Err(io::Error::last_os_error()) } else { Ok(()) }
}

/// An address in the kernel's form, of the family and in network order.
fn socket_address(address: Ipv4Addr) -> libc::sockaddr {
    let mut data = [0 as libc::c_char; 14];
    // Two bytes of a port come first.
    data[2..6].iter_mut().zip(address.octets()).for_each(|(to, from)| *to = from as libc::c_char);
    libc::sockaddr { sa_family: libc::AF_INET as libc::sa_family_t, sa_data: data }
}
