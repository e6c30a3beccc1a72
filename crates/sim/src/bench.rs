//! A simulated machine on the bench: its parts, where they sit, and the ports that show it.

use std::collections::BTreeSet;
use std::io;
use std::sync::atomic::{AtomicU32, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::Duration;

use revisum_diagnose::address::{AddressMap, Cell, Placed};
use revisum_diagnose::board::{Firmware, SystemFacts};
use revisum_diagnose::board::{Inventory, RawFirmware};
use revisum_diagnose::hands::Hands;
use revisum_diagnose::machine::Machine;
use revisum_diagnose::system_log::SystemLog;
use revisum_diagnose::system_log::{LineReader, SystemLogs};
use revisum_engine::host::{
    Awake, Clock, CoreClock, Counters, EccCount, ModuleReading, NoSleep, Reading, Sensors, Sleeper,
};
use revisum_engine::memory::{Kept, Layout, LeaseError, LeaseRequest, Limit, Memory, MemoryOffer, MemorySource};
use revisum_engine::pattern::pass_seed;
use revisum_engine::units::{ByteRange, MIB, PhysAddr, RangeSet};
use revisum_record::fitted::Module;
use revisum_record::journal::Intake;
use revisum_record::logged::LogTime;

use crate::clock::{BEGIN_MS, SimClock};
use crate::correction::{Correction, EccCounters};
use crate::fault::{
    BitFault, Climate, Conditions, Coupling, Decoder, Disturbance, FaultKind, FaultSpec, Noise, Scatter,
};
use crate::firmware_tables::{memory_map, tables};
use crate::held::Faults;
use crate::mapping::{address_map, physical, populated_channels};
use crate::memory::{Pace, SimMemory};
use crate::registers::registers;
use crate::spd_image::{images, place_of};
use crate::spec::{IntakeSpec, MachineSpec, ModuleSpec, replacement_of};
use crate::warmth::ModuleWarmth;

/// The first MiB belongs to the firmware.
const FIRST_MIB: u64 = MIB;
/// Degrees Celsius of the air where a machine's heat is not told.
const AIR: f64 = 34.0;
/// What moving modules takes: five minutes.
const REFIT_NS: u64 = 300_000_000_000;
/// Bytes that a channel moves in one transfer.
const CHANNEL_BYTES: f64 = 8.0;
const HOUR_MS: i64 = 3_600_000;

/// How a machine is simulated.
#[derive(Clone, Copy, Debug, Default)]
pub struct SimOptions {
    /// Simulated seconds per real second; zero for as fast as possible.
    pub pace: f64,
    /// Wall time at which the simulation begins, in milliseconds since 1970; a fixed day when absent.
    pub begin_ms: Option<i64>,
    /// Executes every word instead of only those that matter: slow, and the proof that leaving words out changes nothing.
    pub every_word: bool,
    /// Decides when faults that come and go show, and what a touch cures.
    pub seed: u64,
}

/// A machine with its present fitting.
pub struct Bench {
    spec: MachineSpec,
    placement: Mutex<Vec<(String, String)>>,
    clock: Arc<SimClock>,
    seed: u64,
    every_word: bool,
    /// Faults that a touch has cured, by their number in the machine file.
    cured: Mutex<BTreeSet<usize>>,
    /// Settings in force.
    setting: Mutex<String>,
    /// Modules of other machines that were lent to this one.
    lent: Mutex<BTreeSet<String>>,
    ecc: Arc<EccCounters>,
    /// How warm modules with thermometers are.
    warmth: Option<Arc<ModuleWarmth>>,
    touches: AtomicU32,
    leases: AtomicU32,
}

/// Puts a machine on the bench.
pub fn simulated_machine(mut spec: MachineSpec, options: SimOptions) -> Machine {
    spec.stock();
    let begin_ms = options.begin_ms.unwrap_or(BEGIN_MS);
    let clock = Arc::new(SimClock::new(begin_ms, options.pace));
    let placement = Mutex::new(spec.placement());
    let setting = Mutex::new(spec.settings.first().cloned().unwrap_or_default());
    let warmth = spec.thermometers.map(|of| Arc::new(ModuleWarmth::new(of, options.seed)));
    let bench = Arc::new(Bench {
        spec,
        warmth,
        placement,
        clock: clock.clone(),
        // A later start is not the first one again: what comes and goes would come at the same moments.
        seed: options.seed ^ ((begin_ms - BEGIN_MS).unsigned_abs() / 1000) << 8,
        every_word: options.every_word,
        cured: Mutex::default(),
        setting,
        lent: Mutex::default(),
        ecc: Arc::default(),
        touches: AtomicU32::new(0),
        leases: AtomicU32::new(0),
    });
    Machine {
        memory: bench.clone(),
        own_memory: Arc::default(),
        clock,
        firmware: bench.clone(),
        sensors: bench.clone(),
        counters: bench.clone(),
        awake: bench.clone(),
        sleeper: bench.clone(),
        speed: bench.clone(),
        log: bench.clone(),
        is_here: true,
        hands: Some(bench),
    }
}

impl Bench {
    fn placed(&self) -> Vec<(String, String)> {
        self.placement.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    fn is_here(&self, module: &ModuleSpec) -> bool {
        !module.elsewhere || self.lent.lock().unwrap_or_else(PoisonError::into_inner).contains(&module.serial)
    }

    fn map(&self) -> Option<AddressMap> {
        address_map(&self.spec, &self.placed()).ok()
    }

    fn fitted_bytes(&self) -> u64 {
        self.placed().iter().filter_map(|(_, serial)| self.spec.module(serial)).map(|module| module.size).sum()
    }

    fn usable_ranges(&self) -> RangeSet {
        let first = ByteRange::new(0, FIRST_MIB);
        RangeSet::from(physical(&self.spec, self.fitted_bytes())).minus(&RangeSet::from(vec![first]))
    }

    /// What the running system holds.
    fn held_by_system(&self) -> RangeSet {
        RangeSet::from(vec![ByteRange::new(FIRST_MIB, FIRST_MIB + self.spec.held_by_system)])
    }

    fn reachable(&self) -> RangeSet {
        self.usable_ranges().minus(&self.held_by_system())
    }

    fn kept(&self) -> Vec<Kept> {
        let ranges = self.usable_ranges().intersection(&self.held_by_system());
        let kept = Kept { bytes: ranges.bytes(), ranges, ..Kept::default() };
        Some(kept).filter(|kept| kept.bytes > 0).into_iter().collect()
    }

    fn setting(&self) -> String {
        self.setting.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Speed in force in MT/s: the slowest fitted module decides.
    pub(crate) fn speed(&self) -> u32 {
        let (placed, setting) = (self.placed(), self.setting());
        let modules = placed.iter().filter_map(|(_, serial)| self.spec.module(serial));
        modules.map(|module| u32::from(module.speed_with(&setting))).min().unwrap_or(0)
    }

    /// What all populated channels move together, in bytes a second.
    pub(crate) fn bandwidth(&self) -> u64 {
        let channels = populated_channels(&self.spec, &self.placed()) as f64;
        (channels * f64::from(self.speed()) * 1e6 * CHANNEL_BYTES * self.spec.channel_efficiency) as u64
    }

    /// The machine's description.
    pub(crate) fn spec(&self) -> &MachineSpec {
        &self.spec
    }

    /// Its clock.
    pub(crate) fn clock(&self) -> Arc<SimClock> {
        self.clock.clone()
    }

    /// Decides what comes by chance.
    pub(crate) fn seed(&self) -> u64 {
        self.seed
    }

    /// The faults that show as the machine is now, each with its slots.
    fn shown<'a>(
        &'a self,
        placed: &'a [(String, String)],
        setting: &'a str,
    ) -> Vec<(usize, &'a FaultSpec, Vec<&'a str>)> {
        let now = Conditions { placement: placed, channels: populated_channels(&self.spec, placed), setting };
        let cured = self.cured();
        let standing = self.spec.faults.iter().enumerate().filter(|(index, _)| !cured.contains(index));
        standing.map(|(index, fault)| (index, fault, fault.homes(&self.spec, now))).collect()
    }

    /// The faults on the words of a lease.
    fn faults(&self, map: &AddressMap, layout: &Layout) -> Faults {
        let (placed, setting) = (self.placed(), self.setting());
        let lease = u64::from(self.leases.fetch_add(1, Ordering::SeqCst));
        let mut all = Faults::default();
        if self.every_word {
            all.bound.extend((0..layout.bytes()).step_by(8));
        }
        for (index, fault, slots) in self.shown(&placed, &setting) {
            let seed = self.seed ^ (lease << 32) ^ index as u64;
            let homes: Vec<(&str, &ModuleSpec)> =
                slots.iter().filter_map(|slot| Some((*slot, self.fitted(&placed, slot)?))).collect();
            all.scatters.extend(Scatter::new(fault, &homes, self.clock.now_ns(), seed));
            for (slot, module) in homes {
                self.word_faults(&mut all, fault, (slot, module), seed, &|cell| {
                    layout.offset_of(map.address(&Placed { slot: slot.to_owned(), cell })?)
                });
            }
        }
        all
    }

    /// What a fault does to words of one module.
    fn word_faults(
        &self,
        all: &mut Faults,
        fault: &FaultSpec,
        (slot, module): (&str, &ModuleSpec),
        seed: u64,
        offset: &dyn Fn(Cell) -> Option<u64>,
    ) {
        all.noises.extend(Noise::new(fault, slot, module.width, seed));
        let aggressor = fault.aggressor.and_then(|aggressor| offset(aggressor.cell));
        let victim = fault.cell.and_then(offset);
        all.decoders.extend(victim.and_then(|victim| Decoder::new(fault, victim, aggressor)));
        all.disturbed.extend(victim.and_then(|victim| Disturbance::new(fault, slot, victim)));
        if let Some((aggressor, victim)) = aggressor.zip(victim) {
            all.couplings.extend(Coupling::new(fault, aggressor, victim));
        }
        let of_a_bit = !fault.kind.has_aggressor() && !fault.kind.is_decoder() && fault.kind != FaultKind::NoStart;
        if !of_a_bit {
            return;
        }
        let now_ns = self.clock.now_ns();
        let climate = Climate { heat: self.spec.heat, refresh_ns: self.spec.refresh_ns(&self.setting()) };
        for word in fault.cells(module).into_iter().filter_map(offset) {
            let lanes = fault.lanes(module.width);
            all.bits.extend(lanes.map(|lane| (word, BitFault::new(fault, lane, climate, now_ns, seed ^ word << 8))));
        }
    }

    fn fitted<'a>(&'a self, placed: &[(String, String)], slot: &str) -> Option<&'a ModuleSpec> {
        placed.iter().find(|(used, _)| used == slot).and_then(|(_, serial)| self.spec.module(serial))
    }

    fn correction(&self, map: &AddressMap, layout: &Layout) -> Correction {
        let placed = self.placed();
        let on_die = placed.iter().filter_map(|(slot, serial)| Some((slot, self.spec.module(serial)?)));
        Correction {
            place: Some((layout.clone(), map.clone())),
            ecc: self.spec.ecc.then(|| self.ecc.clone()),
            scrambled: self.spec.scrambled,
            on_die: on_die
                .filter(|(_, module)| module.on_die)
                .map(|(slot, module)| (slot.clone(), module.width))
                .collect(),
        }
    }

    fn cured(&self) -> MutexGuard<'_, BTreeSet<usize>> {
        self.cured.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Taking a module out, fitting or moving it cures some contacts.
    fn touch(&self, before: &[(String, String)], after: &[(String, String)]) {
        let touches = self.touches.fetch_add(1, Ordering::SeqCst);
        for (index, fault) in self.spec.faults.iter().enumerate() {
            let comes_and_goes = fault.touch_cures > 0.0 || fault.touch_returns > 0.0;
            let Some(serial) = fault.module.as_ref().filter(|_| comes_and_goes) else { continue };
            let place = |placement: &[(String, String)]| placement.iter().find(|(_, fitted)| fitted == serial).cloned();
            let random = pass_seed(self.seed ^ index as u64, touches + 1) as f64 / u64::MAX as f64;
            if place(before) == place(after) {
                continue;
            }
            let mut cured = self.cured();
            if cured.contains(&index) {
                if random < fault.touch_returns {
                    cured.remove(&index);
                }
            } else if random < fault.touch_cures {
                cured.insert(index);
            }
        }
    }
}

