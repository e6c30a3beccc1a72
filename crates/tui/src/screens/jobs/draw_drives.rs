//! Making a boot drive: the drives that can be taken out, what is on each, and how far writing has come.

use std::sync::PoisonError;

use revisum_drive::Stage;
use revisum_engine::units::{bytes_text, duration_text};

use crate::say;
use crate::kit::canvas::Canvas;
use crate::shared::news::Writing;

use super::drives::DrivePage;
use crate::kit::gauge;

/// Draws the list, and the drive that is being written below it.
pub fn draw(canvas: &mut Canvas<'_>, page: &DrivePage) {
    let theme = canvas.theme;
    canvas.put(2, 0, theme.strong(), say::drives_title());
    let image = match &page.image {
        Some(image) => say::drives_from(image),
        None => say::drives_no_image()
            .to_owned(),
    };
    canvas.put(21, 0, if page.image.is_some() { theme.label() } else { theme.attention() }, &image);
    if page.drives.is_empty() {
        canvas.put(
            2,
            2,
            theme.text(),
            say::drives_none(),
        );
    }
    let mut y = 2;
    for (at, drive) in page.drives.iter().enumerate() {
        let here = at == page.at;
        (y..y + 2).for_each(|line| canvas.line(line, at));
        if here {
            canvas.put(2, y, theme.attention(), theme.marks.here);
        }
        let style = match (&drive.refused, here) {
            (Some(_), _) => theme.label(),
            (None, true) => theme.strong(),
            (None, false) => theme.text(),
        };
        canvas.cell(4, y, 30, style, &drive.name);
        canvas.put_right(44, y, style, &bytes_text(drive.bytes));
        canvas.put(48, y, theme.label(), &drive.path);
        let contents =
            if drive.contents.is_empty() { say::drives_unknown_content().to_owned() } else { drive.contents.join(", ") };
        canvas.put(6, y + 1, theme.label(), &say::drives_on_it(contents));
        if let Some(why) = &drive.refused {
            canvas.put(6, y + 2, theme.attention(), &say::drives_not_offered(why));
            y += 1;
        }
        y += 3;
    }
    let keep = if page.keep {
        say::drives_results_stay()
    } else {
        say::drives_erased()
    };
    if !page.drives.is_empty() && !page.is_writing() {
        canvas.put(4, y, if page.keep { theme.text() } else { theme.attention() }, keep);
    }
    if let Some(writing) = &page.writing {
        progress(canvas, writing, y + 1);
    }
}

fn progress(canvas: &mut Canvas<'_>, writing: &Writing, y: u16) {
    let theme = canvas.theme;
    let width = canvas.width().saturating_sub(8);
    match writing.ended.get() {
        Some(Ok((bytes, seconds))) => {
            let rate = bytes_text((*bytes as f64 * 2.0 / seconds.max(0.001)) as u64);
            let words = say::drives_done(theme.marks.passed, &writing.name, bytes_text(*bytes), duration_text(*seconds), rate);
            canvas.paragraph(4, y, width, theme.clean(), &words);
        }
        Some(Err(why)) => {
            canvas.paragraph(4, y, width, theme.error(), &format!("{} {}: {why}.", theme.marks.failed, writing.name));
        }
        None => {
            let progress = *writing.progress.lock().unwrap_or_else(PoisonError::into_inner);
            let Some(progress) = progress else { return };
            let words = match progress.stage {
                Stage::Checking => say::drives_checking(),
                Stage::Writing => say::drives_writing(),
                Stage::Verifying => say::drives_reading_back(),
            };
            let ratio = progress.done as f64 / progress.of.max(1) as f64;
            canvas.put(4, y, theme.text(), &format!("{words}   {}", writing.name));
            gauge::draw(&mut canvas.part(4, y + 1, width, 1), 0, "", ratio, width.min(60));
        }
    }
}
