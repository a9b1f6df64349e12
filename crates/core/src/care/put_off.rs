//! Moving a routine task to another day, or skipping it once.
//!
//! The property that holds whatever is moved: **the end of a task's margin stays where it is**. A task is moved only
//! to an open day within its margin, and costs plants from the same moment on as before. To skip is the one exception,
//! and said to be one: it is due again an interval later with a margin of its own. So it is skipped once in a row, with
//! a reason, while its margin lasts, and what the water needs (level, readings, change) is not skipped at all.
//!
//! A move is void as soon as something makes the task due before the day from which it was moved: it was decided when
//! that was not known.

use super::Task;
use super::gather::{gathers, within};
use crate::calendar::{add_days, after, day, end_of};
use crate::fact::{Chore, Instead, PutOff, Visit};
use crate::message::{Message, Param};
use crate::refusal::Refusal;
use crate::refuse;
use crate::say;
use crate::situation::Situation;
use crate::system::Check;
use crate::verdict::Rank;
use jiff::SignedDuration;
use jiff::civil::Date;
use serde::Serialize;

/// Whether a check is ever put off: a calibration belongs to the meter, and to look in is a part of any visit.
fn may_move(check: Option<Check>) -> bool {
    !matches!(check, Some(Check::Calibrate | Check::LookIn))
}

/// Whether a check is ever skipped: the water does not wait for its next turn.
fn may_skip(check: Option<Check>) -> bool {
    may_move(check) && !matches!(check, Some(Check::Level | Check::Readings | Check::Change))
}

/// Whether a task is a routine check or a rule of one's own, and not what a finding calls for.
fn is_routine(task: &Task) -> bool {
    task.check.is_some() || task.rule.is_some() || !task.parts.is_empty()
}

/// Whether a task can be moved at all. What plants last only hours for waits for nothing.
pub(super) fn may_be_moved(task: &Task) -> bool {
    is_routine(task) && may_move(task.check) && task.rank > Rank::Hours
}

/// The last day that is within the margin: of a day that has just begun when the margin ends nothing is left to do it
/// on, which is so by an hour where clocks are put forward in between.
pub(super) fn last_day(task: &Task, s: &Situation<'_>) -> Date {
    s.date(after(s.now.timestamp(), task.margin_days) - SignedDuration::from_hours(2))
}

/// What was moved stands on its new day, with the end of its margin where it was.
pub(super) fn moved(task: Task, s: &Situation<'_>) -> Task {
    let Some(moved) =
        s.known.done.moved.get(task.code.as_ref()).filter(|_| is_routine(&task) && task.rank > Rank::Hours)
    else {
        return task;
    };
    // Due before the day from which it was moved: that was not known then.
    let along = task.check.filter(|check| gathers(*check, s)).map_or(0, |_| within());
    if add_days(task.due_on, along) < moved.from {
        return task;
    }
    let to = if moved.to >= moved.from { moved.to.max(task.due_on) } else { moved.to };
    let to = to.min(last_day(&task, s));
    if to == task.due_on {
        return task;
    }
    let said = say!("put_off.moved", to = day(to, s.today()), from = day(task.due_on, s.today()));
    let reason = say!("sentences", all = Param::Sentences(vec![said, task.reason.clone()]));
    let ends = task.margin_days;
    let again = Task::new(
        task.code.clone(),
        task.name.clone(),
        task.doing.clone(),
        reason,
        to,
        end_of(to, s.now.time_zone()),
        s,
    );
    let slack = ends - again.margin_days;
    let on_day = again.slack(slack, s);
    Task {
        due_on: on_day.due_on,
        days_late: on_day.days_late,
        standing: on_day.standing,
        slack_days: on_day.slack_days.max(0.0),
        margin_days: on_day.margin_days,
        safe: on_day.safe,
        safe_why: on_day.safe_why,
        urgency: on_day.urgency,
        reason: on_day.reason,
        ..task
    }
}

/// What can become of a task instead of doing it on its day.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Choices<W = Message> {
    /// What it is called.
    pub name: W,
    /// The day on which it is due.
    #[schema(value_type = String, format = Date)]
    pub due_on: Date,
    /// The open days to which it can be moved, today among them.
    #[schema(value_type = Vec<String>)]
    pub days: Vec<Date>,
    /// Until when it can wait, in a sentence.
    pub until: W,
    /// Whether it can be skipped this time.
    pub skip: bool,
    /// When it is due again then, or why it cannot be, in a sentence.
    pub skip_said: W,
}

