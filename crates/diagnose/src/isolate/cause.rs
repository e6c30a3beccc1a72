//! Every way in which things could be, with its weight before any run.

use super::bench::Bench;
use super::suspect::Suspect;

/// How often a cause shows.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Rate {
    /// In this part of full passes: a property of the fault under this recipe, the same in every run.
    PerPass(f64),
    PerHour(f64),
}

/// With whom a module fails that fails with others only.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum With {
    /// Modules in other channels.
    Channels,
    /// A module in its own channel.
    Neighbour,
}

/// How the address map can be: right, wrong, and right with its halves exchanged.
pub(super) const WORLDS: usize = 3;

/// What is wrong.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Kind {
    Module(u8),
    /// A bad module of which the failing cells are out of reach while it is alone: the running system lies on them.
    Unreached(u8),
    Slot(u8),
    Channel(u8),
    Seat(u8),
    /// The profile; errors show most in the module that is named.
    Settings {
        several: bool,
        weakest: u8,
    },
    Combination {
        module: u8,
        with: With,
    },
    Pair(u8, u8),
    /// Two modules in one channel, or as many as failed first; also at stock settings, or not.
    TooMany {
        in_channel: bool,
        at_stock: bool,
    },
    /// A single module in the first slot of its channel, or in a later one.
    Position {
        later: bool,
        at_stock: bool,
    },
    /// Modules of several kits.
    Kits {
        at_stock: bool,
    },
    /// Errors show most in the slot that is named.
    Controller {
        several: bool,
        nearest: u8,
    },
    OneOff,
    Other,
}

/// One thing that is wrong, and how often it shows.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Part {
    pub kind: Kind,
    pub rate: Rate,
    /// Index of its rate in [`Space::rates`].
    pub at: u8,
}

/// One way in which things could be.
#[derive(Clone, Debug)]
pub(super) struct Hypothesis {
    parts: [Part; 2],
    count: u8,
    /// Index of what would be reported.
    pub class: u16,
    /// Probability in each of the [`WORLDS`].
    pub weight: [f64; WORLDS],
    /// A loose contact that is still loose: its probability.
    pub loose: f64,
    /// Part of it that a touch cures.
    pub cure: f64,
}

impl Hypothesis {
    pub fn parts(&self) -> &[Part] {
        &self.parts[..usize::from(self.count)]
    }

    pub fn probability(&self) -> f64 {
        self.weight.iter().sum()
    }

    /// How likely a loose contact is still loose once these modules were touched.
    pub fn loose_after(&self, touched: &[u8]) -> f64 {
        match self.parts() {
            [part] if matches!(part.kind, Kind::Seat(module) if touched.contains(&module)) => {
                self.loose * (1.0 - self.cure)
            }
            _ => self.loose,
        }
    }
}

/// Hypotheses and the suspects that they are reported as.
#[derive(Clone, Debug, Default)]
pub(super) struct Space {
    pub all: Vec<Hypothesis>,
    pub classes: Vec<Suspect>,
    /// Every rate that a part has.
    pub rates: Vec<Rate>,
}

impl Space {
    pub fn new(bench: &Bench<'_>) -> Self {
        let mut space = Self::default();
        space.modules(bench);
        space.seats(bench);
        space.slots(bench);
        space.settings(bench);
        space.together(bench);
        space.channels(bench);
        space.arrangement(bench);
        space.controller(bench);
        space.two(bench);
        let weights = &bench.priors.weights;
        space.add(Suspect::NoPart, weights.one_off, &[(Kind::OneOff, hard(bench))]);
        space.add(Suspect::Other, weights.other, &[(Kind::Other, hard(bench))]);
        let wrong = match (bench.places_errors(), bench.case.map_proven) {
            (false, _) => 0.0,
            (true, false) => bench.priors.map.wrong,
            (true, true) => bench.priors.map.wrong_proven,
        };
        // Until an arrangement shows it, nothing tells which half is which.
        let exchanged = if bench.halves.is_some() && !bench.case.halves_named { 0.5 } else { 0.0 };
        for hypothesis in &mut space.all {
            let (weight, right) = (hypothesis.weight[0], 1.0 - wrong);
            hypothesis.weight = [weight * right * (1.0 - exchanged), weight * wrong, weight * right * exchanged];
        }
        space.normalise();
        space
    }

