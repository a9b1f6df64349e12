//! What a finding means: one file a subject. A verdict says what was found, against what, why, what
//! to do, and how sure it is. The visit asks for verdicts while someone types; the round asks for
//! them again, of the last known state, and turns those that call for hands into tasks.

mod ec;
mod level;
mod ph;
mod plants;
mod temperature;
mod visit;
mod water;

pub use ec::judge_ec;
pub use level::{judge_level, judge_top_off, limit_from};
pub use ph::{judge_ph, judge_ph_of};
pub use plants::judge_plants;
pub use temperature::judge_temperature;
pub use visit::{Judgement, Room, judge_state, judge_visit};
pub use water::{judge_glass, judge_roots, judge_running};

use serde::{Deserialize, Serialize};

/// What a verdict is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum Subject {
    Plants,
    Running,
    Level,
    Temperature,
    Ph,
    Ec,
    Glass,
    Roots,
    TopOff,
}

impl Subject {
    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Plants => "plants",
            Self::Running => "running",
            Self::Level => "level",
            Self::Temperature => "temperature",
            Self::Ph => "ph",
            Self::Ec => "ec",
            Self::Glass => "glass",
            Self::Roots => "roots",
            Self::TopOff => "top_off",
        }
    }
}

/// How much a verdict asks of the hands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Tone {
    /// As it should be.
    Fine,
    /// Worth an eye.
    Watch,
    /// Do something within days.
    Act,
    /// Do something on this visit.
    Now,
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
pub struct Verdict {
    /// About what.
    pub subject: Subject,
    /// How much it asks.
    pub tone: Tone,
    /// What was found, against what.
    pub finding: String,
    /// Why it matters.
    pub why: String,
    /// What to do.
    pub next: String,
    /// How sure this is, and from what.
    pub sure: String,
    /// The same as a task, in a few words, where hands are called for.
    pub todo: Option<String>,
    /// Days that it may wait, where hands are called for.
    pub slack_days: f64,
    /// The number on its band.
    pub gauge: Option<Gauge>,
}

impl Verdict {
    /// A verdict without a call for hands.
    fn calm(subject: Subject, tone: Tone, finding: String, why: &str, next: &str) -> Self {
        Self { subject, tone, finding, why: why.to_owned(), next: next.to_owned(), sure: String::new(), todo: None, slack_days: 0.0, gauge: None }
    }

    fn sure(mut self, sure: &str) -> Self {
        sure.clone_into(&mut self.sure);
        self
    }

    fn on(mut self, gauge: Gauge) -> Self {
        self.gauge = Some(gauge);
        self
    }

    /// Adds the call for hands.
    fn todo(mut self, todo: &str, slack_days: f64) -> Self {
        self.todo = Some(todo.to_owned());
        self.slack_days = slack_days;
        self
    }
}
