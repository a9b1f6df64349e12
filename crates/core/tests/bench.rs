//! The mixing garden: whole plans for the demo's systems, what they refuse, and what they conserve.

use crate::common::{CHILD, Refused, Said, adult, child};
use mopsel_core::words::{Reader, RefusalSaid};

/// A plan in words, or why there is none.
type Worked = Result<Plan<String>, RefusalSaid>;

use crate::common::{Garden, ec, entry, l, level, ph, planting, system, tub, visit};
use mopsel_core::bench::{Ask, Dose, FieldKind, Plan, Purpose, Shelf, StepKind, plan, purposes, usual_tools};
use mopsel_core::crop::Stage;
use mopsel_core::fact::WaitFor;
use mopsel_core::fact::{Batch, Body, Change, Premix, PremixIn, RootStage, Used, Visit};
use mopsel_core::mixing::{
    Container, Learnt, Product, ProductKind, Recipe, learnt_rise, products, recipes, shipped_id,
};
use mopsel_core::quantity::{Conductivity, EcReading, EcScale, Litres, Name, UnitSystem};
use mopsel_core::reservoir::{RefillMethod, Reservoir, Shape};
use mopsel_core::situation::Situation;
use mopsel_core::system::{Kind, Measuring, SourceWater, TopOffMethod};
use proptest::prelude::*;
use serde_json::json;
use std::collections::BTreeMap;
use uuid::Uuid;

/// A garden with the shipped shelf, two cans of 18 L and a bucket of 10.
struct Table {
    products: BTreeMap<Uuid, Product>,
    recipes: BTreeMap<Uuid, Recipe>,
    learnt: BTreeMap<Uuid, Learnt>,
    containers: Vec<Container>,
    reader: Reader,
}

fn can(says: &str, holds: f64) -> Container {
    Container::carried(Name::new(says).unwrap(), l(holds))
}

impl Table {
    fn new() -> Self {
        Self {
            products: products().iter().cloned().collect(),
            recipes: recipes().iter().cloned().collect(),
            learnt: BTreeMap::new(),
            containers: vec![can("blue can", 18.0), can("grey can", 18.0), can("bucket", 10.0)],
            reader: Reader::default(),
        }
    }

    fn plan(&self, ask: &Ask, situation: Option<&Situation<'_>>) -> Worked {
        let tools = usual_tools(self.reader.units);
        let shelf = Shelf {
            situation,
            products: &self.products,
            recipes: &self.recipes,
            learnt: &self.learnt,
            containers: &self.containers,
            tools: &tools,
            lifts: 20.0,
            scale: self.reader.ec,
            actor: &if self.reader.child { child() } else { adult() },
        };
        plan(ask, &shelf).said_to(self.reader)
    }
}

fn at(garden: &Garden, ask: &Ask) -> Worked {
    Table::new().plan(ask, Some(&garden.situation()))
}

fn asked(purpose: Purpose) -> Ask {
    Ask::new(purpose)
}

fn near(found: f64, wanted: f64, within: f64) {
    assert!((found - wanted).abs() <= within, "{found} is not {wanted}");
}

fn raft(litres: f64, strength: f64) -> Garden {
    let log = [visit("2027-03-09 08:00", Visit { ec: Some(ec(strength)), ..level(litres) })];
    Garden::new(
        system(Kind::FilmChannel),
        vec![planting("Coriander", (1, 9), Stage::Vegetative)],
        &log,
        "2027-03-09 08:30",
    )
}

#[test]
fn a_change_around_a_heel_of_four_litres_mixes_forty_two_at_1_724() {
    let ask = Ask {
        target: Some(ec(1.8)),
        ..asked(Purpose::Change { litres: Some(l(46.0)), heel: Some(l(4.0)), heel_ec: Some(ec(2.6)) })
    };
    let plan = Table::new().plan(&ask, None).unwrap();
    near(plan.batch.get(), 42.0, 1e-9);
    near(plan.batch_ec.as_ref().unwrap().value, 1.724, 5e-4);
    near(plan.after_ec.as_ref().unwrap().value, 1.8, 1e-9);
    assert_eq!(
        plan.shares.iter().map(|s| s.share.litres.get()).collect::<Vec<_>>(),
        [16.0, 16.0, 10.0],
        "few and even, as far as the 10 L can takes it"
    );
    assert!(
        plan.answer
            .contains("Mix 42.0 L at 1.72 mS/cm; with 4.0 L of old water left in that makes 46.0 L at 1.80 mS/cm"),
        "{}",
        plan.answer
    );
    assert_eq!(plan.doses.iter().map(|d| d.what).collect::<Vec<_>>(), [ProductKind::PartA, ProductKind::PartB]);
    assert!(plan.entry.is_none(), "no system, no log");
    assert!(plan.batch_ec.unwrap().also.contains(&"862 ppm (500)".to_owned()));
}

#[test]
fn a_filling_by_recipe_without_a_meter_is_the_label_times_the_litres() {
    let mut tower = system(Kind::Tower);
    tower.measuring = Measuring::RecipeOnly;
    let garden = Garden::new(tower, vec![planting("Kale", (1, 9), Stage::Vegetative)], &[], "2027-03-09 08:30");
    let plan = at(&garden, &asked(Purpose::FreshFill { litres: Some(l(64.0)) })).unwrap();
    assert_eq!(plan.strength, Some(1.0));
    near(plan.doses[0].amount.value, 4.0 * 64.0, 1e-9);
    let seedling =
        at(&garden, &Ask { stage: Some(Stage::Seedling), ..asked(Purpose::FreshFill { litres: Some(l(64.0)) }) })
            .unwrap();
    near(seedling.doses[0].amount.value, 2.0 * 64.0, 1e-9);
    let Some(Body::Change(change)) = plan.entry else { panic!("a filling is logged as a change") };
    assert_eq!(change.batch.unwrap().used.len(), 2);
}

