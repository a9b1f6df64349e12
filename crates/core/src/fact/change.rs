//! A reservoir change as it is recorded: its steps, how it went, and one that is under way.

use super::{Batch, PremixIn, Roots, Treatment, TreatmentKind};
use crate::figures::FIGURES;
use crate::message::{Message, Param, degrees, member, term};
use crate::mixing::{Sanitiser, check_together};
use crate::quantity::{Celsius, EcReading, Litres, Note, PhReading};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::system::{Check, Traits};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// How much of the water was changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum ChangeExtent {
    #[default]
    Full,
    Partial,
}

/// A step of a change, in the order in which they are done.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, strum::VariantArray, utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "each is described in the words")]
pub enum ChangeStep {
    Prepare,
    Temper,
    SupplyOff,
    PowerOff,
    LidAside,
    Swap,
    Drain,
    Heel,
    Rinse,
    Flush,
    Roots,
    Bath,
    Inlet,
    Stone,
    Organic,
    Sanitise,
    RinseAgain,
    Dry,
    Refill,
    PowerOn,
    CloseLid,
    SupplyOn,
    Wait,
    Measure,
    Dose,
}

impl ChangeStep {
    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Prepare => "prepare",
            Self::Temper => "temper",
            Self::SupplyOff => "supply_off",
            Self::PowerOff => "power_off",
            Self::LidAside => "lid_aside",
            Self::Swap => "swap",
            Self::Drain => "drain",
            Self::Heel => "heel",
            Self::Rinse => "rinse",
            Self::Flush => "flush",
            Self::Roots => "roots",
            Self::Bath => "bath",
            Self::Inlet => "inlet",
            Self::Stone => "stone",
            Self::Organic => "organic",
            Self::Sanitise => "sanitise",
            Self::RinseAgain => "rinse_again",
            Self::Dry => "dry",
            Self::Refill => "refill",
            Self::PowerOn => "power_on",
            Self::CloseLid => "close_lid",
            Self::SupplyOn => "supply_on",
            Self::Wait => "wait",
            Self::Measure => "measure",
            Self::Dose => "dose",
        }
    }

    /// Whether it may not be left out without a reason.
    #[must_use]
    pub fn wants_a_reason(self) -> bool {
        matches!(
            self,
            Self::SupplyOff
                | Self::SupplyOn
                | Self::PowerOff
                | Self::PowerOn
                | Self::RinseAgain
                | Self::Temper
                | Self::Roots
                | Self::Bath
                | Self::Dose
        )
    }

    /// What it is called.
    #[must_use]
    pub fn name(self) -> Message {
        Message::of("change_step", self.code(), "name")
    }
}

/// Where the fresh water comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, strum::VariantArray, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum MixedIn {
    /// Mixed for it in cans, a bin or a barrel, and ready before the old water is let out.
    #[default]
    Cans,
    /// Mixed in the vessel itself, once it is drained, rinsed and filled by the hose.
    Vessel,
    /// Ready feed of a jug or barrel that was mixed ahead.
    Jug,
    /// Ready feed of the top-off reservoir behind the float valve.
    Drum,
}

impl MixedIn {
    /// The store that it is drawn from; `None` where it is mixed for the change.
    #[must_use]
    pub fn store(self) -> Option<PremixIn> {
        match self {
            Self::Cans | Self::Vessel => None,
            Self::Jug => Some(PremixIn::Jug),
            Self::Drum => Some(PremixIn::TopOffReservoir),
        }
    }

    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Cans => "cans",
            Self::Vessel => "vessel",
            Self::Jug => "jug",
            Self::Drum => "drum",
        }
    }
}

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
    /// Whether it is poured onto plants.
    #[must_use]
    pub fn feeds_plants(self) -> bool {
        matches!(self, Self::Garden | Self::HousePlants)
    }

    /// As it is said.
    #[must_use]
    pub fn say(self) -> Param {
        member(
            "old_water",
            match self {
                Self::Garden => "garden",
                Self::HousePlants => "house_plants",
                Self::HouseDrain => "house_drain",
                Self::CarriedAway => "carried_away",
            },
        )
    }
}

/// A step that was done, or left out for a reason.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StepMark {
    /// When it was ticked off, as the device said.
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
    /// The first water that it ever gets: nothing has to be drained, and no root hangs in it.
    #[serde(default)]
    pub first: bool,
    /// A full reset, with sanitising.
    #[serde(default)]
    pub reset: bool,
    /// A treatment of root rot goes with it: a bath for the roots, a dose of peroxide at the end.
    #[serde(default)]
    pub treats: bool,
    /// A second vessel was swapped in.
    #[serde(default)]
    pub swap: bool,
    /// Where the fresh water comes from; absent in changes from before it was asked: mixed in cans.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mixed: Option<MixedIn>,
    /// EC of the water that the channels were rinsed with, as it ran back at the end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rinse_ec: Option<EcReading>,
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
    /// How the roots looked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub roots: Option<Roots>,
    /// The peroxide that went into the bath and into the fresh water.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub treatments: Vec<Treatment>,
}

