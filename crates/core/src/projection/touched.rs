//! Which systems are suspects because of another: what came from an ill system, or was used at both, carries on what
//! spreads by plants, water, hands and tools.

use super::{Contact, Known};
use crate::calendar::days_between;
use crate::fact::{Carried, Shares, plan};
use crate::figures::FIGURES;
use crate::quantity::Name;
use jiff::Timestamp;
use std::collections::BTreeMap;
use uuid::Uuid;

/// What makes a system a suspect: something that was at another one, which is ill.
#[derive(Debug, Clone, PartialEq)]
pub struct Touched {
    /// When.
    pub at: Timestamp,
    /// What.
    pub carried: Carried,
    /// At which other system it was.
    pub name: Name,
    /// What that one has: the key of a cause.
    pub cause: String,
}

impl Touched {
    /// The cause that has a plan of its own.
    pub const ROT: &'static str = "root_rot";

    /// Whether it shows at the roots, and not at the leaves.
    #[must_use]
    pub fn at_roots(&self) -> bool {
        self.cause == Self::ROT || plan(&self.cause).is_some_and(|plan| plan.shares == Shares::Water)
    }
}

/// A case that something carries on: its cause, whether its water carries it, and its time.
struct Spreads {
    cause: String,
    by_water: bool,
    opened: Timestamp,
    closed: Option<Timestamp>,
}

impl Spreads {
    /// Whether something that was carried at a moment carried it: from a few days before it was found, until it was
    /// closed.
    fn by(&self, carried: Carried, at: Timestamp) -> bool {
        let ill = days_between(at, self.opened) <= FIGURES.hygiene.unseen_days;
        ill && self.closed.is_none_or(|closed| closed >= at) && (self.by_water || carried != Carried::Water)
    }
}

fn spreading(known: &Known) -> Vec<Spreads> {
    let rot = known.cases.all.iter().map(|case| Spreads {
        cause: Touched::ROT.to_owned(),
        by_water: true,
        opened: case.opened,
        closed: case.closed,
    });
    let plants = known.cases.plants.iter().filter_map(|case| {
        let shares = plan(&case.cause)?.shares;
        let by_water = shares == Shares::Water;
        let (cause, opened, closed) = (case.cause.clone(), case.opened, case.closed);
        (shares != Shares::None).then_some(Spreads { cause, by_water, opened, closed })
    });
    rot.chain(plants).collect()
}

/// Every system that is a suspect because of another, with why. Tools go both ways: what was used here and there
/// carries from either.
#[must_use]
pub fn touches<'a>(systems: impl Iterator<Item = (Uuid, &'a Name, &'a Known)> + Clone) -> BTreeMap<Uuid, Vec<Touched>> {
    let by_id: BTreeMap<Uuid, (&Name, &Known)> = systems.clone().map(|(id, name, known)| (id, (name, known))).collect();
    let mut all: BTreeMap<Uuid, Vec<Touched>> = BTreeMap::new();
    let mut carry = |from: &Known, to: Uuid, name: &Name, contact: &Contact| {
        for ill in spreading(from).into_iter().filter(|ill| ill.by(contact.carried, contact.at)) {
            let (at, carried, name) = (contact.at, contact.carried, name.clone());
            all.entry(to).or_default().push(Touched { at, carried, name, cause: ill.cause });
        }
    };
    for (here, name, known) in systems {
        for contact in &known.happened.contacts {
            let Some((other, there)) = by_id.get(&contact.system) else { continue };
            carry(there, here, other, contact);
            if contact.carried == Carried::Tools {
                carry(known, contact.system, name, contact);
            }
        }
    }
    all
}
