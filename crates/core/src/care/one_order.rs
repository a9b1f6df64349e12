//! One order for one tank. A change that is due within two days takes in what is wrong with the strength and the pH of the
//! same water: nobody feeds or sours water that is poured away the day after. Where something is wrong with it, the change
//! comes forward to today; water that runs low is topped off all the same. Where no change is near, level, strength and pH
//! that are wrong together are put right together: one order, one mixing, one wait.

use super::routine::{Due, due};
use super::task::{Task, comes_first};
use crate::calendar::{add_whole_days, day, end_of};
use crate::dosing::{doses_tank, last_ph};
use crate::fact::Subject;
use crate::figures::FIGURES;
use crate::message::{Message, Param};
use crate::refill::{level_known, strength_known};
use crate::say;
use crate::situation::Situation;
use crate::system::Check;
use crate::verdict::{Verdict, judge_state};
use jiff::civil::Date;

/// What a change takes in: water of another strength or pH. What asks for a reading first is no order yet.
const LESSER: [&str; 5] = [
    "verdict.ec.weak_todo",
    "verdict.ec.strong_todo",
    "verdict.ec.spent_todo",
    "verdict.ph.high_todo",
    "verdict.ph.low_todo",
];

/// The day of a change that is due so soon that nothing else is done to the strength or the pH of the water. One that
/// somebody has moved further off takes nothing in: until then the water is put right by itself.
#[must_use]
pub fn change_soon(s: &Situation<'_>) -> Option<Date> {
    let due = due(Check::Change, s)?.on;
    let moved = s.known.done.moved.get(Check::Change.code()).filter(|moved| due >= moved.from);
    let on = moved.map_or(due, |moved| moved.to.max(due));
    (on <= add_whole_days(s.today(), FIGURES.change.takes_in)).then_some(on)
}

/// Whether a change that is due soon takes in what a verdict calls for.
pub(super) fn takes_in(verdict: &Verdict) -> bool {
    verdict.todo.as_ref().is_some_and(is_lesser)
}

/// A change that is due soon, today where it has something to take in, and waiting no longer than that may; any other as
/// it is.
pub(super) fn forward(change: Due, s: &Situation<'_>) -> Due {
    if change_soon(s).is_none() {
        return change;
    }
    let lesser: Vec<Verdict> = judge_state(s).into_iter().map(|(_, verdict)| verdict).filter(takes_in).collect();
    let Some(rank) = lesser.iter().map(|verdict| verdict.rank).min() else { return change };
    let least = lesser.iter().map(|verdict| verdict.slack_days).fold(change.slack_days, f64::min);
    let taken: Vec<Message> = lesser.into_iter().map(|verdict| verdict.finding).collect();
    let on = change.on.min(s.calendar.open_on_or_after(s.today()));
    let from = if on < change.on { end_of(on, s.now.time_zone()) } else { change.from };
    let said = say!("one_order.takes_in", taken = taken);
    let reason = say!("sentences", all = Param::Sentences(vec![change.reason, said]));
    Due { on, from, slack_days: least, rank: rank.min(change.rank), reason, ..change }
}

/// A verdict as it is told where a change is due soon: one order, and no dose into water that is poured away.
#[must_use]
pub fn told(verdict: Verdict, s: &Situation<'_>) -> Verdict {
    if takes_in(&verdict) && change_soon(s).is_some() {
        return Verdict { next: say!("one_order.next"), todo: None, ..verdict };
    }
    verdict
}

/// What the bench says beside a correction that a change makes needless.
#[must_use]
pub fn beside(s: &Situation<'_>) -> Option<Message> {
    change_soon(s).map(|on| say!("one_order.beside", due = day(on, s.today())))
}

/// Whether what was found of the level, the strength and the pH is put right by one order: two of them are wrong, and no
/// change is near that does it.
#[must_use]
pub fn one_for_all(verdicts: &[Verdict], s: &Situation<'_>) -> bool {
    let poured = |verdict: &&Verdict| verdict.todo.as_ref().is_some_and(|todo| pours(todo, s));
    verdicts.iter().filter(poured).count() > 1 && change_soon(s).is_none() && !s.actor.is_child()
}

/// Whether what is to be done, as it is called, is poured here.
fn pours(todo: &Message, s: &Situation<'_>) -> bool {
    match todo.code.as_ref() {
        "verdict.level.below_todo" | "verdict.ec.weak_todo" | "verdict.ec.strong_todo" => true,
        "verdict.ph.high_todo" | "verdict.ph.low_todo" => doses_tank(s),
        _ => false,
    }
}

/// Level, strength and pH of one tank as one order, ranked and dated by the most pressing of them; what is read first, and
/// what is not poured, stays by itself.
pub(super) fn together(tasks: Vec<Task>, s: &Situation<'_>) -> Vec<Task> {
    let known = s.water().ec().is_some_and(|about| strength_known(&about));
    // What a dose or feed is worked out from is read first.
    let by_what = |task: &Task| match task.subject {
        Some(Subject::Ec) => known,
        Some(Subject::Ph) => last_ph(s).is_some(),
        _ => true,
    };
    let poured = |task: &Task| pours(&task.name, s) && by_what(task);
    let (mut one, others): (Vec<Task>, Vec<Task>) = tasks.into_iter().partition(poured);
    if one.len() < 2 || s.actor.is_child() || !level_known(s) {
        return others.into_iter().chain(one).collect();
    }
    one.sort_by(|a, b| comes_first(a.order(), b.order()));
    let about = |subject| one.iter().any(|task| task.subject == Some(subject));
    let code = match (about(Subject::Level), about(Subject::Ec), about(Subject::Ph)) {
        (true, true, true) => "all",
        (true, true, false) => "level_ec",
        (true, false, true) => "level_ph",
        _ => "ec_ph",
    };
    // What was found is enough: why it matters stands with each verdict.
    let ordered = |verdict: &Verdict| {
        one.iter().any(|task| Some(&task.name.code) == verdict.todo.as_ref().map(|todo| &todo.code))
    };
    let found = judge_state(s).into_iter().map(|(_, verdict)| verdict).filter(ordered);
    let reason = say!("sentences", all = Param::Sentences(found.map(|verdict| verdict.finding).collect()));
    let (name, doing) = (Message::of("put_right", code, "name"), Message::of("put_right", code, "doing"));
    let first = one.swap_remove(0);
    let joined = Task { code: "put_right".into(), name, doing, reason, adult: true, ..first };
    others.into_iter().chain([joined]).collect()
}

/// Whether what is to be done, as it is called, stands in the change.
pub(super) fn is_lesser(todo: &Message) -> bool {
    LESSER.contains(&todo.code.as_ref())
}
