//! The checklist of a system for a week: what children can safely tick off, on which days it is due, and what is
//! written down as a number.
//!
//! No mains, no concentrates, no sanitisers. Where people are in danger nothing is due, until an adult has seen it put
//! right. At a suspect nothing is touched: only the look-in stands, for hands would carry something to the next system.

use super::ahead::ahead;
use super::follow_up::danger;
use super::hygiene::mind;
use super::routine::interval;
use crate::calendar::add_days;
use crate::message::Message;
use crate::say;
use crate::situation::Situation;
use crate::system::{Check, Measuring, checks};
use jiff::civil::Date;
use std::collections::BTreeSet;
use uuid::Uuid;

/// One row: what is ticked.
#[derive(Debug, Clone, PartialEq)]
pub struct Row {
    /// The code of its task.
    pub code: String,
    /// What is done.
    pub name: Message,
    /// What that means, in a sentence; nothing where a rule of one's own says it all.
    pub doing: Option<Message>,
    /// The check that it is, if it is one.
    pub check: Option<Check>,
    /// The rule that it is, if it is one.
    pub rule: Option<Uuid>,
    /// The days of the week on which it is due, from today on.
    pub due: BTreeSet<Date>,
    /// Usual minutes.
    pub minutes: u16,
}

/// What a rule of one's own takes, where nothing else is known of it, in minutes.
const OWN_MINUTES: u16 = 3;
/// What comes at least as often as this has its row in every week.
const WEEKLY: u16 = 7;

/// Whether a check is ticked off on paper: what is measured has its own lines, and what needs an adult, or more than a
/// tick, is none.
fn is_ticked(check: Check) -> bool {
    let facts = check.facts();
    let looked = matches!(check, Check::WaterGlass | Check::Roots | Check::Plants);
    let more = matches!(check, Check::Calibrate | Check::Harvest | Check::Light | Check::Stage);
    !facts.adult && (looked || facts.one_tap) && !more
}

/// The rows of a system for the open days of a week, in the order of a visit.
#[must_use]
pub fn rows(days: &[Date], s: &Situation<'_>) -> Vec<Row> {
    let (today, suspect) = (s.today(), mind(s).is_some());
    let reach = days.last().map_or(0, |last| (*last - today).get_days()) + 1;
    let coming = ahead(u16::try_from(reach).unwrap_or(1).max(1), s);
    let within = |on: &Date| *on >= today && days.contains(on);
    let falls = |check: Option<Check>, rule: Option<Uuid>| -> BTreeSet<Date> {
        coming.iter().filter(|one| (one.check, one.rule) == (check, rule)).map(|one| one.on).filter(within).collect()
    };
    let mut rows = Vec::new();
    for facts in checks().iter().filter(|facts| is_ticked(facts.key)) {
        let check = facts.key;
        let Some(every) = interval(check, s).filter(|_| !suspect || check == Check::LookIn) else { continue };
        let due = if check == Check::LookIn {
            days.iter().copied().filter(within).collect()
        } else {
            falls(Some(check), None)
        };
        // What only some crops want at some stages has its row where it is due.
        let always = every <= WEEKLY && !matches!(check, Check::Pollinate | Check::TieUp);
        if always || !due.is_empty() {
            rows.push(Row {
                code: check.code().to_owned(),
                name: check.name(),
                doing: Some(check.doing()),
                check: Some(check),
                rule: None,
                due,
                minutes: facts.minutes,
            });
        }
    }
    for rule in s.system.rules.iter().filter(|rule| !rule.adult && !suspect) {
        let due = falls(None, Some(rule.id));
        if !due.is_empty() {
            rows.push(Row {
                code: format!("rule.{}", rule.id),
                name: say!("own_rule.name", name = &rule.name),
                doing: None,
                check: None,
                rule: Some(rule.id),
                due,
                minutes: OWN_MINUTES,
            });
        }
    }
    if danger(s).is_some() {
        rows.iter_mut().for_each(|row| row.due.clear());
    }
    rows
}

/// What is measured at a system and written down: the level, and what it is measured with.
#[must_use]
pub fn measures(s: &Situation<'_>) -> (bool, bool) {
    (s.system.measuring != Measuring::RecipeOnly, s.system.measuring.ec())
}

/// The Monday of a week.
#[must_use]
pub fn monday_of(date: Date) -> Date {
    add_days(date, -i64::from(date.weekday().to_monday_zero_offset()))
}
