//! What readings and findings mean.

use crate::common::{CHILD, Refused, Said, adult, child};

use crate::common::{Garden, celsius, ec, kit, l, level, mm, ph, planting, system, tub, visit};
use mopsel_core::band::PhBand;
use mopsel_core::crop::{Stage, ec_target};
use mopsel_core::fact::Subject;
use mopsel_core::fact::{
    Clarity, PlantSign, Plants, RootAnswers, RootStage, Roots, Running, Smell, TopOff, TopOffWater, Visit, WaterGlass,
    signs,
};
use mopsel_core::quantity::About;
use mopsel_core::quantity::{Conductivity, PhReading};
use mopsel_core::reservoir::LevelReading;
use mopsel_core::system::{Check, Kind, Measuring, RootRotMethod, System, kinds};
use mopsel_core::verdict::{
    EcAsk, Tone, Verdict, judge_ec, judge_glass, judge_ph, judge_plants, judge_roots, judge_running, judge_visit,
};
use proptest::prelude::*;

const NOW: &str = "2027-03-09 08:30";

fn ph_of(reading: PhReading) -> Verdict<String> {
    judge_ph(reading, PhBand::usual(), &Kind::Tower.facts().traits, Measuring::Meter).said()
}

#[test]
fn ph_is_held_against_its_band_with_the_precision_of_what_read_it() {
    let cases = [
        (ph(5.5), Tone::Fine),
        (ph(6.0), Tone::Fine),
        (ph(6.5), Tone::Fine),
        (ph(6.55), Tone::Watch),
        (ph(6.7), Tone::Act),
        (ph(5.2), Tone::Act),
        (ph(7.1), Tone::Now),
        (ph(4.9), Tone::Now),
        (kit(6.0, 6.5), Tone::Fine),
        (kit(6.25, 6.75), Tone::Watch),
        (kit(6.5, 7.0), Tone::Act),
        (kit(7.0, 7.5), Tone::Now),
        (kit(4.5, 5.0), Tone::Now),
    ];
    for (reading, tone) in cases {
        assert_eq!(ph_of(reading).tone, tone, "{reading:?}");
    }
    assert!(ph_of(kit(6.25, 6.75)).finding.contains("inside within its precision"));
}

#[test]
fn a_correction_is_half_first_waits_by_the_kind_of_water_and_stays_under_one_a_day() {
    let circulating = ph_of(ph(7.0));
    assert!(
        circulating.next.contains("half")
            && circulating.next.contains("20 minutes")
            && circulating.next.contains("never acid and base"),
        "{}",
        circulating.next
    );
    let raft = judge_ph(ph(7.0), PhBand::usual(), &Kind::AeratedRaft.facts().traits, Measuring::Meter).said();
    assert!(raft.next.contains("45 minutes"));
    let by_kit = judge_ph(ph(7.0), PhBand::usual(), &Kind::Tower.facts().traits, Measuring::DropKit).said();
    assert!(by_kit.next.contains("next visit"));
}

#[test]
fn a_child_is_never_told_to_use_a_concentrate() {
    let child = judge_ph(ph(7.4), PhBand::usual(), &Kind::Tower.facts().traits, Measuring::Meter).said_to(CHILD);
    assert!(child.next.starts_with("Tell an adult") && !child.next.contains("pH down"));
    for stage in [RootStage::Clumping, RootStage::Film, RootStage::Rotted] {
        let verdict = judge_roots(stage, false, RootRotMethod::Treat).said_to(CHILD);
        assert!(verdict.next.contains("adult") && !verdict.next.contains("eroxide"), "{}", verdict.next);
    }
}

fn judge(garden: &Garden, visit: &Visit, subject: Subject) -> Verdict<String> {
    judge_visit(visit, &garden.situation()).said().unwrap().verdicts.into_iter().find(|v| v.subject == subject).unwrap()
}

fn strength(value: f64, litres: f64) -> Visit {
    Visit { ec: Some(ec(value)), ..level(litres) }
}

#[test]
fn strength_is_held_against_what_grows() {
    let garden = Garden::new(system(Kind::FilmChannel), vec![planting("Kale", (1, 9), Stage::Vegetative)], &[], NOW);
    for (value, tone) in [(0.45, Tone::Act), (0.9, Tone::Act), (1.2, Tone::Fine), (1.8, Tone::Fine), (2.2, Tone::Act)] {
        assert_eq!(judge(&garden, &strength(value, 80.0), Subject::Ec).tone, tone, "{value}");
    }
    assert!(judge(&garden, &strength(0.45, 80.0), Subject::Ec).why.contains("spent"));
    let bare = Garden::new(system(Kind::FilmChannel), vec![], &[], NOW);
    assert_eq!(judge(&bare, &strength(1.5, 80.0), Subject::Ec).tone, Tone::Watch, "nothing to hold it against");
}

