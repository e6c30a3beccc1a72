//! A case with numbers instead of names: slots and modules by index, and what a fitting means for exposure.

use std::collections::BTreeSet;

use super::case::{Case, Experiment, KnownModule, Placement};
use super::fact::{Evidence, Load, Place, RunFact};
use super::priors::Priors;
use super::signs::tilt_of_looks;
use super::tilt::Tilt;
use super::witness::{Relation, relations};

/// A fitting with settings, by index.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Fit {
    /// Module in each slot.
    pub module_in: Vec<Option<u8>>,
    /// Slot of each module.
    pub slot_of: Vec<Option<u8>>,
    /// Index of the settings in force.
    pub setting: u8,
    /// Modules fitted.
    pub count: u8,
    /// Channels populated.
    pub channels: u8,
    /// A channel holds two modules or more.
    pub crowded: bool,
    /// A channel with several slots holds one module, in its first slot, and in a later one.
    pub single_in: [bool; 2],
    /// Kits that the modules come from; 1 where that is not known.
    pub kits: u8,
}

/// What a run showed, by index.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Seen {
    Clean,
    /// Errors, nothing told of where.
    Errors,
    Spread,
    Slot(u8),
    /// A good part in each of these slots, a bit each.
    Several(u32),
    Dark,
    /// It started; nothing was run.
    Starts,
}

impl Seen {
    /// Whether something failed.
    pub fn failed(self) -> bool {
        !matches!(self, Self::Clean | Self::Starts)
    }
}

/// Two halves of the addresses, one for each of two groups of slots.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Halves {
    /// For each slot its group.
    group: Vec<u8>,
    /// The slot that stands for each group.
    first: [u8; 2],
}

impl Halves {
    /// Nothing unless every slot belongs to one of the two groups, and none of them is empty.
    fn of(slots: &[String], groups: Option<&[Vec<String>; 2]>) -> Option<Self> {
        let groups = groups?;
        let group = |id: &String| groups.iter().position(|group| group.contains(id)).map(|at| at as u8);
        let group: Vec<u8> = slots.iter().map(group).collect::<Option<_>>()?;
        let first = |wanted: u8| group.iter().position(|own| *own == wanted).map(|at| at as u8);
        Some(Self { first: [first(0)?, first(1)?], group })
    }
}

/// A run by index.
#[derive(Clone, Debug)]
pub(super) struct BenchRun {
    pub fit: Fit,
    pub reseat: Vec<u8>,
    pub hours: f64,
    pub passes: f64,
    pub seen: Seen,
    pub struck: bool,
    pub doubt: f64,
    /// When the first error came, as a part of the run's length.
    pub first_error: Option<f64>,
    pub steady: Option<bool>,
    /// Part of each module's cells that it reached.
    pub reach: Vec<f64>,
    /// What it has in common with earlier runs.
    /// A run before it did not start.
    pub dark_before: bool,
    pub relations: Vec<Relation>,
}

/// A case by index.
pub(super) struct Bench<'a> {
    pub case: &'a Case,
    pub priors: &'a Priors,
    pub slots: Vec<String>,
    pub modules: Vec<String>,
    pub known_good: Vec<bool>,
    /// How much more suspect than others each module is already.
    pub module_weight: Vec<f64>,
    /// Modules that ran clean in another machine.
    pub ran_elsewhere: Vec<bool>,
    /// What was told and what errors looked like: factors on the weights of causes.
    pub tilt: Tilt,
    pub soldered: Vec<bool>,
    pub channel: Vec<u8>,
    /// Which half each slot belongs to, where errors are placed in halves.
    pub halves: Option<Halves>,
    /// Names of the channels by index.
    pub channels: Vec<String>,
    /// Where each slot comes in its channel, from 0 on.
    rank: Vec<u8>,
    /// Kit of each module by number; 0 where it is not known.
    pub kit: Vec<u8>,
    pub runs: Vec<BenchRun>,
    /// The run that is to be explained.
    pub first: usize,
    present: Option<Fit>,
}

