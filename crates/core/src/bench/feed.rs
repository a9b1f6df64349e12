//! Which products go in at which rate, and how they are scaled to a strength:
//! s = (EC_target − EC_water − what does not scale) / Σ kᵢ rᵢ.

use super::ask::{Ask, Shelf};
use crate::crop::{CropGroup, Stage, ec_target};
use crate::mixing::{Amount, Product, ProductKind, shipped_id};
use crate::quantity::{Conductivity, EcReading};
use crate::refusal::{AtField, Refusal};
use crate::system::{Measuring, SourceWater};
use uuid::Uuid;

/// How far a rise on a label may be off, and a learnt one.
const LABEL_SPREAD: f64 = 0.10;
const LEARNT_SPREAD: f64 = 0.04;
/// Batches from which a learnt rise is trusted over the label's.
const TRUSTED_FROM: usize = 2;
/// More than this times the printed rate is said; for a whole filling, more than that is refused.
const BEYOND_LABEL: f64 = 1.25;
const MOST_LABELS: f64 = 3.0;

/// One product at its rate for a litre.
#[derive(Debug, Clone)]
pub(super) struct FeedLine {
    pub id: Uuid,
    pub product: Product,
    pub rate: Amount,
    pub rise: Option<f64>,
    spread: f64,
}

/// The products of a batch.
#[derive(Debug, Clone)]
pub(super) struct Feed {
    pub lines: Vec<FeedLine>,
    pub label: String,
}

/// A feed at a strength: what goes into a litre, and the EC that it comes to.
#[derive(Debug, Clone)]
pub(super) struct Mixed {
    pub per_litre: Vec<(FeedLine, Amount)>,
    pub strength: f64,
    /// EC and how far it may be off; `None` where a rise is not known.
    pub ec: Option<(f64, f64)>,
    pub warnings: Vec<String>,
}

impl Feed {
    /// The products asked for, or those of the recipe at its stage.
    pub fn of(ask: &Ask, shelf: &Shelf<'_>) -> Result<Self, Refusal> {
        if !ask.products.is_empty() {
            let mut lines = Vec::new();
            for (i, line) in ask.products.iter().enumerate() {
                let product = shelf.product(line.product).at(&format!("products.{i}"))?;
                lines.push(feed_line(line.product, product, product.per_litre(line.rate.as_ref()).at(&format!("products.{i}"))?, shelf));
            }
            return Ok(Self { lines, label: "these products".to_owned() }.in_order());
        }
        let id = ask.recipe.or(shelf.situation.and_then(|s| s.system.methods.recipe)).unwrap_or_else(|| usual_recipe(shelf));
        let recipe =
            shelf.recipes.get(&id).ok_or_else(|| Refusal::new(format!("found the recipe {id}"), "allowed are the recipes on the shelf", "Pick one from the list.").at("recipe"))?;
        let stage = ask.stage.unwrap_or_else(|| stage_of(shelf));
        let mut lines = Vec::new();
        for line in recipe.lines.iter().filter(|line| line.parts.at(stage) > 0.0) {
            let product = shelf.product(line.product).at("recipe")?;
            let rate = product.per_litre(line.rate.as_ref()).at("recipe")?;
            lines.push(feed_line(line.product, product, rate.with(rate.value * line.parts.at(stage)), shelf));
        }
        if lines.is_empty() {
            return Err(Refusal::new(
                format!("found “{}” for {} plants, which gives nothing", recipe.name.as_str(), stage.say()),
                "allowed is a recipe with something for that stage",
                if stage == Stage::Germinating { "Before the first true leaf plain water is right: top off with plain water." } else { "Pick another recipe or another stage." },
            )
            .at("stage"));
        }
        lines.extend(conditioner(&lines, shelf));
        Ok(Self { lines, label: format!("{}, {}", recipe.name.as_str(), stage.say()) }.in_order())
    }

