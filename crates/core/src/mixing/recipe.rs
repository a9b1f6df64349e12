//! Recipes: which products together, and how much of each label's rate at which stage.

use crate::Refusal;
use crate::crop::Stage;
use crate::mixing::PrintedRate;
use crate::quantity::{Name, Note};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// How much of the label's rate at each stage: 0.5 is half strength, 0 leaves the product out.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StageParts {
    /// From the first true leaf.
    #[schema(minimum = 0, maximum = 5)]
    pub seedling: f64,
    /// Growing leaf.
    #[schema(minimum = 0, maximum = 5)]
    pub vegetative: f64,
    /// In flower and in fruit.
    #[schema(minimum = 0, maximum = 5)]
    pub flowering: f64,
    /// The last weeks.
    #[schema(minimum = 0, maximum = 5)]
    pub ripening: f64,
}

impl StageParts {
    /// The part at a stage; nothing before the first true leaf.
    #[must_use]
    pub fn at(self, stage: Stage) -> f64 {
        match stage {
            Stage::Germinating => 0.0,
            Stage::Seedling => self.seedling,
            Stage::Vegetative | Stage::Done => self.vegetative,
            Stage::Flowering | Stage::Fruiting => self.flowering,
            Stage::Ripening => self.ripening,
        }
    }
}

/// A product in a recipe.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RecipeLine {
    /// Which product.
    pub product: Uuid,
    /// How much of its rate at each stage.
    pub parts: StageParts,
    /// A rate of one's own over the label's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rate: Option<PrintedRate>,
}

/// A recipe.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Recipe {
    /// What it is called.
    pub name: Name,
    /// Its products, 1–12, in any order: the order of mixing is worked out.
    pub lines: Vec<RecipeLine>,
    /// Anything to remember.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
}

impl Recipe {
    /// Checks that it has products, each once, and that the parts are sensible.
    ///
    /// # Errors
    /// A refusal at the line.
    pub fn check(&self) -> Result<(), Refusal> {
        if self.lines.is_empty() || self.lines.len() > 12 {
            return Err(Refusal::new(format!("found {} products", self.lines.len()), "allowed are 1 to 12", "Add the products of the recipe.").at("lines"));
        }
        for (i, line) in self.lines.iter().enumerate() {
            let parts = [line.parts.seedling, line.parts.vegetative, line.parts.flowering, line.parts.ripening];
            if let Some(part) = parts.iter().find(|part| !(0.0..=5.0).contains(*part)) {
                return Err(
                    Refusal::new(format!("found {part} times the rate"), "allowed is 0 to 5 times", "1 is the label's rate, 0.5 half of it.").at(&format!("lines.{i}.parts"))
                );
            }
            if self.lines[..i].iter().any(|other| other.product == line.product) {
                return Err(Refusal::new("found a product twice", "allowed is each product once", "Add the two rates together in one line.").at(&format!("lines.{i}.product")));
            }
        }
        Ok(())
    }
}
