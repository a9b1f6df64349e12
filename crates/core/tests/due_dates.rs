//! When things are due, and what the margin says.

use crate::common::{Garden, Said, at, celsius, done, ec, entry, level, noted, ph, planting, system, tub, visit};
use jiff::civil::date;
use mopsel_core::calendar::{Calendar, Weekday, add_days, end_of};
use mopsel_core::care::{Standing, Urgency, pressing, tasks};
use mopsel_core::crop::{CropGroup, Planting, Stage};
use mopsel_core::fact::{
    Body, Change, Clarity, RootAnswers, Roots, Running, Smell, TopOff, TopOffWater, Treatment, TreatmentKind, Visit,
    WaterGlass,
};
use mopsel_core::quantity::{Litres, Name};
use mopsel_core::system::Check;
use mopsel_core::system::{Kind, Measuring, System};
use mopsel_core::way::WayTo;
use proptest::prelude::*;

const NOW: &str = "2027-03-09 08:30"; // a Tuesday

fn fine(when: &str) -> mopsel_core::fact::Entry {
    visit(when, Visit { all_fine: true, ..Visit::default() })
}

fn changed(when: &str) -> mopsel_core::fact::Entry {
    entry(when, Body::Change(Change::full(crate::common::l(90.0))))
}

#[test]
fn a_first_filling_waits_without_plants_and_with_them_grows_more_urgent_each_day() {
    let task = |plants: Vec<Planting>, now: &str| {
        let garden = Garden::new(system(Kind::StillWater), plants, &[], now);
        garden.task("first_fill")
    };
    let plants = || vec![Planting { planted_on: date(2027, 3, 1), ..planting("Lettuce", (1, 4), Stage::Seedling) }];
    for now in ["2027-03-02 08:30", "2027-03-09 08:30"] {
        let empty = task(vec![], now);
        assert_eq!((empty.days_late, empty.standing), (0, Standing::Today), "an empty vessel waits: {now}");
    }
    let (first, later) = (task(plants(), "2027-03-02 08:30"), task(plants(), "2027-03-09 08:30"));
    assert_eq!((first.due_on, later.due_on), (date(2027, 3, 1), date(2027, 3, 1)), "the day does not move");
    assert!(later.margin_days < first.margin_days - 6.9 && later.margin_days < -6.0, "{}", later.margin_days);
    assert_eq!(later.reason, "Plants have been in it since Mon 1 Mar, and no water is recorded.");
}

#[test]
fn an_interval_counts_in_days_of_the_place_and_lateness_from_the_days_end() {
    let garden = Garden::new(
        system(Kind::Tower),
        vec![planting("Kale", (1, 9), Stage::Vegetative)],
        &[visit("2027-02-25 23:50", done(Check::WipeDown))],
        NOW,
    );
    let task = garden.task("wipe_down");
    assert_eq!((task.due_on, task.days_late, task.standing), (date(2027, 3, 4), 5, Standing::Late));
    // End of 4 March, 14 days of slack, less the 4 days and 8.5 hours gone.
    assert!((task.margin_days - (14.0 - 4.0 - 8.5 / 24.0)).abs() < 1e-9, "{}", task.margin_days);
}

#[test]
fn a_day_in_which_the_clocks_change_is_still_one_day() {
    // Clocks go forward in the night to 28 March 2027.
    let garden = Garden::new(system(Kind::Tower), vec![], &[fine("2027-03-27 09:00")], "2027-03-28 09:00");
    let task = garden.task("look_in");
    assert_eq!((task.due_on, task.days_late), (date(2027, 3, 28), 0));
    assert!((task.margin_days - (15.0 / 24.0 + 0.5)).abs() < 1e-9);
    let short = end_of(date(2027, 3, 28), &crate::common::zone())
        .duration_since(end_of(date(2027, 3, 27), &crate::common::zone()));
    assert_eq!(short.as_hours(), 23);
}

#[test]
fn look_ins_count_open_days_only() {
    let weekdays = &Weekday::ALL[..5];
    let garden =
        Garden::new(system(Kind::Tower), vec![], &[fine("2027-03-05 10:00")], "2027-03-07 10:00").open(weekdays);
    assert_eq!(garden.task("look_in").due_on, date(2027, 3, 8), "Friday's look-in is followed by Monday's");
}

#[test]
fn closed_days_move_a_task_by_what_its_slack_allows() {
    let open = Calendar::weekly(&Weekday::ALL[..5]).unwrap();
    let saturday = date(2027, 3, 6);
    assert_eq!(open.settle(saturday, 4.0), date(2027, 3, 8), "enough slack: the first open day after");
    assert_eq!(open.settle(saturday, 1.0), date(2027, 3, 5), "too little: the last open day before");
    assert!(Calendar::weekly(&[]).is_err());
}

