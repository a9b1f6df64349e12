//! What was edited of the set-up, by whom, and how it is taken back.

use super::{Acting, Id};
use crate::Problem;
use crate::actor::Who;
use crate::book::{Book, Pages};
use crate::problem::ProblemSaid;
use crate::view::{EditView, edit_view};
use actix_web::web;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// Where to go on.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct From {
    /// How many of the newest to pass over, 0–100000.
    #[serde(default)]
    #[param(minimum = 0, maximum = 100_000)]
    pub skip: u32,
}

/// Edits, the newest first.
#[derive(Debug, Serialize, ToSchema)]
pub struct EditsPage {
    /// The edits.
    pub edits: Vec<EditView>,
    /// How many to pass over for the next page; absent on the last.
    pub next: Option<u32>,
}

const A_PAGE: u32 = 40;

/// The place of a place or of a system.
fn place_of(pages: &Pages, id: Uuid) -> Result<Uuid, Problem> {
    if pages.places.contains_key(&id) { Ok(id) } else { Ok(pages.system(id)?.place) }
}

/// The edits of a place and all that hangs on it, or of a system and what grows in it: what was said before, what is said
/// since, by whom, and the edit that takes it back.
#[utoipa::path(get, path = "/api/cards/{id}/edits", params(("id" = Uuid, Path, description = "A place or a system"), From, Acting), responses((status = 200, body = EditsPage), (status = 404, body = ProblemSaid)))]
pub async fn list_edits(
    id: Id,
    from: web::Query<From>,
    Who(actor): Who,
    book: web::Data<Book>,
) -> Result<web::Json<EditsPage>, Problem> {
    let pages = book.as_opened(&actor).await;
    let place = place_of(&pages, id.0)?;
    // One more than is shown says whether there are more.
    let mut found = book.store().edits(id.0, from.skip.min(100_000), A_PAGE + 1).await?;
    let more = found.len() > A_PAGE as usize;
    found.truncate(A_PAGE as usize);
    let edits: Result<Vec<EditView>, Problem> =
        found.iter().map(|edit| edit_view(&pages, &actor, place, edit)).collect();
    Ok(web::Json(EditsPage { edits: edits?, next: more.then_some(from.skip.saturating_add(A_PAGE)) }))
}
