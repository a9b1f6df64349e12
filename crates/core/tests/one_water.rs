//! One estimate of the water: the day on a task, on a rule of one's own, in the outlook and in what is drawn is one day.

use crate::common::{CHILD, Garden, Said, boxed, entry, l, level, ph, system, told, visit};
use jiff::{SignedDuration, ToSpan};
use mopsel_core::calendar::{add_days, day};
use mopsel_core::care::outlook::{Ahead, Outlook, outlook};
use mopsel_core::care::routine;
use mopsel_core::fact::{Body, Change, Entry, TopOff, TopOffWater, Visit};
use mopsel_core::forecast::minimum_reached;
use mopsel_core::quantity::Name;
use mopsel_core::system::{Check, Every, Kind, OwnRule, System};
use mopsel_core::words::Reader;
use proptest::prelude::*;
use uuid::Uuid;

fn level_ahead(garden: &Garden) -> Outlook<String> {
    let all = outlook(&garden.situation());
    all.into_iter().find(|one| one.of == Ahead::Level).unwrap().map(&|message| message.said())
}

fn poured(litres: f64) -> TopOff {
    TopOff { litres: l(litres), water: TopOffWater::Plain }
}

/// A level interval of thirty days: what brings the task forward is the forecast alone.
fn seldom() -> System {
    let rule = OwnRule {
        id: Uuid::from_u128(7),
        name: Name::new("Fetch water").unwrap(),
        every: Every::Minimum { before: 0 },
        slack_days: 2.0,
        adult: false,
        warmer_than: None,
    };
    System {
        reservoir: boxed(500.0, 500.0, 400.0, [30.0, 90.0, 98.0]),
        intervals: [(Check::Level, 30)].into(),
        rules: vec![rule],
        ..system(Kind::AeratedRaft)
    }
}

#[test]
fn what_was_poured_unread_is_added_to_what_is_left_of_the_water_and_not_to_what_was_read_a_week_ago() {
    let log = [
        visit("2027-03-01 09:00", level(90.0)),
        visit("2027-03-02 09:00", level(80.0)),
        visit("2027-03-03 09:00", level(70.0)),
        visit("2027-03-07 09:00", Visit { top_off: Some(poured(20.0)), ..Visit::default() }),
    ];
    // 10 L a day: 30 L are left on the seventh, 50 L once it was poured, and the minimum of 30 L is reached on the ninth.
    let garden = Garden::new(seldom(), vec![], &log, "2027-03-07 10:00");
    let told = level_ahead(&garden);
    assert_eq!(told.leaves.unwrap().on.to_string(), "2027-03-09", "{}", told.said);
    let task = garden.task("level");
    assert!(task.reason.contains("reaches its minimum of 30.0 L Tue 9 Mar in the morning"), "{}", task.reason);
    assert_eq!(task.due_on.to_string(), "2027-03-08");
}

/// Half a litre a day, and nobody looks for four months: where the task says that it ran below, the drawing does not show it full.
#[test]
fn water_that_nobody_reads_goes_on_being_drunk() {
    let log = [visit("2027-03-01 09:00", level(90.0)), visit("2027-03-02 09:00", level(89.5))];
    let garden = Garden::new(seldom(), vec![], &log, "2027-07-05 09:00");
    let s = garden.situation();
    assert!(minimum_reached(&s).unwrap().at < s.now.timestamp());
    assert!(s.water().litres().unwrap().value < l(30.0), "{:?}", s.water().litres());
    assert!(level_ahead(&garden).said.starts_with("By now it is likely at its minimum"));
}

/// Ten litres a day are gone in nine: on the fortieth nobody knows what stands there, and nothing is poured unread.
#[test]
fn nothing_is_poured_by_water_that_is_drunk_away_by_the_estimate_alone() {
    let log: Vec<Entry> =
        (0..4).map(|n| visit(&format!("2027-03-0{} 09:00", n + 1), level(90.0 - 10.0 * f64::from(n)))).collect();
    for now in ["2027-04-10 09:00", "2027-06-20 09:00"] {
        let garden = Garden::new(seldom(), vec![], &log, now);
        let s = garden.situation();
        let limit = mopsel_core::refill::limit_of(&s.water().litres().unwrap(), &s);
        assert_eq!(limit.litres, l(0.0), "{now}: {}", limit.reason.said());
        let first = &garden.tasks()[0];
        assert_eq!(first.code, "catch_up", "{first:?}");
    }
}

