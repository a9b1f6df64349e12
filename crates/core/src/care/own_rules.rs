//! When a rule of one's own is due. A changed rule holds from now on: what was done stands in the log under the name
//! that it had.

use super::Task;
use super::cause::came;
use crate::calendar::{Weekday, add_days, day, days_between, end_of};
use crate::crop::{Planting, Stage};
use crate::fact::Timeline;
use crate::figures::FIGURES;
use crate::forecast;
use crate::message::{Message, Param, count, days};
use crate::say;
use crate::situation::Situation;
use crate::system::{Every, OwnRule, System};
use jiff::Timestamp;
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
    let last = s.known.done.own.get(&rule.id).copied().max(s.known.done.skipped_at(&code_of(rule)));
    let last = last.map(|at| s.date(at));
    let settled = s.calendar.settle(on, rule.slack_days);
    // Never back to a day on which it was done already.
    let on = if last.is_some_and(|last| settled <= last) { s.calendar.open_on_or_after(on) } else { settled };
    let (name, doing) = (say!("own_rule.name", name = &rule.name), say!("own_rule.doing"));
    let task = Task::new(code_of(rule), name, doing, reason, on, end_of(on, s.now.time_zone()), s);
    let task = Task { rule: Some(rule.id), one_tap: true, ..task.slack(rule.slack_days, s) };
    Some(if rule.adult { task.adult() } else { task })
}

fn code_of(rule: &OwnRule) -> String {
    format!("rule.{}", rule.id)
}

/// When something that grows here last came to a stage, and what it is; what was planted on at that stage came to it then.
fn came_to<'a>(stage: &str, s: &Situation<'a>) -> Option<(Date, Stage, &'a str)> {
    let zone = s.now.time_zone();
    let came = |timeline: &Timeline<Planting>| {
        let segments = timeline.segments();
        let n = segments.iter().rposition(|segment| segment.says.stage.code() == stage)?;
        // What has gone on from it asks for nothing any more.
        let stands = n + 1 == segments.len() && !segments[n].archived;
        let first = segments[..=n]
            .iter()
            .rposition(|segment| segment.says.stage.code() != stage)
            .map_or(0, |before| before + 1);
        let planted = segments[n].says.planted_on;
        let on = segments[first].from.map_or(planted, |_| segments[first].start.to_zoned(zone.clone()).date());
        let known = came(timeline, |planting| planting.stage.code() == stage, s);
        stands.then(|| on.max(planted).max(known))
    };
    let all = s
        .planted
        .0
        .iter()
        .filter_map(|timeline| Some((came(timeline)?, timeline.now().stage, timeline.now().crop.as_str())));
    all.max_by_key(|(on, ..)| *on)
}

/// When it was last done, behind what is said of a skip.
fn last_said(done: Option<&Timestamp>, every: Param, s: &Situation<'_>) -> Message {
    match done {
        Some(done) => say!("routine.last_done", day = day(s.date(*done), s.today()), every = every),
        None => say!("put_off.never_done"),
    }
}

/// When a rule was made, in the settings of its system; what was set up with it is counted from where all is.
fn made(rule: &OwnRule, s: &Situation<'_>) -> Date {
    let has = |system: &System| system.rules.iter().any(|other| other.id == rule.id);
    let first = s.history.segments().iter().find(|segment| has(&segment.says));
    let from = first.and_then(|segment| segment.from).map_or_else(|| s.began(), |from| from.max(s.began()));
    // Nor from before it was written down, whatever day it was dated to.
    s.history.said_since(has).map_or(from, |said| from.max(s.date(said)))
}

/// The day, and why then. What was never done is counted from when the rule was made: it is not late on that day, and
/// is as late as any other when it goes on undone.
fn due(rule: &OwnRule, s: &Situation<'_>) -> Option<(Date, Message)> {
    let (last_done, today) = (s.known.done.own.get(&rule.id), s.today());
    // What was skipped is reckoned from then on, as if it had been done.
    let skipped = s.known.done.skipped_at(&code_of(rule));
    let done = last_done.copied().max(skipped);
    let last = done.map(|at| s.date(at));
    match &rule.every {
        Every::Days { days: every } => {
            let from = last.unwrap_or_else(|| made(rule, s));
            let (day, every) = (day(from, today), i64::from(*every));
            let interval = days(every as f64);
            let reason = match last {
                Some(_) if skipped.is_some() => {
                    say!("put_off.skipped", day = day, last = last_said(last_done, interval, s))
                }
                Some(_) => say!("routine.last_done", day = day, every = interval),
                None => say!("routine.not_done", day = day, every = interval),
            };
            Some((add_days(from, every), reason))
        }
        Every::Weekdays { on } => {
            let begins = last.map_or_else(|| made(rule, s), |last| add_days(last, 1));
            let next = (0..7).map(|n| add_days(begins, n)).find(|date| on.contains(&Weekday::of(*date)))?;
            Some((next, say!("own_rule.weekday", day = day(next, today))))
        }
        Every::TopOffs { times } => {
            let since = |at: &&Timestamp| done.is_none_or(|done| **at > done) && s.date(**at) >= made(rule, s);
            let counted: Vec<&Timestamp> = s.known.done.top_offs.iter().filter(since).collect();
            // The one that made it due: those after it do not put it off.
            let reached = counted.get(usize::from(*times).checked_sub(1)?)?;
            let said = say!("own_rule.top_offs", since = count(counted.len()), times = count(*times));
            Some((s.date(**reached), said))
        }
        Every::Sign { sign } => {
            let seen = s.known.readings.plants.as_ref()?;
            let here = seen.value.signs.iter().find(|seen| seen.code() == sign)?;
            let since = done.is_none_or(|done| seen.at > done) && s.date(seen.at) >= made(rule, s);
            let said = say!("own_rule.sign", sign = here.say(), day = day(s.date(seen.at), today));
            since.then(|| (s.date(seen.at), said))
        }
        Every::Stage { stage } => {
            let (on, stage, crop) = came_to(stage, s)?;
            let since = last.is_none_or(|last| on > last) && on >= made(rule, s);
            let said = say!("own_rule.stage", crop = crop, stage = stage.say(), day = day(on, today));
            since.then_some((on, said))
        }
        Every::Minimum { before } => {
            let minimum = forecast::minimum_reached(s)?;
            // Done since the level was last read or filled up, it waits for the next water.
            let (stands, _) = s.known.water.left()?;
            if done.is_some_and(|done| done > stands) {
                return None;
            }
            let at = s.date(minimum.at);
            let on = s.calendar.open_on_or_before(add_days(at, -i64::from(*before)));
            Some((on, say!("own_rule.minimum", minimum = s.system.reservoir.minimum, day = day(at, today))))
        }
    }
}
