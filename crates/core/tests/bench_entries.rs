//! From the plan into the log and back: what a plan would log is accepted, and says what was planned.

use crate::common::{Refused, Said, adult};
use mopsel_core::words::{Reader, RefusalSaid};

use crate::common::{Garden, at, ec, entry, l, level, ph, planting, system, visit, with_products, zone};
use mopsel_core::bench::{Ask, AskLine, Plan, Purpose, Shelf, StepKind, plan, usual_containers, usual_tools};
use mopsel_core::crop::Stage;
use mopsel_core::fact::WaitFor;
use mopsel_core::fact::{Body, RootStage, TreatmentKind, Visit};
use mopsel_core::mixing::{PrintedRate, Product, ProductKind, Recipe, learnt_rise, products, recipes, shipped_id};
use mopsel_core::quantity::{Conductivity, EcScale, UnitSystem};
use mopsel_core::system::{Kind, Measuring, PhMethod, System, TopOffMethod, kinds};
use mopsel_core::words::say_entry;
use proptest::prelude::*;
use std::collections::BTreeMap;
use uuid::Uuid;

fn planned(garden: &Garden, ask: &Ask, reader: Reader) -> Result<Plan<String>, RefusalSaid> {
    let products: BTreeMap<Uuid, Product> = products().iter().cloned().collect();
    let recipes: BTreeMap<Uuid, Recipe> = recipes().iter().cloned().collect();
    let (containers, tools) = (usual_containers(reader.units), usual_tools(reader.units));
    let situation = garden.situation();
    let learnt = BTreeMap::new();
    let shelf = Shelf {
        situation: Some(&situation),
        products: &products,
        recipes: &recipes,
        learnt: &learnt,
        containers: &containers,
        tools: &tools,
        lifts: 20.0,
        scale: reader.ec,
        actor: situation.actor,
    };
    plan(ask, &shelf).said_to(reader)
}

fn rails(litres: f64, strength: f64) -> Garden {
    let log = [visit("2027-03-09 08:00", Visit { ec: Some(ec(strength)), ph: Some(ph(6.9)), ..level(litres) })];
    Garden::new(
        system(Kind::FilmChannel),
        vec![planting("Coriander", (1, 9), Stage::Vegetative)],
        &log,
        "2027-03-09 08:30",
    )
}

/// The garden after the plan was done and logged as planned.
fn done(garden: &Garden, plan: &Plan<String>) -> Garden {
    let before = visit("2027-03-09 08:00", Visit { ec: Some(ec(1.2)), ..level(70.0) });
    let body = plan.entry.clone().unwrap();
    body.check(&garden.system, &adult()).unwrap();
    Garden::new(
        garden.system.clone(),
        garden.plantings.clone(),
        &[before, entry("2027-03-09 08:40", body)],
        "2027-03-09 09:00",
    )
}

fn every_purpose() -> Vec<Purpose> {
    vec![
        Purpose::FreshFill { litres: None },
        Purpose::Change { litres: None, heel: Some(l(4.0)), heel_ec: None },
        Purpose::TopOff { from: Some(l(70.0)), to: None, ec: None, method: Some(TopOffMethod::Plain), batch: None },
        Purpose::TopOff { from: Some(l(70.0)), to: None, ec: None, method: Some(TopOffMethod::LightFeed), batch: None },
        Purpose::TopOff {
            from: Some(l(70.0)),
            to: None,
            ec: None,
            method: Some(TopOffMethod::SameStrength),
            batch: None,
        },
        Purpose::TopOff { from: Some(l(70.0)), to: None, ec: None, method: Some(TopOffMethod::Measured), batch: None },
        Purpose::TopOff { from: Some(l(70.0)), to: None, ec: None, method: Some(TopOffMethod::Reservoir), batch: None },
        Purpose::Correction { litres: None, ec: None },
        Purpose::TopOffReservoir { litres: Some(l(60.0)) },
        Purpose::Jug { litres: l(12.0) },
        Purpose::PeroxideDose { litres: None, product: None, again: false },
        Purpose::RootBath { litres: l(2.0), product: None, stage: Some(RootStage::Clumping) },
        Purpose::Ph { litres: None, ph: Some(ph(6.9)), aim: None, product: None, jar: None },
    ]
}