/// Most slots and modules; more are left out.
const MOST: usize = 32;

impl<'a> Bench<'a> {
    pub fn new(case: &'a Case) -> Self {
        let mut slots: Vec<String> = case.slots.iter().map(|slot| slot.id.clone()).collect();
        let mut modules: Vec<String> = case.modules.iter().map(|module| module.id.clone()).collect();
        for (slot, module) in case.runs.iter().flat_map(|run| &run.placement) {
            if !slots.contains(slot) {
                slots.push(slot.clone());
            }
            if !modules.contains(module) {
                modules.push(module.clone());
            }
        }
        slots.truncate(MOST);
        modules.truncate(MOST);
        let known = |id: &String| case.modules.iter().find(|module| module.id == *id);
        let known_good = modules.iter().map(|id| known(id).is_some_and(|module| module.known_good)).collect();
        let module_weight = modules.iter().map(|id| weight_of(case, known(id))).collect();
        let ran_elsewhere =
            modules.iter().map(|id| known(id).is_some_and(|module| module.elsewhere == Some(true))).collect();
        let looks = case.runs.iter().filter(|run| run.failed() && !run.struck).filter_map(|run| run.signs.look);
        let soldered = slots.iter().map(|id| case.is_soldered(id)).collect();
        let mut names: Vec<String> = Vec::new();
        let channel = slots.iter().map(|id| {
            let own = case.slots.iter().find(|slot| slot.id == *id).and_then(|slot| slot.channel.clone());
            let name = own.unwrap_or_else(|| id.clone());
            let at = names.iter().position(|known| *known == name).unwrap_or(names.len());
            if at == names.len() {
                names.push(name);
            }
            at as u8
        });
        let channel: Vec<u8> = channel.collect();
        let rank = channel.iter().enumerate().map(|(at, own)| channel[..at].iter().filter(|one| *one == own).count());
        let rank = rank.map(|rank| rank as u8).collect();
        let kit = kits(modules.iter().map(|id| known(id).and_then(|module| module.kit.as_deref())));
        let mut bench = Self {
            case,
            priors: &case.priors,
            slots,
            modules,
            known_good,
            module_weight,
            ran_elsewhere,
            tilt: case.tilt * tilt_of_looks(looks, &case.priors.signs),
            soldered,
            channel,
            halves: None,
            channels: names,
            rank,
            kit,
            runs: Vec::new(),
            first: case.runs.iter().position(|run| run.failed() && !run.struck).unwrap_or(0),
            present: None,
        };
        bench.halves = Halves::of(&bench.slots, case.halves.as_ref().filter(|_| !case.map_known));
        let failing = case.runs.iter().find(|run| run.failed() && !run.struck);
        bench.runs = case.runs.iter().map(|run| bench.run(run, failing)).collect();
        let first_dark = bench.runs.iter().position(|run| run.seen == Seen::Dark && !run.struck);
        bench
            .runs
            .iter_mut()
            .enumerate()
            .for_each(|(at, run)| run.dark_before = first_dark.is_some_and(|dark| dark < at));
        let related = relations(&bench);
        bench.runs.iter_mut().zip(related).for_each(|(run, relations)| run.relations = relations);
        let present = case.present.as_ref().map(|(placement, settings)| bench.fit_of(placement, settings));
        bench.present = present.or_else(|| bench.runs.last().map(|run| run.fit.clone()));
        bench
    }

    /// Whether errors have places at all: by a map, or in halves.
    pub fn places_errors(&self) -> bool {
        self.case.map_known || self.halves.is_some()
    }

    /// Whether there is more than one place in this fitting.
    pub fn is_placed(&self, fit: &Fit) -> bool {
        self.places_errors() && fit.count >= 2 && (self.halves.is_none() || self.places(fit).len() > 1)
    }

