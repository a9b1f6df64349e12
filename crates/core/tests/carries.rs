//! Whether a vessel carries what is planted in it to the harvest.

use crate::common::{Garden, boxed, l, level, planting, system, visit};
use mopsel_core::calendar::{Weekday, add_days};
use mopsel_core::care::carries::{Carries, carries};
use mopsel_core::crop::{Planting, Season, Stage, crop, crops, thirsty_crops};
use mopsel_core::fact::Entry;
use mopsel_core::quantity::Litres;
use mopsel_core::reservoir::{RefillMethod, Reservoir};
use mopsel_core::system::{Kind, System, Traits};
use mopsel_core::verdict::Tone;
use mopsel_core::words::{Reader, Speaker};
use proptest::prelude::*;

const NEW_YEAR: jiff::civil::Date = jiff::civil::date(2027, 1, 1);
const NOW: &str = "2027-02-01 09:00";

/// A still vessel of 25 cm depth, half of it between minimum and full.
fn jar(litres: f64) -> System {
    let side = (litres * 1e6 / 250.0).sqrt();
    let reservoir = boxed(side, side, 250.0, [litres * 0.3, litres * 0.8, litres * 0.95]);
    System { reservoir, ..system(Kind::StillWater) }
}

fn grown(garden: &Garden) -> Carries<String> {
    let speaker = Speaker::new(Reader::default());
    carries(&garden.situation(), None).unwrap().map(&|message| speaker.say(&message))
}

fn of(system: System, crop: &str, plants: u16) -> Carries<String> {
    grown(&Garden::new(system, vec![planting(crop, (1, plants), Stage::Seedling)], &[], NOW))
}

#[test]
fn a_crop_drinks_as_much_as_is_known_of_it_in_all_and_a_day() {
    for (name, [low, high], day) in [
        ("Lettuce", [3.0, 5.0], 0.2),
        ("Basil", [5.0, 8.0], 0.3),
        ("Climbing beans", [10.0, 20.0], 0.5),
        ("Pepper", [40.0, 60.0], 1.0),
        ("Cucumber", [60.0, 100.0], 3.0),
        ("Tomato", [80.0, 150.0], 3.0),
    ] {
        let one = planting(name, (1, 1), Stage::Seedling);
        let (usual, bright) = (one.drinks_in_all(Season::USUAL).get(), one.drinks_in_all(Season::BRIGHT).get());
        assert!(low * 0.95 <= usual && usual <= high, "{name} drinks {usual} L");
        assert!((bright - high).abs() <= high * 0.15, "{name} drinks {bright} L in a bright season");
        let last = add_days(one.planted_on, one.days_to_harvest() as i64);
        assert!((one.drinks_on(last, Season::BRIGHT).get() - day).abs() < 1e-9, "{name}");
        assert_eq!(one.drinks_on(one.planted_on, Season::BRIGHT), Litres::ZERO);
        let picked = Planting { stage: Stage::Done, ..one };
        assert_eq!(picked.drinks_on(last, Season::BRIGHT), Litres::ZERO);
    }
    for name in thirsty_crops() {
        assert!(crop(name).is_some(), "{name} is no crop of the list");
    }
}

#[test]
fn what_cannot_fit_is_named_with_its_week_and_with_what_would_help() {
    let jar = of(jar(3.0), "Tomato", 1);
    assert_eq!(jar.tone, Tone::Act);
    assert!(
        jar.finding.starts_with("This vessel is too small for 1 plant (tomato). It falls below its minimum about "),
        "{}",
        jar.finding
    );
    assert!(jar.finding.contains("(week "), "{}", jar.finding);
    assert!(jar.short_on.is_some());
    assert!(jar.helps.iter().any(|help| help.starts_with("Use a vessel of about ")), "{:?}", jar.helps);
    assert!(!jar.helps.iter().any(|help| help.starts_with("Grow ")), "one plant is the fewest: {:?}", jar.helps);
}

#[test]
fn what_fits_says_how_often_somebody_has_to_look() {
    let tub = of(jar(60.0), "Lettuce", 4);
    assert_eq!((tub.tone, tub.short_on), (Tone::Fine, None));
    assert_eq!(
        tub.finding,
        "This vessel is large enough for 4 plants (lettuce) until harvest. Checking it once a week is enough."
    );
    let jar = of(jar(1.6), "Lettuce", 1);
    assert!(jar.finding.contains("From about ") && jar.finding.contains("every 3 days"), "{}", jar.finding);
}

