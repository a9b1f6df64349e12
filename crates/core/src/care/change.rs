//! When a reservoir change is due: at the earliest of several rules. The answer says which rule
//! made it due, and when the others would.

use super::Situation;
use crate::calendar::{add_days, local_date, say_date, say_days};
use crate::crop::ec_target;
use crate::forecast;
use crate::log::{Clarity, Smell};
use jiff::civil::Date;

/// At and above this temperature the days between changes are halved.
pub const VERY_WARM: f64 = 26.7;

/// A rule that makes a change due.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Rule {
    /// So many days since the last change.
    Days,
    /// The same, halved by warm water.
    WarmDays,
    /// Top-offs since the last change add up to the working volume.
    Turnover,
    /// Cloud, algae, smell, or a spent solution.
    Signs,
    /// Root rot is open and the water has not been changed since.
    Disease,
}

/// When the change is due, and by which rule.
#[derive(Debug, Clone, PartialEq)]
pub struct ChangeDue {
    /// The day.
    pub on: Date,
    /// The rule that came first.
    pub rule: Rule,
    /// Why, in a sentence, with what the other rules say.
    pub reason: String,
}

/// The earliest of all rules.
#[must_use]
pub fn change_due(s: &Situation<'_>) -> ChangeDue {
    let today = s.now.date();
    let mut rules = vec![by_days(s)];
    rules.extend(by_turnover(s));
    rules.extend(by_signs(s));
    rules.extend(by_disease(s));
    if s.state.first_at.is_none() {
        // What was done before Mopsel came is not known, and so not late.
        rules[0].0 = rules[0].0.max(today);
    }
    rules.sort_by_key(|(on, ..)| *on);
    let (on, rule, first) = rules[0].clone();
    let others: Vec<String> = rules[1..].iter().map(|(on, _, words)| format!("{words} {}", say_date(*on, today))).collect();
    let first = first.replacen("by ", "By ", 1);
    let reason = if others.is_empty() { format!("{first}.") } else { format!("{first}; otherwise {}.", others.join(", ")) };
    ChangeDue { on, rule, reason }
}

type Due = (Date, Rule, String);

fn by_days(s: &Situation<'_>) -> Due {
    let from = s.state.last_change.map_or_else(|| s.began(), |at| local_date(at, s.now));
    let days = i64::from(s.system.change_days);
    let since = |days: i64| format!("the {} rule", if days == 1 { "daily".to_owned() } else { format!("{days}-day") });
    if s.state.temperature.is_some_and(|t| t.value.get() >= VERY_WARM) {
        let halved = (days / 2).max(1);
        let warm = s.state.temperature.map(|t| s.wording.temperature(t.value)).unwrap_or_default();
        return (add_days(from, halved), Rule::WarmDays, format!("by {}, halved to {} as the water is at {warm}", since(days), say_days(halved)));
    }
    (add_days(from, days), Rule::Days, format!("by {}", since(days)))
}

/// Top-offs replace what is drunk and leave what is not: once they add up to a whole filling, what
/// was left behind has had its time to gather.
fn by_turnover(s: &Situation<'_>) -> Option<Due> {
    let (working, so_far) = (s.system.reservoir.working.get(), s.state.topped_off_since_change);
    if so_far >= working {
        let on = local_date(s.state.last_refill()?, s.now);
        return Some((on, Rule::Turnover, "by turnover: top-offs since the last change add up to a whole filling".to_owned()));
    }
    let a_day = forecast::uptake(s.state)?.a_day;
    if a_day < working / 200.0 {
        return None;
    }
    let on = add_days(s.now.date(), ((working - so_far) / a_day).ceil() as i64);
    Some((on, Rule::Turnover, "by turnover".to_owned()))
}

fn by_signs(s: &Situation<'_>) -> Option<Due> {
    if let Some(glass) = s.state.glass {
        let what = match (glass.value.clarity, glass.value.smell) {
            (_, Some(Smell::Foul)) => Some("a foul smell"),
            (Clarity::WhiteCloud, _) => Some("a white cloud in the water"),
            (Clarity::Green, _) => Some("green water"),
            (Clarity::Brown, _) => Some("brown water"),
            _ => None,
        };
        if let Some(what) = what {
            return Some((local_date(glass.at, s.now), Rule::Signs, format!("by signs: {what}")));
        }
    }
    let ec = s.state.ec?;
    let target = ec_target(s.plantings, s.system.source_ec)?;
    let near_source = s.system.source_ec.get() + 0.2;
    (ec.value.get() <= near_source && target.low.get() > near_source).then(|| {
        let words = format!("by signs: spent, EC {} is near the source water's", s.wording.ec(ec.value));
        (local_date(ec.at, s.now), Rule::Signs, words)
    })
}

fn by_disease(s: &Situation<'_>) -> Option<Due> {
    let case = s.state.root_case?;
    let changed_since = s.state.last_change.is_some_and(|at| at >= case.at);
    (!changed_since).then(|| (local_date(case.at, s.now), Rule::Disease, "by disease: root rot is open and the old water still stands".to_owned()))
}
