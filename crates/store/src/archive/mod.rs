//! Everything out and in: what an archive holds, read in one piece while others write, and brought in all or nothing.
//!
//! An archive is history. What is brought keeps its ids and its times; what is there already, and the same, is passed over, so
//! that the same archive twice is once. What it comes to is folded anew before anything is kept.

mod bringing;
mod snapshot;

pub use snapshot::{Snapshot, Unreadable};

use jiff::Timestamp;
use jiff::civil::Date;
use mopsel_core::fact::Sensed;
use mopsel_core::quantity::Note;
use mopsel_core::system::PortSet;
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use uuid::Uuid;

/// One version of a card.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ArchivedCard {
    /// Its id.
    pub id: Uuid,
    /// What it hangs on.
    pub parent: Option<Uuid>,
    /// Which version, from 1.
    pub version: i64,
    /// Whether it was put away with it.
    pub archived: bool,
    /// From when it holds; `null` where it was always so.
    pub holds_from: Option<Date>,
    /// When it was written.
    pub at: Timestamp,
    /// The shape that it is written in.
    pub shape: i64,
    /// What it says.
    pub card: Box<RawValue>,
}

/// One entry of the log, amended ones among them.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ArchivedEntry {
    /// Its id.
    pub id: Uuid,
    /// At which system.
    pub system: Uuid,
    /// When it happened.
    pub at: Timestamp,
    /// When it was recorded.
    pub recorded: Timestamp,
    /// By whom.
    pub by: Uuid,
    /// On which device, as that calls itself.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub device: Option<String>,
    /// The entry that it replaces.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub amends: Option<Uuid>,
    /// Why.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reason: Option<Note>,
    /// The files that brought it, as the ids of their deliveries.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub files: Vec<Uuid>,
    /// The shape that it is written in.
    pub shape: i64,
    /// What it says.
    pub body: Box<RawValue>,
}

/// A picture; its bytes stand beside.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ArchivedPicture {
    /// Its id.
    pub id: Uuid,
    /// Of which system.
    pub system: Uuid,
    /// When it was taken.
    pub at: Timestamp,
    /// When it was kept.
    pub recorded: Timestamp,
    /// By whom.
    pub by: Uuid,
    /// Of which ports.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ports: Option<PortSet>,
    /// What it shows.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
    /// In pixels.
    pub width: u32,
    /// In pixels.
    pub height: u32,
    /// As it is shown.
    #[serde(skip)]
    pub image: Vec<u8>,
    /// As it is shown small.
    #[serde(skip)]
    pub small: Vec<u8>,
}

/// A delivery of a logger's readings; they stand beside.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ArchivedDelivery {
    /// Its id.
    pub id: Uuid,
    /// By whom it was brought.
    pub by: Uuid,
    /// The file, or the logger.
    pub source: String,
    /// When it was brought.
    pub recorded: Timestamp,
    /// How many readings were new.
    pub readings: u64,
    /// How many of them another delivery had brought before.
    #[serde(default, skip_serializing_if = "is_none")]
    pub there: u64,
    /// When it was taken back.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub taken_back: Option<Timestamp>,
    /// By whom.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub taken_back_by: Option<Uuid>,
    /// Why.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reason: Option<String>,
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "serde hands it over so")]
fn is_none(many: &u64) -> bool {
    *many == 0
}

impl ArchivedDelivery {
    /// As an earlier release would have written it.
    pub(crate) fn without_whose(&self) -> Self {
        Self { there: 0, ..self.clone() }
    }
}

/// One reading of a logger, with the delivery that brought it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ArchivedSensed {
    /// At which system.
    pub system: Uuid,
    /// By which delivery.
    pub delivery: Uuid,
    /// What was read.
    pub read: Sensed,
}

/// One thing that an archive brings. Cards come before entries and pictures, and what they hang on before them.
#[derive(Debug)]
pub enum Brings {
    /// A version of a card.
    Card(ArchivedCard),
    /// An entry.
    Entry(ArchivedEntry),
    /// A picture.
    Picture(Box<ArchivedPicture>),
    /// A delivery of a logger's readings; before the readings.
    Delivery(ArchivedDelivery),
    /// Some of a logger's readings; each in its line, counted from where it stands.
    Sensed(Vec<ArchivedSensed>),
}

/// What was brought.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Brought {
    /// Versions of cards that are new.
    pub cards: usize,
    /// Entries that are new.
    pub entries: usize,
    /// Pictures that are new.
    pub pictures: usize,
    /// Readings of loggers that are new.
    pub readings: usize,
    /// What was there already.
    pub there: usize,
}
