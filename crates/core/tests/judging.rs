//! What a device may say of a number without a connection: what the core would say of it, or nothing.

use crate::common::{Garden, ec, kit, l, level, mm, ph, planting, soak, system, visit};
use jiff::{Timestamp, ToSpan};
use mopsel_core::care::judging::{JudgingTable, Typed, judging_table};
use mopsel_core::care::one_order::told;
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Subject, TopOff, TopOffWater, Visit};
use mopsel_core::quantity::{Celsius, Ph, PhReading};
use mopsel_core::reservoir::{LevelReading, RefillMethod};
use mopsel_core::situation::Situation;
use mopsel_core::system::{Kind, Measuring, PhMethod, kinds};
use mopsel_core::verdict::{Tone, Verdict, judge_visit};
use mopsel_core::words::{Reader, Speaker};
use proptest::prelude::*;
use proptest::test_runner::{Config, TestRunner};
use strum::VariantArray;

const NOW: &str = "2027-03-09 08:30";

/// A visit with that one number, as the page would send it.
fn typed(which: Typed, value: f64) -> Option<Visit> {
    let mut visit = Visit::default();
    match which {
        Typed::Volume => visit = level(value),
        Typed::Height => visit.level = Some(LevelReading::Height { height_mm: mm(value), pump_ran: true }),
        Typed::Temperature => visit.temperature = Some(Celsius::new(value).ok()?),
        Typed::Ph => visit.ph = Some(PhReading::Meter(Ph::new(value).ok()?)),
        Typed::PhKit => visit.ph = Some(kit(value, value + 0.5)),
        Typed::Ec => visit.ec = Some(ec(value)),
        Typed::Added => visit.top_off = Some(TopOff { litres: l(value), water: TopOffWater::Plain }),
    }
    Some(visit)
}

/// What the core says of it, alone.
fn core_says(visit: &Visit, s: &Situation<'_>) -> Option<Verdict> {
    let judged = judge_visit(visit, s).ok()?;
    let subject = if visit.level.is_some() {
        Subject::Level
    } else if visit.temperature.is_some() {
        Subject::Temperature
    } else if visit.ph.is_some() {
        Subject::Ph
    } else if visit.ec.is_some() {
        Subject::Ec
    } else {
        Subject::TopOff
    };
    judged.verdicts.into_iter().find(|verdict| verdict.subject == subject).map(|verdict| told(verdict, s))
}

fn gardens() -> impl Strategy<Value = Garden> {
    let kind = proptest::sample::select(kinds().iter().map(|facts| facts.key).collect::<Vec<Kind>>());
    let measuring = proptest::sample::select(vec![Measuring::Meter, Measuring::DropKit, Measuring::KitAndMeter]);
    let refill = proptest::sample::select(vec![
        RefillMethod::NoLimit,
        RefillMethod::OneInch,
        RefillMethod::HoldTheLine,
        RefillMethod::QuarterToHalf,
        RefillMethod::WholeSwap,
    ]);
    let stage = proptest::sample::select(vec![Stage::Seedling, Stage::Vegetative, Stage::Fruiting, Stage::Done]);
    let read = (42.0..95.0f64, 4.5..8.0f64, 0.2..3.0f64, 1..20u32);
    (kind, measuring, refill, stage, read, any::<[bool; 4]>()).prop_map(
        |(kind, measuring, refill, stage, (litres, acid, strength, ago), [planted, by_drum, soon, child])| {
            let mut it = system(kind);
            (it.measuring, it.refill) = (measuring, refill);
            if by_drum {
                it.methods.ph = PhMethod::Drum;
            }
            it.change_days = if soon { 10 } else { 60 };
            let plants = if planted { vec![planting("Butterhead lettuce", (1, 4), stage)] } else { vec![] };
            let on = |day: u32| format!("2027-02-{day:02} 09:00");
            let seen = |litres: f64| Visit { ph: Some(ph(acid)), ec: Some(ec(strength)), ..level(litres) };
            let log = [
                visit(&on(2), seen(litres.min(90.0))),
                visit(&on(5), seen(litres - 1.5)),
                visit(&on(28 - ago), seen(litres)),
            ];
            let garden = Garden::new(it, plants, &log, NOW);
            if child { garden.for_child() } else { garden }
        },
    )
}

