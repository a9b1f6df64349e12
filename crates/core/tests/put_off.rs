//! Moving a task to another day within its margin, skipping it once, and how care was kept.

use crate::common::{Garden, Refused, Said, done, level, planting, system, visit};
use jiff::civil::{Date, date};
use mopsel_core::calendar::{Closure, Weekday};
use mopsel_core::care::put_off::{check, choices};
use mopsel_core::care::{KeptLine, Task, kept, tasks};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Chore, Instead, PutOff, Visit};
use mopsel_core::quantity::{Name, Note};
use mopsel_core::system::{Check, Every, Kind, OwnRule, System};
use mopsel_core::words::say_entry;
use proptest::prelude::*;
use uuid::Uuid;

const TRIM: Uuid = Uuid::from_u128(41);

fn raft() -> System {
    let name = Name::new("Trim the roots at the pump").unwrap();
    let rule =
        OwnRule { id: TRIM, name, every: Every::Days { days: 7 }, slack_days: 2.0, adult: false, warmer_than: None };
    System { rules: vec![rule], ..system(Kind::AeratedRaft) }
}

/// All was looked at on the first of March, and the stone and the wipe-down were done on the eighth.
fn garden(now: &str) -> Garden {
    let log = [
        crate::common::noted("2027-03-01 09:00"),
        visit("2027-03-08 09:00", done(Check::WipeDown)),
        visit("2027-03-08 09:10", done(Check::Stone)),
        visit("2027-03-08 09:20", level(85.0)),
    ];
    Garden::new(raft(), vec![planting("Dill", (1, 4), Stage::Vegetative)], &log, now)
}

fn of(check: Check) -> Chore {
    Chore::Check { check }
}

fn moved(chore: Chore, from: Date, to: Date) -> Visit {
    put(PutOff { chore, instead: Instead::Moved { from, to }, why: None })
}

fn skipped(chore: Chore, why: &str) -> Visit {
    put(PutOff { chore, instead: Instead::Skipped {}, why: Note::new(why).ok() })
}

fn put(one: PutOff) -> Visit {
    Visit { put_off: vec![one], ..Visit::default() }
}

fn task(garden: &Garden, check: Check) -> Task {
    tasks(&garden.situation()).into_iter().find(|task| task.check == Some(check)).unwrap()
}

#[test]
fn a_task_that_is_moved_stands_on_its_new_day_and_its_margin_ends_where_it_did() {
    let mut garden = garden("2027-03-15 08:00");
    let before = task(&garden, Check::Stone);
    assert_eq!((before.due_on, before.slack_days), (date(2027, 3, 15), 4.0));
    garden.log(visit("2027-03-15 08:00", moved(of(Check::Stone), date(2027, 3, 15), date(2027, 3, 18))));
    let after = task(&garden, Check::Stone);
    assert!(after.due_on == date(2027, 3, 18) && (after.slack_days - 1.0).abs() < 1e-6, "{after:?}");
    assert!((after.margin_days - before.margin_days).abs() < 1e-6);
    let said = after.said();
    assert!(said.reason.starts_with("Moved to Thu 18 Mar; it was due today."), "{}", said.reason);
    // A week later it is late like any other, and once done it is due an interval later.
    garden.now = crate::common::at("2027-03-20 08:00").to_zoned(crate::common::zone());
    assert_eq!(task(&garden, Check::Stone).days_late, 2);
    garden.log(visit("2027-03-20 09:00", done(Check::Stone)));
    assert_eq!(task(&garden, Check::Stone).due_on, date(2027, 3, 27));
}

