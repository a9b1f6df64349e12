//! What is kept beside the log: cards by version, visits and changes half done, timers.

use super::card::Card;
use super::{ChangeRun, Entry, Holds, Visit, WaitFor};
use jiff::Timestamp;
use serde::Serialize;
use uuid::Uuid;

/// A card to be made. The id comes from the client, so that a repeated request makes one card.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct NewCard {
    /// Its id.
    pub id: Uuid,
    /// What it hangs on.
    pub parent: Option<Uuid>,
    /// What it says.
    pub card: Card,
}

/// A card as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct StoredCard {
    /// Its id.
    pub id: Uuid,
    /// What it hangs on.
    pub parent: Option<Uuid>,
    /// Counts up with every edit, from 1.
    pub version: i64,
    /// Whether it was put away.
    pub archived: bool,
    /// From when the last edit holds.
    pub holds: Holds,
    /// What it says.
    pub card: Card,
}

/// An entry as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct LoggedEntry {
    /// Its place in the order of recording.
    pub seq: i64,
    /// At which system.
    pub system: Uuid,
    /// When it was recorded.
    pub recorded: Timestamp,
    /// On which device, as that calls itself.
    pub device: Option<String>,
    /// What it says.
    pub entry: Entry,
}

/// A visit half done.
#[derive(Debug, Clone, PartialEq)]
pub struct Draft {
    /// The id that the entry will have.
    pub id: Uuid,
    /// At which system.
    pub system: Uuid,
    /// The person who has it half done.
    pub who: Uuid,
    /// Counts up with every save, from 1.
    pub version: i64,
    /// As far as it has come.
    pub visit: Visit,
    /// When it was last saved.
    pub at: Timestamp,
    /// When its water was last read: what was poured since comes after it.
    pub read_at: Option<Timestamp>,
}

/// A change under way.
#[derive(Debug, Clone, PartialEq)]
pub struct StoredRun {
    /// The id that the entry will have.
    pub id: Uuid,
    /// At which system.
    pub system: Uuid,
    /// Who saved it last.
    pub who: Uuid,
    /// Counts up with every save, from 1.
    pub version: i64,
    /// As far as it has come.
    pub run: ChangeRun,
    /// When it was begun.
    pub started: Timestamp,
    /// When it was last saved.
    pub at: Timestamp,
}

/// Something that is waited for: started on one device, shown on all.
#[derive(Debug, Clone, PartialEq)]
pub struct Timer {
    /// Made by the client.
    pub id: Uuid,
    /// At which system, if at one.
    pub system: Option<Uuid>,
    /// For what.
    pub what: WaitFor,
    /// In a few words.
    pub label: String,
    /// When it was started.
    pub started: Timestamp,
    /// When it is over.
    pub ends: Timestamp,
    /// Whose account started it, where there are accounts.
    pub account: Option<Uuid>,
}
