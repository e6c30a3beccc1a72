//! `revisum wall`: all machines that are linked to this computer.

use std::collections::BTreeMap;
use std::io::Write as _;
use std::path::Path;
use std::sync::Arc;
use std::sync::mpsc::{RecvTimeoutError, channel};
use std::time::Duration;

use anyhow::Result;
use revisum_records::DataDir;
use revisum_tui::WallLines;
use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};
use signal_hook::iterator::Signals;

use crate::cli::WallArgs;
use crate::exit::Exit;
use crate::say;

/// Machines are looked at this often even where none says anything: silence is news too.
const LOOK: Duration = Duration::from_secs(1);

enum Event {
    News,
    Ended,
}

/// Shows the wall.
///
/// # Errors
/// When the counter cannot be opened.
pub fn run(data: Option<&Path>, args: &WallArgs) -> Result<Exit> {
    if args.plain { plain(data, args) } else { revisum_tui::wall(data, args.listen).map(|()| Exit::Clean) }
}

fn plain(data: Option<&Path>, args: &WallArgs) -> Result<Exit> {
    let data = DataDir::choose(data, None)?;
    let (news, inbox) = channel();
    let ended = news.clone();
    let mut signals = Signals::new([SIGTERM, SIGINT, SIGHUP])?;
    std::thread::Builder::new().spawn(move || {
        if signals.forever().next().is_some() {
            // Whoever listens is gone already where this fails.
            let _ = ended.send(Event::Ended);
        }
    })?;
    let news = std::sync::Mutex::new(news);
    let told = move || {
        if let Ok(news) = news.lock() {
            let _ = news.send(Event::News);
        }
    };
    let mut wall = WallLines::open(&data, args.listen, Arc::new(told))?;
    let mut out = crate::plain::stdout();
    writeln!(out, "{}", say::wall_listens(wall.address()))?;
    out.flush()?;
    let mut known = BTreeMap::new();
    loop {
        match inbox.recv_timeout(LOOK) {
            Ok(Event::Ended) | Err(RecvTimeoutError::Disconnected) => return Ok(Exit::Clean),
            Ok(Event::News) | Err(RecvTimeoutError::Timeout) => {}
        }
        for (id, line) in wall.lines() {
            if known.get(&id) != Some(&line) {
                writeln!(out, "{line}")?;
                known.insert(id, line);
            }
        }
        out.flush()?;
    }
}
