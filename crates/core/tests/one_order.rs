//! One order for one tank: what a change does anyway is not ordered beside it.

use crate::common::{Garden, Said, at_the_bench, ec, level, ph, planting, system, visit};
use mopsel_core::bench::{Ask, Purpose};
use mopsel_core::care::one_order::{change_soon, told};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Change, Chore, Entry, Instead, PutOff, Subject, Visit};
use mopsel_core::system::{Check, Kind, System, kinds};
use mopsel_core::verdict::{Rank, judge_state, judge_visit};
use proptest::prelude::*;

const NOW: &str = "2027-03-09 09:00";

fn read(litres: f64, ph_value: f64, strength: f64) -> Visit {
    Visit { ph: Some(ph(ph_value)), ec: Some(ec(strength)), ..level(litres) }
}

fn changed(when: &str) -> Entry {
    crate::common::entry(when, Body::Change(Change::full(crate::common::l(88.0))))
}

fn rails(changed_on: &str, found: Visit) -> Garden {
    let log = [changed(changed_on), visit("2027-03-09 08:00", found)];
    let days = System { change_days: 14, ..system(Kind::FilmChannel) };
    Garden::new(days, vec![planting("Kale", (1, 9), Stage::Vegetative)], &log, NOW)
}

fn corrections(garden: &Garden) -> Vec<String> {
    let tasks = garden.tasks().into_iter();
    let of_water = |subject: Option<Subject>| matches!(subject, Some(Subject::Ec | Subject::Ph));
    tasks.filter(|task| task.check.is_none() && of_water(task.subject)).map(|task| task.name).collect()
}

#[test]
fn a_change_due_within_two_days_is_due_today_and_takes_feed_and_acid_in() {
    let soon = rails("2027-02-25 09:00", read(80.0, 7.4, 0.7));
    assert_eq!(corrections(&soon), Vec::<String>::new());
    let change = soon.task("change");
    assert_eq!((change.days_late, change.slack_days), (0, 3.0), "it waits no longer than what it takes in: {change:?}");
    assert_eq!(rails("2027-02-25 09:00", read(80.0, 8.4, 1.5)).task("change").rank, Rank::Days);
    assert!(change.reason.contains("pH 7.4") && change.reason.contains("Add no feed and no acid before"), "{change:?}");
    for (_, verdict) in judge_state(&soon.situation()) {
        if matches!(verdict.subject, Subject::Ec | Subject::Ph) {
            assert!(told(verdict, &soon.situation()).said().next.starts_with("Change the water today"));
        }
    }
    let typed = judge_visit(&read(80.0, 7.6, 0.7), &soon.situation()).unwrap().verdicts;
    let of_ph = typed.into_iter().find(|one| one.subject == Subject::Ph).unwrap();
    assert!(told(of_ph, &soon.situation()).said().next.starts_with("Change the water today"));
    let acid = Purpose::Ph { litres: None, ph: Some(ph(7.4)), aim: None, product: None, jar: None };
    let plan = at_the_bench(&soon.situation(), &Ask::new(acid.clone())).unwrap().said();
    assert!(plan.warnings[0].contains("instead of correcting it"), "{:?}", plan.warnings);

    let later = rails("2027-03-02 09:00", read(80.0, 7.4, 0.7));
    assert_eq!(corrections(&later), ["Put strength and pH right"], "a week off, both are mended by one order");
    assert!(later.task("change").days_late < -2);
    let plan = at_the_bench(&later.situation(), &Ask::new(acid)).unwrap().said();
    assert!(!plan.warnings.iter().any(|said| said.contains("instead of correcting")));
}

#[test]
fn a_change_that_somebody_moved_further_off_takes_nothing_in() {
    let found = read(80.0, 7.4, 1.5);
    let mut garden = rails("2027-02-23 09:00", found);
    assert_eq!((corrections(&garden).len(), garden.task("change").days_late), (0, 0));
    let (from, to) = (jiff::civil::date(2027, 3, 9), jiff::civil::date(2027, 3, 13));
    let chore = Chore::Check { check: Check::Change };
    let put_off = vec![PutOff { chore, instead: Instead::Moved { from, to }, why: None }];
    garden.log(visit("2027-03-09 08:30", Visit { put_off, ..Visit::default() }));
    assert_eq!(garden.task("change").days_late, -4, "{:?}", garden.task("change"));
    assert_eq!(corrections(&garden).len(), 1, "until then the pH is put right by itself");
}

#[test]
fn a_change_that_has_nothing_to_take_in_keeps_its_day_and_dry_roots_are_never_taken_in() {
    assert_eq!(rails("2027-02-25 09:00", read(80.0, 6.0, 1.5)).task("change").days_late, -2);
    let dry = rails("2027-02-25 09:00", read(20.0, 7.4, 1.5));
    let first = dry.tasks().remove(0);
    assert_eq!((first.rank, first.subject), (Rank::Hours, Some(Subject::Level)), "{first:?}");
}

proptest! {
    /// On no day and in no state does one order stand against another: where a change is due within two days, nothing else
    /// is poured to put strength or pH right; and there is never more than one order for either.
    #[test]
    fn no_two_orders_stand_against_each_other(
        kind in 0..kinds().len(),
        ago in 1i64..20,
        litres in 5.0f64..97.0,
        sour in 4.2f64..8.8,
        strength in 0.31f64..4.0,
        read_ago in 0i64..3,
    ) {
        let day = |ago: i64| format!("{} 08:00", mopsel_core::calendar::add_days(jiff::civil::date(2027, 3, 9), -ago));
        let log = [changed(&day(ago.max(read_ago + 1))), visit(&day(read_ago), read(litres, sour, strength))];
        let garden = Garden::new(system(kinds()[kind].key), vec![planting("Kale", (1, 4), Stage::Vegetative)], &log, NOW);
        let tasks = garden.tasks();
        let many = |subject| tasks.iter().filter(|task| task.check.is_none() && task.subject == Some(subject)).count();
        prop_assert!(many(Subject::Ec) <= 1 && many(Subject::Ph) <= 1 && many(Subject::Level) <= 1);
        let ordered: Vec<_> = tasks.iter().filter(|task| task.check.is_none()).filter_map(|task| task.cause.as_deref()).collect();
        let change = tasks.iter().find(|task| task.check == Some(Check::Change)).map(|task| task.days_late);
        if change_soon(&garden.situation()).is_some() {
            let pours = |cause: &&&str| ["weak", "strong", "spent", "high", "low"].iter().any(|word| cause.contains(word))
                && (cause.contains(".ec.") || cause.contains(".ph.")) && !cause.contains("probe");
            prop_assert!(ordered.iter().find(pours).is_none(), "{ordered:?} beside a change in {change:?}");
        }
    }
}
