//! Young plants among old ones, whose roots do not reach the water that may not be raised.

use crate::common::{CHILD, Garden, Said, entry, level, planting, tub, visit};
use mopsel_core::calendar::Weekday;
use mopsel_core::crop::{Planting, Stage};
use mopsel_core::diagnosis::{explain, gather};
use mopsel_core::fact::{Body, Entry, Happened, PlantSign, Plants, RootAnswers, Roots, Visit};
use mopsel_core::quantity::Litres;
use mopsel_core::reach::dry;
use mopsel_core::reservoir::{RefillMethod, Shape};
use mopsel_core::system::{Kind, System};

/// Four old lettuces, and one planted on a few days ago; the water stands where the log says.
fn nursery(planted_on: &str, log: &[Entry], now: &str) -> Garden {
    let old = planting("Butter lettuce", (1, 4), Stage::Vegetative);
    let young = Planting { planted_on: planted_on.parse().unwrap(), ..planting("Basil", (5, 5), Stage::Seedling) };
    Garden::new(tub(), vec![old, young], log, now)
}

fn watered(when: &str) -> Entry {
    entry(when, Body::Visit(Visit { events: vec![Happened::Watered {}], ..Visit::default() }))
}

fn low(when: &str) -> Entry {
    visit(when, level(12.0))
}

#[test]
fn young_roots_above_low_water_get_a_drink_each_day_until_they_reach() {
    let mut garden = nursery("2027-03-05", &[low("2027-03-08 09:00")], "2027-03-09 10:00");
    let task = garden.task("dry_roots");
    assert_eq!(task.name, "Give a drink from above: Basil");
    assert!(task.reason.contains("about 32 mm long"), "{}", task.reason);
    assert!(task.reason.contains("No drink from above is in the log."), "{}", task.reason);
    assert_eq!(task.due_on.to_string(), "2027-03-08", "from the reading on, and not from planting");
    assert!(task.one_tap && !task.adult);
    // The tap records a drink, and the next one is due tomorrow.
    let tapped = *task.sound.unwrap();
    assert_eq!(tapped.events, vec![Happened::Watered {}]);
    garden.log(visit("2027-03-09 10:01", tapped));
    assert_eq!(garden.task("dry_roots").due_on.to_string(), "2027-03-10");
    assert!(
        garden.task("dry_roots").reason.contains("The last drink was today."),
        "{}",
        garden.task("dry_roots").reason
    );
    // Seen in the water, it is over.
    garden.log(visit("2027-03-09 11:00", Visit { events: vec![Happened::RootsReach {}], ..Visit::default() }));
    assert!(dry(&garden.situation()).is_empty());
}

#[test]
fn a_missed_drink_is_late_and_leads_the_list() {
    let log = [low("2027-03-04 09:00"), watered("2027-03-06 09:00"), visit("2027-03-08 09:00", level(10.0))];
    let garden = nursery("2027-03-03", &log, "2027-03-09 10:00");
    let task = garden.task("dry_roots");
    assert_eq!(task.days_late, 2);
    assert!(task.margin_days < 0.0);
}

#[test]
fn roots_that_reach_by_their_age_ask_for_nothing() {
    let garden = nursery("2027-02-05", &[low("2027-03-08 09:00")], "2027-03-09 10:00");
    assert!(dry(&garden.situation()).is_empty(), "a month old");
    let full = tub().full().get();
    let garden = nursery("2027-03-08", &[visit("2027-03-09 09:00", level(full))], "2027-03-09 10:00");
    assert!(dry(&garden.situation()).is_empty(), "the water touches the pots");
    // Five millimetres lower it still does.
    let garden = nursery("2027-03-09", &[visit("2027-03-09 09:00", level(full - 0.9))], "2027-03-09 10:00");
    assert!(dry(&garden.situation()).is_empty());
}

#[test]
fn where_all_are_young_or_water_may_be_raised_or_nobody_knows_there_is_no_such_task() {
    let log = [low("2027-03-08 09:00")];
    let young = Planting { planted_on: "2027-03-05".parse().unwrap(), ..planting("Basil", (5, 5), Stage::Seedling) };
    let alone = Garden::new(tub(), vec![young.clone()], &log, "2027-03-09 10:00");
    assert!(dry(&alone.situation()).is_empty(), "it is filled to the pots instead");
    let mut free = nursery("2027-03-05", &log, "2027-03-09 10:00");
    free.system.refill = RefillMethod::NoLimit;
    assert!(dry(&free.situation()).is_empty());
    let unread = nursery("2027-03-05", &[watered("2027-03-08 09:00")], "2027-03-09 10:00");
    assert!(dry(&unread.situation()).is_empty());
    let mut stated = nursery("2027-03-05", &log, "2027-03-09 10:00");
    stated.system.reservoir.shape = Shape::Stated { litres: Litres::new(37.0).unwrap() };
    assert!(dry(&stated.situation()).is_empty(), "of a vessel in litres nobody knows the height");
    let film = System { kind: Kind::FilmChannel, ..tub() };
    assert!(!film.traits.channels, "traits rule, not the kind");
}

#[test]
fn a_child_may_water_and_is_told_so_in_its_words() {
    let garden = nursery("2027-03-05", &[low("2027-03-08 09:00")], "2027-03-09 10:00").for_child();
    let task = garden.raw_tasks().into_iter().find(|task| task.code == "dry_roots").unwrap().said_to(CHILD);
    assert!(task.doing.starts_with("Their roots do not reach the water yet."), "{}", task.doing);
}

#[test]
fn a_drooping_seedling_is_first_taken_for_thirsty_where_its_roots_hang_above_the_water() {
    let garden = nursery("2027-03-05", &[low("2027-03-09 09:00")], "2027-03-09 10:00");
    let droops = Visit {
        plants: Some(Plants { signs: vec![PlantSign::of("wilts_with_water").unwrap()], ..Plants::default() }),
        ..Visit::default()
    };
    let found = explain(&gather(&garden.situation(), Some(&droops))).unwrap().causes;
    assert_eq!(found[0].key, "thirst");
}

/// Where the water carries rot, it is not poured over the plants too, and a child only looks.
#[test]
fn over_rot_the_drink_is_fresh_water_and_an_adults() {
    let rot = Visit {
        roots: Some(Roots {
            answers: RootAnswers { slime_or_browning: Some(true), ..RootAnswers::default() },
            ports: None,
        }),
        ..level(12.0)
    };
    let garden = nursery("2027-03-05", &[visit("2027-03-08 09:00", rot)], "2027-03-09 10:00");
    let task = garden.task("dry_roots");
    assert!(task.adult);
    assert!(task.doing.contains("fresh water from a clean cup"), "{}", task.doing);
    assert!(garden.for_child().tasks().iter().all(|task| task.code != "dry_roots"));
}

#[test]
fn on_closed_days_nobody_comes_and_the_next_drink_is_on_the_first_open_one() {
    let week = [Weekday::Monday, Weekday::Tuesday, Weekday::Wednesday, Weekday::Thursday, Weekday::Friday];
    // Given on a Friday.
    let log = [low("2027-03-04 09:00"), watered("2027-03-05 09:00")];
    let garden = nursery("2027-03-03", &log, "2027-03-05 10:00").open(&week);
    assert_eq!(garden.task("dry_roots").due_on.to_string(), "2027-03-08");
}
