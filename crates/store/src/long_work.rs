//! Long work that keeps everybody else from writing: what it is and how far it has come, so that whoever waits is told.

use crate::{Store, StoreError};
use std::sync::{Arc, Mutex, PoisonError};

/// Work that takes a while, as far as it has come.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LongWork {
    /// What is being done.
    pub what: LongTask,
    /// How many lines or readings of it are in.
    pub done: u64,
    /// Of how many, where that is known.
    pub of: Option<u64>,
}

/// What takes a while.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LongTask {
    /// An archive is imported.
    Archive,
    /// A file of readings or visits is imported.
    File,
    /// An import is taken back.
    TakingBack,
}

impl LongTask {
    /// For a sentence.
    #[must_use]
    pub const fn said(self) -> &'static str {
        match self {
            Self::Archive => "An archive is being imported",
            Self::File => "A file is being imported",
            Self::TakingBack => "An import is being undone",
        }
    }
}

impl LongWork {
    /// How much of it is done, in per cent, where that is known. The last of it is working out what everything comes to.
    #[must_use]
    pub fn percent(&self) -> Option<u64> {
        self.of.filter(|of| *of > 0).map(|of| (self.done * 95 / of).min(95))
    }
}

/// The work that is under way, if any.
pub(crate) type Working = Arc<Mutex<Option<LongWork>>>;

/// Says that work is under way until it goes.
pub(crate) struct Underway(Working);

impl Underway {
    pub(crate) fn new(store: &Store, what: LongTask, of: Option<u64>) -> Self {
        let working = Arc::clone(&store.working);
        *working.lock().unwrap_or_else(PoisonError::into_inner) = Some(LongWork { what, done: 0, of });
        Self(working)
    }

    pub(crate) fn add(&self, more: u64) {
        if let Some(work) = self.0.lock().unwrap_or_else(PoisonError::into_inner).as_mut() {
            work.done += more;
        }
    }
}

impl Drop for Underway {
    fn drop(&mut self) {
        *self.0.lock().unwrap_or_else(PoisonError::into_inner) = None;
    }
}

impl Store {
    /// The long work that keeps others from writing just now.
    #[must_use]
    pub fn long_work(&self) -> Option<LongWork> {
        *self.working.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Refuses a write that long work would keep waiting.
    pub(crate) fn free(&self) -> Result<(), StoreError> {
        self.long_work().map_or(Ok(()), |work| Err(StoreError::Busy(work)))
    }
}
