//! What else happens: lamps, harvests, sprays, contacts between systems, stages that move, and the end of a crop.

use crate::common::{Garden, Said, adult, child, entry, level, planting, system, visit, zone};
use mopsel_core::calendar::start_of;
use mopsel_core::care::{Task, hygiene, tasks};
use mopsel_core::crop::{CropGroup, Planting, Stage, crop, crops, light_target};
use mopsel_core::diagnosis::{Clues, causes, explain, gather, shares};
use mopsel_core::fact::{
    Body, Carried, CaseLook, CaseOutcome, Change, ChangeParts, Entry, Happened, Harvested, Holds, LampSeen, PlantSign,
    Plants, RootAnswers, Roots, Since, Spray, Timeline, Version, Visit,
};
use mopsel_core::projection::{Known, touches};
use mopsel_core::quantity::{Grams, Name};
use mopsel_core::story::story;
use mopsel_core::system::{Check, FlowerLight, Kind, Lamp, Measuring, Methods, Ripening, System};
use mopsel_core::verdict::{Tone, judge_visit};
use mopsel_core::words::say_entry;
use uuid::Uuid;

fn lit() -> System {
    let plain = system(Kind::AeratedRaft);
    System { traits: mopsel_core::system::Traits { light: true, ..plain.traits }, ..plain }
}

fn lamp(hours: Option<f64>, gap: Option<f64>) -> Visit {
    Visit { lamp: Some(LampSeen { hours, gap: gap.map(crate::common::mm) }), ..Visit::default() }
}

fn grown() -> Vec<Planting> {
    vec![planting("Basil", (1, 4), Stage::Vegetative)]
}

fn task(garden: &Garden, code: &str) -> Option<Task<String>> {
    tasks(&garden.situation()).into_iter().find(|task| task.code == code).map(Said::said)
}

#[test]
fn a_lamp_is_judged_against_what_grows_under_it_and_stays_a_task_until_it_is_set() {
    let judged = |visit: &Visit| {
        let garden = Garden::new(lit(), grown(), &[crate::common::noted("2027-03-01 09:00")], "2027-03-09 09:00");
        let all = judge_visit(visit, &garden.situation()).unwrap().said();
        all.verdicts.into_iter().find(|verdict| verdict.subject.code() == "light").unwrap()
    };
    let right = judged(&lamp(Some(15.0), Some(80.0)));
    assert_eq!(right.tone, Tone::Fine);
    assert_eq!(
        right.finding,
        "15 hours of light a day, wanted 14–16 hours. Lamp 80 mm over the tallest leaf, wanted 50–100 mm."
    );
    let near = judged(&lamp(None, Some(20.0)));
    assert_eq!((near.tone, near.slack_days), (Tone::Act, 1.0));
    assert!(near.next.contains("50–100 mm") && near.why.contains("bleach"), "{near:?}");
    let short = judged(&lamp(Some(10.0), None));
    assert!(short.why.contains("stretch") && short.next == "Set the timer to 14–16 hours.", "{short:?}");
    // A fingertip off is right.
    assert_eq!(judged(&lamp(Some(16.4), Some(110.0))).tone, Tone::Fine);
    let mut log = vec![crate::common::noted("2027-03-01 09:00"), visit("2027-03-08 09:00", lamp(Some(9.0), None))];
    let now = |log: &[Entry]| Garden::new(lit(), grown(), log, "2027-03-09 09:00");
    let asks = |log: &[Entry]| tasks(&now(log).situation()).iter().filter(|task| task.code == "light").count();
    let said = task(&now(&log), "light").unwrap();
    assert!(said.reason.contains("9 hours of light a day") && said.adult, "{said:?}");
    assert_eq!(asks(&log), 1, "it is asked for once, not by the calendar as well");
    assert!(task(&now(&log).for_child(), "light").is_none());
    log.push(visit("2027-03-08 10:00", crate::common::done(Check::Light)));
    assert!(task(&now(&log), "light").is_none_or(|task| task.check == Some(Check::Light)), "ticked off: it was set");
}

#[test]
fn a_lamp_that_is_not_there_and_a_day_of_thirty_hours_are_refused() {
    let dark = lamp(Some(14.0), None);
    let refusal = Body::Visit(dark).check(&system(Kind::AeratedRaft), &adult()).unwrap_err().said();
    assert_eq!((refusal.code.as_str(), refusal.field.as_str()), ("no_lamp_here", "lamp"));
    for hours in [-1.0, 24.5, f64::NAN, 1e9] {
        let refusal = Body::Visit(lamp(Some(hours), None)).check(&lit(), &adult()).unwrap_err().said();
        assert_eq!((refusal.code.as_str(), refusal.field.as_str()), ("lamp_hours", "lamp.hours"));
    }
}

