//! The one error of this crate: a refusal that says what was found, what is allowed and how to mend
//! it, as a code and the things that the three clauses are about.

use crate::message::{Message, Param};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

/// Why something was not accepted.
///
/// `field` is a path into the input (`reservoir.minimum`), empty when the whole input is meant. The
/// words for `code` stand in `data/words/en.toml` under `refusal`, in three clauses.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, thiserror::Error)]
#[error("{}", serde_json::to_string(self).unwrap_or_default())]
pub struct Refusal {
    /// Where in the input, as a dotted path.
    pub field: String,
    /// Which refusal.
    pub code: Cow<'static, str>,
    /// What its clauses are about.
    pub params: Vec<(Cow<'static, str>, Param)>,
}

impl Refusal {
    /// A refusal by its code.
    #[must_use]
    pub const fn new(code: &'static str) -> Self {
        Self { field: String::new(), code: Cow::Borrowed(code), params: Vec::new() }
    }

    /// Fills a gap of its clauses.
    #[must_use]
    pub fn with(mut self, name: &'static str, value: impl Into<Param>) -> Self {
        self.params.push((Cow::Borrowed(name), value.into()));
        self
    }

    /// Where a refusal of who acts is placed: no part of any input.
    pub const ACTOR: &'static str = "actor";
    /// Where a refusal of the clock is placed: no part of any input either.
    pub const CLOCK: &'static str = "clock";

    /// The same refusal, placed at `field`; an existing path is kept behind it. One that is about who
    /// acts stays where it is.
    #[must_use]
    pub fn at(mut self, field: &str) -> Self {
        if self.field == Self::ACTOR || self.field == Self::CLOCK {
            return self;
        }
        self.field = if self.field.is_empty() { field.to_owned() } else { format!("{field}.{}", self.field) };
        self
    }

    /// What would mend it, said by itself.
    #[must_use]
    pub fn mending(&self) -> Message {
        Message { code: Cow::Owned(format!("refusal.{}.mend", self.code)), params: self.params.clone() }
    }

    /// The refusal that an error's text carries, where it is one: a deserialiser hands on nothing but
    /// text, so that is what a refusal travels in, with the place that the deserialiser writes behind it.
    #[must_use]
    pub fn carried(text: &str) -> Option<Self> {
        text.rfind('}').and_then(|end| serde_json::from_str(&text[..=end]).ok())
    }
}

/// A refusal by its code and what it is about: `refuse!("too_long", found = count(n))`.
#[macro_export]
macro_rules! refuse {
    ($code:literal $(, $name:ident = $value:expr)* $(,)?) => {
        $crate::refusal::Refusal::new($code)$(.with(stringify!($name), $value))*
    };
}

/// Places the refusal of a result at a field.
pub trait AtField<T> {
    /// As [`Refusal::at`].
    ///
    /// # Errors
    /// The same refusal, with the field in front of its path.
    fn at(self, field: &str) -> Result<T, Refusal>;
}

impl<T> AtField<T> for Result<T, Refusal> {
    fn at(self, field: &str) -> Result<T, Refusal> {
        self.map_err(|refusal| refusal.at(field))
    }
}
