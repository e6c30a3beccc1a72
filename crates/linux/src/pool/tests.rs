use revisum_engine::march::Op;
use revisum_engine::memory::BadStretch;
use revisum_engine::path::Path;
use revisum_engine::pattern::WordRule;
use revisum_engine::sweep::{BadLine, BadWord};

use super::*;

const SIZE: u64 = 4 << 20;

/// Without root only 8 MiB may be locked in all: tests that lock take turns.
fn turn() -> std::sync::MutexGuard<'static, ()> {
    static TURN: Mutex<()> = Mutex::new(());
    TURN.lock().unwrap_or_else(PoisonError::into_inner)
}

fn pool() -> Pool {
    Pool::lease(&LeaseRequest { bytes: Some(SIZE), ..LeaseRequest::default() }, &|_, _| true)
        .expect("4 MiB can be locked anywhere")
}

#[derive(Default)]
struct Found(Vec<BadWord>);

impl MismatchSink for Found {
    fn mismatch(&mut self, word: BadWord, _again: &mut dyn WordAccess) {
        self.0.push(word);
    }
    fn looks_again(&self) -> bool {
        true
    }
    fn line(&mut self, _offset: u64, _line: &BadLine) {
        unreachable!("words are asked for one by one");
    }
    fn stretch(&mut self, _stretch: &BadStretch) {
        unreachable!("real memory counts nothing itself");
    }
}

fn work(op: Op) -> ElementWork {
    ElementWork { rule: WordRule::Address, down: false, ops: vec![op], path: Path::Linear, moved: 0 }
}

fn write_and_read(pool: &Pool, between: impl FnOnce()) -> Vec<BadWord> {
    let mut found = Found::default();
    pool.sweep(0..SIZE, &work(Op::Write { inverse: false }), &mut found);
    between();
    pool.sweep(0..SIZE, &work(Op::Read { inverse: false }), &mut found);
    found.0
}

#[test]
fn the_layout_is_the_page_map_in_physical_order() {
    let _turn = turn();
    let pool = pool();
    assert_eq!(pool.layout().bytes(), SIZE);
    if !pool.layout().addresses_known() {
        assert!(!addresses_visible(), "addresses are unknown only where the page map hides them");
        return;
    }
    let physical: Vec<u64> = pool.layout().segments().iter().filter_map(|segment| segment.phys).collect();
    assert!(physical.is_sorted());
    for (part, segment) in pool.parts.iter().zip(pool.layout().segments()) {
        let mut seen = Vec::new();
        let at = pool.mapping.ptr().wrapping_add(part.virt as usize);
        PageMap::open().unwrap().walk(at, part.bytes as usize, |_, phys| seen.push(phys)).unwrap();
        let expected: Vec<_> = (0..part.bytes / PAGE).map(|page| segment.phys.map(|phys| phys + page * PAGE)).collect();
        assert_eq!(seen, expected);
    }
    assert_eq!(pool.changes(), Changes::default());
}

#[test]
fn a_poked_word_is_found_at_its_offset() {
    let _turn = turn();
    let pool = pool();
    let at = 5 * PAGE + 24;
    let found = write_and_read(&pool, || {
        let right = pool.layout().index_of(at) << 3;
        assert_eq!(pool.poke(at, right ^ 4), right ^ 4);
    });
    let right = pool.layout().index_of(at) << 3;
    assert_eq!(found, [BadWord { offset: at, expected: right, actual: right ^ 4 }]);
}

#[test]
fn a_page_that_moved_is_noticed_once_and_has_no_address_any_more() {
    let _turn = turn();
    let pool = pool();
    if !pool.layout().addresses_known() {
        return assert!(!addresses_visible());
    }
    let page = 3 * PAGE;
    let (at, _, skip, _) = pool.layout().parts(page..page + PAGE).next().unwrap();
    let virt = (pool.parts[at].virt + skip) as usize;
    let before = pool.layout().address_of(page);
    // Without this the kernel may hand the very same frame back.
    let mut others = Vec::new();
    pool.mapping.exchange(virt, PAGE as usize, || others.push(vec![1u8; 4 << 20])).unwrap();
    let changes = pool.changes();
    let moved: Vec<(u64, u64)> = changes.moved.iter().map(|held| (held.start, held.end)).collect();
    assert_eq!(moved, [(page, page + PAGE)], "was at {before:?}");
    assert_eq!(pool.address_of(page), None);
    assert!(pool.address_of(page + PAGE).is_some());
    assert_eq!(pool.changes(), Changes::default());
    drop(others);
}

