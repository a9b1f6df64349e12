//! pH: the estimate by the best source there is, half first, a cap a day, never both ways.

use crate::common::{CHILD, Refused, Said, adult};

use crate::common::{Garden, entry, kit, l, level, ph, planting, system, visit};
use mopsel_core::crop::Stage;
use mopsel_core::dosing::{DosePart, DoseSource, JarTest, PhAsk, PhEstimate, estimate};
use mopsel_core::fact::{Body, Correction, Entry, Used, Visit};
use mopsel_core::mixing::{Product, ProductKind, products, shipped_id};
use mopsel_core::quantity::Amount;
use mopsel_core::quantity::{Name, Ph, PhReading};
use mopsel_core::system::{Kind, Measuring, PhMethod};
use mopsel_core::words::{Reader, RefusalSaid};
use proptest::prelude::*;
use uuid::Uuid;

fn down() -> (Uuid, Product) {
    let id = shipped_id("ph_down");
    (id, products().iter().find(|(known, _)| *known == id).unwrap().1.clone())
}

fn up() -> (Uuid, Product) {
    let id = shipped_id("ph_up");
    (id, products().iter().find(|(known, _)| *known == id).unwrap().1.clone())
}

fn dose(when: &str, from: f64, ml: f64, what: ProductKind) -> Entry {
    let product = shipped_id(if what == ProductKind::PhUp { "ph_up" } else { "ph_down" });
    let dosed = Used { product, name: Name::new("pH down").unwrap(), what, amount: Amount::ml(ml), rise: None };
    entry(
        when,
        Body::Correction(Correction {
            from: ph(from),
            aim: Ph::new(6.0).unwrap(),
            dosed,
            litres: l(90.0),
            whole: None,
            note: None,
        }),
    )
}

/// What open water holds against acid at a pH, for each mmol/L of phosphate.
fn share(ph: f64) -> f64 {
    1.0 / (1.0 + 10f64.powf(6.8 - ph)) + 0.007 * 10f64.powf(ph - 6.0) - 10f64.powf(3.0 - ph)
}

/// The same dose as part of an estimate of so many mL in all.
fn half_of(whole: f64, entry: Entry) -> Entry {
    match entry.body {
        Body::Correction(correction) => {
            Entry { body: Body::Correction(Correction { whole: Some(whole), ..correction }), ..entry }
        }
        _ => entry,
    }
}

fn read(when: &str, value: f64) -> Entry {
    visit(when, Visit { ph: Some(ph(value)), ..Visit::default() })
}

fn rails(log: &[Entry], now: &str) -> Garden {
    Garden::new(system(Kind::FilmChannel), vec![planting("Coriander", (1, 9), Stage::Vegetative)], log, now)
}

fn ask(reading: PhReading) -> PhAsk {
    PhAsk { ph: reading, aim: None, litres: l(90.0), jar: None, read: None }
}

fn at(garden: &Garden, asked: PhAsk) -> Result<PhEstimate<String>, RefusalSaid> {
    let (id, product) = if asked.ph.middle() > 6.0 { down() } else { up() };
    estimate(asked, (id, &product), Some(&garden.situation())).said()
}

fn near(found: f64, wanted: f64, within: f64) {
    assert!((found - wanted).abs() <= within, "{found} is not {wanted}");
}

/// An acid of one's own, of which no label says how strong it is.
fn own() -> (Uuid, Product) {
    (Uuid::from_u128(77), Product { meq: None, ..down().1 })
}

fn by_own(garden: &Garden, asked: PhAsk) -> PhEstimate<String> {
    let (id, product) = own();
    estimate(asked, (id, &product), Some(&garden.situation())).said().unwrap()
}

