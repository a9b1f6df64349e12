//! Cards: making, editing, putting away.

use super::{Caretaker, Id, now};
use crate::book::{Book, Pages};
use crate::input::{Json, tag, unknown_tag, variant};
use crate::view::{CardView, PlaceView, places};
use crate::{Clock, Problem};
use actix_web::{HttpResponse, web};
use mopsel_core::Refusal;
use mopsel_core::card::Card;
use mopsel_core::system::System;
use mopsel_store::{NewCard, StoreError};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;
use uuid::Uuid;

/// A card to be made.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CreateCard {
    /// Its id, made by the client; repeat the request with the same id as often as needed.
    pub id: Uuid,
    /// The place of a person, meter or system; the system of a planting.
    #[serde(default)]
    pub parent: Option<Uuid>,
    /// What it says.
    #[schema(value_type = Card)]
    pub body: Value,
}

/// An edit of a card.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct EditCard {
    /// The version that the editor saw.
    pub version: i64,
    /// What it should say; absent to leave it.
    #[serde(default)]
    #[schema(value_type = Option<Card>)]
    pub body: Option<Value>,
    /// Put away or taken out again; absent to leave it.
    #[serde(default)]
    pub archived: Option<bool>,
}

/// Reads a card's body by its own type, so that a wrong field is named.
fn card(value: Value) -> Result<Card, Problem> {
    let at = "body";
    Ok(match tag(&value, "card") {
        "place" => Card::Place(variant(value, "card", at)?),
        "person" => Card::Person(variant(value, "card", at)?),
        "meter" => Card::Meter(variant(value, "card", at)?),
        "system" => Card::System(variant(value, "card", at)?),
        "planting" => Card::Planting(variant(value, "card", at)?),
        "product" => Card::Product(variant(value, "card", at)?),
        "recipe" => Card::Recipe(variant(value, "card", at)?),
        other => return Err(unknown_tag(other, "place, person, meter, system, planting, product or recipe", "body.card")),
    })
}

/// Checks a card against what it hangs on and what it names.
fn check(pages: &Pages, card: &Card, parent: Option<Uuid>, today: jiff::Timestamp) -> Result<(), Problem> {
    let found = match (card.parent_code(), parent) {
        (None, None) => None,
        (Some("place"), Some(id)) if pages.places.contains_key(&id) => None,
        (Some("system"), Some(id)) => pages.systems.get(&id),
        _ => None,
    };
    let right = match card.parent_code() {
        None => parent.is_none(),
        Some("place") => parent.is_some_and(|id| pages.places.contains_key(&id)),
        Some(_) => found.is_some(),
    };
    if !right {
        let wanted = card.parent_code().map_or("no parent".to_owned(), |code| format!("the id of a {code}"));
        return Err(Refusal::new(
            parent.map_or("found no parent".to_owned(), |id| format!("found {id}")),
            format!("allowed for a {} is {wanted}", card.code()),
            "Make what it hangs on first.",
        )
        .at("parent")
        .into());
    }
    if let Card::Recipe(recipe) = card {
        for (i, line) in recipe.lines.iter().enumerate() {
            let product = pages.shelf.products.get(&line.product);
            let checked =
                product.ok_or_else(|| Refusal::new(format!("found the product {}", line.product), "allowed are the products on the shelf", "Add the product first.").at("product"));
            checked.and_then(|product| product.per_litre(line.rate.as_ref())).map_err(|refusal| refusal.at(&format!("body.lines.{i}")))?;
        }
    }
    let in_system: Option<&System> = found.map(|file| &file.system);
    card.check(in_system).map_err(|refusal| refusal.at("body"))?;
    if let (Card::System(system), Some(place)) = (card, parent.and_then(|id| pages.places.get(&id))) {
        let local = today.to_zoned(place.zone.clone()).date();
        if system.since > local {
            return Err(Refusal::new(
                format!("found {}, which is still to come", system.since),
                format!("allowed is {local} or before"),
                "Say since when the system has been running.",
            )
            .at("body.since")
            .into());
        }
        if let Some(recipe) = system.methods.recipe.filter(|id| !pages.shelf.recipes.contains_key(id)) {
            return Err(Refusal::new(format!("found the recipe {recipe}"), "allowed are the recipes on the shelf", "Add the recipe first.").at("body.methods.recipe").into());
        }
        let meter_here = |id: Uuid| pages.others.get(&id).is_some_and(|c| c.parent == parent && matches!(c.card, Card::Meter(_)));
        if let Some(meter) = system.meter.filter(|id| !meter_here(*id)) {
            return Err(Refusal::new(format!("found the meter {meter}"), "allowed are the meters of the system's own place", "Add the meter to the place first.")
                .at("body.meter")
                .into());
        }
    }
    Ok(())
}

