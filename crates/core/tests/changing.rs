//! The guided change: its steps by traits, what may not be passed over, and the one entry it ends in.

use crate::common::{Refused, Said, adult};

use crate::common::{Garden, at, celsius, l, level, ph, planting, system, tub, visit};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, ChangeExtent};
use mopsel_core::fact::{
    ChangeParts, ChangeRun, ChangeStep, OldWater, RootAnswers, RootStage, Roots, StepMark, Treatment, TreatmentKind,
    Visit,
};
use mopsel_core::guide::{entry_of, guide, steps_of};
use mopsel_core::mixing::Sanitiser;
use mopsel_core::quantity::Note;
use mopsel_core::system::Check;
use mopsel_core::system::Kind;
use mopsel_core::words::say_entry;

fn garden(kind: Kind) -> Garden {
    Garden::new(
        system(kind),
        vec![planting("Kale", (1, 4), Stage::Vegetative)],
        &[visit("2027-03-08 08:00", level(80.0))],
        "2027-03-09 08:30",
    )
}

fn done() -> StepMark {
    StepMark { at: at("2027-03-09 08:20"), left_out: None }
}

/// A change with all its steps done.
fn finished(garden: &Garden) -> ChangeRun {
    let steps = steps_of(&garden.system, ChangeExtent::Full, &ChangeParts::default(), true);
    ChangeRun {
        parts: ChangeParts { steps: steps.into_iter().map(|step| (step, done())).collect(), ..ChangeParts::default() },
        volume_after: Some(l(90.0)),
        ph: Some(ph(5.9)),
        ..ChangeRun::default()
    }
}

#[test]
fn the_steps_follow_from_what_the_system_has() {
    use ChangeStep::{Drain, Flush, Heel, Inlet, PowerOff, PowerOn, Sanitise, Stone, Swap};
    let parts = |reset, swap| ChangeParts { reset, swap, ..ChangeParts::default() };
    let has =
        |kind: Kind, reset: bool, swap: bool| steps_of(&system(kind), ChangeExtent::Full, &parts(reset, swap), true);
    let rails = has(Kind::FilmChannel, false, false);
    assert!(rails.contains(&Flush) && rails.contains(&Inlet) && !rails.contains(&Stone) && !rails.contains(&Sanitise));
    let at_step = |step| rails.iter().position(|s| *s == step);
    assert!(
        at_step(PowerOff) < at_step(Drain) && at_step(PowerOn) < at_step(ChangeStep::CloseLid),
        "everything is seen running before the lid closes"
    );
    let mut tote = system(Kind::SprayTote);
    assert!(!steps_of(&tote, ChangeExtent::Full, &ChangeParts::default(), true).contains(&Heel));
    tote.traits.heel = l(3.0);
    let tote = steps_of(&tote, ChangeExtent::Full, &ChangeParts::default(), true);
    assert!(tote.contains(&Heel) && !tote.contains(&Flush), "what cannot be drained is measured");
    let jar = has(Kind::StillWater, false, true);
    assert!(jar.contains(&Swap) && !jar.contains(&Drain) && !jar.contains(&PowerOff) && !jar.contains(&PowerOn));
    assert!(has(Kind::AeratedRaft, true, false).contains(&Sanitise));
}

#[test]
fn the_power_on_check_cannot_be_passed_over_silently() {
    let garden = garden(Kind::SprayTote);
    let s = garden.situation();
    let mut run = finished(&garden);
    run.parts.steps.remove(&ChangeStep::PowerOn);
    let refused = entry_of(&run, &s).map_err(Said::said).refusal();
    assert!(refused.field.contains("power_on"), "{refused:?}");
    run.parts.steps.insert(
        ChangeStep::PowerOn,
        StepMark { left_out: Note::new("Pump is away for repair, air runs.").ok(), ..done() },
    );
    let told: Vec<String> =
        say_entry(&entry_of(&run, &s).unwrap(), &garden.system).into_iter().map(Said::said).collect();
    assert!(told.iter().any(|line| line.contains("Left out") && line.contains("repair")), "{told:?}");
}

