//! What somebody is told by mail, and when: a digest in the morning, and a word when something cannot wait. Nothing is told
//! twice, and at night only what is a danger to people.

use crate::message::typed;
use crate::refuse;
use crate::verdict::Rank;
use crate::{Refusal, refusal::AtField};
use jiff::civil::Time;
use jiff::{Span, Zoned};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use uuid::Uuid;

/// What somebody wants to be told, and when. Times are those of their place.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ReminderWish {
    /// Where mail reaches them.
    #[schema(max_length = 254, example = "wren@garden.example")]
    pub address: String,
    /// When a day's list is wanted, if any is.
    #[serde(default)]
    #[schema(value_type = Option<String>, example = "07:00:00")]
    pub digest: Option<Time>,
    /// Whether a word is wanted as soon as something cannot wait.
    pub urgent: bool,
    /// From when it is quiet.
    #[schema(value_type = String, example = "21:00:00")]
    pub quiet_from: Time,
    /// Until when it is quiet; the same as `quiet_from` for never.
    #[schema(value_type = String, example = "07:00:00")]
    pub quiet_to: Time,
}

/// A line of today's list, as far as it matters here.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Asking<'a> {
    /// At which system.
    pub system: Uuid,
    /// The task's code.
    pub code: &'a str,
    /// What it comes before.
    pub rank: Rank,
    /// Whether waiting costs plants by now.
    pub hand: bool,
}

impl Asking<'_> {
    /// Whether a word may be wanted of it.
    fn presses(&self) -> bool {
        self.rank <= Rank::Hours || self.hand
    }

    /// What is remembered once it was told. The same task told as late is told once more when it becomes a danger.
    fn key(&self) -> String {
        let how = if self.rank <= Rank::Hours { DANGER } else { PASSED };
        format!("{how}{}.{}", self.system, self.code)
    }
}

const DANGER: &str = "danger.";
const PASSED: &str = "passed.";

/// What a letter is about; nothing is sent where it is about nothing.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Letter {
    /// Whether it is the day's list.
    pub digest: bool,
    /// What cannot wait and was not told before, by its place in what was asked.
    pub urgent: Vec<usize>,
    /// What is told with it, to be remembered.
    pub told: Vec<String>,
    /// What was told and is asked for no more, to be forgotten: when it comes again, it is told again.
    pub over: Vec<String>,
}

impl Letter {
    /// Whether there is anything to be sent.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        !self.digest && self.urgent.is_empty()
    }
}

/// A digest that could not be sent at its time is sent up to so many hours later.
const DIGEST_HOURS: i64 = 4;

impl ReminderWish {
    /// Checks what was typed.
    ///
    /// # Errors
    /// A refusal of an address that cannot be one, and of a wish for nothing.
    pub fn check(&self) -> Result<(), Refusal> {
        let parts: Vec<&str> = self.address.split('@').collect();
        let plain = self.address.len() <= 254 && !self.address.chars().any(|c| c.is_whitespace() || c.is_control());
        let whole = matches!(parts[..], [who, at] if !who.is_empty() && at.len() > 2 && !at.starts_with('.'));
        if !plain || !whole || self.address.contains(['<', '>', ',', ';', '\u{22}']) {
            return Err(refuse!("mail_address", found = typed(&self.address))).at("address");
        }
        Ok(())
    }

    /// Whether it is quiet at a time of the day.
    #[must_use]
    pub fn quiet(&self, at: Time) -> bool {
        if self.quiet_from <= self.quiet_to {
            (self.quiet_from..self.quiet_to).contains(&at)
        } else {
            at >= self.quiet_from || at < self.quiet_to
        }
    }

    /// What is to be told now, of what is asked for and was not told before.
    #[must_use]
    pub fn letter(&self, now: &Zoned, asking: &[Asking<'_>], told: &BTreeSet<String>) -> Letter {
        let mut letter = Letter::default();
        let (today, time) = (now.date(), now.time());
        for (at, one) in asking.iter().enumerate() {
            let awake = one.rank == Rank::People || !self.quiet(time);
            if self.urgent && one.presses() && awake && !told.contains(&one.key()) {
                letter.urgent.push(at);
                letter.told.push(one.key());
            }
        }
        let asked: BTreeSet<String> = asking.iter().map(|one| format!("{}.{}", one.system, one.code)).collect();
        let over = |key: &&String| {
            key.strip_prefix(DANGER).or_else(|| key.strip_prefix(PASSED)).is_some_and(|what| !asked.contains(what))
        };
        letter.over = told.iter().filter(over).cloned().collect();
        let day = format!("day.{today}");
        let in_time = self.digest.is_some_and(|from| {
            let late = today.to_datetime(time) - today.to_datetime(from);
            let until = Span::new().hours(DIGEST_HOURS);
            time >= from && late.compare((until, today)).is_ok_and(std::cmp::Ordering::is_le)
        });
        if in_time && !asking.is_empty() && !told.contains(&day) {
            letter.digest = true;
            letter.told.push(day);
            // What stands in the list is told with it.
            let pressing = asking.iter().filter(|one| one.presses()).map(Asking::key);
            let news: Vec<String> = pressing.filter(|key| !told.contains(key) && !letter.told.contains(key)).collect();
            letter.told.extend(news);
        }
        letter
    }
}