    /// The place of errors in a slot: the slot itself, or the one that stands for its half.
    pub fn place_of(&self, slot: usize) -> usize {
        match &self.halves {
            Some(halves) => usize::from(halves.first[usize::from(halves.group[slot])]),
            None => slot,
        }
    }

    /// The same where the halves are exchanged.
    pub fn exchanged(&self, slot: usize) -> usize {
        match &self.halves {
            Some(halves) => usize::from(halves.first[usize::from(1 - halves.group[slot])]),
            None => slot,
        }
    }

    /// Places with a module.
    pub fn places(&self, fit: &Fit) -> BTreeSet<usize> {
        let filled = fit.module_in.iter().enumerate().filter(|(_, module)| module.is_some());
        filled.map(|(slot, _)| self.place_of(slot)).collect()
    }

    fn run(&self, run: &RunFact, failing: Option<&RunFact>) -> BenchRun {
        let fit = self.fit_of(&run.placement, &run.settings);
        let fitted = |slot: &String| self.slot(slot).filter(|slot| fit.module_in[usize::from(*slot)].is_some());
        let seen = match &run.evidence {
            Evidence::Clean => Seen::Clean,
            Evidence::Dark => Seen::Dark,
            Evidence::Starts => Seen::Starts,
            Evidence::Errors(_) if !self.is_placed(&fit) => Seen::Errors,
            Evidence::Errors(Place::Half(half)) => match &self.halves {
                Some(halves) => Seen::Slot(halves.first[usize::from(*half & 1)]),
                None => Seen::Errors,
            },
            // Halves are all that is told.
            Evidence::Errors(place) if self.halves.is_some() => match place {
                Place::Spread => Seen::Spread,
                _ => Seen::Errors,
            },
            Evidence::Errors(Place::Unknown) => Seen::Errors,
            Evidence::Errors(Place::Spread) => Seen::Spread,
            Evidence::Errors(Place::Slot(slot)) => fitted(slot).map_or(Seen::Spread, Seen::Slot),
            Evidence::Errors(Place::Several(slots)) => {
                match slots.iter().filter_map(fitted).fold(0, |all, slot| all | 1u32 << slot) {
                    0 => Seen::Spread,
                    one if one.count_ones() == 1 => Seen::Slot(one.trailing_zeros() as u8),
                    several => Seen::Several(several),
                }
            }
        };
        let failing_load = failing.map_or(Load::Both, |failing| failing.load);
        let speaks = run.load == Load::Both || run.load == failing_load || run.failed();
        let exposure = if speaks { 1.0 } else { self.priors.runs.other_load };
        BenchRun {
            reseat: run.reseat.iter().filter_map(|id| self.module(id)).collect(),
            hours: (run.minutes / 60.0).clamp(0.0, 1e4) * exposure * self.warmth(run, failing),
            passes: run.passes.clamp(0.0, 1e6) * exposure,
            struck: run.struck,
            doubt: run.doubt.clamp(0.0, 0.9),
            first_error: run.first_error_minutes.map(|at| (at / run.minutes.max(1e-3)).clamp(0.0, 1.0)),
            steady: run.steady,
            reach: self.reach_of(run, &fit),
            relations: Vec::new(),
            dark_before: false,
            fit,
            seen,
        }
    }

    /// Part of each module's cells that a run reached: as it says itself, else as for every run of such a fitting.
    fn reach_of(&self, run: &RunFact, fit: &Fit) -> Vec<f64> {
        let mut reach = self.reach(fit);
        for (module, part) in &run.reach {
            if let Some(module) = self.module(module) {
                reach[usize::from(module)] = part.clamp(0.0, 1.0);
            }
        }
        reach
    }

    /// Part of each module's failing cells that a run of this fitting reaches.
    pub fn reach(&self, fit: &Fit) -> Vec<f64> {
        let mut reach = vec![1.0; self.modules.len()];
        for (module, [alone, with_others]) in &self.case.reach {
            if let Some(module) = self.module(module) {
                reach[usize::from(module)] = if fit.count < 2 { *alone } else { *with_others }.clamp(0.0, 1.0);
            }
        }
        reach
    }

