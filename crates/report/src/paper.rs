//! Scenes as the pages of a PDF (ISO 32000-1): text stays text, our fonts are embedded with only the letters that are used.

use std::collections::BTreeMap;
use std::io::Write;

use flate2::Compression;
use flate2::write::ZlibEncoder;
use pdf_writer::types::{CidFontType, FontFlags, SystemInfo, UnicodeCmap};
use pdf_writer::{Content, Filter, Finish, Name, Pdf, Rect, Ref, Str, TextStr};
use revisum_drawing::{Anchor, Colour, Fonts, Glyph, Scene, Shape, Text, Weight};
use subsetter::GlyphRemapper;

use crate::flow::PdfError;

/// Both fonts number their glyphs as they stand in them.
const IDENTITY: SystemInfo<'static> = SystemInfo { registry: Str(b"Adobe"), ordering: Str(b"Identity"), supplement: 0 };
/// Widths in a PDF are thousandths of the font's size.
const THOUSAND: f32 = 1000.0;
/// A quarter of a circle as a Bézier curve: distance of its handles over its radius.
const HANDLE: f32 = 0.552_284_8;

const RIGHT: (f32, f32) = (1.0, 0.0);
const DOWN: (f32, f32) = (0.0, 1.0);
const LEFT: (f32, f32) = (-1.0, 0.0);
const UP: (f32, f32) = (0.0, -1.0);

/// Name of a font in the pages' resources, and in the file.
fn names(weight: Weight) -> (&'static [u8], &'static str) {
    match weight {
        Weight::Regular => (b"F0", "RVSREG+OpenSans-Regular"),
        Weight::Semibold => (b"F1", "RVSSEM+OpenSans-Semibold"),
    }
}

/// Object numbers, one after the other.
struct Numbers(i32);

impl Numbers {
    fn next(&mut self) -> Ref {
        self.0 += 1;
        Ref::new(self.0)
    }
}

/// Which letters of a font are used.
#[derive(Default)]
struct Used {
    glyphs: GlyphRemapper,
    /// Width in units of the font, and letter, by the number in the file.
    letters: BTreeMap<u16, (u16, char)>,
}

impl Used {
    fn take(&mut self, glyph: &Glyph) -> u16 {
        let id = self.glyphs.remap(glyph.id);
        self.letters.entry(id).or_insert((glyph.advance, glyph.letter));
        id
    }
}

/// Writes the pages.
///
/// # Errors
/// When a font cannot be cut down to the letters that are used.
pub(crate) fn write(pages: &[Scene], fonts: &Fonts, title: &str, language: &str) -> Result<Vec<u8>, PdfError> {
    let (mut pdf, mut numbers) = (Pdf::new(), Numbers(0));
    let (catalog, tree, info) = (numbers.next(), numbers.next(), numbers.next());
    let font_refs = Weight::ALL.map(|weight| (weight, numbers.next()));
    let states = opacities(pages);
    let page_refs: Vec<(Ref, Ref)> = pages.iter().map(|_| (numbers.next(), numbers.next())).collect();
    pdf.catalog(catalog).pages(tree).lang(TextStr(language)).viewer_preferences().display_doc_title(true);
    pdf.document_info(info).title(TextStr(title));
    let count = i32::try_from(pages.len()).unwrap_or(i32::MAX);
    pdf.pages(tree).kids(page_refs.iter().map(|(page, _)| *page)).count(count);
    let mut used = [Used::default(), Used::default()];
    for (scene, (page_ref, content_ref)) in pages.iter().zip(&page_refs) {
        let mut page = pdf.page(*page_ref);
        page.parent(tree).media_box(Rect::new(0.0, 0.0, scene.width, scene.height)).contents(*content_ref);
        let mut resources = page.resources();
        let mut of_fonts = resources.fonts();
        for (weight, font) in font_refs {
            of_fonts.pair(Name(names(weight).0), font);
        }
        of_fonts.finish();
        let mut of_states = resources.ext_g_states();
        for percent in &states {
            let mut state = of_states
                .insert(Name(state_name(*percent).as_bytes()))
                .start::<pdf_writer::writers::ExtGraphicsState<'_>>();
            let opacity = f32::from(*percent) / 100.0;
            state.non_stroking_alpha(opacity).stroking_alpha(opacity);
        }
        of_states.finish();
        resources.finish();
        page.finish();
        let content = Drawing::of(scene, fonts, &mut used);
        pdf.stream(*content_ref, &packed(&content)).filter(Filter::FlateDecode);
    }
    for ((weight, font), used) in font_refs.into_iter().zip(&used) {
        embed(&mut pdf, &mut numbers, font, weight, fonts, used)?;
    }
    Ok(pdf.finish())
}

