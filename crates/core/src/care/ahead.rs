//! The weeks ahead: what falls on which day at a system, with the days between which it may fall, until when it can
//! wait, and what it costs in minutes and litres; and where two heavy ones fall on one day, which of them could move.
//!
//! What comes first is the task as it is due. What comes after it is reckoned as if each was done on its day: an
//! interval later, off closed days; a top-off when the water nears its minimum again.

use super::change::change_every;
use super::fit::worth;
use super::look::{LOOK, PARTS, minutes_together, named};
use super::outlook::{Ahead, outlook};
use super::put_off::last_day;
use super::routine::interval;
use super::{Task, tasks};
use crate::calendar::{Calendar, Weekday, add_days, day, end_of};
use crate::figures::FIGURES;
use crate::forecast;
use crate::message::{Message, count};
use crate::quantity::Litres;
use crate::refill::{fill_to, least, limit_from};
use crate::say;
use crate::situation::Situation;
use crate::system::{Check, Every};
use crate::verdict::Rank;
use jiff::civil::Date;
use serde::Serialize;
use std::borrow::Cow;
use uuid::Uuid;

/// Something that falls on a day to come.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Coming<W = Message> {
    /// The code of its task.
    pub code: Cow<'static, str>,
    /// What is done.
    pub name: W,
    /// The routine check that it is, if it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub check: Option<Check>,
    /// The rule of one's own that it is, if it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rule: Option<Uuid>,
    /// The day on which it falls; today where it is late.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// The day on which it is due: before today where it is late.
    #[schema(value_type = String, format = Date)]
    pub due_on: Date,
    /// Whether it is the task that stands now; the rest is reckoned on from it.
    pub first: bool,
    /// What it comes before.
    pub rank: Rank,
    /// The first and the last day on which it may fall, where that is a forecast.
    #[schema(value_type = Option<Vec<String>>)]
    pub between: Option<(Date, Date)>,
    /// The last day until which it can wait.
    #[schema(value_type = String, format = Date)]
    pub until: Date,
    /// Whether it can be moved to another day within that.
    pub movable: bool,
    /// Minutes that it usually takes.
    pub minutes: u16,
    /// Litres that are poured.
    pub litres: Litres,
    /// Whether it is heavy: a long job, or much water.
    pub heavy: bool,
    /// Whether a closure brings it forward so far that less than half of its interval lies behind it.
    pub early: bool,
    /// Whether it is an adult's.
    pub adult: bool,
    /// The checks that it takes in, where it is one look for several.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub parts: Vec<Check>,
}

impl<W> Coming<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Coming<V> {
        Coming {
            code: self.code,
            name: say(self.name),
            check: self.check,
            rule: self.rule,
            on: self.on,
            due_on: self.due_on,
            first: self.first,
            rank: self.rank,
            between: self.between,
            until: self.until,
            movable: self.movable,
            minutes: self.minutes,
            litres: self.litres,
            heavy: self.heavy,
            early: self.early,
            adult: self.adult,
            parts: self.parts,
        }
    }
}

/// The furthest that is looked ahead, in days: a term.
pub const MOST_DAYS: u16 = 112;

/// What falls at a system on the days to come, today among them, in order. Look-ins are left out: they fall on every
/// open day.
#[must_use]
pub fn ahead(days: u16, s: &Situation<'_>) -> Vec<Coming> {
    let last = add_days(s.today(), i64::from(days.min(MOST_DAYS)) - 1);
    let all = tasks(s);
    let mut coming: Vec<Coming> = Vec::new();
    for task in all.iter().filter(|task| task.check != Some(Check::LookIn)) {
        let first = first(task, s);
        coming.extend(repeats(&first, task, last, s));
        coming.push(first);
    }
    coming.retain(|one| one.on <= last);
    // A change fills the vessel: nothing is topped off on its day.
    let changed: Vec<Date> = coming.iter().filter(|one| one.check == Some(Check::Change)).map(|one| one.on).collect();
    for one in coming.iter_mut().filter(|one| one.check == Some(Check::Level) && changed.contains(&one.on)) {
        one.litres = Litres::ZERO;
        one.minutes = Check::Level.facts().minutes;
        one.heavy = false;
    }
    let first = |one: &Coming| (one.on, one.rank);
    coming.sort_by(|a, b| first(a).cmp(&first(b)).then(b.minutes.cmp(&a.minutes)).then_with(|| a.code.cmp(&b.code)));
    coming
}

