//! When a rule of one's own is due. A changed rule holds from now on: what was done stands in the log under the name
//! that it had.

use super::Task;
use crate::calendar::{Weekday, add_days, day, days_between, end_of};
use crate::figures::FIGURES;
use crate::message::{Message, count, days};
use crate::say;
use crate::situation::Situation;
use crate::system::{Every, OwnRule};
use jiff::civil::Date;

/// The task of each rule.
pub(super) fn own_rules(s: &Situation<'_>) -> Vec<Task> {
    s.system.rules.iter().filter_map(|rule| task(rule, s)).collect()
}

fn task(rule: &OwnRule, s: &Situation<'_>) -> Option<Task> {
    if let Some(warm) = rule.warmer_than {
        let read = s.known.readings.temperature?;
        let fresh = days_between(read.at, s.now.timestamp()) <= FIGURES.diagnosis.glass_days;
        if !fresh || read.value < warm {
            return None;
        }
    }
    let (on, reason) = due(rule, s)?;
    let last = s.known.done.own.get(&rule.id).map(|(at, _)| s.date(*at));
    let settled = s.calendar.settle(on, rule.slack_days);
    // Never back to a day on which it was done already.
    let on = if last.is_some_and(|last| settled <= last) { s.calendar.open_on_or_after(on) } else { settled };
    let (name, doing) = (say!("own_rule.name", name = &rule.name), say!("own_rule.doing"));
    let code = format!("rule.{}", rule.id);
    let task = Task::new(code, name, doing, reason, on, end_of(on, s.now.time_zone()), s);
    let task = Task { rule: Some(rule.id), one_tap: true, ..task.slack(rule.slack_days, s) };
    Some(if rule.adult { task.adult() } else { task })
}

/// The day, and why then.
fn due(rule: &OwnRule, s: &Situation<'_>) -> Option<(Date, Message)> {
    let done = s.known.done.own.get(&rule.id);
    let last = done.map(|(at, _)| s.date(*at));
    let from = last.unwrap_or_else(|| s.began());
    let today = s.today();
    match &rule.every {
        Every::Days { days: every } => {
            let on = add_days(from, i64::from(*every));
            let reason = match last {
                Some(last) => say!("routine.last_done", day = day(last, today), every = days(f64::from(*every))),
                None => say!("routine.not_done", day = day(from, today), every = days(f64::from(*every))),
            };
            // What was never done is not late on the day on which the rule was made.
            Some((if last.is_none() { on.max(today) } else { on }, reason))
        }
        Every::Weekdays { on } => {
            let begins = if last.is_some() { add_days(from, 1) } else { today };
            let next = (0..7).map(|n| add_days(begins, n)).find(|date| on.contains(&Weekday::of(*date)))?;
            Some((next, say!("own_rule.weekday", day = day(next, today))))
        }
        Every::TopOffs { times } => {
            let since = s.known.done.top_offs.saturating_sub(done.map_or(0, |(_, by_then)| *by_then));
            let reached = since >= u32::from(*times);
            let on = s.known.tank.last_refill().map_or(today, |at| s.date(at));
            reached.then(|| (on, say!("own_rule.top_offs", since = count(since), times = count(*times))))
        }
    }
}
