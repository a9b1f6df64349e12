//! How far a system may be filled up now, by what its log knows of recent levels.

use crate::calendar::days_between;
use crate::crop::{Planting, Stage};
use crate::figures::FIGURES;
use crate::message::Message;
use crate::projection::above;
use crate::quantity::{About, Conductivity, Litres, Millimetres};
use crate::reservoir::{RefillLimit, RefillMethod, Reservoir, refill_limit};
use crate::say;
use crate::situation::Situation;

/// The refill limit from a volume that was read, with what the log knows of recent levels.
#[must_use]
pub fn limit_from(volume: Litres, s: &Situation<'_>) -> RefillLimit {
    let vessel = s.system.vessel();
    if young(s) {
        // There are no air roots to drown yet.
        return RefillLimit::up_to(
            vessel.working,
            volume,
            say!("refill.until_roots_reach", up = Millimetres::constant(FIGURES.refill.up_the_pot)),
        );
    }
    let line = line_at(volume, s);
    refill_limit(s.system.refill, &vessel, volume, Some(line.litres), line.rested)
}

/// The line that roots are used to, and for how many days it has not been passed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LineNow {
    /// The highest level of the last three days.
    pub litres: Litres,
    /// Days since water rose above it; `None` where it never did.
    pub rested: Option<f64>,
}

/// The line, where so much stands there now. What stands above it was filled in unseen, and is a rise of today.
#[must_use]
pub fn line_at(volume: Litres, s: &Situation<'_>) -> LineNow {
    let (now, tank) = (s.now.timestamp(), &s.known.tank);
    let known = tank.line.with(now, Some(volume), tank.thirst());
    let before = tank.line.at(now, tank.thirst());
    let rested = match before {
        Some(line) if above(volume, line) => Some(0.0),
        _ => tank.line.raised().map(|at| days_between(at, now)),
    };
    LineNow { litres: known.map_or(volume, |line| line.max(volume)), rested }
}

/// Whether a volume is known too badly to pour anything by it: it is read first. One that was carried on until nothing is
/// left has no range any more, and is known worst of all: plants are dead by then, or somebody filled it unseen.
#[must_use]
pub fn too_wide(standing: &About<Litres>, s: &Situation<'_>) -> bool {
    let carried_dry = !standing.measured && standing.value <= Litres::ZERO;
    carried_dry || standing.width() > (s.system.full() * FIGURES.level.too_wide).get()
}

/// Whether it is known well enough how much water there is to pour anything by it.
#[must_use]
pub fn level_known(s: &Situation<'_>) -> bool {
    s.water().litres().is_some_and(|standing| !too_wide(&standing, s))
}

/// Whether a strength is known well enough to pour anything by it: measured, or not carried on for too long.
#[must_use]
pub fn strength_known(about: &About<Conductivity>) -> bool {
    about.measured || about.width() <= FIGURES.strength.too_wide * about.value.get()
}

/// Less than this is no top-off here: a glass of water, or in a jar a fiftieth of its filling.
#[must_use]
pub fn least(s: &Situation<'_>) -> Litres {
    Litres::constant(FIGURES.bench.least_top_off).min(s.system.full() * FIGURES.bench.least_share)
}

/// The refill limit from what is only known about: so little that it is right wherever the water really
/// stands, and nothing at all where that is not known well enough.
#[must_use]
pub fn limit_of(standing: &About<Litres>, s: &Situation<'_>) -> RefillLimit {
    if standing.measured {
        return limit_from(standing.value, s);
    }
    let (value, read_first) = (standing.value, || say!("refill.read_first"));
    if too_wide(standing, s) {
        return RefillLimit::nothing(value, read_first());
    }
    let usual = limit_from(value, s);
    let held = if s.system.refill == RefillMethod::NoLimit || young(s) {
        usual.litres.min((s.system.highest() - standing.high).or_nothing())
    } else {
        // Wherever the water really stands, it ends no higher than the limit from there.
        let held = |stands: Litres| (limit_from(stands, s).up_to - stands).or_nothing();
        usual.litres.min(held(standing.low)).min(held(standing.high))
    };
    if held < least(s) && usual.litres >= least(s) {
        return RefillLimit::nothing(value, read_first());
    }
    RefillLimit { up_to: value + held, litres: held, reason: usual.reason }
}

