//! The water at both ends of a closure: the strength and the pH that it is left at, and what is poured, so that both
//! ends lie as deep within their bands as they can.

use super::way::Way;
use crate::calendar::{Stretch, add_days, add_whole_days, day};
use crate::crop::EcTarget;
use crate::fact::PremixIn;
use crate::figures::FIGURES;
use crate::forecast;
use crate::message::{Message, ph};
use crate::projection::{Premixed, Standing};
use crate::quantity::{Conductivity, Quantity};
use crate::say;
use crate::situation::Situation;
use crate::system::{Measuring, PhMethod, SourceWater};
use jiff::civil::Date;

/// The strength at the end of a stretch that begins with one, in a linear balance.
#[derive(Clone, Copy)]
struct Salts {
    start: f64,
    drunk: f64,
    poured: f64,
    /// What the float valve lets in, and how strong that is.
    fed: f64,
    fed_ec: f64,
    eats: f64,
}

impl Salts {
    /// Where it may end by what is not known of the plants' eating and of what is read, the lower first.
    fn may_end(&self, begins: f64, pours: f64) -> [f64; 2] {
        let off = FIGURES.cover.eats_off;
        [1.0 + off, 1.0 - off].map(|times| Self { eats: self.eats * times, ..*self }.ends(begins, pours))
    }

    fn left(&self) -> f64 {
        (self.start + self.poured + self.fed - self.drunk).max(1e-6)
    }

    fn ends(&self, begins: f64, pours: f64) -> f64 {
        (begins * self.start + pours * self.poured + self.fed * self.fed_ec - self.eats * self.drunk).max(0.0)
            / self.left()
    }

    /// What is to be poured so that it ends there.
    fn pours(&self, begins: f64, ends: f64) -> f64 {
        (ends * self.left() - begins * self.start - self.fed * self.fed_ec + self.eats * self.drunk)
            / self.poured.max(1e-9)
    }

    /// What it is to begin with, so that both ends lie as far from the middle to either side.
    fn begins(&self, band: &EcTarget, pours: f64) -> f64 {
        let (k, left) = (band.low.get() + band.high.get(), self.left());
        let rest = (pours * self.poured + self.fed * self.fed_ec - self.eats * self.drunk) / left;
        (k - rest) / (1.0 + self.start / left)
    }
}

/// Strengths that the system is left at, and that is poured by who covers.
pub(super) struct Strengths {
    pub(super) leave_at: Option<f64>,
    pub(super) pour_at: Option<f64>,
    pub(super) ends: Option<f64>,
    /// Where it may end, where plants eat more or less than reckoned, the lower first.
    pub(super) may_end: [f64; 2],
}

/// The feed that was mixed into the top-off reservoir.
pub(super) fn premixed(s: &Situation<'_>) -> Option<Premixed> {
    s.known.lessons.premixed.map(|mixed| mixed.value).filter(|mixed| mixed.into == PremixIn::TopOffReservoir)
}

pub(super) fn strengths(start: f64, way: &Way<'_>, s: &Situation<'_>) -> Strengths {
    let none = Strengths { leave_at: None, pour_at: None, ends: None, may_end: [0.0, 0.0] };
    let Some(target) = s.ec_target().filter(|_| s.system.measuring.ec()) else { return none };
    let source = s.system.source_ec.get();
    let eats =
        s.known.lessons.ledger.takes_up(target.aim).map_or(target.aim.get() * FIGURES.cover.eats, |c| c.value.get());
    // Drunk as on usual days: salt is eaten with what is really drunk.
    let share = forecast::drinks(s).map_or(1.0, |uptake| uptake.a_day.get() / way.thirsty.max(1e-9));
    let fed = way.fed * share.min(1.0);
    let fed_ec = premixed(s).and_then(|mixed| mixed.ec).map_or(source, Conductivity::get);
    let salts =
        Salts { start, drunk: way.drunk * share.min(1.0), poured: way.poured * share.min(1.0), fed, fed_ec, eats };
    let inside = |ec: f64| ec.clamp(target.low.get() * 1.04, target.high.get() * 0.96);
    let begins = inside(salts.begins(&target, source));
    if salts.poured < 1e-6 || salts.ends(begins, source) >= target.low.get() * 1.04 {
        let (ends, may_end) = (salts.ends(begins, source), salts.may_end(begins, source));
        return Strengths { leave_at: Some(begins), pour_at: None, ends: Some(ends), may_end };
    }
    // Plain water would end too weak: thin feed is made ready, so that it begins and ends at the middle.
    let begins = inside(target.aim.get());
    let pours = salts.pours(begins, target.aim.get()).clamp(source, FIGURES.cover.most_poured);
    let (ends, may_end) = (salts.ends(begins, pours), salts.may_end(begins, pours));
    Strengths { leave_at: Some(begins), pour_at: Some(pours), ends: Some(ends), may_end }
}

