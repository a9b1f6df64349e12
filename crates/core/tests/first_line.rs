//! The first line of a task says how much, and its button opens the plan that says the same.

use crate::common::{
    Garden, Said, adult, at, at_the_bench, ec, entry, level, ph, planting, system, visit, with_shelf, zone,
};
use jiff::SignedDuration;
use mopsel_core::bench::kit::{pours, purpose, ready};
use mopsel_core::bench::{Ask, Purpose, ask_of, tell};
use mopsel_core::care::{Standing, Task};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Change, Roots, Subject, Treatment, TreatmentKind, Visit, WaitFor};
use mopsel_core::system::{Check, Kind, Measuring, Methods, PhMethod, System, TopOffMethod, kinds};
use mopsel_core::verdict::Rank;
use mopsel_core::way::WayTo;
use mopsel_core::words::say_entry;
use proptest::prelude::*;

const NOW: &str = "2027-03-09 09:00";

fn garden(kind: Kind, found: Visit) -> Garden {
    later(system(kind), found, NOW)
}

fn later(system: System, found: Visit, now: &str) -> Garden {
    let log = [
        entry("2027-03-06 09:00", Body::Change(Change::full(system.full()))),
        visit("2027-03-08 20:00", Visit { done: vec![Check::Calibrate], ..Visit::default() }),
        visit("2027-03-09 08:00", found),
    ];
    let system = System { change_days: 28, ..system };
    Garden::new(system, vec![planting("Kale", (1, 9), Stage::Vegetative)], &log, now)
}

fn read(litres: f64, sour: f64, strength: f64) -> Visit {
    Visit { ph: Some(ph(sour)), ec: Some(ec(strength)), ..level(litres) }
}

fn raw(garden: &Garden, code: &str) -> Task {
    let task = garden.raw_tasks().into_iter().find(|task| task.code == code);
    task.unwrap_or_else(|| panic!("{code} in {:?}", garden.tasks()))
}

fn told(garden: &Garden, code: &str) -> Task<String> {
    with_shelf(&garden.situation(), |shelf| tell(raw(garden, code), shelf)).said()
}

fn plain_water() -> Methods {
    Methods { top_off: TopOffMethod::Plain, ..system(Kind::FilmChannel).methods }
}

#[test]
fn a_tank_that_is_weak_and_high_in_ph_is_put_right_by_one_order_and_logged_as_one_entry() {
    let rails = garden(Kind::FilmChannel, read(72.0, 7.4, 0.7));
    let of_water = |task: &Task<String>| matches!(task.subject, Some(Subject::Level | Subject::Ec | Subject::Ph));
    let orders: Vec<_> = rails.tasks().into_iter().filter(|task| task.check.is_none() && of_water(task)).collect();
    assert_eq!(orders.len(), 1, "{orders:?}");
    let task = told(&rails, "put_right");
    let plan = at_the_bench(&rails.situation(), &ask_of(&raw(&rails, "put_right")).unwrap()).unwrap();
    assert!(plan.answer.clone().said() == task.doing && task.doing.contains("of pH down"), "{}", task.doing);

    // The acid is for all the water that is in the tank after the feed, half of it first, and for no more than the two
    // waters hold together.
    let after = plan.after.unwrap();
    let Some(Body::Visit(told)) = plan.entry.clone() else { panic!("{:?}", plan.entry) };
    let dosed = told.dosed.clone().unwrap();
    assert_eq!((after, dosed.litres, told.ph), (rails.system.full(), after, None), "what was not read now is not read");
    let alone = Purpose::Ph { litres: Some(after), ph: Some(ph(7.4)), aim: None, product: None, jar: None };
    let alone = at_the_bench(&rails.situation(), &Ask::new(alone)).unwrap();
    let share = dosed.dosed.amount.value / alone.doses[0].amount.value;
    assert!((0.5..=1.0).contains(&share) && dosed.from == ph(7.4), "{share}");
    let waits = plan.steps.iter().filter(|step| step.wait.as_ref().is_some_and(|wait| wait.what == WaitFor::Remeasure));
    assert_eq!(waits.count(), 1);

    // It is one entry. Followed twice, it orders nothing more before it was measured.
    let body = plan.entry.unwrap();
    body.check(&rails.system, &adult()).unwrap();
    let said: Vec<String> = say_entry(&body, &rails.system).into_iter().map(Said::said).collect();
    assert!(said.iter().any(|line| line.contains("to move pH 7.4")), "{said:?}");
    let mut done = rails;
    done.log(entry("2027-03-09 08:55", body));
    let water = done.situation().water();
    assert!((water.litres().unwrap().value - after).size().get() < 0.5);
    assert!((water.ec().unwrap().value.get() - plan.after_ec.unwrap().value).abs() < 0.02);
    reads_first(&done);
    // What it did is no lesson on the acid: water moved the pH too.
    done.log(visit("2027-03-09 09:30", Visit { ph: Some(ph(6.2)), ..Visit::default() }));
    assert_eq!(done.situation().known.lessons.ph_doses.last().unwrap().buffer(), None);
}

