//! The shared ledger against a real server: `cargo xtask test` installs one.

use std::collections::BTreeSet;
use std::path::Path;

use revisum_server::{Certificates, Server};
use rstest::rstest;

use super::base::Base;
use super::shared::Lent;
use super::tests::{job, record};
use super::*;
use crate::find_runs;

const NEEDED: &str = "needs PostgreSQL, which `cargo xtask test` installs";

fn folder() -> (tempfile::TempDir, DataDir) {
    let folder = tempfile::tempdir().unwrap();
    let data = DataDir::choose(Some(folder.path()), None).unwrap();
    data.prepare().unwrap();
    (folder, data)
}

fn begin(data: &DataDir, address: &str, authority: Option<&Path>, name: &str) -> Result<Place> {
    Sharing { address, password: None, authority, name }.begin(data)
}

/// Folders of two shops: what only one has, what both have, a journal of the same name with another run, and one that is none.
fn two_shops() -> [(tempfile::TempDir, DataDir); 2] {
    let [north, south] = [folder(), folder()];
    let run = record(&north.1.runs(), "dome 1", "C5510093", 0);
    record(&north.1.runs(), "stacker", "C5510093", 1);
    record(&south.1.runs(), "stacker", "C5510093", 1);
    record(&south.1.runs(), "dome 1", "C5510094", 0);
    record(&south.1.runs(), "100% öde_", "C5510095", 3);
    std::fs::write(south.1.runs().join("junk.journal"), b"\x00\xff").unwrap();
    job(&north.1.jobs(), &run);
    [north, south]
}

/// Shares the ledgers of these folders at this server.
fn share(server: &Server, folders: &[(&DataDir, &str)]) {
    for (data, name) in folders {
        begin(data, &server.address(), None, name).unwrap();
    }
}

/// One folder with all that these hold.
fn together(folders: &[&DataDir]) -> (tempfile::TempDir, DataDir) {
    let all = folder();
    for data in folders {
        crate::import(&all.1, &data.root(), &mut |_, _| {}).unwrap();
    }
    all
}

#[test]
#[ignore = "needs PostgreSQL, which `cargo xtask test` installs"]
fn two_shops_find_what_one_folder_with_all_of_it_finds() {
    let server = Server::start().expect(NEEDED);
    let [(_north, north), (_south, south)] = two_shops();
    share(&server, &[(&north, "North"), (&south, "South")]);
    let (_all, all) = together(&[&north, &south]);
    let (shared, alone) = (Ledger::open(&north).unwrap(), Ledger::open(&all).unwrap());
    let ids = |ledger: &Ledger, text: &str| {
        let (runs, count) = ledger.find(text, 10).unwrap();
        // Two of one moment stand in the order of their names, which one folder must tell apart.
        (runs.into_iter().map(|run| (run.started, run.machine, run.arrangement)).collect::<BTreeSet<_>>(), count)
    };
    for text in [
        "",
        "dome",
        "0094",
        "a1 dome 0093",
        "öde",
        "100%",
        "0%",
        "%",
        "_",
        "e_",
        "\\",
        "dust",
        "fan dust",
        "2031",
        "2031-04-12",
        "\"; DROP",
    ] {
        assert_eq!(ids(&shared, text), ids(&alone, text), "{text}");
    }
    assert_eq!(shared.find("", 1).unwrap().1, 4, "what both hold stands there once");
    let serials = ["C5510093", "C5510094", "C5510095"];
    assert_eq!(shared.serials().unwrap(), serials);
    assert_eq!(shared.life(serials[0]).unwrap(), alone.life(serials[0]).unwrap());
    let elsewhere = |text: &str| shared.find(text, 10).unwrap().0[0].elsewhere.clone();
    assert_eq!((elsewhere("stacker"), elsewhere("öde").as_deref()), (None, Some("South")));
    assert_eq!(shared.unreadable().unwrap(), Vec::<String>::new(), "what South cannot read is for South");
    assert!(Ledger::open(&south).unwrap().unreadable().unwrap()[0].contains("junk"));
    server.ask("UPDATE revisum.runs SET machine = E'st\\u001b[2Jack\\u202eer' WHERE machine = 'stacker'").unwrap();
    assert_eq!(shared.find("stacker", 10).unwrap().0[0].machine, "st [2Jacker");
    let holding = |name: &str, runs, jobs, here| Holding { name: name.into(), runs, jobs, here };
    assert_eq!(shared.holdings().unwrap(), [holding("North", 2, 1, true), holding("South", 4, 0, false)]);
}

