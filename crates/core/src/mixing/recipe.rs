//! Recipes: which products together, and how much of each label's rate at which stage.

use crate::crop::Stage;
use crate::message::{count, plain};
use crate::mixing::{Analysis, PrintedRate, Product, ProductKind};
use crate::quantity::{Name, Note};
use crate::{Refusal, refuse};
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
        if self.lines.is_empty() || self.lines.len() > MOST_LINES {
            let (found, most) = (count(self.lines.len()), count(MOST_LINES));
            return Err(refuse!("recipe_lines", found = found, most = most).at("lines"));
        }
        for (i, line) in self.lines.iter().enumerate() {
            let parts = [line.parts.seedling, line.parts.vegetative, line.parts.flowering, line.parts.ripening];
            if let Some(part) = parts.iter().find(|part| !(0.0..=MOST_PARTS).contains(*part)) {
                let (found, most) = (plain(*part), plain(MOST_PARTS));
                return Err(refuse!("recipe_parts", found = found, most = most).at(&format!("lines.{i}.parts")));
            }
            if self.lines[..i].iter().any(|other| other.product == line.product) {
                return Err(refuse!("recipe_product_twice").at(&format!("lines.{i}.product")));
            }
        }
        Ok(())
    }
}

/// More products are no recipe.
const MOST_LINES: usize = 12;
/// More times the label's rate is a mistake.
const MOST_PARTS: f64 = 5.0;

/// What a recipe feeds while leaves are made, as far as its products tell: for judging what ails a plant.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct FeedFacts {
    /// Whether anything is told of it.
    pub known: bool,
    /// Whether it is one for flowers: more phosphate than nitrogen by the labels, or bloom without grow.
    pub bloom: bool,
    /// Whether nothing in it brings calcium.
    pub without_calcium: bool,
    /// Whether a finisher is in it while it ripens.
    pub finisher: bool,
}

impl FeedFacts {
    /// What a recipe feeds, by its products.
    pub fn of<'a>(recipe: &Recipe, product: impl Fn(Uuid) -> Option<&'a Product>) -> Self {
        let part = |line: &RecipeLine| line.parts.at(Stage::Vegetative);
        let used: Vec<(f64, &Product)> = recipe
            .lines
            .iter()
            .filter(|line| part(line) > 0.0)
            .filter_map(|line| Some((part(line), product(line.product)?)))
            .collect();
        let has = |kinds: &[ProductKind]| used.iter().any(|(_, product)| kinds.contains(&product.what));
        let labelled: Vec<(f64, Analysis)> = used.iter().filter_map(|(part, p)| Some((*part, p.analysis?))).collect();
        let sum = |of: fn(&Analysis) -> Option<f64>| labelled.iter().filter_map(|(part, a)| Some(part * of(a)?)).sum();
        let (nitrogen, phosphate): (f64, f64) = (sum(|a| a.nitrogen), sum(|a| a.phosphate));
        let by_kind =
            has(&[ProductKind::Bloom]) && !has(&[ProductKind::Grow, ProductKind::OnePart, ProductKind::PartA]);
        let holds_calcium =
            has(&[ProductKind::CalciumMagnesium, ProductKind::CalciumNitrate, ProductKind::PartA, ProductKind::Micro])
                || labelled.iter().any(|(_, label)| label.calcium.is_some_and(|part| part > 0.0));
        let finishes = |line: &RecipeLine| {
            line.parts.ripening > 0.0
                && product(line.product).is_some_and(|product| product.what == ProductKind::Finisher)
        };
        Self {
            finisher: recipe.lines.iter().any(finishes),
            known: !used.is_empty(),
            bloom: if nitrogen + phosphate > 0.0 { phosphate > nitrogen } else { by_kind },
            without_calcium: !used.is_empty() && !holds_calcium,
        }
    }
}