/// In percent; all but what hides everything.
fn opacities(pages: &[Scene]) -> Vec<u8> {
    let of = |shape: &Shape| match shape {
        Shape::Rectangle { fill, .. } | Shape::Polygon { fill, .. } | Shape::Disc { fill, .. } => percent(*fill),
        Shape::Frame { line, .. } | Shape::Line { line, .. } | Shape::Circle { line, .. } => percent(*line),
        Shape::Text(text) => percent(text.colour),
    };
    let mut all: Vec<u8> = pages.iter().flat_map(|page| &page.shapes).map(of).collect();
    all.push(100);
    all.sort_unstable();
    all.dedup();
    all
}

fn percent(colour: Colour) -> u8 {
    (colour.opacity.clamp(0.0, 1.0) * 100.0).round() as u8
}

fn state_name(percent: u8) -> String {
    format!("G{percent}")
}

fn packed(bytes: &[u8]) -> Vec<u8> {
    let mut packer = ZlibEncoder::new(Vec::new(), Compression::best());
    // Writing into memory cannot fail; were it to, the page would be empty rather than wrong.
    packer.write_all(bytes).and_then(|()| packer.finish()).unwrap_or_default()
}

/// One page while it is written.
struct Drawing<'a> {
    content: Content,
    fonts: &'a Fonts,
    used: &'a mut [Used; 2],
    fill: Option<[u8; 3]>,
    opacity: u8,
}

impl<'a> Drawing<'a> {
    fn of(scene: &Scene, fonts: &'a Fonts, used: &'a mut [Used; 2]) -> Vec<u8> {
        let mut drawing = Self { content: Content::new(), fonts, used, fill: None, opacity: 100 };
        // Downwards from the upper edge, as scenes count.
        drawing.content.transform([1.0, 0.0, 0.0, -1.0, 0.0, scene.height]);
        scene.shapes.iter().for_each(|shape| drawing.shape(shape));
        drawing.content.finish().to_vec()
    }

    fn opacity(&mut self, colour: Colour) {
        let percent = percent(colour);
        if self.opacity != percent {
            self.opacity = percent;
            self.content.set_parameters(Name(state_name(percent).as_bytes()));
        }
    }

    fn filled_with(&mut self, colour: Colour) {
        self.opacity(colour);
        if self.fill != Some(colour.rgb) {
            self.fill = Some(colour.rgb);
            let [red, green, blue] = colour.rgb.map(|part| short(f32::from(part) / 255.0));
            self.content.set_fill_rgb(red, green, blue);
        }
    }

    fn drawn_with(&mut self, colour: Colour, width: f32) {
        self.opacity(colour);
        let [red, green, blue] = colour.rgb.map(|part| short(f32::from(part) / 255.0));
        self.content.set_stroke_rgb(red, green, blue).set_line_width(short(width));
    }

