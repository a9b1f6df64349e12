//! The kinds of system, read from `data/kinds.toml`.

use super::{TopOffMethod, Traits};
use crate::message::Message;
use crate::reservoir::RefillMethod;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;

/// A kind of system. It chooses the drawing and prefills the traits; every rule asks the traits.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "each is described in data/kinds.toml")]
pub enum Kind {
    StillWater,
    AeratedRaft,
    SingleBucket,
    BucketChain,
    FilmChannel,
    SpreaderMat,
    Tower,
    SprayTote,
    EbbAndFlow,
    RecirculatingDrip,
    RunToWaste,
    Rack,
}

/// What is known of a kind before anything is set up. Its name and its one plain sentence are words.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct KindFacts {
    /// Which kind.
    pub key: Kind,
    /// Which section drawing it has.
    pub section: String,
    /// A usual number of ports.
    pub ports: u16,
    /// Usual days between changes.
    pub change_days: u16,
    /// The usual refill method.
    #[serde(default)]
    pub refill: RefillMethod,
    /// How it is usually topped off.
    #[serde(default)]
    pub top_off: TopOffMethod,
    /// Hours that roots last in it once pump or air has stopped; absent where nothing runs.
    #[serde(default)]
    pub lasts_hours: Option<f64>,
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
    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::StillWater => "still_water",
            Self::AeratedRaft => "aerated_raft",
            Self::SingleBucket => "single_bucket",
            Self::BucketChain => "bucket_chain",
            Self::FilmChannel => "film_channel",
            Self::SpreaderMat => "spreader_mat",
            Self::Tower => "tower",
            Self::SprayTote => "spray_tote",
            Self::EbbAndFlow => "ebb_and_flow",
            Self::RecirculatingDrip => "recirculating_drip",
            Self::RunToWaste => "run_to_waste",
            Self::Rack => "rack",
        }
    }

    /// Its name.
    #[must_use]
    pub fn name(self) -> Message {
        Message::of("kind", self.code(), "name")
    }

    /// What it is, in one plain sentence.
    #[must_use]
    pub fn plain(self) -> Message {
        Message::of("kind", self.code(), "plain")
    }

    /// The facts of this kind.
    #[must_use]
    pub fn facts(self) -> &'static KindFacts {
        KINDS.iter().find(|facts| facts.key == self).unwrap_or(&KINDS[0])
    }
}
