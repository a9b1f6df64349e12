//! Text that people type: bounded, trimmed, and free of control characters. Markup is left as it
//! was typed: it is only ever shown as text.

use crate::Refusal;
use serde::{Deserialize, Serialize};

/// Checks text against a length and for control characters; gives it back trimmed.
fn checked(what: &str, text: &str, min: usize, max: usize, lines: bool) -> Result<String, Refusal> {
    let text = text.trim();
    let length = text.chars().count();
    if !(min..=max).contains(&length) {
        return Err(Refusal::new(
            format!("found a {what} of {length} characters"),
            format!("allowed is {min} to {max} characters"),
            if length < min { "Type at least one character." } else { "Shorten it." },
        ));
    }
    if text.chars().any(|c| c.is_control() && !(lines && c == '\n')) {
        return Err(Refusal::new(format!("found control characters in a {what}"), "allowed is plain text", "Paste it as plain text."));
    }
    Ok(text.to_owned())
}

/// Defines a checked text type over `String`.
macro_rules! text {
    ($(#[$doc:meta])* $name:ident, $what:literal, $min:tt to $max:tt, $lines:literal) => {
        $(#[$doc])*
        #[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
        #[serde(try_from = "String", into = "String")]
        #[schema(min_length = $min, max_length = $max)]
        pub struct $name(String);

        impl $name {
            /// Checks and trims a text.
            ///
            /// # Errors
            /// A refusal when it is too short, too long or holds control characters.
            pub fn new(text: &str) -> Result<Self, Refusal> {
                checked($what, text, $min, $max, $lines).map(Self)
            }

            /// The text.
            #[must_use]
            pub fn as_str(&self) -> &str {
                &self.0
            }
        }

        impl TryFrom<String> for $name {
            type Error = Refusal;
            fn try_from(text: String) -> Result<Self, Refusal> {
                Self::new(&text)
            }
        }

        impl From<$name> for String {
            fn from(name: $name) -> Self {
                name.0
            }
        }
    };
}

text!(
    /// A name that someone gave: 1 to 80 characters on one line.
    Name, "name", 1 to 80, false
);
text!(
    /// A note: up to 2000 characters, lines allowed.
    Note, "note", 0 to 2000, true
);
