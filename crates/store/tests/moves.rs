//! Plants that go from one system to another: one write, whoever else writes, and one place where each plant stands.

use crate::common::{Fixture, now, row};
use mopsel_core::crop::{CropGroup, Planting, Stage};
use mopsel_core::fact::card::Card;
use mopsel_core::fact::{Body, Happened, StoredCard, Transplant, Visit};
use mopsel_core::gate::{Command, NewEntry};
use mopsel_core::quantity::{Name, Note};
use mopsel_core::system::PortSet;
use mopsel_store::{Outcome, StoreError};
use std::collections::BTreeMap;
use uuid::Uuid;

fn ports(text: &str) -> PortSet {
    PortSet::try_from(text.to_owned()).unwrap()
}

/// A row with six aubergines, and two empty rows.
async fn rows() -> (Fixture, Uuid, [Uuid; 2]) {
    let fixture = Fixture::new().await;
    let (planting, others) = (Uuid::now_v7(), [Uuid::now_v7(), Uuid::now_v7()]);
    for (n, id) in others.into_iter().enumerate() {
        fixture.make(id, Some(fixture.place), Card::System(row(&format!("Row {n}")))).await.unwrap();
    }
    let aubergines = Planting {
        crop: Name::new("Aubergine").unwrap(),
        group: CropGroup::Fruiting,
        ports: ports("1-6"),
        stage: Stage::Vegetative,
        sown_on: None,
        planted_on: "2027-02-01".parse().unwrap(),
        came: None,
        ec_band: None,
        ph_band: None,
        note: None,
    };
    fixture.make(planting, Some(fixture.system_id), Card::Planting(aubergines)).await.unwrap();
    (fixture, planting, others)
}

fn moving(fixture: &Fixture, planting: Uuid, left: &str, to: &str) -> (NewEntry, Uuid) {
    let becomes = Uuid::now_v7();
    let event = Happened::Transplanted(Transplant {
        planting,
        crop: Name::new("Aubergine").unwrap(),
        system: fixture.system_id,
        name: Name::new("Bucket row").unwrap(),
        left: Some(ports(left)),
        to: ports(to),
        becomes,
    });
    let body = Body::Visit(Visit { events: vec![event], ..Visit::default() });
    let id = Uuid::now_v7();
    (NewEntry { id, at: Some(now()), body, amends: None, reason: None, closes: None, saved: None }, becomes)
}

async fn plantings(fixture: &Fixture) -> BTreeMap<Uuid, (StoredCard, Planting)> {
    let cards = fixture.store.news_since(0).await.unwrap().cards;
    let planting = |stored: StoredCard| match stored.card.clone() {
        Card::Planting(planting) => Some((stored.id, (stored, planting))),
        _ => None,
    };
    cards.into_iter().filter_map(planting).collect()
}

async fn add(fixture: &Fixture, system: Uuid, new: &NewEntry) -> Result<Outcome, StoreError> {
    fixture.submit(&Command::Add(system, Box::new(new.clone()))).await
}

#[tokio::test]
async fn one_plant_that_two_people_move_at_once_goes_to_one_place() {
    for _ in 0..10 {
        let (fixture, planting, [left, right]) = rows().await;
        let (one, two) = (moving(&fixture, planting, "2", "1").0, moving(&fixture, planting, "2", "1").0);
        let (a, b) = tokio::join!(add(&fixture, left, &one), add(&fixture, right, &two));
        assert_eq!(usize::from(a.is_ok()) + usize::from(b.is_ok()), 1, "{a:?} {b:?}");
        let all = plantings(&fixture).await;
        let standing: usize = all.values().filter(|(card, _)| !card.archived).map(|(_, p)| p.ports.len()).sum();
        assert_eq!((all.len(), standing), (2, 6), "no plant is lost, none stands twice");
    }
}

#[tokio::test]
async fn a_move_that_is_sent_again_is_one_move_and_can_be_taken_back_once() {
    let (fixture, planting, [to, _]) = rows().await;
    let (request, becomes) = moving(&fixture, planting, "1-2", "3-4");
    for _ in 0..3 {
        add(&fixture, to, &request).await.unwrap();
    }
    let all = plantings(&fixture).await;
    assert_eq!((all[&planting].1.ports.clone(), all[&becomes].1.ports.clone()), (ports("3-6"), ports("3-4")));
    assert_eq!(all[&becomes].0.parent, Some(to));
    let back = NewEntry {
        id: Uuid::now_v7(),
        body: Body::Withdrawn {},
        amends: Some(request.id),
        reason: Note::new("The wrong row").ok(),
        ..request.clone()
    };
    add(&fixture, to, &back).await.unwrap();
    let all = plantings(&fixture).await;
    assert_eq!(all[&planting].1.ports, ports("1-6"));
    assert!(all[&becomes].0.archived && !all[&planting].0.archived);
    assert!(
        add(&fixture, to, &NewEntry { id: Uuid::now_v7(), ..back.clone() }).await.is_err(),
        "it is taken back already"
    );
    // And may be moved anew.
    let (again, _) = moving(&fixture, planting, "1-6", "1-6");
    add(&fixture, to, &again).await.unwrap();
    assert!(plantings(&fixture).await[&planting].0.archived, "none is left");
    // The last of them comes back out of the archive too.
    let back = NewEntry { id: Uuid::now_v7(), amends: Some(again.id), ..back };
    add(&fixture, to, &back).await.unwrap();
    let (card, stands) = plantings(&fixture).await[&planting].clone();
    assert!(!card.archived && stands.ports == ports("1-6"));
}

#[tokio::test]
async fn plants_do_not_become_a_card_that_is_there() {
    let (fixture, planting, [to, other]) = rows().await;
    for there in [fixture.person, fixture.place, other, planting] {
        let (mut request, becomes) = moving(&fixture, planting, "1", "1");
        let body = serde_json::to_string(&request.body).unwrap().replace(&becomes.to_string(), &there.to_string());
        request.body = serde_json::from_str(&body).unwrap();
        let refused = add(&fixture, to, &request).await.unwrap_err().to_string();
        assert!(refused.contains("moved_twice"), "{refused}");
    }
    assert_eq!(plantings(&fixture).await.len(), 1);
}

#[tokio::test]
async fn a_move_of_a_planting_that_was_edited_meanwhile_is_not_taken_back_over_it() {
    let (fixture, planting, [to, _]) = rows().await;
    let (request, becomes) = moving(&fixture, planting, "1-2", "3-4");
    add(&fixture, to, &request).await.unwrap();
    let (card, grown) = plantings(&fixture).await[&becomes].clone();
    let grown = Planting { stage: Stage::Flowering, ..grown };
    fixture.edit(becomes, card.version, Some(Card::Planting(grown)), None).await.unwrap();
    let back = NewEntry {
        id: Uuid::now_v7(),
        body: Body::Withdrawn {},
        amends: Some(request.id),
        reason: Note::new("The wrong row").ok(),
        ..request
    };
    assert!(add(&fixture, to, &back).await.is_err());
    let all = plantings(&fixture).await;
    assert_eq!((all[&planting].1.ports.clone(), all[&becomes].1.stage), (ports("3-6"), Stage::Flowering));
}
