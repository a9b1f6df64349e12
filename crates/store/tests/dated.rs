//! Facts have dates: what is edited today leaves what was logged before alone.

use crate::common::{Fixture, litres, now, row, vessel};
use jiff::SignedDuration;
use jiff::civil::{Date, date};
use mopsel_core::crop::{CropGroup, Planting, Stage};
use mopsel_core::fact::Holds;
use mopsel_core::fact::card::Card;
use mopsel_core::quantity::Name;
use mopsel_core::reservoir::{Reservoir, Shape};
use mopsel_core::system::{PortSet, System};
use mopsel_store::StoreError;
use uuid::Uuid;

fn with_vessel(rim: f64) -> Option<Card> {
    Some(Card::System(System { reservoir: vessel(rim), ..row("Bucket row") }))
}

/// The volumes that were read, oldest first.
async fn read(f: &Fixture) -> Vec<Option<f64>> {
    let known = f.store.kept(f.system_id).await.unwrap().unwrap();
    known.tank.volumes.iter().map(|point| point.before.map(|volume| volume.get())).collect()
}

#[tokio::test]
async fn an_exchanged_tank_leaves_the_volumes_of_the_old_one_alone() {
    let f = Fixture::new().await;
    f.append(&f.visit(24 * 20, 100.0)).await.unwrap();
    f.edit(f.system_id, 1, with_vessel(80.0), Some(Holds::From(date(2027, 3, 1)))).await.unwrap();
    f.append(&f.visit(24, 70.0)).await.unwrap();
    assert_eq!(read(&f).await, [Some(100.0), Some(70.0)], "100 L stood in the tank of 140");
    f.holds_together().await;
    let over = f.append(&f.visit(2, 100.0)).await;
    assert!(matches!(over, Err(StoreError::Refused(refusal)) if refusal.code == "volume_over_rim"));
    f.append(&f.visit(24 * 15, 110.0)).await.unwrap();
    f.holds_together().await;
}

#[tokio::test]
async fn a_tank_that_was_always_smaller_never_held_what_was_read_in_it() {
    let f = Fixture::new().await;
    f.append(&f.visit(24 * 20, 100.0)).await.unwrap();
    f.edit(f.system_id, 1, with_vessel(80.0), Some(Holds::Always)).await.unwrap();
    assert_eq!(read(&f).await, [None], "100 L never fitted");
    f.holds_together().await;
}

#[tokio::test]
async fn an_edit_holds_from_today_unless_it_says_more() {
    let f = Fixture::new().await;
    let edited = f.edit(f.system_id, 1, with_vessel(80.0), None).await.unwrap();
    assert_eq!(edited.holds, Holds::From(date(2027, 3, 9)));
}

#[tokio::test]
async fn an_edit_is_refused_before_the_system_began_and_after_today() {
    let f = Fixture::new().await;
    let refused = |day: Date| f.edit(f.system_id, 1, with_vessel(80.0), Some(Holds::From(day)));
    for (day, code) in [(date(2026, 12, 31), "edit_before_start"), (date(2027, 3, 10), "edit_to_come")] {
        match refused(day).await {
            Err(StoreError::Refused(refusal)) => {
                assert_eq!((refusal.code, refusal.field.as_str()), (code.into(), "holds"))
            }
            other => panic!("{other:?}"),
        }
    }
}

#[tokio::test]
async fn of_two_edits_dated_the_same_day_neither_undoes_the_other() {
    let f = Fixture::new().await;
    let day = Some(Holds::From(date(2027, 3, 1)));
    let lit = |light| System { traits: mopsel_core::system::Traits { light, ..row("x").traits }, ..row("Bucket row") };
    f.edit(f.system_id, 1, Some(Card::System(lit(true))), day).await.unwrap();
    let both = System { reservoir: vessel(80.0), ..lit(true) };
    f.edit(f.system_id, 2, Some(Card::System(both)), day).await.unwrap();
    f.append(&f.visit(24 * 20, 100.0)).await.unwrap();
    f.append(&f.visit(24, 70.0)).await.unwrap();
    assert_eq!(read(&f).await, [Some(100.0), Some(70.0)]);
    f.holds_together().await;
}

#[tokio::test]
async fn an_edit_may_not_make_the_past_into_what_cannot_have_been() {
    let f = Fixture::new().await;
    // A larger tank since March, with its lines; then a working line that only fits the larger one,
    // said to have been so always.
    f.edit(f.system_id, 1, with_vessel(300.0), Some(Holds::From(date(2027, 3, 1)))).await.unwrap();
    let channels = System {
        methods: mopsel_core::system::Methods {
            top_off: mopsel_core::system::TopOffMethod::Reservoir,
            ..Default::default()
        },
        traits: mopsel_core::system::Traits { top_off_reservoir: true, ..row("x").traits },
        reservoir: Reservoir::suggested(Shape::Stated { litres: litres(300.0) }, litres(100.0)),
        ..row("Bucket row")
    };
    f.edit(f.system_id, 2, Some(Card::System(channels.clone())), Some(Holds::From(date(2027, 3, 5)))).await.unwrap();
    let without =
        System { traits: mopsel_core::system::Traits { drain_back: litres(100.0), ..channels.traits }, ..channels };
    // 100 L of drain-back fit 300 L, but not the 140 L that stood there before March.
    match f.edit(f.system_id, 3, Some(Card::System(without)), Some(Holds::Always)).await {
        Err(StoreError::Refused(refusal)) => assert_eq!(refusal.code, "edit_contradicts_past"),
        other => panic!("{other:?}"),
    }
}

#[tokio::test]
async fn ports_do_not_shrink_below_what_stands_in_them() {
    let f = Fixture::new().await;
    let planting = Planting {
        crop: Name::new("Aubergine").unwrap(),
        group: CropGroup::Fruiting,
        ports: PortSet::range(1, 6),
        stage: Stage::Vegetative,
        sown_on: None,
        planted_on: date(2027, 2, 1),
        came: None,
        ec_band: None,
        ph_band: None,
        note: None,
    };
    f.make(Uuid::now_v7(), Some(f.system_id), Card::Planting(planting)).await.unwrap();
    let fewer = System { ports: 4, ..row("Bucket row") };
    let refused = f.edit(f.system_id, 1, Some(Card::System(fewer)), None).await;
    assert!(matches!(refused, Err(StoreError::Refused(refusal)) if refusal.code == "ports_below_planting"));
}

#[tokio::test]
async fn a_day_begins_in_the_places_own_zone_and_a_new_zone_folds_the_log_anew() {
    let f = Fixture::new().await;
    // 23:30 in London on 28 February; the new tank stands there from 1 March, which in Auckland has
    // long begun by then.
    let hours = (now() - SignedDuration::from_hours(24 * 8 + 9)).to_string();
    assert_eq!(hours, "2027-02-28T23:30:00Z");
    f.append(&f.visit(24 * 8 + 9, 100.0)).await.unwrap();
    f.edit(f.system_id, 1, with_vessel(80.0), Some(Holds::From(date(2027, 3, 1)))).await.unwrap();
    assert_eq!(read(&f).await, [Some(100.0)]);
    let Some(Card::Place(mut place)) =
        f.store.news_since(0).await.unwrap().cards.into_iter().find(|card| card.id == f.place).map(|card| card.card)
    else {
        panic!("a place")
    };
    place.zone = "Pacific/Auckland".into();
    f.edit(f.place, 1, Some(Card::Place(place)), None).await.unwrap();
    assert_eq!(read(&f).await, [None], "there it was 1 March already, and the tank the smaller one");
    f.holds_together().await;
}
