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
//! - *A change* that falls on the last day makes the water anew: what would only put the old water right is left out.
//! - *Checks* whose lateness would cost something within the closure: meshes of a film channel, treatments and looks of
//!   open cases, and whether the pump runs.

mod water;
mod way;

use super::routine::interval;
use super::{Task, slack, tasks};
use crate::calendar::{Stretch, add_days, add_whole_days, day};
use crate::fact::Subject;
use crate::figures::FIGURES;
use crate::forecast;
use crate::message::{Message, days, ph};
use crate::projection::above;
use crate::quantity::{Conductivity, Litres, Ph, Quantity};
use crate::refill::{fill_to, least, limit_of, line_at, too_wide};
use crate::reservoir::RefillLimit;
use crate::say;
use crate::situation::Situation;
use crate::system::{Check, TopOffMethod};
use jiff::Zoned;
use jiff::civil::Date;
use serde::Serialize;
use water::{acidity, premixed, strength_out, strengths};
use way::go;

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

/// A moment of the last open day, by which all is done.
const EVENING: i8 = 16;

/// Whether a task is a look or a treatment of a case, or of a suspect.
fn of_case(task: &Task) -> bool {
    matches!(task.code.as_ref(), "peroxide" | "root_look" | "suspect_roots" | "suspect_plants")
}

/// What of a case falls into the closure, and cannot wait for its end: the day, and what is done.
fn cases_within(all: &[Task], stretch: Stretch) -> Vec<(Date, Message)> {
    let wanted = all.iter().filter(|task| of_case(task)).filter(|task| {
        let margin_ends = add_whole_days(task.due_on, task.slack_days.floor());
        task.due_on > stretch.last_open && margin_ends < stretch.first_open
    });
    wanted.map(|task| (task.due_on, say!("cover.case", name = task.name.clone(), doing = task.doing.clone()))).collect()
}

/// What is known of a system before the closure is gone through.
struct Begins {
    tasks: Vec<Task>,
    cases: Vec<(Date, Message)>,
    limit: Option<RefillLimit>,
    start: f64,
    /// What stands in the top-off reservoir once it is filled as it was of late; nothing where nobody ever said.
    supply: f64,
    /// The line that roots are used to by then, in litres.
    line: f64,
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
    let line = standing.map(|litres| line_at(litres.value, &then));
    let filled = line.is_none_or(|line| above(Litres::calculated(start), line.litres));
    let rested = if filled { 0.0 } else { line.and_then(|line| line.rested).unwrap_or(f64::MAX) };
    let line = line.map_or(start, |line| line.litres.get().max(start));
    let supply = s.known.supply.full(s.system).filter(|_| s.system.traits.top_off_reservoir).map_or(0.0, Litres::get);
    Begins { tasks, cases, limit, start, line, supply, rested, changed }
}

/// What is left of a closure: of one that is on, from today on, as if today were its last open day.
#[must_use]
pub fn left_of(stretch: Stretch, today: Date) -> Stretch {
    Stretch { last_open: stretch.last_open.max(today), ..stretch }
}

/// Whether a closure that is on or to come is said on the round: not yet far off, and long enough to need a plan.
#[must_use]
pub fn worth_saying(stretch: &Stretch, today: Date) -> bool {
    let ahead = f64::from((stretch.from() - today).get_days());
    stretch.days() as f64 >= FIGURES.cover.said_from && ahead <= FIGURES.cover.said_ahead
}

