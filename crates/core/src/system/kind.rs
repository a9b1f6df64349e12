//! The kinds of system, read from `data/kinds.toml`.

use super::Traits;
use crate::reservoir::RefillMethod;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;

/// A kind of system. It chooses the drawing and prefills the traits; it drives no rule.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "each is described in data/kinds.toml")]
pub enum Kind {
    StillWater,
    AeratedRaft,
    BucketChain,
    FilmChannel,
    SpreaderMat,
    Tower,
    SprayTote,
    EbbAndFlow,
    RecirculatingDrip,
    Rack,
}

/// What is known of a kind before anything is set up.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct KindFacts {
    /// Which kind.
    pub key: Kind,
    /// Its name.
    pub name: String,
    /// One plain sentence.
    pub plain: String,
    /// Which section drawing it has.
    pub section: String,
    /// A usual number of ports.
    pub ports: u16,
    /// Usual days between changes.
    pub change_days: u16,
    /// The usual refill method.
    #[serde(default)]
    pub refill: RefillMethod,
    /// The traits it usually has.
    pub traits: Traits,
}

#[derive(Deserialize)]
struct File {
    kind: Vec<KindFacts>,
}

static KINDS: LazyLock<Vec<KindFacts>> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str::<File>(include_str!("../../data/kinds.toml")).expect("data/kinds.toml is well formed").kind
});

/// Every kind with its facts, in the order of the file.
#[must_use]
pub fn kinds() -> &'static [KindFacts] {
    &KINDS
}

impl Kind {
    /// The facts of this kind.
    #[must_use]
    pub fn facts(self) -> &'static KindFacts {
        KINDS.iter().find(|facts| facts.key == self).unwrap_or(&KINDS[0])
    }
}
