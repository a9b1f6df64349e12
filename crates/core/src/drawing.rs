//! The section drawing of a system as numbers: where the lines stand, as shares of the height to
//! the rim. The interface turns them into strokes and adds nothing.

use crate::care::Situation;
use crate::forecast;
use crate::log::RootStage;
use crate::quantity::Litres;
use crate::reservoir::RefillMethod;
use crate::verdict::limit_from;
use serde::Serialize;

/// What is drawn.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Section {
    /// Which vessel.
    pub form: String,
    /// Width at the floor over width at the rim.
    pub taper: f64,
    /// Water line now, 0 at the floor to 1 at the rim; `None` when no level is known.
    pub water: Option<f64>,
    /// Litres now.
    pub litres: Option<Litres>,
    /// Whether the litres were measured today, or carried on from an earlier level.
    pub computed: bool,
    /// The minimum line.
    pub minimum: f64,
    /// The working line.
    pub working: f64,
    /// The line that a refill of still water may not pass; `None` where there is no limit.
    pub limit: Option<f64>,
    /// Root stage of the last check, 0–3; `None` when never looked at.
    pub roots: Option<u8>,
    /// How many outlets or ports to hint at, at most 12.
    pub outlets: u16,
    /// Share of the ports that are planted.
    pub planted: f64,
    /// Whether air bubbles through it.
    pub bubbles: bool,
    /// Water clouded, green or brown at the last glass: the code of its clarity.
    pub tint: Option<crate::log::Clarity>,
}

/// The section of a system now.
#[must_use]
pub fn section(s: &Situation<'_>) -> Section {
    let (reservoir, now) = (&s.system.reservoir, s.now.timestamp());
    let facts = s.system.kind.facts();
    let litres = forecast::volume_now(s.state, now);
    let part = |volume: Litres| line(s, volume);
    let limit = litres.filter(|_| s.system.refill != RefillMethod::NoLimit).map(|v| part(limit_from(v, s).up_to));
    let (floor, rim) = reservoir.shape.section_widths();
    let fresh = s.state.last_volume().is_some_and(|p| p.before.is_some() && crate::calendar::days_between(p.at, now) < 1.0);
    Section {
        form: facts.section.clone(),
        taper: floor / rim,
        water: litres.map(part),
        litres,
        computed: !fresh,
        minimum: part(reservoir.minimum),
        working: part(reservoir.working),
        limit,
        roots: s.state.roots.map(|r| r.value.0).map(RootStage::number),
        outlets: s.system.ports.min(12),
        planted: (f64::from(s.plants()) / f64::from(s.system.ports.max(1))).min(1.0),
        bubbles: s.system.traits.aerated,
        tint: s.state.glass.map(|g| g.value.clarity),
    }
}

/// The height of a volume as a share of the rim's; by litres where the shape is not known.
fn line(s: &Situation<'_>, volume: Litres) -> f64 {
    let shape = &s.system.reservoir.shape;
    let share = match (shape.height_of(volume), shape.height()) {
        (Some(height), Some(rim)) => height.get() / rim.get(),
        _ => volume.get() / shape.capacity().get().max(0.001),
    };
    share.clamp(0.0, 1.0)
}