/// How all systems of a place are brought through a closure, and the days on which somebody comes: few of them, for
/// whoever is there sees to all that would need them soon.
///
/// # Errors
/// What is said instead: to a child, who is given no step with feed or acid, and of a closure through which no water
/// lasts.
pub fn cover_place(stretch: Stretch, systems: &[Situation<'_>]) -> Result<(Vec<Date>, Vec<Cover>), Message> {
    if systems.iter().any(|s| s.actor.is_child()) {
        return Err(say!("cover.child"));
    }
    let today = systems.first().map_or(stretch.last_open, |s| s.today());
    let stretch = left_of(stretch, today);
    if stretch.days() as f64 > FIGURES.cover.most_days {
        return Err(say!("cover.too_long", days = days(stretch.days() as f64)));
    }
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
    Ok((joint, covers))
}

/// How a system is brought through a closure; `joint` are the days on which somebody is at the place.
fn cover(stretch: Stretch, joint: &[Date], begins: &Begins, s: &Situation<'_>) -> Cover {
    let today = s.today();
    let Begins { tasks, limit, start, .. } = begins;
    let mut before = before(begins, stretch, s);
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
        Some(limit) if limit.litres >= least(s) => {
            before.push(say!("cover.fill", litres = limit.litres, up_to = limit.up_to));
        }
        Some(_) => before.push(say!("cover.as_it_stands")),
        None => before.push(say!("cover.read_first")),
    }
    if begins.supply > 0.0 {
        let full = Litres::calculated(begins.supply / s.system.drum_part());
        before.push(say!("cover.fill_supply", litres = full, needs = Litres::calculated(way.fed)));
    } else if s.system.traits.top_off_reservoir {
        before.push(say!("cover.read_supply"));
    }
    if let Some(ec) = strength.leave_at.map(Conductivity::calculated) {
        before.push(say!("cover.leave_at", ec = ec));
    }
    let mut wont = Vec::new();
    let keeps = |visit: &CoverVisit| f64::from((visit.on - stretch.last_open).get_days()) > FIGURES.bench.stale_days;
    let mixed = strength.pour_at.is_some() || by_recipe;
    let stale = premixed(s).filter(|feed| way.fed > 0.0 && stretch.days() as f64 > feed.keeps_days);
    wont.extend(stale.map(|feed| say!("cover.supply_keeps", days = days(feed.keeps_days))));
    if mixed && way.visits.iter().any(|visit| visit.litres > Litres::ZERO && keeps(visit)) {
        wont.push(say!("cover.keeps", days = days(FIGURES.bench.stale_days)));
    }
    let dry = way.dry_from;
    wont.extend(dry.map(|on| say!("cover.dry", minimum = s.system.reservoir.minimum, day = day(on, today))));
    if forecast::drinks(s).is_none() {
        wont.push(say!("cover.uptake_unknown"));
    }
    let ec_out = strength_out(stretch, &strength, s);
    wont.extend(ec_out.as_ref().map(|(_, said)| said.clone()));
    let acidity = acidity(stretch, *start, &way, s);
    before.extend(acidity.as_ref().map(|acidity| say!("cover.leave_ph", ph = ph(acidity.leave_at))));
    if way.poured > 0.0 {
        let litres = Litres::calculated(way.poured);
        before.push(say!("cover.make_ready", litres = litres, what = pours.clone()));
    }
    let ph_out = acidity.as_ref().and_then(|acidity| acidity.out.clone());
    wont.extend(ph_out.as_ref().map(|(_, said)| said.clone()));
    let holds_until = [dry.map(|on| add_days(on, -1)), ec_out.map(|(on, _)| on), ph_out.map(|(on, _)| on)];
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
        fill_to: if begins.changed {
            Some(Litres::calculated(*start))
        } else {
            limit.as_ref().map(|limit| limit.up_to)
        },
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

/// What is due by the last open day, or would cost something before somebody is there again.
fn on_the_last_day(all: &[Task], stretch: Stretch) -> impl Iterator<Item = &Task> {
    let handled = |task: &&Task| matches!(task.check, Some(Check::LookIn | Check::Level | Check::Readings));
    let ends = |task: &Task| add_whole_days(task.due_on, task.slack_days.floor());
    let due = all
        .iter()
        .filter(move |task| !handled(task))
        .filter(move |task| task.due_on <= stretch.last_open || ends(task) < stretch.first_open);
    // What of a case falls within is done then.
    due.filter(move |task| !of_case(task) || task.due_on <= stretch.last_open)
}

fn before(begins: &Begins, stretch: Stretch, s: &Situation<'_>) -> Vec<Message> {
    // What only puts the old water right is not done to water that is changed on the same day.
    let old_water = |task: &&Task| {
        let water = matches!(task.subject, Some(Subject::Ph | Subject::Ec | Subject::Level));
        begins.changed && task.check.is_none() && water && !of_case(task)
    };
    let wanted = on_the_last_day(&begins.tasks, stretch).filter(|task| !old_water(task));
    let mut all: Vec<Message> = wanted.map(|task| say!("cover.task", name = task.name.clone())).collect();
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