#[test]
fn water_too_far_from_the_tanks_warns_and_then_asks_for_a_reason() {
    let garden = garden(Kind::SprayTote);
    let s = garden.situation();
    let finding = |batch: f64| {
        let mut run = finished(&garden);
        (run.parts.tank_temperature, run.parts.batch_temperature) = (Some(celsius(21.0)), Some(celsius(batch)));
        let guide = guide(&run, &s).said().unwrap();
        (
            guide.steps.iter().find(|step| step.step == ChangeStep::Temper).unwrap().finding.clone().unwrap(),
            guide.missing.len(),
        )
    };
    assert_eq!(finding(19.0), ("2 °C apart: right.".to_owned(), 0));
    assert!(finding(17.0).0.contains("let it stand a while longer") && finding(17.0).1 == 0);
    assert!(finding(13.0).0.contains("a shock") && finding(13.0).1 == 1);
    let mut run = finished(&garden);
    (run.parts.tank_temperature, run.parts.batch_temperature) = (Some(celsius(21.0)), Some(celsius(13.0)));
    run.parts.temper_reason = Note::new("Heater broken, roots already dry.").ok();
    assert!(entry_of(&run, &s).map_err(Said::said).is_ok());
}

#[test]
fn sanitisers_that_must_not_meet_are_refused_while_they_are_picked() {
    let garden = garden(Kind::AeratedRaft);
    let mut run = finished(&garden);
    run.parts.reset = true;
    run.parts.sanitisers = vec![Sanitiser::Bleach, Sanitiser::CitricAcid];
    let refused = guide(&run, &garden.situation()).said().refusal();
    assert!(refused.found.contains("chlorine gas") && refused.field == "parts.sanitisers", "{refused:?}");
    run.parts.sanitisers = vec![Sanitiser::Peroxide];
    let missing = guide(&run, &garden.situation()).said().unwrap().missing;
    assert!(missing.iter().any(|m| m.field.contains("rinse_again")), "a sanitiser is rinsed off");
}

#[test]
fn it_ends_in_one_entry_that_moves_the_checks_it_did() {
    let garden = garden(Kind::SprayTote);
    let mut run = finished(&garden);
    run.heel = Some(l(4.0));
    run.parts.old_water = Some(OldWater::Garden);
    let body = entry_of(&run, &garden.situation()).map_err(Said::said).unwrap();
    let after = Garden::new(
        garden.system.clone(),
        garden.plantings.clone(),
        &[crate::common::entry("2027-03-09 09:00", body)],
        "2027-03-09 09:30",
    );
    assert_eq!(after.known.done.entries, 1);
    assert_eq!(after.known.tank.last_volume().unwrap().after.unwrap(), l(90.0));
    for check in [Check::Change, Check::Sprayers] {
        assert!(after.known.done.last.contains_key(&check), "{check:?}");
    }
}

#[test]
fn what_is_missing_is_named_and_a_child_does_not_lead_it() {
    let garden = garden(Kind::SprayTote);
    let s = garden.situation();
    let by_child = self::garden(Kind::SprayTote).for_child();
    let begun = guide(&ChangeRun::default(), &s).said().unwrap();
    assert_eq!((begun.next, begun.done), (Some(ChangeStep::Prepare), 0));
    assert!(begun.missing.iter().any(|m| m.field == "volume_after"));
    assert!(guide(&ChangeRun::default(), &by_child.situation()).said().refusal().mend.contains("adult"));
    let too_much = ChangeRun { volume_after: Some(l(500.0)), ..ChangeRun::default() };
    assert_eq!(guide(&too_much, &s).said().refusal().field, "volume_after");
    let heel = ChangeRun { heel: Some(l(99.0)), ..ChangeRun::default() };
    assert_eq!(guide(&heel, &s).said().refusal().field, "heel");
}

#[test]
fn still_water_is_refilled_below_its_air_roots() {
    let still = Garden::new(
        tub(),
        vec![planting("Mizuna", (1, 4), Stage::Vegetative)],
        &[visit("2027-03-09 08:00", level(14.04))],
        "2027-03-09 08:30",
    );
    let begun = guide(&ChangeRun::default(), &still.situation()).said().unwrap();
    assert!((begun.fill_to.unwrap().get() - 18.795).abs() < 0.25 && begun.fill_reason.is_some());
    let over = ChangeRun { volume_after: Some(l(28.0)), ..ChangeRun::default() };
    let told = guide(&over, &still.situation()).said().unwrap();
    assert!(
        told.steps
            .iter()
            .find(|step| step.step == ChangeStep::Measure)
            .unwrap()
            .finding
            .as_ref()
            .unwrap()
            .contains("Take 9.4 L out again")
    );
    let empty = Garden::new(tub(), vec![], &[visit("2027-03-01 08:00", level(14.04))], "2027-03-09 08:30");
    assert_eq!(guide(&ChangeRun::default(), &empty.situation()).said().unwrap().fill_to, Some(l(28.0)));
}