#[test]
fn every_plan_for_a_system_carries_an_entry_that_the_log_accepts_and_can_say() {
    let garden = rails(70.0, 1.1);
    for purpose in every_purpose() {
        for wording in [
            Reader::default(),
            Reader { units: UnitSystem::Us, ec: EcScale::Ppm500, child: false },
            Reader { units: UnitSystem::Imperial, ec: EcScale::Ppm700, child: false },
        ] {
            let plan =
                planned(&garden, &Ask::new(purpose.clone()), wording).unwrap_or_else(|r| panic!("{purpose:?}: {r:?}"));
            let body = plan.entry.clone().unwrap_or_else(|| panic!("{purpose:?} is logged as nothing"));
            assert!(
                body.check(&garden.system, &adult()).is_ok(),
                "{purpose:?}: {:?}",
                body.check(&garden.system, &adult())
            );
            assert!(!say_entry(&body, &garden.system).is_empty());
            let told =
                format!("{} {}", plan.answer, plan.steps.iter().map(|s| s.say.as_str()).collect::<Vec<_>>().join(" "));
            let foreign = if wording.units == UnitSystem::Metric {
                [" gal", "°F", " oz", " tsp"]
            } else {
                [" L ", " L,", " L;", " kg"]
            };
            assert!(foreign.iter().all(|unit| !told.contains(unit)), "{:?} in {told}", wording.units);
        }
    }
}

#[test]
fn every_plan_has_steps_a_carry_weight_and_how_sure_it_is() {
    let garden = rails(70.0, 1.1);
    for purpose in every_purpose() {
        let plan = planned(&garden, &Ask::new(purpose.clone()), Reader::default()).unwrap();
        assert!(!plan.steps.is_empty() && !plan.sure.is_empty() && plan.carry.ends_with("to carry"), "{purpose:?}");
        assert!(plan.answer.ends_with('.') && !plan.answer.contains(".."), "{}", plan.answer);
        let codes: Vec<String> = plan.steps.iter().map(|s| format!("{:?} {:?}", s.kind, s.dose)).collect();
        let mut unique = codes.clone();
        unique.sort_unstable();
        unique.dedup();
        assert_eq!(unique.len(), codes.len(), "a step is ticked by its code: {codes:?}");
        for (i, dose) in plan.doses.iter().enumerate() {
            let step = plan
                .steps
                .iter()
                .find(|s| s.dose == Some(i))
                .unwrap_or_else(|| panic!("{purpose:?}: no step pours {}", dose.name));
            assert_eq!(step.caution.is_some(), dose.what.caution().is_some(), "{}", dose.name);
            assert!(dose.portions.iter().all(|p| p.amount.value > 0.0 && !p.measured.is_empty()));
        }
        let order: Vec<_> = plan.doses.iter().map(|d| d.what).collect();
        assert!(order.is_sorted(), "{order:?}");
    }
}

#[test]
fn the_first_use_of_a_label_raises_the_strength_by_half_is_measured_and_then_finished() {
    let id = uuid::Uuid::from_u128(77);
    let rate: PrintedRate = serde_json::from_value(serde_json::json!(
        {"value": 4.0, "amount": "millilitres", "per": 1, "volume": "litre"}
    ))
    .unwrap();
    let own = Product { rate: Some(rate), rise: None, ..products()[0].1.clone() };
    let shelf: BTreeMap<uuid::Uuid, Product> =
        products().iter().cloned().chain([(id, Product { what: ProductKind::OnePart, ..own })]).collect();
    let mut garden = rails(80.0, 0.9);
    let aim = garden.situation().ec_target().unwrap().aim.get();
    let ask = |strength: Option<f64>| Ask {
        products: vec![AskLine { product: id, rate: None }],
        target: Some(ec(aim)),
        ..Ask::new(Purpose::Correction { litres: None, ec: strength.map(ec) })
    };
    let plan = with_products(&garden.situation(), &ask(None), &shelf).unwrap();
    let first = plan.doses[0].amount.value;
    let source = garden.system.source_ec.get();
    let whole = 4.0 * 80.0 * (aim - 0.9) / (aim - source);
    assert!((first - whole / 2.0).abs() < 1e-6, "half of what the label would take: {first} of {whole}");
    assert!(plan.after_ec.is_none() && plan.ledger.is_none(), "nothing is promised of what nobody measured");
    assert!(plan.clone().said().answer.starts_with("Start with half"));
    let Some(Body::Visit(mut visit)) = plan.entry else { panic!() };
    // Followed again without measuring: nobody knows what is in there now.
    let mut blind = rails(80.0, 0.9);
    blind.log(entry("2027-03-09 08:40", Body::Visit(visit.clone())));
    blind.now = at("2027-03-09 09:00").to_zoned(zone());
    assert!(with_products(&blind.situation(), &ask(None), &shelf).is_err(), "no second half in the dark");
    // It does a little less than the label says.
    let after = 0.9 + 0.4 * (aim - 0.9);
    visit.batch.as_mut().unwrap().ec = Some(ec(after));
    garden.log(entry("2027-03-09 08:40", Body::Visit(visit)));
    garden.now = at("2027-03-09 09:00").to_zoned(zone());
    let water = garden.situation().water().ec().unwrap();
    assert!(
        (water.value.get() - after).abs() < 1e-6 && water.read.is_some(),
        "what was measured is the tank: {water:?}"
    );
    let batches: Vec<_> = garden.known.lessons.batches.iter().collect();
    let learnt = learnt_rise(id, &batches, |_| None).unwrap();
    assert!((learnt.rise * first / 80.0 - 0.4 * (aim - 0.9)).abs() < 1e-6, "{learnt:?}");
}

