//! Cases of what ails plants: opened by a person, looked at again on dated days, closed by sound looks. The plans
//! are data, in `data/plans.toml`.

use crate::message::{Message, Param, term, typed};
use crate::quantity::Note;
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::system::PortSet;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;

/// Who else becomes a suspect.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Shares {
    /// Nobody.
    None,
    /// Neighbours, and what the same hands and tools touch.
    Plants,
    /// Every plant on this water.
    Water,
}

impl Shares {
    /// Its code.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::None => "none",
            Self::Plants => "plants",
            Self::Water => "water",
        }
    }
}

/// How a case is followed up.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CasePlan {
    /// Which cause it is about.
    pub cause: String,
    /// Days from its opening to each look.
    pub looks: Vec<f64>,
    /// Days between looks after those.
    pub later: f64,
    /// Sound looks in a row that close it.
    pub sound: u8,
    /// Who else becomes a suspect.
    pub shares: Shares,
}

impl CasePlan {
    /// What the case is about.
    #[must_use]
    pub fn name(&self) -> Message {
        Message::of("cause", &self.cause, "name")
    }

    /// What is done about it.
    #[must_use]
    pub fn doing(&self) -> Message {
        Message::of("cause", &self.cause, "do")
    }
}

#[derive(Deserialize)]
struct File {
    plan: Vec<CasePlan>,
}

static PLANS: LazyLock<Vec<CasePlan>> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str::<File>(include_str!("../../data/plans.toml")).expect("data/plans.toml is well formed").plan
});

/// Every plan.
#[must_use]
pub fn plans() -> &'static [CasePlan] {
    &PLANS
}

/// The plan for a cause; `None` where no case is made of it.
#[must_use]
pub fn plan(cause: &str) -> Option<&'static CasePlan> {
    PLANS.iter().find(|plan| plan.cause == cause)
}

/// How it stands with a case.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CaseOutcome {
    /// It is a case from now on.
    Opened,
    /// Nothing of it is to be seen.
    Gone,
    /// Less than before.
    Better,
    /// As before.
    Same,
    /// More than before.
    Worse,
}

impl CaseOutcome {
    /// As it is said.
    #[must_use]
    pub fn say(self) -> Param {
        term(match self {
            Self::Opened => "case_outcome.opened",
            Self::Gone => "case_outcome.gone",
            Self::Better => "case_outcome.better",
            Self::Same => "case_outcome.same",
            Self::Worse => "case_outcome.worse",
        })
    }
}

/// A case, opened or looked at.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CaseLook {
    /// What it is about: the key of a cause that has a plan.
    pub cause: String,
    /// How it stands.
    pub outcome: CaseOutcome,
    /// In which ports, where that is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ports: Option<PortSet>,
    /// What was learnt from it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub learnt: Option<Note>,
}

impl CaseLook {
    /// Checks the cases of one visit.
    ///
    /// # Errors
    /// A refusal at the case: a cause that no case is made of, one twice, ports that are not there, a child who
    /// opens one.
    pub fn check_all(cases: &[Self], ports: u16, child: bool) -> Result<(), Refusal> {
        for (n, look) in cases.iter().enumerate() {
            look.check(&cases[..n], ports, child).at(&format!("cases.{n}"))?;
        }
        Ok(())
    }

    fn check(&self, before: &[Self], ports: u16, child: bool) -> Result<(), Refusal> {
        let Some(plan) = plan(&self.cause) else {
            return Err(refuse!("no_such_case", found = typed(&self.cause)).at("cause"));
        };
        if before.iter().any(|look| look.cause == self.cause) {
            return Err(refuse!("case_twice", case = plan.name()).at("cause"));
        }
        if child && self.outcome == CaseOutcome::Opened {
            return Err(refuse!("child_opens_case").at("outcome"));
        }
        self.ports.as_ref().map_or(Ok(()), |named| named.check(ports)).at("ports")
    }
}
