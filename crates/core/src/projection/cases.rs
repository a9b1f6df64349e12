//! Cases of disease: opened by a finding, followed by looks and treatments, closed by sound looks.

use super::{Projection, keep_last};
use crate::calendar::days_between;
use crate::fact::{
    Body, CaseLook, CaseOutcome, CasePlan, ChangeParts, Entry, RootStage, Roots, Shares, TreatmentKind, plan,
};
use crate::figures::FIGURES;
use crate::message::Message;
use crate::quantity::Note;
use crate::system::{PortSet, RootRotMethod, System};
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
    /// Sound looks in a row since then, each on another day than the one before.
    pub sound_looks: u8,
    /// The last sound look that counted.
    #[serde(default)]
    pub last_sound: Option<Timestamp>,
    /// The last treatment.
    pub treated: Option<Timestamp>,
    /// When it was closed; `None` while it is open.
    pub closed: Option<Timestamp>,
}

/// A case of what ails the plants, by its plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct PlantCase {
    /// What it is about: the key of a cause.
    pub cause: String,
    /// When it was opened.
    pub opened: Timestamp,
    /// In which ports it was last seen, where that is known.
    pub ports: Option<PortSet>,
    /// How it stood at each look, the opening among them, oldest first.
    pub looks: Vec<(Timestamp, CaseOutcome)>,
    /// Sound looks in a row.
    pub sound_looks: u8,
    /// Whether there was one of the same not long before.
    pub again: bool,
    /// What was learnt.
    pub learnt: Option<Note>,
    /// When it was closed; `None` while it is open.
    pub closed: Option<Timestamp>,
}

/// Open cases, and the last closed ones.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Cases {
    /// Root rot, oldest first.
    pub all: Vec<Case>,
    /// What ails plants besides, oldest first.
    pub plants: Vec<PlantCase>,
}

/// Whether a sound look counts beside the one before: on another day, as days are told apart for doses.
fn apart(before: Option<Timestamp>, at: Timestamp) -> bool {
    before.is_none_or(|before| days_between(before, at) * 24.0 >= FIGURES.ph.day_hours)
}

/// How many are kept.
const KEPT: usize = 8;
/// How many looks of one case are kept.
const KEPT_LOOKS: usize = 24;

impl Cases {
    /// The open case of root rot.
    #[must_use]
    pub fn root_rot(&self) -> Option<&Case> {
        self.all.iter().rev().find(|case| case.kind == CaseKind::RootRot && case.closed.is_none())
    }

    /// The open cases of what ails the plants.
    pub fn open_plants(&self) -> impl Iterator<Item = (&PlantCase, &'static CasePlan)> {
        let open = self.plants.iter().filter(|case| case.closed.is_none());
        open.filter_map(|case| Some((case, plan(&case.cause)?)))
    }

    /// What the first open case is about, with when it was opened: over it nothing is all fine.
    #[must_use]
    pub fn open(&self) -> Option<(Timestamp, Message)> {
        let rot = self.root_rot().map(|case| (case.opened, Message::of("cause", "root_rot", "name")));
        rot.or_else(|| self.open_plants().next().map(|(case, plan)| (case.opened, plan.name())))
    }

    /// What is open here that hands, tools or water carry on: such a system is visited last.
    #[must_use]
    pub fn suspect(&self) -> Option<Message> {
        let spreads = || self.open_plants().find(|(_, plan)| plan.shares != Shares::None).map(|(_, plan)| plan.name());
        let rot = self.root_rot().map(|_| Message::of("cause", "root_rot", "name"));
        rot.or_else(spreads)
    }

