//! Accounts: who may sign in, whom they are at which places, and the links by which they choose a password.

use super::session::{PersonAt, people_at, whole};
use super::{Acting, Id, now};
use crate::actor::Who;
use crate::book::{Book, Pages};
use crate::input::Json;
use crate::problem::ProblemSaid;
use crate::view::qr_path;
use crate::{Clock, Problem, secrets};
use actix_web::web;
use jiff::{SignedDuration, Timestamp};
use mopsel_core::fact::{Account, Actor};
use mopsel_core::gate::{AccountWish, Command, decides_over};
use mopsel_core::quantity::Name;
use mopsel_core::refuse;
use mopsel_store::{Link, Outcome, Standing};
use qrcode::{EcLevel, QrCode};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// So many days a link is good.
pub const LINK_DAYS: i64 = 7;

/// An account, for those who decide over it.
#[derive(Debug, Serialize, ToSchema)]
pub struct AccountView {
    /// Its id.
    pub id: Uuid,
    /// The name with which they sign in.
    pub name: String,
    /// Whether they may do everything everywhere.
    pub owner: bool,
    /// Whom they are, at which places.
    pub people: Vec<PersonAt>,
    /// Name it in an edit.
    pub version: i64,
    /// Whether it was ended.
    pub archived: bool,
    /// Whether they have chosen a password.
    pub ready: bool,
}

fn view(pages: &Pages, account: &Account) -> AccountView {
    AccountView {
        id: account.id,
        name: account.name.as_str().to_owned(),
        owner: account.owner,
        people: people_at(pages, &account.people),
        version: account.version,
        archived: account.archived,
        ready: account.ready,
    }
}

fn may_touch(actor: &Actor, account: &Account, pages: &Pages) -> Result<(), Problem> {
    let places = people_at(pages, &account.people).into_iter().map(|person| person.place);
    decides_over(account.owner, places, actor).map_err(Problem::not_permitted)
}

/// The accounts that one may decide over, without those that were ended.
#[utoipa::path(get, path = "/api/accounts", params(Acting), responses((status = 200, body = Vec<AccountView>)))]
pub async fn list_accounts(who: Who, book: web::Data<Book>) -> Result<web::Json<Vec<AccountView>>, Problem> {
    let (actor, pages) = whole(who, &book).await?;
    let own = pages.accounts.values().filter(|account| may_touch(&actor, account, &pages).is_ok());
    let mut all: Vec<AccountView> = own.map(|account| view(&pages, account)).collect();
    all.sort_by(|a, b| a.name.cmp(&b.name));
    Ok(web::Json(all))
}

/// What an account should be.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KeepAccount {
    /// The version that the editor saw; 0 for a new account.
    #[schema(minimum = 0)]
    pub version: i64,
    /// The name with which they sign in.
    #[schema(value_type = String, min_length = 1, max_length = 60)]
    pub name: Name,
    /// Whether they may do everything everywhere.
    #[serde(default)]
    pub owner: bool,
    /// Whom they are, at which places: cards of people, one for each place.
    #[serde(default)]
    pub people: Vec<Uuid>,
    /// Whether it is ended: nobody signs in with it any more, and whoever is signed in is signed out.
    #[serde(default)]
    pub archived: bool,
}

/// Makes an account, or edits it on top of the version that the editor saw. Nobody signs in with a new one until they
/// have chosen a password with a link.
#[utoipa::path(put, path = "/api/accounts/{id}", params(("id" = Uuid, Path), Acting), request_body = KeepAccount, responses((status = 200, body = AccountView), (status = 409, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn keep_account(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(sent): Json<KeepAccount>,
) -> Result<web::Json<AccountView>, Problem> {
    let KeepAccount { version, name, owner, people, archived } = sent;
    let wish = AccountWish { name, owner, people, archived };
    let command = match version {
        0 => Command::MakeAccount { id: id.0, wish },
        version => Command::EditAccount { id: id.0, version, wish },
    };
    let kept = book.store().submit(&command, &actor, now(&clock)).await.map_err(Problem::from);
    let pages = book.whole().await?;
    match kept {
        Ok(Outcome::Account(account)) => Ok(web::Json(view(&pages, &account))),
        Ok(_) => Err(Problem::not_found("such account")),
        Err(mut problem) => Err(match problem.take_standing() {
            Some(Standing::Account(there)) => problem.with_both(view(&pages, &there), ()),
            _ => problem,
        }),
    }
}

/// A link that was made.
#[derive(Debug, Serialize, ToSchema)]
pub struct LinkMade {
    /// The address, behind the one of this server. It is told once, and good for one use.
    pub address: String,
    /// Until when it is good.
    #[schema(value_type = String, format = DateTime)]
    pub ends: Timestamp,
    /// The whole address as a QR code: its modules are this many across.
    pub size: usize,
    /// The dark modules, as a path in units of one module.
    pub path: String,
}

/// Under which address a link is opened.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct OpenedAt {
    /// The address of this server, as phones reach it: `https://192.168.7.3:4180`.
    #[param(max_length = 200)]
    pub at: String,
}

/// Where a link leads: its secret stands behind the sign that no browser sends.
#[must_use]
pub fn link_address(token: &str) -> String {
    format!("/welcome#{token}")
}

/// A link that begins now, with what is kept of it.
#[must_use]
pub fn new_link(account: Option<Uuid>, now: Timestamp) -> (String, Link) {
    let ends = now.saturating_add(SignedDuration::from_hours(24 * LINK_DAYS)).unwrap_or(Timestamp::MAX);
    (secrets::token(), Link { account, ends })
}

/// Makes a link with which the account's owner chooses a password. An earlier one is good no more.
#[utoipa::path(post, path = "/api/accounts/{id}/link", params(("id" = Uuid, Path), OpenedAt, Acting), responses((status = 200, body = LinkMade), (status = 404, body = ProblemSaid)))]
pub async fn make_link(
    id: Id,
    who: Who,
    asked: web::Query<OpenedAt>,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<LinkMade>, Problem> {
    let (actor, pages) = whole(who, &book).await?;
    let account = pages.accounts.get(&id.0).ok_or_else(|| Problem::not_found("such account"))?;
    may_touch(&actor, account, &pages)?;
    let now = now(&clock);
    let (token, link) = new_link(Some(id.0), now);
    let ends = link.ends;
    book.store().make_link(&secrets::kept(&token), &link, now).await?;
    let address = link_address(&token);
    // A quarter of a code on a wet phone may be unread; this one is read once, from a screen.
    let code = QrCode::with_error_correction_level(format!("{}{address}", asked.at), EcLevel::M);
    let code = code.map_err(|_| Problem::from(refuse!("label_address").at("at")))?;
    Ok(web::Json(LinkMade { size: code.width(), path: qr_path(&code), address, ends }))
}
