//! Cases of what ails plants: opened, looked at on their days, closed by sound looks, and never called fine.

use crate::common::{Garden, Said, adult, child, entry, level, planting, system, visit};
use mopsel_core::care::{FromList, Task, from_list};
use mopsel_core::crop::Stage;
use mopsel_core::diagnosis::{cause, causes};
use mopsel_core::fact::{
    Body, CaseLook, CaseOutcome, Change, ChangeParts, Entry, PlantSign, Plants, RootAnswers, Roots, Shares, Visit,
    plan, plans,
};
use mopsel_core::system::{Kind, Methods, PortSet, RootRotMethod, System};
use mopsel_core::verdict::judge_visit;
use mopsel_core::words::{english, say_entry};
use proptest::prelude::*;
use std::borrow::Cow;

fn look(cause: &str, outcome: CaseOutcome) -> CaseLook {
    CaseLook { cause: cause.to_owned(), outcome, ports: None, learnt: None }
}

fn looks(cases: &[(&str, CaseOutcome)]) -> Visit {
    Visit { cases: cases.iter().map(|(cause, outcome)| look(cause, *outcome)).collect(), ..Visit::default() }
}

fn garden(log: &[Entry], now: &str) -> Garden {
    Garden::new(system(Kind::AeratedRaft), vec![planting("Dill", (1, 4), Stage::Vegetative)], log, now)
}

fn task(garden: &Garden, code: &str) -> Option<Task<String>> {
    let tasks = mopsel_core::care::tasks(&garden.situation());
    tasks.into_iter().find(|task| task.code == code).map(Said::said)
}

#[test]
fn a_case_is_looked_at_on_its_days_and_closed_by_two_sound_looks() {
    let mut log = vec![visit("2027-03-01 09:00", looks(&[("aphids", CaseOutcome::Opened)]))];
    let due = |log: &[Entry], now: &str| task(&garden(log, now), "aphids").map(|task| task.due_on.to_string());
    assert_eq!(due(&log, "2027-03-01 12:00").unwrap(), "2027-03-04");
    let told = task(&garden(&log, "2027-03-01 12:00"), "aphids").unwrap();
    assert_eq!(told.name, "Look again: Aphids");
    assert!(told.doing.contains("sticky tape") && told.reason.contains("Two sound looks"), "{told:?}");
    // A late look moves the next to the plan's next day.
    log.push(visit("2027-03-05 09:00", looks(&[("aphids", CaseOutcome::Better)])));
    assert_eq!(due(&log, "2027-03-05 12:00").unwrap(), "2027-03-07");
    let later = task(&garden(&log, "2027-03-05 12:00"), "aphids").unwrap().reason;
    assert!(!told.reason.contains(';') && later.contains("; better, today."), "{} / {later}", told.reason);
    log.push(visit("2027-03-07 09:00", looks(&[("aphids", CaseOutcome::Gone)])));
    assert_eq!(due(&log, "2027-03-07 12:00").unwrap(), "2027-03-10", "one sound look closes nothing");
    log.push(visit("2027-03-10 09:00", looks(&[("aphids", CaseOutcome::Worse)])));
    log.push(visit("2027-03-13 09:00", looks(&[("aphids", CaseOutcome::Gone)])));
    assert_eq!(due(&log, "2027-03-13 12:00").unwrap(), "2027-03-16", "it begins to count anew");
    log.push(visit("2027-03-16 09:00", looks(&[("aphids", CaseOutcome::Gone)])));
    assert_eq!(due(&log, "2027-03-16 12:00"), None);
    let known = garden(&log, "2027-03-16 12:00").known;
    assert_eq!(known.cases.plants[0].closed, Some(crate::common::at("2027-03-16 09:00")));
    assert!(!known.amiss());
    // The same again is a case of its own, and says so.
    log.push(visit("2027-03-20 09:00", looks(&[("aphids", CaseOutcome::Opened)])));
    let known = garden(&log, "2027-03-20 12:00").known;
    assert!(known.cases.plants[1].again && known.cases.plants[1].closed.is_none());
}

