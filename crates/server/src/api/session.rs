//! Signing in and out, choosing a password, and the devices on which somebody is signed in.

use super::now;
use crate::actor::Who;
use crate::book::{Book, Pages};
use crate::door::{COOKIE, Caller, Door, session};
use crate::input::Json;
use crate::problem::ProblemSaid;
use crate::view::qr_path;
use crate::{Clock, Problem, secrets};
use actix_web::http::header::CONTENT_DISPOSITION;
use actix_web::{HttpRequest, HttpResponse, web};
use jiff::Timestamp;
use mopsel_core::fact::card::Role;
use mopsel_core::fact::{Account, Act, Actor, Grant};
use mopsel_core::gate::{AccountWish, Command};
use mopsel_core::quantity::Name;
use mopsel_core::refuse;
use mopsel_store::{Class, StoreError};
use qrcode::{EcLevel, QrCode};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use strum::VariantArray;
use utoipa::ToSchema;
use uuid::Uuid;

/// Somebody at a place.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct PersonAt {
    /// The person.
    pub person: Uuid,
    /// What they are called there.
    pub name: String,
    /// What they may do there.
    pub role: Role,
    /// The place.
    pub place: Uuid,
    /// What it is called.
    pub place_name: String,
    /// What the role may do.
    pub may: Vec<Act>,
}

/// The people that an account is, as far as they are there.
pub(super) fn people_at(pages: &Pages, people: &[Uuid]) -> Vec<PersonAt> {
    let at = |id: &Uuid| {
        let (person, place) = pages.person(*id)?;
        let place_name = pages.places.get(&place)?.place.name.as_str().to_owned();
        let name = person.name.as_str().to_owned();
        let may = Act::VARIANTS.iter().copied().filter(|act| person.role.may(*act)).collect();
        Some(PersonAt { person: *id, name, role: person.role, place, place_name, may })
    };
    people.iter().filter_map(at).collect()
}

/// Who is signed in.
#[derive(Debug, Serialize, ToSchema)]
pub struct SignedIn {
    /// The account.
    pub id: Uuid,
    /// Its name.
    pub name: String,
    /// Whether it may do everything everywhere.
    pub owner: bool,
    /// Whom it is, at which places.
    pub people: Vec<PersonAt>,
    /// What it may do at some place.
    pub may: Vec<Act>,
}

/// Whether one has to sign in, and who did.
#[derive(Debug, Serialize, ToSchema)]
pub struct SessionView {
    /// Whether a session is asked for.
    pub asked: bool,
    /// Whether there is an account yet.
    pub any_account: bool,
    /// Who is signed in.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub account: Option<SignedIn>,
    /// The class that the device is of.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub class: Option<ClassHere>,
}

/// The class that a device is of.
#[derive(Debug, Serialize, ToSchema)]
pub struct ClassHere {
    /// The room.
    pub place: Uuid,
    /// What it is called.
    pub place_name: String,
    /// Until when, on the clock of the room.
    pub until: String,
    /// The children, by their initials.
    pub children: Vec<Child>,
}

/// A child, by its initials.
#[derive(Debug, Serialize, ToSchema)]
pub struct Child {
    /// Its id.
    pub id: Uuid,
    /// Its initials.
    pub initials: String,
}

fn class_here(pages: &Pages, class: &Class) -> Option<ClassHere> {
    let place = pages.places.get(&class.place)?;
    let people = pages.class_grant((class.id, class.place)).people;
    let child = |id: &Uuid| Some(Child { id: *id, initials: pages.person(*id)?.0.name.as_str().to_owned() });
    let mut children: Vec<Child> = people.keys().filter_map(child).collect();
    children.sort_by(|a, b| a.initials.cmp(&b.initials));
    let until = class.ends.to_zoned(place.zone.clone()).strftime("%H:%M").to_string();
    Some(ClassHere { place: class.place, place_name: place.place.name.as_str().to_owned(), until, children })
}

