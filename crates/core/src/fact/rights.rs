//! Who may do what: one table of roles, and what an account holds of them at which place.

use super::card::Role;
use crate::quantity::Name;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use strum::VariantArray;
use uuid::Uuid;

/// A sort of thing that somebody may do, or not. Every write and every address of the server is of one sort.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, VariantArray, utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum Act {
    /// See the places that one belongs to.
    Look,
    /// Record visits, readings by hand, signs and pictures; start timers.
    Care,
    /// Change reservoirs: concentrates, sanitisers and mains are near.
    Change,
    /// Set up systems, plantings, products, recipes and the place itself.
    SetUp,
    /// Meters, and what loggers and controllers read.
    Devices,
    /// People and accounts of a place.
    People,
    /// The whole file: new places, archives out and in.
    House,
}

impl Act {
    /// Its code, as it is served.
    #[must_use]
    pub const fn code(self) -> &'static str {
        match self {
            Self::Look => "look",
            Self::Care => "care",
            Self::Change => "change",
            Self::SetUp => "set_up",
            Self::Devices => "devices",
            Self::People => "people",
            Self::House => "house",
        }
    }
}

impl Role {
    /// Whether a role may do a sort of thing. This is the whole table.
    ///
    /// A child looks and tells; a helper cares for what an adult may touch; a reader sees; somebody on service cares for
    /// systems and their devices, and has nothing to do with people; a caretaker does all.
    #[must_use]
    pub const fn may(self, act: Act) -> bool {
        match self {
            Self::Caretaker => true,
            Self::Helper => matches!(act, Act::Look | Act::Care | Act::Change),
            Self::Service => matches!(act, Act::Look | Act::Care | Act::Change | Act::Devices),
            Self::Child => matches!(act, Act::Look | Act::Care),
            Self::Reader => matches!(act, Act::Look),
        }
    }
}

/// An account: somebody who signs in. It is not a person of a place; it may be one at each of several places.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Account {
    /// Its id.
    pub id: Uuid,
    /// The name with which they sign in.
    pub name: Name,
    /// Whether they may see and do everything in the file, at every place.
    pub owner: bool,
    /// Whom they are, at which places: cards of people.
    pub people: Vec<Uuid>,
    /// How often it was edited; name it in an edit.
    pub version: i64,
    /// Whether it was ended.
    pub archived: bool,
    /// Whether a password was chosen already.
    pub ready: bool,
}

/// What an account may, where.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Grant {
    /// The account.
    pub account: Uuid,
    /// Whether it may do everything everywhere.
    pub owner: bool,
    /// Whom it is: each with the place and the role there.
    pub people: BTreeMap<Uuid, (Uuid, Role)>,
    /// The class that a device is of, with its place, where it is no account that came in: whoever records on it is one
    /// of the children.
    pub class: Option<(Uuid, Uuid)>,
}

impl Grant {
    /// Whether it sees a place.
    #[must_use]
    pub fn sees(&self, place: Uuid) -> bool {
        let class = self.class.is_some_and(|(_, at)| at == place);
        self.owner || class || self.people.values().any(|(at, _)| *at == place)
    }

    /// Whether it may do something at a place; with no place, at any of its own. The whole file is the owner's.
    #[must_use]
    pub fn may(&self, act: Act, place: Option<Uuid>) -> bool {
        let at = |here: Uuid| place.is_none_or(|place| place == here);
        if let Some((_, class)) = self.class {
            return at(class) && Role::Child.may(act);
        }
        self.owner || (act != Act::House && self.people.values().any(|(here, role)| at(*here) && role.may(act)))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nobody_but_a_caretaker_sets_up_and_a_reader_only_looks() {
        for role in Role::VARIANTS {
            assert!(role.may(Act::Look), "{role:?}");
            assert_eq!(role.may(Act::SetUp) || role.may(Act::People), *role == Role::Caretaker, "{role:?}");
            assert_eq!(role.may(Act::Care), *role != Role::Reader, "{role:?}");
        }
        assert!(!Role::Child.may(Act::Change) && !Role::Service.may(Act::People) && Role::Service.may(Act::Devices));
    }

    #[test]
    fn a_role_at_one_place_is_none_at_another() {
        let (home, school) = (Uuid::from_u128(1), Uuid::from_u128(2));
        let people = [(Uuid::from_u128(3), (home, Role::Caretaker)), (Uuid::from_u128(4), (school, Role::Helper))];
        let grant = Grant { people: people.into(), ..Grant::default() };
        assert!(grant.may(Act::SetUp, Some(home)) && !grant.may(Act::SetUp, Some(school)));
        assert!(grant.may(Act::Change, Some(school)) && !grant.may(Act::Look, Some(Uuid::from_u128(5))));
        assert!(!grant.may(Act::House, None), "the whole file is the owner's");
        assert!(Grant { owner: true, ..grant }.may(Act::House, None));
    }

    #[test]
    fn a_device_of_a_class_does_what_children_do_in_that_room() {
        let (room, other) = (Uuid::from_u128(1), Uuid::from_u128(2));
        let grant = Grant { class: Some((Uuid::from_u128(9), room)), ..Grant::default() };
        assert!(grant.sees(room) && grant.may(Act::Care, Some(room)) && !grant.may(Act::Change, Some(room)));
        assert!(!grant.sees(other) && !grant.may(Act::Look, Some(other)));
    }
}
