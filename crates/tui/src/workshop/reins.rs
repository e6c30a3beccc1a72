//! What can be read and held at once while the workshop is at something else: the clock, the run, the measurement.

use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use revisum_diagnose::machine::Machine;
use revisum_engine::run::Control;
use revisum_workbench::recorder::Live;
use revisum_workbench::runner::RunHandle;

use crate::shared::effect::Effect;
use crate::shared::run::RunView;

/// The reins.
#[derive(Default)]
pub struct Reins(Mutex<Held>);

#[derive(Default)]
struct Held {
    machine: Option<Arc<Machine>>,
    run: Option<(Arc<Control>, Arc<Live>)>,
    stop_speed: Option<Arc<AtomicBool>>,
    stop_by_time: Option<Arc<AtomicBool>>,
}

impl Reins {
    fn held(&self) -> MutexGuard<'_, Held> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Another machine is on the bench.
    pub fn take_machine(&self, machine: Arc<Machine>) {
        self.held().machine = Some(machine);
    }

    /// A run begins.
    pub fn take_run(&self, handle: &RunHandle) {
        self.held().run = Some((handle.control.clone(), handle.live.clone()));
    }

    /// The run is over and taken in.
    pub fn let_go(&self) {
        self.held().run = None;
    }

    /// A measurement begins, or is over.
    pub fn take_speed(&self, stop: Option<Arc<AtomicBool>>) {
        self.held().stop_speed = stop;
    }

    /// Learning from time begins, or is over.
    pub fn take_by_time(&self, stop: Option<Arc<AtomicBool>>) {
        self.held().stop_by_time = stop;
    }

    /// The machine's wall time in milliseconds since 1970.
    pub fn wall_ms(&self) -> Option<i64> {
        let machine = self.held().machine.clone();
        machine.map(|machine| machine.clock.wall_ms())
    }

    /// What the run has come to. It counts as over only once it is taken in.
    pub fn run(&self) -> Option<RunView> {
        let (_, live) = self.held().run.clone()?;
        Some(view_of(&live, false))
    }

    /// Whether this effect is carried out here.
    pub fn takes(effect: &Effect) -> bool {
        matches!(
            effect,
            Effect::PauseOrGoOn
                | Effect::SkipTest
                | Effect::GoToTest(_)
                | Effect::AddPass
                | Effect::StopRun
                | Effect::StopSpeed
                | Effect::StopByTime
        )
    }

    /// Holds, turns or ends what goes on.
    pub fn pull(&self, effect: &Effect) {
        let held = self.held();
        if let (Effect::StopByTime, Some(stop)) = (effect, &held.stop_by_time) {
            stop.store(true, Ordering::SeqCst);
        }
        if let (Effect::StopSpeed, Some(stop)) = (effect, &held.stop_speed) {
            stop.store(true, Ordering::SeqCst);
        }
        let Some((control, _)) = &held.run else { return };
        match effect {
            Effect::PauseOrGoOn if control.is_paused() => control.resume(),
            Effect::PauseOrGoOn => control.pause(),
            Effect::SkipTest => control.skip_test(),
            Effect::GoToTest(place) => control.go_to(*place),
            Effect::AddPass => control.add_pass(),
            Effect::StopRun => control.stop(),
            _ => {}
        }
    }
}

/// What a run has come to.
pub fn view_of(live: &Live, over: bool) -> RunView {
    RunView { state: live.state(), over, trouble: live.trouble(), failure: live.failure(), taken: live.taken() }
}