fn first(task: &Task, s: &Situation<'_>) -> Coming {
    let on = task.due_on.max(s.today());
    let litres = litres(task, on, s);
    let minutes = minutes(task, litres, s);
    let level = || outlook(s).into_iter().find(|one| one.of == Ahead::Level).and_then(|one| one.leaves);
    let between = (task.check == Some(Check::Level)).then(level).flatten().map(|leaves| {
        // A fifth of the time is kept in hand, as for the day itself.
        let at = |on: Date| {
            add_days(s.today(), (f64::from((on - s.today()).get_days()) * (1.0 - FIGURES.uptake.in_hand)) as i64)
        };
        (at(leaves.earliest).min(on), leaves.latest.map_or(task.due_on, at).max(on))
    });
    Coming {
        code: task.code.clone(),
        name: task.name.clone(),
        check: task.check,
        rule: task.rule,
        on,
        due_on: task.due_on,
        first: true,
        rank: task.rank,
        between: between.filter(|(from, to)| from < to),
        until: last_day(task, s).max(on),
        movable: task.movable,
        minutes,
        litres,
        heavy: heavy(minutes, litres),
        early: false,
        adult: task.adult,
        parts: Vec::new(),
    }
}

/// The same with the looks of one day as one line, as on every list.
#[must_use]
pub fn looks_together(coming: Vec<Coming>) -> Vec<Coming> {
    let is_part = |one: &Coming| one.rank == Rank::Routine && one.check.is_some_and(|check| PARTS.contains(&check));
    let mut days: Vec<Date> = coming.iter().filter(|one| is_part(one)).map(|one| one.on).collect();
    days.dedup();
    let (looks, mut lines): (Vec<Coming>, Vec<Coming>) = coming.into_iter().partition(is_part);
    for on in days {
        let of_day: Vec<&Coming> = looks.iter().filter(|one| one.on == on).collect();
        lines.extend(match of_day.as_slice() {
            [first, _, ..] => one_look(&of_day, first),
            alone => alone.iter().map(|one| (*one).clone()).collect(),
        });
    }
    lines.sort_by_key(|one| (one.on, one.rank));
    lines
}

fn one_look(of_day: &[&Coming], first: &Coming) -> Vec<Coming> {
    let has = |check: &Check| of_day.iter().any(|one| one.check == Some(*check));
    let parts: Vec<Check> = PARTS.into_iter().filter(has).collect();
    let same = |one: &&&Coming| one.first && one.movable && one.due_on == first.due_on;
    vec![Coming {
        code: LOOK.into(),
        name: named(&parts),
        check: None,
        until: of_day.iter().map(|one| one.until).min().unwrap_or(first.until),
        movable: of_day.iter().filter(same).count() == of_day.len(),
        minutes: minutes_together(of_day.iter().map(|one| one.minutes).sum()),
        heavy: false,
        parts,
        ..first.clone()
    }]
}

fn heavy(minutes: u16, litres: Litres) -> bool {
    f64::from(minutes) >= FIGURES.ahead.heavy_minutes || litres.get() >= FIGURES.ahead.heavy_litres
}

