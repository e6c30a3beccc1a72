//! Charts are laid out by `plotters`; what it would draw becomes shapes of a scene.

use std::convert::Infallible;

use plotters::style::RGBColor;
use plotters_backend::text_anchor::{HPos, VPos};
use plotters_backend::{
    BackendColor, BackendCoord, BackendStyle, BackendTextStyle, DrawingBackend, DrawingErrorKind, FontTransform,
};

use crate::fonts::{Fonts, Weight};
use crate::scene::{Anchor, Colour, Scene, Shape, Text};

/// Name of our font, as charts ask for it; there is no other.
pub(crate) const FONT: &str = "Open Sans";
/// The library counts a font's size from the lowest to the highest point of its letters.
const SIZE_OF_FONT: f64 = 1.24;
/// Height of capitals over the size of the font: text hung by its top has its base line here.
const CAPITALS: f32 = 0.76;
/// Half the height of small letters over the size of the font.
const HALF_SMALL: f32 = 0.27;

/// The colour as the library wants it.
pub(crate) fn ink(colour: Colour) -> RGBColor {
    RGBColor(colour.rgb[0], colour.rgb[1], colour.rgb[2])
}

/// Where charts are drawn.
pub(crate) struct Ground<'a> {
    pub scene: &'a mut Scene,
    pub fonts: &'a Fonts,
}

type Drawn = Result<(), DrawingErrorKind<Infallible>>;

fn colour(colour: BackendColor) -> Colour {
    Colour { rgb: [colour.rgb.0, colour.rgb.1, colour.rgb.2], opacity: colour.alpha as f32 }
}

fn point((x, y): BackendCoord) -> (f32, f32) {
    (x as f32, y as f32)
}

fn is_seen<S: BackendStyle>(style: &S) -> bool {
    style.color().alpha > 0.0
}

impl DrawingBackend for Ground<'_> {
    type ErrorType = Infallible;

    fn get_size(&self) -> (u32, u32) {
        (self.scene.width as u32, self.scene.height as u32)
    }

    fn ensure_prepared(&mut self) -> Drawn {
        Ok(())
    }

    fn present(&mut self) -> Drawn {
        Ok(())
    }

    fn draw_pixel(&mut self, at: BackendCoord, fill: BackendColor) -> Drawn {
        if fill.alpha > 0.0 {
            self.scene.rectangle(point(at), (1.0, 1.0), colour(fill));
        }
        Ok(())
    }

    fn draw_line<S: BackendStyle>(&mut self, from: BackendCoord, to: BackendCoord, style: &S) -> Drawn {
        self.draw_path([from, to], style)
    }

    fn draw_rect<S: BackendStyle>(&mut self, from: BackendCoord, to: BackendCoord, style: &S, fill: bool) -> Drawn {
        if is_seen(style) {
            let ((x, y), (right, bottom)) = (point(from), point(to));
            let (width, height) = (right - x, bottom - y);
            self.scene.add(match fill {
                true => Shape::Rectangle { x, y, width, height, fill: colour(style.color()) },
                false => Shape::Frame { x, y, width, height, line: colour(style.color()) },
            });
        }
        Ok(())
    }

    fn draw_path<S: BackendStyle, I: IntoIterator<Item = BackendCoord>>(&mut self, path: I, style: &S) -> Drawn {
        if is_seen(style) {
            let points = path.into_iter().map(point).collect();
            self.scene.add(Shape::Line { points, line: colour(style.color()), width: style.stroke_width() as f32 });
        }
        Ok(())
    }

    fn draw_circle<S: BackendStyle>(&mut self, middle: BackendCoord, radius: u32, style: &S, fill: bool) -> Drawn {
        if is_seen(style) {
            let (middle, radius, colour) = (point(middle), radius as f32, colour(style.color()));
            self.scene.add(match fill {
                true => Shape::Disc { middle, radius, fill: colour },
                false => Shape::Circle { middle, radius, line: colour, width: style.stroke_width() as f32 },
            });
        }
        Ok(())
    }

    fn fill_polygon<S: BackendStyle, I: IntoIterator<Item = BackendCoord>>(&mut self, corners: I, style: &S) -> Drawn {
        if is_seen(style) {
            let points = corners.into_iter().map(point).collect();
            self.scene.add(Shape::Polygon { points, fill: colour(style.color()) });
        }
        Ok(())
    }

    fn draw_text<S: BackendTextStyle>(&mut self, words: &str, style: &S, at: BackendCoord) -> Drawn {
        let size = (style.size() / SIZE_OF_FONT) as f32;
        let down = size
            * match style.anchor().v_pos {
                VPos::Top => CAPITALS,
                VPos::Center => HALF_SMALL,
                VPos::Bottom => -HALF_SMALL,
            };
        let anchor = match style.anchor().h_pos {
            HPos::Left => Anchor::Start,
            HPos::Center => Anchor::Middle,
            HPos::Right => Anchor::End,
        };
        let upwards = matches!(style.transform(), FontTransform::Rotate270);
        let (x, y) = point(at);
        let (x, y) = if upwards { (x + down, y) } else { (x, y + down) };
        let (weight, colour, words) = (Weight::Regular, colour(style.color()), words.to_owned());
        self.scene.add(Shape::Text(Text { x, y, size, weight, colour, anchor, upwards, words }));
        Ok(())
    }

    fn estimate_text_size<S: BackendTextStyle>(
        &self,
        words: &str,
        style: &S,
    ) -> Result<(u32, u32), DrawingErrorKind<Self::ErrorType>> {
        let size = (style.size() / SIZE_OF_FONT) as f32;
        let (width, height) =
            (self.fonts.width(words, Weight::Regular, size).ceil() as u32, style.size().ceil() as u32);
        let turned = matches!(style.transform(), FontTransform::Rotate90 | FontTransform::Rotate270);
        Ok(if turned { (height, width) } else { (width, height) })
    }
}

