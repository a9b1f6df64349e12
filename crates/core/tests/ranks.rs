//! What comes first, and since when: danger before all neglect, and nothing late from before its cause.

use crate::common::{Garden, celsius, child, done, ec, level, noted, planting, system, visit, zone};
use jiff::Timestamp;
use jiff::civil::Date;
use mopsel_core::calendar::{add_days, start_of};
use mopsel_core::care::fit::{Worth, fit};
use mopsel_core::care::follow_up::danger;
use mopsel_core::care::sheet::rows;
use mopsel_core::care::walk::{Stop, walk};
use mopsel_core::care::{FromList, comes_first, from_list, pressing};
use mopsel_core::crop::{Planting, Stage, crops};
use mopsel_core::fact::{Entry, Holds, Running, Timeline, Version, Visit};
use mopsel_core::system::{Every, Kind, OwnRule, System, checks, kinds};
use mopsel_core::verdict::Rank;
use proptest::prelude::*;
use uuid::Uuid;

const NOW: &str = "2027-03-09 09:00";

/// A level and a strength, read together.
fn full(when: &str, litres: f64, strength: f64) -> Entry {
    visit(when, Visit { ec: Some(ec(strength)), ..level(litres) })
}

/// Each fault that a system can have, with what it comes before.
fn faults(system: &System) -> Vec<(&'static str, Running, Rank)> {
    let all = [
        ("dry_floor", Running { dry_floor: Some(false), ..Running::default() }, Rank::People),
        ("plug_right", Running { plug_right: Some(false), ..Running::default() }, Rank::People),
        ("bottles_away", Running { bottles_away: Some(false), ..Running::default() }, Rank::People),
        ("bubbles", Running { bubbles: Some(false), ..Running::default() }, Rank::Hours),
        ("water_sounds_right", Running { water_sounds_right: Some(false), ..Running::default() }, Rank::Hours),
        ("outlets_wet", Running { outlets_wet: Some(false), ..Running::default() }, Rank::Hours),
    ];
    let there = Running::parts(&system.traits, true);
    all.into_iter().filter(|(part, ..)| there.contains(part)).collect()
}

#[test]
fn a_danger_is_first_over_any_neglect_and_stays_until_somebody_sees_it_mended() {
    for facts in kinds() {
        for (part, seen, rank) in faults(&system(facts.key)) {
            for last in ["2027-03-09 08:00", "2027-03-04 08:00", "2027-01-10 08:00"] {
                let log = [
                    full(last, 80.0, 1.5),
                    visit("2027-03-09 08:30", Visit { running: Some(seen), ..Visit::default() }),
                ];
                let kale = || vec![planting("Kale", (1, 4), Stage::Vegetative)];
                let mut garden = Garden::new(system(facts.key), kale(), &log, NOW);
                let plug = garden.system.traits.aerated || garden.system.traits.pumped() || garden.system.traits.light;
                let rank = if rank == Rank::People && !plug && part != "bottles_away" { Rank::Hours } else { rank };
                let is_first = |garden: &Garden| {
                    let tasks = garden.tasks();
                    assert!(tasks.windows(2).all(|two| comes_first(two[0].order(), two[1].order()).is_le()));
                    pressing(&tasks).cloned().filter(|first| first.code == "running")
                };
                let first =
                    is_first(&garden).unwrap_or_else(|| panic!("{:?} {part}: {:?}", facts.key, garden.tasks()[0]));
                assert_eq!(first.rank, rank, "{:?} {part}", facts.key);
                assert!(first.safe.to_lowercase().ends_with("act now"), "{first:?}");
                assert!(!first.safe_why.contains("no harm") && !first.movable, "{first:?}");
                garden.log(visit("2027-03-09 08:40", level(80.0)));
                assert!(is_first(&garden).is_some(), "{part}: other work does not mend it");
                let mended = Running {
                    dry_floor: seen.dry_floor.map(|_| true),
                    bubbles: seen.bubbles.map(|_| true),
                    water_sounds_right: seen.water_sounds_right.map(|_| true),
                    outlets_wet: seen.outlets_wet.map(|_| true),
                    plug_right: seen.plug_right.map(|_| true),
                    valve_right: seen.valve_right.map(|_| true),
                    bottles_away: seen.bottles_away.map(|_| true),
                    ..Running::default()
                };
                garden.log(visit("2027-03-09 08:50", Visit { running: Some(mended), ..Visit::default() }));
                assert!(is_first(&garden).is_none(), "{part} was seen mended");
            }
        }
    }
}