#[test]
fn what_was_planned_is_what_the_log_makes_of_it() {
    let garden = rails(70.0, 1.2);
    let filled = planned(
        &garden,
        &Ask::new(Purpose::TopOff {
            from: Some(l(70.0)),
            to: Some(l(90.0)),
            ec: Some(ec(1.2)),
            method: Some(TopOffMethod::Measured),
            batch: Some(l(8.0)),
        }),
        Reader::default(),
    )
    .unwrap();
    let after = done(&garden, &filled);
    assert_eq!(after.known.tank.last_volume().unwrap().after.unwrap(), l(90.0));
    assert_eq!(after.known.tank.ec.unwrap().value.get(), 1.2, "the EC was read before anything was added");
    let drained = planned(
        &rails(70.0, 3.0),
        &Ask {
            target: Some(ec(1.4)),
            ..Ask::new(Purpose::TopOff {
                from: Some(l(70.0)),
                to: Some(l(90.0)),
                ec: Some(ec(3.0)),
                method: Some(TopOffMethod::Measured),
                batch: None,
            })
        },
        Reader::default(),
    )
    .unwrap();
    assert!(
        (done(&garden, &drained).known.tank.last_volume().unwrap().after.unwrap().get() - 90.0).abs() < 1e-9,
        "drained and filled up again"
    );
    let changed = planned(
        &garden,
        &Ask::new(Purpose::Change { litres: Some(l(88.0)), heel: Some(l(3.0)), heel_ec: Some(ec(1.2)) }),
        Reader::default(),
    )
    .unwrap();
    let after = done(&garden, &changed);
    assert_eq!(
        (after.known.tank.last_volume().unwrap().after.unwrap(), after.known.tank.topped_off_since_change),
        (l(88.0), None)
    );
    let jug = planned(&garden, &Ask::new(Purpose::Jug { litres: l(12.0) }), Reader::default()).unwrap();
    assert_eq!(done(&garden, &jug).known.lessons.premixed.unwrap().value.litres, l(12.0));
    let dosed = planned(
        &garden,
        &Ask::new(Purpose::Ph { litres: Some(l(70.0)), ph: Some(ph(6.9)), aim: None, product: None, jar: None }),
        Reader::default(),
    )
    .unwrap();
    let doses = done(&garden, &dosed).known.lessons.ph_doses;
    assert_eq!((doses.len(), doses[0].up, doses[0].to), (1, false, None));
    let bath = planned(
        &garden,
        &Ask::new(Purpose::RootBath { litres: l(2.0), product: None, stage: Some(RootStage::Film) }),
        Reader::default(),
    )
    .unwrap();
    assert!(matches!(&bath.entry, Some(Body::Treatment(told)) if told.what == TreatmentKind::RootBath));
}

#[test]
fn what_has_a_rate_of_its_own_stays_out_of_corrections_and_strong_batches() {
    let garden = rails(70.0, 1.0);
    let asked = |purpose| Ask {
        recipe: Some(shipped_id("three_part_full")),
        stage: Some(Stage::Vegetative),
        ..Ask::new(purpose)
    };
    for purpose in [
        Purpose::Correction { litres: Some(l(70.0)), ec: Some(ec(1.0)) },
        Purpose::TopOff {
            from: Some(l(70.0)),
            to: None,
            ec: Some(ec(1.0)),
            method: Some(TopOffMethod::Measured),
            batch: Some(l(9.0)),
        },
    ] {
        let plan = planned(&garden, &asked(purpose.clone()), Reader::default()).unwrap();
        assert!(plan.doses.iter().all(|dose| dose.what.feeds()), "{purpose:?} doses silica again");
        assert!(plan.warnings.iter().any(|w| w.contains("Left out here: Silica")), "{:?}", plan.warnings);
    }
    let fresh = planned(&garden, &asked(Purpose::FreshFill { litres: None }), Reader::default()).unwrap();
    assert!(fresh.doses[0].name == "Silica" && (fresh.doses[0].amount.value - 45.0).abs() < 1e-9);
}