#[test]
fn every_kind_has_its_steps_in_an_order_that_is_safe() {
    use ChangeStep::{
        CloseLid, Drain, Measure, Organic, PowerOff, PowerOn, Prepare, Refill, RinseAgain, Sanitise, Swap, Temper,
    };
    for facts in mopsel_core::system::kinds() {
        for (extent, reset, swap) in [
            (ChangeExtent::Full, false, false),
            (ChangeExtent::Full, true, false),
            (ChangeExtent::Partial, false, false),
            (ChangeExtent::Full, false, true),
        ] {
            let parts = ChangeParts { reset, swap, ..ChangeParts::default() };
            let steps = steps_of(&system(facts.key), extent, &parts, true);
            let place = |step: ChangeStep| steps.iter().position(|s| *s == step);
            let before = |a, b| place(a).zip(place(b)).is_none_or(|(a, b)| a < b);
            assert_eq!((steps.first(), steps.last()), (Some(&Prepare), Some(&Measure)), "{:?}", facts.key);
            assert!(before(Prepare, Temper) && before(Temper, Refill) && before(Temper, Swap), "{:?}", facts.key);
            assert!(before(PowerOff, Drain) && before(Refill, PowerOn) && before(PowerOn, CloseLid), "{:?}", facts.key);
            assert!(
                before(Organic, Sanitise) && before(Sanitise, RinseAgain) && before(RinseAgain, Refill),
                "{:?}",
                facts.key
            );
            assert_eq!(place(Sanitise).is_some(), reset, "sanitisers come out for a reset only");
            let unplugged = !facts.traits.still() || facts.traits.sprayers;
            assert_eq!(
                (place(PowerOff).is_some(), place(PowerOn).is_some()),
                (unplugged, unplugged),
                "{:?}",
                facts.key
            );
            let mut sorted = steps.clone();
            sorted.sort_unstable();
            assert_eq!(steps, sorted, "the order on the sheet is the order of the hands");
        }
    }
}

#[test]
fn cautions_stand_at_the_steps_that_need_them() {
    let garden = garden(Kind::FilmChannel);
    let mut run = ChangeRun::default();
    run.parts.reset = true;
    let told = guide(&run, &garden.situation()).said().unwrap();
    let caution = |step| told.steps.iter().find(|s| s.step == step).and_then(|s| s.caution.clone()).unwrap_or_default();
    assert!(caution(ChangeStep::PowerOff).contains("Unplug before hands go in"));
    assert!(caution(ChangeStep::Sanitise).contains("Never two sanitisers together"));
    assert!(caution(ChangeStep::Drain).contains("streams"));
    assert!(caution(ChangeStep::PowerOn).contains("loop"));
    assert_eq!(
        told.steps.iter().find(|s| s.step == ChangeStep::Wait).unwrap().wait.as_ref().map(|w| w.minutes),
        Some(20)
    );
    assert_eq!(
        told.steps.iter().find(|s| s.step == ChangeStep::Flush).unwrap().wait.as_ref().map(|w| w.minutes),
        Some(120)
    );
    let wants = |step| told.steps.iter().find(|s| s.step == step).and_then(|s| s.wants.clone()).unwrap_or_default();
    assert!(
        wants(ChangeStep::Sanitise).contains("what you sanitise with")
            && wants(ChangeStep::Measure).contains("Read the level")
    );
    assert!(wants(ChangeStep::Rinse).is_empty());
}

