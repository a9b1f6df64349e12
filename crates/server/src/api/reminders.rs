//! What somebody wants to be told by mail.

use super::{Acting, now};
use crate::actor::Who;
use crate::input::Json;
use crate::mailbox::KeptLetter;
use crate::post::Post;
use crate::problem::ProblemSaid;
use crate::{Clock, Problem, secrets};
use actix_web::{HttpResponse, web};
use jiff::SignedDuration;
use mopsel_core::fact::Actor;
use mopsel_core::message::minutes;
use mopsel_core::refuse;
use mopsel_core::remind::ReminderWish;
use mopsel_store::{Reminder, Store};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use utoipa::ToSchema;
use uuid::Uuid;

/// The way letters go, where there is one.
pub struct Posting(pub Option<Arc<Post>>);

/// What somebody is told by mail.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReminderView {
    /// Whether Mopsel was told a mail server.
    pub sends: bool,
    /// Whether that is the demo's own, whose letters can be read under `/mailbox`.
    pub stand_in: bool,
    /// What is wanted; absent where nothing is.
    pub wish: Option<ReminderWish>,
    /// Whether somebody at the address said yes.
    pub confirmed: bool,
}

/// A yes from a letter.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SaidYes {
    /// What the link in it says.
    #[schema(max_length = 100)]
    pub token: String,
}

/// Letters that ask are sent no more often.
const BETWEEN: SignedDuration = SignedDuration::from_mins(2);

/// Whose the wish is: the account's, or where nobody signs in that of the person who was picked.
fn whose(actor: &Actor) -> Result<Uuid, Problem> {
    match &actor.grant {
        Some(grant) if grant.class.is_none() => Ok(grant.account),
        Some(_) => Err(refuse!("for_adults").into()),
        None => {
            actor.adult()?;
            Ok(actor.recorder()?)
        }
    }
}

async fn view(store: &Store, post: &Posting, whose: Uuid) -> Result<ReminderView, Problem> {
    let kept = store.reminder(whose).await?;
    let stand_in = post.0.as_ref().is_some_and(|post| post.mailbox.is_some());
    let confirmed = kept.as_ref().is_some_and(|kept| kept.confirmed);
    Ok(ReminderView { sends: post.0.is_some(), stand_in, wish: kept.map(|kept| kept.wish), confirmed })
}

/// What who asks is told by mail, and whether any can be sent.
#[utoipa::path(get, path = "/api/reminders", params(Acting), responses((status = 200, body = ReminderView), (status = 422, body = ProblemSaid)))]
pub async fn read_reminder(
    Who(actor): Who,
    book: web::Data<crate::book::Book>,
    post: web::Data<Posting>,
) -> Result<web::Json<ReminderView>, Problem> {
    Ok(web::Json(view(book.store(), &post, whose(&actor)?).await?))
}

/// Wishes for reminders. Where the address is new, a letter goes there first, and nothing else until it was answered.
#[utoipa::path(put, path = "/api/reminders", params(Acting), request_body = ReminderWish, responses((status = 200, body = ReminderView), (status = 422, body = ProblemSaid)))]
pub async fn wish_reminder(
    Who(actor): Who,
    book: web::Data<crate::book::Book>,
    post: web::Data<Posting>,
    clock: web::Data<Clock>,
    Json(wish): Json<ReminderWish>,
) -> Result<web::Json<ReminderView>, Problem> {
    let (store, whose, at) = (book.store(), whose(&actor)?, now(&clock));
    wish.check()?;
    let Some(way) = &post.0 else { return Err(refuse!("no_mail").into()) };
    let kept = store.reminder(whose).await?;
    if let Some(kept) = kept.as_ref().filter(|kept| kept.confirmed && kept.wish.address == wish.address) {
        store.wish_reminder(&Reminder { wish, ..kept.clone() }, None).await?;
        way.nudge.notify_one();
        return Ok(web::Json(view(store, &post, whose).await?));
    }
    // Noted in the file, so that ending and wishing anew, or two at once, send no more.
    let turn = format!("asked.{}", at.as_second().div_euclid(BETWEEN.as_secs()));
    if clock.is_live() && !store.tell_once(whose, &[turn], at).await? {
        return Err(refuse!("mail_wait", minutes = minutes(BETWEEN.as_mins() as f64)).at("address").into());
    }
    let token = secrets::token();
    let new = Reminder { whose, wish, confirmed: false, asked: at };
    store.wish_reminder(&new, Some(&secrets::kept(&token))).await?;
    if let Err(error) = way.ask(&new.wish.address, &token).await {
        tracing::warn!(%error, "the letter that asks could not be sent");
        store.end_reminder(whose).await?;
        return Err(refuse!("mail_not_taken").at("address").into());
    }
    Ok(web::Json(view(store, &post, whose).await?))
}

/// Ends the reminders of who asks.
#[utoipa::path(delete, path = "/api/reminders", params(Acting), responses((status = 204), (status = 422, body = ProblemSaid)))]
pub async fn end_reminder(Who(actor): Who, book: web::Data<crate::book::Book>) -> Result<HttpResponse, Problem> {
    book.store().end_reminder(whose(&actor)?).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Says yes to letters, by the link in the one that asked.
#[utoipa::path(post, path = "/api/reminders/yes", request_body = SaidYes, responses((status = 204), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn say_yes(
    book: web::Data<crate::book::Book>,
    post: web::Data<Posting>,
    clock: web::Data<Clock>,
    Json(said): Json<SaidYes>,
) -> Result<HttpResponse, Problem> {
    book.store().confirm_reminder(&secrets::kept(&said.token), now(&clock)).await?;
    if let Some(way) = &post.0 {
        way.nudge.notify_one();
    }
    Ok(HttpResponse::NoContent().finish())
}

/// The letters in the demo's own mailbox, the newest first.
#[utoipa::path(get, path = "/api/mailbox", responses((status = 200, body = Vec<KeptLetter>), (status = 404, body = ProblemSaid)))]
pub async fn read_mailbox(post: web::Data<Posting>) -> Result<web::Json<Vec<KeptLetter>>, Problem> {
    let mailbox = post.0.as_ref().and_then(|post| post.mailbox.as_ref());
    mailbox.map(|mailbox| web::Json(mailbox.letters())).ok_or_else(|| Problem::not_found("mailbox here"))
}
