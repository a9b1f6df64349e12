//! The edges: systems of every kind, empty states, units, plantings, calibration, what follows what.

use crate::common::told;
use crate::common::{Refused, Said, noted};
use mopsel_core::words::Reader;

use crate::common::{Garden, at, celsius, done, ec, entry, kit, l, level, mm, ph, planting, system, tub, visit};
use jiff::civil::date;
use mopsel_core::calendar::{Weekday, add_days, day};
use mopsel_core::care::{Standing, Urgency};
use mopsel_core::crop::{CropGroup, Planting, Stage};
use mopsel_core::drawing::section;
use mopsel_core::fact::Subject;
use mopsel_core::fact::card::{Card, Meter, Person, Place, Role};
use mopsel_core::fact::{Body, Change, Clarity, PlantSign, Plants, Running, TopOff, TopOffWater, Visit, WaterGlass};
use mopsel_core::forecast::minimum_reached;
use mopsel_core::quantity::{Conductivity, EcScale, Name, UnitSystem};
use mopsel_core::refusal::{AtField, Refusal};
use mopsel_core::reservoir::{LevelReading, RefillMethod, Reservoir, Shape};
use mopsel_core::statistics::{median, quantile, slope};
use mopsel_core::system::{Check, checks};
use mopsel_core::system::{Kind, Measuring, PortSet, System, Traits, kinds};
use mopsel_core::trend::{Measured, trends};
use mopsel_core::verdict::{Tone, judge_state, judge_visit};
use std::collections::BTreeMap;

const NOW: &str = "2027-03-09 08:30";

#[test]
fn every_kind_can_be_set_up_drawn_judged_and_scheduled_from_nothing() {
    for facts in kinds() {
        let fresh = System { refill: facts.refill, ..system(facts.key) };
        fresh.check().unwrap_or_else(|refusal| panic!("{}: {refusal}", facts.key.code()));
        let garden = Garden::new(fresh, vec![], &[], NOW);
        let drawn = section(&garden.situation());
        assert_eq!(
            (drawn.water, drawn.roots, drawn.limit),
            (None, None, None),
            "{}: nothing is drawn that nobody saw",
            facts.key.code()
        );
        let first = garden.tasks();
        assert_eq!(first.iter().map(|t| t.code.as_ref()).collect::<Vec<_>>(), ["first_fill"], "one thing at a time");
        assert_eq!(first[0].way.as_ref().unwrap().part, Some("first"));
        let mut garden = garden;
        garden.log(noted("2027-03-09 08:00"));
        let tasks = garden.tasks();
        assert!(tasks.iter().any(|t| t.code == "look_in") && tasks.iter().any(|t| t.code == "change"));
        for task in tasks {
            assert!(
                !task.reason.is_empty() && !task.doing.is_empty() && task.margin_days.is_finite(),
                "{}: {task:?}",
                facts.key.code()
            );
        }
    }
}

#[test]
fn traits_give_a_system_its_checks() {
    let has = |traits: Traits, check: Check| check.applies(&traits);
    let none = Traits::default();
    for (check, traits) in [
        (Check::RunOff, Traits { to_waste: true, ..none }),
        (Check::Stone, Traits { aerated: true, ..none }),
        (Check::Filters, Traits { mesh_filters: true, ..none }),
        (Check::Sprayers, Traits { sprayers: true, ..none }),
        (Check::Light, Traits { light: true, ..none }),
    ] {
        assert!(has(traits, check) && !has(none, check), "{check:?}");
    }
    let by_trait: Vec<Check> = checks().iter().map(|facts| facts.key).filter(|check| !check.applies(&none)).collect();
    assert_eq!(
        by_trait,
        [Check::RunOff, Check::Stone, Check::Filters, Check::Sprayers, Check::Light],
        "what needs a trait"
    );
}

#[test]
fn plants_bring_root_plant_and_pest_checks_and_their_own_care() {
    let codes = |plantings: Vec<Planting>| {
        Garden::new(system(Kind::BucketChain), plantings, &[noted("2027-03-09 08:00")], NOW)
            .tasks()
            .into_iter()
            .map(|t| t.code.to_string())
            .collect::<Vec<_>>()
    };
    let bare = codes(vec![]);
    for code in ["roots", "plants", "pests", "pollinate", "tie_up", "harvest"] {
        assert!(!bare.contains(&code.to_owned()), "{code} without plants");
    }
    let flowering = codes(vec![planting("Aubergine", (1, 6), Stage::Flowering)]);
    for code in ["roots", "plants", "pests", "pollinate", "tie_up", "harvest"] {
        assert!(flowering.contains(&code.to_owned()), "{code} missing: {flowering:?}");
    }
    assert!(!codes(vec![planting("Lettuce", (1, 6), Stage::Vegetative)]).contains(&"pollinate".to_owned()));
    assert!(
        !codes(vec![planting("Aubergine", (1, 6), Stage::Done)]).contains(&"roots".to_owned()),
        "harvested ports have no roots to look at"
    );
}

