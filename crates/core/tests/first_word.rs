//! The first word is right: what stands first, where each task is done, what “all fine” may mean, and what is
//! asked about because it is more likely a slip.

use crate::common::{Garden, Refused, Said, adult, celsius, ec, level, ph, planting, system, visit};
use mopsel_core::care::{FromList, from_list, pressing, tasks};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{
    Body, Change, ChangeParts, ChangeRun, ChangeStep, Clarity, Entry, Subject, TopOff, TopOffWater, Visit, WaterGlass,
};
use mopsel_core::guide::guide;
use mopsel_core::quantity::{Conductivity, EcReading, EcScale, Note};
use mopsel_core::system::{Check, Kind, kinds};
use mopsel_core::verdict::{Tone, judge_visit};
use serde_json::json;

const NOW: &str = "2027-03-09 08:30";

fn rails(log: &[Entry], now: &str) -> Garden {
    Garden::new(system(Kind::FilmChannel), vec![planting("Kale", (1, 9), Stage::Vegetative)], log, now)
}

fn full(when: &str, litres: f64, strength: f64) -> Entry {
    visit(when, Visit { ec: Some(ec(strength)), ph: Some(ph(6.0)), ..level(litres) })
}

#[test]
fn water_that_is_known_to_be_low_is_topped_off_and_its_level_is_not_due_besides() {
    let garden = rails(&[full("2027-03-07 08:00", 60.0, 1.5), full("2027-03-09 08:00", 23.0, 1.5)], NOW);
    let tasks = garden.tasks();
    let first = pressing(&tasks).unwrap();
    assert_eq!(first.name, "Top off: below minimum");
    assert!(tasks.iter().all(|task| task.check != Some(Check::Level)));
    let way = first.way.as_ref().unwrap();
    assert_eq!((way.part, way.name.as_str()), (Some("top_off"), "Mix the top-off"));
}

#[test]
fn who_reads_or_changes_the_water_has_looked_in_and_knows_its_level() {
    let last = |entry: Entry, check: Check| rails(&[entry], NOW).known.done.of(check).is_some();
    assert!(last(full("2027-03-09 08:00", 60.0, 1.5), Check::LookIn));
    let change = || crate::common::entry("2027-03-09 08:00", Body::Change(Change::full(crate::common::l(80.0))));
    assert!(last(change(), Check::LookIn) && last(change(), Check::Level));
    let note = Visit { note: Note::new("Order rockwool").ok(), ..Visit::default() };
    assert!(!last(visit("2027-03-09 08:00", note), Check::LookIn), "a note is no look");
}

#[test]
fn after_a_long_silence_one_task_says_what_is_likely_and_where_to_look_first() {
    let log = [full("2027-02-01 08:00", 90.0, 1.5), full("2027-02-04 08:00", 75.0, 1.5)];
    let tasks = rails(&log, NOW).tasks();
    let first = pressing(&tasks).unwrap();
    assert_eq!(first.code, "catch_up");
    assert!(first.reason.contains("for 33 days"), "{}", first.reason);
    assert!(first.reason.contains("below its minimum since Thu 11 Feb"), "{}", first.reason);
    assert!(first.doing.starts_with("Look at the level first"), "{}", first.doing);
    assert_eq!(first.way.as_ref().unwrap().part, Some("level"));
    let lately = [log[0].clone(), log[1].clone(), full("2027-03-01 08:00", 80.0, 1.5)];
    assert!(rails(&lately, NOW).tasks().iter().all(|task| task.code != "catch_up"));
    assert!(
        rails(&[], NOW).tasks().iter().all(|task| task.code != "catch_up"),
        "nothing is late before the first entry"
    );
}

