//! The mixing bench: what stands on the shelf, and plans worked out from it. Nothing here is stored.

use super::{Acting, now};
use crate::actor::Who;
use crate::book::{Book, Pages, PlaceFile};
use crate::input::Json;
use crate::problem::ProblemSaid;
use crate::view::CardView;
use crate::{Clock, Problem};
use actix_web::web;
use mopsel_core::bench::{Ask, Plan, Shelf, ask_of, plan, tell, usual_containers, usual_tools};
use mopsel_core::care::Task;
use mopsel_core::fact::Actor;
use mopsel_core::fact::card::Card;
use mopsel_core::mixing::{Container, Product, Recipe, Tool};
use mopsel_core::quantity::{Amount, EcScale, UnitSystem};
use mopsel_core::refusal::{AtField, Refusal};
use mopsel_core::situation::Situation;
use mopsel_core::words::{Reader, Speaker};
use mopsel_core::{refuse, say};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use utoipa::ToSchema;
use uuid::Uuid;

/// A product on the shelf.
#[derive(Serialize, ToSchema)]
pub struct ProductView {
    /// Its id.
    pub id: Uuid,
    /// What its label says.
    pub label: Product,
    /// The rate as it is printed.
    pub rate_said: Option<String>,
    /// What it is, in words.
    pub what_said: String,
    /// EC rise of 1 mL or 1 g in a litre, learnt from logged batches.
    pub learnt_rise: Option<f64>,
    /// From how many batches.
    pub batches: usize,
    /// The card, for one's own; absent for what ships.
    pub card: Option<CardView>,
}

/// A recipe on the shelf.
#[derive(Serialize, ToSchema)]
pub struct RecipeView {
    /// Its id.
    pub id: Uuid,
    /// What it says.
    pub recipe: Recipe,
    /// The card, for one's own; absent for what ships.
    pub card: Option<CardView>,
}

/// Everything on the shelf.
#[derive(Serialize, ToSchema)]
pub struct ShelfView {
    /// Products, shipped and own.
    pub products: Vec<ProductView>,
    /// Recipes, shipped and own.
    pub recipes: Vec<RecipeView>,
    /// One's own that were put away.
    pub put_away: Vec<CardView>,
    /// Containers of a bench that nobody has described, in metric units.
    pub usual_containers: Vec<Container>,
    /// Tools of such a bench.
    pub usual_tools: Vec<Tool>,
}

/// What stands on the shelf: products and recipes, shipped and own.
#[utoipa::path(get, path = "/api/shelf", params(Acting), responses((status = 200, body = ShelfView)))]
pub async fn read_shelf(Who(actor): Who, book: web::Data<Book>) -> Result<web::Json<ShelfView>, Problem> {
    let pages = book.as_opened(&actor).await;
    let shelf = &pages.shelf;
    let speaker = Speaker::new(Reader::new(UnitSystem::Metric, EcScale::MilliSiemens, &actor));
    let card = |id: &Uuid| pages.others.get(id).map(|card| CardView::from(&**card));
    let products = shelf.products.iter().map(|(id, label)| ProductView {
        id: *id,
        rate_said: label.rate.as_ref().map(|rate| speaker.say(&rate.say())),
        what_said: speaker.say(&say!("shelf.what", what = label.what)),
        learnt_rise: shelf.learnt.get(id).map(|learnt| learnt.rise),
        batches: shelf.learnt.get(id).map_or(0, |learnt| learnt.batches),
        card: card(id),
        label: label.clone(),
    });
    let mut products: Vec<ProductView> = products.collect();
    products.sort_by(|a, b| (a.label.what, &a.label.name).cmp(&(b.label.what, &b.label.name)));
    let view = |(id, recipe): (&Uuid, &Recipe)| RecipeView { id: *id, recipe: recipe.clone(), card: card(id) };
    let mut recipes: Vec<RecipeView> = shelf.recipes.iter().map(view).collect();
    recipes.sort_by(|a, b| a.recipe.name.cmp(&b.recipe.name));
    let bottled = |card: &Card| matches!(card, Card::Product(_) | Card::Recipe(_));
    let put_away = pages.every_other().filter(|stored| stored.archived && bottled(&stored.card));
    Ok(web::Json(ShelfView {
        products,
        recipes,
        put_away: put_away.map(CardView::from).collect(),
        usual_containers: usual_containers(UnitSystem::Metric),
        usual_tools: usual_tools(UnitSystem::Metric),
    }))
}

/// A plan that is asked for.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(example = json!({"ask": {"purpose": {"for": "change", "litres": 46.0, "heel": 4.0, "heel_ec": {"value": 2.6, "scale": "ms_cm"}}, "target": {"value": 1.8, "scale": "ms_cm"}}}))]
pub struct PlanRequest {
    /// For which system; absent for a plain calculation.
    #[serde(default)]
    pub system: Option<Uuid>,
    /// Units, where there is no system; metric when absent.
    #[serde(default)]
    pub units: Option<UnitSystem>,
    /// EC scale, where there is no system; mS/cm when absent.
    #[serde(default)]
    pub ec_scale: Option<EcScale>,
    /// What is asked.
    pub ask: Ask,
}

