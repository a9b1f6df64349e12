//! The looks of a week as one line and one tick: the water, roots, plants, pests, stone and sprayers of one system, where
//! more than one of them is due. It is opened where something is amiss; what one tap says is said in full before it.

use super::silence::{CATCH_UP, answered_by_a_look};
use super::task::{Task, comes_first, never_all_fine};
use crate::fact::{Clarity, Plants, Roots, Smell, Visit, WaterGlass};
use crate::figures::FIGURES;
use crate::message::Message;
use crate::say;
use crate::situation::Situation;
use crate::system::Check;
use crate::verdict::Rank;
use crate::way::{Way, WayTo};

/// What one look takes in, in the order of the hands.
pub const PARTS: [Check; 6] =
    [Check::WaterGlass, Check::Plants, Check::Pests, Check::Roots, Check::Stone, Check::Sprayers];

/// The code of the line.
pub const LOOK: &str = "look";

/// Whether a task is one of those that a look of the week takes in, where it is one.
fn is_part(task: &Task) -> bool {
    task.rank == Rank::Routine && task.check.is_some_and(|check| PARTS.contains(&check))
}

/// The tasks as the lines of a list: the looks that fall together are one, and after a long silence the list is short, with
/// all that one look answers left to it.
#[must_use]
pub fn lines(mut tasks: Vec<Task>, s: &Situation<'_>) -> Vec<Task> {
    if tasks.iter().any(|task| task.code == CATCH_UP) {
        tasks.retain(|task| !answered_by_a_look(task));
    }
    let Some(first) = tasks.iter().filter(|task| is_part(task)).map(|task| task.due_on).min() else { return tasks };
    let until = first.max(s.today());
    let (parts, mut others): (Vec<Task>, Vec<Task>) =
        tasks.into_iter().partition(|task| is_part(task) && task.due_on <= until);
    if parts.len() < 2 {
        others.extend(parts);
    } else {
        others.extend(together(&parts, s));
    }
    others.sort_by(|a, b| comes_first(a.order(), b.order()));
    others
}

/// The tasks that stand behind a line, or wait for a look, for a visit that goes through them part by part.
#[must_use]
pub fn apart(tasks: &[Task], lines: &[Task]) -> Vec<Task> {
    let behind = |task: &&Task| !lines.iter().any(|line| line.code == task.code);
    tasks.iter().filter(behind).cloned().collect()
}

/// The most pressing of them speaks for all.
fn together(parts: &[Task], s: &Situation<'_>) -> Option<Task> {
    let first = parts.iter().min_by(|a, b| a.margin_days.total_cmp(&b.margin_days))?;
    let earliest = parts.iter().min_by_key(|task| task.due_on)?;
    let has: Vec<Check> =
        PARTS.into_iter().filter(|check| parts.iter().any(|task| task.check == Some(*check))).collect();
    Some(Task {
        code: LOOK.into(),
        name: named(&has),
        doing: say!("weekly_look.doing"),
        claim: Some(say!("weekly_look.claim", parts = each(&has, "sound"))),
        sound: Some(Box::new(sound(&has))),
        due_on: earliest.due_on,
        days_late: earliest.days_late,
        standing: earliest.standing,
        check: None,
        rule: None,
        subject: first.subject,
        way: Some(Way { to: WayTo::Visit, part: Some("look"), name: say!("way.look") }),
        // Over an open case, or a fault, nothing is called sound with a tap.
        one_tap: !never_all_fine(s),
        // Moved as one where all of it falls on one day.
        movable: parts.iter().all(|task| task.movable && task.due_on == earliest.due_on),
        parts: has,
        ..first.clone()
    })
}

fn each(parts: &[Check], field: &'static str) -> Vec<Message> {
    parts.iter().map(|check| Message::of("weekly_look", check.code(), field)).collect()
}

/// What a look at these is called.
pub(super) fn named(parts: &[Check]) -> Message {
    say!("weekly_look.name", parts = each(parts, "name"))
}

/// What looks take that are done together, of what they take on days of their own, in minutes.
pub(super) fn minutes_together(alone: u16) -> u16 {
    (f64::from(alone) * FIGURES.gather.together).round() as u16
}

/// What a tap records: exactly what it says.
fn sound(parts: &[Check]) -> Visit {
    let has = |check: Check| parts.contains(&check);
    Visit {
        glass: has(Check::WaterGlass).then_some(WaterGlass { clarity: Clarity::Clear, smell: Some(Smell::Fresh) }),
        plants: has(Check::Plants).then(Plants::default),
        roots: has(Check::Roots).then(Roots::sound),
        done: [Check::Pests, Check::Stone, Check::Sprayers].into_iter().filter(|check| has(*check)).collect(),
        ..Visit::default()
    }
}
