//! What the last findings call for: a reading out of its band, a fault, a sign, an open case of
//! root rot. Each stays until a later look finds it mended.

use super::Task;
use super::cause::called_since;
use super::hygiene::suspect_looks;
use super::margin::shorten;
use super::task::Mended;
use crate::calendar::{add_whole_days, day, end_of};
use crate::diagnosis::cause;
use crate::fact::{CaseOutcome, CasePlan, RootStage, Running, Subject};
use crate::figures::FIGURES;
use crate::message::{Message, Param, count};
use crate::projection::{Case, PlantCase};
use crate::say;
use crate::situation::Situation;
use crate::system::{RootRotMethod, TopOffMethod};
use crate::verdict::{Rank, Tone, Verdict, judge_running, judge_state, worst_fault};
use jiff::Timestamp;
use jiff::civil::Date;

/// Every task that the last findings call for.
#[must_use]
pub fn follow_ups(s: &Situation<'_>) -> Vec<Task> {
    let mut tasks: Vec<Task> =
        judge_state(s).into_iter().filter_map(|(at, verdict)| called_for(at, verdict, s)).collect();
    // What a case is followed up for is not asked for twice.
    if followed(s) {
        tasks.retain(|task| task.subject != Some(Subject::Plants));
    }
    if let Some(case) = s.known.cases.root_rot() {
        tasks.extend(root_case(case, s));
    }
    tasks.extend(suspect_looks(s));
    tasks.extend(s.known.cases.open_plants().map(|(case, plan)| plant_case(case, plan, s)));
    tasks
}

/// Whether every sign that was last seen is followed up by a case that is open: of its kind, and looked at when the
/// signs were seen or since. What is seen after that is new, and asks for itself.
fn followed(s: &Situation<'_>) -> bool {
    let Some(plants) = s.known.readings.plants.as_ref() else { return false };
    let looked_at = |case: &PlantCase| case.looks.last().is_some_and(|(at, _)| *at >= plants.at);
    let of_its_kind = |code: &str| {
        let mut open = s.known.cases.open_plants().filter(|(case, _)| looked_at(case));
        open.any(|(case, _)| cause(&case.cause).is_some_and(|cause| cause.weight(code) >= OF_ITS_KIND))
    };
    !plants.value.signs.is_empty() && plants.value.signs.iter().all(|sign| of_its_kind(sign.code()))
}

/// A sign that speaks for a cause with less than this may go with it, and may be something else.
const OF_ITS_KIND: f64 = 1.0;

/// The task that a verdict calls for, from the moment of the finding.
fn called_for(at: Timestamp, verdict: Verdict, s: &Situation<'_>) -> Option<Task> {
    let at = verdict.todo.as_ref().map(|_| called_since(at, &verdict, s))?;
    let todo = verdict.todo?;
    let sensitive = matches!(verdict.subject, Subject::Running | Subject::Level);
    let reason = say!("follow_up.reason", finding = verdict.finding, why = verdict.why);
    let slack = shorten(verdict.slack_days, sensitive, s).days;
    let on = s.date(at);
    // What is to be done now is counted from the moment it was found, not from the evening.
    let from = if verdict.tone == Tone::Now { at } else { end_of(on, s.now.time_zone()) };
    let task = Task::new(verdict.subject.code(), todo, verdict.next, reason, on, from, s);
    let rank = rank(verdict.rank, s);
    let task = task.slack(slack, s).about(verdict.subject).caused_by(verdict.code).ranked(rank);
    let task = match (verdict.subject, s.known.readings.running) {
        (Subject::Running, Some(seen)) => Task { mended: mended(seen.value), ..task },
        _ => task,
    };
    // A pipe is cleared with the pump unplugged.
    let pipe = task.name.code == "verdict.level.apart_todo";
    Some(if pipe || for_adults(verdict.subject, s) { task.adult() } else { task })
}

/// Where nothing has a plug nobody is in danger but of what is in the bottles, and where nothing grows nothing dies of
/// thirst.
fn rank(rank: Rank, s: &Situation<'_>) -> Rank {
    let bottles = || s.known.readings.running.is_some_and(|seen| seen.value.bottles_away == Some(false));
    match rank {
        Rank::People if !s.system.traits.mains() && !bottles() => Rank::Hours,
        Rank::Hours if s.plants() == 0 => Rank::Days,
        other => other,
    }
}

/// That people are in danger here, and by what, for every sheet that leads somebody to it.
#[must_use]
pub fn danger(s: &Situation<'_>) -> Option<Message> {
    let seen = s.known.readings.running.map(|seen| seen.value)?;
    let people = rank(judge_running(seen).rank, s) == Rank::People;
    let electric = seen.dry_floor == Some(false) || seen.plug_right == Some(false);
    let here =
        |fault| if electric { say!("danger.here", fault = fault) } else { say!("danger.bottles", fault = fault) };
    worst_fault(seen).filter(|_| people).map(here)
}

/// What somebody who sees each part put right can say with one tap.
fn mended(seen: Running) -> Vec<Mended> {
    seen.amiss().map(|part| Mended { part: part.into(), say: Message::of("running.mended", part, "say") }).collect()
}

