//! Changes by need: where the water and the roots are seen to hold, the days between two changes stretch.
//!
//! It rests on evidence alone, none of it older than a usual round of care: what the system drinks is known, EC and pH were
//! read in or close to their bands, the roots were seen to be sound, and the water is not warm. Salts that gather, a bad
//! look of the water and disease bring the change forward as ever. Little water is thrown away then: what was read says
//! that there is no reason to.

use crate::calendar::{add_days, add_whole_days};
use crate::dosing::uncalibrated;
use crate::figures::FIGURES;
use crate::forecast;
use crate::message::Message;
use crate::say;
use crate::situation::Situation;
use crate::system::{ChangeMethod, Check};
use jiff::civil::Date;

/// What is known of the water and the roots.
#[derive(Debug, Clone, PartialEq)]
pub(super) enum Holds {
    /// All of it was seen lately.
    Yes,
    /// One of them is not so, or was not seen lately; since a day, where it ever was.
    No {
        /// Since when.
        since: Option<Date>,
        /// What is missing, in a sentence.
        why: Message,
    },
}

impl Holds {
    fn no(since: Option<Date>, why: Message) -> Self {
        Self::No { since, why }
    }
}

/// Whether water and roots hold; `None` where the system is changed after fixed days.
pub(super) fn holds(s: &Situation<'_>) -> Option<Holds> {
    if s.system.methods.change != ChangeMethod::Need {
        return None;
    }
    let all = [drinks(s), cool(s), meter(s), strength(s), ph(s), roots(s)];
    let mut missing: Vec<Holds> = all.into_iter().flatten().collect();
    // What was known longest not to hold is what it is changed for.
    missing.sort_by_key(|one| match one {
        Holds::No { since, .. } => *since,
        Holds::Yes => None,
    });
    Some(missing.into_iter().next().unwrap_or(Holds::Yes))
}

fn drinks(s: &Situation<'_>) -> Option<Holds> {
    forecast::drinks(s).is_none().then(|| Holds::no(None, say!("by_need.drinks")))
}

fn cool(s: &Situation<'_>) -> Option<Holds> {
    let read = s.known.readings.temperature?;
    let warm = read.value.get() >= FIGURES.water.very_warm;
    warm.then(|| Holds::no(Some(s.date(read.at)), say!("by_need.warm", temperature = read.value)))
}

/// A meter that nobody calibrated, or that is past its date, says nothing.
fn meter(s: &Situation<'_>) -> Option<Holds> {
    uncalibrated(s).is_err().then(|| {
        let past = s.calibrated.zip(s.system.interval(Check::Calibrate));
        let since = past.map(|(at, every)| add_days(s.date(at), i64::from(every) + 1));
        Holds::no(since, say!("by_need.meter"))
    })
}

fn strength(s: &Situation<'_>) -> Option<Holds> {
    let figures = &FIGURES.change;
    let (Some(read), true) = (s.known.tank.ec, s.system.measuring.ec()) else {
        return Some(Holds::no(None, say!("by_need.ec_unread")));
    };
    let target = s.ec_target()?;
    let (low, high) = (target.low * (1.0 - figures.need_ec), target.high * (1.0 + figures.need_ec));
    let date = s.date(read.at);
    if read.value < low || read.value > high {
        return Some(Holds::no(Some(date), say!("by_need.ec_off", ec = read.value)));
    }
    stale(date, figures.need_read, s).map(|since| Holds::no(Some(since), say!("by_need.ec_old")))
}

fn ph(s: &Situation<'_>) -> Option<Holds> {
    let figures = &FIGURES.change;
    let Some(read) = s.known.readings.ph else { return Some(Holds::no(None, say!("by_need.ph_unread"))) };
    let (band, ph, date) = (s.ph_band(), read.value.middle(), s.date(read.at));
    if ph < band.low.get() - figures.need_ph || ph > band.high.get() + figures.need_ph {
        return Some(Holds::no(Some(date), say!("by_need.ph_off", ph = read.value)));
    }
    stale(date, figures.need_read, s).map(|since| Holds::no(Some(since), say!("by_need.ph_old")))
}

fn roots(s: &Situation<'_>) -> Option<Holds> {
    if s.plants() == 0 {
        return None;
    }
    if let Some(case) = s.known.cases.root_rot() {
        return Some(Holds::no(Some(s.date(case.opened)), say!("by_need.roots_ill")));
    }
    let Some(seen) = s.known.happened.sound_roots.last() else {
        return Some(Holds::no(None, say!("by_need.roots_unseen")));
    };
    stale(s.date(*seen), FIGURES.change.need_roots, s).map(|since| Holds::no(Some(since), say!("by_need.roots_old")))
}

/// Since when something that was seen on a day says nothing any more.
fn stale(seen: Date, lasts: f64, s: &Situation<'_>) -> Option<Date> {
    let until = add_whole_days(seen, lasts);
    (until < s.today()).then_some(until)
}

/// The days between two changes where all holds: twice the usual ones, and four weeks at most.
pub(super) fn stretched(every: i64) -> i64 {
    let figures = &FIGURES.change;
    ((every as f64 * figures.need_share).min(figures.need_days) as i64).max(every)
}
