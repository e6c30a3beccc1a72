//! A machine's side: calls the counter, sends what was recorded, and hears what is done to it there.

use std::collections::BTreeMap;
use std::fs::File;
use std::io::{self, Read as _, Seek as _, SeekFrom};
use std::net::{SocketAddr, TcpStream, ToSocketAddrs as _};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Condvar, Mutex, PoisonError};
use std::time::{Duration, Instant};

use rustls::pki_types::ServerName;
use rustls::{ClientConfig, ClientConnection, StreamOwned};

use crate::card::Card;
use crate::copies::checked_up_to;
use crate::error::LinkError;
use crate::find::{counters, mark_of};
use crate::frame::{receive, send};
use crate::held::held;
use crate::message::{Answer, Heard, Look, Note, Order, PROTOCOL, Picture, Refusal, Say, Standing};
use crate::name::{folders, is_further_part, is_record, stem};
use crate::secure::{COUNTER, bench_side};
use crate::timed::Timed;

/// Time to reach the counter.
const TO_REACH: Duration = Duration::from_secs(5);
/// Time in which the counter has to answer.
const TO_ANSWER: Duration = Duration::from_secs(15);
/// Time to look for a counter on the local network.
const TO_FIND: Duration = Duration::from_secs(4);
/// Between two attempts: after a link that held, and at most.
const AGAIN: (Duration, Duration) = (Duration::from_millis(50), Duration::from_secs(2));
/// A machine speaks at least this often.
const BEAT: Duration = Duration::from_millis(500);
/// The same while somebody looks at its picture.
const LOOKED_AT: Duration = Duration::from_millis(20);
/// All files are looked at this often; those of the run that goes on at each beat.
const ALL_FILES: Duration = Duration::from_secs(2);
/// Bytes of files in one frame: the least, where links break soon, and the most.
const PIECES: (usize, usize) = (2 << 10, 128 << 10);
/// Files that are asked about in one frame.
const MOST_ASKED: usize = 50;
/// Files that are looked at.
const MOST_FILES: usize = 100_000;

/// Where a machine's link is.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Linked {
    /// The counter is being looked for.
    #[default]
    Searching,
    /// It is there.
    To {
        /// Name of the shop.
        shop: String,
        /// Address of the counter.
        counter: SocketAddr,
    },
    /// It is not.
    Broken {
        /// Why, as the system says it.
        why: String,
    },
}

/// What is sent: the folder with records, and who hears what is done at the counter.
pub struct Source {
    /// The data directory.
    pub data: PathBuf,
    /// What tells this machine from others with the same card.
    pub machine: String,
    /// Is given what is done at the counter.
    pub ordered: Box<dyn Fn(Order) + Send>,
}

#[derive(Default)]
struct Shared {
    standing: Mutex<Standing>,
    picture: Mutex<Option<Picture>>,
    look: Mutex<Option<Look>>,
    linked: Mutex<Linked>,
    over: AtomicBool,
    /// Something new is to be said.
    news: (Mutex<bool>, Condvar),
}

/// A machine's link, until it is dropped.
pub struct Bench(Arc<Shared>);

impl Bench {
    /// Begins to look for the counter and to send.
    ///
    /// # Errors
    /// When the card holds no keys, or the system has no thread left.
    pub fn start(card: Card, source: Source) -> Result<Self, LinkError> {
        let caller = Caller::new(card, source)?;
        let shared = Arc::clone(&caller.shared);
        std::thread::Builder::new().name("link".into()).spawn(move || caller.call())?;
        Ok(Self(shared))
    }

    /// What the machine says of itself from now on.
    pub fn stand(&self, standing: Standing) {
        let mut now = held(&self.0.standing);
        if *now != standing {
            *now = standing;
            drop(now);
            self.0.nudge();
        }
    }

    /// Its picture, where somebody looks.
    pub fn show(&self, picture: Picture) {
        *held(&self.0.picture) = Some(picture);
        self.0.nudge();
    }

    /// The size in which somebody looks at it.
    pub fn looked_at(&self) -> Option<Look> {
        *held(&self.0.look)
    }

    /// Something was recorded.
    pub fn recorded(&self) {
        self.0.nudge();
    }

    /// Where the link is.
    pub fn linked(&self) -> Linked {
        held(&self.0.linked).clone()
    }
}

