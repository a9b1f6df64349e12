//! The devices on which somebody is signed in, and another password for all of them.

use super::session::{SessionView, device, welcome};
use super::{Id, now};
use crate::book::Book;
use crate::door::{Caller, Door, session};
use crate::input::Json;
use crate::problem::ProblemSaid;
use crate::{Clock, Problem, secrets};
use actix_web::{HttpRequest, HttpResponse, web};
use jiff::Timestamp;
use mopsel_core::refuse;
use mopsel_store::Session;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// Another password.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewPassword {
    /// The one until now.
    pub before: String,
    /// The one from now on, at least ten characters.
    pub password: String,
}

/// Chooses another password; every other device is signed out.
#[utoipa::path(put, path = "/api/session/password", request_body = NewPassword, responses((status = 200, body = SessionView), (status = 422, body = ProblemSaid), (status = 429, body = ProblemSaid)))]
pub async fn change_password(
    request: HttpRequest,
    door: web::Data<Door>,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(sent): Json<NewPassword>,
) -> Result<HttpResponse, Problem> {
    let caller = Caller::of(&request);
    let (account, _) = caller.signed_in()?;
    door.limits.try_once(account.name.as_str(), door.address(&request))?;
    secrets::check(&sent.password)?;
    let there = book.store().account_called(account.name.as_str()).await?;
    if !secrets::fits(sent.before, there.map(|(_, kept)| kept)).await? {
        return Err(refuse!("wrong_own_password").at("before").into());
    }
    let secret = secrets::hash(sent.password).await?;
    let token = secrets::token();
    let begun = session(account.id, device(&request), now(&clock));
    book.store().change_secret(account.id, &secret, (&secrets::kept(&token), &begun)).await?;
    Ok(welcome(&door, token, &*book.whole().await?, account.id))
}

/// A device on which somebody is signed in.
#[derive(Debug, Serialize, ToSchema)]
pub struct DeviceView {
    /// Its id, by which it is signed out.
    pub id: Uuid,
    /// What it calls itself.
    pub device: String,
    /// Since when.
    #[schema(value_type = String, format = DateTime)]
    pub began: Timestamp,
    /// When it was last used, to the hour.
    #[schema(value_type = String, format = DateTime)]
    pub seen: Timestamp,
    /// Whether it is the one that asks.
    pub this: bool,
}

/// The devices on which one is signed in, the one used last first.
#[utoipa::path(get, path = "/api/session/devices", responses((status = 200, body = Vec<DeviceView>)))]
pub async fn list_devices(
    request: HttpRequest,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<Vec<DeviceView>>, Problem> {
    let caller = Caller::of(&request);
    let Ok((account, own)) = caller.signed_in() else { return Ok(web::Json(vec![])) };
    let all = book.store().sessions(account.id, now(&clock)).await?;
    let view = |Session { id, device, began, seen, .. }| DeviceView { id, device, began, seen, this: id == own.id };
    Ok(web::Json(all.into_iter().map(view).collect()))
}

/// Signs out on one device.
#[utoipa::path(delete, path = "/api/session/devices/{id}", params(("id" = Uuid, Path)), responses((status = 204)))]
pub async fn end_device(request: HttpRequest, id: Id, book: web::Data<Book>) -> Result<HttpResponse, Problem> {
    if let Ok((account, _)) = Caller::of(&request).signed_in() {
        book.store().sign_out(account.id, Some(id.0), None).await?;
    }
    Ok(HttpResponse::NoContent().finish())
}

/// Signs out on every device but this one.
#[utoipa::path(delete, path = "/api/session/devices", responses((status = 204)))]
pub async fn end_other_devices(request: HttpRequest, book: web::Data<Book>) -> Result<HttpResponse, Problem> {
    if let Ok((account, session)) = Caller::of(&request).signed_in() {
        book.store().sign_out(account.id, None, Some(session.id)).await?;
    }
    Ok(HttpResponse::NoContent().finish())
}