#[test]
fn a_calibration_counts_wherever_the_meter_was_calibrated() {
    let mut garden = Garden::new(system(Kind::Tower), vec![], &[visit("2027-01-05 09:00", done(Check::WipeDown))], NOW);
    garden.calibrated = None;
    assert_eq!(garden.task("calibrate").due_on, date(2027, 2, 4));
    garden.calibrated = Some(at("2027-03-01 09:00"));
    assert_eq!(garden.task("calibrate").due_on, date(2027, 3, 31));
    assert_eq!(garden.task("calibrate").urgency, Urgency::Calm);
}

#[test]
fn standing_and_urgency_go_by_day_and_margin() {
    let wiped = |when: &str| {
        Garden::new(system(Kind::Tower), vec![], &[visit(when, done(Check::WipeDown))], NOW).task("wipe_down")
    };
    for (when, standing, urgency) in [
        ("2027-02-10 09:00", Standing::Late, Urgency::Hand),
        ("2027-02-25 09:00", Standing::Late, Urgency::Eye),
        ("2027-03-02 09:00", Standing::Today, Urgency::Eye),
        ("2027-03-05 09:00", Standing::Soon, Urgency::Calm),
        ("2027-03-09 07:00", Standing::Later, Urgency::Calm),
    ] {
        let task = wiped(when);
        assert_eq!((task.standing, task.urgency), (standing, urgency), "{when}: margin {}", task.margin_days);
    }
}

#[test]
fn the_section_carries_the_water_the_lines_and_what_was_seen() {
    let look = Visit {
        glass: Some(WaterGlass { clarity: Clarity::Green, smell: None }),
        roots: Some(mopsel_core::fact::Roots::sound()),
        ..Visit::default()
    };
    let read = Visit { level: Some(LevelReading::Height { height_mm: mm(100.0), pump_ran: true }), ..look };
    let garden = Garden::new(
        tub(),
        vec![planting("Mizuna", (1, 2), Stage::Vegetative)],
        &[visit("2027-03-09 08:00", read)],
        NOW,
    );
    let drawn = section(&garden.situation());
    assert_eq!(
        (drawn.water, drawn.roots, drawn.tint, drawn.computed),
        (Some(0.5), Some(0), Some(Clarity::Green), false)
    );
    assert!((drawn.limit.unwrap() - 0.627).abs() < 1e-6, "an inch of 200 mm above the half");
    assert_eq!(drawn.planted, 0.5);
    assert!(drawn.minimum < drawn.working && drawn.working < 1.0);
    let later = Garden::new(tub(), vec![], &[visit("2027-03-06 08:00", level(20.0))], NOW);
    assert!(section(&later.situation()).computed, "a level of three days ago is said to be carried on");
}

#[test]
fn water_is_carried_on_by_what_is_drunk() {
    let log = [visit("2027-03-05 08:30", level(80.0)), visit("2027-03-07 08:30", level(70.0))];
    let garden = Garden::new(system(Kind::BucketChain), vec![], &log, NOW);
    assert!((garden.situation().water().litres().unwrap().value.get() - 60.0).abs() < 1e-9);
    let minimum = minimum_reached(&garden.situation()).unwrap();
    assert_eq!(minimum.at, at("2027-03-13 08:30"), "30 L above the minimum at 5 L a day");
    assert!(minimum.act_by < minimum.at && minimum.earliest <= minimum.at);
    let still = Garden::new(system(Kind::BucketChain), vec![], &log[..1], NOW);
    assert!(minimum_reached(&still.situation()).is_none(), "one level tells no uptake");
}

#[test]
fn an_empty_top_off_reservoir_of_readings_keeps_its_silence() {
    let garden = Garden::new(system(Kind::Rack), vec![], &[], NOW);
    assert!(judge_state(&garden.situation()).is_empty());
}