    fn add(&mut self, suspect: Suspect, weight: f64, parts: &[(Kind, Rate)]) {
        if weight <= 0.0 {
            return;
        }
        let class = self.classes.iter().rposition(|known| *known == suspect).unwrap_or_else(|| {
            self.classes.push(suspect);
            self.classes.len() - 1
        });
        let mut part = |at: usize| {
            let (kind, rate) = parts.get(at).copied().unwrap_or((Kind::Other, Rate::PerPass(0.0)));
            let known = self.rates.iter().position(|known| *known == rate).unwrap_or(self.rates.len());
            if known == self.rates.len() {
                self.rates.push(rate);
            }
            Part { kind, rate, at: known as u8 }
        };
        let parts_of = [part(0), part(1)];
        self.all.push(Hypothesis {
            parts: parts_of,
            count: parts.len() as u8,
            class: class as u16,
            weight: [weight, 0.0, 0.0],
            loose: 1.0,
            cure: 0.0,
        });
    }

    fn over(&mut self, suspect: &Suspect, weight: f64, rates: &[f64], kind: Kind) {
        for rate in rates {
            self.add(suspect.clone(), weight / rates.len() as f64, &[(kind, Rate::PerHour(*rate))]);
        }
    }

    fn modules(&mut self, bench: &Bench<'_>) {
        let weights = &bench.priors.weights;
        for (module, weight) in module_shares(bench) {
            let suspect = Suspect::Module(bench.modules[usize::from(module)].clone());
            let weight = weight * bench.tilt.module;
            for [finds, share] in &bench.priors.rates.detect {
                let parts = [(Kind::Module(module), Rate::PerPass(*finds))];
                self.add(suspect.clone(), weights.module_hard * weight * share, &parts);
            }
            self.over(&suspect, weights.module_intermittent * weight, &bench.priors.rates.module, Kind::Module(module));
            if bench.case.reach.iter().all(|(known, _)| bench.module(known) != Some(module)) {
                let all = weights.module_hard + weights.module_intermittent;
                for (rate, share) in coarse(bench) {
                    let weight = all * weight * share * bench.priors.shares.unreached;
                    self.add(suspect.clone(), weight, &[(Kind::Unreached(module), rate)]);
                }
            }
            if bench.ran_elsewhere[usize::from(module)] {
                let suspect = Suspect::Unfit(bench.modules[usize::from(module)].clone());
                let (unfit, part) = (weights.unfit / bench.modules.len() as f64, bench.priors.shares.slot_hard);
                self.add(suspect.clone(), unfit * part, &[(Kind::Module(module), hard(bench))]);
                self.over(&suspect, unfit * (1.0 - part), &bench.priors.rates.module, Kind::Module(module));
            }
        }
    }

    fn seats(&mut self, bench: &Bench<'_>) {
        let (weights, shares) = (&bench.priors.weights, &bench.priors.shares);
        let fitted = fitted(bench);
        let movable: Vec<u8> = fitted.iter().copied().filter(|module| !is_soldered(bench, *module)).collect();
        for module in &movable {
            let weight = weights.seating * bench.tilt.seating / fitted.len() as f64;
            for (part, cure) in
                [(1.0 - shares.stubborn, shares.touch_cures), (shares.stubborn, shares.touch_cures_stubborn)]
            {
                let first = self.all.len();
                let kind = Kind::Seat(*module);
                self.add(Suspect::NoPart, weight * part * shares.seating_hard, &[(kind, hard(bench))]);
                let rest = weight * part * (1.0 - shares.seating_hard);
                self.over(&Suspect::NoPart, rest, &bench.priors.rates.seating, kind);
                self.all[first..].iter_mut().for_each(|hypothesis| hypothesis.cure = cure);
            }
        }
    }