/// Two who look on one day have looked once: that closes nothing that wants two looks.
#[test]
fn two_sound_looks_on_one_day_are_one() {
    let gone = |when: &str| visit(when, looks(&[("aphids", CaseOutcome::Gone)]));
    let sound = |when: &str| visit(when, Visit { roots: Some(Roots::sound()), ..Visit::default() });
    let answers = RootAnswers { stick_together: Some(true), ..RootAnswers::default() };
    let rot = Visit { roots: Some(Roots { answers, ports: None }), ..looks(&[("aphids", CaseOutcome::Opened)]) };
    let mut log = vec![visit("2027-03-01 09:00", rot)];
    for at in ["2027-03-04 09:00", "2027-03-04 09:05", "2027-03-04 17:00"] {
        log.extend([gone(at), sound(at)]);
    }
    let cases = garden(&log, "2027-03-04 18:00").known.cases;
    assert!(cases.root_rot().is_some_and(|case| case.sound_looks == 1));
    assert!(cases.open_plants().any(|(case, _)| case.cause == "aphids" && case.sound_looks == 1));
    log.extend([gone("2027-03-05 08:00"), sound("2027-03-05 08:00")]);
    assert!(garden(&log, "2027-03-05 18:00").known.cases.open().is_none());
}

#[test]
fn several_cases_at_once_each_with_its_own_task() {
    let opened = [("aphids", CaseOutcome::Opened), ("nitrogen_short", CaseOutcome::Opened)];
    let log = [visit("2027-03-01 09:00", looks(&opened))];
    let garden = garden(&log, "2027-03-02 12:00");
    assert!(task(&garden, "aphids").is_some());
    assert_eq!(task(&garden, "nitrogen_short").unwrap().due_on.to_string(), "2027-03-05");
    let lines: Vec<String> = say_entry(&log[0].body, &garden.system).into_iter().map(|line| line.said()).collect();
    assert_eq!(lines, ["Case: Aphids, opened", "Case: Nitrogen short, opened"]);
}

#[test]
fn over_an_open_case_nothing_is_all_fine() {
    let log = [visit("2027-03-01 09:00", looks(&[("algae", CaseOutcome::Opened)]))];
    let garden = garden(&log, "2027-03-02 12:00");
    let s = garden.situation();
    assert!(!judge_visit(&Visit { all_fine: true, ..Visit::default() }, &s).unwrap().fine);
    let (may, why) = from_list(&mopsel_core::care::tasks(&s), false, &s);
    assert_eq!(may, FromList::Never);
    assert_eq!(why.unwrap().said(), "Algae is open here: look at it on a visit of its own.");
    let look_in = task(&garden, "look_in").unwrap();
    assert!(!look_in.one_tap && look_in.way.is_some());
    let both = Visit { all_fine: true, ..looks(&[("algae", CaseOutcome::Same)]) };
    let refused = Body::Visit(both).check(&garden.system, &adult()).unwrap_err().said();
    assert_eq!(refused.code, "all_fine_with_findings");
}

#[test]
fn what_a_case_is_followed_up_for_is_not_asked_for_twice() {
    let yellow = Visit {
        plants: Some(Plants::showing(&[PlantSign::LowerLeavesYellow], None)),
        ..looks(&[("nitrogen_short", CaseOutcome::Opened)])
    };
    let codes = |log: &[Entry]| -> Vec<Cow<'static, str>> {
        mopsel_core::care::tasks(&garden(log, "2027-03-02 12:00").situation())
            .iter()
            .map(|task| task.code.clone())
            .collect()
    };
    let followed = codes(&[visit("2027-03-01 09:00", yellow.clone())]);
    assert!(followed.contains(&"nitrogen_short".into()));
    assert_eq!(followed.iter().filter(|code| **code == "plants").count(), 1, "only the weekly look: {followed:?}");
    let webs = Visit { plants: Some(Plants::showing(&[PlantSign::FineWebs], None)), ..yellow };
    assert_eq!(codes(&[visit("2027-03-01 09:00", webs)]).iter().filter(|code| **code == "plants").count(), 2);
}