/// Why a machine tells no SPD.
const NO_SPD: &str =
    "The firmware keeps the modules' own descriptions (SPD) to itself; what its tables say of them is shown.";

/// A module as the machine would tell it, wherever it lies.
fn board_module(machine: &MachineSpec, module: &ModuleSpec, setting: &str) -> Module {
    let slot = machine.slots.iter().find(|slot| !slot.soldered).or(machine.slots.first());
    let alone: Vec<(String, String)> = slot.map(|slot| (slot.id.clone(), module.serial.clone())).into_iter().collect();
    let read = Inventory::read(&raw(machine, &alone, setting));
    let told = read.board.modules().next().map(|(_, module)| module.clone());
    // What nothing tells stands on the label still.
    let label = || Module {
        serial: module.serial.clone(),
        maker: module.maker.clone(),
        part: module.part.clone(),
        bytes: module.size,
        byte_lanes: 8,
        ..Module::default()
    };
    Module { mark: module.mark.clone(), ..told.unwrap_or_else(label) }
}

/// Everything that the machine says of itself in this fitting.
pub(crate) fn raw(machine: &MachineSpec, placement: &[(String, String)], setting: &str) -> RawFirmware {
    let modules = placement.iter().filter_map(|(_, serial)| machine.module(serial));
    let fitted_bytes = modules.map(|module| module.size).sum();
    RawFirmware {
        smbios: machine.tables.then(|| tables(machine, placement, setting)),
        spd: images(machine, placement),
        trouble: if machine.spd { Vec::new() } else { vec![NO_SPD.to_owned()] },
        map: memory_map(machine, fitted_bytes),
        encrypted: Some(false),
        registers: registers(machine, placement),
        ..RawFirmware::default()
    }
}

