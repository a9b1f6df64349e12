//! Tasks: everything that is due at one system, ordered by margin.

use super::Check;
use super::follow_up::follow_ups;
use super::routine::{Due, routine};
use crate::calendar::{Calendar, days_between, local_date};
use crate::crop::{Planting, Stage};
use crate::log::State;
use crate::quantity::Wording;
use crate::system::System;
use crate::verdict::Subject;
use jiff::civil::Date;
use jiff::{Timestamp, Zoned};
use serde::Serialize;
use std::borrow::Cow;

/// All that a rule may look at: the system, what grows in it, its state, its place's calendar and
/// reader, and the time, in the place's zone.
#[derive(Debug, Clone, Copy)]
pub struct Situation<'a> {
    /// The system.
    pub system: &'a System,
    /// What grows in it.
    pub plantings: &'a [Planting],
    /// What its log says.
    pub state: &'a State,
    /// When its place is open.
    pub calendar: &'a Calendar,
    /// Now, in the place's time zone.
    pub now: &'a Zoned,
    /// The place's units and the meter's scale.
    pub wording: Wording,
    /// When the meter was last calibrated, at whichever system.
    pub calibrated: Option<Timestamp>,
}

impl Situation<'_> {
    /// How many plants stand on this water.
    #[must_use]
    pub fn plants(&self) -> u32 {
        self.plantings.iter().filter(|p| p.stage != Stage::Done).map(|p| u32::try_from(p.ports.len()).unwrap_or(u32::MAX)).sum()
    }

    /// The day from which something never recorded is counted: the first entry's, or the system's
    /// start while nothing is recorded at all.
    #[must_use]
    pub fn began(&self) -> Date {
        self.state.first_at.map_or(self.system.since, |at| local_date(at, self.now))
    }

    /// Whether any planting is so.
    pub fn grows(&self, so: impl Fn(&Planting) -> bool) -> bool {
        self.plantings.iter().any(so)
    }
}

/// Where a task stands against its day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Standing {
    /// Its day has passed.
    Late,
    /// Its day is today.
    Today,
    /// Within three days.
    Soon,
    /// Later.
    Later,
}

/// How loudly a task asks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Urgency {
    /// A hand today: less than a day and a half of margin.
    Hand,
    /// On today's list, or its margin ends within three days.
    Eye,
    /// Nothing presses.
    Calm,
}

impl Urgency {
    fn of(margin_days: f64, standing: Standing) -> Self {
        if margin_days < 1.5 {
            Self::Hand
        } else if margin_days < 3.0 || standing <= Standing::Today {
            Self::Eye
        } else {
            Self::Calm
        }
    }
}

/// One dated thing to do at one system.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Task {
    /// What it is, stable from day to day.
    pub code: Cow<'static, str>,
    /// What to do, in a few words.
    pub name: Cow<'static, str>,
    /// What to do, in a sentence.
    pub doing: Cow<'static, str>,
    /// The day on which it is due.
    #[schema(value_type = String, format = Date)]
    pub due_on: Date,
    /// Days late, negative while it is still to come.
    pub days_late: i32,
    /// Where it stands.
    pub standing: Standing,
    /// Days that lateness costs nothing.
    pub slack_days: f64,
    /// Days left until lateness starts to cost plants; negative once it does.
    pub margin_days: f64,
    /// How loudly it asks.
    pub urgency: Urgency,
    /// Why it is due then.
    pub reason: String,
    /// The routine check that it is, if it is one.
    pub check: Option<Check>,
    /// The part of the visit that it belongs to, if any.
    pub subject: Option<Subject>,
    /// Ticked off without a measurement.
    pub one_tap: bool,
    /// Means mains or concentrates: not for children.
    pub adult: bool,
}

impl Task {
    /// A task with its margin, (lateness counts from + slack) − now.
    #[allow(clippy::too_many_arguments, reason = "the parts of one task")]
    pub(super) fn new(
        code: &'static str,
        name: impl Into<Cow<'static, str>>,
        doing: impl Into<Cow<'static, str>>,
        due_on: Date,
        from: Timestamp,
        slack_days: f64,
        reason: String,
        s: &Situation<'_>,
    ) -> Self {
        let days_late = (s.now.date() - due_on).get_days();
        let standing = match days_late {
            1.. => Standing::Late,
            0 => Standing::Today,
            -3..0 => Standing::Soon,
            _ => Standing::Later,
        };
        let margin_days = days_between(s.now.timestamp(), from) + slack_days;
        Self {
            code: code.into(),
            name: name.into(),
            doing: doing.into(),
            due_on,
            days_late,
            standing,
            slack_days,
            margin_days,
            urgency: Urgency::of(margin_days, standing),
            reason,
            check: None,
            subject: None,
            one_tap: false,
            adult: false,
        }
    }

    pub(super) fn about(mut self, subject: Subject) -> Self {
        self.subject = Some(subject);
        self
    }

    pub(super) fn adult(mut self) -> Self {
        self.adult = true;
        self
    }

    fn from_check(due: Due, s: &Situation<'_>) -> Self {
        let facts = due.check.facts();
        let mut task = Self::new(due.check.code(), facts.name.as_str(), facts.doing.as_str(), due.on, due.from, due.slack_days, due.reason, s);
        task.check = Some(due.check);
        task.one_tap = facts.one_tap;
        task.adult = facts.adult;
        task.subject = match due.check {
            Check::Level => Some(Subject::Level),
            Check::Readings => Some(Subject::Ph),
            Check::WaterGlass => Some(Subject::Glass),
            Check::Roots => Some(Subject::Roots),
            Check::Plants | Check::LookIn => Some(Subject::Plants),
            _ => None,
        };
        task
    }
}

/// Everything to do at a system, least margin first. What the findings call for stands before
/// routine of the same margin. A spent solution is said once, by the change that it makes due.
#[must_use]
pub fn tasks(s: &Situation<'_>) -> Vec<Task> {
    let routine: Vec<Task> = routine(s).into_iter().map(|due| Task::from_check(due, s)).collect();
    let change_is_due = routine.iter().any(|t| t.check == Some(Check::Change) && t.days_late >= 0);
    let mut tasks: Vec<Task> = follow_ups(s).into_iter().filter(|t| !(change_is_due && t.subject == Some(Subject::Ec) && t.name.starts_with("Renew"))).collect();
    tasks.extend(routine);
    tasks.sort_by(|a, b| a.margin_days.total_cmp(&b.margin_days));
    tasks
}

/// The task that a system is judged by on the round: the one with the least margin, save a look-in
/// that is not late, for every visit of any kind is a look-in too and would hide what it is for.
#[must_use]
pub fn pressing(tasks: &[Task]) -> Option<&Task> {
    let ordinary = |task: &&Task| task.check == Some(Check::LookIn) && task.standing != Standing::Late;
    tasks.iter().find(|task| !ordinary(task)).or(tasks.first())
}