#[test]
fn a_child_is_told_first_to_step_back_and_tell_an_adult() {
    let leak = Visit { running: Some(Running { dry_floor: Some(false), ..Running::default() }), ..Visit::default() };
    let log = [noted("2027-01-10 08:00"), visit("2027-03-09 08:30", leak)];
    let garden = Garden::new(system(Kind::FilmChannel), vec![planting("Kale", (1, 4), Stage::Vegetative)], &log, NOW);
    let first = Garden { actor: child(), ..garden }.tasks().remove(0);
    assert_eq!((first.rank, first.name.as_str()), (Rank::People, "Tell an adult now"));
    let mut of_child = Garden::new(system(Kind::FilmChannel), vec![], &log, NOW);
    of_child.actor = child();
    let said = mopsel_core::care::tasks(&of_child.situation()).remove(0);
    let doing = crate::common::told(said.doing, crate::common::CHILD);
    assert!(doing.starts_with("Step back from the water"), "{doing}");
}

#[test]
fn nobody_sends_children_to_a_danger_and_no_list_calls_it_fine() {
    let looked = |part: &str, right: bool| {
        let seen = serde_json::json!({ "running": { part: right } });
        visit("2027-03-09 08:30", serde_json::from_value(seen).unwrap())
    };
    let days: Vec<Date> = (0..7).map(|n| add_days(jiff::civil::date(2027, 3, 8), n)).collect();
    let kale = || vec![planting("Kale", (1, 4), Stage::Vegetative)];
    for (part, people) in [("dry_floor", true), ("plug_right", true), ("bottles_away", true), ("bubbles", false)] {
        let log = [full("2027-03-08 08:00", 85.0, 1.5), looked(part, false)];
        let mut garden = Garden::new(system(Kind::AeratedRaft), kale(), &log, NOW);
        let sent = |garden: &Garden| rows(&days, &garden.situation()).iter().any(|row| !row.due.is_empty());
        assert_eq!(sent(&garden), !people, "{part}");
        assert_eq!(danger(&garden.situation()).is_some(), people, "{part}");
        let all = mopsel_core::care::tasks(&garden.situation());
        assert_eq!(from_list(&all, false, &garden.situation()).0, FromList::Never, "{part}");
        let look_in = garden.task("look_in");
        assert!(!look_in.one_tap && look_in.way.is_some(), "{part}: it asks how that is now");
        garden.log(looked(part, true));
        assert!(sent(&garden) && danger(&garden.situation()).is_none(), "{part}");
    }
    let log = [full("2027-03-08 08:00", 85.0, 1.5), looked("dry_floor", false)];
    let jar = Garden::new(system(Kind::StillWater), kale(), &log, NOW);
    let first = pressing(&jar.tasks()).cloned().unwrap();
    let plug = jar.system.traits.mains();
    assert_eq!(
        (danger(&jar.situation()).is_some(), first.rank <= Rank::Hours),
        (plug, true),
        "a jar without a plug only runs dry"
    );
}

#[test]
fn rot_that_is_due_comes_before_routine_however_late_and_its_next_look_waits_for_its_day() {
    let rot = serde_json::json!({ "roots": { "answers": { "slime_or_browning": true } } });
    let seen = visit("2027-03-08 18:00", serde_json::from_value(rot).unwrap());
    let log = [noted("2027-02-10 08:00"), full("2027-03-08 08:00", 85.0, 1.5), seen];
    let garden = Garden::new(system(Kind::AeratedRaft), vec![planting("Kale", (1, 4), Stage::Vegetative)], &log, NOW);
    let tasks = garden.tasks();
    let place = |code: &str| tasks.iter().position(|task| task.code == code).unwrap();
    assert!(place("root_treat") < place("wipe_down"), "{:?}", tasks.iter().map(|t| &t.code).collect::<Vec<_>>());
    assert_eq!(garden.task("root_look").rank, Rank::Routine, "its day has not come");
}

proptest! {
    /// Whatever else there is to do and however little time there is, what waits for nothing is done, and first.
    #[test]
    fn dangers_are_walked_to_first_and_fit_in_any_minutes(
        all in prop::collection::vec((0u8..4, any::<bool>(), -9.0f64..9.0, 1u16..60), 1..20),
        minutes in 0u16..120,
    ) {
        let rank = |n: u8| [Rank::People, Rank::Hours, Rank::Days, Rank::Routine][usize::from(n)];
        let stops: Vec<Stop> = all.iter().map(|(n, suspect, margin_days, _)| {
            Stop { place: Uuid::from_u128(u128::from(*n % 2)), suspect: *suspect, turn: None, rank: rank(*n), margin_days: *margin_days }
        }).collect();
        let order = walk(&stops);
        let now = stops.iter().filter(|stop| stop.is_now()).count();
        prop_assert!(order[..now].iter().all(|n| stops[*n].is_now()));
        prop_assert!(order[..now].windows(2).all(|two| stops[two[0]].rank <= stops[two[1]].rank));
        let worth: Vec<Worth> = all.iter().map(|(n, _, wins, minutes)| Worth { minutes: *minutes, wins: *wins, now: rank(*n) <= Rank::Hours }).collect();
        let chosen = fit(&worth, minutes);
        prop_assert!((0..worth.len()).filter(|n| worth[*n].now).all(|n| chosen.contains(&n)));
        let rest: u16 = chosen.iter().filter(|n| !worth[**n].now).map(|n| worth[*n].minutes).sum();
        prop_assert!(rest <= minutes);
    }
}

