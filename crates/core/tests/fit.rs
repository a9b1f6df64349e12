//! The set that fits in the minutes that there are.

use crate::common::{Garden, planting, system};
use mopsel_core::care::fit::{Worth, fit, worth};
use mopsel_core::care::tasks;
use mopsel_core::crop::Stage;
use mopsel_core::system::{Check, Kind, checks};
use proptest::prelude::*;

fn of(list: &[(u16, f64)]) -> Vec<Worth> {
    list.iter().map(|(minutes, wins)| Worth { minutes: *minutes, wins: *wins, now: false }).collect()
}

#[test]
fn the_most_is_won_and_not_the_most_pressing_alone() {
    // One long thing of six days against two short ones of five each.
    assert_eq!(fit(&of(&[(10, 6.0), (5, 5.0), (5, 5.0)]), 10), [1, 2]);
    assert_eq!(fit(&of(&[(10, 11.0), (5, 5.0), (5, 5.0)]), 10), [0]);
    assert_eq!(fit(&of(&[(10, 6.0), (5, 5.0), (5, 5.0)]), 9), [1]);
    assert!(fit(&of(&[(3, 4.0)]), 2).is_empty() && fit(&[], 60).is_empty());
    assert!(fit(&of(&[(1, 0.0), (1, -2.0)]), 60).is_empty(), "what wins nothing is left");
    assert_eq!(fit(&of(&[(60, 1.0)]), u16::MAX), [0], "no more than a day of work is planned");
}

#[test]
fn each_check_takes_its_minutes_and_wins_what_is_left_of_its_margin() {
    assert!(checks().iter().all(|check| (1..=60).contains(&check.minutes)));
    let log = [
        crate::common::noted("2027-03-01 09:00"),
        crate::common::visit("2027-03-02 09:00", crate::common::done(Check::Stone)),
    ];
    let garden = Garden::new(
        system(Kind::AeratedRaft),
        vec![planting("Dill", (1, 4), Stage::Vegetative)],
        &log,
        "2027-03-09 09:00",
    );
    for task in tasks(&garden.situation()) {
        let worth = worth(&task, 1.0);
        assert!(worth.minutes >= 1 && (0.0..=15.0).contains(&worth.wins), "{}: {worth:?}", task.code);
        if task.margin_days >= 7.0 {
            assert!(worth.wins <= 0.0, "{} can wait", task.code);
        }
    }
}

/// Every subset, by counting.
fn by_trying(tasks: &[Worth], minutes: u16) -> f64 {
    let sets = 0..1_u32 << tasks.len();
    let sum = |set: u32, of: &dyn Fn(&Worth) -> f64| -> f64 {
        tasks.iter().enumerate().filter(|(n, _)| set >> n & 1 == 1).map(|(_, task)| of(task)).sum()
    };
    sets.filter(|set| sum(*set, &|task| f64::from(task.minutes)) <= f64::from(minutes))
        .map(|set| sum(set, &|task| task.wins))
        .fold(0.0, f64::max)
}

proptest! {
    /// As good as trying every set.
    #[test]
    fn the_choice_is_exact(list in proptest::collection::vec((1u16..30, 0.0f64..14.0), 0..12), minutes in 0u16..90) {
        let tasks = of(&list);
        let chosen = fit(&tasks, minutes);
        let takes: u32 = chosen.iter().map(|n| u32::from(tasks[*n].minutes)).sum();
        let wins: f64 = chosen.iter().map(|n| tasks[*n].wins).sum();
        prop_assert!(takes <= u32::from(minutes));
        prop_assert!((wins - by_trying(&tasks, minutes)).abs() < 1e-6);
    }

    /// More time never wins less, and sixty tasks are chosen from as well.
    #[test]
    fn more_time_never_wins_less(list in proptest::collection::vec((1u16..45, 0.0f64..14.0), 60), minutes in 0u16..200) {
        let tasks = of(&list);
        let won = |minutes: u16| fit(&tasks, minutes).iter().map(|n| tasks[*n].wins).sum::<f64>();
        prop_assert!(won(minutes) <= won(minutes + 10) + 1e-9);
    }
}
