//! Which products go in at which rate, and how they are scaled to a strength:
//! s = (EC_target − EC_water − what does not scale) / Σ kᵢ rᵢ.

use super::ask::{Ask, Shelf};
use crate::crop::{CropGroup, EcTarget, Stage, ruling};
use crate::figures::FIGURES;
use crate::message::{Message, Param, Unit, percent, plain};
use crate::mixing::balance::soften;
use crate::mixing::{Product, ProductKind, shipped_id};
use crate::quantity::{Amount, Conductivity, EcReading, Litres, Quantity, band};
use crate::refusal::{AtField, Refusal};
use crate::situation::Situation;
use crate::statistics::median;
use crate::system::SourceWater;
use crate::{refuse, say};
use uuid::Uuid;

/// One product at its rate for a litre.
#[derive(Debug, Clone)]
pub(super) struct FeedLine {
    pub id: Uuid,
    pub product: Product,
    pub rate: Amount,
    /// EC of 1 mL or 1 g in a litre, in mS/cm.
    pub rise: Option<f64>,
    spread: f64,
}

/// The products of a batch.
#[derive(Debug, Clone)]
pub(super) struct Feed {
    pub lines: Vec<FeedLine>,
    pub label: Message,
}

/// A feed at a strength: what goes into a litre, and the EC that it comes to.
#[derive(Debug, Clone)]
pub(super) struct Mixed {
    pub per_litre: Vec<(FeedLine, Amount)>,
    /// EC and how far it may be off; `None` where a rise is not known.
    pub ec: Option<(Conductivity, Conductivity)>,
    pub warnings: Vec<Message>,
}

impl Mixed {
    /// How much of the labels' rates goes in, over all that feeds and has one: half strength is 0.5, whatever
    /// the recipe calls full at its stage.
    pub fn of_label(&self) -> Option<f64> {
        let feeds = self.per_litre.iter().filter(|(line, _)| line.product.what.feeds());
        let parts: Vec<f64> = feeds
            .filter_map(|(line, amount)| {
                let label = line.product.per_litre(None).ok().filter(|label| label.unit == amount.unit)?;
                (label.value > 0.0).then_some(amount.value / label.value)
            })
            .collect();
        if parts.is_empty() { None } else { Some(parts.iter().sum::<f64>() / parts.len() as f64) }
    }
}

impl Feed {
    /// The products asked for, or those of the recipe at its stage.
    pub fn of(ask: &Ask, shelf: &Shelf<'_>) -> Result<Self, Refusal> {
        if !ask.products.is_empty() {
            let mut lines = Vec::new();
            for (i, line) in ask.products.iter().enumerate() {
                let at = format!("products.{i}");
                let product = shelf.product(line.product).at(&at)?;
                lines.push(feed_line(line.product, product, product.per_litre(line.rate.as_ref()).at(&at)?, shelf));
            }
            return Self { lines, label: say!("bench.these_products") }.in_order().checked("products");
        }
        let own = ask.recipe.or(shelf.situation.and_then(|s| s.system.methods.recipe));
        let id = own.unwrap_or_else(|| usual_recipe(shelf));
        let recipe = shelf.recipes.get(&id);
        let recipe = recipe.ok_or_else(|| refuse!("recipe_not_on_shelf", found = id.to_string()).at("recipe"))?;
        let stage = ask.stage.unwrap_or_else(|| stage_of(shelf));
        let mut lines = Vec::new();
        for line in recipe.lines.iter().filter(|line| line.parts.at(stage) > 0.0) {
            let product = shelf.product(line.product).at("recipe")?;
            let rate = product.per_litre(line.rate.as_ref()).at("recipe")?;
            lines.push(feed_line(line.product, product, rate * line.parts.at(stage), shelf));
        }
        if lines.is_empty() {
            let refusal = if stage == Stage::Germinating {
                refuse!("recipe_before_first_leaf", recipe = &recipe.name, stage = stage.say())
            } else {
                refuse!("recipe_gives_nothing", recipe = &recipe.name, stage = stage.say())
            };
            return Err(refusal.at("stage"));
        }
        lines.extend(conditioner(&lines, shelf));
        let label = say!("bench.recipe_at_stage", recipe = &recipe.name, stage = stage.say());
        Self { lines, label }.in_order().checked("recipe")
    }

    /// Refuses acid and base in one plan.
    fn checked(self, field: &str) -> Result<Self, Refusal> {
        let has = |what| self.lines.iter().any(|line| line.product.what == what);
        if has(ProductKind::PhUp) && has(ProductKind::PhDown) {
            return Err(refuse!("acid_and_base").at(field));
        }
        Ok(self)
    }