#[test]
fn a_move_past_the_margin_to_a_closed_day_or_to_the_past_is_refused_with_the_day_that_is_allowed() {
    let mut garden = garden("2027-03-15 08:00");
    let refused = |garden: &Garden, visit: Visit| check(&visit, &garden.situation()).refusal();
    let to = |to: Date| moved(of(Check::Stone), date(2027, 3, 15), to);
    let past = refused(&garden, to(date(2027, 3, 20)));
    assert_eq!((past.code.as_str(), past.field.as_str()), ("moved_past_margin", "put_off.0.to"));
    assert!(past.mend.contains("2027-03-19"), "{past:?}");
    assert!(check(&to(date(2027, 3, 19)), &garden.situation()).is_ok());
    assert_eq!(refused(&garden, to(date(2027, 3, 14))).code, "moved_to_past");
    assert_eq!(refused(&garden, moved(of(Check::Stone), date(2027, 3, 12), date(2027, 3, 17))).code, "put_off_stale");
    let closed = Closure { name: None, from: date(2027, 3, 17), to: date(2027, 3, 17) };
    garden.calendar = garden.calendar.clone().without(&[closed]);
    assert_eq!(refused(&garden, to(date(2027, 3, 17))).code, "moved_to_closed");
    garden.now = crate::common::at("2027-03-25 08:00").to_zoned(crate::common::zone());
    assert_eq!(refused(&garden, to(date(2027, 3, 26))).code, "moved_without_margin");
    assert_eq!(
        refused(&garden, moved(of(Check::Calibrate), date(2027, 3, 31), date(2027, 4, 1))).code,
        "put_off_never"
    );
    assert_eq!(refused(&garden, skipped(of(Check::Filters), "no time")).code, "put_off_not_due", "no meshes here");
}

#[test]
fn what_is_skipped_is_due_an_interval_later_once_in_a_row_and_the_water_is_not_skipped() {
    let mut garden = garden("2027-03-15 08:00");
    let skip = || skipped(of(Check::Stone), "no spare stone");
    assert!(check(&skip(), &garden.situation()).is_ok());
    garden.log(visit("2027-03-15 08:00", skip()));
    let next = task(&garden, Check::Stone).said();
    assert_eq!(next.due_on, date(2027, 3, 22));
    assert!(next.reason.contains("Skipped today") && next.reason.contains("Last done Mon 8 Mar"), "{}", next.reason);
    assert_eq!(check(&skip(), &garden.situation()).refusal().code, "skip_twice");
    for water in [Check::Level, Check::Readings, Check::Change] {
        assert_eq!(check(&skipped(of(water), "no time"), &garden.situation()).refusal().code, "skip_never");
    }
    garden.log(visit("2027-03-22 08:00", done(Check::Stone)));
    garden.now = crate::common::at("2027-03-29 08:00").to_zoned(crate::common::zone());
    assert!(check(&skip(), &garden.situation()).is_ok(), "done in between, it may be skipped again");
}

#[test]
fn a_rule_of_ones_own_is_moved_and_skipped_like_a_check() {
    let mut garden = garden("2027-03-08 09:30");
    let trim = || Chore::Rule { rule: TRIM, name: Name::new("Trim the roots at the pump").unwrap() };
    let own = |garden: &Garden| tasks(&garden.situation()).into_iter().find(|task| task.rule == Some(TRIM)).unwrap();
    assert_eq!(own(&garden).due_on, date(2027, 3, 8));
    garden.log(visit("2027-03-08 09:30", moved(trim(), date(2027, 3, 8), date(2027, 3, 9))));
    assert_eq!(own(&garden).due_on, date(2027, 3, 9));
    garden.log(visit("2027-03-08 09:40", skipped(trim(), "hardly any roots")));
    assert_eq!(own(&garden).due_on, date(2027, 3, 15), "a skip ends the move");
    let told: Vec<String> = say_entry(&mopsel_core::fact::Body::Visit(skipped(trim(), "hardly any roots")), &raft())
        .into_iter()
        .map(Said::said)
        .collect();
    assert_eq!(told, ["Skipped: Trim the roots at the pump (hardly any roots)"]);
}

#[test]
fn a_move_is_void_when_the_task_has_become_due_earlier_than_it_was() {
    let mut garden = garden("2027-03-09 08:00");
    let change = task(&garden, Check::Change);
    let to = mopsel_core::calendar::add_days(change.due_on, 3);
    garden.log(visit("2027-03-09 08:00", moved(of(Check::Change), change.due_on, to)));
    assert_eq!(task(&garden, Check::Change).due_on, to);
    // White clouds in the glass: the change is due now, wherever it was moved to.
    let glass = mopsel_core::fact::WaterGlass { clarity: mopsel_core::fact::Clarity::WhiteCloud, smell: None };
    garden.log(visit("2027-03-09 09:00", Visit { glass: Some(glass), ..Visit::default() }));
    assert!(task(&garden, Check::Change).due_on < change.due_on);
}

