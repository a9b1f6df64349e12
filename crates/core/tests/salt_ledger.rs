//! The salt ledger and what it teaches, told through whole logs.

use crate::common::{Said, known};
use mopsel_core::projection::Known;

use crate::common::{Garden, ec, entry, l, level, ph, planting, system, visit};
use mopsel_core::care::top_off::top_off_advice;
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Batch, Body, Change, Entry, Premix, PremixIn, TopOff, TopOffWater, Used, Visit};
use mopsel_core::mixing::{BatchPoint, ProductKind, learnt_rise, shipped_id};
use mopsel_core::quantity::Amount;
use mopsel_core::quantity::{Conductivity, Name};
use mopsel_core::system::{Kind, TopOffMethod};
use proptest::prelude::*;
use uuid::Uuid;

/// The middle of the band that plants are not taken to stray far from.
const AIM: Conductivity = Conductivity::constant(1.5);

fn near(found: f64, wanted: f64, within: f64) {
    assert!((found - wanted).abs() <= within, "{found} is not {wanted}");
}

fn poured(litres: f64, water: TopOffWater) -> Option<TopOff> {
    Some(TopOff { litres: l(litres), water })
}

fn feed(strength: f64) -> TopOffWater {
    TopOffWater::Feed { ec: Some(Conductivity::new(strength).unwrap()) }
}

fn full(when: &str, litres: f64, strength: f64, top_off: Option<TopOff>) -> Entry {
    visit(when, Visit { ec: Some(ec(strength)), top_off, ..level(litres) })
}

fn state(log: &[Entry]) -> Known {
    known(log, &system(Kind::FilmChannel))
}

/// A log in which the plants drink `water` litres a day at `uptake`, and are topped off with `added`.
fn life(days: u8, start: f64, uptake: f64, water: f64, strength: f64) -> Vec<Entry> {
    let mut salt = 90.0 * start;
    let mut log = vec![full("2027-03-01 08:00", 90.0, start, None)];
    for day in 2..=days {
        salt -= water * uptake;
        let standing = 90.0 - water;
        log.push(full(&format!("2027-03-{day:02} 08:00"), standing, salt / standing, poured(water, feed(strength))));
        salt += water * strength;
    }
    log
}

#[test]
fn five_days_on_plain_water_come_to_three_quarters() {
    let log = [
        full("2027-03-01 08:00", 60.0, 1.8, poured(40.0, TopOffWater::Plain)),
        full("2027-03-06 08:00", 60.0, 1.5, None),
    ];
    let ledger = state(&log).lessons.ledger;
    assert_eq!(ledger.stretches.len(), 1);
    let stretch = ledger.stretches[0];
    near(stretch.uptake(), 0.75, 1e-9);
    near(stretch.water.get(), 40.0, 1e-9);
    near(stretch.days, 5.0, 1e-9);
    assert!(ledger.takes_up(AIM).is_none(), "one stretch is not enough to be trusted");
}

#[test]
fn what_was_drained_is_not_taken_for_what_was_eaten() {
    let drained = visit(
        "2027-03-03 08:00",
        Visit { drained: Some(l(20.0)), top_off: poured(20.0, TopOffWater::Plain), ..Visit::default() },
    );
    let log = [full("2027-03-01 08:00", 80.0, 2.0, None), drained, full("2027-03-05 08:00", 70.0, 1.4, None)];
    let stretch = state(&log).lessons.ledger.stretches[0];
    // 160 + 20 · 0.3 − 20 · 2.0 − 70 · 1.4 = 28 in 10 litres.
    near(stretch.water.get(), 10.0, 1e-9);
    near(stretch.uptake(), 2.8, 1e-9);
}

