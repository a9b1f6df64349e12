//! What stands in which ports.

use super::{Crop, CropGroup, crop, stage_days};
use crate::band::{EcBand, PhBand};
use crate::calendar::add_whole_days;
use crate::message::{Param, member};
use crate::quantity::{Name, Note};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::system::{PortSet, Ripening};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// How far a planting has come.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Stage {
    /// No true leaf yet: plain water.
    Germinating,
    /// From the first true leaf: half strength, full for fast growers.
    Seedling,
    /// Growing leaf.
    Vegetative,
    /// In flower.
    Flowering,
    /// Setting and filling fruit.
    Fruiting,
    /// The last weeks before a harvest of the whole plant.
    Ripening,
    /// Harvested; the ports are free.
    Done,
}

impl Stage {
    /// All of them, in their order.
    pub const ALL: [Self; 7] = [
        Self::Germinating,
        Self::Seedling,
        Self::Vegetative,
        Self::Flowering,
        Self::Fruiting,
        Self::Ripening,
        Self::Done,
    ];

    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Germinating => "germinating",
            Self::Seedling => "seedling",
            Self::Vegetative => "vegetative",
            Self::Flowering => "flowering",
            Self::Fruiting => "fruiting",
            Self::Ripening => "ripening",
            Self::Done => "done",
        }
    }

    /// As it is said.
    #[must_use]
    pub fn say(self) -> Param {
        member("stage", self.code())
    }

    /// The stage whose feed it gets: where the last weeks are fed as before, that of the stage before.
    #[must_use]
    pub fn fed(self, group: CropGroup, ripening: Ripening) -> Self {
        match (ripening, self, group) {
            (Ripening::Neither, Self::Ripening, CropGroup::Fruiting) => Self::Fruiting,
            (Ripening::Neither, Self::Ripening, CropGroup::Flower) => Self::Flowering,
            (Ripening::Neither, Self::Ripening, _) => Self::Vegetative,
            _ => self,
        }
    }
}

/// One crop in some ports of a system.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Planting {
    /// The crop's name, shipped or own.
    pub crop: Name,
    /// How it feeds.
    pub group: CropGroup,
    /// In which ports.
    pub ports: PortSet,
    /// How far it has come.
    pub stage: Stage,
    /// When it was sown, if known.
    #[serde(default, deserialize_with = "crate::quantity::day_if_any")]
    #[schema(value_type = Option<String>, format = Date)]
    pub sown_on: Option<Date>,
    /// When it was planted on into this system.
    #[serde(deserialize_with = "crate::quantity::day")]
    #[schema(value_type = String, format = Date)]
    pub planted_on: Date,
    /// From which planting it came, where it was moved here or grown from a cutting.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub came: Option<Origin>,
    /// The strength that it wants, where that is not the crop's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ec_band: Option<EcBand>,
    /// The pH that it wants, where that is not the usual one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ph_band: Option<PhBand>,
    /// Anything to remember.
    #[serde(default)]
    pub note: Option<Note>,
}

/// The planting that one came from.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Origin {
    /// Which.
    pub planting: Uuid,
    /// The system that it stood in.
    pub system: Uuid,
    /// Whether it was cut from it, and is young; else it was moved, and is as old as it was.
    #[serde(default)]
    pub cutting: bool,
    /// When what was moved was first planted on, in whatever system.
    #[serde(deserialize_with = "crate::quantity::day")]
    #[schema(value_type = String, format = Date)]
    pub grown_since: Date,
}

impl Planting {
    /// Since when it grows, in whatever system it stood: its age is counted from here.
    #[must_use]
    pub fn growing_since(&self) -> Date {
        self.came.filter(|came| !came.cutting).map_or(self.planted_on, |came| came.grown_since.min(self.planted_on))
    }

    /// Checks the ports against the system's, and that sowing came before planting on.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self, ports: u16) -> Result<(), Refusal> {
        self.ports.check(ports).map_err(|refusal| refusal.at("ports"))?;
        self.ec_band.map_or(Ok(()), |band| band.check()).at("ec_band")?;
        self.ph_band.map_or(Ok(()), |band| band.check()).at("ph_band")?;
        if let Some(came) = self.came.filter(|came| came.grown_since > self.planted_on) {
            let (found, most) = (came.grown_since.to_string(), self.planted_on.to_string());
            return Err(refuse!("sown_after_planting", found = found, most = most).at("came.grown_since"));
        }
        if let Some(sown) = self.sown_on.filter(|sown| *sown > self.planted_on) {
            let (found, most) = (sown.to_string(), self.planted_on.to_string());
            return Err(refuse!("sown_after_planting", found = found, most = most).at("sown_on"));
        }
        Ok(())
    }

    /// The same, at the stage whose feed it gets.
    #[must_use]
    pub fn fed(&self, ripening: Ripening) -> Self {
        Self { stage: self.stage.fed(self.group, ripening), ..self.clone() }
    }

    /// Of what was sown and has no true leaf yet: the day by which it is usually up, and the day after which it is sown again.
    /// `None` later.
    #[must_use]
    pub fn up_by(&self) -> Option<(Date, Date)> {
        let usual = stage_days(self.group, self.stage).filter(|_| self.stage == Stage::Germinating)?;
        let sown = self.sown_on.unwrap_or(self.planted_on);
        let latest = usual * crate::figures::FIGURES.diagnosis.not_up;
        Some((add_whole_days(sown, usual), add_whole_days(sown, latest)))
    }

    /// The shipped facts of its crop, if the name is a shipped one.
    #[must_use]
    pub fn facts(&self) -> Option<&'static Crop> {
        crop(self.crop.as_str())
    }
}
