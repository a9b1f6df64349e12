//! Tasks: everything that is due at one system, ordered by margin.

use super::cycle::{cycle_reset, picked_whole};
use super::dry_roots::dry_roots;
use super::equipment::services;
use super::follow_up::follow_ups;
use super::gather::gathered;
use super::one_order::{change_soon, forward, is_lesser, together};
use super::outlook::supply_task;
use super::own_rules::own_rules;
use super::put_off::{may_be_moved, moved};
use super::routine::{Due, routine};
use super::run_again::{run_again, unseen};
use super::silence::catch_up;
use super::way_of::way;
use crate::calendar::{after, day, days_between, end_of};
use crate::crop::Stage;
use crate::fact::{Subject, Visit};
use crate::figures::FIGURES;
use crate::message::{Message, days};
use crate::say;
use crate::situation::Situation;
use crate::system::Check;
use crate::verdict::Rank;
use crate::way::{Way, WayTo};
use jiff::civil::Date;
use jiff::{SignedDuration, Timestamp};
use serde::Serialize;
use std::borrow::Cow;
use std::cmp::Ordering;
use uuid::Uuid;

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
    /// A hand today: its margin ends today, or has ended; or it waits for nothing.
    Hand,
    /// On today's list, or its margin ends within three days.
    Eye,
    /// Nothing presses.
    Calm,
}

impl Urgency {
    fn of(margin_days: f64, standing: Standing, s: &Situation<'_>) -> Self {
        if safe_days(margin_days, s) <= 0 {
            Self::Hand
        } else if margin_days < FIGURES.margin.eye || standing <= Standing::Today {
            Self::Eye
        } else {
            Self::Calm
        }
    }
}

/// A part that was seen amiss, and what is said when it is seen put right.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Mended<W = Message> {
    /// The part of `running`, which is true from then on.
    pub part: Cow<'static, str>,
    /// That it is right again.
    pub say: W,
}

/// One dated thing to do at one system.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Task<W = Message> {
    /// What it is, stable from day to day.
    pub code: Cow<'static, str>,
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
    /// What it comes before: first by this, then by margin.
    pub rank: Rank,
    /// Days left until lateness starts to cost plants; negative once it does.
    pub margin_days: f64,
    /// The margin in words: until when it is safe to wait, or since when it is not.
    pub safe: W,
    /// How that is counted: the day that it is due, and the slack.
    pub safe_why: W,
    /// How loudly it asks.
    pub urgency: Urgency,
    /// Why it is due then.
    pub reason: W,
    /// The routine check that it is, if it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub check: Option<Check>,
    /// The rule of one's own that it is, if it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rule: Option<Uuid>,
    /// The part of the visit that it belongs to, if any.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub subject: Option<Subject>,
    /// Where it is done, and what the button that leads there says.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub way: Option<Way<W>>,
    /// The parts that were seen amiss, for whoever sees them put right.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub mended: Vec<Mended<W>>,
    /// Ticked off without a measurement.
    pub one_tap: bool,
    /// The checks that it takes in, where it is one look for several.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub parts: Vec<Check>,
    /// What one tap says of them, in full.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub claim: Option<W>,
    /// The visit that the tap records.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub sound: Option<Box<Visit>>,
    /// Means mains or concentrates: not for children.
    pub adult: bool,
    /// Whether it can be moved to another day, or skipped.
    pub movable: bool,
}