#[test]
fn the_last_findings_are_judged_for_the_systems_page() {
    let seen = Visit {
        ph: Some(kit(7.0, 7.5)),
        temperature: Some(celsius(27.0)),
        plants: Some(Plants::showing(&[PlantSign::BrownTips], Some(PortSet::range(2, 3)))),
        running: Some(Running { outlets_wet: Some(false), ..Running::default() }),
        ..Visit::default()
    };
    let garden = Garden::new(system(Kind::Tower), vec![], &[visit("2027-03-08 09:00", seen)], NOW);
    let judged: BTreeMap<_, _> =
        judge_state(&garden.situation()).into_iter().map(|(_, v)| (v.subject, v.tone)).collect();
    assert_eq!(judged[&Subject::Ph], Tone::Now);
    assert_eq!(judged[&Subject::Temperature], Tone::Act);
    assert_eq!(judged[&Subject::Plants], Tone::Act);
    assert_eq!(judged[&Subject::Running], Tone::Now);
    assert!(garden.task("plants").reason.contains("ports 2-3"));
}

#[test]
fn temperatures_have_their_thresholds() {
    let garden = Garden::new(system(Kind::Tower), vec![], &[], NOW);
    for (value, tone) in [
        (10.0, Tone::Watch),
        (15.0, Tone::Fine),
        (23.9, Tone::Fine),
        (24.0, Tone::Watch),
        (26.6, Tone::Watch),
        (26.7, Tone::Act),
    ] {
        let read = Visit { temperature: Some(celsius(value)), ..Visit::default() };
        assert_eq!(judge_visit(&read, &garden.situation()).said().unwrap().verdicts[0].tone, tone, "{value} °C");
    }
}

#[test]
fn a_level_below_minimum_stays_a_task_until_it_is_filled() {
    let mut log = vec![visit("2027-03-08 20:00", level(30.0))];
    let low = Garden::new(system(Kind::BucketChain), vec![], &log, NOW);
    assert!(low.tasks().iter().any(|t| t.name.contains("below minimum")));
    let fill = Visit { top_off: Some(TopOff { litres: l(50.0), water: TopOffWater::Plain }), ..Visit::default() };
    log.push(visit("2027-03-08 20:30", fill));
    let filled = Garden::new(system(Kind::BucketChain), vec![], &log, NOW);
    assert!(filled.tasks().iter().all(|t| !t.name.contains("below minimum")));
}

#[test]
fn what_is_poured_is_told_with_the_strength_that_it_makes() {
    let log = [visit("2027-03-08 09:00", Visit { ec: Some(ec(1.62)), ..level(60.0) })];
    let garden = Garden::new(system(Kind::FilmChannel), vec![planting("Kale", (1, 9), Stage::Vegetative)], &log, NOW);
    let pour = Visit { top_off: Some(TopOff { litres: l(20.0), water: TopOffWater::Plain }), ..level(60.0) };
    let judged = judge_visit(&pour, &garden.situation()).said().unwrap();
    let verdict = judged.verdicts.iter().find(|v| v.subject == Subject::TopOff).unwrap();
    assert!(
        verdict.finding.contains("makes 80.0 L; EC about 1.29"),
        "(1.62 · 60 + 0.3 · 20) / 80 is 1.29: {}",
        verdict.finding
    );
    assert_eq!(judged.volume_after, Some(l(80.0)));
    let over = Visit { top_off: Some(TopOff { litres: l(50.0), water: TopOffWater::Plain }), ..level(60.0) };
    assert!(
        judge_visit(&over, &garden.situation())
            .said()
            .unwrap()
            .verdicts
            .iter()
            .any(|v| v.finding.contains("over the maximum"))
    );
}

#[test]
fn the_refill_limit_rests_for_seven_days_after_a_refill() {
    let refill = |when: &str| {
        [visit(when, Visit { top_off: Some(TopOff { litres: l(4.0), water: TopOffWater::Plain }), ..level(12.0) })]
    };
    let room = |log: &[mopsel_core::fact::Entry]| {
        judge_visit(&level(14.0), &Garden::new(tub(), vec![], log, NOW).situation()).said().unwrap().room.unwrap()
    };
    // 16 L on the fifth, 14 L now: three days ago it stood at about 15.5 L, and up to there may be poured.
    let resting = room(&refill("2027-03-05 09:00"));
    assert!((resting.up_to.get() - 15.5).abs() < 0.05 && resting.reason.contains("7 days between"), "{resting:?}");
    // Eight days after it the inch is free again, above a line of 14.75 L.
    assert!((room(&refill("2027-03-01 09:00")).up_to.get() - 14.75 - 4.754_88).abs() < 0.05);
}