pub(super) fn view(pages: &Pages, asked: bool, account: Option<&Account>, class: Option<&Class>) -> SessionView {
    let signed_in = account.map(|account| {
        let grant = pages.grant(account);
        SignedIn {
            id: account.id,
            name: account.name.as_str().to_owned(),
            owner: account.owner,
            people: people_at(pages, &account.people),
            may: Act::VARIANTS.iter().copied().filter(|act| grant.may(*act, None)).collect(),
        }
    });
    let class = class.and_then(|class| class_here(pages, class));
    SessionView { asked, any_account: pages.any_account, account: signed_in, class }
}

/// Whether one has to sign in here, and who is.
#[utoipa::path(get, path = "/api/session", responses((status = 200, body = SessionView)))]
pub async fn read_session(request: HttpRequest, book: web::Data<Book>) -> Result<web::Json<SessionView>, Problem> {
    let caller = Caller::of(&request);
    let pages = book.whole().await?;
    Ok(web::Json(view(&pages, caller.closed, caller.account.as_ref(), caller.class.as_ref())))
}

/// A name and a password.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SignIn {
    /// The name of the account, whatever its case.
    pub name: String,
    /// Its password.
    pub password: String,
}

/// What a device calls itself, for the list of those that are signed in.
pub(super) fn device(request: &HttpRequest) -> String {
    let said = request.headers().get(crate::actor::DEVICE).and_then(|value| value.to_str().ok());
    said.and_then(|said| Name::new(said).ok()).map_or_else(|| "a program".to_owned(), String::from)
}

/// An answer that signs a device in.
pub(super) fn welcome(door: &Door, token: String, pages: &Pages, account: Uuid) -> HttpResponse {
    HttpResponse::Ok().cookie(door.cookie(token)).json(view(pages, true, pages.accounts.get(&account), None))
}

fn wrong() -> Problem {
    Problem::wrong_password(refuse!("wrong_password").at("password"))
}

/// Signs in. Whether it was the name or the password that was wrong is not said, and takes the same time.
#[utoipa::path(post, path = "/api/session", request_body = SignIn, responses((status = 200, body = SessionView), (status = 401, body = ProblemSaid), (status = 429, body = ProblemSaid)))]
pub async fn sign_in(
    request: HttpRequest,
    door: web::Data<Door>,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(sent): Json<SignIn>,
) -> Result<HttpResponse, Problem> {
    let from = door.address(&request);
    door.limits.try_once(&sent.name, from)?;
    let there = book.store().account_called(&sent.name).await?;
    let (account, kept) = there.unzip();
    let fits = secrets::fits(sent.password, kept.clone()).await?;
    let (Some(account), Some(kept), true) = (account, kept, fits) else { return Err(wrong()) };
    let token = secrets::token();
    let begun = session(account.id, device(&request), now(&clock));
    match book.store().sign_in(&secrets::kept(&token), &begun, &kept).await {
        Err(StoreError::NotFound(_)) => return Err(wrong()),
        done => done?,
    }
    door.limits.let_in(&sent.name, from);
    Ok(welcome(&door, token, &*book.whole().await?, account.id))
}

/// Signs this device out.
#[utoipa::path(delete, path = "/api/session", responses((status = 204)))]
pub async fn sign_out(
    request: HttpRequest,
    door: web::Data<Door>,
    book: web::Data<Book>,
) -> Result<HttpResponse, Problem> {
    let caller = Caller::of(&request);
    if let Ok((account, session)) = caller.signed_in() {
        book.store().sign_out(account.id, Some(session.id), None).await?;
    }
    if let (Some(_), Some(cookie)) = (&caller.class, request.cookie(COOKIE)) {
        book.store().leave_class(&secrets::kept(cookie.value())).await?;
    }
    Ok(HttpResponse::NoContent().cookie(door.no_cookie()).finish())
}