/// A planting that was moved on to another stage on a day.
fn moved(from: Planting, to: Stage, on: &str) -> Timeline<Planting> {
    let day = on.parse().unwrap();
    let (holds, made) = (Holds::From(day), start_of(day, &zone()));
    let first = Version { holds: Holds::Always, archived: false, made, says: from.clone() };
    Timeline::new(&first, &[Version { holds, archived: false, made, says: Planting { stage: to, ..from } }], &zone())
}

/// A garden in which one planting came to a stage on a day.
fn turned(system: System, from: Planting, to: Stage, on: &str, log: &[Entry], now: &str) -> Garden {
    let timeline = moved(from, to, on);
    let mut garden = Garden::new(system, vec![timeline.now().clone()], log, now);
    garden.planted = vec![timeline];
    garden
}

#[test]
fn a_stage_that_wants_another_light_makes_the_lamp_due_at_once() {
    let tomato = planting("Tomato", (1, 4), Stage::Vegetative);
    let log = [crate::common::noted("2027-03-01 09:00"), visit("2027-03-07 09:00", lamp(Some(15.0), Some(80.0)))];
    let garden = turned(lit(), tomato.clone(), Stage::Flowering, "2027-03-08", &log, "2027-03-09 09:00");
    assert!(
        !task(&garden, "light").is_some_and(|due| due.reason.contains("wanted")),
        "fifteen hours are right for both"
    );
    let short = || System { methods: under(Lamp::Strip, FlowerLight::Short), ..lit() };
    let garden = turned(short(), tomato.clone(), Stage::Flowering, "2027-03-08", &log, "2027-03-09 09:00");
    let due = task(&garden, "light").unwrap();
    // Fifteen hours were right before, and are a task by what is wanted now.
    assert!(due.reason.contains("15 hours of light a day, wanted 12–14 hours"), "{due:?}");
    let unseen =
        [crate::common::noted("2027-03-01 09:00"), visit("2027-03-07 09:00", crate::common::done(Check::Light))];
    let garden = turned(short(), tomato, Stage::Flowering, "2027-03-08", &unseen, "2027-03-09 09:00");
    let due = task(&garden, "light").unwrap();
    assert_eq!(due.due_on.to_string(), "2027-03-08");
    assert!(due.reason.contains("wants 12–14 hours") && due.reason.contains("14–17 hours"), "{due:?}");
    assert_eq!(due.doing, "Timer to 12–14 hours, lamp 50–100 mm over the tallest leaf");
}

fn under(lamp: Lamp, flower_light: FlowerLight) -> Methods {
    Methods { lamp, flower_light, ..Methods::default() }
}

#[test]
fn the_light_is_that_of_the_most_ports_and_hangs_by_the_kind_of_lamp() {
    let few = planting("Tomato", (1, 2), Stage::Fruiting);
    let many = planting("Basil", (3, 8), Stage::Seedling);
    let both = light_target(&[few.clone(), many], &under(Lamp::Panel, FlowerLight::Long)).unwrap();
    assert_eq!((both.of.crop.as_str(), both.hours, both.gap[0].get()), ("Basil", [14.0, 16.0], 400.0));
    let strips = under(Lamp::Strip, FlowerLight::Long);
    let hours = |name: &str, stage, school| {
        light_target(&[planting(name, (1, 2), stage)], &under(Lamp::Strip, school)).unwrap().hours
    };
    // 16 hours are not too long for tomatoes in flower or fruit; twelve is a school, and leaves the weeks before alone.
    assert_eq!(light_target(&[few], &strips).unwrap().hours, [14.0, 17.0]);
    assert_eq!(hours("Pepper", Stage::Flowering, FlowerLight::Long), [14.0, 18.0]);
    assert_eq!(hours("Strawberry", Stage::Fruiting, FlowerLight::Long), [12.0, 16.0]);
    assert_eq!(hours("Tomato", Stage::Flowering, FlowerLight::Short), [12.0, 14.0]);
    assert_eq!(hours("Tomato", Stage::Vegetative, FlowerLight::Short), [14.0, 17.0]);
    assert!(light_target(&[planting("Basil", (1, 2), Stage::Done)], &strips).is_none());
    for group in [CropGroup::Leafy, CropGroup::Herb, CropGroup::Fruiting, CropGroup::Flower] {
        for stage in [Stage::Germinating, Stage::Seedling, Stage::Vegetative, Stage::Flowering, Stage::Ripening] {
            let of = Planting { group, ..planting("Dock", (1, 2), stage) };
            for lamp in [Lamp::Strip, Lamp::Panel] {
                for school in [FlowerLight::Long, FlowerLight::Short] {
                    let light = light_target(std::slice::from_ref(&of), &under(lamp, school)).unwrap();
                    assert!(light.hours[0] < light.hours[1] && light.gap[0] < light.gap[1], "{group:?} {stage:?}");
                }
            }
        }
    }
}

