//! Where a thing is done, and what the button says that leads there.

use crate::message::Message;
use serde::Serialize;

/// Where a thing is done.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WayTo {
    /// A step of a visit.
    Visit,
    /// The bench.
    Bench,
    /// The guided change.
    Change,
    /// What grows here, in the set-up.
    Plantings,
    /// The system itself, in the set-up.
    System,
}

/// The way to where a thing is done.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Way<W = Message> {
    /// Where.
    pub to: WayTo,
    /// Which step of the visit, or which purpose of the bench.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub part: Option<&'static str>,
    /// What the button says.
    pub name: W,
}

impl<W> Way<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Way<V> {
        Way { to: self.to, part: self.part, name: say(self.name) }
    }
}

impl Way {
    /// To a step of a visit.
    #[must_use]
    pub fn visit(step: &'static str, name: Message) -> Self {
        Self { to: WayTo::Visit, part: Some(step), name }
    }
}