    /// Whether this feed lowers the pH by itself: as a label says, else as the last fillings showed;
    /// `None` where nobody knows.
    pub fn lowers_ph(&self, shelf: &Shelf<'_>) -> Option<bool> {
        let feeds = || self.lines.iter().filter(|line| line.product.what.feeds());
        if feeds().any(|line| line.product.lowers_ph == Some(true)) {
            return Some(true);
        }
        let learnt = shelf.situation.and_then(|s| median(&s.known.lessons.fresh_ph));
        match learnt.filter(|_| feeds().next().is_some()) {
            Some(settles) => Some(settles <= FIGURES.ph.fresh_high),
            None => feeds().all(|line| line.product.lowers_ph == Some(false)).then_some(false),
        }
    }

    /// What the source water asks of the recipe, and what it would do to it.
    pub fn water_warning(&self, shelf: &Shelf<'_>) -> Vec<Message> {
        self.without_calcium(shelf).into_iter().chain(self.chlorine(shelf)).collect()
    }

    /// Living inoculants in water that may hold chlorine.
    fn chlorine(&self, shelf: &Shelf<'_>) -> Option<Message> {
        let living = self.lines.iter().find(|line| line.product.living)?;
        let tap = shelf.situation.is_none_or(|s| s.system.methods.source == SourceWater::Tap);
        tap.then(|| say!("bench.chlorine", name = &living.product.name))
    }

    /// Water that brings no calcium along, with a feed that does not either.
    fn without_calcium(&self, shelf: &Shelf<'_>) -> Option<Message> {
        let soft_source = |source| matches!(source, SourceWater::Rain | SourceWater::Filtered);
        let soft = |s: &Situation<'_>| {
            soft_source(s.system.methods.source) || s.system.source_ec.get() < FIGURES.strength.soft
        };
        let soft = shelf.situation.is_some_and(soft);
        let fed = |what| self.lines.iter().any(|line| line.product.what == what);
        let calcium = fed(ProductKind::CalciumMagnesium) || fed(ProductKind::CalciumNitrate);
        (soft && !calcium).then(|| say!("bench.soft_water"))
    }

    /// What the source leaves room for, where that is less than half of the label's feed although the
    /// target would take it: then softer water mixed in helps, and how much of it.
    pub fn hard_source(&self, litres: Litres, source: Conductivity, target: Option<Conductivity>) -> Option<Message> {
        let figures = &FIGURES.strength;
        let (target, rise, fixed) = (target?, self.rise(true)?, self.rise(false).unwrap_or(0.0));
        let share = |source: f64| (target.get() - source - fixed) / rise;
        let rain = Conductivity::constant(figures.rain);
        if rise <= 0.0 || share(source.get()) >= figures.least_label || share(rain.get()) < figures.least_label {
            return None;
        }
        let wanted = target.get() - fixed - figures.least_label * rise;
        let soft = soften(litres, source, rain, Conductivity::calculated(wanted.max(0.0)))?;
        let (part, hard) = (percent((share(source.get()) * 100.0).max(0.0).round()), (litres - soft).or_nothing());
        Some(say!("bench.hard_source", part = part, source = source, soft = soft, hard = hard))
    }

    /// Only what feeds, for water that stands in the tank already or a batch that is meant to be
    /// strong: what has a rate of its own went in with the fresh water, and goes in with the next.
    /// Says what it left out.
    pub fn feeding_only(mut self) -> (Self, Option<Message>) {
        let named = |line: &FeedLine| say!("bench.name", name = &line.product.name);
        let left_out: Vec<Message> = self.lines.iter().filter(|line| !line.product.what.feeds()).map(named).collect();
        self.lines.retain(|line| line.product.what.feeds());
        let said = (!left_out.is_empty()).then(|| say!("bench.left_out", products = left_out));
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
        if asked.is_none() && known && left_open(ask) {
            return Ok(self.within_band(shelf.source(ask)?, shelf).map(|(aim, ..)| aim));
        }
        Ok(asked.filter(|_| known || ask.target.is_some()))
    }

    /// Where nothing is measured the recipe is fed as printed, unless by its own figures that would leave
    /// the band of what grows: then what is aimed at there.
    fn within_band(&self, source: Conductivity, shelf: &Shelf<'_>) -> Option<(Conductivity, Conductivity, EcTarget)> {
        let target = shelf.situation?.ec_target().filter(EcTarget::feeds)?;
        let (rise, fixed) = (self.rise(true)?, self.rise(false).unwrap_or(0.0));
        let printed = source.get() + rise + fixed;
        let inside = (target.low.get()..=target.high.get()).contains(&printed);
        // Where nobody measures, a little over the label is as far as its figures are trusted.
        let most = Conductivity::calculated(source.get() + fixed + rise * FIGURES.strength.beyond_label);
        let aim = target.aim.min(most);
        (!inside && aim > source).then_some((aim, Conductivity::calculated(printed), target))
    }

    /// That it is not mixed as printed, and why.
    pub fn not_as_printed(&self, ask: &Ask, shelf: &Shelf<'_>) -> Option<Message> {
        if usual_target(shelf).is_some() || ask.target.is_some() || !left_open(ask) {
            return None;
        }
        let (_, printed, target) = self.within_band(shelf.source(ask).ok()?, shelf)?;
        let (wanted, crops) = (band(target.low, target.high), target.reason);
        Some(say!("bench.not_as_printed", printed = printed, band = wanted, crops = crops))
    }

    /// Whether it is not known what it does to the EC.
    pub fn knows_no_rise(&self) -> bool {
        self.rise(true).is_none()
    }

    /// Whether any rise was learnt rather than read off a label.
    pub fn learnt(&self) -> bool {
        self.lines.iter().any(|line| line.product.rise != line.rise)
    }

    fn in_order(mut self) -> Self {
        self.lines.sort_by_key(|line| line.product.what);
        self
    }

    /// What those that feed, or the others, add to a litre at their rates, Σ kᵢ rᵢ in mS/cm.
    fn rise(&self, feeds: bool) -> Option<f64> {
        let lines = self.lines.iter().filter(|line| line.product.what.feeds() == feeds);
        lines.map(|line| Some(line.rise? * line.rate.value)).sum()
    }

    /// The feed at a target, or as printed where there is none. `over_label` lets a concentrated
    /// batch be stronger than a label's filling.
    pub fn mix(&self, source: Conductivity, target: Option<Conductivity>, over_label: bool) -> Result<Mixed, Refusal> {
        let (scaled, fixed) = (self.rise(true), self.rise(false).unwrap_or(0.0));
        let Some(target) = target else { return self.as_printed(source, scaled, fixed) };
        let wanted = (target - source).get() - fixed;
        if wanted <= 1e-9 {
            let fixed = Param::Number(fixed, Unit::MilliSiemens);
            return Err(refuse!("target_below_source", target = target, source = source, fixed = fixed).at("target"));
        }
        let rise = scaled.filter(|rise| *rise > 0.0).ok_or_else(|| {
            let unknown = self.lines.iter().find(|line| line.rise.is_none());
            let name = unknown.map_or("", |line| line.product.name.as_str());
            refuse!("rise_unknown", product = name).at("target")
        })?;
        let strength = wanted / rise;
        let figures = &FIGURES.strength;
        let times = || Param::Number(strength, Unit::OneDecimal);
        if strength > figures.most_labels && !over_label {
            return Err(refuse!("beyond_label", times = times(), most = plain(figures.most_labels)).at("target"));
        }
        let beyond = strength > figures.beyond_label && !over_label;
        let scale = |line: &FeedLine| if line.product.what.feeds() { strength } else { 1.0 };
        Ok(Mixed {
            per_litre: self.lines.iter().map(|line| (line.clone(), line.rate * scale(line))).collect(),
            ec: Some((target, (target - source).or_nothing() * self.spread())),
            warnings: beyond.then(|| say!("bench.beyond_label", times = times())).into_iter().collect(),
        })
    }

    fn as_printed(&self, source: Conductivity, scaled: Option<f64>, fixed: f64) -> Result<Mixed, Refusal> {
        let rise = scaled.map(|scaled| Conductivity::new(scaled + fixed)).transpose().at("recipe")?;
        let ec = rise.map(|rise| (source + rise, rise * self.spread()));
        let per_litre = self.lines.iter().map(|line| (line.clone(), line.rate)).collect();
        Ok(Mixed { per_litre, ec, warnings: vec![] })
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
    let figures = &FIGURES.strength;
    let enough = |batches: usize| batches as f64 >= figures.learnt_from || product.rise.is_none();
    let learnt = shelf.learnt.get(&id).filter(|learnt| enough(learnt.batches));
    let rise = learnt.map(|learnt| learnt.rise).or(product.rise);
    let spread = if learnt.is_some() { figures.learnt_spread } else { figures.label_spread };
    FeedLine { id, product: product.clone(), rate, rise, spread }
}

