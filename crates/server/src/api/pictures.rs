//! Pictures of plants: taken on the phone, kept in the same file.

use super::{Acting, Id, now};
use crate::actor::Who;
use crate::book::{Book, Pages};
use crate::input::Picture as Bytes;
use crate::picture::{Encoded, encode, no_picture};
use crate::{Clock, Problem};
use actix_web::{HttpResponse, web};
use jiff::Timestamp;
use mopsel_core::fact::{NewPicture, Picture};
use mopsel_core::gate::Command;
use mopsel_core::quantity::Note;
use mopsel_core::refusal::AtField;
use mopsel_core::system::PortSet;
use mopsel_core::words::{Reader, Speaker};
use mopsel_store::Outcome;
use serde::{Deserialize, Serialize};
use tokio::sync::Semaphore;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// A picture, without its bytes.
#[derive(Serialize, ToSchema)]
pub struct PictureView {
    /// Its id.
    pub id: Uuid,
    /// When it was taken.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// When it was taken, in words.
    pub when: String,
    /// By whom.
    pub by_name: String,
    /// Of which ports, where that is known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ports: Option<PortSet>,
    /// What it shows.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
    /// In pixels.
    pub width: u32,
    /// In pixels.
    pub height: u32,
}

fn view(pages: &Pages, picture: Picture, now: Timestamp) -> Result<PictureView, Problem> {
    let file = pages.system(picture.system)?;
    let zone = pages.place_of(file)?.zone.clone();
    let date = |at: Timestamp| at.to_zoned(zone.clone()).date();
    let name = pages.others.get(&picture.by).and_then(|card| match &card.card {
        mopsel_core::fact::card::Card::Person(person) => Some(person.name.as_str().to_owned()),
        _ => None,
    });
    Ok(PictureView {
        id: picture.id,
        at: picture.at,
        when: Speaker::new(Reader::default()).day(date(picture.at), date(now)),
        by_name: name.unwrap_or_default(),
        ports: picture.ports,
        note: picture.note,
        width: picture.width,
        height: picture.height,
    })
}

/// The pictures of a system, the newest first.
#[utoipa::path(get, path = "/api/systems/{id}/pictures", params(("id" = Uuid, Path), Acting), responses((status = 200, body = Vec<PictureView>)))]
pub async fn list_pictures(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<Vec<PictureView>>, Problem> {
    let pages = book.open(&actor).await?;
    pages.system(id.0)?;
    let all = book.store().pictures(id.0).await?;
    let now = now(&clock);
    Ok(web::Json(all.into_iter().map(|picture| view(&pages, picture, now)).collect::<Result<_, _>>()?))
}

/// What is said of a picture that is sent.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct AboutPicture {
    /// Made by the client; repeat the request with the same id as often as needed.
    pub picture: Uuid,
    /// When it was taken; now when absent.
    #[serde(default)]
    #[param(value_type = Option<String>, format = DateTime)]
    pub at: Option<Timestamp>,
    /// Of which ports, as in 1-3,7.
    #[serde(default)]
    pub ports: Option<String>,
    /// What it shows.
    #[serde(default)]
    pub note: Option<String>,
}

/// Pictures that are unpacked at once: one takes up to 300 MB of memory while it is, and that is all that pictures take.
static UNPACKING: Semaphore = Semaphore::const_new(1);

async fn encoded(bytes: web::Bytes) -> Result<Encoded, Problem> {
    let size = bytes.len();
    let _turn = UNPACKING.acquire().await;
    // A decoder that breaks off in the middle has met no picture.
    web::block(move || encode(&bytes)).await.unwrap_or_else(|_| Err(no_picture(size).into()))
}

/// Keeps a picture: JPEG, PNG or WebP of at most 16 MB, told by its bytes. It is encoded anew, turned upright, at
/// most 1280 pixels and 400 kB; place, camera and time that stand beside it are left out.
#[utoipa::path(post, path = "/api/systems/{id}/pictures", params(("id" = Uuid, Path), AboutPicture, Acting), request_body(content = PictureBytes, content_type = "image/*"), responses((status = 201, body = PictureView)))]
pub async fn keep_picture(
    id: Id,
    about: web::Query<AboutPicture>,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Bytes(bytes): Bytes,
) -> Result<HttpResponse, Problem> {
    let AboutPicture { picture, at, ports, note } = about.into_inner();
    let ports: Option<PortSet> =
        ports.filter(|ports| !ports.trim().is_empty()).map(PortSet::try_from).transpose().at("ports")?;
    let note = note.filter(|note| !note.trim().is_empty()).map(|note| Note::new(&note)).transpose().at("note")?;
    let encoded = encoded(bytes).await?;
    let new = NewPicture {
        id: picture,
        at,
        ports,
        note,
        width: encoded.width,
        height: encoded.height,
        image: encoded.image,
        small: encoded.small,
    };
    let command = Command::KeepPicture(id.0, Box::new(new));
    let Outcome::Picture(kept) = book.store().submit(&command, &actor, now(&clock)).await? else {
        return Err(Problem::not_found("such picture"));
    };
    let pages = book.open(&actor).await?;
    Ok(HttpResponse::Created().json(view(&pages, *kept, now(&clock))?))
}

/// The bytes of a picture.
#[derive(ToSchema)]
#[schema(value_type = String, format = Binary)]
#[allow(dead_code, reason = "for the description")]
pub struct PictureBytes(Vec<u8>);

/// How large.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Size {
    /// The small one, of at most 320 pixels.
    #[serde(default)]
    pub small: bool,
}

/// A picture's bytes. No copy of them is kept on the way: what is erased is gone.
#[utoipa::path(get, path = "/api/pictures/{id}", params(("id" = Uuid, Path), Size, Acting), responses((status = 200, content_type = "image/jpeg", body = PictureBytes)))]
pub async fn read_picture(
    id: Id,
    Who(actor): Who,
    size: web::Query<Size>,
    book: web::Data<Book>,
) -> Result<HttpResponse, Problem> {
    let pages = book.as_opened(&actor).await;
    let found = book.store().picture_bytes(id.0, size.small).await?;
    let bytes = found.filter(|(system, _)| pages.systems.contains_key(system)).map(|(_, bytes)| bytes);
    let bytes = bytes.ok_or_else(|| Problem::not_found("such picture"))?;
    Ok(HttpResponse::Ok().content_type("image/jpeg").insert_header(("Cache-Control", "no-store")).body(bytes))
}

/// At which system.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct OfSystem {
    /// The system that it is a picture of.
    pub system: Uuid,
}

/// Erases a picture for good: it may show what nobody wanted kept. Not by children.
#[utoipa::path(delete, path = "/api/pictures/{id}", params(("id" = Uuid, Path), OfSystem, Acting), responses((status = 204)))]
pub async fn erase_picture(
    id: Id,
    of: web::Query<OfSystem>,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<HttpResponse, Problem> {
    let command = Command::ErasePicture { system: of.system, id: id.0 };
    book.store().submit(&command, &actor, now(&clock)).await?;
    Ok(HttpResponse::NoContent().finish())
}
