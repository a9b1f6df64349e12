//! What comes, if nothing is added: level, strength, pH and what is left in the top-off reservoir, day by day with a
//! range that widens; and the day on which each leaves its band or runs out.
//!
//! The water is carried on by the one estimate that every rule asks ([`Situation::water`]): drinking by the median of
//! its intervals, eating by the salt ledger, pH by its robust slope; one wrong reading or a skipped day moves none of
//! them far. Strength and pH are told no further than to the day on which the water reaches its minimum, for then
//! somebody adds water.

use super::Task;
use super::routine::due;
use crate::calendar::{add_days, after, day, days_between};
use crate::figures::FIGURES;
use crate::forecast::{self, holds_plain};
use crate::message::{Message, Param, Unit, count, days, ph};
use crate::projection::{Standing, SupplyPoint, Uptake};
use crate::quantity::{About, Litres, Quantity, band};
use crate::say;
use crate::situation::Situation;
use crate::system::{Check, Measuring};
use crate::verdict::Rank;
use jiff::Timestamp;
use jiff::civil::Date;
use serde::Serialize;

/// What is looked ahead at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Ahead {
    /// The water in the vessel.
    Level,
    /// Its strength.
    Ec,
    /// Its pH.
    Ph,
    /// What is left in the top-off reservoir.
    Supply,
}

/// One day of it, in its canonical unit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, utoipa::ToSchema)]
pub struct AheadPoint {
    /// Days from now.
    pub days: f64,
    /// The least that it may be.
    pub low: f64,
    /// The likeliest.
    pub value: f64,
    /// The most that it may be.
    pub high: f64,
}

/// When it leaves its band.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Leaves {
    /// The first day on which it may.
    #[schema(value_type = String, format = Date)]
    pub earliest: Date,
    /// The likeliest.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// The day by which it surely has; absent where that is further off than is looked ahead.
    #[schema(value_type = Option<String>, format = Date)]
    pub latest: Option<Date>,
}

/// What comes of one thing.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Outlook<W = Message> {
    /// Of what.
    pub of: Ahead,
    /// What that is called.
    pub name: W,
    /// Day by day, from now on; none where nothing is known yet.
    pub points: Vec<AheadPoint>,
    /// The lower end of what is wanted.
    pub low: Option<f64>,
    /// Its upper end.
    pub high: Option<f64>,
    /// When it leaves that; absent where it stays.
    pub leaves: Option<Leaves>,
    /// In a sentence.
    pub said: W,
    /// From what this is known, and how well.
    pub sure: W,
}

impl<W> Outlook<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Outlook<V> {
        let Self { of, points, low, high, leaves, .. } = self;
        Outlook { of, name: say(self.name), points, low, high, leaves, said: say(self.said), sure: say(self.sure) }
    }
}

/// Days that are looked ahead.
pub const LOOKED_AHEAD: u32 = 21;

/// What comes at a system: each thing that is known of, or could be.
#[must_use]
pub fn outlook(s: &Situation<'_>) -> Vec<Outlook> {
    if s.nothing_yet() {
        return Vec::new();
    }
    let level = level(s);
    let until = level.as_ref().and_then(|level| level.leaves).map(|leaves| leaves.on);
    [level, ec(until, s), acidity(until, s), supply(s)].into_iter().flatten().collect()
}

/// The water carried on, day by day, as long as `read` finds something in it.
fn carried<Q: Quantity>(
    until: Option<Date>,
    read: impl Fn(&Standing) -> Option<About<Q>>,
    s: &Situation<'_>,
) -> Vec<AheadPoint> {
    let point = |n: u32| {
        let at = after(s.now.timestamp(), f64::from(n));
        let about = read(&s.known.water.clone().carried(at, s.known, s.system))?;
        Some(AheadPoint {
            days: n.into(),
            low: about.low.number(),
            value: about.value.number(),
            high: about.high.number(),
        })
    };
    let within = |n: &u32| until.is_none_or(|until| add_days(s.today(), i64::from(*n)) <= until);
    (0..=LOOKED_AHEAD).take_while(within).map_while(point).collect()
}

/// When a series first leaves a band: as early as its range does, as likely as its middle, and surely once all of its
/// range is outside.
fn leaves(points: &[AheadPoint], low: f64, high: f64, s: &Situation<'_>) -> Option<(Leaves, bool)> {
    let date = |point: &AheadPoint| add_days(s.today(), point.days as i64);
    let middle = points.iter().find(|p| p.value < low || p.value > high)?;
    let above = middle.value > high;
    let first = points.iter().find(|p| if above { p.high > high } else { p.low < low });
    let last = points.iter().find(|p| if above { p.low > high } else { p.high < low });
    let on = date(middle);
    Some((Leaves { earliest: first.map_or(on, date), on, latest: last.map(date) }, above))
}

