//! Making a boot drive: the drives that can be taken out, what is on each, and how far writing has come.

use std::sync::PoisonError;

use revisum_drive::Stage;
use revisum_engine::units::{bytes_text, duration_text};

use crate::kit::canvas::Canvas;
use crate::shared::news::Writing;

use super::drives::DrivePage;
use crate::kit::gauge;

/// Draws the list, and the drive that is being written below it.
pub fn draw(canvas: &mut Canvas<'_>, page: &DrivePage) {
    let theme = canvas.theme;
    canvas.put(2, 0, theme.strong(), "Make a boot drive");
    let image = match &page.image {
        Some(image) => format!("from {image}"),
        None => "There is no image revisum-boot.img next to the records or the program: cargo xtask image makes it."
            .to_owned(),
    };
    canvas.put(21, 0, if page.image.is_some() { theme.label() } else { theme.attention() }, &image);
    if page.drives.is_empty() {
        canvas.put(
            2,
            2,
            theme.text(),
            "No removable drive found. Plug one in and press d; 512 MiB are enough.",
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
            if drive.contents.is_empty() { "unknown content".to_owned() } else { drive.contents.join(", ") };
        canvas.put(6, y + 1, theme.label(), &format!("on it: {contents}"));
        if let Some(why) = &drive.refused {
            canvas.put(6, y + 2, theme.attention(), &format!("not offered: {why}"));
            y += 1;
        }
        y += 3;
    }
    let keep = if page.keep {
        "Results on an existing boot drive stay."
    } else {
        "Everything on the drive will be erased."
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
            let words = format!(
                "{} {}: {} written and read back in {}, {rate} a second. It can be taken out.",
                theme.marks.passed,
                writing.name,
                bytes_text(*bytes),
                duration_text(*seconds)
            );
            canvas.paragraph(4, y, width, theme.clean(), &words);
        }
        Some(Err(why)) => {
            canvas.paragraph(4, y, width, theme.error(), &format!("{} {}: {why}.", theme.marks.failed, writing.name));
        }
        None => {
            let progress = *writing.progress.lock().unwrap_or_else(PoisonError::into_inner);
            let Some(progress) = progress else { return };
            let words = match progress.stage {
                Stage::Checking => "checking the image",
                Stage::Writing => "writing",
                Stage::Verifying => "reading back",
            };
            let ratio = progress.done as f64 / progress.of.max(1) as f64;
            canvas.put(4, y, theme.text(), &format!("{words}   {}", writing.name));
            gauge::draw(&mut canvas.part(4, y + 1, width, 1), 0, "", ratio, width.min(60));
        }
    }
}
