//! Standing risks: what makes the next loss likelier, and what lowers it.

use crate::common::{Garden, Said, celsius, noted, planting, system, visit};
use mopsel_core::care::{Risk, known_risks, risks};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Entry, RootAnswers, Roots, Running, Visit};
use mopsel_core::system::{Kind, System};

const NOW: &str = "2027-03-09 08:30";

fn standing(system: System, stages: &[Stage], log: &[Entry]) -> Vec<Risk<String>> {
    let plantings = stages.iter().enumerate().map(|(n, stage)| {
        let port = u16::try_from(n + 1).unwrap();
        planting("Lettuce", (port, port), *stage)
    });
    let garden = Garden::new(system, plantings.collect(), log, NOW);
    risks(&garden.situation()).into_iter().map(Said::said).collect()
}

fn keys(risks: &[Risk<String>]) -> Vec<&'static str> {
    risks.iter().map(|risk| risk.key).collect()
}

#[test]
fn warm_water_that_nobody_sees_aerated_stands_before_a_light_leak() {
    let mut raft = system(Kind::AeratedRaft);
    raft.traits.opaque = false;
    let warm = Visit { temperature: Some(celsius(25.5)), ..Visit::default() };
    let log = [noted("2027-02-20 09:00"), visit("2027-03-04 08:00", warm)];
    let all = standing(raft.clone(), &[Stage::Vegetative], &log);
    assert_eq!(keys(&all), ["warm_water", "air_not_seen", "light_leak"]);
    assert_eq!(all[0].finding, "Warm water: 25.5 °C");
    assert_eq!(
        all[0].how_much,
        "While it lasts a loss is about 3 times likelier; that takes away 80 % of it. Warm water holds less air, and \
         water moulds grow fastest from 24 °C (75 °F) on."
    );
    assert!(all[1].finding.contains("5 days"), "{}", all[1].finding);
    let seen = Visit { running: Some(Running { bubbles: Some(true), ..Running::default() }), ..Visit::default() };
    let log = [log[0].clone(), log[1].clone(), visit("2027-03-08 09:05", seen)];
    assert_eq!(keys(&standing(raft.clone(), &[Stage::Vegetative], &log)), ["warm_water", "light_leak"]);
    assert!(standing(raft, &[], &log).is_empty(), "nothing grows there that could be lost");
}

#[test]
fn what_was_harvested_leaves_its_roots_and_healed_rot_its_spores() {
    let rotten = |stick_together: bool| Visit {
        roots: Some(Roots {
            answers: RootAnswers { stick_together: Some(stick_together), ..RootAnswers::SOUND },
            ports: None,
        }),
        ..Visit::default()
    };
    let log = [
        visit("2027-02-20 09:00", rotten(true)),
        visit("2027-02-24 09:00", rotten(false)),
        visit("2027-02-27 09:00", rotten(false)),
        visit("2027-03-08 09:00", Visit { all_fine: true, ..Visit::default() }),
    ];
    let all = standing(system(Kind::AeratedRaft), &[Stage::Vegetative, Stage::Done], &log);
    assert_eq!(keys(&all), ["rot_before", "dead_roots_left"]);
    assert!(all[0].finding.contains("9 days ago") && all[1].finding.starts_with("Lettuce was harvested"), "{all:?}");
    let open = standing(system(Kind::AeratedRaft), &[Stage::Vegetative], &log[..2]);
    assert!(!keys(&open).contains(&"rot_before"), "while it is open it is a case, no risk");
}

#[test]
fn every_risk_is_heavier_than_none_and_its_remedy_takes_some_away() {
    for risk in known_risks() {
        assert!(risk.times > 1.0 && risk.lowers > 0.0 && risk.lowers <= 1.0 && risk.why.ends_with('.'), "{}", risk.key);
    }
    assert!(known_risks().is_sorted_by(|a, b| a.times >= b.times));
}
