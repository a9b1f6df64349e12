//! Who acts: made once for each request, from what the device says of itself and of the person that
//! was picked on it. Bodies and queries never say it. When there is a sign-in, it is checked here and
//! nowhere else.

use crate::book::{Book, Pages};
use crate::{Clock, Problem};
use actix_web::dev::Payload;
use actix_web::{FromRequest, HttpMessage, HttpRequest, web};
use jiff::Timestamp;
use mopsel_core::fact::Actor;
use mopsel_core::message::typed;
use mopsel_core::quantity::Name;
use mopsel_core::words::Reader;
use mopsel_core::{Refusal, refuse};
use std::future::Future;
use std::pin::Pin;
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
            let book = request.app_data::<web::Data<Book>>().cloned();
            let book = book.ok_or_else(|| Problem::not_found("book"))?;
            let pages = book.open().await?;
            // A clock that stands still for a demo is meant to be apart from every other.
            let live = request.app_data::<web::Data<Clock>>().is_some_and(|clock| clock.is_live());
            let clock = said.filter(|_| live);
            let clock_is_right = text(CLOCK_IS_RIGHT) == Some("yes");
            let actor = Actor { clock, clock_is_right, ..actor(&pages, person, device) };
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

/// What an actor reads, where no system says more.
fn reader(pages: &Pages, actor: &Actor) -> Reader {
    let person = actor.person.and_then(|id| pages.person(id));
    let own = person.and_then(|(person, _)| person.units);
    let place = person.and_then(|(_, place)| pages.places.get(&place)).map(|place| place.place.units);
    let ec = person.and_then(|(person, _)| person.ec_scale).unwrap_or_default();
    Reader::new(own.or(place).unwrap_or_default(), ec, actor)
}
