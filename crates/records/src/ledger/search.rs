//! Finding runs by words.

use anyhow::Result;
use revisum_record::outcome::{EndedBy, Grade, Headline};

use super::Ledger;
use super::base::{Dialect, Row, Unreadable, Value};
use crate::runs::{RunSummary, Standing, is_number};

/// The shortest word that the index of three-letter pieces can find.
const PIECE: usize = 3;

/// What is read of each run; [`run_of`] knows their places.
const COLUMNS: &str = "id, outcome, started, errors, machine, simulated, wall_ms, order_ms, text, damage, headline, grade, ended_by, \
                       corrected, slots, arrangement, depth";
const NEWEST: &str = "ORDER BY order_ms DESC, length(id) DESC, id DESC";
/// Places of what stands behind the columns.
const ELSEWHERE: usize = 17;
const COUNT: usize = 18;

/// A condition and the values of its places.
#[derive(Default)]
struct Filter {
    wanted: Vec<String>,
    values: Vec<Value>,
}

impl Filter {
    /// Adds a condition, `$` in it being the place of this value.
    fn add(&mut self, condition: &str, value: String) {
        self.values.push(value.into());
        self.wanted.push(condition.replace('$', &format!("${}", self.values.len())));
    }

    /// What finds runs with all of these words: the text of a run, and its id for words that are no numbers.
    fn of(words: &[String], dialect: Dialect) -> Self {
        let mut filter = Self::default();
        let (long, short): (Vec<&String>, Vec<&String>) = words.iter().partition(|word| is_long(word));
        if dialect == Dialect::Embedded && !long.is_empty() {
            let query: Vec<String> = long.iter().flat_map(|word| pieces(word)).collect();
            filter.add("nr IN (SELECT rowid FROM words WHERE words MATCH $)", query.join(" AND "));
        }
        for word in short.into_iter().chain(long) {
            match (dialect, is_number(word)) {
                // The index knows which pieces of three letters occur; that they stand together is looked at in the text.
                (Dialect::Embedded, true) => filter.add("instr(text, $) > 0", word.clone()),
                (Dialect::Embedded, false) => filter.add("instr(text || ' ' || lower(id), $) > 0", word.clone()),
                (Dialect::Shared, true) => filter.add("text LIKE $", within(word)),
                (Dialect::Shared, false) => filter.add("(text LIKE $ OR lower(id) LIKE $)", within(word)),
            }
        }
        filter
    }
}

impl Ledger {
    /// Runs with all of these words in their text, newest first, at most `most`; and how many there are.
    ///
    /// # Errors
    /// When the ledger cannot be read.
    pub fn find(&self, text: &str, most: usize) -> Result<(Vec<RunSummary>, u64)> {
        let found = self.find_known(text, most)?;
        match self.freshen(found.0.iter().map(|run| run.id.as_str()))? {
            true => self.find_known(text, most),
            false => Ok(found),
        }
    }

    fn find_known(&self, text: &str, most: usize) -> Result<(Vec<RunSummary>, u64)> {
        let words: Vec<String> = text.to_lowercase().split_whitespace().map(str::to_owned).collect();
        let Filter { wanted, values } = Filter::of(&words, self.base.dialect());
        let mut filter = if wanted.is_empty() { String::new() } else { format!("WHERE {}", wanted.join(" AND ")) };
        let noted = self.runs_noted(&words)?;
        if !noted.is_empty() {
            let numbers: Vec<String> = noted.iter().map(i64::to_string).collect();
            filter = format!("{filter} OR nr IN ({})", numbers.join(", "));
        }
        // Whose journal it is, where this folder has none of it.
        let elsewhere = format!(
            "(SELECT name FROM origins WHERE origins.nr = source AND NOT EXISTS \
             (SELECT 1 FROM holders WHERE run = runs.nr AND origin = {}))",
            self.origin
        );
        let sql = if words.iter().any(|word| is_long(word)) {
            // The index is asked once, and of what it finds only the rows that are shown are read whole.
            format!(
                "WITH hit AS MATERIALIZED (SELECT nr, id, order_ms FROM runs {filter}), \
                 top AS MATERIALIZED (SELECT nr FROM hit {NEWEST} LIMIT {most}) \
                 SELECT {COLUMNS}, {elsewhere}, (SELECT count(*) FROM hit) FROM top JOIN runs USING (nr) {NEWEST}"
            )
        } else {
            // The newest are read first and the rest only counted.
            format!(
                "SELECT {COLUMNS}, {elsewhere}, (SELECT count(*) FROM runs {filter}) FROM runs {filter} {NEWEST} LIMIT {most}"
            )
        };
        let rows = self.base.rows(&sql, &values)?;
        let count = rows.first().map(|row| row.int(COUNT)).transpose()?.unwrap_or(0);
        Ok((rows.iter().map(run_of).collect::<Result<_>>()?, count.cast_unsigned()))
    }
}

fn is_long(word: &str) -> bool {
    word.chars().count() >= PIECE
}

/// Pieces of three letters that cover a word, each in quotation marks so that it is taken as it is. More of them would find the same.
fn pieces(word: &str) -> Vec<String> {
    let letters: Vec<char> = word.chars().collect();
    let piece = |three: &[char]| format!("\"{}\"", three.iter().collect::<String>().replace('"', "\"\""));
    let last = letters.windows(PIECE).next_back().filter(|_| !letters.len().is_multiple_of(PIECE));
    letters.chunks_exact(PIECE).chain(last).map(piece).collect()
}

/// The pattern of a text in which this word stands somewhere.
pub(super) fn within(word: &str) -> String {
    let mut pattern = String::from("%");
    for letter in word.chars() {
        if matches!(letter, '%' | '_' | '\\') {
            pattern.push('\\');
        }
        pattern.push(letter);
    }
    pattern.push('%');
    pattern
}

fn run_of(row: &Row) -> Result<RunSummary> {
    let ended_by = row.maybe_text(12)?;
    Ok(RunSummary {
        id: row.text(0)?,
        outcome: Standing::of_word(&row.text(1)?).ok_or(Unreadable("outcome"))?,
        started: row.text(2)?,
        errors: row.int(3)?.cast_unsigned(),
        machine: row.text(4)?,
        simulated: row.flag(5)?,
        wall_ms: row.int(6)?,
        order_ms: row.int(7)?,
        text: row.text(8)?,
        damage: row.maybe_text(9)?,
        headline: headline_of(row, 10)?,
        grade: Grade::of_word(&row.text(11)?).ok_or(Unreadable("grade"))?,
        ended_by: ended_by.map(|word| EndedBy::of_word(&word).ok_or(Unreadable("end"))).transpose()?,
        corrected: row.int(13)?.cast_unsigned(),
        slots: row.text(14)?,
        arrangement: row.text(15)?,
        depth: row.text(16)?,
        elsewhere: row.maybe_text(ELSEWHERE)?,
    })
}

pub(super) fn headline_of(row: &Row, column: usize) -> Result<Headline, Unreadable> {
    serde_json::from_str(&row.text(column)?).map_err(|_| Unreadable("headline"))
}
