//! When a routine check is due: its interval after the last time, moved off closed days. The level
//! comes sooner when the water would reach its minimum first.

use super::cause::wanted_since;
use super::change::change_due;
use super::cycle::picking_caution;
use super::light::light_due;
use super::slack;
use super::stages::stage_due;
use crate::calendar::{add_days, add_whole_days, day, days_between, end_of};
use crate::crop::{Harvest, Planting, Stage};
use crate::fact::Meshes;
use crate::figures::FIGURES;
use crate::forecast;
use crate::message::{Message, Param, Unit, days, member, term};
use crate::projection::Standing;
use crate::say;
use crate::situation::Situation;
use crate::system::{Check, checks};
use crate::verdict::{Rank, Tone, judge_run_off};
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
    /// What it comes before.
    pub rank: Rank,
    /// Why then.
    pub reason: Message,
    /// What to do, where that depends on what grows here.
    pub doing: Option<Message>,
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
    interval_at(check, s.now.timestamp(), s)
}

/// The same by what was known at a moment, of the system as it is given.
pub(super) fn interval_at(check: Check, at: Timestamp, s: &Situation<'_>) -> Option<u16> {
    let every = s.system.interval(check)?;
    let own = s.system.intervals.contains_key(&check);
    let found = s.known.done.meshes.iter().filter(|(seen, _)| *seen <= at).map(|(_, found)| *found);
    Some(if check == Check::Filters && !own { rinsed_every(every, found) } else { every })
}

/// The days between two rinses of the meshes, by what the last ones found: twice as long each time that they were clean,
/// up to a week. Clogged meshes let roots dry within hours: at once back to the usual days, or to half of them.
fn rinsed_every(usual: u16, found: impl Iterator<Item = Meshes>) -> u16 {
    let most = Check::Filters.facts().days.max(usual);
    found.fold(usual, |every, found| match found {
        Meshes::Clean => (every * 2).min(most),
        Meshes::Dirt => every,
        Meshes::Clogged => (every / 2).clamp(1, usual),
    })
}

/// When one check is due.
#[must_use]
pub fn due(check: Check, s: &Situation<'_>) -> Option<Due> {
    let every = interval(check, s)?;
    let slack = slack(check, s);
    let last = match check {
        Check::Calibrate => s.calibrated,
        // What was skipped is reckoned from then on, as if it had been done.
        _ => s.known.done.of(check).max(s.known.done.skipped_at(check.code())),
    };
    let mut doing = None;
    let (wanted, reason) = match check {
        Check::Change => {
            let due = change_due(s);
            (due.on, due.reason)
        }
        Check::Harvest => {
            let (on, reason, how) = harvest(last, every, s)?;
            let minded = vec![how.doing(), picking_caution(s)];
            doing = Some(say!("sentences", all = Param::Sentences(minded)));
            (on, reason)
        }
        Check::Stage => {
            let (on, reason, look) = stage_due(last, every, s)?;
            doing = Some(look);
            (on, reason)
        }
        Check::RunOff => run_off_due(last, every, s),
        Check::Light => {
            let (on, reason, set) = light_due(last, every, s)?;
            doing = Some(set);
            (on, reason)
        }
        Check::Roots | Check::Plants | Check::Pests if s.plants() == 0 => return None,
        Check::Roots if s.known.cases.root_rot().is_some() => return None,
        Check::Pollinate if !s.grows(flowers_want_shaking) => return None,
        Check::TieUp if !s.grows(wants_tying) => return None,
        _ => by_interval(check, last, every, s),
    };
    let wanted = wanted_since(check, last, s).map_or(wanted, |since| wanted.max(since));
    let on = settled(check, wanted, slack.days, last, s);
    let plain = Due {
        check,
        on,
        from: end_of(on, s.now.time_zone()),
        slack_days: slack.days,
        rank: Rank::Routine,
        reason,
        doing,
    };
    let due = match check {
        Check::Level => sooner_by_forecast(plain, s),
        Check::Readings => sooner_by_drift(plain, s),
        _ => plain,
    };
    let learnt =
        s.known.done.meshes.last().filter(|_| check == Check::Filters && s.system.interval(check) != Some(every));
    let due = match learnt {
        Some((_, found)) => {
            let said = say!("routine.meshes", found = member("meshes", found.code()), every = days(every));
            Due { reason: say!("sentences", all = Param::Sentences(vec![due.reason, said])), ..due }
        }
        None => due,
    };
    let reason = match slack.halved {
        Some(halved) => say!("sentences", all = Param::Sentences(vec![due.reason, halved])),
        None => due.reason,
    };
    Some(Due { reason, ..due })
}