/// A card that said one thing and was told another today, which is said to hold from some day.
fn edited<T: Clone + serde::Serialize + serde::de::DeserializeOwned>(
    was: T,
    is: T,
    from: Option<Date>,
    now: Timestamp,
) -> Timeline<T> {
    let version = |holds, made, says| Version { holds, archived: false, made, says };
    let first = version(Holds::Always, start_of(jiff::civil::date(2027, 1, 1), &zone()), was);
    Timeline::new(&first, &[version(from.map_or(Holds::Always, Holds::From), now, is)], &zone())
}

/// What is late, by its code.
fn late(garden: &Garden) -> Vec<String> {
    garden.tasks().into_iter().filter(|task| task.days_late > 0).map(|task| task.code.into_owned()).collect()
}

#[test]
fn another_interval_makes_nothing_less_late_that_was_late_before() {
    let log =
        [visit("2027-02-10 08:00", done(mopsel_core::system::Check::Stone)), visit("2027-03-08 08:00", level(75.0))];
    let told = |every: u16| {
        let was = System { intervals: [(mopsel_core::system::Check::Stone, 7)].into(), ..system(Kind::AeratedRaft) };
        let is = System { intervals: [(mopsel_core::system::Check::Stone, every)].into(), ..was.clone() };
        let mut garden = Garden::new(is.clone(), vec![], &log, NOW);
        garden.history = edited(was, is, None, garden.now.timestamp());
        garden.task("stone").days_late
    };
    assert_eq!((told(3), told(14), told(60)), (20, 13, -33));
}

proptest! {
    /// A stage, a part, an interval, a rule of one's own, a planting, a warm reading: what is told today makes nothing late
    /// today that was not late before it was told.
    #[test]
    fn nothing_is_late_from_before_anybody_knew_its_cause(
        kind in 0..kinds().len(),
        crop in 0..crops().len(),
        (before, after) in (0usize..6, 0usize..6),
        dated_back in prop::option::of(0i64..60),
        told in 0u8..6,
        looked in prop::collection::vec((0i64..60, 0usize..checks_many()), 0..12),
        first in 1i64..60,
    ) {
        let stages = [Stage::Germinating, Stage::Seedling, Stage::Vegetative, Stage::Flowering, Stage::Fruiting, Stage::Ripening];
        let today = jiff::civil::date(2027, 3, 9);
        let of = system(kinds()[kind].key);
        let grown = |stage| planting(&crops()[crop].name, (1, 4), stage);
        let on = |ago: i64| format!("{} 08:00", add_days(today, -ago));
        let mut log: Vec<Entry> = vec![full(&on(first.max(2)), 80.0, 1.2)];
        let mut times: Vec<_> = looked.iter().filter(|(ago, _)| *ago < first && *ago > 0).collect();
        times.sort_by_key(|(ago, _)| -*ago);
        log.extend(times.iter().map(|(ago, n)| visit(&on(*ago), done(checks()[*n].key))));
        log.push(visit("2027-03-08 08:00", level(75.0)));
        let from = dated_back.map(|ago| add_days(today, -ago));
        let mut was = Garden::new(of.clone(), vec![grown(stages[before])], &log, NOW);
        let mut is = Garden::new(of.clone(), vec![grown(stages[before])], &log, NOW);
        let now = was.now.timestamp();
        let change = |system: &mut System| match told {
            0 => system.change_days = 2,
            1 => { system.intervals.extend(checks().iter().map(|facts| (facts.key, 1))); }
            2 => system.rules.push(OwnRule {
                id: Uuid::from_u128(5), name: mopsel_core::quantity::Name::new("Sweep").unwrap(),
                every: Every::Days { days: 3 }, slack_days: 1.0, adult: false, warmer_than: None,
            }),
            _ => {}
        };
        match told {
            0..=2 => {
                change(&mut is.system);
                is.history = edited(of, is.system.clone(), from, now);
            }
            3 => {
                let plant = |stage| Planting { planted_on: add_days(today, -70), ..grown(stage) };
                was.planted = vec![Timeline::always(plant(stages[before]))];
                is.planted = vec![edited(plant(stages[before]), plant(stages[after]), from, now)];
                was.plantings = vec![plant(stages[before])];
                is.plantings = vec![plant(stages[after])];
            }
            4 => is.log(visit(NOW, Visit { temperature: Some(celsius(29.0)), ..Visit::default() })),
            _ => {
                (was.plantings, was.planted) = (vec![], vec![]);
                is.plantings = vec![Planting { planted_on: today, ..grown(stages[after]) }];
                is.planted = is.plantings.iter().cloned().map(Timeline::always).collect();
            }
        }
        let known = late(&was);
        let new: Vec<_> = late(&is).into_iter().filter(|code| !known.contains(code)).collect();
        prop_assert!(new.is_empty(), "{new:?} late by what was told today ({told})");
    }
}

fn checks_many() -> usize {
    checks().len()
}