    /// What the source water asks of the recipe.
    pub fn water_warning(&self, shelf: &Shelf<'_>) -> Option<String> {
        let soft = shelf.situation.is_some_and(|s| matches!(s.system.methods.source, SourceWater::Rain | SourceWater::Filtered));
        let fed = |what| self.lines.iter().any(|line| line.product.what == what);
        (soft && !fed(ProductKind::CalciumMagnesium) && !fed(ProductKind::CalciumNitrate))
            .then(|| "Rain and filtered water bring no calcium or magnesium along: a recipe with a calcium–magnesium supplement suits them.".to_owned())
    }

    /// Only what feeds, for water that stands in the tank already or a batch that is meant to be
    /// strong: what has a rate of its own went in with the fresh water, and goes in with the next.
    /// Says what it left out.
    pub fn feeding_only(mut self) -> (Self, Option<String>) {
        let left_out: Vec<String> = self.lines.iter().filter(|line| !line.product.what.feeds()).map(|line| line.product.name.as_str().to_owned()).collect();
        self.lines.retain(|line| line.product.what.feeds());
        let said = (!left_out.is_empty())
            .then(|| format!("Left out here: {}. It goes into fresh water at its own rate, not into a correction or a concentrated batch.", left_out.join(", ")));
        (self, said)
    }

    /// What feeds, at a part of its rate.
    pub fn at_part(mut self, part: f64) -> Self {
        for line in self.lines.iter_mut().filter(|line| line.product.what.feeds()) {
            line.rate.value *= part;
        }
        self
    }

    /// The EC that is aimed at: the one asked for, else the usual one where the rises are known that
    /// it takes. `None` feeds as printed.
    pub fn target(&self, ask: &Ask, shelf: &Shelf<'_>) -> Result<Option<Conductivity>, Refusal> {
        let known = self.lines.iter().all(|line| line.rise.is_some());
        let asked = target(ask, shelf)?;
        Ok(asked.filter(|_| known || ask.target.is_some()))
    }

    fn in_order(mut self) -> Self {
        self.lines.sort_by_key(|line| line.product.what);
        self
    }

    /// The feed at a target, or as printed where there is none. `over_label` lets a concentrated
    /// batch be stronger than a label's filling.
    pub fn mix(&self, source: Conductivity, target: Option<Conductivity>, over_label: bool) -> Result<Mixed, Refusal> {
        let part = |feeds: bool| -> Option<f64> { self.lines.iter().filter(|line| line.product.what.feeds() == feeds).map(|line| Some(line.rise? * line.rate.value)).sum() };
        let (scaled, fixed) = (part(true), part(false).unwrap_or(0.0));
        let Some(target) = target else {
            let ec = scaled.map(|rise| (source.get() + rise + fixed, self.spread() * (rise + fixed)));
            return Ok(Mixed { per_litre: self.lines.iter().map(|line| (line.clone(), line.rate)).collect(), strength: 1.0, ec, warnings: vec![] });
        };
        let wanted = target.get() - source.get() - fixed;
        if wanted <= 1e-9 {
            let with = if fixed > 0.0 { format!(" (and {fixed:.2} from what goes in before the feed)") } else { String::new() };
            return Err(Refusal::new(
                format!("found a target of {:.2} mS/cm over source water of {:.2}{with}", target.get(), source.get()),
                "allowed is a target above the source water's EC",
                "Use plain water, or a softer source; a weaker solution than the water itself cannot be mixed from it.",
            )
            .at("target"));
        }
        let rise = scaled.filter(|rise| *rise > 0.0).ok_or_else(|| {
            let unknown = self.lines.iter().find(|line| line.rise.is_none()).map_or("a product", |line| line.product.name.as_str());
            Refusal::new(
                format!("found a target, and no EC rise known of {unknown}"),
                "allowed is a target with products whose rise is known, or the recipe as printed",
                "Mix it as printed once, measure its EC and log it: from then on the rise is known.",
            )
            .at("target")
        })?;
        let strength = wanted / rise;
        if strength > MOST_LABELS && !over_label {
            return Err(Refusal::new(
                format!("found a target that takes {strength:.1} times the label's rate"),
                format!("allowed is up to {MOST_LABELS:.0} times"),
                "Check the target's scale, and the rates and EC rises of the products.",
            )
            .at("target"));
        }
        let mut warnings = Vec::new();
        if strength > BEYOND_LABEL && !over_label {
            warnings.push(format!("This is {strength:.1} times the label's rate. Check the target and the labels before you pour."));
        }
        let scale = |line: &FeedLine| if line.product.what.feeds() { strength } else { 1.0 };
        let per_litre = self.lines.iter().map(|line| (line.clone(), line.rate.with(line.rate.value * scale(line)))).collect();
        Ok(Mixed { per_litre, strength, ec: Some((target.get(), self.spread() * (target.get() - source.get()))), warnings })
    }

