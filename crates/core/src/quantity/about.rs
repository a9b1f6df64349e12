//! A quantity that is known about: its range, and where it comes from.

use super::Quantity;
use crate::message::{Message, Param};
use crate::say;
use jiff::Timestamp;

/// What is known of a quantity at a moment.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct About<Q> {
    /// The least that it may be.
    pub low: Q,
    /// The likeliest.
    pub value: Q,
    /// The most that it may be.
    pub high: Q,
    /// When it was last read; `None` where it never was since the water was renewed.
    pub read: Option<Timestamp>,
    /// When something was poured, drained or dosed that moved it, if that was after the reading.
    pub moved: Option<Timestamp>,
    /// Whether it is a reading of this very moment.
    pub measured: bool,
}

impl<Q: Quantity> About<Q> {
    /// What was read just now, or is given: taken for what it says.
    #[must_use]
    pub fn exactly(value: Q) -> Self {
        Self { low: value, value, high: value, read: None, moved: None, measured: true }
    }

    /// How far its ends lie apart.
    #[must_use]
    pub fn width(&self) -> f64 {
        self.high.number() - self.low.number()
    }

    /// As it is said: the value alone where it was measured, else as *about*, never as if measured.
    #[must_use]
    pub fn say(&self) -> Message {
        let value = Param::Number(self.value.number(), Q::UNIT);
        if self.measured { say!("about.measured", value = value) } else { say!("about.about", value = value) }
    }
}

impl<Q: Quantity> From<About<Q>> for Param {
    fn from(about: About<Q>) -> Self {
        about.say().into()
    }
}
