//! The arithmetic at the reservoir: reference cases, and salt that is never made nor lost.

use crate::common::told;
use crate::common::{Refused, Said};
use mopsel_core::words::Reader;

use crate::common::l;
use mopsel_core::mixing::alkalinity::{Batch, at_once, held, in_all, meq_of, ph_holding};
use mopsel_core::mixing::balance::{Water, batch_after_hose, beside_heel, drain_first, top_off, uptake_concentration};
use mopsel_core::mixing::{
    Container, OwnMeasure, PrintedRate, ProductKind, RateAmount, RateVolume, Sanitiser, Tool, check_together, dilute,
    measure, mixing_order, products, recipes, shares_of, split,
};
use mopsel_core::quantity::{Amount, AmountUnit, CUP_ML, TABLESPOON_ML, TEASPOON_ML};
use mopsel_core::quantity::{Conductivity, Litres, Name, UnitSystem};
use proptest::prelude::*;

fn ec(value: f64) -> Conductivity {
    Conductivity::new(value).unwrap()
}

fn water(litres: f64, strength: f64) -> Water {
    Water::new(l(litres), ec(strength))
}

fn near(found: f64, wanted: f64, within: f64) {
    assert!((found - wanted).abs() <= within, "{found} is not {wanted}");
}

#[test]
fn the_reference_figures_of_the_salt_balance() {
    let tap = ec(0.3);
    near(beside_heel(water(46.0, 1.8), water(4.0, 2.6), tap).unwrap().ec.get(), 1.724, 5e-4);
    let add = top_off(water(60.0, 1.1), water(80.0, 1.8), tap).unwrap();
    near(add.litres.get(), 20.0, 1e-9);
    near(add.ec.get(), 3.9, 1e-9);
    near(drain_first(water(60.0, 3.0), water(80.0, 1.8), tap).unwrap().get(), 15.56, 5e-3);
    let taken = uptake_concentration(water(60.0, 1.8), water(40.0, 0.3), water(0.0, 0.0), water(60.0, 1.5)).unwrap();
    near(taken.get(), 0.75, 1e-9);
}

#[test]
fn what_cannot_be_mixed_says_what_can() {
    let tap = ec(0.3);
    let strong = top_off(water(60.0, 3.0), water(80.0, 1.8), tap).refusal();
    assert!(strong.mend.contains("Drain 15.6 L first"), "{strong}");
    assert!(beside_heel(water(46.0, 1.8), water(50.0, 1.0), tap).refusal().found.contains("50.0 L left in"));
    assert!(beside_heel(water(46.0, 0.4), water(20.0, 2.6), tap).refusal().mend.contains("Rinse"));
    assert!(top_off(water(80.0, 1.0), water(60.0, 1.8), tap).is_err());
    assert!(drain_first(water(60.0, 3.0), water(80.0, 0.2), tap).is_err(), "a target below the source");
    assert!(batch_after_hose(water(60.0, 1.0), l(0.0), ec(1.8), tap).is_err());
}

fn printed(value: f64, amount: RateAmount, per: u16, volume: RateVolume) -> PrintedRate {
    PrintedRate { value, amount, measure: None, per, volume }
}

fn name(text: &str) -> Name {
    Name::new(text).unwrap()
}

fn tool(says: &str, holds: f64, marked_each: f64) -> Tool {
    Tool { name: name(says), unit: AmountUnit::Ml, holds, marked_each }
}

#[test]
fn printed_rates_come_to_the_same_litre() {
    use RateAmount::{FluidOunces, Grams, Millilitres, Ounces, Tablespoons, Teaspoons};
    use RateVolume::{ImperialGallon, Litre, UsGallon};
    let cases = [
        (2.0, Millilitres, 1, Litre, 2.0),
        (10.0, Millilitres, 1, UsGallon, 10.0 / 3.785_411_784),
        (1.0, Teaspoons, 1, UsGallon, 4.92892 / 3.785_411_784),
        (2.0, Tablespoons, 5, UsGallon, 2.0 * 14.78676 / 18.927_058_92),
        (1.0, FluidOunces, 1, ImperialGallon, 29.57353 / 4.54609),
        (2.4, Ounces, 100, UsGallon, 2.4 * 28.349523 / 378.541_178_4),
        (240.0, Grams, 100, UsGallon, 240.0 / 378.541_178_4),
        (5.0, Millilitres, 10, Litre, 0.5),
    ];
    for (value, amount, per, volume, wanted) in cases {
        let unit = if matches!(amount, Ounces | Grams) { AmountUnit::G } else { AmountUnit::Ml };
        let rate = printed(value, amount, per, volume).per_litre(unit, None, &[]).unwrap();
        near(rate.value / wanted, 1.0, 1e-6);
        assert_eq!(rate.unit, unit);
    }
    for wrong in [0.0, -1.0, f64::NAN, 1e9] {
        assert!(printed(wrong, Grams, 1, Litre).per_litre(AmountUnit::G, None, &[]).is_err(), "{wrong:?}");
    }
    assert!(printed(1.0, Grams, 0, UsGallon).per_litre(AmountUnit::G, None, &[]).is_err());
}

