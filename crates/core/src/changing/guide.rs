//! The guide: how far a change has come, what comes next, and what stands in the way.

use super::step::Words;
use super::{ChangeParts, ChangeStep, TEMPER_WARNS, steps_of};
use crate::bench::{Wait, WaitFor};
use crate::care::Situation;
use crate::log::{Batch, Body, Change, ChangeExtent};
use crate::ph::wait_minutes;
use crate::quantity::{Celsius, EcReading, Litres, Note, PhReading, Wording};
use crate::refusal::{AtField, Refusal};
use crate::reservoir::{RefillLimit, RefillMethod};
use crate::verdict::{Tone, limit_from};
use serde::{Deserialize, Serialize};

/// Clean water runs through channels for two hours at least.
const FLUSH_MINUTES: u32 = 120;
/// A sanitiser is left for a quarter of an hour, where its label says nothing else.
const SOAK_MINUTES: u32 = 15;

/// A change under way. It can be left and taken up again, on any device.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
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

impl Default for ChangeRun {
    fn default() -> Self {
        Self {
            extent: ChangeExtent::Full,
            parts: ChangeParts::default(),
            heel: None,
            heel_ec: None,
            batch: None,
            volume_after: None,
            ph: None,
            ec: None,
            temperature: None,
            note: None,
        }
    }
}

/// A step as it is shown.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct GuideStep {
    /// Which.
    pub step: ChangeStep,
    /// In a few words.
    pub name: String,
    /// What to do.
    pub doing: String,
    /// The caution that belongs here.
    pub caution: Option<String>,
    /// What follows from what was measured, here.
    pub finding: Option<String>,
    /// How much that asks of the hands.
    pub tone: Tone,
    /// Done, or left out.
    pub done: bool,
    /// Why it was left out.
    pub left_out: Option<String>,
    /// Whether leaving it out wants a reason.
    pub wants_a_reason: bool,
    /// What has to be told before the step is done, in a sentence; absent where nothing is wanted.
    pub wants: Option<String>,
    /// A wait that belongs here.
    pub wait: Option<Wait>,
}

/// A change as far as it has come.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Guide {
    /// Its steps.
    pub steps: Vec<GuideStep>,
    /// The one at hand; `None` when all are done.
    pub next: Option<ChangeStep>,
    /// How many are done.
    pub done: usize,
    /// What stands in the way of ending it, at the field.
    pub missing: Vec<Refusal>,
    /// The volume that it is refilled to.
    pub fill_to: Litres,
    /// Why no further, where that is not the working line.
    pub fill_reason: Option<String>,
}

/// How far still water may be refilled at a change: with plants in it, no higher than a refill may
/// raise it. `None` where air roots set no limit.
#[must_use]
pub fn fill_limit(s: &Situation<'_>) -> Option<RefillLimit> {
    let standing = s.state.last_volume()?.after;
    (s.system.refill != RefillMethod::NoLimit && s.plants() > 0).then(|| limit_from(standing, s))
}

/// The volume that a change fills to: the working line, or the limit where that is lower, with the
/// reason.
#[must_use]
pub fn fill_to(s: &Situation<'_>) -> (Litres, Option<String>) {
    let working = s.system.reservoir.working;
    match fill_limit(s) {
        Some(limit) if limit.up_to < working => (limit.up_to, Some(limit.reason)),
        _ => (working, None),
    }
}

/// Works out where a change stands.
///
/// # Errors
/// A refusal at the field for what may never be: sanitisers that must not meet, a heel larger than
/// the vessel, a volume above the maximum.
pub fn guide(run: &ChangeRun, s: &Situation<'_>, by_child: bool) -> Result<Guide, Refusal> {
    if by_child {
        return Err(Refusal::new(
            "found a change guided for a child",
            "allowed for helpers who are children are steps without concentrates, mains or sanitisers",
            "Let an adult lead it; children can read levels and look at roots.",
        ));
    }
    for (i, a) in run.parts.sanitisers.iter().enumerate() {
        for b in &run.parts.sanitisers[..i] {
            crate::mixing::check_together(*a, *b).at("parts.sanitisers")?;
        }
    }
    let (reservoir, w) = (&s.system.reservoir, s.wording);
    if let Some(heel) = run.heel.filter(|heel| *heel >= reservoir.maximum) {
        return Err(Refusal::new(
            format!("found a heel of {}", w.volume(heel)),
            format!("allowed is less than the maximum, {}", w.volume(reservoir.maximum)),
            "Measure what stayed behind again.",
        )
        .at("heel"));
    }
    let (fill_to, fill_reason) = fill_to(s);
    if let Some(after) = run.volume_after.filter(|after| *after > reservoir.maximum) {
        return Err(Refusal::new(
            format!("found {}", w.volume(after)),
            format!("allowed is up to the maximum, {}", w.volume(reservoir.maximum)),
            "Take some out, or read the level again.",
        )
        .at("volume_after"));
    }
    let steps: Vec<GuideStep> =
        steps_of(s.system, run.extent, run.parts.reset, run.parts.swap).into_iter().map(|step| sheet(step, run, s, fill_to, fill_reason.as_deref())).collect();
    let next = steps.iter().find(|step| !step.done).map(|step| step.step);
    let done = steps.iter().filter(|step| step.done).count();
    let missing = missing(run, s, &steps);
    Ok(Guide { steps, next, done, missing, fill_to, fill_reason })
}

