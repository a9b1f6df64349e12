//! Rules of one's own, and own slacks.

use crate::common::{Garden, Said, adult, child, planting, system, visit, zone};
use jiff::civil::{Date, date};
use mopsel_core::calendar::{Weekday, start_of};
use mopsel_core::care::{Task, Urgency, tasks};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Entry, Holds, PlantSign, Plants, Timeline, TopOff, TopOffWater, Version, Visit};
use mopsel_core::quantity::{Celsius, Name};
use mopsel_core::system::{Check, Every, Kind, OwnRule, RuleDone, System};
use mopsel_core::words::say_entry;
use std::collections::BTreeMap;
use uuid::Uuid;

const TRIM: Uuid = Uuid::from_u128(41);

fn rule(every: Every) -> OwnRule {
    let name = Name::new("Trim the roots at the pump").unwrap();
    OwnRule { id: TRIM, name, every, slack_days: 2.0, adult: false, warmer_than: None }
}

fn raft(rules: Vec<OwnRule>) -> System {
    System { rules, ..system(Kind::AeratedRaft) }
}

fn done() -> Visit {
    let name = Name::new("Trim the roots at the pump").unwrap();
    Visit { rules: vec![RuleDone { rule: TRIM, name }], ..Visit::default() }
}

fn task(system: System, log: &[Entry], now: &str) -> Option<Task<String>> {
    let garden = Garden::new(system, vec![planting("Dill", (1, 4), Stage::Vegetative)], log, now);
    tasks(&garden.situation()).into_iter().find(|task| task.rule == Some(TRIM)).map(Said::said)
}

#[test]
fn a_rule_by_days_is_due_so_many_days_after_it_was_done() {
    let every = || raft(vec![rule(Every::Days { days: 10 })]);
    let mut log = vec![crate::common::noted("2027-03-01 09:00")];
    let first = task(every(), &log, "2027-03-02 09:00").unwrap();
    assert_eq!((first.due_on.to_string().as_str(), first.one_tap), ("2027-03-11", true));
    log.push(visit("2027-03-08 09:00", done()));
    let next = task(every(), &log, "2027-03-09 09:00").unwrap();
    assert_eq!((next.due_on.to_string().as_str(), next.slack_days), ("2027-03-18", 2.0));
    assert!(next.name == "Trim the roots at the pump" && next.reason.contains("10 days"), "{next:?}");
    // Never done, it is as late as any other when a month passes.
    let undone = task(every(), &[crate::common::noted("2027-03-01 09:00")], "2027-04-10 09:00").unwrap();
    assert_eq!((undone.days_late, undone.urgency), (30, Urgency::Hand));
    // Made yesterday in a garden of years, it is counted from then.
    let made = |every: Every, now: &str| {
        let says = raft(vec![rule(every)]);
        let made = crate::common::at("2027-03-08 09:00");
        let first = Version { holds: Holds::Always, archived: false, made, says: raft(vec![]) };
        let later = Version { holds: Holds::From(date(2027, 3, 8)), archived: false, made, says: says.clone() };
        let mut garden = Garden::new(says, vec![], &[crate::common::noted("2027-01-01 09:00")], now);
        garden.history = Timeline::new(&first, &[later], &zone());
        tasks(&garden.situation()).into_iter().find(|task| task.rule == Some(TRIM)).unwrap()
    };
    assert_eq!(made(Every::Days { days: 10 }, "2027-03-09 09:00").due_on, date(2027, 3, 18));
    assert_eq!(made(Every::Days { days: 10 }, "2027-04-18 09:00").days_late, 31);
    let mondays = || Every::Weekdays { on: vec![Weekday::Monday] };
    assert_eq!(made(mondays(), "2027-03-09 09:00").days_late, 1, "the eighth was one");
    assert_eq!(made(mondays(), "2027-03-29 09:00").days_late, 21, "passed by, it does not wait for the next");
    assert_eq!(
        say_entry(&Body::Visit(done()), &every()).into_iter().map(Said::said).collect::<Vec<_>>(),
        ["Done: Trim the roots at the pump"]
    );
}

#[test]
fn a_rule_on_weekdays_falls_on_them_and_is_not_due_again_on_the_day_it_was_done() {
    let on = || raft(vec![rule(Every::Weekdays { on: vec![Weekday::Tuesday, Weekday::Friday] })]);
    // The ninth of March 2027 is a Tuesday.
    let mut log = vec![crate::common::noted("2027-03-06 09:00")];
    assert_eq!(task(on(), &log, "2027-03-09 09:00").unwrap().days_late, 0);
    log.push(visit("2027-03-09 10:00", done()));
    assert_eq!(task(on(), &log, "2027-03-09 11:00").unwrap().due_on.to_string(), "2027-03-12");
    assert_eq!(task(on(), &log, "2027-03-15 11:00").unwrap().days_late, 3, "missed on Friday, it stays");
}