#[test]
fn ripening_tapers_or_goes_on_as_before_and_a_finisher_is_missed_where_there_is_none() {
    let ripe = planting("Tomato", (1, 4), Stage::Ripening);
    let band = |ripening: Ripening| {
        let system = System { methods: Methods { ripening, ..Methods::default() }, ..system(Kind::AeratedRaft) };
        let target = Garden::new(system, vec![ripe.clone()], &[], "2027-03-09 09:00").situation().ec_target().unwrap();
        (target.low.get(), target.high.get())
    };
    let as_it_was = |stage: Stage| {
        let before = vec![planting("Tomato", (1, 4), stage)];
        let target = Garden::new(system(Kind::AeratedRaft), before, &[], "2027-03-09 09:00");
        let target = target.situation().ec_target().unwrap();
        (target.low.get(), target.high.get())
    };
    assert_eq!(band(Ripening::Taper), as_it_was(Stage::Vegetative));
    assert_eq!(band(Ripening::Finisher), as_it_was(Stage::Vegetative));
    assert_eq!(band(Ripening::Neither), as_it_was(Stage::Fruiting));
    let log = [entry("2027-03-01 09:00", Body::Change(Change::full(crate::common::l(90.0))))];
    let due = |ripening: Ripening| {
        let system = System { methods: Methods { ripening, ..Methods::default() }, ..system(Kind::AeratedRaft) };
        let from = planting("Tomato", (1, 4), Stage::Fruiting);
        let garden = turned(system, from, Stage::Ripening, "2027-03-08", &log, "2027-03-09 09:00");
        task(&garden, "change").unwrap()
    };
    assert!(due(Ripening::Taper).reason.contains("tomato, now ripening, is fed otherwise"));
    assert!(due(Ripening::Finisher).reason.contains("has none"), "its recipe names no finisher");
    let neither = due(Ripening::Neither);
    assert!(neither.days_late < 0 && !neither.reason.contains("ripening"), "{neither:?}");
}

/// Where nobody reads EC, the first true leaf is fed by a fresh filling, and that is due by itself.
#[test]
fn the_first_true_leaf_starts_feeding_also_without_a_meter() {
    let log = [entry("2027-03-01 09:00", Body::Change(Change::full(crate::common::l(90.0))))];
    let due = |measuring: Measuring| {
        let system = System { measuring, ..system(Kind::AeratedRaft) };
        let from = planting("Basil", (1, 4), Stage::Germinating);
        task(&turned(system, from, Stage::Seedling, "2027-03-08", &log, "2027-03-09 09:00"), "change").unwrap()
    };
    let fed = due(Measuring::RecipeOnly);
    assert_eq!((fed.due_on.to_string().as_str(), fed.days_late), ("2027-03-08", 1));
    assert!(
        fed.reason.contains("basil, now a seedling, is fed otherwise") || fed.reason.contains("seedling"),
        "{fed:?}"
    );
    assert!(due(Measuring::Meter).days_late < 0, "where EC is read, it is fed by what is read");
}

const TOTE: Uuid = Uuid::from_u128(21);
const CRATE: Uuid = Uuid::from_u128(22);

fn name(text: &str) -> Name {
    Name::new(text).unwrap()
}

fn came(carried: Carried, system: Uuid) -> Visit {
    let event = Happened::CameFrom { carried, system, name: name("Tote") };
    Visit { events: vec![event], ..Visit::default() }
}

fn rot(when: &str) -> Entry {
    let answers = RootAnswers { slime_or_browning: Some(true), ..RootAnswers::default() };
    visit(when, Visit { roots: Some(Roots { answers, ports: None }), ..Visit::default() })
}

fn case(when: &str, cause: &str, outcome: CaseOutcome) -> Entry {
    let look = CaseLook { cause: cause.to_owned(), outcome, ports: None, learnt: None };
    visit(when, Visit { cases: vec![look], ..Visit::default() })
}

fn fold(log: &[Entry]) -> Known {
    crate::common::known(log, &system(Kind::AeratedRaft))
}

