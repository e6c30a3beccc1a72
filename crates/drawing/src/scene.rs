//! A drawing as shapes and text, in the order in which they are painted. Coordinates are points of the drawing's own size, from its
//! top left corner, to the right and downwards.

use std::borrow::Cow;

use revisum_engine::text::shown;

use crate::fonts::Weight;

/// A colour, and how much of what lies under it it hides.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Colour {
    /// Red, green and blue, 0 to 255.
    pub rgb: [u8; 3],
    /// 0 to 1; 1 hides everything.
    pub opacity: f32,
}

impl Colour {
    /// One that hides everything under it.
    pub const fn solid(red: u8, green: u8, blue: u8) -> Self {
        Self { rgb: [red, green, blue], opacity: 1.0 }
    }
}

/// Which point of a text lies at its place.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Anchor {
    /// Its beginning.
    #[default]
    Start,
    /// Its middle.
    Middle,
    /// Its end.
    End,
}

/// One line of text.
#[derive(Clone, Debug, PartialEq)]
pub struct Text {
    /// Place across.
    pub x: f32,
    /// Place of the base line.
    pub y: f32,
    /// Size of the font.
    pub size: f32,
    /// Weight of the font.
    pub weight: Weight,
    /// Colour.
    pub colour: Colour,
    /// Which point lies at the place.
    pub anchor: Anchor,
    /// It runs upwards, a quarter of a turn to the left.
    pub upwards: bool,
    /// The text.
    pub words: String,
}

/// Something in a drawing.
#[derive(Clone, Debug, PartialEq)]
pub enum Shape {
    /// A filled rectangle.
    Rectangle {
        /// Left edge.
        x: f32,
        /// Upper edge.
        y: f32,
        /// Width.
        width: f32,
        /// Height.
        height: f32,
        /// Fill.
        fill: Colour,
    },
    /// The outline of a rectangle.
    Frame {
        /// Left edge.
        x: f32,
        /// Upper edge.
        y: f32,
        /// Width.
        width: f32,
        /// Height.
        height: f32,
        /// Line.
        line: Colour,
    },
    /// Points joined by straight lines.
    Line {
        /// The points.
        points: Vec<(f32, f32)>,
        /// Line.
        line: Colour,
        /// Its width.
        width: f32,
    },
    /// A filled polygon.
    Polygon {
        /// Its corners.
        points: Vec<(f32, f32)>,
        /// Fill.
        fill: Colour,
    },
    /// A filled circle.
    Disc {
        /// Middle.
        middle: (f32, f32),
        /// Radius.
        radius: f32,
        /// Fill.
        fill: Colour,
    },
    /// The outline of a circle.
    Circle {
        /// Middle.
        middle: (f32, f32),
        /// Radius.
        radius: f32,
        /// Line.
        line: Colour,
        /// Width of the line.
        width: f32,
    },
    /// Text.
    Text(Text),
}

/// A drawing.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Scene {
    /// Width.
    pub width: f32,
    /// Height.
    pub height: f32,
    /// What is in it; what comes later lies on top.
    pub shapes: Vec<Shape>,
}

impl Scene {
    /// An empty drawing of this size.
    pub fn new(width: f32, height: f32) -> Self {
        Self { width, height, shapes: Vec::new() }
    }

    /// Adds one. Of text only what can be shown.
    pub fn add(&mut self, mut shape: Shape) {
        if let Shape::Text(text) = &mut shape
            && let Cow::Owned(words) = shown(&text.words)
        {
            text.words = words;
        }
        self.shapes.push(shape);
    }

    /// Adds a filled rectangle.
    pub fn rectangle(&mut self, (x, y): (f32, f32), (width, height): (f32, f32), fill: Colour) {
        self.add(Shape::Rectangle { x, y, width, height, fill });
    }

    /// Adds a line of text that begins at its place.
    pub fn text(&mut self, (x, y): (f32, f32), size: f32, weight: Weight, colour: Colour, words: &str) {
        let (anchor, upwards, words) = (Anchor::Start, false, words.to_owned());
        self.add(Shape::Text(Text { x, y, size, weight, colour, anchor, upwards, words }));
    }

