//! Before a closure: what is done on the last open day, how far to fill and how strong, on which closed days somebody
//! must come and for what, and what will not hold.
//!
//! It is reckoned for thirsty days, from the water as it is estimated for the evening of the last open day. Who covers
//! pours what was made ready, plain water or feed mixed thin ahead, and nothing else: no concentrates, no mains.
//!
//! - *Water*: filled as far as the system's own refill limit lets it, it loses a thirsty day's drinking each day. On the
//!   last day on which it would still stand at its minimum the next morning, somebody comes and pours again, within the
//!   same limit and its rest.
//! - *Strength*: S = EC·V loses what is eaten with each litre drunk, and gains what is poured. What stands at the
//!   beginning and what is poured are chosen so that both ends lie as deep within the band as they can.
//! - *pH*: by its drift, from where a correction would leave it.
//! - *Checks* whose lateness would cost something within the closure: meshes of a film channel, treatments and looks of
//!   open cases, and whether the pump runs.

use super::routine::interval;
use super::{Task, slack, tasks};
use crate::calendar::{Stretch, add_days, add_whole_days, day, days_between};
use crate::crop::EcTarget;
use crate::figures::FIGURES;
use crate::forecast;
use crate::message::{Message, days, ph};
use crate::projection::Standing;
use crate::quantity::{Conductivity, Litres, Ph, Quantity};
use crate::refill::{fill_to, limit_of, too_wide};
use crate::reservoir::{RefillLimit, refill_limit};
use crate::say;
use crate::situation::Situation;
use crate::system::{Check, Measuring, PhMethod, SourceWater, TopOffMethod};
use jiff::Zoned;
use jiff::civil::Date;
use serde::Serialize;

/// One coming of who covers, to one system.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct CoverVisit<W = Message> {
    /// On which day.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// What is poured; nothing where only a look is wanted.
    pub litres: Litres,
    /// What is done, in the order of the hand.
    pub steps: Vec<W>,
    /// Whether a part of it is an adult's.
    pub adult: bool,
}

/// How one system is brought through a closure.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Cover<W = Message> {
    /// What is done on the last open day, in order.
    pub before: Vec<W>,
    /// How far it is filled on that day; absent where the level has to be read first.
    pub fill_to: Option<Litres>,
    /// The strength that it is left at, where EC is read here.
    pub strength: Option<Conductivity>,
    /// The pH that it is left at, where it is read and dosed here.
    pub ph: Option<Ph>,
    /// The strength of what who covers pours; absent for plain water.
    pub pours: Option<Conductivity>,
    /// On which days somebody comes.
    pub visits: Vec<CoverVisit<W>>,
    /// What will not hold.
    pub wont: Vec<W>,
    /// What nobody sees to until the place opens again; nothing where all of it can wait.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub unseen: Option<W>,
    /// From when it is out of its limits or its band, although all of this is followed; absent where it holds.
    #[schema(value_type = Option<String>, format = Date)]
    pub holds_until: Option<Date>,
    /// How it stands when the place opens again, in a sentence.
    pub after: W,
}

impl<W> Cover<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Cover<V> {
        let all = |list: Vec<W>| -> Vec<V> { list.into_iter().map(say).collect() };
        Cover {
            before: all(self.before),
            fill_to: self.fill_to,
            strength: self.strength,
            ph: self.ph,
            pours: self.pours,
            visits: self
                .visits
                .into_iter()
                .map(|visit| CoverVisit {
                    on: visit.on,
                    litres: visit.litres,
                    steps: all(visit.steps),
                    adult: visit.adult,
                })
                .collect(),
            wont: all(self.wont),
            unseen: self.unseen.map(say),
            holds_until: self.holds_until,
            after: say(self.after),
        }
    }
}

/// A system on its way through a closure.
struct Way<'a> {
    s: &'a Situation<'a>,
    /// What stands there.
    level: f64,
    /// What may be drunk on a thirsty day.
    thirsty: f64,
    /// Days since the line was last raised; large where it never was.
    rested: f64,
    /// The line that roots have been used to.
    line: f64,
    /// Days since somebody saw it run.
    unseen: i64,
    /// Days since its meshes were rinsed.
    unrinsed: i64,
    drunk: f64,
    poured: f64,
    visits: Vec<CoverVisit>,
    dry_from: Option<Date>,
}