#[test]
fn sentences_are_in_the_places_units() {
    let garden = Garden::new(system(Kind::FilmChannel), vec![planting("Kale", (1, 9), Stage::Vegetative)], &[], NOW);
    let us = Reader { units: UnitSystem::Us, ec: EcScale::Ppm700, child: false };
    let read = Visit { ec: Some(ec(2.5)), temperature: Some(celsius(25.0)), ..level(60.0) };
    let said: Vec<String> = judge_visit(&read, &garden.situation())
        .said_to(us)
        .unwrap()
        .verdicts
        .into_iter()
        .flat_map(|v| [v.finding, v.why, v.next])
        .collect();
    let said = said.join(" ");
    assert!(said.contains("15.9 gal") && said.contains("77.0 °F") && said.contains("1750 ppm (700)"), "{said}");
    assert!(!said.contains(" L ") && !said.contains("mS/cm"), "{said}");
}

#[test]
fn readings_make_series_with_their_precision_and_their_band() {
    let change = Body::Change(Change {
        ph: Some(ph(5.9)),
        ec: Some(ec(1.5)),
        temperature: Some(celsius(20.0)),
        ..Change::full(l(90.0))
    });
    let first = visit("2027-03-02 09:00", Visit { ph: Some(kit(6.0, 6.5)), ..level(70.0) });
    let misread = visit("2027-03-03 09:00", Visit { ph: Some(ph(9.0)), ..Visit::default() });
    let right = mopsel_core::fact::Entry {
        id: uuid::Uuid::now_v7(),
        amends: Some(misread.id),
        body: Body::Visit(Visit { ph: Some(ph(6.1)), ..Visit::default() }),
        ..misread.clone()
    };
    let log = [first, misread, right, entry("2027-03-05 09:00", change)];
    let garden = Garden::new(system(Kind::Tower), vec![planting("Kale", (1, 9), Stage::Vegetative)], &log, NOW);
    let series = trends(&log, &garden.situation());
    let by = |what: Measured| series.iter().find(|t| t.quantity == what).unwrap().clone();
    let points: Vec<(f64, f64)> = by(Measured::Ph).points.iter().map(|p| (p.low, p.high)).collect();
    assert_eq!(points, [(6.0, 6.5), (6.1, 6.1), (5.9, 5.9)], "the kit's band, the amended value, the change's");
    assert_eq!(by(Measured::Ec).bands.iter().map(|b| (b.since, b.low, b.high)).collect::<Vec<_>>(), [(None, 1.2, 1.8)]);
    assert_eq!(by(Measured::Volume).points.len(), 2);
}

#[test]
fn cards_say_what_is_wrong_with_them() {
    let place = |zone: &str, days: &[Weekday]| {
        Card::Place(Place {
            closures: vec![],
            name: Name::new("Hall").unwrap(),
            zone: zone.into(),
            open_days: days.to_vec(),
            units: UnitSystem::Metric,
            containers: vec![],
            tools: vec![],
        })
    };
    assert!(place("Europe/London", &[Weekday::Monday]).check(None).is_ok());
    assert_eq!(place("Pellworth", &[Weekday::Monday]).check(None).refusal().field, "zone");
    assert_eq!(place("Europe/London", &[]).check(None).refusal().field, "open_days");
    let person = |name: &str, role| {
        Card::Person(Person {
            name: Name::new(name).unwrap(),
            role,
            units: None,
            ec_scale: None,
            lifts_kg: None,
            feed: None,
            away: vec![],
        })
    };
    assert!(person("J. T.", Role::Child).check(None).is_ok());
    assert_eq!(person("Jonathan", Role::Child).check(None).refusal().field, "name");
    assert!(person("Jonathan", Role::Helper).check(None).is_ok());
    let meter = Card::Meter(Meter { name: Name::new("Pen").unwrap(), scale: EcScale::Ppm500, compensated: true });
    assert_eq!((meter.code(), meter.parent_code(), meter.name()), ("meter", Some("place"), "Pen"));
    let stands = Card::Planting(planting("Kale", (1, 30), Stage::Vegetative));
    assert_eq!(stands.check(Some(&system(Kind::BucketChain))).refusal().field, "ports");
    let sown_late = Planting { sown_on: Some(date(2027, 2, 20)), ..planting("Kale", (1, 2), Stage::Seedling) };
    assert_eq!(Card::Planting(sown_late).check(None).refusal().field, "sown_on");
}

