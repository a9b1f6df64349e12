//! Entries of the log and their amendments.

use super::harvest::ended;
use super::moves::{self, moved_from};
use super::{Decision, Meets, PersonNow, Refused, SystemFacts, present};
use crate::care::follow_up::danger;
use crate::care::put_off;
use crate::care::run_again::unseen_since;
use crate::fact::{Actor, Body, Entry, LoggedEntry, Running, Subject, Visit};
use crate::figures::FIGURES;
use crate::message::{Message, typed};
use crate::projection::Stopped;
use crate::quantity::Note;
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::verdict::{judge_state, judge_visit, worst_fault};
use jiff::{SignedDuration, Timestamp};
use uuid::Uuid;

/// An entry to be added.
#[derive(Debug, Clone, PartialEq)]
pub struct NewEntry {
    /// Made by the client, so that a repeated request is the same entry.
    pub id: Uuid,
    /// When it happened; now when absent.
    pub at: Option<Timestamp>,
    /// What happened.
    pub body: Body,
    /// The entry that this one replaces.
    pub amends: Option<Uuid>,
    /// Why it was amended.
    pub reason: Option<Note>,
    /// The version of the draft that it closes.
    pub closes: Option<i64>,
    /// When it was saved on the device, by the server's clock: what had to wait for a connection happened then, and not
    /// when it arrived. It counts where neither the entry nor its draft says when.
    pub saved: Option<Timestamp>,
}

impl NewEntry {
    /// Whether what the log comes to decides on it: advice that is set aside has to stand there, and nothing is
    /// all fine over an open case.
    #[must_use]
    pub fn asks_the_log(&self) -> bool {
        !moved_from(&self.body).is_empty()
            || matches!(&self.body, Body::Visit(visit) if visit.all_fine || visit.running.is_some() || !visit.overruled.is_empty() || !visit.put_off.is_empty())
    }
}

impl NewEntry {
    /// What a visit names besides its own system: plantings of it that were harvested (with `true`), and other systems
    /// from which something came.
    #[must_use]
    pub fn names(&self) -> Vec<(Uuid, bool)> {
        let Body::Visit(visit) = &self.body else { return Vec::new() };
        let harvested = visit.harvests.iter().map(|harvest| (harvest.planting, true));
        let from = visit.events.iter().filter_map(|event| event.came_from().map(|id| (id, false)));
        harvested.chain(from).collect()
    }
}

/// Times are kept to the millisecond.
pub(super) fn to_millisecond(at: Timestamp) -> Timestamp {
    Timestamp::from_millisecond(at.as_millisecond()).unwrap_or(at)
}

/// The same without how long it took: that is counted when it is sent, and is nothing that was said.
fn untimed(body: &Body) -> Body {
    match body {
        Body::Visit(visit) => Body::Visit(Visit { minutes: None, ..visit.clone() }),
        other => other.clone(),
    }
}

/// Whether this is the request that made the entry.
fn repeats(new: &NewEntry, there: &LoggedEntry, at: &SystemFacts, actor: &Actor) -> bool {
    let entry = &there.entry;
    there.system == at.id
        && actor.person == Some(entry.by)
        && untimed(&entry.body) == untimed(&new.body)
        && entry.amends == new.amends
        && entry.reason == new.reason
        && new.at.is_none_or(|wanted| to_millisecond(wanted).min(there.recorded) == entry.at)
}

pub(super) fn add(
    new: &NewEntry,
    at: &SystemFacts,
    actor: &Actor,
    person: Option<&PersonNow>,
    now: Timestamp,
) -> Result<Decision, Refused> {
    if let Some(there) = &at.entry {
        return if repeats(new, there, at, actor) { Ok(Decision::Already) } else { Err(Refused::IdTaken) };
    }
    let actor = present(actor, person)?;
    let by = at.open_to(&actor)?;
    amends(new, at)?;
    let when = time(new.at.or_else(|| read_at(new, at)).or(new.saved.map(|saved| saved.min(now))), at, now)?;
    new.body.check(at.history.at(when), &actor).at("body")?;
    if let Body::Visit(visit) = &new.body {
        sets_aside(visit, new, at, &actor, now)?;
        fine_over_no_case(visit, at, when)?;
        closes_no_danger(visit, at, &actor, now)?;
        names_what_is_there(visit, at)?;
        puts_off_what_is_due(visit, new, at, &actor, now)?;
    }
    closes(new, at)?;
    let (body, amends, reason) = (new.body.clone(), new.amends, new.reason.clone());
    let entry = Box::new(Entry { id: new.id, at: when, by, body, amends, reason });
    let mut turned = moves::turned(new, when, at)?;
    // What was picked whole is no more there to be moved.
    if let Some(twice) =
        ended(new, when, at).into_iter().find(|end| turned.iter().any(|one| one.card.id == end.card.id))
    {
        return Err(refuse!("moved_and_picked", crop = typed(twice.card.card.name())).at("body.events").into());
    }
    turned.extend(ended(new, when, at));
    Ok(if turned.is_empty() { Decision::Append(entry) } else { Decision::AppendAndTurn(entry, turned) })
}

