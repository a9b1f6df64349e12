//! Who acts. Made once for each request, and handed to whatever decides; no body says it.

use super::card::Role;
use super::{Act, Grant};
use crate::message::member;
use crate::refusal::Refusal;
use crate::refuse;
use jiff::Timestamp;
use std::sync::Arc;
use uuid::Uuid;

/// Who acts: the person, what they may do, where they belong, and on which device.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Actor {
    /// The person, where someone was picked.
    pub person: Option<Uuid>,
    /// What they may do; a caretaker while nobody was picked.
    pub role: Role,
    /// The place that they belong to.
    pub place: Option<Uuid>,
    /// The device, as it calls itself.
    pub device: Option<String>,
    /// What time it is on that device, where it says so.
    pub clock: Option<Timestamp>,
    /// Whether they were asked about the clocks, and say that the server's is right.
    pub clock_is_right: bool,
    /// What the account may that they signed in with; none where Mopsel is used without a sign-in, on one machine.
    pub grant: Option<Arc<Grant>>,
}

impl Actor {
    /// Someone of a place.
    #[must_use]
    pub fn new(person: Uuid, role: Role, place: Uuid) -> Self {
        Self { person: Some(person), role, place: Some(place), ..Self::default() }
    }

    /// Helpers who are children get no step with concentrates, mains current or sanitisers.
    #[must_use]
    pub fn is_child(&self) -> bool {
        self.role == Role::Child
    }

    /// The person, for what is recorded under a name.
    ///
    /// # Errors
    /// A refusal while nobody was picked.
    pub fn recorder(&self) -> Result<Uuid, Refusal> {
        self.person.ok_or_else(|| refuse!("nobody_records").at(Refusal::ACTOR))
    }

    /// Refuses a child what is for adults.
    ///
    /// # Errors
    /// A refusal that asks for an adult.
    pub fn adult(&self) -> Result<(), Refusal> {
        if self.is_child() { Err(refuse!("for_adults")) } else { Ok(()) }
    }

    /// Whether they see a place.
    #[must_use]
    pub fn sees(&self, place: Uuid) -> bool {
        self.grant.as_ref().is_none_or(|grant| grant.sees(place))
    }

    /// Refuses what they may not do at a place, or at none of theirs where no place is named.
    ///
    /// # Errors
    /// A refusal that says who may.
    pub fn may(&self, act: Act, place: Option<Uuid>) -> Result<(), Refusal> {
        let may = self.grant.as_ref().map_or(self.role.may(act), |grant| grant.may(act, place));
        match place {
            _ if may => Ok(()),
            Some(place) if !self.sees(place) => Err(refuse!("not_of_this_place").at(Refusal::ACTOR)),
            _ if self.is_child() => Err(refuse!("for_adults")),
            _ => Err(refuse!("role_may_not", act = member("act", act.code())).at(Refusal::ACTOR)),
        }
    }

    /// Refuses someone of another place.
    ///
    /// # Errors
    /// A refusal that asks for someone of the place.
    pub fn of_place(&self, place: Uuid) -> Result<(), Refusal> {
        if self.place == Some(place) { Ok(()) } else { Err(refuse!("not_of_this_place").at(Refusal::ACTOR)) }
    }
}
