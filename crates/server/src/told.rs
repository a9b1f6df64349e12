//! Entries of the log that were put into words lately: an entry never changes, so it is said once for all who read alike,
//! until a card is edited.

use hashlink::LruCache;
use mopsel_core::quantity::{EcScale, UnitSystem};
use mopsel_store::Spot;
use serde_json::value::RawValue;
use std::fmt;
use std::sync::{Mutex, MutexGuard, PoisonError};

/// What a reader reads, wherever they read it; where nothing is said, it is the place's and the meter's.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Hash)]
pub struct Prefers {
    /// Units of volume, length and temperature.
    pub units: Option<UnitSystem>,
    /// Scale of EC figures.
    pub ec: Option<EcScale>,
    /// Whether they are a child.
    pub child: bool,
}

/// An entry in words, as it is sent.
#[derive(Debug, Clone)]
pub struct Piece {
    /// As JSON.
    pub json: Box<RawValue>,
    /// The mark with which the page behind it is asked for.
    pub mark: String,
}

/// So many are kept: some megabytes.
const KEPT: usize = 4000;

/// The pieces that are kept.
pub struct Told(Mutex<LruCache<(Spot, Prefers), Piece>>);

impl Default for Told {
    fn default() -> Self {
        Self(Mutex::new(LruCache::new(KEPT)))
    }
}

impl fmt::Debug for Told {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "Told({})", self.kept().len())
    }
}

impl Told {
    fn kept(&self) -> MutexGuard<'_, LruCache<(Spot, Prefers), Piece>> {
        // Whoever broke off while holding it left it whole: each step is one call.
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// What is kept of these, each where it was asked.
    #[must_use]
    pub fn of(&self, spots: &[Spot], prefers: Prefers) -> Vec<Option<Piece>> {
        let mut kept = self.kept();
        spots.iter().map(|spot| kept.get(&(*spot, prefers)).cloned()).collect()
    }

    /// Keeps one. The pages that it was told by have to be held meanwhile: a card that is edited waits for them, and
    /// forgets it again.
    pub fn keep(&self, spot: Spot, prefers: Prefers, piece: Piece) {
        self.kept().insert((spot, prefers), piece);
    }

    /// Forgets all: a card was edited.
    pub fn forget(&self) {
        self.kept().clear();
    }
}
