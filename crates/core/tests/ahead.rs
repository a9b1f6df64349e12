//! The weeks ahead: what falls where, what it costs, and what could be moved.

use crate::common::{Garden, Said, done, level, planting, system, visit};
use jiff::civil::{Date, date};
use mopsel_core::calendar::{Closure, Weekday, add_days};
use mopsel_core::care::ahead::{Coming, ahead, offers};
use mopsel_core::care::put_off::check;
use mopsel_core::care::tasks;
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Change, Chore, Instead, PutOff, Visit};
use mopsel_core::system::{Check, Kind};
use proptest::prelude::*;

fn garden() -> Garden {
    let mut log = vec![crate::common::entry("2027-03-01 08:00", Body::Change(Change::full(crate::common::l(90.0))))];
    log.extend((0..6).map(|n| visit(&format!("2027-03-0{} 09:00", n + 2), level(86.0 - 4.0 * f64::from(n)))));
    log.push(visit("2027-03-08 09:00", done(Check::WipeDown)));
    Garden::new(system(Kind::AeratedRaft), vec![planting("Dill", (1, 8), Stage::Vegetative)], &log, "2027-03-09 09:00")
}

fn of(all: &[Coming], check: Check) -> Vec<&Coming> {
    all.iter().filter(|one| one.check == Some(check)).collect()
}

#[test]
fn what_comes_first_is_the_task_and_the_rest_follows_by_its_interval() {
    let garden = garden();
    let all = ahead(28, &garden.situation());
    let wipes: Vec<Date> = of(&all, Check::WipeDown).iter().map(|one| one.on).collect();
    assert_eq!(wipes, [date(2027, 3, 15), date(2027, 3, 22), date(2027, 3, 29), date(2027, 4, 5)]);
    for task in tasks(&garden.situation()).iter().filter(|task| task.check.is_some_and(|check| check != Check::LookIn))
    {
        let first = all.iter().find(|one| one.first && one.code == task.code);
        assert_eq!(
            first.map(|one| one.on),
            Some(task.due_on.max(date(2027, 3, 9))).filter(|on| *on < date(2027, 4, 6)),
            "{}",
            task.code
        );
    }
    let changes = of(&all, Check::Change);
    assert!(changes[0].heavy && changes[0].movable && !changes[1].movable, "only what stands now is moved");
    assert!((changes[0].litres.get() - 90.0).abs() < 0.1, "{:?}", changes[0].litres);
    assert!(all.iter().all(|one| one.check != Some(Check::LookIn)));
}

#[test]
fn a_top_off_has_its_days_between_and_its_litres_and_none_falls_on_the_day_of_a_change() {
    let mut garden = garden();
    let all = ahead(28, &garden.situation());
    let first = of(&all, Check::Level)[0];
    let (from, to) = first.between.unwrap();
    assert!(from <= first.on && first.on <= to && from < to, "{first:?}");
    // Four litres a day: what is missing to ninety on its day.
    let missing = 4.0 * f64::from((first.on - date(2027, 3, 7)).get_days()) + 24.0;
    assert!((first.litres.get() - missing).abs() < 5.0, "{} for {missing}", first.litres.get());
    garden.system.change_days = 9;
    garden.history = mopsel_core::fact::Timeline::always(garden.system.clone());
    for one in ahead(60, &garden.situation()) {
        let changed =
            ahead(60, &garden.situation()).iter().any(|other| other.check == Some(Check::Change) && other.on == one.on);
        assert!(one.check != Some(Check::Level) || !changed || one.litres.get() == 0.0, "{one:?}");
    }
}

#[test]
fn nothing_falls_on_closed_days_but_what_cannot_wait() {
    let mut garden = garden().open(&Weekday::ALL[..5]);
    let closed = Closure { name: None, from: date(2027, 3, 20), to: date(2027, 4, 2) };
    garden.calendar = garden.calendar.without(&[closed]);
    for one in ahead(84, &garden.situation()) {
        assert!(garden.calendar.is_open(one.on), "{} on {}", one.code, one.on);
    }
}

fn heavy(on: Date, until: Date) -> Coming {
    let change = || of(&ahead(28, &garden().situation()), Check::Change)[0].clone();
    Coming { on, due_on: on, until, ..change() }
}