/// An amendment says why, and replaces what stands now.
fn amends(new: &NewEntry, at: &SystemFacts) -> Result<(), Refused> {
    let said = new.reason.as_ref().is_some_and(|reason| !reason.as_str().is_empty());
    match (new.amends, &new.body) {
        (Some(_), _) if !said => Err(refuse!("amendment_without_reason").at("reason").into()),
        (None, Body::Withdrawn {}) => Err(refuse!("withdrawal_of_nothing").at("amends").into()),
        (None, _) => Ok(()),
        (Some(_), _) if at.amended.is_none() => Err(Refused::NotFound("entry")),
        (Some(_), _) if at.newest.is_some() => Err(Refused::Conflict(Meets::Amendment)),
        (Some(_), _) => Ok(()),
    }
}

/// When the water of a visit was read that is closed now. What was poured meanwhile, at the bench as its own
/// verdict advised, comes after it: else the old reading would undo what was poured.
fn read_at(new: &NewEntry, at: &SystemFacts) -> Option<Timestamp> {
    let (Body::Visit(visit), Some(draft)) = (&new.body, &at.closing) else { return None };
    draft.read_at.filter(|_| visit.reads() == draft.visit.reads())
}

/// Advice that is set aside has to stand there: by what this visit finds, or by what was found before it. What an
/// amended entry had set aside was asked about then.
fn sets_aside(visit: &Visit, new: &NewEntry, at: &SystemFacts, actor: &Actor, now: Timestamp) -> Result<(), Refusal> {
    if visit.overruled.is_empty() || new.amends.is_some() {
        return Ok(());
    }
    let standing: Vec<(Subject, bool)> = at.situation(actor, &now.to_zoned(at.zone.clone()), |s| {
        let found = judge_visit(visit, s).map(|judged| judged.verdicts).unwrap_or_default();
        let before = judge_state(s).into_iter().map(|(_, verdict)| verdict);
        found.into_iter().chain(before).map(|verdict| (verdict.subject, verdict.stays)).collect()
    });
    for subject in visit.overruled.keys() {
        if standing.contains(&(*subject, true)) {
            return Err(refuse!("danger_set_aside").at("body.overruled"));
        }
        if !standing.contains(&(*subject, false)) {
            return Err(refuse!("nothing_to_set_aside", subject = subject.say()).at("body.overruled"));
        }
    }
    Ok(())
}

/// What is put off is due, and is moved no further than its margin. What an amended entry had put off was asked about
/// then, and an amendment puts off nothing else.
fn puts_off_what_is_due(
    visit: &Visit,
    new: &NewEntry,
    at: &SystemFacts,
    actor: &Actor,
    now: Timestamp,
) -> Result<(), Refusal> {
    if visit.put_off.is_empty() {
        return Ok(());
    }
    if new.amends.is_some() {
        let before = at.amended.as_ref().and_then(|there| match &there.entry.body {
            Body::Visit(before) => Some(before.put_off.as_slice()),
            _ => None,
        });
        let added = visit.put_off.iter().position(|one| !before.unwrap_or_default().contains(one));
        return match added {
            Some(n) => Err(refuse!("put_off_by_amendment", name = visit.put_off[n].chore.name())
                .at(&format!("body.put_off.{n}.chore"))),
            None => Ok(()),
        };
    }
    at.situation(actor, &now.to_zoned(at.zone.clone()), |s| put_off::check(visit, s)).at("body")
}