#[test]
fn a_dry_three_part_batch_printed_per_hundred_gallons_in_us_units() {
    let table = Table { reader: Reader { units: UnitSystem::Us, ec: EcScale::Ppm500, child: false }, ..Table::new() };
    let ask = Ask {
        recipe: Some(shipped_id("dry_three_part")),
        stage: Some(Stage::Vegetative),
        as_printed: true,
        containers: Some(vec![can("barrel", 200.0)]),
        ..asked(Purpose::FreshFill { litres: Some(l(118.0)) })
    };
    let plan = table.plan(&ask, None).unwrap();
    assert_eq!(
        plan.doses.iter().map(|d| d.what).collect::<Vec<_>>(),
        [ProductKind::DryBase, ProductKind::MagnesiumSulfate, ProductKind::CalciumNitrate]
    );
    near(plan.doses[0].amount.value, 8.5 * 28.349_523_125 * 118.0 / 378.541_178_4, 1e-9);
    assert!(plan.doses[0].said.starts_with("2.65 oz"), "{}", plan.doses[0].said);
    assert!(plan.doses[2].reason.contains("gypsum"));
    assert!(plan.answer.contains("31.2 gal") && plan.batch_ec.unwrap().said.contains("ppm (500)"));
    assert_eq!(plan.carry, "260 lb to carry");
}

#[test]
fn silica_is_never_after_feed_whatever_order_is_asked_for() {
    let line = |key: &str| mopsel_core::bench::AskLine { product: shipped_id(key), rate: None };
    for keys in [["leaf_b", "silica", "leaf_a"], ["leaf_a", "leaf_b", "silica"]] {
        let ask = Ask { products: keys.iter().map(|k| line(k)).collect(), ..asked(Purpose::Jug { litres: l(5.0) }) };
        let plan = Table::new().plan(&ask, None).unwrap();
        assert_eq!(plan.doses[0].what, ProductKind::Silica);
        assert_eq!(plan.doses[2].what, ProductKind::PartB);
    }
}

#[test]
fn the_source_water_has_its_say() {
    let with = |source| {
        let mut garden = raft(60.0, 1.1);
        garden.system.methods.source = source;
        at(&garden, &asked(Purpose::FreshFill { litres: Some(l(80.0)) })).unwrap()
    };
    let conditioned = with(SourceWater::Conditioned);
    assert_eq!(conditioned.doses[0].what, ProductKind::Dechlorinator, "first, while nothing else is in");
    near(conditioned.doses[0].amount.value, 4.0, 1e-9);
    assert!(with(SourceWater::Rain).warnings.iter().any(|w| w.contains("calcium–magnesium supplement suits")));
    let tap = with(SourceWater::Tap);
    let feeds = tap.doses.iter().filter(|dose| dose.what.feeds()).count();
    assert!(tap.warnings.is_empty() && feeds == 2);
}

#[test]
fn a_batch_is_put_right_before_roots_meet_it() {
    let fill = Purpose::FreshFill { litres: Some(l(80.0)) };
    let acid = |garden: &Garden| {
        let plan = at(garden, &asked(fill.clone())).unwrap();
        let dose = plan.doses.iter().find(|dose| dose.what == ProductKind::PhDown).map(|dose| dose.amount.value);
        (plan, dose)
    };
    let mut hard = raft(60.0, 1.1);
    hard.system.methods.alkalinity = Some(150.0);
    let (plan, Some(dose)) = acid(&hard) else { panic!("hard water takes acid") };
    let step = plan.steps.iter().find(|step| step.say.contains("Adjust the pH")).unwrap();
    assert!(step.say.contains("Skip this if") && step.why.as_ref().unwrap().contains("That is normal"), "{step:?}");
    let expected = plan.steps.iter().find(|step| step.say.starts_with("Measure pH")).unwrap();
    assert!(expected.say.contains("7.0, worked out") || expected.say.contains("6.9, worked out"), "{expected:?}");
    // Nearly all of 3 meq/L, with 2.6 meq in a millilitre.
    assert!((80.0 * 2.2 / 2.6..80.0 * 3.0 / 2.6).contains(&dose), "{dose}");
    // It is logged with the batch, and the next batch begins with what this one took.
    let Some(Body::Change(change)) = plan.entry else { panic!("a change") };
    let batch = change.batch.clone().unwrap();
    assert!(batch.used.iter().any(|used| used.what == ProductKind::PhDown));
    let mut less = batch.clone();
    less.used.iter_mut().filter(|used| used.what == ProductKind::PhDown).for_each(|used| used.amount.value = 40.0);
    hard.log(entry("2027-03-09 08:00", Body::Change(Change { batch: Some(less), ..change })));
    near(acid(&hard).1.unwrap(), 40.0, 1e-6);
    // By a meter that nobody calibrated it is said to be calibrated first.
    let mut doubted = raft(60.0, 1.1);
    doubted.system.methods.alkalinity = Some(150.0);
    doubted.calibrated = None;
    assert!(acid(&doubted).0.warnings.iter().any(|warning| warning.contains("Calibrate the meter first")));
    // Soft water is left as it is, and so is a system whose pH is left to the recipe.
    let mut soft = raft(60.0, 1.1);
    soft.system.methods.source = SourceWater::Rain;
    soft.system.source_ec = mopsel_core::quantity::Conductivity::new(0.02).unwrap();
    assert!(acid(&soft).1.is_none());
    let mut by_recipe = raft(60.0, 1.1);
    by_recipe.system.methods.alkalinity = Some(150.0);
    by_recipe.system.methods.ph = mopsel_core::system::PhMethod::RecipeOnly;
    assert!(acid(&by_recipe).1.is_none());
}

/// Hard water of 150 mg/L on the raft, topped off by hand.
fn hard_raft() -> Garden {
    let mut hard = raft(60.0, 1.1);
    hard.system.methods.alkalinity = Some(150.0);
    hard
}

fn acid_of(garden: &Garden, purpose: Purpose) -> Option<f64> {
    let plan = crate::common::at_the_bench(&garden.situation(), &asked(purpose)).unwrap();
    plan.doses.iter().find(|dose| dose.what == ProductKind::PhDown).map(|dose| dose.amount.value)
}

fn top_off_by(method: TopOffMethod) -> Purpose {
    Purpose::TopOff { from: Some(l(60.0)), to: None, ec: Some(ec(1.1)), method: Some(method), batch: None }
}

#[test]
fn a_child_tops_off_with_plain_water_and_is_handed_no_acid() {
    assert!(acid_of(&hard_raft(), top_off_by(TopOffMethod::Plain)).is_some(), "an adult puts it right");
    assert!(acid_of(&hard_raft().for_child(), top_off_by(TopOffMethod::Plain)).is_none());
}

