//! Plants that go to another vessel, cuttings, losses: one entry, and the plantings turn with it.

use crate::common::{Garden, Said, adult, at, child, facts_at, planting, tub, visit};
use mopsel_core::crop::{Planting, Stage};
use mopsel_core::fact::card::Card;
use mopsel_core::fact::{Actor, Body, Entry, Happened, Holds, LoggedEntry, StoredCard, Timeline, Transplant, Visit};
use mopsel_core::gate::{
    CardWrite, Command, Decision, Facts, NewEntry, PersonNow, PickedCard, Refused, SourceFacts, SystemFacts, decide,
};
use mopsel_core::message::Message;
use mopsel_core::quantity::{Name, Note};
use mopsel_core::system::PortSet;
use uuid::Uuid;

const HERE: Uuid = Uuid::from_u128(9);
const THERE: Uuid = Uuid::from_u128(10);
const KALE: Uuid = Uuid::from_u128(20);
const NEW: Uuid = Uuid::from_u128(21);
const NOW: &str = "2027-03-09 08:30";

fn ports(text: &str) -> PortSet {
    PortSet::try_from(text.to_owned()).unwrap()
}

fn kale() -> Planting {
    Planting { planted_on: "2027-02-01".parse().unwrap(), ..planting("Kale", (1, 4), Stage::Vegetative) }
}

fn card(id: Uuid, parent: Uuid, planting: Planting) -> PickedCard {
    let card = Card::Planting(planting);
    let stored = StoredCard { id, parent: Some(parent), version: 1, archived: false, holds: Holds::Always, card };
    PickedCard { card: stored, made: at("2027-02-01 08:00"), before: None }
}

fn transplant(left: Option<&str>, to: &str) -> Happened {
    let name = |text| Name::new(text).unwrap();
    Happened::Transplanted(Transplant {
        planting: KALE,
        crop: name("Kale"),
        system: THERE,
        name: name("Window crate"),
        left: left.map(ports),
        to: ports(to),
        becomes: NEW,
    })
}

fn lost(at: &str) -> Happened {
    Happened::Lost { planting: KALE, crop: Name::new("Kale").unwrap(), ports: ports(at) }
}

/// The tub, and another system of its place in which four kales stand.
fn facts() -> SystemFacts {
    SystemFacts {
        named: vec![THERE],
        picked: vec![card(KALE, THERE, kale())],
        sources: vec![SourceFacts { id: THERE, place: adult().place, closed_off: None }],
        cards: 12,
        ..facts_at(HERE, tub())
    }
}

fn new(events: Vec<Happened>) -> NewEntry {
    let body = Body::Visit(Visit { events, ..Visit::default() });
    NewEntry { id: Uuid::from_u128(77), at: None, body, amends: None, reason: None, closes: None, saved: None }
}

fn decided(new: &NewEntry, facts: SystemFacts, actor: &Actor) -> Result<Decision, Refused> {
    let person = PersonNow { role: actor.role, place: adult().place.unwrap(), archived: false };
    let command = Command::Add(HERE, Box::new(new.clone()));
    decide(&command, &Facts::System(Box::new(facts)), actor, Some(&person), at(NOW))
}

fn writes(new: &NewEntry, facts: SystemFacts) -> Vec<CardWrite> {
    match decided(new, facts, &adult()) {
        Ok(Decision::AppendAndTurn(_, writes)) => writes,
        other => panic!("{other:?}"),
    }
}

fn refused(events: Vec<Happened>, facts: SystemFacts) -> String {
    match decided(&new(events), facts, &adult()) {
        Err(Refused::Refusal(refusal)) => refusal.said().found,
        other => panic!("{other:?}"),
    }
}

fn planting_of(write: &CardWrite) -> &Planting {
    match &write.card.card {
        Card::Planting(planting) => planting,
        other => panic!("{other:?}"),
    }
}

#[test]
fn plants_that_move_stand_here_as_old_as_they_are_and_leave_their_ports() {
    let writes = writes(&new(vec![transplant(Some("2-3"), "2-3")]), facts());
    let [here, left] = writes.as_slice() else { panic!("{writes:?}") };
    assert!(here.new && here.card.id == NEW && here.card.parent == Some(HERE));
    let moved = planting_of(here);
    assert_eq!((moved.ports.clone(), moved.stage), (ports("2-3"), Stage::Vegetative));
    assert_eq!(moved.planted_on.to_string(), "2027-03-09", "it stands here since today");
    assert_eq!(moved.growing_since().to_string(), "2027-02-01", "and grows since it was planted on there");
    assert_eq!(moved.came.unwrap().planting, KALE);
    assert_eq!(planting_of(left).ports, ports("1, 4"));
    assert!(!left.card.archived && left.card.version == 2);
    assert_eq!(left.card.holds, Holds::From("2027-03-09".parse().unwrap()));
    // The last of them: nothing stands there any more, and nothing is dead.
    let all = self::writes(&new(vec![transplant(Some("1-4"), "1-4")]), facts());
    assert!(all[1].card.archived && planting_of(&all[1]).stage == Stage::Vegetative);
}

#[test]
fn a_cutting_begins_young_and_its_plant_stays_whole() {
    let writes = writes(&new(vec![transplant(None, "1-3")]), facts());
    let [here] = writes.as_slice() else { panic!("{writes:?}") };
    let cut = planting_of(here);
    assert_eq!((cut.stage, cut.ports.clone()), (Stage::Seedling, ports("1-3")));
    assert_eq!(cut.growing_since().to_string(), "2027-03-09");
    assert!(cut.came.unwrap().cutting);
}