/// Three-part for what fruits, two-part for the rest.
fn usual_recipe(shelf: &Shelf<'_>) -> Uuid {
    let fruits = shelf.situation.is_some_and(|s| s.grows(|p| p.group == CropGroup::Fruiting));
    shipped_id(if fruits { "three_part" } else { "two_part_leaf" })
}

/// The least advanced of what rules the water: its roots take the least.
fn stage_of(shelf: &Shelf<'_>) -> Stage {
    let stages = shelf.situation.iter().flat_map(|s| {
        let ripening = s.system.methods.ripening;
        ruling(s.plantings).into_iter().map(move |p| p.stage.fed(p.group, ripening))
    });
    stages.filter(|stage| *stage != Stage::Done).min().unwrap_or(Stage::Vegetative)
}

/// Whether what is fed, and how strong, is left to what is known.
fn left_open(ask: &Ask) -> bool {
    !ask.as_printed && ask.recipe.is_none() && ask.products.is_empty() && ask.stage.is_none()
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
    let s = shelf.situation.filter(|s| s.system.measuring.ec())?;
    Some(s.ec_target()?.aim)
}

/// Whether a dose is one of these.
pub(super) fn holds(mixed: &Mixed, what: ProductKind) -> bool {
    mixed.per_litre.iter().any(|(line, _)| line.product.what == what)
}
