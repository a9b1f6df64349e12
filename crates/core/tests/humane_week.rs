//! A week that a person can do: looks gather on one visit and are one tick, and water is changed by need.

use crate::common::soak::times;
use crate::common::{Garden, Said, celsius, done, ec, entry, known, level, ph, planting, system, visit};
use jiff::ToSpan;
use jiff::civil::{Date, date};
use mopsel_core::calendar::{Calendar, Closure, Weekday, add_days};
use mopsel_core::care::ahead::{ahead, looks_together};
use mopsel_core::care::change::{Rule, change_due};
use mopsel_core::care::look::{LOOK, PARTS, apart, lines};
use mopsel_core::care::put_off::check as check_moved;
use mopsel_core::care::{Task, kept, routine::due, tasks};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{
    Body, CaseLook, CaseOutcome, Change, Chore, Clarity, Entry, Instead, Meshes, PutOff, RootAnswers, Roots, Running,
    TopOff, TopOffWater, Visit, WaterGlass,
};
use mopsel_core::system::{ChangeMethod, Check, Kind, System, checks};
use mopsel_core::words::say_entry;
use proptest::prelude::*;

/// The days on which the looks of a raft were last done, in March.
fn raft(days: &[(Check, i8)], now: &str) -> Garden {
    let mut log: Vec<Entry> = vec![visit("2027-03-01 08:00", level(85.0))];
    log.extend(days.iter().map(|(check, day)| {
        let looked = match check {
            Check::WaterGlass => {
                Visit { glass: Some(WaterGlass { clarity: Clarity::Clear, smell: None }), ..Visit::default() }
            }
            Check::Roots => Visit { roots: Some(Roots::sound()), ..Visit::default() },
            Check::Plants => Visit { plants: Some(Default::default()), ..Visit::default() },
            check => done(*check),
        };
        visit(&format!("2027-03-{day:02} 09:00"), looked)
    }));
    log.sort_by_key(|entry| entry.at);
    Garden::new(system(Kind::AeratedRaft), vec![planting("Dill", (1, 12), Stage::Vegetative)], &log, now)
}

fn on(garden: &Garden, check: Check) -> Date {
    garden.task(check.code()).due_on
}

fn listed(garden: &Garden) -> Vec<Task> {
    lines(tasks(&garden.situation()), &garden.situation())
}

fn look(garden: &Garden) -> Option<Task> {
    listed(garden).into_iter().find(|task| task.code == LOOK)
}

const LOOKS: [Check; 5] = [Check::WaterGlass, Check::Plants, Check::Pests, Check::Roots, Check::Stone];

#[test]
fn looks_within_two_days_fall_on_one() {
    let garden = raft(
        &[(Check::Pests, 8), (Check::Stone, 9), (Check::Roots, 10), (Check::Plants, 10), (Check::WaterGlass, 13)],
        "2027-03-12 08:00",
    );
    for check in [Check::Pests, Check::Stone, Check::Roots, Check::Plants] {
        assert_eq!(on(&garden, check), date(2027, 3, 15), "{check:?}: the first of them is due that day");
    }
    assert_eq!(on(&garden, Check::WaterGlass), date(2027, 3, 20), "five days off it keeps its own");
    assert!(garden.task("roots").reason.contains("By itself it is due Wed 17 Mar"), "{}", garden.task("roots").reason);
    // One that is alone waits for the rest, where that takes more along.
    let waits = raft(&[(Check::Pests, 8), (Check::Stone, 11), (Check::Roots, 11)], "2027-03-12 08:00");
    assert_eq!((on(&waits, Check::Pests), on(&waits, Check::Stone)), (date(2027, 3, 16), date(2027, 3, 16)));
}

#[test]
fn what_is_due_near_a_change_is_done_along_with_it() {
    let mut garden = raft(&[(Check::Pests, 9), (Check::Stone, 10), (Check::Plants, 10)], "2027-03-13 08:00");
    let change = Change::full(crate::common::l(90.0));
    garden.log(entry("2027-03-01 09:00", Body::Change(change)));
    assert_eq!(on(&garden, Check::Change), date(2027, 3, 15));
    for check in [Check::Pests, Check::Stone, Check::Plants] {
        assert_eq!(on(&garden, check), date(2027, 3, 15), "{check:?}: a day or two before its own");
    }
}