/// The first account.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FirstAccount {
    /// Its id, made by the client.
    pub id: Uuid,
    /// The name with which its owner signs in.
    pub name: String,
    /// The password, at least ten characters.
    pub password: String,
    /// Whom they are, at which places.
    #[serde(default)]
    pub people: Vec<Uuid>,
}

fn named(name: &str) -> Result<Name, Problem> {
    let name = Name::new(name).map_err(|refusal| refusal.at("name"))?;
    if name.as_str().trim().is_empty() { Err(refuse!("name_missing").at("name").into()) } else { Ok(name) }
}

/// Says whom the first account is; where that cannot be, it is nobody yet, and the page asks again.
async fn be(book: &Book, account: &Account, people: Vec<Uuid>, now: Timestamp) -> Result<(), Problem> {
    if people.is_empty() {
        return Ok(());
    }
    let grant = Grant { account: account.id, owner: true, ..Grant::default() };
    let actor = Actor { grant: Some(Arc::new(grant)), ..Actor::default() };
    let wish = AccountWish { name: account.name.clone(), owner: true, people, archived: false };
    let command = Command::EditAccount { id: account.id, version: account.version, wish };
    book.store().submit(&command, &actor, now).await?;
    Ok(())
}

fn first_account(id: Uuid, name: Name) -> Account {
    Account { id, name, owner: true, people: vec![], version: 1, archived: false, ready: false }
}

/// Makes the first account, where nobody had to sign in until now; from then on everybody does.
#[utoipa::path(post, path = "/api/session/first", request_body = FirstAccount, responses((status = 200, body = SessionView), (status = 409, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn make_first(
    request: HttpRequest,
    door: web::Data<Door>,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(sent): Json<FirstAccount>,
) -> Result<HttpResponse, Problem> {
    if Caller::of(&request).closed {
        return Err(Problem::from(refuse!("accounts_there")));
    }
    let account = first_account(sent.id, named(&sent.name)?);
    let secret = secrets::hash(sent.password).await?;
    let (token, now) = (secrets::token(), now(&clock));
    let begun = session(account.id, device(&request), now);
    match book.store().make_first(&account, &secret, (&secrets::kept(&token), &begun)).await {
        Err(StoreError::IdTaken) => return Err(refuse!("accounts_there").into()),
        done => done?,
    }
    be(&book, &account, sent.people, now).await?;
    Ok(welcome(&door, token, &*book.whole().await?, account.id))
}

/// What stands in a link.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LinkSent {
    /// The secret part of its address.
    pub token: String,
}

/// What a link is for.
#[derive(Debug, Serialize, ToSchema)]
pub struct LinkView {
    /// Whether it makes the first account.
    pub first: bool,
    /// Whose password it lets choose.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// Whom they are, at which places; for the first account, whom they may be.
    pub people: Vec<PersonAt>,
    /// Until when it is good.
    #[schema(value_type = String, format = DateTime)]
    pub ends: Timestamp,
}

fn used_up() -> Problem {
    refuse!("link_used_up").at("token").into()
}

/// What a link is for, before it is used.
#[utoipa::path(post, path = "/api/session/link", request_body = LinkSent, responses((status = 200, body = LinkView), (status = 422, body = ProblemSaid)))]
pub async fn look_at_link(
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(sent): Json<LinkSent>,
) -> Result<web::Json<LinkView>, Problem> {
    let pages = book.whole().await?;
    let link = book.store().link(&secrets::kept(&sent.token), now(&clock)).await?.ok_or_else(used_up)?;
    let account = link.account.and_then(|id| pages.accounts.get(&id));
    if account.is_none() && (link.account.is_some() || pages.any_account) {
        return Err(used_up());
    }
    let adults = || {
        let here = pages.every_other().filter(|card| !card.archived).map(|card| card.id).collect::<Vec<Uuid>>();
        people_at(&pages, &here).into_iter().filter(|person| person.role != Role::Child).collect()
    };
    Ok(web::Json(LinkView {
        first: account.is_none(),
        name: account.map(|account| account.name.as_str().to_owned()),
        people: account.map_or_else(adults, |account| people_at(&pages, &account.people)),
        ends: link.ends,
    }))
}