    /// What an hour of a clean run says when it stayed colder than the run that failed.
    fn warmth(&self, run: &RunFact, failing: Option<&RunFact>) -> f64 {
        match (run.signs.celsius, failing.and_then(|failing| failing.signs.celsius)) {
            (Some(now), Some(then)) if !run.failed() && now < then => {
                ((now - then) / self.priors.runs.celsius_doubles).exp2()
            }
            _ => 1.0,
        }
    }

    pub fn slot(&self, id: &str) -> Option<u8> {
        self.slots.iter().position(|known| known == id).map(|at| at as u8)
    }

    pub fn module(&self, id: &str) -> Option<u8> {
        self.modules.iter().position(|known| known == id).map(|at| at as u8)
    }

    /// Settings by index: what nobody names is the first.
    pub fn setting(&self, name: &str) -> u8 {
        self.case.settings.iter().position(|known| known == name).unwrap_or(0) as u8
    }

    /// Stock settings, where there is a choice.
    pub fn stock(&self) -> Option<u8> {
        (self.case.settings.len() > 1).then(|| (self.case.settings.len() - 1) as u8)
    }

    fn fit_of(&self, placement: &Placement, settings: &str) -> Fit {
        let pairs = placement.iter().filter_map(|(slot, module)| Some((self.slot(slot)?, self.module(module)?)));
        self.fit(pairs, self.setting(settings))
    }

    /// A fitting; a slot or a module that comes twice counts once.
    pub fn fit(&self, pairs: impl IntoIterator<Item = (u8, u8)>, setting: u8) -> Fit {
        let mut fit = Fit {
            module_in: vec![None; self.slots.len()],
            slot_of: vec![None; self.modules.len()],
            setting,
            count: 0,
            channels: 0,
            crowded: false,
            single_in: [false; 2],
            kits: 1,
        };
        for (slot, module) in pairs {
            let (at, who) = (usize::from(slot), usize::from(module));
            if fit.module_in[at].is_none() && fit.slot_of[who].is_none() {
                (fit.module_in[at], fit.slot_of[who]) = (Some(module), Some(slot));
                fit.count += 1;
            }
        }
        self.shape(&mut fit);
        fit
    }

    /// What follows from which module is in which slot.
    fn shape(&self, fit: &mut Fit) {
        for channel in 0..self.channels.len() as u8 {
            let slots = || (0..self.slots.len()).filter(|slot| self.channel[*slot] == channel);
            let mut filled = slots().filter(|slot| fit.module_in[*slot].is_some());
            let Some(first) = filled.next() else { continue };
            fit.channels += 1;
            if filled.next().is_some() {
                fit.crowded = true;
            } else if slots().count() > 1 {
                fit.single_in[usize::from(self.rank[first] > 0)] = true;
            }
        }
        let mut kits = 0u64;
        for (kit, _) in self.kit.iter().zip(&fit.slot_of).filter(|(_, slot)| slot.is_some()) {
            kits |= 1 << kit;
        }
        // A module of which the kit is not known is of none that differs.
        fit.kits = ((kits & !1).count_ones() as u8).max(1);
    }

    /// Slots of a channel that are filled.
    pub fn in_channel(&self, fit: &Fit, channel: u8) -> impl Iterator<Item = u8> {
        let filled = self.channel.iter().zip(&fit.module_in).zip(0u8..);
        filled.filter(move |((own, module), _)| **own == channel && module.is_some()).map(|(_, slot)| slot)
    }

    /// Whether two modules are known to come from different kits.
    pub fn are_mixed(&self, a: u8, b: u8) -> bool {
        let of = |module: u8| self.kit[usize::from(module)];
        of(a) != of(b) && of(a) > 0 && of(b) > 0
    }

    /// Whether a module is fitted with another one in its channel.
    pub fn has_neighbour(&self, fit: &Fit, module: u8) -> bool {
        let Some(slot) = fit.slot_of[usize::from(module)] else { return false };
        self.in_channel(fit, self.channel[usize::from(slot)]).any(|other| other != slot)
    }

