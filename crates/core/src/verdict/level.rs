//! What a level means: what is there, what may be added, how long it lasts.

use super::{Gauge, Subject, Tone, Verdict};
use crate::calendar::{days_between, local_date, say_date};
use crate::care::Situation;
use crate::crop::{Planting, Stage};
use crate::forecast::{self, Uptake};
use crate::log::{TopOff, TopOffWater};
use crate::quantity::Litres;
use crate::reservoir::{ONE_INCH_REST_DAYS, RefillLimit, RefillMethod, refill_limit};
use jiff::SignedDuration;

/// Days that a vessel below its minimum may wait.
const SLACK: f64 = 0.5;
/// Below this share of the way from minimum to working line a top-off is worth the trip.
const WORTH_FILLING: f64 = 0.75;

/// Days after planting in which a seedling's roots do not reach the water yet.
const YOUNG_DAYS: i32 = 10;

/// The refill limit from a volume, with what the log knows of recent levels.
#[must_use]
pub fn limit_from(volume: Litres, s: &Situation<'_>) -> RefillLimit {
    let now = s.now.timestamp();
    if young(s) {
        return until_roots_reach(volume, s);
    }
    let days = s.state.last_refill().map(|at| days_between(at, now));
    refill_limit(s.system.refill, &s.system.reservoir, volume, s.state.highest_volume(now, 3.0), days, s.wording)
}

/// Whether nothing stands here but seedlings lately planted, whose roots do not reach the water yet.
fn young(s: &Situation<'_>) -> bool {
    let reaches = |p: &Planting| p.stage > Stage::Seedling || (s.now.date() - p.planted_on).get_days() > YOUNG_DAYS;
    s.system.refill != RefillMethod::NoLimit && s.plants() > 0 && !s.grows(|p| p.stage != Stage::Done && reaches(p))
}

/// There are no air roots to drown yet: water up to the working line, 6 mm up the net pots.
fn until_roots_reach(volume: Litres, s: &Situation<'_>) -> RefillLimit {
    let up_to = Litres::nearest(s.system.reservoir.working.get().max(volume.get()));
    let reason = "Seedlings whose roots do not reach the water yet: to the working line, 6 mm up the net pots.".to_owned();
    RefillLimit { up_to, litres: Litres::nearest(up_to.get() - volume.get()), reason }
}

/// Judges a volume.
#[must_use]
pub fn judge_level(volume: Litres, s: &Situation<'_>) -> Verdict {
    let (reservoir, w) = (&s.system.reservoir, s.wording);
    let (v, min, work, max) = (volume.get(), reservoir.minimum.get(), reservoir.working.get(), reservoir.maximum.get());
    let said = format!("{} of {}", w.volume(volume), w.volume(reservoir.working));
    let limit = limit_from(volume, s);
    let uptake = forecast::uptake(s.state);
    let lasts = uptake.filter(|u| u.a_day > 0.0 && v > min).map(|u| (v - min) / u.a_day);
    let why = match (uptake, lasts) {
        (Some(u), Some(days)) => {
            format!("It drinks about {}; the minimum of {} is reached {}.", w.volume_a_day(Litres::nearest(u.a_day)), w.volume(reservoir.minimum), say_when(days, s))
        }
        _ => format!("The minimum is {}.", w.volume(reservoir.minimum)),
    };
    let fill = fill_words(&limit, s);
    let part = (v - min) / (work - min);
    let verdict = if v > max {
        Verdict::calm(Subject::Level, Tone::Act, format!("{said}: over the maximum of {}", w.volume(reservoir.maximum)), "It spills when the pump stops.", "Take some out.")
            .todo("Lower the level", SLACK)
    } else if v < min {
        let urgent = if s.system.traits.still() { "Roots may hang dry." } else { "Pump and roots may run dry." };
        Verdict::calm(Subject::Level, Tone::Now, format!("{said}: below the minimum of {}", w.volume(reservoir.minimum)), urgent, &fill).todo("Top off: below minimum", SLACK)
    } else if part < WORTH_FILLING {
        Verdict::calm(Subject::Level, Tone::Watch, said, &why, &fill)
    } else {
        Verdict::calm(Subject::Level, Tone::Fine, said, &why, "Nothing to add today.")
    };
    verdict.sure(&how_sure(uptake)).on(Gauge { from: 0.0, to: max * 1.1, band: [min, work.max(min)], value: [v * 0.99, v * 1.01] })
}

