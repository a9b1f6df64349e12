//! Text that people type: bounded, trimmed, and free of control characters. Markup is left as it
//! was typed: it is only ever shown as text.

use crate::message::{Param, count, term};
use crate::{Refusal, refuse};
use serde::{Deserialize, Serialize};

/// Characters that print nothing, or turn the order of what stands around them.
fn invisible(c: char) -> bool {
    matches!(c, '\u{ad}' | '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{feff}' | '\u{fff9}'..='\u{fffb}')
}

/// Checks text against a length and for control characters; gives it back trimmed.
fn checked(what: &'static str, text: &str, min: usize, max: usize, lines: bool) -> Result<String, Refusal> {
    let text = text.trim();
    // What nobody sees is nothing.
    let text = if text.chars().all(|c| invisible(c) || c.is_whitespace()) { "" } else { text };
    let length = text.chars().count();
    if length < min || text.chars().filter(|c| !invisible(*c) && !c.is_whitespace()).count() < min {
        return Err(refuse!("text_empty", what = term(what), low = count(min), high = count(max)));
    }
    if length > max {
        return Err(refuse!(
            "text_too_long",
            what = term(what),
            found = count(length),
            low = count(min),
            high = count(max)
        ));
    }
    let turns = |c: char| matches!(c, '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}');
    if text.chars().any(|c| (c.is_control() && !(lines && c == '\n')) || turns(c)) {
        return Err(refuse!("text_control_characters", what = term(what)));
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

        impl From<&$name> for Param {
            fn from(text: &$name) -> Self {
                Self::Text(text.0.clone())
            }
        }
    };
}

text!(
    /// A name that someone gave: 1 to 80 characters on one line.
    Name, "text.name", 1 to 80, false
);
text!(
    /// A note: up to 2000 characters, lines allowed.
    Note, "text.note", 0 to 2000, true
);