#[test]
fn a_rule_by_top_offs_counts_them_from_when_it_was_done() {
    let by = || raft(vec![rule(Every::TopOffs { times: 3 })]);
    let top_off = |when: &str| {
        let top_off = Some(TopOff { litres: crate::common::l(2.0), water: TopOffWater::Plain });
        visit(when, Visit { top_off, ..Visit::default() })
    };
    let mut log =
        vec![crate::common::noted("2027-03-01 09:00"), top_off("2027-03-02 09:00"), top_off("2027-03-04 09:00")];
    assert!(task(by(), &log, "2027-03-05 09:00").is_none());
    log.push(top_off("2027-03-06 09:00"));
    let due = task(by(), &log, "2027-03-07 09:00").unwrap();
    assert!(due.due_on.to_string() == "2027-03-06" && due.reason.contains("every 3 top-offs; 3 since"), "{due:?}");
    // A further one does not put it off.
    log.push(top_off("2027-03-08 09:00"));
    assert_eq!(task(by(), &log, "2027-03-12 09:00").unwrap().days_late, 6);
    log.push(visit("2027-03-12 10:00", done()));
    assert!(task(by(), &log, "2027-03-13 09:00").is_none());
    (15..=17).for_each(|day| log.push(top_off(&format!("2027-03-{day} 09:00"))));
    assert_eq!(task(by(), &log, "2027-03-17 10:00").unwrap().due_on.to_string(), "2027-03-17");
}

#[test]
fn a_rule_for_warm_water_stands_only_while_it_was_last_warm() {
    let warm = || raft(vec![OwnRule { warmer_than: Celsius::new(24.0).ok(), ..rule(Every::Days { days: 1 }) }]);
    let read = |value: f64| Visit { temperature: Some(crate::common::celsius(value)), ..Visit::default() };
    let log = |value: f64| vec![crate::common::noted("2027-03-01 09:00"), visit("2027-03-08 09:00", read(value))];
    assert!(task(warm(), &log(25.0), "2027-03-09 09:00").is_some());
    assert!(task(warm(), &log(23.0), "2027-03-09 09:00").is_none());
    assert!(task(warm(), &log(25.0), "2027-03-25 09:00").is_none(), "nobody knows any more");
}

#[test]
fn a_rule_that_cannot_be_is_refused_and_a_child_does_no_adults_rule() {
    let refused = |rules: Vec<OwnRule>| OwnRule::check_all(&rules).unwrap_err().said();
    for every in [
        Every::Days { days: 0 },
        Every::Days { days: 366 },
        Every::TopOffs { times: 0 },
        Every::Weekdays { on: vec![] },
    ] {
        assert_eq!(refused(vec![rule(every)]).field, "rules.0.every");
    }
    for slack_days in [-1.0, 61.0, f64::NAN] {
        let refusal = refused(vec![OwnRule { slack_days, ..rule(Every::Days { days: 3 }) }]);
        assert_eq!((refusal.code.as_str(), refusal.field.as_str()), ("rule_slack", "rules.0.slack_days"));
    }
    assert_eq!(refused(vec![rule(Every::Days { days: 3 }), rule(Every::Days { days: 4 })]).field, "rules.1.id");
    assert_eq!(refused(vec![rule(Every::Days { days: 3 }); 31]).code, "too_many_rules");
    let grown = raft(vec![OwnRule { adult: true, ..rule(Every::Days { days: 3 }) }]);
    let by = |who| Body::Visit(done()).check(&grown, &who).map_err(|refusal| refusal.said().code);
    assert_eq!((by(adult()), by(child())), (Ok(()), Err("child_does_adult_rule".to_owned())));
    let none = Body::Visit(done()).check(&raft(vec![]), &adult()).unwrap_err().said();
    assert_eq!((none.code.as_str(), none.field.as_str()), ("rule_not_here", "rules.0.rule"));
}

#[test]
fn a_slack_of_ones_own_moves_the_margin_and_not_the_day() {
    let log =
        [crate::common::noted("2027-03-01 09:00"), visit("2027-03-05 09:00", crate::common::done(Check::WipeDown))];
    let wiped = |slacks: BTreeMap<Check, f64>| {
        let system = System { slacks, ..system(Kind::AeratedRaft) };
        let garden = Garden::new(system, vec![planting("Dill", (1, 4), Stage::Vegetative)], &log, "2027-03-09 09:00");
        garden.task("wipe_down")
    };
    let (usual, own) = (wiped(BTreeMap::new()), wiped(BTreeMap::from([(Check::WipeDown, 3.0)])));
    assert_eq!((usual.due_on, usual.slack_days, own.slack_days), (own.due_on, 14.0, 3.0));
    assert!((usual.margin_days - own.margin_days - 11.0).abs() < 1e-6);
    let wrong = System { slacks: BTreeMap::from([(Check::Roots, 61.0)]), ..system(Kind::AeratedRaft) };
    assert_eq!(wrong.check().unwrap_err().said().field, "slacks.roots");
}

