//! A scene as an SVG document (Scalable Vector Graphics 1.1, W3C).

use svg::Document;
use svg::node::element::{Circle, Polygon, Polyline, Rectangle, Text as Words};

use crate::fonts::Weight;
use crate::scene::{Anchor, Colour, Scene, Shape, Text};

/// The scene as SVG. Text keeps to the document's sans-serif font where ours is not installed.
pub fn svg(scene: &Scene) -> String {
    let document = Document::new()
        .set("viewBox", (0, 0, scene.width, scene.height))
        .set("width", scene.width)
        .set("height", scene.height)
        .set("font-family", "Open Sans, sans-serif");
    scene.shapes.iter().fold(document, add).to_string()
}

fn add(document: Document, shape: &Shape) -> Document {
    match shape {
        Shape::Rectangle { x, y, width, height, fill } => {
            let node = Rectangle::new().set("x", *x).set("y", *y).set("width", *width).set("height", *height);
            document.add(node.set("fill", hex(*fill)).set("fill-opacity", fill.opacity))
        }
        Shape::Frame { x, y, width, height, line } => {
            let node = Rectangle::new().set("x", *x).set("y", *y).set("width", *width).set("height", *height);
            document.add(node.set("fill", "none").set("stroke", hex(*line)).set("stroke-opacity", line.opacity))
        }
        Shape::Line { points, line, width } => {
            let node = Polyline::new().set("points", list(points)).set("fill", "none").set("stroke-width", *width);
            document.add(node.set("stroke", hex(*line)).set("stroke-opacity", line.opacity))
        }
        Shape::Polygon { points, fill } => {
            let node = Polygon::new().set("points", list(points)).set("fill", hex(*fill));
            document.add(node.set("fill-opacity", fill.opacity))
        }
        Shape::Disc { middle, radius, fill } => {
            let node = Circle::new().set("cx", middle.0).set("cy", middle.1).set("r", *radius);
            document.add(node.set("fill", hex(*fill)).set("fill-opacity", fill.opacity))
        }
        Shape::Circle { middle, radius, line, width } => {
            let node = Circle::new().set("cx", middle.0).set("cy", middle.1).set("r", *radius).set("fill", "none");
            document.add(node.set("stroke", hex(*line)).set("stroke-width", *width))
        }
        Shape::Text(text) => document.add(words(text)),
    }
}

fn words(text: &Text) -> Words {
    let anchor = match text.anchor {
        Anchor::Start => "start",
        Anchor::Middle => "middle",
        Anchor::End => "end",
    };
    let mut node = Words::new(text.words.as_str())
        .set("x", text.x)
        .set("y", text.y)
        .set("font-size", text.size)
        .set("text-anchor", anchor)
        .set("fill", hex(text.colour));
    if text.weight == Weight::Semibold {
        node = node.set("font-weight", 600);
    }
    if text.upwards {
        node = node.set("transform", format!("rotate(-90 {} {})", text.x, text.y));
    }
    node
}

fn hex(colour: Colour) -> String {
    let [red, green, blue] = colour.rgb;
    format!("#{red:02x}{green:02x}{blue:02x}")
}

fn list(points: &[(f32, f32)]) -> String {
    points.iter().map(|(x, y)| format!("{x},{y}")).collect::<Vec<_>>().join(" ")
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Every kind of shape, with text that would break a document if it were let through as it is.
    #[test]
    fn every_shape_is_written_and_text_cannot_break_the_document() {
        let (ink, half) = (Colour::solid(1, 2, 255), Colour { rgb: [9, 9, 9], opacity: 0.5 });
        let mut scene = Scene::new(100.0, 50.5);
        scene.rectangle((1.0, 2.0), (3.0, 4.0), half);
        scene.add(Shape::Frame { x: 0.0, y: 0.0, width: 9.0, height: 9.0, line: ink });
        scene.add(Shape::Line { points: vec![(0.0, 0.0), (1.5, 2.0)], line: ink, width: 2.0 });
        scene.add(Shape::Polygon { points: vec![(0.0, 0.0), (1.0, 2.0), (3.0, 1.0)], fill: ink });
        scene.add(Shape::Disc { middle: (5.0, 5.0), radius: 4.0, fill: ink });
        scene.add(Shape::Circle { middle: (5.0, 5.0), radius: 4.0, line: ink, width: 2.0 });
        scene.text((7.0, 8.0), 12.0, Weight::Semibold, ink, "<b>&\"'");
        let (anchor, words) = (Anchor::End, "up".to_owned());
        let size = 9.0;
        scene.add(Shape::Text(Text {
            x: 1.0,
            y: 2.0,
            size,
            weight: Weight::Regular,
            colour: ink,
            anchor,
            upwards: true,
            words,
        }));
        let written = svg(&scene);
        let read = roxmltree::Document::parse(&written).unwrap();
        let names: Vec<&str> =
            read.root_element().children().filter(|n| n.is_element()).map(|n| n.tag_name().name()).collect();
        assert_eq!(names, ["rect", "rect", "polyline", "polygon", "circle", "circle", "text", "text"]);
        let texts: Vec<_> = read.descendants().filter(|n| n.has_tag_name("text")).collect();
        assert_eq!(texts[0].text().map(str::trim), Some("<b>&\"'"));
        assert_eq!(texts[0].attribute("font-weight"), Some("600"));
        assert_eq!(texts[1].attribute("transform"), Some("rotate(-90 1 2)"));
        assert_eq!(texts[1].attribute("text-anchor"), Some("end"));
        let first = read.descendants().find(|n| n.has_tag_name("rect")).unwrap();
        assert_eq!(first.attribute("fill-opacity"), Some("0.5"));
        assert_eq!(first.attribute("fill"), Some("#090909"));
    }
}