/// What a folder lost is as the other one has it; what nobody holds any more is gone.
#[test]
#[ignore = "needs PostgreSQL, which `cargo xtask test` installs"]
fn of_two_copies_the_better_counts_and_the_last_one_takes_the_run_with_it() {
    let server = Server::start().expect(NEEDED);
    let [(_north, north), (_south, south)] = [folder(), folder()];
    let id = record(&north.runs(), "stacker", "C5510093", 1);
    let file = |data: &DataDir| data.runs().join(format!("{id}.journal"));
    let whole = std::fs::read(file(&north)).unwrap();
    let end = whole.windows(16).position(|piece| piece == b"\"record\":\"ended\"").unwrap();
    let half = whole[..end].to_vec();
    std::fs::write(file(&south), &half).unwrap();
    share(&server, &[(&south, "South"), (&north, "North")]);
    let seen = |data: &DataDir| {
        let runs = Ledger::open(data).unwrap().find("", 10).unwrap().0;
        runs.into_iter().map(|run| (run.outcome.word(), run.damage.is_some(), run.elsewhere)).collect::<Vec<_>>()
    };
    let whole_one = vec![("cut-short", false, None)];
    assert_eq!((seen(&south), seen(&north)), (whole_one.clone(), whole_one.clone()));
    std::fs::write(file(&north), &half).unwrap();
    std::fs::write(file(&south), &whole).unwrap();
    assert_eq!(
        (seen(&north).len(), seen(&south), seen(&north)),
        (1, whole_one.clone(), whole_one),
        "the other way round"
    );
    std::fs::remove_file(file(&south)).unwrap();
    assert_eq!(seen(&south).len(), 1);
    assert_eq!(seen(&north), [("interrupted", true, None)], "nothing is better than the journals that there are");
    std::fs::remove_file(file(&north)).unwrap();
    assert_eq!((seen(&north), seen(&south)), (vec![], vec![]));
    assert_eq!(server.ask("SELECT count(*) FROM revisum.modules").unwrap(), "0");
}

/// From so many runs on nobody gets further, until the trigger is gone.
const HALT: &str = "CREATE FUNCTION halt() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN \
    IF (SELECT count(*) FROM revisum.runs) >= 300 THEN PERFORM pg_sleep(600); END IF; RETURN NEW; END $$; \
    CREATE TRIGGER halt BEFORE INSERT ON revisum.runs FOR EACH ROW EXECUTE FUNCTION halt()";

/// Eight folders at once, a server that is killed and comes again: in the end the same as one folder with all of it.
#[test]
#[ignore = "needs PostgreSQL, which `cargo xtask test` installs"]
fn eight_writers_and_a_server_that_dies_lose_nothing() {
    const EACH: i64 = 150;
    let mut server = Server::start().expect(NEEDED);
    let folders: Vec<_> = (0..8).map(|_| folder()).collect();
    for (at, (_, data)) in folders.iter().enumerate() {
        // Every third run is held by two.
        for nr in 0..EACH {
            let number = at as i64 * EACH * 2 / 3 + nr;
            record(&data.runs(), &format!("bench {}", number % 7), &format!("SN{number:05}"), number);
        }
    }
    let names: Vec<String> = (1..=8).map(|nr| format!("Bench {nr}")).collect();
    let datas: Vec<&DataDir> = folders.iter().map(|(_, data)| data).collect();
    for (data, name) in datas.iter().zip(&names) {
        begin(data, &server.address(), None, name).unwrap();
        Ledger::open(data).unwrap().let_go().unwrap();
    }
    let all_at_once = || {
        std::thread::scope(|scope| {
            datas.iter().for_each(|data| drop(scope.spawn(move || Ledger::open(data).map(drop))));
        });
    };
    let count = |server: &Server| server.ask("SELECT count(*) FROM revisum.runs").unwrap().parse::<i64>().unwrap();
    server.ask(HALT).unwrap();
    std::thread::scope(|scope| {
        scope.spawn(all_at_once);
        // What the first who is held has not written yet is less than a share of 50.
        while count(&server) < 250 {}
        server.kill().unwrap();
    });
    server.run().unwrap();
    let before = count(&server);
    assert!((250..850).contains(&before), "it died in the middle: {before}");
    server.ask("DROP TRIGGER halt ON revisum.runs").unwrap();
    // Who was told that the server is gone asks again after a while.
    *super::sharing::SILENT.lock().unwrap() = None;
    all_at_once();
    let (_all, all) = together(&datas);
    let (shared, alone) = (Ledger::open(datas[0]).unwrap(), Ledger::open(&all).unwrap());
    assert_eq!(shared.aside(), None);
    assert_eq!(shared.content(), alone.content());
    assert_eq!(shared.holdings().unwrap().iter().map(|held| held.runs).sum::<u64>(), EACH as u64 * 8);
}