#[test]
fn what_hard_water_took_is_not_poured_into_rain() {
    let fill = || Purpose::FreshFill { litres: Some(l(80.0)) };
    let mut garden = raft(60.0, 1.1);
    let plan = at(&garden, &asked(fill())).unwrap();
    garden.log(entry("2027-03-09 08:00", plan.entry.unwrap()));
    assert!(garden.known.lessons.batch_acid.is_some() && acid_of(&garden, fill()).is_some());
    garden.system.methods.source = SourceWater::Rain;
    garden.system.source_ec = mopsel_core::quantity::Conductivity::new(0.02).unwrap();
    assert!(acid_of(&garden, fill()).is_none(), "rain holds next to nothing");
    assert!(acid_of(&garden, top_off_by(TopOffMethod::Plain)).is_none());
}

#[test]
fn at_the_change_only_means_just_that() {
    let mut garden = hard_raft();
    garden.system.methods.ph = mopsel_core::system::PhMethod::AtChange;
    assert!(acid_of(&garden, Purpose::FreshFill { litres: Some(l(80.0)) }).is_some());
    for method in [TopOffMethod::Plain, TopOffMethod::SameStrength, TopOffMethod::Measured] {
        assert!(acid_of(&garden, top_off_by(method)).is_none(), "{method:?}");
    }
    assert!(acid_of(&garden, Purpose::Jug { litres: l(10.0) }).is_none());
}

#[test]
fn fillings_that_measured_right_without_acid_get_none() {
    let mut garden = hard_raft();
    for day in ["2027-02-09 08:00", "2027-02-23 08:00"] {
        let change = Change { ph: Some(crate::common::ph(5.9)), ..Change::full(l(80.0)) };
        garden.log(entry(day, Body::Change(change)));
    }
    assert!(acid_of(&garden, Purpose::FreshFill { litres: Some(l(80.0)) }).is_none(), "the feed lowers it by itself");
}

#[test]
fn acid_for_a_batch_is_taken_along_and_not_mixed_for_several() {
    let plan = |garden: &Garden| {
        crate::common::at_the_bench(&garden.situation(), &asked(Purpose::FreshFill { litres: Some(l(20.0)) }))
    };
    let (one, two) = (plan(&hard_raft()).unwrap(), plan(&hard_raft()).unwrap());
    let ready = mopsel_core::bench::kit::ready(&[(0, &one), (1, &two)]);
    let down = shipped_id("ph_down");
    assert!(ready.mixes.iter().all(|mix| mix.ingredients.iter().all(|one| one.product != down)));
    assert!(ready.products.iter().any(|one| one.product == down));
}

#[test]
fn a_drum_of_plain_water_is_refilled_with_plain_water() {
    let drum = |garden: &Garden| at(garden, &asked(Purpose::TopOffReservoir { litres: Some(l(30.0)) })).unwrap();
    let mut garden = raft(60.0, 1.1);
    garden.system.traits.top_off_reservoir = true;
    garden.log(visit("2027-02-20 09:00", Visit { supply: Some(l(12.0)), ..Visit::default() }));
    assert!(drum(&garden).doses.is_empty(), "topped off with plain water, and nobody ever mixed a drum");
    let mixed = Premix { ec: Some(ec(1.4)), ..Premix::of(PremixIn::TopOffReservoir, l(30.0)) };
    garden.log(entry("2027-03-01 09:00", Body::Premix(mixed)));
    assert!(!drum(&garden).doses.is_empty(), "it held feed last time");
    garden.system.traits.controller = true;
    assert!(drum(&garden).doses.is_empty(), "a controller doses the tank itself");
}

#[test]
fn base_is_not_poured_while_the_gas_of_a_batch_put_right_is_leaving() {
    let mut garden = raft(60.0, 1.1);
    garden.system.methods.alkalinity = Some(150.0);
    let plan = at(&garden, &asked(Purpose::FreshFill { litres: Some(l(80.0)) })).unwrap();
    garden.log(entry("2027-03-09 08:00", plan.entry.unwrap()));
    let low =
        Purpose::Ph { litres: Some(l(80.0)), ph: Some(crate::common::ph(5.2)), aim: None, product: None, jar: None };
    assert_eq!(at(&garden, &asked(low)).refusal().code, "ph_climbs_by_itself");
}

#[test]
fn top_offs_by_each_method_from_sixty_to_eighty() {
    let garden = raft(60.0, 1.1);
    let by = |method, target: Option<f64>| {
        at(
            &garden,
            &Ask {
                target: target.map(ec),
                ..asked(Purpose::TopOff {
                    from: Some(l(60.0)),
                    to: Some(l(80.0)),
                    ec: Some(ec(1.1)),
                    method: Some(method),
                    batch: Some(l(8.0)),
                })
            },
        )
    };
    let plain = by(TopOffMethod::Plain, None).unwrap();
    assert_eq!((plain.plain.get(), plain.doses.len()), (20.0, 0));
    near(plain.after_ec.unwrap().value, (60.0 * 1.1 + 20.0 * 0.3) / 80.0, 1e-9);
    assert!(by(TopOffMethod::Plain, None).unwrap().ph.is_none(), "nobody has read the pH");
    let light = by(TopOffMethod::LightFeed, Some(1.5)).unwrap();
    near(light.batch_ec.unwrap().value, 0.9, 1e-9);
    let same = by(TopOffMethod::SameStrength, Some(1.5)).unwrap();
    near(same.batch_ec.unwrap().value, 1.5, 1e-9);
    let measured = by(TopOffMethod::Measured, Some(1.5)).unwrap();
    near(measured.plain.get(), 12.0, 1e-9);
    near(measured.batch.get(), 8.0, 1e-9);
    near(measured.after_ec.as_ref().unwrap().value, 1.5, 1e-9);
    assert!(
        measured.steps.iter().position(|s| s.kind == StepKind::Hose)
            < measured.steps.iter().position(|s| s.kind == StepKind::Pour),
        "the hose first"
    );
    assert!(by(TopOffMethod::Premixed, None).refusal().mend.contains("Mix a jug"));
}

#[test]
fn a_top_off_leaves_the_ph_about_where_it_stands() {
    let log = [visit("2027-03-09 08:00", Visit { ph: Some(ph(6.2)), ec: Some(ec(1.1)), ..level(60.0) })];
    let garden = Garden::new(
        system(Kind::FilmChannel),
        vec![planting("Coriander", (1, 9), Stage::Vegetative)],
        &log,
        "2027-03-09 08:30",
    );
    let to = |to: f64| {
        at(
            &garden,
            &asked(Purpose::TopOff { from: Some(l(60.0)), to: Some(l(to)), ec: None, method: None, batch: None }),
        )
        .unwrap()
        .ph
        .unwrap()
    };
    assert_eq!(to(70.0).said, "5.9–6.5, about where it stands");
    assert!(to(95.0).high > to(70.0).high, "the more new water, the less is known");
}