/// A moment of the last open day, by which all is done.
const EVENING: i8 = 16;

impl<'a> Way<'a> {
    /// May be filled up to this much now.
    fn room(&self) -> f64 {
        let vessel = self.s.system.vessel();
        let now = Litres::calculated(self.level.max(0.0));
        let line = Some(Litres::calculated(self.line));
        let limit = refill_limit(self.s.system.refill, &vessel, now, line, Some(self.rested));
        (limit.up_to.get().min(self.s.system.highest().get()) - self.level).max(0.0)
    }

    fn minimum(&self) -> f64 {
        self.s.system.reservoir.minimum.get()
    }

    /// Whether somebody has to come today: tomorrow would be too late.
    fn must(&self, cases: &[Date], on: Date) -> bool {
        let thirsty = self.level - self.thirsty < self.minimum() && self.room() >= self.some();
        thirsty || self.must_look() || self.must_rinse() || cases.contains(&on)
    }

    /// Less is no top-off.
    fn some(&self) -> f64 {
        FIGURES.bench.least_top_off.max(self.s.system.full().get() * FIGURES.cover.worth)
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
        let mut steps = vec![if s.system.traits.powered() { say!("cover.look_runs") } else { say!("cover.look") }];
        let room = self.room();
        let share = (self.level - self.minimum()) / (s.system.full().get() - self.minimum()).max(1e-6);
        let wanted = self.level - self.thirsty < self.minimum() || share < FIGURES.cover.top_up_below;
        let litres = if wanted && room >= self.some() { room } else { 0.0 };
        if litres > 0.0 {
            let up_to = Litres::calculated(self.level + litres);
            let about = Litres::calculated(litres);
            steps.push(say!("cover.pour", litres = about, what = pours.clone(), up_to = up_to));
            self.level += litres;
            self.poured += litres;
            self.rested = 0.0;
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
        self.level -= drunk;
        self.drunk += drunk;
        self.rested += 1.0;
        self.unseen += 1;
        self.unrinsed += 1;
        if self.level < self.minimum() - 1e-9 && self.dry_from.is_none() {
            self.dry_from = Some(to);
        }
    }
}

/// What of a case falls into the closure, and cannot wait for its end: the day, and what is done.
fn cases_within(all: &[Task], stretch: Stretch) -> Vec<(Date, Message)> {
    let of_case =
        |task: &&Task| matches!(task.code.as_ref(), "peroxide" | "root_look" | "suspect_roots" | "suspect_plants");
    let wanted = all.iter().filter(of_case).filter(|task| {
        let margin_ends = add_whole_days(task.due_on, task.slack_days.floor());
        task.due_on > stretch.last_open && margin_ends < stretch.first_open
    });
    wanted.map(|task| (task.due_on, say!("cover.case", name = task.name.clone(), doing = task.doing.clone()))).collect()
}

/// The strength at the end of a stretch that begins with one, in a linear balance.
#[derive(Clone, Copy)]
struct Salts {
    start: f64,
    drunk: f64,
    poured: f64,
    eats: f64,
}

impl Salts {
    fn left(&self) -> f64 {
        (self.start + self.poured - self.drunk).max(1e-6)
    }

    fn ends(&self, begins: f64, pours: f64) -> f64 {
        (begins * self.start + pours * self.poured - self.eats * self.drunk).max(0.0) / self.left()
    }

    /// What is to be poured so that it ends there.
    fn pours(&self, begins: f64, ends: f64) -> f64 {
        (ends * self.left() - begins * self.start + self.eats * self.drunk) / self.poured.max(1e-9)
    }