/// A case swallows nothing that is seen after it was last looked at, and nothing that is not of its kind.
#[test]
fn what_is_seen_after_a_case_was_looked_at_asks_for_itself() {
    let limp = |cases: &[(&str, CaseOutcome)]| Visit {
        plants: Some(Plants::showing(&[PlantSign::WiltsWithWater], None)),
        ..looks(cases)
    };
    let asks = |log: &[Entry]| {
        let tasks = mopsel_core::care::tasks(&garden(log, "2027-03-02 12:00").situation());
        tasks.iter().any(|task| task.cause.as_deref().is_some_and(|cause| cause.starts_with("verdict.plants")))
    };
    let opened = visit("2027-03-01 09:00", limp(&[("transplant_shock", CaseOutcome::Opened)]));
    assert!(!asks(std::slice::from_ref(&opened)), "followed up by its case");
    let since = visit("2027-03-02 09:00", limp(&[]));
    assert!(asks(&[opened.clone(), since.clone()]), "limp again, and nobody has said how the case stands");
    let told = visit("2027-03-02 09:05", looks(&[("transplant_shock", CaseOutcome::Same)]));
    assert!(!asks(&[opened.clone(), since, told]));
    let webs = Visit {
        plants: Some(Plants::showing(&[PlantSign::FineWebs], None)),
        ..looks(&[("transplant_shock", CaseOutcome::Same)])
    };
    assert!(asks(&[opened, visit("2027-03-02 09:00", webs)]), "webs are of another kind");
}

#[test]
fn who_shares_water_or_hands_is_a_suspect() {
    let suspect = |cause: &str| {
        garden(&[visit("2027-03-01 09:00", looks(&[(cause, CaseOutcome::Opened)]))], "2027-03-02 12:00")
            .known
            .cases
            .suspect()
            .is_some()
    };
    assert!(suspect("algae") && suspect("aphids") && !suspect("nitrogen_short"));
    let answers = RootAnswers { stick_together: Some(true), ..RootAnswers::default() };
    let rot = Visit { roots: Some(Roots { answers, ports: None }), ..level(80.0) };
    assert!(garden(&[visit("2027-03-01 09:00", rot)], "2027-03-02 12:00").known.cases.suspect().is_some());
}

#[test]
fn a_case_that_cannot_be_is_refused_at_its_field() {
    let raft = system(Kind::AeratedRaft);
    let refused = |cases: Vec<CaseLook>, by| {
        let refusal = Body::Visit(Visit { cases, ..Visit::default() }).check(&raft, &by).unwrap_err().said();
        (refusal.field, refusal.code)
    };
    let says = |field: &str, code: &str| (field.to_owned(), code.to_owned());
    assert_eq!(refused(vec![look("gremlins", CaseOutcome::Same)], adult()), says("cases.0.cause", "no_such_case"));
    assert_eq!(refused(vec![look("root_rot", CaseOutcome::Opened)], adult()), says("cases.0.cause", "no_such_case"));
    let twice = vec![look("aphids", CaseOutcome::Same), look("aphids", CaseOutcome::Gone)];
    assert_eq!(refused(twice, adult()), says("cases.1.cause", "case_twice"));
    let opened = || vec![look("aphids", CaseOutcome::Opened)];
    assert_eq!(refused(opened(), child()), says("cases.0.outcome", "child_opens_case"));
    let far = CaseLook { ports: Some(PortSet::range(390, 400)), ..look("aphids", CaseOutcome::Opened) };
    assert_eq!(refused(vec![far], adult()).0, "cases.0.ports");
    assert!(Body::Visit(looks(&[("aphids", CaseOutcome::Gone)])).check(&raft, &child()).is_ok(), "a child may tell");
}

