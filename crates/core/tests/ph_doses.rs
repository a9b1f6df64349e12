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

/// The share of carbonate that stands as bicarbonate.
fn share(ph: f64) -> f64 {
    1.0 / (1.0 + 10f64.powf(6.35 - ph))
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

#[test]
fn the_sources_come_best_first() {
    let unknown = rails(&[], "2027-03-09 08:30");
    let trial = at(&unknown, ask(ph(6.9))).unwrap();
    assert_eq!((trial.source, trial.part), (DoseSource::Trial, DosePart::Trial));
    near(trial.now, 1.8, 1e-9);

    let mut hard = rails(&[], "2027-03-09 08:30");
    hard.system.methods.alkalinity = Some(120.0);
    let by_water = at(&hard, ask(ph(6.9))).unwrap();
    assert_eq!((by_water.source, by_water.part), (DoseSource::Alkalinity, DosePart::Half));
    near(by_water.now * 2.0, by_water.whole, 1e-12);

    let jar = Some(JarTest { amount: 0.3, litres: l(1.0) });
    let by_jar = at(&hard, PhAsk { jar, ..ask(ph(6.9)) }).unwrap();
    assert_eq!(by_jar.source, DoseSource::JarTest);
    near(by_jar.whole, 27.0, 1e-9);

    // 9 mL moved 90 L from 6.8 to 6.3: so much for each change of the bicarbonate's share.
    let log = [dose("2027-03-01 08:00", 6.8, 9.0, ProductKind::PhDown), read("2027-03-01 08:30", 6.3)];
    let mut known = rails(&log, "2027-03-09 08:30");
    known.system.methods.alkalinity = Some(120.0);
    let learnt = at(&known, PhAsk { jar, ..ask(ph(6.9)) }).unwrap();
    assert_eq!(learnt.source, DoseSource::History);
    near(learnt.whole, 0.1 / (share(6.8) - share(6.3)) * 90.0 * (share(6.9) - share(6.0)), 1e-9);
    assert!(learnt.sure.contains("1 correction"), "{}", learnt.sure);
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
    assert!(
        told(&known, false).next.starts_with("7.95 mL of pH down, half of the estimate"),
        "{}",
        told(&known, false).next
    );
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
fn no_more_than_one_unit_a_day_with_plants_in() {
    let far = at(&rails(&[], "2027-03-09 08:30"), ask(ph(7.6))).unwrap();
    assert!(far.capped);
    near(far.to, 6.6, 1e-9);
    let moved = rails(
        &[dose("2027-03-09 08:00", 7.6, 9.0, ProductKind::PhDown), read("2027-03-09 08:25", 6.65)],
        "2027-03-09 08:30",
    );
    assert!(at(&moved, ask(ph(6.65))).refusal().mend.contains("tomorrow"));
    let next_day = rails(
        &[dose("2027-03-08 08:00", 7.6, 9.0, ProductKind::PhDown), read("2027-03-08 08:25", 6.65)],
        "2027-03-09 08:30",
    );
    assert!(at(&next_day, ask(ph(6.65))).is_ok());
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
    assert!((rest.to - 6.7).abs() < 1e-9, "what is left of the day's unit, less the meter's error");
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
    let mut drops = rails(&[dose("2027-03-09 07:00", 7.2, 2.0, ProductKind::PhDown)], "2027-03-09 12:30");
    drops.system.measuring = Measuring::DropKit;
    assert!(at(&drops, ask(kit(7.0, 7.5))).refusal().allowed.contains("next visit"));
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
        DoseSource::Trial,
        "three days later tells of drift"
    );
    assert_eq!(history(&[poured(), read("2027-03-01 08:30", 6.85)]), DoseSource::Trial, "it went the other way");
    assert_eq!(history(&[poured(), read("2027-03-01 08:30", 6.3)]), DoseSource::History);
}

proptest! {
    #[test]
    fn what_is_poured_never_passes_the_whole_nor_the_days_cap(from in 3.5..9.0f64, litres in 1.0..400.0f64, taught in 0.01..0.4f64) {
        let log = [dose("2027-03-01 08:00", 6.8, 90.0 * taught * 0.5, ProductKind::PhDown), read("2027-03-01 08:30", 6.3)];
        if let Ok(found) = at(&rails(&log, "2027-03-09 08:30"), PhAsk { litres: l(litres), ..ask(ph(from)) }) {
            prop_assert!(found.now <= found.whole + 1e-12 && found.now > 0.0);
            prop_assert!((found.from - found.to).abs() <= 1.0 + 1e-9);
            prop_assert!((found.to - 6.0).abs() <= (found.from - 6.0).abs(), "always towards the aim");
        }
    }
}