fn say_when(days: f64, s: &Situation<'_>) -> String {
    if days < 0.5 {
        return format!("in about {:.0} hours", (days * 24.0).max(1.0));
    }
    let at = s.now.timestamp().saturating_add(SignedDuration::from_secs((days.min(400.0) * 86_400.0) as i64)).unwrap_or(s.now.timestamp());
    let date = say_date(local_date(at, s.now), s.now.date());
    format!("{}{date}, in {days:.1} days", if date == "today" || date == "tomorrow" { "" } else { "on " })
}

fn how_sure(uptake: Option<Uptake>) -> String {
    match uptake {
        None => "What it drinks a day is known once two levels have been read.".to_owned(),
        Some(u) => {
            format!("From the last {} of drinking; thirsty days may bring it sooner.", if u.intervals == 1 { "interval".to_owned() } else { format!("{} intervals", u.intervals) })
        }
    }
}

fn fill_words(limit: &RefillLimit, s: &Situation<'_>) -> String {
    let litres = limit.litres.get();
    if litres < 0.05 {
        return if s.system.refill == RefillMethod::NoLimit { "It is full to the working line.".to_owned() } else { format!("Add nothing now. {}", limit.reason) };
    }
    let amount = s.wording.volume(limit.litres);
    match s.system.refill {
        RefillMethod::NoLimit => format!("Top off {amount} ({litres:.0} kg to carry) up to the working line."),
        _ => format!("Add {amount} at most, up to {}. {}", s.wording.volume(limit.up_to), limit.reason),
    }
}

/// Judges a top-off on top of `volume`: against the maximum, and for still water against its limit.
/// What was poured is a fact and is kept; the verdict says what it means.
#[must_use]
pub fn judge_top_off(top_off: TopOff, volume: Option<Litres>, s: &Situation<'_>) -> Verdict {
    let w = s.wording;
    let kind = match top_off.water {
        TopOffWater::Premixed {} => "feed mixed ahead".to_owned(),
        TopOffWater::Plain => "plain water".to_owned(),
        TopOffWater::Feed { ec: None } => "feed".to_owned(),
        TopOffWater::Feed { ec: Some(ec) } => format!("feed at {}", w.ec(ec)),
    };
    let said = format!("{} of {kind}", w.volume(top_off.litres));
    let Some(volume) = volume else {
        return Verdict::calm(
            Subject::TopOff,
            Tone::Watch,
            said,
            "The level before it was not read, so what stands there now is a guess.",
            "Read the level before you pour, next time.",
        )
        .sure("");
    };
    let after = Litres::nearest(volume.get() + top_off.litres.get());
    let limit = limit_from(volume, s);
    if after.get() > s.system.reservoir.maximum.get() * 1.005 {
        return Verdict::calm(
            Subject::TopOff,
            Tone::Act,
            format!("{said} makes {}, over the maximum of {}", w.volume(after), w.volume(s.system.reservoir.maximum)),
            "It spills when the pump stops.",
            "Pour less, or take some out.",
        )
        .todo("Lower the level", SLACK);
    }
    if s.system.refill != RefillMethod::NoLimit && top_off.litres.get() > limit.litres.get() * 1.02 + 0.01 {
        let rest = if s.system.refill == RefillMethod::OneInch { format!(" The next rise is due after {ONE_INCH_REST_DAYS:.0} days.") } else { String::new() };
        return Verdict::calm(
            Subject::TopOff,
            Tone::Now,
            format!("{said} passes the limit of {}", w.volume(limit.litres)),
            &limit.reason,
            &format!("Pour no more than {}; if it is in already, take the rest out until the upper roots hang in air.{rest}", w.volume(limit.litres)),
        )
        .todo("Uncover the air roots", SLACK);
    }
    let strength = strength_after(top_off, volume, s).map_or(String::new(), |ec| format!("; EC about {}", w.ec(ec)));
    Verdict::calm(Subject::TopOff, Tone::Fine, format!("{said} makes {}{strength}", w.volume(after)), "Within what the vessel takes.", "Pour slowly, away from the stems.")
        .sure("Dilution is linear in EC to a few per cent.")
}

/// EC after pouring, by the salt balance, where both strengths are known.
fn strength_after(top_off: TopOff, volume: Litres, s: &Situation<'_>) -> Option<crate::quantity::Conductivity> {
    let before = s.state.ec?.value.get();
    let added = match top_off.water {
        TopOffWater::Plain => s.system.source_ec.get(),
        TopOffWater::Feed { ec } => ec?.get(),
        TopOffWater::Premixed {} => s.state.premixed?.value.ec?.get(),
    };
    let (v0, v1) = (volume.get(), top_off.litres.get());
    (v0 + v1 > 0.0).then(|| crate::quantity::Conductivity::nearest((before * v0 + added * v1) / (v0 + v1)))
}