#[test]
fn a_hardware_memory_error_is_survived_and_its_page_taken_out() {
    let _turn = turn();
    let pool = pool();
    let page = 7 * PAGE;
    let (at, _, skip, _) = pool.layout().parts(page..page + PAGE).next().unwrap();
    let victim = pool.ptr() as u64 + pool.parts[at].virt + skip;
    let found = write_and_read(&pool, || bus_error::pretend(victim + 100).unwrap());
    assert_eq!(found, [], "the fresh page holds zeros, which must not be blamed on the memory");
    let changes = pool.changes();
    assert_eq!(changes.lost, [(page..page + PAGE, pool.layout().address_of(page))]);
}

/// Of a pool that is given back the system keeps nothing that failed: the next pool has the very same page, and what was only arranged is not kept.
#[test]
fn a_page_that_failed_comes_into_the_next_pool() {
    let _turn = turn();
    let page = 9 * PAGE;
    let failed = {
        let pool = pool();
        if !pool.layout().addresses_known() {
            return assert!(!addresses_visible());
        }
        let (kept, arranged) = (kept_out::bytes(), 5 * PAGE + 8);
        let found = write_and_read(&pool, || {
            pool.poke(arranged, 0xf00);
            let (at, _, skip, _) = pool.layout().parts(page..page + PAGE).next().unwrap();
            let mut word = pool.mapping.word((pool.parts[at].virt + skip) as usize);
            word.write(0xbad);
        });
        let address = pool.layout().address_of(page).unwrap();
        drop(pool);
        assert_eq!((found.len(), kept_out::bytes()), (2, kept + PAGE));
        address
    };
    for _ in 0..3 {
        let pool = pool();
        assert_eq!((pool.layout().bytes(), kept_out::bytes()), (SIZE, 0));
        let addresses: Vec<_> = (0..SIZE / PAGE).filter_map(|page| pool.layout().address_of(page * PAGE)).collect();
        assert!(addresses.contains(&failed), "{failed} was given back");
        assert_eq!(write_and_read(&pool, || ()), []);
    }
}

#[test]
fn more_than_there_is_is_refused_with_both_amounts() {
    let error =
        Pool::lease(&LeaseRequest { bytes: Some(1 << 50), ..LeaseRequest::default() }, &|_, _| true).err().unwrap();
    assert!(
        matches!(error, LeaseError::TooMuch { asked, reachable, .. } if asked == 1 << 50 && (1..asked).contains(&reachable)),
        "{error:?}"
    );
}

#[test]
fn only_pages_inside_the_range_are_kept() {
    let _turn = turn();
    let pool = pool();
    let Some(middle) = pool.parts.first().and_then(|part| part.phys) else {
        return assert!(!addresses_visible());
    };
    let kept = |range| pool_parts(&pool.mapping, pool.mapped, pool.pagemap.as_ref(), Some(range)).unwrap();
    let inside = ByteRange::new(middle, middle + 2 * PAGE);
    let held = |parts: &[PoolPart]| -> revisum_engine::units::RangeSet {
        parts.iter().filter_map(|part| part.phys.map(|phys| ByteRange::new(phys, phys + part.bytes))).collect()
    };
    // Whole pages only: a byte more on either side brings nothing.
    let found = kept(ByteRange::new(inside.start - 1, inside.end + 1));
    let expected = held(&pool.parts).intersection(&vec![inside].into());
    assert_eq!(held(&found), expected);
    assert!(expected.bytes() >= PAGE);
    assert_eq!(kept(ByteRange::new(1 << 60, (1 << 60) + SIZE)), []);
    let first = within(found.clone(), Some(PAGE));
    assert_eq!(first, [PoolPart { bytes: PAGE, ..found[0] }]);
}

#[test]
fn taking_memory_can_be_given_up() {
    let asked = LeaseRequest { bytes: Some(SIZE), ..LeaseRequest::default() };
    assert!(matches!(Pool::lease(&asked, &|_, _| false), Err(LeaseError::Abandoned)));
}

