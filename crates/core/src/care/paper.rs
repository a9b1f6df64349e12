//! A visit on paper: what is written onto the sheet of one system before somebody goes there with it.
//!
//! No amount to pour stands on it: that follows from what is read at the tank, and a number on paper would be of the day it was
//! printed. A child gets no step at mains or bottles; at a suspect a child only looks, for hands would carry something on.

use super::hygiene::{hands, only_looks};
use super::{Task, tasks};
use crate::message::{Message, Param};
use crate::say;
use crate::situation::Situation;
use crate::system::Check;
use crate::way::WayTo;
use serde::Serialize;

/// One job on the sheet.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct PaperLine<W = Message> {
    /// The code of its task.
    pub code: String,
    /// What is done.
    pub name: W,
    /// Days late; negative while it is still to come.
    pub days_late: i32,
    /// What is said of it, where it has no steps.
    pub said: W,
    /// Its steps, in the order of hands.
    pub steps: Vec<W>,
}

impl<W> PaperLine<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> PaperLine<V> {
        let Self { code, name, days_late, said, steps } = self;
        PaperLine { code, name: say(name), days_late, said: say(said), steps: steps.into_iter().map(say).collect() }
    }
}

/// What stands on the sheet, least margin first. What is read as a number has its own lines, and a change its own guide.
#[must_use]
pub fn paper(s: &Situation<'_>) -> Vec<PaperLine> {
    let only_look = only_looks(s);
    let numbers = |task: &Task| matches!(task.check, Some(Check::Level | Check::Readings));
    let wanted = |task: &Task| {
        let touches = task.check.is_some() || task.rule.is_some() || task.subject.is_some();
        !(numbers(task) || only_look && touches && task.check != Some(Check::LookIn))
    };
    tasks(s).iter().filter(|task| wanted(task)).map(|task| line(task, s)).collect()
}

fn line(task: &Task, s: &Situation<'_>) -> PaperLine {
    let steps = task.check.map(|check| hands(check, s)).unwrap_or_default();
    let pours = task.way.as_ref().is_some_and(|way| matches!(way.to, WayTo::Bench | WayTo::Change));
    let said = match task.check {
        Some(Check::Change) => say!("paper.change", why = task.reason.clone()),
        // What is poured is worked out where it is poured.
        _ if pours => {
            say!("sentences", all = Param::Sentences(vec![task.reason.clone(), say!("paper.follows")]))
        }
        Some(_) => task.doing.clone(),
        None if task.rule.is_some() => task.reason.clone(),
        None => task.doing.clone(),
    };
    PaperLine {
        code: task.code.clone().into_owned(),
        name: task.name.clone(),
        days_late: task.days_late,
        said,
        steps: steps.into_iter().map(crate::system::HandStep::say).collect(),
    }
}
