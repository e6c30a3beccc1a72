//! The counter: listens, lets in those who hold a card of the shop, keeps what they send, and passes on what is done to them.

use std::collections::BTreeMap;
use std::io::{self, Read as _};
use std::net::{SocketAddr, TcpListener, TcpStream};
use std::path::Path;
use std::sync::atomic::{AtomicBool, AtomicU64, AtomicUsize, Ordering};
use std::sync::mpsc::{Receiver, Sender, channel};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant, SystemTime};

use revisum_record::journal::{Entry, Following, Record as _};
use revisum_record::run_state::RunState;
use rustls::{ServerConfig, ServerConnection, StreamOwned};

use crate::copies::Copies;
use crate::error::LinkError;
use crate::find::{Announced, mark_of};
use crate::frame::{receive, send};
use crate::held::held;
use crate::message::{Answer, Heard, Look, Note, Order, PROTOCOL, Picture, Refusal, Say, Standing, cut};
use crate::name::{is_record, stem};
use crate::secure::{counter_side, random};
use crate::shop::{Issued, Shop};
use crate::timed::Timed;

/// Time in which somebody has to have shown a card.
const TO_COME_IN: Duration = Duration::from_secs(10);
/// Time in which a machine has to send its next frame.
const TO_SPEAK: Duration = Duration::from_secs(20);
/// An answer waits so long for a key, while somebody looks.
const FOR_A_KEY: Duration = Duration::from_millis(80);
/// Those at the door at a time; whoever comes beyond that is sent away.
pub(crate) const MOST_AT_THE_DOOR: usize = 64;
/// Machines at a time.
const MOST_INSIDE: usize = 2000;
/// Whoever is to be told hears no more often than this.
const AT_MOST_EVERY: Duration = Duration::from_millis(50);
/// What a thread needs.
const STACK: usize = 512 << 10;
/// Parts of a journal that are read when a machine comes back in the middle of a run.
const MOST_PARTS: usize = 200;

/// Who is told that something changed.
type Told = Arc<dyn Fn() + Send + Sync>;

/// Since when nothing was heard of a machine.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Silence {
    /// It is linked; the moment of its last word.
    Linked(Instant),
    /// The link is broken; the moment of its last word.
    Broken(Instant),
}

/// A machine as it was last heard of.
#[derive(Clone)]
pub struct BenchNow {
    /// Its card, and which machine it is where several share one.
    pub id: String,
    /// What it says of itself.
    pub standing: Standing,
    /// When it was heard of.
    pub silence: Silence,
    /// When its standing came.
    pub said: Instant,
    /// The run that it is making, or has made last.
    pub run: Option<Arc<Mutex<RunState>>>,
    /// Why not all of its records are kept here, where they are not.
    pub refused: Option<Refusal>,
    /// Its screen, as far as it has come.
    pub picture: Option<Arc<Picture>>,
}

/// A machine that was let in: its card, and what it is known by.
struct Inside {
    id: String,
    issued: Issued,
}

struct Live {
    now: BenchNow,
    orders: Sender<Order>,
    look: Option<Look>,
    /// The connection that speaks for it: a later one takes its place.
    connection: u64,
}

/// Cards by their certificates, and when the folder that they were read from had changed last.
type Cards = (Option<SystemTime>, BTreeMap<Vec<u8>, Issued>);

struct Shared {
    shop: Shop,
    cards: Mutex<Cards>,
    copies: Copies,
    config: Arc<ServerConfig>,
    start: u64,
    benches: Mutex<BTreeMap<String, Live>>,
    connections: AtomicU64,
    at_the_door: AtomicUsize,
    inside: AtomicUsize,
    over: AtomicBool,
    told: (Told, Mutex<Instant>),
}

/// A counter that listens, until it is dropped.
pub struct Counter {
    shared: Arc<Shared>,
    address: SocketAddr,
    /// Why it cannot be found without its address, where it cannot.
    unannounced: Option<String>,
    _announced: Option<Announced>,
}

impl Counter {
    /// Listens on an address, keeps records below `data`, and tells when something changed. `announced` says it on the local network.
    ///
    /// # Errors
    /// When the address is taken, the shop's keys are no keys, or nothing can be kept.
    pub fn open(shop: &Shop, data: &Path, address: SocketAddr, announced: bool, told: Told) -> Result<Self, LinkError> {
        let listener = TcpListener::bind(address)?;
        let address = listener.local_addr()?;
        let shared = Arc::new(Shared::new(shop, data, told)?);
        let door = Arc::clone(&shared);
        std::thread::Builder::new().name("counter".into()).spawn(move || listen(&listener, &door))?;
        let (announced, unannounced) =
            match announced.then(|| Announced::now(&mark_of(shop.certificate()), address.port())) {
                Some(Ok(announced)) => (Some(announced), None),
                Some(Err(error)) => (None, Some(error.to_string())),
                None => (None, None),
            };
        Ok(Self { shared, address, unannounced, _announced: announced })
    }

