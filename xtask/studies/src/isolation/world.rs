//! Simulated repair cases: what is really wrong with a machine, and what runs on it show.

mod told;

use fastrand::Rng;
use revisum_diagnose::isolate::{Evidence, Place, Priors, RunFact, Suspect};

use super::nature::Nature;

/// From when on it is known which half of the addresses is which channel.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Named {
    /// Time alone told the halves.
    Never,
    /// Once an arrangement leaves a channel empty.
    ByArrangement,
    /// From the first run on: more than halves can come to.
    Always,
}

/// What a machine has at hand.
#[derive(Clone)]
pub struct Outfit {
    /// Modules fitted at first; as many slots.
    pub modules: usize,
    /// Channels.
    pub channels: usize,
    /// Slots beside those that are filled.
    pub free_slots: usize,
    /// A known-good module lies on the table.
    pub spare: bool,
    /// Errors can be placed.
    pub map: bool,
    /// Errors can be placed in a half of the addresses, of which nothing tells the channel.
    pub halves: bool,
    /// From when on it is known which half is which.
    pub named: Named,
    /// Map and spare are there in every other case only.
    pub half: bool,
    /// Modules come from two kits in turn, and it is known.
    pub kits: bool,
}

#[derive(Clone, Debug, PartialEq)]
enum Fault {
    Module(usize),
    Slot(usize),
    Seat(usize),
    OneOff,
    Settings {
        several: bool,
        weakest: usize,
    },
    Combination(usize),
    Pair(usize, usize),
    Controller {
        several: bool,
        nearest: usize,
    },
    /// The mainboard once it is warm: after so many minutes of a run.
    Warm {
        after: f64,
        nearest: usize,
    },
    /// A module that fails only while its own channel holds another one too.
    Crowded(usize),
    Channel(usize),
    TooMany {
        in_channel: bool,
        at_stock: bool,
    },
    Position {
        at_stock: bool,
    },
    Kits {
        at_stock: bool,
    },
}

/// How often a fault shows: in this part of passes, or so many times an hour.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Rate {
    PerPass(f64),
    PerHour(f64),
}

const HARD: Rate = Rate::PerPass(0.99);

/// A machine with something wrong.
pub struct World {
    pub outfit: Outfit,
    /// Settings, the failing ones first.
    pub settings: Vec<String>,
    faults: Vec<(Fault, Rate)>,
    loose: bool,
    cures: f64,
    map_wrong: bool,
    priors: Priors,
    seed: u64,
    cells: bool,
    /// Its failing cell is out of reach while its module is alone.
    hidden_alone: bool,
    /// It is known again by its cells, not only by lines.
    by_cells: bool,
    rng: Rng,
    present: Vec<Option<usize>>,
    runs: usize,
}

/// Name of a slot: two channels of two are A1 A2 B1 B2.
pub fn slot_name(outfit: &Outfit, slot: usize) -> String {
    let channel = slot % outfit.channels;
    format!("{}{}", char::from(b'A' + channel as u8), slot / outfit.channels + 1)
}

/// Name of a channel.
pub fn channel_name(channel: usize) -> String {
    char::from(b'A' + channel as u8).to_string()
}

/// Name of a module; the spare comes last.
pub fn module_name(outfit: &Outfit, module: usize) -> String {
    if module == outfit.modules { "K".into() } else { format!("M{}", module + 1) }
}

impl World {
    /// A case whose first run, of everything in its place, fails.
    pub fn draw(nature: &Nature, outfit: &Outfit, seed: u64) -> (Self, RunFact) {
        let mut rng = Rng::with_seed(seed);
        let left_out = outfit.half && seed % 2 == 1;
        let outfit = &Outfit {
            map: outfit.map && !left_out,
            spare: outfit.spare && !left_out,
            kits: nature.cells && outfit.modules > 2 && seed % 4 < 2,
            ..outfit.clone()
        };
        loop {
            let mut world = Self::drawn(nature, outfit, &mut rng);
            let placement: Vec<_> =
                (0..outfit.modules).map(|at| (slot_name(outfit, at), module_name(outfit, at))).collect();
            let passes = *rng.choice([2.0, 4.0, 8.0].iter()).unwrap_or(&4.0);
            let minutes = passes * world.pass_minutes(&placement);
            let clean = RunFact::clean(placement, minutes, passes);
            let run = world.run(RunFact { settings: world.settings[0].clone(), ..clean });
            if run.failed() {
                return (world, run);
            }
        }
    }