fn minutes(task: &Task, litres: Litres, s: &Situation<'_>) -> u16 {
    let filled = task.check == Some(Check::Level) || matches!(task.code.as_ref(), "level" | "put_right");
    let pours = filled && litres >= least(s);
    let pace = s.known.done.pace();
    worth(task, pace).minutes + if pours { (FIGURES.ahead.pour_minutes * pace).round() as u16 } else { 0 }
}

/// What is poured for a task on a day.
fn litres(task: &Task, on: Date, s: &Situation<'_>) -> Litres {
    let now = end_of(add_days(on, -1), s.now.time_zone()).max(s.now.timestamp()).to_zoned(s.now.time_zone().clone());
    let then = Situation { now: &now, ..*s };
    match (task.check, task.code.as_ref()) {
        (Some(Check::Change), _) | (None, "root_treat" | "root_restart" | "cycle_reset" | "first_fill") => {
            fill_to(&then).litres.unwrap_or_else(|| s.system.full())
        }
        (Some(Check::Level), _) | (None, "level" | "put_right") => {
            then.water().litres().map_or(Litres::ZERO, |about| limit_from(about.value, &then).litres)
        }
        _ => Litres::ZERO,
    }
}

/// Days until the water nears its minimum again after a top-off; `None` where nobody knows what is drunk.
fn lasts(s: &Situation<'_>) -> Option<i64> {
    let uptake = forecast::drinks(s).filter(|uptake| uptake.a_day > Litres::ZERO)?;
    let room = (s.system.full() - s.system.reservoir.minimum).or_nothing();
    Some(((room / uptake.a_day * (1.0 - FIGURES.uptake.in_hand)) as i64).max(1))
}

/// After how many days a task comes again.
fn comes_again(task: &Task, s: &Situation<'_>) -> Option<i64> {
    let every = |check: Check| interval(check, s).map(i64::from);
    match (task.check, task.rule) {
        (Some(Check::Change), _) => Some(change_every(s)),
        (Some(Check::Level), _) => match (every(Check::Level), lasts(s)) {
            (Some(every), Some(lasts)) => Some(every.min(lasts)),
            (every, lasts) => every.or(lasts),
        },
        (Some(check), _) => every(check),
        (None, Some(rule)) => match &s.system.rules.iter().find(|own| own.id == rule)?.every {
            Every::Days { days } => Some(i64::from(*days)),
            Every::Weekdays { .. } => Some(1),
            Every::TopOffs { .. } | Every::Sign { .. } | Every::Stage { .. } | Every::Minimum { .. } => None,
        },
        (None, None) => None,
    }
    .filter(|days| *days > 0)
}

fn repeats(first: &Coming, task: &Task, last: Date, s: &Situation<'_>) -> Vec<Coming> {
    let Some(every) = comes_again(task, s) else { return Vec::new() };
    let weekdays = task
        .rule
        .and_then(|rule| s.system.rules.iter().find(|own| own.id == rule))
        .and_then(|own| if let Every::Weekdays { on } = &own.every { Some(on) } else { None });
    let drinks = forecast::drinks(s).map(|uptake| uptake.a_day);
    let mut all = Vec::new();
    let mut before = first.on;
    while before < last {
        let wanted = match weekdays {
            Some(on) => (1..=7).map(|n| add_days(before, n)).find(|date| on.contains(&Weekday::of(*date))),
            None => Some(add_days(before, every)),
        };
        let Some(wanted) = wanted else { break };
        let settled = s.calendar.settle(wanted, task.slack_days);
        let on = if settled <= before { s.calendar.open_on_or_after(wanted) } else { settled };
        let gap = f64::from((on - before).get_days());
        let litres = match task.check {
            Some(Check::Change) => first.litres,
            Some(Check::Level) => {
                let room = (s.system.full() - s.system.reservoir.minimum).or_nothing();
                drinks.map_or(Litres::ZERO, |a_day| (a_day * gap).min(room))
            }
            _ => Litres::ZERO,
        };
        let minutes = minutes(task, litres, s);
        let until = add_days(on, task.slack_days.floor() as i64);
        all.push(Coming {
            on,
            due_on: on,
            first: false,
            rank: Rank::Routine,
            between: None,
            until,
            movable: false,
            minutes,
            litres,
            heavy: heavy(minutes, litres),
            early: on < wanted && gap * 2.0 < every as f64,
            ..first.clone()
        });
        before = on;
    }
    all
}

