//! What a failing run tells beside that it failed: when first, whether again, which cells or lines, and in which slots.

use fastrand::Rng;
use revisum_diagnose::isolate::{Look, Mark, MarkClass, Place, RunFact};

use super::{Fault, Rate, World, module_name, slot_name};

/// In so many failing runs it is clear what errors look like.
const LOOKED: f64 = 0.8;

impl World {
    /// What else a failing run tells: when its first error came, whether more followed, and which cells or lines failed.
    pub(super) fn tell(
        &mut self,
        run: &mut RunFact,
        shown: &[Option<(Fault, Rate)>],
        now: &[Option<usize>],
        place: &Place,
        exposure: f64,
        first: bool,
    ) {
        let leading = shown.last().cloned().flatten();
        let at = match &leading {
            Some((fault, rate)) if *fault != Fault::OneOff => self.first_error(*rate, run, exposure),
            _ => self.rng.f64(),
        };
        run.first_error_minutes = Some(at * run.minutes);
        if first && self.rng.bool() {
            run.steady = Some(match &leading {
                Some((fault, Rate::PerPass(finds))) if *fault != Fault::OneOff => {
                    (1..run.passes as u32).any(|_| self.rng.f64() < *finds)
                }
                Some((fault, Rate::PerHour(rate))) if *fault != Fault::OneOff => {
                    self.rng.f64() < 1.0 - (-rate * run.minutes / 60.0 * (1.0 - at) * exposure).exp()
                }
                _ => false,
            });
        }
        let only = (run.placement.len() == 1).then(|| run.placement[0].0.clone());
        let slot = match place {
            Place::Slot(slot) => Some(slot.clone()),
            _ => only,
        };
        if self.rng.f64() < LOOKED {
            run.signs.look = leading.as_ref().map(|(fault, _)| self.look(fault));
        }
        if let Some(slot) = slot {
            run.marks = vec![self.mark(slot, leading.map(|(fault, _)| fault), now)];
        }
    }

    /// What errors of a fault look like: the same in all of its runs.
    fn look(&self, fault: &Fault) -> Look {
        let shares: [f64; 5] = match fault {
            Fault::Module(_) if self.by_cells => [0.9, 0.02, 0.02, 0.03, 0.03],
            Fault::Module(_) => [0.0, 0.55, 0.1, 0.2, 0.15],
            Fault::Seat(_) => [0.03, 0.52, 0.2, 0.1, 0.15],
            Fault::Slot(_) | Fault::Channel(_) => [0.03, 0.52, 0.25, 0.08, 0.12],
            Fault::Combination(_) | Fault::Crowded(_) | Fault::Pair(..) => [0.3, 0.15, 0.05, 0.45, 0.05],
            Fault::OneOff => [0.6, 0.1, 0.0, 0.3, 0.0],
            Fault::Controller { .. } | Fault::Warm { .. } => [0.08, 0.17, 0.1, 0.4, 0.25],
            Fault::Settings { .. } | Fault::TooMany { .. } | Fault::Position { .. } | Fault::Kits { .. } => {
                [0.1, 0.08, 0.02, 0.65, 0.15]
            }
        };
        let mut drawn = Rng::with_seed(self.seed ^ 0x5eed).f64();
        let looks = [Look::Cells, Look::Lanes, Look::Addresses, Look::Scattered, Look::Everywhere];
        let found = looks.into_iter().zip(shares).find(|(_, share)| {
            drawn -= share;
            drawn < 0.0
        });
        found.map_or(Look::Scattered, |(look, _)| look)
    }

    /// The moment of the first error of a fault that shows, as a part of the run.
    fn first_error(&mut self, rate: Rate, run: &RunFact, exposure: f64) -> f64 {
        match rate {
            Rate::PerPass(finds) => {
                let passes = run.passes.max(1.0);
                let all = 1.0 - (1.0 - finds).powf(passes);
                let pass = ((1.0 - self.rng.f64() * all).ln() / (1.0 - finds).ln()).floor();
                ((pass + self.rng.f64()) / passes).min(1.0)
            }
            Rate::PerHour(rate) => {
                let all = rate * run.minutes / 60.0 * exposure;
                let below = 1.0 - (-all).exp();
                (-(1.0 - self.rng.f64() * below).ln() / all.max(1e-9)).min(1.0)
            }
        }
    }

    /// What is known again of a fault: cells of a module follow it, lines stay with a slot or a channel, the rest is chance.
    fn mark(&mut self, slot: String, fault: Option<Fault>, now: &[Option<usize>]) -> Mark {
        let chance = self.rng.u64(..);
        let sure = self.rng.f64();
        let fixed = |at: usize| self.seed.wrapping_mul(at as u64 + 3);
        let home = |who: usize| now.iter().position(|fitted| *fitted == Some(who));
        let here = |who: usize| home(who).is_some_and(|at| slot_name(&self.outfit, at) == slot);
        let (class, id) = match fault {
            Some(Fault::Module(who)) if here(who) => {
                let class = if self.by_cells { MarkClass::Cells } else { MarkClass::Lines };
                (class, if sure < 0.96 { fixed(who) } else { chance })
            }
            Some(Fault::Combination(who) | Fault::Crowded(who)) if here(who) => {
                (MarkClass::Cells, if sure < 0.5 { fixed(who) } else { chance })
            }
            Some(Fault::Settings { weakest, .. }) if here(weakest) => {
                (MarkClass::Cells, if sure < 0.4 { fixed(weakest) } else { chance })
            }
            Some(Fault::Slot(at)) => (MarkClass::Lines, if sure < 0.92 { fixed(at) } else { chance }),
            Some(Fault::Channel(at)) => (MarkClass::Lines, if sure < 0.9 { fixed(at) } else { chance }),
            Some(Fault::Seat(_)) => (MarkClass::Lines, chance),
            Some(Fault::Controller { .. } | Fault::Warm { .. }) if sure < 0.5 => (MarkClass::Lines, chance),
            _ => (MarkClass::Cells, chance),
        };
        let id = if class == MarkClass::Lines { id % 8 } else { id };
        Mark { slot, class, id: id.to_string() }
    }

    /// Both places, where two faults showed in one run.
    pub(super) fn both(&mut self, shown: &[Option<(Fault, Rate)>], now: &[Option<usize>], place: Place) -> Place {
        let of = |who: usize| now.iter().position(|fitted| *fitted == Some(who));
        let mut homes: Vec<String> = Vec::new();
        for fault in shown.iter().flatten() {
            let home = match fault.0 {
                Fault::Module(who) => of(who),
                Fault::Slot(slot) => Some(slot),
                _ => None,
            };
            homes.extend(home.map(|slot| slot_name(&self.outfit, slot)));
        }
        homes.sort();
        homes.dedup();
        let sharp = self.priors.map.module * self.priors.map.module;
        if homes.len() > 1 && !self.map_wrong && self.rng.f64() < sharp { Place::Several(homes) } else { place }
    }

    /// What anybody knows of the reach of the failing cell once it is seen.
    pub fn reach(&self, run: &RunFact) -> Vec<(String, [f64; 2])> {
        let of = |fault: &(Fault, Rate)| match fault.0 {
            Fault::Module(who) => Some(module_name(&self.outfit, who)),
            _ => None,
        };
        let seen = |id: &String| run.marks.iter().any(|mark| run.module_in(&mark.slot) == Some(id));
        let known = self.faults.iter().filter_map(of).filter(|id| self.hidden_alone && seen(id));
        known.map(|id| (id, [0.0, 1.0])).collect()
    }
}