/// Nothing is all fine over an open case or an open fault, nor made so by an amendment; what was said before stays as it was.
fn fine_over_no_case(visit: &Visit, at: &SystemFacts, when: Timestamp) -> Result<(), Refusal> {
    let said_before =
        at.amended.as_ref().is_some_and(|there| matches!(&there.entry.body, Body::Visit(before) if before.all_fine));
    // Nor over a part that was amiss when it was last looked at, unless it is looked at now.
    let seen = at.known.readings.running.filter(|seen| seen.at <= when && visit.all_fine && !said_before);
    let fault = seen.and_then(|seen| worst_fault(visit.running.unwrap_or_default().over(seen.value)));
    if let Some(fault) = fault {
        return Err(refuse!("all_fine_over_fault", fault = fault).at("body.all_fine"));
    }
    // Nor after a stop, unless all that stopped is seen now.
    let stopped = at.known.readings.stopped.filter(|stopped| stopped.at <= when && visit.all_fine && !said_before);
    let seen = |stopped: Stopped| visit.running.unwrap_or_default().and(stopped.seen);
    let unseen = stopped.map(|stopped| Stopped { seen: seen(stopped.value), ..stopped.value });
    if let Some(part) = unseen.and_then(|stopped| unseen_since(stopped, &at.history.now().traits).first().copied()) {
        let part = Message::of("running.question", part, "say");
        return Err(refuse!("all_fine_over_stop", part = part).at("body.all_fine"));
    }
    let open = at.known.cases.open().filter(|(opened, _)| *opened <= when && visit.all_fine && !said_before);
    match open {
        Some((_, case)) => Err(refuse!("all_fine_over_case", case = case).at("body.all_fine")),
        None => Ok(()),
    }
}

/// That a danger to people is over is said by an adult.
fn closes_no_danger(visit: &Visit, at: &SystemFacts, actor: &Actor, now: Timestamp) -> Result<(), Refusal> {
    let (Some(typed), Some(seen)) = (visit.running, at.known.readings.running) else { return Ok(()) };
    if !actor.is_child() || at.situation(actor, &now.to_zoned(at.zone.clone()), |s| danger(s).is_none()) {
        return Ok(());
    }
    let open = |running: Running| running.amiss().filter(|part| Running::endangers(part)).count();
    if open(typed.over(seen.value)) < open(seen.value) {
        return Err(refuse!("child_closes_danger").at("body.running"));
    }
    Ok(())
}

/// What was picked grew here, and what came from another system came from one that there is.
fn names_what_is_there(visit: &Visit, at: &SystemFacts) -> Result<(), Refusal> {
    if let Some(n) = visit.harvests.iter().position(|harvest| !at.named.contains(&harvest.planting)) {
        let crop = &visit.harvests[n].crop;
        return Err(refuse!("harvest_of_nothing", crop = crop).at(&format!("body.harvests.{n}.planting")));
    }
    let from = |event: &crate::fact::Happened| event.came_from().is_some_and(|id| !at.named.contains(&id));
    match visit.events.iter().position(from) {
        Some(n) => Err(refuse!("came_from_nowhere").at(&format!("body.events.{n}.system"))),
        None => Ok(()),
    }
}

/// The time of an entry: not in the future, not before the system was there.
pub(super) fn time(wanted: Option<Timestamp>, at: &SystemFacts, now: Timestamp) -> Result<Timestamp, Refusal> {
    let Some(wanted) = wanted.map(to_millisecond) else { return Ok(now) };
    let ahead = SignedDuration::from_secs((FIGURES.record.clock_minutes * 60.0) as i64);
    if wanted > now.saturating_add(ahead).unwrap_or(now) {
        return Err(refuse!("time_to_come", found = wanted.to_string(), now = now.to_string()).at("at"));
    }
    let (date, since) = (wanted.to_zoned(at.zone.clone()).date(), at.history.now().since);
    if date < since {
        return Err(refuse!("before_system", found = date.to_string(), since = since.to_string()).at("at"));
    }
    Ok(wanted.min(now))
}

/// A visit that is closed has to say what was saved of it last: what another device added meanwhile is
/// not lost in silence.
fn closes(new: &NewEntry, at: &SystemFacts) -> Result<(), Refused> {
    let Some(draft) = &at.closing else { return Ok(()) };
    let saw_it = new.closes == Some(draft.version);
    let says_it = untimed(&new.body) == untimed(&Body::Visit(draft.visit.clone()));
    if saw_it || says_it { Ok(()) } else { Err(Refused::Conflict(Meets::Draft)) }
}