#[test]
fn each_help_that_is_offered_is_enough_by_itself() {
    let small = of(jar(8.0), "Tomato", 4);
    let fewer: u16 = small
        .helps
        .iter()
        .find_map(|help| help.strip_prefix("Grow ")?.split(' ').next()?.parse().ok())
        .unwrap_or_else(|| panic!("{:?}", small.helps));
    assert_ne!(of(jar(8.0), "Tomato", fewer).tone, Tone::Act);
    assert_eq!(of(jar(8.0), "Tomato", fewer + 1).tone, Tone::Act);
    let larger: f64 = small
        .helps
        .iter()
        .find_map(|help| help.strip_prefix("Use a vessel of about ")?.split(' ').next()?.parse().ok())
        .unwrap_or_else(|| panic!("{:?}", small.helps));
    assert_ne!(of(jar(larger * 1.02), "Tomato", 4).tone, Tone::Act, "{larger}");
}

#[test]
fn closed_days_count_and_holidays_do_not() {
    let week = [Weekday::Monday, Weekday::Tuesday, Weekday::Wednesday, Weekday::Thursday, Weekday::Friday];
    let plants = || vec![planting("Basil", (1, 2), Stage::Seedling)];
    let home = Garden::new(jar(2.4), plants(), &[], NOW);
    assert_ne!(grown(&home).tone, Tone::Act);
    let school = Garden::new(jar(2.4), plants(), &[], NOW).open(&week);
    assert!(matches!(grown(&school).tone, Tone::Act | Tone::Watch), "{}", grown(&school).finding);
    assert!(grown(&school).short_on.is_some());
}

#[test]
fn a_planting_that_is_only_typed_is_reckoned_with_what_stands_there() {
    let garden = Garden::new(jar(3.0), vec![], &[], NOW);
    assert_eq!(carries(&garden.situation(), None), None, "nothing grows");
    let typed = planting("Tomato", (1, 1), Stage::Seedling);
    assert_eq!(carries(&garden.situation(), Some(&typed)).unwrap().tone, Tone::Act);
    let picked = Planting { stage: Stage::Done, ..typed };
    assert_eq!(carries(&garden.situation(), Some(&picked)), None);
}

#[test]
fn what_they_drank_so_far_moves_the_forecast() {
    let lettuce = || vec![planting("Lettuce", (1, 4), Stage::Vegetative)];
    let logged = |a_day: f64| -> Vec<Entry> {
        (0..5).map(|n| visit(&format!("2027-03-{:02} 09:00", n + 1), level(18.0 - a_day * f64::from(n)))).collect()
    };
    let drank = |a_day: f64| grown(&Garden::new(jar(22.0), lettuce(), &logged(a_day), "2027-03-05 10:00")).why;
    let litres =
        |why: String| -> f64 { why.split("about ").nth(1).unwrap().split(' ').next().unwrap().parse().unwrap() };
    assert!(litres(drank(1.0)) > litres(drank(0.5)) * 1.2);
}

#[test]
fn behind_a_float_valve_its_reservoir_counts_and_unread_it_is_not_judged() {
    let traits = Traits { circulates: true, top_off_reservoir: true, ..Traits::default() };
    let rack = System { traits, refill: RefillMethod::NoLimit, ..jar(30.0) };
    let garden = Garden::new(rack, vec![planting("Tomato", (1, 6), Stage::Seedling)], &[], NOW);
    assert_eq!(carries(&garden.situation(), None), None);
}

#[test]
fn swapping_the_whole_jar_carries_what_a_line_does_not() {
    let held = System { refill: RefillMethod::HoldTheLine, ..jar(2.5) };
    let swapped = System { refill: RefillMethod::WholeSwap, ..jar(2.5) };
    let (held, swapped) = (of(held, "Lettuce", 2), of(swapped, "Lettuce", 2));
    assert!(swapped.tone <= held.tone);
    assert!(swapped.short_on.is_none(), "{}", swapped.finding);
}

fn any_method() -> impl Strategy<Value = RefillMethod> {
    proptest::sample::select(vec![RefillMethod::HoldTheLine, RefillMethod::OneInch, RefillMethod::WholeSwap])
}