    /// What it is to begin with, so that both ends lie as far from the middle to either side.
    fn begins(&self, band: &EcTarget, pours: f64) -> f64 {
        let (k, left) = (band.low.get() + band.high.get(), self.left());
        let rest = (pours * self.poured - self.eats * self.drunk) / left;
        (k - rest) / (1.0 + self.start / left)
    }
}

/// Strengths that the system is left at, and that is poured by who covers.
struct Strengths {
    leave_at: Option<f64>,
    pour_at: Option<f64>,
    ends: Option<f64>,
}

fn strengths(start: f64, way: &Way<'_>, s: &Situation<'_>) -> Strengths {
    let none = Strengths { leave_at: None, pour_at: None, ends: None };
    let Some(target) = s.ec_target().filter(|_| s.system.measuring.ec()) else { return none };
    let source = s.system.source_ec.get();
    let eats =
        s.known.lessons.ledger.takes_up(target.aim).map_or(target.aim.get() * FIGURES.cover.eats, |c| c.value.get());
    // Drunk as on usual days: salt is eaten with what is really drunk.
    let share = forecast::uptake(&s.known.tank).map_or(1.0, |uptake| uptake.a_day.get() / way.thirsty.max(1e-9));
    let salts = Salts { start, drunk: way.drunk * share.min(1.0), poured: way.poured * share.min(1.0), eats };
    let inside = |ec: f64| ec.clamp(target.low.get() * 1.04, target.high.get() * 0.96);
    let begins = inside(salts.begins(&target, source));
    if salts.poured < 1e-6 || salts.ends(begins, source) >= target.low.get() * 1.04 {
        return Strengths { leave_at: Some(begins), pour_at: None, ends: Some(salts.ends(begins, source)) };
    }
    // Plain water would end too weak: thin feed is made ready, so that it begins and ends at the middle.
    let begins = inside(target.aim.get());
    let pours = salts.pours(begins, target.aim.get()).clamp(source, FIGURES.cover.most_poured);
    Strengths { leave_at: Some(begins), pour_at: Some(pours), ends: Some(salts.ends(begins, pours)) }
}

/// Goes through the closure day by day; `joint` are days on which somebody is at the place anyway.
fn go<'a>(s: &'a Situation<'a>, begins: &Begins, stretch: Stretch, joint: &[Date], pours: &Message) -> Way<'a> {
    let (start, cases) = (begins.start, &begins.cases);
    let known = forecast::uptake(&s.known.tank);
    let thirsty = known.map_or(s.system.full().get() * FIGURES.uptake.unknown, |uptake| uptake.spread().1.get());
    let mut way = Way {
        s,
        level: start,
        thirsty,
        rested: begins.rested,
        line: start,
        unseen: 0,
        unrinsed: 0,
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

/// What is known of a system before the closure is gone through.
struct Begins {
    tasks: Vec<Task>,
    cases: Vec<(Date, Message)>,
    limit: Option<RefillLimit>,
    start: f64,
    /// Days since the line was last raised, on the evening of the last open day.
    rested: f64,
    /// Whether the water is changed on that day.
    changed: bool,
}

/// The evening of the last open day, by which all is done; now, where that is past.
fn evening(stretch: Stretch, s: &Situation<'_>) -> Zoned {
    let evening = stretch.last_open.at(EVENING, 0, 0, 0).to_zoned(s.now.time_zone().clone());
    evening.ok().filter(|evening| evening.timestamp() > s.now.timestamp()).unwrap_or_else(|| s.now.clone())
}

fn begins(stretch: Stretch, s: &Situation<'_>) -> Begins {
    let now = evening(stretch, s);
    let then = Situation { now: &now, ..*s };
    let tasks = tasks(s);
    let cases = cases_within(&tasks, stretch);
    let standing = then.water().litres().filter(|litres| !too_wide(litres, &then));
    let limit = standing.map(|litres| limit_of(&litres, &then));
    // As it may stand after it was read and filled: where it is not known, as at its working line.
    let changed = on_the_last_day(&tasks, stretch).any(|task| task.check == Some(Check::Change));
    let start = match (&limit, standing) {
        _ if changed => fill_to(&then).litres.unwrap_or_else(|| s.system.full()).get(),
        (Some(limit), Some(litres)) => (litres.low + limit.litres).get().min(limit.up_to.get().max(litres.low.get())),
        _ => s.system.full().get(),
    };
    let raised = s.known.tank.last_refill().max(s.known.water.raised());
    let filled = limit.as_ref().is_some_and(|limit| limit.litres > Litres::ZERO);
    let rested = if filled { 0.0 } else { raised.map_or(f64::MAX, |at| days_between(at, now.timestamp())) };
    let rested = if changed { 0.0 } else { rested };
    Begins { tasks, cases, limit, start, rested, changed }
}

/// How all systems of a place are brought through a closure, and the days on which somebody comes: few of them, for
/// whoever is there sees to all that would need them soon.
#[must_use]
pub fn cover_place(stretch: Stretch, systems: &[Situation<'_>]) -> (Vec<Date>, Vec<Cover>) {
    let all: Vec<Begins> = systems.iter().map(|s| begins(stretch, s)).collect();
    let plain = say!("cover.plain");
    let mut joint: Vec<Date> = Vec::new();
    loop {
        let wanted = systems.iter().zip(&all).flat_map(|(s, begins)| {
            let way = go(s, begins, stretch, &joint, &plain);
            way.visits.into_iter().map(|visit| visit.on).find(|on| !joint.contains(on))
        });
        let Some(next) = wanted.min() else { break };
        joint.push(next);
    }
    joint.sort_unstable();
    let covers = systems.iter().zip(&all).map(|(s, begins)| cover(stretch, &joint, begins, s)).collect();
    (joint, covers)
}

/// How a system is brought through a closure; `joint` are the days on which somebody is at the place.
fn cover(stretch: Stretch, joint: &[Date], begins: &Begins, s: &Situation<'_>) -> Cover {
    let today = s.today();
    let Begins { tasks, limit, start, .. } = begins;
    let mut before = before(tasks, stretch, s);
    let plain = say!("cover.plain");
    let first = go(s, begins, stretch, joint, &plain);
    let strength = strengths(*start, &first, s);
    let by_recipe = !s.system.measuring.ec() && s.system.methods.top_off != TopOffMethod::Plain;
    let pours = match strength.pour_at.map(Conductivity::calculated) {
        Some(ec) => say!("cover.thin_feed", ec = ec),
        // Where nobody reads EC, it is what the system is topped off with anyway, mixed ahead.
        None if by_recipe => say!("cover.by_method", method = s.system.methods.top_off.say()),
        None => plain.clone(),
    };
    let way = if strength.pour_at.is_some() || by_recipe { go(s, begins, stretch, joint, &pours) } else { first };
    match limit {
        // A change fills it: as far as it may be filled.
        _ if begins.changed => before.push(say!("cover.after_change", up_to = Litres::calculated(*start))),
        Some(limit) if limit.litres.get() >= FIGURES.bench.least_top_off => {
            before.push(say!("cover.fill", litres = limit.litres, up_to = limit.up_to));
        }
        Some(_) => before.push(say!("cover.as_it_stands")),
        None => before.push(say!("cover.read_first")),
    }
    if let Some(ec) = strength.leave_at.map(Conductivity::calculated) {
        before.push(say!("cover.leave_at", ec = ec));
    }
    let mut wont = Vec::new();
    let keeps = |visit: &CoverVisit| f64::from((visit.on - stretch.last_open).get_days()) > FIGURES.bench.stale_days;
    let mixed = strength.pour_at.is_some() || by_recipe;
    if mixed && way.visits.iter().any(|visit| visit.litres > Litres::ZERO && keeps(visit)) {
        wont.push(say!("cover.keeps", days = days(FIGURES.bench.stale_days)));
    }
    let dry = way.dry_from;
    wont.extend(dry.map(|on| say!("cover.dry", minimum = s.system.reservoir.minimum, day = day(on, today))));
    if forecast::uptake(&s.known.tank).is_none() {
        wont.push(say!("cover.uptake_unknown"));
    }
    let ec_out = strength_out(&strength, s);
    wont.extend(ec_out.clone());
    let acidity = acidity(stretch, *start, &way, s);
    before.extend(acidity.as_ref().map(|acidity| say!("cover.leave_ph", ph = ph(acidity.leave_at))));
    if way.poured > 0.0 {
        let litres = Litres::calculated(way.poured);
        before.push(say!("cover.make_ready", litres = litres, what = pours.clone()));
    }
    let ph_out = acidity.as_ref().and_then(|acidity| acidity.out.clone());
    wont.extend(ph_out.as_ref().map(|(_, said)| said.clone()));
    let holds_until = [
        dry.map(|on| add_days(on, -1)),
        ec_out.map(|_| add_days(stretch.last_open, stretch.days() / 2)),
        ph_out.map(|(on, _)| on),
    ];
    let ends = Litres::calculated(way.level.max(0.0));
    let after = match strength.ends.map(Conductivity::calculated) {
        Some(ec) => say!("cover.after_ec", litres = ends, ec = ec, day = day(stretch.first_open, today)),
        None => say!("cover.after", litres = ends, day = day(stretch.first_open, today)),
    };
    // Where nothing runs and nothing is poured, nobody has to come.
    let powered = s.system.traits.powered();
    let visits = way.visits.into_iter().filter(|visit| powered || visit.steps.len() > 1).collect();
    Cover {
        before,
        fill_to: limit.as_ref().map(|limit| limit.up_to),
        strength: strength.leave_at.map(Conductivity::calculated),
        ph: acidity.map(|acidity| Ph::calculated(acidity.leave_at)),
        pours: strength.pour_at.map(Conductivity::calculated),
        visits,
        wont,
        unseen: unseen(tasks, stretch, s),
        holds_until: holds_until.into_iter().flatten().min(),
        after,
    }
}

/// That it ends outside of its band, whatever is chosen.
fn strength_out(strength: &Strengths, s: &Situation<'_>) -> Option<Message> {
    let (target, ends) = (s.ec_target()?, Conductivity::calculated(strength.ends?));
    let out = ends < target.low || ends > target.high;
    out.then(|| say!("cover.ec_out", ec = ends, band = crate::quantity::band(target.low, target.high)))
}

/// How pH is brought through: what it is left at, and when it leaves its band all the same.
struct Acidity {
    leave_at: f64,
    out: Option<(Date, Message)>,
}

/// pH moves by its drift and by the carbonate of what is poured; it is left so far to the other side that both ends lie
/// as deep within the band as they can. `None` where nobody reads it, or nobody doses it.
fn acidity(stretch: Stretch, start: f64, way: &Way<'_>, s: &Situation<'_>) -> Option<Acidity> {
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
    let poured = figures.spread_much * hard.min(2.0) * way.poured / start.max(1e-6);
    let a_day = Standing::ph_a_day(s.known) + poured / days;
    let moves = a_day * days;
    let (low, high) = (band.low.get() + figures.meter_error, band.high.get() - figures.meter_error);
    let leave_at = (band.aim() - moves / 2.0).clamp(low, high);
    let end = if a_day > 0.0 { high } else { low };
    let until = if a_day.abs() < 1e-6 { days } else { ((end - leave_at) / a_day).floor().max(0.0) };
    let on = add_whole_days(stretch.last_open, until.min(days));
    let out = (on < add_days(stretch.first_open, -1))
        .then(|| (on, say!("cover.ph_out", from = ph(leave_at), day = day(add_days(on, 1), s.today()))));
    Some(Acidity { leave_at, out })
}

/// What is due by the last open day, or would cost something before somebody is there again.
fn on_the_last_day(all: &[Task], stretch: Stretch) -> impl Iterator<Item = &Task> {
    let handled = |task: &&Task| matches!(task.check, Some(Check::LookIn | Check::Level | Check::Readings));
    let ends = |task: &Task| add_whole_days(task.due_on, task.slack_days.floor());
    let due = all
        .iter()
        .filter(move |task| !handled(task))
        .filter(move |task| task.due_on <= stretch.last_open || ends(task) < stretch.first_open);
    // What of a case falls within is done then.
    due.filter(move |task| {
        let of_case = matches!(task.code.as_ref(), "peroxide" | "root_look" | "suspect_roots" | "suspect_plants");
        !of_case || task.due_on <= stretch.last_open
    })
}

fn before(all: &[Task], stretch: Stretch, s: &Situation<'_>) -> Vec<Message> {
    let mut all: Vec<Message> =
        on_the_last_day(all, stretch).map(|task| say!("cover.task", name = task.name.clone())).collect();
    if s.system.measuring.ec() || s.system.measuring.ph_by_kit() {
        all.push(say!("cover.measure"));
    }
    all
}

/// What nobody sees to until the place opens again: checks whose margin would end within the closure.
fn unseen(all: &[Task], stretch: Stretch, s: &Situation<'_>) -> Option<Message> {
    let handled = [Check::LookIn, Check::Level, Check::Readings, Check::Filters, Check::Calibrate];
    let late = all.iter().filter_map(|task| task.check).filter(|check| !handled.contains(check)).filter(|check| {
        let Some(every) = interval(*check, s) else { return false };
        let again = f64::from(every) + slack(*check, s).days;
        again < stretch.days() as f64
    });
    let names: Vec<Message> = late.map(|check| check.name()).collect();
    (!names.is_empty()).then(|| say!("cover.unseen", checks = names))
}