/// Nothing more is ordered for the water, and the bench pours nothing, before it is measured.
fn reads_first(garden: &Garden) {
    let of_water = |task: &Task<String>| matches!(task.subject, Some(Subject::Level | Subject::Ec | Subject::Ph));
    let again: Vec<_> = garden.tasks().into_iter().filter(|task| task.check.is_none() && of_water(task)).collect();
    assert!(again.iter().all(|task| task.way.as_ref().is_some_and(|way| way.to == WayTo::Visit)), "{again:?}");
    let twice = Purpose::PutRight { from: None, to: None, ec: None, ph: None };
    let twice = at_the_bench(&garden.situation(), &Ask::new(twice)).unwrap_err().said();
    assert!(twice.mend.contains("Measure"), "{twice:?}");
}

#[test]
fn after_much_new_water_the_ph_is_measured_before_any_acid() {
    let rails = garden(Kind::FilmChannel, read(12.0, 7.4, 0.7));
    let task = told(&rails, "put_right");
    assert_eq!((task.name.as_str(), task.rank), ("Put level, strength and pH right", Rank::Hours));
    assert!(
        task.doing.ends_with("Wait 20 minutes, and measure the pH.") && !task.doing.contains("mL"),
        "{}",
        task.doing
    );
    let plan = at_the_bench(&rails.situation(), &ask_of(&raw(&rails, "put_right")).unwrap()).unwrap();
    let Some(Body::Visit(visit)) = plan.entry.clone() else { panic!("{:?}", plan.entry) };
    assert!(visit.dosed.is_none() && plan.steps.iter().any(|step| step.wait.is_some()));
    // Nor is acid poured by the old reading afterwards, on any other road.
    let mut done = rails;
    done.log(entry("2027-03-09 08:55", plan.entry.unwrap()));
    reads_first(&done);
    let sour = Purpose::Ph { litres: None, ph: None, aim: None, product: None, jar: None };
    assert_eq!(at_the_bench(&done.situation(), &Ask::new(sour)).unwrap_err().code, "ph_not_lately");
    let measured = done.task("ph");
    assert_eq!(
        (measured.name.as_str(), measured.doing.as_str()),
        ("Measure the pH", "Measure the pH once it has mixed.")
    );
    assert!(!done.task("change").reason.contains("pH 7.4"), "nor is the new water changed for the old reading");
}

#[test]
fn what_is_packed_for_a_round_is_the_one_order_with_its_acid_beside_the_mix() {
    let rails = garden(Kind::FilmChannel, read(72.0, 7.4, 0.7));
    let asks = pours(&rails.raw_tasks(), None);
    assert_eq!(asks.iter().map(purpose).collect::<Vec<_>>(), ["put_right"]);
    let plan = at_the_bench(&rails.situation(), &asks[0]).unwrap();
    let packed = ready(&[(0, &plan)]);
    let acid = |name: &str| name.to_lowercase().contains("ph down");
    assert!(packed.products.iter().any(|product| acid(&product.name)), "{:?}", packed.products);
    assert!(packed.mixes[0].ingredients.iter().all(|product| !acid(&product.name)), "no acid is mixed with feed");
    let sour = garden(Kind::FilmChannel, read(90.0, 7.4, 1.5));
    assert_eq!(pours(&sour.raw_tasks(), None).iter().map(purpose).collect::<Vec<_>>(), ["ph"]);
}

