//! How far still water may rise: the line, rises above it, and the minimum that comes before all.

use crate::common::{Garden, Said, at_the_bench, entry, l, level, planting, tub, visit, zone};
use jiff::{Timestamp, ToSpan};
use mopsel_core::bench::{Ask, Purpose};
use mopsel_core::care::change::{Rule, change_due};
use mopsel_core::crop::{Planting, Stage};
use mopsel_core::fact::{Body, Change, Entry, TopOff, TopOffWater, Visit};
use mopsel_core::quantity::Litres;
use mopsel_core::refill::{fill_to, limit_from, limit_of};
use mopsel_core::reservoir::{RefillMethod, Reservoir, Shape};
use mopsel_core::system::{System, TopOffMethod};
use mopsel_core::verdict::{Tone, judge_level, judge_visit};
use proptest::prelude::*;
use uuid::Uuid;

fn by(refill: RefillMethod) -> System {
    System { refill, ..tub() }
}

fn lettuce(system: System, log: &[Entry], now: &str) -> Garden {
    Garden::new(system, vec![planting("Butter lettuce", (1, 4), Stage::Vegetative)], log, now)
}

fn poured(litres: f64) -> Visit {
    Visit { top_off: Some(TopOff { litres: l(litres), water: TopOffWater::Plain }), ..Visit::default() }
}

/// What the bench would pour onto what stands there.
fn bench(garden: &Garden, from: f64, method: TopOffMethod) -> Result<Litres, String> {
    let purpose = Purpose::TopOff { from: Some(l(from)), to: None, ec: None, method: Some(method), batch: None };
    at_the_bench(&garden.situation(), &Ask::new(purpose))
        .map(|plan| plan.after.unwrap())
        .map_err(|refusal| refusal.said().to_string())
}

/// Filled up yesterday by an inch, dry today: the next rise is six days away, and the plant would be dead by then.
#[test]
fn a_dry_plant_gets_water_at_once_whatever_was_poured_yesterday() {
    let log = [
        visit("2027-03-01 09:00", level(9.0)),
        visit("2027-03-05 09:00", Visit { level: level(5.0).level, ..poured(6.0) }),
    ];
    for refill in [RefillMethod::OneInch, RefillMethod::HoldTheLine, RefillMethod::QuarterToHalf] {
        for now in ["2027-03-06 09:00", "2027-03-10 09:00"] {
            let garden = lettuce(by(refill), &log, now);
            let s = garden.situation();
            for stands in [0.0, 3.0] {
                let limit = limit_from(l(stands), &s);
                assert!(limit.up_to >= s.system.reservoir.minimum, "{refill:?} at {stands} L: {limit:?}");
                let verdict = judge_level(l(stands), &s).said();
                assert_eq!(verdict.tone, Tone::Now);
                assert!(verdict.next.starts_with("Add "), "{}", verdict.next);
                for method in [TopOffMethod::Plain, TopOffMethod::Measured, TopOffMethod::SameStrength] {
                    if stands > 0.0 && method == TopOffMethod::Measured {
                        continue; // Nobody has read its strength.
                    }
                    let after =
                        bench(&garden, stands, method).unwrap_or_else(|why| panic!("{refill:?}, {method:?}: {why}"));
                    assert!((after.get() - limit.up_to.get()).abs() < 0.01, "{refill:?}: {after:?} and {limit:?}");
                }
            }
        }
    }
}

#[test]
fn up_to_the_line_may_be_poured_any_day_and_above_it_once_a_week() {
    // A rise of 4 L on the first, 1 L drunk a day since: what was drunk may be put back each day.
    let log = [
        visit("2027-02-27 09:00", level(18.0)),
        visit("2027-03-01 09:00", Visit { level: level(16.0).level, ..poured(6.0) }),
        visit("2027-03-02 09:00", level(21.0)),
        visit("2027-03-03 09:00", level(20.0)),
    ];
    let garden = lettuce(tub(), &log[..3], "2027-03-02 09:10");
    assert!((limit_from(l(21.0), &garden.situation()).up_to.get() - 22.0).abs() < 1e-6);
    // From 20 L on the third to 11 L on the twelfth: three days ago it stood at 14 L, and the inch is above that.
    let garden = lettuce(tub(), &log, "2027-03-12 09:00");
    let up_to = limit_from(l(11.0), &garden.situation()).up_to.get();
    assert!((up_to - 14.0 - 4.754_88).abs() < 0.01, "{up_to}");
}

