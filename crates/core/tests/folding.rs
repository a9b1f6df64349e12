//! The state is what the log says: in any order, amended or not, rebuilt or carried on.

use crate::common::{Said, known};
use mopsel_core::projection::{Known, Part};

use crate::common::{at, ec, entry, l, level, ph, system, visit};
use mopsel_core::fact::{Body, Entry, RootAnswers, Roots, TopOff, TopOffWater, Visit, effective};
use mopsel_core::projection::uptake;
use mopsel_core::quantity::Note;
use mopsel_core::system::Check;
use mopsel_core::system::Kind;
use mopsel_core::words::say_entry;
use proptest::prelude::*;
use uuid::Uuid;

fn amend(of: &Entry, body: Body) -> Entry {
    Entry { id: Uuid::now_v7(), amends: Some(of.id), reason: Note::new("misread").ok(), body, ..of.clone() }
}

#[test]
fn an_amendment_replaces_and_a_withdrawal_counts_for_nothing() {
    let tower = system(Kind::Tower);
    let read = visit("2027-03-08 09:00", Visit { ph: Some(ph(7.6)), ..Visit::default() });
    let right = amend(&read, Body::Visit(Visit { ph: Some(ph(6.7)), ..Visit::default() }));
    let log = [read.clone(), right.clone()];
    assert_eq!(known(&log, &tower).readings.ph.unwrap().value, ph(6.7));
    assert_eq!(effective(&log), vec![&right], "the original stays in the log and counts no more");
    let gone = [read, right.clone(), amend(&right, Body::Withdrawn {})];
    assert_eq!(known(&gone, &tower), Known::default());
}

/// The check of a file holds each projection against the log by this: a difference in one is one in that one alone.
#[test]
fn each_part_is_the_same_only_as_itself() {
    let seen = Visit {
        plants: Some(mopsel_core::fact::Plants::default()),
        ph: Some(ph(6.1)),
        top_off: Some(TopOff { litres: l(3.0), water: TopOffWater::Plain }),
        supply: Some(l(12.0)),
        roots: Some(Roots {
            answers: RootAnswers { stick_together: Some(true), ..RootAnswers::default() },
            ports: None,
        }),
        ..level(60.0)
    };
    let change =
        Body::Change(mopsel_core::fact::Change { ph: Some(ph(5.9)), ..mopsel_core::fact::Change::full(l(80.0)) });
    let log = [entry("2027-03-07 09:00", change), visit("2027-03-08 09:00", seen)];
    let (full, bare) = (known(&log, &system(Kind::Tower)), Known::default());
    for part in Part::ALL {
        let mut one = Known::default();
        one.read(part, &full.write(part).unwrap()).unwrap();
        assert!(one.same(&full, part) && !one.same(&bare, part), "{part:?}");
        assert!(Part::ALL.into_iter().filter(|other| *other != part).all(|other| one.same(&bare, other)), "{part:?}");
    }
}

#[test]
fn what_was_drained_without_a_reading_teaches_no_uptake() {
    let log = [
        visit("2027-03-01 09:00", level(90.0)),
        visit("2027-03-02 09:00", level(85.0)),
        visit("2027-03-05 09:00", Visit { drained: Some(l(20.0)), ..Visit::default() }),
        visit("2027-03-07 09:00", level(40.0)),
        visit("2027-03-08 09:00", level(35.0)),
    ];
    let tank = known(&log, &system(Kind::BucketChain)).tank;
    let drunk = uptake(&tank).unwrap();
    assert_eq!((drunk.a_day, drunk.intervals), (l(5.0), 2), "nobody knows from how much on it was drunk");
}

#[test]
fn all_fine_is_a_look_in_and_nothing_more() {
    let tower = system(Kind::Tower);
    let state = known(&[visit("2027-03-08 09:00", Visit { all_fine: true, ..Visit::default() })], &tower);
    assert_eq!(state.done.last.keys().copied().collect::<Vec<_>>(), vec![Check::LookIn]);
}

#[test]
fn all_fine_does_not_wipe_away_signs_or_rot() {
    let tower = system(Kind::Tower);
    let sick = Visit {
        plants: Some(mopsel_core::fact::Plants::showing(&[mopsel_core::fact::PlantSign::BrownTips], None)),
        roots: Some(Roots {
            answers: RootAnswers { stick_together: Some(true), ..RootAnswers::default() },
            ports: None,
        }),
        ..Visit::default()
    };
    let state = known(
        &[visit("2027-03-07 09:00", sick), visit("2027-03-08 09:00", Visit { all_fine: true, ..Visit::default() })],
        &tower,
    );
    assert_eq!(state.readings.plants.unwrap().value.signs.len(), 1);
    assert!(state.cases.root_rot().is_some());
}