/// A day with the range of days around it, where there is one.
fn when(leaves: &Leaves, s: &Situation<'_>) -> Message {
    let (today, on) = (s.today(), day(leaves.on, s.today()));
    match leaves.latest {
        Some(latest) if latest > leaves.on || leaves.earliest < leaves.on => {
            say!("outlook.between", day = on, from = day(leaves.earliest, today), to = day(latest, today))
        }
        None => say!("outlook.from", day = on, from = day(leaves.earliest, today)),
        Some(_) => say!("outlook.on", day = on),
    }
}

/// How well drinking is known.
fn drinks(uptake: Option<Uptake>) -> Message {
    match uptake {
        None => say!("outlook.unknown"),
        Some(Uptake { intervals: 0, .. }) => say!("outlook.timer"),
        Some(uptake) if (uptake.intervals as f64) < FIGURES.uptake.steady_from => {
            say!("outlook.few", from = count(uptake.intervals))
        }
        Some(uptake) => say!("outlook.steady", from = count(uptake.intervals)),
    }
}

fn level(s: &Situation<'_>) -> Option<Outlook> {
    s.water().litres()?;
    let uptake = forecast::drinks(s);
    let (minimum, highest) = (s.system.reservoir.minimum, s.system.highest());
    let points = if uptake.is_some() { carried(None, Standing::litres, s) } else { Vec::new() };
    let reached = forecast::minimum_reached(s);
    let (today, last) = (s.today(), add_days(s.today(), i64::from(LOOKED_AHEAD)));
    let date = |at: Timestamp| s.date(at).max(today);
    let leaves = reached.filter(|reached| s.date(reached.at) <= last).map(|reached| Leaves {
        earliest: date(reached.earliest),
        on: date(reached.at),
        latest: reached.latest.map(date).filter(|latest| *latest <= last),
    });
    let said = match (&leaves, reached) {
        (Some(_), Some(reached)) if reached.at <= s.now.timestamp() && reached.read => {
            say!("outlook.level_now", minimum = minimum)
        }
        (Some(_), Some(reached)) if reached.at <= s.now.timestamp() => say!("outlook.level_likely", minimum = minimum),
        (Some(leaves), _) => say!("outlook.level", minimum = minimum, when = when(leaves, s)),
        (None, _) if uptake.is_none() => say!("outlook.level_unknown"),
        (None, Some(reached)) if s.date(reached.earliest) <= last => {
            say!("outlook.level_may", minimum = minimum, day = day(date(reached.earliest), today))
        }
        (None, _) => say!("outlook.level_stays", days = days(LOOKED_AHEAD)),
    };
    let (low, high) = (Some(minimum.get()), Some(highest.get()));
    Some(Outlook {
        of: Ahead::Level,
        name: say!("outlook.level_name"),
        points,
        low,
        high,
        leaves,
        said,
        sure: drinks(uptake),
    })
}

fn ec(until: Option<Date>, s: &Situation<'_>) -> Option<Outlook> {
    let target = s.ec_target().filter(|_| s.system.measuring.ec())?;
    if s.water().ec()?.read.is_none() && s.known.tank.ec.is_none() {
        return Some(unread(Ahead::Ec, say!("outlook.ec_name"), say!("outlook.ec_unread")));
    }
    let stretches = s.known.lessons.ledger.stretches.len();
    let points = carried(until, Standing::ec, s);
    let found = leaves(&points, target.low.get(), target.high.get(), s);
    let range = || band(target.low, target.high);
    let said = match &found {
        Some((leaves, _)) if leaves.on <= s.today() => say!("outlook.ec_now", band = range()),
        Some((leaves, true)) => say!("outlook.ec_rises", end = target.high, when = when(leaves, s)),
        Some((leaves, false)) => say!("outlook.ec_falls", end = target.low, when = when(leaves, s)),
        None => match may_leave(&points, target.low.get(), target.high.get(), s) {
            Some(on) => say!("outlook.ec_may", band = range(), day = on),
            None => stays(say!("outlook.ec_stays", band = range()), until, s),
        },
    };
    let sure = match stretches {
        0 | 1 => say!("outlook.eats_unknown"),
        from => say!("outlook.eats", from = count(from)),
    };
    let (low, high) = (Some(target.low.get()), Some(target.high.get()));
    let leaves = found.map(|(leaves, _)| leaves);
    Some(Outlook { of: Ahead::Ec, name: say!("outlook.ec_name"), points, low, high, leaves, said, sure })
}

