//! pH put right through the reservoir behind the float valve: slowly, with millilitres, and not twice.

use crate::common::{Garden, Said, at_the_bench, boxed, ec, entry, l, level, ph, planting, system, visit};
use mopsel_core::bench::{Ask, Purpose};
use mopsel_core::crop::Stage;
use mopsel_core::dosing::{PhAsk, estimate};
use mopsel_core::fact::{Body, Change, Entry, Premix, PremixIn, Subject, Used, Visit};
use mopsel_core::mixing::{ProductKind, products, shipped_id};
use mopsel_core::system::{Kind, Methods, PhMethod, System, TopOffMethod, Traits};
use mopsel_core::verdict::{Tone, judge_visit};

/// Eighty litres behind a valve, whose pH is put right through the drum; middling tap water.
fn chain() -> System {
    let plain = system(Kind::BucketChain);
    System {
        traits: Traits { top_off_reservoir: true, ..plain.traits },
        reservoir: boxed(500.0, 500.0, 400.0, [45.0, 80.0, 90.0]),
        methods: Methods {
            ph: PhMethod::Drum,
            top_off: TopOffMethod::Reservoir,
            alkalinity: Some(120.0),
            ..plain.methods.clone()
        },
        ..plain
    }
}

/// Filled ten days ago, the drum five days ago, and all read this morning.
fn garden(read_ph: f64) -> Garden {
    let log = [
        entry("2027-02-28 09:00", Body::Change(Change { ec: Some(ec(1.6)), ..Change::full(l(80.0)) })),
        drum("2027-03-04 09:00", 30.0),
        read("2027-03-09 08:00", read_ph),
    ];
    Garden::new(chain(), vec![planting("Tomato", (1, 4), Stage::Vegetative)], &log, "2027-03-09 09:00")
}

fn drum(when: &str, litres: f64) -> Entry {
    entry(when, Body::Premix(Premix { ec: Some(ec(1.8)), ..Premix::of(PremixIn::TopOffReservoir, l(litres)) }))
}

fn read(when: &str, read_ph: f64) -> Entry {
    visit(when, Visit { supply: Some(l(2.0)), ec: Some(ec(1.6)), ph: Some(ph(read_ph)), ..level(80.0) })
}

fn ask() -> Ask {
    Ask::new(Purpose::TopOffReservoir { litres: None })
}

/// mL of acid that its plan puts into the drum, and what is said of it.
fn acid(garden: &Garden) -> (f64, String, Option<Body>) {
    let plan = at_the_bench(&garden.situation(), &ask()).unwrap();
    let entry = plan.entry.clone();
    let plan = plan.said();
    let dose = plan.doses.iter().find(|dose| dose.what == ProductKind::PhDown);
    let why = plan.steps.iter().filter_map(|step| step.why.clone()).collect::<Vec<_>>().join(" ");
    (dose.map_or(0.0, |dose| dose.amount.value), why, entry)
}

#[test]
fn a_tank_that_is_a_little_high_gets_its_acid_with_the_next_filling_in_millilitres() {
    let (right, why, _) = acid(&garden(5.9));
    assert!(!why.contains("for the tank"), "{why}");
    let high = garden(6.1);
    let (more, why, _) = acid(&high);
    // What the tank takes by the same reckoning as a dose poured into it would be.
    let id = shipped_id("ph_down");
    let product = &products().iter().find(|(known, _)| *known == id).unwrap().1;
    let mut poured = high.system.clone();
    poured.methods.ph = PhMethod::SeparateBatch;
    let other = Garden { system: poured, ..garden(6.1) };
    let asked = PhAsk {
        ph: ph(6.1),
        aim: Some(mopsel_core::quantity::Ph::new(5.8).unwrap()),
        litres: l(80.0),
        jar: None,
        read: None,
    };
    let whole = estimate(asked, (id, product), Some(&other.situation())).unwrap();
    assert!(whole.whole > 0.1 && (more - right - whole.whole).abs() < 0.05, "{right} and {} in {more}", whole.whole);
    assert!(why.contains("of it is for the tank. Its pH is 6.1, and this filling brings it down."), "{why}");
}

