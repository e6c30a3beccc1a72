//! Recipe files.

use std::path::PathBuf;

use anyhow::Result;
use revisum_engine::recipe::Recipe;

use super::Workshop;
use crate::shared::news::News;
use revisum_records::wall_time;
use revisum_workbench::recipe_file;

impl Workshop {
    pub(super) fn save_recipe(&self, recipe: &Recipe, news: &mut Vec<News>) -> Result<()> {
        let stamp = wall_time::format(
            self.machine.clock.wall_ms(),
            &wall_time::zone(self.machine.is_simulated()),
            "%Y-%m-%d-%H%M%S",
        );
        let path = self.data.recipes()?.join(format!("{}-{stamp}.toml", recipe.depth.word()));
        recipe_file::save(recipe, &path)?;
        news.push(News::Said(format!(
            "Written to {}. o opens the recipes of this folder, and revisum check --recipe runs one.",
            path.display()
        )));
        Ok(())
    }

    pub(super) fn next_recipe(&mut self, held: u64, news: &mut Vec<News>) -> Result<()> {
        let mut files: Vec<PathBuf> =
            std::fs::read_dir(self.data.recipes()?)?.flatten().map(|file| file.path()).collect();
        files.retain(|path| path.extension().is_some_and(|ending| ending == "toml"));
        files.sort();
        let after = files.iter().position(|path| Some(path) == self.recipe_file.as_ref()).map_or(0, |at| at + 1);
        let Some(path) = files.get(after).or(files.first()).cloned() else {
            news.push(News::Said("No recipe was written yet. w writes this one.".to_owned()));
            return Ok(());
        };
        let measured = self.rated.get().copied().unwrap_or_default();
        self.recipe_file = Some(path.clone());
        let recipe = recipe_file::load(&path, &|depth| measured.tests_of(depth, held).tests)?;
        news.push(News::Recipe(Box::new(recipe)));
        news.push(News::Said(format!("This is the recipe {}. o opens the next one.", path.display())));
        Ok(())
    }
}
