//! The API: one module a resource, its handlers verbs. The description is made from the handlers.

pub mod bench;
pub mod cards;
pub mod care;
pub mod changes;
pub mod entries;
pub mod knowledge;
pub mod timers;

use crate::book::{Pages, SystemFile};
use crate::{Clock, Problem};
use actix_web::dev::Payload;
use actix_web::{FromRequest, HttpRequest, web};
use jiff::Timestamp;
use mopsel_core::Refusal;
use mopsel_core::card::Role;
use std::future::{Ready, ready};
use utoipa::OpenApi;
use uuid::Uuid;

/// The description at `/api/openapi.json`.
#[derive(OpenApi)]
#[openapi(
    info(
        title = "Mopsel",
        description = "Care for hydroponic systems: what is due, what a reading means, and the log. Quantities are canonical: L, mL, mm, °C, mS/cm at 25 °C. Every error is application/problem+json."
    ),
    paths(
        knowledge::knowledge,
        knowledge::preview_shape,
        cards::list_places,
        cards::create_card,
        cards::edit_card,
        bench::read_shelf,
        bench::plan_mix,
        bench::preview_rate,
        changes::read_change,
        changes::guide_change,
        changes::save_change,
        changes::drop_change,
        changes::finish_change,
        timers::list_timers,
        timers::start_timer,
        timers::dismiss_timer,
        care::read_round,
        care::read_system,
        care::judge,
        entries::read_log,
        entries::append,
        entries::read_draft,
        entries::save_draft,
        entries::drop_draft
    ),
    components(schemas(Problem))
)]
struct Description;

/// The whole description as JSON, indented.
#[must_use]
pub fn description() -> String {
    Description::openapi().to_pretty_json().unwrap_or_default()
}

/// The right to look after everything, as an argument of the handlers that need it. There is no
/// sign-in yet, so everyone who reaches the server has it; when there is one, it is checked here
/// and nowhere else.
pub struct Caretaker;

impl FromRequest for Caretaker {
    type Error = Problem;
    type Future = Ready<Result<Self, Problem>>;

    fn from_request(_: &HttpRequest, _: &mut Payload) -> Self::Future {
        ready(Ok(Self))
    }
}

/// An id in an address.
pub struct Id(pub Uuid);

impl FromRequest for Id {
    type Error = Problem;
    type Future = Ready<Result<Self, Problem>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let text = request.match_info().get("id").unwrap_or_default();
        ready(Uuid::parse_str(text).map(Self).map_err(|_| Problem::not_found("such id")))
    }
}

/// Who reads: their own units are used where they have some.
#[derive(serde::Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Reader {
    /// The person's id.
    pub by: Option<Uuid>,
}

/// The time now.
pub fn now(clock: &web::Data<Clock>) -> Timestamp {
    clock.now()
}

/// Whether the person may record at this system, and whether they are a child.
pub fn recorder(pages: &Pages, file: &SystemFile, by: Uuid) -> Result<bool, Problem> {
    match pages.person(by) {
        Some((person, place)) if place == file.place => Ok(person.role == Role::Child),
        _ => Err(Refusal::new("found someone who is not of this place", "allowed are the people of the system's place", "Pick who is recording, or add them under Set-up.")
            .at("by")
            .into()),
    }
}
