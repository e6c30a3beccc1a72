//! Recipe files.

use std::path::{Path, PathBuf};

use anyhow::Result;
use revisum_engine::recipe::Recipe;

use super::Workshop;
use crate::say;
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
        news.push(News::Said(say::recipe_written(path.display().to_string())));
        Ok(())
    }

    /// Recipe files by name.
    pub(super) fn list_recipes(&self) -> Result<Vec<PathBuf>> {
        let files = std::fs::read_dir(self.data.recipes()?)?.flatten().map(|file| file.path());
        let mut files: Vec<PathBuf> =
            files.filter(|path| path.extension().is_some_and(|ending| ending == "toml")).collect();
        files.sort();
        Ok(files)
    }

    pub(super) fn open_recipe(&self, file: &Path, held: u64, news: &mut Vec<News>) -> Result<()> {
        let measured = self.rated.get().copied().unwrap_or_default();
        let recipe = recipe_file::load(file, &|depth| measured.tests_of(depth, held).tests)?;
        news.push(News::Recipe(Box::new(recipe)));
        Ok(())
    }
}