/// The first day on which its range reaches outside, where its middle does not: that it stays is said only where all of the
/// range does.
fn may_leave(points: &[AheadPoint], low: f64, high: f64, s: &Situation<'_>) -> Option<Param> {
    let first = points.iter().find(|p| p.low < low || p.high > high)?;
    Some(day(add_days(s.today(), first.days as i64), s.today()))
}

/// What nobody has read is not said to hold: it is asked for.
fn unread(of: Ahead, name: Message, said: Message) -> Outlook {
    let sure = say!("outlook.unknown");
    Outlook { of, name, points: Vec::new(), low: None, high: None, leaves: None, said, sure }
}

/// That it stays within its band, and until when that is told.
fn stays(said: Message, until: Option<Date>, s: &Situation<'_>) -> Message {
    match until {
        Some(until) => say!("outlook.stays_until", said = said, day = day(until, s.today())),
        None => say!("outlook.stays_for", said = said, days = days(LOOKED_AHEAD)),
    }
}

fn acidity(until: Option<Date>, s: &Situation<'_>) -> Option<Outlook> {
    if s.system.measuring == Measuring::RecipeOnly {
        return None;
    }
    if s.water().ph()?.read.is_none() {
        return Some(unread(Ahead::Ph, say!("outlook.ph_name"), say!("outlook.ph_unread")));
    }
    let target = s.ph_band();
    let points = carried(until, Standing::ph, s);
    let found = leaves(&points, target.low.get(), target.high.get(), s);
    let range = || Param::Band(target.low.get(), target.high.get(), Unit::Ph);
    let said = match &found {
        Some((leaves, _)) if leaves.on <= s.today() => say!("outlook.ph_now", band = range()),
        Some((leaves, true)) => say!("outlook.ph_rises", end = ph(target.high.get()), when = when(leaves, s)),
        Some((leaves, false)) => say!("outlook.ph_falls", end = ph(target.low.get()), when = when(leaves, s)),
        None => match may_leave(&points, target.low.get(), target.high.get(), s) {
            Some(on) => say!("outlook.ph_may", band = range(), day = on),
            None => stays(say!("outlook.ph_stays", band = range()), until, s),
        },
    };
    let a_day = Standing::ph_a_day(s.known);
    let sure = if a_day.abs() < FIGURES.ph.drifts {
        say!("outlook.ph_still")
    } else if a_day > 0.0 {
        say!("outlook.ph_climbs", by = Param::Number(a_day, Unit::TwoDecimals))
    } else {
        say!("outlook.ph_drops", by = Param::Number(-a_day, Unit::TwoDecimals))
    };
    let (low, high) = (Some(target.low.get()), Some(target.high.get()));
    let leaves = found.map(|(leaves, _)| leaves);
    Some(Outlook { of: Ahead::Ph, name: say!("outlook.ph_name"), points, low, high, leaves, said, sure })
}

/// The top-off reservoir as it stands, and what it feeds a day.
pub(super) struct Lasts {
    pub(super) left: Litres,
    pub(super) feeds: Uptake,
}

/// How long the top-off reservoir lasts; `None` while nobody knows what it feeds.
pub(super) fn lasts(s: &Situation<'_>) -> Option<Lasts> {
    let (last, feeds) = (s.known.supply.last()?, s.known.supply.feeds()?);
    let gone = feeds.a_day * days_between(last.at, s.now.timestamp()).max(0.0);
    let left = (last.after - gone).or_nothing();
    (feeds.a_day > Litres::ZERO).then_some(Lasts { left, feeds })
}

fn supply(s: &Situation<'_>) -> Option<Outlook> {
    if !s.system.traits.top_off_reservoir {
        return None;
    }
    let last = s.known.supply.last();
    let Some((last, lasts)) = last.zip(lasts(s)) else {
        let said = if last.is_some() { say!("outlook.supply_once") } else { say!("outlook.supply_unread") };
        let (name, sure) = (say!("outlook.supply_name"), say!("outlook.unknown"));
        return Some(Outlook {
            of: Ahead::Supply,
            name,
            points: Vec::new(),
            low: None,
            high: None,
            leaves: None,
            said,
            sure,
        });
    };
    let (quiet, thirsty) = lasts.feeds.spread();
    let since = days_between(last.at, s.now.timestamp()).max(0.0);
    let part = s.system.drum_part();
    let at = |rate: Litres, n: u32| (last.after.get() - rate.get() * (since + f64::from(n))).max(0.0);
    let point = |n: u32| AheadPoint {
        days: n.into(),
        low: at(thirsty, n) / part,
        value: at(lasts.feeds.a_day, n) / part,
        high: at(quiet, n) / part,
    };
    let points: Vec<AheadPoint> = (0..=LOOKED_AHEAD).map(point).collect();
    let dry = |rate: Litres| s.date(after(last.at, (last.after / rate).min(3650.0)));
    let leaves = Leaves {
        earliest: dry(thirsty),
        on: dry(lasts.feeds.a_day),
        latest: (quiet > Litres::ZERO).then(|| dry(quiet)),
    };
    let said = said(last, &lasts, (day(leaves.on, s.today()), when(&leaves, s)), s);
    Some(Outlook {
        of: Ahead::Supply,
        name: say!("outlook.supply_name"),
        points,
        low: Some(0.0),
        high: None,
        leaves: Some(leaves),
        said: say!("sentences", all = Param::Sentences(said)),
        sure: drinks(Some(lasts.feeds)),
    })
}

