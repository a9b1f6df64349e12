//! Classes: a caretaker opens one for a room, devices join it with a short code, and it ends by itself.

use super::session::{SessionView, device, view as session_view, whole};
use super::{Acting, Id, now};
use crate::actor::Who;
use crate::book::{Book, Pages};
use crate::door::Door;
use crate::input::Json;
use crate::problem::ProblemSaid;
use crate::view::qr_path;
use crate::{Clock, Problem, secrets};
use actix_web::{HttpRequest, HttpResponse, web};
use jiff::SignedDuration;
use mopsel_core::fact::{Act, Actor};
use mopsel_core::message::count;
use mopsel_core::refuse;
use mopsel_store::{Class, StoreError};
use qrcode::{EcLevel, QrCode};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// The longest a class stays open, in minutes: a school day.
const MOST_MINUTES: u32 = 480;

/// A class that is open.
#[derive(Debug, Serialize, ToSchema)]
pub struct ClassView {
    /// Its id.
    pub id: Uuid,
    /// The room.
    pub place: Uuid,
    /// What it is called.
    pub place_name: String,
    /// Until when, on the clock of the room.
    pub until: String,
    /// How many devices joined.
    pub devices: u32,
}

fn view(pages: &Pages, class: &Class) -> Option<ClassView> {
    let place = pages.places.get(&class.place)?;
    Some(ClassView {
        id: class.id,
        place: class.place,
        place_name: place.place.name.as_str().to_owned(),
        until: class.ends.to_zoned(place.zone.clone()).strftime("%H:%M").to_string(),
        devices: class.devices,
    })
}

fn may(actor: &Actor, place: Uuid) -> Result<(), Problem> {
    actor.may(Act::People, Some(place)).map_err(Problem::not_permitted)
}

/// The classes that are open in one's rooms.
#[utoipa::path(get, path = "/api/classes", params(Acting), responses((status = 200, body = Vec<ClassView>)))]
pub async fn list_classes(
    who: Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<Vec<ClassView>>, Problem> {
    let (actor, pages) = whole(who, &book).await?;
    let open = book.store().classes(now(&clock)).await?;
    let own = open.iter().filter(|class| may(&actor, class.place).is_ok());
    Ok(web::Json(own.filter_map(|class| view(&pages, class)).collect()))
}

/// A class to be opened.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OpenClass {
    /// Its id, made by the client.
    pub id: Uuid,
    /// The room.
    pub place: Uuid,
    /// For how long, 5 to 480 minutes.
    #[schema(minimum = 5, maximum = 480)]
    pub minutes: u32,
    /// The address of this server, as tablets reach it: `https://192.168.7.3:4180`.
    #[schema(max_length = 200)]
    pub at: String,
}

/// A class that was opened, with its code: it is told once.
#[derive(Debug, Serialize, ToSchema)]
pub struct ClassOpened {
    /// The class.
    pub class: ClassView,
    /// What children type.
    pub code: String,
    /// Or an address that a tablet opens.
    pub address: String,
    /// The address as a QR code: its modules are this many across.
    pub size: usize,
    /// The dark modules, as a path in units of one module.
    pub path: String,
}

/// Opens a class in a room; one that is open there ends.
#[utoipa::path(post, path = "/api/classes", params(Acting), request_body = OpenClass, responses((status = 201, body = ClassOpened), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn open_class(
    who: Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(sent): Json<OpenClass>,
) -> Result<HttpResponse, Problem> {
    let (actor, pages) = whole(who, &book).await?;
    if !actor.sees(sent.place) || !pages.places.contains_key(&sent.place) {
        return Err(Problem::not_found("place with that id"));
    }
    may(&actor, sent.place)?;
    if !(5..=MOST_MINUTES).contains(&sent.minutes) {
        let (found, most) = (count(sent.minutes), count(MOST_MINUTES));
        return Err(refuse!("class_minutes", found = found, most = most).at("minutes").into());
    }
    if pages.class_grant((sent.id, sent.place)).people.is_empty() {
        return Err(refuse!("class_without_children").at("place").into());
    }
    let opened = now(&clock);
    let ends = opened.saturating_add(SignedDuration::from_mins(i64::from(sent.minutes))).unwrap_or(opened);
    let code = secrets::short_code();
    let class = Class { id: sent.id, place: sent.place, opened, ends, devices: 0 };
    book.store().open_class(&class, &secrets::kept(&code)).await?;
    let address = format!("{}/class-in#{code}", sent.at);
    let drawn = QrCode::with_error_correction_level(&address, EcLevel::M);
    let drawn = drawn.map_err(|_| Problem::from(refuse!("label_address").at("at")))?;
    let class = view(&pages, &class).ok_or_else(|| Problem::not_found("place with that id"))?;
    let (size, path) = (drawn.width(), qr_path(&drawn));
    Ok(HttpResponse::Created().json(ClassOpened { class, code, address, size, path }))
}

/// Ends a class: its devices see nothing more.
#[utoipa::path(delete, path = "/api/classes/{id}", params(("id" = Uuid, Path), Acting), responses((status = 204), (status = 404, body = ProblemSaid)))]
pub async fn end_class(
    id: Id,
    who: Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<HttpResponse, Problem> {
    let (actor, _) = whole(who, &book).await?;
    let open = book.store().classes(now(&clock)).await?;
    let class = open.iter().find(|class| class.id == id.0).filter(|class| actor.sees(class.place));
    // One that has ended by itself is what was wanted.
    if let Some(class) = class {
        may(&actor, class.place)?;
        book.store().end_class(class.id).await?;
    }
    Ok(HttpResponse::NoContent().finish())
}

/// The code of a class.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Join {
    /// As it is told, whatever its case; blanks do not count.
    pub code: String,
}

/// So many devices one class takes.
const MOST_DEVICES: u32 = 60;
/// What is counted where codes are tried.
const CODES: &str = "a class code";

/// Lets this device join a class. It sees the tasks of that room that children may do, and nothing else.
#[utoipa::path(post, path = "/api/session/join", request_body = Join, responses((status = 200, body = SessionView), (status = 422, body = ProblemSaid), (status = 429, body = ProblemSaid)))]
pub async fn join_class(
    request: HttpRequest,
    door: web::Data<Door>,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(sent): Json<Join>,
) -> Result<HttpResponse, Problem> {
    let from = door.address(&request);
    door.limits.try_code(CODES, from)?;
    let code: String = sent.code.chars().filter(|c| c.is_ascii_alphanumeric()).collect::<String>().to_ascii_uppercase();
    let token = secrets::token();
    let (kept, now) = (secrets::kept(&token), now(&clock));
    let joined = book.store().join_class(&secrets::kept(&code), &kept, &device(&request), now, MOST_DEVICES).await;
    let class = match joined {
        Err(StoreError::NotFound(_)) => return Err(refuse!("no_such_class").at("code").into()),
        joined => joined?,
    };
    let pages = book.whole().await?;
    Ok(HttpResponse::Ok().cookie(door.cookie(token)).json(session_view(&pages, true, None, Some(&class))))
}
