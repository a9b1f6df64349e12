//! What is seen, and what the log knows besides: each as one clue, with its figure and its age.

use super::knowledge::{Cause, Look, findings};
use crate::crop::{Crop, CropGroup, Stage};
use crate::fact::PlantSign;
use crate::figures::FIGURES;
use crate::message::Message;
use crate::say;
use crate::system::{Measuring, Traits};

/// One thing that is known.
#[derive(Debug, Clone, PartialEq)]
pub struct Clue {
    /// Which finding.
    pub finding: &'static str,
    detail: Option<Message>,
}

impl Clue {
    /// A finding by its code, without a figure.
    #[must_use]
    pub fn of(finding: &'static str) -> Self {
        Self { finding, detail: None }
    }

    pub(super) fn with(finding: &'static str, detail: Message) -> Self {
        Self { finding, detail: Some(detail) }
    }

    /// As it is said, with its figure and its age where it has them.
    #[must_use]
    pub fn said(&self) -> Message {
        let sign = PlantSign::of(self.finding);
        let finding = sign.map_or_else(|| Message::of("finding", self.finding, "say"), PlantSign::say);
        match &self.detail {
            Some(detail) => say!("explain.with_detail", clue = finding, detail = detail.clone()),
            None => finding,
        }
    }

    /// By how much a cause that has nothing to do with it loses: signs on plants, and what is amiss with roots and
    /// water, want to be explained; a level or a date does not.
    pub(super) fn unexplained(&self) -> f64 {
        let figures = &FIGURES.diagnosis;
        if PlantSign::of(self.finding).is_some() {
            figures.unexplained_sign
        } else if AMISS.contains(&self.finding) {
            figures.unexplained_find
        } else {
            0.0
        }
    }
}

/// Findings at roots and water that want to be explained.
const AMISS: [&str; 8] = [
    "roots_clumping",
    "roots_film",
    "roots_rotted",
    "roots_tan",
    "glass_white",
    "glass_green",
    "glass_brown",
    "smell_foul",
];

/// All that is known around some plants.
#[derive(Debug, Clone, PartialEq)]
pub struct Clues {
    /// What is seen and known.
    pub seen: Vec<Clue>,
    /// Signs that were looked for and are not there.
    pub absent: Vec<&'static str>,
    /// What the system has; `None` where it is not told, and everything is possible.
    pub(super) traits: Option<Traits>,
    /// How its water is measured; `None` where it is not told.
    pub(super) measuring: Option<Measuring>,
    pub(super) groups: Vec<CropGroup>,
    pub(super) stages: Vec<Stage>,
    /// Crops that are given to some causes by nature.
    pub(super) crops: Vec<&'static Crop>,
    /// Whether pH is dosed here, and not only moved with a change.
    pub(super) doses_ph: bool,
    /// Whether a child asks, who is led to nothing that is an adult's.
    pub(super) child: bool,
    /// The causes of which a case is open: what they did goes on showing for a while.
    pub(super) open: Vec<String>,
}

impl Clues {
    /// Findings by their codes, of a system about which nothing is told. Codes that no cause and no look knows are
    /// left out.
    #[must_use]
    pub fn of(seen: &[&str], absent: &[&str]) -> Self {
        let known = |codes: &[&str]| -> Vec<&'static str> {
            codes.iter().filter_map(|code| findings().iter().copied().find(|known| known == code)).collect()
        };
        Self {
            seen: known(seen).into_iter().map(Clue::of).collect(),
            absent: known(absent),
            traits: None,
            measuring: None,
            groups: vec![],
            stages: vec![],
            crops: vec![],
            doses_ph: true,
            child: false,
            open: vec![],
        }
    }

    /// The same where only such a crop grows.
    #[must_use]
    pub fn growing(self, crop: &'static Crop) -> Self {
        Self { groups: vec![crop.group], crops: vec![crop], ..self }
    }

    /// The same where only crops of such a group grow.
    #[must_use]
    pub fn growing_group(self, group: CropGroup) -> Self {
        Self { groups: vec![group], ..self }
    }

    /// What a crop that grows here is given to by nature: the crop, by how much, and why.
    pub(super) fn leaning(&self, cause: &str) -> Option<(&'static Crop, f64, &'static str)> {
        let mut all = self.crops.iter().flat_map(|crop| crop.leans.iter().map(move |lean| (*crop, lean)));
        all.find(|(_, lean)| lean.0 == cause).map(|(crop, lean)| (crop, lean.1, lean.2.as_str()))
    }

    /// Whether a finding is known, or known not to be there.
    pub(super) fn knows(&self, finding: &str) -> bool {
        self.seen.iter().any(|clue| clue.finding == finding) || self.absent.contains(&finding)
    }

    /// Whether a cause is possible here at all.
    pub(super) fn allows(&self, cause: &Cause) -> bool {
        let has = |name: &String| self.traits.is_none_or(|traits| has(&traits, name));
        let lacks = |name: &String| self.traits.is_none_or(|traits| !self::has(&traits, name));
        cause.traits.iter().all(has)
            && cause.without.iter().all(lacks)
            && meet(&cause.groups, &self.groups)
            && meet(&cause.stages, &self.stages)
    }

    /// Whether a look can be made here.
    pub(super) fn can(&self, look: &Look) -> bool {
        let has = |name: &String| self.traits.is_none_or(|traits| has(&traits, name));
        let reads = |measuring: Measuring| match look.wants.as_deref() {
            Some("ec") => measuring.ec(),
            Some("ph") => measuring != Measuring::RecipeOnly,
            _ => true,
        };
        (look.needs.is_empty() || look.needs.iter().any(has)) && self.measuring.is_none_or(reads)
    }
}

/// Whether what a cause is confined to is among what grows here; where either is not told, it may be.
fn meet<T: PartialEq>(only: &[T], here: &[T]) -> bool {
    only.is_empty() || here.is_empty() || here.iter().any(|one| only.contains(one))
}

/// Whether a system has a trait, by the trait's code.
fn has(traits: &Traits, name: &str) -> bool {
    match name {
        "circulates" => traits.circulates,
        "aerated" => traits.aerated,
        "sprayers" => traits.sprayers,
        "light" => traits.light,
        "opaque" => traits.opaque,
        _ => false,
    }
}
