//! What stopped, by a power cut or by hand, is seen to run again before anything is fine.

use crate::common::{Garden, child, level, planting, system, visit};
use mopsel_core::care::{FromList, from_list};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Happened, Running, Visit};
use mopsel_core::system::{Kind, kinds};
use mopsel_core::verdict::Rank;

fn told(event: Happened) -> Visit {
    Visit { events: vec![event], ..Visit::default() }
}

fn after(kind: Kind, event: Happened) -> Garden {
    let log = [visit("2027-03-08 18:00", level(60.0)), visit("2027-03-09 08:30", told(event))];
    Garden::new(system(kind), vec![planting("Kale", (1, 4), Stage::Vegetative)], &log, "2027-03-09 09:00")
}

fn saw(running: Running) -> Visit {
    Visit { running: Some(running), ..Visit::default() }
}

#[test]
fn a_power_cut_asks_for_pump_and_timer_at_once_until_each_was_seen() {
    let mut tower = after(Kind::Tower, Happened::PowerCut {});
    let first = tower.tasks().remove(0);
    assert_eq!((first.code.as_ref(), first.rank), ("run_again", Rank::Hours));
    assert_eq!(first.doing, "Does the water sound right? Does the timer show the right time?");
    assert!(first.reason.contains("Roots here last about 3 hours"), "{}", first.reason);
    assert_eq!(
        first.mended.iter().map(|one| one.part.as_ref()).collect::<Vec<_>>(),
        ["water_sounds_right", "timer_right"]
    );
    assert!(!first.adult, "a child may look and say so");
    let all = tower.raw_tasks();
    assert_eq!(from_list(&all, false, &tower.situation()).0, FromList::Never);
    assert!(!tower.task("look_in").one_tap);

    // Other work does not answer it; each answer takes its question away.
    tower.log(visit("2027-03-09 08:35", level(58.0)));
    tower.log(visit("2027-03-09 08:40", saw(Running { water_sounds_right: Some(true), ..Running::default() })));
    let timer = tower.task("run_again");
    assert_eq!((timer.doing.as_str(), timer.rank), ("Does the timer show the right time?", Rank::Days));
    tower.log(visit("2027-03-09 08:45", saw(Running { timer_right: Some(true), ..Running::default() })));
    assert!(tower.tasks().iter().all(|task| task.code != "run_again"));
    assert!(tower.task("look_in").one_tap);
}

#[test]
fn what_is_found_still_off_is_a_fault_and_no_open_question() {
    let mut raft = after(Kind::AeratedRaft, Happened::SwitchedOff {});
    let asked = raft.task("run_again");
    assert!(asked.doing == "Do bubbles rise?" && asked.reason.contains("about 12 hours"), "{asked:?}");
    raft.log(visit("2027-03-09 08:45", saw(Running { bubbles: Some(false), ..Running::default() })));
    let tasks = raft.tasks();
    assert!(tasks[0].code == "running" && tasks.iter().all(|task| task.code != "run_again"), "{tasks:?}");
}

#[test]
fn only_what_has_a_plug_can_be_off_and_children_switch_nothing_off() {
    for facts in kinds() {
        let system = system(facts.key);
        let refused = |event: Happened, actor| {
            mopsel_core::fact::Body::Visit(told(event)).check(&system, &actor).err().map(|refusal| refusal.code)
        };
        let plug = system.traits.mains();
        assert_eq!(refused(Happened::PowerCut {}, child()).is_none(), plug, "{:?}", facts.key);
        assert_eq!(refused(Happened::SwitchedOff {}, crate::common::adult()).is_none(), plug);
        assert_eq!(refused(Happened::SwitchedOff {}, child()).as_deref(), Some("child_switches_off"));
        assert_eq!(facts.lasts_hours.is_some(), facts.traits.pumped() || facts.traits.aerated, "{:?}", facts.key);
    }
    // A hand that switches off after a cut leaves the timer's question open.
    let mut tower = after(Kind::Tower, Happened::PowerCut {});
    tower.log(visit("2027-03-09 08:40", told(Happened::SwitchedOff {})));
    assert!(tower.task("run_again").doing.contains("timer"));
}
