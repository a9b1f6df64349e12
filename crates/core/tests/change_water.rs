//! Where the fresh water of a change comes from, and what follows for the order of the hands.

use crate::common::{Garden, Refused, Said, at_the_bench, ec, entry, l, level, planting, system, visit};
use mopsel_core::bench::{Ask, MixIn, Purpose, StepKind};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{
    Body, ChangeExtent, ChangeParts, ChangeRun, ChangeStep, MixedIn, Premix, PremixIn, StepMark, Visit,
};
use mopsel_core::guide::{Gear, Guide, entry_of, guide, steps_of, with_places};
use mopsel_core::mixing::{Container, split};
use mopsel_core::quantity::Name;
use mopsel_core::system::{Kind, System, TopOffMethod, kinds};
use std::collections::BTreeSet;
use strum::VariantArray;

fn parts(mixed: MixedIn) -> ChangeParts {
    ChangeParts { mixed: Some(mixed), ..ChangeParts::default() }
}

fn run(mixed: MixedIn) -> ChangeRun {
    ChangeRun { parts: parts(mixed), ..ChangeRun::default() }
}

/// All steps ticked off.
fn finished(garden: &Garden, mixed: MixedIn, after: f64) -> ChangeRun {
    let steps = steps_of(&garden.system, ChangeExtent::Full, &parts(mixed), true);
    let mark = StepMark { at: garden.now.timestamp(), left_out: None };
    let steps = steps.into_iter().map(|step| (step, mark.clone())).collect();
    ChangeRun { parts: ChangeParts { steps, ..parts(mixed) }, volume_after: Some(l(after)), ..ChangeRun::default() }
}

fn garden(system: System, ready: Premix) -> Garden {
    let log = [visit("2027-03-07 08:00", level(90.0)), entry("2027-03-08 08:00", Body::Premix(ready))];
    Garden::new(system, vec![planting("Kale", (1, 4), Stage::Vegetative)], &log, "2027-03-09 08:30")
}

fn jug(litres: f64, strength: f64) -> Premix {
    Premix { ec: Some(ec(strength)), ..Premix::of(PremixIn::Jug, l(litres)) }
}

fn can(says: &str, holds: f64) -> Container {
    Container::carried(Name::new(says).unwrap(), l(holds))
}

fn bin(holds: f64) -> Container {
    Container { stands: true, ..can("mixing bin", holds) }
}

#[test]
fn every_change_is_in_the_order_of_hands_wherever_it_is_mixed() {
    use ChangeStep::{
        CloseLid, Drain, Heel, LidAside, Measure, PowerOff, PowerOn, Prepare, Refill, Rinse, Roots, SupplyOff,
        SupplyOn, Temper,
    };
    for facts in kinds() {
        for mixed in MixedIn::VARIANTS {
            for (extent, reset, planted, first) in [
                (ChangeExtent::Full, false, true, false),
                (ChangeExtent::Partial, false, true, false),
                (ChangeExtent::Full, true, false, false),
                (ChangeExtent::Full, false, true, true),
            ] {
                let parts = ChangeParts { reset, first, ..parts(*mixed) };
                let mut system = system(facts.key);
                system.traits.heel = l(2.0);
                let steps = steps_of(&system, extent, &parts, planted);
                let place = |step: ChangeStep| steps.iter().position(|other| *other == step);
                let before = |a, b| place(a).zip(place(b)).is_none_or(|(a, b)| a < b);
                let told = format!("{:?} {mixed:?} {extent:?} {reset} {planted} {first}: {steps:?}", facts.key);
                assert_eq!(steps.iter().collect::<BTreeSet<_>>().len(), steps.len(), "each step once: {told}");
                let mixes_after = *mixed == MixedIn::Vessel;
                assert!(if mixes_after { before(PowerOn, Prepare) } else { before(Prepare, Refill) }, "{told}");
                assert!(if mixes_after { before(Refill, Prepare) } else { before(Prepare, Drain) }, "{told}");
                assert!(before(Rinse, Refill) && before(Heel, Prepare) | !mixes_after, "{told}");
                assert!(before(Prepare, CloseLid) && before(Prepare, Measure), "{told}");
                assert!(before(Temper, Drain) && before(SupplyOff, PowerOff) && before(SupplyOff, Drain), "{told}");
                assert_eq!(place(SupplyOn).is_some(), system.traits.supplied(), "never left shut: {told}");
                assert_eq!(place(SupplyOff).is_some(), place(SupplyOn).is_some(), "never opened unshut: {told}");
                assert!(before(SupplyOff, Refill), "{told}");
                assert!(before(Refill, SupplyOn) && before(PowerOn, SupplyOn) && before(SupplyOn, Measure), "{told}");
                let roots = [Roots, Temper, LidAside].iter().any(|step| place(*step).is_some());
                assert_eq!(roots, planted && !first, "roots that are gone are not asked about: {told}");
            }
        }
    }
}