/// The crate as it stands beside the tote.
fn beside(tote: &[Entry], here: &[Entry], now: &str) -> Garden {
    let (there, known) = (fold(tote), fold(here));
    let (tote, crate_) = (name("Tote"), name("Crate"));
    let all = touches([(TOTE, &tote, &there), (CRATE, &crate_, &known)].into_iter());
    let mut garden = Garden::new(system(Kind::AeratedRaft), grown(), here, now);
    garden.touched = all.get(&CRATE).cloned().unwrap_or_default();
    garden
}

#[test]
fn what_came_from_an_ill_system_makes_a_suspect_until_a_look_that_is_late_enough() {
    let tote = [rot("2027-03-01 09:00")];
    let mut here =
        vec![crate::common::noted("2027-02-20 09:00"), visit("2027-03-02 09:00", came(Carried::Tools, TOTE))];
    let mind = |garden: &Garden| hygiene::mind(&garden.situation()).map(Said::said);
    let ill = beside(&tote, &here, "2027-03-03 09:00");
    let said = mind(&ill).unwrap();
    assert_eq!(
        said,
        "Tools from Tote came here yesterday, and Tote has Root rot: visit it last, with its own thermometer and cup, and wash hands and tools after."
    );
    let look = task(&ill, "suspect_roots").unwrap();
    assert_eq!(look.due_on.to_string(), "2027-03-06", "what was carried over shows after four days");
    assert!(task(&ill, "suspect_plants").is_none());
    // A sound look the day after has not shown anything yet.
    let sound = |when: &str| visit(when, Visit { roots: Some(Roots::sound()), ..Visit::default() });
    here.push(sound("2027-03-03 10:00"));
    assert!(mind(&beside(&tote, &here, "2027-03-04 09:00")).is_some());
    here.push(sound("2027-03-06 10:00"));
    let clear = beside(&tote, &here, "2027-03-06 11:00");
    assert!(mind(&clear).is_none() && task(&clear, "suspect_roots").is_none());
}

#[test]
fn a_contact_counts_from_a_week_before_it_was_found_and_not_after_it_was_closed() {
    let here = |when: &str| [crate::common::noted("2027-02-01 09:00"), visit(when, came(Carried::Plants, TOTE))];
    let aphids = [
        case("2027-03-01 09:00", "aphids", CaseOutcome::Opened),
        case("2027-03-04 09:00", "aphids", CaseOutcome::Gone),
        case("2027-03-07 09:00", "aphids", CaseOutcome::Gone),
    ];
    let suspect = |when: &str| !beside(&aphids, &here(when), "2027-03-08 09:00").situation().suspect_of().is_empty();
    assert!(suspect("2027-02-23 09:00"), "it was there before anybody saw it");
    assert!(!suspect("2027-02-20 09:00"));
    assert!(suspect("2027-03-05 09:00"));
    assert!(!suspect("2027-03-07 12:00"), "it was closed by then");
    // Aphids are not in the water; nor does hunger spread.
    let water = [crate::common::noted("2027-02-01 09:00"), visit("2027-03-02 09:00", came(Carried::Water, TOTE))];
    assert!(beside(&aphids, &water, "2027-03-03 09:00").situation().suspect_of().is_empty());
    let hungry = [case("2027-03-01 09:00", "nitrogen_short", CaseOutcome::Opened)];
    assert!(beside(&hungry, &here("2027-03-02 09:00"), "2027-03-03 09:00").situation().suspect_of().is_empty());
    // And what did not show in three weeks did not come from there.
    let rotten = [rot("2027-02-01 09:00")];
    assert!(beside(&rotten, &here("2027-02-02 09:00"), "2027-02-25 09:00").situation().suspect_of().is_empty());
}

#[test]
fn tools_carry_both_ways_and_a_suspect_weighs_in_what_ails() {
    // The tote used the crate's tools: what the tote has may have gone back with them.
    let tools = Visit {
        events: vec![Happened::CameFrom { carried: Carried::Tools, system: CRATE, name: name("Crate") }],
        ..Visit::default()
    };
    let tote = [rot("2027-03-01 09:00"), visit("2027-03-02 09:00", tools)];
    let garden = beside(&tote, &[crate::common::noted("2027-02-20 09:00")], "2027-03-03 09:00");
    assert_eq!(garden.situation().suspect_of().len(), 1);
    let wilts = Visit { plants: Some(Plants::showing(&[PlantSign::WiltsWithWater], None)), ..Visit::default() };
    let rotten = |garden: &Garden| {
        let clues = gather(&garden.situation(), Some(&wilts));
        shares(&clues).into_iter().find(|(key, _)| *key == "root_rot").unwrap().1
    };
    let alone = beside(&[], &[crate::common::noted("2027-02-20 09:00")], "2027-03-03 09:00");
    assert!(rotten(&garden) > rotten(&alone));
}

