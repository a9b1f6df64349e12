//! The one clock of the program. The core never asks it; handlers pass on what it says.

use jiff::Timestamp;

/// Where the time comes from.
#[derive(Debug, Clone, Copy)]
pub enum Clock {
    /// The machine's clock.
    Live,
    /// A standing clock, for a demo that is the same to the digit whenever it is started.
    Standing(Timestamp),
}

impl Clock {
    /// Whether it goes.
    #[must_use]
    pub fn is_live(self) -> bool {
        matches!(self, Self::Live)
    }

    /// What time it is, to the millisecond.
    #[must_use]
    pub fn now(self) -> Timestamp {
        match self {
            Self::Live => {
                Timestamp::from_millisecond(Timestamp::now().as_millisecond()).unwrap_or(Timestamp::UNIX_EPOCH)
            }
            Self::Standing(at) => at,
        }
    }
}