    /// Where it listens.
    pub fn address(&self) -> SocketAddr {
        self.address
    }

    /// Why it cannot be found without its address, where it cannot.
    pub fn unannounced(&self) -> Option<&str> {
        self.unannounced.as_deref()
    }

    /// All machines that were heard of since it was opened.
    pub fn benches(&self) -> Vec<BenchNow> {
        held(&self.shared.benches).values().map(|live| live.now.clone()).collect()
    }

    /// Does something to a machine; whether it is linked.
    pub fn order(&self, id: &str, order: Order) -> bool {
        let mut benches = held(&self.shared.benches);
        let Some(live) = benches.get_mut(id).filter(|live| matches!(live.now.silence, Silence::Linked(_))) else {
            return false;
        };
        if let Order::Look(look) = order {
            (live.look, live.now.picture) = (look, None);
        }
        live.orders.send(order).is_ok()
    }
}

impl Drop for Counter {
    fn drop(&mut self) {
        self.shared.over.store(true, Ordering::Relaxed);
        // Whoever waits at the door looks up.
        let _ = TcpStream::connect_timeout(&self.address, Duration::from_millis(200));
    }
}

/// One more of something, until it is dropped.
struct Counted<'a>(&'a AtomicUsize);

impl<'a> Counted<'a> {
    fn one_of(count: &'a AtomicUsize, most: usize) -> Option<Self> {
        let one = Self(count);
        (count.fetch_add(1, Ordering::Relaxed) < most).then_some(one)
    }
}

impl Drop for Counted<'_> {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::Relaxed);
    }
}

fn listen(listener: &TcpListener, shared: &Arc<Shared>) {
    for stream in listener.incoming() {
        if shared.over.load(Ordering::Relaxed) {
            return;
        }
        let Ok(stream) = stream else {
            // Out of handles: those that are open will close.
            std::thread::sleep(Duration::from_millis(20));
            continue;
        };
        let inside = Arc::clone(shared);
        let serve = move || {
            // A stranger, or a link that broke: the machine calls again.
            let _ = inside.serve(stream);
        };
        // No thread left is as good as no answer: the machine calls again.
        let _ = std::thread::Builder::new().stack_size(STACK).spawn(serve);
    }
}

impl Shared {
    fn new(shop: &Shop, data: &Path, told: Told) -> Result<Self, LinkError> {
        Ok(Self {
            shop: shop.clone(),
            cards: Mutex::default(),
            copies: Copies::below(data)?,
            config: Arc::new(counter_side(shop)?),
            start: u64::from_le_bytes(random()?),
            benches: Mutex::default(),
            connections: AtomicU64::new(0),
            at_the_door: AtomicUsize::new(0),
            inside: AtomicUsize::new(0),
            over: AtomicBool::new(false),
            told: (told, Mutex::new(Instant::now())),
        })
    }

    fn serve(&self, stream: TcpStream) -> Result<(), LinkError> {
        stream.set_nodelay(true)?;
        let door = Counted::one_of(&self.at_the_door, MOST_AT_THE_DOOR).ok_or_else(too_many)?;
        let mut link =
            StreamOwned::new(ServerConnection::new(Arc::clone(&self.config))?, Timed::new(stream, TO_COME_IN));
        while link.conn.is_handshaking() {
            link.conn.complete_io(&mut link.sock)?;
        }
        let card = link.conn.peer_certificates().and_then(<[_]>::first).map(|card| card.to_vec()).unwrap_or_default();
        let issued = self.issued(&card)?.ok_or_else(|| LinkError::Stranger("its card is not in use".into()))?;
        drop(door);
        let _inside = Counted::one_of(&self.inside, MOST_INSIDE).ok_or_else(too_many)?;
        let hello: Say = receive(&mut link)?;
        let machine = match hello.notes.as_slice() {
            [Note::Hello { protocol: PROTOCOL, machine }] => Some(machine.clone()),
            _ => None,
        };
        let welcome = Answer::Welcome { protocol: PROTOCOL, shop: self.shop.name().to_owned(), start: self.start };
        send(&mut link, &Heard { answers: vec![welcome] })?;
        let Some(mut machine) = machine else { return Err(LinkError::Garbled("another version")) };
        cut(&mut machine);
        let inside =
            Inside { id: if issued.shared { format!("{}/{machine}", issued.id) } else { issued.id.clone() }, issued };
        let (connection, orders) = self.comes_in(&inside);
        let result = self.converse(&mut link, &inside, connection, &orders);
        self.update(&inside.id, connection, |live| live.now.silence = Silence::Broken(heard(live.now.silence)));
        self.tell();
        result
    }

