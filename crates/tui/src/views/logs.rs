//! 8 Logs: earlier runs, and one of them as it looked.

use std::sync::PoisonError;

use super::run::draw_run;
use crate::canvas::{Canvas, shortened};
use crate::state::{App, Overlay};
use revisum_engine::units::duration_text;
use revisum_record::outcome::Grade;
use revisum_records::wall_time;
use revisum_records::{RunSummary, Standing};

/// Where start, machine and result stand.
const COLUMNS: [u16; 3] = [4, 22, 38];
/// From this width on ids are shown: where they do not fit, start and machine say the same.
const WITH_ID: u16 = 120;
/// Columns of an id.
const ID: u16 = 34;

/// Draws the list, or the run that is opened.
pub fn draw(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    if let Some(page) = app.life.as_ref().filter(|_| app.opened.is_none()) {
        return super::life::draw(canvas, page);
    }
    if let Some(page) = &app.system_log {
        return super::system_log::draw(canvas, app, page);
    }
    if let Some(compared) = &app.compared {
        return super::compare::draw(canvas, compared);
    }
    if let Some(recorded) = &app.opened {
        let zone = wall_time::zone(recorded.state.begin.simulated);
        let started = wall_time::date_and_time(recorded.state.begin.wall_ms, &zone);
        let doubtful = if recorded.state.begin.wall_doubtful { " by a clock that is wrong" } else { "" };
        let x = canvas.put(2, 0, theme.label(), "log of ");
        let x = canvas.put(x, 0, theme.strong(), &format!("{}   {started}{doubtful}", recorded.id));
        if let Some((at, length)) = app.opened_at {
            let [at, length] = [at, length].map(|ms| duration_text(ms as f64 / 1000.0));
            canvas.put(x + 3, 0, theme.attention(), &format!("as it was after {at} of {length}"));
        }
        let live = recorded.standing == Standing::Running;
        draw_run(&mut canvas.below(2), app, &recorded.state, live);
        return;
    }
    let typing = matches!(app.overlay, Some(Overlay::Find));
    if typing || !app.find.value().is_empty() {
        let more = app.log_count.saturating_sub(app.logs.len() as u64);
        let all = if more > 0 { format!("{} of {}", app.logs.len(), app.log_count) } else { app.log_count.to_string() };
        let cursor = if typing { "_" } else { "" };
        let y = canvas.height().saturating_sub(1);
        canvas.put(2, y, theme.attention(), &format!("/ {}{cursor}   {all} found", app.find.value()));
    }
    if let Some(now) = &app.bringing_in {
        let (at, of) = *now.progress.lock().unwrap_or_else(PoisonError::into_inner);
        let y = canvas.height().saturating_sub(3);
        // Before the first of them it is not known how many there are.
        let far = if of > 0 { format!("{at} of {of}") } else { "records".to_owned() };
        canvas.put(2, y, theme.attention(), &format!("Bringing in {far} from {}", now.from.display()));
    }
    if app.logs.is_empty() && !app.find.value().is_empty() {
        canvas.put(2, 0, theme.strong(), "No run has these words in its machine, modules, tests, outcome or id.");
    } else if app.logs.is_empty() {
        canvas.put(2, 0, theme.strong(), "No run was recorded yet.");
        canvas.put(2, 2, theme.label(), "Every run is recorded by itself. 4 makes one.");
    } else {
        draw_list(canvas, app);
    }
    if !app.unreadable.is_empty() {
        let words = format!("{} journals could not be read; the first: {}", app.unreadable.len(), app.unreadable[0]);
        let y = canvas.height().saturating_sub(2);
        let width = canvas.width().saturating_sub(4);
        canvas.paragraph(2, y, width, theme.attention(), &words);
    }
}

fn draw_list(canvas: &mut Canvas<'_>, app: &App) {
    let theme = canvas.theme;
    for (x, label) in COLUMNS.iter().zip(["started", "machine", "result"]) {
        canvas.put(*x, 0, theme.label(), label);
    }
    if let Some(x) = id_column(canvas) {
        canvas.put(x, 0, theme.label(), "id");
    }
    let room = usize::from(canvas.height().saturating_sub(4)).max(1);
    let first = app.log.saturating_sub(room - 1);
    for (y, (at, log)) in (1u16..).zip(app.logs.iter().enumerate().skip(first).take(room)) {
        draw_line(canvas, log, y, (at == app.log, app.chosen.contains(&log.id)));
    }
}

fn id_column(canvas: &Canvas<'_>) -> Option<u16> {
    (canvas.width() >= WITH_ID).then(|| canvas.width() - ID)
}

fn draw_line(canvas: &mut Canvas<'_>, log: &RunSummary, y: u16, (chosen, compared): (bool, bool)) {
    let theme = canvas.theme;
    if chosen {
        canvas.put(2, y, theme.attention(), theme.marks.here);
    }
    if compared {
        canvas.put(0, y, theme.attention(), "+");
    }
    let text = if chosen { theme.strong() } else { theme.text() };
    let started = wall_time::date_and_time(log.wall_ms, &wall_time::zone(log.simulated));
    canvas.put(COLUMNS[0], y, text, &started);
    canvas.put(COLUMNS[1], y, text, &format!("{:.15}", log.machine));
    let grade = Grade::of_word(&log.grade).unwrap_or(Grade::Open);
    let mark = match grade {
        Grade::Clean => theme.marks.passed,
        Grade::Errors | Grade::Void => theme.marks.failed,
        Grade::Reduced | Grade::Open | Grade::Corrected => theme.marks.open,
    };
    let room = usize::from(id_column(canvas).unwrap_or(canvas.width()).saturating_sub(COLUMNS[2] + 1));
    canvas.put(COLUMNS[2], y, theme.graded(grade), &shortened(&format!("{mark} {}", log.headline), room));
    if let Some(x) = id_column(canvas) {
        canvas.put(x, y, theme.label(), &log.id);
    }
}
