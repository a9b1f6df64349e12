//! The one error of this crate: a refusal that says what was found, what is allowed and how to mend it.

use serde::Serialize;

/// Why something was not accepted.
///
/// `field` is a path into the input (`reservoir.minimum`), empty when the whole input is meant.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, thiserror::Error, utoipa::ToSchema)]
#[error("{found}; {allowed}; {mend}")]
pub struct Refusal {
    /// Where in the input, as a dotted path.
    pub field: String,
    /// What was found there.
    pub found: String,
    /// What would have been accepted.
    pub allowed: String,
    /// What to do about it.
    pub mend: String,
}

impl Refusal {
    /// A refusal in three clauses: found, allowed, mend.
    pub fn new(found: impl Into<String>, allowed: impl Into<String>, mend: impl Into<String>) -> Self {
        Self { field: String::new(), found: found.into(), allowed: allowed.into(), mend: mend.into() }
    }

    /// The same refusal, placed at `field`; an existing path is kept behind it.
    #[must_use]
    pub fn at(mut self, field: &str) -> Self {
        self.field = if self.field.is_empty() { field.to_owned() } else { format!("{field}.{}", self.field) };
        self
    }
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