/// The first `most` bytes of the ranges.
fn first_bytes(ranges: &RangeSet, most: u64) -> Vec<ByteRange> {
    let mut left = most;
    let mut kept = Vec::new();
    for range in ranges.ranges() {
        let bytes = range.len().min(left);
        left -= bytes;
        if bytes > 0 {
            kept.push(ByteRange::new(range.start, range.start + bytes));
        }
    }
    kept
}

impl MemorySource for Bench {
    fn offer(&self) -> MemoryOffer {
        MemoryOffer {
            usable: self.usable_ranges(),
            reachable_bytes: self.reachable().bytes(),
            reachable: self.reachable(),
            addresses_known: true,
            kept: self.kept(),
            limits: vec![Limit::System],
        }
    }

    fn lease(&self, request: &LeaseRequest, _watch: &dyn Fn(u64, u64) -> bool) -> Result<Arc<dyn Memory>, LeaseError> {
        self.starts().map_err(LeaseError::DoesNotStart)?;
        let map =
            self.map().ok_or_else(|| LeaseError::DoesNotStart("this arrangement has no address map.".to_owned()))?;
        let mut ranges = self.reachable();
        if let Some(range) = request.range {
            ranges = ranges.intersection(&RangeSet::from(vec![range]));
            if ranges.bytes() == 0 {
                let shown = format!("{}..{}", PhysAddr(range.start), PhysAddr(range.end));
                return Err(LeaseError::OutOfReach(shown));
            }
        }
        if let Some(wanted) = request.bytes.filter(|wanted| *wanted > ranges.bytes()) {
            return Err(LeaseError::TooMuch { asked: wanted, reachable: ranges.bytes(), why: Limit::System });
        }
        let wanted = request.bytes.map_or(ranges.bytes(), |bytes| bytes.next_multiple_of(4096));
        let kept = first_bytes(&ranges, wanted);
        let layout = Layout::new(kept.iter().map(|range| (Some(range.start), range.len())));
        let faults = self.faults(&map, &layout);
        let refresh_ns = self.spec.refresh_ns(&self.setting());
        let pace = Pace { bytes_per_second: self.bandwidth(), refresh_ns };
        let correction = self.correction(&map, &layout);
        let memory = SimMemory::new(layout, map, self.clock.clone(), pace, faults, correction, self.spec.between());
        Ok(Arc::new(memory.warming(self.warmth.clone())))
    }
}

