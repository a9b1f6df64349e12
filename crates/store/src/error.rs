//! What can go wrong with the file, and what the gate refuses.

use crate::{Fault, LongWork};
use mopsel_core::Refusal;
use mopsel_core::fact::{Account, Draft, LoggedEntry, StoredCard, StoredRun};

/// What stands where two writers met.
#[derive(Debug, Clone)]
pub enum Standing {
    /// The card as somebody else edited it.
    Card(Box<StoredCard>),
    /// The newest amendment of the entry.
    Entry(Box<LoggedEntry>),
    /// The visit as it was continued elsewhere.
    Draft(Box<Draft>),
    /// The change as it was continued elsewhere.
    Run(Box<StoredRun>),
    /// The account as somebody else edited it.
    Account(Box<Account>),
}

impl StoreError {
    /// Whether the file is damaged where it was read: what stands elsewhere in it may be sound.
    #[must_use]
    pub fn is_damage(&self) -> bool {
        match self {
            Self::Database(error) => Fault::of(error) == Fault::Damaged,
            Self::Fault(fault, _) => *fault == Fault::Damaged,
            Self::Corrupt(_) => true,
            _ => false,
        }
    }
}

/// The one error of this crate.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// The database said no.
    #[error("the database: {0}")]
    Database(#[from] sqlx::Error),
    /// The same, said for a file, with what to do about it.
    #[error("{1}")]
    Fault(Fault, String),
    /// A row could not be read as what it should be.
    #[error("the file holds something unreadable: {0}")]
    Corrupt(String),
    /// The file cannot be opened as what it should be.
    #[error("{0}")]
    Unfit(String),
    /// The file was opened for reading only, for this reason.
    #[error("{0}")]
    ReadOnly(String),
    /// Long work is under way, and nothing else is written until it has ended.
    #[error("long work is under way")]
    Busy(LongWork),
    /// There is nothing with that id.
    #[error("there is no such {0}")]
    NotFound(&'static str),
    /// The gate refused it.
    #[error("refused: {0}")]
    Refused(#[from] Refusal),
    /// Somebody else was faster.
    #[error("somebody else was faster")]
    Conflict(Standing),
    /// The id belongs to something else.
    #[error("the id belongs to something else already")]
    IdTaken,
}
