//! A system on its way through a closure, day by day: what is drunk, when somebody must come, and what they pour.

use super::{Begins, CoverVisit};
use crate::calendar::{Stretch, add_days};
use crate::care::routine::interval;
use crate::care::slack;
use crate::figures::FIGURES;
use crate::forecast;
use crate::message::{Message, days};
use crate::projection::above;
use crate::quantity::{Litres, Quantity};
use crate::refill::least;
use crate::reservoir::refill_limit;
use crate::say;
use crate::situation::Situation;
use crate::system::Check;
use jiff::civil::Date;

/// A system on its way through a closure.
pub(super) struct Way<'a> {
    pub(super) s: &'a Situation<'a>,
    /// What stands there.
    pub(super) level: f64,
    /// What may be drunk on a thirsty day.
    pub(super) thirsty: f64,
    /// Days since the line was last raised; large where it never was.
    pub(super) rested: f64,
    /// Where it stood on the last days, the newest last: their highest is the line that roots are used to.
    pub(super) stood: Vec<f64>,
    /// Days since somebody saw it run.
    pub(super) unseen: i64,
    /// Days since its meshes were rinsed.
    pub(super) unrinsed: i64,
    /// What stands in the top-off reservoir, behind its float valve.
    pub(super) supply: f64,
    /// What the valve let in.
    pub(super) fed: f64,
    pub(super) drunk: f64,
    pub(super) poured: f64,
    pub(super) visits: Vec<CoverVisit>,
    pub(super) dry_from: Option<Date>,
}

impl<'a> Way<'a> {
    /// May be filled up to this much now.
    fn room(&self) -> f64 {
        let vessel = self.s.system.vessel();
        let now = Litres::calculated(self.level.max(0.0));
        let line = Some(self.line());
        let limit = refill_limit(self.s.system.refill, &vessel, now, line, Some(self.rested));
        (limit.up_to.get().min(self.s.system.highest().get()) - self.level).max(0.0)
    }

    /// The highest of the last days.
    fn line(&self) -> Litres {
        Litres::calculated(self.stood.iter().copied().fold(0.0, f64::max))
    }

    fn minimum(&self) -> f64 {
        self.s.system.reservoir.minimum.get()
    }

    /// Whether somebody has to come today: tomorrow would be too late.
    fn must(&self, cases: &[Date], on: Date) -> bool {
        let after = self.level - (self.thirsty - self.supply).max(0.0);
        let thirsty = after < self.minimum() && self.room() >= self.some();
        thirsty || self.must_look() || self.must_rinse() || cases.contains(&on)
    }

    /// Less is no top-off.
    fn some(&self) -> f64 {
        least(self.s).get().max(self.s.system.full().get() * FIGURES.cover.worth)
    }

    fn must_look(&self) -> bool {
        self.s.system.traits.powered() && self.unseen as f64 >= FIGURES.cover.unseen_days
    }

    /// Meshes of a film channel clog within their interval and slack.
    fn must_rinse(&self) -> bool {
        let Some(every) = interval(Check::Filters, self.s).filter(|_| self.s.system.traits.channels) else {
            return false;
        };
        self.unrinsed as f64 >= f64::from(every) + slack(Check::Filters, self.s).days
    }

    /// Somebody is there: what is done. Where they come anyway, they see that it runs, and pour what is worth pouring.
    fn attend(&mut self, on: Date, cases: &[Message], pours: &Message) {
        let s = self.s;
        let mut steps = vec![match s.system.traits.powered() {
            true if self.must_look() => say!("cover.look_due", days = days(self.unseen as f64)),
            true => say!("cover.look_runs"),
            false => say!("cover.look"),
        }];
        let room = self.room();
        let share = (self.level - self.minimum()) / (s.system.full().get() - self.minimum()).max(1e-6);
        let after = self.level - (self.thirsty - self.supply).max(0.0);
        let wanted = after < self.minimum() || share < FIGURES.cover.top_up_below;
        let litres = if wanted && room >= self.some() { room } else { 0.0 };
        if litres > 0.0 {
            let up_to = Litres::calculated(self.level + litres);
            let about = Litres::calculated(litres);
            steps.push(say!("cover.pour", litres = about, what = pours.clone(), up_to = up_to));
            if above(up_to, self.line()) {
                self.rested = 0.0;
            }
            self.level += litres;
            self.poured += litres;
            self.stood.push(self.level);
        }
        let rinse = s.system.traits.mesh_filters && self.unrinsed > 0 && s.system.traits.channels;
        if rinse {
            steps.push(say!("cover.rinse"));
            self.unrinsed = 0;
        }
        steps.extend(cases.iter().cloned());
        self.unseen = 0;
        let adult = rinse || !cases.is_empty();
        self.visits.push(CoverVisit { on, litres: Litres::calculated(litres), steps, adult });
    }

    fn night(&mut self, to: Date) {
        let drunk = self.thirsty.min(self.level);
        let fed = drunk.min(self.supply);
        self.supply -= fed;
        self.fed += fed;
        self.level -= drunk - fed;
        self.drunk += drunk;
        self.rested += 1.0;
        self.stood.push(self.level);
        let kept = FIGURES.refill.hold_days as usize;
        self.stood.drain(..self.stood.len().saturating_sub(kept));
        self.unseen += 1;
        self.unrinsed += 1;
        if self.level < self.minimum() - 1e-9 && self.dry_from.is_none() {
            self.dry_from = Some(to);
        }
    }
}

/// Goes through the closure day by day; `joint` are days on which somebody is at the place anyway.
pub(super) fn go<'a>(
    s: &'a Situation<'a>,
    begins: &Begins,
    stretch: Stretch,
    joint: &[Date],
    pours: &Message,
) -> Way<'a> {
    let (start, cases) = (begins.start, &begins.cases);
    let thirsty =
        forecast::drinks(s).map_or(s.system.full().get() * FIGURES.uptake.unknown, |uptake| uptake.spread().1.get());
    let mut way = Way {
        s,
        level: start,
        thirsty,
        rested: begins.rested,
        stood: vec![begins.line],
        unseen: 0,
        unrinsed: 0,
        supply: begins.supply,
        fed: 0.0,
        drunk: 0.0,
        poured: 0.0,
        visits: Vec::new(),
        dry_from: None,
    };
    let days: Vec<Date> = cases.iter().map(|(on, _)| *on).collect();
    for n in 1..=stretch.days() {
        let on = add_days(stretch.last_open, n);
        way.night(on);
        if way.must(&days, on) || joint.contains(&on) {
            let due: Vec<Message> =
                cases.iter().filter(|(case, _)| *case == on).map(|(_, said)| said.clone()).collect();
            way.attend(on, &due, pours);
        }
    }
    way.night(stretch.first_open);
    way
}
