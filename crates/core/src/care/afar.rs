//! What may be called fine in one go, from a list of several systems, without opening each visit.

use super::run_again::unseen;
use super::{Task, Urgency, pressing};
use crate::message::Message;
use crate::say;
use crate::situation::Situation;
use crate::verdict::worst_fault;
use serde::Serialize;

/// Whether a look at a system may be recorded as all fine from a list.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FromList {
    /// With the others, in one go.
    Fine,
    /// Only when it is ticked: something here needs a hand.
    Ticked,
    /// Never: its own visit is opened.
    Never,
}

/// Whether a system may be called fine from a list, and why not where it may not.
#[must_use]
pub fn from_list(tasks: &[Task], changing: bool, s: &Situation<'_>) -> (FromList, Option<Message>) {
    if let Some((_, case)) = s.known.cases.open() {
        return (FromList::Never, Some(say!("from_list.case", case = case)));
    }
    if changing {
        return (FromList::Never, Some(say!("from_list.changing")));
    }
    // What was seen amiss is asked about, part by part, on a visit.
    let running = s.known.readings.running.map(|seen| seen.value).filter(|seen| seen.any_fault());
    if let Some(fault) = running.and_then(worst_fault) {
        return (FromList::Never, Some(say!("from_list.fault", fault = fault)));
    }
    if let Some(part) = unseen(s).first() {
        let part = Message::of("running.question", part, "say");
        return (FromList::Never, Some(say!("from_list.stopped", part = part)));
    }
    let hand = pressing(tasks).is_some_and(|task| task.urgency == Urgency::Hand);
    (if hand { FromList::Ticked } else { FromList::Fine }, None)
}
