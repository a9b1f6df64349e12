//! All verdicts on a visit, as far as it has come.

use super::{
    Doubt, EcAsk, Tone, Verdict, doubts, judge_apart, judge_dosed, judge_ec, judge_glass, judge_lamp, judge_level,
    judge_ph_of, judge_ph_poured, judge_plants, judge_roots, judge_run_off, judge_running, judge_seen_plants,
    judge_temperature_of, judge_top_off,
};
use crate::calendar::day;
use crate::diagnosis::{Explanation, explain, gather};
use crate::fact::{EachVessel, LampSeen, Roots, Running, Subject, Visit};
use crate::figures::FIGURES;
use crate::message::{Message, plain};
use crate::projection::{SeenRunOff, Standing};
use crate::quantity::{About, Conductivity, Litres};
use crate::refill::{limit_of, too_wide};
use crate::refusal::{AtField, Refusal};
use crate::reservoir::RefillLimit;
use crate::say;
use crate::situation::Situation;
use jiff::Timestamp;
use serde::Serialize;

/// What a visit means so far.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Judgement<W = Message> {
    /// One for each subject that was looked at.
    pub verdicts: Vec<Verdict<W>>,
    /// The volume that the level gives.
    pub volume: Option<Litres>,
    /// The volume after the top-off.
    pub volume_after: Option<Litres>,
    /// What may be added now, and why no more.
    pub room: Option<Room<W>>,
    /// What was typed and is more likely a slip than so.
    pub doubts: Vec<Doubt<W>>,
    /// What ails the plants or the water, by what was typed and by all that is known; absent where nothing does.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub explanation: Option<Explanation<W>>,
    /// Whether it may be closed as “all fine”.
    pub fine: bool,
}

impl<W> Judgement<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Judgement<V> {
        Judgement {
            verdicts: self.verdicts.into_iter().map(|verdict| verdict.map(say)).collect(),
            volume: self.volume,
            volume_after: self.volume_after,
            room: self.room.map(|room| room.map(say)),
            doubts: self.doubts.into_iter().map(|doubt| doubt.map(say)).collect(),
            explanation: self.explanation.map(|told| told.map(say)),
            fine: self.fine,
        }
    }
}

/// What may be added.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Room<W = Message> {
    /// Litres.
    pub litres: Litres,
    /// Up to this volume.
    pub up_to: Litres,
    /// The reason for the limit.
    pub reason: W,
}

impl<W> Room<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Room<V> {
        Room { litres: self.litres, up_to: self.up_to, reason: say(self.reason) }
    }
}

impl From<RefillLimit> for Room {
    fn from(limit: RefillLimit) -> Self {
        Self { litres: limit.litres, up_to: limit.up_to, reason: limit.reason }
    }
}

/// What stands there before anything is poured.
#[derive(Debug, Clone, Copy)]
pub struct Before {
    /// Litres.
    pub litres: Option<About<Litres>>,
    /// Their strength.
    pub ec: Option<About<Conductivity>>,
}