#[test]
fn nothing_is_read_across_what_nobody_knows() {
    let unknown = |top_off| [full("2027-03-01 08:00", 80.0, 1.5, top_off), full("2027-03-04 08:00", 70.0, 1.4, None)];
    assert!(
        state(&unknown(poured(5.0, TopOffWater::Feed { ec: None }))).lessons.ledger.stretches.is_empty(),
        "feed of unknown strength"
    );
    assert!(
        state(&unknown(poured(5.0, TopOffWater::Premixed {}))).lessons.ledger.stretches.is_empty(),
        "nothing was mixed ahead"
    );
    assert_eq!(state(&unknown(poured(5.0, TopOffWater::Plain))).lessons.ledger.stretches.len(), 1);
    let changed = [
        full("2027-03-01 08:00", 80.0, 1.5, None),
        entry("2027-03-02 08:00", Body::Change(Change::full(l(90.0)))),
        full("2027-03-04 08:00", 70.0, 1.4, None),
    ];
    assert!(state(&changed).lessons.ledger.stretches.is_empty(), "a change of unknown strength");
    let known = [
        full("2027-03-01 08:00", 80.0, 1.5, None),
        entry("2027-03-02 08:00", Body::Change(Change { ec: Some(ec(1.6)), ..Change::full(l(90.0)) })),
        full("2027-03-04 08:00", 80.0, 1.7, None),
    ];
    let stretch = state(&known).lessons.ledger.stretches[0];
    near(stretch.uptake(), (90.0 * 1.6 - 80.0 * 1.7) / 10.0, 1e-9);
    let half_hour = [full("2027-03-01 08:00", 80.0, 1.5, None), full("2027-03-01 08:30", 79.0, 1.5, None)];
    assert!(state(&half_hour).lessons.ledger.stretches.is_empty(), "two readings of one visit are no stretch");
}

#[test]
fn a_correction_of_strength_breaks_the_stretch_and_is_learnt_from_where_it_was_measured() {
    let dose = Used {
        product: shipped_id("leaf_a"),
        name: Name::new("Leaf feed A").unwrap(),
        what: ProductKind::PartA,
        amount: Amount::ml(160.0),
        rise: None,
    };
    let stirred = Batch { fresh: l(80.0), used: vec![dose], source_ec: Conductivity::new(1.0).ok(), ec: Some(ec(1.4)) };
    let log = [
        full("2027-03-01 08:00", 80.0, 1.0, None),
        visit("2027-03-02 08:00", Visit { batch: Some(stirred), ..Visit::default() }),
        full("2027-03-04 08:00", 70.0, 1.4, None),
    ];
    let after = state(&log);
    assert!(after.lessons.ledger.stretches.is_empty());
    near(after.lessons.batches[0].rise, 0.4, 1e-9);
    near(after.lessons.batches[0].per_litre[0].1, 2.0, 1e-9);
}

#[test]
fn feed_mixed_ahead_counts_at_the_strength_it_was_measured_at() {
    let jug = entry(
        "2027-03-01 07:00",
        Body::Premix(Premix {
            into: PremixIn::Jug,
            litres: l(30.0),
            batch: None,
            ec: Some(ec(1.0)),
            ph: Some(ph(6.0)),
            keeps_days: None,
            note: None,
        }),
    );
    let log = [
        jug,
        full("2027-03-01 08:00", 80.0, 1.5, poured(10.0, TopOffWater::Premixed {})),
        full("2027-03-04 08:00", 80.0, 1.5, None),
    ];
    let after = state(&log);
    near(after.lessons.ledger.stretches[0].uptake(), 1.0, 1e-9);
    near(after.lessons.premixed.unwrap().value.litres.get(), 20.0, 1e-9);
}

#[test]
fn the_median_of_the_stretches_is_not_moved_by_one_misread_level() {
    let mut log = life(8, 1.5, 0.9, 8.0, 1.2);
    let sound = state(&log).lessons.ledger.takes_up(AIM).unwrap().value.get();
    near(sound, 0.9, 1e-6);
    let Body::Visit(misread) = &mut log[4].body else { panic!("a visit") };
    misread.level = level(78.0).level;
    near(state(&log).lessons.ledger.takes_up(AIM).unwrap().value.get(), 0.9, 0.12);
}

#[test]
fn advice_is_calm_where_the_method_holds_and_silent_where_nothing_is_known() {
    let at = |log: &[Entry], method| {
        let mut rails = system(Kind::FilmChannel);
        rails.methods.top_off = method;
        let garden =
            Garden::new(rails, vec![planting("Coriander", (1, 9), Stage::Vegetative)], log, "2027-03-09 08:30");
        top_off_advice(&garden.situation()).map(Said::said)
    };
    assert!(at(&[], TopOffMethod::Plain).is_none());
    let steady = life(8, 1.3, 1.3, 8.0, 1.3);
    let calm = at(&steady, TopOffMethod::SameStrength).unwrap();
    assert!(!calm.drifting && calm.next == "Go on.", "{calm:?}");
    let hungry = at(&steady, TopOffMethod::Plain).unwrap();
    assert!(hungry.drifting && hungry.finding.contains("EC falls"), "{}", hungry.finding);
    assert!(
        hungry.methods[1].ec_a_week.abs() <= hungry.methods.last().unwrap().ec_a_week.abs(),
        "the least drift comes first among the others"
    );
    assert!(hungry.methods.iter().all(|m| m.method != TopOffMethod::Premixed), "nothing stands ready to draw from");
    let bare = Garden::new(system(Kind::FilmChannel), vec![], &steady, "2027-03-09 08:30");
    assert!(top_off_advice(&bare.situation()).map(Said::said).is_none(), "nothing grows");
}

