//! 3 Recipe: what to run and how, and what that will take.

mod draw;
mod rows;

use crate::say;
use self::rows::{RecipeRow, changed, enter_words, recipe_rows, starts};
use std::path::PathBuf;
use revisum_words::Said as _;

use crate::dialogs::choice::Choice;
use crate::kit::canvas::Canvas;
use crate::moves::start;
use crate::room::command::Command;
use crate::room::screen::Screen;
use crate::room::step::{Ask, Step, does};
use crate::shared::chosen::Chosen;
use crate::shared::effect::Effect;
use crate::shared::news::News;
use crate::shared::state::{Shared, stepped};

/// More values than any row has.
const MOST_VALUES: usize = 10_000;

/// The recipe as a list of rows.
#[derive(Debug, Default)]
pub struct Recipe {
    /// Chosen row.
    row: usize,
}

/// What its keys say.
#[derive(Clone, Copy, Debug)]
pub enum Message {
    /// Act on the chosen row.
    Act,
    /// Another row.
    Step(isize),
    /// The value before or after.
    Change(isize),
    /// As its depth gives it.
    Defaults,
    /// Write it to a file.
    Save,
    /// Choose a file to read.
    Open,
}

impl Screen for Recipe {
    type Message = Message;

    fn purpose() -> &'static str {
        say::recipe_purpose()
    }

    fn commands(&self, shared: &Shared) -> Vec<Command<Message>> {
        let row = recipe_rows(&shared.chosen).get(self.row).copied().unwrap_or(RecipeRow::Start);
        // While a run goes on the next one can be chosen, and instead of beginning it the other is watched.
        let act = !(shared.is_busy() && starts(shared, row));
        let run = act.then(|| Command::enter(Message::Act, enter_words(shared, row)));
        let defaults = shared.chosen.changed.then(|| {
            let words = say::recipe_as_it_comes(shared.chosen.recipe.depth.said());
            Command::letter('d', "d", Message::Defaults, words)
        });
        let rest = [
            Command::list(Message::Step, say::key_select_row()),
            Command::sides(Message::Change, say::key_change_value()),
            Command::letter('w', "w", Message::Save, say::key_write_file()).aside(),
            Command::letter('o', "o", Message::Open, say::key_open_recipe()).aside(),
        ];
        let rest = rest.into_iter().chain(defaults);
        run.into_iter().chain(rest).collect()
    }

    fn update(&mut self, message: Message, shared: &Shared) -> Step {
        match message {
            Message::Act => self.act(shared),
            Message::Step(by) => {
                self.row = stepped(self.row, by, recipe_rows(&shared.chosen).len());
                Vec::new()
            }
            Message::Change(by) => self.change(shared, by),
            Message::Defaults => chooses(defaults(shared)),
            Message::Save => does(Effect::SaveRecipe(shared.chosen.recipe.clone())),
            Message::Open => does(Effect::ListRecipes),
        }
    }

    fn told(&mut self, news: &News, shared: &Shared) -> Step {
        let News::Recipes(files) = news else { return Vec::new() };
        let held = shared.held_bytes();
        let line = |file: &PathBuf| {
            let name = file.file_stem().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
            (name, does(Effect::OpenRecipe { file: file.clone(), held }))
        };
        Choice::open(say::recipe_which(), files.iter().map(line).collect(), say::recipe_none_written())
    }

    fn pointed(&mut self, at: usize, shared: &Shared) -> Step {
        let again = at == self.row;
        self.row = stepped(at, 0, recipe_rows(&shared.chosen).len());
        if again { self.update(Message::Act, shared) } else { Vec::new() }
    }

    fn draw(&self, canvas: &mut Canvas<'_>, shared: &Shared) {
        draw::draw(canvas, self, shared);
    }
}

impl Recipe {
    /// Switches the chosen test, or steps the chosen value; after the last one the first comes again.
    fn act(&self, shared: &Shared) -> Step {
        let rows = recipe_rows(&shared.chosen);
        let Some(row) = rows.get(self.row).copied() else { return Vec::new() };
        if starts(shared, row) {
            return start::chosen(shared);
        }
        let next = changed(shared, row, 1);
        if next != shared.chosen {
            return chooses(next);
        }
        let mut first = Shared { chosen: shared.chosen.clone(), ..Shared::new(shared.facts.clone(), shared.size) };
        for _ in 0..MOST_VALUES {
            let before = changed(&first, row, -1);
            if before == first.chosen {
                break;
            }
            first.chosen = before;
        }
        chooses(first.chosen)
    }

    fn change(&self, shared: &Shared, by: isize) -> Step {
        let rows = recipe_rows(&shared.chosen);
        rows.get(self.row).map(|row| chooses(changed(shared, *row, by))).unwrap_or_default()
    }
}

/// The depth as it comes on this machine.
fn defaults(shared: &Shared) -> Chosen {
    let fresh = Chosen { sound: shared.chosen.sound, ..Chosen::default() };
    fresh.of_depth(&shared.facts, shared.chosen.recipe.depth)
}

