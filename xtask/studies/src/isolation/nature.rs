//! How cases come about: by which weights and rates causes are drawn.

use revisum_diagnose::isolate::Priors;

/// How cases come about.
#[derive(Clone)]
pub struct Nature {
    /// Weights and rates by which causes are drawn.
    pub priors: Priors,
    /// Causes that the planner's model does not have.
    pub foreign: bool,
    /// Failing cells are seen, and when the first error came; and there are faults of channels, of too many modules, of kits, and faults that
    /// show in some passes only. Without: the world of the first study.
    pub cells: bool,
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
        for weight in [
            &mut priors.weights.channel,
            &mut priors.weights.too_many,
            &mut priors.weights.position,
            &mut priors.weights.kits,
        ] {
            *weight = 0.0;
        }
        priors.rates.detect = vec![[0.99, 1.0]];
        priors.shares.neighbour = 0.0;
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
        Self { priors, foreign: false, cells: false }
    }

    /// The same with cells, channels, loads and kits.
    pub fn with_cells() -> Self {
        let Self { mut priors, .. } = Self::modelled();
        priors.weights.channel = 2.5;
        priors.weights.too_many = 3.0;
        priors.weights.position = 2.0;
        priors.weights.kits = 5.0;
        priors.rates.detect = vec![[0.99, 0.88], [0.33, 0.09], [0.05, 0.03]];
        priors.shares.neighbour = 0.25;
        priors.shares.stock_cures = 0.75;
        Self { priors, foreign: false, cells: true }
    }

    /// The unlike world with cells.
    pub fn different_with_cells() -> Self {
        let Self { mut priors, .. } = Self::different();
        priors.weights.channel = 4.0;
        priors.weights.too_many = 4.0;
        priors.weights.position = 2.0;
        priors.weights.kits = 3.0;
        priors.rates.detect = vec![[0.95, 0.75], [0.25, 0.17], [0.03, 0.08]];
        priors.shares.stock_cures = 0.6;
        Self { priors, foreign: true, cells: true }
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
        Self { priors, foreign: true, cells: false }
    }
}