#[test]
fn the_sources_come_best_first() {
    let unknown = rails(&[], "2027-03-09 08:30");
    let trial = by_own(&unknown, ask(ph(6.9)));
    assert_eq!((trial.source, trial.part), (DoseSource::Trial, DosePart::Trial));
    near(trial.now, 1.8, 1e-9);

    // Of feed aimed at 1.3 over 0.3 mS/cm 0.6 mmol/L of phosphate hold; the bottle has 2.6 meq in a millilitre or so.
    let by_water = at(&unknown, ask(ph(6.9))).unwrap();
    assert_eq!((by_water.source, by_water.part), (DoseSource::Balance, DosePart::Half));
    let meq = down().1.meq.unwrap();
    near(by_water.whole, 0.6 * 90.0 * (share(6.9) - share(5.9)) / meq, 1e-6);
    near(by_water.now * 2.0, by_water.whole, 1e-12);

    let jar = Some(JarTest { amount: 0.3, litres: l(1.0) });
    let by_jar = by_own(&unknown, PhAsk { jar, ..ask(ph(6.9)) });
    assert_eq!(by_jar.source, DoseSource::JarTest);
    near(by_jar.whole, 27.0 * (share(6.9) - share(5.9)) / (share(6.9) - share(5.8)), 1e-9);

    // 9 mL moved 90 L from 6.8 to 6.3: so much for each change of what it holds.
    let log = [dose("2027-03-01 08:00", 6.8, 9.0, ProductKind::PhDown), read("2027-03-01 08:30", 6.3)];
    let known = rails(&log, "2027-03-09 08:30");
    let learnt = at(&known, PhAsk { jar, ..ask(ph(6.9)) }).unwrap();
    assert_eq!(learnt.source, DoseSource::History);
    let buffer = (0.1 / (share(6.8) - share(6.3))).clamp(0.6 / meq * 0.4, 0.6 / meq * 1.25);
    near(learnt.whole, buffer * 90.0 * (share(6.9) - share(5.9)), 1e-6);
    assert!(learnt.sure.contains("1 correction"), "{}", learnt.sure);

    // Fresh water with nothing planted: by its alkalinity, and all the way.
    let mut hard = Garden::new(system(Kind::FilmChannel), vec![], &[], "2027-03-09 08:30");
    hard.system.methods.alkalinity = Some(150.0);
    let fresh = at(&hard, PhAsk { litres: l(40.0), ..ask(ph(7.6)) }).unwrap();
    assert_eq!((fresh.source, fresh.capped), (DoseSource::Alkalinity, false));
    near(fresh.whole * meq, 92.1, 0.1);
}

#[test]
fn worse_water_is_never_given_less_and_none_is_refused_that_aeration_alone_can_reach() {
    let garden = rails(&[], "2027-03-09 08:30");
    let mut last = 0.0;
    for reading in [kit(6.5, 7.0), kit(7.0, 7.5), kit(7.5, 8.0), kit(8.0, 8.5), ph(8.6), ph(9.2)] {
        let found = at(&garden, ask(reading)).unwrap();
        assert!(found.now > last, "{reading:?}: {} after {last}", found.now);
        last = found.now;
    }
}

#[test]
fn a_trial_is_doubled_until_the_ph_moves_however_late_it_is_read() {
    let trial = |when: &str, ml: f64| {
        let Body::Correction(correction) = dose(when, 7.4, ml, ProductKind::PhDown).body else { unreachable!() };
        let dosed = Used { product: own().0, ..correction.dosed };
        entry(when, Body::Correction(Correction { dosed, ..correction }))
    };
    let mut log = vec![trial("2027-02-16 08:00", 1.8), read("2027-02-23 08:00", 7.4)];
    near(by_own(&rails(&log, "2027-02-23 08:30"), ask(ph(7.4))).now, 3.6, 1e-9);
    log.extend([trial("2027-02-23 08:30", 3.6), read("2027-03-02 08:00", 7.45)]);
    near(by_own(&rails(&log, "2027-03-02 08:30"), ask(ph(7.45))).now, 7.2, 1e-9);
}

#[test]
fn ph_that_rises_after_acid_stops_every_dose_until_the_meter_was_held_against_its_buffers() {
    let log = [dose("2027-03-09 07:00", 6.9, 9.0, ProductKind::PhDown), read("2027-03-09 07:30", 7.3)];
    let mut garden = rails(&log, "2027-03-09 08:30");
    garden.calibrated = Some(crate::common::at("2027-03-01 09:00"));
    let refused = at(&garden, ask(ph(7.3))).refusal();
    assert_eq!(refused.code, "ph_went_the_other_way");
    assert!(refused.mend.starts_with("Stop."), "{refused:?}");
    garden.calibrated = Some(crate::common::at("2027-03-09 08:00"));
    assert!(at(&garden, ask(ph(7.3))).is_ok());
}

#[test]
fn a_climb_by_the_next_morning_is_gas_that_left_and_no_wrong_bottle() {
    let log = [dose("2027-03-08 09:00", 6.9, 9.0, ProductKind::PhDown), read("2027-03-09 07:30", 7.3)];
    let mut garden = rails(&log, "2027-03-09 08:30");
    garden.calibrated = Some(crate::common::at("2027-03-01 09:00"));
    assert!(at(&garden, ask(ph(7.3))).is_ok());
}

#[test]
fn no_dose_by_a_meter_that_was_never_calibrated_or_is_past_its_date() {
    let mut garden = rails(&[], "2027-03-09 08:30");
    garden.calibrated = None;
    assert_eq!(at(&garden, ask(ph(7.3))).refusal().code, "never_calibrated");
    garden.calibrated = Some(crate::common::at("2027-01-01 09:00"));
    let refused = at(&garden, ask(ph(7.3))).refusal();
    assert!(refused.found.contains("66 days") || refused.found.contains("67 days"), "{refused:?}");
    garden.system.measuring = Measuring::DropKit;
    assert!(at(&garden, ask(kit(7.0, 7.5))).is_ok(), "a drop kit is not calibrated");
}