    fn drawn(nature: &Nature, outfit: &Outfit, rng: &mut Rng) -> Self {
        let priors = nature.priors.clone();
        let settings: Vec<String> =
            if rng.bool() { vec!["profile".into(), "stock".into()] } else { vec!["stock".into()] };
        let (faults, cures) = drawn_faults(nature, outfit, settings.len() > 1, rng);
        Self {
            outfit: outfit.clone(),
            settings,
            loose: true,
            cures,
            map_wrong: rng.f64() < priors.map.wrong,
            priors,
            faults,
            seed: rng.u64(..),
            cells: nature.cells,
            hidden_alone: nature.cells && rng.f64() < 0.03,
            by_cells: rng.f64() < 0.75,
            present: (0..outfit.slots()).map(|slot| (slot < outfit.modules).then_some(slot)).collect(),
            rng: rng.fork(),
            runs: 0,
        }
    }

    /// What should be reported.
    pub fn truth(&self) -> Suspect {
        let module = |at: &usize| module_name(&self.outfit, *at);
        let slot = |at: &usize| slot_name(&self.outfit, *at);
        match &self.faults[..] {
            [(Fault::Module(a), _), (Fault::Module(b), _)] => Suspect::TwoModules(module(a.min(b)), module(a.max(b))),
            [(Fault::Module(a), _), (Fault::Slot(b), _)] => Suspect::ModuleAndSlot(module(a), slot(b)),
            [(fault, _)] => match fault {
                Fault::Module(at) => Suspect::Module(module(at)),
                Fault::Slot(at) => Suspect::Slot(slot(at)),
                Fault::Seat(_) | Fault::OneOff => Suspect::NoPart,
                Fault::Settings { .. } => Suspect::Settings,
                Fault::Combination(at) | Fault::Crowded(at) => Suspect::Combination(module(at)),
                Fault::Pair(a, b) => Suspect::Pair(module(a.min(b)), module(a.max(b))),
                Fault::Controller { .. } | Fault::Warm { .. } => Suspect::Controller,
                Fault::Channel(channel) => Suspect::Channel(channel_name(*channel)),
                Fault::TooMany { .. } => Suspect::TooMany,
                Fault::Position { .. } => Suspect::Position,
                Fault::Kits { .. } => Suspect::Kits,
            },
            _ => Suspect::Other,
        }
    }

    /// Minutes of a pass, as on the bench: more modules take longer, more channels are faster.
    pub fn pass_minutes(&self, placement: &[(String, String)]) -> f64 {
        let mut channels: Vec<&str> = placement.iter().map(|(slot, _)| &slot[..1]).collect();
        channels.sort_unstable();
        channels.dedup();
        10.0 * placement.len() as f64 / (1.0 + 0.6 * (channels.len().max(1) as f64 - 1.0))
    }

    /// Makes a run: modules are moved as it says, then it shows errors or not.
    pub fn run(&mut self, run: RunFact) -> RunFact {
        let slots = self.outfit.slots();
        let slot = |name: &str| (0..slots).find(|slot| slot_name(&self.outfit, *slot) == name);
        let module = |name: &str| (0..=self.outfit.modules).find(|module| module_name(&self.outfit, *module) == name);
        let mut now = vec![None; slots];
        for (at, who) in &run.placement {
            if let (Some(at), Some(who)) = (slot(at), module(who)) {
                now[at] = Some(who);
            }
        }
        let reseated: Vec<usize> = run.reseat.iter().filter_map(|name| module(name)).collect();
        self.touch(&now, &reseated);
        let first = self.runs == 0;
        self.runs += 1;
        let is_stock = self.settings.len() == 1 || run.settings == "stock";
        let hours = run.minutes / 60.0;
        let exposure = 10.0 / self.pass_minutes(&run.placement);
        let stray = self.priors.runs.stray + self.priors.runs.stray_per_hour * hours;
        let mut shown: Vec<Option<(Fault, Rate)>> = Vec::new();
        if self.rng.f64() < stray {
            shown.push(None);
        }
        for (fault, rate) in self.faults.clone() {
            let chance = self.chance(&fault, rate, &now, is_stock, hours, run.passes, exposure, first);
            if self.rng.f64() < chance {
                shown.push(Some((fault, rate)));
            }
        }
        if shown.is_empty() {
            return RunFact { evidence: Evidence::Clean, ..run };
        }
        let placed = self.outfit.map && run.placement.len() > 1;
        let mut run = run;
        let fault = shown.last().cloned().flatten().map(|(fault, _)| fault);
        let place = if placed { self.place(fault.as_ref(), &now) } else { Place::Unknown };
        if self.outfit.halves && run.placement.len() > 1 {
            let place = self.half(fault.as_ref(), &now);
            return RunFact {
                evidence: Evidence::Errors(place),
                ..self.without_a_place(run, &shown, &now, exposure, first)
            };
        }
        if self.cells {
            self.tell(&mut run, &shown, &now, &place, exposure, first);
        }
        let place = if self.cells && placed && shown.len() > 1 { self.both(&shown, &now, place) } else { place };
        RunFact { evidence: Evidence::Errors(place), ..run }
    }