#[test]
fn a_valve_is_shut_and_opened_again_and_never_passed_over_silently() {
    let mut rack = system(Kind::AeratedRaft);
    (rack.traits.top_off_reservoir, rack.traits.controller) = (true, true);
    let garden = garden(rack, jug(5.0, 1.6));
    let led = guide(&run(MixedIn::Cans), &garden.situation()).said().unwrap();
    let doing = |step| led.steps.iter().find(|other| other.step == step).unwrap().doing.clone();
    assert!(doing(ChangeStep::SupplyOff).starts_with("Set the controller to standby"));
    assert!(doing(ChangeStep::SupplyOn).starts_with("Open the supply valve"));
    let name = |kind: Kind| {
        let mut only = system(kind);
        only.traits.top_off_reservoir = true;
        let only = self::garden(only, jug(5.0, 1.6));
        let led = guide(&run(MixedIn::Cans), &only.situation()).said().unwrap();
        led.steps.into_iter().find(|step| step.step == ChangeStep::SupplyOn).unwrap().name
    };
    assert_eq!(name(Kind::BucketChain), "Open the supply valve again");
    let mut run = finished(&garden, MixedIn::Cans, 90.0);
    run.parts.steps.remove(&ChangeStep::SupplyOn);
    let refused = entry_of(&run, &garden.situation()).map_err(Said::said).refusal();
    assert!(refused.field.contains("supply_on"), "{refused:?}");
}

#[test]
fn the_steps_speak_of_what_the_system_has() {
    let doing = |kind: Kind, step: ChangeStep| {
        let garden = garden(system(kind), jug(5.0, 1.6));
        let led = guide(&run(MixedIn::Cans), &garden.situation()).said().unwrap();
        led.steps.into_iter().find(|other| other.step == step).unwrap().doing
    };
    let raft = doing(Kind::AeratedRaft, ChangeStep::PowerOn);
    assert!(raft.contains("bubbles") && !raft.contains("prayer") && !raft.contains("channel"), "{raft}");
    assert!(doing(Kind::FilmChannel, ChangeStep::PowerOn).contains("every channel"));
    assert!(doing(Kind::FilmChannel, ChangeStep::LidAside).contains("stay in their channels"));
    assert!(doing(Kind::AeratedRaft, ChangeStep::LidAside).contains("hang free"));
    assert!(!doing(Kind::AeratedRaft, ChangeStep::PowerOff).contains("pump and air"), "it has no water pump");
}

#[test]
fn a_guide_is_told_the_mixing_only_and_the_bench_all_of_it() {
    let garden = garden(system(Kind::BucketChain), jug(5.0, 1.6));
    let plan = |mix_in, led| {
        let purpose = Purpose::Change { litres: None, heel: None, heel_ec: None };
        let ask = Ask { mix_in: Some(mix_in), led, ..Ask::new(purpose) };
        let plan = at_the_bench(&garden.situation(), &ask).unwrap();
        plan.steps.iter().map(|step| step.kind).collect::<Vec<_>>()
    };
    for mix_in in [MixIn::Cans, MixIn::Vessel] {
        let (led, alone) = (plan(mix_in, true), plan(mix_in, false));
        let hands = [StepKind::Drain, StepKind::Hose, StepKind::Pour];
        assert!(!led.iter().any(|kind| hands.contains(kind)), "{led:?}");
        assert!(alone.contains(&StepKind::Drain) && led.contains(&StepKind::Dose), "{alone:?}");
        let kept: Vec<_> = alone.into_iter().filter(|kind| led.contains(kind)).collect();
        assert_eq!(kept, led, "what is left is in the same order");
    }
}

#[test]
fn ready_feed_fills_a_change_and_falls_by_what_was_drawn() {
    let mut bucket = system(Kind::SingleBucket);
    (bucket.reservoir.minimum, bucket.reservoir.working, bucket.traits.heel) = (l(4.0), l(15.0), l(1.0));
    let mut garden = garden(bucket, jug(20.0, 1.6));
    let body = entry_of(&finished(&garden, MixedIn::Jug, 15.0), &garden.situation()).unwrap();
    let Body::Change(change) = &body else { panic!("{body:?}") };
    assert!(change.batch.is_none(), "no salts are claimed");
    garden.log(entry(
        "2027-03-09 08:25",
        Body::Change(mopsel_core::fact::Change { heel: Some(l(1.0)), ..change.clone() }),
    ));
    let left = garden.known.lessons.premixed.unwrap().value.litres.get();
    assert!((left - 6.0).abs() < 1e-9, "20 less the 14 that went in beside 1 L of old water: {left}");
    let said: Vec<String> = mopsel_core::words::say_entry(&body, &garden.system).into_iter().map(Said::said).collect();
    assert!(said.iter().any(|line| line.contains("ready feed from the jug")), "{said:?}");
    let refused = guide(&run(MixedIn::Jug), &garden.situation()).map_err(Said::said).refusal();
    assert!(refused.mend.starts_with("Only 6.0 L is left"), "not twice: {refused:?}");
}

