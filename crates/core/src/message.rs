//! What is to be said, before it is said: a code and the things that the sentence is about.
//!
//! Rules answer with messages and never with sentences. Nothing can be decided from a message's
//! wording, because it has none; [`crate::words`] gives it one, for one reader.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

/// What a number counts. Decides how it is written, and in which of the reader's units.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Unit {
    /// Litres of water.
    Litres,
    /// Litres of water drunk in a day.
    LitresADay,
    /// Millilitres of a product.
    Millilitres,
    /// Grams of a product.
    Grams,
    /// Millimetres.
    Millimetres,
    /// Degrees Celsius.
    Celsius,
    /// A difference of temperatures, in °C.
    Degrees,
    /// EC at 25 °C, in mS/cm.
    MilliSiemens,
    /// EC in mS/cm, written so for every reader.
    OnMilliSiemens,
    /// EC in mS/cm, written in µS/cm for every reader.
    OnMicroSiemens,
    /// EC in mS/cm, written in ppm of 500 for every reader.
    OnPpm500,
    /// EC in mS/cm, written in ppm of 640 for every reader.
    OnPpm640,
    /// EC in mS/cm, written in ppm of 700 for every reader.
    OnPpm700,
    /// Kilograms to carry.
    Kilograms,
    /// pH.
    Ph,
    /// Per cent.
    Percent,
    /// Per cent with its sign: how far off something is.
    SignedPercent,
    /// Days.
    Days,
    /// Hours.
    Hours,
    /// Minutes.
    Minutes,
    /// Things that are counted.
    Count,
    /// A bare number, as short as it can be written.
    Plain,
    /// A bare number with one decimal place.
    OneDecimal,
    /// A bare number with two decimal places.
    TwoDecimals,
}

/// One thing that a sentence is about.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Param {
    /// A number of something.
    Number(f64, Unit),
    /// From one number to another of the same.
    Band(f64, f64, Unit),
    /// What people typed: names and notes. Never translated.
    Text(String),
    /// A word of the table, by its code.
    Term(Cow<'static, str>),
    /// A sentence within the sentence.
    Message(Box<Message>),
    /// Several, with commas between.
    List(Vec<Message>),
    /// Several sentences, one after the other.
    Sentences(Vec<Message>),
    /// A date, as it is said from a day: "today", "Thu 4 Mar".
    Day(Date, Date),
}

/// A sentence to be made: which one, and what it is about.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Message {
    /// Which sentence of the table.
    pub code: Cow<'static, str>,
    /// What stands in its gaps.
    pub params: Vec<(Cow<'static, str>, Param)>,
}

impl Message {
    /// A sentence without gaps.
    #[must_use]
    pub const fn new(code: &'static str) -> Self {
        Self { code: Cow::Borrowed(code), params: Vec::new() }
    }

    /// What is said of one of a family: `check.roots.name`.
    #[must_use]
    pub fn of(family: &str, member: &str, part: &str) -> Self {
        Self { code: Cow::Owned(format!("{family}.{member}.{part}")), params: Vec::new() }
    }

    /// Fills a gap.
    #[must_use]
    pub fn with(mut self, name: &'static str, value: impl Into<Param>) -> Self {
        self.params.push((Cow::Borrowed(name), value.into()));
        self
    }

    /// What stands in a gap, if it is filled.
    #[must_use]
    pub fn param(&self, name: &str) -> Option<&Param> {
        self.params.iter().find(|(known, _)| known == name).map(|(_, param)| param)
    }
}

/// A message by its code and its gaps: `say!("level.below", litres = volume)`.
#[macro_export]
macro_rules! say {
    ($code:literal $(, $name:ident = $value:expr)* $(,)?) => {
        $crate::message::Message::new($code)$(.with(stringify!($name), $value))*
    };
}

/// So many things.
#[must_use]
pub fn count(of: impl TryInto<u64>) -> Param {
    Param::Number(of.try_into().unwrap_or(u64::MAX) as f64, Unit::Count)
}

/// So many days.
#[must_use]
pub fn days(of: impl Into<f64>) -> Param {
    Param::Number(of.into(), Unit::Days)
}

/// So many minutes.
#[must_use]
pub fn minutes(of: impl Into<f64>) -> Param {
    Param::Number(of.into(), Unit::Minutes)
}

/// A pH.
#[must_use]
pub fn ph(of: f64) -> Param {
    Param::Number(of, Unit::Ph)
}

/// A bare number.
#[must_use]
pub fn plain(of: f64) -> Param {
    Param::Number(of, Unit::Plain)
}

/// A difference of temperatures.
#[must_use]
pub fn degrees(of: f64) -> Param {
    Param::Number(of, Unit::Degrees)
}

/// Per cent.
#[must_use]
pub fn percent(of: f64) -> Param {
    Param::Number(of, Unit::Percent)
}

/// What someone typed, cut to a length that a sentence can carry.
#[must_use]
pub fn typed(text: &str) -> Param {
    Param::Text(text.chars().take(60).collect())
}

/// A word of a family of the table: `product.silica`.
#[must_use]
pub fn member(family: &str, code: &str) -> Param {
    Param::Term(Cow::Owned(format!("{family}.{code}")))
}

/// A word of the table.
#[must_use]
pub fn term(code: &'static str) -> Param {
    Param::Term(Cow::Borrowed(code))
}

impl From<Message> for Param {
    fn from(message: Message) -> Self {
        Self::Message(Box::new(message))
    }
}

impl From<Vec<Message>> for Param {
    fn from(messages: Vec<Message>) -> Self {
        Self::List(messages)
    }
}

impl From<&str> for Param {
    fn from(text: &str) -> Self {
        Self::Text(text.to_owned())
    }
}

impl From<String> for Param {
    fn from(text: String) -> Self {
        Self::Text(text)
    }
}
