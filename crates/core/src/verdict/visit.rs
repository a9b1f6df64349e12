//! All verdicts on a visit, as far as it has come.

use super::ec::before_of;
use super::level::limit_from;
use super::{Verdict, judge_ec, judge_glass, judge_level, judge_ph_of, judge_plants, judge_roots, judge_running, judge_temperature, judge_top_off};
use crate::care::Situation;
use crate::crop::ec_target;
use crate::forecast;
use crate::log::Visit;
use crate::quantity::Litres;
use crate::refusal::{AtField, Refusal};
use serde::Serialize;

/// What a visit means so far.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Judgement {
    /// One for each subject that was looked at.
    pub verdicts: Vec<Verdict>,
    /// The volume that the level gives.
    pub volume: Option<Litres>,
    /// The volume after the top-off.
    pub volume_after: Option<Litres>,
    /// What may be added now, and why no more.
    pub room: Option<Room>,
}

/// What may be added.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Room {
    /// Litres.
    pub litres: Litres,
    /// Up to this volume.
    pub up_to: Litres,
    /// The reason for the limit.
    pub reason: String,
}

/// Judges whatever has been filled in.
///
/// # Errors
/// A refusal at a field that cannot be: a level above the rim, an uncompensated EC without a
/// temperature.
pub fn judge_visit(visit: &Visit, s: &Situation<'_>, by_child: bool) -> Result<Judgement, Refusal> {
    let system = s.system;
    let measured = visit.level.map(|level| level.volume(&system.reservoir, system.traits.drain_back)).transpose().at("level")?;
    let volume = measured.or_else(|| forecast::volume_now(s.state, s.now.timestamp()));
    let mut verdicts = Vec::new();
    verdicts.extend(visit.plants.as_ref().map(judge_plants));
    verdicts.extend(visit.running.filter(|r| *r != crate::log::Running::default()).map(judge_running));
    verdicts.extend(measured.map(|volume| judge_level(volume, s)));
    verdicts.extend(visit.temperature.map(|t| judge_temperature(t, s.wording)));
    verdicts.extend(visit.ph.map(|ph| judge_ph_of(ph, volume, s, by_child)));
    if let Some(reading) = visit.ec {
        let ec = reading.at_25(visit.temperature).at("ec")?;
        let target = ec_target(s.plantings, system.source_ec);
        let before = s.state.ec.zip(s.state.last_volume()).map(|(ec, point)| (ec.value, point.after));
        verdicts.push(judge_ec(ec, target.as_ref(), system, volume, before, s.wording, by_child));
    }
    verdicts.extend(visit.glass.map(|glass| judge_glass(glass, system.traits.opaque)));
    verdicts.extend(visit.roots.as_ref().map(|roots| judge_roots(roots.answers.stage(), roots.answers.tan_tint_rinses, by_child)));
    verdicts.extend(visit.top_off.map(|top_off| judge_top_off(top_off, volume, s)));
    let volume_after = volume.map(|v| Litres::nearest(v.get() + visit.top_off.map_or(0.0, |t| t.litres.get())));
    let room = volume.map(|v| limit_from(v, s)).map(|limit| Room { litres: limit.litres, up_to: limit.up_to, reason: limit.reason });
    Ok(Judgement { verdicts, volume: measured, volume_after, room })
}

/// Verdicts on the last known state, for the round and the system's page.
#[must_use]
pub fn judge_state(s: &Situation<'_>) -> Vec<(jiff::Timestamp, Verdict)> {
    let (state, system) = (s.state, s.system);
    let mut verdicts = Vec::new();
    verdicts.extend(state.plants.as_ref().map(|d| (d.at, judge_plants(&d.value))));
    verdicts.extend(state.running.map(|d| (d.at, judge_running(d.value))));
    verdicts.extend(state.temperature.map(|d| (d.at, judge_temperature(d.value, s.wording))));
    let volume = forecast::volume_now(state, s.now.timestamp());
    verdicts.extend(state.ph.map(|d| (d.at, judge_ph_of(d.value, volume, s, false))));
    if let Some(ec) = state.ec {
        let target = ec_target(s.plantings, system.source_ec);
        verdicts.push((ec.at, judge_ec(ec.value, target.as_ref(), system, volume, before_of(state), s.wording, false)));
    }
    verdicts.extend(state.glass.map(|d| (d.at, judge_glass(d.value, system.traits.opaque))));
    if let Some(point) = state.last_volume().filter(|p| p.after < system.reservoir.minimum) {
        verdicts.push((point.at, judge_level(point.after, s)));
    }
    verdicts
}
