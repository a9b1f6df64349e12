//! What a level means: what is there, what may be added, how long it lasts.

use super::{Before, Gauge, Rank, Tone, Verdict};
use crate::calendar::day;
use crate::fact::{Apart, Subject, TopOff, TopOffWater, Visit};
use crate::figures::FIGURES;
use crate::forecast::{self, Uptake};
use crate::message::{Message, Param, Unit, count, days};
use crate::mixing::Water;
use crate::mixing::balance::{drain_first, top_off as feed_to};
use crate::projection::Standing;
use crate::quantity::{Litres, band};
use crate::refill::{least, limit_from, limit_of, too_wide};
use crate::reservoir::{RefillLimit, RefillMethod};
use crate::say;
use crate::situation::Situation;
use jiff::SignedDuration;

/// Judges a volume.
#[must_use]
pub fn judge_level(volume: Litres, s: &Situation<'_>) -> Verdict {
    let reservoir = &s.system.reservoir;
    let (minimum, working, maximum) = (reservoir.minimum, s.system.full(), s.system.highest());
    let uptake = forecast::drinks(s);
    let todo = |verdict: Verdict, todo: Message| verdict.todo(todo, FIGURES.level.slack);
    let level = |tone, finding, why, next| Verdict::new(Subject::Level, tone, finding, why, next);
    let fill = fill_words(&limit_from(volume, s), s);
    // Minimum lies below working: both were checked when the vessel was set up.
    let part = (volume - minimum).get() / (working - minimum).get();
    let verdict = if volume > maximum {
        let finding = say!("verdict.level.over", volume = volume, working = working, maximum = maximum);
        let out = (volume - working).or_nothing();
        let high = level(Tone::Act, finding, over_why(s), say!("verdict.level.over_next", out = out));
        todo(high, say!("verdict.level.over_todo")).ranked(Rank::Hours)
    } else if volume < minimum {
        let finding = say!("verdict.level.below", volume = volume, working = working, minimum = minimum);
        let pumped = s.system.traits.circulates;
        let why = if !pumped { say!("verdict.level.below_why_still") } else { say!("verdict.level.below_why") };
        todo(level(Tone::Now, finding, why, fill), say!("verdict.level.below_todo")).ranked(Rank::Hours)
    } else if volume > working * (1.0 + FIGURES.level.over_line) {
        let finding = say!("verdict.level.over_line", volume = volume, working = working);
        level(
            Tone::Watch,
            finding,
            say!("verdict.level.over_line_why", maximum = maximum),
            say!("verdict.level.right_next"),
        )
    } else if part < FIGURES.level.worth_filling {
        let finding = say!("verdict.level.low", volume = volume, working = working);
        level(Tone::Watch, finding, lasts(volume, uptake, s), fill)
    } else {
        let finding = say!("verdict.level.right", volume = volume, working = working);
        level(Tone::Fine, finding, lasts(volume, uptake, s), say!("verdict.level.right_next"))
    };
    let reading = 0.01;
    let value = [volume.get() * (1.0 - reading), volume.get() * (1.0 + reading)];
    let band = [minimum.get(), working.get()];
    verdict.sure(how_sure(uptake)).on(Gauge { from: 0.0, to: maximum.get() * 1.1, band, value })
}

/// How long it lasts, by what it drinks.
fn lasts(volume: Litres, uptake: Option<Uptake>, s: &Situation<'_>) -> Message {
    let minimum = s.system.reservoir.minimum;
    let left = uptake.filter(|u| u.a_day > Litres::ZERO && volume > minimum);
    let Some(uptake) = left else { return say!("verdict.level.minimum_is", minimum = minimum) };
    let behind = forecast::behind(s, s.now.timestamp(), uptake.a_day);
    let lasts = ((volume - minimum).or_nothing() + behind) / uptake.a_day;
    let a_day = Param::Number(uptake.a_day.get(), Unit::LitresADay);
    if lasts < 0.5 {
        let hours = Param::Number((lasts * 24.0).max(1.0).round(), Unit::Hours);
        return say!("verdict.level.lasts_hours", a_day = a_day, minimum = minimum, hours = hours);
    }
    let seconds = SignedDuration::from_secs((lasts.min(400.0) * 86_400.0) as i64);
    let at = s.now.timestamp().saturating_add(seconds).unwrap_or(s.now.timestamp());
    let day = day(s.date(at), s.today());
    say!("verdict.level.lasts_days", a_day = a_day, minimum = minimum, day = day, days = days(lasts))
}

/// Vessels of one loop that do not stand level: what joins them is clogged, by roots more often than not.
#[must_use]
pub fn judge_apart(apart: &Apart) -> Verdict {
    let which = count(apart.which);
    let finding = say!("verdict.level.apart", which = which, lowest = apart.lowest, fullest = apart.fullest);
    let (why, next) = (say!("verdict.level.apart_why"), say!("verdict.level.apart_next"));
    Verdict::new(Subject::Level, Tone::Act, finding, why, next)
        .todo(say!("verdict.level.apart_todo"), FIGURES.level.apart_slack)
}

fn how_sure(uptake: Option<Uptake>) -> Message {
    match uptake {
        None => say!("verdict.level.sure_unknown"),
        Some(Uptake { intervals: 0, .. }) => say!("verdict.level.sure_timer"),
        Some(uptake) => say!("verdict.level.sure", intervals = count(uptake.intervals)),
    }
}