    fn slots(&mut self, bench: &Bench<'_>) {
        for (slot, weight) in slot_shares(bench) {
            let suspect = Suspect::Slot(bench.slots[usize::from(slot)].clone());
            let weight = bench.priors.weights.slot * bench.tilt.slot * weight;
            let part = bench.priors.shares.slot_hard;
            self.add(suspect.clone(), weight * part, &[(Kind::Slot(slot), hard(bench))]);
            self.over(&suspect, weight * (1.0 - part), &bench.priors.rates.slot, Kind::Slot(slot));
        }
    }

    fn settings(&mut self, bench: &Bench<'_>) {
        if bench.stock().is_none() {
            return;
        }
        let fitted = fitted(bench);
        for several in [false, true] {
            for weakest in &fitted {
                let weight =
                    bench.priors.weights.settings * bench.tilt.settings * part_of(bench, several) / fitted.len() as f64;
                let kind = Kind::Settings { several, weakest: *weakest };
                self.over(&Suspect::Settings, weight, &bench.priors.rates.together, kind);
            }
        }
    }

    fn together(&mut self, bench: &Bench<'_>) {
        let (weights, rates) = (&bench.priors.weights, &bench.priors.rates.together);
        let modules = module_shares(bench);
        if modules.len() < 2 {
            return;
        }
        let crowded = bench.original().is_some_and(|fit| fit.crowded);
        let neighbour = if crowded { bench.priors.shares.neighbour } else { 0.0 };
        for (module, weight) in &modules {
            let suspect = Suspect::Combination(bench.modules[usize::from(*module)].clone());
            let weight = weights.combination * bench.tilt.together * weight;
            for (with, share) in [(With::Channels, 1.0 - neighbour), (With::Neighbour, neighbour)] {
                self.over(&suspect, weight * share, rates, Kind::Combination { module: *module, with });
            }
        }
        let fitted = fitted(bench).len().max(2) as f64;
        let pairs = fitted * (fitted - 1.0) / 2.0;
        for (a, b) in pairs_of(&modules) {
            let suspect = sorted(bench, a, b, Suspect::Pair);
            let good = [a, b].iter().filter(|module| bench.known_good[usize::from(**module)]).count();
            let mixed = if bench.are_mixed(a, b) { weights.pair_mixed } else { 1.0 };
            let weight = weights.pair * bench.tilt.together / pairs * mixed * weights.known_good.powi(good as i32);
            self.over(&suspect, weight, rates, Kind::Pair(a, b));
        }
    }

    /// Whole channels, where a channel is more than a slot.
    fn channels(&mut self, bench: &Bench<'_>) {
        let occupied = occupied(bench);
        let of = |channel: u8| bench.channel.iter().filter(move |own| **own == channel).count();
        let used = |channel: u8| occupied.iter().any(|slot| bench.channel[usize::from(*slot)] == channel);
        let channels: Vec<u8> = (0..bench.channels.len() as u8).filter(|channel| used(*channel)).collect();
        for channel in channels.iter().copied().filter(|channel| of(*channel) > 1) {
            let suspect = Suspect::Channel(bench.channels[usize::from(channel)].clone());
            let weight = bench.priors.weights.channel * bench.tilt.channel / channels.len() as f64;
            let part = bench.priors.shares.slot_hard;
            self.add(suspect.clone(), weight * part, &[(Kind::Channel(channel), hard(bench))]);
            self.over(&suspect, weight * (1.0 - part), &bench.priors.rates.slot, Kind::Channel(channel));
        }
    }

