//! What is waited for, between one step and the next.

use crate::message::{Message, member};
use crate::say;
use serde::{Deserialize, Serialize};

/// What is waited for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WaitFor {
    /// Until it has mixed.
    Mix,
    /// Until a dose can be measured.
    Remeasure,
    /// While roots stand in the bath.
    RootBath,
    /// While clean water runs through the channels.
    Flush,
    /// While a sanitiser acts.
    Soak,
    /// While pump or air is switched off.
    SwitchedOff,
}

impl WaitFor {
    /// What is to be done once it is over.
    #[must_use]
    pub fn then(self) -> Message {
        say!(
            "wait.over",
            then = member(
                "wait_over",
                match self {
                    Self::Mix => "mix",
                    Self::Remeasure => "remeasure",
                    Self::RootBath => "root_bath",
                    Self::Flush => "flush",
                    Self::Soak => "soak",
                    Self::SwitchedOff => "switched_off",
                }
            )
        )
    }
}

/// A wait.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Wait<W = Message> {
    /// For what.
    pub what: WaitFor,
    /// So long.
    pub minutes: u32,
    /// What is to be done once it is over, in words.
    pub then: W,
}

impl Wait {
    /// A wait of so many minutes.
    #[must_use]
    pub fn new(what: WaitFor, minutes: f64) -> Self {
        Self { what, minutes: minutes.round() as u32, then: what.then() }
    }
}

impl<W> Wait<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Wait<V> {
        Wait { what: self.what, minutes: self.minutes, then: say(self.then) }
    }
}
