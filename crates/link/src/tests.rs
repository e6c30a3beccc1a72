//! Both ends, over real sockets: through links that break, ends that die, and strangers at the door.

use std::io::{self, Read, Write};
use std::net::{Shutdown, SocketAddr, TcpListener, TcpStream};
use std::path::Path;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::mpsc::{Receiver, channel};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use proptest::prelude::*;
use revisum_record::journal::{Begin, Entry, JournalStore, JournalWriter};
use revisum_record::run_state::RunState;
use rstest::rstest;
use tempfile::TempDir;

use crate::counter::MOST_AT_THE_DOOR;
use crate::frame::{LARGEST, receive, send};
use crate::message::{Answer, Heard, Note, Say};
use crate::{Bench, Card, Counter, Key, Linked, Look, Order, Picture, Shop, Silence, Source, Span, Standing};

/// Until something that must happen has happened. Far longer than it takes.
fn wait_until(what: &str, happened: impl Fn() -> bool) {
    let begin = Instant::now();
    while !happened() {
        assert!(begin.elapsed() < Duration::from_secs(60), "{what} never happened");
        std::thread::sleep(Duration::from_millis(5));
    }
}

const ANY: ([u8; 4], u16) = ([127, 0, 0, 1], 0);

struct Place {
    folder: TempDir,
    shop: Shop,
}

impl Place {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let shop = Shop::open_or_found(&folder.path().join("link"), "Corner").unwrap();
        Self { folder, shop }
    }

    fn counter_at(&self, address: impl Into<SocketAddr>) -> Counter {
        Counter::open(&self.shop, self.folder.path(), address.into(), false, Arc::new(|| ())).unwrap()
    }

    fn counter(&self) -> Counter {
        self.counter_at(ANY)
    }

    fn card(&self, counter: SocketAddr) -> Card {
        self.shop.issue(Some(7), Some(&counter.to_string())).unwrap()
    }
}

fn bench(card: Card, data: &Path) -> (Bench, Receiver<Order>) {
    for folder in ["runs", "jobs"] {
        std::fs::create_dir_all(data.join(folder)).unwrap();
    }
    let (sender, orders) = channel();
    let sender = Mutex::new(sender);
    let ordered = Box::new(move |order| sender.lock().unwrap().send(order).unwrap_or_default());
    (Bench::start(card, Source { data: data.to_owned(), machine: "one".into(), ordered }).unwrap(), orders)
}

fn append(path: &Path, text: &str) {
    std::fs::OpenOptions::new().create(true).append(true).open(path).unwrap().write_all(text.as_bytes()).unwrap();
}

fn line(at: usize) -> String {
    format!("{{\"seq\":{at},\"text\":\"{}\"}}\n", "x".repeat(at * 37 % 400))
}

fn same(a: &Path, b: &Path) -> bool {
    std::fs::read(a).ok() == std::fs::read(b).ok()
}

/// A way between the two that breaks after so many bytes, each time it is gone again.
fn breaking_way(to: SocketAddr, after: impl Fn(usize) -> usize + Send + 'static) -> (SocketAddr, Arc<AtomicUsize>) {
    let listener = TcpListener::bind(SocketAddr::from(ANY)).unwrap();
    let (address, breaks) = (listener.local_addr().unwrap(), Arc::new(AtomicUsize::new(0)));
    let counted = Arc::clone(&breaks);
    std::thread::spawn(move || {
        for (number, here) in listener.incoming().enumerate() {
            let (Ok(mut here), Ok(mut there)) = (here, TcpStream::connect(to)) else { continue };
            let (mut back_from, mut back_to) = (there.try_clone().unwrap(), here.try_clone().unwrap());
            let back = std::thread::spawn(move || io::copy(&mut back_from, &mut back_to));
            let _ = io::copy(&mut (&mut here).take(after(number) as u64), &mut there);
            for end in [&here, &there] {
                let _ = end.shutdown(Shutdown::Both);
            }
            let _ = back.join();
            counted.fetch_add(1, Ordering::Relaxed);
        }
    });
    (address, breaks)
}

