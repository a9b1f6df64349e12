//! How far a system may be filled up now, by what its log knows of recent levels.

use crate::calendar::days_between;
use crate::crop::{Planting, Stage};
use crate::figures::FIGURES;
use crate::quantity::Litres;
use crate::reservoir::{RefillLimit, RefillMethod, refill_limit};
use crate::say;
use crate::situation::Situation;

/// The refill limit from a volume, with what the log knows of recent levels.
#[must_use]
pub fn limit_from(volume: Litres, s: &Situation<'_>) -> RefillLimit {
    let (now, reservoir, tank) = (s.now.timestamp(), &s.system.reservoir, &s.known.tank);
    if young(s) {
        // There are no air roots to drown yet.
        return RefillLimit::up_to(reservoir.working, volume, say!("refill.until_roots_reach"));
    }
    let days = tank.last_refill().map(|at| days_between(at, now));
    refill_limit(s.system.refill, reservoir, volume, tank.highest_volume(now, FIGURES.refill.hold_days), days)
}

/// Whether nothing stands here but seedlings lately planted, whose roots do not reach the water yet.
fn young(s: &Situation<'_>) -> bool {
    let since = |planting: &Planting| f64::from((s.today() - planting.planted_on).get_days());
    let reaches = |p: &Planting| p.stage > Stage::Seedling || since(p) > FIGURES.refill.young_days;
    s.system.refill != RefillMethod::NoLimit && s.plants() > 0 && !s.grows(|p| p.stage != Stage::Done && reaches(p))
}

/// How far still water may be refilled at a change: with plants in it, no higher than a refill may
/// raise it. `None` where air roots set no limit.
#[must_use]
pub fn fill_limit(s: &Situation<'_>) -> Option<RefillLimit> {
    let standing = s.known.tank.last_volume()?.after;
    (s.system.refill != RefillMethod::NoLimit && s.plants() > 0).then(|| limit_from(standing, s))
}

/// The volume that a change fills to: the working line, or the limit where that is lower, with the
/// limit.
#[must_use]
pub fn fill_to(s: &Situation<'_>) -> (Litres, Option<RefillLimit>) {
    let working = s.system.reservoir.working;
    match fill_limit(s) {
        Some(limit) if limit.up_to < working => (limit.up_to, Some(limit)),
        _ => (working, None),
    }
}