fn fill_words(limit: &RefillLimit, s: &Situation<'_>) -> Message {
    let limited = s.system.refill != RefillMethod::NoLimit;
    if limit.litres < least(s) {
        return if limited {
            say!("verdict.level.add_nothing", reason = limit.reason.clone())
        } else {
            say!("verdict.level.full")
        };
    }
    if limited {
        let (litres, up_to) = (limit.litres, limit.up_to);
        return say!("verdict.level.add_up_to", litres = litres, up_to = up_to, reason = limit.reason.clone());
    }
    say!("verdict.level.top_off", litres = limit.litres, weight = Param::Number(limit.litres.get(), Unit::Kilograms))
}

/// Why too much water is too much here.
fn over_why(s: &Situation<'_>) -> Message {
    if s.system.traits.drain_back > Litres::ZERO {
        return say!("verdict.level.over_why", drain_back = s.system.traits.drain_back);
    }
    say!("verdict.level.over_why_rim")
}

/// Judges a top-off: against the maximum, for still water against its limit, and by the strength that
/// it leaves. What was poured is a fact and is kept; the verdict says what it means. `before` is what
/// stood there, `after` what stands there now.
#[must_use]
pub fn judge_top_off(top_off: TopOff, before: &Before, after: &Standing, visit: &Visit, s: &Situation<'_>) -> Verdict {
    let poured = say_poured(top_off);
    let maximum = s.system.highest();
    let verdict = |tone, finding, why, next| Verdict::new(Subject::TopOff, tone, finding, why, next);
    let standing =
        before.litres.map(|litres| (litres, (litres.value - visit.drained.unwrap_or(Litres::ZERO)).or_nothing()));
    let Some((litres, left)) = standing.filter(|(litres, _)| !too_wide(litres, s)) else {
        let finding = say!("verdict.top_off.unread", poured = poured);
        return verdict(Tone::Watch, finding, say!("verdict.top_off.unread_why"), say!("verdict.top_off.unread_next"));
    };
    let stands = left + top_off.litres;
    if stands > maximum * (1.0 + FIGURES.level.over) {
        let finding = say!("verdict.top_off.over", poured = poured, after = stands, maximum = maximum);
        let next = say!("verdict.top_off.over_next", out = (stands - maximum).or_nothing());
        return verdict(Tone::Act, finding, over_why(s), next)
            .todo(say!("verdict.level.over_todo"), FIGURES.level.slack);
    }
    let limit = limit_of(&litres, s);
    let most = (limit.up_to - left).or_nothing() * (1.0 + FIGURES.level.limit_over) + Litres::constant(0.01);
    if s.system.refill != RefillMethod::NoLimit && top_off.litres > most {
        let allowed = (limit.up_to - left).or_nothing();
        let finding = say!("verdict.top_off.past_limit", poured = poured, limit = allowed);
        let next = if s.system.refill == RefillMethod::OneInch {
            say!("verdict.top_off.past_inch_next", limit = allowed, rest = days(FIGURES.refill.rest_days))
        } else {
            say!("verdict.top_off.past_limit_next", limit = allowed)
        };
        let todo = say!("verdict.top_off.past_limit_todo");
        return verdict(Tone::Now, finding, limit.reason, next).todo(todo, FIGURES.level.slack);
    }
    let strength = after.ec().filter(|_| before.ec.is_some());
    let finding = match strength {
        Some(ec) => say!("verdict.top_off.right_at", poured = poured, after = stands, ec = ec.value),
        None => say!("verdict.top_off.right", poured = poured, after = stands),
    };
    let ends = strength.zip(before.ec).and_then(|(after, ec)| {
        let standing = Water::new(litres.value, ec.value);
        ends_outside(Water::new(stands, after.value), standing, s)
    });
    if let Some((why, next)) = ends {
        return verdict(Tone::Watch, finding, why, next).sure(say!("mixing.linear"));
    }
    verdict(Tone::Fine, finding, say!("verdict.top_off.right_why"), say!("verdict.top_off.right_next"))
        .sure(say!("mixing.linear"))
}

/// Where a top-off ends outside the band: that it does, and what would not have. `None` inside it, and
/// where nothing says how strong the water should be.
#[must_use]
pub fn ends_outside(after: Water, before: Water, s: &Situation<'_>) -> Option<(Message, Message)> {
    let target = s.ec_target()?;
    let (error, source, full) = (FIGURES.strength.meter_error, s.system.source_ec, after.litres);
    let wanted = Water::new(full, target.aim);
    if after.ec > target.high * (1.0 + error) {
        let why = say!("verdict.top_off.too_strong", ec = after.ec, band = band(target.low, target.high));
        let next = match drain_first(before, wanted, source) {
            Ok(drain) => {
                say!("verdict.top_off.drain_first", drain = drain, plain = (full - before.litres).or_nothing() + drain)
            }
            Err(_) => say!("verdict.top_off.plain_instead"),
        };
        return Some((why, next));
    }
    if target.feeds() && after.ec < target.low * (1.0 - error) {
        let why = say!("verdict.top_off.too_weak", ec = after.ec, band = band(target.low, target.high));
        let next = match feed_to(before, wanted, source) {
            Ok(add) if add.ec.get() <= FIGURES.strength.most_in_jug => {
                say!("verdict.top_off.feed_instead", ec = add.ec)
            }
            _ => say!("verdict.top_off.stir_in", volume = full, rise = (target.aim - after.ec).size()),
        };
        return Some((why, next));
    }
    None
}

fn say_poured(top_off: TopOff) -> Message {
    let litres = top_off.litres;
    match top_off.water {
        TopOffWater::Premixed {} => say!("poured.premixed", litres = litres),
        TopOffWater::Plain => say!("poured.plain", litres = litres),
        TopOffWater::Feed { ec: None } => say!("poured.feed", litres = litres),
        TopOffWater::Feed { ec: Some(ec) } => say!("poured.feed_at", litres = litres, ec = ec),
    }
}