pub(super) fn flowers_want_shaking(planting: &Planting) -> bool {
    matches!(planting.stage, Stage::Flowering | Stage::Fruiting) && planting.facts().is_some_and(|crop| crop.pollinate)
}

pub(super) fn wants_tying(planting: &Planting) -> bool {
    (Stage::Vegetative..Stage::Done).contains(&planting.stage) && planting.facts().is_some_and(|crop| crop.tie)
}

/// Off the closed days, and never back to a day on which it was done already. Look-ins count open
/// days only, so they simply wait for the next one.
fn settled(check: Check, wanted: Date, slack_days: f64, last: Option<Timestamp>, s: &Situation<'_>) -> Date {
    if check == Check::LookIn {
        return s.calendar.open_on_or_after(wanted);
    }
    let on = s.calendar.settle(wanted, slack_days);
    match last {
        Some(last) if on <= s.date(last) => s.calendar.open_on_or_after(wanted),
        _ => on,
    }
}

/// A date further back than this is said as days ago.
const DAYS_AGO_FROM: i32 = 13;

pub(super) fn by_interval(check: Check, last: Option<Timestamp>, every: u16, s: &Situation<'_>) -> (Date, Message) {
    let today = s.today();
    if let Some(skipped) = s.known.done.skipped_at(check.code()) {
        let said = match s.known.done.of(check) {
            Some(done) => say!("routine.last_done", day = day(s.date(done), today), every = days(every)),
            None => say!("put_off.never_done"),
        };
        let skipped = s.date(skipped);
        return (add_days(skipped, every.into()), say!("put_off.skipped", day = day(skipped, today), last = said));
    }
    match last {
        Some(last) => {
            let done = s.date(last);
            let ago = (today - done).get_days();
            let reason = if ago > DAYS_AGO_FROM {
                say!("routine.last_done_ago", ago = days(ago), every = days(every))
            } else {
                say!("routine.last_done", day = day(done, today), every = days(every))
            };
            (add_days(done, every.into()), reason)
        }
        // A level and a reading are the ground that everything else stands on: wanted at once.
        None if matches!(check, Check::Level | Check::Readings) => (today, say!("routine.first_reading")),
        None => {
            let reason = say!("routine.not_done", day = day(s.began(), today), every = days(every));
            (never_done(s, every), reason)
        }
    }
}

/// When something that was never recorded is due: its days after care began; on a system without
/// any entry never before today, for what was done before is not known.
fn never_done(s: &Situation<'_>, every: u16) -> Date {
    let due = add_days(s.began(), every.into());
    if s.known.done.first_at.is_none() { due.max(s.today()) } else { due }
}

/// The run-off is read again soon where the last was not as it should be.
fn run_off_due(last: Option<Timestamp>, every: u16, s: &Situation<'_>) -> (Date, Message) {
    let usual = by_interval(Check::RunOff, last, every, s);
    let amiss = s.known.tank.run_off.filter(|seen| judge_run_off(&seen.value, s).tone > Tone::Fine);
    match amiss {
        Some(seen) if s.known.done.skipped_at(Check::RunOff.code()).is_none() => {
            let on = add_days(s.date(seen.at), FIGURES.run_off.again_days as i64);
            if on < usual.0 {
                (on, say!("routine.run_off_again", day = day(s.date(seen.at), s.today())))
            } else {
                usual
            }
        }
        _ => usual,
    }
}

/// Where nobody has measured yet what they drink, a small vessel is not left unread for a week: plants like these tell by when.
fn sooner_by_crop(plain: Due, s: &Situation<'_>) -> Due {
    let Some((act_by, on, drunk)) = forecast::minimum_by_crop(s).filter(|(act_by, ..)| *act_by < plain.from) else {
        return plain;
    };
    let (a_day, floor) = (Param::Number(drunk.get(), Unit::LitresADay), s.system.reservoir.minimum);
    let reason = say!("routine.by_crop", a_day = a_day, minimum = floor, day = day(on, s.today()));
    Due { on: s.calendar.open_on_or_before(s.date(act_by)).max(s.began()), from: act_by, reason, ..plain }
}

