//! Pictures encoded anew: turned upright, made small enough, and without anything that the camera wrote beside the
//! picture, its place above all.

use crate::Problem;
use image::codecs::jpeg::JpegEncoder;
use image::imageops::FilterType;
use image::{DynamicImage, ImageDecoder, ImageReader, Limits};
use mopsel_core::gate::MOST_PICTURE_BYTES;
use mopsel_core::message::count;
use mopsel_core::{Refusal, refuse};
use std::io::Cursor;

/// The most bytes that are read of one.
pub const LIMIT: usize = 16 * 1024 * 1024;
/// The most pixels on a side: no camera of a phone makes more.
const MOST_SIDE: u32 = 12_000;
/// The most pixels in all; a bomb of more is not unpacked.
const MOST_PIXELS: u64 = 60_000_000;
/// What unpacking may take, in bytes. One picture is unpacked at a time.
const MOST_MEMORY: u64 = 300 * 1024 * 1024;
/// The long side as it is kept, then smaller where that is not small enough.
const SIDES: [u32; 3] = [1280, 960, 640];
const QUALITIES: [u8; 3] = [82, 70, 55];
/// The long side of the small one.
const SMALL: u32 = 320;

/// A picture as it is kept.
#[derive(Debug)]
pub struct Encoded {
    /// JPEG, at most 400 kB.
    pub image: Vec<u8>,
    /// The same, small.
    pub small: Vec<u8>,
    /// In pixels.
    pub width: u32,
    /// In pixels.
    pub height: u32,
}

/// Whether bytes are a JPEG as it is kept here: one that can be read, with nothing beside the picture but what is needed to
/// draw it. What a camera writes (its place, its owner) stands in other segments.
#[must_use]
pub fn is_plain_jpeg(bytes: &[u8]) -> bool {
    let mut at = 2;
    if !bytes.starts_with(&[0xff, 0xd8]) {
        return false;
    }
    while let Some([0xff, marker, high, low]) = bytes.get(at..at + 4) {
        match marker {
            // Frames, tables, restart intervals, and the header that names the format.
            0xc0..=0xcf | 0xdb | 0xdd | 0xe0 => at += 2 + usize::from(u16::from_be_bytes([*high, *low])),
            0xda => return read(bytes).is_ok(),
            _ => return false,
        }
    }
    false
}

/// Encodes a picture anew. What it is told by its bytes, never by its name.
///
/// # Errors
/// A refusal for what is no picture, is cut off, or is too large to unpack.
pub fn encode(bytes: &[u8]) -> Result<Encoded, Problem> {
    let picture = read(bytes)?;
    let small = jpeg(&shrunk(&picture, SMALL), QUALITIES[1])?;
    let tries = SIDES.iter().flat_map(|side| QUALITIES.map(|quality| (*side, quality)));
    let mut kept = None;
    for (side, quality) in tries {
        let fitted = shrunk(&picture, side);
        let image = jpeg(&fitted, quality)?;
        let fits = image.len() <= MOST_PICTURE_BYTES;
        kept = Some(Encoded { image, small: small.clone(), width: fitted.width(), height: fitted.height() });
        if fits {
            break;
        }
    }
    // The last of them is 640 pixels at a low quality: about 100 kB of pure noise.
    kept.ok_or_else(|| no_picture(bytes.len()).into())
}

fn read(bytes: &[u8]) -> Result<DynamicImage, Problem> {
    let mut reader = ImageReader::new(Cursor::new(bytes)).with_guessed_format().map_err(|_| no_picture(bytes.len()))?;
    let mut limits = Limits::default();
    limits.max_alloc = Some(MOST_MEMORY);
    reader.limits(limits);
    let mut decoder = reader.into_decoder().map_err(|_| no_picture(bytes.len()))?;
    let (width, height) = decoder.dimensions();
    if width > MOST_SIDE || height > MOST_SIDE || u64::from(width) * u64::from(height) > MOST_PIXELS {
        let refusal =
            refuse!("picture_dimensions", width = count(width), height = count(height), most = count(MOST_SIDE));
        return Err(refusal.at("body").into());
    }
    let turned = decoder.orientation().map_err(|_| no_picture(bytes.len()))?;
    let picture = DynamicImage::from_decoder(decoder).map_err(|_| no_picture(bytes.len()))?;
    // At once to what is needed of it, by a way that wants no second picture of that size: a camera's fifty million
    // pixels are kept no longer than they are read.
    let mut picture = if picture.width().max(picture.height()) > 2 * SIDES[0] {
        picture.thumbnail(2 * SIDES[0], 2 * SIDES[0])
    } else {
        picture
    };
    picture.apply_orientation(turned);
    Ok(picture)
}

/// That so many bytes are no picture.
pub fn no_picture(bytes: usize) -> Refusal {
    refuse!("not_a_picture", size = count(u32::try_from(bytes).unwrap_or(u32::MAX))).at("body")
}

fn shrunk(picture: &DynamicImage, side: u32) -> DynamicImage {
    if picture.width().max(picture.height()) <= side {
        return picture.clone();
    }
    picture.resize(side, side, FilterType::Triangle)
}

/// As JPEG on white, for what shines through.
fn jpeg(picture: &DynamicImage, quality: u8) -> Result<Vec<u8>, Problem> {
    let mut bytes = Vec::new();
    let flat = if picture.color().has_alpha() { on_white(picture) } else { picture.to_rgb8() };
    let encoder = JpegEncoder::new_with_quality(&mut bytes, quality);
    flat.write_with_encoder(encoder).map_err(|_| Problem::from(no_picture(0)))?;
    Ok(bytes)
}

fn on_white(picture: &DynamicImage) -> image::RgbImage {
    let rgba = picture.to_rgba8();
    image::RgbImage::from_fn(rgba.width(), rgba.height(), |x, y| {
        let [r, g, b, a] = rgba.get_pixel(x, y).0;
        let over = |c: u8| ((u32::from(c) * u32::from(a) + 255 * (255 - u32::from(a))) / 255) as u8;
        image::Rgb([over(r), over(g), over(b)])
    })
}
