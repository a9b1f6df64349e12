//! One entry: something that was done or seen at one system, by one person, at one time.

use super::change::{ChangeExtent, ChangeParts};
use super::poured::{Batch, Correction, Dosed, Premix, PremixIn};
use super::treatment::Treatment;
use super::{
    Actor, CaseLook, CaseOutcome, Chore, EachVessel, Happened, Harvested, LampSeen, Meshes, Plants, PutOff, RootStage,
    Roots, RunOff, Running, Sensed, Subject, TopOff, WaterGlass,
};
use crate::message::count;
use crate::quantity::{Celsius, Conductivity, EcReading, Litres, Millimetres, Note, PhReading};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::reservoir::LevelReading;
use crate::system::{Check, PortSet, RuleDone, Serviced, System};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use uuid::Uuid;

/// What is read of the water on one visit: level, temperature, pH, EC.
pub type WaterRead = (Option<LevelReading>, Option<Celsius>, Option<PhReading>, Option<EcReading>);

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
    /// The same of each vessel by itself, where several share one water.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub vessels: Option<EachVessel>,
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
    /// What ran out of the pots, where a timer feeds and nothing comes back.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub run_off: Option<RunOff>,
    /// A glass of the water.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub glass: Option<WaterGlass>,
    /// The roots.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub roots: Option<Roots>,
    /// The lamp.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lamp: Option<LampSeen>,
    /// What was picked.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub harvests: Vec<Harvested>,
    /// What else happened.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub events: Vec<Happened>,
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
    /// The acid or base that was poured after that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dosed: Option<Dosed>,
    /// What is left in the top-off reservoir behind the float valve.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub supply: Option<Litres>,
    /// The same by the height of the water in it, where its size is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub supply_height_mm: Option<Millimetres>,
    /// Other checks that were done.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[serde(default)]
    pub done: Vec<Check>,
    /// What was found in the mesh filters before they were rinsed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub meshes: Option<Meshes>,
    /// Rules of one's own that were done.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub rules: Vec<RuleDone>,
    /// Equipment that was serviced or replaced.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub serviced: Vec<Serviced>,
    /// Checks and rules that were due and are done on another day, or not this time.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub put_off: Vec<PutOff>,
    /// Cases of what ails the plants, opened or looked at.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[serde(default)]
    pub cases: Vec<CaseLook>,
    /// How long it took, in minutes, 1–240; absent where nobody measured it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 240)]
    pub minutes: Option<u16>,
    /// Verdicts that the visitor overruled, each with the reason.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    #[serde(default)]
    #[schema(value_type = BTreeMap<String, Note>)]
    pub overruled: BTreeMap<Subject, Note>,
    /// Anything else.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde(default)]
    pub note: Option<Note>,
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
    /// Whether at least half of the water was renewed. Less thins out what was in it and ends nothing;
    /// nor does a part of which nobody measured how much stayed behind.
    #[must_use]
    pub fn renews(&self) -> bool {
        let left = |heel: Litres| (self.volume_after - heel).or_nothing();
        match (self.extent, self.heel) {
            (ChangeExtent::Full, _) => true,
            (ChangeExtent::Partial, Some(heel)) => left(heel) >= self.volume_after * HALF,
            (ChangeExtent::Partial, None) => false,
        }
    }

    /// The old water that stayed in: as it was measured, else the usual heel, or half where a part was changed.
    #[must_use]
    pub fn left_in(&self, system: &System) -> Litres {
        let usual = || match self.extent {
            ChangeExtent::Full => system.traits.heel,
            ChangeExtent::Partial => self.volume_after * HALF,
        };
        self.heel.unwrap_or_else(usual).min(self.volume_after)
    }

    /// What it drew from a store of ready feed, and which one: all that went in beside what stayed in, the pipes included.
    #[must_use]
    pub fn drawn(&self, system: &System) -> Option<(PremixIn, Litres)> {
        let store = self.parts.as_ref()?.store()?;
        Some((store, (system.at_rest(self.volume_after) - self.left_in(system)).or_nothing()))
    }

    /// A change of all the water, with nothing told but what stands there afterwards.
    #[must_use]
    pub fn full(volume_after: Litres) -> Self {
        Self {
            extent: ChangeExtent::Full,
            volume_after,
            ph: None,
            ec: None,
            temperature: None,
            heel: None,
            batch: None,
            parts: None,
            note: None,
        }
    }
}