/// That it ends outside of its band, whatever is chosen; or that it may, where plants eat a fifth more or less than reckoned:
/// from which day on, and what is said.
pub(super) fn strength_out(stretch: Stretch, strength: &Strengths, s: &Situation<'_>) -> Option<(Date, Message)> {
    let (target, ends) = (s.ec_target()?, Conductivity::calculated(strength.ends?));
    let begins = strength.leave_at?;
    let days = (stretch.days() + 1) as f64;
    // The strength of each day lies between both ends, and its error grows with the days.
    let crosses = |end: f64| {
        let reach = if end > begins { target.high.get() - begins } else { begins - target.low.get() };
        let moves = (end - begins).abs();
        (moves > reach).then(|| (days * reach / moves).floor().max(0.0))
    };
    let until = strength.may_end.iter().copied().filter_map(crosses).min_by(f64::total_cmp)?;
    let band = crate::quantity::band(target.low, target.high);
    let said = if ends < target.low || ends > target.high {
        say!("cover.ec_out", ec = ends, band = band)
    } else {
        let [low, high] = strength.may_end.map(Conductivity::calculated);
        say!("cover.ec_may", range = crate::quantity::band(low, high), band = band)
    };
    Some((add_whole_days(stretch.last_open, until), said))
}

/// How pH is brought through: what it is left at, and when it leaves its band all the same.
pub(super) struct Acidity {
    pub(super) leave_at: f64,
    pub(super) out: Option<(Date, Message)>,
}

/// pH moves by its drift and by the carbonate of what is poured; it is left so far to the other side that both ends lie
/// as deep within the band as they can. `None` where nobody reads it, or nobody doses it.
pub(super) fn acidity(stretch: Stretch, start: f64, way: &Way<'_>, s: &Situation<'_>) -> Option<Acidity> {
    let reads = s.system.measuring != Measuring::RecipeOnly && s.system.methods.ph != PhMethod::RecipeOnly;
    if !reads || s.known.readings.ph.is_none() {
        return None;
    }
    let (figures, band) = (&FIGURES.ph, s.ph_band());
    let hard = match (s.system.methods.source, s.system.methods.alkalinity) {
        (_, Some(alkalinity)) => alkalinity / FIGURES.cover.usual_alkalinity,
        (SourceWater::Rain | SourceWater::Filtered, None) => 0.0,
        (_, None) => 1.0,
    };
    let days = (stretch.days() + 1) as f64;
    let poured = figures.spread_much * hard.min(2.0) * (way.poured + way.fed) / start.max(1e-6);
    let a_day = Standing::ph_a_day(s.known) + poured / days;
    let moves = a_day * days;
    let (low, high) = (band.low.get() + figures.meter_error, band.high.get() - figures.meter_error);
    let middle = f64::midpoint(band.low.get(), band.high.get());
    // What was put right on the last evening climbs as its gas leaves.
    let climbs = FIGURES.cover.ph_climbs;
    let leave_at = (middle - (moves + climbs) / 2.0).clamp(low, high);
    let holds = |a_day: f64| {
        let left = if a_day > 0.0 { (high - leave_at - climbs).max(0.0) } else { low - leave_at };
        let until = if a_day.abs() < 1e-6 { days } else { (left / a_day).floor().max(0.0) };
        add_whole_days(stretch.last_open, until.min(days))
    };
    let within = |on: Date| on < add_days(stretch.first_open, -1);
    let unsure = FIGURES.cover.drift_unsure;
    let further = a_day * FIGURES.cover.drift_off;
    let (likely, worst) = (holds(a_day), holds(further + unsure).min(holds(further - unsure)));
    let from = ph(leave_at);
    let out = match () {
        () if within(likely) => {
            Some((worst, say!("cover.ph_out", from = from, day = day(add_days(likely, 1), s.today()))))
        }
        () if within(worst) => {
            Some((worst, say!("cover.ph_may", from = from, day = day(add_days(worst, 1), s.today()))))
        }
        () => None,
    };
    Some(Acidity { leave_at, out })
}