#[test]
fn a_jug_in_which_calcium_would_drop_out_is_split_and_a_stronger_one_asks_for_a_larger_jug() {
    let garden = raft(60.0, 1.1);
    let with = |jug: f64| {
        at(
            &garden,
            &Ask {
                target: Some(ec(1.8)),
                ..asked(Purpose::TopOff {
                    from: Some(l(60.0)),
                    to: Some(l(80.0)),
                    ec: Some(ec(1.1)),
                    method: Some(TopOffMethod::Measured),
                    batch: Some(l(jug)),
                })
            },
        )
    };
    // 80 · 1.8 − 60 · 1.1 − 20 · 0.3 = 72 are missing: over the source that is 0.3 + 72 / 10 in ten litres.
    let strong = with(10.0).unwrap();
    near(strong.batch_ec.unwrap().value, 7.5, 1e-9);
    assert!(strong.warnings.iter().any(|w| w.contains("more than roots should meet at once")));
    assert!(strong.steps[0].say.contains("Leaf feed A into the one, Leaf feed B into the other"), "{:?}", strong.steps);
    assert!(strong.steps.iter().any(|s| s.say.contains("four portions")));
    let beyond = with(6.0).refusal();
    assert!(beyond.found.contains("12.30 mS/cm"), "as it would be, and not clamped: {beyond}");
    assert!(beyond.mend.contains("9.4 L or more") && beyond.field == "purpose.batch", "{beyond}");
}

#[test]
fn too_strong_water_is_drained_first() {
    let garden = raft(60.0, 3.0);
    let plan = at(
        &garden,
        &Ask {
            target: Some(ec(1.8)),
            ..asked(Purpose::TopOff {
                from: Some(l(60.0)),
                to: Some(l(80.0)),
                ec: Some(ec(3.0)),
                method: Some(TopOffMethod::Measured),
                batch: None,
            })
        },
    )
    .unwrap();
    near(plan.drain.get(), 15.56, 5e-3);
    near(plan.plain.get(), 35.56, 5e-3);
    near(plan.after_ec.unwrap().value, 1.8, 1e-9);
    assert!(plan.answer.starts_with("Drain 15.6 L, then add 35.6 L of plain water"), "{}", plan.answer);
    let Some(Body::Visit(visit)) = plan.entry else { panic!("a top-off is logged as a visit") };
    near(visit.drained.unwrap().get(), 15.56, 5e-3);
}

#[test]
fn still_water_is_refused_above_its_line_with_the_number_of_refills() {
    let log = [visit("2027-03-01 08:00", level(14.04)), visit("2027-03-07 08:00", level(14.04))];
    let garden = Garden::new(tub(), vec![planting("Mizuna", (1, 4), Stage::Vegetative)], &log, "2027-03-09 08:30");
    let to = |to: f64| {
        at(
            &garden,
            &asked(Purpose::TopOff { from: Some(l(14.04)), to: Some(l(to)), ec: None, method: None, batch: None }),
        )
    };
    near(to(18.794_88).unwrap().plain.get(), 4.754_88, 1e-9);
    let refused = to(28.0).refusal();
    assert_eq!(refused.field, "purpose.to");
    assert!(
        refused.allowed.contains("up to 18.8 L") && refused.mend.contains("3 refills, seven days apart. Add 4.8 L now"),
        "{refused:?}"
    );
    assert!(to(99.0).refusal().allowed.contains("maximum"));
    near(
        at(&garden, &asked(Purpose::TopOff { from: Some(l(14.04)), to: None, ec: None, method: None, batch: None }))
            .unwrap()
            .plain
            .get(),
        4.754_88,
        1e-6,
    );
    for (method, says) in
        [(RefillMethod::HoldTheLine, "No number of refills"), (RefillMethod::QuarterToHalf, "1 refill then fills it")]
    {
        let garden = Garden::new(
            mopsel_core::system::System { refill: method, ..tub() },
            vec![planting("Mizuna", (1, 4), Stage::Vegetative)],
            &log,
            "2027-03-09 08:30",
        );
        let refused = at(
            &garden,
            &asked(Purpose::TopOff { from: Some(l(14.04)), to: Some(l(30.0)), ec: None, method: None, batch: None }),
        )
        .refusal();
        assert!(refused.mend.contains(says), "{refused:?}");
    }
    let seedlings = mopsel_core::crop::Planting {
        planted_on: "2027-03-05".parse().unwrap(),
        ..planting("Mizuna", (1, 4), Stage::Seedling)
    };
    let young = Garden::new(tub(), vec![seedlings], &log, "2027-03-09 08:30");
    assert_eq!(
        at(&young, &asked(Purpose::TopOff { from: Some(l(14.04)), to: None, ec: None, method: None, batch: None }))
            .unwrap()
            .after,
        Some(l(28.0)),
        "roots do not reach yet"
    );
}

#[test]
fn a_change_of_still_water_stays_below_the_line_too() {
    let log = [visit("2027-03-09 08:00", level(18.794_88))];
    let garden = Garden::new(tub(), vec![planting("Mizuna", (1, 4), Stage::Vegetative)], &log, "2027-03-09 08:30");
    let refused = at(&garden, &asked(Purpose::Change { litres: Some(l(28.0)), heel: None, heel_ec: None })).refusal();
    assert!(refused.mend.contains("air roots"), "{refused:?}");
    let fits = at(&garden, &asked(Purpose::Change { litres: None, heel: None, heel_ec: None })).unwrap();
    assert!(fits.after.unwrap() < l(24.0));
}

#[test]
fn strength_is_put_right_at_the_same_level_up_and_down() {
    let garden = raft(90.0, 1.0);
    let stronger = at(
        &garden,
        &Ask { target: Some(ec(1.4)), ..asked(Purpose::Correction { litres: Some(l(90.0)), ec: Some(ec(1.0)) }) },
    )
    .unwrap();
    let rise: f64 = stronger
        .doses
        .iter()
        .map(|d| products().iter().find(|(id, _)| *id == d.product).unwrap().1.rise.unwrap() * d.amount.value)
        .sum();
    near(rise / 90.0, 0.4, 1e-9);
    assert!(
        stronger.steps.iter().any(|s| s.wait.as_ref().is_some_and(|w| w.what == WaitFor::Remeasure && w.minutes == 20))
    );
    let weaker = at(
        &garden,
        &Ask { target: Some(ec(0.8)), ..asked(Purpose::Correction { litres: Some(l(90.0)), ec: Some(ec(1.0)) }) },
    )
    .unwrap();
    near(weaker.drain.get(), 90.0 * 0.2 / 0.7, 1e-9);
    assert!(
        at(
            &garden,
            &Ask { target: Some(ec(1.0)), ..asked(Purpose::Correction { litres: Some(l(90.0)), ec: Some(ec(1.0)) }) }
        )
        .refusal()
        .mend
        .contains("Nothing to correct")
    );
}

