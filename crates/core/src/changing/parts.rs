//! How a guided change went, as it is kept in the log.

use super::{ChangeStep, TEMPER_ASKS};
use crate::care::Check;
use crate::mixing::{Sanitiser, check_together};
use crate::quantity::{Celsius, Note, Wording};
use crate::refusal::{AtField, Refusal};
use crate::system::Traits;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Where the old water went.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum OldWater {
    Garden,
    HousePlants,
    HouseDrain,
    CarriedAway,
}

impl OldWater {
    fn say(self) -> &'static str {
        match self {
            Self::Garden => "onto the garden",
            Self::HousePlants => "onto house plants",
            Self::HouseDrain => "into the house drain",
            Self::CarriedAway => "carried away",
        }
    }
}

/// A step that was done, or left out for a reason.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StepMark {
    /// When.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// Why it was left out; absent when it was done.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub left_out: Option<Note>,
}

/// How a guided change went.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ChangeParts {
    /// A full reset, with sanitising.
    #[serde(default)]
    pub reset: bool,
    /// A second vessel was swapped in.
    #[serde(default)]
    pub swap: bool,
    /// The steps that were done or left out.
    #[serde(default)]
    #[schema(value_type = BTreeMap<String, StepMark>)]
    pub steps: BTreeMap<ChangeStep, StepMark>,
    /// The old water's temperature.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tank_temperature: Option<Celsius>,
    /// The fresh batch's temperature.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub batch_temperature: Option<Celsius>,
    /// Why it went in although it is more than 5 °C away.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub temper_reason: Option<Note>,
    /// Where the old water went.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub old_water: Option<OldWater>,
    /// What was used to sanitise.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub sanitisers: Vec<Sanitiser>,
}

impl ChangeParts {
    /// How far the fresh batch is from the tank, in °C; negative when it is colder.
    #[must_use]
    pub fn difference(&self) -> Option<f64> {
        Some(self.batch_temperature?.get() - self.tank_temperature?.get())
    }

    /// Whether a step was done.
    #[must_use]
    pub fn did_step(&self, step: ChangeStep) -> bool {
        self.steps.get(&step).is_some_and(|mark| mark.left_out.is_none())
    }

    /// Checks what may never be: two sanitisers that must not meet, water that shocks the roots
    /// without a reason, a power-on check that was passed over silently.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self, traits: &Traits) -> Result<(), Refusal> {
        for (i, a) in self.sanitisers.iter().enumerate() {
            for b in &self.sanitisers[..i] {
                check_together(*a, *b).at("sanitisers")?;
            }
        }
        if let Some(apart) = self.difference().filter(|apart| apart.abs() > TEMPER_ASKS && self.temper_reason.is_none()) {
            return Err(Refusal::new(
                format!("found a batch {:.1} °C {} than the tank", apart.abs(), if apart < 0.0 { "colder" } else { "warmer" }),
                format!("allowed is within {TEMPER_ASKS:.0} °C, or further with a reason"),
                "Let the cans stand in the room, or mix in warm or cold water. If it has to go in now, say why.",
            )
            .at("temper_reason"));
        }
        let powered = traits.circulates || traits.aerated || traits.sprayers;
        let answered = |step: ChangeStep| self.steps.get(&step).is_some_and(|mark| mark.left_out.as_ref().is_none_or(|why| !why.as_str().is_empty()));
        if powered && !answered(ChangeStep::PowerOn) {
            return Err(Refusal::new(
                "found a change that ends without seeing the system run",
                "allowed is a change with the power-on check done, or left out with a reason",
                "Power on and look at every outlet and the stone; if that is not possible, say why.",
            )
            .at("steps.power_on"));
        }
        if !self.sanitisers.is_empty() && !self.did_step(ChangeStep::RinseAgain) {
            return Err(Refusal::new(
                "found sanitising without a rinse after it",
                "allowed is sanitising with a full rinse",
                "Rinse twice with plain water before the plants go back.",
            )
            .at("steps.rinse_again"));
        }
        Ok(())
    }

    /// The routine checks that the steps have done along the way.
    #[must_use]
    pub fn did(&self, traits: &Traits) -> Vec<Check> {
        let pairs = [(Check::Filters, ChangeStep::Inlet), (Check::Stone, ChangeStep::Stone), (Check::Sprayers, ChangeStep::PowerOn), (Check::WipeDown, ChangeStep::Organic)];
        pairs.into_iter().filter(|(check, step)| self.did_step(*step) && check.applies(traits)).map(|(check, _)| check).collect()
    }

    /// In words, a line each.
    #[must_use]
    pub fn say(&self, w: Wording) -> Vec<String> {
        let mut lines = Vec::new();
        if self.reset {
            lines.push("Full reset".to_owned());
        }
        if self.swap {
            lines.push("Swapped into a second vessel".to_owned());
        }
        if let (Some(batch), Some(tank)) = (self.batch_temperature, self.tank_temperature) {
            let why = self.temper_reason.as_ref().map_or(String::new(), |why| format!(" ({})", why.as_str()));
            lines.push(format!("Fresh batch {}, tank {}{why}", w.temperature(batch), w.temperature(tank)));
        }
        lines.extend(self.old_water.map(|to| format!("Old water {}", to.say())));
        if !self.sanitisers.is_empty() {
            let names: Vec<&str> = self.sanitisers.iter().map(|s| s.say()).collect();
            lines.push(format!("Sanitised with {}, rinsed twice", names.join(", ")));
        }
        let done = self.steps.values().filter(|mark| mark.left_out.is_none()).count();
        lines.push(format!("By the guide: {done} steps done"));
        for (step, mark) in &self.steps {
            if let Some(why) = &mark.left_out {
                lines.push(format!("Left out: {}, {}", step.words().name.to_lowercase(), why.as_str()));
            }
        }
        lines
    }
}