#[test]
fn a_system_is_closed_off_until_it_is_sound_and_opens_by_itself() {
    let close = |event: Happened, when: &str| visit(when, Visit { events: vec![event], ..Visit::default() });
    let mut log = vec![rot("2027-03-01 09:00"), close(Happened::ClosedOff {}, "2027-03-01 10:00")];
    let garden = |log: &[Entry], now: &str| Garden::new(system(Kind::AeratedRaft), grown(), log, now);
    let said = hygiene::mind(&garden(&log, "2027-03-02 09:00").situation()).unwrap().said();
    assert!(said.starts_with("Closed off since yesterday. Root rot is open here: nothing goes out of here"), "{said}");
    for when in ["2027-03-03 09:00", "2027-03-05 09:00"] {
        log.push(visit(when, Visit { roots: Some(Roots::sound()), ..Visit::default() }));
    }
    let sound = garden(&log, "2027-03-05 10:00");
    assert!(hygiene::closed_off(&sound.situation()).is_none() && hygiene::mind(&sound.situation()).is_none());
    let opened = [
        rot("2027-03-01 09:00"),
        close(Happened::ClosedOff {}, "2027-03-01 10:00"),
        close(Happened::Opened {}, "2027-03-02 09:00"),
    ];
    assert!(hygiene::closed_off(&garden(&opened, "2027-03-02 10:00").situation()).is_none());
}

#[test]
fn children_spray_nothing_and_close_nothing_off_and_nothing_happens_twice() {
    let check = |events: Vec<Happened>, who| {
        Body::Visit(Visit { events, ..Visit::default() }).check(&system(Kind::AeratedRaft), &who).map_err(Said::said)
    };
    let sprayed = Happened::Sprayed { with: Spray::Soap };
    assert_eq!(check(vec![sprayed.clone()], child()).unwrap_err().code, "child_sprays");
    assert_eq!(check(vec![Happened::ClosedOff {}], child()).unwrap_err().code, "child_closes_off");
    assert_eq!(check(vec![Happened::Moved {}], child()), Ok(()));
    assert_eq!(check(vec![sprayed.clone(), sprayed.clone()], adult()).unwrap_err().field, "events.1");
    assert_eq!(check(vec![Happened::ClosedOff {}, Happened::Opened {}], adult()).unwrap_err().code, "closed_and_open");
    assert_eq!(check(vec![sprayed; 41], adult()).unwrap_err().code, "too_many_at_once");
}

#[test]
fn a_spray_and_a_move_are_remembered_as_long_as_they_tell_something() {
    let did = Visit { events: vec![Happened::Sprayed { with: Spray::Oil }, Happened::Moved {}], ..Visit::default() };
    assert_eq!(
        say_entry(&Body::Visit(did.clone()), &lit()).into_iter().map(Said::said).collect::<Vec<_>>(),
        ["Sprayed: plant oil", "Plants moved to another spot or light"]
    );
    let log = [visit("2027-03-01 09:00", did)];
    let scorched = Visit { plants: Some(Plants::showing(&[PlantSign::ScorchedPatches], None)), ..Visit::default() };
    let first = |now: &str| {
        let garden = Garden::new(lit(), grown(), &log, now);
        explain(&gather(&garden.situation(), Some(&scorched))).unwrap().causes[0].key
    };
    assert_eq!(first("2027-03-02 09:00"), "spray_burn");
    assert_ne!(first("2027-03-20 09:00"), "spray_burn");
    let known = |now: &str| {
        let garden = Garden::new(lit(), grown(), &log, now);
        gather(&garden.situation(), Some(&scorched)).seen.iter().any(|clue| clue.finding == "moved_lately")
    };
    assert!(known("2027-03-05 09:00") && !known("2027-03-10 09:00"));
}

#[test]
fn what_came_suddenly_is_told_from_what_came_slowly() {
    let since = |since: Since| {
        let plants = Plants { since: Some(since), ..Plants::showing(&[PlantSign::LowerLeavesYellow], None) };
        let garden = Garden::new(lit(), grown(), &[crate::common::noted("2027-03-01 09:00")], "2027-03-02 09:00");
        let visit = Visit { plants: Some(plants), ..Visit::default() };
        let clues = gather(&garden.situation(), Some(&visit));
        shares(&clues).into_iter().find(|(key, _)| *key == "nitrogen_short").unwrap().1
    };
    assert!(since(Since::Slow) > since(Since::Sudden));
}