#[test]
fn the_verdict_on_a_visit_says_how_much() {
    let log = [dose("2027-03-01 08:00", 6.8, 9.0, ProductKind::PhDown), read("2027-03-01 08:30", 6.3)];
    let told = |garden: &Garden, by_child: bool| {
        let visit = Visit { ph: Some(ph(6.9)), ..level(90.0) };
        mopsel_core::verdict::judge_visit(&visit, &garden.situation())
            .said_to(if by_child { CHILD } else { Reader::default() })
            .unwrap()
            .verdicts
            .into_iter()
            .find(|v| v.subject == mopsel_core::fact::Subject::Ph)
            .unwrap()
    };
    let known = rails(&log, "2027-03-09 08:30");
    assert!(told(&known, false).next.contains("mL of pH down, half of the estimate"), "{}", told(&known, false).next);
    assert!(told(&known, false).sure.unwrap().contains("1 correction"));
    assert!(told(&known, true).next.contains("Tell an adult"));
    let mut by_recipe = rails(&log, "2027-03-09 08:30");
    by_recipe.system.methods.ph = PhMethod::RecipeOnly;
    assert!(told(&by_recipe, false).next.contains("Change the water"));
}

#[test]
fn half_first_then_what_the_first_half_taught_is_the_rest() {
    let first = half_of(12.0, dose("2027-03-09 08:00", 6.9, 6.0, ProductKind::PhDown));
    let too_soon = rails(std::slice::from_ref(&first), "2027-03-09 08:10");
    let refused = at(&too_soon, ask(ph(6.6))).refusal();
    assert!(refused.found.contains("10 minutes ago") && refused.mend.contains("10 minutes more"), "{refused:?}");
    let rest = at(&rails(&[first, read("2027-03-09 08:25", 6.6)], "2027-03-09 08:30"), ask(ph(6.6))).unwrap();
    assert_eq!((rest.part, rest.source), (DosePart::Rest, DoseSource::History));
    near(rest.now, 6.0, 1e-9);
}

#[test]
fn no_more_than_one_unit_a_day_with_plants_in_but_out_of_where_uptake_is_blocked() {
    let far = at(&rails(&[], "2027-03-09 08:30"), ask(ph(7.6))).unwrap();
    assert!(far.capped);
    near(far.to, 6.5, 1e-9);
    near(at(&rails(&[], "2027-03-09 08:30"), ask(ph(6.9))).unwrap().to, 5.9, 1e-9);
    near(at(&rails(&[], "2027-03-09 08:30"), ask(ph(4.6))).unwrap().to, 5.6, 1e-9);
    let log =
        |day: &str| [dose(&format!("{day} 08:00"), 6.9, 9.0, ProductKind::PhDown), read(&format!("{day} 08:25"), 6.02)];
    let asked = || PhAsk { aim: Some(Ph::new(5.6).unwrap()), ..ask(ph(6.02)) };
    assert!(at(&rails(&log("2027-03-09"), "2027-03-09 08:30"), asked()).refusal().mend.contains("tomorrow"));
    assert!(at(&rails(&log("2027-03-08"), "2027-03-09 08:30"), asked()).is_ok());
    let empty = Garden::new(system(Kind::FilmChannel), vec![], &[], "2027-03-09 08:30");
    assert!(!at(&empty, ask(ph(7.6))).unwrap().capped);
}

#[test]
fn a_day_is_the_places_own_day_in_summer_time_too() {
    // 23:30 and 00:30 in Pellworth: both on the 9th in UTC, when the clock is an hour ahead.
    let log = [dose("2027-06-09 23:30", 7.6, 9.0, ProductKind::PhDown), read("2027-06-09 23:55", 6.85)];
    let next_day = rails(&log, "2027-06-10 00:30");
    assert_eq!(at(&next_day, ask(ph(6.85))).unwrap().part, DosePart::Half, "yesterday's dose is not today's");
    let same_day = rails(&log, "2027-06-09 23:58");
    let rest = at(&same_day, ask(ph(6.85))).unwrap();
    assert!((rest.to - 6.5).abs() < 1e-9, "out of where uptake is blocked, whatever the day has had");
}