#[test]
fn film_channels_rinse_their_meshes_daily_others_weekly_and_some_never() {
    let log = [visit("2027-03-08 09:00", done(Check::Filters))];
    assert_eq!(Garden::new(system(Kind::FilmChannel), vec![], &log, NOW).task("filters").due_on, date(2027, 3, 9));
    assert_eq!(Garden::new(system(Kind::SprayTote), vec![], &log, NOW).task("filters").due_on, date(2027, 3, 15));
    assert!(Garden::new(tub(), vec![], &[fine("2027-03-08 09:00")], NOW).tasks().iter().all(|t| t.code != "filters"));
}

#[test]
fn how_it_is_measured_decides_how_often() {
    let log = [visit("2027-03-08 09:00", Visit { ph: Some(ph(6.0)), ..Visit::default() })];
    let due = |measuring| {
        let tower = System { measuring, ..system(Kind::Tower) };
        Garden::new(tower, vec![], &log, NOW).tasks().into_iter().find(|t| t.code == "readings").map(|t| t.due_on)
    };
    assert_eq!(due(Measuring::Meter), Some(date(2027, 3, 11)));
    assert_eq!(due(Measuring::DropKit), Some(date(2027, 3, 15)));
    assert_eq!(due(Measuring::RecipeOnly), None);
}

#[test]
fn an_own_interval_wins_and_zero_leaves_the_check_out() {
    let mut tower = system(Kind::Tower);
    tower.intervals.insert(Check::WipeDown, 30);
    tower.intervals.insert(Check::Light, 0);
    let garden = Garden::new(tower, vec![], &[visit("2027-03-01 09:00", done(Check::WipeDown))], NOW);
    assert_eq!(garden.task("wipe_down").due_on, date(2027, 3, 31));
    assert!(garden.tasks().iter().all(|t| t.code != "light"));
}

#[test]
fn what_was_never_done_is_not_late_by_the_age_of_the_system() {
    let garden = Garden::new(system(Kind::Tower), vec![], &[crate::common::noted("2027-03-09 08:00")], NOW);
    assert!(garden.tasks().iter().all(|t| t.days_late <= 0), "{:?}", garden.tasks());
    assert_eq!(garden.task("level").standing, Standing::Today);
}

#[test]
fn warm_or_scarce_water_halves_the_slack_of_what_is_sensitive() {
    let warm = |t: f64| {
        let log = [visit(
            "2027-03-08 09:00",
            Visit { temperature: Some(celsius(t)), all_fine: true, done: vec![Check::WipeDown], ..Visit::default() },
        )];
        Garden::new(system(Kind::Tower), vec![planting("Kale", (1, 4), Stage::Vegetative)], &log, NOW)
    };
    assert_eq!(warm(23.9).task("look_in").slack_days, 0.5);
    assert_eq!(warm(24.0).task("look_in").slack_days, 0.25);
    assert!(warm(24.0).task("look_in").reason.contains("halves the slack"));
    assert_eq!(warm(24.0).task("wipe_down").slack_days, 14.0, "wiping down is not sensitive");
    let crowded = Garden::new(
        system(Kind::SprayTote),
        vec![planting("Mint", (1, 60), Stage::Seedling)],
        &[fine("2027-03-08 09:00")],
        NOW,
    );
    assert_eq!(crowded.task("look_in").slack_days, 0.25);
}

#[test]
fn the_level_is_due_before_the_water_reaches_its_minimum() {
    let top = |litres: f64, add: f64| Visit {
        top_off: Some(TopOff { litres: crate::common::l(add), water: TopOffWater::Plain }),
        ..level(litres)
    };
    let log = [
        visit("2027-03-05 08:30", top(90.0, 0.1)),
        visit("2027-03-06 08:30", level(73.0)),
        visit("2027-03-08 08:30", top(39.0, 45.0)),
    ];
    let garden = Garden::new(system(Kind::BucketChain), vec![], &log, NOW);
    let task = garden.task("level");
    // 84 L left on the 8th, 44 above the minimum at 17 L a day: 2.59 days, a fifth of it in hand.
    let act_by = at("2027-03-08 08:30").as_second() as f64 + 44.0 / 17.0 * 0.8 * 86_400.0;
    let margin = (act_by - at(NOW).as_second() as f64) / 86_400.0 + 0.5;
    assert!((task.margin_days - margin).abs() < 0.05, "{} {margin}", task.margin_days);
    assert!(task.reason.contains("17.0 L a day") && task.reason.contains("40.0 L"), "{}", task.reason);
}