impl Task {
    /// A task without slack, due on a day, late from a moment on.
    pub(super) fn new(
        code: impl Into<Cow<'static, str>>,
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
            code: code.into(),
            cause: None,
            name,
            doing,
            due_on,
            days_late,
            standing,
            slack_days: 0.0,
            rank: Rank::Routine,
            margin_days,
            safe: safe(margin_days, s),
            safe_why: safe_why(due_on, 0.0, s),
            urgency: Urgency::of(margin_days, standing, s),
            reason,
            check: None,
            rule: None,
            subject: None,
            way: None,
            mended: Vec::new(),
            one_tap: false,
            parts: Vec::new(),
            claim: None,
            sound: None,
            adult: false,
            movable: false,
        }
    }

    /// Gives it slack: margin = (lateness counts from + slack) − now.
    pub(super) fn slack(mut self, days: f64, s: &Situation<'_>) -> Self {
        self.margin_days += days;
        self.slack_days += days;
        self.safe = safe(self.margin_days, s);
        self.safe_why = safe_why(self.due_on, self.slack_days, s);
        self.urgency = Urgency::of(self.margin_days, self.standing, s);
        self
    }

    /// Gives it its rank. What plants last only hours for, or people not at all, is done now, and no margin is said of it;
    /// what they last days for leads once it is due.
    pub(super) fn ranked(mut self, rank: Rank) -> Self {
        self.rank = if rank == Rank::Days && self.standing > Standing::Today { Rank::Routine } else { rank };
        match rank {
            Rank::People => (self.safe, self.safe_why) = (say!("safe.people"), say!("safe.why_people")),
            Rank::Hours => (self.safe, self.safe_why) = (say!("safe.now"), say!("safe.why_hours")),
            Rank::Days | Rank::Routine => return self,
        }
        self.urgency = Urgency::Hand;
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
        let task = task.slack(due.slack_days, s).ranked(due.rank);
        Self {
            check: Some(check),
            // Over open root rot, or a fault, nothing is called fine with a tap.
            one_tap: facts.one_tap && !(check == Check::LookIn && never_all_fine(s)),
            adult: facts.adult,
            doing: due.doing.unwrap_or(task.doing.clone()),
            subject: match check {
                Check::Level => Some(Subject::Level),
                Check::Readings => Some(Subject::Ph),
                Check::WaterGlass => Some(Subject::Glass),
                Check::Roots => Some(Subject::Roots),
                Check::Plants | Check::LookIn => Some(Subject::Plants),
                _ => None,
            },
            ..task
        }
    }
}

/// Whether a case or a fault is open: what is seen of it is said, and not that all is fine.
pub(super) fn never_all_fine(s: &Situation<'_>) -> bool {
    let fault = s.known.readings.running.is_some_and(|seen| seen.value.any_fault());
    fault || s.known.cases.open().is_some() || !unseen(s).is_empty()
}

/// Which of two comes first: by rank, then by margin.
#[must_use]
pub fn comes_first((rank, margin): (Rank, f64), (other, its): (Rank, f64)) -> Ordering {
    rank.cmp(&other).then(margin.total_cmp(&its))
}

impl<W> Task<W> {
    /// What it is ordered by: see [`comes_first`].
    #[must_use]
    pub fn order(&self) -> (Rank, f64) {
        (self.rank, self.margin_days)
    }

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
            rank: self.rank,
            margin_days: self.margin_days,
            safe: say(self.safe),
            safe_why: say(self.safe_why),
            urgency: self.urgency,
            reason: say(self.reason),
            check: self.check,
            rule: self.rule,
            subject: self.subject,
            way: self.way.map(|way| way.map(say)),
            mended: self.mended.into_iter().map(|one| Mended { part: one.part, say: say(one.say) }).collect(),
            one_tap: self.one_tap,
            parts: self.parts,
            claim: self.claim.map(say),
            sound: self.sound,
            adult: self.adult,
            movable: self.movable,
        }
    }
}

/// Whole days after today that a margin lasts; less than none where it is gone.
fn safe_days(margin_days: f64, s: &Situation<'_>) -> i32 {
    let ends = after(s.now.timestamp(), margin_days);
    // What ends at midnight ends with the day before.
    (s.date(ends - SignedDuration::from_secs(1)) - s.today()).get_days()
}

/// A margin as it is said: a day, where one can be named, and never a fraction.
fn safe(margin_days: f64, s: &Situation<'_>) -> Message {
    if margin_days < 0.0 {
        let (since, today) = (s.date(after(s.now.timestamp(), margin_days)), s.today());
        return if since == today { say!("safe.gone_today") } else { say!("safe.gone", since = day(since, today)) };
    }
    match safe_days(margin_days, s) {
        ..=0 => say!("safe.today"),
        1 => say!("safe.tomorrow"),
        _ => say!("safe.days", days = days(margin_days.floor())),
    }
}

/// How a margin is counted.
fn safe_why(due_on: Date, slack_days: f64, s: &Situation<'_>) -> Message {
    let due = day(due_on, s.today());
    if (slack_days - 0.5).abs() < 0.01 {
        return say!("safe.why_half", due = due);
    }
    if slack_days > 0.0 {
        return say!("safe.why", due = due, slack = days(slack_days));
    }
    say!("safe.why_at_once", due = due)
}

