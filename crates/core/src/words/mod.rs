//! Words last: from messages to sentences, for one reader.
//!
//! The sentences stand in `data/words/en.toml`, and nowhere else. A number meets its reader's unit
//! here, once. A second language is a second table with the same codes.

mod card_fields;
mod choices;
mod entry;
mod find;
mod number;
mod template;

pub use card_fields::{CARD_FIELDS, CardField, Kept, Reads};
pub use choices::{Choice, LISTS, choices};
pub use entry::say_entry;
pub use find::{
    Called, FOUND_BY, person_token, plain, searched, sort_token, system_token, tokens_of, words_in, words_of,
};
pub use template::english;

use crate::fact::Actor;
use crate::message::{Message, Param};
use crate::quantity::{EcScale, UnitSystem};
use crate::refusal::Refusal;
use jiff::civil::Date;
use serde::Serialize;
use template::Table;

/// For whom sentences are made: the units and the scale that they read, and whether they are a child.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Reader {
    /// Units of volume, length and temperature.
    pub units: UnitSystem,
    /// Scale of EC figures.
    pub ec: EcScale,
    /// Children are told to look, to tell and to step back.
    pub child: bool,
}

impl Reader {
    /// An actor as a reader.
    #[must_use]
    pub fn new(units: UnitSystem, ec: EcScale, actor: &Actor) -> Self {
        Self { units, ec, child: actor.is_child() }
    }
}

/// A refusal in words.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct RefusalSaid {
    /// Where in the input, as a dotted path.
    pub field: String,
    /// Which refusal; stays the same whatever the words are.
    pub code: String,
    /// What was found there.
    pub found: String,
    /// What would have been accepted.
    pub allowed: String,
    /// What to do about it.
    pub mend: String,
}

impl RefusalSaid {
    /// Where it is and all that is said of it, for a line of text.
    #[must_use]
    pub fn in_full(&self) -> String {
        let at = if self.field.is_empty() { String::new() } else { format!("{}: ", self.field) };
        format!("{at}{}; {}. {}", self.found, self.allowed, self.mend)
    }
}

impl std::fmt::Display for RefusalSaid {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}; {}; {}", self.found, self.allowed, self.mend)
    }
}

/// Makes sentences for one reader.
#[derive(Debug, Clone, Copy)]
pub struct Speaker {
    table: &'static Table,
    reader: Reader,
}

impl Speaker {
    /// A speaker in English.
    #[must_use]
    pub fn new(reader: Reader) -> Self {
        Self { table: english(), reader }
    }

    /// The reader.
    #[must_use]
    pub fn reader(&self) -> Reader {
        self.reader
    }

    /// A message as a sentence. A code that is not in the table is said as it is; a test sees to it
    /// that none is missing.
    #[must_use]
    pub fn say(&self, message: &Message) -> String {
        let mut out = String::new();
        self.write(&message.code, &message.params, &mut out);
        out
    }

    /// A refusal in its three clauses.
    #[must_use]
    pub fn refuse(&self, refusal: &Refusal) -> RefusalSaid {
        let clause = |which: &str| {
            let mut out = String::new();
            self.write(&format!("refusal.{}.{which}", refusal.code), &refusal.params, &mut out);
            out
        };
        RefusalSaid {
            field: refusal.field.clone(),
            code: refusal.code.to_string(),
            found: clause("found"),
            allowed: clause("allowed"),
            mend: clause("mend"),
        }
    }

    /// A date, as it is said from today.
    #[must_use]
    pub fn day(&self, date: Date, today: Date) -> String {
        self.say_day(date, today, false)
    }

    fn say_day(&self, date: Date, today: Date, with_on: bool) -> String {
        match (date - today).get_days() {
            0 => self.table.word("calendar.today").to_owned(),
            1 => self.table.word("calendar.tomorrow").to_owned(),
            -1 => self.table.word("calendar.yesterday").to_owned(),
            _ => {
                let on = if with_on { "on " } else { "" };
                format!("{on}{}", date.strftime("%a %-d %b"))
            }
        }
    }
}

impl Param {
    /// The number that picks between one and many.
    fn picks(&self) -> Option<f64> {
        if let Self::Number(value, _) = self { Some(*value) } else { None }
    }
}
