//! When a piece of equipment is serviced, and when it is replaced before it fails; and what its failing costs.

use super::Task;
use super::run_again::lasts;
use crate::calendar::{add_days, day, end_of};
use crate::fact::Visit;
use crate::figures::FIGURES;
use crate::message::{Message, Param, Unit, days};
use crate::say;
use crate::situation::Situation;
use crate::system::{Equipment, Serviced, Stops};
use jiff::civil::Date;
use serde::Serialize;
use uuid::Uuid;

/// A piece of equipment as it is shown.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct EquipmentLine<W = Message> {
    /// Which.
    pub id: Uuid,
    /// What it is called.
    pub name: W,
    /// In use since when, and when it was last serviced.
    pub since: W,
    /// When it is serviced or replaced next.
    pub next: W,
    /// What its failing costs, and whether a spare is at hand.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cost: Option<W>,
    /// Whether its failing would cost plants within a day, and no spare is at hand.
    pub bare: bool,
}

impl<W> EquipmentLine<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> EquipmentLine<V> {
        EquipmentLine {
            id: self.id,
            name: say(self.name),
            since: say(self.since),
            next: say(self.next),
            cost: self.cost.map(say),
            bare: self.bare,
        }
    }
}

/// When a piece was put in, when it was last serviced, and what is due of it when.
struct Dates {
    since: Date,
    serviced: Option<Date>,
    replace: bool,
    due: Date,
}

fn dates(one: &Equipment, s: &Situation<'_>) -> Dates {
    let done = s.known.done.equipment.get(&one.id);
    let on = |at: Option<jiff::Timestamp>| at.map(|at| s.date(at));
    let put_in = one.since.unwrap_or(s.system.since);
    let since = on(done.and_then(|done| done.replaced)).map_or(put_in, |replaced| replaced.max(put_in));
    let serviced = on(done.and_then(|done| done.serviced)).filter(|at| *at > since);
    let worn = add_days(since, one.what.facts().lasts_days.into());
    // Nothing is late from before anybody wrote down that it is there.
    let known = s.history.said_since(|system| system.equipment.iter().any(|other| other.id == one.id));
    let known = known.map_or(Date::MIN, |at| s.date(at));
    let service = add_days(serviced.unwrap_or(since), one.every().into()).max(known);
    let replace = worn <= service;
    Dates { since, serviced, replace, due: if replace { worn.max(known) } else { service } }
}

/// Hours that roots last when it fails; nothing where they do not mind.
fn costs(one: &Equipment, s: &Situation<'_>) -> Option<f64> {
    let traits = &s.system.traits;
    let matters = match one.what.facts().stops? {
        Stops::Water => traits.pumped(),
        Stops::Air => traits.aerated,
    };
    lasts(s).filter(|_| matters)
}

/// What its failing costs, and whether a spare is at hand.
fn cost(one: &Equipment, s: &Situation<'_>) -> Option<Message> {
    let hours = Param::Number(costs(one, s)?, Unit::Hours);
    Some(match one.spare {
        Some(true) => say!("equipment.fails_spare", hours = hours),
        Some(false) => say!("equipment.fails_bare", hours = hours),
        None => say!("equipment.fails", hours = hours),
    })
}

/// The equipment of a system, as it is shown.
#[must_use]
pub fn lines(s: &Situation<'_>) -> Vec<EquipmentLine> {
    let today = s.today();
    let line = |one: &Equipment| {
        let dates = dates(one, s);
        let since = match dates.serviced {
            Some(serviced) => {
                say!("equipment.since_serviced", since = day(dates.since, today), serviced = day(serviced, today))
            }
            None => say!("equipment.since", since = day(dates.since, today)),
        };
        let next = day(dates.due, today);
        let next = if dates.replace {
            say!("equipment.replace_on", on = next)
        } else {
            say!("equipment.service_on", on = next)
        };
        let bare = one.spare == Some(false) && costs(one, s).is_some_and(|hours| hours <= A_DAY);
        EquipmentLine { id: one.id, name: one.say(), since, next, cost: cost(one, s), bare }
    };
    s.system.equipment.iter().map(line).collect()
}

/// Hours of a day.
const A_DAY: f64 = 24.0;

/// What is serviced or replaced, each on its day.
pub(super) fn services(s: &Situation<'_>) -> Vec<Task> {
    s.system.equipment.iter().map(|one| service(one, s)).collect()
}

fn service(one: &Equipment, s: &Situation<'_>) -> Task {
    let dates = dates(one, s);
    let slack = FIGURES.margin.equipment;
    let on = s.calendar.settle(dates.due, slack);
    let (name, doing) = if dates.replace {
        (say!("equipment.replace", what = one.say()), say!("equipment.replace_doing"))
    } else {
        (say!("equipment.service_it", what = one.say()), one.what.service())
    };
    let since = day(dates.since, s.today());
    let when = match dates.serviced {
        _ if dates.replace => {
            let lasts = days(f64::from(one.what.facts().lasts_days));
            say!("equipment.why_replace", since = since, lasts = lasts)
        }
        Some(serviced) => {
            let every = days(f64::from(one.every()));
            say!("equipment.why_service", last = day(serviced, s.today()), every = every)
        }
        None => say!("equipment.why_first", since = since, every = days(f64::from(one.every()))),
    };
    let reason = say!("sentences", all = Param::Sentences(std::iter::once(when).chain(cost(one, s)).collect()));
    let task = Task::new(format!("equipment.{}", one.id), name, doing, reason, on, end_of(on, s.now.time_zone()), s);
    let done = Serviced { equipment: one.id, what: one.what, replaced: dates.replace };
    let sound = Some(Box::new(Visit { serviced: vec![done], ..Visit::default() }));
    let task = Task { one_tap: true, sound, ..task.slack(slack, s) };
    if one.what.facts().adult { task.adult() } else { task }
}
