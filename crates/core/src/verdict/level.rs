//! What a level means: what is there, what may be added, how long it lasts.

use super::{Gauge, Tone, Verdict};
use crate::calendar::day;
use crate::fact::{Subject, TopOff, TopOffWater};
use crate::figures::FIGURES;
use crate::forecast::{self, Uptake};
use crate::message::{Message, Param, Unit, count, days};
use crate::mixing::Water;
use crate::quantity::{Conductivity, Litres};
use crate::refill::limit_from;
use crate::reservoir::{RefillLimit, RefillMethod};
use crate::say;
use crate::situation::Situation;
use jiff::SignedDuration;

/// Judges a volume.
#[must_use]
pub fn judge_level(volume: Litres, s: &Situation<'_>) -> Verdict {
    let reservoir = &s.system.reservoir;
    let (minimum, working, maximum) = (reservoir.minimum, reservoir.working, reservoir.maximum);
    let uptake = forecast::uptake(&s.known.tank);
    let todo = |verdict: Verdict, todo: Message| verdict.todo(todo, FIGURES.level.slack);
    let level = |tone, finding, why, next| Verdict::new(Subject::Level, tone, finding, why, next);
    let fill = fill_words(&limit_from(volume, s), s);
    // Minimum lies below working: both were checked when the vessel was set up.
    let part = (volume - minimum).get() / (working - minimum).get();
    let verdict = if volume > maximum {
        let finding = say!("verdict.level.over", volume = volume, working = working, maximum = maximum);
        let high = level(Tone::Act, finding, say!("verdict.level.over_why"), say!("verdict.level.over_next"));
        todo(high, say!("verdict.level.over_todo"))
    } else if volume < minimum {
        let finding = say!("verdict.level.below", volume = volume, working = working, minimum = minimum);
        let still = s.system.traits.still();
        let why = if still { say!("verdict.level.below_why_still") } else { say!("verdict.level.below_why") };
        todo(level(Tone::Now, finding, why, fill), say!("verdict.level.below_todo"))
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
    let lasts = (volume - minimum).get() / uptake.a_day.get();
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

fn how_sure(uptake: Option<Uptake>) -> Message {
    match uptake {
        None => say!("verdict.level.sure_unknown"),
        Some(uptake) => say!("verdict.level.sure", intervals = count(uptake.intervals)),
    }
}

fn fill_words(limit: &RefillLimit, s: &Situation<'_>) -> Message {
    let limited = s.system.refill != RefillMethod::NoLimit;
    if limit.litres < Litres::constant(FIGURES.bench.least_top_off) {
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

/// Judges a top-off on top of `volume`: against the maximum, and for still water against its limit.
/// What was poured is a fact and is kept; the verdict says what it means. `ec` is what stood there.
#[must_use]
pub fn judge_top_off(top_off: TopOff, volume: Option<Litres>, ec: Option<Conductivity>, s: &Situation<'_>) -> Verdict {
    let poured = say_poured(top_off);
    let maximum = s.system.reservoir.maximum;
    let verdict = |tone, finding, why, next| Verdict::new(Subject::TopOff, tone, finding, why, next);
    let Some(volume) = volume else {
        let finding = say!("verdict.top_off.unread", poured = poured);
        return verdict(Tone::Watch, finding, say!("verdict.top_off.unread_why"), say!("verdict.top_off.unread_next"));
    };
    let after = volume + top_off.litres;
    let limit = limit_from(volume, s);
    if after > maximum * (1.0 + FIGURES.level.over) {
        let finding = say!("verdict.top_off.over", poured = poured, after = after, maximum = maximum);
        let (why, next) = (say!("verdict.level.over_why"), say!("verdict.top_off.over_next"));
        return verdict(Tone::Act, finding, why, next).todo(say!("verdict.level.over_todo"), FIGURES.level.slack);
    }
    let most = limit.litres * (1.0 + FIGURES.level.limit_over) + Litres::constant(0.01);
    if s.system.refill != RefillMethod::NoLimit && top_off.litres > most {
        let finding = say!("verdict.top_off.past_limit", poured = poured, limit = limit.litres);
        let next = if s.system.refill == RefillMethod::OneInch {
            say!("verdict.top_off.past_inch_next", limit = limit.litres, rest = days(FIGURES.refill.rest_days))
        } else {
            say!("verdict.top_off.past_limit_next", limit = limit.litres)
        };
        let todo = say!("verdict.top_off.past_limit_todo");
        return verdict(Tone::Now, finding, limit.reason, next).todo(todo, FIGURES.level.slack);
    }
    let finding = match strength_after(top_off, volume, ec, s) {
        Some(ec) => say!("verdict.top_off.right_at", poured = poured, after = after, ec = ec),
        None => say!("verdict.top_off.right", poured = poured, after = after),
    };
    verdict(Tone::Fine, finding, say!("verdict.top_off.right_why"), say!("verdict.top_off.right_next"))
        .sure(say!("mixing.linear"))
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

/// EC after pouring, by the salt balance, where both strengths are known.
fn strength_after(
    top_off: TopOff,
    volume: Litres,
    ec: Option<Conductivity>,
    s: &Situation<'_>,
) -> Option<Conductivity> {
    let added = match top_off.water {
        TopOffWater::Plain => s.system.source_ec,
        TopOffWater::Feed { ec } => ec?,
        TopOffWater::Premixed {} => s.known.lessons.premixed?.value.ec?,
    };
    Some(Water::new(volume, ec?).with(Water::new(top_off.litres, added)).ec)
}