impl Drop for Bench {
    fn drop(&mut self) {
        self.0.over.store(true, Ordering::Relaxed);
        self.0.nudge();
    }
}

impl Shared {
    fn nudge(&self) {
        *held(&self.news.0) = true;
        self.news.1.notify_all();
    }

    /// Waits for news, at most so long.
    fn wait(&self, at_most: Duration) {
        let news = held(&self.news.0);
        let waited = self.news.1.wait_timeout_while(news, at_most, |news| !*news);
        let (mut news, _) = waited.unwrap_or_else(PoisonError::into_inner);
        *news = false;
    }

    fn is_over(&self) -> bool {
        self.over.load(Ordering::Relaxed)
    }
}

/// How far a file has come.
#[derive(Clone, Debug)]
struct Sent {
    /// Name of its copy.
    copy: String,
    len: u64,
}

struct Caller {
    shared: Arc<Shared>,
    card: Card,
    config: Arc<ClientConfig>,
    source: Source,
    /// Files that the counter has, by their names here.
    files: BTreeMap<String, Sent>,
    /// Which start of a counter that was.
    start: Option<u64>,
    /// When all files were looked at.
    looked: Option<Instant>,
    /// The picture that the counter has.
    shown: Picture,
    /// What it was told of this machine last.
    stood: Option<Standing>,
    /// Bytes of files that the next frame takes: what is larger than a link lives would never arrive.
    room: usize,
}

impl Caller {
    fn new(card: Card, source: Source) -> Result<Self, LinkError> {
        Ok(Self {
            shared: Arc::default(),
            config: Arc::new(bench_side(&card)?),
            card,
            source,
            files: BTreeMap::new(),
            start: None,
            looked: None,
            shown: Picture::default(),
            stood: None,
            room: PIECES.1,
        })
    }

    fn call(mut self) {
        let mut pause = AGAIN.0;
        while !self.shared.is_over() {
            let why = match self.session() {
                Ok(()) => return,
                Err(error) => error.to_string(),
            };
            *held(&self.shared.look) = None;
            let held_before = matches!(*held(&self.shared.linked), Linked::To { .. });
            self.room = PIECES.0.max(self.room / 4);
            pause = if held_before { AGAIN.0 } else { AGAIN.1.min(pause * 2) };
            *held(&self.shared.linked) = Linked::Broken { why };
            // Somebody who looked is no longer there.
            (self.source.ordered)(Order::Look(None));
            let until = Instant::now() + pause;
            while !self.shared.is_over() && Instant::now() < until {
                self.shared.wait(until.saturating_duration_since(Instant::now()));
            }
        }
    }

    fn addresses(&self) -> Result<Vec<SocketAddr>, LinkError> {
        match &self.card.counter {
            Some(counter) => Ok(counter.to_socket_addrs()?.collect()),
            None => counters(&mark_of(&self.card.shop_certificate), TO_FIND),
        }
    }

    fn connected(&self) -> Result<(TcpStream, SocketAddr), LinkError> {
        let mut last = io::Error::new(io::ErrorKind::NotFound, "no counter of this shop answers on the local network");
        for address in self.addresses()? {
            match TcpStream::connect_timeout(&address, TO_REACH) {
                Ok(stream) => return Ok((stream, address)),
                Err(error) => last = error,
            }
        }
        Err(last.into())
    }

    fn session(&mut self) -> Result<(), LinkError> {
        let (stream, counter) = self.connected()?;
        let (mut link, shop, start) = greeted(stream, &self.config, &self.source.machine)?;
        if self.start != Some(start) {
            self.files.clear();
        }
        (self.start, self.looked, self.shown, self.stood) = (Some(start), None, Picture::default(), None);
        *held(&self.shared.linked) = Linked::To { shop, counter };
        while !self.shared.is_over() {
            let (notes, more) = self.notes();
            link.sock.give(TO_ANSWER);
            send(&mut link, &Say { notes })?;
            let heard: Heard = receive(&mut link)?;
            let stuck = self.hear(heard)?;
            if stuck || !more {
                let looked_at = held(&self.shared.look).is_some();
                self.shared.wait(if looked_at { LOOKED_AT } else { BEAT });
            }
        }
        Ok(())
    }

