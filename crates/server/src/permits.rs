//! Who may ask for what: every address with its method and the sort of thing that it is. Which role may do which sort
//! says [`mopsel_core::fact::card::Role::may`]; that it is one's own place, the pages that an actor sees and the gate.
//!
//! An address without a line here is closed to everybody who has to sign in.

use mopsel_core::fact::Act;

/// What an address asks of whoever asks for it, where people sign in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Need {
    /// Nothing: the way in, and what says no more than that the program runs.
    Nothing,
    /// Somebody who is signed in.
    SignedIn,
    /// Somebody who may do this at some place.
    May(Act),
}

use Act::{Care, Change, Devices, House, Look, People, SetUp};
use Need::{May, Nothing, SignedIn};

/// The table.
pub const PERMITS: &[(&str, &str, Need)] = &[
    ("GET", "/healthz", Nothing),
    ("GET", "/api/openapi.json", Nothing),
    ("GET", "/api/session", Nothing),
    ("POST", "/api/session", Nothing),
    ("DELETE", "/api/session", SignedIn),
    ("GET", "/api/session/reach", SignedIn),
    // A certificate is no secret, and is wanted before anybody can sign in safely.
    ("GET", "/mopsel-authority.crt", Nothing),
    ("POST", "/api/session/first", Nothing),
    ("POST", "/api/session/link", Nothing),
    ("POST", "/api/session/redeem", Nothing),
    ("POST", "/api/session/join", Nothing),
    ("PUT", "/api/session/password", SignedIn),
    ("GET", "/api/session/devices", SignedIn),
    ("DELETE", "/api/session/devices", SignedIn),
    ("DELETE", "/api/session/devices/{id}", SignedIn),
    ("GET", "/api/reminders", SignedIn),
    ("PUT", "/api/reminders", SignedIn),
    ("DELETE", "/api/reminders", SignedIn),
    // The secret in the letter says who.
    ("POST", "/api/reminders/yes", Nothing),
    // There is one in the demo alone.
    ("GET", "/api/mailbox", SignedIn),
    ("GET", "/api/accounts", May(People)),
    ("PUT", "/api/accounts/{id}", May(People)),
    ("POST", "/api/accounts/{id}/link", May(People)),
    ("GET", "/api/classes", May(People)),
    ("POST", "/api/classes", May(People)),
    ("DELETE", "/api/classes/{id}", May(People)),
    ("GET", "/api/knowledge", May(Look)),
    ("POST", "/api/shape/preview", May(Look)),
    ("GET", "/api/shelf", May(Look)),
    ("POST", "/api/bench/plan", May(Look)),
    ("POST", "/api/bench/rate", May(Look)),
    ("GET", "/api/timers", May(Look)),
    ("POST", "/api/timers", May(Care)),
    ("DELETE", "/api/timers/{id}", May(Care)),
    ("GET", "/api/systems/{id}/change", May(Look)),
    ("PUT", "/api/systems/{id}/change", May(Change)),
    ("DELETE", "/api/systems/{id}/change", May(Change)),
    ("POST", "/api/systems/{id}/change/guide", May(Look)),
    ("POST", "/api/systems/{id}/change/finish", May(Change)),
    ("GET", "/api/round", May(Look)),
    ("GET", "/api/compare/choices", May(Look)),
    ("GET", "/api/compare", May(Look)),
    ("POST", "/api/readings", May(Devices)),
    ("POST", "/api/readings/look", May(Devices)),
    ("POST", "/api/readings/file", May(Devices)),
    ("GET", "/api/readings/deliveries", May(Devices)),
    ("POST", "/api/readings/deliveries/{id}/take-back", May(Devices)),
    ("GET", "/api/systems/{id}/readings", May(Look)),
    ("GET", "/api/archive", May(House)),
    ("POST", "/api/archive", May(House)),
    ("GET", "/api/log", May(Look)),
    ("GET", "/api/labels", May(Look)),
    ("GET", "/api/outing", May(Look)),
    ("GET", "/api/round/fit", May(Look)),
    ("GET", "/api/places", May(Look)),
    ("GET", "/api/places/{id}/cover", May(Look)),
    ("GET", "/api/places/{id}/week", May(Look)),
    ("GET", "/api/places/{id}/ahead", May(Look)),
    // Whoever has its address reads a calendar: a secret stands in it.
    ("GET", "/calendar/{id}.ics", Nothing),
    ("POST", "/api/closures/read", May(SetUp)),
    ("POST", "/api/cards", May(Care)),
    ("PUT", "/api/cards/{id}", May(Look)),
    ("GET", "/api/cards/{id}/edits", May(Look)),
    ("GET", "/api/systems/{id}", May(Look)),
    ("GET", "/api/systems/{id}/sheet", May(Look)),
    ("GET", "/api/systems/{id}/judging", May(Look)),
    ("GET", "/api/systems/{id}/put-off/{code}", May(Look)),
    ("GET", "/api/plantings/{id}/story", May(Look)),
    ("POST", "/api/systems/{id}/carries", May(Look)),
    ("POST", "/api/systems/{id}/judge", May(Look)),
    ("POST", "/api/systems/{id}/doubts", May(Look)),
    ("GET", "/api/systems/{id}/pictures", May(Look)),
    ("POST", "/api/systems/{id}/pictures", May(Care)),
    ("GET", "/api/pictures/{id}", May(Look)),
    ("DELETE", "/api/pictures/{id}", May(Care)),
    ("GET", "/api/systems/{id}/trends", May(Look)),
    ("GET", "/api/systems/{id}/log", May(Look)),
    ("POST", "/api/systems/{id}/entries", May(Care)),
    ("GET", "/api/systems/{id}/draft", May(Look)),
    ("PUT", "/api/systems/{id}/draft", May(Care)),
    ("DELETE", "/api/systems/{id}/draft", May(Care)),
];

/// What an address asks for; none where it has no line.
#[must_use]
pub fn need(method: &str, pattern: &str) -> Option<Need> {
    PERMITS.iter().find(|(known, path, _)| *known == method && *path == pattern).map(|(_, _, need)| *need)
}

/// Whether an address has a line, with whichever method.
#[must_use]
pub fn known(pattern: &str) -> bool {
    PERMITS.iter().any(|(_, path, _)| *path == pattern)
}

/// What a device of a class may ask for: the tasks of its room, their visits, and how long something takes. Nothing else
/// is there for it: no log, no search, no set-up, no archive.
const OF_CLASS: &[(&str, &str)] = &[
    ("DELETE", "/api/session"),
    ("GET", "/api/knowledge"),
    ("GET", "/api/round"),
    ("GET", "/api/systems/{id}"),
    ("GET", "/api/systems/{id}/judging"),
    ("POST", "/api/systems/{id}/judge"),
    ("POST", "/api/systems/{id}/doubts"),
    ("POST", "/api/systems/{id}/entries"),
    ("GET", "/api/systems/{id}/draft"),
    ("PUT", "/api/systems/{id}/draft"),
    ("DELETE", "/api/systems/{id}/draft"),
    ("GET", "/api/timers"),
    ("POST", "/api/timers"),
    ("DELETE", "/api/timers/{id}"),
];

/// Whether a device of a class may ask for an address.
#[must_use]
pub fn of_class(method: &str, pattern: &str) -> bool {
    OF_CLASS.contains(&(method, pattern))
}
