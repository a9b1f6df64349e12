//! The order of a round, what is carried on it, and what its visits take.

use crate::common::{Garden, Refused, Said, adult, done, level, planting, system, visit};
use mopsel_core::bench::kit::{Ready, pours, ready, tools};
use mopsel_core::bench::{Ask, Plan, Purpose, Shelf, plan, usual_containers, usual_tools};
use mopsel_core::care::fit::worth;
use mopsel_core::care::tasks;
use mopsel_core::care::walk::{Stop, walk};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Visit};
use mopsel_core::mixing::{products, recipes};
use mopsel_core::quantity::{EcReading, EcScale, UnitSystem};
use mopsel_core::system::{Check, Kind, System};
use mopsel_core::verdict::Rank;
use proptest::prelude::*;
use std::collections::BTreeMap;
use uuid::Uuid;

const HALL: Uuid = Uuid::from_u128(1);
const ROOM: Uuid = Uuid::from_u128(2);

fn stop(place: Uuid, suspect: bool, turn: Option<u16>, margin_days: f64) -> Stop {
    Stop { place, suspect, turn, rank: Rank::Routine, margin_days }
}

#[test]
fn sound_ones_come_first_place_by_place_in_their_own_order_and_suspects_last_of_all() {
    let stops = [
        stop(HALL, true, Some(1), -2.0),
        stop(ROOM, false, None, 1.0),
        stop(HALL, false, None, 0.5),
        stop(ROOM, false, None, 4.0),
        stop(HALL, false, Some(2), 6.0),
        stop(HALL, false, Some(1), 9.0),
    ];
    // The hall first, for the least margin stands there; in it by its own turns, then by margin.
    assert_eq!(walk(&stops), [5, 4, 2, 1, 3, 0]);
    assert!(walk(&[]).is_empty());
}

proptest! {
    /// Nobody is left out, no suspect comes before a sound one, and no place is come back to among the sound.
    #[test]
    fn a_walk_is_whole_and_leaves_no_suspect_before_a_sound_one(all in prop::collection::vec((0u128..4, any::<bool>(), prop::option::of(1u16..5), -9.0f64..9.0), 0..24)) {
        let stops: Vec<Stop> = all.iter().map(|(place, suspect, turn, margin)| stop(Uuid::from_u128(*place), *suspect, *turn, *margin)).collect();
        let order = walk(&stops);
        let mut sorted = order.clone();
        sorted.sort_unstable();
        prop_assert_eq!(sorted, (0..stops.len()).collect::<Vec<_>>());
        let first = order.iter().position(|n| stops[*n].suspect).unwrap_or(order.len());
        prop_assert!(order[first..].iter().all(|n| stops[*n].suspect));
        let mut places: Vec<Uuid> = order[..first].iter().map(|n| stops[*n].place).collect();
        places.dedup();
        let many = places.len();
        places.sort_unstable();
        places.dedup();
        prop_assert_eq!(places.len(), many);
    }
}

fn planned(ask: &Ask) -> Plan {
    let (products, recipes, learnt) =
        (products().iter().cloned().collect(), recipes().iter().cloned().collect(), BTreeMap::new());
    let (containers, tools) = (usual_containers(UnitSystem::Metric), usual_tools(UnitSystem::Metric));
    let shelf = Shelf {
        situation: None,
        products: &products,
        recipes: &recipes,
        learnt: &learnt,
        containers: &containers,
        tools: &tools,
        lifts: 20.0,
        scale: EcScale::MilliSiemens,
        actor: &adult(),
    };
    plan(ask, &shelf).unwrap()
}

fn jug(litres: f64, ec: f64) -> Plan {
    let target = Some(EcReading { value: ec, scale: EcScale::MilliSiemens, compensated: true });
    let source = Some(EcReading { value: 0.3, scale: EcScale::MilliSiemens, compensated: true });
    let recipe = Some(recipes()[0].0);
    planned(&Ask { recipe, target, source_ec: source, ..Ask::new(Purpose::Jug { litres: crate::common::l(litres) }) })
}