#[test]
fn a_top_off_reservoir_follows_the_ledger_once_it_is_known_and_a_rule_of_thumb_before() {
    let garden = raft(80.0, 1.5);
    let thumb = at(&garden, &asked(Purpose::TopOffReservoir { litres: Some(l(100.0)) })).unwrap();
    near(thumb.batch_ec.as_ref().unwrap().value, 1.3 * 1.1, 1e-9);
    assert!(thumb.sure.contains("rule of thumb"));
    let full = |when: &str, litres: f64, strength: f64, added: f64| {
        visit(
            when,
            Visit {
                ec: Some(ec(strength)),
                top_off: (added > 0.0).then(|| mopsel_core::fact::TopOff {
                    litres: l(added),
                    water: mopsel_core::fact::TopOffWater::Plain,
                }),
                ..level(litres)
            },
        )
    };
    let now = |strength: f64| {
        let log = [
            full("2027-03-01 08:00", 60.0, 1.8, 40.0),
            full("2027-03-06 08:00", 60.0, 1.5, 30.0),
            full("2027-03-09 08:00", 70.0, strength, 0.0),
        ];
        let plants = vec![planting("Coriander", (1, 9), Stage::Vegetative)];
        Garden::new(system(Kind::FilmChannel), plants, &log, "2027-03-09 08:30")
    };
    let known = now(1.3);
    let concentration = known.known.lessons.ledger.takes_up(Conductivity::constant(1.5)).unwrap().value.get();
    near(known.known.lessons.ledger.stretches[0].uptake(), 0.75, 1e-9);
    let plan = at(&known, &asked(Purpose::TopOffReservoir { litres: Some(l(100.0)) })).unwrap();
    near(plan.batch_ec.unwrap().value, concentration, 1e-9);
    assert!(plan.sure.contains("salt ledger"));
    // A weak tank is led back over the drum: what is taken up, and what ninety litres are short of.
    let weak = now(1.1);
    let taken = weak.known.lessons.ledger.takes_up(Conductivity::constant(1.5)).unwrap().value.get();
    let plan = at(&weak, &asked(Purpose::TopOffReservoir { litres: Some(l(100.0)) })).unwrap();
    near(plan.batch_ec.as_ref().unwrap().value, taken + 0.2 * 90.0 / 100.0, 2e-3);
    assert!(plan.sure.contains("brings it back by the time the reservoir is empty"), "{}", plan.sure);
    // Of a far too strong one, plain water takes down what is too much, and acid has nothing to do with it.
    let plan = at(&now(2.6), &asked(Purpose::TopOffReservoir { litres: Some(l(60.0)) })).unwrap();
    assert!(
        plan.doses.is_empty() && plan.answer.contains("brings the tank from 2.60 mS/cm back to 1.30"),
        "{}",
        plan.answer
    );
}

#[test]
fn the_advice_says_what_drifts_and_what_would_hold() {
    let feed = |when: &str, litres: f64, strength: f64, added: f64| {
        visit(
            when,
            Visit {
                ec: Some(ec(strength)),
                top_off: Some(mopsel_core::fact::TopOff {
                    litres: l(added),
                    water: mopsel_core::fact::TopOffWater::Feed { ec: Some(Conductivity::new(1.5).unwrap()) },
                }),
                ..level(litres)
            },
        )
    };
    // Drinks 10 L a day at 0.75 and is topped off at 1.5: salts gather.
    let mut log = vec![visit("2027-03-01 08:00", Visit { ec: Some(ec(1.5)), ..level(90.0) })];
    let mut salt = 90.0 * 1.5;
    for day in 2..6 {
        let strength = (salt - 10.0 * 0.75) / 80.0;
        log.push(feed(&format!("2027-03-0{day} 08:00"), 80.0, strength, 10.0));
        salt = 80.0 * strength + 10.0 * 1.5;
    }
    let mut rails = system(Kind::FilmChannel);
    rails.methods.top_off = TopOffMethod::SameStrength;
    let garden = Garden::new(rails, vec![planting("Coriander", (1, 9), Stage::Vegetative)], &log, "2027-03-06 08:30");
    let advice = mopsel_core::care::top_off::top_off_advice(&garden.situation()).map(Said::said).unwrap();
    near(advice.hold_at.get(), 0.75, 1e-6);
    assert!(advice.drifting && advice.finding.contains("EC rises"), "{}", advice.finding);
    assert!(advice.next.contains("0.75 mS/cm"), "{}", advice.next);
    assert!(advice.methods.iter().any(|m| m.method == TopOffMethod::Plain && m.ec_a_week < 0.0));
    near(advice.methods[0].ec_a_week, (1.3 - 0.75) * 70.0 / 90.0, 1e-6);
}

#[test]
fn feed_mixed_ahead_is_drawn_from_until_it_is_gone() {
    let log = [
        visit("2027-03-01 08:00", Visit { ec: Some(ec(1.4)), ..level(70.0) }),
        entry(
            "2027-03-08 08:00",
            Body::Premix(Premix {
                into: PremixIn::Jug,
                litres: l(25.0),
                batch: None,
                ec: Some(ec(1.5)),
                ph: None,
                keeps_days: None,
                note: None,
            }),
        ),
    ];
    let garden = Garden::new(
        system(Kind::FilmChannel),
        vec![planting("Coriander", (1, 9), Stage::Vegetative)],
        &log,
        "2027-03-09 08:30",
    );
    let draw = |garden: &Garden, from: f64| {
        at(
            garden,
            &asked(Purpose::TopOff {
                from: Some(l(from)),
                to: Some(l(from + 20.0)),
                ec: None,
                method: Some(TopOffMethod::Premixed),
                batch: None,
            }),
        )
    };
    let plan = draw(&garden, 65.0).unwrap();
    near(plan.after_ec.as_ref().unwrap().value, (65.0 * 1.4 + 20.0 * 1.5) / 85.0, 1e-9);
    let logged = entry("2027-03-09 08:20", plan.entry.unwrap());
    let after = Garden::new(
        garden.system.clone(),
        garden.plantings.clone(),
        &[log[0].clone(), log[1].clone(), logged],
        "2027-03-09 08:30",
    );
    near(after.known.lessons.premixed.unwrap().value.litres.get(), 5.0, 1e-9);
    assert!(draw(&after, 60.0).refusal().found.contains("5.0 L left"));
}