#[test]
fn what_a_tank_does_not_need_is_no_part_of_the_order() {
    let part = |litres, sour, strength| {
        let garden = garden(Kind::FilmChannel, read(litres, sour, strength));
        garden.tasks().into_iter().find(|task| task.code == "put_right").map(|task| task.name)
    };
    assert_eq!(part(85.0, 7.4, 0.7).as_deref(), Some("Put strength and pH right"));
    assert_eq!(part(12.0, 7.4, 1.5).as_deref(), Some("Put level and pH right"));
    assert_eq!(part(12.0, 6.0, 0.7).as_deref(), Some("Put level and strength right"));
    assert_eq!((part(85.0, 6.0, 0.7), part(12.0, 6.0, 1.5)), (None, None), "one thing is an order by itself");
    let sound = garden(Kind::FilmChannel, read(12.0, 6.0, 0.7));
    let plan = at_the_bench(&sound.situation(), &ask_of(&raw(&sound, "put_right")).unwrap()).unwrap().said();
    assert!(
        plan.doses.iter().all(|dose| !dose.name.contains("pH"))
            && !plan.warnings.iter().any(|said| said.contains("pH"))
    );
    // A child is told to fetch an adult, and still tops off with plain water where that is the method.
    let found = read(12.0, 7.4, 0.7);
    let plain = System { methods: plain_water(), ..system(Kind::FilmChannel) };
    let mut child = later(plain, found, NOW);
    child.actor = crate::common::child();
    let codes: Vec<_> = child.tasks().into_iter().map(|task| task.code).collect();
    assert!(codes.iter().any(|code| code == "level") && !codes.iter().any(|code| code == "put_right"), "{codes:?}");
}

#[test]
fn a_dose_is_worked_out_from_a_reading_of_today_or_yesterday() {
    let (rails, found) = (system(Kind::FilmChannel), read(85.0, 7.4, 1.5));
    let old = later(rails.clone(), found.clone(), "2027-03-12 09:00");
    let task = told(&old, "ph");
    assert_eq!(task.doing, "Measure the pH again: the last reading is too old, or something was poured since.");
    assert_eq!(task.way.unwrap().to, WayTo::Visit);
    let fresh = told(&later(rails, found, "2027-03-10 09:00"), "ph");
    assert!(fresh.doing.contains("mL of pH down, half of what it takes"), "{}", fresh.doing);
}

fn rotten() -> Roots {
    let mut roots = Roots::sound();
    roots.answers.slime_or_browning = Some(true);
    roots
}

proptest! {
    /// Whatever was found, by whatever method, and however long ago: a button that leads to the bench opens a plan, and the
    /// task says what the plan says.
    #[test]
    fn no_button_leads_to_a_refusal(
        kind in 0..kinds().len(),
        litres in 1.0f64..97.0,
        sour in 4.2f64..8.8,
        strength in 0.31f64..4.0,
        hours in 0i64..90,
        method in 0..TopOffMethod::ALL.len(),
        ph_method in 0..4usize,
        kit in any::<bool>(),
        rot in 0..3u8,
    ) {
        let usual = system(kinds()[kind].key);
        let ph_method = [PhMethod::Reservoir, PhMethod::SeparateBatch, PhMethod::AtChange, PhMethod::RecipeOnly][ph_method];
        let top_off = Some(TopOffMethod::ALL[method]).filter(|method| *method != TopOffMethod::Premixed);
        let methods = Methods { ph: ph_method, top_off: top_off.unwrap_or(usual.methods.top_off), ..usual.methods };
        let measuring = if kit { Measuring::KitAndMeter } else { Measuring::Meter };
        let found = read(litres.min(usual.highest().get()), sour, strength);
        let now = at("2027-03-09 08:00") + SignedDuration::from_hours(hours);
        let now = now.to_zoned(zone()).strftime("%Y-%m-%d %H:%M").to_string();
        let mut garden = later(System { methods, measuring, ..usual }, found, &now);
        if rot > 0 {
            garden.log(visit("2027-03-09 08:00", Visit { roots: Some(rotten()), ..Visit::default() }));
        }
        if rot > 1 {
            let what = TreatmentKind::PeroxideDose;
            let dose = Treatment { what, amount_ml: None, ports: None, note: None };
            garden.log(entry("2027-03-05 08:00", Body::Treatment(dose)));
        }
        for task in garden.raw_tasks().into_iter().filter(|task| task.standing <= Standing::Today) {
            let Some(ask) = ask_of(&task) else { continue };
            let at_bench = task.way.as_ref().is_some_and(|way| way.to == WayTo::Bench);
            let plan = at_the_bench(&garden.situation(), &ask);
            prop_assert!(plan.is_ok() || !at_bench, "{}: {:?}", task.code, plan.err());
            if let Ok(plan) = plan {
                let told = with_shelf(&garden.situation(), |shelf| tell(task, shelf)).said();
                prop_assert!(told.doing.ends_with(&plan.said().answer), "{}", told.doing);
            }
        }
    }
}
