//! One run from lease to last record.

use std::collections::BTreeMap;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::Arc;
use std::sync::mpsc::{SyncSender, sync_channel};
use std::thread::JoinHandle;
use std::time::Instant;

use anyhow::{Context, Result, anyhow};
use revisum_diagnose::address::{FittingKey, Locator, MapFile, MapStatus};
use revisum_diagnose::board::Inventory;
use revisum_diagnose::board::SystemFacts;
use revisum_diagnose::machine::Machine;
use revisum_engine::catalog::Work;
use revisum_engine::estimate::Rates;
use revisum_engine::host::NoSleep;
use revisum_engine::memory::{LeaseRequest, Memory};
use revisum_engine::recipe::Caches;
use revisum_engine::run::{Control, RunSetup, StartAt, expected, run};
use revisum_record::carry::Carried;
use revisum_record::fitted::Board;
use revisum_record::journal::{Begin, Entry, FORMAT_VERSION, Held};

use crate::first_look::found_before;
use crate::go_on::Start;
use crate::rates::Rated;
use crate::recorder::{Live, Recorder};
use crate::say;
use revisum_records::{DataDir, WrongUse};
use revisum_records::{Moment, channels_for, create_run, halves_for, next_moment};
use revisum_words::refused;

/// Bytes a second that are assumed where nothing could be measured; only progress bars depend on it.
const GUESSED_RATE: f64 = 5e9;
/// Records that may wait for the recorder before the engine waits for it.
const QUEUE: usize = 4096;

/// What to run and where to record it.
pub struct Order {
    /// The machine.
    pub machine: Arc<Machine>,
    /// What is fitted, with the technician's marks.
    pub board: Board,
    /// What to run, and what it goes on with or repeats.
    pub what: Start,
    /// Seed.
    pub seed: u64,
    /// What the sweeps reach here, once it is known.
    pub rated: Rated,
    /// Where records go.
    pub data: DataDir,
    /// Job that the run belongs to.
    pub job: String,
}

/// A run that is going on.
pub struct RunHandle {
    /// Pause, skip, stop.
    pub control: Arc<Control>,
    /// What it has come to.
    pub live: Arc<Live>,
    thread: Option<JoinHandle<Option<String>>>,
}

impl RunHandle {
    /// Waits for the end and returns the id of the run, if it came to have one.
    pub fn wait(self) -> Option<String> {
        self.thread?.join().ok().flatten()
    }
}

/// Begins a run on threads of its own; `published` is called whenever there is something new to show.
pub fn start(order: Order, published: impl Fn() + Send + Sync + 'static) -> RunHandle {
    let (control, live) = (Arc::new(Control::default()), Arc::new(Live::default()));
    let (thread_control, thread_live) = (control.clone(), live.clone());
    let thread = std::thread::Builder::new().spawn(move || {
        // A fault in this program, or one that bad memory makes of it, must not look like a run that goes on for ever.
        let make = AssertUnwindSafe(|| make(&order, &thread_control, &thread_live, &published));
        let ran = catch_unwind(make).unwrap_or_else(|_| {
            Err(anyhow!("the run broke off by a fault in the program itself, or in the memory that it lies in; its record has no end"))
        });
        let id = ran.unwrap_or_else(|error| {
            thread_live.fail(format!("{error:#}"));
            None
        });
        thread_live.finish();
        published();
        id
    });
    if let Err(error) = &thread {
        live.fail(say::runner_no_thread(error.to_string()));
        live.finish();
    }
    RunHandle { control, live, thread: thread.ok() }
}

fn make(order: &Order, control: &Control, live: &Live, published: &(dyn Fn() + Sync)) -> Result<Option<String>> {
    let machine = &order.machine;
    let facts = machine.firmware.facts();
    let specs = order.what.recipe.specs().map_err(|error| WrongUse(refused::recipe(&error)))?;
    let workers = order.what.recipe.workers(facts.cores).map_err(|error| WrongUse(refused::recipe(&error)))?;
    let sleeps = specs.iter().any(|spec| spec.work == Work::Sleeping);
    if let Some(why) = machine.sleeper.refuses().filter(|_| sleeps) {
        return Err(WrongUse(cannot_sleep(why).to_owned()).into());
    }
    // While rates are being measured some of the memory is taken.
    let rates = order.rated.wait().rates(order.what.recipe.cores).unwrap_or(Rates::uniform(GUESSED_RATE));
    let request = LeaseRequest {
        bytes: order.what.recipe.memory,
        range: order.what.recipe.range,
        uncached: order.what.recipe.caches == Caches::Flush,
        sleeps,
        ..LeaseRequest::default()
    };
    let memory = machine.memory.lease(&request, &|taken, of| {
        live.taking(taken, of);
        published();
        !control.is_stopping()
    });
    let memory = memory.map_err(|error| anyhow::anyhow!(refused::lease(&error)))?;
    let _awake = machine.awake.hold();
    let raw = machine.firmware.raw();
    let inventory = Inventory::read(&raw);
    let locator = locator(order, &facts, &inventory);
    // Simulated time has no dead batteries, and must not disorder real records.
    let moment = match machine.is_simulated() {
        true => Moment::default(),
        false => next_moment(&order.data.moments(), machine.clock.wall_ms()),
    };
    let (id, writer) = create_run(&order.data.runs(), &facts.machine, machine.clock.wall_ms())?;
    let (sender, entries) = sync_channel::<(u64, Entry)>(QUEUE);
    let begin_ns = machine.clock.now_ns();
    std::thread::scope(|scope| {
        std::thread::Builder::new().spawn_scoped(scope, move || {
            let begin = Instant::now();
            Recorder::new(writer, live, &|| published(), &|| begin.elapsed()).record(&entries);
        })?;
        // The sender moves in: when it is dropped the recorder writes its last and ends, and the scope with it.
        let mut tell = teller(sender, machine, begin_ns);
        let registers = raw.registers.text();
        let begin = Begin { registers, ..begin(order, moment, &facts, &locator, inventory) };
        let halves = halves_for(&order.data, &begin);
        let channels = channels_for(&order.data, &begin.board);
        let begin = Begin { halves, channels, ..begin };
        tell(Entry::Begin(Box::new(begin)));
        let plan = expected(&specs, &order.what.recipe, &rates, memory.layout().bytes(), workers.len());
        held(order, memory.as_ref(), workers.len(), plan).into_entries().into_iter().for_each(&mut tell);
        found_before(machine, &locator).map(|report| Entry::Errors(Box::new(report))).into_iter().for_each(&mut tell);
        let setup = RunSetup {
            memory: memory.as_ref(),
            clock: machine.clock.as_ref(),
            counters: machine.counters.as_ref(),
            sensors: machine.sensors.as_ref(),
            sleeper: machine.sleeper.as_ref(),
            places: &locator,
            recipe: &order.what.recipe,
            seed: order.seed,
            workers: &workers,
            rates,
            cache_bytes: facts.cache_bytes,
            half_words: order.board.moves_half_words(),
            control,
            from: &order.what.continues.as_ref().map(start_at).unwrap_or_default(),
        };
        run(&setup, &mut |news| tell(news.into())).map_err(anyhow::Error::from)
    })
    .context(say::runner_not_begun())?;
    Ok(Some(id))
}

