//! Who acts: made once for each request, from who came in ([`crate::door`]) and what the device says of itself. Without
//! a sign-in it is the person that was picked on the device; with one, whom the account is at the place that the request
//! is about. Bodies and queries never say it.

use crate::book::Pages;
use crate::door::Caller;
use crate::{Clock, Problem};
use actix_web::dev::Payload;
use actix_web::http::Method;
use actix_web::{FromRequest, HttpMessage, HttpRequest, web};
use jiff::Timestamp;
use mopsel_core::fact::card::Role;
use mopsel_core::fact::{Actor, Grant};
use mopsel_core::message::typed;
use mopsel_core::quantity::Name;
use mopsel_core::words::Reader;
use mopsel_core::{Refusal, refuse};
use std::future::Future;
use std::pin::Pin;
use std::sync::Arc;
use uuid::Uuid;

/// The header that names the person who was picked on this device.
pub const PERSON: &str = "mopsel-person";
/// The header in which a device says what it is called.
pub const DEVICE: &str = "mopsel-device";
/// The header in which a device says what time it is there.
pub const CLOCK: &str = "mopsel-clock";
/// The header in which somebody who was asked says that the server's clock is right.
pub const CLOCK_IS_RIGHT: &str = "mopsel-clock-is-right";

/// The actor of a request.
pub struct Who(pub Actor);

impl FromRequest for Who {
    type Error = Problem;
    type Future = Pin<Box<dyn Future<Output = Result<Self, Problem>>>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let request = request.clone();
        Box::pin(async move {
            let text = |name: &str| request.headers().get(name).and_then(|value| value.to_str().ok());
            let person = text(PERSON).map(person).transpose()?;
            let said = text(CLOCK).map(|said| said.parse::<Timestamp>().map_err(|_| unreadable(CLOCK, said)));
            let said = said.transpose()?;
            if let Some(said) = text(CLOCK_IS_RIGHT).filter(|said| *said != "yes") {
                return Err(unreadable(CLOCK_IS_RIGHT, said));
            }
            let device = text(DEVICE).and_then(|text| Name::new(text).ok()).map(String::from);
            let opened = request.extensions().get::<Arc<Pages>>().cloned();
            let pages = opened.ok_or_else(|| Problem::not_found("book"))?;
            // A clock that stands still for a demo is meant to be apart from every other.
            let live = request.app_data::<web::Data<Clock>>().is_some_and(|clock| clock.is_live());
            let clock = said.filter(|_| live);
            let clock_is_right = text(CLOCK_IS_RIGHT) == Some("yes");
            let caller = Caller::of(&request);
            // What was typed by somebody else on this device waits for them: it is recorded under no other name.
            if let (Some(grant), Some(named), true) = (&caller.grant, person, request.method() != Method::GET)
                && !grant.people.contains_key(&named)
            {
                return Err(Problem::not_permitted(refuse!("person_not_yours").at(Refusal::ACTOR)));
            }
            let actor = match caller.grant {
                Some(grant) => signed_in(&pages, grant, person, place_of(&pages, &request), device),
                None => actor(&pages, person, device),
            };
            let actor = Actor { clock, clock_is_right, ..actor };
            request.extensions_mut().insert(reader(&pages, &actor));
            Ok(Self(actor))
        })
    }
}

/// A header that says what it cannot.
fn unreadable(header: &'static str, found: &str) -> Problem {
    refuse!("header_unreadable", header = typed(header), found = typed(found)).at(header).into()
}

fn person(text: &str) -> Result<Uuid, Problem> {
    Uuid::parse_str(text).map_err(|_| refuse!("person_unreadable", found = typed(text)).at(Refusal::ACTOR).into())
}

/// An actor as the book knows them. Somebody whom it does not know reads like anybody, and writes
/// nothing: the gate asks again, inside the transaction. In a book that is empty nobody can be known,
/// and a device that remembers somebody of another book may still set it up.
fn actor(pages: &Pages, person: Option<Uuid>, device: Option<String>) -> Actor {
    match person.and_then(|id| Some((id, pages.person(id)?))) {
        Some((id, (known, place))) => Actor { device, ..Actor::new(id, known.role, place) },
        None => Actor { person: person.filter(|_| pages.has_people()), device, ..Actor::default() },
    }
}

/// The place that a request is about, as far as its address says so.
fn place_of(pages: &Pages, request: &HttpRequest) -> Option<Uuid> {
    let id: Uuid = request.match_info().get("id")?.parse().ok()?;
    let planted = || pages.every_system().find(|file| file.planting_cards.iter().any(|card| card.id == id));
    match request.match_pattern()?.split('/').nth(2)? {
        "systems" => pages.systems.get(&id).map(|file| file.place),
        "plantings" => planted().map(|file| file.place),
        "places" => Some(id),
        _ => None,
    }
}

/// Whom an account is at a place. Where the address names none, whom the device names, if it is one of theirs; else the
/// first of them. Whoever owns the file and is nobody at the place looks at it as a caretaker, and records nothing there
/// until they are somebody.
fn signed_in(
    pages: &Pages,
    grant: Arc<Grant>,
    named: Option<Uuid>,
    place: Option<Uuid>,
    device: Option<String>,
) -> Actor {
    if let Some((_, room)) = grant.class {
        // Which of the children it is, only they say.
        let child = named.filter(|id| grant.people.contains_key(id));
        let actor = Actor { role: Role::Child, person: child, place: Some(room), ..Actor::default() };
        return Actor { device, grant: Some(grant), ..actor };
    }
    let own = |id: &Uuid| grant.people.get(id).map(|(at, role)| (*id, *at, *role));
    let here = |place| grant.people.iter().find(|(_, (at, _))| *at == place).map(|(id, (at, role))| (*id, *at, *role));
    let person = match place {
        Some(place) => here(place),
        None => named.as_ref().and_then(own).or_else(|| grant.people.keys().next().and_then(own)),
    };
    let person = person.filter(|(id, ..)| pages.person(*id).is_some());
    let actor = match person {
        Some((id, place, role)) => Actor::new(id, role, place),
        None if grant.owner => Actor::default(),
        None => Actor { role: Role::Reader, ..Actor::default() },
    };
    Actor { device, grant: Some(grant), ..actor }
}

/// What an actor reads, where no system says more.
fn reader(pages: &Pages, actor: &Actor) -> Reader {
    let person = actor.person.and_then(|id| pages.person(id));
    let own = person.and_then(|(person, _)| person.units);
    let place = person.and_then(|(_, place)| pages.places.get(&place)).map(|place| place.place.units);
    let ec = person.and_then(|(person, _)| person.ec_scale).unwrap_or_default();
    Reader::new(own.or(place).unwrap_or_default(), ec, actor)
}