#[test]
fn every_task_that_is_not_ticked_off_where_it_stands_has_the_button_that_does_it() {
    let looked: [Visit; 5] = [
        Visit { ph: Some(ph(7.4)), ec: Some(ec(0.7)), temperature: Some(celsius(28.0)), ..level(20.0) },
        Visit { ph: Some(ph(3.0)), ec: Some(ec(9.0)), ..level(97.5) },
        Visit { ec: Some(ec(0.35)), ..level(60.0) },
        Visit {
            roots: serde_json::from_value(json!({ "answers": { "slime_or_browning": true } })).ok(),
            glass: serde_json::from_value(json!({ "clarity": "green" })).ok(),
            ..Visit::default()
        },
        Visit {
            running: serde_json::from_value(json!({ "outlets_wet": false })).ok(),
            plants: serde_json::from_value(json!({ "signs": ["brown_tips"] })).ok(),
            ..Visit::default()
        },
    ];
    for facts in kinds() {
        for read in &looked {
            let log = [visit("2027-03-09 08:00", read.clone())];
            let kale = vec![planting("Kale", (1, 4), Stage::Vegetative)];
            for task in Garden::new(system(facts.key), kale, &log, NOW).tasks() {
                assert!(task.one_tap || task.way.is_some(), "{:?}: {} has no way", facts.key, task.name);
            }
        }
    }
}

#[test]
fn a_margin_is_said_as_a_day_and_act_today_never_stands_beside_days() {
    let garden = rails(&[full("2027-03-08 20:00", 23.0, 1.5)], NOW);
    let first = pressing(&garden.tasks()).cloned().unwrap();
    assert_eq!((first.name.as_str(), first.safe.as_str()), ("Top off: below minimum", "Act now"));
    assert_eq!(
        first.safe_why,
        "Plants last only hours like this. It stays first until somebody records that it is fixed."
    );
    let said = |when: &str| {
        let garden = rails(&[full("2027-03-07 08:00", 80.0, 0.4)], when);
        garden.tasks().into_iter().find(|task| task.check == Some(Check::Readings)).unwrap().safe
    };
    assert_eq!(said("2027-03-10 08:00"), "Safe for 3 days");
    assert_eq!(said("2027-03-12 08:00"), "Safe until tomorrow");
    assert_eq!(said("2027-03-13 08:00"), "Act today");
    assert_eq!(said("2027-03-16 08:00"), "At risk since Sun 14 Mar");
}

#[test]
fn a_task_leads_to_what_its_verdict_wants_and_reads_before_it_pours() {
    let part = |read: Visit, cause: &str| {
        let tasks = rails(&[visit("2027-03-09 08:00", read)], NOW).tasks();
        let task = tasks.iter().find(|task| task.cause.as_deref().is_some_and(|code| code.contains(cause)));
        task.and_then(|task| task.way.as_ref().map(|way| way.part)).unwrap_or_else(|| panic!("{tasks:?}"))
    };
    assert_eq!(part(level(20.0), "verdict.level"), Some("top_off"));
    assert_eq!(part(Visit { ec: Some(ec(8.0)), ..level(60.0) }, "verdict.ec"), Some("measure"), "the probe first");
}

#[test]
fn where_rot_or_a_change_is_open_nothing_is_fine_from_a_list() {
    let of = |log: &[Entry], changing: bool| {
        let garden = rails(log, NOW);
        from_list(&tasks(&garden.situation()), changing, &garden.situation()).0
    };
    let sound = [full("2027-03-09 08:00", 80.0, 1.5)];
    assert_eq!(of(&sound, true), FromList::Never);
    let rot = json!({ "roots": { "answers": { "slime_or_browning": true } } });
    let seen = visit("2027-03-08 08:00", serde_json::from_value(rot).unwrap());
    assert_eq!(of(&[seen, sound[0].clone()], false), FromList::Never);
    assert_eq!(of(&[full("2027-03-09 08:00", 23.0, 1.5)], false), FromList::Ticked, "below minimum");
    let done = Visit { done: vec![Check::Filters], ..level(80.0) };
    assert_eq!(of(&[visit("2027-03-09 08:20", done)], false), FromList::Fine);
}