/// Why a test that sleeps is not begun.
fn cannot_sleep(why: NoSleep) -> &'static str {
    match why {
        NoSleep::NotOffered => say::sleep_not_offered(),
        NoSleep::NoAlarm => say::sleep_no_alarm(),
        NoSleep::NotAllowed => say::sleep_not_allowed(),
        NoSleep::Remote => say::sleep_remote(),
    }
}

fn start_at(before: &Carried) -> StartAt {
    StartAt {
        pass: before.pass,
        finished: before.finished.clone(),
        finished_seconds: before.finished_seconds,
        spent_seconds: before.counted_seconds,
        added_passes: before.added_passes,
    }
}

fn teller(sender: SyncSender<(u64, Entry)>, machine: &Machine, begin_ns: u64) -> impl FnMut(Entry) + '_ {
    move |entry| {
        let t_ms = (machine.clock.now_ns() - begin_ns) / 1_000_000;
        // A recorder that is gone has panicked; the scope passes that on, so nothing is lost silently.
        let _ = sender.send((t_ms, entry));
    }
}

/// By the map of this fitting where one is known, else by the memory controller's registers, else by what the firmware says of each
/// device's addresses; a virtual machine's tables and registers are its host's invention.
fn locator(order: &Order, facts: &SystemFacts, inventory: &Inventory) -> Locator {
    let mapped = if facts.guest && !facts.ranges_trusted { &[][..] } else { &inventory.mapped };
    let controller = inventory.controller.as_ref().filter(|_| !facts.guest);
    Locator::new(&order.board, order.machine.firmware.address_map())
        .with_firmware_ranges(mapped)
        .with_registers(controller)
}

/// The map as a file, for the journal.
fn map_text(order: &Order, facts: &SystemFacts) -> Option<String> {
    let map = order.machine.firmware.address_map()?;
    let of = FittingKey::of(&order.board, &facts.settings);
    // A map that was checked can always be written; a journal without one says less, and nothing wrong.
    MapFile { of, status: MapStatus::Confirmed, map }.text().ok()
}

fn begin(order: &Order, moment: Moment, facts: &SystemFacts, locator: &Locator, inventory: Inventory) -> Begin {
    let clock = &order.machine.clock;
    Begin {
        format: FORMAT_VERSION,
        program: env!("CARGO_PKG_VERSION").to_owned(),
        machine: facts.machine.clone(),
        job: order.job.clone(),
        simulated: order.machine.is_simulated(),
        guest: facts.guest,
        ranges_trusted: facts.ranges_trusted,
        wall_ms: clock.wall_ms(),
        wall_doubtful: clock.wall_is_doubtful() || moment.doubtful,
        boot: moment.boot,
        after_ms: moment.after_ms,
        seed: order.seed,
        recipe: Some(order.what.recipe.clone()),
        board: order.board.clone(),
        settings: facts.settings.clone(),
        fitted_bytes: order.board.fitted_bytes(),
        usable_bytes: inventory.usable.bytes(),
        map: map_text(order, facts),
        mapped: inventory.mapped,
        registers: String::new(),
        halves: None,
        channels: BTreeMap::new(),
        memory: inventory.arrays,
        encrypted: inventory.encrypted == Some(true),
        attribution: locator.reason().word().to_owned(),
        continues: order.what.continues.clone(),
        repeats: order.what.repeats.clone(),
    }
}

fn held(order: &Order, memory: &dyn Memory, cores: usize, expected: Vec<(String, f64)>) -> Held {
    let layout = memory.layout();
    Held {
        bytes: layout.bytes(),
        ranges: layout.ranges_of(0..layout.bytes()),
        addresses_known: layout.addresses_known(),
        cores,
        expected,
        limits: order.machine.memory.offer().limits.iter().map(|limit| limit.word().to_owned()).collect(),
    }
}

/// A seed that no other run has.
pub fn fresh_seed() -> u64 {
    use std::hash::{BuildHasher, Hasher};
    std::hash::RandomState::new().build_hasher().finish()
}