impl ChangeParts {
    /// How far the fresh batch is from the tank, in °C; negative when it is colder.
    #[must_use]
    pub fn difference(&self) -> Option<f64> {
        Some(self.batch_temperature?.get() - self.tank_temperature?.get())
    }

    /// The store of ready feed that it was filled from, if it was.
    #[must_use]
    pub fn store(&self) -> Option<PremixIn> {
        self.mixed.and_then(MixedIn::store)
    }

    /// Whether a step was done.
    #[must_use]
    pub fn did_step(&self, step: ChangeStep) -> bool {
        self.steps.get(&step).is_some_and(|mark| mark.left_out.is_none())
    }

    /// Whether this was done against root rot: what was worked out and then skipped was not.
    #[must_use]
    pub fn treated(&self, what: TreatmentKind) -> bool {
        let step = match what {
            TreatmentKind::RootBath => ChangeStep::Bath,
            TreatmentKind::PeroxideDose => ChangeStep::Dose,
            TreatmentKind::PlantsRemoved => return false,
        };
        self.treats && self.did_step(step)
    }

    /// The same without what was worked out for steps that were not done.
    #[must_use]
    pub fn as_done(&self) -> Self {
        let treatments = self.treatments.iter().filter(|one| self.treated(one.what)).cloned().collect();
        Self { treatments, ..self.clone() }
    }

    /// Refuses two sanitisers that must not meet.
    ///
    /// # Errors
    /// A refusal that says what they would give off.
    pub fn check_sanitisers(&self) -> Result<(), Refusal> {
        for (i, a) in self.sanitisers.iter().enumerate() {
            self.sanitisers[..i].iter().try_for_each(|b| check_together(*a, *b)).at("sanitisers")?;
        }
        Ok(())
    }

    /// Checks what may never be: two sanitisers that must not meet, water that shocks the roots
    /// without a reason, a power-on check that was passed over silently.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self, traits: &Traits) -> Result<(), Refusal> {
        self.check_sanitisers()?;
        let shock = |apart: &f64| apart.abs() > FIGURES.change.temper_asks && self.temper_reason.is_none();
        if let Some(apart) = self.difference().filter(shock) {
            let side = term(if apart < 0.0 { "temper.colder" } else { "temper.warmer" });
            let most = degrees(FIGURES.change.temper_asks);
            let refusal = refuse!("batch_would_shock", apart = degrees(apart.abs()), side = side, most = most);
            return Err(refusal.at("temper_reason"));
        }
        let given = |why: &Note| !why.as_str().is_empty();
        let answered =
            |step: ChangeStep| self.steps.get(&step).is_some_and(|mark| mark.left_out.as_ref().is_none_or(given));
        if traits.powered() && !answered(ChangeStep::PowerOn) {
            return Err(refuse!("not_seen_running").at("steps.power_on"));
        }
        if !self.sanitisers.is_empty() && !self.did_step(ChangeStep::RinseAgain) {
            return Err(refuse!("sanitised_unrinsed").at("steps.rinse_again"));
        }
        Ok(())
    }

    /// The routine checks that the steps have done along the way.
    #[must_use]
    pub fn did(&self, traits: &Traits) -> Vec<Check> {
        let pairs = [
            (Check::Filters, ChangeStep::Inlet),
            (Check::Stone, ChangeStep::Stone),
            (Check::Sprayers, ChangeStep::PowerOn),
            (Check::WipeDown, ChangeStep::Organic),
        ];
        let done = |(check, step): &(Check, ChangeStep)| self.did_step(*step) && check.applies(traits);
        pairs.into_iter().filter(done).map(|(check, _)| check).collect()
    }
}

/// A change under way. It can be left and taken up again, on any device.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ChangeRun {
    /// All of the water or a part.
    pub extent: ChangeExtent,
    /// How it goes.
    #[serde(default)]
    pub parts: ChangeParts,
    /// What stayed behind.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub heel: Option<Litres>,
    /// The heel's EC.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub heel_ec: Option<EcReading>,
    /// What was mixed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub batch: Option<Batch>,
    /// What stands there at the end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub volume_after: Option<Litres>,
    /// pH at the end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ph: Option<PhReading>,
    /// EC at the end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ec: Option<EcReading>,
    /// Temperature at the end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub temperature: Option<Celsius>,
    /// Anything else.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
}