/// A heavy job that could be done on another day: because another falls on its own, or because a closure would ask for it
/// again a few days later.
#[derive(Debug, Clone, PartialEq)]
pub struct Offer {
    /// At which of the systems.
    pub at: usize,
    /// The code of its task.
    pub code: Cow<'static, str>,
    /// The day on which it is due.
    pub from: Date,
    /// The day that is offered.
    pub to: Date,
    /// In a sentence.
    pub said: Message,
}

/// Of a heavy job that a closure would ask for twice within days: once, on the day of the second, where its margin
/// reaches so far.
fn once(all: &[(&str, Vec<Coming>)], today: Date) -> Vec<Offer> {
    let of = |at: usize, system: &str, list: &[Coming]| -> Vec<Offer> {
        let firsts = list.iter().filter(|one| one.first && one.heavy && one.movable);
        let twice = firsts.filter_map(|one| {
            let again = list.iter().find(|other| other.code == one.code && other.early && other.on <= one.until)?;
            let (name, on, to) = (one.name.clone(), day(one.on, today), day(again.on, today));
            let said = say!("ahead.once", name = name, system = system, day = on, to = to);
            Some(Offer { at, code: one.code.clone(), from: one.due_on, to: again.on, said })
        });
        twice.collect()
    };
    all.iter().enumerate().flat_map(|(at, (system, list))| of(at, system, list)).collect()
}

/// What could be done on another day. Where two or more heavy jobs fall on one day at one place, those with the most room
/// could move to the nearest open day within their margin on which nothing heavy falls; and what a closure asks for twice
/// could be done once. Offered, never done by itself.
#[must_use]
pub fn offers(all: &[(&str, Vec<Coming>)], calendar: &Calendar, today: Date) -> Vec<Offer> {
    let mut taken: Vec<Date> =
        all.iter().flat_map(|(_, list)| list.iter().filter(|one| one.heavy).map(|one| one.on)).collect();
    let mut days = taken.clone();
    days.sort_unstable();
    days.dedup();
    let mut offers = once(all, today);
    for on in days {
        let many = taken.iter().filter(|other| **other == on).count();
        if many < 2 {
            continue;
        }
        let mut could: Vec<(usize, &Coming)> = all
            .iter()
            .enumerate()
            .flat_map(|(at, (_, list))| list.iter().map(move |one| (at, one)))
            .filter(|(_, one)| one.on == on && one.heavy && one.first && one.movable)
            .filter(|(at, one)| !offers.iter().any(|offer| (offer.at, &offer.code) == (*at, &one.code)))
            .collect();
        // What has the most room moves, and one stays where it is.
        could.sort_by_key(|(_, one)| std::cmp::Reverse(one.until));
        for (at, one) in could.into_iter().take(many - 1) {
            let open = |to: &Date| calendar.is_open(*to) && !taken.contains(to);
            let nearest = (1..=FIGURES.ahead.moved_most.round() as i64)
                .flat_map(|n| [add_days(on, n), add_days(on, -n)])
                .find(|to| (today..=one.until).contains(to) && open(to));
            let Some(to) = nearest else { continue };
            if let Some(place) = taken.iter().position(|other| *other == on) {
                taken[place] = to;
            }
            let said = say!(
                "ahead.offer",
                many = count(many),
                day = day(on, today),
                name = one.name.clone(),
                system = all[at].0,
                to = day(to, today)
            );
            offers.push(Offer { at, code: one.code.clone(), from: one.due_on, to, said });
        }
    }
    offers
}
