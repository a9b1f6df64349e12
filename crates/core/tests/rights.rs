//! Who may do what: roles, places and accounts, decided at the gate.

use crate::common::*;
use mopsel_core::fact::card::{Card, Person, Place, Role};
use mopsel_core::fact::{Account, Act, Actor, Grant, Holds, NewCard, StoredCard, Visit};
use mopsel_core::gate::{
    AccountFacts, AccountWish, CardFacts, Claimed, Command, Decision, Facts, Named, NewEntry, PersonNow, Refused,
    decide,
};
use mopsel_core::quantity::{Name, UnitSystem};
use std::sync::Arc;
use uuid::Uuid;

const NOW: &str = "2027-03-09 08:30";

fn place() -> Uuid {
    adult().place.unwrap()
}

/// Somebody who signed in, as a person with a role at a place.
fn signed_in(role: Role, at: Uuid) -> (Actor, PersonNow) {
    let person = Uuid::from_u128(31);
    let grant =
        Grant { account: Uuid::from_u128(30), owner: false, people: [(person, (at, role))].into(), class: None };
    let actor = Actor { grant: Some(Arc::new(grant)), ..Actor::new(person, role, at) };
    (actor, PersonNow { role, place: at, archived: false })
}

fn code(decided: Result<Decision, Refused>) -> String {
    match decided {
        Ok(_) => "done".to_owned(),
        Err(Refused::Refusal(refusal)) => refusal.code.into_owned(),
        Err(other) => other.to_string(),
    }
}

fn entry(role: Role, at_place: Uuid) -> String {
    let (actor, person) = signed_in(role, at_place);
    let body = mopsel_core::fact::Body::Visit(Visit { all_fine: true, ..Visit::default() });
    let id = Uuid::from_u128(77);
    let new = NewEntry { id, at: None, body, amends: None, reason: None, closes: None, saved: None };
    let facts = facts_at(Uuid::from_u128(9), tub());
    let command = Command::Add(facts.id, Box::new(new));
    code(decide(&command, &Facts::System(Box::new(facts)), &actor, Some(&person), at(NOW)))
}

#[test]
fn a_visit_is_recorded_by_whoever_cares_there_and_by_nobody_else() {
    for role in [Role::Caretaker, Role::Helper, Role::Child, Role::Service] {
        assert_eq!(entry(role, place()), "done", "{role:?}");
    }
    assert_eq!(entry(Role::Reader, place()), "role_may_not");
    assert_eq!(entry(Role::Caretaker, Uuid::from_u128(99)), "not_of_this_place");
}

fn facts_for(there: Option<Card>, at_place: Option<Uuid>) -> CardFacts {
    let there = there.map(|card| StoredCard {
        id: Uuid::from_u128(50),
        parent: at_place,
        version: 1,
        archived: false,
        holds: Holds::Always,
        card,
    });
    let home = Place {
        name: Name::new("Tern Street flat").unwrap(),
        zone: "Europe/London".to_owned(),
        open_days: mopsel_core::calendar::Weekday::ALL.into(),
        closures: vec![],
        units: UnitSystem::default(),
        containers: vec![],
        tools: vec![],
    };
    let parent = at_place.map(|id| StoredCard {
        id,
        parent: None,
        version: 1,
        archived: false,
        holds: Holds::Always,
        card: Card::Place(home),
    });
    CardFacts {
        closed_off: None,
        versions: vec![],
        there,
        made_so: false,
        place: at_place,
        parent,
        zone: zone(),
        named: Named::default(),
        plantings: vec![],
        cards: 4,
    }
}

fn person(name: &str, role: Role) -> Person {
    let name = Name::new(name).unwrap();
    Person { name, role, units: None, ec_scale: None, lifts_kg: None, feed: None, away: vec![] }
}

fn make(card: Card, role: Role, actor_at: Uuid) -> String {
    let (actor, now) = signed_in(role, actor_at);
    let new = NewCard { id: Uuid::from_u128(51), parent: Some(place()), card };
    let facts = Facts::Card(Box::new(facts_for(None, Some(place()))));
    code(decide(&Command::MakeCard(Box::new(new)), &facts, &actor, Some(&now), at(NOW)))
}

#[test]
fn what_is_set_up_is_a_caretakers_business_of_that_place() {
    let system = || Card::System(tub());
    assert_eq!(make(system(), Role::Caretaker, place()), "done");
    assert_eq!(make(system(), Role::Caretaker, Uuid::from_u128(99)), "not_of_this_place");
    for role in [Role::Helper, Role::Reader, Role::Service] {
        assert_eq!(make(system(), role, place()), "role_may_not", "{role:?}");
    }
    assert_eq!(make(system(), Role::Child, place()), "for_adults");
    assert_eq!(make(Card::Person(person("Ode", Role::Helper)), Role::Service, place()), "role_may_not");
}