#[test]
fn records_arrive_once_however_often_the_link_breaks() {
    let (place, machine) = (Place::new(), tempfile::tempdir().unwrap());
    let counter = place.counter();
    // Somewhere in the greeting, between two frames, in the middle of a frame.
    let (way, breaks) = breaking_way(counter.address(), |number| 900 + number * 7919 % 60_000);
    let (bench, _orders) = bench(place.card(way), machine.path());
    let names = ["runs/a.journal", "runs/a.journal-2", "jobs/front-desk.job"];
    let mut at = 0;
    while breaks.load(Ordering::Relaxed) < 8 {
        names.iter().for_each(|name| append(&machine.path().join(name), &line(at)));
        at += 1;
        bench.recorded();
        std::thread::sleep(Duration::from_millis(5));
    }
    let arrived = |name: &&str| same(&machine.path().join(name), &place.folder.path().join(name));
    wait_until("the last record", || names.iter().all(arrived));
}

#[test]
fn a_counter_that_died_is_told_what_it_missed() {
    let (place, machine) = (Place::new(), tempfile::tempdir().unwrap());
    let counter = place.counter();
    let address = counter.address();
    let (_bench, _orders) = bench(place.card(address), machine.path());
    let (own, copy) = (machine.path().join("runs/a.journal"), place.folder.path().join("runs/a.journal"));
    append(&own, &line(100));
    wait_until("the first record", || same(&own, &copy));
    drop(counter);
    append(&own, &line(200));
    // What a power cut took away again.
    std::fs::write(&copy, &std::fs::read(&copy).unwrap()[..60]).unwrap();
    let opened = Mutex::new(None);
    wait_until("the address is free again", || {
        *opened.lock().unwrap() = Counter::open(&place.shop, place.folder.path(), address, false, Arc::new(|| ())).ok();
        opened.lock().unwrap().is_some()
    });
    wait_until("the second record", || same(&own, &copy));
}

#[test]
fn a_file_with_the_name_of_another_goes_beside_it() {
    let (place, machine) = (Place::new(), tempfile::tempdir().unwrap());
    let counter = place.counter();
    append(&place.folder.path().join("runs/a.journal"), "another machine's\n");
    let own = machine.path().join("runs/a.journal");
    let (_bench, _orders) = bench(place.card(counter.address()), machine.path());
    append(&own, &line(3));
    wait_until("the record", || same(&own, &place.folder.path().join("runs/a~2.journal")));
    assert_eq!(std::fs::read(place.folder.path().join("runs/a.journal")).unwrap(), b"another machine's\n");
}

#[test]
fn what_is_done_at_the_counter_arrives_and_the_picture_comes_back() {
    let (place, machine) = (Place::new(), tempfile::tempdir().unwrap());
    let counter = place.counter();
    let (bench, orders) = bench(place.card(counter.address()), machine.path());
    bench.stand(Standing { machine: "front desk".into(), waits: true, ..Standing::default() });
    let now = || counter.benches().into_iter().next();
    wait_until("its word", || now().is_some_and(|now| now.standing.machine == "front desk"));
    let it = now().unwrap();
    assert_eq!((it.standing.number, it.standing.waits), (Some(7), true));
    assert!(matches!(bench.linked(), Linked::To { shop, .. } if shop == "Corner"));
    let look = Look { columns: 4, rows: 2 };
    assert!(counter.order(&it.id, Order::Look(Some(look))));
    assert!(counter.order(&it.id, Order::Press(Key::Char('p'))));
    assert_eq!(orders.recv().unwrap(), Order::Look(Some(look)));
    assert_eq!(orders.recv().unwrap(), Order::Press(Key::Char('p')));
    assert_eq!(bench.looked_at(), Some(look));
    let row = |text: &str| vec![Span { text: text.into(), ..Span::default() }];
    for text in ["one", "two"] {
        bench.show(Picture { columns: 4, rows: 2, changed: vec![(0, row("top")), (1, row(text))] });
        let shown = || now().and_then(|now| now.picture).map(|picture| picture.changed.clone());
        wait_until("the picture", || shown() == Some(vec![(0, row("top")), (1, row(text))]));
    }
    drop(bench);
    wait_until("the silence", || now().is_some_and(|now| matches!(now.silence, Silence::Broken(_))));
    assert!(!counter.order(&it.id, Order::Press(Key::Enter)));
}

struct Store(std::fs::File);

impl JournalStore for Store {
    fn append(&mut self, bytes: &[u8]) -> io::Result<()> {
        self.0.write_all(bytes)
    }
    fn sync(&mut self) -> io::Result<()> {
        Ok(())
    }
}