    fn without_a_place(
        &mut self,
        mut run: RunFact,
        shown: &[Option<(Fault, Rate)>],
        now: &[Option<usize>],
        exposure: f64,
        first: bool,
    ) -> RunFact {
        if self.cells {
            self.tell(&mut run, shown, now, &Place::Unknown, exposure, first);
        }
        run
    }

    /// Whether it is known after this run which half is which: where only one channel holds something, registers show it.
    pub fn names_halves(&self, run: &RunFact) -> bool {
        match self.outfit.named {
            Named::Never => return false,
            Named::ByArrangement => {}
            Named::Always => return true,
        }
        let mut channels: Vec<&str> = run.placement.iter().map(|(slot, _)| &slot[..1]).collect();
        channels.sort_unstable();
        channels.dedup();
        channels.len() == 1
    }

    /// Which half the first channel is: in every other case the halves are exchanged.
    pub fn exchanges_halves(&self) -> bool {
        self.seed & 1 == 1
    }

    /// The half that errors are in, where both channels hold something.
    fn half(&mut self, fault: Option<&Fault>, now: &[Option<usize>]) -> Place {
        let channels = self.outfit.channels;
        let filled = |channel: usize| (0..now.len()).any(|slot| slot % channels == channel && now[slot].is_some());
        if !filled(0) || !filled(1) {
            return Place::Unknown;
        }
        match self.place(fault, now) {
            Place::Slot(name) => {
                let slot = (0..now.len()).find(|slot| slot_name(&self.outfit, *slot) == name).unwrap_or(0);
                Place::Half((slot % channels) as u8 ^ u8::from(self.exchanges_halves()))
            }
            other => other,
        }
    }

    fn touch(&mut self, now: &[Option<usize>], reseated: &[usize]) {
        let home = |fit: &[Option<usize>], who: usize| fit.iter().position(|fitted| *fitted == Some(who));
        for (fault, _) in &self.faults {
            if let Fault::Seat(who) = fault {
                let moved = home(&self.present, *who) != home(now, *who);
                let reseated = reseated.contains(who) && home(now, *who).is_some();
                if (moved || reseated) && self.rng.f64() < self.cures {
                    self.loose = false;
                }
            }
        }
        self.present = now.to_vec();
    }