#[test]
fn all_fine_stands_over_nothing_amiss() {
    let tower = system(Kind::Tower);
    let amiss = [
        json!({ "plants": { "signs": ["brown_tips"] } }),
        json!({ "running": { "dry_floor": false } }),
        json!({ "glass": { "clarity": "white_cloud" } }),
        json!({ "glass": { "clarity": "clear", "smell": "foul" } }),
        json!({ "roots": { "answers": { "slime_or_browning": true } } }),
    ];
    for found in amiss {
        let mut typed: Visit = serde_json::from_value(found.clone()).unwrap();
        let garden = rails(&[], NOW);
        assert!(!judge_visit(&typed, &garden.situation()).unwrap().fine, "{found}");
        typed.all_fine = true;
        assert_eq!(Body::Visit(typed).check(&tower, &adult()).refusal().code, "all_fine_with_findings", "{found}");
    }
    let sound = Visit { all_fine: true, ph: Some(ph(6.0)), ..level(80.0) };
    assert!(Body::Visit(sound.clone()).check(&tower, &adult()).is_ok());
    let garden = rails(&[], NOW);
    assert!(judge_visit(&sound, &garden.situation()).unwrap().fine);
    let strong = Visit { ec: Some(ec(3.2)), ..sound };
    assert!(!judge_visit(&strong, &garden.situation()).unwrap().fine, "a reading that calls for hands is not all fine");
}

fn asked(typed: Visit, log: &[Entry], now: &str) -> Vec<String> {
    let garden = rails(log, now);
    let judged = judge_visit(&typed, &garden.situation()).unwrap();
    judged.said().doubts.into_iter().map(|doubt| doubt.question).collect()
}

#[test]
fn slips_are_asked_about_and_what_is_likely_is_not() {
    // It drinks 3.4 L a day.
    let log =
        [full("2027-03-01 08:00", 90.0, 1.5), full("2027-03-06 08:00", 73.0, 1.5), full("2027-03-07 08:00", 90.0, 1.5)];
    let none = |typed: Visit| assert_eq!(asked(typed, &log, NOW), Vec::<String>::new());
    none(Visit { ec: Some(ec(1.45)), ph: Some(ph(6.2)), temperature: Some(celsius(21.0)), ..level(83.0) });
    let gone = asked(level(24.0), &log, NOW);
    assert!(gone[0].contains("less than expected") && gone[0].contains("A leak"), "66 L gone in two days: {gone:?}");
    assert!(
        asked(level(98.0), &[log[0].clone(), full("2027-03-07 08:00", 60.0, 1.5)], NOW)[0]
            .contains("more than expected")
    );
    let on_ppm = EcReading { value: 1.4, scale: EcScale::Ppm500, compensated: true };
    let scale = asked(Visit { ec: Some(on_ppm), ..Visit::default() }, &log, NOW);
    assert!(scale[0].contains("Did you mean 1.4 mS/cm?"), "{scale:?}");
    assert!(asked(Visit { ec: Some(ec(15.0)), ..Visit::default() }, &log, NOW)[0].contains("was expected"));
    assert!(asked(Visit { ph: Some(ph(8.2)), ..Visit::default() }, &log, NOW)[0].contains("Is that a slip?"));
    assert!(asked(Visit { temperature: Some(celsius(55.0)), ..Visit::default() }, &log, NOW)[0].contains("°F"));
    assert!(Conductivity::new(15.0).is_ok(), "what is asked about is accepted all the same");
}

#[test]
fn a_visit_is_judged_as_it_leaves_the_water_not_as_it_found_it() {
    let garden = rails(&[full("2027-03-07 08:00", 60.0, 1.5)], NOW);
    let told = |visit: Visit| {
        let judged = judge_visit(&visit, &garden.situation()).unwrap();
        let level = judged.verdicts.into_iter().find(|verdict| verdict.subject == Subject::Level).unwrap();
        (level.tone, level.map(&Said::said).finding)
    };
    assert_eq!(told(level(23.0)).0, Tone::Now);
    let filled = TopOff { litres: crate::common::l(60.0), water: TopOffWater::Plain };
    let (tone, finding) = told(Visit { top_off: Some(filled), ..level(23.0) });
    assert!(tone <= Tone::Watch && finding.starts_with("83.0 L of"), "{tone:?} {finding}");
}