#[test]
fn leaving_out_is_counted_and_told_and_the_heel_is_hinted() {
    let mut tote = system(Kind::SprayTote);
    tote.traits.heel = l(3.0);
    let garden = Garden::new(tote, vec![], &[], "2027-03-09 08:30");
    let mut run = ChangeRun::default();
    run.parts.steps.insert(ChangeStep::Rinse, StepMark { left_out: Note::new("Rinsed yesterday.").ok(), ..done() });
    let told = guide(&run, &garden.situation()).said().unwrap();
    let rinse = told.steps.iter().find(|s| s.step == ChangeStep::Rinse).unwrap();
    assert!(rinse.done && rinse.left_out.as_deref() == Some("Rinsed yesterday.") && told.done == 1);
    assert!(
        told.steps
            .iter()
            .find(|s| s.step == ChangeStep::Heel)
            .unwrap()
            .finding
            .as_ref()
            .unwrap()
            .contains("About 3.0 L is usually left")
    );
    assert!(told.missing.iter().all(|m| m.field != "parts.steps.rinse"), "a rinse may be left out");
}

#[test]
fn an_entry_of_a_change_is_checked_again_when_it_is_logged() {
    let mut body = Body::Change(mopsel_core::fact::Change::full(l(90.0)));
    let tote = system(Kind::SprayTote);
    assert!(body.check(&tote, &adult()).is_ok(), "a change without a guide is a change");
    let Body::Change(change) = &mut body else { panic!("a change") };
    change.parts =
        Some(ChangeParts { sanitisers: vec![Sanitiser::Peroxide, Sanitiser::Vinegar], ..ChangeParts::default() });
    let refused = body.check(&tote, &adult()).refusal();
    assert!(refused.field.starts_with("parts") && refused.found.contains("corrosive"), "{refused:?}");
    let Body::Change(change) = &mut body else { panic!("a change") };
    change.parts = Some(ChangeParts::default());
    assert!(body.check(&tote, &adult()).refusal().field.contains("power_on"));
}

fn clumping() -> Roots {
    Roots { answers: RootAnswers { stick_together: Some(true), ..RootAnswers::default() }, ports: None }
}

#[test]
fn a_look_at_the_roots_inside_a_change_counts_with_what_it_found() {
    let mut garden = garden(Kind::FilmChannel);
    let wanted = |run: &ChangeRun, garden: &Garden| {
        let guide = guide(run, &garden.situation()).unwrap();
        let step = guide.steps.into_iter().find(|step| step.step == ChangeStep::Roots).unwrap();
        (step.wants.map(Said::said), step.finding.map(Said::said))
    };
    let mut run = finished(&garden);
    assert_eq!(wanted(&run, &garden).0.as_deref(), Some("Say how the roots look."));
    run.parts.roots = Some(clumping());
    let (wants, finding) = wanted(&run, &garden);
    assert!(wants.is_none() && finding.is_some_and(|said| said.contains("stick together")), "judged at the step");
    let body = entry_of(&run, &garden.situation()).unwrap();
    garden.log(crate::common::entry("2027-03-09 08:25", body));
    assert_eq!(garden.known.done.of(Check::Roots), Some(at("2027-03-09 08:25")));
    assert_eq!(garden.task("root_treat").way.unwrap().part, Some("treat"), "what was found is followed up");
}

#[test]
fn a_treatment_is_a_change_with_a_bath_and_a_dose_and_is_followed_up() {
    let mut garden = garden(Kind::FilmChannel);
    garden.log(visit("2027-03-09 07:00", Visit { roots: Some(clumping()), ..level(80.0) }));
    let parts = ChangeParts { treats: true, ..ChangeParts::default() };
    let steps = steps_of(&garden.system, ChangeExtent::Full, &parts, true);
    let place = |step| steps.iter().position(|s| *s == step);
    assert!(place(ChangeStep::Roots) < place(ChangeStep::Bath) && place(ChangeStep::Bath) < place(ChangeStep::Refill));
    assert_eq!(steps.last(), Some(&ChangeStep::Dose), "into the fresh water, once it is measured");
    let steps = steps.into_iter().map(|step| (step, done())).collect();
    let mut run = ChangeRun { parts: ChangeParts { steps, ..parts }, ..finished(&garden) };
    run.parts.roots = Some(clumping());
    let body = entry_of(&run, &garden.situation()).unwrap();
    garden.log(crate::common::entry("2027-03-09 08:25", body));
    let codes: Vec<String> = garden.tasks().iter().map(|task| task.code.to_string()).collect();
    let has = |code: &str| codes.iter().any(|known| known == code);
    assert!(!has("root_treat") && has("peroxide") && has("root_look"), "{codes:?}");
    assert_eq!(garden.known.lessons.peroxide, Some(at("2027-03-09 08:25")), "no second dose before this one is gone");
    run.parts.steps.remove(&ChangeStep::Bath);
    let refused = entry_of(&run, &garden.situation()).map_err(Said::said).refusal();
    assert!(refused.field.contains("bath"), "never passed over silently: {refused:?}");
}