#[test]
fn a_change_is_due_at_the_earliest_of_its_rules_and_says_which() {
    let raft = || System { traits: Kind::AeratedRaft.facts().traits, ..system(Kind::AeratedRaft) };
    let change = |log: &[mopsel_core::fact::Entry]| {
        Garden::new(raft(), vec![planting("Kale", (1, 4), Stage::Vegetative)], log, NOW).task("change")
    };
    let by_days = change(&[changed("2027-02-24 09:00")]);
    assert_eq!(by_days.due_on, date(2027, 3, 10));
    assert!(by_days.reason.starts_with("By the 14-day rule"), "{}", by_days.reason);

    let warm = change(&[
        changed("2027-03-05 09:00"),
        visit("2027-03-06 09:00", Visit { temperature: Some(celsius(26.7)), ..Visit::default() }),
    ]);
    assert_eq!(warm.due_on, date(2027, 3, 12));
    assert!(warm.reason.contains("halved to 7 days"), "{}", warm.reason);

    let cloudy = WaterGlass { clarity: Clarity::WhiteCloud, smell: None };
    let signs = change(&[
        changed("2027-03-05 09:00"),
        visit("2027-03-08 09:00", Visit { glass: Some(cloudy), ..Visit::default() }),
    ]);
    assert_eq!(signs.due_on, date(2027, 3, 8));
    assert!(
        signs.reason.contains("white cloud") && signs.reason.contains("otherwise by the 14-day rule"),
        "{}",
        signs.reason
    );

    let spent = change(&[
        changed("2027-03-05 09:00"),
        visit("2027-03-07 09:00", Visit { ec: Some(ec(0.45)), ..Visit::default() }),
    ]);
    assert!(spent.reason.contains("spent"), "{}", spent.reason);

    let top_off = |n: u32| {
        visit(
            &format!("2027-03-0{n} 09:00"),
            Visit {
                top_off: Some(TopOff { litres: crate::common::l(45.0), water: TopOffWater::Plain }),
                ..level(45.0)
            },
        )
    };
    let turned = change(&[changed("2027-03-03 09:00"), top_off(5), top_off(7)]);
    assert_eq!(turned.due_on, date(2027, 3, 7));
    assert!(turned.reason.contains("turnover"), "{}", turned.reason);
}

fn rot(when: &str, stage2: bool) -> mopsel_core::fact::Entry {
    visit(
        when,
        Visit {
            roots: Some(Roots {
                answers: RootAnswers { slime_or_browning: Some(stage2), ..RootAnswers::SOUND },
                ports: None,
            }),
            ..Visit::default()
        },
    )
}

#[test]
fn root_rot_is_treated_dosed_again_looked_at_and_closed_by_two_sound_looks() {
    let tote = || System { traits: Kind::AeratedRaft.facts().traits, ..system(Kind::AeratedRaft) };
    let ask = |log: &[mopsel_core::fact::Entry]| {
        Garden::new(tote(), vec![planting("Mint", (1, 4), Stage::Vegetative)], log, NOW)
    };
    let mut log = vec![changed("2027-03-01 09:00"), rot("2027-03-03 09:30", true)];
    let found = ask(&log);
    assert!(found.task("root_treat").adult);
    assert_eq!(found.task("root_look").due_on, date(2027, 3, 5));
    assert!(found.task("change").reason.contains("disease"));
    assert!(found.tasks().iter().all(|t| t.code != "roots"), "the case replaces the routine look");

    log.push(entry(
        "2027-03-04 10:00",
        Body::Treatment(Treatment { what: TreatmentKind::PeroxideDose, amount_ml: None, ports: None, note: None }),
    ));
    log.push(changed("2027-03-04 11:00"));
    let treated = ask(&log);
    assert_eq!(treated.task("peroxide").due_on, date(2027, 3, 9));
    assert!(!treated.task("change").reason.contains("disease"));

    log.push(rot("2027-03-06 09:00", false));
    assert_eq!(ask(&log).task("root_look").due_on, date(2027, 3, 7));
    log.push(rot("2027-03-08 09:00", false));
    let closed = ask(&log);
    assert!(
        closed.tasks().iter().all(|t| !t.code.starts_with("root_") && t.code != "peroxide"),
        "two sound looks close it"
    );
    assert_eq!(closed.task("roots").due_on, date(2027, 3, 15));
}

