//! One entry: something that was done or seen at one system, by one person, at one time.

use super::poured::{Batch, Correction, Premix};
use super::{Plants, Roots, Running, TopOff, WaterGlass};
use crate::care::Check;
use crate::changing::ChangeParts;
use crate::quantity::{Celsius, EcReading, Litres, Millilitres, Note, PhReading};
use crate::refusal::{AtField, Refusal};
use crate::reservoir::LevelReading;
use crate::system::{PortSet, System};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use uuid::Uuid;

/// One visit: whatever of it was done. Nothing in it is required, but something must be there.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Visit {
    /// Closed with one tap: looked in, and all was fine.
    #[serde(default)]
    pub all_fine: bool,
    /// The plants.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub plants: Option<Plants>,
    /// Sound, bubbles, outlets, timer, floor.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub running: Option<Running>,
    /// The level before anything was added.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub level: Option<LevelReading>,
    /// The water's temperature.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub temperature: Option<Celsius>,
    /// pH, before anything was added.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub ph: Option<PhReading>,
    /// EC, before anything was added.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub ec: Option<EcReading>,
    /// A glass of the water.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub glass: Option<WaterGlass>,
    /// The roots.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub roots: Option<Roots>,
    /// What was added.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub top_off: Option<TopOff>,
    /// What was taken out before anything was added.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub drained: Option<Litres>,
    /// What was mixed for it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub batch: Option<Batch>,
    /// Other checks that were done.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[serde(default)]
    pub done: Vec<Check>,
    /// Verdicts that the visitor overruled, each with the reason.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    #[serde(default)]
    pub overruled: BTreeMap<String, Note>,
    /// Anything else.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub note: Option<Note>,
}

/// How much of the water was changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum ChangeExtent {
    Full,
    Partial,
}

/// A reservoir change.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Change {
    /// All of it or a part.
    pub extent: ChangeExtent,
    /// What stands in the vessel afterwards.
    pub volume_after: Litres,
    /// pH afterwards, once mixed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ph: Option<PhReading>,
    /// EC afterwards.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ec: Option<EcReading>,
    /// Temperature afterwards.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub temperature: Option<Celsius>,
    /// What stayed behind because it could not be drained.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub heel: Option<Litres>,
    /// What was mixed for it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub batch: Option<Batch>,
    /// How it went, where it was done by the guide.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub parts: Option<ChangeParts>,
    /// Anything else.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
}

impl Change {
    /// A change of all the water, with nothing told but what stands there afterwards.
    #[must_use]
    pub fn full(volume_after: Litres) -> Self {
        Self { extent: ChangeExtent::Full, volume_after, ph: None, ec: None, temperature: None, heel: None, batch: None, parts: None, note: None }
    }
}

/// What was done against root rot.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TreatmentKind {
    /// 3 % peroxide into the reservoir.
    PeroxideDose,
    /// Roots bathed in one part 3 % peroxide to two of water.
    RootBath,
    /// Plants taken out and thrown away.
    PlantsRemoved,
}

/// A treatment. Never recorded by a child: it means concentrates.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Treatment {
    /// What was done.
    pub what: TreatmentKind,
    /// How much product.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub amount_ml: Option<Millilitres>,
    /// On which ports.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ports: Option<PortSet>,
    /// Anything else.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
}

/// What an entry says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Body {
    /// Someone was there.
    Visit(Visit),
    /// The water was changed.
    Change(Change),
    /// Something was done against disease.
    Treatment(Treatment),
    /// Acid or base was poured to move the pH.
    Correction(Correction),
    /// Feed was mixed ahead, into a top-off reservoir or a jug.
    Premix(Premix),
    /// Only as an amendment: the entry was a mistake and counts for nothing.
    Withdrawn {},
}

/// One entry of a system's log. Never changed, never erased; an amendment is an entry of its own.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Entry {
    /// Made by the client, so that a repeated request is the same entry.
    pub id: Uuid,
    /// When it happened.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// Who did it.
    pub by: Uuid,
    /// What happened.
    pub body: Body,
    /// The entry that this one replaces.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub amends: Option<Uuid>,
    /// Why it was amended.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reason: Option<Note>,
}