#[test]
fn a_light_feed_without_a_meter_is_half_the_recipe_and_says_what_it_comes_to() {
    let mut garden = rails(70.0, 1.0);
    garden.system.measuring = Measuring::RecipeOnly;
    let ask = Ask {
        recipe: Some(shipped_id("three_part_full")),
        stage: Some(Stage::Vegetative),
        ..Ask::new(Purpose::TopOff {
            from: Some(l(70.0)),
            to: Some(l(80.0)),
            ec: None,
            method: Some(TopOffMethod::LightFeed),
            batch: None,
        })
    };
    let plan = planned(&garden, &ask, Reader::default()).unwrap();
    assert_eq!(plan.strength, Some(0.5));
    let rises: f64 = plan
        .doses
        .iter()
        .map(|d| products().iter().find(|(id, _)| *id == d.product).unwrap().1.rise.unwrap() * d.amount.value)
        .sum();
    assert!(
        (plan.batch_ec.unwrap().value - 0.3 - rises / 10.0).abs() < 1e-9,
        "silica is not halved, and counts in full"
    );
}

#[test]
fn a_usual_target_gives_way_where_a_rise_is_not_known_and_a_typed_one_does_not() {
    let garden = rails(70.0, 1.1);
    let products: BTreeMap<Uuid, Product> =
        products().iter().map(|(id, p)| (*id, Product { rise: None, ..p.clone() })).collect();
    let recipes: BTreeMap<Uuid, Recipe> = recipes().iter().cloned().collect();
    let (containers, tools, learnt) =
        (usual_containers(UnitSystem::Metric), usual_tools(UnitSystem::Metric), BTreeMap::new());
    let situation = garden.situation();
    let shelf = Shelf {
        situation: Some(&situation),
        products: &products,
        recipes: &recipes,
        learnt: &learnt,
        containers: &containers,
        tools: &tools,
        lifts: 20.0,
        scale: EcScale::MilliSiemens,
        actor: &adult(),
    };
    for purpose in [
        Purpose::Jug { litres: l(10.0) },
        Purpose::FreshFill { litres: None },
        Purpose::TopOff {
            from: Some(l(70.0)),
            to: None,
            ec: None,
            method: Some(TopOffMethod::SameStrength),
            batch: None,
        },
    ] {
        let as_printed = plan(&Ask::new(purpose.clone()), &shelf).unwrap_or_else(|r| panic!("{purpose:?}: {r:?}"));
        assert!(as_printed.batch_ec.is_none() && as_printed.strength == Some(1.0));
        let typed = plan(&Ask { target: Some(ec(1.4)), ..Ask::new(purpose) }, &shelf).refusal();
        assert!(typed.mend.contains("log it"), "{typed}");
    }
}

#[test]
fn a_measured_filling_is_the_tank_where_nothing_stayed_behind() {
    let garden = rails(70.0, 1.2);
    let logged = |heel: Option<f64>| {
        let plan = planned(
            &garden,
            &Ask::new(Purpose::Change { litres: Some(l(88.0)), heel: heel.map(l), heel_ec: Some(ec(1.2)) }),
            Reader::default(),
        )
        .unwrap();
        let Some(Body::Change(mut change)) = plan.entry else { panic!("a change") };
        change.batch.as_mut().unwrap().ec = Some(ec(1.33));
        Garden::new(
            garden.system.clone(),
            vec![],
            &[entry("2027-03-09 08:40", Body::Change(change))],
            "2027-03-09 09:00",
        )
        .known
        .tank
        .ec
        .map(|e| e.value.get())
    };
    assert_eq!(logged(None), Some(1.33));
    assert_eq!(logged(Some(4.0)), None, "around a heel the batch is not the tank");
}

