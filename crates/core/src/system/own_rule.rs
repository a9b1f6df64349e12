//! Rules of one's own: "trim the roots at the pump every 10 days", "water the window seedlings on Mondays".

use crate::calendar::Weekday;
use crate::message::{count, plain};
use crate::quantity::{Celsius, Name};
use crate::refusal::Refusal;
use crate::refuse;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// When it is due again.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "by", rename_all = "snake_case", deny_unknown_fields)]
pub enum Every {
    /// So many days after it was last done, 1–365.
    Days {
        /// How many.
        #[schema(minimum = 1, maximum = 365)]
        days: u16,
    },
    /// On these weekdays.
    Weekdays {
        /// Which; at least one.
        on: Vec<Weekday>,
    },
    /// After so many top-offs since it was last done, 1–100.
    TopOffs {
        /// How many.
        #[schema(minimum = 1, maximum = 100)]
        times: u16,
    },
    /// When a sign was seen on the plants at the last look, and it was not done since.
    Sign {
        /// Which, by its code.
        #[schema(max_length = 60)]
        sign: String,
    },
    /// When something that grows here comes to a stage.
    Stage {
        /// Which, by its code.
        #[schema(max_length = 60)]
        stage: String,
    },
    /// So many days before the water reaches its minimum, 0–14.
    Minimum {
        /// How many.
        #[schema(minimum = 0, maximum = 14)]
        before: u16,
    },
}

/// A rule of one's own.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnRule {
    /// Made by the client; what was done of it is told by it.
    pub id: Uuid,
    /// What is done, as it stands on the round.
    pub name: Name,
    /// When it is due.
    pub every: Every,
    /// Days of lateness that cost nothing, 0–60.
    #[schema(minimum = 0, maximum = 60)]
    pub slack_days: f64,
    /// Whether it means mains, concentrates or anything else that is no child's.
    #[serde(default)]
    pub adult: bool,
    /// Only while the water was last at least so warm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub warmer_than: Option<Celsius>,
}

/// What was done of a rule of one's own.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RuleDone {
    /// Which rule.
    pub rule: Uuid,
    /// What it was called then.
    pub name: Name,
}

/// A system has no more of them.
const MOST_RULES: usize = 30;
/// The longest time between two, in days.
const MOST_DAYS: u16 = 365;
/// The longest slack of one's own, in days.
pub(super) const MOST_SLACK: f64 = 60.0;

impl Every {
    /// The most top-offs between two.
    pub const MOST_TOP_OFFS: u16 = 100;
    /// The most days before the water reaches its minimum.
    pub const MOST_BEFORE: u16 = 14;
}

impl OwnRule {
    /// Checks the rules of a system.
    ///
    /// # Errors
    /// A refusal at the rule: too many, an interval of nothing, no weekday, one id twice.
    pub fn check_all(rules: &[Self]) -> Result<(), Refusal> {
        if rules.len() > MOST_RULES {
            return Err(refuse!("too_many_rules", found = count(rules.len()), most = count(MOST_RULES)).at("rules"));
        }
        for (n, rule) in rules.iter().enumerate() {
            let at = |field: &str| format!("rules.{n}.{field}");
            let within = |found: u16, most: u16| {
                let refusal = refuse!("rule_every", found = count(found), most = count(most));
                if (1..=most).contains(&found) { Ok(()) } else { Err(refusal.at(&at("every"))) }
            };
            match &rule.every {
                Every::Days { days } => within(*days, MOST_DAYS)?,
                Every::TopOffs { times } => within(*times, Every::MOST_TOP_OFFS)?,
                Every::Weekdays { on } if on.is_empty() => return Err(refuse!("rule_on_no_day").at(&at("every"))),
                Every::Minimum { before } if *before > Every::MOST_BEFORE => {
                    let (found, most) = (count(*before), count(Every::MOST_BEFORE));
                    return Err(refuse!("rule_before", found = found, most = most).at(&at("every")));
                }
                Every::Weekdays { .. } | Every::Sign { .. } | Every::Stage { .. } | Every::Minimum { .. } => {}
            }
            if !(0.0..=MOST_SLACK).contains(&rule.slack_days) {
                let (found, most) = (plain(rule.slack_days), plain(MOST_SLACK));
                return Err(refuse!("rule_slack", found = found, most = most).at(&at("slack_days")));
            }
            if rules[..n].iter().any(|other| other.id == rule.id) {
                return Err(refuse!("rule_twice", name = &rule.name).at(&at("id")));
            }
        }
        Ok(())
    }
}
