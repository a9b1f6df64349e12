//! All verdicts on a visit, as far as it has come.

use super::{
    Verdict, judge_ec, judge_glass, judge_level, judge_ph_of, judge_plants, judge_roots, judge_running,
    judge_temperature, judge_top_off,
};
use crate::fact::{Running, Visit};
use crate::forecast;
use crate::message::Message;
use crate::quantity::Litres;
use crate::refill::limit_from;
use crate::refusal::{AtField, Refusal};
use crate::reservoir::RefillLimit;
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
}

impl<W> Judgement<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Judgement<V> {
        Judgement {
            verdicts: self.verdicts.into_iter().map(|verdict| verdict.map(say)).collect(),
            volume: self.volume,
            volume_after: self.volume_after,
            room: self.room.map(|room| room.map(say)),
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

/// Judges whatever has been filled in.
///
/// # Errors
/// A refusal at a field that cannot be: a level above the rim, an uncompensated EC without a
/// temperature.
pub fn judge_visit(visit: &Visit, s: &Situation<'_>) -> Result<Judgement, Refusal> {
    let (system, tank) = (s.system, &s.known.tank);
    let level = visit.level.map(|level| level.volume(&system.reservoir, system.traits.drain_back));
    let measured = level.transpose().at("level")?;
    let volume = measured.or_else(|| forecast::volume_now(tank, s.now.timestamp()));
    let read = visit.ec.map(|ec| ec.at_25(visit.temperature)).transpose().at("ec")?;
    let mut verdicts = Vec::new();
    verdicts.extend(visit.plants.as_ref().map(judge_plants));
    verdicts.extend(visit.running.filter(|running| *running != Running::default()).map(judge_running));
    verdicts.extend(measured.map(|volume| judge_level(volume, s)));
    verdicts.extend(visit.temperature.map(judge_temperature));
    verdicts.extend(visit.ph.map(|ph| judge_ph_of(ph, volume, s)));
    if let Some(ec) = read {
        let before = tank.ec.zip(tank.last_volume()).map(|(ec, point)| (ec.value, point.after));
        verdicts.push(judge_ec(ec, s.ec_target().as_ref(), system, volume, before));
    }
    verdicts.extend(visit.glass.map(|glass| judge_glass(glass, system.traits.opaque)));
    verdicts.extend(visit.roots.as_ref().map(|r| judge_roots(r.answers.stage(), r.answers.tan_tint_rinses)));
    let standing = read.or(tank.ec.map(|dated| dated.value));
    verdicts.extend(visit.top_off.map(|top_off| judge_top_off(top_off, volume, standing, s)));
    let poured = visit.top_off.map_or(Litres::ZERO, |top_off| top_off.litres);
    let volume_after = volume.map(|volume| volume + poured);
    let room = volume.map(|volume| limit_from(volume, s).into());
    Ok(Judgement { verdicts, volume: measured, volume_after, room })
}

/// Verdicts on the last known state, each with the moment of its finding, for the round and the
/// system's page.
#[must_use]
pub fn judge_state(s: &Situation<'_>) -> Vec<(Timestamp, Verdict)> {
    let (tank, readings, system) = (&s.known.tank, &s.known.readings, s.system);
    let mut verdicts = Vec::new();
    verdicts.extend(readings.plants.as_ref().map(|d| (d.at, judge_plants(&d.value))));
    verdicts.extend(readings.running.map(|d| (d.at, judge_running(d.value))));
    verdicts.extend(readings.temperature.map(|d| (d.at, judge_temperature(d.value))));
    let volume = forecast::volume_now(tank, s.now.timestamp());
    verdicts.extend(readings.ph.map(|d| (d.at, judge_ph_of(d.value, volume, s))));
    if let Some(ec) = tank.ec {
        let before = tank.ec_before.map(|dated| dated.value);
        verdicts.push((ec.at, judge_ec(ec.value, s.ec_target().as_ref(), system, volume, before)));
    }
    verdicts.extend(readings.glass.map(|d| (d.at, judge_glass(d.value, system.traits.opaque))));
    if let Some(point) = tank.last_volume().filter(|point| point.after < system.reservoir.minimum) {
        verdicts.push((point.at, judge_level(point.after, s)));
    }
    verdicts
}
