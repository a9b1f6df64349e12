//! When the water reaches the minimum, by what the system drinks: of the one estimate of the water, as it was left when it
//! was last read, poured or drained.

use crate::calendar::{add_days, after};
use crate::crop::Season;
use crate::fact::PremixIn;
use crate::figures::FIGURES;
use crate::quantity::{Conductivity, Litres, Quantity};
use crate::situation::Situation;
use crate::system::TopOffMethod;
use jiff::civil::Date;
use jiff::{SignedDuration, Timestamp};

pub use crate::projection::Uptake;

/// What the system drinks a day, both vessels of a float valve together.
#[must_use]
pub fn drinks(s: &Situation<'_>) -> Option<Uptake> {
    crate::projection::drinks(s.known, s.system)
}

/// What stands behind the float valve at a moment, where so much is drunk a day.
#[must_use]
pub fn behind(s: &Situation<'_>, at: Timestamp, a_day: Litres) -> Litres {
    crate::projection::behind(s.known, s.system, at, a_day)
}

/// What the top-off reservoir takes until it is full again; `None` where nobody ever said how full it is filled.
#[must_use]
pub fn supply_takes(s: &Situation<'_>) -> Option<Litres> {
    let a_day = drinks(s).map_or(Litres::ZERO, |uptake| uptake.a_day);
    let takes = s.known.supply.takes(s.now.timestamp(), a_day, s.system);
    takes.map(|litres| litres / s.system.drum_part())
}

/// What is left in the top-off reservoir by now; nothing where nobody ever said.
#[must_use]
pub fn supply_left(s: &Situation<'_>) -> Litres {
    let a_day = drinks(s).map_or(Litres::ZERO, |uptake| uptake.a_day);
    s.known.supply.left_at(s.now.timestamp(), a_day) / s.system.drum_part()
}

/// Whether plain water is kept behind the float valve: where a controller doses the tank, where the last filling was no
/// stronger than the source, or where it was in use without one and the system is topped off with plain water.
#[must_use]
pub fn holds_plain(s: &Situation<'_>) -> bool {
    if s.system.traits.controller {
        return true;
    }
    let source = s.system.source_ec + Conductivity::constant(FIGURES.strength.rise);
    let takes_up = || s.known.lessons.ledger.takes_up(s.ec_target()?.aim).map(|taken| taken.value);
    // Plain water that took a strong tank down once is no habit where the reservoir is mixed as the plants take it up.
    if s.system.methods.top_off == TopOffMethod::Reservoir && takes_up().is_some_and(|taken| taken > source) {
        return false;
    }
    let mixed = s.known.lessons.premixed.filter(|ready| ready.value.into == PremixIn::TopOffReservoir);
    match mixed {
        Some(mixed) => mixed.value.ec.is_some_and(|ec| ec <= source),
        None => s.known.supply.last().is_some() && s.system.methods.top_off == TopOffMethod::Plain,
    }
}

/// When water reaches the minimum.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Minimum {
    /// On a usual day's drinking.
    pub at: Timestamp,
    /// On thirsty days, from the least that may have stood there.
    pub earliest: Timestamp,
    /// On quiet days, from the most that may have stood there; `None` where nothing may be drunk at all.
    pub latest: Option<Timestamp>,
    /// When to have topped off, with some of the time in hand.
    pub act_by: Timestamp,
    /// What is drunk on a usual day.
    pub a_day: Litres,
    /// Whether it was read to stand no higher, and nothing was poured since.
    pub read: bool,
}

/// A forecast reaches no further than this, in days.
const HORIZON: f64 = 3650.0;

/// When the water reaches the minimum; `None` without a known volume or uptake, or where nothing is drunk. The list of
/// tasks, rules of one's own and the outlook ask this and nothing else.
#[must_use]
pub fn minimum_reached(s: &Situation<'_>) -> Option<Minimum> {
    let ((since, left), uptake) = (s.known.water.left()?, drinks(s)?);
    if uptake.a_day <= Litres::ZERO {
        return None;
    }
    let minimum = s.system.reservoir.minimum;
    let after = |days: f64| {
        let seconds = (days.min(HORIZON) * 86_400.0) as i64;
        since.saturating_add(SignedDuration::from_secs(seconds)).unwrap_or(Timestamp::MAX)
    };
    // Behind a float valve it stands still until what stands there is drunk.
    let lasts = |litres: Litres, a_day: Litres| ((litres - minimum).or_nothing() + behind(s, since, a_day)) / a_day;
    let (quiet, thirsty) = uptake.spread();
    let days = lasts(left.value, uptake.a_day);
    Some(Minimum {
        at: after(days),
        earliest: after(lasts(left.low, thirsty)),
        latest: (quiet > Litres::ZERO).then(|| after(lasts(left.high, quiet))),
        act_by: after(days * (1.0 - FIGURES.uptake.in_hand)),
        a_day: uptake.a_day,
        read: left.measured && left.value <= minimum,
    })
}

/// When the water reaches the minimum by what plants like these drink in a warm and bright season, where nobody has measured
/// yet what they drink: the moment by which to have read it, the day of the minimum, and what they drink by then. `None` where it
/// was measured, where a float valve fills it, and where it lasts longer than is looked ahead.
#[must_use]
pub fn minimum_by_crop(s: &Situation<'_>) -> Option<(Timestamp, Date, Litres)> {
    if drinks(s).is_some() || s.system.traits.supplied() || s.plants() == 0 {
        return None;
    }
    let (since, left) = s.known.water.left()?;
    let mut stands = (left.value - s.system.reservoir.minimum).positive()?;
    let first = s.date(since);
    for n in 0..CROP_AHEAD {
        let date = add_days(first, n);
        let drunk = s.plantings.iter().map(|planting| planting.drinks_on(date, Season::BRIGHT).get()).sum::<f64>();
        if drunk >= stands.get() {
            let days = n as f64 + stands.get() / drunk;
            let act_by = after(since, days * (1.0 - FIGURES.uptake.in_hand));
            return Some((act_by, date, Litres::calculated(drunk)));
        }
        stands = Litres::calculated(stands.get() - drunk);
    }
    None
}

/// Nobody leaves a level unread for longer, in days.
const CROP_AHEAD: i64 = 14;
