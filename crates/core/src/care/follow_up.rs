//! What the last findings call for: a reading out of its band, a fault, a sign, an open case of
//! root rot. Each stays until a later look finds it mended.

use super::margin::shorten;
use super::{Situation, Task};
use crate::calendar::{add_days, end_of, local_date, say_date};
use crate::log::RootStage;
use crate::verdict::{Subject, judge_state};
use jiff::Timestamp;
use jiff::civil::Date;
use std::borrow::Cow;

/// Peroxide decays to water: it is given again after this many days, 4–6 in practice.
const PEROXIDE_EVERY: i64 = 5;
/// Roots under treatment are looked at this many days after the case was opened.
const ROOT_LOOKS: [i64; 3] = [2, 4, 7];

/// Every task that the last findings call for.
#[must_use]
pub fn follow_ups(s: &Situation<'_>) -> Vec<Task> {
    let mut tasks: Vec<Task> = judge_state(s)
        .into_iter()
        .filter_map(|(at, verdict)| {
            let todo = verdict.todo.clone()?;
            let sensitive = matches!(verdict.subject, Subject::Running | Subject::Level);
            let slack = shorten(verdict.slack_days, sensitive, s.system, s.state, s.plants(), s.wording).days;
            let reason = format!("{}. {}", verdict.finding, verdict.why);
            Some(found(verdict.subject.code(), verdict.subject, todo, verdict.next.clone(), at, slack, reason, s))
        })
        .collect();
    tasks.extend(root_case(s));
    tasks
}

/// A task that stands from the moment of the finding.
#[allow(clippy::too_many_arguments, reason = "the parts of one task, named at the only two call sites")]
fn found(
    code: &'static str,
    subject: Subject,
    name: impl Into<Cow<'static, str>>,
    doing: impl Into<Cow<'static, str>>,
    at: Timestamp,
    slack: f64,
    reason: String,
    s: &Situation<'_>,
) -> Task {
    let on = local_date(at, s.now);
    Task::new(code, name, doing, on, end_of(on, s.now.time_zone()), slack, reason, s).about(subject)
}

fn root_case(s: &Situation<'_>) -> Vec<Task> {
    let Some(case) = s.state.root_case else { return vec![] };
    let stage = case.value;
    let slack = |days: f64| shorten(days, true, s.system, s.state, s.plants(), s.wording).days;
    let ports = s.state.roots.map_or(0, |r| r.value.1);
    let place = match ports {
        0 => String::new(),
        1 => " in 1 port".to_owned(),
        n => format!(" in {n} ports"),
    };
    let began = say_date(local_date(case.at, s.now), s.now.date());
    let mut tasks = Vec::new();
    if stage == RootStage::Rotted {
        let reason = format!("Root rot stage 3{place}, found {began}; it seeds the rest of the water.");
        tasks.push(found("root_remove", Subject::Roots, "Remove the rotted plant", "Take it out, throw it away, then reset the system", case.at, slack(0.5), reason, s).adult());
    }
    match s.state.treated.filter(|at| *at >= case.at) {
        None => {
            let reason = format!("Root rot stage {}{place}, found {began}, not treated yet.", stage.number());
            tasks.push(found("root_treat", Subject::Roots, "Treat the roots", "Root bath, full change, clean, first peroxide dose", case.at, slack(1.0), reason, s).adult());
        }
        Some(treated) => {
            let on = add_days(local_date(treated, s.now), PEROXIDE_EVERY);
            let reason = format!(
                "Root rot stage {}{place} since {began}. The last dose was {}; peroxide decays to water in 4–6 days.",
                stage.number(),
                say_date(local_date(treated, s.now), s.now.date())
            );
            tasks.push(dated("peroxide", "Next peroxide dose", "4 mL of 3 % peroxide for each litre, pump on; gloves and goggles", on, slack(1.0), reason, s).adult());
        }
    }
    let on = next_root_look(s, case.at);
    let reason =
        format!("Root rot since {began}: looked at after 2, 4 and 7 days, closed after two sound looks{}.", if s.state.sound_since_case == 1 { ", one of them seen" } else { "" });
    tasks.push(dated("root_look", "Look at the roots again", "Lift the lid and look at every root; wash hands after", on, slack(1.0), reason, s));
    tasks
}

fn dated(code: &'static str, name: &'static str, doing: &'static str, on: Date, slack: f64, reason: String, s: &Situation<'_>) -> Task {
    let on = s.calendar.settle(on, slack);
    Task::new(code, name, doing, on, end_of(on, s.now.time_zone()), slack, reason, s).about(Subject::Roots)
}

/// The next of the three looks that has not been made; after them every four days.
fn next_root_look(s: &Situation<'_>, began: Timestamp) -> Date {
    let began = local_date(began, s.now);
    let last = s.state.roots.map_or(began, |r| local_date(r.at, s.now));
    ROOT_LOOKS.iter().map(|days| add_days(began, *days)).find(|on| *on > last).unwrap_or_else(|| add_days(last, 4))
}