#[test]
fn rises_are_learnt_from_measured_batches_and_used() {
    let (a, b) = (shipped_id("leaf_a"), shipped_id("leaf_b"));
    let used = |id, ml: f64, what| Used {
        product: id,
        name: Name::new("Leaf feed").unwrap(),
        what,
        amount: mopsel_core::quantity::Amount::ml(ml),
        rise: None,
    };
    let batch = |measured: f64| Batch {
        fresh: l(40.0),
        used: vec![used(a, 160.0, ProductKind::PartA), used(b, 160.0, ProductKind::PartB)],
        source_ec: None,
        ec: Some(ec(measured)),
    };
    // The labels say 4 × (0.19 + 0.16) = 1.40; measured is a tenth less.
    let log = [
        entry("2027-02-20 09:00", Body::Change(Change { batch: Some(batch(0.3 + 1.26)), ..Change::full(l(40.0)) })),
        entry("2027-03-06 09:00", Body::Change(Change { batch: Some(batch(0.3 + 1.26)), ..Change::full(l(40.0)) })),
    ];
    let garden = Garden::new(
        system(Kind::FilmChannel),
        vec![planting("Coriander", (1, 9), Stage::Vegetative)],
        &log,
        "2027-03-09 08:30",
    );
    let points: Vec<_> = garden.known.lessons.batches.iter().collect();
    let given = |id| products().iter().find(|(known, _)| *known == id).and_then(|(_, p)| p.rise);
    let learnt = learnt_rise(a, &points, given).unwrap();
    assert_eq!(learnt.batches, 2);
    near(learnt.rise, 0.19 * 0.9, 1e-9);
    near(learnt_rise(a, &points, |_| None).unwrap().rise, 1.26 / 8.0, 1e-9);
    let table = Table {
        learnt: [a, b].into_iter().map(|id| (id, learnt_rise(id, &points, given).unwrap())).collect(),
        ..Table::new()
    };
    let ask = Ask { target: Some(ec(1.56)), ..asked(Purpose::Jug { litres: l(10.0) }) };
    near(table.plan(&ask, None).unwrap().strength.unwrap(), 1.0, 1e-9);
    assert!(table.plan(&ask, None).unwrap().sure.contains("learnt"));
}

#[test]
fn peroxide_for_the_water_for_roots_and_thinned() {
    let table = Table::new();
    let dose =
        table.plan(&asked(Purpose::PeroxideDose { litres: Some(l(34.0)), product: None, again: false }), None).unwrap();
    near(dose.doses[0].amount.value, 136.0, 1e-9);
    let strong = table
        .plan(
            &asked(Purpose::PeroxideDose {
                litres: Some(l(34.0)),
                product: Some(shipped_id("root_oxygen_12")),
                again: false,
            }),
            None,
        )
        .unwrap();
    near(strong.doses[0].amount.value, 34.0, 1e-9);
    let bath = table
        .plan(&asked(Purpose::RootBath { litres: l(3.0), product: None, stage: Some(RootStage::Film) }), None)
        .unwrap();
    near(bath.doses[0].amount.value, 1000.0, 1e-6);
    assert_eq!(
        bath.steps.iter().find_map(|s| s.wait.clone()).map(|w| (w.what, w.minutes)),
        Some((WaitFor::RootBath, 12))
    );
    assert!(bath.steps.iter().any(|s| s.caution.as_ref().is_some_and(|c| c.contains("an adult"))));
    let beyond = table
        .plan(&asked(Purpose::RootBath { litres: l(3.0), product: None, stage: Some(RootStage::Rotted) }), None)
        .refusal();
    assert!(beyond.mend.contains("Take the plant out"));
    let thin =
        table.plan(&asked(Purpose::Dilution { from_percent: 12.0, to_percent: 3.0, litres: l(2.0) }), None).unwrap();
    assert!(thin.answer.contains("1 part and 3 of water"), "{}", thin.answer);
    let fierce =
        table.plan(&asked(Purpose::Dilution { from_percent: 50.0, to_percent: 3.0, litres: l(2.0) }), None).refusal();
    assert!(fierce.mend.contains("weaker bottle") && fierce.field == "purpose.from_percent");
    assert!(
        table
            .plan(&asked(Purpose::Dilution { from_percent: 3.0, to_percent: 12.0, litres: l(2.0) }), None)
            .refusal()
            .found
            .contains("weaker")
    );
}

#[test]
fn what_cannot_be_made_says_what_would_be_possible() {
    let table = Table::new();
    let no_rate: BTreeMap<Uuid, Product> =
        table.products.iter().map(|(id, p)| (*id, Product { rate: None, ..p.clone() })).collect();
    let cases: Vec<(&str, Worked, &str, &str)> = vec![
        (
            "a target below the source",
            table.plan(&Ask { target: Some(ec(0.2)), ..asked(Purpose::Jug { litres: l(10.0) }) }, None),
            "target",
            "plain water",
        ),
        (
            "a heel larger than the vessel",
            table.plan(&asked(Purpose::Change { litres: Some(l(10.0)), heel: Some(l(12.0)), heel_ec: None }), None),
            "purpose.heel",
            "Drain more",
        ),
        ("0 litres", table.plan(&asked(Purpose::Jug { litres: Litres::ZERO }), None), "purpose.litres", "how much"),
        (
            "more than the vessel holds",
            at(&raft(60.0, 1.0), &asked(Purpose::FreshFill { litres: Some(l(500.0)) })),
            "purpose.litres",
            "working volume",
        ),
        (
            "more on top than it holds",
            at(
                &raft(60.0, 1.0),
                &asked(Purpose::TopOff {
                    from: Some(l(60.0)),
                    to: Some(l(500.0)),
                    ec: None,
                    method: None,
                    batch: None,
                }),
            ),
            "purpose.to",
            "Add 38.0 L at most",
        ),
        (
            "a product without a rate",
            Table { products: no_rate, ..Table::new() }.plan(&asked(Purpose::Jug { litres: l(10.0) }), None),
            "recipe.rate",
            "label",
        ),
        (
            "an unknown recipe",
            table.plan(&Ask { recipe: Some(Uuid::nil()), ..asked(Purpose::Jug { litres: l(10.0) }) }, None),
            "recipe",
            "list",
        ),
        (
            "a target far beyond the label",
            table.plan(&Ask { target: Some(ec(12.0)), ..asked(Purpose::Jug { litres: l(10.0) }) }, None),
            "target",
            "scale",
        ),
        (
            "germinating",
            table.plan(&Ask { stage: Some(Stage::Germinating), ..asked(Purpose::Jug { litres: l(10.0) }) }, None),
            "stage",
            "plain water",
        ),
        (
            "no container",
            table.plan(&Ask { containers: Some(vec![]), ..asked(Purpose::Jug { litres: l(10.0) }) }, None),
            "containers",
            "Name larger",
        ),
        (
            "an EC that cannot be",
            table.plan(
                &Ask {
                    target: Some(EcReading { value: 1e9, scale: EcScale::Ppm500, compensated: true }),
                    ..asked(Purpose::Jug { litres: l(10.0) })
                },
                None,
            ),
            "target",
            "scale",
        ),
    ];
    for (what, found, field, mend) in cases {
        let Err(refusal) = found else { panic!("{what} was planned") };
        assert_eq!(refusal.field, field, "{what}: {refusal}");
        assert!(format!("{refusal:?}").contains(mend), "{what}: {refusal}");
    }
}