/// Judges whatever has been filled in.
///
/// # Errors
/// A refusal at a field that cannot be: a level above the rim, an uncompensated EC without a
/// temperature.
pub fn judge_visit(visit: &Visit, s: &Situation<'_>) -> Result<Judgement, Refusal> {
    let (system, tank, now) = (s.system, &s.known.tank, s.now.timestamp());
    visit.check_vessels(system)?;
    let level = visit.read_level().map(|level| level.volume(&system.reservoir, system.traits.drain_back));
    let measured = level.transpose().at(if visit.level.is_some() { "level" } else { "vessels" })?;
    visit.lamp.map_or(Ok(()), |lamp| lamp.check(&system.traits)).at("lamp")?;
    visit.roots.as_ref().map_or(Ok(()), Roots::check).at("roots")?;
    visit.check_left_behind(system)?;
    visit.run_off.map_or(Ok(()), |run_off| run_off.check_so_far(system, visit.temperature)).at("run_off")?;
    let read = visit.ec.map(|ec| ec.at_25(visit.temperature)).transpose().at("ec")?;
    // What was typed on this visit counts at once: first what was read, then what was poured.
    let mut standing = s.water();
    standing.read(now, visit, system);
    let before = Before {
        litres: measured.map(About::exactly).or(standing.litres()),
        ec: read.map(About::exactly).or(standing.ec()),
    };
    standing.pour(now, visit, s.known, system);
    let volume = before.litres.map(|litres| litres.value);
    let mut verdicts = Vec::new();
    let explanation = explain(&gather(s, Some(visit)));
    verdicts.extend(visit.plants.as_ref().map(|plants| judge_plants(plants, explanation.as_ref())));
    verdicts.extend(visit.running.filter(|running| *running != Running::default()).map(judge_running));
    let poured = visit.top_off.map_or(Litres::ZERO, |top_off| top_off.litres);
    let drained = visit.drained.unwrap_or(Litres::ZERO);
    let after = |volume: Litres| (volume - drained).or_nothing() + poured;
    // What was poured or taken out on this visit counts: the level is judged as it is left.
    verdicts.extend(measured.map(|volume| judge_level(after(volume), s)));
    verdicts.extend(visit.vessels.as_ref().and_then(EachVessel::apart).map(|apart| judge_apart(&apart)));
    verdicts.extend(visit.temperature.map(|read| judge_temperature_of(read, before.litres, s)));
    verdicts.extend(visit.ph.map(|ph| judge_ph_of(ph, None, before.litres, s)));
    if let Some(ec) = read {
        let earlier = tank.full_reading.filter(|_| !tank.fed && measured.is_some()).map(|dated| dated.value);
        verdicts.push(judge_read_ec(ec, before.litres, earlier, s));
    }
    let run_off = SeenRunOff::of(visit, tank.ec.map(|ec| ec.value), system);
    verdicts.extend(run_off.map(|seen| judge_run_off(&seen, s)));
    verdicts.extend(visit.glass.map(|glass| judge_glass(glass, system.traits.opaque)));
    verdicts.extend(
        visit.roots.as_ref().and_then(|r| Some(judge_roots(r.stage()?, r.answers.stained(), system.methods.root_rot))),
    );
    verdicts.extend(visit.lamp.and_then(|lamp| judge_lamp(lamp, s)));
    verdicts.extend(visit.top_off.map(|top_off| judge_top_off(top_off, &before, &standing, visit, s)));
    let volume_after = volume.map(after);
    let room = before.litres.map(|litres| limit_of(&litres, s).into());
    // Over an open case, or a fault that nobody has seen mended, nothing is all fine: what is seen of it is said instead.
    let amiss = s.known.readings.running.map(|seen| visit.running.unwrap_or_default().over(seen.value));
    let fine = visit.looks_fine()
        && !amiss.is_some_and(Running::any_fault)
        && s.known.cases.open().is_none()
        && verdicts.iter().all(|verdict| verdict.tone < Tone::Act);
    Ok(Judgement { verdicts, volume: measured, volume_after, room, doubts: doubts(visit, s), explanation, fine })
}

/// Judges a strength that was just read, in the water that stands there. `earlier` are strength and volume at the full
/// reading before, where only plain water came in between.
#[must_use]
pub fn judge_read_ec(
    ec: Conductivity,
    standing: Option<About<Litres>>,
    earlier: Option<(Conductivity, Litres)>,
    s: &Situation<'_>,
) -> Verdict {
    let volume = standing.filter(|litres| !too_wide(litres, s)).map(|litres| litres.value);
    let target = s.ec_target();
    let room = standing.map_or(Litres::ZERO, |litres| limit_of(&litres, s).litres);
    let ec = About::exactly(ec);
    judge_ec(EcAsk { ec, target: target.as_ref(), system: s.system, volume, room, before: earlier })
}

/// Verdicts on the water as it stands and on what was last seen, each with the moment of its finding,
/// for the round and the system's page.
#[must_use]
pub fn judge_state(s: &Situation<'_>) -> Vec<(Timestamp, Verdict)> {
    let (readings, system, water) = (&s.known.readings, s.system, s.water());
    let litres = water.litres();
    let mut verdicts = Vec::new();
    verdicts.extend(readings.plants.as_ref().map(|d| (d.at, judge_seen_plants(&d.value, s))));
    verdicts.extend(readings.running.map(|d| (d.at, judge_running(d.value))));
    verdicts.extend(readings.temperature.map(|d| (d.at, judge_temperature_of(d.value, litres, s))));
    match water.ph().and_then(|ph| Some((ph, ph.moved?))).filter(|_| dosed_since(s)) {
        Some((about, moved)) => verdicts.push((moved, judge_dosed(about, moved, s))),
        None => verdicts.extend(readings.ph.map(|d| {
            let verdict = judge_ph_of(d.value, Some(d.at), litres, s);
            let about = water.ph().filter(|_| verdict.tone >= Tone::Act);
            match about.and_then(|about| judge_ph_poured(about, s)) {
                Some((moved, unsure)) => (moved, unsure),
                None => (d.at, verdict),
            }
        })),
    }
    verdicts.extend(strength(&water, s));
    verdicts.extend(source_changed(s));
    verdicts.extend(readings.glass.map(|d| (d.at, judge_glass(d.value, system.traits.opaque))));
    verdicts.extend(s.known.tank.run_off.map(|d| (d.at, judge_run_off(&d.value, s))));
    verdicts.extend(s.known.tank.apart.map(|d| (d.at, judge_apart(&d.value))));
    verdicts.extend(lamp_seen(s));
    // Too low or too high as it was left: it runs dry, or over when the pump stops.
    let inside = system.reservoir.minimum..=system.highest() * (1.0 + FIGURES.level.over);
    let outside = s.known.water.left().filter(|(_, left)| !inside.contains(&left.value));
    if let (Some((at, _)), Some(litres)) = (outside, litres) {
        verdicts.push((at, judge_level(litres.value, s)));
    }
    // Set aside with a reason: it asks for nothing more until something new is found.
    let aside = |at: &Timestamp, subject| readings.set_aside.get(&subject).is_some_and(|when| when >= at);
    verdicts.retain(|(at, verdict)| verdict.stays || !aside(at, verdict.subject));
    verdicts
}