/// What an entry says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[allow(clippy::large_enum_variant, reason = "nearly every entry is a visit")]
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
    /// What a logger's day came to. Never sent, never written: it is made of the logger's readings when they are folded.
    #[serde(skip)]
    Sensed(Sensed),
    /// Written by a release to come, which this one cannot read. Never sent, never written.
    #[serde(skip)]
    FromNewer,
    /// Something on the disk broke it. It stands apart, and the rest goes on. Never sent, never written.
    #[serde(skip)]
    Unreadable,
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
    /// Whether it poured something into the vessel or took water out: what was read before says nothing of what stands
    /// there after it.
    #[must_use]
    pub fn stirs(&self) -> bool {
        match self {
            Self::Visit(visit) => visit.pours() || visit.dosed.is_some(),
            Self::Change(_) | Self::Treatment(_) | Self::Correction(_) => true,
            Self::Premix(_) | Self::Withdrawn {} | Self::Sensed(_) | Self::FromNewer | Self::Unreadable => false,
        }
    }

    /// Checks a body against the system that it is about, as it was on the day, and who records it.
    ///
    /// # Errors
    /// A refusal at the field: an empty visit, a level above the rim, an EC that cannot be, a check
    /// or a port that the system does not have, concentrates in a child's hands.
    pub fn check(&self, system: &System, actor: &Actor) -> Result<(), Refusal> {
        if actor.is_child() && !matches!(self, Self::Visit(_) | Self::Withdrawn {}) {
            return Err(refuse!("child_handles_concentrates").at("kind"));
        }
        match self {
            Self::Visit(visit) => visit.check(system, actor),
            Self::Change(change) => change.check(system),
            Self::Correction(correction) => correction.check(system),
            Self::Premix(premix) => premix.check_at(system),
            Self::Treatment(treatment) => {
                treatment.ports.as_ref().map_or(Ok(()), |ports| ports.check(system.ports)).at("ports")
            }
            Self::Withdrawn {} | Self::Sensed(_) => Ok(()),
            Self::FromNewer | Self::Unreadable => Err(refuse!("written_by_newer").at("kind")),
        }
    }
}

impl Change {
    /// EC of what stands there afterwards: as read, else that of the batch where nothing was left in.
    #[must_use]
    pub fn ec_after(&self) -> Option<Conductivity> {
        let alone = self.heel.is_none_or(|heel| heel == Litres::ZERO);
        let batch = self.batch.as_ref().filter(|_| alone).and_then(|batch| batch.ec);
        self.ec.or(batch).and_then(|ec| ec.at_25(self.temperature).ok())
    }

    fn check(&self, system: &System) -> Result<(), Refusal> {
        let most = system.highest();
        if self.volume_after > most {
            return Err(refuse!("change_over_maximum", found = self.volume_after, most = most).at("volume_after"));
        }
        if let Some(heel) = self.heel.filter(|heel| *heel > self.volume_after) {
            return Err(refuse!("heel_over_volume", heel = heel, after = self.volume_after).at("heel"));
        }
        if let Some(parts) = &self.parts {
            parts.check(&system.traits).at("parts")?;
            parts.roots.as_ref().map_or(Ok(()), Roots::check).at("parts.roots")?;
            let ports = parts.roots.as_ref().and_then(|roots| roots.ports.as_ref());
            ports.map_or(Ok(()), |ports| ports.check(system.ports)).at("parts.roots.ports")?;
        }
        if let Some(batch) = &self.batch {
            batch.check().at("batch")?;
        }
        self.ec.map_or(Ok(()), |ec| ec.at_25(self.temperature).at("ec").map(|_| ()))
    }
}

/// No visit takes longer, in minutes.
const MOST_MINUTES: u16 = 240;
/// Half of the water.
const HALF: f64 = 0.5;