#[test]
fn what_a_closure_brought_forward_is_not_brought_forward_again() {
    let looked = [(Check::Pests, 9), (Check::Stone, 9), (Check::Roots, 9), (Check::Plants, 9), (Check::WaterGlass, 9)];
    let mut garden = raft(&looked, "2027-03-09 10:00");
    garden.log(entry("2027-02-24 09:00", Body::Change(Change::full(crate::common::l(90.0)))));
    let closed = Closure { from: date(2027, 3, 13), to: date(2027, 3, 22), name: None };
    garden.calendar = Calendar::weekly(&Weekday::ALL).unwrap().without(&[closed]);
    assert_eq!(on(&garden, Check::Change), date(2027, 3, 10));
    assert_eq!(on(&garden, Check::Roots), date(2027, 3, 12), "looked at today, and not again tomorrow");
}

#[test]
fn before_a_closure_nothing_is_done_twice_in_a_week() {
    let looked = [(Check::Pests, 5), (Check::Stone, 5), (Check::Roots, 5), (Check::Plants, 5), (Check::WaterGlass, 5)];
    let mut garden = raft(&looked, "2027-03-09 10:00");
    garden.log(entry("2027-02-24 09:00", Body::Change(Change::full(crate::common::l(90.0)))));
    let closed = Closure { from: date(2027, 3, 13), to: date(2027, 3, 22), name: None };
    garden.calendar = Calendar::weekly(&Weekday::ALL).unwrap().without(&[closed]);
    assert_eq!(on(&garden, Check::Change), date(2027, 3, 10));
    let days: Vec<Date> = ahead(7, &garden.situation())
        .into_iter()
        .filter(|one| one.check == Some(Check::Roots))
        .map(|one| one.on)
        .collect();
    assert_eq!(days, [date(2027, 3, 12)], "on the change's day it would be asked for again on Friday");
}

#[test]
fn done_together_once_they_stay_together_and_keep_their_week() {
    let mut garden = raft(
        &[(Check::Pests, 8), (Check::Stone, 9), (Check::Roots, 9), (Check::Plants, 10), (Check::WaterGlass, 10)],
        "2027-03-15 08:00",
    );
    for week in 0..4 {
        let line = look(&garden).unwrap();
        assert_eq!((line.parts.len(), line.due_on), (5, add_days(date(2027, 3, 15), 7 * week)), "{line:?}");
        let at = garden.now.timestamp();
        let mut tick = visit("2027-03-15 09:00", *line.sound.unwrap());
        tick.at = at;
        garden.log(tick);
        garden.now = &garden.now + 7.days();
    }
}

#[test]
fn one_tap_records_what_it_says_and_nothing_else() {
    let mut garden = raft(
        &[(Check::Pests, 8), (Check::Stone, 8), (Check::Roots, 8), (Check::Plants, 8), (Check::WaterGlass, 8)],
        "2027-03-15 08:00",
    );
    let line = look(&garden).unwrap();
    assert_eq!(line.clone().said().name, "Weekly look: water, plants, pests, roots, air stone");
    let claim = line.claim.clone().unwrap().said();
    let visit_said: Vec<String> =
        say_entry(&Body::Visit(*line.sound.clone().unwrap()), &garden.system).into_iter().map(Said::said).collect();
    for (word, logged) in [("clear", "clear"), ("white", "Roots"), ("pests", "pests"), ("stone", "stone")] {
        assert!(claim.contains(word), "{claim}");
        assert!(visit_said.iter().any(|line| line.contains(logged)), "{word}: {visit_said:?}");
    }
    let of_line = apart(&tasks(&garden.situation()), &listed(&garden));
    assert_eq!(of_line.iter().filter_map(|task| task.check).filter(|check| LOOKS.contains(check)).count(), 5);
    assert!(!listed(&garden).iter().any(|task| task.check == Some(Check::Roots)), "never twice on one list");
    // A part that was seen amiss is no part of a look that is fine.
    let answers = RootAnswers { stick_together: Some(true), ..RootAnswers::default() };
    garden.log(visit("2027-03-15 07:00", Visit { roots: Some(Roots { answers, ports: None }), ..Visit::default() }));
    assert!(look(&garden).is_none_or(|line| !line.one_tap && !line.parts.contains(&Check::Roots)));
}