    /// Good parts that do not go together so: too many of them, in the wrong slots, of several kits.
    fn arrangement(&mut self, bench: &Bench<'_>) {
        let Some(original) = bench.original() else { return };
        let (weights, tilt, crowded) = (&bench.priors.weights, &bench.tilt, original.crowded);
        let many = weights.too_many * tilt.many;
        let shares = &bench.priors.shares;
        let in_channel = if crowded { shares.many_in_channel } else { 0.0 };
        self.at_settings(bench, &Suspect::TooMany, many * in_channel, |at_stock| Kind::TooMany {
            in_channel: true,
            at_stock,
        });
        let in_all = if original.count > 2 { 1.0 - shares.many_in_channel } else { 0.0 };
        self.at_settings(bench, &Suspect::TooMany, many * in_all, |at_stock| Kind::TooMany {
            in_channel: false,
            at_stock,
        });
        for (later, share) in [(false, shares.first_slots), (true, 1.0 - shares.first_slots)] {
            let weight = if original.single_in[usize::from(later)] { weights.position * tilt.position } else { 0.0 };
            self.at_settings(bench, &Suspect::Position, weight * share, |at_stock| Kind::Position { later, at_stock });
        }
        let kits = if original.kits > 1 { weights.kits * tilt.kits } else { 0.0 };
        self.at_settings(bench, &Suspect::Kits, kits, |at_stock| Kind::Kits { at_stock });
    }

    /// A cause that other settings cure, and one that they do not.
    fn at_settings(&mut self, bench: &Bench<'_>, suspect: &Suspect, weight: f64, kind: impl Fn(bool) -> Kind) {
        let cured = if bench.stock().is_some() { bench.priors.shares.stock_cures } else { 0.0 };
        for (at_stock, share) in [(false, cured), (true, 1.0 - cured)] {
            self.over(suspect, weight * share, &bench.priors.rates.together, kind(at_stock));
        }
    }

    fn controller(&mut self, bench: &Bench<'_>) {
        let fitted: Vec<u8> = occupied(bench);
        for several in [false, true] {
            for nearest in &fitted {
                let weight = bench.priors.weights.controller * bench.tilt.controller * part_of(bench, several)
                    / fitted.len() as f64;
                let kind = Kind::Controller { several, nearest: *nearest };
                self.over(&Suspect::Controller, weight, &bench.priors.rates.together, kind);
            }
        }
    }

    fn two(&mut self, bench: &Bench<'_>) {
        let weights = &bench.priors.weights;
        let modules = module_shares(bench);
        let count = fitted(bench).len() as f64;
        let rates = coarse(bench);
        for (a, b) in pairs_of(&modules) {
            let suspect = sorted(bench, a, b, Suspect::TwoModules);
            let share = |module: u8| modules.iter().find(|(of, _)| *of == module).map_or(0.0, |(_, share)| *share);
            // Shares add up to one, and so do their products over all pairs, twice and without the diagonal.
            let weight = weights.two_modules * 2.0 * share(a) * share(b) * count / (count - 1.0).max(1.0);
            for (rate_a, part_a) in &rates {
                for (rate_b, part_b) in &rates {
                    let parts = [(Kind::Module(a), *rate_a), (Kind::Module(b), *rate_b)];
                    self.add(suspect.clone(), weight * part_a * part_b, &parts);
                }
            }
        }
        for (module, share) in &modules {
            for (slot, of_slot) in slot_shares(bench) {
                let names = (bench.modules[usize::from(*module)].clone(), bench.slots[usize::from(slot)].clone());
                let suspect = Suspect::ModuleAndSlot(names.0, names.1);
                for (rate_a, part_a) in &rates {
                    for (rate_b, part_b) in &rates {
                        let parts = [(Kind::Module(*module), *rate_a), (Kind::Slot(slot), *rate_b)];
                        self.add(suspect.clone(), weights.module_and_slot * share * of_slot * part_a * part_b, &parts);
                    }
                }
            }
        }
    }

    /// Without hypotheses that are less likely than this.
    pub fn without_unlikely(&self, least: f64) -> Self {
        let all = self.all.iter().filter(|hypothesis| hypothesis.probability() >= least).cloned().collect();
        let mut space = Self { all, classes: self.classes.clone(), rates: self.rates.clone() };
        space.normalise();
        space
    }