/// Equal machines that are switched on in the same second have runs of one name: neither is shown the other's.
#[test]
fn runs_of_one_name_are_kept_apart() {
    let place = Place::new();
    let counter = place.counter();
    let folders = [tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap()];
    let _all = [0, 1].map(|at: usize| {
        let (bench, orders) = bench(place.card(counter.address()), folders[at].path());
        let file = std::fs::File::create(folders[at].path().join("runs/a.journal")).unwrap();
        let mut writer = JournalWriter::new(Box::new(Store(file)), "a");
        let machine = format!("PC {at}");
        let begin = Begin { machine: machine.clone(), wall_ms: 5, ..Begin::default() };
        writer.append(0, &Entry::Begin(Box::new(begin))).unwrap();
        append(&folders[at].path().join("runs/a.journal-2"), &line(at));
        bench.stand(Standing { machine, run: Some("a".into()), ..Standing::default() });
        (bench, orders)
    });
    let shown = || {
        let name = |run: &Arc<Mutex<RunState>>| run.lock().unwrap().begin.machine.clone();
        let one = |bench: crate::BenchNow| (bench.standing.machine, bench.run.as_ref().map(name).unwrap_or_default());
        let mut all: Vec<(String, String)> = counter.benches().into_iter().map(one).collect();
        all.sort();
        all
    };
    let wanted = ["PC 0", "PC 1"].map(|name| (name.to_owned(), name.to_owned()));
    wait_until("both runs", || shown() == wanted);
    for part in ["", "-2"] {
        let read = |folder: &Path, name: &str| std::fs::read(folder.join(format!("runs/{name}.journal{part}"))).ok();
        let own = [0, 1].map(|at: usize| read(folders[at].path(), "a"));
        wait_until("the same parts under the same name", || {
            let copies = ["a", "a~2"].map(|name| read(place.folder.path(), name));
            copies == own || (copies[0] == own[1] && copies[1] == own[0])
        });
    }
}

/// The first part may have been lost with a sector of the drive.
#[test]
fn a_part_without_its_first_one_arrives_too() {
    let (place, machine) = (Place::new(), tempfile::tempdir().unwrap());
    let counter = place.counter();
    let (_bench, _orders) = bench(place.card(counter.address()), machine.path());
    let own = machine.path().join("runs/a.journal-2");
    append(&own, &line(4));
    wait_until("the part", || same(&own, &place.folder.path().join("runs/a.journal-2")));
}

#[test]
fn machines_that_share_a_card_are_told_apart() {
    let (place, folder) = (Place::new(), tempfile::tempdir().unwrap());
    let counter = place.counter();
    let card = place.shop.issue_shared(Some(&counter.address().to_string())).unwrap();
    let start = |machine: &str| {
        let source = Source { data: folder.path().join(machine), machine: machine.into(), ordered: Box::new(|_| ()) };
        Bench::start(card.clone(), source).unwrap()
    };
    let _both = [start("aa:bb"), start("cc:dd")];
    let ids = || counter.benches().into_iter().map(|bench| bench.id).collect::<Vec<_>>();
    wait_until("both", || ids() == [format!("{}/aa:bb", card.id), format!("{}/cc:dd", card.id)]);
}

/// What a stranger sends to the door.
fn at_the_door(counter: SocketAddr, bytes: &[u8]) {
    let mut stream = TcpStream::connect(counter).unwrap();
    let _ = stream.write_all(bytes);
    let _ = stream.shutdown(Shutdown::Write);
    let mut answer = Vec::new();
    let _ = stream.read_to_end(&mut answer);
    // An alert of TLS at most: never a frame.
    assert!(answer.len() < 4000, "{}", answer.len());
}

#[rstest]
#[case::nothing(&[])]
#[case::text(b"GET / HTTP/1.1\r\n\r\n")]
#[case::large(&[0xff; 100_000])]
#[case::no_key(&[0x16, 3, 1, 0, 5, 1, 0, 0, 1, 3])]
fn strangers_get_nothing(#[case] bytes: &[u8]) {
    let place = Place::new();
    let counter = place.counter();
    at_the_door(counter.address(), bytes);
    assert_eq!(counter.benches().len(), 0);
    assert_eq!(std::fs::read_dir(place.folder.path().join("runs")).unwrap().count(), 0);
}