    #[allow(clippy::too_many_arguments, reason = "what a run is made of")]
    fn chance(
        &self,
        fault: &Fault,
        rate: Rate,
        now: &[Option<usize>],
        is_stock: bool,
        hours: f64,
        passes: f64,
        exposure: f64,
        first: bool,
    ) -> f64 {
        let channel = |slot: usize| slot % self.outfit.channels;
        let channels = (0..self.outfit.channels)
            .filter(|wanted| now.iter().enumerate().any(|(slot, who)| who.is_some() && channel(slot) == *wanted))
            .count();
        let fitted = |who: usize| now.contains(&Some(who));
        let rated = |hours: f64| match rate {
            Rate::PerPass(finds) if passes < 1.0 => finds * passes,
            Rate::PerPass(finds) => 1.0 - (1.0 - finds).powf(passes),
            Rate::PerHour(rate) => 1.0 - (-rate * hours).exp(),
        };
        match fault {
            Fault::Module(_) if self.hidden_alone && now.iter().flatten().count() == 1 => 0.0,
            Fault::Module(who) if fitted(*who) => rated(hours * exposure),
            Fault::Channel(at) if now.iter().enumerate().any(|(slot, who)| who.is_some() && channel(slot) == *at) => {
                rated(hours * exposure)
            }
            Fault::TooMany { in_channel, at_stock } if *at_stock || !is_stock => {
                let count = now.iter().flatten().count();
                let shows = if *in_channel { count > channels } else { count >= self.outfit.modules };
                if shows { rated(hours) } else { 0.0 }
            }
            Fault::Kits { at_stock } if *at_stock || !is_stock => {
                let of = |kit: usize| now.iter().flatten().any(|who| *who < self.outfit.modules && who % 2 == kit);
                if of(0) && of(1) { rated(hours) } else { 0.0 }
            }
            Fault::Position { at_stock } if *at_stock || !is_stock => {
                let first_only = (0..self.outfit.channels).any(|at| {
                    let filled = |slot: &usize| now[*slot].is_some();
                    let slots = || (0..now.len()).filter(move |slot| channel(*slot) == at);
                    slots().count() > 1 && slots().filter(filled).count() == 1 && now[at].is_some()
                });
                if first_only { rated(hours) } else { 0.0 }
            }
            Fault::Slot(slot) if now[*slot].is_some() => rated(hours * exposure),
            Fault::Seat(who) if fitted(*who) && self.loose => rated(hours * exposure),
            Fault::OneOff if first => 1.0,
            Fault::Settings { several, .. } if !is_stock && (channels >= 2 || !several) => rated(hours),
            Fault::Combination(who) if fitted(*who) && channels >= 2 => rated(hours),
            Fault::Pair(a, b) if fitted(*a) && fitted(*b) => rated(hours),
            Fault::Controller { several, .. } if channels >= 2 || !several => rated(hours),
            Fault::Warm { after, .. } => rated((hours - after / 60.0).max(0.0)),
            Fault::Crowded(who) if fitted(*who) => {
                let home = now.iter().position(|fitted| *fitted == Some(*who)).unwrap_or(0);
                let crowded =
                    (0..now.len()).any(|slot| slot != home && channel(slot) == channel(home) && now[slot].is_some());
                if crowded { rated(hours) } else { 0.0 }
            }
            _ => 0.0,
        }
    }

    /// Where errors are placed: mostly rightly, by a wrong map always at the same wrong place.
    fn place(&mut self, fault: Option<&Fault>, now: &[Option<usize>]) -> Place {
        let map = self.priors.map.clone();
        if self.rng.f64() >= map.told {
            return Place::Unknown;
        }
        let of = |who: usize| now.iter().position(|fitted| *fitted == Some(who));
        let (home, sharp) = match fault {
            Some(Fault::Module(who) | Fault::Seat(who)) => (of(*who), map.module),
            Some(Fault::Slot(slot)) => (Some(*slot), map.module),
            Some(Fault::Combination(who) | Fault::Crowded(who)) => (of(*who), map.together),
            Some(Fault::Pair(a, b)) => (of(if self.rng.bool() { *a } else { *b }), map.together),
            Some(Fault::Settings { weakest, .. }) => (of(*weakest), map.settings),
            Some(Fault::Controller { nearest, .. } | Fault::Warm { nearest, .. }) => {
                (Some(*nearest).filter(|slot| now[*slot].is_some()), map.controller)
            }
            Some(Fault::Channel(at)) => {
                let slots: Vec<usize> =
                    (0..now.len()).filter(|slot| slot % self.outfit.channels == *at && now[*slot].is_some()).collect();
                (self.rng.choice(slots), map.module)
            }
            Some(Fault::OneOff | Fault::TooMany { .. } | Fault::Kits { .. } | Fault::Position { .. }) | None => {
                (None, 0.0)
            }
        };
        let fitted: Vec<usize> = (0..now.len()).filter(|slot| now[*slot].is_some()).collect();
        let named = match home.filter(|_| self.rng.f64() < sharp) {
            Some(slot) if self.map_wrong => wrongly(self.seed, slot, &fitted, now),
            Some(slot) => slot,
            None if self.rng.f64() < map.spread => return Place::Spread,
            None => fitted[self.rng.usize(..fitted.len())],
        };
        Place::Slot(slot_name(&self.outfit, named))
    }
}

/// The slot that a wrong map names for this one in this fitting.
fn wrongly(seed: u64, slot: usize, fitted: &[usize], now: &[Option<usize>]) -> usize {
    let fitting =
        now.iter().fold(seed, |all, who| all.wrapping_mul(31).wrapping_add(who.map_or(0, |who| who as u64 + 1)));
    let mut order = fitted.to_vec();
    Rng::with_seed(fitting).shuffle(&mut order);
    let at = fitted.iter().position(|known| *known == slot).unwrap_or(0);
    order[at]
}

impl Outfit {
    /// Slots of the mainboard.
    pub fn slots(&self) -> usize {
        self.modules + self.free_slots
    }
}