#[test]
fn kitchen_measures_are_right_to_a_thousandth() {
    for (found, wanted) in [(TEASPOON_ML, 4.92892), (TABLESPOON_ML, 14.78676), (CUP_ML, 236.5882)] {
        near(found / wanted, 1.0, 1e-5);
    }
    let us = Reader { units: UnitSystem::Us, ..Reader::default() };
    assert_eq!(told(Amount::ml(9.858), us), "2 tsp (9.86 mL)");
    assert_eq!(told(Amount::ml(44.36), us), "3 tbsp (44.4 mL)");
    assert_eq!(told(Amount::ml(118.29), us), "4 fl oz (118 mL)");
    assert_eq!(told(Amount::grams(56.7), us), "2.00 oz (56.7 g)");
    assert_eq!(told(Amount::ml(0.04), Reader::default()), "0.040 mL");
}

#[test]
fn caps_and_scoops_count_what_they_hold_and_liquids_by_weight_want_a_density() {
    let caps = [OwnMeasure { name: name("my cap"), holds: 4.0 }];
    let two_caps = |measure: Option<&str>| PrintedRate {
        measure: measure.map(name),
        ..printed(2.0, RateAmount::OwnMeasure, 5, RateVolume::UsGallon)
    };
    near(two_caps(Some("my cap")).per_litre(AmountUnit::Ml, None, &caps).unwrap().value, 8.0 / 18.927_058_92, 1e-9);
    let unknown = two_caps(Some("blue scoop")).per_litre(AmountUnit::Ml, None, &caps).refusal();
    assert!(unknown.allowed.contains("my cap") && unknown.field == "measure", "{unknown}");
    let by_weight = printed(3.0, RateAmount::Grams, 1, RateVolume::Litre);
    assert!(by_weight.per_litre(AmountUnit::Ml, None, &[]).refusal().mend.contains("Weigh 100 mL"));
    near(by_weight.per_litre(AmountUnit::Ml, Some(1.2), &[]).unwrap().value, 2.5, 1e-9);
    assert!(printed(1.0, RateAmount::Teaspoons, 1, RateVolume::Litre).per_litre(AmountUnit::G, None, &[]).is_err());
}

#[test]
fn the_shipped_library_is_whole() {
    for (id, product) in products() {
        assert!(product.check().is_ok(), "{id} {:?}: {:?}", product.name, product.check());
    }
    for (id, recipe) in recipes() {
        assert!(recipe.check().is_ok(), "{id}: {:?}", recipe.check());
        for line in &recipe.lines {
            let (_, product) = products()
                .iter()
                .find(|(id, _)| *id == line.product)
                .unwrap_or_else(|| panic!("{:?} names a product that is not shipped", recipe.name));
            assert!(product.per_litre(None).is_ok() && product.rise.is_some());
            assert!(
                line.parts.seedling <= line.parts.vegetative.max(line.parts.flowering),
                "{:?}: seedlings take the least",
                recipe.name
            );
        }
    }
    let dry = products().iter().find(|(_, p)| p.name.as_str() == "Dry base").unwrap();
    assert_eq!(dry.1.rate.as_ref().unwrap().say().said(), "8.5 oz per 100 US gal");
}