#[test]
fn a_child_is_given_plain_water_and_nothing_else() {
    let garden = raft(60.0, 1.1);
    let table = Table { reader: CHILD, ..Table::new() };
    let s = garden.situation();
    assert!(
        table
            .plan(
                &asked(Purpose::TopOff {
                    from: Some(l(60.0)),
                    to: None,
                    ec: None,
                    method: Some(TopOffMethod::Plain),
                    batch: None
                }),
                Some(&s)
            )
            .is_ok()
    );
    for purpose in [
        Purpose::Jug { litres: l(5.0) },
        Purpose::PeroxideDose { litres: None, product: None, again: false },
        Purpose::Ph { litres: None, ph: Some(ph(7.2)), aim: None, product: None, jar: None },
    ] {
        assert_eq!(table.plan(&asked(purpose), Some(&s)).refusal().field, "actor");
    }
}

fn ledger_holds(plan: &Plan<String>) -> bool {
    plan.ledger.is_none_or(|ledger| {
        (ledger.before + ledger.added - ledger.drained - ledger.after).abs() <= 1e-9 * ledger.after.max(1e-6)
    })
}

fn adds_up(plan: &Plan<String>) -> bool {
    // Of acid that goes into a batch until its pH is right, the first part is told.
    let part = |dose: &Dose<String>| dose.amount.value * dose.first.unwrap_or(1.0);
    plan.doses.iter().all(|dose| dose.portions.iter().map(|p| p.amount.value).sum::<f64>() == part(dose))
}

fn any_method() -> impl Strategy<Value = TopOffMethod> {
    proptest::sample::select(TopOffMethod::ALL.to_vec())
}

fn any_shape() -> impl Strategy<Value = Shape> {
    use crate::common::mm;
    let size = || 100.0..900.0f64;
    prop_oneof![
        (size(), size(), size()).prop_map(|(a, b, c)| Shape::Box {
            length_mm: mm(a),
            width_mm: mm(b),
            height_mm: mm(c)
        }),
        (size(), size()).prop_map(|(a, b)| Shape::Cylinder { diameter_mm: mm(a), height_mm: mm(b) }),
        (size(), size(), 0.5..1.0f64, size()).prop_map(|(a, b, t, c)| Shape::Tapered {
            rim_length_mm: mm(a),
            rim_width_mm: mm(b),
            floor_length_mm: mm(a * t),
            floor_width_mm: mm(b * t),
            height_mm: mm(c)
        }),
        (5.0..300.0f64).prop_map(|v| Shape::Stated { litres: l(v) }),
    ]
}

proptest! {
    #[test]
    fn every_plan_conserves_salt_and_its_portions_add_up_exactly(v0 in 20.0..90.0f64, e0 in 0.3..3.5f64, more in 0.2..40.0f64, e1 in 0.4..3.0f64, method in any_method(), jug in 0.5..20.0f64, heel in 0.0..20.0f64) {
        let garden = raft(v0, e0);
        let asks = [
            Ask { target: Some(ec(e1)), ..asked(Purpose::TopOff { from: Some(l(v0)), to: Some(l(v0 + more)), ec: Some(ec(e0)), method: Some(method), batch: Some(l(jug)) }) },
            Ask { target: Some(ec(e1)), ..asked(Purpose::Change { litres: Some(l(v0)), heel: Some(l(heel)), heel_ec: Some(ec(e0)) }) },
            Ask { target: Some(ec(e1)), ..asked(Purpose::Correction { litres: Some(l(v0)), ec: Some(ec(e0)) }) },
            Ask { target: Some(ec(e1)), ..asked(Purpose::FreshFill { litres: Some(l(v0)) }) },
        ];
        for ask in &asks {
            if let Ok(plan) = at(&garden, ask) {
                prop_assert!(ledger_holds(&plan), "{:?}", plan.ledger);
                prop_assert!(adds_up(&plan), "{}", plan.answer);
                if let (Purpose::TopOff { method: Some(TopOffMethod::Measured), .. } | Purpose::Change { .. } | Purpose::Correction { .. }, Some(after)) = (&ask.purpose, &plan.after_ec) {
                    prop_assert!((after.value - e1).abs() <= 1e-3, "{} lands at {}, not {e1}", plan.answer, after.value);
                }
                if let Purpose::TopOff { .. } = ask.purpose {
                    let made = v0 - plan.drain.get() + plan.plain.get() + plan.batch.get();
                    prop_assert!((made - plan.after.unwrap().get()).abs() < 1e-9 || method == TopOffMethod::Premixed, "{}", plan.answer);
                }
                if let (Some(batch), false) = (&plan.batch_ec, plan.doses.is_empty()) {
                    let rises: f64 = plan.doses.iter().map(|d| products().iter().find(|(id, _)| *id == d.product).unwrap().1.rise.unwrap() * d.amount.value).sum();
                    let wanted = (batch.value - 0.3) * plan.batch.get();
                    prop_assert!((rises - wanted).abs() <= 1e-9 * wanted.max(1e-6), "the doses carry the salt of the batch");
                }
            }
        }
    }

    #[test]
    fn no_plan_raises_still_water_above_its_limit(shape in any_shape(), fill in 0.05..0.9f64, to in 0.05..1.2f64, refill in proptest::sample::select(vec![RefillMethod::OneInch, RefillMethod::HoldTheLine, RefillMethod::QuarterToHalf]), days in 0u8..9, changed in any::<bool>()) {
        let reservoir = Reservoir::suggested(shape, l(0.0));
        prop_assume!(reservoir.check().is_ok());
        let capacity = reservoir.shape.capacity().get();
        let still = mopsel_core::system::System { reservoir: reservoir.clone(), refill, ..tub() };
        let now = l(capacity * fill);
        let log = [visit(&format!("2027-03-0{} 08:00", 9 - days.min(8)), Visit { top_off: Some(mopsel_core::fact::TopOff { litres: l((capacity * 0.01).max(0.1)), water: mopsel_core::fact::TopOffWater::Plain }), ..level(capacity * (fill - 0.01).max(0.0)) })];
        let garden = Garden::new(still, vec![planting("Mizuna", (1, 4), Stage::Vegetative)], &log, "2027-03-09 08:30");
        let s = garden.situation();
        let wish = Some(l((capacity * to).min(20000.0)));
        let ask = if changed { asked(Purpose::Change { litres: wish, heel: None, heel_ec: None }) } else { asked(Purpose::TopOff { from: Some(now), to: wish, ec: None, method: Some(TopOffMethod::Plain), batch: None }) };
        let limit = mopsel_core::refill::limit_from(now, &s).up_to.get().max(mopsel_core::refill::limit_from(garden.known.tank.last_volume().unwrap().after.unwrap(), &s).up_to.get());
        if let Ok(plan) = at(&garden, &ask) {
            prop_assert!(plan.after.unwrap().get() <= limit + 1e-6 && plan.after.unwrap() <= reservoir.maximum, "{} over {limit}", plan.after.unwrap().get());
        }
    }
}