    fn shape(&mut self, shape: &Shape) {
        match shape {
            Shape::Rectangle { x, y, width, height, fill } => {
                self.filled_with(*fill);
                self.content.rect(short(*x), short(*y), short(*width), short(*height)).fill_nonzero();
            }
            Shape::Frame { x, y, width, height, line } => {
                self.drawn_with(*line, 1.0);
                self.content.rect(short(*x), short(*y), short(*width), short(*height)).stroke();
            }
            Shape::Line { points, line, width } => {
                self.drawn_with(*line, *width);
                self.path(points);
                self.content.stroke();
            }
            Shape::Polygon { points, fill } => {
                self.filled_with(*fill);
                self.path(points);
                self.content.close_path().fill_nonzero();
            }
            Shape::Disc { middle, radius, fill } => {
                self.filled_with(*fill);
                self.round(*middle, *radius);
                self.content.fill_nonzero();
            }
            Shape::Circle { middle, radius, line, width } => {
                self.drawn_with(*line, *width);
                self.round(*middle, *radius);
                self.content.stroke();
            }
            Shape::Text(text) => self.text(text),
        }
    }

    fn path(&mut self, points: &[(f32, f32)]) {
        for (at, (x, y)) in points.iter().enumerate() {
            let (x, y) = (short(*x), short(*y));
            if at == 0 {
                self.content.move_to(x, y)
            } else {
                self.content.line_to(x, y)
            };
        }
    }

    fn round(&mut self, (x, y): (f32, f32), radius: f32) {
        let handle = radius * HANDLE;
        let at = |dx: f32, dy: f32| (short(x + dx), short(y + dy));
        let begin = at(radius, 0.0);
        self.content.move_to(begin.0, begin.1);
        // From one direction to the next, a quarter of a turn on.
        for [(ux, uy), (vx, vy)] in [[RIGHT, DOWN], [DOWN, LEFT], [LEFT, UP], [UP, RIGHT]] {
            let first = at(ux * radius + vx * handle, uy * radius + vy * handle);
            let second = at(vx * radius + ux * handle, vy * radius + uy * handle);
            let end = at(vx * radius, vy * radius);
            self.content.cubic_to(first.0, first.1, second.0, second.1, end.0, end.1);
        }
        self.content.close_path();
    }

    fn text(&mut self, text: &Text) {
        self.filled_with(text.colour);
        let glyphs = self.fonts.glyphs(&text.words, text.weight);
        let width = self.fonts.width(&text.words, text.weight, text.size);
        let back = match text.anchor {
            Anchor::Start => 0.0,
            Anchor::Middle => width / 2.0,
            Anchor::End => width,
        };
        // Letters stand upright although the page counts downwards.
        let matrix = match text.upwards {
            false => [1.0, 0.0, 0.0, -1.0, short(text.x - back), short(text.y)],
            true => [0.0, -1.0, -1.0, 0.0, short(text.x), short(text.y + back)],
        };
        // What the font lacks is shown as a box, but can still be copied and searched.
        let lacking = glyphs.iter().any(|glyph| glyph.id == 0);
        if lacking {
            let mut mark = self.content.begin_marked_content_with_properties(Name(b"Span"));
            mark.properties().actual_text(TextStr(&text.words));
        }
        let units = f32::from(self.fonts.face(text.weight).units_per_em());
        let used = &mut self.used[text.weight as usize];
        self.content.begin_text().set_font(Name(names(text.weight).0), short(text.size)).set_text_matrix(matrix);
        let mut shown = self.content.show_positioned();
        let mut items = shown.items();
        let mut run = Vec::new();
        for glyph in &glyphs {
            run.extend(used.take(glyph).to_be_bytes());
            if glyph.kerning != 0 {
                items.show(Str(&run)).adjust((-f32::from(glyph.kerning) * THOUSAND / units).round());
                run.clear();
            }
        }
        if !run.is_empty() {
            items.show(Str(&run));
        }
        items.finish();
        shown.finish();
        self.content.end_text();
        if lacking {
            self.content.end_marked_content();
        }
    }
}

/// Hundredths are fine enough for paper.
fn short(value: f32) -> f32 {
    (value * 100.0).round() / 100.0
}

