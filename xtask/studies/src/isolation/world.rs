//! Simulated repair cases: what is really wrong with a machine, and what runs on it show.

use fastrand::Rng;
use revisum_diagnose::isolate::{Evidence, Place, Priors, RunFact, Suspect};

/// How cases come about.
#[derive(Clone)]
pub struct Nature {
    /// Weights and rates by which causes are drawn.
    pub priors: Priors,
    /// Causes that the planner's model does not have.
    pub foreign: bool,
}

impl Nature {
    /// Of the kind that the planner's model is made for. The numbers stand here, so that a planner with other priors meets the same cases.
    pub fn modelled() -> Self {
        let mut priors = Priors::default();
        priors.weights.module_hard = 30.0;
        priors.weights.module_intermittent = 25.0;
        priors.weights.seating = 12.0;
        priors.weights.one_off = 4.0;
        priors.weights.settings = 12.0;
        priors.weights.slot = 5.0;
        priors.weights.combination = 4.0;
        priors.weights.pair = 3.0;
        priors.weights.controller = 4.0;
        priors.weights.two_modules = 1.8;
        priors.weights.module_and_slot = 1.2;
        priors.rates.module = vec![0.4, 0.9, 2.0, 4.5, 12.0];
        priors.rates.together = vec![1.5, 5.0, 15.0, 45.0];
        priors.rates.slot = vec![1.0, 5.0];
        priors.rates.seating = vec![2.0, 10.0];
        priors.rates.coarse = vec![0.9, 4.5];
        priors.shares.stubborn = 0.0;
        priors.shares.touch_cures = 0.88;
        priors.map.wrong = 0.08;
        priors.runs.stray = 0.003;
        priors.runs.stray_per_hour = 0.002;
        Self { priors, foreign: false }
    }

    /// Other rates, maps wrong more often, seating that cures less, more strays, and causes that the model does not have.
    pub fn different() -> Self {
        let Self { mut priors, .. } = Self::modelled();
        priors.rates.module = vec![0.25, 0.7, 3.0, 8.0, 25.0];
        priors.rates.together = vec![0.8, 3.0, 10.0, 60.0];
        priors.rates.slot = vec![0.5, 3.0, 8.0];
        priors.rates.seating = vec![1.0, 5.0, 20.0];
        priors.map.wrong = 0.2;
        priors.shares.touch_cures = 0.7;
        priors.shares.stubborn = 0.15;
        priors.shares.touch_cures_stubborn = 0.3;
        priors.runs.stray = 0.006;
        priors.runs.stray_per_hour = 0.004;
        priors.weights.module_hard = 24.0;
        priors.weights.seating = 16.0;
        priors.weights.slot = 7.0;
        Self { priors, foreign: true }
    }
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
    /// Map and spare are there in every other case only.
    pub half: bool,
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
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum Rate {
    Hard,
    PerHour(f64),
}

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
    rng: Rng,
    present: Vec<Option<usize>>,
    runs: usize,
}

/// Name of a slot: two channels of two are A1 A2 B1 B2.
pub fn slot_name(outfit: &Outfit, slot: usize) -> String {
    let channel = slot % outfit.channels;
    format!("{}{}", char::from(b'A' + channel as u8), slot / outfit.channels + 1)
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
        let outfit = &Outfit { map: outfit.map && !left_out, spare: outfit.spare && !left_out, ..outfit.clone() };
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
        let mut shown: Option<Option<Fault>> = (self.rng.f64() < stray).then_some(None);
        for (fault, rate) in self.faults.clone() {
            let chance = self.chance(&fault, rate, &now, is_stock, hours, run.passes, exposure, first);
            if self.rng.f64() < chance {
                shown = Some(Some(fault));
            }
        }
        let Some(fault) = shown else { return RunFact { evidence: Evidence::Clean, ..run } };
        let place =
            if self.outfit.map && run.placement.len() > 1 { self.place(fault.as_ref(), &now) } else { Place::Unknown };
        RunFact { evidence: Evidence::Errors(place), ..run }
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
            Rate::Hard if passes < 1.0 => 0.99 * passes,
            Rate::Hard => 1.0 - 0.01f64.powf(passes),
            Rate::PerHour(rate) => 1.0 - (-rate * hours).exp(),
        };
        match fault {
            Fault::Module(who) if fitted(*who) => rated(hours * exposure),
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
            Some(Fault::OneOff) | None => (None, 0.0),
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
    let mut hard = |share: f64, else_rate: Rate| if rng.f64() < share { Rate::Hard } else { else_rate };
    let (of_slot, of_seat) = (hard(shares.slot_hard, of_slot), hard(shares.seating_hard, of_seat));
    let (coarse_a, coarse_b) = (hard(shares.coarse_hard, coarse_a), hard(shares.coarse_hard, coarse_b));
    let stubborn = rng.f64() < shares.stubborn;
    let cures = if stubborn { shares.touch_cures_stubborn } else { shares.touch_cures };
    let who = rng.usize(..outfit.modules);
    let other = (who + 1 + rng.usize(..outfit.modules.max(2) - 1)) % outfit.modules.max(1);
    let slot = rng.usize(..outfit.modules);
    let faults = match drawn.unwrap_or(0) {
        0 => vec![(Fault::Module(who), Rate::Hard)],
        1 => vec![(Fault::Module(who), of_module)],
        2 => vec![(Fault::Seat(who), of_seat)],
        3 => vec![(Fault::OneOff, Rate::Hard)],
        4 => vec![(Fault::Settings { several, weakest: who }, together)],
        5 => vec![(Fault::Slot(slot), of_slot)],
        6 => vec![(Fault::Combination(who), together)],
        7 => vec![(Fault::Pair(who, other), together)],
        8 => vec![(Fault::Controller { several, nearest: slot }, together)],
        9 => vec![(Fault::Module(who), coarse_a), (Fault::Module(other), coarse_b)],
        10 => vec![(Fault::Module(who), coarse_a), (Fault::Slot(slot), coarse_b)],
        11 => vec![(Fault::Warm { after: 20.0 + 40.0 * rng.f64(), nearest: slot }, together)],
        _ => vec![(Fault::Crowded(who), together)],
    };
    (faults, cures)
}