#[test]
fn seventy_three_point_six_with_a_twenty_syringe_is_three_and_fourteen() {
    let syringe = tool("20 mL syringe", 20.0, 1.0);
    let plan = measure(Amount::ml(73.6), std::slice::from_ref(&syringe)).unwrap();
    assert_eq!((plan.full, plan.rest_at_mark, plan.measured), (3, 14.0, 74.0));
    near(plan.rest, 13.6, 1e-9);
    near(plan.error, 0.005, 5e-4);
    assert_eq!(plan.say().said(), "3 × 20 mL syringe + 14 mL");
    let fine = tool("5 mL syringe", 5.0, 0.2);
    assert_eq!(
        measure(Amount::ml(3.4), &[syringe.clone(), fine]).unwrap().tool,
        "5 mL syringe",
        "the tool with the smaller error"
    );
    let fine = tool("5 mL syringe", 5.0, 0.2);
    let easy = measure(Amount::ml(74.9), &[fine, syringe.clone()]).unwrap();
    assert_eq!(
        (easy.tool.as_str(), easy.full),
        ("20 mL syringe", 3),
        "right to a hundredth, and not fourteen fillings"
    );
    assert!(measure(Amount::ml(0.0), std::slice::from_ref(&syringe)).is_err());
    assert!(measure(Amount::ml(5000.0), std::slice::from_ref(&syringe)).is_err());
    assert!(measure(Amount::grams(12.0), &[syringe]).is_err(), "a syringe weighs nothing");
    assert!(tool("bent spoon", 5.0, 6.0).check().is_err());
}

#[test]
fn forty_six_litres_in_two_cans_of_eighteen_are_three_fillings() {
    let cans = [Container::carried(name("blue can"), l(18.0)), Container::carried(name("grey can"), l(18.0))];
    let shares = split(l(46.0), &cans, l(30.0)).unwrap();
    let litres: Vec<f64> = shares.iter().map(|s| s.litres.get()).collect();
    assert_eq!(litres.len(), 3);
    assert!(litres.iter().all(|litres| (litres - 46.0 / 3.0).abs() < 1e-9), "few and equal: {litres:?}");
    let with_jug = [cans[0].clone(), cans[1].clone(), Container::carried(name("jug"), l(11.0))];
    assert_eq!(
        split(l(46.0), &with_jug, l(30.0)).unwrap()[2].container,
        "jug",
        "the rest goes into the smallest that takes it"
    );
    assert_eq!(split(l(4.0), &with_jug, l(30.0)).unwrap()[0].container, "jug");
    assert!(split(l(46.0), &[], l(30.0)).is_err());
    assert!(split(l(20000.0), &cans, l(30.0)).is_err());
}

#[test]
fn twelve_per_cent_to_three_is_one_part_and_three_of_water() {
    let made = dilute(12.0, 3.0, l(2.0)).unwrap();
    assert_eq!((made.concentrate.get(), made.water.get(), made.parts_water), (0.5, 1.5, 3.0));
    assert!(dilute(3.0, 12.0, l(1.0)).refusal().found.contains("weaker than the 12 % wanted"));
    assert!(dilute(12.0, 3.0, Litres::ZERO).is_err());
}

#[test]
fn acid_for_a_litre_at_once_and_in_all() {
    // 120 mg/L from 7.6 to 5.9.
    near(at_once(meq_of(120.0), 7.6, 5.9), 1.736, 5e-4);
    // 40 L of 150 mg/L from 7.6 to 5.8: 92 meq at once, 120 once the gas has left.
    near(at_once(meq_of(150.0), 7.6, 5.8) * 40.0, 92.1, 0.1);
    near(in_all(meq_of(150.0), 5.8) * 40.0, 119.8, 0.1);
    // Hard water with feed stands at 6.9, and climbs back after it was put right.
    let batch = Batch::new(meq_of(150.0), 7.6, 1.0);
    assert!((6.8..7.1).contains(&batch.ph()), "{}", batch.ph());
    let acid = batch.acid_to(5.8);
    let (once, climbs) = (Batch { alkali: batch.alkali - acid, ..batch }.ph(), batch.climbs_to(acid));
    assert!((once - 5.8).abs() < 1e-6 && (6.5..7.3).contains(&climbs), "{once}, {climbs}");
}

#[test]
fn worse_water_is_never_given_less_acid() {
    let mut last = 0.0;
    for n in 0..30 {
        let from = 6.5 + f64::from(n) * 0.1;
        let to = (from - 1.0).clamp(5.8, 6.5);
        let amount = held(from) - held(to);
        assert!(amount >= last - 1e-9, "{amount} at {from}, {last} before");
        last = amount;
    }
    for ph in [4.2, 5.0, 5.8, 7.0, 8.6] {
        near(ph_holding(held(ph)), ph, 1e-6);
    }
}