#[test]
fn crops_on_one_water_share_the_overlap_or_are_warned() {
    let source = Conductivity::new(0.3).unwrap();
    let shared = ec_target(
        &[planting("Kale", (1, 2), Stage::Vegetative), planting("Dill", (3, 4), Stage::Vegetative)],
        None,
        source,
    )
    .unwrap();
    assert_eq!((shared.low.get(), shared.high.get(), shared.warning), (1.2, 1.6, None));
    let apart = ec_target(
        &[planting("Lettuce", (1, 2), Stage::Vegetative), planting("Tomato", (3, 4), Stage::Fruiting)],
        None,
        source,
    )
    .unwrap();
    assert_eq!((apart.low.get(), apart.high.get()), (1.2, 1.8));
    assert!(apart.warning.unwrap().said().contains("Move one"));
    let sprouting = ec_target(&[planting("Kale", (1, 2), Stage::Germinating)], None, source).unwrap();
    assert!((sprouting.high.get() - 0.7).abs() < 1e-9, "plain water before the first true leaf");
    assert!(ec_target(&[planting("Kale", (1, 2), Stage::Done)], None, source).is_none());
}

/// The litres named in a verdict's next step, and the EC that it promises.
fn numbers(text: &str) -> Vec<f64> {
    text.split_whitespace().filter_map(|word| word.trim_end_matches(['.', ',', ':']).parse().ok()).collect()
}

#[test]
fn too_strong_water_is_drained_first_as_the_balance_says() {
    // 60 L at 3.0, water 0.3, to 80 L at 1.8: drain 15.56 L.
    let mut tank = system(Kind::FilmChannel);
    tank.reservoir = crate::common::boxed(500.0, 500.0, 400.0, [20.0, 80.0, 90.0]);
    let fruiting = vec![planting("Pepper", (1, 2), Stage::Vegetative)]; // band 1.6–2.2, middle 1.9
    let target = ec_target(&fruiting, None, tank.source_ec);
    let verdict = judge_ec(EcAsk {
        ec: About::exactly(Conductivity::constant(3.0)),
        target: target.as_ref(),
        system: &tank,
        volume: Some(l(60.0)),
        room: l(20.0),
        before: None,
    })
    .said();
    let expected = (3.0 * 60.0 + 0.3 * 20.0 - 1.9 * 80.0) / (3.0 - 0.3);
    assert!((numbers(&verdict.next)[0] - expected).abs() < 0.06, "{} against {expected}", verdict.next);
}

proptest! {
    /// Salt is conserved: what the verdict promises is what the balance gives.
    #[test]
    fn feed_to_top_off_with_conserves_salt(v0 in 41.0..80.0f64, ec0 in 0.75..1.1f64) {
        let garden = Garden::new(system(Kind::FilmChannel), vec![planting("Kale", (1, 9), Stage::Vegetative)], &[], NOW);
        let next = judge(&garden, &strength(ec0, v0), Subject::Ec).next;
        let said = numbers(&next);
        if next.starts_with("Top off") && said.len() >= 3 {
            let (added, strength, result) = (said[0], said[1], said[2]);
            let balance = (ec0 * v0 + strength * added) / (v0 + added);
            prop_assert!((balance - result).abs() < 0.03, "{} gives {}", next, balance);
        }
    }
}

#[test]
fn salts_gather_when_ec_rises_while_the_level_falls() {
    let log = [visit("2027-03-06 09:00", strength(1.3, 85.0))];
    let garden = Garden::new(system(Kind::FilmChannel), vec![planting("Kale", (1, 9), Stage::Vegetative)], &log, NOW);
    let verdict = judge(&garden, &strength(1.6, 70.0), Subject::Ec);
    assert!(verdict.tone == Tone::Watch && verdict.why.contains("salts gather"), "{verdict:?}");
    assert_eq!(judge(&garden, &strength(1.3, 70.0), Subject::Ec).tone, Tone::Fine);
}