#[test]
fn of_two_heavy_jobs_on_one_day_the_one_with_more_room_is_offered_the_nearest_open_day() {
    let day = date(2027, 3, 17);
    let all = [("Blue raft", vec![heavy(day, add_days(day, 1))]), ("Corner tower", vec![heavy(day, add_days(day, 4))])];
    let calendar = garden().calendar.without(&[Closure { name: None, from: add_days(day, 1), to: add_days(day, 1) }]);
    let offered = offers(&all, &calendar, date(2027, 3, 9));
    assert_eq!(offered.len(), 1, "one of the two stays");
    assert_eq!((offered[0].at, offered[0].from, offered[0].to), (1, day, add_days(day, -1)));
    assert_eq!(
        offered[0].said.clone().said(),
        "2 heavy jobs fall on Wed 17 Mar. Change the reservoir at Corner tower could be done Tue 16 Mar."
    );
    // Today there is no day before, and the day after is closed.
    let today = offers(&all, &calendar, day);
    assert_eq!(today[0].to, add_days(day, 2));
    let alone = [("Blue raft", vec![heavy(day, add_days(day, 1))])];
    assert!(offers(&alone, &calendar, date(2027, 3, 9)).is_empty());
}

proptest! {
    /// Whatever is offered is taken by the gate, and stands on its new day.
    #[test]
    fn whatever_is_offered_is_taken(apart in 0i64..3, ahead_by in 0i64..9) {
        let mut gardens = [garden(), garden()];
        gardens[1].system.change_days = u16::try_from(14 + apart).unwrap();
        for garden in &mut gardens {
            garden.history = mopsel_core::fact::Timeline::always(garden.system.clone());
            garden.now = crate::common::at("2027-03-09 09:00").to_zoned(crate::common::zone());
            garden.now = mopsel_core::calendar::after(garden.now.timestamp(), ahead_by as f64).to_zoned(crate::common::zone());
        }
        let list = |gardens: &[Garden; 2]| [("One", ahead(28, &gardens[0].situation())), ("Two", ahead(28, &gardens[1].situation()))];
        let today = gardens[0].situation().today();
        let offered = offers(&list(&gardens), &gardens[0].calendar, today);
        for offer in &offered {
            let chore = Chore::Check { check: if offer.code == "change" { Check::Change } else { Check::Level } };
            let moved = Visit { put_off: vec![PutOff { chore, instead: Instead::Moved { from: offer.from, to: offer.to }, why: None }], ..Visit::default() };
            prop_assert!(check(&moved, &gardens[offer.at].situation()).is_ok(), "{offer:?}");
            let when = gardens[offer.at].now.strftime("%Y-%m-%d %H:%M").to_string();
            gardens[offer.at].log(visit(&when, moved));
        }
        for offer in &offered {
            let all = ahead(28, &gardens[offer.at].situation());
            let there = all.iter().find(|one| one.first && one.code == offer.code);
            prop_assert_eq!(there.map(|one| one.on), Some(offer.to), "it stands where it was moved to");
        }
    }
}

#[test]
fn what_a_closure_would_ask_for_twice_within_days_is_offered_once() {
    let mut garden = garden();
    garden.now = crate::common::at("2027-03-15 09:00").to_zoned(crate::common::zone());
    let closed = Closure { name: None, from: date(2027, 3, 19), to: date(2027, 4, 4) };
    garden.calendar = garden.calendar.without(&[closed]);
    let all = ahead(28, &garden.situation());
    let days: Vec<Date> = of(&all, Check::Change).iter().map(|one| one.on).collect();
    assert_eq!(days[..2], [date(2027, 3, 15), date(2027, 3, 18)], "due today, and again before the closure");
    let offered = offers(&[("Blue raft", all)], &garden.calendar, date(2027, 3, 15));
    assert_eq!((offered.len(), offered[0].to), (1, date(2027, 3, 18)));
    assert!(offered[0].said.clone().said().ends_with("Done Thu 18 Mar, once is enough."), "{:?}", offered[0].said);
    // Followed, it falls before the closure and after it, and nothing more is offered.
    let instead = Instead::Moved { from: offered[0].from, to: offered[0].to };
    let chore = Chore::Check { check: Check::Change };
    let moved = Visit { put_off: vec![PutOff { chore, instead, why: None }], ..Visit::default() };
    assert!(check(&moved, &garden.situation()).is_ok());
    garden.log(visit("2027-03-15 09:00", moved));
    let all = ahead(28, &garden.situation());
    let days: Vec<Date> = of(&all, Check::Change).iter().map(|one| one.on).collect();
    assert_eq!(days[..2], [date(2027, 3, 18), date(2027, 4, 5)]);
    assert!(offers(&[("Blue raft", all)], &garden.calendar, date(2027, 3, 15)).is_empty());
}