/// As many strangers as there is room for at the door, who send a byte now and then for as long as they are let: each is let go, and a machine of
/// the shop comes in.
#[test]
fn slow_strangers_are_let_go() {
    let (place, machine) = (Place::new(), tempfile::tempdir().unwrap());
    let counter = place.counter();
    let mut strangers: Vec<TcpStream> =
        (0..MOST_AT_THE_DOOR).map(|_| TcpStream::connect(counter.address()).unwrap()).collect();
    // The beginning of a greeting of 512 bytes.
    strangers.iter_mut().for_each(|stranger| stranger.write_all(&[0x16, 3, 1, 2, 0, 1]).unwrap());
    append_to_new(&machine.path().join("runs/a.journal"));
    let _bench = bench(place.card(counter.address()), machine.path());
    for stranger in &strangers {
        stranger.set_read_timeout(Some(Duration::from_millis(10))).unwrap();
    }
    wait_until("the last of them to be let go", || {
        strangers.iter().all(|mut stranger| {
            let sent = stranger.write_all(&[0]);
            let waits = |error: std::io::Error| {
                matches!(error.kind(), std::io::ErrorKind::WouldBlock | std::io::ErrorKind::TimedOut)
            };
            sent.is_err() || !stranger.read(&mut [0]).is_err_and(waits)
        })
    });
    let copy = place.folder.path().join("runs/a.journal");
    wait_until("the machine's records", || same(&machine.path().join("runs/a.journal"), &copy));
}

/// Cards that open nothing.
#[rstest]
#[case::of_another_shop(|_: &Place, counter: &SocketAddr| Place::new().card(*counter))]
#[case::taken_back(|place: &Place, counter: &SocketAddr| {
    let card = place.card(*counter);
    assert!(place.shop.take_back(&card.id).unwrap());
    card
})]
#[case::of_this_shop_with_the_key_of_another(|place: &Place, counter: &SocketAddr| {
    Card { key: Place::new().card(*counter).key, ..place.card(*counter) }
})]
#[case::signed_by_nobody_here(|place: &Place, counter: &SocketAddr| {
    let other = Place::new().card(*counter);
    Card { shop_certificate: place.card(*counter).shop_certificate, ..other }
})]
fn cards_that_open_nothing(#[case] card: fn(&Place, &SocketAddr) -> Card) {
    let (place, machine) = (Place::new(), tempfile::tempdir().unwrap());
    let counter = place.counter();
    append_to_new(&machine.path().join("runs/a.journal"));
    let started = Bench::start(
        card(&place, &counter.address()),
        Source { data: machine.path().to_owned(), machine: String::new(), ordered: Box::new(|_| ()) },
    );
    // A key that does not fit its certificate is found before anything is sent.
    if let Ok(bench) = started {
        wait_until("a refusal", || matches!(bench.linked(), Linked::Broken { .. }));
    }
    assert_eq!(counter.benches().len(), 0);
    assert!(!place.folder.path().join("runs/a.journal").exists());
}

fn append_to_new(path: &Path) {
    std::fs::create_dir_all(path.parent().unwrap()).unwrap();
    append(path, &line(5));
}

#[test]
fn a_card_that_is_taken_back_ends_its_link() {
    let (place, machine) = (Place::new(), tempfile::tempdir().unwrap());
    let counter = place.counter();
    let card = place.card(counter.address());
    let id = card.id.clone();
    let (bench, _orders) = bench(card, machine.path());
    wait_until("the link", || matches!(bench.linked(), Linked::To { .. }));
    assert!(place.shop.take_back(&id).unwrap());
    wait_until("the end", || matches!(bench.linked(), Linked::Broken { .. }));
}

/// What was said on one connection opens no other.
#[test]
fn what_was_heard_on_the_way_cannot_be_said_again() {
    let (place, machine) = (Place::new(), tempfile::tempdir().unwrap());
    let counter = place.counter();
    let (listener, heard) = (TcpListener::bind(SocketAddr::from(ANY)).unwrap(), Arc::new(Mutex::new(Vec::new())));
    let (way, noted, to) = (listener.local_addr().unwrap(), Arc::clone(&heard), counter.address());
    std::thread::spawn(move || {
        let (mut here, mut there) = (listener.accept().unwrap().0, TcpStream::connect(to).unwrap());
        let (mut back_from, mut back_to) = (there.try_clone().unwrap(), here.try_clone().unwrap());
        std::thread::spawn(move || io::copy(&mut back_from, &mut back_to));
        let mut bytes = [0; 4096];
        while let Ok(read @ 1..) = here.read(&mut bytes) {
            noted.lock().unwrap().extend_from_slice(&bytes[..read]);
            there.write_all(&bytes[..read]).unwrap();
        }
    });
    append_to_new(&machine.path().join("runs/a.journal"));
    let (own, copy) = (machine.path().join("runs/a.journal"), place.folder.path().join("runs/a.journal"));
    let (bench, _orders) = bench(place.card(way), machine.path());
    wait_until("the record", || same(&own, &copy));
    drop(bench);
    std::fs::remove_file(&copy).unwrap();
    at_the_door(counter.address(), &heard.lock().unwrap());
    assert!(!copy.exists());
}