#[test]
fn what_can_be_chosen_is_what_the_gate_takes() {
    let garden = garden("2027-03-15 08:00").open(&Weekday::ALL[..5]);
    let s = garden.situation();
    let all = tasks(&s);
    for task in all.iter().filter(|task| task.check.is_some()) {
        let Some(offered) = choices(&task.code, &all, &s) else { continue };
        let chore = || of(task.check.unwrap());
        for on in &offered.days {
            assert!(
                s.calendar.is_open(*on) && check(&moved(chore(), task.due_on, *on), &s).is_ok(),
                "{} {on}",
                task.code
            );
        }
        assert_eq!(check(&skipped(chore(), "no time"), &s).is_ok(), offered.skip, "{}", task.code);
    }
    let stone = choices("stone", &all, &s).unwrap();
    assert_eq!(stone.days, [date(2027, 3, 16), date(2027, 3, 17), date(2027, 3, 18), date(2027, 3, 19)]);
    assert_eq!(stone.skip_said.said(), "Skipped, it is due again Mon 22 Mar.");
    assert!(choices("calibrate", &all, &s).is_none() && choices("look_in", &all, &s).is_none());
}

#[test]
fn a_visit_puts_off_each_chore_once_with_a_reason_for_a_skip_and_never_what_it_did() {
    let refused = |visit: &Visit, actor| mopsel_core::fact::Body::Visit(visit.clone()).check(&raft(), &actor).refusal();
    let bare = put(PutOff { chore: of(Check::Stone), instead: Instead::Skipped {}, why: None });
    assert_eq!(refused(&bare, crate::common::adult()).code, "skipped_without_reason");
    let both = Visit { done: vec![Check::Stone], ..skipped(of(Check::Stone), "no time") };
    assert_eq!(refused(&both, crate::common::adult()).code, "put_off_twice");
    assert_eq!(refused(&skipped(of(Check::Stone), "no time"), crate::common::child()).code, "child_puts_off");
    assert_eq!(refused(&skipped(of(Check::Filters), "no time"), crate::common::adult()).code, "check_not_here");
    let text = serde_json::to_value(skipped(of(Check::Stone), "no time")).unwrap();
    assert_eq!(text["put_off"][0]["how"], "skipped");
    assert_eq!(serde_json::from_value::<Visit>(text).unwrap(), skipped(of(Check::Stone), "no time"));
}

fn stone(garden: &Garden) -> KeptLine<String> {
    let line = kept(&garden.situation()).into_iter().find(|line| line.code == "stone").unwrap();
    line.map(&Said::said)
}

#[test]
fn done_late_missed_skipped_and_moved_stay_different() {
    let log = [
        crate::common::noted("2027-02-01 09:00"),
        visit("2027-02-08 09:00", done(Check::Stone)),
        visit("2027-02-18 09:00", done(Check::Stone)),
        visit("2027-02-25 09:00", skipped(of(Check::Stone), "no spare")),
        visit("2027-03-04 09:00", moved(of(Check::Stone), date(2027, 3, 4), date(2027, 3, 7))),
        visit("2027-03-07 09:00", done(Check::Stone)),
    ];
    let mut garden = Garden::new(raft(), vec![planting("Dill", (1, 4), Stage::Vegetative)], &log, "2027-03-08 09:00");
    let line = stone(&garden);
    // Counted over four weeks, from the eighth of February on: the tenth day after is late, within its slack; the ninth may be done along with others.
    assert_eq!((line.done, line.late, line.missed, line.skipped, line.moved), (3, 2, 0, 1, 1));
    assert_eq!(line.said, "Done 3 times, 2 of them late, skipped once, moved once.");
    garden.now = crate::common::at("2027-03-26 09:00").to_zoned(crate::common::zone());
    let line = stone(&garden);
    assert_eq!(
        (line.done, line.missed),
        (1, 2),
        "due on the fourteenth and the twenty-first, with four days' slack: {line:?}"
    );
    // Another interval from now on does not rewrite what was kept by the old one.
    let slow = System { intervals: [(Check::Stone, 60)].into(), ..raft() };
    let made = crate::common::at("2027-03-25 09:00");
    let first =
        mopsel_core::fact::Version { holds: mopsel_core::fact::Holds::Always, archived: false, made, says: raft() };
    let from = mopsel_core::fact::Holds::From(date(2027, 3, 25));
    let later = mopsel_core::fact::Version { holds: from, archived: false, made, says: slow.clone() };
    garden.history = mopsel_core::fact::Timeline::new(&first, &[later], &crate::common::zone());
    garden.system = slow;
    assert_eq!(stone(&garden).missed, 2);
}