fn chooses(chosen: Chosen) -> Step {
    vec![Ask::Choose(Box::new(chosen))]
}

#[cfg(test)]
mod tests {
    use crossterm::event::KeyCode;
    use revisum_engine::recipe::{CoreSharing, Depth, Recipe as Plan};
    use rstest::rstest;

    use super::rows::meaning;
    use super::*;
    use crate::room::screen::Room;
    use crate::shared::facts::Facts;

    use KeyCode::{Char, Down, Enter, Left, Right, Up};

    /// Keys to a row, then a step.
    fn to(row: RecipeRow, then: &[KeyCode]) -> Vec<KeyCode> {
        let rows = recipe_rows(&Chosen::default());
        let at = rows.iter().position(|known| *known == row).unwrap();
        std::iter::repeat_n(Down, at).chain(then.iter().copied()).collect()
    }

    #[rstest]
    #[case::depth(to(RecipeRow::Depth(Depth::Survey), &[Right]), |r: &Plan| r.depth == Depth::Survey && r.for_seconds == Some(3600))]
    #[case::test_off(to(RecipeRow::Test(0), &[Right]), |r: &Plan| !r.tests.contains(&"random".to_owned()))]
    #[case::test_off_and_on(to(RecipeRow::Test(0), &[Right, Left]), |r: &Plan| r.tests.contains(&"random".to_owned()))]
    #[case::passes(to(RecipeRow::Passes, &[Right, Right]), |r: &Plan| r.passes == Some(3))]
    #[case::as_many_as_fit(to(RecipeRow::Passes, &[Left]), |r: &Plan| r.passes.is_none() && r.for_seconds == Some(3600))]
    #[case::cores(to(RecipeRow::Cores, &[Right]), |r: &Plan| r.cores == CoreSharing::Each)]
    #[case::first_error(to(RecipeRow::StopAfter, &[Right]), |r: &Plan| r.stop_after == Some(1))]
    #[case::defaults(to(RecipeRow::Test(0), &[Right, Char('d')]), |r: &Plan| *r == Plan::of_depth(Depth::Triage))]
    #[case::enter_acts_on_its_row(to(RecipeRow::Depth(Depth::Survey), &[Enter]), |r: &Plan| r.depth == Depth::Survey)]
    #[case::enter_leaves_a_test_out(to(RecipeRow::Test(0), &[Enter]), |r: &Plan| !r.tests.contains(&"random".to_owned()))]
    #[case::after_the_last_value_the_first(to(RecipeRow::Cores, &[Enter, Enter]), |r: &Plan| r.cores == CoreSharing::Divide)]
    #[case::ends_hold(vec![Up, Up, Left], |r: &Plan| r.depth == Depth::Triage)]
    fn the_recipe_changes(#[case] keys: Vec<KeyCode>, #[case] holds: fn(&Plan) -> bool) {
        let (mut screen, mut shared) = (Recipe::default(), Shared::new(Facts::default(), (128, 40)));
        for code in keys {
            for ask in screen.press(code, &shared).unwrap() {
                let Ask::Choose(chosen) = ask else { panic!("{ask:?}") };
                shared.chosen = *chosen;
            }
        }
        assert!(holds(&shared.chosen.recipe), "{:?}", shared.chosen.recipe);
    }

    /// On a machine with several nodes the row says from where memory is tested.
    #[rstest]
    #[case::one_node(1, CoreSharing::Divide, "")]
    #[case::unknown(0, CoreSharing::Each, "")]
    #[case::near_only(2, CoreSharing::Divide, "one of the 2 processor nodes only")]
    #[case::far_too(2, CoreSharing::Each, "from near and from far")]
    fn far_memory_is_spoken_of(#[case] nodes: usize, #[case] cores: CoreSharing, #[case] expected: &str) {
        let mut shared = Shared::new(Facts { nodes, ..Facts::default() }, (128, 40));
        shared.chosen.recipe = Plan { cores, ..shared.chosen.recipe };
        let words = meaning(&shared, RecipeRow::Cores);
        assert_eq!(words.contains("node"), !expected.is_empty(), "{words}");
        assert!(words.contains(expected), "{words}");
    }

    /// Only what differs from the depth as it comes is called changed.
    #[rstest]
    #[case::at_its_end(RecipeRow::Time, Left, false)]
    #[case::not_of_the_run(RecipeRow::Sound, Right, false)]
    #[case::another_value(RecipeRow::Passes, Right, true)]
    #[case::a_test_left_out(RecipeRow::Test(0), Enter, true)]
    fn changed_is_said_of_what_changed(#[case] row: RecipeRow, #[case] code: KeyCode, #[case] expected: bool) {
        let (mut screen, mut shared) = (Recipe::default(), Shared::new(Facts::default(), (128, 40)));
        for code in to(row, &[code]) {
            for ask in screen.press(code, &shared).unwrap() {
                let Ask::Choose(chosen) = ask else { panic!("{ask:?}") };
                shared.chosen = *chosen;
            }
        }
        assert_eq!(shared.chosen.changed, expected);
    }
}