#[test]
fn it_is_no_task_of_its_own_until_uptake_is_blocked() {
    let judged = |read_ph: f64| {
        let garden = garden(5.8);
        let visit = Visit { ph: Some(ph(read_ph)), ..Visit::default() };
        let verdicts = judge_visit(&visit, &garden.situation()).unwrap().verdicts;
        verdicts.into_iter().find(|one| one.subject == Subject::Ph).unwrap()
    };
    let mild = judged(6.9);
    assert_eq!((mild.tone, mild.todo.is_none()), (Tone::Watch, true));
    assert!(mild.next.said().contains("next filling of the top-off reservoir"));
    assert!(judged(7.4).todo.is_some(), "a drum is too slow for that");
    let tasks = garden(6.9).tasks();
    assert!(tasks.iter().all(|task| task.code != "ph"));
    let refused = at_the_bench(
        &garden(6.9).situation(),
        &Ask::new(Purpose::Ph { litres: None, ph: None, aim: None, product: None, jar: None }),
    );
    assert!(refused.unwrap_err().said().mend.contains("next filling of the top-off reservoir"));
    let blocked = garden(7.4);
    let codes: Vec<_> = blocked.tasks().into_iter().map(|task| (task.code, task.name)).collect();
    assert!(codes.iter().any(|(_, name)| name.contains("pH")), "{codes:?}");
}

#[test]
fn what_is_on_its_way_is_not_sent_twice_and_teaches_nothing_of_the_batch() {
    let mut garden = garden(6.9);
    let (first, _, entry_of) = acid(&garden);
    let Some(Body::Premix(premix)) = entry_of else { panic!("no entry") };
    let used: &Vec<Used> = &premix.batch.as_ref().unwrap().used;
    assert!(used.iter().any(|used| used.what == ProductKind::PhDown && (used.amount.value - first).abs() < 0.01));
    garden.log(entry("2027-03-09 09:30", Body::Premix(premix)));
    // Empty again before anybody has read the pH anew: only what the batch itself takes.
    garden.log(visit("2027-03-09 20:00", Visit { supply: Some(l(0.0)), ..level(80.0) }));
    let (second, why, _) = acid(&garden);
    assert!(!why.contains("for the tank") && second < first, "{second} after {first}: {why}");
    let (alone, ..) = acid(&self::garden(5.9));
    assert!((second / 30.0 - alone / 28.0).abs() < 0.02, "{second} of 30 L as {alone} of 28 L");
}

#[test]
fn a_filling_before_which_nobody_read_the_tank_says_so() {
    let warned = |garden: &Garden| {
        let plan = at_the_bench(&garden.situation(), &ask()).unwrap().said();
        plan.warnings.iter().any(|said| said.starts_with("Measure the pH of the tank first."))
    };
    let mut garden = garden(6.9);
    assert!(!warned(&garden));
    garden.log(drum("2027-03-09 08:30", 30.0));
    garden.log(visit("2027-03-09 08:50", Visit { supply: Some(l(1.0)), ..level(80.0) }));
    assert!(warned(&garden));
}

#[test]
fn a_tank_that_is_low_gets_the_water_as_it_comes() {
    let (acid, ..) = acid(&garden(5.2));
    assert!(acid.abs() < 1e-9, "{acid}");
}

#[test]
fn soft_water_has_no_room_for_all_of_it_and_the_rest_follows() {
    let mut garden = garden(6.9);
    garden.system.reservoir = boxed(2000.0, 1000.0, 400.0, [450.0, 700.0, 780.0]);
    garden.log(visit("2027-03-09 08:30", Visit { ph: Some(ph(6.9)), supply: Some(l(2.0)), ..level(700.0) }));
    let (_, why, _) = acid(&garden);
    assert!(why.contains("The tank needs more: that goes with the next filling."), "{why}");
    let plan = at_the_bench(&garden.situation(), &ask()).unwrap();
    assert!(plan.batch_ph.unwrap().value >= 5.0 - 1e-9);
}

#[test]
fn it_needs_a_drum() {
    let mut system = chain();
    system.traits.top_off_reservoir = false;
    system.methods.top_off = TopOffMethod::Plain;
    assert_eq!(system.check().unwrap_err().field, "methods.ph");
}