impl Firmware for Bench {
    fn raw(&self) -> RawFirmware {
        raw(&self.spec, &self.placed(), &self.setting())
    }

    fn facts(&self) -> SystemFacts {
        SystemFacts {
            machine: self.spec.name.clone(),
            title: self.spec.title.clone(),
            processor: self.spec.processor.clone(),
            cores: self.spec.cores,
            nodes: 1,
            cache_bytes: self.spec.cache,
            guest: false,
            ranges_trusted: false,
            saved: false,
            seen_bytes: self.fitted_bytes(),
            settings: self.setting(),
        }
    }

    fn address_map(&self) -> Option<AddressMap> {
        self.map().filter(|_| !self.spec.map.registers && !self.spec.map.hidden)
    }
}

impl Sensors for Bench {
    fn temperatures(&self) -> Vec<Reading> {
        self.celsius().map(|celsius| Reading { sensor: "memory, simulated".to_owned(), celsius }).into_iter().collect()
    }

    fn modules(&self) -> Vec<ModuleReading> {
        let Some(warmth) = &self.warmth else { return Vec::new() };
        let (placed, now_ns) = (self.placed(), self.clock.now_ns());
        let air = self.celsius().unwrap_or(AIR);
        let at = |slot: &str| self.spec.slots.iter().filter(|slot| !slot.soldered).position(|known| known.id == slot);
        let one = |(slot, _): &(String, String)| {
            Some(ModuleReading { place: place_of(at(slot)?), celsius: air + warmth.above(slot, now_ns) })
        };
        let mut readings: Vec<ModuleReading> = placed.iter().filter_map(one).collect();
        readings.sort_by(|a, b| a.place.cmp(&b.place));
        readings
    }

