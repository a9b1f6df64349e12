//! What a finding means: one file a subject. A verdict says what was found, against what, why, what
//! to do, and how sure it is. The visit asks for verdicts while someone types; the round asks for
//! them again, of the last known state, and turns those that call for hands into tasks.

mod doubt;
mod ec;
mod level;
mod light;
mod ph;
mod plants;
mod run_off;
mod temperature;
mod visit;
mod water;

pub use doubt::{Doubt, doubts, doubts_of};
pub use ec::{EcAsk, judge_ec};
pub use level::{ends_outside, judge_apart, judge_level, judge_top_off};
pub use light::judge_lamp;
pub use ph::{judge_dosed, judge_ph, judge_ph_of, judge_ph_poured};
pub use plants::{judge_plants, judge_seen_plants};
pub use run_off::judge_run_off;
pub use temperature::{judge_temperature, judge_temperature_of};
pub use visit::{Before, Judgement, Room, judge_read_ec, judge_state, judge_visit};
pub use water::{judge_glass, judge_roots, judge_running, worst_fault};

use crate::fact::Subject;
use crate::message::Message;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

/// How much a verdict asks of the hands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Tone {
    /// As it should be.
    Fine,
    /// To be kept in sight.
    Watch,
    /// Do something within days.
    Act,
    /// Do something on this visit.
    Now,
}

/// What comes first: ahead of every margin.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Rank {
    /// People are in danger: water by mains current.
    People,
    /// Plants last for hours: no air, a dry outlet, water below the minimum, a vessel that runs over.
    Hours,
    /// Plants last for days: rot, a pH or an EC far out of its band.
    Days,
    /// All else, by its margin.
    Routine,
}

/// A number on its band, for drawing.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Gauge {
    /// Left end of the scale.
    pub from: f64,
    /// Right end of the scale.
    pub to: f64,
    /// The band that is wanted.
    pub band: [f64; 2],
    /// What was read, with its precision.
    pub value: [f64; 2],
}

/// A judgement on one subject.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Verdict<W = Message> {
    /// About what.
    pub subject: Subject,
    /// Which verdict; stays the same whatever the words are.
    pub code: Cow<'static, str>,
    /// How much it asks.
    pub tone: Tone,
    /// What it comes before.
    pub rank: Rank,
    /// Whether it stays until somebody sees it put right, and cannot be set aside.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub stays: bool,
    /// What was found, against what.
    pub finding: W,
    /// Why it matters.
    pub why: W,
    /// What to do.
    pub next: W,
    /// How sure this is, and from what.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub sure: Option<W>,
    /// The same as a task, in a few words, where hands are called for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub todo: Option<W>,
    /// Days that it may wait, where hands are called for.
    pub slack_days: f64,
    /// The number on its band.
    pub gauge: Option<Gauge>,
}

impl Verdict {
    /// A verdict without a call for hands.
    fn new(subject: Subject, tone: Tone, finding: Message, why: Message, next: Message) -> Self {
        let (code, rank) = (finding.code.clone(), if tone == Tone::Now { Rank::Days } else { Rank::Routine });
        Self {
            subject,
            code,
            tone,
            rank,
            stays: false,
            finding,
            why,
            next,
            sure: None,
            todo: None,
            slack_days: 0.0,
            gauge: None,
        }
    }

    fn sure(mut self, sure: Message) -> Self {
        self.sure = Some(sure);
        self
    }

    fn ranked(mut self, rank: Rank) -> Self {
        self.rank = rank;
        self
    }

    fn on(mut self, gauge: Gauge) -> Self {
        self.gauge = Some(gauge);
        self
    }

    /// Adds the call for hands.
    fn todo(mut self, todo: Message, slack_days: f64) -> Self {
        self.todo = Some(todo);
        self.slack_days = slack_days;
        self
    }
}

impl<W> Verdict<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Verdict<V> {
        let Self { subject, code, tone, rank, stays, finding, why, next, sure, todo, slack_days, gauge } = self;
        Verdict {
            subject,
            code,
            tone,
            rank,
            stays,
            finding: say(finding),
            why: say(why),
            next: say(next),
            sure: sure.map(say),
            todo: todo.map(say),
            slack_days,
            gauge,
        }
    }
}
