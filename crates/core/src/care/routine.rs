//! When a routine check is due: its interval after the last time, moved off closed days. The level
//! comes sooner when the water would reach its minimum first.

use super::change::change_due;
use super::{Check, Situation, checks, slack};
use crate::calendar::{add_days, end_of, local_date, say_date, say_days};
use crate::crop::Stage;
use crate::forecast;
use crate::quantity::Litres;
use crate::system::Kind;
use jiff::Timestamp;
use jiff::civil::Date;

/// A check with its day, its last moment without cost, and the reason.
#[derive(Debug, Clone, PartialEq)]
pub struct Due {
    /// Which check.
    pub check: Check,
    /// The day on which it is due, an open one.
    pub on: Date,
    /// The moment from which lateness counts.
    pub from: Timestamp,
    /// Days of slack behind it.
    pub slack_days: f64,
    /// Why then.
    pub reason: String,
}

/// Every routine check of the system with its due day.
#[must_use]
pub fn routine(s: &Situation<'_>) -> Vec<Due> {
    checks().iter().filter_map(|facts| due(facts.key, s)).collect()
}

/// The interval in days that holds here: the system's own, else the usual one. `None` when the
/// check is turned off or not part of this system.
#[must_use]
pub fn interval(check: Check, s: &Situation<'_>) -> Option<u16> {
    if !check.applies(&s.system.traits) {
        return None;
    }
    let film = s.system.kind == Kind::FilmChannel;
    let days = match s.system.intervals.get(&check) {
        Some(own) => *own,
        None => check.usual_days(&s.system.traits, film, s.system.measuring)?,
    };
    (days > 0).then_some(days)
}

/// When one check is due.
#[must_use]
pub fn due(check: Check, s: &Situation<'_>) -> Option<Due> {
    let days = interval(check, s)?;
    let slack = slack(check, s.system, s.state, s.plants(), s.wording);
    let last = if check == Check::Calibrate { s.calibrated } else { s.state.done.get(&check).copied() };
    let (wanted, mut reason) = match check {
        Check::Change => {
            let due = change_due(s);
            (due.on, due.reason)
        }
        Check::Harvest => harvest(last, days, s)?,
        Check::Roots | Check::Plants | Check::Pests if s.plants() == 0 => return None,
        Check::Roots if s.state.root_case.is_some() => return None,
        Check::Pollinate if !s.grows(|p| p.stage == Stage::Flowering && p.facts().is_some_and(|c| c.pollinate)) => return None,
        Check::TieUp if !s.grows(|p| p.stage >= Stage::Vegetative && p.facts().is_some_and(|c| c.tie)) => return None,
        _ => by_interval(check, last, days, s),
    };
    if let Some(halved) = &slack.halved {
        reason = format!("{} {}{}.", reason, halved[..1].to_uppercase(), &halved[1..]);
    }
    let dated = settled(check, wanted, slack.days, last, s);
    let plain = Due { check, on: dated, from: end_of(dated, s.now.time_zone()), slack_days: slack.days, reason };
    Some(if check == Check::Level { sooner_by_forecast(plain, s) } else { plain })
}

/// Off the closed days, and never back to a day on which it was done already. Look-ins count open
/// days only, so they simply wait for the next one.
fn settled(check: Check, wanted: Date, slack_days: f64, last: Option<Timestamp>, s: &Situation<'_>) -> Date {
    if check == Check::LookIn {
        return s.calendar.open_on_or_after(wanted);
    }
    let on = s.calendar.settle(wanted, slack_days);
    match last {
        Some(last) if on <= local_date(last, s.now) => s.calendar.open_on_or_after(wanted),
        _ => on,
    }
}

fn by_interval(check: Check, last: Option<Timestamp>, days: u16, s: &Situation<'_>) -> (Date, String) {
    let every = if days == 1 { "every day".to_owned() } else { format!("every {}", say_days(days.into())) };
    let today = s.now.date();
    match last {
        Some(last) => {
            let done = local_date(last, s.now);
            let ago = (today - done).get_days();
            let said = if ago > 13 { format!("{ago} days ago") } else { say_date(done, today) };
            (add_days(done, days.into()), format!("Last done {said}; {every}."))
        }
        // A level and a reading are the ground that everything else stands on: wanted at once.
        None if matches!(check, Check::Level | Check::Readings) => (today, "Not done yet: the first reading is what later ones are held against.".to_owned()),
        None => (never_done(s, days), format!("Not done since care began {}; {every}.", say_date(s.began(), today))),
    }
}

/// When something that was never recorded is due: its days after care began; on a system without
/// any entry never before today, for what was done before is not known.
fn never_done(s: &Situation<'_>, days: u16) -> Date {
    let due = add_days(s.began(), days.into());
    if s.state.first_at.is_none() { due.max(s.now.date()) } else { due }
}

/// Brings the level check forward to when the water nears its minimum, with a fifth of the time in
/// hand.
fn sooner_by_forecast(plain: Due, s: &Situation<'_>) -> Due {
    let Some((minimum, uptake)) = forecast::minimum_reached(s.state, &s.system.reservoir).zip(forecast::uptake(s.state)) else {
        return plain;
    };
    if minimum.act_by >= plain.from {
        return plain;
    }
    let zoned = minimum.at.to_zoned(s.now.time_zone().clone());
    let part = match zoned.hour() {
        0..=5 => "in the night",
        6..=11 => "in the morning",
        12..=17 => "in the afternoon",
        _ => "in the evening",
    };
    let passed = minimum.at < s.now.timestamp();
    let a_day = s.wording.volume_a_day(Litres::nearest(uptake.a_day));
    let floor = s.wording.volume(s.system.reservoir.minimum);
    let day = say_date(zoned.date(), s.now.date());
    let reason =
        if passed { format!("Drinks {a_day}; by that it passed its minimum of {floor} {day}.") } else { format!("Drinks {a_day}; reaches its minimum of {floor} {day} {part}.") };
    let on = local_date(minimum.act_by, s.now);
    Due { on: s.calendar.open_on_or_before(on), from: minimum.act_by, reason, ..plain }
}

/// The first harvest of the planting that is ready first, then every week.
fn harvest(last: Option<Timestamp>, days: u16, s: &Situation<'_>) -> Option<(Date, String)> {
    let ready = |p: &&crate::crop::Planting| p.stage >= Stage::Vegetative && p.stage != Stage::Done;
    let first = s.plantings.iter().filter(ready).filter_map(|p| p.facts().map(|crop| (add_days(p.planted_on, crop.days.into()), p, crop.days)));
    let (window, planting, after) = first.min_by_key(|(on, ..)| *on)?;
    let next = last.map(|last| add_days(local_date(last, s.now), days.into()));
    let on = next.map_or(window, |next| next.max(window));
    Some((on, format!("{} is ready {after} days after planting on, {}.", planting.crop.as_str(), say_date(window, s.now.date()))))
}