#[test]
fn hold_the_line_says_the_same_before_a_reading_is_saved_and_after() {
    // 9.4 L on the first, 6 L on the fourth, 5 L on the seventh: nothing stood above 6 L in three days.
    let log = [visit("2027-03-01 09:00", level(9.4)), visit("2027-03-04 09:00", level(6.0))];
    let system =
        System { reservoir: Reservoir { minimum: l(3.0), ..tub().reservoir }, ..by(RefillMethod::HoldTheLine) };
    let before = lettuce(system.clone(), &log, "2027-03-07 09:00");
    let said = |garden: &Garden| limit_from(l(5.0), &garden.situation()).up_to.get();
    assert!((said(&before) - 6.0).abs() < 0.01, "{}", said(&before));
    let mut after = lettuce(system, &log, "2027-03-07 09:05");
    after.log(visit("2027-03-07 09:00", level(5.0)));
    assert!((said(&after) - 6.0).abs() < 0.02, "{}", said(&after));
    let judged = judge_visit(&level(5.0), &before.situation()).unwrap();
    assert!((judged.room.unwrap().up_to.get() - 6.0).abs() < 0.01);
}

#[test]
fn quarter_to_half_acts_where_the_vessels_own_minimum_says_so() {
    // A minimum of a third of the tub: at 30 % it is below the minimum, and is filled to a half.
    let system =
        System { reservoir: Reservoir { minimum: l(13.0), ..tub().reservoir }, ..by(RefillMethod::QuarterToHalf) };
    let garden = lettuce(system, &[visit("2027-03-06 09:00", level(14.0))], "2027-03-09 09:00");
    let limit = limit_from(l(11.2), &garden.situation());
    assert!((limit.up_to.get() - 37.44 / 2.0).abs() < 1e-6, "{limit:?}");
    assert_eq!(limit_from(l(14.0), &garden.situation()).litres, l(0.0));
}

/// The vessel is swapped before its water is low: young plants get a full one; under old ones no more than a third of the
/// vessel above the line is covered; what is poured in between stays at the line.
#[test]
fn a_whole_swap_is_due_before_the_minimum_and_fills_to_the_mark() {
    let log: Vec<Entry> =
        (1..6).map(|n| visit(&format!("2027-03-{n:02} 09:00"), level(26.0 - 3.0 * f64::from(n)))).collect();
    let garden = |planted_on: &str| {
        let plants = Planting {
            planted_on: planted_on.parse().unwrap(),
            ..planting("Butter lettuce", (1, 4), Stage::Vegetative)
        };
        Garden::new(by(RefillMethod::WholeSwap), vec![plants], &log, "2027-03-05 10:00")
    };
    let young = garden("2027-02-20");
    let working = young.system.full();
    let fill = fill_to(&young.situation());
    assert_eq!(fill.litres, Some(working));
    assert!(fill.reason.unwrap().said().starts_with("A swap covers roots that breathe air."));
    let due = change_due(&young.situation());
    assert_eq!(due.rule, Rule::Swap);
    let minimum = young.system.reservoir.minimum.get();
    let left = 11.0 - 3.0 * f64::from((due.on - young.now.date()).get_days());
    assert!(left >= minimum, "on {} {left} L are left of {minimum}", due.on);
    let said = due.reason.said();
    assert!(said.starts_with("The whole vessel is swapped before its water gets low"), "{said}");
    let old = garden("2027-01-10");
    let limit = fill_to(&old.situation());
    let most = 20.0 + old.system.reservoir.shape.capacity().get() / 3.0;
    assert!(limit.litres.unwrap().get() <= most.min(working.get()) + 1e-6, "{limit:?}");
    assert!((limit_from(l(11.0), &old.situation()).up_to.get() - 20.0).abs() < 0.2, "up to the line in between");
}

/// Where the mark lies more than a third of the vessel above the line of old plants, the swap stops there and says why.
#[test]
fn a_swap_under_old_plants_stops_a_third_above_the_line() {
    let log: Vec<Entry> = (1..6).map(|n| visit(&format!("2027-03-{n:02} 09:00"), level(12.0 - f64::from(n)))).collect();
    let plants = planting("Butter lettuce", (1, 4), Stage::Vegetative);
    let garden = Garden::new(by(RefillMethod::WholeSwap), vec![plants], &log, "2027-03-05 10:00");
    let fill = fill_to(&garden.situation());
    let third = garden.system.reservoir.shape.capacity().get() / 3.0;
    let stops = 10.0 + third;
    assert!(stops < garden.system.full().get());
    assert!((fill.litres.unwrap().get() - stops).abs() < 0.3, "{fill:?}");
    assert!(fill.reason.unwrap().said().starts_with("Old plants have upper roots"));
}

#[test]
fn a_refill_that_nobody_wrote_down_counts_as_one() {
    let log = [
        visit("2027-03-05 09:00", level(15.0)),
        visit("2027-03-06 09:00", level(14.5)),
        visit("2027-03-07 09:00", level(19.0)),
    ];
    let garden = lettuce(tub(), &log, "2027-03-09 09:00");
    let limit = limit_from(l(18.0), &garden.situation());
    assert!((limit.up_to.get() - 19.0).abs() < 0.01, "no second rise in a week: {limit:?}");
    let why = limit.reason.said();
    assert!(why.contains("2 days ago"), "{why}");
    // Also where it is only being read.
    let garden = lettuce(tub(), &log[..2], "2027-03-07 09:00");
    assert!((limit_from(l(19.0), &garden.situation()).up_to.get() - 19.0).abs() < 0.01);
}

