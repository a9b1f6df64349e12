//! How far a change has come, what comes next, and what stands in the way.

use super::hands::{caution, doing, rinsed};
use super::place::{Gear, MixingPlace, places, ready};
use super::steps_of;
use crate::fact::card::Role;
use crate::fact::{
    Actor, Batch, Body, Change, ChangeExtent, ChangeRun, ChangeStep, MixedIn, OldWater, RootStage, Roots, Wait, WaitFor,
};
use crate::figures::FIGURES;
use crate::message::{Message, Param, degrees, minutes, term};
use crate::quantity::Litres;
use crate::refill::{FillLimit, FillTo, fill_limit, fill_to};
use crate::refusal::{AtField, Refusal};
use crate::situation::Situation;
use crate::verdict::{Tone, judge_roots};
use crate::{refuse, say};
use jiff::SignedDuration;
use serde::Serialize;

/// A step as it is shown.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct GuideStep<W = Message> {
    /// The step, by its code.
    pub step: ChangeStep,
    /// In a few words.
    pub name: W,
    /// What to do.
    pub doing: W,
    /// The caution that belongs here.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub caution: Option<W>,
    /// What follows from what was measured, here.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub finding: Option<W>,
    /// How much that asks of the hands.
    pub tone: Tone,
    /// Done, or left out.
    pub done: bool,
    /// Why it was left out, as it was typed.
    pub left_out: Option<String>,
    /// Whether leaving it out wants a reason.
    pub wants_a_reason: bool,
    /// What has to be told before the step is done, in a sentence; absent where nothing is wanted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wants: Option<W>,
    /// A wait that belongs here.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wait: Option<Wait<W>>,
}

impl<W> GuideStep<W> {
    fn map<V>(self, say: &impl Fn(W) -> V) -> GuideStep<V> {
        GuideStep {
            step: self.step,
            name: say(self.name),
            doing: say(self.doing),
            caution: self.caution.map(say),
            finding: self.finding.map(say),
            tone: self.tone,
            done: self.done,
            left_out: self.left_out,
            wants_a_reason: self.wants_a_reason,
            wants: self.wants.map(say),
            wait: self.wait.map(|wait| wait.map(say)),
        }
    }
}

/// A change as far as it has come. `R` is how a refusal is told.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Guide<W = Message, R = Refusal> {
    /// Its steps.
    pub steps: Vec<GuideStep<W>>,
    /// The one at hand; `None` when all are done.
    pub next: Option<ChangeStep>,
    /// How many are done.
    pub done: usize,
    /// What stands in the way of ending it, at the field.
    pub missing: Vec<R>,
    /// How far the roots have gone, as they were seen on it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub roots: Option<RootStage>,
    /// The volume that it is refilled to, with the pump running; absent where the line has to be read or
    /// marked first.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fill_to: Option<Litres>,
    /// Why no further, where that is not the working line.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fill_reason: Option<W>,
    /// Where the fresh water comes from.
    pub mixed: MixedIn,
    /// Whether a batch is mixed for it.
    pub mixes: bool,
    /// The ways to come by it, the usual one first; none where nobody asked what can be carried.
    pub places: Vec<MixingPlace<W>>,
}

impl<W, R> Guide<W, R> {
    /// The same in words.
    pub fn map<V, S>(self, say: &impl Fn(W) -> V, refuse: &impl Fn(R) -> S) -> Guide<V, S> {
        Guide {
            steps: self.steps.into_iter().map(|step| step.map(say)).collect(),
            next: self.next,
            done: self.done,
            missing: self.missing.into_iter().map(refuse).collect(),
            roots: self.roots,
            fill_to: self.fill_to,
            fill_reason: self.fill_reason.map(say),
            mixed: self.mixed,
            mixes: self.mixes,
            places: self.places.into_iter().map(|place| place.map(say)).collect(),
        }
    }
}

/// Where a change stands, for whoever looks on. A child sees how far it has come and gets no step of it:
/// steps mean mains and concentrates, and an adult leads.
///
/// # Errors
/// As [`guide`], save that a child may look.
pub fn look_on(run: &ChangeRun, s: &Situation<'_>) -> Result<Guide, Refusal> {
    if !s.actor.is_child() {
        return guide(run, s);
    }
    let adult = Actor { role: Role::Caretaker, ..s.actor.clone() };
    let led = guide(run, &Situation { actor: &adult, ..*s })?;
    Ok(Guide { steps: vec![], next: None, missing: vec![], fill_reason: None, ..led })
}