#[test]
fn a_lamp_once_measured_is_not_asked_for_and_speaks() {
    let log = [visit("2027-03-01 09:00", lamp(Some(15.0), Some(400.0)))];
    let garden = Garden::new(lit(), grown(), &log, "2027-03-05 09:00");
    let leggy = Visit { plants: Some(Plants::showing(&[PlantSign::ThinLeggy], None)), ..Visit::default() };
    let told = explain(&gather(&garden.situation(), Some(&leggy))).unwrap();
    assert_eq!(told.causes[0].key, "light_too_far");
    let first = told.causes[0].clone();
    assert!(first.speaks_for.iter().any(|said| said.clone().said().contains("400 mm, read Mon 1 Mar")), "{first:?}");
    assert!(told.next_look.is_none_or(|look| look.key != "lamp_gap" && look.key != "lamp_hours"));
}

/// What a crop is given to is a known cause that can be its, is weighed where it is seen, and is said.
#[test]
fn every_crops_exceptions_are_read() {
    let leaning: Vec<_> = crops().iter().filter(|crop| !crop.leans.is_empty()).collect();
    assert!(leaning.len() >= 15, "{}", leaning.len());
    for crop in leaning {
        for lean in &crop.leans {
            let cause = causes().iter().find(|cause| cause.key == lean.0);
            let cause = cause.unwrap_or_else(|| panic!("{}: no cause {}", crop.name, lean.0));
            assert!(cause.groups.is_empty() || cause.groups.contains(&crop.group), "{}: {}", crop.name, lean.0);
            let strongest =
                cause.evidence.iter().filter(|e| PlantSign::of(&e.0).is_some() || e.0.starts_with("roots_"));
            let sign = strongest.max_by(|a, b| a.1.total_cmp(&b.1)).unwrap().0.as_str();
            let of = |clues: Clues| shares(&clues).into_iter().find(|(key, _)| *key == lean.0).map_or(0.0, |(_, s)| s);
            let with = of(Clues::of(&[sign], &[]).growing(crop));
            let without = of(Clues::of(&[sign], &[]).growing_group(crop.group));
            assert!(
                if lean.1 > 0.0 { with > without } else { with < without },
                "{}: {} {with} {without}",
                crop.name,
                lean.0
            );
            if lean.1 > 0.0 {
                let told = explain(&Clues::of(&[sign], &[]).growing(crop)).unwrap();
                let said: Vec<String> = told.causes.iter().flat_map(|c| c.speaks_for.clone()).map(Said::said).collect();
                assert!(said.iter().any(|line| line.contains(&lean.2)), "{}: {said:?}", crop.name);
            }
        }
    }
    assert!(crop("Spinach").is_some_and(|spinach| spinach.leans.iter().any(|lean| lean.0 == "bolting")));
}

const BASIL: Uuid = Uuid::from_u128(31);

fn picked(whole: bool, grams: Option<f64>, pieces: Option<u16>) -> Visit {
    let grams = grams.map(|grams| Grams::new(grams).unwrap());
    Visit {
        harvests: vec![Harvested { planting: BASIL, crop: name("Basil"), whole, grams, pieces }],
        ..Visit::default()
    }
}

#[test]
fn a_harvest_is_weighed_or_counted_and_counts_as_done() {
    let lines = |visit: Visit| say_entry(&Body::Visit(visit), &lit()).into_iter().map(Said::said).collect::<Vec<_>>();
    assert_eq!(lines(picked(false, Some(120.0), None)), ["Harvested: Basil, 120 g"]);
    assert_eq!(lines(picked(true, Some(84.5), Some(4))), ["Harvested: Basil, all of it: 84.5 g, 4 pieces"]);
    assert_eq!(lines(picked(false, None, None)), ["Harvested: Basil"]);
    let known = fold(&[
        visit("2027-03-01 09:00", picked(false, Some(120.0), None)),
        visit("2027-03-08 09:00", picked(true, None, Some(3))),
    ]);
    let sum = &known.happened.picked[&BASIL];
    assert_eq!(
        (sum.times, sum.grams, sum.pieces, sum.whole),
        (2, 120.0, 3, Some(crate::common::at("2027-03-08 09:00")))
    );
    assert_eq!(known.done.of(Check::Harvest), Some(crate::common::at("2027-03-08 09:00")));
    for grams in [0.0, -3.0, f64::NAN, 1e9] {
        assert_eq!(Grams::new(grams).unwrap_err().said().code, "quantity_out_of_bounds");
    }
    let twice = Visit {
        harvests: [picked(false, None, None).harvests, picked(true, None, None).harvests].concat(),
        ..Visit::default()
    };
    assert_eq!(Body::Visit(twice).check(&lit(), &adult()).unwrap_err().said().field, "harvests.1.planting");
    let none = Body::Visit(picked(false, None, Some(0))).check(&lit(), &adult()).unwrap_err().said();
    assert_eq!((none.code.as_str(), none.field.as_str()), ("harvest_pieces", "harvests.0.pieces"));
}