/// Everything to do at a system: by rank, then least margin first. What the findings call for stands before
/// routine of the same margin.
#[must_use]
pub fn tasks(s: &Situation<'_>) -> Vec<Task> {
    if s.nothing_yet() {
        let first = first_fill(s);
        return if s.actor.is_child() { for_child(vec![first]) } else { vec![first] };
    }
    let one = |due: Due| if due.check == Check::Change { forward(due, s) } else { due };
    let routine: Vec<Task> = gathered(routine(s), s).into_iter().map(|due| Task::from_check(one(due), s)).collect();
    let changes = change_soon(s).is_some();
    let said_already = |task: &Task| changes && is_lesser(&task.name);
    let mut tasks: Vec<Task> = follow_ups(s).into_iter().filter(|task| !said_already(task)).collect();
    tasks = together(tasks, s);
    // Water that is known to be low is topped off, and lowered where it is high; that its level is due says no more.
    // So is a lamp that is known to hang or run wrong.
    let known = |subject: Subject| tasks.iter().any(|task| task.check.is_none() && task.subject == Some(subject));
    let (level, light) = (known(Subject::Level), known(Subject::Light));
    let said = |check: Option<Check>| (level && check == Some(Check::Level)) || (light && check == Some(Check::Light));
    tasks.extend(routine.into_iter().filter(|task| !said(task.check)));
    tasks.extend(picked_whole(s));
    // Once all is harvested, the reset is what is left to do with the water.
    if let Some(reset) = cycle_reset(s) {
        tasks.retain(|task| !matches!(task.check, Some(check) if check != Check::Calibrate && check != Check::LookIn));
        tasks.push(reset);
    }
    tasks.extend(own_rules(s));
    tasks.extend(services(s));
    tasks.extend(supply_task(s));
    tasks.extend(run_again(s));
    tasks.extend(dry_roots(s));
    tasks = tasks.into_iter().map(|task| moved(task, s)).collect();
    tasks.extend(catch_up(&tasks, s));
    for task in &mut tasks {
        task.way = way(task, s);
        task.movable = !s.actor.is_child() && may_be_moved(task);
    }
    if s.actor.is_child() {
        tasks = for_child(tasks);
    }
    tasks.sort_by(|a, b| comes_first(a.order(), b.order()));
    tasks
}

/// What a child is told: its own tasks, and one word about those of adults, the most pressing of them.
fn for_child(tasks: Vec<Task>) -> Vec<Task> {
    let (adults, mut own): (Vec<Task>, Vec<Task>) = tasks.into_iter().partition(|task| task.adult);
    let pressing = adults.into_iter().min_by(|a, b| comes_first(a.order(), b.order()));
    own.extend(pressing.map(|task| Task {
        code: "tell_an_adult".into(),
        cause: None,
        name: if task.rank <= Rank::Hours { say!("child.tell_now") } else { say!("child.tell") },
        // Of what runs wrong each fault has its own words for children.
        doing: match task.subject {
            Some(Subject::Running) => task.doing,
            _ => say!("child.tell_doing"),
        },
        reason: say!("child.tell_why"),
        check: None,
        rule: None,
        subject: None,
        way: None,
        mended: Vec::new(),
        one_tap: false,
        adult: false,
        movable: false,
        ..task
    }));
    own
}

/// Where nothing was ever recorded, one task stands alone: everything else follows from the first water.
fn first_fill(s: &Situation<'_>) -> Task {
    let (name, doing) = (say!("first_fill.name"), say!("first_fill.doing"));
    // An empty vessel waits; plants do not, and each day without water is worse than the one before.
    let planted = s.plantings.iter().filter(|planting| planting.stage != Stage::Done).map(|one| one.planted_on);
    let planted = planted.min().map(|on| on.max(s.system.since)).filter(|on| *on <= s.today());
    let on = planted.unwrap_or(s.system.since.max(s.today()));
    let reason = match planted {
        Some(on) if on < s.today() => say!("first_fill.dry", since = day(on, s.today())),
        _ => say!("first_fill.reason"),
    };
    let slack = if planted.is_some() { FIGURES.margin.first_fill_planted } else { FIGURES.margin.first_fill };
    let task = Task::new("first_fill", name, doing, reason, on, end_of(on, s.now.time_zone()), s).adult();
    let way = Way { to: WayTo::Change, part: Some("first"), name: say!("way.change") };
    let dry = planted.is_some_and(|on| on < s.today());
    Task { way: Some(way), ..task.slack(slack, s).ranked(if dry { Rank::Hours } else { Rank::Routine }) }
}

/// The task that a system is judged by on the round: the first of them, save a look-in
/// that is not late, for every visit of any kind is a look-in too and would hide what it is for.
#[must_use]
pub fn pressing<W>(tasks: &[Task<W>]) -> Option<&Task<W>> {
    let ordinary = |task: &&Task<W>| task.check == Some(Check::LookIn) && task.standing != Standing::Late;
    tasks.iter().find(|task| !ordinary(task)).or(tasks.first())
}
