//! Cards: making, editing, putting away.

use super::{Acting, Id, now};
use crate::actor::Who;
use crate::book::Book;
use crate::input::{Json, tag, unknown_tag, variant};
use crate::problem::ProblemSaid;
use crate::view::{CardView, PlaceView, places};
use crate::{Clock, Problem};
use actix_web::{HttpResponse, web};
use mopsel_core::fact::card::Card;
use mopsel_core::fact::{Holds, NewCard, StoredCard};
use mopsel_core::gate::Command;
use mopsel_store::{Outcome, Standing};
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
    /// From when it holds, for systems and plantings: from a day on, or always so; from today when
    /// absent.
    #[serde(default)]
    pub holds: Option<Holds>,
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
        other => {
            let known = "place, person, meter, system, planting, product or recipe";
            return Err(unknown_tag(other, known, "body.card"));
        }
    })
}

/// Every place with its people, meters and systems.
#[utoipa::path(get, path = "/api/places", params(Acting), responses((status = 200, body = Vec<PlaceView>)))]
pub async fn list_places(Who(actor): Who, book: web::Data<Book>) -> Result<web::Json<Vec<PlaceView>>, Problem> {
    Ok(web::Json(places(&*book.as_opened(&actor).await, &actor)))
}

fn kept(outcome: Outcome) -> Result<StoredCard, Problem> {
    if let Outcome::Card(card) = outcome { Ok(*card) } else { Err(Problem::not_found("such card")) }
}

/// Makes a card. The same request again gives the same card.
#[utoipa::path(post, path = "/api/cards", params(Acting), request_body = CreateCard, responses((status = 201, body = CardView), (status = 409, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn create_card(
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<CreateCard>,
) -> Result<HttpResponse, Problem> {
    let new = NewCard { id: request.id, parent: request.parent, card: card(request.body)? };
    let outcome = book.store().submit(&Command::MakeCard(Box::new(new)), &actor, now(&clock)).await?;
    Ok(HttpResponse::Created().json(CardView::from(&kept(outcome)?)))
}

/// Edits a card or puts it away, on top of the version that the editor saw.
#[utoipa::path(put, path = "/api/cards/{id}", params(("id" = Uuid, Path), Acting), request_body = EditCard, responses((status = 200, body = CardView), (status = 404, body = ProblemSaid), (status = 409, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn edit_card(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<EditCard>,
) -> Result<web::Json<CardView>, Problem> {
    let EditCard { version, body, archived, holds } = request;
    let to = body.clone().map(card).transpose()?.map(Box::new);
    let command = Command::EditCard { id: id.0, version, card: to, archived, holds };
    match book.store().submit(&command, &actor, now(&clock)).await.map_err(Problem::from) {
        Ok(outcome) => Ok(web::Json(CardView::from(&kept(outcome)?))),
        Err(mut problem) => Err(match problem.take_standing() {
            Some(Standing::Card(there)) => problem.with_both(CardView::from(&*there), body),
            _ => problem,
        }),
    }
}