/// Embeds a font as a composite font with the glyphs that are used.
fn embed(
    pdf: &mut Pdf,
    numbers: &mut Numbers,
    font: Ref,
    weight: Weight,
    fonts: &Fonts,
    used: &Used,
) -> Result<(), PdfError> {
    let (cid, descriptor, file, to_unicode) = (numbers.next(), numbers.next(), numbers.next(), numbers.next());
    let face = fonts.face(weight);
    let name = Name(names(weight).1.as_bytes());
    let scaled = |units: i16| f32::from(units) * THOUSAND / f32::from(face.units_per_em());
    pdf.type0_font(font)
        .base_font(name)
        .encoding_predefined(Name(b"Identity-H"))
        .descendant_font(cid)
        .to_unicode(to_unicode);
    let mut cid_font = pdf.cid_font(cid);
    cid_font.subtype(CidFontType::Type2).base_font(name).system_info(IDENTITY).font_descriptor(descriptor);
    cid_font.default_width(0.0).cid_to_gid_map_predefined(Name(b"Identity"));
    let mut widths = cid_font.widths();
    for (id, (advance, _)) in &used.letters {
        let width = f32::from(*advance) * THOUSAND / f32::from(face.units_per_em());
        widths.consecutive(*id, [short(width)]);
    }
    widths.finish();
    cid_font.finish();
    let bounds = face.global_bounding_box();
    pdf.font_descriptor(descriptor)
        .name(name)
        .flags(FontFlags::NON_SYMBOLIC)
        .bbox(Rect::new(scaled(bounds.x_min), scaled(bounds.y_min), scaled(bounds.x_max), scaled(bounds.y_max)))
        .italic_angle(0.0)
        .ascent(scaled(face.ascender()))
        .descent(scaled(face.descender()))
        .cap_height(scaled(face.capital_height().unwrap_or_else(|| face.ascender())))
        .stem_v(if weight == Weight::Regular { 80.0 } else { 110.0 })
        .font_file2(file);
    let subset = subsetter::subset(weight.file(), 0, &used.glyphs).map_err(|_| PdfError::Subset)?;
    pdf.stream(file, &packed(&subset)).filter(Filter::FlateDecode);
    let mut map = UnicodeCmap::new(name, IDENTITY);
    used.letters.iter().filter(|(id, _)| **id != 0).for_each(|(id, (_, letter))| map.pair(*id, *letter));
    pdf.cmap(to_unicode, &packed(&map.finish())).filter(Filter::FlateDecode);
    Ok(())
}

#[cfg(test)]
mod tests {
    use std::io::Read;

    use flate2::read::ZlibDecoder;
    use rstest::rstest;

    use super::*;

    const INK: Colour = Colour::solid(0x23, 0x26, 0x2a);

    fn page(words: &[&str]) -> Scene {
        let mut scene = Scene::new(595.0, 842.0);
        for (at, words) in words.iter().enumerate() {
            scene.text((56.0, 60.0 + 14.0 * at as f32), 10.0, Weight::Regular, INK, words);
        }
        scene
    }

    fn written(pages: &[Scene]) -> Vec<u8> {
        write(pages, &Fonts::read().unwrap(), "A report", "de").unwrap()
    }

    /// Every stream, unpacked.
    fn streams(pdf: &[u8]) -> Vec<Vec<u8>> {
        let find = |from: usize, what: &[u8]| {
            pdf[from..].windows(what.len()).position(|part| part == what).map(|at| from + at)
        };
        let (mut all, mut at) = (Vec::new(), 0);
        while let Some(begin) = find(at, b"\nstream\n") {
            let begin = begin + b"\nstream\n".len();
            let end = find(begin, b"\nendstream").unwrap();
            let mut bytes = Vec::new();
            ZlibDecoder::new(&pdf[begin..end]).read_to_end(&mut bytes).unwrap();
            all.push(bytes);
            at = end;
        }
        all
    }

    fn text_streams(pdf: &[u8]) -> String {
        streams(pdf).iter().map(|bytes| String::from_utf8_lossy(bytes).into_owned()).collect::<Vec<_>>().join("\n")
    }

    fn has(pdf: &[u8], words: &str) -> bool {
        pdf.windows(words.len()).any(|part| part == words.as_bytes())
    }