    /// Makes all weights add up to one.
    pub fn normalise(&mut self) {
        let total: f64 = self.all.iter().map(Hypothesis::probability).sum();
        if total > 0.0 {
            self.all.iter_mut().for_each(|hypothesis| hypothesis.weight.iter_mut().for_each(|weight| *weight /= total));
        }
    }
}

/// A fault that fails always.
fn hard(bench: &Bench<'_>) -> Rate {
    Rate::PerPass(bench.priors.runs.one_pass_finds)
}

/// One module with a rate and its part of the weight.
fn coarse(bench: &Bench<'_>) -> Vec<(Rate, f64)> {
    let (rates, always) = (&bench.priors.rates.coarse, bench.priors.shares.coarse_hard);
    let each = (1.0 - always) / rates.len() as f64;
    std::iter::once((hard(bench), always)).chain(rates.iter().map(|rate| (Rate::PerHour(*rate), each))).collect()
}

fn sorted(bench: &Bench<'_>, a: u8, b: u8, of: impl Fn(String, String) -> Suspect) -> Suspect {
    let (a, b) = (bench.modules[usize::from(a)].clone(), bench.modules[usize::from(b)].clone());
    if a <= b { of(a, b) } else { of(b, a) }
}

fn part_of(bench: &Bench<'_>, several: bool) -> f64 {
    let part = bench.priors.shares.several_channels;
    if several { part } else { 1.0 - part }
}

/// Modules that were fitted in the first run.
fn fitted(bench: &Bench<'_>) -> Vec<u8> {
    let all = 0..bench.modules.len() as u8;
    match bench.original() {
        Some(fit) if fit.count > 0 => all.filter(|module| fit.slot_of[usize::from(*module)].is_some()).collect(),
        _ => all.collect(),
    }
}

fn occupied(bench: &Bench<'_>) -> Vec<u8> {
    let all = 0..bench.slots.len() as u8;
    match bench.original() {
        Some(fit) if fit.count > 0 => all.filter(|slot| fit.module_in[usize::from(*slot)].is_some()).collect(),
        _ => all.collect(),
    }
}

fn is_soldered(bench: &Bench<'_>, module: u8) -> bool {
    let slot = bench.original().and_then(|fit| fit.slot_of[usize::from(module)]);
    slot.is_some_and(|slot| bench.soldered[usize::from(slot)])
}

/// Part of a module's weight that each has: modules fitted at first share it, others may be as bad.
fn module_shares(bench: &Bench<'_>) -> Vec<(u8, f64)> {
    let fitted = fitted(bench);
    let count = fitted.len().max(1) as f64;
    let total: f64 = fitted.iter().map(|module| bench.module_weight[usize::from(*module)]).sum::<f64>() / count;
    let share = |module: u8| {
        let at = usize::from(module);
        let good = if bench.known_good[at] { bench.priors.weights.known_good } else { 1.0 };
        (module, good * bench.module_weight[at] / total.max(1e-9) / count)
    };
    (0..bench.modules.len() as u8).map(share).collect()
}

/// Part of a slot's weight that each has; soldered memory and its place are one part, the module.
fn slot_shares(bench: &Bench<'_>) -> Vec<(u8, f64)> {
    let occupied = occupied(bench);
    let share = |slot: u8| {
        let used = if occupied.contains(&slot) { 1.0 } else { bench.priors.weights.empty_slot };
        (slot, used / occupied.len().max(1) as f64)
    };
    (0..bench.slots.len() as u8).filter(|slot| !bench.soldered[usize::from(*slot)]).map(share).collect()
}

fn pairs_of(modules: &[(u8, f64)]) -> Vec<(u8, u8)> {
    let each = modules.iter().enumerate();
    each.flat_map(|(at, (a, _))| modules[at + 1..].iter().map(move |(b, _)| (*a, *b))).collect()
}
