//! Cases of disease: opened by a finding, followed by looks and treatments, closed by sound looks.

use super::{Projection, keep_last};
use crate::fact::{Body, ChangeParts, Entry, RootStage, Roots, TreatmentKind};
use crate::figures::FIGURES;
use crate::system::{PortSet, System};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// What a case is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum CaseKind {
    /// Root rot, stages 1 to 3.
    RootRot,
}

/// A case.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Case {
    /// What it is about.
    pub kind: CaseKind,
    /// When it was opened.
    pub opened: Timestamp,
    /// How far it had gone when it was last found unsound.
    pub stage: RootStage,
    /// In which ports it was last found, where that is known.
    pub ports: Option<PortSet>,
    /// Sound looks in a row since then.
    pub sound_looks: u8,
    /// The last treatment.
    pub treated: Option<Timestamp>,
    /// When it was closed; `None` while it is open.
    pub closed: Option<Timestamp>,
}

/// Open cases, and the last closed ones.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Cases {
    /// Oldest first.
    pub all: Vec<Case>,
}

/// How many are kept.
const KEPT: usize = 8;

impl Cases {
    /// The open case of root rot.
    #[must_use]
    pub fn root_rot(&self) -> Option<&Case> {
        self.all.iter().rev().find(|case| case.kind == CaseKind::RootRot && case.closed.is_none())
    }

    fn open_root_rot(&mut self) -> Option<&mut Case> {
        self.all.iter_mut().rev().find(|case| case.kind == CaseKind::RootRot && case.closed.is_none())
    }

    fn roots(&mut self, at: Timestamp, roots: &Roots) {
        let stage = roots.answers.stage();
        match (self.open_root_rot(), stage) {
            (None, RootStage::Sound) => {}
            (None, stage) => {
                let (kind, ports) = (CaseKind::RootRot, roots.ports.clone());
                let case = Case { kind, opened: at, stage, ports, sound_looks: 0, treated: None, closed: None };
                keep_last(&mut self.all, case, KEPT);
            }
            (Some(case), RootStage::Sound) => {
                case.sound_looks += 1;
                if f64::from(case.sound_looks) >= FIGURES.roots.sound_looks {
                    case.closed = Some(at);
                }
            }
            (Some(case), stage) => {
                (case.stage, case.sound_looks) = (stage, 0);
                case.ports = roots.ports.clone().or(case.ports.take());
            }
        }
    }

    fn treatment(&mut self, at: Timestamp, what: TreatmentKind) {
        if let Some(case) = self.open_root_rot()
            && matches!(what, TreatmentKind::PeroxideDose | TreatmentKind::RootBath)
        {
            case.treated = Some(at);
        }
    }

    /// The roots are looked at while they hang outside, and treated after that.
    fn change(&mut self, at: Timestamp, parts: &ChangeParts) {
        parts.roots.iter().for_each(|roots| self.roots(at, roots));
        for what in [TreatmentKind::RootBath, TreatmentKind::PeroxideDose] {
            if parts.treated(what) {
                self.treatment(at, what);
            }
        }
    }
}

impl Projection for Cases {
    fn apply(&mut self, entry: &Entry, _: &System) {
        match &entry.body {
            Body::Visit(visit) => visit.roots.iter().for_each(|roots| self.roots(entry.at, roots)),
            Body::Treatment(treatment) => self.treatment(entry.at, treatment.what),
            Body::Change(change) => change.parts.iter().for_each(|parts| self.change(entry.at, parts)),
            Body::Correction(_) | Body::Premix(_) | Body::Withdrawn {} | Body::FromNewer => {}
        }
    }
}
