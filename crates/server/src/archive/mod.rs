//! Everything out and in, as one archive of open formats.
//!
//! A ZIP file: the log and the cards as JSON Lines with a JSON Schema for each kind, the same as CSV for a spreadsheet, the
//! pictures, and a manifest with a checksum for each file. [`write`] makes it in one pass, so that it can be sent while it is
//! made; [`read`] takes it in, all or nothing. The CSV is for people and other programs: what is brought in are the JSON Lines.

mod csv;
mod logger;
mod manifest;
mod read;
mod schema;
mod write;

pub use csv::Wanted;
pub use read::{NotBrought, bring};
pub use write::{Cancelled, write};

/// The name of the format, as the manifest says it.
pub const FORMAT: &str = "mopsel-archive";
/// Its version. One that is higher was made by a later release, and is not brought in by halves.
pub const VERSION: u32 = 3;
/// From this version on there are the readings of loggers.
const WITH_LOGGERS: u32 = 2;

const CARDS: &str = "cards.jsonl";
const ENTRIES: &str = "entries.jsonl";
const PICTURES: &str = "pictures.jsonl";
const DELIVERIES: &str = "deliveries.jsonl";
const LOGGERS: &str = "loggers.csv";
const MANIFEST: &str = "manifest.json";

fn image_name(id: uuid::Uuid) -> String {
    format!("pictures/{id}.jpg")
}

fn small_name(id: uuid::Uuid) -> String {
    format!("pictures/{id}.small.jpg")
}