#[test]
fn uptake_counts_what_was_added_and_skips_a_bad_reading() {
    let tower = system(Kind::BucketChain);
    let top = |litres: f64, add: f64| Visit {
        top_off: Some(TopOff { litres: l(add), water: TopOffWater::Plain }),
        ..level(litres)
    };
    let pour = Visit { top_off: Some(TopOff { litres: l(10.0), water: TopOffWater::Plain }), ..Visit::default() };
    let log = [
        visit("2027-03-01 08:00", top(60.0, 30.0)),
        visit("2027-03-03 08:00", top(80.0, 10.0)), // 90 → 80 in two days: 5 a day
        visit("2027-03-04 08:00", pour),            // unmeasured in between
        visit("2027-03-05 08:00", level(90.0)),     // 90 + 10 → 90 in two days: 5 a day
        visit("2027-03-06 08:00", level(45.0)),     // a misread level
        visit("2027-03-08 08:00", level(75.0)),     // and its echo, held at 0
        visit("2027-03-09 08:00", level(70.0)),     // 5 a day again
    ];
    let known = uptake(&known(&log, &tower).tank).unwrap();
    assert_eq!(known.a_day, l(5.0), "the median does not follow one misread level");
    assert_eq!(known.intervals, 5);
}

#[test]
fn a_change_forgets_what_was_read_in_the_old_water() {
    let tower = system(Kind::Tower);
    let change = mopsel_core::fact::Change { ec: Some(ec(1.4)), ..mopsel_core::fact::Change::full(l(90.0)) };
    let state = known(
        &[
            visit("2027-03-07 09:00", Visit { ph: Some(ph(7.4)), ..Visit::default() }),
            entry("2027-03-08 09:00", Body::Change(change)),
        ],
        &tower,
    );
    assert!(state.readings.ph.is_none());
    assert_eq!(state.tank.ec.unwrap().value.get(), 1.4);
    assert_eq!(state.tank.topped_off_since_change, None);
}

#[test]
fn every_part_of_an_entry_is_said() {
    let tower = system(Kind::Tower);
    let full = Visit {
        all_fine: true,
        ph: Some(ph(6.0)),
        ec: Some(ec(1.5)),
        note: Note::new("Quiet day <script>").ok(),
        done: vec![Check::WipeDown],
        top_off: Some(TopOff { litres: l(4.0), water: TopOffWater::Feed { ec: None } }),
        ..level(80.0)
    };
    let lines = say_entry(&Body::Visit(full), &tower).into_iter().map(Said::said).collect::<Vec<_>>();
    assert_eq!(
        lines,
        [
            "Looked in: all fine",
            "Level: 80.0 L",
            "pH 6.0",
            "EC 1.50 mS/cm",
            "Topped off 4.0 L of feed",
            "Done: Wipe down",
            "Quiet day <script>"
        ]
    );
}

fn any_visit() -> impl Strategy<Value = Visit> {
    let maybe = |strategy: std::ops::Range<f64>| proptest::option::of(strategy);
    (
        maybe(30.0..98.0),
        maybe(4.5..8.0),
        maybe(0.3..3.0),
        maybe(0.5..9.0),
        any::<bool>(),
        proptest::option::of(any::<bool>()),
    )
        .prop_map(|(litres, p, e, top, fine, roots)| Visit {
            all_fine: fine,
            ph: p.map(ph),
            ec: e.map(ec),
            top_off: top.map(|t| TopOff { litres: l(t), water: TopOffWater::Plain }),
            roots: roots.map(|r| Roots {
                answers: RootAnswers { stick_together: Some(r), ..RootAnswers::default() },
                ports: None,
            }),
            ..litres.map(level).unwrap_or_default()
        })
}

proptest! {
    /// Carrying the state on entry by entry gives what folding everything gives, also through its
    /// stored form.
    #[test]
    fn carried_on_equals_rebuilt(visits in proptest::collection::vec(any_visit(), 1..30)) {
        let tower = system(Kind::BucketChain);
        let start = at("2027-01-01 08:00");
        let log: Vec<Entry> = visits.into_iter().enumerate().map(|(i, v)| Entry { at: start + jiff::SignedDuration::from_hours(i as i64 * 13), ..visit("2027-01-01 08:00", v) }).collect();
        let mut carried = Known::default();
        for entry in &log {
            prop_assert!(carried.can_apply(entry));
            carried.apply(entry, &tower);
            let mut kept = Known::default();
            for part in Part::ALL {
                kept.read(part, &carried.write(part).unwrap()).unwrap();
            }
            carried = kept;
        }
        prop_assert_eq!(&carried, &known(&log, &tower));
        let late = Entry { at: start - jiff::SignedDuration::from_hours(1), ..log[0].clone() };
        prop_assert!(!carried.can_apply(&late), "what comes late is folded anew");
        prop_assert!(carried.tank.volumes.len() <= 9, "the state stays small");
    }
}