#[cfg(test)]
mod tests {
    use plotters::prelude::*;
    use rstest::rstest;

    use super::*;

    fn drawn(draw: impl FnOnce(&DrawingArea<Ground<'_>, plotters::coord::Shift>)) -> Vec<Shape> {
        let (mut scene, fonts) = (Scene::new(100.0, 80.0), Fonts::read().unwrap());
        draw(&Ground { scene: &mut scene, fonts: &fonts }.into_drawing_area());
        scene.shapes
    }

    const RED: RGBColor = RGBColor(200, 0, 0);
    const OURS: Colour = Colour::solid(200, 0, 0);

    #[test]
    fn shapes_come_through_with_their_places_and_colours() {
        let shapes = drawn(|area| {
            area.draw(&Rectangle::new([(1, 2), (4, 6)], RED.filled())).unwrap();
            area.draw(&Rectangle::new([(1, 2), (4, 6)], RED)).unwrap();
            area.draw(&PathElement::new(vec![(0, 0), (5, 5)], Color::stroke_width(&RED, 3))).unwrap();
            area.draw(&Circle::new((9, 9), 4, RED.filled())).unwrap();
            area.draw(&Circle::new((9, 9), 4, Color::stroke_width(&RED, 2))).unwrap();
            area.draw(&Polygon::new(vec![(0, 0), (1, 0), (0, 1)], RED.mix(0.5))).unwrap();
            area.draw_pixel((7, 8), &RED).unwrap();
        });
        let half = Colour { opacity: 0.5, ..OURS };
        let expected = [
            Shape::Rectangle { x: 1.0, y: 2.0, width: 3.0, height: 4.0, fill: OURS },
            Shape::Frame { x: 1.0, y: 2.0, width: 3.0, height: 4.0, line: OURS },
            Shape::Line { points: vec![(0.0, 0.0), (5.0, 5.0)], line: OURS, width: 3.0 },
            Shape::Disc { middle: (9.0, 9.0), radius: 4.0, fill: OURS },
            Shape::Circle { middle: (9.0, 9.0), radius: 4.0, line: OURS, width: 2.0 },
            Shape::Polygon { points: vec![(0.0, 0.0), (1.0, 0.0), (0.0, 1.0)], fill: half },
            Shape::Rectangle { x: 7.0, y: 8.0, width: 1.0, height: 1.0, fill: OURS },
        ];
        assert_eq!(shapes, expected);
    }

    #[test]
    fn what_cannot_be_seen_is_left_out() {
        let shapes = drawn(|area| {
            area.draw(&Rectangle::new([(1, 2), (4, 6)], TRANSPARENT.filled())).unwrap();
            area.draw(&PathElement::new(vec![(0, 0), (5, 5)], TRANSPARENT)).unwrap();
            area.draw(&Circle::new((9, 9), 4, TRANSPARENT.filled())).unwrap();
        });
        assert!(shapes.is_empty(), "{shapes:?}");
    }

    #[rstest]
    #[case(FontTransform::None, HPos::Left, false, Anchor::Start)]
    #[case(FontTransform::None, HPos::Right, false, Anchor::End)]
    #[case(FontTransform::Rotate270, HPos::Center, true, Anchor::Middle)]
    fn text_keeps_its_anchor_and_its_turn(
        #[case] turn: FontTransform,
        #[case] anchor: HPos,
        #[case] upwards: bool,
        #[case] expected: Anchor,
    ) {
        let pos = plotters::style::text_anchor::Pos::new(anchor, VPos::Top);
        let style = TextStyle::from((FONT, 17).into_font().transform(turn)).color(&RED).pos(pos);
        let shapes = drawn(|area| area.draw(&plotters::element::Text::new("GB/s", (50, 40), style)).unwrap());
        let [Shape::Text(text)] = &shapes[..] else { panic!("{shapes:?}") };
        assert_eq!((text.words.as_str(), text.upwards, text.anchor, text.colour), ("GB/s", upwards, expected, OURS));
        // Hung by its top: the base line lies below, or to the right where it runs upwards.
        assert_eq!((text.x > 50.0, text.y > 40.0), (upwards, !upwards));
    }
}
