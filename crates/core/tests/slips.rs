//! Slips are seen by the balance: what salt and acid cannot have made is asked about at every size, before any dose.

use crate::common::{Garden, Said, at_the_bench, ec, entry, l, level, ph, planting, system, visit};
use mopsel_core::bench::{Ask, Purpose};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Visit};
use mopsel_core::system::{Check, Kind};
use mopsel_core::verdict::{doubts, doubts_of};
use proptest::prelude::*;

/// A tank that was filled and measured two days ago.
fn rails(strength: f64) -> Garden {
    let read = Visit { ph: Some(ph(6.0)), ec: Some(ec(strength)), done: vec![Check::Calibrate], ..level(90.0) };
    let log = [visit("2027-03-07 09:00", read)];
    let kale = vec![planting("Kale", (1, 9), Stage::Vegetative)];
    Garden::new(system(Kind::FilmChannel), kale, &log, "2027-03-09 09:00")
}

fn asked(visit: Visit, garden: &Garden) -> Vec<String> {
    doubts(&visit, &garden.situation()).into_iter().map(|doubt| doubt.question.said()).collect()
}

#[test]
fn an_ec_that_drinking_cannot_have_made_is_asked_about_on_the_visit_and_on_the_bench() {
    let garden = rails(1.37);
    let typed = |strength: f64| asked(Visit { ec: Some(ec(strength)), ..Visit::default() }, &garden);
    assert_eq!(typed(0.9), ["About 1.37 mS/cm was expected. Is that a slip, or another scale?"]);
    assert!(typed(1.34).is_empty() && typed(1.41).is_empty(), "a meter is true to that");
    let plan = |strength: f64| {
        let put_right = Purpose::PutRight { from: Some(l(60.0)), to: None, ec: Some(ec(strength)), ph: Some(ph(7.4)) };
        at_the_bench(&garden.situation(), &Ask::new(put_right)).unwrap().said().warnings
    };
    let asks = plan(0.9);
    for question in ["That is 30.0 L less than expected", "About 1.37 mS/cm was expected", "About pH 6.0 was expected"]
    {
        assert!(asks[..3].iter().any(|said| said.starts_with(question)), "{asks:?}");
    }
    assert!(!plan(1.37).iter().any(|said| said.starts_with("About 1.37")));
}

#[test]
fn a_batch_without_one_of_its_parts_names_it() {
    let garden = rails(1.4);
    let ask = Ask::new(Purpose::Change { litres: None, heel: Some(l(0.0)), heel_ec: None });
    let plan = at_the_bench(&garden.situation(), &ask).unwrap();
    let Some(Body::Change(change)) = plan.entry.clone() else { panic!("{:?}", plan.entry) };
    let made = plan.batch_ec.unwrap().value;
    let batch = change.batch.clone().unwrap();
    let alone = |n: usize| batch.used[n].rise.unwrap() * batch.used[n].amount.value / batch.fresh.get();
    assert!(batch.used.len() > 1, "{batch:?}");
    let typed = |strength: f64| {
        let batch = Some(mopsel_core::fact::Batch { ec: Some(ec(strength)), ..batch.clone() });
        let body = Body::Change(mopsel_core::fact::Change { batch, ..change.clone() });
        let found = doubts_of(&body, &garden.situation()).into_iter();
        found.map(|doubt| doubt.question.said()).filter(|said| !said.contains("level")).collect::<Vec<_>>()
    };
    let without = typed(made - alone(1));
    assert!(without.len() == 1 && without[0].contains("were missing"), "{without:?}");
    assert!(typed(made * 0.97).is_empty() && typed(made * 1.05).is_empty(), "labels are off by a tenth");
    assert!(typed(made * 2.2)[0].contains("another scale"));
}

proptest! {
    /// A meter in calibration, a day after it was read with nothing poured, is asked about by nobody.
    #[test]
    fn an_honest_meter_is_not_asked_about(strength in 0.4f64..3.0, off in -0.02f64..0.02, ph_off in -0.1f64..0.1, hours in 0i64..72) {
        let read = Visit { ph: Some(ph(6.0)), ec: Some(ec(strength)), ..level(90.0) };
        let kale = vec![planting("Kale", (1, 9), Stage::Vegetative)];
        let now = crate::common::at("2027-03-06 09:00") + jiff::SignedDuration::from_hours(hours);
        let now = now.to_zoned(crate::common::zone()).strftime("%Y-%m-%d %H:%M").to_string();
        let log = [entry("2027-03-06 09:00", Body::Visit(read))];
        let garden = Garden::new(system(Kind::FilmChannel), kale, &log, &now);
        let typed = Visit { ph: Some(ph(6.0 + ph_off)), ec: Some(ec(strength * (1.0 + off))), ..Visit::default() };
        prop_assert_eq!(asked(typed, &garden), Vec::<String>::new());
    }
}