/// That the top-off reservoir is filled again, with a fifth of the time in hand, once that is near.
pub(super) fn supply_task(s: &Situation<'_>) -> Option<Task> {
    let last = s.known.supply.last().filter(|_| s.system.own_drum())?;
    // From when it was last read or filled, so that a day that has come does not move on with the clock. Once it is empty
    // the vessel falls from then on, also where nobody knows yet how fast.
    let found_dry = last.after <= Litres::ZERO;
    let lasts = lasts(s);
    let holds = match &lasts {
        Some(lasts) => (last.after / lasts.feeds.a_day).min(3650.0),
        None if found_dry => 0.0,
        None => return None,
    };
    let (dry, act_by) = (after(last.at, holds), after(last.at, holds * (1.0 - FIGURES.uptake.in_hand)));
    let on = s.calendar.open_on_or_before(s.date(act_by));
    if f64::from((on - s.today()).get_days()) > SUPPLY_SAID {
        return None;
    }
    let dry_on = day(s.date(dry), s.today());
    let reason = lasts.as_ref().map_or_else(
        || vec![say!("outlook.supply_dry_only", day = dry_on.clone())],
        |lasts| said(last, lasts, (dry_on.clone(), say!("outlook.on", day = dry_on.clone())), s),
    );
    let reason = say!("sentences", all = Param::Sentences(reason));
    let doing = if holds_plain(s) { say!("outlook.refill_plain") } else { say!("outlook.refill_doing") };
    let task = Task::new("supply", say!("outlook.refill"), doing, reason, on, act_by, s);
    let mut task = task.slack(FIGURES.level.supply_slack, s).adult();
    if dry <= s.now.timestamp() {
        task = task.ranked(if s.plants() > 0 { Rank::Hours } else { Rank::Routine });
        task.safe_why = say!("safe.why_dry", day = dry_on);
    }
    Some(task)
}

/// What is left in it and how long that holds, as it was found or as it is worked out; and whether it lasts to the harvest.
/// `dry` is the day on which it runs dry, by itself and with its range.
fn said(last: SupplyPoint, lasts: &Lasts, (dry_on, when): (Param, Message), s: &Situation<'_>) -> Vec<Message> {
    let part = s.system.drum_part();
    let a_day = Param::Number(lasts.feeds.a_day.get() / part, Unit::LitresADay);
    let holds = if last.after <= Litres::ZERO {
        say!("outlook.supply_found_dry", day = day(s.date(last.at), s.today()), a_day = a_day)
    } else if lasts.left <= Litres::ZERO {
        say!("outlook.supply_dry", a_day = a_day, day = dry_on)
    } else {
        say!("outlook.supply", left = lasts.left / part, a_day = a_day, when = when)
    };
    std::iter::once(holds).chain(until_harvest(lasts, s)).collect()
}

/// The task is told so many days ahead.
const SUPPLY_SAID: f64 = 7.0;

/// Whether it lasts until the harvest, where that is near enough to be reckoned to.
pub(super) fn until_harvest(lasts: &Lasts, s: &Situation<'_>) -> Option<Message> {
    let harvest = due(Check::Harvest, s)?.on;
    let ahead = f64::from((harvest - s.today()).get_days());
    if ahead <= 0.0 || ahead > f64::from(LOOKED_AHEAD) {
        return None;
    }
    let day = day(harvest, s.today());
    let more = (lasts.feeds.a_day * ahead - lasts.left).or_nothing();
    Some(if more.get() < FIGURES.bench.least_top_off {
        say!("outlook.to_harvest", day = day)
    } else {
        say!("outlook.short_of_harvest", day = day, more = more)
    })
}