/// The part that was given back may be used by anybody else: dropping the rest must not touch it.
#[test]
fn a_shortened_mapping_lets_go_of_its_end_for_good() {
    let _turn = turn();
    let mut mapping = Mapping::reserve(2 * HUGE).unwrap();
    mapping.populate(0, 2 * HUGE).unwrap();
    let start = mapping.ptr();
    mapping.shorten(HUGE);
    assert_eq!((mapping.len(), mapping.ptr()), (HUGE, start));
    let neighbours: Vec<Mapping> = (0..8).map(|_| Mapping::reserve(HUGE).unwrap()).collect();
    drop(mapping);
    for neighbour in &neighbours {
        neighbour.populate(0, PAGE as usize).expect("still mapped");
    }
}

/// Windows onto a file in place of physical memory: a bit that is turned over in the file is found at its address.
#[test]
fn memory_in_windows_is_swept_by_its_address() {
    use std::os::unix::fs::FileExt as _;
    const WINDOW: u64 = 16 * PAGE;
    let file = tempfile::tempfile().unwrap();
    file.set_len(40 * WINDOW).unwrap();
    let part = |number: u64| PoolPart { virt: 0, phys: Some(number * WINDOW), bytes: WINDOW, window: true };
    let parts: Vec<PoolPart> = [1, 2, 5, 6, 9, 30].map(part).into();
    let pool = Pool {
        mapping: WithKept::new(Mapping::reserve(0).unwrap(), 0),
        poked: AtomicU64::new(u64::MAX),
        windows: Some(Windows::over(file.try_clone().unwrap(), 1)),
        _low: LowMemory::default(),
        mapped: 0,
        layout: Layout::new(parts.iter().map(|part| (part.phys, part.bytes))),
        parts,
        pagemap: None,
        void: Mutex::default(),
        cores: vec![0],
        kernels: Kernels::detect(),
        _watched: None,
        _still: StillPages { before: None },
    };
    let all = 0..pool.layout().bytes();
    let lines: Vec<u64> = (0..all.end / 64).map(|line| line * 64).collect();
    let streamed = pool.stream(&lines).expect("windows can be read");
    assert_eq!(streamed.lines, 4 * WINDOW / 64, "of six windows");
    let mut found = Found::default();
    pool.sweep(all.clone(), &work(Op::Write { inverse: false }), &mut found);
    let at = 30 * WINDOW + 24;
    let mut byte = [0];
    file.read_exact_at(&mut byte, at).unwrap();
    file.write_all_at(&[byte[0] ^ 4], at).unwrap();
    pool.sweep(all, &work(Op::Read { inverse: false }), &mut found);
    let [bad] = &found.0[..] else { panic!("{:?}", found.0) };
    assert_eq!((pool.address_of(bad.offset), bad.expected ^ bad.actual), (Some(PhysAddr(at)), 4));
    // Copying goes from window to window.
    pool.copy(0..2 * WINDOW, 3 * WINDOW, WordRule::Address);
    let read = |at: u64| {
        let mut bytes = [0; 8];
        file.read_exact_at(&mut bytes, at).unwrap();
        bytes
    };
    assert_eq!(read(6 * WINDOW + 64), read(WINDOW + 64));
    assert_eq!(read(9 * WINDOW + 64), read(2 * WINDOW + 64));
    assert!(pool.changes().moved.is_empty() && pool.peek(8) == u64::from_le_bytes(read(WINDOW + 8)));
}

/// Streaming and warming read every line that is held, change nothing, and last: the one as long as it takes, the other as long as asked.
#[test]
fn streams_read_every_line_and_change_nothing() {
    let _turn = turn();
    let pool = pool();
    let lines: Vec<u64> = (0..SIZE / 64).rev().map(|line| line * 64).collect();
    let found = write_and_read(&pool, || {
        let streamed = pool.stream(&lines).expect("all of it is in the mapping");
        assert_eq!(streamed.lines, SIZE / 64);
        assert!(streamed.ns > 0);
        let begin = Instant::now();
        pool.warm(&lines, Duration::from_millis(20));
        assert!(begin.elapsed() >= Duration::from_millis(20));
        assert_eq!(pool.stream(&[]), None, "nothing to read");
    });
    assert_eq!(found, []);
}