#[test]
fn a_rule_by_a_sign_stands_from_the_look_that_saw_it_until_it_is_done() {
    let by = || raft(vec![rule(Every::Sign { sign: "brown_tips".to_owned() })]);
    let look = |when: &str, signs: Vec<PlantSign>| {
        visit(when, Visit { plants: Some(Plants { signs, ..Plants::default() }), ..Visit::default() })
    };
    let mut log = vec![crate::common::noted("2027-03-01 09:00"), look("2027-03-02 09:00", vec![])];
    assert!(task(by(), &log, "2027-03-03 09:00").is_none());
    log.push(look("2027-03-05 09:00", vec![PlantSign::BrownTips]));
    let due = task(by(), &log, "2027-03-06 09:00").unwrap();
    assert!(due.due_on.to_string() == "2027-03-05" && due.reason.contains("was seen"), "{due:?}");
    log.push(visit("2027-03-06 10:00", done()));
    assert!(task(by(), &log, "2027-03-07 09:00").is_none(), "done since it was seen");
    log.push(look("2027-03-09 09:00", vec![PlantSign::BrownTips]));
    assert!(task(by(), &log, "2027-03-09 10:00").is_some(), "seen again");
    log.push(look("2027-03-10 09:00", vec![]));
    assert!(task(by(), &log, "2027-03-10 10:00").is_none(), "the last look sees it no more");
}

#[test]
fn a_rule_by_a_stage_stands_when_something_comes_to_it_and_not_for_what_has_gone_on() {
    let garden = |stages: &[(Stage, Option<Date>)], log: &[Entry]| {
        let at = |stage: Stage| planting("Dwarf beans", (1, 4), stage);
        let version = |(stage, from): &(Stage, Option<Date>)| Version {
            holds: from.map_or(Holds::Always, Holds::From),
            archived: false,
            made: from.map_or(jiff::Timestamp::MIN, |from| start_of(from, &zone())),
            says: at(*stage),
        };
        let versions: Vec<_> = stages.iter().map(version).collect();
        let system = raft(vec![rule(Every::Stage { stage: "flowering".to_owned() })]);
        let mut garden = Garden::new(system, vec![at(stages.last().unwrap().0)], log, "2027-03-12 09:00");
        garden.planted = vec![Timeline::new(&versions[0], &versions[1..], &zone())];
        let all = tasks(&garden.situation()).into_iter().map(Said::said);
        all.into_iter().find(|task| task.rule == Some(TRIM))
    };
    let mut log = vec![crate::common::noted("2027-03-01 09:00")];
    let (young, flowers) = ((Stage::Vegetative, None), (Stage::Flowering, Some(date(2027, 3, 9))));
    assert!(garden(&[young], &log).is_none());
    let due = garden(&[young, flowers], &log).unwrap();
    assert!(due.due_on == date(2027, 3, 9) && due.reason.contains("Dwarf beans came to its stage"), "{due:?}");
    assert!(garden(&[young, flowers, (Stage::Fruiting, Some(date(2027, 3, 11)))], &log).is_none());
    log.push(visit("2027-03-10 09:00", done()));
    assert!(garden(&[young, flowers], &log).is_none(), "done since");
}

#[test]
fn a_rule_before_the_minimum_moves_with_the_forecast_and_waits_for_the_next_water_once_done() {
    let by = || raft(vec![rule(Every::Minimum { before: 2 })]);
    // Five litres a day, from 90 down to the minimum of 40.
    let mut log: Vec<Entry> = (1..=5)
        .map(|day| visit(&format!("2027-03-0{day} 09:00"), crate::common::level(90.0 - 5.0 * f64::from(day - 1))))
        .collect();
    let due = task(by(), &log, "2027-03-05 10:00").unwrap();
    assert_eq!(due.due_on.to_string(), "2027-03-09", "it reaches its minimum on the eleventh");
    log.push(visit("2027-03-09 09:00", done()));
    assert!(task(by(), &log, "2027-03-09 10:00").is_none());
    log.push(visit("2027-03-10 09:00", crate::common::level(85.0)));
    assert!(task(by(), &log, "2027-03-10 10:00").unwrap().due_on > date(2027, 3, 10));
    let refused = OwnRule::check_all(&[rule(Every::Minimum { before: 15 })]).unwrap_err().said();
    assert_eq!((refused.code.as_str(), refused.field.as_str()), ("rule_before", "rules.0.every"));
}