/// Brings the level check forward to when the water nears its minimum, with a fifth of the time in
/// hand.
fn sooner_by_forecast(plain: Due, s: &Situation<'_>) -> Due {
    let Some(minimum) = forecast::minimum_reached(s) else { return sooner_by_crop(plain, s) };
    if minimum.act_by >= plain.from {
        return plain;
    }
    let zoned = minimum.at.to_zoned(s.now.time_zone().clone());
    let a_day = Param::Number(minimum.a_day.get(), Unit::LitresADay);
    let (floor, day) = (s.system.reservoir.minimum, day(zoned.date(), s.today()));
    let reason = if minimum.at < s.now.timestamp() {
        say!("routine.passed_minimum", a_day = a_day, minimum = floor, day = day)
    } else {
        let part = term(match zoned.hour() {
            0..=5 => "routine.night",
            6..=11 => "routine.morning",
            12..=17 => "routine.afternoon",
            _ => "routine.evening",
        });
        say!("routine.reaches_minimum", a_day = a_day, minimum = floor, day = day, part = part)
    };
    let on = s.calendar.open_on_or_before(s.date(minimum.act_by));
    let dry = minimum.at < s.now.timestamp() && s.plants() > 0;
    let rank = if dry { Rank::Hours } else { Rank::Routine };
    Due { on, from: minimum.act_by, rank, reason, ..plain }
}

/// Brings the readings forward to the day on which pH leaves its band by its drift, and to the day after
/// a dose that a drop kit could not judge at once.
fn sooner_by_drift(plain: Due, s: &Situation<'_>) -> Due {
    let Some(last) = s.known.readings.ph else { return plain };
    if let Some((changed, ..)) = s.source_changed().filter(|_| s.system.measuring.ec()) {
        let on = s.calendar.open_on_or_after(add_days(s.date(last.at), 1));
        let reason = say!("routine.source_changed", day = day(s.date(changed), s.today()));
        return if on < plain.on { Due { on, from: end_of(on, s.now.time_zone()), reason, ..plain } } else { plain };
    }
    let read = s.date(last.at);
    let dosed = s.known.lessons.ph_doses.last().filter(|dose| dose.to.is_none() && dose.at >= last.at);
    let (days, reason) = match dosed {
        None if climbs(last.at, last.value.middle(), s) => (FIGURES.ph.climbs_look, say!("routine.ph_climbs")),
        Some(dose) => (1.0, say!("routine.dosed", day = day(s.date(dose.at), s.today()))),
        None => {
            let (a_day, band, ph) = (Standing::ph_a_day(s.known), s.ph_band(), last.value.middle());
            let end = if a_day > 0.0 { band.high.get() } else { band.low.get() };
            let left = (end - ph) / a_day;
            if a_day.abs() < FIGURES.ph.drifts || left <= 0.0 {
                return plain;
            }
            let by = Param::Number(a_day.abs(), Unit::TwoDecimals);
            (left.floor().max(1.0), say!("routine.ph_drifts", by = by, days = days(left.floor().max(1.0))))
        }
    };
    let on = s.calendar.open_on_or_before(add_whole_days(read, days)).max(add_days(read, 1));
    if on >= plain.on {
        return plain;
    }
    Due { on, from: end_of(on, s.now.time_zone()), reason, ..plain }
}

/// Whether water lately put right with acid, or poured onto a tank that stood over its band, has not been read since its gas
/// had time to leave.
fn climbs(read: Timestamp, ph: f64, s: &Situation<'_>) -> bool {
    let fresh = s.known.lessons.acid_in_fresh.is_some_and(|at| days_between(at, read) < 1.0);
    let poured = s.water().ph().and_then(|about| about.moved).is_some_and(|moved| moved >= read);
    fresh || (poured && ph > s.ph_band().high.get())
}

/// The first harvest of the planting that is ready first, then every week.
fn harvest(last: Option<Timestamp>, every: u16, s: &Situation<'_>) -> Option<(Date, Message, Harvest)> {
    let grown = s.plantings.iter().filter(|p| (Stage::Vegetative..Stage::Done).contains(&p.stage));
    let ready =
        grown.filter_map(|p| p.facts().map(|crop| (add_days(p.growing_since(), crop.days.into()), p, crop.days)));
    let (window, planting, after) = ready.min_by_key(|(on, ..)| *on)?;
    let next = last.map(|last| add_days(s.date(last), every.into()));
    let on = next.map_or(window, |next| next.max(window));
    let crop = planting.crop.as_str();
    let how = planting.facts().map(|facts| facts.harvest).unwrap_or_default();
    Some((on, say!("routine.harvest", crop = crop, after = days(after), day = day(window, s.today())), how))
}