/// The same, with the ways to come by the fresh water. Where nobody has chosen one, and nothing is done yet, the usual one
/// is taken.
///
/// # Errors
/// As `works`.
pub fn with_places(
    run: &ChangeRun,
    s: &Situation<'_>,
    gear: &Gear<'_>,
    works: impl Fn(&ChangeRun, &Situation<'_>) -> Result<Guide, Refusal>,
) -> Result<Guide, Refusal> {
    // Whoever looks on mixes nothing.
    let places = if s.actor.is_child() { vec![] } else { places(run, s, gear) };
    let mut run = run.clone();
    if run.parts.mixed.is_none() && run.parts.steps.is_empty() {
        run.parts.mixed = places.first().map(|place| place.key);
    }
    Ok(Guide { places, ..works(&run, s)? })
}

/// Works out where a change stands.
///
/// # Errors
/// A refusal at the field for what may never be: a child who leads it, sanitisers that must not meet,
/// a heel larger than the vessel, a volume above the maximum.
pub fn guide(run: &ChangeRun, s: &Situation<'_>) -> Result<Guide, Refusal> {
    if s.actor.is_child() {
        return Err(refuse!("child_leads_change"));
    }
    run.parts.check_sanitisers().at("parts")?;
    if run.parts.treats && run.extent == ChangeExtent::Partial {
        return Err(refuse!("treats_in_part").at("extent"));
    }
    let most = s.system.highest();
    if let Some(heel) = run.heel.filter(|heel| *heel >= most) {
        return Err(refuse!("heel_over_maximum", found = heel, most = most).at("heel"));
    }
    if let Some(after) = run.volume_after.filter(|after| *after > most) {
        return Err(refuse!("filled_over_maximum", found = after, most = most).at("volume_after"));
    }
    let mixed = run.parts.mixed.unwrap_or_default();
    if mixed.store().is_some() && !run.parts.steps.contains_key(&ChangeStep::Prepare) {
        let why = match ready(mixed, run, s) {
            Some(Ok(_)) => None,
            Some(Err(why)) => Some(why),
            None => Some(say!("change.ready_none")),
        };
        why.map_or(Ok(()), |why| Err(refuse!("ready_feed_unfit", why = why).at("parts.mixed")))?;
    }
    if mixed == MixedIn::Vessel && run.parts.swap {
        return Err(refuse!("swap_mixed_inside").at("parts.mixed"));
    }
    let fill = fill_to(s);
    // Ticked off by the device's clock, which may be wrong; by more than a year it is no time at all.
    let now = s.now.timestamp();
    let latest = now.saturating_add(SignedDuration::from_hours(24 * 366)).unwrap_or(now);
    if let Some((step, mark)) = run.parts.steps.iter().find(|(_, mark)| mark.at > latest) {
        let refusal = refuse!("time_to_come", found = mark.at.to_string(), now = now.to_string());
        return Err(refusal.at("at").at(&format!("parts.steps.{}", step.code())));
    }
    let steps = steps_of(s.system, run.extent, &run.parts, s.plants() > 0);
    let steps: Vec<GuideStep> = steps.into_iter().map(|step| sheet(step, run, s, &fill)).collect();
    let next = steps.iter().find(|step| !step.done).map(|step| step.step);
    let done = steps.iter().filter(|step| step.done).count();
    let missing = missing(run, s, &steps);
    let roots = run.parts.roots.as_ref().and_then(Roots::stage);
    Ok(Guide {
        steps,
        next,
        done,
        missing,
        roots,
        fill_to: fill.litres,
        fill_reason: fill.reason,
        mixed,
        mixes: mixed.store().is_none(),
        places: vec![],
    })
}

fn sheet(step: ChangeStep, run: &ChangeRun, s: &Situation<'_>, fill: &FillTo) -> GuideStep {
    let (traits, figures, mixed) = (&s.system.traits, &FIGURES.change, run.parts.mixed.unwrap_or_default());
    let mark = run.parts.steps.get(&step);
    let (tone, finding) = match step {
        ChangeStep::Temper => {
            let (tone, finding) = temper(run.parts.difference());
            (tone, Some(finding))
        }
        // Before a drop is drained: afterwards nobody can tell where the line stood.
        ChangeStep::Prepare | ChangeStep::Drain if fill.litres.is_none() => (Tone::Act, fill.reason.clone()),
        ChangeStep::Prepare => match ready(mixed, run, s) {
            Some(Ok(found)) => (Tone::Fine, Some(found)),
            Some(Err(_)) | None => (Tone::Fine, None),
        },
        ChangeStep::Flush => rinsed(run, s),
        ChangeStep::Drain if ill(run, s) && run.parts.old_water.is_some_and(OldWater::feeds_plants) => {
            (Tone::Act, Some(say!("change.drain_ill")))
        }
        ChangeStep::Heel if traits.heel > Litres::ZERO => {
            (Tone::Fine, Some(say!("change.usual_heel", heel = traits.heel)))
        }
        ChangeStep::PowerOff if traits.drain_back > Litres::ZERO => {
            (Tone::Fine, Some(say!("change.runs_home", litres = traits.drain_back)))
        }
        ChangeStep::Roots => match run.parts.roots.as_ref().and_then(|roots| Some((roots.stage()?, roots.answers))) {
            Some((stage, answers)) => {
                let verdict = judge_roots(stage, answers.stained(), s.system.methods.root_rot);
                (verdict.tone, Some(say!("change.roots", finding = verdict.finding, next = verdict.next)))
            }
            None => (Tone::Fine, None),
        },
        ChangeStep::Measure => match covers_roots(run, s) {
            Some(finding) => (Tone::Act, Some(finding)),
            None => (Tone::Fine, None),
        },
        ChangeStep::Sanitise if !run.parts.sanitisers.is_empty() => {
            let dilutions = run.parts.sanitisers.iter().map(|sanitiser| sanitiser.dilution()).collect();
            let dilutions = Param::Sentences(dilutions);
            (Tone::Fine, Some(say!("sanitiser_dilution.by_label", dilutions = dilutions)))
        }
        ChangeStep::Refill | ChangeStep::Swap => fill_words(fill, step, s),
        _ => (Tone::Fine, None),
    };
    GuideStep {
        step,
        name: match step {
            ChangeStep::Refill if mixed == MixedIn::Vessel => say!("change.hose_name"),
            ChangeStep::Refill if run.parts.first => say!("change.fill_name"),
            ChangeStep::Prepare if mixed == MixedIn::Vessel => say!("change.mix_inside_name"),
            ChangeStep::Prepare if mixed.store().is_some() => say!("change.ready_name"),
            ChangeStep::SupplyOff if !traits.controller => say!("change.valve_off_name"),
            ChangeStep::SupplyOff if !traits.top_off_reservoir => say!("change.controller_off_name"),
            ChangeStep::SupplyOn if !traits.controller => say!("change.valve_on_name"),
            ChangeStep::SupplyOn if !traits.top_off_reservoir => say!("change.controller_on_name"),
            ChangeStep::LidAside if traits.channels => say!("change.keep_wet_name"),
            _ => step.name(),
        },
        doing: match step {
            ChangeStep::Wait => say!("change_step.wait.doing", minutes = minutes(s.mixes_in())),
            ChangeStep::Drain if ill(run, s) => say!("change.drain_ill_doing"),
            _ => doing(step, mixed, s),
        },
        caution: caution(step),
        finding,
        tone,
        done: mark.is_some(),
        left_out: mark.and_then(|mark| mark.left_out.as_ref()).map(|why| why.as_str().to_owned()),
        wants_a_reason: step.wants_a_reason(),
        wants: wants(step, run, tone, s),
        wait: match step {
            ChangeStep::Wait => Some(Wait::new(WaitFor::Remeasure, s.mixes_in())),
            ChangeStep::Flush => Some(Wait::new(WaitFor::Flush, figures.flush_minutes)),
            ChangeStep::Sanitise => Some(Wait::new(WaitFor::Soak, figures.soak_minutes)),
            _ => None,
        },
    }
}

/// Whether the old water carries root rot along to where it is poured.
fn ill(run: &ChangeRun, s: &Situation<'_>) -> bool {
    run.parts.treats || s.known.cases.root_rot().is_some()
}

/// How far it is refilled. With the pump off that is the drain-back higher: it fills the pipes.
fn fill_words(fill: &FillTo, step: ChangeStep, s: &Situation<'_>) -> (Tone, Option<Message>) {
    let Some(litres) = fill.litres else { return (Tone::Act, fill.reason.clone()) };
    let home = s.system.traits.drain_back;
    let finding = match &fill.reason {
        Some(reason) => say!("change.fill_no_further", litres = litres, reason = reason.clone()),
        None if home > Litres::ZERO && step == ChangeStep::Refill => {
            say!("change.fill_at_rest", whole = s.system.at_rest(litres), home = home, litres = litres)
        }
        None => say!("change.fill_to", litres = litres),
    };
    (Tone::Fine, Some(finding))
}

/// Still water that was filled past its limit.
fn covers_roots(run: &ChangeRun, s: &Situation<'_>) -> Option<Message> {
    let after = run.volume_after?;
    let FillLimit::To(limit) = fill_limit(s)? else { return None };
    let over = after > limit.up_to * (1.0 + FIGURES.change.measure_over);
    over.then(|| say!("change.covers_roots", after = after, out = (after - limit.up_to).size()))
}

/// What a step cannot be done without.
fn wants(step: ChangeStep, run: &ChangeRun, tone: Tone, s: &Situation<'_>) -> Option<Message> {
    match step {
        ChangeStep::Roots if run.parts.roots.as_ref().and_then(Roots::stage).is_none() && s.plants() > 0 => {
            Some(say!("change.wants_roots"))
        }
        ChangeStep::Temper if tone == Tone::Act && run.parts.temper_reason.is_none() => {
            Some(say!("change.wants_temper_reason"))
        }
        ChangeStep::Sanitise if run.parts.sanitisers.is_empty() => Some(say!("change.wants_sanitiser")),
        ChangeStep::Measure if run.volume_after.is_none() => Some(say!("change.wants_level")),
        _ => None,
    }
}

/// How far apart the two waters are, and what that means.
fn temper(difference: Option<f64>) -> (Tone, Message) {
    let figures = &FIGURES.change;
    let Some(difference) = difference else {
        return (Tone::Fine, say!("temper.within", most = degrees(figures.temper_warns)));
    };
    let apart = degrees(difference.abs());
    let side = term(if difference < 0.0 { "temper.colder" } else { "temper.warmer" });
    match difference.abs() {
        d if d > figures.temper_asks => (Tone::Act, say!("temper.shock", apart = apart, side = side)),
        d if d > figures.temper_warns => (Tone::Watch, say!("temper.apart", apart = apart, side = side)),
        _ => (Tone::Fine, say!("temper.right", apart = apart)),
    }
}

/// What keeps the change from being closed.
fn missing(run: &ChangeRun, s: &Situation<'_>, steps: &[GuideStep]) -> Vec<Refusal> {
    let undone = steps.iter().filter(|step| !step.done && step.wants_a_reason);
    let mut missing: Vec<Refusal> = undone
        .map(|step| refuse!("step_not_done", step = step.name.clone()).at(&format!("parts.steps.{}", step.step.code())))
        .collect();
    let against = run.parts.check(&s.system.traits).at("parts").err();
    missing.extend(against.filter(|refusal| !missing.iter().any(|known| known.field == refusal.field)));
    if run.volume_after.is_none() {
        missing.push(refuse!("no_volume_at_end").at("volume_after"));
    }
    missing
}

/// A batch with what really went in: what was measured and found unneeded did not.
fn poured(batch: Batch) -> Batch {
    let used = batch.used.into_iter().filter(|used| used.amount.value > 0.0).collect();
    Batch { used, ..batch }
}

/// The one entry that a change ends in.
///
/// # Errors
/// The first of what is missing.
pub fn entry_of(run: &ChangeRun, s: &Situation<'_>) -> Result<Body, Refusal> {
    let guide = guide(run, s)?;
    if let Some(missing) = guide.missing.into_iter().next() {
        return Err(missing);
    }
    let body = Body::Change(Change {
        extent: run.extent,
        volume_after: run.volume_after.or(guide.fill_to).unwrap_or(s.system.full()),
        ph: run.ph,
        ec: run.ec,
        temperature: run.temperature,
        heel: run.heel,
        // Ready feed was mixed before.
        batch: run.batch.clone().filter(|_| run.parts.store().is_none()).map(poured),
        parts: Some(run.parts.as_done()),
        note: run.note.clone(),
    });
    body.check(s.system, s.actor)?;
    Ok(body)
}
