//! Jobs shared out among the hands of a class.

use jiff::civil::{Date, date};
use mopsel_core::calendar::add_days;
use mopsel_core::care::rota::{Hand, Job, share};
use proptest::prelude::*;

const MONDAY: Date = date(2027, 3, 8);

fn hand(did: f64) -> Hand {
    Hand { did, away: [].into() }
}

fn job(day: i64, minutes: u16) -> Job {
    Job { on: add_days(MONDAY, day), minutes }
}

#[test]
fn whoever_did_least_comes_first_and_nobody_is_named_where_nobody_is_there() {
    let jobs = [job(0, 3), job(0, 2), job(0, 1)];
    assert_eq!(share(&[hand(9.0), hand(1.0), hand(4.0)], &jobs, MONDAY), [Some(1), Some(2), Some(0)]);
    assert_eq!(share(&[], &jobs, MONDAY), [None, None, None]);
    let away = Hand { did: 0.0, away: [MONDAY].into() };
    assert_eq!(share(std::slice::from_ref(&away), &jobs, MONDAY), [None, None, None], "all are absent");
    assert_eq!(share(&[away, hand(50.0)], &jobs, MONDAY), [Some(1), Some(1), Some(1)]);
}

#[test]
fn over_six_weeks_that_are_remembered_everybody_does_about_as_much() {
    let mut did = [0.0_f64; 7];
    for week in 0..6 {
        let monday = add_days(MONDAY, 7 * week);
        let jobs: Vec<Job> = (0..5)
            .flat_map(|day| (0..4).map(move |n| Job { on: add_days(monday, day), minutes: 1 + (n % 3) * 2 }))
            .collect();
        let hands: Vec<Hand> = did.iter().map(|did| hand(*did)).collect();
        for (job, who) in jobs.iter().zip(share(&hands, &jobs, monday)) {
            did[who.unwrap()] += f64::from(job.minutes);
        }
    }
    let (least, most) = (did.iter().copied().fold(f64::MAX, f64::min), did.iter().copied().fold(0.0, f64::max));
    assert!(most - least <= 0.25 * most, "{did:?}");
}

proptest! {
    /// What is done on one day changes nothing on a later one, and an absence moves the jobs of whoever is absent only.
    #[test]
    fn a_printed_sheet_stays_true(did in prop::collection::vec(0.0f64..60.0, 1..7), days in prop::collection::vec((0i64..5, 1u16..6), 1..24), absent in 0usize..7, on in 0i64..5) {
        let hands: Vec<Hand> = did.iter().map(|did| hand(*did)).collect();
        let jobs: Vec<Job> = days.iter().map(|(day, minutes)| job(*day, *minutes)).collect();
        let printed = share(&hands, &jobs, MONDAY);
        prop_assert!(printed.iter().all(Option::is_some));
        // Tuesday's jobs by themselves fall to the same hands.
        let (tuesday, named): (Vec<Job>, Vec<Option<usize>>) =
            jobs.iter().zip(&printed).filter(|(job, _)| job.on == add_days(MONDAY, 1)).map(|(job, who)| (*job, *who)).unzip();
        prop_assert_eq!(share(&hands, &tuesday, MONDAY), named);
        let (absent, on) = (absent % hands.len(), add_days(MONDAY, on));
        let mut fewer = hands.clone();
        fewer[absent].away.insert(on);
        for ((job, before), after) in jobs.iter().zip(&printed).zip(share(&fewer, &jobs, MONDAY)) {
            let theirs = *before == Some(absent) && job.on == on;
            let fits = if theirs { after != Some(absent) } else { after == *before };
            prop_assert!(fits);
        }
    }
}

#[test]
fn at_a_suspect_children_look_and_touch_nothing() {
    use mopsel_core::care::sheet::{monday_of, rows};
    use mopsel_core::crop::Stage;
    use mopsel_core::fact::{RootAnswers, Roots, Visit};
    use mopsel_core::system::Kind;
    let days: Vec<Date> = (0..5).map(|n| add_days(MONDAY, n)).collect();
    let garden = |log: &[mopsel_core::fact::Entry]| {
        let grows = vec![crate::common::planting("Dill", (1, 8), Stage::Vegetative)];
        crate::common::Garden::new(crate::common::system(Kind::AeratedRaft), grows, log, "2027-03-08 09:00")
    };
    let codes = |garden: &crate::common::Garden| -> Vec<String> {
        rows(&days, &garden.situation()).into_iter().map(|row| row.code).collect()
    };
    let mut log = vec![crate::common::noted("2027-03-01 09:00")];
    let sound = codes(&garden(&log));
    assert!(sound.contains(&"roots".to_owned()) && sound.contains(&"wipe_down".to_owned()), "{sound:?}");
    assert!(!sound.iter().any(|code| code == "change" || code == "filters" || code == "calibrate"));
    let answers = RootAnswers { slime_or_browning: Some(true), ..RootAnswers::default() };
    log.push(crate::common::visit(
        "2027-03-07 09:00",
        Visit { roots: Some(Roots { answers, ports: None }), ..Visit::default() },
    ));
    assert_eq!(codes(&garden(&log)), ["look_in"], "root rot is open");
    assert_eq!((monday_of(add_days(MONDAY, 6)), monday_of(MONDAY)), (MONDAY, MONDAY));
}