#[test]
fn a_fault_stays_a_task_until_someone_sees_it_mended() {
    let seen = |bubbles| Visit { running: Some(Running { bubbles, ..Running::default() }), ..Visit::default() };
    let raft = || System { traits: Kind::AeratedRaft.facts().traits, ..system(Kind::AeratedRaft) };
    let mut log = vec![
        visit("2027-03-08 09:00", seen(Some(false))),
        visit(
            "2027-03-08 12:00",
            Visit { running: Some(Running { dry_floor: Some(true), ..Running::default() }), ..Visit::default() },
        ),
    ];
    let task = Garden::new(raft(), vec![], &log, NOW).task("running");
    assert!(task.name.contains("no bubbles") && task.urgency == Urgency::Hand, "{task:?}");
    log.push(visit("2027-03-08 13:00", seen(Some(true))));
    assert!(Garden::new(raft(), vec![], &log, NOW).tasks().iter().all(|t| t.code != "running"));
}

#[test]
fn a_ph_out_of_its_band_stays_on_the_round_until_it_is_back() {
    let read = |when: &str, value: f64| visit(when, Visit { ph: Some(ph(value)), ..Visit::default() });
    let mut log = vec![read("2027-03-08 09:00", 7.2)];
    let task = Garden::new(system(Kind::Tower), vec![], &log, NOW).task("ph");
    assert_eq!((&*task.name, task.slack_days), ("Bring the pH down", 3.0));
    log.push(read("2027-03-08 19:00", 6.1));
    assert!(Garden::new(system(Kind::Tower), vec![], &log, NOW).tasks().iter().all(|t| t.code != "ph"));
}

#[test]
fn a_look_in_that_is_not_late_never_hides_what_presses() {
    let log = [
        fine("2027-03-08 09:00"),
        visit(
            "2027-03-08 09:01",
            Visit {
                glass: Some(WaterGlass { clarity: Clarity::Green, smell: Some(Smell::Earthy) }),
                ..Visit::default()
            },
        ),
    ];
    let garden = Garden::new(system(Kind::Tower), vec![], &log, NOW);
    let tasks = garden.tasks();
    assert_ne!(pressing(&tasks).unwrap().code, "look_in");
    let late = Garden::new(system(Kind::Tower), vec![], &[fine("2027-03-01 09:00")], NOW);
    assert_eq!(pressing(&late.tasks()).unwrap().code, "look_in", "a late one counts");
}

#[test]
fn harvest_is_due_when_the_crop_is_ready_and_then_weekly() {
    let lettuce = vec![planting("Lettuce", (1, 4), Stage::Vegetative)];
    let garden = Garden::new(system(Kind::Tower), lettuce.clone(), &[fine("2027-03-08 09:00")], NOW);
    assert_eq!(garden.task("harvest").due_on, add_days(date(2027, 2, 1), 45));
    let picked = Garden::new(
        system(Kind::Tower),
        lettuce,
        &[visit("2027-03-20 09:00", done(Check::Harvest))],
        "2027-03-21 09:00",
    );
    assert_eq!(picked.task("harvest").due_on, date(2027, 3, 27));
}

proptest! {
    /// Whatever the calendar and the past, doing a check never brings its due date forward.
    #[test]
    fn due_dates_never_move_backwards_when_a_task_is_done(open in 1u8..128, gap in 0i64..40, which in 0usize..6) {
        let check = [Check::LookIn, Check::WipeDown, Check::Sprayers, Check::Filters, Check::Pests, Check::Light][which];
        let days: Vec<Weekday> = Weekday::ALL.into_iter().enumerate().filter(|(i, _)| open & (1 << i) != 0).map(|(_, d)| d).collect();
        let tower = || System { traits: mopsel_core::system::Traits { mesh_filters: true, ..Kind::Tower.facts().traits }, ..system(Kind::Tower) };
        let grown = vec![planting("Kale", (1, 4), Stage::Vegetative)];
        let first = add_days(date(2027, 3, 9), -gap);
        let act = |when: String| if check == Check::LookIn { fine(&when) } else { visit(&when, done(check)) };
        let mut log = vec![act(format!("{first} 07:00"))];
        let before = Garden::new(tower(), grown.clone(), &log, NOW).open(&days).task(check.code());
        log.push(act("2027-03-09 08:00".to_owned()));
        let after = Garden::new(tower(), grown, &log, NOW).open(&days).task(check.code());
        prop_assert!(after.due_on >= before.due_on, "{} then {}", before.due_on, after.due_on);
        prop_assert!(after.due_on > date(2027, 3, 9), "and it is not due again on the day it was done");
    }

    #[test]
    fn settled_days_are_open(open in 1u8..128, offset in 0i64..400, slack in 0.0..20.0f64) {
        let days: Vec<Weekday> = Weekday::ALL.into_iter().enumerate().filter(|(i, _)| open & (1 << i) != 0).map(|(_, d)| d).collect();
        let calendar = Calendar::weekly(&days).unwrap();
        prop_assert!(calendar.is_open(calendar.settle(add_days(date(2027, 1, 1), offset), slack)));
    }

    #[test]
    fn a_thirstier_system_is_never_due_later(a in 1.0..20.0f64, b in 1.0..20.0f64) {
        let margin = |a_day: f64| {
            let log = [visit("2027-03-06 08:30", level(90.0)), visit("2027-03-08 08:30", level(90.0 - 2.0 * a_day))];
            Garden::new(system(Kind::BucketChain), vec![], &log, NOW).task("level").margin_days
        };
        let (low, high) = if a < b { (a, b) } else { (b, a) };
        prop_assert!(margin(high) <= margin(low) + 1e-9);
    }
}