impl<W> Choices<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Choices<V> {
        Choices {
            name: say(self.name),
            due_on: self.due_on,
            days: self.days,
            until: say(self.until),
            skip: self.skip,
            skip_said: say(self.skip_said),
        }
    }
}

/// No task is moved further ahead than this, in days.
const FURTHEST: i64 = 60;

/// What can become of one of the tasks of a system; `None` where there is no such task, or it is none of routine.
#[must_use]
pub fn choices(code: &str, all: &[Task], s: &Situation<'_>) -> Option<Choices> {
    let task = all.iter().find(|task| task.code == code && may_be_moved(task))?;
    let (today, last) = (s.today(), last_day(task, s));
    let until = if task.margin_days < 0.0 {
        say!("put_off.no_margin")
    } else {
        say!("put_off.until_margin", day = day(last, today))
    };
    let open = |on: &Date| s.calendar.is_open(*on) && *on != task.due_on;
    let days = (0..=FURTHEST).map(|n| add_days(today, n)).take_while(|on| *on <= last).filter(open).collect();
    let before = s.known.done.skipped.contains_key(code);
    let skip_said = match () {
        () if !may_skip(task.check) => say!("put_off.water"),
        () if !task.parts.is_empty() => say!("put_off.look"),
        () if before => say!("put_off.skipped_before"),
        () if task.margin_days < 0.0 => say!("put_off.skipped_late"),
        () => say!("put_off.skips", day = day(due_again(task, s), today)),
    };
    Some(Choices {
        name: task.name.clone(),
        due_on: task.due_on,
        days,
        until,
        skip: may_skip(task.check) && task.parts.is_empty() && !before && task.margin_days >= 0.0,
        skip_said,
    })
}

/// When a task would be due again if it was skipped today.
fn due_again(task: &Task, s: &Situation<'_>) -> Date {
    let mut known = s.known.clone();
    let at = s.now.timestamp();
    known.done.skipped.insert(task.code.clone().into_owned(), at);
    let then = Situation { known: &known, ..*s };
    let same = super::tasks(&then).into_iter().find(|other| other.code == task.code);
    same.map_or(task.due_on, |other| other.due_on)
}

/// Checks what a visit puts off against what is due now.
///
/// # Errors
/// A refusal at the chore, or at the day to which it is moved.
pub fn check(visit: &Visit, s: &Situation<'_>) -> Result<(), Refusal> {
    if visit.put_off.is_empty() {
        return Ok(());
    }
    let all = super::tasks(s);
    for (n, put_off) in visit.put_off.iter().enumerate() {
        let at = |field: &str| format!("put_off.{n}.{field}");
        one(put_off, &all, s).map_err(|(field, refusal)| refusal.at(&at(field)))?;
    }
    Ok(())
}

fn one(put_off: &PutOff, all: &[Task], s: &Situation<'_>) -> Result<(), (&'static str, Refusal)> {
    let (code, name) = (put_off.chore.code(), || put_off.chore.name());
    let check = if let Chore::Check { check } = put_off.chore { Some(check) } else { None };
    if !may_move(check) {
        return Err(("chore", refuse!("put_off_never", name = name())));
    }
    let Some(task) = all.iter().find(|task| task.code == code) else {
        return Err(("chore", refuse!("put_off_not_due", name = name())));
    };
    if task.rank <= Rank::Hours {
        return Err(("chore", refuse!("put_off_hours", name = name())));
    }
    match put_off.instead {
        Instead::Skipped {} if !may_skip(check) => Err(("chore", refuse!("skip_never", name = name()))),
        Instead::Skipped {} if s.known.done.skipped.contains_key(code.as_ref()) => {
            Err(("chore", refuse!("skip_twice", name = name())))
        }
        Instead::Skipped {} if task.margin_days < 0.0 => Err(("chore", refuse!("skip_without_margin", name = name()))),
        Instead::Skipped {} => Ok(()),
        Instead::Moved { from, to } => {
            let (today, last, found) = (s.today(), last_day(task, s), to.to_string());
            let refusal = if from != task.due_on {
                let found = from.to_string();
                return Err((
                    "from",
                    refuse!("put_off_stale", name = name(), found = found, from = task.due_on.to_string()),
                ));
            } else if to < today {
                refuse!("moved_to_past", name = name(), found = found)
            } else if task.margin_days < 0.0 && to > today {
                refuse!("moved_without_margin", name = name(), found = found)
            } else if to > last && to > today {
                refuse!("moved_past_margin", name = name(), found = found, most = last.to_string())
            } else if !s.calendar.is_open(to) {
                refuse!("moved_to_closed", name = name(), found = found)
            } else {
                return Ok(());
            };
            Err(("to", refusal))
        }
    }
}