impl Body {
    /// Checks a body against the system that it is about.
    ///
    /// # Errors
    /// A refusal at the field: an empty visit, a level above the rim, an EC that cannot be, a check
    /// that the system does not have, concentrates in a child's hands.
    pub fn check(&self, system: &System, by_child: bool) -> Result<(), Refusal> {
        if by_child && !matches!(self, Self::Visit(_) | Self::Withdrawn {}) {
            return Err(Refusal::new(
                "found a change, a correction, a mix or a treatment recorded for a child",
                "allowed for helpers who are children are visits without concentrates, mains or sanitisers",
                "Let an adult do it and record it.",
            )
            .at("kind"));
        }
        match self {
            Self::Visit(visit) => visit.check(system, by_child),
            Self::Change(change) => {
                if change.volume_after > system.reservoir.maximum {
                    return Err(Refusal::new(
                        format!("found {:.1} L", change.volume_after.get()),
                        format!("allowed is up to the maximum, {:.1} L", system.reservoir.maximum.get()),
                        "Read the level again, or correct the vessel under Set-up.",
                    )
                    .at("volume_after"));
                }
                if let Some(heel) = change.heel.filter(|heel| *heel > change.volume_after) {
                    return Err(Refusal::new(
                        format!("found a heel of {:.1} L in {:.1} L", heel.get(), change.volume_after.get()),
                        "allowed is a heel no larger than what stands there afterwards",
                        "Measure what stayed behind again.",
                    )
                    .at("heel"));
                }
                if let Some(parts) = &change.parts {
                    parts.check(&system.traits).at("parts")?;
                }
                if let Some(batch) = &change.batch {
                    batch.check().at("batch")?;
                }
                change.ec.map_or(Ok(()), |ec| ec.at_25(change.temperature).at("ec").map(|_| ()))
            }
            Self::Correction(correction) => correction.check(system),
            Self::Premix(premix) => premix.check(),
            Self::Treatment(_) | Self::Withdrawn {} => Ok(()),
        }
    }
}

impl Visit {
    fn check(&self, system: &System, by_child: bool) -> Result<(), Refusal> {
        let empty = Self { overruled: BTreeMap::new(), ..self.clone() } == Self::default();
        if empty {
            return Err(Refusal::new(
                "found a visit in which nothing was done",
                "allowed is a visit with at least one finding, a done check or a note",
                "Tap “All fine”, or fill in one thing.",
            ));
        }
        if let Some(level) = self.level {
            level.volume(&system.reservoir, system.traits.drain_back).at("level")?;
        }
        if let Some(ec) = self.ec {
            ec.at_25(self.temperature).at("ec")?;
        }
        if let Some(top_off) = self.top_off.filter(|top_off| top_off.litres > system.reservoir.maximum || top_off.litres.get() <= 0.0) {
            return Err(Refusal::new(
                format!("found a top-off of {:.1} L", top_off.litres.get()),
                format!("allowed is more than 0 L, up to the vessel's maximum of {:.1} L", system.reservoir.maximum.get()),
                "Check the amount and its unit; a whole new filling is a reservoir change.",
            )
            .at("top_off.litres"));
        }
        if by_child && self.batch.is_some() {
            return Err(
                Refusal::new("found a mixed batch recorded for a child", "allowed for helpers who are children is plain water", "Let an adult do it and record it.").at("batch")
            );
        }
        if let Some(batch) = &self.batch {
            batch.check().at("batch")?;
        }
        if let Some(drained) = self.drained.filter(|drained| drained.get() > system.reservoir.shape.capacity().get()) {
            return Err(Refusal::new(
                format!("found {:.1} L drained", drained.get()),
                format!("allowed is up to what the vessel holds, {:.1} L", system.reservoir.shape.capacity().get()),
                "Check the amount and its unit.",
            )
            .at("drained"));
        }
        if let Some(check) = self.done.iter().find(|check| !check.applies(&system.traits)) {
            return Err(Refusal::new(
                format!("found the check “{}”", check.facts().name),
                "allowed are the checks that the system's traits give it",
                "Leave it out, or correct the traits under Set-up.",
            )
            .at("done"));
        }
        if by_child && let Some(check) = self.done.iter().find(|check| check.facts().adult) {
            return Err(Refusal::new(
                format!("found “{}” recorded for a child", check.facts().name),
                "allowed for helpers who are children are steps without concentrates, mains or sanitisers",
                "Let an adult do it and record it.",
            )
            .at("done"));
        }
        for ports in [self.plants.as_ref().and_then(|p| p.ports.as_ref()), self.roots.as_ref().and_then(|r| r.ports.as_ref())].into_iter().flatten() {
            if ports.highest() > system.ports {
                return Err(Refusal::new(format!("found port {}", ports.highest()), format!("allowed are the ports 1 to {}", system.ports), "Choose ports that the system has.")
                    .at("ports"));
            }
        }
        Ok(())
    }
}