#[test]
fn over_an_open_case_nothing_is_sound_with_a_tap() {
    let mut garden = raft(&[(Check::Pests, 8), (Check::Stone, 8), (Check::Plants, 8)], "2027-03-15 08:00");
    assert!(look(&garden).unwrap().one_tap);
    let case = CaseLook { cause: "aphids".into(), outcome: CaseOutcome::Opened, ports: None, learnt: None };
    garden.log(visit("2027-03-15 07:00", Visit { cases: vec![case], ..Visit::default() }));
    assert!(look(&garden).is_none_or(|line| !line.one_tap));
}

#[test]
fn over_a_fault_nothing_is_sound_with_a_tap() {
    let mut garden = raft(&[(Check::Pests, 8), (Check::Stone, 8), (Check::Plants, 8)], "2027-03-15 08:00");
    let running = Some(Running { bubbles: Some(false), ..Running::default() });
    garden.log(visit("2027-03-15 07:00", Visit { running, ..Visit::default() }));
    assert!(look(&garden).is_none_or(|line| !line.one_tap), "the stone does not bubble");
}

#[test]
fn what_was_done_along_with_the_rest_was_not_late() {
    let mut garden =
        raft(&[(Check::Pests, 8), (Check::Stone, 10), (Check::Plants, 10), (Check::Roots, 10)], "2027-03-12 08:00");
    let planned = on(&garden, Check::Pests);
    assert_eq!(planned, date(2027, 3, 15));
    garden.log(visit("2027-03-17 09:00", done(Check::Pests)));
    garden.log(visit("2027-03-17 09:10", done(Check::Stone)));
    garden.now = crate::common::at("2027-03-18 08:00").to_zoned(crate::common::zone());
    let line = |code: &str| kept(&garden.situation()).into_iter().find(|line| line.code == code).unwrap();
    assert_eq!((line("pests").late, line("stone").late), (0, 0));
    let mut later = raft(&[(Check::Pests, 8)], "2027-03-12 08:00");
    later.log(visit("2027-03-18 09:00", done(Check::Pests)));
    later.now = crate::common::at("2027-03-19 08:00").to_zoned(crate::common::zone());
    let late = kept(&later.situation()).into_iter().find(|line| line.code == "pests").unwrap();
    assert_eq!(late.late, 1, "three days are");
}

#[test]
fn a_look_that_is_moved_goes_as_one_and_stays_there() {
    let mut garden = raft(
        &[(Check::Pests, 8), (Check::Stone, 10), (Check::Roots, 10), (Check::Plants, 9), (Check::WaterGlass, 9)],
        "2027-03-15 08:00",
    );
    let line = look(&garden).unwrap();
    assert!(line.movable && line.due_on == date(2027, 3, 15), "{line:?}");
    let to = date(2027, 3, 17);
    let put_off = |check: &Check| PutOff {
        chore: Chore::Check { check: *check },
        instead: Instead::Moved { from: line.due_on, to },
        why: None,
    };
    let visit_moved = Visit { put_off: line.parts.iter().map(put_off).collect(), ..Visit::default() };
    assert_eq!(check_moved(&visit_moved, &garden.situation()), Ok(()));
    garden.log(visit("2027-03-15 08:00", visit_moved));
    let moved = look(&garden).unwrap();
    assert_eq!((moved.due_on, moved.parts), (to, line.parts));
}