#[test]
fn what_was_filled_from_ready_feed_has_its_strength() {
    let mut garden = garden(system(Kind::SingleBucket), jug(120.0, 1.6));
    let body = entry_of(&finished(&garden, MixedIn::Jug, 90.0), &garden.situation()).unwrap();
    garden.log(entry("2027-03-09 08:25", body));
    let strength = garden.situation().water().ec().unwrap();
    assert!((strength.value.get() - 1.6).abs() < 1e-9 && !strength.measured, "{strength:?}");
}

#[test]
fn a_part_that_is_changed_draws_what_went_in_and_no_more() {
    let mut garden = garden(system(Kind::SingleBucket), jug(60.0, 1.6));
    let mut part = ChangeRun { extent: ChangeExtent::Partial, ..finished(&garden, MixedIn::Jug, 90.0) };
    assert!(
        guide(&ChangeRun { parts: parts(MixedIn::Jug), ..part.clone() }, &garden.situation()).is_ok(),
        "half of 90 L"
    );
    let body = entry_of(&part, &garden.situation()).unwrap();
    let mut half = Garden { known: garden.known.clone(), ..self::garden(system(Kind::SingleBucket), jug(60.0, 1.6)) };
    half.log(entry("2027-03-09 08:25", body));
    assert_eq!(half.known.lessons.premixed.unwrap().value.litres, l(15.0), "half stays where nobody measured it");
    part.heel = Some(l(80.0));
    let body = entry_of(&part, &garden.situation()).unwrap();
    garden.log(entry("2027-03-09 08:25", body));
    assert_eq!(garden.known.lessons.premixed.unwrap().value.litres, l(50.0));
}

#[test]
fn ready_feed_that_is_too_strong_too_old_or_of_unknown_strength_is_refused_with_the_reason() {
    let refused = |ready: Premix, day: &str| {
        let log = [visit("2027-03-07 08:00", level(90.0)), entry(day, Body::Premix(ready))];
        let kale = vec![planting("Kale", (1, 4), Stage::Vegetative)];
        let garden = Garden::new(system(Kind::SingleBucket), kale, &log, "2027-03-09 08:30");
        guide(&run(MixedIn::Jug), &garden.situation()).map_err(Said::said).refusal()
    };
    assert!(
        refused(jug(120.0, 7.75), "2027-03-08 08:00").mend.contains("It is 7.75"),
        "a jug for top-offs burns roots"
    );
    assert!(refused(jug(120.0, 1.6), "2027-02-01 08:00").mend.contains("is too old"));
    assert!(refused(Premix::of(PremixIn::Jug, l(120.0)), "2027-03-08 08:00").mend.contains("strength of the 120 L"));
    let wrong_store = Premix { into: PremixIn::TopOffReservoir, ..jug(120.0, 1.6) };
    assert!(refused(wrong_store, "2027-03-08 08:00").mend.starts_with("No ready feed is left"));
}

#[test]
fn what_is_drawn_by_hand_from_the_drum_was_not_drunk() {
    let mut rack = system(Kind::AeratedRaft);
    rack.traits.top_off_reservoir = true;
    rack.methods.top_off = TopOffMethod::Reservoir;
    let supply = |litres: f64| Visit { supply: Some(l(litres)), ..level(90.0) };
    let drum = Premix { ec: Some(ec(1.6)), ..Premix::of(PremixIn::TopOffReservoir, l(300.0)) };
    let mut garden = garden(rack, drum);
    garden.log(visit("2027-03-09 08:00", supply(294.0)));
    let body = entry_of(&finished(&garden, MixedIn::Drum, 90.0), &garden.situation()).unwrap();
    garden.log(entry("2027-03-09 08:25", body));
    garden.log(visit("2027-03-10 08:00", supply(198.0)));
    garden.now = crate::common::at("2027-03-10 08:00").to_zoned(crate::common::zone());
    let drinks = mopsel_core::projection::drinks(&garden.known, &garden.system).unwrap().a_day.get();
    assert!((drinks - 6.0).abs() < 0.1, "90 of the 96 L went into the change: {drinks}");
    assert_eq!(garden.known.supply.filled_to(), Some(l(300.0)));
}

