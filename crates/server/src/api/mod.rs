//! The API: one module a resource, its handlers verbs. The description is made from the handlers.

pub mod accounts;
pub mod archive;
pub mod bench;
pub mod cards;
pub mod care;
pub mod carries;
pub mod changes;
pub mod classes;
pub mod compare;
mod complete;
pub mod cover;
pub mod devices;
pub mod edits;
pub mod entries;
pub mod health;
pub mod knowledge;
pub mod log;
pub mod pictures;
pub mod readings;
pub mod reminders;
pub mod session;
pub mod story;
pub mod timers;

use crate::problem::ProblemSaid;
use crate::{Clock, Problem};
pub use accounts::{link_address, new_link};
use actix_web::dev::Payload;
use actix_web::{FromRequest, HttpRequest, web};
use jiff::Timestamp;
use mopsel_core::gate::Seen;
use serde::Deserialize;
use std::future::{Ready, ready};
use utoipa::OpenApi;

use uuid::Uuid;

/// Entries on one page of the log.
const MOST_ON_A_PAGE: u32 = 100;

/// The description at `/api/openapi.json`.
#[derive(OpenApi)]
#[openapi(
    info(
        title = "Mopsel",
        description = "Care for hydroponic systems: what is due, what a reading means, and the log. Quantities are canonical: L, mL, mm, °C, mS/cm at 25 °C. Every error is application/problem+json. Who acts is said in the headers Mopsel-Person and Mopsel-Device, never in a body."
    ),
    paths(
        health::health,
        session::read_session,
        session::read_reach,
        session::sign_in,
        session::sign_out,
        session::make_first,
        classes::join_class,
        session::look_at_link,
        session::redeem_link,
        devices::change_password,
        devices::list_devices,
        devices::end_device,
        devices::end_other_devices,
        accounts::list_accounts,
        classes::list_classes,
        classes::open_class,
        classes::end_class,
        accounts::keep_account,
        accounts::make_link,
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
        pictures::list_pictures,
        pictures::keep_picture,
        pictures::read_picture,
        pictures::erase_picture,
        timers::list_timers,
        timers::start_timer,
        timers::dismiss_timer,
        compare::compare,
        compare::compare_with,
        readings::take_readings,
        readings::look_at_file,
        readings::take_file,
        readings::list_deliveries,
        readings::take_delivery_back,
        readings::read_sensed,
        archive::read_archive,
        archive::bring_archive,
        log::read_log_across,
        log::read_trends,
        care::read_round,
        care::read_fit,
        care::read_system,
        carries::judge_planting,
        edits::list_edits,
        reminders::read_reminder,
        reminders::wish_reminder,
        reminders::end_reminder,
        reminders::say_yes,
        reminders::read_mailbox,
        care::read_sheet,
        care::read_judging,
        story::read_story,
        care::read_choices,
        care::read_outing,
        care::read_labels,
        care::judge,
        care::doubt,
        cover::read_cover,
        cover::read_ahead,
        cover::read_week,
        cover::read_closures,
        cover::read_calendar,
        entries::read_log,
        entries::append,
        entries::read_draft,
        entries::save_draft,
        entries::drop_draft
    ),
    components(schemas(ProblemSaid))
)]
struct Description;

/// The whole description as JSON, indented.
#[must_use]
pub fn description() -> String {
    let mut description = serde_json::to_value(Description::openapi()).unwrap_or_default();
    complete::complete(&mut description);
    let json = serde_json::to_string_pretty(&description).unwrap_or_default();
    // What the core answers with is generic in its words; outward there is one kind, the said one.
    ["_String", "_RefusalSaid"].iter().fold(json, |json, mark| json.replace(mark, "")).replace("RefusalSaid", "Refusal")
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

/// Who acts, as every request may say.
#[derive(utoipa::IntoParams)]
#[into_params(parameter_in = Header)]
#[allow(dead_code, reason = "read by the extractor, described here")]
pub struct Acting {
    /// The id of the person who was picked on this device.
    #[param(rename = "Mopsel-Person")]
    pub person: Option<Uuid>,
    /// What the device is called.
    #[param(rename = "Mopsel-Device")]
    pub device: Option<String>,
    /// What time it is on the device, by which a wrong clock is noticed.
    #[param(rename = "Mopsel-Clock", value_type = Option<String>, format = DateTime)]
    pub clock: Option<Timestamp>,
    /// `yes` where somebody was asked and says that the server's clock is right.
    #[param(rename = "Mopsel-Clock-Is-Right", pattern = "^yes$")]
    pub clock_is_right: Option<String>,
}

/// What somebody saw who takes something half done away.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct SeenQuery {
    /// The id that the entry would have had.
    pub id: Uuid,
    /// The version that was seen.
    pub version: i64,
}

impl SeenQuery {
    fn seen(&self, system: Uuid) -> Seen {
        Seen { system, id: self.id, version: self.version }
    }
}

/// The time now.
pub fn now(clock: &web::Data<Clock>) -> Timestamp {
    clock.now()
}