#[test]
#[ignore = "needs PostgreSQL, which `cargo xtask test` installs"]
fn without_its_server_a_folder_has_its_own_ledger_and_says_so() {
    let mut server = Server::start().expect(NEEDED);
    let [(_north, north), (_south, south)] = two_shops();
    share(&server, &[(&north, "North"), (&south, "South")]);
    let found = || find_runs(&north, "", 10).unwrap();
    assert_eq!((found().count, found().aside), (4, None));
    server.kill().unwrap();
    let alone = found();
    assert_eq!((alone.count, alone.without_ledger), (2, None));
    assert!(alone.aside.unwrap().contains("does not answer"));
    record(&north.runs(), "late", "C5510096", 9);
    assert_eq!(found().count, 3);
    server.run().unwrap();
    *super::sharing::SILENT.lock().unwrap() = None;
    assert_eq!((found().count, found().aside), (5, None));
    assert_eq!(end_sharing(&north).unwrap(), None);
    assert_eq!((found().count, Ledger::open(&south).unwrap().find("", 10).unwrap().1), (3, 3));
}

#[test]
#[ignore = "needs PostgreSQL, which `cargo xtask test` installs"]
fn what_comes_in_while_nobody_looks_is_found_elsewhere() {
    let server = Server::start().expect(NEEDED);
    let [(_counter, counter), (_other, other)] = [folder(), folder()];
    share(&server, &[(&counter, "Counter"), (&other, "Other")]);
    let kept_up = KeptUp::every(std::time::Duration::from_millis(5), &counter).unwrap();
    record(&counter.runs(), "stacker", "C5510093", 1);
    let begin = std::time::Instant::now();
    while find_runs(&other, "stacker", 1).unwrap().count == 0 {
        assert!(begin.elapsed().as_secs() < 60, "it never came");
    }
    drop(kept_up);
}

/// A copy of a folder is another one: neither takes from the ledger what the other holds.
#[test]
#[ignore = "needs PostgreSQL, which `cargo xtask test` installs"]
fn a_copied_folder_is_another_one() {
    let server = Server::start().expect(NEEDED);
    let (_here, here) = folder();
    record(&here.runs(), "stacker", "C5510093", 1);
    share(&server, &[(&here, "Here")]);
    let (_copy, copy) = folder();
    std::fs::copy(here.ledger_place(), copy.ledger_place()).unwrap();
    end_sharing(&copy).unwrap();
    assert_eq!(server.ask("SELECT count(*) FROM revisum.runs").unwrap(), "1", "what it was copied from keeps its own");
    std::fs::copy(here.ledger_place(), copy.ledger_place()).unwrap();
    record(&copy.runs(), "dome 1", "C5510094", 2);
    for data in [&copy, &here, &copy] {
        assert_eq!(Ledger::open(data).unwrap().find("", 10).unwrap().1, 2);
    }
}

#[test]
#[ignore = "needs PostgreSQL, which `cargo xtask test` installs"]
fn tables_of_an_older_version_are_brought_up_to_date_and_those_of_a_newer_one_left_alone() {
    let server = Server::start().expect(NEEDED);
    let (_here, here) = folder();
    record(&here.runs(), "stacker", "C5510093", 1);
    let first = &tables::steps()[0];
    server
        .ask(&format!("CREATE SCHEMA revisum; SET search_path = revisum; {first}; CREATE TABLE ledger_version (version BIGINT); INSERT INTO ledger_version VALUES (1); INSERT INTO origins (id, name) VALUES ('x', 'There')"))
        .unwrap();
    share(&server, &[(&here, "Here")]);
    let indexes = "SELECT count(*) FROM pg_indexes WHERE schemaname = 'revisum' AND indexdef LIKE '%gin_trgm_ops%'";
    assert_eq!(server.ask(indexes).unwrap(), "3");
    assert_eq!(server.ask("SELECT count(*) FROM revisum.origins").unwrap(), "2");
    server.ask("UPDATE revisum.ledger_version SET version = 99").unwrap();
    let place = Place::read(&here.ledger_place()).unwrap().unwrap();
    // A connection that was made before does not look again.
    let fresh = Place { name: "Other".into(), ..place };
    let Err(error) = Lent::to(&fresh) else { panic!("taken") };
    assert!(format!("{error:#}").contains("newer version"), "{error:#}");
}