proptest! {
    /// More plants in the same vessel never last longer, a larger vessel never less long.
    #[test]
    fn more_plants_or_a_smaller_vessel_never_last_longer(
        litres in 0.5..60.0f64, plants in 1u16..8, n in 0..crops().len(), method in any_method(),
    ) {
        let crop = crops()[n].name.as_str();
        // Worse is a heavier tone, and within one an earlier day.
        let of = |litres: f64, plants: u16| {
            let found = of(System { refill: method, ..jar(litres) }, crop, plants);
            let last = found.short_on.map_or(i64::MAX, |day| (day - NEW_YEAR).get_days().into());
            (found.tone, -last)
        };
        let here = of(litres, plants);
        prop_assert!(of(litres, plants + 1) >= here);
        prop_assert!(of(litres * 1.5, plants) <= here);
    }

    /// What is swapped ends no higher than its mark, and under old plants no more than a third of the vessel over the line.
    #[test]
    fn a_swap_covers_no_more_than_it_may(litres in 0.5..60.0f64, line in 0.1..0.8f64, old in any::<bool>()) {
        let vessel: Reservoir = jar(litres).reservoir;
        let line = l(litres * line);
        let filled = mopsel_core::refill::swapped_to(&vessel, line, old);
        prop_assert!(filled <= vessel.working);
        if old {
            prop_assert!(filled.get() <= line.get() + vessel.shape.capacity().get() / 3.0 + 1e-9);
        } else {
            prop_assert_eq!(filled, vessel.working);
        }
    }
}

#[test]
fn a_raft_filled_from_a_quarter_to_a_half_is_reckoned_so() {
    let raft = |plants: u16| {
        let traits = Traits { aerated: true, ..Traits::default() };
        let reservoir = boxed(600.0, 400.0, 250.0, [6.0, 45.0, 57.0]);
        of(System { traits, reservoir, refill: RefillMethod::QuarterToHalf, ..jar(60.0) }, "Lettuce", plants)
    };
    assert_eq!(raft(6).short_on, None);
    assert!(raft(6).tone < raft(160).tone);
}

/// What is not up after twice its time is sown again; while it is only due for its first leaf, it is looked for.
#[test]
fn seed_that_is_not_up_by_its_day_is_sown_again() {
    let sown = |on: &str| Planting {
        sown_on: Some(on.parse().unwrap()),
        planted_on: on.parse().unwrap(),
        ..planting("Lettuce", (1, 4), Stage::Germinating)
    };
    let of = |on: &str, now: &str| {
        let log = [visit(&format!("{on} 09:00"), level(30.0))];
        let garden = Garden::new(jar(60.0), vec![sown(on)], &log, now);
        garden.task("stage")
    };
    let early = of("2027-02-20", "2027-02-28 09:00");
    assert!(early.reason.starts_with("Lettuce: seedling yet?"), "{}", early.reason);
    let late = of("2027-02-20", "2027-03-08 09:00");
    assert_eq!(late.reason, "Lettuce: is anything up? It was sown Sat 20 Feb and should be up by Sat 6 Mar.");
    assert!(late.doing.starts_with("If nothing is up, sow again:"), "{}", late.doing);
    assert_eq!(sown("2027-02-20").up_by().unwrap().1.to_string(), "2027-03-06");
    let seedling = Planting { stage: Stage::Seedling, ..sown("2027-02-20") };
    assert_eq!(seedling.up_by(), None);
}

/// Nobody has measured yet what it drinks: a small vessel is read before grown plants would have emptied it, a large one
/// after the usual week; once it is measured, that counts.
#[test]
fn a_small_vessel_is_not_left_unread_for_a_week_because_nobody_measured_its_thirst() {
    let of = |litres: f64, log: &[Entry], now: &str| {
        let plants = vec![planting("Basil", (1, 2), Stage::Vegetative)];
        Garden::new(jar(litres), plants, log, now).task("level")
    };
    let once = |litres: f64| [visit("2027-03-10 09:00", level(litres * 0.8))];
    let small = of(3.0, &once(3.0), "2027-03-10 10:00");
    assert_eq!(small.due_on.to_string(), "2027-03-12", "{}", small.reason);
    assert!(small.reason.starts_with("Nobody has measured yet how much it uses."), "{}", small.reason);
    assert_eq!(of(60.0, &once(60.0), "2027-03-10 10:00").due_on.to_string(), "2027-03-17");
    let twice = [visit("2027-03-08 09:00", level(2.4)), visit("2027-03-10 09:00", level(2.36))];
    let measured = of(3.0, &twice, "2027-03-10 10:00");
    assert_eq!(measured.due_on.to_string(), "2027-03-17", "{}", measured.reason);
}
