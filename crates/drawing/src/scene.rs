//! A drawing as shapes and text, in the order in which they are painted. Coordinates are points of the drawing's own size, from its
//! top left corner, to the right and downwards.

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

    /// Adds one.
    pub fn add(&mut self, shape: Shape) {
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
