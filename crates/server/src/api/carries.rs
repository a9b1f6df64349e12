//! Whether a vessel carries a planting that is being typed. Nothing here is stored.

use super::{Acting, Id, now};
use crate::actor::Who;
use crate::book::Book;
use crate::input::Json;
use crate::problem::ProblemSaid;
use crate::view::speaker;
use crate::{Clock, Problem};
use actix_web::web;
use mopsel_core::calendar::day;
use mopsel_core::care::carries::{Carries, carries};
use mopsel_core::crop::Planting;
use mopsel_core::refusal::AtField;
use mopsel_core::say;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// A planting as far as it is typed.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(example = json!({"planting": {"crop": "Tomato", "group": "fruiting", "ports": "1", "stage": "seedling", "planted_on": "2027-03-09"}}))]
pub struct CarriesRequest {
    /// What is to be planted.
    pub planting: Planting,
    /// The planting that is edited; absent for a new one.
    #[serde(default)]
    pub instead_of: Option<Uuid>,
}

/// What is known of it.
#[derive(Serialize, ToSchema)]
pub struct CarriesAnswer {
    /// Whether the vessel carries it; absent where nothing can be said, as behind a float valve whose reservoir nobody has
    /// read.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub carries: Option<Carries<String>>,
    /// Of what has no true leaf yet: by when it should be up, and from when on it is sown again.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub up_by: Option<String>,
}

/// Whether the vessel carries a planting to its harvest, beside what grows there already.
#[utoipa::path(post, path = "/api/systems/{id}/carries", params(("id" = Uuid, Path), Acting), request_body = CarriesRequest, responses((status = 200, body = CarriesAnswer), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn judge_planting(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<CarriesRequest>,
) -> Result<web::Json<CarriesAnswer>, Problem> {
    let pages = book.as_opened(&actor).await;
    let file = pages.system(id.0)?;
    request.planting.check(file.system.ports).at("planting")?;
    let place = pages.place_of(file)?;
    let now = now(&clock).to_zoned(place.zone.clone());
    let around = pages.around();
    let here = pages.situation(&actor, file, place, &now, &around);
    let others = file.planting_cards.iter().filter(|card| !card.archived && Some(card.id) != request.instead_of);
    let plantings: Vec<Planting> = others.filter_map(|card| card.card.planting().cloned()).collect();
    let situation = mopsel_core::situation::Situation { plantings: &plantings, ..here };
    let speaker = speaker(&pages, &actor, file)?;
    let found = carries(&situation, Some(&request.planting));
    let up_by = request.planting.up_by().map(|(by, latest)| {
        let (by, latest) = (day(by, situation.today()), day(latest, situation.today()));
        speaker.say(&say!("stage_due.up_by", by = by, latest = latest))
    });
    Ok(web::Json(CarriesAnswer { carries: found.map(|one| one.map(&|message| speaker.say(&message))), up_by }))
}