proptest! {
    /// Wherever a task is moved to, the end of its margin stays where it was, and no task is due before today by it.
    #[test]
    fn a_move_never_moves_the_end_of_a_margin(which in 0usize..5, ahead in 0i64..30, later in 0i64..20) {
        let checks = [Check::WipeDown, Check::Stone, Check::Pests, Check::Roots, Check::WaterGlass];
        let mut garden = garden("2027-03-10 08:00");
        let before = task(&garden, checks[which]);
        let visit_of = moved(of(checks[which]), before.due_on, mopsel_core::calendar::add_days(date(2027, 3, 10), ahead));
        prop_assume!(check(&visit_of, &garden.situation()).is_ok());
        let ends = before.margin_days;
        garden.log(visit("2027-03-10 08:00", visit_of));
        let after = task(&garden, checks[which]);
        prop_assert!((after.margin_days - ends).abs() < 1e-6 && after.due_on >= date(2027, 3, 10));
        garden.now = crate::common::at(&format!("2027-03-{:02} 08:00", 10 + later)).to_zoned(crate::common::zone());
        let (then, bare) = (task(&garden, checks[which]), { let mut g = self::garden("2027-03-10 08:00"); g.now = garden.now.clone(); task(&g, checks[which]) });
        prop_assert!((then.margin_days - bare.margin_days).abs() < 1e-6);
    }
}

#[test]
fn what_nothing_here_wants_was_never_missed() {
    let garden = Garden::new(
        raft(),
        vec![planting("Dill", (1, 4), Stage::Vegetative)],
        &[crate::common::noted("2027-01-01 09:00")],
        "2027-03-06 09:00",
    );
    let codes: Vec<String> = kept(&garden.situation()).into_iter().map(|line| line.code).collect();
    assert!(
        codes.contains(&"stone".to_owned()) && !codes.iter().any(|code| code == "pollinate" || code == "tie_up"),
        "{codes:?}"
    );
}

#[test]
fn nothing_is_skipped_once_its_margin_is_used_up_nor_on_the_visit_that_did_it() {
    let garden = garden("2027-03-25 08:00");
    let skip = skipped(of(Check::Stone), "no spare stone");
    assert_eq!(check(&skip, &garden.situation()).refusal().code, "skip_without_margin");
    let s = garden.situation();
    let offered = choices("stone", &tasks(&s), &s).unwrap();
    assert!(!offered.skip && offered.days.is_empty(), "{offered:?}");
    // Whoever looked at the roots has done it, ticked or not.
    let both = Visit { roots: Some(mopsel_core::fact::Roots::sound()), ..skipped(of(Check::Roots), "no time") };
    assert_eq!(
        mopsel_core::fact::Body::Visit(both).check(&raft(), &crate::common::adult()).refusal().code,
        "put_off_twice"
    );
}

#[test]
fn an_hour_that_is_lost_to_the_clock_is_no_day_more_to_wait() {
    // Clocks go forward on the 28th: due on the 26th with four days' slack, its margin ends as the 31st begins.
    let mut garden = garden("2027-03-26 08:00");
    garden.log(visit("2027-03-19 09:00", done(Check::Stone)));
    let to = |to: Date| check(&moved(of(Check::Stone), date(2027, 3, 26), to), &garden.situation());
    assert_eq!(task(&garden, Check::Stone).due_on, date(2027, 3, 26));
    assert!(to(date(2027, 3, 30)).is_ok());
    assert_eq!(to(date(2027, 3, 31)).refusal().code, "moved_past_margin");
}
