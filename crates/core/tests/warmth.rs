//! Litres and degrees: what two waters come to, and how a tank is brought down without a shock.

use crate::common::{Garden, Said, at_the_bench, celsius, l, level, planting, system, visit};
use mopsel_core::bench::{Ask, Purpose};
use mopsel_core::crop::Stage;
use mopsel_core::fact::Visit;
use mopsel_core::mixing::warmth::{mixed, swaps};
use mopsel_core::system::{Kind, TopOffMethod};

#[test]
fn a_tank_that_is_far_too_warm_is_told_how_much_of_what_degrees_brings_it_down_and_never_by_a_shock() {
    let c = celsius;
    assert!((mixed((l(80.0), c(28.0)), (l(20.0), c(18.0))).get() - 26.0).abs() < 1e-9);
    let all = swaps(l(80.0), c(30.0), c(22.0), c(15.0));
    assert_eq!(all.len(), 2, "{all:?}");
    let (mut tank, mut volume_held) = (c(30.0), true);
    for swap in &all {
        let next = mixed(((l(80.0) - swap.litres).or_nothing(), tank), (swap.litres, c(15.0)));
        assert!((tank - next).abs() <= 5.0 + 1e-9 && (next - swap.to).abs() < 1e-6, "{tank:?} to {next:?}");
        (tank, volume_held) = (next, volume_held && swap.litres < l(80.0));
    }
    assert!((tank - c(22.0)).abs() < 1e-6 && volume_held);
    assert!(swaps(l(80.0), c(30.0), c(12.0), c(15.0)).is_empty(), "colder than the fresh water it does not get");
    assert!(swaps(l(0.0), c(30.0), c(22.0), c(15.0)).is_empty());

    let log = [visit("2027-03-09 08:00", Visit { temperature: Some(c(30.0)), ..level(80.0) })];
    let garden = Garden::new(
        system(Kind::FilmChannel),
        vec![planting("Kale", (1, 9), Stage::Vegetative)],
        &log,
        "2027-03-09 08:30",
    );
    let task = garden.task("temperature");
    assert!(
        task.doing
            .contains("Or swap 25.3 L for fresh solution at 15.0 °C, 2 times, an hour apart: that makes it 22.0 °C"),
        "{}",
        task.doing
    );
    let ask = Ask {
        water_temperature: Some(c(12.0)),
        ..Ask::new(Purpose::TopOff {
            from: Some(l(50.0)),
            to: None,
            ec: None,
            method: Some(TopOffMethod::Plain),
            batch: None,
        })
    };
    let plan = at_the_bench(&garden.situation(), &ask).unwrap().said();
    assert!(
        plan.warnings.iter().any(|said| said.contains("pour in half, and the rest an hour later")),
        "{:?}",
        plan.warnings
    );
}