fn sheet(step: ChangeStep, run: &ChangeRun, s: &Situation<'_>, fill_to: Litres, why: Option<&str>) -> GuideStep {
    let Words { name, doing, caution } = step.words();
    let w = s.wording;
    let mark = run.parts.steps.get(&step);
    let finding = match step {
        ChangeStep::Temper => Some(temper(run.parts.difference(), w).1),
        ChangeStep::Heel if s.system.traits.heel.get() > 0.0 => Some(format!("Usually {} stay behind here.", w.volume(s.system.traits.heel))),
        ChangeStep::PowerOff if s.system.traits.drain_back.get() > 0.0 => Some(format!("{} run home when the pump stops.", w.volume(s.system.traits.drain_back))),
        ChangeStep::Measure => run
            .volume_after
            .filter(|after| fill_limit(s).is_some_and(|limit| after.get() > limit.up_to.get() * 1.02))
            .map(|after| format!("{} covers air roots: take {} out again.", w.volume(after), w.volume(Litres::nearest(after.get() - fill_to.get())))),
        ChangeStep::Refill | ChangeStep::Swap => Some(match why {
            Some(why) => format!("Up to {} and no further. {why}", w.volume(fill_to)),
            None => format!("Up to {}.", w.volume(fill_to)),
        }),
        _ => None,
    };
    let tone = match (step, &finding) {
        (ChangeStep::Temper, _) => temper(run.parts.difference(), w).0,
        (ChangeStep::Measure, Some(_)) => Tone::Act,
        _ => Tone::Fine,
    };
    GuideStep {
        tone,
        step,
        name: name.to_owned(),
        doing: doing.to_owned(),
        caution: caution.map(str::to_owned),
        finding,
        done: mark.is_some(),
        left_out: mark.and_then(|mark| mark.left_out.as_ref()).map(|why| why.as_str().to_owned()),
        wants_a_reason: step.wants_a_reason(),
        wants: wants(step, run, tone).map(str::to_owned),
        wait: match step {
            ChangeStep::Wait => Some(Wait::new(WaitFor::Remeasure, wait_minutes(&s.system.traits))),
            ChangeStep::Flush => Some(Wait::new(WaitFor::Flush, FLUSH_MINUTES)),
            ChangeStep::Sanitise => Some(Wait::new(WaitFor::Soak, SOAK_MINUTES)),
            _ => None,
        },
    }
}

/// What a step cannot be done without.
fn wants(step: ChangeStep, run: &ChangeRun, tone: Tone) -> Option<&'static str> {
    match step {
        ChangeStep::Temper if tone == Tone::Act && run.parts.temper_reason.is_none() => Some("Say why it has to go in now, or let it stand."),
        ChangeStep::Sanitise if run.parts.sanitisers.is_empty() => Some("Say what you sanitise with."),
        ChangeStep::Measure if run.volume_after.is_none() => Some("Read the level: how much stands there now."),
        _ => None,
    }
}

/// How far apart the two waters are, and what that means.
fn temper(difference: Option<f64>, w: Wording) -> (Tone, String) {
    let Some(difference) = difference else { return (Tone::Fine, format!("Within {} is right.", w.degrees(TEMPER_WARNS))) };
    let (apart, side) = (w.degrees(difference.abs()), if difference < 0.0 { "colder" } else { "warmer" });
    match difference.abs() {
        d if d > super::TEMPER_ASKS => (Tone::Act, format!("The batch is {apart} {side}: that is a shock. Let it stand, or say why it has to go in.")),
        d if d > TEMPER_WARNS => (Tone::Watch, format!("The batch is {apart} {side}: let it stand a while longer if you can.")),
        _ => (Tone::Fine, format!("{apart} apart: right.")),
    }
}

/// What keeps the change from being closed.
fn missing(run: &ChangeRun, s: &Situation<'_>, steps: &[GuideStep]) -> Vec<Refusal> {
    let mut missing = Vec::new();
    for step in steps.iter().filter(|step| !step.done && step.wants_a_reason) {
        missing.push(
            Refusal::new(format!("found “{}” not done", step.name), "allowed is a change in which it is done, or left out with a reason", "Do it, or say why it was left out.")
                .at(&format!("parts.steps.{}", step.step.code())),
        );
    }
    missing.extend(run.parts.check(&s.system.traits).at("parts").err().filter(|refusal| !missing.iter().any(|m| m.field == refusal.field)));
    if run.volume_after.is_none() {
        missing.push(Refusal::new("found no volume at the end", "allowed is a change with what stands there now", "Read the level.").at("volume_after"));
    }
    missing
}

impl ChangeRun {
    /// The one entry that the change ends in.
    ///
    /// # Errors
    /// The first of what is missing.
    pub fn entry(&self, s: &Situation<'_>, by_child: bool) -> Result<Body, Refusal> {
        let guide = guide(self, s, by_child)?;
        if let Some(missing) = guide.missing.into_iter().next() {
            return Err(missing);
        }
        let body = Body::Change(Change {
            extent: self.extent,
            volume_after: self.volume_after.unwrap_or(guide.fill_to),
            ph: self.ph,
            ec: self.ec,
            temperature: self.temperature,
            heel: self.heel,
            batch: self.batch.clone(),
            parts: Some(self.parts.clone()),
            note: self.note.clone(),
        });
        body.check(s.system, by_child)?;
        Ok(body)
    }
}
