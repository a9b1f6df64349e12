//! How a check goes by hand, step by step, read from `data/hands.toml`: only what a system has, in the order in which hands
//! move.

use super::{Check, Need, Traits};
use crate::message::Message;
use serde::Deserialize;
use std::sync::LazyLock;

/// One step of a check.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
pub struct HandStep {
    /// Whose step it is.
    pub check: Check,
    /// Its code among the steps of that check.
    pub key: String,
    /// What a system must have to have this step; absent where every system has it.
    #[serde(default)]
    pub needs: Option<Need>,
    /// Whether it means mains current, or what a child should not open.
    #[serde(default)]
    pub adult: bool,
}

impl HandStep {
    /// What is done, in a sentence.
    #[must_use]
    pub fn say(&self) -> Message {
        Message::of("hands", self.check.code(), &self.key)
    }
}

#[derive(Deserialize)]
struct File {
    step: Vec<HandStep>,
}

static STEPS: LazyLock<Vec<HandStep>> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str::<File>(include_str!("../../data/hands.toml")).expect("data/hands.toml is well formed").step
});

/// Every step of every check.
#[must_use]
pub fn hand_steps() -> &'static [HandStep] {
    &STEPS
}

impl Check {
    /// The steps of this check on a system with these traits, in the order in which hands move. A child is given none of a
    /// check that is an adult's, and of the others what is safe.
    #[must_use]
    pub fn hands(self, traits: &Traits, child: bool) -> Vec<&'static HandStep> {
        if !self.applies(traits) || (child && self.facts().adult) {
            return Vec::new();
        }
        let here = |step: &&HandStep| step.check == self && step.needs.is_none_or(|need| need.is_met(traits));
        STEPS.iter().filter(here).filter(|step| !(child && step.adult)).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::system::checks;

    fn tower() -> Traits {
        Traits {
            circulates: true,
            aerated: true,
            sprayers: true,
            mesh_filters: true,
            opaque: true,
            ..Traits::default()
        }
    }

    fn keys(check: Check, traits: &Traits, child: bool) -> Vec<&'static str> {
        check.hands(traits, child).into_iter().map(|step| step.key.as_str()).collect()
    }

    #[test]
    fn a_filter_is_rinsed_with_the_pump_off_and_seen_to_flow_and_not_to_leak() {
        let steps = ["unplug", "mesh_out", "rinse", "seal", "power", "flows", "leaks"];
        assert_eq!(keys(Check::Filters, &tower(), false), steps);
    }

    #[test]
    fn a_child_is_given_no_step_at_the_mains_and_nothing_of_a_check_that_is_an_adults() {
        for facts in checks() {
            let all = Traits { channels: true, controller: true, light: true, top_off_reservoir: true, ..tower() };
            let steps = facts.key.hands(&all, true);
            assert!(steps.iter().all(|step| !step.adult), "{:?}", facts.key);
            assert!(!facts.adult || steps.is_empty(), "{:?} is an adult's", facts.key);
        }
        assert_eq!(keys(Check::Calibrate, &tower(), true), Vec::<&str>::new());
        assert_eq!(keys(Check::Light, &Traits { light: true, ..tower() }, true), ["gap", "hours", "clock"]);
    }

    #[test]
    fn a_step_stands_only_where_the_part_is() {
        let jar = Traits { opaque: false, ..Traits::default() };
        assert_eq!(keys(Check::Filters, &jar, false), Vec::<&str>::new());
        assert_eq!(keys(Check::WipeDown, &jar, false), ["seams", "lid", "light_in", "floor"]);
        assert_eq!(keys(Check::LookIn, &jar, false), ["stand", "floor"]);
        let channel = Traits { channels: true, ..tower() };
        assert!(keys(Check::Sprayers, &channel, false).contains(&"ends"));
        assert!(!keys(Check::Sprayers, &tower(), false).contains(&"ends"));
    }

    #[test]
    fn each_check_but_the_change_which_has_its_own_guide_has_its_steps() {
        for facts in checks().iter().filter(|facts| facts.key != Check::Change) {
            assert!(STEPS.iter().any(|step| step.check == facts.key), "{:?} has no step", facts.key);
        }
    }
}