#[test]
fn a_cap_of_ones_own_stands_in_the_instructions() {
    let garden = rails(70.0, 1.1);
    let ask = Ask {
        recipe: Some(shipped_id("one_part")),
        as_printed: true,
        stage: Some(Stage::Vegetative),
        ..Ask::new(Purpose::Jug { litres: l(10.0) })
    };
    let plan = planned(&garden, &ask, Reader::default()).unwrap();
    // 2 teaspoons in a US gallon, with a cap of 5 mL.
    assert!(plan.doses[0].portions[0].measured.ends_with(", or 5.2 × cap"), "{}", plan.doses[0].portions[0].measured);
}

#[test]
fn a_top_off_by_hand_where_a_reservoir_would_do_it_follows_the_same_strength() {
    let garden = rails(70.0, 1.1);
    let by_hand = planned(
        &garden,
        &Ask::new(Purpose::TopOff {
            from: Some(l(70.0)),
            to: None,
            ec: None,
            method: Some(TopOffMethod::Reservoir),
            batch: None,
        }),
        Reader::default(),
    )
    .unwrap();
    let by_valve =
        planned(&garden, &Ask::new(Purpose::TopOffReservoir { litres: Some(l(60.0)) }), Reader::default()).unwrap();
    assert_eq!(by_hand.batch_ec.unwrap().value, by_valve.batch_ec.unwrap().value);
    // Plants that leave the salt and drink the water: nothing stronger than the source is taken up.
    let full = |when: &str, litres: f64, strength: f64| visit(when, Visit { ec: Some(ec(strength)), ..level(litres) });
    let log = [
        full("2027-03-01 08:00", 90.0, 1.2),
        full("2027-03-03 08:00", 80.0, 1.345),
        full("2027-03-05 08:00", 70.0, 1.53),
    ];
    let hard = System { source_ec: Conductivity::constant(0.45), ..system(Kind::FilmChannel) };
    let thirsty = Garden::new(hard, vec![planting("Coriander", (1, 9), Stage::Vegetative)], &log, "2027-03-05 08:30");
    let plain = planned(
        &thirsty,
        &Ask::new(Purpose::TopOff {
            from: Some(l(70.0)),
            to: None,
            ec: None,
            method: Some(TopOffMethod::Reservoir),
            batch: None,
        }),
        Reader::default(),
    )
    .unwrap();
    assert!(plain.doses.is_empty() && plain.plain == l(20.0), "{}", plain.answer);
}

#[test]
fn waits_are_timed_where_they_matter() {
    let garden = rails(70.0, 1.1);
    let wait = |purpose| {
        planned(&garden, &Ask::new(purpose), Reader::default())
            .unwrap()
            .steps
            .iter()
            .find_map(|s| s.wait.clone())
            .map(|w| (w.what, w.minutes))
    };
    assert_eq!(wait(Purpose::Jug { litres: l(12.0) }), Some((WaitFor::Mix, 15)));
    assert_eq!(
        wait(Purpose::Ph { litres: None, ph: Some(ph(6.9)), aim: None, product: None, jar: None }),
        Some((WaitFor::Remeasure, 20))
    );
    assert_eq!(
        wait(Purpose::RootBath { litres: l(2.0), product: None, stage: Some(RootStage::Clumping) }),
        Some((WaitFor::RootBath, 7))
    );
    assert_eq!(
        wait(Purpose::TopOff {
            from: Some(l(70.0)),
            to: None,
            ec: None,
            method: Some(TopOffMethod::Plain),
            batch: None
        }),
        None
    );
}

#[test]
fn where_ph_is_dosed_decides_how_it_is_poured() {
    let pour = |method: PhMethod| {
        let mut garden = rails(70.0, 1.1);
        garden.system.methods.ph = method;
        planned(
            &garden,
            &Ask::new(Purpose::Ph { litres: None, ph: Some(ph(6.9)), aim: None, product: None, jar: None }),
            Reader::default(),
        )
        .map(|plan| plan.steps.iter().map(|s| s.kind).collect::<Vec<_>>())
    };
    assert_eq!(
        pour(PhMethod::SeparateBatch).unwrap(),
        [StepKind::Water, StepKind::Dose, StepKind::Pour, StepKind::Wait, StepKind::Measure]
    );
    assert_eq!(
        pour(PhMethod::Reservoir).unwrap(),
        [StepKind::Dose, StepKind::Wait, StepKind::Measure],
        "no jug: into the stream"
    );
    assert!(pour(PhMethod::AtChange).is_err() && pour(PhMethod::RecipeOnly).is_err());
}