#[test]
fn once_all_is_harvested_the_reset_is_what_is_left_to_do() {
    let basil = planting("Basil", (1, 4), Stage::Vegetative);
    let mut log = vec![crate::common::noted("2027-02-20 09:00"), visit("2027-03-07 09:00", level(80.0))];
    let garden = |log: &[Entry]| turned(lit(), basil.clone(), Stage::Done, "2027-03-08", log, "2027-03-09 09:00");
    let reset = task(&garden(&log), "cycle_reset").unwrap();
    assert!(reset.adult && reset.reason.contains("since yesterday"), "{reset:?}");
    let left: Vec<_> = tasks(&garden(&log).situation()).iter().filter_map(|task| task.check).collect();
    assert!(!left.contains(&Check::Change) && !left.contains(&Check::Roots), "{left:?}");
    let parts = ChangeParts { reset: true, ..ChangeParts::default() };
    log.push(entry(
        "2027-03-08 15:00",
        Body::Change(Change { parts: Some(parts), ..Change::full(crate::common::l(90.0)) }),
    ));
    assert!(task(&garden(&log), "cycle_reset").is_none());
    // Put away instead of set to done, it is over all the same; put away on the day it was planted, it never grew.
    let put_away = |planted: &str| {
        let basil = mopsel_core::crop::Planting { planted_on: planted.parse().unwrap(), ..basil.clone() };
        let mut garden = garden(&[crate::common::noted("2027-02-20 09:00")]);
        let version = |archived| Version {
            holds: Holds::From("2027-03-08".parse().unwrap()),
            archived,
            made: crate::common::at("2027-03-08 09:00"),
            says: basil.clone(),
        };
        garden.planted = vec![Timeline::new(&version(false), &[version(true)], &zone())];
        garden.plantings = vec![];
        task(&garden, "cycle_reset").is_some()
    };
    assert!(put_away("2027-02-01") && !put_away("2027-03-08"));
    // While anything stands, nothing is reset.
    let mut mixed = garden(&[crate::common::noted("2027-02-20 09:00")]);
    mixed.planted.push(Timeline::always(planting("Dill", (5, 6), Stage::Vegetative)));
    assert!(task(&mixed, "cycle_reset").is_none());
}