impl Visit {
    /// Whether nothing at all was done or seen. A note without a word is none, and an overruled
    /// verdict is about a finding that has to be there.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        let note = self.note.clone().filter(|note| !note.as_str().is_empty());
        Self { overruled: BTreeMap::new(), minutes: None, note, ..self.clone() } == Self::default()
    }

    /// What was read of the water: level, temperature, pH, EC.
    #[must_use]
    pub fn reads(&self) -> Option<WaterRead> {
        let read = (self.read_level(), self.temperature, self.ph, self.ec);
        (read != (None, None, None, None)).then_some(read)
    }

    /// Whether nothing that was seen contradicts “all fine”: no sign, no fault, clear water, sound roots.
    #[must_use]
    pub fn looks_fine(&self) -> bool {
        let signs = self.plants.as_ref().is_some_and(|plants| !plants.signs.is_empty());
        let faults = self.running.is_some_and(Running::any_fault);
        let water = self.glass.is_some_and(|glass| !glass.looks_fine());
        let roots = self.roots.as_ref().is_some_and(|roots| roots.stage() != Some(RootStage::Sound));
        let cases = self.cases.iter().any(|case| case.outcome != CaseOutcome::Gone);
        !(signs || faults || water || roots || cases)
    }

    /// Whether water was taken out or put in, or feed stirred in.
    #[must_use]
    pub fn pours(&self) -> bool {
        self.top_off.is_some() || self.drained.is_some() || self.batch.is_some()
    }

    /// What moved the pH on it, as a correction by itself would be told.
    #[must_use]
    pub fn corrected(&self) -> Option<Correction> {
        let Dosed { from, aim, dosed, litres, whole } = self.dosed.clone()?;
        Some(Correction { from, aim, dosed, litres, whole, note: None })
    }

    /// The volume that was read, in a vessel as it was then.
    #[must_use]
    pub fn measured(&self, system: &System) -> Option<Litres> {
        self.read_level().and_then(|level| level.volume(&system.reservoir, system.traits.drain_back).ok())
    }

    fn check(&self, system: &System, actor: &Actor) -> Result<(), Refusal> {
        if self.is_empty() && self.overruled.is_empty() {
            return Err(refuse!("visit_empty"));
        }
        if actor.is_child() && !self.overruled.is_empty() {
            return Err(refuse!("child_sets_aside").at("overruled"));
        }
        if let Some(plants) = &self.plants {
            plants.check().at("plants")?;
        }
        CaseLook::check_all(&self.cases, system.ports, actor.is_child())?;
        Harvested::check_all(&self.harvests)?;
        Happened::check_all(&self.events, &system.traits, system.ports, actor.is_child())?;
        self.lamp.map_or(Ok(()), |lamp| lamp.check(&system.traits)).at("lamp")?;
        if let Some(running) = self.running {
            running.check(&system.traits).at("running")?;
        }
        if self.all_fine && !self.looks_fine() {
            return Err(refuse!("all_fine_with_findings").at("all_fine"));
        }
        self.check_vessels(system)?;
        if let Some(level) = self.read_level() {
            let field = if self.level.is_some() { "level" } else { "vessels" };
            level.volume(&system.reservoir, system.traits.drain_back).at(field)?;
        }
        if let Some(ec) = self.ec {
            ec.at_25(self.temperature).at("ec")?;
        }
        let (most, rim) = (system.highest(), system.reservoir.shape.capacity());
        if let Some(top_off) = self.top_off.filter(|t| t.litres > most || t.litres <= Litres::ZERO) {
            return Err(refuse!("top_off_amount", found = top_off.litres, most = most).at("top_off.litres"));
        }
        if let Some(drained) = self.drained.filter(|drained| *drained > rim) {
            return Err(refuse!("drained_amount", found = drained, most = rim).at("drained"));
        }
        if let Some(batch) = &self.batch {
            if actor.is_child() {
                return Err(refuse!("child_mixes").at("batch"));
            }
            batch.check().at("batch")?;
        }
        if let Some(correction) = self.corrected() {
            if actor.is_child() {
                return Err(refuse!("child_handles_concentrates").at("dosed"));
            }
            correction.check(system).at("dosed")?;
        }
        if let Some(found) = self.minutes.filter(|minutes| !(1..=MOST_MINUTES).contains(minutes)) {
            return Err(refuse!("visit_minutes", found = count(found), most = count(MOST_MINUTES)).at("minutes"));
        }
        self.check_left_behind(system)?;
        self.run_off.map_or(Ok(()), |run_off| run_off.check(system, self.temperature)).at("run_off")?;
        if let Some(twice) = self.done.iter().enumerate().find(|(n, check)| self.done[..*n].contains(check)) {
            return Err(refuse!("check_twice", check = twice.1.name()).at("done"));
        }
        if self.meshes.is_some() {
            let filters = Check::Filters;
            if !filters.applies(&system.traits) {
                return Err(refuse!("check_not_here", check = filters.name()).at("meshes"));
            }
            if actor.is_child() {
                return Err(refuse!("child_does_adult_check", check = filters.name()).at("meshes"));
            }
        }
        for check in &self.done {
            if !check.applies(&system.traits) {
                return Err(refuse!("check_not_here", check = check.name()).at("done"));
            }
            if actor.is_child() && check.facts().adult {
                return Err(refuse!("child_does_adult_check", check = check.name()).at("done"));
            }
        }
        for (n, done) in self.rules.iter().enumerate() {
            let at = format!("rules.{n}.rule");
            let Some(rule) = system.rules.iter().find(|rule| rule.id == done.rule) else {
                return Err(refuse!("rule_not_here", name = &done.name).at(&at));
            };
            if self.rules[..n].iter().any(|other| other.rule == done.rule) {
                return Err(refuse!("rule_twice", name = &done.name).at(&at));
            }
            if actor.is_child() && rule.adult {
                return Err(refuse!("child_does_adult_rule", name = &done.name).at(&at));
            }
        }
        Serviced::check_all(&self.serviced, &system.equipment, actor.is_child())?;
        PutOff::check_all(&self.put_off, |chore| self.did(chore, system), system, actor.is_child())?;
        self.roots.as_ref().map_or(Ok(()), Roots::check).at("roots")?;
        for (field, ports) in self.named_ports() {
            ports.check(system.ports).at(field)?;
        }
        Ok(())
    }

    /// The checks that this visit did, on a system as it was then.
    #[must_use]
    pub fn checks(&self, system: &System) -> Vec<Check> {
        let ec = self.ec.is_some_and(|ec| ec.at_25(self.temperature).is_ok());
        let looked = self.all_fine || self.running.is_some() || self.plants.is_some();
        let seen = [
            // Who reads the level or measures stands before it and sees whether it runs.
            (Check::LookIn, looked || self.reads().is_some()),
            (Check::Plants, self.plants.is_some()),
            (Check::Level, self.measured(system).is_some()),
            (Check::Readings, self.ph.is_some() || ec),
            (Check::RunOff, self.run_off.is_some()),
            (Check::WaterGlass, self.glass.is_some()),
            (Check::Roots, self.roots.as_ref().is_some_and(|roots| roots.stage().is_some())),
            (Check::Light, self.lamp.is_some_and(|lamp| lamp.hours.is_some() || lamp.gap.is_some())),
            (Check::Harvest, !self.harvests.is_empty()),
            (Check::Filters, self.meshes.is_some() && !self.done.contains(&Check::Filters)),
        ];
        let seen = seen.into_iter().filter(|(_, seen)| *seen).map(|(check, _)| check);
        seen.chain(self.done.iter().copied()).collect()
    }

    /// Whether this visit did a chore.
    fn did(&self, chore: &Chore, system: &System) -> bool {
        match chore {
            Chore::Check { check } => self.checks(system).contains(check),
            Chore::Rule { rule, .. } => self.rules.iter().any(|done| done.rule == *rule),
        }
    }

    /// Every set of ports that is named, with the field that names it.
    fn named_ports(&self) -> impl Iterator<Item = (&'static str, &PortSet)> {
        let plants = self.plants.as_ref().and_then(|plants| plants.ports.as_ref()).map(|ports| ("plants.ports", ports));
        let roots = self.roots.as_ref().and_then(|roots| roots.ports.as_ref()).map(|ports| ("roots.ports", ports));
        plants.into_iter().chain(roots)
    }
}