/// A link that is used.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Redeem {
    /// The secret part of its address.
    pub token: String,
    /// The password, at least ten characters.
    pub password: String,
    /// For the first account: the name with which its owner signs in.
    #[serde(default)]
    pub name: Option<String>,
    /// For the first account: its id, made by the client.
    #[serde(default)]
    pub id: Option<Uuid>,
    /// For the first account: whom they are, at which places.
    #[serde(default)]
    pub people: Vec<Uuid>,
}

/// Uses a link up: a password is chosen, every device that was signed in before is signed out, and this one is signed in.
#[utoipa::path(post, path = "/api/session/redeem", request_body = Redeem, responses((status = 200, body = SessionView), (status = 422, body = ProblemSaid)))]
pub async fn redeem_link(
    request: HttpRequest,
    door: web::Data<Door>,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(sent): Json<Redeem>,
) -> Result<HttpResponse, Problem> {
    let now = now(&clock);
    let kept = secrets::kept(&sent.token);
    let link = book.store().link(&kept, now).await?.ok_or_else(used_up)?;
    let first = match link.account {
        Some(_) => None,
        None => {
            let name = named(sent.name.as_deref().unwrap_or_default())?;
            Some(first_account(sent.id.unwrap_or_else(Uuid::now_v7), name))
        }
    };
    let secret = secrets::hash(sent.password).await?;
    let token = secrets::token();
    let begun = session(Uuid::nil(), device(&request), now);
    let done = book.store().redeem(&kept, first.as_ref(), &secret, (&secrets::kept(&token), &begun)).await;
    let account = match done {
        Err(StoreError::NotFound(_)) => return Err(used_up()),
        done => done?,
    };
    if let Some(first) = &first {
        be(&book, first, sent.people, now).await?;
    }
    Ok(welcome(&door, token, &*book.whole().await?, account))
}

/// The actor of a request, and the pages as a whole: accounts belong to no place.
pub(super) async fn whole(Who(actor): Who, book: &Book) -> Result<(Actor, Arc<Pages>), Problem> {
    Ok((actor, book.whole().await?))
}

/// Where phones find this.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReachView {
    /// Addresses, the surest first; none where only this machine is answered.
    pub addresses: Vec<String>,
    /// The first of them as a QR code: its modules are this many across.
    pub size: usize,
    /// The dark modules, as a path in units of one module.
    pub path: String,
    /// What a phone shows of the certificate of Mopsel's own authority, where it is one: its SHA-256.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fingerprint: Option<String>,
}

/// Where phones find this, and by which fingerprint its authority is known.
#[utoipa::path(get, path = "/api/session/reach", responses((status = 200, body = ReachView)))]
pub async fn read_reach(door: web::Data<Door>) -> Result<web::Json<ReachView>, Problem> {
    let addresses = door.reach.addresses.clone();
    let code = addresses.first().and_then(|first| QrCode::with_error_correction_level(first, EcLevel::M).ok());
    Ok(web::Json(ReachView {
        size: code.as_ref().map_or(0, QrCode::width),
        path: code.as_ref().map(qr_path).unwrap_or_default(),
        fingerprint: door.reach.authority.as_ref().map(|authority| authority.fingerprint.clone()),
        addresses,
    }))
}

/// The certificate of Mopsel's own authority, as a file to be installed on a phone.
pub async fn authority(door: web::Data<Door>) -> Result<HttpResponse, Problem> {
    let authority = door.reach.authority.as_ref().ok_or_else(|| Problem::not_found("authority"))?;
    let name = "attachment; filename=\"mopsel-authority.crt\"";
    let mut answer = HttpResponse::Ok();
    answer.content_type("application/x-x509-ca-cert").insert_header((CONTENT_DISPOSITION, name));
    Ok(answer.body(authority.pem.clone()))
}
