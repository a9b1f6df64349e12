//! What stands on the sheet that is taken to the tank.

use crate::common::{Garden, Said, planting, system, visit};
use mopsel_core::care::paper::{PaperLine, paper};
use mopsel_core::crop::Stage;
use mopsel_core::fact::Visit;
use mopsel_core::system::Kind;

fn raft(log: &[mopsel_core::fact::Entry]) -> Garden {
    Garden::new(system(Kind::AeratedRaft), vec![planting("Dill", (1, 4), Stage::Vegetative)], log, "2027-03-09 09:00")
}

fn lines(garden: &Garden) -> Vec<PaperLine<String>> {
    paper(&garden.situation())
        .into_iter()
        .map(|line| line.map(&|message: mopsel_core::message::Message| message.said()))
        .collect()
}

#[test]
fn an_amount_to_pour_is_not_written_down_for_it_follows_from_what_is_read() {
    let sour =
        Visit { ph: Some(crate::common::ph(7.4)), ec: Some(crate::common::ec(0.9)), ..crate::common::level(70.0) };
    let all = lines(&raft(&[crate::common::noted("2027-03-01 09:00"), visit("2027-03-08 09:00", sour)]));
    let dose = all.iter().find(|line| line.name.contains("pH")).unwrap();
    assert!(dose.said.contains("7.4") && dose.said.contains("the bench says"), "{dose:?}");
    for line in &all {
        assert!(!line.said.contains(" mL") && !line.steps.iter().any(|step| step.contains(" mL")), "{line:?}");
    }
    let stone = all.iter().find(|line| line.code == "stone").unwrap();
    assert_eq!(stone.steps.len(), 3, "step by step: {stone:?}");
    assert!(all.iter().all(|line| line.code != "level" && line.code != "readings"), "numbers have their own lines");
}

#[test]
fn a_child_is_given_no_step_at_mains_or_bottles_and_only_looks_at_a_suspect() {
    let log = [crate::common::noted("2027-02-20 09:00")];
    let well = lines(&raft(&log).for_child());
    let stone = well.iter().find(|line| line.code == "stone").unwrap();
    assert!(!stone.steps.iter().any(|step| step.contains("plug")), "{stone:?}");
    assert!(well.iter().any(|line| line.code == "roots"));
    let case = mopsel_core::fact::CaseLook {
        cause: "thrips".to_owned(),
        outcome: mopsel_core::fact::CaseOutcome::Opened,
        ports: None,
        learnt: None,
    };
    let ill = visit("2027-03-08 09:00", Visit { cases: vec![case], ..Visit::default() });
    let suspect = raft(&[&log[..], &[ill]].concat());
    let codes: Vec<String> = lines(&suspect.for_child()).into_iter().map(|line| line.code).collect();
    assert!(codes.contains(&"look_in".to_owned()), "{codes:?}");
    assert!(codes.iter().all(|code| code == "look_in" || code == "tell_an_adult"), "{codes:?}");
}