    /// What is to be said now, and whether there is more.
    fn notes(&mut self) -> (Vec<Note>, bool) {
        let mut standing = held(&self.shared.standing).clone();
        let run = standing.run.take().map(|run| format!("runs/{run}"));
        // Under the name that it has there: two machines may have runs of one name.
        let copy = run.as_ref().and_then(|run| self.first_part(run)?.strip_prefix("runs/"));
        standing.run = copy.map(str::to_owned);
        let mut notes = Vec::new();
        if self.stood.as_ref() != Some(&standing) {
            notes.push(Note::Stands(standing.clone()));
            self.stood = Some(standing);
        }
        if let Some(picture) = held(&self.shared.picture).take() {
            let change = self.shown.to(&picture);
            if !change.changed.is_empty() {
                notes.push(Note::Shows(change));
            }
            self.shown = picture;
        }
        let all = self.looked.is_none_or(|looked| looked.elapsed() >= ALL_FILES);
        if all {
            self.looked = Some(Instant::now());
        }
        let wanted = |name: &str| all || run.as_deref() == Some(stem(name));
        let (mut room, mut asked, mut more) = (self.room, 0, false);
        for (name, len) in files_below(&self.source.data, all, run.as_deref()) {
            if !wanted(&name) {
                continue;
            }
            if self.waits_for_first_part(&name) {
                more = true;
                continue;
            }
            match self.files.get(&name) {
                None if asked == MOST_ASKED => (more, self.looked) = (true, None),
                None => {
                    asked += 1;
                    more = true;
                    notes.push(Note::Asks { name });
                }
                Some(sent) if sent.len < len && room > 0 => {
                    let piece = piece_of(&self.source.data.join(&name), sent.len, room);
                    // A file that cannot be read now can be read later.
                    let Ok(bytes) = piece else { continue };
                    if bytes.is_empty() {
                        continue;
                    }
                    room = room.saturating_sub(bytes.len());
                    more = true;
                    notes.push(Note::Piece { name: sent.copy.clone(), at: sent.len, bytes });
                }
                Some(sent) if sent.len < len => (more, self.looked) = (true, None),
                Some(_) => {}
            }
        }
        if more && all {
            // What is left over comes with the next frame.
            self.looked = None;
        }
        (notes, more)
    }

    /// Takes what the counter answered; whether it takes no more for now.
    fn hear(&mut self, heard: Heard) -> Result<bool, LinkError> {
        let mut stuck = false;
        for answer in heard.answers {
            match answer {
                Answer::Welcome { .. } => return Err(LinkError::Garbled("a second welcome")),
                Answer::Copies { name, copies, free } => {
                    let sent = self.goes_on(&name, copies, free);
                    self.files.insert(name, sent);
                }
                Answer::Kept { name, len } => {
                    self.room = PIECES.1.min(self.room * 2);
                    if let Some(sent) = self.sent_as(&name) {
                        sent.len = len;
                    }
                }
                Answer::Refused { name, why } => {
                    stuck = true;
                    self.refused(&name, why);
                }
                Answer::Does(order) => {
                    if let Order::Look(look) = order {
                        *held(&self.shared.look) = look;
                        self.shown = Picture::default();
                    }
                    (self.source.ordered)(order);
                }
            }
        }
        Ok(stuck)
    }

    fn sent_as(&mut self, copy: &str) -> Option<&mut Sent> {
        self.files.values_mut().find(|sent| sent.copy == copy)
    }

    fn refused(&mut self, name: &str, why: Refusal) {
        match why {
            // Its copy is longer than was thought: an answer was lost.
            Refusal::Elsewhere => self.files.retain(|_, sent| sent.copy != name),
            // Tried again at the next beat.
            Refusal::Full | Refusal::NotWritten => {}
            Refusal::NoRecord => {
                self.files.insert(name.to_owned(), Sent { copy: name.to_owned(), len: u64::MAX });
            }
        }
    }

    /// What the copies of a journal's parts have in common, once its first part has one.
    fn first_part(&self, journal: &str) -> Option<&str> {
        self.files.get(&format!("{journal}.journal")).map(|sent| stem(&sent.copy))
    }

    /// Parts go where the first one went, if there is one.
    fn waits_for_first_part(&self, name: &str) -> bool {
        let first = || self.source.data.join(format!("{}.journal", stem(name)));
        is_further_part(name) && self.first_part(stem(name)).is_none() && first().exists()
    }