/// Whoever has a card can still not write elsewhere, or over what is there.
#[test]
fn a_card_opens_only_what_it_is_for() {
    let place = Place::new();
    let counter = place.counter();
    append(&place.folder.path().join("runs/known.journal"), "known\n");
    let mut link = crate::bench::linked(&place.card(counter.address())).unwrap();
    let mut said = |note: Note| -> Vec<Answer> {
        send(&mut link, &Say { notes: vec![note] }).unwrap();
        receive::<Heard>(&mut link).unwrap().answers
    };
    // A run outside the records is none.
    std::fs::write(place.folder.path().join("secret.journal"), line(3)).unwrap();
    said(Note::Stands(Standing { run: Some("../secret".into()), ..Standing::default() }));
    assert!(counter.benches()[0].run.is_none());
    for name in ["../x.journal", "link/shop.toml", "runs/../../x.journal", "runs/known.toml"] {
        let answers = said(Note::Piece { name: name.into(), at: 0, bytes: b"x".to_vec() });
        assert!(matches!(answers.as_slice(), [Answer::Refused { .. }]), "{name}: {answers:?}");
        assert!(matches!(said(Note::Asks { name: name.into() }).as_slice(), [Answer::Refused { .. }]));
    }
    let over = said(Note::Piece { name: "runs/known.journal".into(), at: 0, bytes: b"x".to_vec() });
    assert!(matches!(over.as_slice(), [Answer::Refused { .. }]));
    assert_eq!(std::fs::read(place.folder.path().join("runs/known.journal")).unwrap(), b"known\n");
}

#[test]
fn a_frame_that_is_too_large_is_refused_before_it_is_read() {
    let mut bytes = ((LARGEST + 1) as u32).to_le_bytes().to_vec();
    bytes.extend_from_slice(&[0; 100]);
    assert!(receive::<Say>(&mut bytes.as_slice()).is_err());
    let too_much = Say { notes: vec![Note::Piece { name: "a".into(), at: 0, bytes: vec![0; LARGEST] }] };
    assert!(send(&mut Vec::new(), &too_much).is_err());
}

fn spans() -> impl Strategy<Value = Vec<Span>> {
    let span = ("[a-z ]{0,5}", 0..3u32, 0..3u32, 0..3u16);
    prop::collection::vec(span.prop_map(|(text, front, ground, marks)| Span { text, front, ground, marks }), 0..4)
}

fn pictures() -> impl Strategy<Value = Picture> {
    (1..5u16, prop::collection::vec(spans(), 1..5)).prop_map(|(columns, rows)| {
        let rows: Vec<_> = rows
            .into_iter()
            .map(|mut row| {
                row.truncate(columns.into());
                row
            })
            .collect();
        Picture { columns, rows: rows.len() as u16, changed: (0..).zip(rows).collect() }
    })
}

proptest! {
    #[test]
    fn any_bytes_are_read_as_a_frame_without_harm(bytes in prop::collection::vec(any::<u8>(), 0..400)) {
        let _ = receive::<Say>(&mut bytes.as_slice());
        let _ = receive::<Heard>(&mut bytes.as_slice());
        let mut framed = (bytes.len() as u32).to_le_bytes().to_vec();
        framed.extend(&bytes);
        let _ = receive::<Say>(&mut framed.as_slice());
        let _ = receive::<Heard>(&mut framed.as_slice());
    }

    #[test]
    fn frames_come_back(at in any::<u64>(), bytes in prop::collection::vec(any::<u8>(), 0..400), picture in pictures()) {
        let say = Say { notes: vec![Note::Piece { name: "runs/a.journal".into(), at, bytes }, Note::Shows(picture)] };
        let mut sent = Vec::new();
        send(&mut sent, &say).unwrap();
        prop_assert_eq!(receive::<Say>(&mut sent.as_slice()).unwrap(), say);
    }

    /// Whatever was shown before, the changes make the next picture of it.
    #[test]
    fn changes_make_the_next_picture(a in pictures(), b in pictures()) {
        let mut shown = Picture::default();
        shown.take(Picture::default().to(&a));
        shown.take(a.to(&b));
        prop_assert_eq!(shown, b);
    }
}