#[test]
fn a_dose_that_went_down_the_drain_holds_up_no_other() {
    let dosed = |then: &[mopsel_core::fact::Entry]| {
        let mut run = finished(&garden(Kind::FilmChannel));
        run.parts.treats = true;
        run.parts.steps.extend([(ChangeStep::Bath, done()), (ChangeStep::Dose, done())]);
        let body = entry_of(&run, &garden(Kind::FilmChannel).situation()).unwrap();
        let log: Vec<_> =
            [crate::common::entry("2027-03-07 08:00", body)].into_iter().chain(then.iter().cloned()).collect();
        crate::common::known(&log, &system(Kind::FilmChannel)).lessons.peroxide
    };
    assert_eq!(dosed(&[]), Some(at("2027-03-07 08:00")));
    let plain = crate::common::entry("2027-03-08 08:00", Body::Change(mopsel_core::fact::Change::full(l(90.0))));
    assert_eq!(dosed(&[plain]), None);
}

#[test]
fn what_was_worked_out_and_then_skipped_was_not_given() {
    let mut garden = garden(Kind::FilmChannel);
    garden.log(visit("2027-03-09 07:00", Visit { roots: Some(clumping()), ..level(80.0) }));
    let parts = ChangeParts { treats: true, ..ChangeParts::default() };
    let steps =
        steps_of(&garden.system, ChangeExtent::Full, &parts, true).into_iter().map(|step| (step, done())).collect();
    let mut run = ChangeRun { parts: ChangeParts { steps, ..parts }, ..finished(&garden) };
    let worked_out = |what| Treatment { what, amount_ml: None, ports: None, note: None };
    run.parts.treatments = vec![worked_out(TreatmentKind::RootBath), worked_out(TreatmentKind::PeroxideDose)];
    let skipped = StepMark { left_out: Note::new("Living inoculants went in").ok(), ..done() };
    run.parts.steps.insert(ChangeStep::Dose, skipped);
    let body = entry_of(&run, &garden.situation()).unwrap();
    let Body::Change(change) = &body else { panic!("{body:?}") };
    let kept = &change.parts.as_ref().unwrap().treatments;
    assert_eq!(kept.iter().map(|one| one.what).collect::<Vec<_>>(), [TreatmentKind::RootBath]);
    let told: Vec<String> = say_entry(&body, &garden.system).into_iter().map(Said::said).collect();
    assert!(!told.iter().any(|line| line.starts_with("Peroxide into the water")), "{told:?}");
    garden.log(crate::common::entry("2027-03-09 08:25", body));
    assert_eq!(garden.known.lessons.peroxide, None, "no dose went in, and none is waited for");
}

#[test]
fn the_guide_knows_how_far_the_roots_have_gone_and_where_ill_water_must_not_go() {
    let garden = garden(Kind::FilmChannel);
    let mut run = ChangeRun { parts: ChangeParts { treats: true, ..ChangeParts::default() }, ..ChangeRun::default() };
    let drain = |run: &ChangeRun| {
        let led = guide(run, &garden.situation()).unwrap();
        let step = led.steps.into_iter().find(|step| step.step == ChangeStep::Drain).unwrap();
        (led.roots, step.doing.said(), step.finding.map(Said::said))
    };
    assert!(drain(&run).1.contains("no other system") && drain(&run).2.is_none());
    assert!(drain(&ChangeRun::default()).1.starts_with("Pour it onto garden"), "sound water feeds the garden");
    run.parts.old_water = Some(OldWater::HousePlants);
    assert!(drain(&run).2.unwrap().contains("nothing that you want to keep"));
    let rotted = RootAnswers { matted_or_foul: Some(true), ..RootAnswers::default() };
    run.parts.roots = Some(Roots { answers: rotted, ports: None });
    assert_eq!(drain(&run).0, Some(RootStage::Rotted));
}