    fn converse(
        &self,
        link: &mut StreamOwned<ServerConnection, Timed>,
        inside: &Inside,
        connection: u64,
        orders: &Receiver<Order>,
    ) -> Result<(), LinkError> {
        let mut run = RunHere::default();
        loop {
            link.sock.give(TO_SPEAK);
            let say: Say = receive(link)?;
            if self.over.load(Ordering::Relaxed) || !self.shop.is_in_use(&inside.issued.id) {
                return Err(LinkError::Stranger("its card is not in use".into()));
            }
            let mut answers = Vec::new();
            for note in say.notes {
                self.take(note, inside, connection, &mut run, &mut answers);
            }
            let mut looked_at = false;
            let there = self.update(&inside.id, connection, |live| {
                live.now.silence = Silence::Linked(Instant::now());
                looked_at = live.look.is_some();
            });
            if !there {
                return Err(LinkError::Garbled("a later connection speaks for it"));
            }
            self.tell();
            let first = if looked_at && answers.is_empty() { orders.recv_timeout(FOR_A_KEY).ok() } else { None };
            answers.extend(first.into_iter().chain(orders.try_iter().take(100)).map(Answer::Does));
            link.sock.give(TO_SPEAK);
            send(link, &Heard { answers })?;
        }
    }

    fn take(&self, note: Note, inside: &Inside, connection: u64, run: &mut RunHere, answers: &mut Vec<Answer>) {
        match note {
            // Said once, at the beginning; again it means nothing.
            Note::Hello { .. } => {}
            Note::Asks { name } => answers.push(match self.copies.of(&name) {
                Ok((copies, free)) => {
                    let copies = copies.into_iter().map(|copy| (copy.name, copy.len, copy.crc)).collect();
                    Answer::Copies { name, copies, free }
                }
                Err(error) if error.kind() == io::ErrorKind::InvalidInput => {
                    Answer::Refused { name, why: Refusal::NoRecord }
                }
                Err(_) => Answer::Refused { name, why: Refusal::NotWritten },
            }),
            Note::Piece { name, at, bytes } => {
                let added = self.copies.add(&name, at, &bytes);
                let refused = added.err().filter(|why| *why != Refusal::Elsewhere);
                self.update(&inside.id, connection, |live| live.now.refused = refused);
                match added {
                    Ok(len) => {
                        run.take(&self.copies, &name, &bytes);
                        answers.push(Answer::Kept { name, len });
                    }
                    Err(why) => answers.push(Answer::Refused { name, why }),
                }
            }
            Note::Stands(standing) => {
                let standing = Standing { number: inside.issued.number.or(standing.number), ..standing.cut() };
                run.is_of(&self.copies, standing.run.as_deref());
                let state = run.state.clone();
                self.update(&inside.id, connection, |live| {
                    (live.now.standing, live.now.said, live.now.run) = (standing, Instant::now(), state);
                });
            }
            Note::Shows(change) => {
                self.update(&inside.id, connection, |live| {
                    if live.look.is_some() {
                        let mut picture = live.now.picture.take().unwrap_or_default();
                        Arc::make_mut(&mut picture).take(change);
                        live.now.picture = Some(picture);
                    }
                });
            }
        }
    }

    /// A machine is there; an earlier connection of its card no longer speaks for it.
    fn comes_in(&self, inside: &Inside) -> (u64, Receiver<Order>) {
        let connection = self.connections.fetch_add(1, Ordering::Relaxed);
        let (sender, orders) = channel();
        let (id, now) = (inside.id.clone(), Instant::now());
        let mut benches = held(&self.benches);
        let known = benches.remove(&id);
        let look = known.as_ref().and_then(|live| live.look);
        if look.is_some() {
            // Whoever looked still does.
            let _ = sender.send(Order::Look(look));
        }
        let fresh = || BenchNow {
            id: id.clone(),
            standing: Standing { number: inside.issued.number, ..Standing::default() },
            silence: Silence::Linked(now),
            said: now,
            run: None,
            refused: None,
            picture: None,
        };
        let before = known.map_or_else(fresh, |live| live.now);
        let live = Live { now: BenchNow { silence: Silence::Linked(now), ..before }, orders: sender, look, connection };
        benches.insert(id, live);
        (connection, orders)
    }