    /// Where a file goes on: in the first copy that is its beginning, else in a new one.
    fn goes_on(&self, name: &str, mut copies: Vec<(String, u64, u32)>, mut free: String) -> Sent {
        if let Some(first) = self.first_part(stem(name)).filter(|_| is_further_part(name)) {
            let ending = name.rsplit_once('.').map_or("", |(_, ending)| ending);
            free = format!("{first}.{ending}");
            copies.retain(|(copy, ..)| *copy == free);
        }
        let path = self.source.data.join(name);
        let is_beginning = |(_, len, crc): &(String, u64, u32)| {
            File::open(&path).and_then(|mut file| checked_up_to(&mut file, *len)).is_ok_and(|own| own == (*len, *crc))
        };
        let found = copies.into_iter().find(is_beginning);
        found.map_or(Sent { copy: free, len: 0 }, |(copy, len, _)| Sent { copy, len })
    }
}

/// The link to a counter that has taken this card, its shop's name, and which start of it this is.
type Greeted = (StreamOwned<ClientConnection, Timed>, String, u64);

fn greeted(stream: TcpStream, config: &Arc<ClientConfig>, machine: &str) -> Result<Greeted, LinkError> {
    stream.set_nodelay(true)?;
    let name = ServerName::try_from(COUNTER).map_err(|error| LinkError::Keys(error.to_string()))?;
    let connection = ClientConnection::new(Arc::clone(config), name)?;
    let mut link = StreamOwned::new(connection, Timed::new(stream, TO_ANSWER));
    send(&mut link, &Say { notes: vec![Note::Hello { protocol: PROTOCOL, machine: machine.to_owned() }] })?;
    let heard: Heard = receive(&mut link)?;
    match heard.answers.as_slice() {
        [Answer::Welcome { protocol: PROTOCOL, shop, start }] => Ok((link, shop.clone(), *start)),
        _ => Err(LinkError::Garbled("another version of the program")),
    }
}

/// A link without a machine behind it.
#[cfg(test)]
pub(crate) fn linked(card: &Card) -> Result<StreamOwned<ClientConnection, Timed>, LinkError> {
    let counter = card.counter.as_deref().unwrap_or_default();
    Ok(greeted(TcpStream::connect(counter)?, &Arc::new(bench_side(card)?), "")?.0)
}

/// What a machine does with frames from elsewhere, without a network.
#[doc(hidden)]
pub fn hear_foreign(data: &Path, card: &Card, bytes: &[u8]) {
    let source = Source { data: data.to_owned(), machine: String::new(), ordered: Box::new(|_| ()) };
    let Ok(mut caller) = Caller::new(card.clone(), source) else { return };
    let mut left = bytes;
    while let Ok(heard) = receive::<Heard>(&mut left) {
        if caller.hear(heard).is_err() {
            return;
        }
        caller.notes();
    }
}

/// Files of records with their lengths; only those of a run where not all are wanted.
fn files_below(data: &Path, all: bool, run: Option<&str>) -> Vec<(String, u64)> {
    let mut files = Vec::new();
    if !all {
        let Some(run) = run else { return files };
        let parts = std::iter::once(format!("{run}.journal")).chain((2..).map(|part| format!("{run}.journal-{part}")));
        files.extend(
            parts
                .map_while(|name| Some((data.join(&name).metadata().ok()?.len(), name)))
                .map(|(len, name)| (name, len)),
        );
        return files;
    }
    for folder in folders() {
        let Ok(entries) = std::fs::read_dir(data.join(folder)) else { continue };
        for entry in entries.flatten().take(MOST_FILES) {
            let name = format!("{folder}/{}", entry.file_name().to_string_lossy());
            let meta = entry.metadata().ok().filter(std::fs::Metadata::is_file);
            if let Some(meta) = meta.filter(|_| is_record(&name)) {
                files.push((name, meta.len()));
            }
        }
    }
    files.sort();
    files
}

/// What a file holds from a place on, up to the last end of a line: a record that is being written is no record yet.
fn piece_of(path: &Path, from: u64, most: usize) -> io::Result<Vec<u8>> {
    let mut file = File::open(path)?;
    file.seek(SeekFrom::Start(from))?;
    let mut bytes = Vec::new();
    file.take(most as u64).read_to_end(&mut bytes)?;
    // A line that fills a whole piece goes as it is.
    if let Some(end) = bytes.iter().rposition(|byte| *byte == b'\n') {
        bytes.truncate(end + 1);
    } else if bytes.len() < most {
        bytes.clear();
    }
    Ok(bytes)
}