#[test]
fn a_level_says_what_to_add_and_what_it_weighs() {
    let garden = Garden::new(system(Kind::FilmChannel), vec![], &[], NOW);
    let low = judge(&garden, &level(30.0), Subject::Level);
    assert!(low.tone == Tone::Now && low.next.contains("60.0 L (60 kg to carry)"), "{low:?}");
    assert_eq!(judge(&garden, &level(88.0), Subject::Level).tone, Tone::Fine);
    assert_eq!(judge(&garden, &level(99.0), Subject::Level).tone, Tone::Act);
}

#[test]
fn still_water_is_filled_to_its_limit_and_a_top_off_past_it_is_judged_so() {
    let garden = Garden::new(tub(), vec![], &[], NOW);
    let verdict = judge(&garden, &level(12.0), Subject::Level);
    assert!(verdict.next.contains("4.8 L"), "{}", verdict.next);
    let pour =
        |litres: f64| Visit { top_off: Some(TopOff { litres: l(litres), water: TopOffWater::Plain }), ..level(12.0) };
    assert_eq!(judge(&garden, &pour(4.6), Subject::TopOff).tone, Tone::Fine);
    let over = judge(&garden, &pour(9.0), Subject::TopOff);
    assert!(
        over.tone == Tone::Now && over.finding.contains("passes the limit") && over.why.contains("drown"),
        "{over:?}"
    );
}

#[test]
fn a_level_above_the_rim_is_refused_at_its_field() {
    let garden = Garden::new(tub(), vec![], &[], NOW);
    let high = Visit { level: Some(LevelReading::Height { height_mm: mm(260.0), pump_ran: true }), ..Visit::default() };
    assert_eq!(judge_visit(&high, &garden.situation()).said().refusal().field, "level.height_mm");
}

#[test]
fn roots_are_staged_by_the_worst_answer_and_stain_is_no_rot() {
    let stage = |stick_together, slime_or_browning, matted_or_foul, tan_tint_rinses| {
        RootAnswers { stick_together, slime_or_browning, matted_or_foul, tan_tint_rinses }.stage()
    };
    let (yes, no) = (Some(true), Some(false));
    assert_eq!(stage(no, no, no, yes), Some(RootStage::Sound));
    assert_eq!(stage(yes, no, no, no), Some(RootStage::Clumping));
    assert_eq!(stage(yes, yes, no, yes), Some(RootStage::Film));
    assert_eq!(stage(no, yes, yes, no), Some(RootStage::Rotted));
    // One answer stands for itself: a sign that was seen tells, one that was not says nothing of the others.
    assert_eq!(
        (stage(None, yes, None, None), stage(None, None, yes, None)),
        (Some(RootStage::Film), Some(RootStage::Rotted))
    );
    for untold in
        [stage(None, None, no, None), stage(no, no, None, no), stage(None, no, no, yes), stage(None, None, None, None)]
    {
        assert_eq!(untold, None, "what was not looked for is not sound");
    }
    assert!(judge_roots(RootStage::Rotted, false, RootRotMethod::Treat).said().next.contains("throw it away"));
    let anew = judge_roots(RootStage::Clumping, false, RootRotMethod::Restart).said();
    assert!(anew.next.contains("plant anew") && anew.todo.unwrap() == "Start this system anew");
    assert!(judge_roots(RootStage::Sound, true, RootRotMethod::Treat).said().why.contains("feed stain"));
}

#[test]
fn the_glass_tells_tint_from_cloud_and_algae() {
    let look = |clarity, smell| judge_glass(WaterGlass { clarity, smell }, true).said();
    assert_eq!(look(Clarity::Tinted, Some(Smell::Fresh)).tone, Tone::Fine);
    assert!(look(Clarity::WhiteCloud, None).why.contains("Bacteria"));
    assert!(look(Clarity::Green, None).why.contains("light"));
    assert_eq!(look(Clarity::Clear, Some(Smell::Foul)).tone, Tone::Act);
}

#[test]
fn the_worst_fault_sets_the_tone_and_every_fault_is_named() {
    let all = judge_running(Running { bubbles: Some(false), timer_right: Some(false), ..Running::default() }).said();
    assert!(all.tone == Tone::Now && all.finding == "No bubbles, the timer is wrong", "{all:?}");
    assert_eq!(judge_running(Running { timer_right: Some(false), ..Running::default() }).said().tone, Tone::Act);
    assert!(judge_running(Running { dry_floor: Some(false), ..Running::default() }).said().next.contains("plug"));
    assert_eq!(judge_running(Running { bubbles: Some(true), ..Running::default() }).said().tone, Tone::Fine);
}