    fn core_clock(&self) -> Option<CoreClock> {
        self.spec.core_mhz.map(|cores| cores.clock(self.celsius()))
    }
}

impl Bench {
    fn celsius(&self) -> Option<f64> {
        self.spec.heat.map(|heat| heat.celsius(self.clock.now_ns()))
    }
}

impl Counters for Bench {
    fn read(&self) -> Vec<EccCount> {
        if !self.spec.ecc {
            return Vec::new();
        }
        let placed = self.placed();
        self.ecc.read(placed.iter().map(|(slot, _)| slot.as_str()))
    }
}

impl Awake for Bench {
    fn hold(&self) -> Option<Box<dyn Send>> {
        None
    }
}

impl Sleeper for Bench {
    fn refuses(&self) -> Option<NoSleep> {
        None
    }

    fn sleep(&self, time: Duration) -> io::Result<Duration> {
        self.clock().sleep_through(time);
        Ok(time)
    }
}

impl SystemLog for Bench {
    fn found(&self) -> SystemLogs {
        let (mut logs, mut reader) = (SystemLogs::default(), LineReader::default());
        for logged in &self.spec.logged {
            let wall_ms = Some(self.clock.wall_ms() - i64::from(logged.hours_ago) * HOUR_MS);
            reader.take_message(LogTime { wall_ms, words: String::new() }, &logged.line);
        }
        logs.take("system log, simulated", reader.entries());
        logs
    }
}

