//! Who acts. Made once for each request, and handed to whatever decides; no body says it.

use super::card::Role;
use crate::refusal::Refusal;
use crate::refuse;
use jiff::Timestamp;
use uuid::Uuid;

/// Who acts: the person, what they may do, where they belong, and on which device.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Actor {
    /// The person, where someone was picked.
    pub person: Option<Uuid>,
    /// What they may do; a caretaker while nobody was picked, for there is no sign-in yet.
    pub role: Role,
    /// The place that they belong to.
    pub place: Option<Uuid>,
    /// The device, as it calls itself.
    pub device: Option<String>,
    /// What time it is on that device, where it says so.
    pub clock: Option<Timestamp>,
    /// Whether they were asked about the clocks, and say that the server's is right.
    pub clock_is_right: bool,
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

    /// Refuses someone of another place.
    ///
    /// # Errors
    /// A refusal that asks for someone of the place.
    pub fn of_place(&self, place: Uuid) -> Result<(), Refusal> {
        if self.place == Some(place) { Ok(()) } else { Err(refuse!("not_of_this_place").at(Refusal::ACTOR)) }
    }
}