/// The verdict on the lamp as it was last seen, of the newer of hours and gap.
fn lamp_seen(s: &Situation<'_>) -> Option<(Timestamp, Verdict)> {
    let (hours, gap) = (s.known.readings.lamp_hours, s.known.readings.lamp_gap);
    let at = hours.map(|dated| dated.at).max(gap.map(|dated| dated.at))?;
    let seen = LampSeen { hours: hours.map(|dated| dated.value), gap: gap.map(|dated| dated.value) };
    judge_lamp(seen, s).map(|verdict| (at, verdict))
}

/// That what the system is filled from has changed under what grows in it, and how.
fn source_changed(s: &Situation<'_>) -> Option<(Timestamp, Verdict)> {
    let (at, was, now) = s.source_changed()?;
    let mut changes = Vec::new();
    if was.methods.source != now.methods.source {
        changes.push(say!("verdict.source.kind", was = was.methods.source.say(), now = now.methods.source.say()));
    }
    if was.source_ec != now.source_ec {
        changes.push(say!("verdict.source.ec", was = was.source_ec, now = now.source_ec));
    }
    if let (Some(was), Some(now)) = (was.methods.source_ph, now.methods.source_ph)
        && was != now
    {
        changes.push(say!("verdict.source.ph", was = was, now = now));
    }
    if let (Some(was), Some(now)) = (was.methods.alkalinity, now.methods.alkalinity)
        && (was - now).abs() > f64::EPSILON
    {
        changes.push(say!("verdict.source.alkalinity", was = plain(was), now = plain(now)));
    }
    let finding = say!("verdict.source.changed", day = day(s.date(at), s.today()), changes = changes);
    let (why, next) = (say!("verdict.source.changed_why"), say!("verdict.source.changed_next"));
    Some((at, Verdict::new(Subject::Ph, Tone::Watch, finding, why, next)))
}

/// Whether acid or base went in after the last pH was read.
fn dosed_since(s: &Situation<'_>) -> bool {
    let read = s.known.readings.ph.map(|dated| dated.at);
    s.known.lessons.ph_doses.last().is_some_and(|dose| dose.to.is_none() && read.is_none_or(|read| dose.at >= read))
}

/// The verdict on the strength that stands there. While nothing was poured since it was read, that is
/// the reading's; afterwards that of what was worked out. Where nobody can tell any more on which side
/// of the band it is, it is read first.
fn strength(water: &Standing, s: &Situation<'_>) -> Option<(Timestamp, Verdict)> {
    let about = water.ec()?;
    let at = about.moved.or(about.read)?;
    let target = s.ec_target();
    let volume = water.litres().filter(|litres| !too_wide(litres, s)).map(|litres| litres.value);
    let room = water.litres().map_or(Litres::ZERO, |litres| limit_of(&litres, s).litres);
    let ask = |ec, before| EcAsk { ec, target: target.as_ref(), system: s.system, volume, room, before };
    let before = s.known.tank.ec_before.map(|dated| dated.value);
    let as_read = || s.known.tank.ec.map(|dated| judge_ec(ask(About::exactly(dated.value), before)));
    if about.moved.is_none() {
        let verdict = as_read()?;
        let outside = target.as_ref().is_some_and(|band| about.high < band.low || about.low > band.high);
        if verdict.tone == Tone::Fine && outside {
            return Some((at, measure_first(&about, "verdict.ec.gone_by_now")));
        }
        return Some((at, verdict));
    }
    if !s.system.measuring.ec() {
        // Nobody can measure it here: the recipe and the calendar carry it.
        return None;
    }
    let verdict = judge_ec(ask(about, None));
    if verdict.tone < Tone::Act {
        return Some((at, verdict));
    }
    let band = target.as_ref()?;
    let sure = about.high < band.low || about.low > band.high;
    Some((at, if sure { verdict } else { measure_first(&about, "verdict.ec.unsure") }))
}

/// Nobody can tell: it is read before anything is done.
fn measure_first(about: &About<Conductivity>, finding: &'static str) -> Verdict {
    let finding = Message::new(finding).with("ec", *about);
    let (why, next) = (say!("verdict.ec.unsure_why"), say!("verdict.ec.measure_next"));
    Verdict::new(Subject::Ec, Tone::Watch, finding, why, next)
        .todo(say!("verdict.ec.measure_todo"), FIGURES.strength.slack)
}
