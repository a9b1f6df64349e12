//! What a contact with an ill system asks for. A system is a suspect from the contact on, until a sound look that is
//! late enough to have shown it, or until too long has passed for it to come from there.

use super::Task;
use super::margin::shorten;
use crate::calendar::{add_whole_days, day, end_of};
use crate::fact::Subject;
use crate::figures::FIGURES;
use crate::message::{Message, days};
use crate::projection::Touched;
use crate::say;
use crate::situation::Situation;
use crate::system::{Check, HandStep};
use jiff::Timestamp;

fn said(touched: &Touched, s: &Situation<'_>) -> Message {
    say!(
        "hygiene.touched",
        carried = touched.carried.say(),
        name = &touched.name,
        day = day(s.date(touched.at), s.today()),
        case = Message::of("cause", &touched.cause, "name")
    )
}

/// Since when it is closed off, as long as there is a reason for it: it opens by itself once all is sound.
#[must_use]
pub fn closed_off(s: &Situation<'_>) -> Option<Timestamp> {
    let ill = s.known.cases.suspect().is_some() || !s.suspect_of().is_empty();
    s.known.happened.closed_off.filter(|_| ill)
}

/// That hands, tools or water would carry something from here, and what to mind; `None` where nothing would.
#[must_use]
pub fn mind(s: &Situation<'_>) -> Option<Message> {
    let touched = s.suspect_of();
    let why = match (s.known.cases.suspect(), touched.first()) {
        (Some(case), _) => say!("hygiene.open", case = case),
        (None, Some(touched)) => said(touched, s),
        (None, None) => return None,
    };
    Some(match closed_off(s) {
        Some(since) => say!("hygiene.closed_off", since = day(s.date(since), s.today()), why = why),
        None => say!("hygiene.last", why = why),
    })
}

/// Whether whoever is here only looks: a child, at a system from which hands would carry something on.
#[must_use]
pub fn only_looks(s: &Situation<'_>) -> bool {
    s.actor.is_child() && mind(s).is_some()
}

/// The steps of a check for whoever is here.
#[must_use]
pub fn hands(check: Check, s: &Situation<'_>) -> Vec<&'static HandStep> {
    if only_looks(s) && check != Check::LookIn {
        return Vec::new();
    }
    check.hands(&s.system.traits, s.actor.is_child())
}

/// The look that tells whether a suspect has it: at the roots, and at the plants.
#[must_use]
pub fn suspect_looks(s: &Situation<'_>) -> Vec<Task> {
    let figures = &FIGURES.hygiene;
    let look = |roots: bool| {
        let all = s.suspect_of();
        let touched = all.into_iter().filter(|touched| touched.at_roots() == roots).min_by_key(|one| one.at)?;
        let slack = shorten(figures.look_slack, true, s).days;
        let on = s.calendar.settle(add_whole_days(s.date(touched.at), figures.shows_days), slack);
        let code = if roots { "suspect_roots" } else { "suspect_plants" };
        let name = Message::of("hygiene_look", code, "name");
        let doing = Message::of("hygiene_look", code, "doing");
        let reason = say!("hygiene.look_why", why = said(touched, s), after = days(figures.shows_days));
        let task = Task::new(code, name, doing, reason, on, end_of(on, s.now.time_zone()), s);
        let subject = if roots { Subject::Roots } else { Subject::Plants };
        Some(task.slack(slack, s).about(subject))
    };
    [true, false].into_iter().filter_map(look).collect()
}