    pub fn same_channel(&self, a: u8, b: u8) -> bool {
        self.channel[usize::from(a)] == self.channel[usize::from(b)]
    }

    /// Minutes of one pass.
    pub fn pass_minutes(&self, fit: &Fit) -> f64 {
        let channels = f64::from(fit.channels.max(1));
        (self.case.pass_minutes * f64::from(fit.count) / (1.0 + 0.6 * (channels - 1.0))).max(1e-3)
    }

    /// Part of the time in which each module is under test.
    pub fn exposure(&self, fit: &Fit) -> f64 {
        self.case.pass_minutes.max(1e-3) / self.pass_minutes(fit)
    }

    /// The fitting that failed first.
    pub fn original(&self) -> Option<&Fit> {
        self.runs.get(self.first).map(|run| &run.fit)
    }

    /// The machine's present state.
    pub fn present(&self) -> Option<&Fit> {
        self.present.as_ref()
    }

    /// Modules that were taken out, fitted or moved.
    pub fn touched(&self, before: &Fit, after: &Fit) -> Vec<u8> {
        (0..self.modules.len() as u8)
            .filter(|module| before.slot_of[usize::from(*module)] != after.slot_of[usize::from(*module)])
            .collect()
    }

    /// Minutes of hands to get from one fitting to another.
    pub fn hands(&self, before: &Fit, after: &Fit, reseat: &[u8]) -> f64 {
        let cost = &self.priors.cost;
        let touched: BTreeSet<u8> = self.touched(before, after).into_iter().chain(reseat.iter().copied()).collect();
        let moved = match touched.len() {
            0 if before.setting == after.setting => cost.rerun,
            0 => 0.0,
            modules => cost.change_base + cost.per_module_touched * modules as f64,
        };
        moved
            + if before.setting == after.setting {
                0.0
            } else {
                cost.settings_change + if touched.is_empty() { cost.rerun } else { 0.0 }
            }
    }

    /// A fitting with names, in the mainboard's order.
    pub fn placement(&self, fit: &Fit) -> Placement {
        let pairs = fit.module_in.iter().enumerate();
        pairs
            .filter_map(|(slot, module)| {
                Some((self.slots[slot].clone(), self.modules[usize::from((*module)?)].clone()))
            })
            .collect()
    }

    pub fn experiment(&self, before: &Fit, after: &Fit, reseat: &[u8], minutes: f64) -> Experiment {
        Experiment {
            placement: self.placement(after),
            settings: self.case.settings.get(usize::from(after.setting)).cloned().unwrap_or_default(),
            reseat: reseat.iter().map(|module| self.modules[usize::from(*module)].clone()).collect(),
            minutes,
            passes: minutes / self.pass_minutes(after),
            hands_minutes: self.hands(before, after, reseat),
        }
    }
}

/// How suspect a module is besides what the runs of this job show: what is known of it, and how it did elsewhere.
fn weight_of(case: &Case, known: Option<&KnownModule>) -> f64 {
    let weights = &case.priors.weights;
    let own = known.and_then(|module| module.weight).unwrap_or(1.0);
    let elsewhere = match known.and_then(|module| module.elsewhere) {
        Some(true) => weights.clean_elsewhere,
        Some(false) => weights.failed_elsewhere,
        None => 1.0,
    };
    own * elsewhere
}

/// Kits by number, from 1 on; 0 where it is not known.
fn kits<'a>(names: impl Iterator<Item = Option<&'a str>>) -> Vec<u8> {
    let mut known: Vec<&str> = Vec::new();
    let number = |name: Option<&'a str>| {
        let Some(name) = name else { return 0 };
        let at = known.iter().position(|one| *one == name).unwrap_or(known.len());
        if at == known.len() {
            known.push(name);
        }
        at as u8 + 1
    };
    names.map(number).collect()
}