#[test]
fn urgent_signs_lead() {
    let verdict = judge_plants(&Plants::showing(&[PlantSign::ThinLeggy, PlantSign::WiltsWithWater], None), None).said();
    assert!(verdict.tone == Tone::Now && verdict.finding.starts_with("Wilts"), "{verdict:?}");
}

#[test]
fn what_is_not_looked_at_is_not_judged() {
    let garden = Garden::new(system(Kind::Tower), vec![], &[], NOW);
    assert!(judge_visit(&Visit::default(), &garden.situation()).said().unwrap().verdicts.is_empty());
    let one = Visit { temperature: Some(celsius(24.5)), ..Visit::default() };
    let judged = judge_visit(&one, &garden.situation()).said().unwrap().verdicts;
    assert_eq!((judged.len(), judged[0].tone), (1, Tone::Watch));
}

#[test]
fn an_entry_is_checked_against_its_system() {
    let tower = system(Kind::Tower);
    let body = |visit| mopsel_core::fact::Body::Visit(visit);
    let wrong = [
        (Visit::default(), ""),
        (level(150.0), "level.litres"),
        (Visit { ec: Some(ec(25.0)), ..Visit::default() }, "ec"),
        (Visit { ec: Some(ec(-1.0)), ..Visit::default() }, "ec"),
        (Visit { done: vec![mopsel_core::system::Check::Stone], ..Visit::default() }, "done"),
        (
            Visit { top_off: Some(TopOff { litres: l(900.0), water: TopOffWater::Plain }), ..Visit::default() },
            "top_off.litres",
        ),
        (
            Visit {
                roots: Some(Roots { ports: Some(mopsel_core::system::PortSet::range(1, 99)), ..Roots::sound() }),
                ..Visit::default()
            },
            "roots.ports",
        ),
    ];
    for (visit, field) in wrong {
        assert_eq!(body(visit.clone()).check(&tower, &adult()).refusal().field, field, "{visit:?}");
    }
    let filters = System { traits: mopsel_core::system::Traits { mesh_filters: true, ..tower.traits }, ..tower };
    let rinse = body(crate::common::done(mopsel_core::system::Check::Filters));
    assert!(rinse.check(&filters, &adult()).is_ok());
    assert!(rinse.check(&filters, &child()).refusal().allowed.contains("children"));
}

#[test]
fn the_shipped_knowledge_is_whole() {
    assert_eq!(kinds().len(), 12);
    for facts in kinds() {
        assert_eq!(facts.key.facts().key, facts.key);
        assert!(
            !facts.traits.still() || facts.refill != mopsel_core::reservoir::RefillMethod::NoLimit,
            "{} is still water without a limit",
            facts.key.code()
        );
    }
    assert_eq!(mopsel_core::system::checks().len(), 19);
    for check in mopsel_core::system::checks() {
        assert_eq!(serde_json::to_string(&check.key).unwrap(), format!("\"{}\"", check.key.code()));
        assert!(check.days > 0 && check.slack > 0.0);
    }
    assert!(signs().iter().all(|sign| std::ptr::eq(sign.key.facts(), sign)));
    assert!(mopsel_core::crop::crops().iter().all(|crop| crop.days >= 30));
}

#[test]
fn a_kit_for_ph_beside_a_meter_for_ec_is_judged_as_both() {
    let mut system = system(Kind::FilmChannel);
    system.measuring = Measuring::KitAndMeter;
    let log = [visit("2027-03-07 08:00", level(80.0))];
    let garden = Garden::new(system, vec![planting("Kale", (1, 4), Stage::Vegetative)], &log, "2027-03-09 08:30");
    let typed = Visit { ph: Some(kit(7.0, 7.5)), ec: Some(ec(3.6)), ..level(80.0) };
    let judged = judge_visit(&typed, &garden.situation()).unwrap();
    let of = |subject| judged.verdicts.iter().find(|v| v.subject == subject).unwrap().clone().map(&Said::said);
    assert!(of(Subject::Ec).tone >= Tone::Act, "EC is held against the crop's band");
    assert!(
        !of(Subject::Ph).next.contains("then the rest"),
        "half a dose is not seen by a kit: {}",
        of(Subject::Ph).next
    );
    let days = |check: Check| garden.tasks().iter().find(|task| task.check == Some(check)).map(|task| task.due_on);
    assert!(days(Check::Calibrate).is_some(), "the meter is calibrated");
}