/// How many cards of one kind a file takes.
const MOST: usize = 5000;

/// Every place with its people, meters and systems.
#[utoipa::path(get, path = "/api/places", responses((status = 200, body = Vec<PlaceView>)))]
pub async fn list_places(book: web::Data<Book>) -> Result<web::Json<Vec<PlaceView>>, Problem> {
    Ok(web::Json(places(&*book.open().await?)))
}

/// Makes a card. The same request again gives the same card.
#[utoipa::path(post, path = "/api/cards", request_body = CreateCard, responses((status = 201, body = CardView), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub async fn create_card(_: Caretaker, book: web::Data<Book>, clock: web::Data<Clock>, Json(request): Json<CreateCard>) -> Result<HttpResponse, Problem> {
    let at = now(&clock);
    let new = NewCard { id: request.id, parent: request.parent, card: card(request.body)? };
    {
        let pages = book.open().await?;
        check(&pages, &new.card, new.parent, at)?;
        if pages.systems.len() + pages.others.len() + pages.places.len() >= MOST && !pages.systems.contains_key(&new.id) {
            return Err(Refusal::new(format!("found {MOST} cards already"), format!("allowed are {MOST}"), "Start a second file for more.").into());
        }
    }
    let stored = book.store().create_card(&new, at).await?;
    Ok(HttpResponse::Created().json(CardView::from(&stored)))
}

/// Edits a card or puts it away, on top of the version that the editor saw.
#[utoipa::path(put, path = "/api/cards/{id}", params(("id" = Uuid, Path)), request_body = EditCard, responses((status = 200, body = CardView), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub async fn edit_card(_: Caretaker, id: Id, book: web::Data<Book>, clock: web::Data<Clock>, Json(request): Json<EditCard>) -> Result<web::Json<CardView>, Problem> {
    let at = now(&clock);
    let to = request.body.clone().map(card).transpose()?;
    if let Some(to) = &to {
        let pages = book.open().await?;
        let present = find(&pages, id.0)?;
        if present.body.code() != to.code() {
            return Err(unknown_tag(to.code(), &format!("{}, for the kind of a card stays", present.body.code()), "body.card"));
        }
        check(&pages, to, present.parent, at)?;
    }
    let stored = match book.store().edit_card(id.0, request.version, to.as_ref(), request.archived, at).await {
        Err(StoreError::Changed(current)) => {
            let view = CardView::from(&*current);
            return Err(Problem::from(StoreError::Changed(current)).with_both(view, request.body));
        }
        other => other?,
    };
    Ok(web::Json(CardView::from(&stored)))
}

fn find(pages: &Pages, id: Uuid) -> Result<CardView, Problem> {
    let place = pages.places.get(&id).map(|p| &p.card);
    let system = pages.systems.get(&id).map(|s| &s.card);
    let planting = || pages.systems.values().flat_map(|s| &s.planting_cards).find(|c| c.id == id);
    place.or(system).or_else(|| pages.others.get(&id)).or_else(planting).map(CardView::from).ok_or_else(|| Problem::not_found("card with that id"))
}