#[test]
fn after_a_long_silence_the_list_is_short() {
    let looked = [(Check::Pests, 8), (Check::Stone, 8), (Check::Roots, 8), (Check::Plants, 8), (Check::WipeDown, 8)];
    let mut garden = raft(&looked, "2027-03-20 08:00");
    assert!(listed(&garden).len() > 4, "some days late, each is listed");
    garden.now = crate::common::at("2027-04-10 08:00").to_zoned(crate::common::zone());
    let codes: Vec<String> = listed(&garden).iter().map(|task| task.code.to_string()).collect();
    assert_eq!(codes, ["catch_up", "change"], "look first, and change the old water");
    assert!(tasks(&garden.situation()).len() > 6, "a visit still goes through all of them");
    assert!(apart(&tasks(&garden.situation()), &listed(&garden)).iter().any(|task| task.check == Some(Check::Roots)));
}

#[test]
fn in_the_weeks_to_come_looks_of_a_day_are_one_line() {
    let garden = raft(
        &[(Check::Pests, 8), (Check::Stone, 8), (Check::Roots, 8), (Check::Plants, 8), (Check::WaterGlass, 8)],
        "2027-03-15 08:00",
    );
    let (apart, together) = (ahead(14, &garden.situation()), looks_together(ahead(14, &garden.situation())));
    let is_part = |check: Option<Check>| check.is_some_and(|check| PARTS.contains(&check));
    assert_eq!(apart.iter().filter(|one| is_part(one.check)).count(), 10);
    let looks: Vec<Date> = together.iter().filter(|one| one.code == LOOK).map(|one| one.on).collect();
    assert_eq!(looks, [date(2027, 3, 15), date(2027, 3, 22)]);
    assert!(!together.iter().any(|one| is_part(one.check)));
    let minutes =
        |list: &[mopsel_core::care::ahead::Coming]| list.iter().map(|one| u32::from(one.minutes)).sum::<u32>();
    assert_eq!(minutes(&apart) - minutes(&together), 2 * (12 - 7), "12 minutes apart, 7 in one go");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(times(800, 60)))]

    /// Whatever was done when, on whatever days the place is open: nothing goes further than two days from its own day save
    /// to an open day, no margin ends later or sooner than it would, and what is late or due today is asked for.
    #[test]
    fn gathering_moves_no_margin(
        days in prop::collection::vec(1_i8..20, 8),
        today in 20_i8..28,
        closed in prop::collection::vec(0_usize..7, 0..4),
        mesh in any::<bool>(),
    ) {
        let all = [LOOKS.as_slice(), &[Check::WipeDown, Check::Filters, Check::TieUp]].concat();
        let last: Vec<(Check, i8)> = all.into_iter().zip(days).collect();
        let mut garden = raft(&last, &format!("2027-03-{today:02} 08:00"));
        garden.system.traits.mesh_filters = mesh;
        let open: Vec<Weekday> = (0..7).filter(|n| !closed.contains(n)).map(|n| Weekday::ALL[n]).collect();
        let garden = garden.open(&open);
        let s = garden.situation();
        for task in tasks(&s) {
            let Some(own) = task.check.and_then(|check| due(check, &s)) else { continue };
            if !checks().iter().any(|facts| Some(facts.key) == task.check && facts.gathers) {
                continue;
            }
            let by = i64::from((task.due_on - own.on).get_days());
            prop_assert!(by.abs() <= 2, "{:?} by {by}", own.check);
            let days = |from: jiff::Timestamp| from.duration_since(garden.now.timestamp()).as_secs_f64() / 86_400.0;
            let ends = days(own.from) + own.slack_days;
            prop_assert!((task.margin_days - ends).abs() < 0.05, "{:?}: {} for {ends}", own.check, task.margin_days);
            prop_assert!(own.on > s.today() || task.due_on == own.on, "{:?}: what is due today is not put off", own.check);
            prop_assert!(task.due_on == own.on || s.calendar.is_open(task.due_on));
        }
    }
}

