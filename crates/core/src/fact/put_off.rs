//! What was not done on its day, and was said to be so: moved to another day within its margin, or skipped this time.

use crate::message::Message;
use crate::quantity::{Name, Note};
use crate::refusal::Refusal;
use crate::refuse;
use crate::say;
use crate::system::{Check, System};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use uuid::Uuid;

/// A routine check, or a rule of one's own.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "of", rename_all = "snake_case", deny_unknown_fields)]
pub enum Chore {
    /// A routine check.
    Check {
        /// Which.
        check: Check,
    },
    /// A rule of one's own.
    Rule {
        /// Which.
        rule: Uuid,
        /// What it was called then.
        name: Name,
    },
}

impl Chore {
    /// The code of its task.
    #[must_use]
    pub fn code(&self) -> Cow<'static, str> {
        match self {
            Self::Check { check } => check.code().into(),
            Self::Rule { rule, .. } => format!("rule.{rule}").into(),
        }
    }

    /// What it is called.
    #[must_use]
    pub fn name(&self) -> Message {
        match self {
            Self::Check { check } => check.name(),
            Self::Rule { name, .. } => say!("own_rule.name", name = name),
        }
    }
}

/// What became of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "how", rename_all = "snake_case", deny_unknown_fields)]
pub enum Instead {
    /// Not this time: it is due again an interval later.
    Skipped {},
    /// To another day within its margin, a later or an earlier one.
    Moved {
        /// The day on which it was due.
        #[serde(deserialize_with = "crate::quantity::day")]
        #[schema(value_type = String, format = Date)]
        from: Date,
        /// The day on which it is done.
        #[serde(deserialize_with = "crate::quantity::day")]
        #[schema(value_type = String, format = Date)]
        to: Date,
    },
}

/// A chore that was put off.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PutOff {
    /// Which.
    pub chore: Chore,
    /// What became of it.
    #[serde(flatten)]
    pub instead: Instead,
    /// Why; needed where it is skipped.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub why: Option<Note>,
}

/// What a system has to be put off is bounded by its checks and rules.
const MOST_AT_ONCE: usize = 60;

impl PutOff {
    /// Checks what is put off on one visit: each chore once, of this system, none that the same visit did, a reason for
    /// whatever is skipped. Whether it may be moved so far is asked of the log.
    ///
    /// # Errors
    /// A refusal at the chore.
    pub fn check_all(all: &[Self], did: impl Fn(&Chore) -> bool, system: &System, child: bool) -> Result<(), Refusal> {
        if child && !all.is_empty() {
            return Err(refuse!("child_puts_off").at("put_off"));
        }
        if all.len() > MOST_AT_ONCE {
            let (found, most) = (crate::message::count(all.len()), crate::message::count(MOST_AT_ONCE));
            return Err(refuse!("too_many_at_once", found = found, most = most).at("put_off"));
        }
        for (n, one) in all.iter().enumerate() {
            let at = |field: &str| format!("put_off.{n}.{field}");
            match &one.chore {
                Chore::Check { check } if !check.applies(&system.traits) => {
                    return Err(refuse!("check_not_here", check = check.name()).at(&at("chore")));
                }
                Chore::Rule { rule, name } if !system.rules.iter().any(|own| own.id == *rule) => {
                    return Err(refuse!("rule_not_here", name = name).at(&at("chore")));
                }
                _ => {}
            }
            if did(&one.chore) || all[..n].iter().any(|other| other.chore.code() == one.chore.code()) {
                return Err(refuse!("put_off_twice", name = one.chore.name()).at(&at("chore")));
            }
            let said = one.why.as_ref().is_some_and(|why| !why.as_str().is_empty());
            if one.instead == (Instead::Skipped {}) && !said {
                return Err(refuse!("skipped_without_reason", name = one.chore.name()).at(&at("why")));
            }
        }
        Ok(())
    }

    /// As it is said in the log.
    #[must_use]
    pub fn say(&self) -> Message {
        let name = self.chore.name();
        let why = self.why.as_ref().filter(|why| !why.as_str().is_empty());
        match (self.instead, why) {
            (Instead::Skipped {}, Some(why)) => say!("entry.skipped_because", name = name, why = why),
            (Instead::Skipped {}, None) => say!("entry.skipped", name = name),
            (Instead::Moved { from, to }, Some(why)) => {
                say!("entry.put_off_because", name = name, from = date(from), to = date(to), why = why)
            }
            (Instead::Moved { from, to }, None) => say!("entry.put_off", name = name, from = date(from), to = date(to)),
        }
    }
}

/// A date that is said the same whenever the log is read.
fn date(date: Date) -> String {
    date.strftime("%a %-d %b").to_string()
}