    /// Changes what is known of a machine; whether this connection still speaks for it.
    fn update(&self, id: &str, connection: u64, change: impl FnOnce(&mut Live)) -> bool {
        let mut benches = held(&self.benches);
        let live = benches.get_mut(id).filter(|live| live.connection == connection);
        live.map(change).is_some()
    }

    /// The card with this certificate, if it is in use.
    fn issued(&self, certificate: &[u8]) -> Result<Option<Issued>, LinkError> {
        let changed = self.shop.cards_changed();
        let mut cards = held(&self.cards);
        if cards.0 != changed || changed.is_none() || !cards.1.contains_key(certificate) {
            *cards = (changed, self.shop.issued()?);
        }
        Ok(cards.1.get(certificate).cloned())
    }

    fn tell(&self) {
        let mut last = held(&self.told.1);
        if last.elapsed() >= AT_MOST_EVERY {
            *last = Instant::now();
            drop(last);
            (self.told.0)();
        }
    }
}

/// The run that a machine is making, as its records tell it.
#[derive(Default)]
struct RunHere {
    /// `runs/` and the journal's name.
    stem: String,
    journal: Following,
    state: Option<Arc<Mutex<RunState>>>,
}

impl RunHere {
    /// From now on it is this one: what is here of it already is read.
    fn is_of(&mut self, copies: &Copies, run: Option<&str>) {
        let Some(run) = run else { return };
        let name = format!("runs/{run}");
        // Whoever names something else names no run.
        if self.stem == name || !is_record(&format!("{name}.journal")) {
            return;
        }
        *self = Self { stem: name.clone(), journal: Following::default(), state: Some(Arc::default()) };
        let first = format!("{name}.journal");
        let parts: Vec<String> = (2..MOST_PARTS).map(|number| format!("{name}.journal-{number}")).collect();
        for part in std::iter::once(first).chain(parts) {
            let Ok(mut file) = copies.bytes(&part) else { break };
            let mut bytes = vec![0; 64 << 10];
            while let Ok(read @ 1..) = file.read(&mut bytes) {
                self.read_on(copies, &bytes[..read]);
            }
        }
    }

    /// More of a file came.
    fn take(&mut self, copies: &Copies, name: &str, bytes: &[u8]) {
        if !self.stem.is_empty() && stem(name) == self.stem {
            self.read_on(copies, bytes);
        }
    }

    fn read_on(&mut self, copies: &Copies, bytes: &[u8]) {
        let Some(state) = &self.state else { return };
        let mut state = held(state);
        Entry::follow(&mut self.journal, bytes, &mut |framed| state.apply(&framed));
        state.heed(&self.journal.reading());
        if state.end.is_some() {
            copies.close(&self.stem);
        }
    }
}

/// What a counter does with bytes from elsewhere, without a network.
#[doc(hidden)]
pub struct Foreign {
    shared: Shared,
    inside: Inside,
}

impl Foreign {
    /// A counter with these records, and a machine that was let in.
    ///
    /// # Errors
    /// When keys or records cannot be kept.
    pub fn below(data: &Path) -> Result<Self, LinkError> {
        let shop = Shop::open_or_found(&data.join("link"), "Corner")?;
        let shared = Shared::new(&shop, data, Arc::new(|| ()))?;
        let issued = Issued { id: "a".into(), number: None, shared: false, certificate: String::new() };
        Ok(Self { shared, inside: Inside { id: "a".into(), issued } })
    }

    /// Bytes of somebody who has shown no card.
    pub fn at_the_door(&self, bytes: &[u8]) {
        let Ok(mut connection) = ServerConnection::new(Arc::clone(&self.shared.config)) else { return };
        let mut left = bytes;
        while !left.is_empty() && connection.read_tls(&mut left).is_ok_and(|read| read > 0) {
            if connection.process_new_packets().is_err() {
                return;
            }
        }
        assert!(connection.is_handshaking(), "nobody comes in without a card");
    }

    /// Frames of a machine that was let in.
    pub fn inside(&self, bytes: &[u8]) {
        let (connection, _orders) = self.shared.comes_in(&self.inside);
        let (mut left, mut run) = (bytes, RunHere::default());
        while let Ok(say) = receive::<Say>(&mut left) {
            let mut answers = Vec::new();
            for note in say.notes {
                self.shared.take(note, &self.inside, connection, &mut run, &mut answers);
            }
        }
    }
}

fn too_many() -> LinkError {
    io::Error::from(io::ErrorKind::ConnectionRefused).into()
}

fn heard(silence: Silence) -> Instant {
    match silence {
        Silence::Linked(at) | Silence::Broken(at) => at,
    }
}