impl Hands for Bench {
    fn refit(&self, placement: &[(String, String)]) -> Result<(), String> {
        self.spec.check_placement(placement)?;
        let modules = || placement.iter().filter_map(|(_, serial)| self.spec.module(serial));
        if let Some(module) = modules().find(|module| !self.is_here(module)) {
            return Err(format!("module {} was not lent to this machine", module.serial));
        }
        address_map(&self.spec, placement).map_err(|error| error.to_string())?;
        let before =
            std::mem::replace(&mut *self.placement.lock().unwrap_or_else(PoisonError::into_inner), placement.to_vec());
        self.touch(&before, placement);
        self.clock.skip(REFIT_NS);
        Ok(())
    }

    fn reseat(&self, modules: &[String]) -> Result<(), String> {
        let before = self.placed();
        let mut between = before.clone();
        between.retain(|(_, serial)| !modules.contains(serial));
        self.spec.check_placement(&between)?;
        self.touch(&before, &between);
        self.clock.skip(REFIT_NS);
        Ok(())
    }

    fn starts(&self) -> Result<(), String> {
        let (placed, setting) = (self.placed(), self.setting());
        if placed.is_empty() {
            return Err("no module is installed. Put one into a slot".to_owned());
        }
        let refused =
            |(_, fault, slots): &(usize, &FaultSpec, Vec<&str>)| fault.kind == FaultKind::NoStart && !slots.is_empty();
        match self.shown(&placed, &setting).iter().any(refused) {
            true => Err("the screen stays dark and nothing comes. Fit the modules in another way".to_owned()),
            false => Ok(()),
        }
    }

    fn settings(&self) -> Vec<String> {
        self.spec.settings.clone()
    }

    fn set(&self, settings: &str) -> Result<(), String> {
        if !self.spec.settings.iter().any(|known| known == settings) {
            return Err(format!("this firmware offers {}, not {settings:?}", self.spec.settings.join(", ")));
        }
        settings.clone_into(&mut self.setting.lock().unwrap_or_else(PoisonError::into_inner));
        self.clock.skip(REFIT_NS);
        Ok(())
    }

    fn lend(&self, serial: &str) -> Result<(), String> {
        if self.spec.module(serial).is_none() {
            return Err(format!("there is no module {serial}"));
        }
        self.lent.lock().unwrap_or_else(PoisonError::into_inner).insert(serial.to_owned());
        Ok(())
    }

    fn deliver(&self, like: &str) -> Result<Module, String> {
        let serial = replacement_of(like);
        self.lend(&serial)?;
        let module = self.spec.module(&serial).ok_or_else(|| format!("there is no module {serial}"))?;
        Ok(board_module(&self.spec, module, &self.setting()))
    }

    fn on_the_table(&self) -> Vec<Module> {
        // Where nothing tells modules nobody but a person sees them.
        if !self.spec.tables {
            return Vec::new();
        }
        let placed = self.placed();
        let loose =
            self.spec.modules.iter().filter(|module| !placed.iter().any(|(_, fitted)| *fitted == module.serial));
        let loose = loose.filter(|module| self.is_here(module));
        let setting = self.setting();
        loose.map(|module| board_module(&self.spec, module, &setting)).collect()
    }

    fn marks(&self) -> Vec<(String, String)> {
        if !self.spec.tables {
            return Vec::new();
        }
        let marked = self.spec.modules.iter().filter_map(|module| Some((module.serial.clone(), module.mark.clone()?)));
        marked.collect()
    }

    fn intake(&self) -> Option<Intake> {
        let IntakeSpec { owner, symptom, changed, tried, picked } = self.spec.intake.clone()?;
        Some(Intake { owner, symptom, changed, tried, picked, ..Intake::default() })
    }

    fn complaint(&self) -> String {
        self.spec.complaint.clone()
    }
}