    /// Adds another drawing with its upper left corner here, so many times as large.
    pub fn place(&mut self, other: &Self, (left, top): (f32, f32), scale: f32) {
        let point = |(x, y): (f32, f32)| (left + x * scale, top + y * scale);
        let moved = other.shapes.iter().cloned().map(|mut shape| {
            match &mut shape {
                Shape::Rectangle { x, y, width, height, .. } | Shape::Frame { x, y, width, height, .. } => {
                    ((*x, *y), *width, *height) = (point((*x, *y)), *width * scale, *height * scale);
                }
                Shape::Line { points, width, .. } => {
                    points.iter_mut().for_each(|at| *at = point(*at));
                    *width *= scale;
                }
                Shape::Polygon { points, .. } => points.iter_mut().for_each(|at| *at = point(*at)),
                Shape::Disc { middle, radius, .. } => (*middle, *radius) = (point(*middle), *radius * scale),
                Shape::Circle { middle, radius, width, .. } => {
                    (*middle, *radius, *width) = (point(*middle), *radius * scale, *width * scale);
                }
                Shape::Text(text) => ((text.x, text.y), text.size) = (point((text.x, text.y)), text.size * scale),
            }
            shape
        });
        self.shapes.extend(moved);
    }

    /// All lines of text in it.
    pub fn texts(&self) -> impl Iterator<Item = &Text> {
        self.shapes.iter().filter_map(|shape| match shape {
            Shape::Text(text) => Some(text),
            _ => None,
        })
    }

    /// Whether some line of text in it holds these words.
    pub fn says(&self, words: &str) -> bool {
        self.texts().any(|text| text.words.contains(words))
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    const INK: Colour = Colour::solid(0, 0, 0);

    fn text(x: f32, y: f32, size: f32) -> Shape {
        let (weight, anchor, words) = (Weight::Regular, Anchor::End, "A1".to_owned());
        Shape::Text(Text { x, y, size, weight, colour: INK, anchor, upwards: false, words })
    }

    #[rstest]
    #[case(
        Shape::Rectangle { x: 1.0, y: 2.0, width: 3.0, height: 4.0, fill: INK },
        Shape::Rectangle { x: 12.0, y: 24.0, width: 6.0, height: 8.0, fill: INK }
    )]
    #[case(
        Shape::Frame { x: 1.0, y: 2.0, width: 3.0, height: 4.0, line: INK },
        Shape::Frame { x: 12.0, y: 24.0, width: 6.0, height: 8.0, line: INK }
    )]
    #[case(
        Shape::Line { points: vec![(0.0, 0.0), (1.0, 1.0)], line: INK, width: 1.5 },
        Shape::Line { points: vec![(10.0, 20.0), (12.0, 22.0)], line: INK, width: 3.0 }
    )]
    #[case(
        Shape::Polygon { points: vec![(0.0, 1.0)], fill: INK },
        Shape::Polygon { points: vec![(10.0, 22.0)], fill: INK }
    )]
    #[case(
        Shape::Disc { middle: (1.0, 1.0), radius: 2.0, fill: INK },
        Shape::Disc { middle: (12.0, 22.0), radius: 4.0, fill: INK }
    )]
    #[case(
        Shape::Circle { middle: (1.0, 1.0), radius: 2.0, line: INK, width: 0.5 },
        Shape::Circle { middle: (12.0, 22.0), radius: 4.0, line: INK, width: 1.0 }
    )]
    #[case(text(1.0, 2.0, 9.0), text(12.0, 24.0, 18.0))]
    fn a_placed_drawing_is_moved_and_scaled(#[case] shape: Shape, #[case] expected: Shape) {
        let (mut inner, mut outer) = (Scene::new(5.0, 5.0), Scene::new(100.0, 100.0));
        inner.add(shape);
        outer.place(&inner, (10.0, 20.0), 2.0);
        assert_eq!(outer.shapes, [expected]);
        assert_eq!((outer.width, outer.height), (100.0, 100.0));
    }

    #[test]
    fn words_are_found_in_any_line() {
        let mut scene = Scene::new(10.0, 10.0);
        scene.text((0.0, 0.0), 9.0, Weight::Semibold, INK, "2 errors in B1");
        scene.rectangle((0.0, 0.0), (1.0, 1.0), INK);
        assert!(scene.says("errors") && !scene.says("clean"));
        assert_eq!(scene.texts().count(), 1);
    }
}