    #[rstest]
    #[case(1)]
    #[case(3)]
    fn pages_are_counted_and_named(#[case] count: usize) {
        let pdf = written(&vec![page(&["Memory report"]); count]);
        assert!(pdf.starts_with(b"%PDF-1.") && pdf.trim_ascii_end().ends_with(b"%%EOF"));
        assert!(has(&pdf, &format!("/Count {count}")) && has(&pdf, "/Lang (de)") && has(&pdf, "/Title (A report)"));
        // A content for each page; the fonts, and how their glyphs are read, once.
        assert_eq!(streams(&pdf).len(), count + 4);
    }

    /// Each letter that is used, and no other, can be copied out again.
    #[test]
    fn text_stays_text() {
        let map = text_streams(&written(&[page(&["B1 ü", "1B"])]));
        for letter in ["0042", "0031", "0020", "00FC"] {
            assert!(map.contains(&format!("<{letter}>")), "{letter}");
        }
        assert!(!map.contains("<0041>"), "a letter that is not used was embedded");
    }

    #[test]
    fn letters_that_the_font_lacks_can_still_be_copied() {
        assert!(text_streams(&written(&[page(&["\u{4e2d}"])])).contains("/ActualText"));
        assert!(!text_streams(&written(&[page(&["plain"])])).contains("/ActualText"));
    }

    #[test]
    fn every_shape_is_drawn_and_opacity_is_set_only_where_it_changes() {
        let half = Colour { opacity: 0.5, ..INK };
        let mut scene = Scene::new(100.0, 100.0);
        scene.rectangle((1.0, 2.0), (3.0, 4.004), INK);
        scene.rectangle((1.0, 2.0), (3.0, 4.0), half);
        scene.add(Shape::Frame { x: 0.0, y: 0.0, width: 9.0, height: 9.0, line: half });
        scene.add(Shape::Line { points: vec![(0.0, 0.0), (1.5, 2.0)], line: INK, width: 2.0 });
        scene.add(Shape::Polygon { points: vec![(0.0, 0.0), (1.0, 2.0), (3.0, 1.0)], fill: INK });
        scene.add(Shape::Disc { middle: (5.0, 5.0), radius: 4.0, fill: INK });
        scene.add(Shape::Circle { middle: (5.0, 5.0), radius: 4.0, line: INK, width: 1.0 });
        let pdf = written(&[scene]);
        let content = String::from_utf8(streams(&pdf).swap_remove(0)).unwrap();
        assert!(content.contains("1 2 3 4 re\nf"), "hundredths are fine enough: {content}");
        assert_eq!(content.matches("/G50 gs").count(), 1);
        assert_eq!(content.matches("/G100 gs").count(), 1);
        assert!(has(&pdf, "/ca 0.5") && has(&pdf, "/CA 0.5"));
        assert_eq!(content.matches(" c\n").count(), 8, "two circles of four quarters: {content}");
        assert!(content.contains("1.5 2 l") && content.contains("2 w"));
    }

    #[test]
    fn turned_and_anchored_text_stands_where_it_should() {
        let text = |anchor, upwards| {
            let mut scene = Scene::new(100.0, 100.0);
            let (weight, words) = (Weight::Semibold, "00".to_owned());
            scene.add(Shape::Text(Text { x: 50.0, y: 40.0, size: 10.0, weight, colour: INK, anchor, upwards, words }));
            String::from_utf8(streams(&written(&[scene])).swap_remove(0)).unwrap()
        };
        let width = Fonts::read().unwrap().width("00", Weight::Semibold, 10.0);
        assert!(text(Anchor::Start, false).contains("1 0 0 -1 50 40 Tm"));
        assert!(text(Anchor::End, false).contains(&format!("1 0 0 -1 {} 40 Tm", short(50.0 - width))));
        assert!(text(Anchor::Middle, true).contains(&format!("0 -1 -1 0 50 {} Tm", short(40.0 + width / 2.0))));
    }

    #[test]
    fn the_same_pages_give_the_same_bytes() {
        assert_eq!(written(&[page(&["To be the same"])]), written(&[page(&["To be the same"])]));
    }
}
