//! What can go wrong with the file.

use crate::{LoggedEntry, StoredCard};

/// The one error of this crate.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// The database said no.
    #[error("the database: {0}")]
    Database(#[from] sqlx::Error),
    /// A row could not be read as what it should be.
    #[error("the file holds something unreadable: {0}")]
    Corrupt(String),
    /// There is nothing with that id.
    #[error("there is no {0} with that id")]
    NotFound(&'static str),
    /// Someone else changed the card since the version that was named.
    #[error("the card was changed meanwhile")]
    Changed(Box<StoredCard>),
    /// The entry was amended since; this is what stands there now.
    #[error("the entry was amended meanwhile")]
    Amended(Box<LoggedEntry>),
    /// The draft was changed since on another device.
    #[error("the draft was changed meanwhile")]
    DraftChanged(Box<crate::Draft>),
    /// The change under way was continued since on another device.
    #[error("the change was continued meanwhile")]
    RunChanged(Box<crate::StoredRun>),
    /// The id belongs to something else already.
    #[error("the id belongs to something else already")]
    IdTaken,
}