#[test]
fn every_plan_has_its_cause_and_every_cause_its_plan_or_a_reason() {
    for plan in plans() {
        assert!(cause(&plan.cause).is_some(), "{} has no cause", plan.cause);
        assert!(plan.looks.is_sorted() && plan.looks[0] >= 1.0 && plan.later >= 1.0 && (1..=3).contains(&plan.sound));
        assert!(english().get(&format!("cause.{}.do", plan.cause)).is_some());
    }
    // Root rot has looks of its own; the others want one deed and no looking again.
    let without = ["root_rot", "feed_stain", "retiring_leaves", "crowding", "bolting"];
    for cause in causes() {
        assert!(plan(&cause.key).is_some() != without.contains(&cause.key.as_str()), "{}", cause.key);
    }
    assert!(plans().iter().filter(|plan| plan.shares != Shares::None).all(|plan| plan.sound == 2));
}

/// Where rot always means to start anew: one task, no bath and no dose, and the reset ends it.
#[test]
fn always_restart_asks_for_the_reset_and_is_over_with_it() {
    let mut raft = system(Kind::AeratedRaft);
    raft.methods.root_rot = RootRotMethod::Restart;
    let answers = RootAnswers { stick_together: Some(true), ..RootAnswers::default() };
    let rot = Visit { roots: Some(Roots { answers, ports: None }), ..level(80.0) };
    let mut log = vec![visit("2027-03-01 09:00", rot)];
    let codes = |system: &System, log: &[Entry]| -> Vec<Cow<'static, str>> {
        let garden =
            Garden::new(system.clone(), vec![planting("Dill", (1, 4), Stage::Vegetative)], log, "2027-03-04 09:00");
        let root = |code: &Cow<'static, str>| code.starts_with("root_") || *code == "peroxide";
        mopsel_core::care::tasks(&garden.situation()).iter().map(|task| task.code.clone()).filter(root).collect()
    };
    assert_eq!(codes(&raft, &log), ["root_restart"]);
    let treated = System { methods: Methods::default(), ..raft.clone() };
    assert_eq!(codes(&treated, &log), ["root_treat", "root_look"]);
    let reset = |reset| {
        let parts = ChangeParts { reset, ..ChangeParts::default() };
        entry("2027-03-02 09:00", Body::Change(Change { parts: Some(parts), ..Change::full(crate::common::l(90.0)) }))
    };
    log.push(reset(false));
    assert_eq!(codes(&raft, &log), ["root_restart"], "a change alone brings it back");
    log[1] = reset(true);
    assert!(codes(&raft, &log).is_empty());
    assert!(codes(&treated, &log).contains(&"root_look".into()), "a treated one is looked at until it is sound");
}

proptest! {
    /// Whatever is told in whatever order: a case is open exactly until its sound looks in a row, and folding
    /// one by one is folding all.
    #[test]
    fn a_case_is_open_until_its_sound_looks_in_a_row(told in proptest::collection::vec(0..5u8, 1..20)) {
        let outcomes = [
            CaseOutcome::Opened,
            CaseOutcome::Gone,
            CaseOutcome::Better,
            CaseOutcome::Same,
            CaseOutcome::Worse,
        ];
        let log: Vec<Entry> = told
            .iter()
            .enumerate()
            .map(|(n, which)| visit(&format!("2027-02-{:02} 09:00", n + 1), looks(&[("thrips", outcomes[usize::from(*which)])])))
            .collect();
        let (mut open, mut sound) = (false, 0);
        for which in &told {
            match (outcomes[usize::from(*which)], open) {
                (CaseOutcome::Gone, true) => {
                    sound += 1;
                    open = sound < 2;
                }
                (CaseOutcome::Gone, false) => {}
                _ => (open, sound) = (true, 0),
            }
        }
        let known = garden(&log, "2027-03-09 08:30").known;
        prop_assert_eq!(known.cases.open().is_some(), open);
        prop_assert!(known.cases.plants.iter().filter(|case| case.closed.is_none()).count() <= 1);
    }
}
