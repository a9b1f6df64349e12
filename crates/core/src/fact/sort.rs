//! Of what sort an entry is, for whoever looks for it in the log. A visit is of as many sorts as things were done in it.

use super::{Body, Visit};
use crate::system::Check;
use serde::{Deserialize, Serialize};

/// A sort of entry that somebody looks for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Sort {
    /// pH, EC or a temperature was read.
    Reading,
    /// Water was added.
    TopOff,
    /// All or a part of the water was changed.
    Change,
    /// Acid or base was poured.
    Correction,
    /// Something was done against disease.
    Treatment,
    /// Feed was mixed ahead.
    Premix,
    /// Something was amiss: a sign, a fault, the glass, the roots.
    Finding,
    /// A case was opened or looked at.
    Case,
    /// The roots were looked at.
    Roots,
    /// Something was picked.
    Harvest,
    /// Meshes, outlets, stone or surfaces were cleaned.
    Cleaning,
    /// A meter was calibrated.
    Calibration,
    /// A task was moved or skipped.
    PutOff,
    /// Somebody wrote a note.
    Note,
    /// It was taken back.
    Withdrawn,
}

impl Sort {
    /// Every sort, in the order in which they are offered.
    pub const ALL: [Self; 15] = [
        Self::Reading,
        Self::TopOff,
        Self::Change,
        Self::Correction,
        Self::Treatment,
        Self::Premix,
        Self::Finding,
        Self::Case,
        Self::Roots,
        Self::Harvest,
        Self::Cleaning,
        Self::Calibration,
        Self::PutOff,
        Self::Note,
        Self::Withdrawn,
    ];

    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Reading => "reading",
            Self::TopOff => "top_off",
            Self::Change => "change",
            Self::Correction => "correction",
            Self::Treatment => "treatment",
            Self::Premix => "premix",
            Self::Finding => "finding",
            Self::Case => "case",
            Self::Roots => "roots",
            Self::Harvest => "harvest",
            Self::Cleaning => "cleaning",
            Self::Calibration => "calibration",
            Self::PutOff => "put_off",
            Self::Note => "note",
            Self::Withdrawn => "withdrawn",
        }
    }

    /// Whether a body is of this sort.
    #[must_use]
    pub fn holds(self, body: &Body) -> bool {
        match body {
            Body::Visit(visit) => self.of_visit(visit),
            Body::Change(change) => match self {
                Self::Change => true,
                Self::Reading => change.ph.is_some() || change.ec.is_some() || change.temperature.is_some(),
                Self::Note => change.note.is_some(),
                Self::Roots => change.parts.as_ref().is_some_and(|parts| parts.roots.is_some()),
                _ => false,
            },
            Body::Treatment(treatment) => self == Self::Treatment || (self == Self::Note && treatment.note.is_some()),
            Body::Correction(_) => matches!(self, Self::Correction | Self::Reading),
            Body::Premix(_) => self == Self::Premix,
            Body::Withdrawn {} => self == Self::Withdrawn,
            Body::Sensed(_) | Body::FromNewer | Body::Unreadable => false,
        }
    }

    fn of_visit(self, visit: &Visit) -> bool {
        let did = |some: &[Check]| some.iter().any(|check| visit.done.contains(check));
        match self {
            Self::Reading => visit.ph.is_some() || visit.ec.is_some() || visit.temperature.is_some(),
            Self::TopOff => visit.top_off.is_some(),
            Self::Finding => !visit.looks_fine(),
            Self::Case => !visit.cases.is_empty(),
            Self::Roots => visit.roots.is_some(),
            Self::Harvest => !visit.harvests.is_empty() || did(&[Check::Harvest]),
            Self::Cleaning => {
                visit.meshes.is_some() || did(&[Check::WipeDown, Check::Filters, Check::Sprayers, Check::Stone])
            }
            Self::Calibration => did(&[Check::Calibrate]),
            Self::PutOff => !visit.put_off.is_empty(),
            Self::Note => visit.note.as_ref().is_some_and(|note| !note.as_str().is_empty()),
            Self::Correction => visit.dosed.is_some(),
            Self::Change | Self::Treatment | Self::Premix | Self::Withdrawn => false,
        }
    }
}
