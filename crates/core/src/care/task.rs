//! Tasks: everything that is due at one system, ordered by margin.

use super::follow_up::follow_ups;
use super::routine::{Due, routine};
use crate::calendar::days_between;
use crate::fact::Subject;
use crate::figures::FIGURES;
use crate::message::Message;
use crate::say;
use crate::situation::Situation;
use crate::system::Check;
use jiff::Timestamp;
use jiff::civil::Date;
use serde::Serialize;
use std::borrow::Cow;

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
        if margin_days < FIGURES.margin.hand {
            Self::Hand
        } else if margin_days < FIGURES.margin.eye || standing <= Standing::Today {
            Self::Eye
        } else {
            Self::Calm
        }
    }
}

/// One dated thing to do at one system.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Task<W = Message> {
    /// What it is, stable from day to day.
    pub code: &'static str,
    /// The verdict that called for it, by its code.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cause: Option<Cow<'static, str>>,
    /// What to do, in a few words.
    pub name: W,
    /// What to do, in a sentence.
    pub doing: W,
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
    pub reason: W,
    /// The routine check that it is, if it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub check: Option<Check>,
    /// The part of the visit that it belongs to, if any.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub subject: Option<Subject>,
    /// Ticked off without a measurement.
    pub one_tap: bool,
    /// Means mains or concentrates: not for children.
    pub adult: bool,
}

impl Task {
    /// A task without slack, due on a day, late from a moment on.
    pub(super) fn new(
        code: &'static str,
        name: Message,
        doing: Message,
        reason: Message,
        due_on: Date,
        from: Timestamp,
        s: &Situation<'_>,
    ) -> Self {
        let days_late = (s.today() - due_on).get_days();
        let soon = FIGURES.margin.soon.round() as i32;
        let standing = match days_late {
            1.. => Standing::Late,
            0 => Standing::Today,
            late if -late <= soon => Standing::Soon,
            _ => Standing::Later,
        };
        let margin_days = days_between(s.now.timestamp(), from);
        Self {
            code,
            cause: None,
            name,
            doing,
            due_on,
            days_late,
            standing,
            slack_days: 0.0,
            margin_days,
            urgency: Urgency::of(margin_days, standing),
            reason,
            check: None,
            subject: None,
            one_tap: false,
            adult: false,
        }
    }

    /// Gives it slack: margin = (lateness counts from + slack) − now.
    pub(super) fn slack(mut self, days: f64) -> Self {
        self.margin_days += days;
        self.slack_days += days;
        self.urgency = Urgency::of(self.margin_days, self.standing);
        self
    }

    pub(super) fn about(mut self, subject: Subject) -> Self {
        self.subject = Some(subject);
        self
    }

    pub(super) fn caused_by(mut self, verdict: Cow<'static, str>) -> Self {
        self.cause = Some(verdict);
        self
    }

    pub(super) fn adult(mut self) -> Self {
        self.adult = true;
        self
    }

    fn from_check(due: Due, s: &Situation<'_>) -> Self {
        let (check, facts) = (due.check, due.check.facts());
        let task = Self::new(check.code(), check.name(), check.doing(), due.reason, due.on, due.from, s);
        Self {
            check: Some(check),
            one_tap: facts.one_tap,
            adult: facts.adult,
            doing: if check == Check::Harvest { due.doing.unwrap_or(task.doing.clone()) } else { task.doing.clone() },
            subject: match check {
                Check::Level => Some(Subject::Level),
                Check::Readings => Some(Subject::Ph),
                Check::WaterGlass => Some(Subject::Glass),
                Check::Roots => Some(Subject::Roots),
                Check::Plants | Check::LookIn => Some(Subject::Plants),
                _ => None,
            },
            ..task.slack(due.slack_days)
        }
    }
}

impl<W> Task<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Task<V> {
        Task {
            code: self.code,
            cause: self.cause,
            name: say(self.name),
            doing: say(self.doing),
            due_on: self.due_on,
            days_late: self.days_late,
            standing: self.standing,
            slack_days: self.slack_days,
            margin_days: self.margin_days,
            urgency: self.urgency,
            reason: say(self.reason),
            check: self.check,
            subject: self.subject,
            one_tap: self.one_tap,
            adult: self.adult,
        }
    }
}

/// The verdict of a spent solution. The change that it makes due says it, and says it once.
const SPENT: &str = "verdict.ec.spent";

/// Everything to do at a system, least margin first. What the findings call for stands before
/// routine of the same margin.
#[must_use]
pub fn tasks(s: &Situation<'_>) -> Vec<Task> {
    let routine: Vec<Task> = routine(s).into_iter().map(|due| Task::from_check(due, s)).collect();
    let change_is_due = routine.iter().any(|task| task.check == Some(Check::Change) && task.days_late >= 0);
    let said_already = |task: &Task| change_is_due && task.cause.as_deref() == Some(SPENT);
    let mut tasks: Vec<Task> = follow_ups(s).into_iter().filter(|task| !said_already(task)).collect();
    tasks.extend(routine);
    if s.actor.is_child() {
        tasks = for_child(tasks);
    }
    tasks.sort_by(|a, b| a.margin_days.total_cmp(&b.margin_days));
    tasks
}

/// What a child is told: its own tasks, and one word about those of adults, the most pressing of them.
fn for_child(tasks: Vec<Task>) -> Vec<Task> {
    let (adults, mut own): (Vec<Task>, Vec<Task>) = tasks.into_iter().partition(|task| task.adult);
    let pressing = adults.into_iter().min_by(|a, b| a.margin_days.total_cmp(&b.margin_days));
    own.extend(pressing.map(|task| Task {
        code: "tell_an_adult",
        cause: None,
        name: say!("child.tell"),
        doing: say!("child.tell_doing"),
        reason: say!("child.tell_why"),
        check: None,
        subject: None,
        one_tap: false,
        adult: false,
        ..task
    }));
    own
}

/// The task that a system is judged by on the round: the one with the least margin, save a look-in
/// that is not late, for every visit of any kind is a look-in too and would hide what it is for.
#[must_use]
pub fn pressing<W>(tasks: &[Task<W>]) -> Option<&Task<W>> {
    let ordinary = |task: &&Task<W>| task.check == Some(Check::LookIn) && task.standing != Standing::Late;
    tasks.iter().find(|task| !ordinary(task)).or(tasks.first())
}