#[test]
fn what_is_not_said_is_taken_from_the_system() {
    let garden = rails(70.0, 1.1);
    let plan = |ask: &Ask| planned(&garden, ask, Reader::default()).unwrap();
    let fill = plan(&Ask::new(Purpose::FreshFill { litres: None }));
    assert_eq!(fill.after, Some(l(90.0)), "the working volume");
    assert!((fill.batch_ec.unwrap().value - 1.3).abs() < 1e-9, "the middle of coriander's band");
    let mut fruit = rails(70.0, 1.1);
    fruit.plantings = vec![planting("Aubergine", (1, 6), Stage::Flowering)];
    let three = planned(&fruit, &Ask::new(Purpose::FreshFill { litres: None }), Reader::default()).unwrap();
    let feeds = three.doses.iter().filter(|dose| dose.what.feeds()).count();
    assert_eq!(feeds, 3, "three-part for what fruits");
    let mut mixed = rails(70.0, 1.1);
    mixed.plantings.push(planting("Coriander", (10, 12), Stage::Seedling));
    mixed.system.measuring = Measuring::RecipeOnly;
    let older = planned(&mixed, &Ask::new(Purpose::FreshFill { litres: None }), Reader::default()).unwrap();
    // As printed 1.7, and coriander wants 1.0–1.6: to its middle, 1.0 of the 1.4 that the label adds.
    let per_litre = older.doses[0].per_litre.value;
    assert!((per_litre - 4.0 / 1.4).abs() < 1e-9, "seedlings beside older plants do not rule the water: {per_litre}");
    assert!(
        older.warnings.iter().any(|w| w.contains("As printed it would come to about 1.70")),
        "{:?}",
        older.warnings
    );
    mixed.plantings.remove(0);
    let youngest = planned(&mixed, &Ask::new(Purpose::FreshFill { litres: None }), Reader::default()).unwrap();
    assert!((youngest.doses[0].per_litre.value - 2.0).abs() < 1e-9, "half strength where nothing older stands");
    let own = plan(&Ask { recipe: Some(shipped_id("one_part")), ..Ask::new(Purpose::FreshFill { litres: None }) });
    assert_eq!(own.doses.iter().filter(|dose| dose.what.feeds()).count(), 1);
}

#[test]
fn a_plain_bench_works_for_every_kind_as_it_is_set_up() {
    for facts in kinds() {
        let log = [visit("2027-03-09 08:00", Visit { ec: Some(ec(1.3)), ..level(20.0) })];
        let mut kind = system(facts.key);
        kind.check().unwrap_or_else(|r| panic!("{:?}: {r}", facts.key));
        kind.traits.heel = l(2.0);
        let garden = Garden::new(kind, vec![planting("Kale", (1, 4), Stage::Vegetative)], &log, "2027-03-09 08:30");
        for purpose in [
            Purpose::TopOff { from: None, to: None, ec: None, method: None, batch: None },
            Purpose::Change { litres: None, heel: None, heel_ec: None },
        ] {
            let plan = planned(&garden, &Ask::new(purpose.clone()), Reader::default())
                .unwrap_or_else(|r| panic!("{:?}, {purpose:?}: {r}", facts.key));
            assert!(matches!(plan.entry, Some(Body::Visit(_) | Body::Change(_))));
            assert!(plan.after.unwrap() <= garden.system.reservoir.maximum);
        }
    }
}

proptest! {
    #[test]
    fn no_plan_for_any_volume_and_strength_leaves_the_vessel_or_the_log(from in 1.0..97.0f64, strength in 0.3..4.0f64, to in 1.0..120.0f64, target in 0.3..4.0f64, method in proptest::sample::select(TopOffMethod::ALL.to_vec())) {
        let garden = rails(from, strength);
        let ask = Ask { target: Some(ec(target)), ..Ask::new(Purpose::TopOff { from: Some(l(from)), to: Some(l(to)), ec: Some(ec(strength)), method: Some(method), batch: None }) };
        match planned(&garden, &ask, Reader::default()) {
            Ok(plan) => {
                prop_assert!(plan.after.unwrap() <= garden.system.reservoir.maximum);
                prop_assert!(plan.drain.get() <= from + 1e-9, "no more is drained than stands there");
                prop_assert!(plan.entry.unwrap().check(&garden.system, &adult()).is_ok());
            }
            Err(refusal) => prop_assert!(!refusal.field.is_empty() && !refusal.mend.is_empty(), "{refusal:?}"),
        }
    }
}