#[test]
fn what_is_poured_alike_is_mixed_in_one_go_and_nothing_is_lost_in_it() {
    let (one, two, other) = (jug(6.0, 1.4), jug(9.0, 1.4), jug(4.0, 2.0));
    let all: Ready = ready(&[(0, &one), (1, &two), (2, &other)]);
    assert_eq!(all.mixes.len(), 2, "two strengths, two batches");
    let mix = &all.mixes[0];
    assert!((mix.litres.get() - 15.0).abs() < 1e-9);
    assert_eq!(mix.shares.iter().map(|(n, litres)| (*n, litres.get())).collect::<Vec<_>>(), [(0, 6.0), (1, 9.0)]);
    // The whole batch takes what one plan for all of it takes.
    let whole = jug(15.0, 1.4);
    for (dose, made) in whole.doses.iter().zip(&mix.ingredients) {
        assert_eq!(dose.product, made.product);
        assert!((dose.amount.value - made.amount.value).abs() < 0.5, "{} {}", dose.amount.value, made.amount.value);
    }
    let sum = |plan: &Plan| plan.doses.iter().map(|dose| dose.amount.value).sum::<f64>();
    let packed: f64 = all.mixes.iter().flat_map(|mix| &mix.ingredients).map(|one| one.amount.value).sum();
    assert!((packed - sum(&one) - sum(&two) - sum(&other)).abs() < 1e-6, "all that is poured is packed");
    assert!(all.products.is_empty(), "and nothing twice");
}

fn raft(log: &[mopsel_core::fact::Entry]) -> Garden {
    Garden::new(system(Kind::AeratedRaft), vec![planting("Dill", (1, 8), Stage::Vegetative)], log, "2027-03-09 09:00")
}

#[test]
fn the_tools_are_those_of_the_tasks_of_today_each_once() {
    let garden = raft(&[visit("2027-03-02 09:00", level(80.0))]);
    let said: Vec<String> = tools(tasks(&garden.situation()).iter()).into_iter().map(Said::said).collect();
    assert!(said.contains(&"the meter".to_owned()) && said.contains(&"a clear glass".to_owned()), "{said:?}");
    let mut once = said.clone();
    once.dedup();
    assert_eq!(said, once);
    assert!(!said.contains(&"the hose or pump for old water".to_owned()), "no change is due yet");
    let due = raft(&[crate::common::entry(
        "2027-02-20 09:00",
        Body::Change(mopsel_core::fact::Change::full(crate::common::l(90.0))),
    )]);
    let asks = pours(&tasks(&due.situation()), None);
    assert!(
        matches!(asks[0].purpose, Purpose::Change { .. }) && asks.len() == 1,
        "a change fills it: no top-off besides"
    );
}

#[test]
fn minutes_are_learnt_from_ones_own_visits_and_an_open_page_teaches_little() {
    let timed = |day: u32, minutes: u16| {
        visit(&format!("2027-03-0{day} 09:00"), Visit { minutes: Some(minutes), ..done(Check::Stone) })
    };
    let stone = |garden: &Garden| {
        let task = tasks(&garden.situation()).into_iter().find(|task| task.check == Some(Check::Stone)).unwrap();
        worth(&task, garden.known.done.pace()).minutes
    };
    let usual = Check::Stone.facts().minutes;
    assert_eq!(stone(&raft(&[timed(1, 4), timed(2, 4)])), usual, "two visits are too few");
    assert_eq!(stone(&raft(&[timed(1, 4), timed(2, 4), timed(3, 240), timed(4, 4)])), 2 * usual);
    assert_eq!(stone(&raft(&[timed(1, 200), timed(2, 200), timed(3, 200)])), 3 * usual, "never more than three times");
    let refused = |minutes| {
        Body::Visit(Visit { minutes: Some(minutes), ..done(Check::Stone) })
            .check(&system(Kind::AeratedRaft), &adult())
            .refusal()
            .code
    };
    assert_eq!((refused(0).as_str(), refused(241).as_str()), ("visit_minutes", "visit_minutes"));
    assert!(Visit { minutes: Some(4), ..Visit::default() }.is_empty(), "time alone is no visit");
    assert_eq!(System { turn: Some(0), ..system(Kind::AeratedRaft) }.check().refusal().code, "turn_on_round");
}