/// Changed on the first of March, read, looked at, drinking 2 L a day.
fn by_need(now: &str, readings: &[(&str, f64, f64)]) -> Garden {
    let mut raft = system(Kind::AeratedRaft);
    raft.methods.change = ChangeMethod::Need;
    let changed = entry(
        "2027-03-01 08:00",
        Body::Change(Change { ec: Some(ec(1.4)), ph: Some(ph(5.9)), ..Change::full(crate::common::l(90.0)) }),
    );
    let mut log = vec![changed];
    for (n, (day, strength, acidity)) in readings.iter().enumerate() {
        let read = Visit { ec: Some(ec(*strength)), ph: Some(ph(*acidity)), ..level(88.0 - 6.0 * n as f64) };
        log.push(visit(&format!("2027-03-{day} 08:00"), Visit { roots: Some(Roots::sound()), ..read }));
    }
    Garden::new(raft, vec![planting("Dill", (1, 12), Stage::Vegetative)], &log, now)
}

const HOLDS: [(&str, f64, f64); 4] = [("04", 1.4, 5.9), ("07", 1.42, 5.9), ("10", 1.38, 6.0), ("13", 1.4, 6.0)];

fn changed(garden: &Garden) -> (Date, Rule, String) {
    let due = change_due(&garden.situation());
    (due.on, due.rule, due.reason.said())
}

#[test]
fn where_all_holds_a_change_stretches_to_twice_its_days() {
    let garden = by_need("2027-03-14 08:00", &HOLDS);
    let (on, rule, said) = changed(&garden);
    assert_eq!((on, rule), (date(2027, 3, 29), Rule::Days), "{said}");
    assert!(
        said.contains("By need: EC and pH are steady and the roots healthy, so after 28 days instead of 14"),
        "{said}"
    );
    let mut fixed = by_need("2027-03-14 08:00", &HOLDS);
    fixed.system.methods.change = ChangeMethod::Days;
    assert_eq!(changed(&fixed).0, date(2027, 3, 15), "fixed days stay fixed");
}

#[test]
fn what_does_not_hold_brings_it_back_and_is_late_from_when_it_was_known() {
    let off = [HOLDS.as_slice(), &[("20", 1.4, 7.2)]].concat();
    let garden = by_need("2027-03-21 08:00", &off);
    let (on, _, said) = changed(&garden);
    assert_eq!(on, date(2027, 3, 20), "not since the 15th: {said}");
    assert!(said.contains("not stretched as pH was 7.2"), "{said}");
    let warm = {
        let mut garden = by_need("2027-03-14 08:00", &HOLDS);
        garden.log(visit("2027-03-14 07:00", Visit { temperature: Some(celsius(27.0)), ..Visit::default() }));
        garden
    };
    assert!(changed(&warm).0 <= date(2027, 3, 15), "warm water is never stretched");
}

#[test]
fn what_nobody_has_seen_lately_is_not_said_to_hold() {
    // Nobody came for two weeks after the 13th: what was read then says nothing from the 23rd on.
    let garden = by_need("2027-03-27 08:00", &HOLDS);
    let (on, _, said) = changed(&garden);
    assert_eq!(on, date(2027, 3, 23), "{said}");
    assert!(said.contains("was not measured lately"), "{said}");
    let unread = by_need("2027-03-14 08:00", &[]);
    assert_eq!(changed(&unread).0, date(2027, 3, 15), "{}", changed(&unread).2);
    let system = garden.system.clone();
    let recipe = System { measuring: mopsel_core::system::Measuring::RecipeOnly, ..system };
    let blind = Garden { known: known(&[], &recipe), ..by_need("2027-03-14 08:00", &HOLDS) };
    assert!(changed(&Garden { system: recipe, ..blind }).0 < date(2027, 3, 29));
}

#[test]
fn a_meter_past_its_date_says_nothing_of_what_holds() {
    let mut garden = by_need("2027-03-14 08:00", &HOLDS);
    garden.calibrated = Some(crate::common::at("2027-01-20 08:00"));
    let (on, _, said) = changed(&garden);
    assert!(on <= date(2027, 3, 15) && said.contains("the meter is past its calibration"), "{on} {said}");
}