#[test]
fn silica_comes_before_feed_and_calcium_nitrate_after_sulfate() {
    use ProductKind::{
        Booster, CalciumMagnesium, CalciumNitrate, DryBase, MagnesiumSulfate, PartA, PartB, PhDown, Silica,
    };
    let order = |products: &[ProductKind]| mixing_order(products);
    assert_eq!(
        order(&[PhDown, PartB, Booster, Silica, PartA, CalciumMagnesium]),
        [Silica, CalciumMagnesium, PartA, PartB, Booster, PhDown]
    );
    assert_eq!(order(&[CalciumNitrate, MagnesiumSulfate, DryBase]), [DryBase, MagnesiumSulfate, CalciumNitrate]);
    assert!(Silica.reason().said().contains("clouds"));
}

#[test]
fn sanitisers_that_must_not_meet_are_refused_in_either_order() {
    use Sanitiser::{Ammonia, Bleach, Brine, CitricAcid, Peroxide, PhDown, Vinegar};
    for (a, b) in [
        (Bleach, Ammonia),
        (Bleach, CitricAcid),
        (Bleach, Vinegar),
        (Bleach, PhDown),
        (Bleach, Peroxide),
        (Peroxide, Vinegar),
    ] {
        assert!(check_together(a, b).is_err() && check_together(b, a).is_err(), "{a:?} with {b:?}");
    }
    assert!(check_together(Peroxide, Brine).is_ok());
    assert!(check_together(Bleach, Bleach).is_ok());
}

proptest! {
    #[test]
    fn every_pouring_conserves_salt(v0 in 1.0..200.0f64, e0 in 0.3..3.0f64, more in 0.5..200.0f64, e1 in 0.5..3.0f64) {
        let (before, after, tap) = (water(v0, e0), water(v0 + more, e1), ec(0.3));
        if let Ok(add) = top_off(before, after, tap) {
            let made = before.with(add);
            prop_assert!((made.salt() - after.salt()).get().abs() <= 1e-9 * after.salt().get());
        } else if let Ok(drain) = drain_first(before, after, tap) {
            let left = water(v0 - drain.get().min(v0), e0);
            let made = left.with(water(after.litres.get() - left.litres.get(), 0.3));
            prop_assert!(drain.get() > v0 || (made.salt() - after.salt()).get().abs() <= 1e-9 * after.salt().get().max(1.0));
        }
        if let Ok(fresh) = beside_heel(after, before, tap) {
            prop_assert!((before.with(fresh).salt() - after.salt()).get().abs() <= 1e-9 * after.salt().get());
        }
    }

    #[test]
    fn a_batch_after_the_hose_lands_on_the_target(v in 10.0..200.0f64, e in 0.3..1.5f64, jug in 1.0..20.0f64, target in 0.8..2.5f64) {
        if let Ok(batch) = batch_after_hose(water(v, e), l(jug), ec(target), ec(0.3)) {
            let made = water(v, e).with(batch);
            prop_assert!((made.ec.get() - target).abs() < 1e-9);
        }
    }

    #[test]
    fn shares_add_up_to_the_whole_exactly(total in 0.5..300.0f64, holds in proptest::collection::vec(5.0..30.0f64, 1..5), amount in 0.1..900.0f64) {
        let cans: Vec<Container> = holds.iter().enumerate().map(|(i, h)| Container::carried(name(&format!("can {i}")), l(*h))).collect();
        if let Ok(shares) = split(l(total), &cans, l(30.0)) {
            let litres: f64 = shares.iter().map(|s| s.litres.get()).sum();
            prop_assert!((litres - total).abs() < 1e-6);
            prop_assert!(shares.iter().all(|s| cans.iter().any(|c| c.name.as_str() == s.container && s.litres <= c.holds)));
            let parts = shares_of(amount, &shares);
            prop_assert_eq!(parts.iter().sum::<f64>(), amount, "not one bit is lost");
        }
    }

    #[test]
    fn no_order_puts_silica_or_ph_among_the_feed(mut kinds in proptest::sample::subsequence(vec![ProductKind::Silica, ProductKind::PartA, ProductKind::PartB, ProductKind::Micro, ProductKind::Booster, ProductKind::PhUp], 1..6), flip in any::<bool>()) {
        if flip {
            kinds.reverse();
        }
        let order = mixing_order(&kinds);
        prop_assert!(order.windows(2).all(|w| w[0] <= w[1]));
    }
}