#[test]
fn never_acid_and_base_on_one_day_nor_the_wrong_bottle() {
    let acid = rails(
        &[dose("2027-03-09 07:00", 6.9, 9.0, ProductKind::PhDown), read("2027-03-09 07:30", 5.2)],
        "2027-03-09 08:30",
    );
    let refused = at(&acid, ask(ph(5.2))).refusal();
    assert!(refused.found.contains("acid poured today"), "{refused:?}");
    let (id, product) = up();
    let wrong = estimate(ask(ph(7.2)), (id, &product), None).refusal();
    assert!(wrong.allowed.contains("pH down") && wrong.field == "product");
    let both = mopsel_core::fact::Batch {
        fresh: l(10.0),
        used: [ProductKind::PhUp, ProductKind::PhDown]
            .map(|what| Used {
                product: Uuid::nil(),
                name: Name::new("bottle").unwrap(),
                what,
                amount: Amount::ml(1.0),
                rise: None,
            })
            .to_vec(),
        source_ec: None,
        ec: None,
    };
    let body = Body::Visit(Visit { batch: Some(both), ..level(60.0) });
    assert!(body.check(&system(Kind::FilmChannel), &adult()).refusal().found.contains("pH up and pH down"));
}

#[test]
fn a_kit_that_cannot_tell_is_left_alone_and_a_far_one_is_corrected_from_its_near_end() {
    let garden = rails(&[], "2027-03-09 08:30");
    assert!(at(&garden, ask(kit(6.0, 6.5))).refusal().mend.contains("next visit"));
    near(at(&garden, ask(kit(6.5, 7.0))).unwrap().from, 6.5, 1e-9);
    assert!(at(&garden, ask(kit(6.0, 6.5))).is_err(), "inside, as far as it can tell");
    near(at(&garden, ask(kit(7.0, 7.5))).unwrap().from, 7.0, 1e-9);
    assert!(at(&garden, ask(ph(6.2))).refusal().found.contains("inside"));
    assert!(
        at(&garden, ask(ph(12.0))).refusal().mend.contains("buffer"),
        "a probe that reads nonsense is not dosed by"
    );
    let far = PhAsk { aim: Some(Ph::new(8.0).unwrap()), ..ask(ph(7.2)) };
    assert_eq!(at(&garden, far).refusal().field, "aim");
    let log = |to: PhReading| {
        let seen = visit("2027-03-09 07:30", Visit { ph: Some(to), ..Visit::default() });
        [dose("2027-03-09 07:00", 7.2, 2.0, ProductKind::PhDown), seen]
    };
    let mut drops = rails(&log(kit(7.0, 7.5)), "2027-03-09 12:30");
    drops.system.measuring = Measuring::DropKit;
    assert!(at(&drops, ask(kit(7.0, 7.5))).is_ok(), "a kit takes a minute: it may be read again on the same visit");
}

#[test]
fn the_method_of_the_system_is_kept_to() {
    for (method, says) in [(PhMethod::RecipeOnly, "left to the recipe"), (PhMethod::AtChange, "at the change only")] {
        let mut garden = rails(&[], "2027-03-09 08:30");
        garden.system.methods.ph = method;
        assert!(at(&garden, ask(ph(7.2))).refusal().found.contains(says));
    }
    let mut raft = system(Kind::AeratedRaft);
    raft.methods.ph = PhMethod::Reservoir;
    assert!(raft.check().refusal().mend.contains("separate jug"), "nothing moves the concentrate there");
    let mut still = rails(&[], "2027-03-09 08:30");
    still.system.traits.circulates = false;
    assert_eq!(at(&still, ask(ph(7.2))).unwrap().wait_minutes, 45);
}

#[test]
fn a_dose_teaches_only_what_was_measured_within_a_day_and_moved() {
    let history = |log: &[Entry]| at(&rails(log, "2027-03-20 08:30"), ask(ph(6.9))).unwrap().source;
    let poured = || dose("2027-03-01 08:00", 6.8, 9.0, ProductKind::PhDown);
    assert_eq!(
        history(&[poured(), read("2027-03-04 08:00", 6.3)]),
        DoseSource::Balance,
        "three days later tells of drift"
    );
    assert_eq!(history(&[poured(), read("2027-03-01 08:30", 6.85)]), DoseSource::Balance, "it went the other way");
    assert_eq!(history(&[poured(), read("2027-03-01 08:30", 6.3)]), DoseSource::History);
}

proptest! {
    #[test]
    fn what_is_poured_never_passes_the_whole_nor_the_days_cap(from in 3.5..9.0f64, litres in 1.0..400.0f64, taught in 0.01..0.4f64) {
        let log = [dose("2027-03-01 08:00", 6.8, 90.0 * taught * 0.5, ProductKind::PhDown), read("2027-03-01 08:30", 6.3)];
        if let Ok(found) = at(&rails(&log, "2027-03-09 08:30"), PhAsk { litres: l(litres), ..ask(ph(from)) }) {
            prop_assert!(found.now <= found.whole + 1e-12 && found.now > 0.0);
            let least = (found.from - 1.0).min(6.5);
            prop_assert!(found.to >= least - 1e-9 && found.to <= (found.from + 1.0).max(5.5) + 1e-9);
            prop_assert!((found.to - 5.8).abs() <= (found.from - 5.8).abs(), "always towards the aim");
        }
    }
}