/// What a finding calls for on each subject is the work of adults: mains, concentrates, what is thrown
/// away. Children look over the plants, measure, and top off with plain water where that is the method.
fn for_adults(subject: Subject, s: &Situation<'_>) -> bool {
    match subject {
        Subject::Plants => false,
        Subject::Level => s.system.methods.top_off != TopOffMethod::Plain,
        _ => true,
    }
}

/// A task of a case, moved off the closed days.
fn of_case(code: &'static str, on: Date, slack: f64, reason: Message, s: &Situation<'_>) -> Task {
    let slack = shorten(slack, true, s).days;
    let on = s.calendar.settle(on, slack);
    let (name, doing) = (Message::of("case_task", code, "name"), Message::of("case_task", code, "doing"));
    let task = Task::new(code, name, doing, reason, on, end_of(on, s.now.time_zone()), s);
    task.slack(slack, s).about(Subject::Roots).ranked(Rank::Days)
}

/// The same for what should have been done when the case was found: that day is not moved.
fn at_once(code: &'static str, case: &Case, slack: f64, reason: Message, s: &Situation<'_>) -> Task {
    let on = s.date(case.opened);
    let (name, doing) = (Message::of("case_task", code, "name"), Message::of("case_task", code, "doing"));
    let task = Task::new(code, name, doing, reason, on, end_of(on, s.now.time_zone()), s);
    task.slack(shorten(slack, true, s).days, s).about(Subject::Roots).ranked(Rank::Days).adult()
}

fn root_case(case: &Case, s: &Situation<'_>) -> Vec<Task> {
    let figures = &FIGURES.roots;
    let ports = s.known.readings.roots.map_or(0, |roots| roots.value.1);
    let place =
        || -> Param { if ports == 0 { Param::from("") } else { say!("case.in_ports", ports = count(ports)).into() } };
    let (opened, today, stage) = (s.date(case.opened), s.today(), case.stage);
    let began = || day(opened, today);
    let mut tasks = Vec::new();
    if s.system.methods.root_rot == RootRotMethod::Restart {
        let reason = say!("case.restart", stage = stage.say(), place = place(), began = began());
        return vec![at_once("root_restart", case, figures.remove_slack, reason, s)];
    }
    if stage == RootStage::Rotted {
        let reason = say!("case.rotted", place = place(), began = began());
        tasks.push(at_once("root_remove", case, figures.remove_slack, reason, s));
    }
    match case.treated {
        None => {
            let reason = say!("case.untreated", stage = stage.say(), place = place(), began = began());
            tasks.push(at_once("root_treat", case, figures.treat_slack, reason, s));
        }
        Some(treated) => {
            let dosed = s.date(treated);
            let on = add_whole_days(dosed, figures.peroxide_every);
            let dosed = day(dosed, today);
            let reason = say!("case.treated", stage = stage.say(), place = place(), began = began(), dosed = dosed);
            tasks.push(of_case("peroxide", on, figures.treat_slack, reason, s).adult());
        }
    }
    let reason = if case.sound_looks == 1 {
        say!("case.one_sound_look", began = began())
    } else {
        say!("case.looks", began = began())
    };
    tasks.push(of_case("root_look", next_root_look(case, s), figures.treat_slack, reason, s));
    tasks
}

/// The next look at a case of what ails the plants, with what is done about it.
fn plant_case(case: &PlantCase, plan: &'static CasePlan, s: &Situation<'_>) -> Task {
    let figures = &FIGURES.findings;
    let (opened, today) = (s.date(case.opened), s.today());
    let (last_at, last) = case.looks.last().copied().unwrap_or((case.opened, CaseOutcome::Opened));
    let slack = shorten(figures.sign_slack, false, s).days;
    let on = s.calendar.settle(next_look(case, plan, s), slack);
    let name = say!("case_look.name", case = plan.name());
    let doing = say!("case_look.doing", doing = plan.doing());
    let (began, seen) = (day(opened, today), day(s.date(last_at), today));
    let sound = count(plan.sound);
    let reason = if last == CaseOutcome::Opened {
        say!("case_look.reason_first", began = began, sound = sound)
    } else {
        say!("case_look.reason", began = began, last = last.say(), seen = seen, sound = sound)
    };
    let task = Task::new(&plan.cause, name, doing, reason, on, end_of(on, s.now.time_zone()), s);
    task.slack(slack, s).about(Subject::Plants)
}

/// The day of the next look at a case: the next of its plan, and after those every few days.
#[must_use]
pub fn next_look(case: &PlantCase, plan: &CasePlan, s: &Situation<'_>) -> Date {
    let opened = s.date(case.opened);
    let last = case.looks.last().map_or(opened, |(at, _)| s.date(*at));
    let planned = plan.looks.iter().map(|days| add_whole_days(opened, *days)).find(|on| *on > last);
    planned.unwrap_or_else(|| add_whole_days(last, plan.later))
}

/// The next of the three looks that has not been made; after them every few days.
fn next_root_look(case: &Case, s: &Situation<'_>) -> Date {
    let figures = &FIGURES.roots;
    let began = s.date(case.opened);
    let last = s.known.readings.roots.map_or(began, |roots| s.date(roots.at));
    let looks = [figures.first_look, figures.second_look, figures.third_look];
    let next = looks.iter().map(|days| add_whole_days(began, *days)).find(|on| *on > last);
    next.unwrap_or_else(|| add_whole_days(last, figures.later_looks))
}
