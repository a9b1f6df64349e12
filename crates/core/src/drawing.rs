//! The section drawing of a system as numbers: where the lines stand, as shares of the height to
//! the rim. The interface turns them into strokes and adds nothing.

use crate::calendar::days_between;
use crate::fact::{Clarity, RootStage};
use crate::figures::FIGURES;
use crate::quantity::{About, Litres};
use crate::refill::limit_of;
use crate::reservoir::RefillMethod;
use crate::situation::Situation;
use serde::Serialize;

/// What is drawn.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Section {
    /// Which vessel.
    pub form: String,
    /// Width at the floor over width at the rim.
    pub taper: f64,
    /// Water line now, 0 at the floor to 1 at the rim; `None` when no level is known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub water: Option<f64>,
    /// Litres now.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub litres: Option<Litres>,
    /// Whether the litres were measured today, or carried on from an earlier level.
    pub computed: bool,
    /// The minimum line.
    pub minimum: f64,
    /// The working line.
    pub working: f64,
    /// The line that a refill of still water may not pass; `None` where there is no limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub limit: Option<f64>,
    /// Root stage of the last check, 0–3; `None` when never looked at.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub roots: Option<u8>,
    /// How many outlets or ports to hint at, at most 12.
    pub outlets: u16,
    /// Share of the ports that are planted.
    pub planted: f64,
    /// Whether air bubbles through it.
    pub bubbles: bool,
    /// Water clouded, green or brown at the last glass: the code of its clarity.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tint: Option<Clarity>,
}

/// More outlets than this are no longer told apart in a drawing.
const MOST_OUTLETS: u16 = 12;

/// The section of a system now.
#[must_use]
pub fn section(s: &Situation<'_>) -> Section {
    let (reservoir, readings) = (s.system.vessel(), &s.known.readings);
    let now = s.now.timestamp();
    let about = s.water().litres();
    let litres = about.map(|about| about.value);
    let limited = about.filter(|_| s.system.refill != RefillMethod::NoLimit);
    let (floor, rim) = reservoir.shape.section_widths();
    let fresh = |about: &About<Litres>| {
        about.moved.is_none() && about.read.is_some_and(|at| days_between(at, now) < FIGURES.level.fresh)
    };
    Section {
        form: s.system.kind.facts().section.clone(),
        taper: thousandths(floor / rim),
        water: litres.map(|volume| line(s, volume)),
        litres: litres.map(hundredths),
        computed: !about.as_ref().is_some_and(fresh),
        minimum: line(s, reservoir.minimum),
        working: line(s, reservoir.working),
        limit: limited.map(|about| line(s, limit_of(&about, s).up_to)),
        roots: readings.roots.map(|roots| roots.value.0).map(RootStage::number),
        outlets: s.system.ports.min(MOST_OUTLETS),
        planted: thousandths((f64::from(s.plants()) / f64::from(s.system.ports.max(1))).min(1.0)),
        bubbles: s.system.traits.aerated,
        tint: readings.glass.map(|glass| glass.value.clarity),
    }
}

/// The height of a volume as a share of the rim's; by litres where the shape is not known.
fn line(s: &Situation<'_>, volume: Litres) -> f64 {
    let shape = &s.system.reservoir.shape;
    let share = match (shape.height_of(volume), shape.height()) {
        (Some(height), Some(rim)) => height / rim,
        _ => volume / shape.capacity(),
    };
    thousandths(share.clamp(0.0, 1.0))
}

/// Beside a drawing, water is said to the hundredth of a litre at most.
fn hundredths(litres: Litres) -> Litres {
    Litres::new((litres.get() * 100.0).round() / 100.0).unwrap_or(litres)
}

/// No drawing shows more.
fn thousandths(share: f64) -> f64 {
    (share * 1000.0).round() / 1000.0
}
