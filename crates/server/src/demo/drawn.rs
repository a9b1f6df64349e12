//! Pictures for the demo, drawn here: a bean plant, its lowest leaves greener or yellower.

use crate::picture::encode;
use image::{DynamicImage, ImageFormat, Rgb, RgbImage};
use std::io::Cursor;

const PAPER: [f64; 3] = [236.0, 234.0, 226.0];
const GREEN: [f64; 3] = [74.0, 124.0, 66.0];
const YELLOW: [f64; 3] = [214.0, 190.0, 84.0];
const BROWN: [f64; 3] = [96.0, 74.0, 54.0];

/// A leaf: where it is, how it lies, how long, and whether it is one of the lowest.
const LEAVES: [(f64, f64, f64, f64, bool); 8] = [
    (250.0, 330.0, 0.15, 120.0, true),
    (390.0, 330.0, -0.15, 120.0, true),
    (235.0, 265.0, 0.35, 110.0, true),
    (405.0, 262.0, -0.35, 110.0, false),
    (255.0, 195.0, 0.6, 95.0, false),
    (385.0, 195.0, -0.6, 95.0, false),
    (285.0, 130.0, 0.95, 78.0, false),
    (355.0, 130.0, -0.95, 78.0, false),
];

fn mixed(a: [f64; 3], b: [f64; 3], share: f64) -> [f64; 3] {
    [0, 1, 2].map(|i| a[i] + (b[i] - a[i]) * share)
}

/// How yellow a point of a leaf is; `None` off the leaf. The tip goes first.
fn on_leaf(x: f64, y: f64, leaf: &(f64, f64, f64, f64, bool)) -> Option<(f64, f64)> {
    let (cx, cy, turn, long, _) = *leaf;
    let (dx, dy) = (x - cx, y - cy);
    let (along, across) = (dx * turn.cos() - dy * turn.sin(), dx * turn.sin() + dy * turn.cos());
    let wide = long * 0.3 * (1.0 - (along / (long * 0.6)).powi(2)).max(0.0).sqrt();
    (across.abs() <= wide && along.abs() <= long * 0.6).then_some((along / long, across))
}

fn colour(x: f64, y: f64, yellow: f64) -> [f64; 3] {
    for leaf in &LEAVES {
        if let Some((along, across)) = on_leaf(x, y, leaf) {
            let vein = if across.abs() < 1.6 { 0.25 } else { 0.0 };
            let share = if leaf.4 { (yellow + along.abs() * 0.3).min(1.0) } else { 0.04 };
            return mixed(mixed(GREEN, YELLOW, share), PAPER, vein);
        }
    }
    let stem = (x - 320.0).abs() < 5.0 && (110.0..400.0).contains(&y);
    let tray = y > 400.0;
    match (stem, tray) {
        (true, _) => mixed(GREEN, BROWN, 0.3),
        (_, true) => mixed(BROWN, PAPER, if y > 408.0 { 0.25 } else { 0.0 }),
        _ => mixed(PAPER, [200.0, 205.0, 204.0], y / 960.0),
    }
}

/// A bean plant, encoded as a picture from a phone would be: 0 all green, 1 its lowest leaves yellow.
///
/// # Errors
/// Never for what is drawn here.
pub fn beans(yellow: f64) -> Option<crate::picture::Encoded> {
    let drawn = RgbImage::from_fn(640, 480, |x, y| {
        let grain = f64::from((x * 7919 + y * 104_729) % 17) - 8.0;
        let [r, g, b] = colour(f64::from(x), f64::from(y), yellow).map(|c| (c + grain * 0.5).clamp(0.0, 255.0) as u8);
        Rgb([r, g, b])
    });
    let mut png = Cursor::new(Vec::new());
    DynamicImage::ImageRgb8(drawn).write_to(&mut png, ImageFormat::Png).ok()?;
    encode(png.get_ref()).ok()
}