#[test]
fn the_story_of_a_crop_adds_up_its_share_of_what_was_poured() {
    let basil = planting("Basil", (1, 4), Stage::Seedling);
    let batch = |ml: f64| {
        let used = mopsel_core::fact::Used {
            product: Uuid::from_u128(5),
            name: name("Leaf feed A"),
            what: mopsel_core::mixing::ProductKind::PartA,
            amount: mopsel_core::quantity::Amount { value: ml, unit: mopsel_core::quantity::AmountUnit::Ml },
            rise: None,
        };
        mopsel_core::fact::Batch { fresh: crate::common::l(80.0), used: vec![used], source_ec: None, ec: None }
    };
    let filled = Change { batch: Some(batch(200.0)), ..Change::full(crate::common::l(80.0)) };
    let topped = Visit {
        top_off: Some(mopsel_core::fact::TopOff {
            litres: crate::common::l(10.0),
            water: mopsel_core::fact::TopOffWater::Plain,
        }),
        ..Visit::default()
    };
    let log = [
        entry("2027-01-20 09:00", Body::Change(Change::full(crate::common::l(70.0)))),
        entry("2027-02-02 09:00", Body::Change(filled)),
        visit("2027-02-20 09:00", topped),
        visit("2027-02-20 18:00", Visit { minutes: Some(16), ..crate::common::done(Check::LookIn) }),
        case("2027-02-21 09:00", "aphids", CaseOutcome::Opened),
        case("2027-02-24 09:00", "aphids", CaseOutcome::Gone),
        case("2027-02-27 09:00", "aphids", CaseOutcome::Gone),
        visit("2027-03-01 09:00", picked(false, Some(60.0), None)),
        visit("2027-03-08 09:00", picked(false, Some(90.0), None)),
    ];
    let mut garden = turned(lit(), basil, Stage::Vegetative, "2027-02-15", &log, "2027-03-09 09:00");
    let alone = story(BASIL, &garden.planted[0], &log, &prices(), None, &garden.situation()).said();
    assert_eq!((alone.days, alone.over), (36, false));
    assert_eq!(alone.water, "90.0 L of water, its share by ports", "the water of before it was planted is not its");
    assert_eq!(alone.products, ["Leaf feed A: 200 mL"]);
    assert_eq!(alone.harvest, "Picked 2 times: 150 g.");
    assert_eq!(
        alone.minutes.as_deref(),
        Some("16 minutes of work, its share by ports, by the visit of 7 that were timed")
    );
    assert_eq!(alone.cost, ["2.50 € of products, by the prices of 1 of 1"]);
    assert_eq!(alone.cases, ["Aphids: Sun 21 Feb, 6 days"]);
    let stages: Vec<_> = alone.stages.iter().map(|stood| (stood.stage.as_str(), stood.days)).collect();
    assert_eq!(stages, [("Seedling", 14), ("Vegetative", 22)]);
    assert_eq!(alone.told, "Basil has stood here for 36 days, since Mon 1 Feb. Picked 2 times: 150 g.");
    // Beside twelve ports of dill it is a quarter of what was poured.
    garden.planted.push(Timeline::always(planting("Dill", (5, 16), Stage::Vegetative)));
    let quarter = story(BASIL, &garden.planted[0], &log, &prices(), None, &garden.situation()).said();
    assert_eq!(quarter.water, "22.5 L of water, its share by ports");
    assert_eq!(quarter.products, ["Leaf feed A: 50.0 mL"]);
    // Done, it is told as over, by the day on which it was.
    let garden = turned(
        lit(),
        planting("Basil", (1, 4), Stage::Vegetative),
        Stage::Done,
        "2027-03-02",
        &log,
        "2027-03-09 09:00",
    );
    let over = story(BASIL, &garden.planted[0], &log, &prices(), None, &garden.situation()).said();
    assert!(over.over && over.days == 29, "{over:?}");
}

/// Half a litre of the feed for 6.25.
fn prices() -> std::collections::BTreeMap<Uuid, mopsel_core::mixing::Price> {
    let price = mopsel_core::mixing::Price { paid: 6.25, money: name("€"), holds: 500.0 };
    [(Uuid::from_u128(5), price)].into()
}

#[test]
fn what_was_picked_whole_is_taken_out_and_its_ports_are_freed() {
    let log = [crate::common::noted("2027-02-20 09:00"), visit("2027-03-08 09:00", picked(true, Some(200.0), None))];
    let mut garden = Garden::new(lit(), grown(), &log, "2027-03-09 09:00");
    garden.planting_ids = vec![BASIL];
    let free = task(&garden, "picked_whole").unwrap();
    assert_eq!((free.name.as_str(), free.adult), ("Free the ports of Basil", true));
    assert!(free.way.is_some_and(|way| way.to == mopsel_core::way::WayTo::Plantings));
    assert!(task(&garden.for_child(), "picked_whole").is_none());
    let done = [crate::common::noted("2027-02-20 09:00"), visit("2027-03-08 09:00", picked(true, None, None))];
    let mut garden = turned(lit(), grown().remove(0), Stage::Done, "2027-03-08", &done, "2027-03-09 09:00");
    garden.planting_ids = vec![BASIL];
    assert!(task(&garden, "picked_whole").is_none());
}

#[test]
fn what_was_sprayed_lately_is_minded_at_the_harvest() {
    let said = |log: &[Entry], now: &str| {
        let garden = Garden::new(lit(), grown(), log, now);
        mopsel_core::care::cycle::picking_caution(&garden.situation()).said()
    };
    let oil = Visit { events: vec![Happened::Sprayed { with: Spray::Oil }], ..Visit::default() };
    let log = [visit("2027-03-01 09:00", oil)];
    assert_eq!(
        said(&log, "2027-03-09 09:00"),
        "Sprayed with plant oil on Mon 1 Mar: wait the days to harvest on each label first. Wash what is picked."
    );
    assert_eq!(said(&log, "2027-04-09 09:00"), "Wash what is picked.");
    // A second spray does not hide the first: its label may ask for more days.
    let soap = Visit { events: vec![Happened::Sprayed { with: Spray::Soap }], ..Visit::default() };
    let both = [log[0].clone(), visit("2027-03-05 09:00", soap)];
    let told = said(&both, "2027-03-09 09:00");
    assert!(told.contains("plant oil on Mon 1 Mar") && told.contains("soap"), "{told}");
}
