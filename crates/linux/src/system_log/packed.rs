//! Logs that were packed away: unpacked while they are read, in a thread of its own, so that none of it takes more memory than a piece.

use std::fs::File;
use std::io::{self, BufRead, BufReader, PipeReader, Read, Write};
use std::thread::JoinHandle;

use flate2::read::MultiGzDecoder;

/// How a file is packed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Packing {
    Gzip,
    Xz,
    Bzip2,
    Zstd,
}

/// By the first bytes of each format's description.
pub(super) fn packing_of(beginning: &[u8]) -> Option<Packing> {
    let all: [(&[u8], Packing); 4] = [
        (b"\x1f\x8b", Packing::Gzip),
        (b"\xfd7zXZ\0", Packing::Xz),
        (b"BZh", Packing::Bzip2),
        (b"\x28\xb5\x2f\xfd", Packing::Zstd),
    ];
    all.into_iter().find(|(magic, _)| beginning.starts_with(magic)).map(|(_, packing)| packing)
}

/// What comes out of a packed file.
pub(super) struct Unpacked {
    out: PipeReader,
    worker: Option<JoinHandle<io::Result<()>>>,
}

impl Unpacked {
    /// Begins.
    ///
    /// # Errors
    /// When there is no pipe or thread for it.
    pub fn begin(file: File, packing: Packing) -> io::Result<Self> {
        let (out, into) = io::pipe()?;
        let work = move || unpack(BufReader::new(file), packing, into);
        let worker = std::thread::Builder::new().name("unpacking".to_owned()).spawn(work)?;
        Ok(Self { out, worker: Some(worker) })
    }
}

impl Read for Unpacked {
    /// At the end the file's own damage is told: what came before it was good.
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let count = self.out.read(into)?;
        match self.worker.take_if(|_| count == 0 && !into.is_empty()).map(JoinHandle::join) {
            None => Ok(count),
            Some(Ok(end)) => end.map(|()| 0),
            Some(Err(_)) => Err(io::Error::other("it is damaged in a way that its reader does not know")),
        }
    }
}

fn unpack(mut file: BufReader<File>, packing: Packing, mut into: impl Write) -> io::Result<()> {
    match packing {
        Packing::Gzip => io::copy(&mut MultiGzDecoder::new(file), &mut into).map(|_| ()),
        Packing::Bzip2 => io::copy(&mut bzip2::read::MultiBzDecoder::new(file), &mut into).map(|_| ()),
        Packing::Xz => lzma_rs::xz_decompress(&mut file, &mut into).map_err(|error| match error {
            lzma_rs::error::Error::IoError(error) => error,
            other => io::Error::other(other.to_string()),
        }),
        // Frames stand one behind the other.
        Packing::Zstd => loop {
            if file.fill_buf()?.is_empty() {
                return Ok(());
            }
            let mut frame = ruzstd::decoding::StreamingDecoder::new(&mut file).map_err(io::Error::other)?;
            io::copy(&mut frame, &mut into)?;
        },
    }
}