/// Works out a mix: volumes, strength, amounts in mixing order over the containers, how to measure
/// them, the steps, and the entry that would be logged. Stores nothing.
#[utoipa::path(post, path = "/api/bench/plan", params(Acting), request_body = PlanRequest, responses((status = 200, body = Plan<String>), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn plan_mix(
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<PlanRequest>,
) -> Result<web::Json<Plan<String>>, Problem> {
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(plan_on(&pages, &request, &actor, now(&clock))?))
}

/// A plan on the pages as they stand, in its reader's words.
///
/// # Errors
/// Not found, or a refusal of the core.
pub fn plan_on(
    pages: &Pages,
    request: &PlanRequest,
    actor: &Actor,
    at: jiff::Timestamp,
) -> Result<Plan<String>, Problem> {
    let Some(id) = request.system else {
        let reader = Reader::new(request.units.unwrap_or_default(), request.ec_scale.unwrap_or_default(), actor);
        return planned(pages, request, actor, reader, (&[], &[]), None);
    };
    let file = pages.system(id)?;
    let place = pages.place_of(file)?;
    let now = at.to_zoned(place.zone.clone());
    let around = pages.around();
    let situation = pages.situation(actor, file, place, &now, &around);
    let gear = (place.place.containers.as_slice(), place.place.tools.as_slice());
    planned(pages, request, actor, pages.reader(actor, file, place), gear, Some(&situation))
}

/// A plan for a system as it stands, not in words yet.
///
/// # Errors
/// A refusal of the core.
pub fn plan_for(
    pages: &Pages,
    ask: &Ask,
    actor: &Actor,
    (reader, place): (Reader, &PlaceFile),
    situation: &Situation<'_>,
) -> Result<Plan, Refusal> {
    let gear = (place.place.containers.as_slice(), place.place.tools.as_slice());
    on_shelf(pages, actor, reader, gear, Some(situation), |shelf| plan(ask, shelf))
}

/// Tasks that say how much, by the plans that their buttons open.
pub fn with_amounts(
    tasks: Vec<Task>,
    pages: &Pages,
    actor: &Actor,
    (reader, place): (Reader, &PlaceFile),
    situation: &Situation<'_>,
) -> Vec<Task> {
    if tasks.iter().all(|task| ask_of(task).is_none()) {
        return tasks;
    }
    let gear = (place.place.containers.as_slice(), place.place.tools.as_slice());
    let say = |shelf: &Shelf<'_>| tasks.into_iter().map(|task| tell(task, shelf)).collect();
    on_shelf(pages, actor, reader, gear, Some(situation), say)
}

fn planned(
    pages: &Pages,
    request: &PlanRequest,
    actor: &Actor,
    reader: Reader,
    (containers, tools): (&[Container], &[Tool]),
    situation: Option<&Situation<'_>>,
) -> Result<Plan<String>, Problem> {
    let made = on_shelf(pages, actor, reader, (containers, tools), situation, |shelf| plan(&request.ask, shelf));
    let speaker = Speaker::new(reader);
    Ok(made.at("ask")?.map(&|message| speaker.say(&message)))
}

/// The containers of a place, or a usual set where it names none.
pub(super) fn or_usual(containers: &[Container], units: UnitSystem) -> Cow<'_, [Container]> {
    if containers.is_empty() { Cow::Owned(usual_containers(units)) } else { Cow::Borrowed(containers) }
}

fn on_shelf<T>(
    pages: &Pages,
    actor: &Actor,
    reader: Reader,
    (containers, tools): (&[Container], &[Tool]),
    situation: Option<&Situation<'_>>,
    work: impl FnOnce(&Shelf<'_>) -> T,
) -> T {
    let (containers, usual_tools) = (or_usual(containers, reader.units), usual_tools(reader.units));
    work(&Shelf {
        situation,
        products: &pages.shelf.products,
        recipes: &pages.shelf.recipes,
        learnt: &pages.shelf.learnt,
        containers: &containers,
        tools: if tools.is_empty() { &usual_tools } else { tools },
        lifts: pages.lifts(actor),
        scale: reader.ec,
        actor,
    })
}

/// What a label comes to.
#[derive(Serialize, ToSchema)]
pub struct RatePreview {
    /// The rate for one litre.
    pub per_litre: Amount,
    /// As it is printed.
    pub said: String,
    /// EC that the label's rate adds, where the rise is known, in mS/cm.
    pub adds: Option<f64>,
}

/// Reads a label without storing it: what its printed rate comes to in a litre.
#[utoipa::path(post, path = "/api/bench/rate", request_body(content = Product, example = json!({"name": "Shed feed", "what": "one_part", "unit": "ml", "rate": {"value": 2, "amount": "teaspoons", "per": 1, "volume": "us_gallon"}, "rise": 0.5})), responses((status = 200, body = RatePreview), (status = 422, body = ProblemSaid)))]
pub async fn preview_rate(Json(product): Json<Product>) -> Result<web::Json<RatePreview>, Problem> {
    product.check()?;
    let rate = product.rate.as_ref();
    let rate = rate.ok_or_else(|| refuse!("product_to_preview_without_rate").at("rate"))?;
    let per_litre = product.per_litre(None)?;
    let said = Speaker::new(Reader::default()).say(&rate.say());
    Ok(web::Json(RatePreview { adds: product.rise.map(|rise| rise * per_litre.value), per_litre, said }))
}