fn drawn_faults(nature: &Nature, outfit: &Outfit, choice: bool, rng: &mut Rng) -> (Vec<(Fault, Rate)>, f64) {
    let (weights, rates, shares) = (&nature.priors.weights, &nature.priors.rates, &nature.priors.shares);
    let several = rng.f64() < shares.several_channels;
    let foreign = if nature.foreign { 3.0 } else { 0.0 };
    let table = [
        weights.module_hard,
        weights.module_intermittent,
        weights.seating,
        weights.one_off,
        if choice { weights.settings } else { 0.0 },
        weights.slot,
        if outfit.modules > 1 { weights.combination } else { 0.0 },
        if outfit.modules > 1 { weights.pair } else { 0.0 },
        weights.controller,
        if outfit.modules > 1 { weights.two_modules } else { 0.0 },
        weights.module_and_slot,
        foreign,
        if outfit.slots() > outfit.channels && outfit.modules > outfit.channels { foreign } else { 0.0 },
        if outfit.slots() > outfit.channels { weights.channel } else { 0.0 },
        if outfit.modules > 2 { weights.too_many } else { 0.0 },
        if outfit.slots() > outfit.channels && outfit.modules == outfit.channels { weights.position } else { 0.0 },
        if outfit.kits { weights.kits } else { 0.0 },
    ];
    let mut left = rng.f64() * table.iter().sum::<f64>();
    let drawn = table.iter().position(|weight| {
        left -= weight;
        left < 0.0
    });
    let mut pick = |rates: &[f64]| Rate::PerHour(rates[rng.usize(..rates.len())]);
    let (of_module, of_slot, of_seat) = (pick(&rates.module), pick(&rates.slot), pick(&rates.seating));
    let together = pick(&rates.together);
    let (coarse_a, coarse_b) = (pick(&rates.coarse), pick(&rates.coarse));
    let mut hard = |share: f64, else_rate: Rate| if rng.f64() < share { HARD } else { else_rate };
    let (of_slot, of_seat) = (hard(shares.slot_hard, of_slot), hard(shares.seating_hard, of_seat));
    let (coarse_a, coarse_b) = (hard(shares.coarse_hard, coarse_a), hard(shares.coarse_hard, coarse_b));
    let stubborn = rng.f64() < shares.stubborn;
    let cures = if stubborn { shares.touch_cures_stubborn } else { shares.touch_cures };
    let mut detected = rng.f64();
    let detected = rates.detect.iter().find(|[_, share]| {
        detected -= share;
        detected < 0.0
    });
    let detected = Rate::PerPass(detected.map_or(0.99, |[finds, _]| *finds));
    let neighbour = outfit.modules > outfit.channels && rng.f64() < shares.neighbour;
    let crowded = outfit.modules > outfit.channels && rng.f64() < 0.6;
    let at_stock = !choice || rng.f64() >= shares.stock_cures;
    let who = rng.usize(..outfit.modules);
    let other = (who + 1 + rng.usize(..outfit.modules.max(2) - 1)) % outfit.modules.max(1);
    let slot = rng.usize(..outfit.modules);
    let faults = match drawn.unwrap_or(0) {
        0 => vec![(Fault::Module(who), detected)],
        1 => vec![(Fault::Module(who), of_module)],
        2 => vec![(Fault::Seat(who), of_seat)],
        3 => vec![(Fault::OneOff, HARD)],
        4 => vec![(Fault::Settings { several, weakest: who }, together)],
        5 => vec![(Fault::Slot(slot), of_slot)],
        6 if neighbour => vec![(Fault::Crowded(who), together)],
        6 => vec![(Fault::Combination(who), together)],
        7 => vec![(Fault::Pair(who, other), together)],
        8 => vec![(Fault::Controller { several, nearest: slot }, together)],
        9 => vec![(Fault::Module(who), coarse_a), (Fault::Module(other), coarse_b)],
        10 => vec![(Fault::Module(who), coarse_a), (Fault::Slot(slot), coarse_b)],
        11 => vec![(Fault::Warm { after: 20.0 + 40.0 * rng.f64(), nearest: slot }, together)],
        12 => vec![(Fault::Crowded(who), together)],
        13 => vec![(Fault::Channel(slot % outfit.channels), of_slot)],
        14 => vec![(Fault::TooMany { in_channel: crowded, at_stock }, together)],
        15 => vec![(Fault::Position { at_stock }, together)],
        _ => vec![(Fault::Kits { at_stock }, together)],
    };
    (faults, cures)
}
