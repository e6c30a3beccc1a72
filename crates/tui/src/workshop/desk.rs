//! Where effects are handed in: on a thread of its own, so that nothing that takes long is waited for; or right here, for whoever drives the
//! screen without a terminal.

use std::sync::Arc;
use std::sync::mpsc::{Receiver, Sender, channel};
use std::thread::JoinHandle;
use std::time::Duration;

use anyhow::{Context, Result};

use super::{Reins, Told, Workshop};
use crate::booted::Kept;
use crate::say;
use crate::shared::effect::Effect;
use crate::shared::news::News;

/// Where effects are handed in.
pub struct Desk {
    reins: Arc<Reins>,
    place: Place,
}

enum Place {
    /// Everything is carried out at once.
    Here(Box<Workshop>),
    /// Another thread carries it out.
    Apart { orders: Sender<Effect>, answers: Receiver<Vec<News>>, thread: JoinHandle<Workshop> },
}

impl Desk {
    /// Everything is carried out at once.
    pub fn here(workshop: Workshop) -> Self {
        Self { reins: workshop.reins(), place: Place::Here(Box::new(workshop)) }
    }

    /// Another thread carries it out; `told` is called when there is an answer.
    ///
    /// # Errors
    /// When the system's limits leave no thread.
    pub fn apart(mut workshop: Workshop, told: Told) -> Result<Self> {
        let (orders, inbox) = channel::<Effect>();
        let (outbox, answers) = channel();
        let reins = workshop.reins();
        let thread = std::thread::Builder::new()
            .spawn(move || {
                for effect in inbox {
                    // Once the screen is gone nobody needs to be told any more.
                    let _ = outbox.send(workshop.perform(effect));
                    told();
                }
                workshop
            })
            .context(say::no_thread())?;
        Ok(Self { reins, place: Place::Apart { orders, answers, thread } })
    }

    /// What can be read and held at once.
    pub fn reins(&self) -> &Reins {
        &self.reins
    }

    /// Hands in an effect; the answer is here at once, or comes later.
    pub fn hand_in(&mut self, effect: Effect) -> Option<Vec<News>> {
        if Reins::takes(&effect) {
            self.reins.pull(&effect);
            return Some(Vec::new());
        }
        match &mut self.place {
            Place::Here(workshop) => Some(workshop.perform(effect)),
            Place::Apart { orders, .. } => {
                // A thread that is gone took the program with it: its panic was shown.
                let _ = orders.send(effect);
                None
            }
        }
    }

    /// The next answer, if there is one within this time.
    pub fn answer(&mut self, within: Duration) -> Option<Vec<News>> {
        let Place::Apart { answers, .. } = &self.place else { return None };
        answers.recv_timeout(within).ok()
    }

    /// Whether the thread that carries everything out is gone, by a fault.
    pub fn is_gone(&self) -> bool {
        matches!(&self.place, Place::Apart { thread, .. } if thread.is_finished())
    }

    /// Ends what goes on and says why something is not recorded.
    pub fn close(self) -> Kept {
        match self.place {
            Place::Here(mut workshop) => workshop.close(),
            Place::Apart { orders, thread, .. } => {
                drop(orders);
                match thread.join() {
                    Ok(mut workshop) => workshop.close(),
                    // A fault must not look like having been left: whoever started the program goes by how it ended.
                    Err(fault) => std::panic::resume_unwind(fault),
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use std::panic::{AssertUnwindSafe, catch_unwind};

    use super::*;
    use crate::Demo;

    #[test]
    fn a_fault_on_its_thread_is_a_fault_of_the_program() {
        let data = tempfile::tempdir().unwrap();
        let demo = Demo { machine: Some("meteo".to_owned()), seed: 1, pace: 0.0 };
        let (workshop, _) = crate::demonstration(Some(data.path()), &demo).unwrap();
        let mut desk = Desk::apart(workshop, Arc::new(|| panic!("planted"))).unwrap();
        assert!(!desk.is_gone());
        desk.hand_in(Effect::ListJobs);
        while !desk.is_gone() {
            std::thread::yield_now();
        }
        assert!(catch_unwind(AssertUnwindSafe(|| desk.close())).is_err());
    }
}