#[test]
fn ph_drift_is_read_since_the_last_change_or_correction() {
    let read = |when: &str, value: f64| visit(when, Visit { ph: Some(ph(value)), ..Visit::default() });
    let log = [
        read("2027-02-20 08:00", 7.4),
        entry("2027-03-01 08:00", Body::Change(Change { ph: Some(ph(5.8)), ..Change::full(l(90.0)) })),
        read("2027-03-03 08:00", 5.9),
        read("2027-03-05 08:00", 6.0),
    ];
    let after = state(&log);
    assert_eq!(after.readings.ph_since.iter().map(|(_, ph)| *ph).collect::<Vec<_>>(), [5.8, 5.9, 6.0]);
    assert_eq!(after.lessons.fresh_ph, [5.8]);
}

#[test]
fn a_rise_is_shared_where_labels_are_silent_and_corrected_where_they_speak() {
    let [a, b, c] = [Uuid::from_u128(1), Uuid::from_u128(2), Uuid::from_u128(3)];
    let batch = |per_litre: &[(Uuid, f64)], rise| BatchPoint { per_litre: per_litre.to_vec(), rise };
    let half_known = batch(&[(a, 2.0), (b, 3.0)], 1.1);
    let given = |id: Uuid| (id == a).then_some(0.25);
    near(learnt_rise(b, &[&half_known], given).unwrap().rise, 0.2, 1e-12);
    assert!(
        learnt_rise(a, &[&half_known], given).is_none(),
        "the known one is not corrected while the other is a guess"
    );
    let all_known = batch(&[(a, 2.0)], 0.4);
    near(learnt_rise(a, &[&all_known], given).unwrap().rise, 0.2, 1e-12);
    assert!(learnt_rise(c, &[&half_known, &all_known], given).is_none(), "never used");
    let nonsense = batch(&[(a, 2.0)], -0.3);
    assert!(learnt_rise(a, &[&nonsense], given).is_none(), "salt does not vanish");
    let (low, high) = (batch(&[(a, 2.0)], 0.3), batch(&[(a, 2.0)], 9.0));
    near(learnt_rise(a, &[&low, &all_known, &high], given).unwrap().rise, 0.2, 1e-12);
}

proptest! {
    #[test]
    fn the_ledger_finds_what_the_plants_took_whatever_they_were_given(uptake in 0.46..2.2f64, water in 4.6..20.0f64, strength in 0.3..3.0f64) {
        let after = state(&life(6, 2.5, uptake, water, strength));
        let found = after.lessons.ledger.takes_up(AIM).unwrap().value.get();
        prop_assert!((found - uptake).abs() < 1e-6, "{found} is not {uptake}");
        prop_assert!((after.lessons.ledger.water_a_day().unwrap().get() - water).abs() < 1e-6);
    }

    #[test]
    fn topping_off_at_the_uptake_concentration_holds_the_strength(uptake in 0.4..2.5f64, water in 1.0..20.0f64) {
        let log = life(7, uptake, uptake, water, uptake);
        let first = uptake;
        let last = state(&log).tank.ec.unwrap().value.get();
        prop_assert!((first - last).abs() < 1e-9);
    }

    #[test]
    fn a_learnt_rise_lands_the_next_batch(truth in 0.05..0.5f64, label in 0.05..0.5f64, rate in 0.5..6.0f64) {
        let id = Uuid::from_u128(7);
        let batch = BatchPoint { per_litre: vec![(id, rate)], rise: truth * rate };
        let learnt = learnt_rise(id, &[&batch, &batch], |_| Some(label)).unwrap();
        prop_assert!((learnt.rise - truth).abs() < 1e-9, "one product, measured: its rise is what was measured");
    }
}