/// Whether nothing stands here but seedlings lately planted, whose roots do not reach the water yet.
pub(crate) fn young(s: &Situation<'_>) -> bool {
    let since = |planting: &Planting| f64::from((s.today() - planting.growing_since()).get_days());
    let reaches = |p: &Planting| p.stage > Stage::Seedling || since(p) > FIGURES.refill.young_days;
    s.system.refill != RefillMethod::NoLimit && s.plants() > 0 && !s.grows(|p| p.stage != Stage::Done && reaches(p))
}

/// Whether a plant stood here so long that its upper roots breathe air.
fn old(planting: &Planting, s: &Situation<'_>) -> bool {
    let age = f64::from((s.today() - planting.planted_on).get_days());
    planting.stage != Stage::Done && age > FIGURES.refill.swap_old_days
}

/// To what a second vessel is filled whose plants move over: to its mark; under old plants no more than a third of the
/// vessel above the line that their roots are used to.
#[must_use]
pub fn swapped_to(vessel: &Reservoir, line: Litres, old: bool) -> Litres {
    let third = line + vessel.shape.capacity() * FIGURES.refill.swap_rise;
    if old { vessel.working.min(third) } else { vessel.working }
}

/// How far still water may be refilled at a change: with plants in it, no higher than a refill may
/// raise it. `None` where air roots set no limit.
#[must_use]
pub fn fill_limit(s: &Situation<'_>) -> Option<FillLimit> {
    // A first filling covers nothing: no root has grown in this water yet.
    if s.system.refill == RefillMethod::NoLimit || s.plants() == 0 || s.nothing_yet() {
        return None;
    }
    if young(s) {
        return Some(FillLimit::To(limit_from(s.system.full(), s)));
    }
    let swaps = s.system.refill == RefillMethod::WholeSwap;
    if swaps && !s.grows(|planting| old(planting, s)) {
        return None;
    }
    let Some(standing) = s.water().litres() else { return Some(FillLimit::ReadFirst) };
    if too_wide(&standing, s) {
        return Some(FillLimit::ReadFirst);
    }
    if swaps {
        let to = swapped_to(&s.system.vessel(), line_at(standing.low, s).litres, true);
        return Some(FillLimit::To(RefillLimit::up_to(to, standing.low, say!("refill.swap_third"))));
    }
    let limit = limit_of(&standing, s);
    // Wherever it really stands, that raises the line by no more than a refill may.
    let up_to = (standing.low + limit.litres).min(s.system.highest());
    Some(FillLimit::To(RefillLimit { up_to, ..limit }))
}

/// How far a change may fill still water.
#[derive(Debug, Clone, PartialEq)]
pub enum FillLimit {
    /// To here.
    To(RefillLimit),
    /// Nobody knows where the line stands: it is read, or marked, before anything is drained.
    ReadFirst,
}

/// What a change fills to.
#[derive(Debug, Clone, PartialEq)]
pub struct FillTo {
    /// So much, with the pump running; `None` where the level has to be read first.
    pub litres: Option<Litres>,
    /// Why no further, where that is not the working line.
    pub reason: Option<Message>,
}

/// The volume that a change fills to: the working line, or the limit where that is lower, with the
/// reason.
#[must_use]
pub fn fill_to(s: &Situation<'_>) -> FillTo {
    let working = s.system.full();
    match fill_limit(s) {
        Some(FillLimit::ReadFirst) => FillTo { litres: None, reason: Some(say!("refill.mark_first")) },
        Some(FillLimit::To(limit)) if limit.up_to < working => {
            FillTo { litres: Some(limit.up_to), reason: Some(limit.reason) }
        }
        _ => {
            // A first filling covers nothing.
            let covers = s.system.refill == RefillMethod::WholeSwap && s.plants() > 0 && !s.nothing_yet() && !young(s);
            FillTo { litres: Some(working), reason: covers.then(|| say!("refill.swap_covers")) }
        }
    }
}
