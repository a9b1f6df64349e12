//! An amount as it is measured with the tools at hand, and how far off that is.

use crate::figures::FIGURES;
use crate::message::{Message, Param, count, plain};
use crate::quantity::{Amount, AmountUnit, Name};
use crate::refusal::Refusal;
use crate::{refuse, say};
use serde::{Deserialize, Serialize};

/// A syringe, cylinder, spoon or scale.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Tool {
    /// What it is called.
    pub name: Name,
    /// What it measures in.
    pub unit: AmountUnit,
    /// The most that it measures at once, in mL or g; more than 0, up to 20 000.
    #[schema(minimum = 0, maximum = 20_000)]
    pub holds: f64,
    /// The distance between two of its marks; more than 0, up to what it holds.
    #[schema(minimum = 0, maximum = 20_000)]
    pub marked_each: f64,
}

impl Tool {
    /// Checks that it holds something and is marked within that.
    ///
    /// # Errors
    /// A refusal that says which.
    pub fn check(&self) -> Result<(), Refusal> {
        if self.holds > 0.0 && self.holds <= 20_000.0 && self.marked_each > 0.0 && self.marked_each <= self.holds {
            return Ok(());
        }
        let (holds, each) = (plain(self.holds), plain(self.marked_each));
        Err(refuse!("tool_marks", name = &self.name, holds = holds, each = each))
    }
}

/// How to measure an amount: so many full measures and a rest at a mark.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct MeasuringPlan {
    /// With which tool.
    pub tool: String,
    /// What it measures in.
    pub unit: AmountUnit,
    /// How often it is filled.
    pub full: u32,
    /// What comes on top, before rounding to a mark.
    pub rest: f64,
    /// The mark to which that is rounded.
    pub rest_at_mark: f64,
    /// What is measured in all.
    pub measured: f64,
    /// How far off that is, as a share: +0.005 is half a per cent too much.
    pub error: f64,
}

/// Of the plans that are right to 1 % the one with the fewest fillings; else the one with the smallest
/// error.
///
/// # Errors
/// Nothing to measure, no tool, or a tool that would be filled more than 50 times.
pub fn measure(amount: Amount, tools: &[Tool]) -> Result<MeasuringPlan, Refusal> {
    let Amount { value: amount, unit } = amount;
    let usable = |tool: &&Tool| {
        tool.unit == unit && tool.holds > 0.0 && tool.marked_each > 0.0 && amount / tool.holds <= MOST_TIMES
    };
    let plans = tools.iter().filter(usable).map(|tool| {
        let full = (amount / tool.holds + 1e-9).floor();
        let rest = amount - full * tool.holds;
        let rest_at_mark = (rest / tool.marked_each).round() * tool.marked_each;
        let measured = full * tool.holds + rest_at_mark;
        let error = (measured - amount) / amount;
        MeasuringPlan {
            tool: tool.name.as_str().to_owned(),
            unit,
            full: full as u32,
            rest,
            rest_at_mark,
            measured,
            error,
        }
    });
    // Errors that the hand makes anyway count alike; of those the fewest fillings are best.
    let worth =
        |plan: &MeasuringPlan| ((plan.error.abs() - FIGURES.bench.good_enough).max(0.0), plan.full, plan.error.abs());
    let best = plans.min_by(|a, b| worth(a).partial_cmp(&worth(b)).unwrap_or(std::cmp::Ordering::Equal));
    best.filter(|_| amount.is_finite() && amount > 0.0)
        .ok_or_else(|| refuse!("no_tool_fits", found = Param::Number(amount, unit.unit()), tools = count(tools.len())))
}

/// Nobody fills a syringe more often.
const MOST_TIMES: f64 = 50.0;

impl MeasuringPlan {
    /// As it is done: "3 × 20 mL syringe + 14 mL", "13.6 g on the scale".
    #[must_use]
    pub fn say(&self) -> Message {
        let rest = match self.unit {
            AmountUnit::Ml => say!("measure.ml", amount = plain(self.rest_at_mark)),
            AmountUnit::G => say!("measure.g", amount = plain(self.rest_at_mark)),
        };
        let (tool, full) = (self.tool.as_str(), count(self.full));
        match (self.full, self.rest_at_mark > 0.0) {
            (0, _) => say!("measure.once", tool = tool, rest = rest),
            (_, false) => say!("measure.full", full = full, tool = tool),
            (_, true) => say!("measure.full_and_rest", full = full, tool = tool, rest = rest),
        }
    }
}