/// What leads over a network is spoken to by TLS alone, and only where the server is vouched for.
#[rstest]
#[case::as_it_should_be("localhost", "right", true, "")]
#[case::vouched_for_by_another("localhost", "right", false, "certificate")]
#[case::another_password("localhost", "wrong", true, "password")]
#[case::another_name_than_its_certificate("127.0.0.1", "right", true, "certificate")]
#[ignore = "needs PostgreSQL, which `cargo xtask test` installs"]
fn a_server_over_a_network(#[case] host: &str, #[case] password: &str, #[case] own: bool, #[case] refused: &str) {
    let certificates = Certificates::new().unwrap();
    let port = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
    let server = Server::with_tls(port, &certificates).expect(NEEDED);
    server.ask("CREATE ROLE shop LOGIN PASSWORD 'right'").unwrap();
    server.ask("CREATE DATABASE shop OWNER shop").unwrap();
    let (_here, here) = folder();
    let authority = here.root().join("authority.pem");
    let vouching = if own { certificates } else { Certificates::new().unwrap() };
    std::fs::write(&authority, vouching.authority).unwrap();
    let address = format!("postgresql://shop:{password}@{host}:{port}/shop");
    let begun = begin(&here, &address, Some(&authority), "Here");
    match begun {
        Ok(place) => assert_eq!((refused, place.shown()), ("", format!("localhost:{port}/shop"))),
        Err(error) => {
            let words = format!("{error:#}");
            assert!(!refused.is_empty() && words.contains(refused) && !words.contains(":wrong@"), "{words}");
            assert!(!here.ledger_place().exists(), "nothing is kept of a server that refused");
        }
    }
}

#[rstest]
#[case::another_computer("postgresql://shop@198.51.100.7/shop", "--authority")]
#[case::by_its_number("host=localhost hostaddr=198.51.100.7 user=shop", "--authority")]
#[case::no_address("over there", "no address")]
#[case::nobody_there("host=127.0.0.1 port=1 user=shop connect_timeout=1", "does not answer")]
fn an_address_that_cannot_be_used_is_refused(#[case] address: &str, #[case] words: &str) {
    let (_here, here) = folder();
    let error = format!("{:#}", begin(&here, address, None, "Here").unwrap_err());
    assert!(error.contains(words), "{error}");
    assert!(Path::new(&here.ledger_place()).metadata().is_err());
}

/// A transaction that meets another one is done once more, and a failed one leaves nothing.
#[test]
#[ignore = "needs PostgreSQL, which `cargo xtask test` installs"]
fn work_is_done_whole_or_not_at_all() {
    let server = Server::start().expect(NEEDED);
    let place = Place {
        address: server.address(),
        name: "Here".into(),
        password: None,
        authority: None,
        origin: "a".into(),
        folder: String::new(),
    };
    let [one, other] = [Lent::to(&place).unwrap(), Lent::to(&place).unwrap()];
    let put = |base: &Lent, id: &str| base.add("INSERT INTO origins (id, name) VALUES ($1, $1)", &[id.into()]);
    let failed = one.whole(&mut || {
        put(&one, "p")?;
        anyhow::bail!("no")
    });
    assert!(failed.is_err());
    for id in ["x", "y"] {
        put(&one, id).unwrap();
    }
    let barrier = std::sync::Barrier::new(2);
    let name = |base: &Lent, id: &str| {
        base.change("UPDATE origins SET name = name || $1 WHERE id = $2", &["!".into(), id.into()])
    };
    std::thread::scope(|scope| {
        for (base, order) in [(one, ["x", "y"]), (other, ["y", "x"])] {
            let barrier = &barrier;
            scope.spawn(move || {
                let mut tries = 0;
                base.whole(&mut || {
                    tries += 1;
                    name(&base, order[0])?;
                    if tries == 1 {
                        barrier.wait();
                    }
                    name(&base, order[1]).map(drop)
                })
                .unwrap();
            });
        }
    });
    assert_eq!(
        server.ask("SELECT string_agg(id || '=' || name, ' ' ORDER BY id) FROM revisum.origins").unwrap(),
        "x=x!! y=y!!"
    );
}
