//! A plan, as it is shown, ticked off, printed and logged.

use crate::log::Body;
use crate::mixing::balance::Water;
use crate::mixing::{Amount, MeasuringPlan, ProductKind, Share};
use crate::ph::PhEstimate;
use crate::quantity::{Conductivity, Litres};
use serde::Serialize;
use uuid::Uuid;

/// A value that is expected, with its range.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Expected {
    /// The middle.
    pub value: f64,
    /// From here.
    pub low: f64,
    /// To here.
    pub high: f64,
    /// In words, with its unit.
    pub said: String,
    /// The same on the other scales of pocket meters, for an EC.
    pub also: Vec<String>,
}

/// A product's share for one filling of one container.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Portion {
    /// Into which container.
    pub container: String,
    /// How much.
    pub amount: Amount,
    /// In words.
    pub said: String,
    /// How it is measured with the tools at hand.
    pub measuring: Option<MeasuringPlan>,
    /// The same in words, with the rounding error.
    pub measured: String,
}

/// A product in a plan.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Dose {
    /// Which.
    pub product: Uuid,
    /// Its name.
    pub name: String,
    /// What it is.
    pub what: ProductKind,
    /// How much in all.
    pub amount: Amount,
    /// In words.
    pub said: String,
    /// For each litre of fresh water.
    pub per_litre: Amount,
    /// Why it comes at this place in the order.
    pub reason: String,
    /// Its share for each filling.
    pub portions: Vec<Portion>,
}

/// What is waited for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, serde::Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WaitFor {
    /// Until it has mixed.
    Mix,
    /// Until a dose can be measured.
    Remeasure,
    /// While roots stand in the bath.
    RootBath,
    /// While clean water runs through the channels.
    Flush,
    /// While a sanitiser acts.
    Soak,
}

impl WaitFor {
    /// What is to be done once it is over.
    #[must_use]
    pub fn then(self) -> &'static str {
        match self {
            Self::Mix => "The batch has mixed",
            Self::Remeasure => "Measure again",
            Self::RootBath => "Roots out of the bath",
            Self::Flush => "Channels are flushed: drain again",
            Self::Soak => "The sanitiser has acted: rinse",
        }
    }
}

/// A wait.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Wait {
    /// For what.
    pub what: WaitFor,
    /// So long.
    pub minutes: u32,
    /// What is to be done once it is over, in words.
    pub then: String,
}

impl Wait {
    /// A wait of so many minutes.
    #[must_use]
    pub fn new(what: WaitFor, minutes: u32) -> Self {
        Self { what, minutes, then: what.then().to_owned() }
    }
}

/// A step of a plan.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct PlanStep {
    /// Stable within a plan.
    pub code: String,
    /// What to do.
    pub say: String,
    /// Why.
    pub why: Option<String>,
    /// The caution that belongs here.
    pub caution: Option<String>,
    /// Which of the doses it is about.
    pub dose: Option<usize>,
    /// How that dose is handled, without its amounts.
    pub handling: Option<String>,
    /// A wait.
    pub wait: Option<Wait>,
}

/// The salt balance of a plan, S = EC · V: before + added − drained = after.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, utoipa::ToSchema)]
pub struct LedgerLine {
    /// What stood there.
    pub before: f64,
    /// What comes in.
    pub added: f64,
    /// What goes out.
    pub drained: f64,
    /// What stands there then.
    pub after: f64,
}

impl LedgerLine {
    pub(super) fn new(before: Option<Water>, added: &[Water], drained: Option<Water>, after: Water) -> Self {
        let salt = |water: Option<Water>| water.map_or(0.0, Water::salt);
        Self { before: salt(before), added: added.iter().map(|water| water.salt()).sum(), drained: salt(drained), after: after.salt() }
    }
}

/// A plan.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Plan {
    /// What it makes, in a few words.
    pub title: String,
    /// The answer in a sentence.
    pub answer: String,
    /// To be drained first.
    pub drain: Litres,
    /// Plain water, by the hose or the can.
    pub plain: Litres,
    /// Water to be mixed with products.
    pub batch: Litres,
    /// Strength of that batch.
    pub batch_ec: Option<Expected>,
    /// What stands in the vessel at the end.
    pub after: Option<Litres>,
    /// Its strength then.
    pub after_ec: Option<Expected>,
    /// Its pH then.
    pub ph: Option<Expected>,
    /// How much of the recipe's printed rate: 1 is the label.
    pub strength: Option<f64>,
    /// Products in mixing order.
    pub doses: Vec<Dose>,
    /// The batch over the containers at hand.
    pub shares: Vec<Share>,
    /// What it all weighs, in kg.
    pub carry_kg: f64,
    /// The same in words.
    pub carry: String,
    /// Steps in order.
    pub steps: Vec<PlanStep>,
    /// What to mind.
    pub warnings: Vec<String>,
    /// How sure it is, and from what.
    pub sure: String,
    /// The salt balance, where strengths are known.
    pub ledger: Option<LedgerLine>,
    /// The pH estimate, where that is what it is for.
    pub ph_estimate: Option<PhEstimate>,
    /// What is logged when it was done as planned; absent where no log is kept.
    pub entry: Option<Body>,
}

impl Plan {
    pub(super) fn new(title: impl Into<String>) -> Self {
        Self {
            title: title.into(),
            answer: String::new(),
            drain: Litres::ZERO,
            plain: Litres::ZERO,
            batch: Litres::ZERO,
            batch_ec: None,
            after: None,
            after_ec: None,
            ph: None,
            strength: None,
            doses: vec![],
            shares: vec![],
            carry_kg: 0.0,
            carry: String::new(),
            steps: vec![],
            warnings: vec![],
            sure: String::new(),
            ledger: None,
            ph_estimate: None,
            entry: None,
        }
    }
}

/// An EC with its range, on the reader's scale and on the others.
pub(super) fn expected_ec(value: f64, spread: f64, w: crate::quantity::Wording) -> Expected {
    use crate::quantity::{EcScale, Wording};
    let (low, high) = ((value - spread).max(0.0), value + spread);
    let ec = |v: f64| Conductivity::nearest(v);
    let also = EcScale::ALL.iter().map(|(scale, _)| *scale).filter(|scale| *scale != w.ec).map(|scale| Wording { ec: scale, ..w }.ec(ec(value))).collect();
    let said = if spread > 0.004 { format!("{}, {}", w.ec(ec(value)), w.ec_band(ec(low), ec(high))) } else { w.ec(ec(value)) };
    Expected { value, low, high, said, also }
}