    fn look(&mut self, at: Timestamp, look: &CaseLook) {
        let Some(plan) = plan(&look.cause) else { return };
        let open = self.plants.iter_mut().rev().find(|case| case.cause == look.cause && case.closed.is_none());
        match open {
            None if look.outcome == CaseOutcome::Gone => {}
            None => {
                let last = self.plants.iter().filter(|case| case.cause == look.cause).filter_map(|case| case.closed);
                let again = last.max().is_some_and(|closed| days_between(closed, at) <= FIGURES.diagnosis.rot_days);
                let case = PlantCase {
                    cause: look.cause.clone(),
                    opened: at,
                    ports: look.ports.clone(),
                    looks: vec![(at, CaseOutcome::Opened)],
                    sound_looks: 0,
                    again,
                    learnt: look.learnt.clone(),
                    closed: None,
                };
                keep_last(&mut self.plants, case, KEPT);
            }
            Some(case) => {
                let counts = apart(case.looks.last().filter(|look| look.1 == CaseOutcome::Gone).map(|look| look.0), at);
                if look.outcome == CaseOutcome::Gone && !counts {
                    return;
                }
                keep_last(&mut case.looks, (at, look.outcome), KEPT_LOOKS);
                case.learnt = look.learnt.clone().or(case.learnt.take());
                if look.outcome == CaseOutcome::Gone {
                    case.sound_looks = case.sound_looks.saturating_add(1);
                    case.closed = (case.sound_looks >= plan.sound).then_some(at);
                } else {
                    case.sound_looks = 0;
                    case.ports = look.ports.clone().or(case.ports.take());
                }
            }
        }
    }

    fn open_root_rot(&mut self) -> Option<&mut Case> {
        self.all.iter_mut().rev().find(|case| case.kind == CaseKind::RootRot && case.closed.is_none())
    }

    fn roots(&mut self, at: Timestamp, roots: &Roots) {
        let Some(stage) = roots.stage() else { return };
        match (self.open_root_rot(), stage) {
            (None, RootStage::Sound) => {}
            (None, stage) => {
                let (kind, ports) = (CaseKind::RootRot, roots.ports.clone());
                let case = Case {
                    kind,
                    opened: at,
                    stage,
                    ports,
                    sound_looks: 0,
                    last_sound: None,
                    treated: None,
                    closed: None,
                };
                keep_last(&mut self.all, case, KEPT);
            }
            // Two who look on one day have looked once.
            (Some(case), RootStage::Sound) if !apart(case.last_sound, at) => {}
            (Some(case), RootStage::Sound) => {
                (case.sound_looks, case.last_sound) = (case.sound_looks.saturating_add(1), Some(at));
                if f64::from(case.sound_looks) >= FIGURES.roots.sound_looks {
                    case.closed = Some(at);
                }
            }
            (Some(case), stage) => {
                (case.stage, case.sound_looks, case.last_sound) = (stage, 0, None);
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

    /// The roots are looked at while they hang outside, and treated after that. Where rot always means to start
    /// anew, a full reset of all the water ends the case.
    fn change(&mut self, at: Timestamp, parts: &ChangeParts, renews: bool, system: &System) {
        if parts.reset && renews && system.methods.root_rot == RootRotMethod::Restart {
            parts.roots.iter().for_each(|roots| self.roots(at, roots));
            self.open_root_rot().into_iter().for_each(|case| case.closed = Some(at));
            return;
        }
        parts.roots.iter().for_each(|roots| self.roots(at, roots));
        for what in [TreatmentKind::RootBath, TreatmentKind::PeroxideDose] {
            if parts.treated(what) {
                self.treatment(at, what);
            }
        }
    }
}

impl Projection for Cases {
    fn apply(&mut self, entry: &Entry, system: &System) {
        match &entry.body {
            Body::Visit(visit) => {
                visit.roots.iter().for_each(|roots| self.roots(entry.at, roots));
                visit.cases.iter().for_each(|look| self.look(entry.at, look));
            }
            Body::Treatment(treatment) => self.treatment(entry.at, treatment.what),
            Body::Change(change) => {
                let renews = change.renews();
                change.parts.iter().for_each(|parts| self.change(entry.at, parts, renews, system));
            }
            Body::Correction(_)
            | Body::Premix(_)
            | Body::Withdrawn {}
            | Body::Sensed(_)
            | Body::FromNewer
            | Body::Unreadable => {}
        }
    }
}