#[test]
fn systems_are_refused_where_their_parts_do_not_fit() {
    let base = || system(Kind::Tower);
    let cases: Vec<(System, &str)> = vec![
        (System { ports: 0, ..base() }, "ports"),
        (System { ports: 401, ..base() }, "ports"),
        (System { change_days: 0, ..base() }, "change_days"),
        (System { intervals: BTreeMap::from([(Check::Light, 400)]), ..base() }, "intervals.light"),
        (System { traits: Traits { drain_back: l(99.0), ..base().traits }, ..base() }, "traits.drain_back"),
        (System { traits: Traits { heel: l(99.0), ..base().traits }, ..base() }, "traits.heel"),
        (System { refill: RefillMethod::NoLimit, ..tub() }, "refill"),
        (System { reservoir: Reservoir { working: l(0.0), ..base().reservoir }, ..base() }, "reservoir.working"),
        (
            System {
                reservoir: Reservoir::suggested(
                    Shape::Box { length_mm: mm(2.0), width_mm: mm(300.0), height_mm: mm(300.0) },
                    l(0.0),
                ),
                ..base()
            },
            "reservoir.shape.length_mm",
        ),
    ];
    for (wrong, field) in cases {
        assert_eq!(wrong.check().refusal().field, field);
    }
    assert!(
        System { measuring: Measuring::RecipeOnly, ..base() }.check().is_ok(),
        "care without a meter is a full method"
    );
}

#[test]
fn crops_not_on_the_list_feed_like_their_group() {
    let own = Planting {
        crop: Name::new("Grandmother's cress").unwrap(),
        group: CropGroup::Herb,
        ..planting("Mint", (1, 2), Stage::Vegetative)
    };
    let target = mopsel_core::crop::ec_target(std::slice::from_ref(&own), None, Conductivity::new(0.3).unwrap())
        .map(Said::said)
        .unwrap();
    assert_eq!((target.low.get(), target.high.get()), (1.0, 1.6));
    assert!(own.facts().is_none());
    assert!(
        planting("PAK CHOI", (1, 2), Stage::Seedling).facts().is_some_and(|crop| crop.fast),
        "names are known in any case"
    );
}

#[test]
fn stages_without_a_band_of_their_own_take_the_one_before() {
    let band = |stage| {
        mopsel_core::crop::ec_target(&[planting("Lettuce", (1, 2), stage)], None, Conductivity::new(0.3).unwrap())
            .map(Said::said)
            .map(|t| (t.low.get(), t.high.get()))
    };
    assert_eq!(band(Stage::Ripening), Some((1.2, 1.8)));
    assert_eq!(band(Stage::Seedling), Some((0.8, 1.8)), "a fast grower takes full strength from the first true leaf");
    let slow = mopsel_core::crop::ec_target(
        &[planting("Kale", (1, 2), Stage::Seedling)],
        None,
        Conductivity::new(0.3).unwrap(),
    )
    .map(Said::said)
    .unwrap();
    assert_eq!(slow.high.get(), 1.2);
}

#[test]
fn dates_are_said_as_people_say_them() {
    let today = date(2027, 3, 9);
    for (days, said) in [(0, "today"), (1, "tomorrow"), (-1, "yesterday"), (2, "Thu 11 Mar"), (-9, "Sun 28 Feb")] {
        assert_eq!(told(day(add_days(today, days), today), Reader::default()), said);
    }
}

#[test]
fn robust_statistics_shrug_off_one_wild_value() {
    assert_eq!(median(&[5.0, 5.1, 4.9, 500.0, 5.0]), Some(5.0));
    assert_eq!(median(&[]), None);
    assert_eq!(median(&[f64::NAN, 3.0]), Some(3.0));
    assert_eq!(quantile(&[1.0, 2.0, 3.0, 4.0, 5.0], 0.75), Some(4.0));
    let points: Vec<(f64, f64)> =
        (0..9).map(|x| (f64::from(x), if x == 4 { 90.0 } else { 0.02 * f64::from(x) })).collect();
    assert!((slope(&points).unwrap() - 0.02).abs() < 1e-9);
    assert_eq!(slope(&[(1.0, 2.0)]), None);
}

#[test]
fn a_refusal_is_placed_step_by_step() {
    let inner: Result<(), Refusal> = Err(Refusal::new("never_open"));
    let placed = inner.at("height_mm").at("level").refusal();
    assert_eq!((placed.field.as_str(), placed.code.as_str()), ("level.height_mm", "never_open"));
}