#[derive(Debug, Clone, Copy)]
enum Did {
    Read(f64),
    PouredUnread(f64),
    PouredRead(f64, f64),
    DrainedUnread(f64),
    PhOnly,
    Changed(f64),
    Nothing,
}

fn did() -> impl Strategy<Value = Did> {
    prop_oneof![
        (20.0..98.0f64).prop_map(Did::Read),
        (20.0..98.0f64).prop_map(Did::Read),
        (1.0..40.0f64).prop_map(Did::PouredUnread),
        (20.0..60.0f64, 1.0..30.0f64).prop_map(|(read, more)| Did::PouredRead(read, more)),
        (1.0..40.0f64).prop_map(Did::DrainedUnread),
        Just(Did::PhOnly),
        (40.0..95.0f64).prop_map(Did::Changed),
        Just(Did::Nothing),
    ]
}

fn logged(day: usize, did: Did) -> Option<Entry> {
    let when = format!("2027-03-{:02} 09:00", day + 1);
    let said = |looked| Some(visit(&when, looked));
    match did {
        Did::Read(litres) => said(level(litres)),
        Did::PouredUnread(litres) => said(Visit { top_off: Some(poured(litres)), ..Visit::default() }),
        Did::PouredRead(read, more) => said(Visit { top_off: Some(poured(more)), ..level(read) }),
        Did::DrainedUnread(litres) => said(Visit { drained: Some(l(litres)), ..Visit::default() }),
        Did::PhOnly => said(Visit { ph: Some(ph(5.9)), ..Visit::default() }),
        Did::Changed(litres) => Some(entry(&when, Body::Change(Change::full(l(litres))))),
        Did::Nothing => None,
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]
    #[test]
    fn the_day_on_a_task_is_the_day_in_the_outlook(all in proptest::collection::vec(did(), 3..14), later in prop_oneof![1..80i64, 80..2600i64]) {
        let log: Vec<Entry> = all.iter().enumerate().filter_map(|(day, did)| logged(day, *did)).collect();
        prop_assume!(!log.is_empty());
        let mut garden = Garden::new(seldom(), vec![], &log, "2027-03-15 09:00");
        garden.now = garden.now.checked_add(later.hours()).unwrap();
        let s = garden.situation();
        let Some(reached) = minimum_reached(&s) else { return Ok(()) };
        let (on, today) = (s.date(reached.at), s.today());
        prop_assert!(reached.act_by <= reached.at && reached.earliest <= reached.at);
        prop_assert!(reached.latest.is_none_or(|latest| reached.at <= latest), "{reached:?}");
        // In the outlook, in words and in what is drawn.
        let ahead = level_ahead(&garden);
        let within = add_days(today, 21);
        prop_assert_eq!(ahead.leaves.map(|leaves| leaves.on), (on <= within).then_some(on.max(today)));
        for point in &ahead.points {
            let then = s.now.timestamp() + SignedDuration::from_secs((point.days * 86_400.0) as i64);
            let apart = then.duration_since(reached.at).as_secs_f64().abs();
            prop_assert!(apart < 60.0 || (point.value < 30.0) == (then > reached.at), "{point:?} {reached:?}");
        }
        // On the task, where the forecast brings it forward, and on a rule of one's own.
        let due = routine::due(Check::Level, &s).unwrap();
        if due.from == reached.act_by {
            let named = told(day(on, today), Reader { child: false, ..CHILD });
            prop_assert!(due.reason.clone().said().contains(named.trim_end_matches('.')), "{} {named}", due.reason.said());
        }
        let own = garden.tasks().into_iter().find(|task| task.rule.is_some()).unwrap();
        prop_assert_eq!(own.due_on, on, "{:?}", own);
    }
}
