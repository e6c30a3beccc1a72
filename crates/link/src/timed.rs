//! A socket whose reading and writing end at a moment, however slowly bytes come.

use std::io::{self, Read, Write};
use std::net::TcpStream;
use std::time::{Duration, Instant};

/// Least time that the system takes for a limit.
const LEAST: Duration = Duration::from_millis(1);

/// A socket with a moment until which everything has to be done.
pub(crate) struct Timed {
    stream: TcpStream,
    until: Instant,
}

impl Timed {
    pub fn new(stream: TcpStream, at_most: Duration) -> Self {
        Self { stream, until: Instant::now() + at_most }
    }

    /// From now on there is so much time.
    pub fn give(&mut self, at_most: Duration) {
        self.until = Instant::now() + at_most;
    }

    fn left(&self) -> io::Result<Duration> {
        let left = self.until.saturating_duration_since(Instant::now());
        if left < LEAST { Err(io::ErrorKind::TimedOut.into()) } else { Ok(left) }
    }
}

impl Read for Timed {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        self.stream.set_read_timeout(Some(self.left()?))?;
        self.stream.read(into)
    }
}

impl Write for Timed {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.stream.set_write_timeout(Some(self.left()?))?;
        self.stream.write(bytes)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.stream.flush()
    }
}