#[test]
fn a_filling_topped_off_once_is_no_reason_while_all_holds() {
    let garden = |method: ChangeMethod| {
        let mut garden = by_need("2027-03-14 08:00", &HOLDS);
        garden.system.methods.change = method;
        for day in ["05", "08", "11"] {
            let top_off = Some(TopOff { litres: crate::common::l(32.0), water: TopOffWater::Plain });
            garden.log(visit(&format!("2027-03-{day} 08:30"), Visit { top_off, ..Visit::default() }));
        }
        garden
    };
    assert_eq!(changed(&garden(ChangeMethod::Days)).1, Rule::Turnover);
    assert_ne!(changed(&garden(ChangeMethod::Need)).1, Rule::Turnover, "EC and pH say that nothing has gathered");
}

/// Channels whose meshes were rinsed each day from the first of March on, and what was found in them.
fn rinsed(found: &[Option<Meshes>]) -> Garden {
    let log: Vec<Entry> = found
        .iter()
        .enumerate()
        .map(|(n, meshes)| {
            let day = format!("2027-03-{:02} 09:00", n + 1);
            visit(&day, Visit { done: vec![Check::Filters], meshes: *meshes, ..Visit::default() })
        })
        .collect();
    let now = format!("2027-03-{:02} 10:00", found.len());
    Garden::new(system(Kind::FilmChannel), vec![planting("Rocket", (1, 12), Stage::Vegetative)], &log, &now)
}

#[test]
fn meshes_are_rinsed_daily_only_where_they_clog() {
    use Meshes::{Clean, Clogged, Dirt};
    let days = |found: &[Option<Meshes>]| {
        let garden = rinsed(found);
        (due(Check::Filters, &garden.situation()).unwrap().on - garden.now.date()).get_days()
    };
    assert_eq!(days(&[None, None]), 1, "ticked off and nothing said: as before");
    assert_eq!(days(&[Some(Clean)]), 2);
    assert_eq!(days(&[Some(Clean), Some(Clean)]), 4);
    assert_eq!(days(&[Some(Clean), Some(Clean), Some(Clean), Some(Clean)]), 7, "never longer than a week");
    assert_eq!(days(&[Some(Clean), Some(Clean), Some(Dirt)]), 4, "some dirt is what a mesh is for");
    assert_eq!(days(&[Some(Clean), Some(Clean), Some(Clogged)]), 1, "roots in a dry channel last hours");
    assert_eq!(days(&[Some(Clogged), Some(Clogged)]), 1, "never oftener than daily");
    let said = rinsed(&[Some(Clean)]).task("filters").reason;
    assert!(said.contains("The meshes were clean last time, so rinse them every 2 days"), "{said}");
    // What was kept by one interval stays so when another is learnt.
    let mut waited = rinsed(&[Some(Clean), Some(Clean)]);
    waited.log(visit("2027-03-06 09:00", Visit { meshes: Some(Clogged), ..Visit::default() }));
    waited.now = crate::common::at("2027-03-06 10:00").to_zoned(crate::common::zone());
    let line = kept(&waited.situation()).into_iter().find(|line| line.code == "filters").unwrap();
    assert_eq!((line.missed, line.late), (0, 0), "after four days, as it was due");
    let mut own = rinsed(&[Some(Clean), Some(Clean)]);
    own.system.intervals.insert(Check::Filters, 1);
    assert_eq!(on(&own, Check::Filters), date(2027, 3, 3), "days of one's own are not stretched");
}

#[test]
fn what_was_in_the_meshes_is_said_by_whoever_may_open_them_and_where_there_are_any() {
    let found = Body::Visit(Visit { meshes: Some(Meshes::Clean), ..Visit::default() });
    let film = system(Kind::FilmChannel);
    assert!(found.check(&film, &crate::common::adult()).is_ok());
    assert!(found.check(&film, &crate::common::child()).is_err());
    assert!(found.check(&system(Kind::AeratedRaft), &crate::common::adult()).is_err());
    let said: Vec<String> = say_entry(&found, &film).into_iter().map(Said::said).collect();
    assert_eq!(said, ["Mesh filters: clean"]);
}