#[test]
fn the_usual_place_is_what_can_be_carried_and_a_bin_is_filled_whole() {
    let garden = garden(system(Kind::AeratedRaft), jug(4.0, 1.6));
    let led = |containers: &[Container], run: &ChangeRun| -> Guide {
        with_places(run, &garden.situation(), &Gear { containers, lifts: 20.0 }, guide).unwrap()
    };
    let fresh = ChangeRun::default();
    assert_eq!(led(&[can("can", 10.0)], &fresh).mixed, MixedIn::Vessel, "nine cans of 10 L are not carried");
    assert_eq!(led(&[can("can", 10.0), bin(110.0)], &fresh).mixed, MixedIn::Cans, "a bin takes it at once");
    assert_eq!(led(&[bin(60.0)], &fresh).mixed, MixedIn::Vessel, "a bin that takes two fillings holds no batch ready");
    assert_eq!(led(&[can("can", 10.0)], &run(MixedIn::Cans)).mixed, MixedIn::Cans, "what was chosen stays");
    let places = led(&[bin(110.0)], &fresh).places;
    let jug = places.iter().find(|place| place.key == MixedIn::Jug).unwrap();
    assert!(jug.off && jug.note.clone().unwrap().said().contains("Only 4.0 L"), "{jug:?}");
    let child = Garden::new(garden.system.clone(), garden.plantings.clone(), &[], "2027-03-09 08:30").for_child();
    let gear = Gear { containers: &[bin(110.0)], lifts: 20.0 };
    let seen = with_places(&fresh, &child.situation(), &gear, mopsel_core::guide::look_on).unwrap();
    assert!(seen.places.is_empty() && seen.steps.is_empty(), "a child looks on");
    let swapped = ChangeRun { parts: ChangeParts { swap: true, ..ChangeParts::default() }, ..fresh };
    assert!(led(&[can("can", 10.0)], &swapped).places.iter().all(|place| place.key != MixedIn::Vessel));
}

#[test]
fn a_bin_that_stands_is_never_parted_by_what_a_person_lifts() {
    let fillings = |litres: f64, containers: &[Container]| {
        let shares = split(l(litres), containers, l(20.0)).unwrap();
        shares.iter().map(|share| (share.container.clone(), share.litres.get(), share.kilograms)).collect::<Vec<_>>()
    };
    assert_eq!(fillings(50.0, &[bin(60.0)]), [("mixing bin".to_owned(), 50.0, 0.0)]);
    assert_eq!(fillings(114.0, &[can("can", 18.0), bin(60.0)]).len(), 2, "two bins full, and no can beside");
    assert_eq!(
        fillings(8.0, &[can("can", 10.0), bin(60.0)]),
        [("can".to_owned(), 8.0, 8.0)],
        "a can for what it takes"
    );
    let garden = garden(system(Kind::AeratedRaft), jug(4.0, 1.6));
    let purpose = Purpose::Change { litres: None, heel: None, heel_ec: None };
    let ask = Ask { containers: Some(vec![bin(110.0)]), ..Ask::new(purpose) };
    let plan = at_the_bench(&garden.situation(), &ask).said().unwrap();
    assert_eq!((plan.shares.len(), plan.carry_kg), (1, 0.0));
    let said: Vec<&str> = plan.steps.iter().map(|step| step.say.as_str()).collect();
    assert!(said.iter().any(|line| line.contains("into the mixing bin by the hose")), "{said:?}");
    assert!(said.iter().any(|line| line.contains("Pump or pour it over")), "{said:?}");
    assert!(!said.iter().any(|line| line.contains("before you mix the next")), "one filling: {said:?}");
    let twice = Ask { containers: Some(vec![bin(60.0)]), mix_in: Some(MixIn::Cans), ..ask };
    let plan = at_the_bench(&garden.situation(), &twice).said().unwrap();
    assert!(plan.steps[0].say.ends_with("pour it before you mix the next."), "{}", plan.steps[0].say);
}

#[test]
fn a_rinse_ends_by_its_own_strength() {
    let garden = garden(system(Kind::FilmChannel), jug(4.0, 1.6));
    let finding = |strength: Option<f64>| {
        let mut run = run(MixedIn::Cans);
        run.parts.rinse_ec = strength.map(ec);
        let led = guide(&run, &garden.situation()).said().unwrap();
        led.steps.into_iter().find(|step| step.step == ChangeStep::Flush).unwrap().finding.unwrap()
    };
    assert!(finding(None).starts_with("Measure the EC"));
    assert!(finding(Some(0.9)).contains("rinse once more"), "the source is at 0.3");
    assert!(finding(Some(0.4)).contains("the channels are clean"));
}