#[test]
fn litres_never_go_below_zero() {
    let log = [visit("2027-01-05 08:30", level(90.0)), visit("2027-01-07 08:30", level(50.0))];
    let garden = Garden::new(system(Kind::BucketChain), vec![], &log, NOW);
    assert_eq!(garden.situation().water().litres().map(|litres| litres.value), Some(Litres::ZERO));
}

/// A stage seems due by its usual days, counted from when it began; it asks, again each week while it has not come,
/// leads to where it is moved, and does not outshout what presses.
#[test]
fn a_stage_that_seems_due_is_asked_about_and_never_moved() {
    let mut young = planting("Lettuce", (1, 4), Stage::Seedling);
    young.planted_on = "2027-02-20".parse().unwrap();
    let garden = |plants: &[Planting], log: &[mopsel_core::fact::Entry], now: &str| {
        let log = [&[noted("2027-02-20 09:00")], log].concat();
        Garden::new(system(Kind::AeratedRaft), plants.to_vec(), &log, now)
    };
    let stage =
        |garden: &Garden| tasks(&garden.situation()).into_iter().find(|task| task.code == "stage").map(Said::said);
    let asked = |plants: &[Planting], now: &str| stage(&garden(plants, &[], now));
    let due = asked(std::slice::from_ref(&young), "2027-03-01 09:00").unwrap();
    assert_eq!(due.due_on.to_string(), "2027-03-06");
    assert!(due.reason.starts_with("Lettuce: vegetative yet? Counted from Sat 20 Feb"), "{}", due.reason);
    assert!(due.reason.contains("ends after 14 days") && due.reason.contains("1.20–1.80 mS/cm"), "{}", due.reason);
    assert_eq!(due.way.unwrap().to, WayTo::Plantings);
    // Not yet: looked at and ticked off, it is asked again a week later, however often.
    let not_yet = |when: &str| visit(when, done(Check::Stage));
    let mut log = vec![not_yet("2027-03-07 09:00")];
    let again = stage(&garden(std::slice::from_ref(&young), &log, "2027-03-07 12:00")).unwrap();
    assert_eq!(again.due_on.to_string(), "2027-03-14");
    log.extend(["2027-03-14 09:00", "2027-03-21 09:00", "2027-03-28 09:00"].map(not_yet));
    let later = stage(&garden(std::slice::from_ref(&young), &log, "2027-03-30 09:00")).unwrap();
    assert!(later.due_on.to_string() == "2027-04-04" && later.urgency == Urgency::Calm, "{later:?}");
    // A child looks with an adult, and is not led to what is set up.
    let mut small = garden(std::slice::from_ref(&young), &[], "2027-03-07 09:00");
    small.actor = crate::common::child();
    assert!(stage(&small).unwrap().way.is_none());
    // From sowing to the first true leaf.
    let plug = Planting { stage: Stage::Germinating, sown_on: "2027-02-18".parse().ok(), ..young.clone() };
    let leaf = asked(&[plug], "2027-03-01 09:00").unwrap();
    assert!(leaf.due_on.to_string() == "2027-02-25" && leaf.doing.contains("true leaf"), "{leaf:?}");
    let grown = Planting { stage: Stage::Vegetative, ..young.clone() };
    assert!(asked(&[grown], "2027-06-01 09:00").is_none(), "leaf crops are picked, and flower never");
    let (crop, group) = (Name::new("Tomato").unwrap(), CropGroup::Fruiting);
    let fruit = asked(&[Planting { crop, group, stage: Stage::Flowering, ..young }], "2027-03-01 09:00").unwrap();
    // 21 days as a seedling, 28 of leaf, 14 in flower.
    assert!(fruit.doing.contains("fruits") && fruit.due_on.to_string() == "2027-04-24", "{fruit:?}");
}