#[test]
fn half_rate_is_half_of_the_label_whatever_the_recipe_calls_full() {
    let share = |stage: Stage| {
        let jug = Ask { stage: Some(stage), as_printed: true, ..asked(Purpose::Jug { litres: l(10.0) }) };
        Table::new().plan(&jug, None).unwrap().strength.unwrap()
    };
    let parts = |stage: Stage| {
        let recipe = &Table::new().recipes[&shipped_id("two_part_leaf")];
        recipe.lines.iter().map(|line| line.parts.at(stage)).sum::<f64>() / recipe.lines.len() as f64
    };
    assert!(parts(Stage::Seedling) < 0.8, "seedlings get less");
    for stage in [Stage::Seedling, Stage::Vegetative] {
        near(share(stage), parts(stage), 1e-9);
    }
}

#[test]
fn a_mix_that_nobody_knows_the_strength_of_is_measured() {
    let mut table = Table::new();
    for product in table.products.values_mut() {
        product.rise = None;
    }
    let jug = Ask { as_printed: true, ..asked(Purpose::Jug { litres: l(10.0) }) };
    let plan = table.plan(&jug, None).unwrap();
    let measures = plan.steps.iter().find(|step| step.kind == StepKind::Ec).unwrap();
    assert!(measures.say.starts_with("Measure EC, and write it down"), "{}", measures.say);
}

#[test]
fn a_change_drains_the_old_water_before_the_new_is_poured_with_a_system_or_without() {
    let ask = asked(Purpose::Change { litres: Some(l(40.0)), heel: Some(l(4.0)), heel_ec: Some(ec(2.0)) });
    let steps = |plan: Plan<String>| plan.steps.iter().map(|step| step.kind).collect::<Vec<_>>();
    for plan in [Table::new().plan(&ask, None), at(&raft(60.0, 1.5), &ask)] {
        let steps = steps(plan.unwrap());
        let place = |kind| steps.iter().position(|one| *one == kind);
        assert!(place(StepKind::Drain).is_some(), "{steps:?}");
        assert!(place(StepKind::Drain) < place(StepKind::Pour).or(place(StepKind::Hose)), "{steps:?}");
    }
}

#[test]
fn what_goes_into_each_can_is_said_as_the_tool_shows_it() {
    let ask = asked(Purpose::Change { litres: Some(l(46.0)), heel: None, heel_ec: None });
    let plan = Table::new().plan(&Ask { target: Some(ec(1.8)), ..ask }, None).unwrap();
    let dose = plan.doses.iter().find(|dose| dose.portions.len() > 1).unwrap();
    let step = plan.steps.iter().find(|step| step.kind == StepKind::Dose && step.say.contains(&dose.name)).unwrap();
    for portion in &dose.portions {
        let shown = portion.measuring.as_ref().unwrap();
        let mark = shown.measured / 0.5;
        near(mark, mark.round(), 1e-6);
        let said = crate::common::told(mopsel_core::quantity::Amount::ml(shown.measured), Reader::default());
        assert!(step.say.contains(&format!("{said} into the {}", portion.container)), "{said}: {}", step.say);
    }
}

/// What the pages are told to ask for is what a plan takes: every field of a purpose is one of its own, and
/// exactly those that are said to be needed are missed.
#[test]
fn what_is_said_of_a_purpose_is_what_it_takes() {
    let sample = |kind: FieldKind| match kind {
        FieldKind::Ec => json!({"value": 1.2, "scale": "ms_cm", "compensated": true}),
        FieldKind::Ph => json!(6.0),
        _ => json!(3.0),
    };
    for facts in purposes() {
        let mut whole = json!({"for": facts.key});
        for field in facts.fields.iter().filter(|field| !field.key.starts_with("jar_")) {
            whole[&field.key] =
                if field.key == "ph" { json!({"by": "meter", "value": 7.0}) } else { sample(field.kind) };
        }
        let read = |value: &serde_json::Value| serde_json::from_value::<Purpose>(value.clone());
        assert!(read(&whole).is_ok(), "{}: {:?}", facts.key, read(&whole));
        for key in facts.fields.iter().map(|field| &field.key).filter(|key| !key.starts_with("jar_")) {
            let mut without = whole.clone();
            without.as_object_mut().unwrap().remove(key);
            assert_eq!(read(&without).is_err(), facts.needs.contains(key), "{} without {key}", facts.key);
        }
    }
}
