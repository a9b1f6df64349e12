//! Accounts: who signs in, and whom they are at which places. Passwords are no business of the rules.

use super::{Decision, Meets, Refused};
use crate::fact::card::Role;
use crate::fact::{Account, Act, Actor};
use crate::message::{count, typed};
use crate::quantity::Name;
use crate::refusal::Refusal;
use crate::refuse;
use std::collections::BTreeSet;
use uuid::Uuid;

/// How many accounts a file takes.
pub const MOST_ACCOUNTS: usize = 500;

/// A person that an account is said to be.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Claimed {
    /// The person.
    pub id: Uuid,
    /// Their place.
    pub place: Uuid,
    /// What they may do there.
    pub role: Role,
    /// Whether they are the person of another account already, or put away.
    pub taken: bool,
}

/// What an account's command rests on.
#[derive(Debug, Clone, Default)]
pub struct AccountFacts {
    /// The account with the command's id.
    pub there: Option<Account>,
    /// Whether another account has the name.
    pub name_taken: bool,
    /// How many accounts there are.
    pub accounts: usize,
    /// How many owners can sign in, besides this account.
    pub other_owners: usize,
    /// The people that it is, and those that it is to be, as far as they are there.
    pub people: Vec<Claimed>,
}

/// What an account should be.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct AccountWish {
    /// The name with which they sign in.
    pub name: Name,
    /// Whether they may do everything everywhere.
    pub owner: bool,
    /// Whom they are, at which places.
    pub people: Vec<Uuid>,
    /// Whether it is ended.
    pub archived: bool,
}

pub(super) fn make(id: Uuid, wish: &AccountWish, facts: &AccountFacts, actor: &Actor) -> Result<Decision, Refused> {
    if let Some(there) = &facts.there {
        return if same(there, wish) { Ok(Decision::Already) } else { Err(Refused::IdTaken) };
    }
    // The first account comes with its password, or nobody could come in; after that accounts make accounts.
    if facts.accounts == 0 {
        return Err(refuse!("first_account").into());
    }
    if facts.accounts >= MOST_ACCOUNTS {
        return Err(refuse!("too_many_accounts", most = count(MOST_ACCOUNTS)).into());
    }
    may(wish, facts, actor)?;
    check(wish, facts)?;
    let AccountWish { name, owner, people, archived } = wish.clone();
    let account = Account { id, name, owner, people, archived, version: 1, ready: false };
    Ok(Decision::KeepAccount(Box::new(account)))
}

pub(super) fn edit(version: i64, wish: &AccountWish, facts: &AccountFacts, actor: &Actor) -> Result<Decision, Refused> {
    let there = facts.there.as_ref().ok_or(Refused::NotFound("account"))?;
    if there.version == version + 1 && same(there, wish) {
        return Ok(Decision::Already);
    }
    if there.version != version {
        return Err(Refused::Conflict(Meets::Account));
    }
    may(wish, facts, actor)?;
    check(wish, facts)?;
    let keeps = wish.owner && !wish.archived;
    if there.owner && there.ready && !keeps && facts.other_owners == 0 {
        return Err(refuse!("last_owner").at("owner").into());
    }
    let AccountWish { name, owner, people, archived } = wish.clone();
    let account = Account { name, owner, people, archived, version: version + 1, ..there.clone() };
    Ok(Decision::KeepAccount(Box::new(account)))
}

fn same(there: &Account, wish: &AccountWish) -> bool {
    there.name == wish.name
        && there.owner == wish.owner
        && there.people == wish.people
        && there.archived == wish.archived
}

fn may(wish: &AccountWish, facts: &AccountFacts, actor: &Actor) -> Result<(), Refusal> {
    let owns = wish.owner || facts.there.as_ref().is_some_and(|there| there.owner);
    decides_over(owns, facts.people.iter().map(|person| person.place), actor)
}

/// Refuses who does not decide over an account: that does whoever decides over people at each of its places. One that
/// owns the file, or is nobody anywhere, is an owner's business.
///
/// # Errors
/// A refusal that says who may.
pub fn decides_over(owns: bool, places: impl Iterator<Item = Uuid>, actor: &Actor) -> Result<(), Refusal> {
    let mut places = places.peekable();
    if owns || places.peek().is_none() {
        actor.may(Act::House, None)?;
    }
    places.try_for_each(|place| actor.may(Act::People, Some(place)))
}

fn check(wish: &AccountWish, facts: &AccountFacts) -> Result<(), Refusal> {
    if facts.name_taken {
        return Err(refuse!("account_name_taken", found = typed(wish.name.as_str())).at("name"));
    }
    let mut places = BTreeSet::new();
    for (n, id) in wish.people.iter().enumerate() {
        let at = |refusal: Refusal| Err(refusal.at(&format!("people.{n}")));
        let Some(person) = facts.people.iter().find(|person| person.id == *id) else {
            return at(refuse!("account_of_nobody"));
        };
        if person.taken {
            return at(refuse!("account_person_taken"));
        }
        if person.role == Role::Child {
            return at(refuse!("account_of_child"));
        }
        if !places.insert(person.place) {
            return at(refuse!("account_twice_at_place"));
        }
    }
    Ok(())
}