#[test]
fn a_loss_frees_its_ports_and_the_last_ends_the_planting() {
    let here = || SystemFacts { picked: vec![card(KALE, HERE, kale())], ..facts() };
    let one = writes(&new(vec![lost("2")]), here());
    assert_eq!(planting_of(&one[0]).ports, ports("1, 3-4"));
    let last = writes(&new(vec![lost("1-4")]), here());
    assert_eq!(planting_of(&last[0]).stage, Stage::Done);
    // Some die, and others move on, on one visit: each planting is written once.
    let both = writes(&new(vec![lost("2"), lost("3")]), here());
    assert_eq!(both.len(), 1);
    assert_eq!((planting_of(&both[0]).ports.clone(), both[0].card.version), (ports("1, 4"), 2));
}

#[test]
fn what_cannot_move_is_refused_and_says_why() {
    assert_eq!(refused(vec![transplant(Some("1-2"), "1-3")], facts()), "found 2 plants that go and 3 that come");
    assert_eq!(refused(vec![transplant(Some("6"), "1")], facts()), "found port 6, which has no Kale of that planting");
    let taken = vec![Timeline::always(planting("Mizuna", (1, 2), Stage::Seedling))];
    let busy = || SystemFacts { planted: taken.clone(), ..facts() };
    assert_eq!(refused(vec![transplant(Some("1"), "2")], busy()), "found Mizuna in port 2 already");
    let mut closed = facts();
    closed.sources[0].closed_off = Some(Message::of("cause", "root_rot", "name"));
    assert!(refused(vec![transplant(Some("1"), "1")], closed).contains("closed off"));
    let elsewhere = SystemFacts {
        sources: vec![SourceFacts { id: THERE, place: Some(Uuid::from_u128(99)), closed_off: None }],
        ..facts()
    };
    assert!(refused(vec![transplant(Some("1"), "1")], elsewhere).contains("is not in that system"));
    let gone = SystemFacts { picked: vec![], ..facts() };
    assert!(refused(vec![transplant(Some("1"), "1")], gone).contains("is not in that system"));
    // An id that is a card's already, of whatever kind.
    let taken = SystemFacts { ids_taken: vec![NEW], ..facts() };
    assert_eq!(refused(vec![transplant(Some("1"), "1")], taken), "found a planting that is there already");
    let full = SystemFacts { cards: mopsel_core::gate::MOST_CARDS, ..facts() };
    assert!(decided(&new(vec![transplant(Some("1"), "1")]), full, &adult()).is_err());
    assert_eq!(refused(vec![lost("1")], facts()), "found lost plants in ports 1, of a planting that is not here");
    match decided(&new(vec![transplant(Some("1"), "1")]), facts(), &child()) {
        Err(Refused::Refusal(refusal)) => assert_eq!(refusal.code, "child_moves_plants"),
        other => panic!("{other:?}"),
    }
}

/// What a move wrote, as it stands afterwards, and the request that takes it back.
fn moved() -> (SystemFacts, NewEntry) {
    let request = new(vec![transplant(Some("2-3"), "2-3")]);
    let done = at(NOW);
    let after = writes(&request, facts()).into_iter().map(|write| PickedCard {
        before: (!write.new).then(|| Card::Planting(kale())),
        card: write.card,
        made: done,
    });
    let entry =
        Entry { id: request.id, at: done, by: adult().person.unwrap(), body: request.body, amends: None, reason: None };
    let amended = LoggedEntry { seq: 1, system: HERE, recorded: done, device: None, entry };
    let back = NewEntry {
        id: Uuid::from_u128(78),
        body: Body::Withdrawn {},
        amends: Some(request.id),
        reason: Some(Note::new("Wrong crate").unwrap()),
        ..new(vec![])
    };
    (SystemFacts { picked: after.collect(), amended: Some(amended), ..facts() }, back)
}

#[test]
fn a_move_taken_back_puts_both_plantings_as_they_were() {
    let (there, back) = moved();
    let turned = writes(&back, there);
    let of = |id: Uuid| turned.iter().find(|write| write.card.id == id).unwrap();
    assert!(of(NEW).card.archived && of(NEW).card.holds == Holds::Always, "it never stood here");
    assert_eq!(planting_of(of(KALE)).ports, ports("1-4"));
    assert!(turned.iter().all(|write| !write.new));
}

#[test]
fn a_move_whose_plants_were_touched_since_is_moved_back_and_not_taken_back() {
    let (mut there, back) = moved();
    let edited = there.picked.iter_mut().find(|picked| picked.card.id == NEW).unwrap();
    edited.card.version = 2;
    match decided(&back, there, &adult()) {
        Err(Refused::Refusal(refusal)) => {
            assert_eq!(refusal.said().mend, "Move the plants back, as a new move.")
        }
        other => panic!("{other:?}"),
    }
}

#[test]
fn what_came_from_a_system_is_a_contact_of_it() {
    let log = [visit("2027-03-09 08:00", Visit { events: vec![transplant(Some("1"), "1")], ..Visit::default() })];
    let garden = Garden::new(tub(), vec![], &log, NOW);
    let contact = &garden.known.happened.contacts[0];
    assert_eq!((contact.system, contact.name.as_str()), (THERE, "Window crate"));
}