    fn spread(&self) -> f64 {
        self.lines.iter().map(|line| line.spread).fold(0.0, f64::max)
    }
}

/// The dechlorinator, where that is how the water is made ready and the recipe does not name it.
fn conditioner(lines: &[FeedLine], shelf: &Shelf<'_>) -> Option<FeedLine> {
    let conditioned = shelf.situation.is_some_and(|s| s.system.methods.source == SourceWater::Conditioned);
    let named = lines.iter().any(|line| line.product.what == ProductKind::Dechlorinator);
    let id = shipped_id("dechlorinator");
    let product = shelf.products.get(&id).filter(|_| conditioned && !named)?;
    Some(feed_line(id, product, product.per_litre(None).ok()?, shelf))
}

fn feed_line(id: Uuid, product: &Product, rate: Amount, shelf: &Shelf<'_>) -> FeedLine {
    let learnt = shelf.learnt.get(&id).filter(|learnt| learnt.batches >= TRUSTED_FROM || product.rise.is_none());
    let rise = learnt.map(|learnt| learnt.rise).or(product.rise);
    FeedLine { id, product: product.clone(), rate, rise, spread: if learnt.is_some() { LEARNT_SPREAD } else { LABEL_SPREAD } }
}

/// Three-part for what fruits, two-part for the rest.
fn usual_recipe(shelf: &Shelf<'_>) -> Uuid {
    let fruits = shelf.situation.is_some_and(|s| s.grows(|p| p.group == CropGroup::Fruiting));
    shipped_id(if fruits { "three_part" } else { "two_part_leaf" })
}

/// The least advanced of what grows: its roots take the least.
fn stage_of(shelf: &Shelf<'_>) -> Stage {
    let stages = shelf.situation.iter().flat_map(|s| s.plantings).map(|p| p.stage).filter(|stage| *stage != Stage::Done);
    stages.min().unwrap_or(Stage::Vegetative)
}

/// The EC that is aimed at: the one asked for, else the middle of the crops' band where EC is
/// measured. `None` feeds as printed.
pub(super) fn target(ask: &Ask, shelf: &Shelf<'_>) -> Result<Option<Conductivity>, Refusal> {
    if ask.as_printed {
        return Ok(None);
    }
    let typed = |ec: EcReading| ec.at_25(None).at("target");
    if let Some(given) = ask.target {
        return typed(given).map(Some);
    }
    Ok(usual_target(shelf))
}

/// The middle of the band of what grows, where EC is measured.
pub(super) fn usual_target(shelf: &Shelf<'_>) -> Option<Conductivity> {
    let s = shelf.situation.filter(|s| s.system.measuring == Measuring::Meter)?;
    let band = ec_target(s.plantings, s.system.source_ec)?;
    Some(Conductivity::nearest(f64::midpoint(band.low.get(), band.high.get())))
}

/// Whether a dose is one of these.
pub(super) fn holds(mixed: &Mixed, what: ProductKind) -> bool {
    mixed.per_litre.iter().any(|(line, _)| line.product.what == what)
}