#[test]
fn a_device_says_of_a_number_what_the_core_says_of_it_or_nothing() {
    let cases = soak::times(2_000, 16);
    let mut runner = TestRunner::new(Config { cases, ..Config::default() });
    let asked = proptest::collection::vec((0..Typed::VARIANTS.len(), 0.0..1.0f64, 0..168 * 60i64), 250);
    let counted = std::cell::RefCell::new([0u32; 2]);
    let all = runner.run(&(gardens(), asked), |(garden, asked)| {
        let table = judging_table(&garden.situation());
        for (which, part, minutes) in asked {
            let which = Typed::VARIANTS[which];
            let most = match which {
                Typed::Volume | Typed::Added => 100.0,
                Typed::Height => 400.0,
                Typed::Temperature => 45.0,
                Typed::Ph => 14.0,
                Typed::Ec => 12.0,
                Typed::PhKit => 4.5,
            };
            let value = if which == Typed::PhKit { 4.0 + (part * 8.0).floor() / 2.0 } else { part * most };
            // Half of them as a meter shows them.
            let value = if minutes % 2 == 0 { (value * 10.0).round() / 10.0 } else { value };
            let now = garden.now.checked_add(minutes.minutes()).unwrap();
            let plantings: Vec<_> = garden.situation().planted.at(now.timestamp(), now.date()).cloned().collect();
            let then = Situation { now: &now, plantings: &plantings, ..garden.situation() };
            let Some(visit) = typed(which, value) else { continue };
            let core = core_says(&visit, &then);
            counted.borrow_mut()[1] += 1;
            let Some(said) = table.look_up(which, value, now.timestamp()) else { continue };
            counted.borrow_mut()[0] += 1;
            let core = core.ok_or_else(|| TestCaseError::fail(format!("{which:?} {value}: the core says nothing")))?;
            prop_assert_eq!(
                (said.subject, said.code.as_ref(), said.tone, said.rank),
                (core.subject, core.code.as_ref(), core.tone, core.rank),
                "{:?} {} after {} minutes",
                which,
                value,
                minutes
            );
        }
        Ok(())
    });
    all.unwrap();
    let [said, of] = counted.into_inner();
    println!("{said} of {of} numbers had a verdict in the table");
    assert!(f64::from(said) > 0.95 * f64::from(of), "{said} of {of} numbers had a verdict in the table");
}

/// The table of a garden in words, and what it says of a number in an hour.
fn says(garden: &Garden, which: Typed, value: f64) -> (Tone, String) {
    let speaker = Speaker::new(if garden.actor.is_child() { crate::common::CHILD } else { Reader::default() });
    let table: JudgingTable<String> = judging_table(&garden.situation()).map(&|message| speaker.say(&message));
    let range = table.look_up(which, value, an_hour_after(garden)).unwrap();
    (range.tone, format!("{} {}", range.finding, range.next))
}

fn an_hour_after(garden: &Garden) -> Timestamp {
    garden.now.timestamp() + 1.hour()
}

fn planted_raft() -> Garden {
    let log = [visit("2027-03-07 09:00", Visit { ph: Some(ph(6.0)), ec: Some(ec(1.0)), ..level(80.0) })];
    Garden::new(system(Kind::AeratedRaft), vec![planting("Butterhead lettuce", (1, 4), Stage::Vegetative)], &log, NOW)
}

#[test]
fn without_a_connection_a_dose_waits_and_dry_roots_do_not() {
    let mut raft = planted_raft();
    raft.system.refill = RefillMethod::NoLimit;
    let (tone, said) = says(&raft, Typed::Ph, 7.4);
    assert_eq!(tone, Tone::Now);
    assert!(said.contains("above 5.5–6.5") && said.contains("Do not dose yet"), "{said}");
    let (tone, said) = says(&raft, Typed::Volume, 35.0);
    assert_eq!(tone, Tone::Now);
    assert!(said.contains("Add plain water now, up to 90.0 L"), "{said}");
    let child = raft.for_child();
    let (_, said) = says(&child, Typed::Ph, 7.4);
    assert!(said.ends_with("Tell an adult."), "{said}");
}

#[test]
fn nothing_is_said_once_what_was_known_is_a_week_old() {
    let raft = planted_raft();
    let table = judging_table(&raft.situation());
    assert!(table.look_up(Typed::Ph, 6.0, raft.now.timestamp() + 167.hours()).is_some());
    assert!(table.look_up(Typed::Ph, 6.0, table.until + 1.second()).is_none());
    assert!(table.look_up(Typed::Ph, 15.0, an_hour_after(&raft)).is_none(), "what cannot be is in no range");
}