#[test]
fn an_estimate_is_never_topped_off_past_the_line_wherever_the_water_stands() {
    let log = [
        visit("2027-03-01 09:00", level(24.0)),
        visit("2027-03-03 09:00", level(22.0)),
        visit("2027-03-05 09:00", level(20.0)),
    ];
    let garden = lettuce(by(RefillMethod::HoldTheLine), &log, "2027-03-07 09:00");
    let s = garden.situation();
    let about = s.water().litres().unwrap();
    let limit = limit_of(&about, &s);
    assert!(about.high.get() + limit.litres.get() <= 20.0 + 1.5, "{about:?} and {limit:?}");
}

/// A vessel that drinks evenly: what really stood there, hour by hour.
struct Drinks {
    a_day: f64,
    level: f64,
    hours: Vec<f64>,
    raised: Option<usize>,
}

impl Drinks {
    fn line(&self) -> f64 {
        self.hours.iter().rev().take(72).copied().fold(0.0, f64::max)
    }

    fn on(&mut self, hours: usize) {
        for _ in 0..hours {
            self.level = (self.level - self.a_day / 24.0).max(0.0);
            self.hours.push(self.level);
        }
    }

    fn pour(&mut self, litres: f64) {
        let line = self.line();
        self.level += litres;
        // A fiftieth is no rise; what is hardly more may be taken for one or the other.
        if self.level > line * 1.04 {
            self.raised = Some(self.hours.len());
        }
        self.hours.push(self.level);
    }
}

fn instant(hours: usize) -> Timestamp {
    let from = jiff::civil::date(2027, 1, 4).at(0, 0, 0, 0).to_zoned(zone()).unwrap();
    from.checked_add((hours as i64).hours()).unwrap().timestamp()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(crate::common::soak::times(4000, 300)))]

    /// No advice leaves a vessel below its minimum when it could be filled to it, and none rises above the line by more
    /// than the method allows, but for that.
    #[test]
    fn the_dry_plant_comes_first_and_then_the_line(
        refill in prop::sample::select(vec![RefillMethod::HoldTheLine, RefillMethod::OneInch, RefillMethod::QuarterToHalf]),
        side in 90.0..600.0f64,
        tall in 100.0..400.0f64,
        share in 0.003..0.12f64,
        visits in prop::collection::vec((6usize..90, 0.0..1.0f64, any::<bool>()), 2..14),
    ) {
        let side = crate::common::mm(side);
        let shape = Shape::Box { length_mm: side, width_mm: side, height_mm: crate::common::mm(tall) };
        let system = System { reservoir: Reservoir::suggested(shape, l(0.0)), refill, ..tub() };
        let (full, rim) = (system.full().get(), system.reservoir.shape.capacity().get());
        let (minimum, most) = (system.reservoir.minimum.get(), system.highest().get());
        let mut truth = Drinks { a_day: share * full, level: full, hours: vec![full], raised: None };
        let first = Entry { at: instant(0), ..entry("2027-01-04 00:00", Body::Change(Change::full(l(full)))) };
        let mut log = vec![first];
        for (hours, part, obeys) in visits {
            truth.on(hours);
            let now = truth.hours.len() - 1;
            let stamp = instant(now);
            let garden = Garden { now: stamp.to_zoned(zone()), ..lettuce(system.clone(), &log, "2027-03-01 09:00") };
            let limit = limit_from(l(truth.level), &garden.situation());
            let up_to = limit.up_to.get();
            let dry = truth.level < minimum;
            prop_assert!(!dry || up_to >= minimum.min(most) - 1e-6, "left at {up_to} of {minimum}: {}", limit.reason.said());
            prop_assert!(up_to <= most.max(truth.level) + 1e-6);
            let line = truth.line();
            let rests = truth.raised.is_some_and(|at| now - at < 24 * 7 - 1);
            let allowed = match refill {
                RefillMethod::OneInch if rests => line,
                RefillMethod::OneInch => line + side.get() * side.get() * 25.4 / 1e6,
                RefillMethod::HoldTheLine => line,
                _ => (rim / 2.0).max(truth.level),
            };
            let allowed = if dry { allowed.max(minimum) } else { allowed };
            prop_assert!(up_to <= allowed * 1.021 + 1e-6, "{refill:?} up to {up_to} of {allowed}, line {line}, {}", limit.reason.said());
            // Somebody pours what was said, or as they please.
            let litres = if obeys { (up_to - truth.level).max(0.0) } else { part * 0.2 * (rim * 0.95 - truth.level).max(0.0) };
            let read = level(truth.level);
            truth.pour(litres);
            let visit = Visit { level: read.level, ..poured(litres) };
            log.push(Entry { id: Uuid::now_v7(), at: stamp, ..entry("2027-01-04 00:00", Body::Visit(visit)) });
        }
    }
}