#[test]
fn advice_stays_until_it_is_done_or_set_aside_and_comes_back_with_the_next_finding() {
    let cloudy = |when: &str| {
        let glass = Some(WaterGlass { clarity: Clarity::Green, smell: None });
        visit(when, Visit { glass, ..level(70.0) })
    };
    let aside = |when: &str| {
        let overruled = [(Subject::Glass, Note::new("The jar is green").unwrap())].into();
        visit(when, Visit { overruled, ..Visit::default() })
    };
    let asks = |log: &[Entry]| rails(log, NOW).tasks().iter().any(|task| task.code == Subject::Glass.code());
    assert!(asks(&[cloudy("2027-03-08 08:00")]));
    assert!(asks(&[cloudy("2027-03-08 08:00"), full("2027-03-08 20:00", 70.0, 1.5)]), "another visit ends it not");
    assert!(!asks(&[cloudy("2027-03-08 08:00"), aside("2027-03-08 09:00")]));
    assert!(asks(&[cloudy("2027-03-08 08:00"), aside("2027-03-08 09:00"), cloudy("2027-03-09 08:00")]));
}

#[test]
fn a_new_system_asks_for_one_thing_and_its_first_filling_is_guided() {
    for facts in kinds() {
        let garden = Garden::new(system(facts.key), vec![planting("Kale", (1, 2), Stage::Seedling)], &[], NOW);
        let s = garden.situation();
        let run = ChangeRun { parts: ChangeParts { first: true, ..ChangeParts::default() }, ..ChangeRun::default() };
        let led = guide(&run, &s).unwrap();
        let steps: Vec<ChangeStep> = led.steps.iter().map(|step| step.step).collect();
        for never in [ChangeStep::Drain, ChangeStep::Heel, ChangeStep::Temper, ChangeStep::Roots, ChangeStep::PowerOff]
        {
            assert!(!steps.contains(&never), "{}: {never:?} of a vessel that is empty", facts.key.code());
        }
        assert_eq!(steps.contains(&ChangeStep::PowerOn), system(facts.key).traits.powered());
        assert!(led.fill_to.is_some(), "{}: to where is known before anything was read", facts.key.code());
        let told = Garden { actor: crate::common::child(), ..Garden::new(system(facts.key), vec![], &[], NOW) }.tasks();
        assert_eq!(
            told.iter().map(|task| task.code.as_ref()).collect::<Vec<_>>(),
            ["tell_an_adult"],
            "feed is concentrate"
        );
    }
    let mut garden = rails(&[], NOW);
    assert_eq!(garden.tasks().len(), 1);
    garden.log(crate::common::entry("2027-03-09 08:00", Body::Change(Change::full(crate::common::l(80.0)))));
    assert!(garden.tasks().iter().all(|task| task.code != "first_fill") && garden.tasks().len() > 3);
}

#[test]
fn water_left_over_its_maximum_stays_a_task_until_it_is_lowered() {
    let high = |log: &[Entry]| {
        let tasks = rails(log, NOW).tasks();
        let found = tasks.into_iter().find(|task| task.check.is_none() && task.code == Subject::Level.code());
        found.map(|task| (task.name, task.way.unwrap().part))
    };
    let over = visit("2027-03-08 08:00", level(99.5));
    assert_eq!(high(std::slice::from_ref(&over)), Some(("Lower the level".to_owned(), Some("level"))));
    assert_eq!(high(&[over.clone(), visit("2027-03-08 09:00", level(90.0))]), None);
    let most = rails(&[], NOW).system.highest().get();
    assert_eq!(high(&[visit("2027-03-08 08:00", level(most))]), None, "up to the line it is right");
}