#[test]
fn everybody_edits_their_own_units_and_nobody_their_own_role() {
    let edit = |to: Person| {
        let (actor, now) = signed_in(Role::Helper, place());
        let mut facts = facts_for(Some(Card::Person(person("Ansa", Role::Helper))), Some(place()));
        let own = actor.person.unwrap();
        facts.there.as_mut().unwrap().id = own;
        let card = Some(Box::new(Card::Person(to)));
        let command = Command::EditCard { id: own, version: 1, card, archived: None, holds: None };
        code(decide(&command, &Facts::Card(Box::new(facts)), &actor, Some(&now), at(NOW)))
    };
    assert_eq!(edit(Person { units: Some(UnitSystem::Us), ..person("Ansa", Role::Helper) }), "done");
    assert_eq!(edit(person("Ansa", Role::Caretaker)), "role_may_not");
}

fn owner() -> Actor {
    let grant = Grant { account: Uuid::from_u128(30), owner: true, ..Grant::default() };
    Actor { grant: Some(Arc::new(grant)), ..Actor::default() }
}

fn wish(name: &str, owner: bool, people: &[u128]) -> AccountWish {
    let people = people.iter().map(|id| Uuid::from_u128(*id)).collect();
    AccountWish { name: Name::new(name).unwrap(), owner, people, archived: false }
}

fn claimed(id: u128, at: Uuid, role: Role) -> Claimed {
    Claimed { id: Uuid::from_u128(id), place: at, role, taken: false }
}

fn let_in(wish: AccountWish, facts: AccountFacts, actor: &Actor) -> String {
    let command = Command::MakeAccount { id: Uuid::from_u128(60), wish };
    code(decide(&command, &Facts::Account(facts), actor, None, at(NOW)))
}

#[test]
fn an_account_is_one_adult_at_each_place_and_nobody_twice() {
    let elsewhere = Uuid::from_u128(99);
    let with = |people: Vec<Claimed>| AccountFacts { accounts: 1, people, ..AccountFacts::default() };
    let two = vec![claimed(40, place(), Role::Helper), claimed(41, elsewhere, Role::Reader)];
    assert_eq!(let_in(wish("Ansa", false, &[40, 41]), with(two), &owner()), "done");
    let same_place = vec![claimed(40, place(), Role::Helper), claimed(41, place(), Role::Reader)];
    assert_eq!(let_in(wish("Ansa", false, &[40, 41]), with(same_place), &owner()), "account_twice_at_place");
    let child = vec![claimed(40, place(), Role::Child)];
    assert_eq!(let_in(wish("J. T.", false, &[40]), with(child), &owner()), "account_of_child");
    let taken = vec![Claimed { taken: true, ..claimed(40, place(), Role::Helper) }];
    assert_eq!(let_in(wish("Ansa", false, &[40]), with(taken), &owner()), "account_person_taken");
    assert_eq!(let_in(wish("Ansa", false, &[40]), with(vec![]), &owner()), "account_of_nobody");
    let named = AccountFacts { name_taken: true, ..with(vec![claimed(40, place(), Role::Helper)]) };
    assert_eq!(let_in(wish("Wren", false, &[40]), named, &owner()), "account_name_taken");
}

#[test]
fn a_caretaker_lets_people_of_their_own_place_in_and_makes_no_owners() {
    let (caretaker, _) = signed_in(Role::Caretaker, place());
    let with =
        |at: Uuid| AccountFacts { accounts: 1, people: vec![claimed(40, at, Role::Helper)], ..AccountFacts::default() };
    assert_eq!(let_in(wish("Ansa", false, &[40]), with(place()), &caretaker), "done");
    assert_eq!(let_in(wish("Ansa", true, &[40]), with(place()), &caretaker), "role_may_not");
    assert_eq!(let_in(wish("Ansa", false, &[40]), with(Uuid::from_u128(99)), &caretaker), "not_of_this_place");
    let (helper, _) = signed_in(Role::Helper, place());
    assert_eq!(let_in(wish("Ansa", false, &[40]), with(place()), &helper), "role_may_not");
}

#[test]
fn somebody_always_looks_after_everything() {
    let last = Account {
        id: Uuid::from_u128(60),
        name: Name::new("Wren").unwrap(),
        owner: true,
        people: vec![],
        version: 3,
        archived: false,
        ready: true,
    };
    let edit = |wish: AccountWish, other_owners: usize| {
        let facts = AccountFacts { there: Some(last.clone()), accounts: 2, other_owners, ..AccountFacts::default() };
        let command = Command::EditAccount { id: last.id, version: 3, wish };
        code(decide(&command, &Facts::Account(facts), &owner(), None, at(NOW)))
    };
    assert_eq!(edit(AccountWish { archived: true, ..wish("Wren", true, &[]) }, 0), "last_owner");
    assert_eq!(edit(wish("Wren", false, &[]), 0), "last_owner");
    assert_eq!(edit(wish("Wren", false, &[]), 1), "done");
    assert_eq!(edit(wish("Wren B.", true, &[]), 0), "done", "a name is not what keeps the door");
    let first = AccountFacts::default();
    assert_eq!(
        let_in(wish("Ansa", true, &[]), first, &Actor::default()),
        "first_account",
        "it would shut everybody out"
    );
}

#[test]
fn without_a_sign_in_the_person_picked_says_what_may_be_done() {
    for (role, may) in [(Role::Caretaker, true), (Role::Helper, false), (Role::Reader, false)] {
        let actor = Actor { role, ..Actor::default() };
        assert_eq!(actor.may(Act::SetUp, Some(place())).is_ok(), may, "{role:?}");
    }
}
