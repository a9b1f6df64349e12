//! The gate: who may write what, on top of what. Each decision on its own, without a file.

use crate::common::*;
use jiff::{SignedDuration, Timestamp};
use mopsel_core::calendar::Weekday;
use mopsel_core::crop::{Planting, Stage};
use mopsel_core::fact::card::{Card, Person, Place, Role};
use mopsel_core::fact::{
    Actor, Body, ChangeExtent, ChangeParts, ChangeRun, Clarity, Draft, Entry, Harvested, Holds, LoggedEntry, NewCard,
    RootAnswers, Roots, Running, StepMark, StoredCard, StoredRun, Subject, Timeline, Timer, Version, Visit, WaitFor,
    WaterGlass,
};
use mopsel_core::gate::{
    CardFacts, Command, Decision, Facts, MOST_CARDS, MOST_TIMERS, Named, NewEntry, PersonNow, PickedCard, Refused,
    Seen, SystemFacts, TimerFacts, decide,
};
use mopsel_core::guide::steps_of;
use mopsel_core::quantity::{Name, Note, UnitSystem};
use mopsel_core::system::System;
use uuid::Uuid;

const NOW: &str = "2027-03-09 08:30";

fn place() -> Uuid {
    adult().place.unwrap()
}

fn there(actor: &Actor) -> PersonNow {
    PersonNow { role: actor.role, place: place(), archived: false }
}

/// The tub with nothing half done and an empty log.
fn at_tub() -> SystemFacts {
    facts_at(Uuid::from_u128(9), tub())
}

fn new_entry(visit: Visit) -> NewEntry {
    let body = Body::Visit(visit);
    NewEntry { id: Uuid::from_u128(77), at: None, body, amends: None, reason: None, closes: None, saved: None }
}

fn fine() -> Visit {
    Visit { all_fine: true, ..Visit::default() }
}

fn note(text: &str) -> Visit {
    Visit { note: Some(Note::new(text).unwrap()), ..Visit::default() }
}

fn add(new: &NewEntry, facts: SystemFacts, actor: &Actor) -> Result<Decision, Refused> {
    add_at(new, facts, actor, at(NOW))
}

fn add_at(new: &NewEntry, facts: SystemFacts, actor: &Actor, now: Timestamp) -> Result<Decision, Refused> {
    let command = Command::Add(facts.id, Box::new(new.clone()));
    decide(&command, &Facts::System(Box::new(facts)), actor, Some(&there(actor)), now)
}

fn logged(new: &NewEntry, at_: Timestamp) -> LoggedEntry {
    let by = adult().person.unwrap();
    let (body, amends, reason) = (new.body.clone(), new.amends, new.reason.clone());
    let entry = Entry { id: new.id, at: at_, by, body, amends, reason };
    LoggedEntry { seq: 1, system: Uuid::from_u128(9), recorded: at_, device: None, entry }
}

fn code(result: Result<Decision, Refused>) -> String {
    match result {
        Err(Refused::Refusal(refusal)) => refusal.code.to_string(),
        Err(Refused::Conflict(meets)) => format!("conflict: {meets:?}"),
        Err(Refused::IdTaken) => "id taken".to_owned(),
        Err(Refused::NotFound(what)) => format!("no {what}"),
        Ok(decision) => format!("{decision:?}").split(['(', ' ']).next().unwrap().to_lowercase(),
    }
}

#[test]
fn an_entry_is_added_under_its_writers_name_at_the_time_of_the_clock() {
    let Ok(Decision::Append(entry)) = add(&new_entry(fine()), at_tub(), &adult()) else { panic!("not added") };
    assert_eq!((entry.by, entry.at), (adult().person.unwrap(), at(NOW)));
}

#[test]
fn the_same_request_again_is_the_same_entry_whatever_the_clock_says_since() {
    let new = new_entry(fine());
    let facts = || SystemFacts { entry: Some(logged(&new, at(NOW))), ..at_tub() };
    let years_back = at(NOW) - SignedDuration::from_hours(24 * 800);
    for now in [at(NOW), years_back] {
        assert_eq!(code(add_at(&new, facts(), &adult(), now)), "already");
    }
    let away = PersonNow { archived: true, ..there(&adult()) };
    let command = Command::Add(facts().id, Box::new(new.clone()));
    let again = decide(&command, &Facts::System(Box::new(facts())), &adult(), Some(&away), at(NOW));
    assert_eq!(code(again), "already", "what was acknowledged stays so after its writer was put away");
    assert_eq!(code(add(&new_entry(note("Another")), facts(), &adult())), "id taken");
}

#[test]
fn nobody_records_for_someone_put_away_of_another_place_or_not_picked() {
    let new = new_entry(fine());
    let command = Command::Add(at_tub().id, Box::new(new.clone()));
    let facts = Facts::System(Box::new(at_tub()));
    let with = |actor: &Actor, person: Option<&PersonNow>| code(decide(&command, &facts, actor, person, at(NOW)));
    assert_eq!(with(&Actor::default(), None), "nobody_records");
    assert_eq!(with(&adult(), None), "not_of_this_place");
    assert_eq!(with(&adult(), Some(&PersonNow { archived: true, ..there(&adult()) })), "person_put_away");
    let elsewhere = PersonNow { place: Uuid::from_u128(5), ..there(&adult()) };
    assert_eq!(with(&adult(), Some(&elsewhere)), "not_of_this_place");
    assert_eq!(code(add(&new, SystemFacts { archived: true, ..at_tub() }, &adult())), "system_put_away");
}

#[test]
fn a_role_that_was_changed_holds_at_once() {
    let dose = Body::Treatment(
        serde_json::from_value(serde_json::json!({ "what": "peroxide_dose", "amount_ml": 100.0 })).unwrap(),
    );
    let new = NewEntry { body: dose, ..new_entry(fine()) };
    let command = Command::Add(at_tub().id, Box::new(new));
    let facts = Facts::System(Box::new(at_tub()));
    assert_eq!(code(decide(&command, &facts, &adult(), Some(&there(&adult())), at(NOW))), "append");
    // The request still says "caretaker"; inside the transaction the person is a child.
    let child_now = PersonNow { role: Role::Child, ..there(&adult()) };
    assert_ne!(code(decide(&command, &facts, &adult(), Some(&child_now), at(NOW))), "append");
}

#[test]
fn an_entry_is_neither_of_tomorrow_nor_from_before_the_system() {
    let timed = |at: Timestamp| NewEntry { at: Some(at), ..new_entry(fine()) };
    let tomorrow = at(NOW) + SignedDuration::from_hours(24);
    assert_eq!(code(add(&timed(tomorrow), at_tub(), &adult())), "time_to_come");
    assert_eq!(code(add(&timed(at("2026-12-31 23:00")), at_tub(), &adult())), "before_system");
    assert_eq!(code(add(&timed(at("2027-01-01 00:30")), at_tub(), &adult())), "append", "its first hour counts");
    let Ok(Decision::Append(entry)) = add(&timed(at("2027-03-09 08:31")), at_tub(), &adult()) else {
        panic!("a clock a minute ahead is no reason to lose an entry")
    };
    assert_eq!(entry.at, at(NOW), "it happened now at the latest");
}

#[test]
fn an_amendment_says_why_and_replaces_what_stands() {
    let first = logged(&new_entry(fine()), at(NOW));
    let amends = |reason: Option<&str>| NewEntry {
        id: Uuid::from_u128(78),
        amends: Some(first.entry.id),
        reason: reason.map(|text| Note::new(text).unwrap()),
        ..new_entry(note("Misread"))
    };
    let facts = || SystemFacts { amended: Some(first.clone()), ..at_tub() };
    assert_eq!(code(add(&amends(None), facts(), &adult())), "amendment_without_reason");
    assert_eq!(code(add(&amends(Some("Wrong jar")), facts(), &adult())), "append");
    assert_eq!(code(add(&amends(Some("Wrong jar")), at_tub(), &adult())), "no entry");
    let newer = SystemFacts { newest: Some(first.clone()), ..facts() };
    assert_eq!(code(add(&amends(Some("Wrong jar")), newer, &adult())), "conflict: Amendment");
    let withdrawn = NewEntry { body: Body::Withdrawn {}, ..new_entry(fine()) };
    assert_eq!(code(add(&withdrawn, at_tub(), &adult())), "withdrawal_of_nothing");
}

#[test]
fn what_is_picked_whole_is_done_with_the_same_entry_and_stands_again_when_that_is_taken_back() {
    let basil = planting("Basil", (1, 2), Stage::Vegetative);
    let id = Uuid::from_u128(5);
    let card = |planting: &Planting, version| StoredCard {
        id,
        parent: Some(Uuid::from_u128(9)),
        version,
        archived: false,
        holds: Holds::Always,
        card: Card::Planting(planting.clone()),
    };
    let harvest = |whole| {
        let picked = Harvested { planting: id, crop: basil.crop.clone(), whole, grams: None, pieces: Some(2) };
        new_entry(Visit { harvests: vec![picked], ..Visit::default() })
    };
    let facts = |planting: &Planting, before: Option<&Planting>| SystemFacts {
        named: vec![id],
        picked: vec![PickedCard {
            card: card(planting, 3),
            made: at(NOW),
            before: before.map(|before| Card::Planting(before.clone())),
        }],
        ..at_tub()
    };
    let turned = |decision: Result<Decision, Refused>| match decision {
        Ok(Decision::AppendAndTurn(_, writes)) => {
            let Card::Planting(planting) = &writes[0].card.card else { panic!("a planting") };
            Some((writes[0].card.version, planting.stage, writes[0].card.holds))
        }
        Ok(Decision::Append(_)) => None,
        other => panic!("{other:?}"),
    };
    let day = at(NOW).to_zoned(zone()).date();
    let added = turned(add(&harvest(true), facts(&basil, None), &adult()));
    assert_eq!(added, Some((4, Stage::Done, Holds::From(day))));
    assert_eq!(turned(add(&harvest(false), facts(&basil, None), &adult())), None, "leaf by leaf it goes on");
    let done = Planting { stage: Stage::Done, ..basil.clone() };
    assert_eq!(turned(add(&harvest(true), facts(&done, Some(&basil)), &adult())), None, "once is enough");

    let back = |first: &NewEntry, planting: &Planting, before: &Planting| {
        let there = logged(first, at(NOW));
        let facts = SystemFacts { amended: Some(there.clone()), ..facts(planting, Some(before)) };
        let taken = NewEntry {
            id: Uuid::from_u128(78),
            body: Body::Withdrawn {},
            amends: Some(there.entry.id),
            reason: Note::new("A slip").ok(),
            ..new_entry(fine())
        };
        turned(add(&taken, facts, &adult()))
    };
    assert_eq!(back(&harvest(true), &done, &basil), Some((4, Stage::Vegetative, Holds::Always)));
    assert_eq!(back(&harvest(false), &done, &basil), None, "it was not that which ended it");
    let touched = Planting { note: Note::new("Compost").ok(), ..done.clone() };
    assert_eq!(back(&harvest(true), &touched, &done), None, "somebody has said more of it since");
}

fn draft(version: i64, visit: Visit) -> Draft {
    let who = adult().person.unwrap();
    Draft { id: Uuid::from_u128(77), system: Uuid::from_u128(9), who, version, visit, at: at(NOW), read_at: None }
}

#[test]
fn a_visit_is_closed_only_by_who_saw_the_last_of_it() {
    let facts = || SystemFacts { closing: Some(draft(3, note("From the phone"))), ..at_tub() };
    assert_eq!(code(add(&new_entry(fine()), facts(), &adult())), "conflict: Draft");
    assert_eq!(code(add(&NewEntry { closes: Some(2), ..new_entry(fine()) }, facts(), &adult())), "conflict: Draft");
    assert_eq!(code(add(&NewEntry { closes: Some(3), ..new_entry(fine()) }, facts(), &adult())), "append");
    assert_eq!(code(add(&new_entry(note("From the phone")), facts(), &adult())), "append", "it says the same");
}

#[test]
fn a_visit_is_dated_by_when_its_water_was_read_so_that_what_was_poured_since_comes_after_it() {
    let read = Visit { ec: Some(ec(1.0)), ..level(20.0) };
    let half_past = at(NOW);
    let earlier = half_past - jiff::SignedDuration::from_mins(40);
    let kept = Draft { read_at: Some(earlier), ..draft(3, read.clone()) };
    let facts = || SystemFacts { closing: Some(kept.clone()), ..at_tub() };
    let dated = |new: NewEntry| match add(&new, facts(), &adult()) {
        Ok(Decision::Append(entry)) => entry.at,
        other => panic!("{other:?}"),
    };
    let closes = |visit: Visit| NewEntry { closes: Some(3), ..new_entry(visit) };
    let noted = Visit { note: Note::new("Roots white").ok(), ..read.clone() };
    assert_eq!(dated(closes(noted)), earlier, "a note typed later does not make the reading younger");
    assert_eq!(dated(closes(Visit { ec: Some(ec(1.2)), ..read.clone() })), half_past, "read anew");
    assert_eq!(dated(NewEntry { at: Some(half_past), ..closes(read.clone()) }), half_past, "as it is said");

    let save = |visit: &Visit| Command::SaveDraft {
        system: Uuid::from_u128(9),
        id: Uuid::from_u128(77),
        version: 3,
        visit: Box::new(visit.clone()),
    };
    let kept_at = |visit: &Visit| {
        let facts = Facts::System(Box::new(SystemFacts { draft: Some(kept.clone()), ..at_tub() }));
        match decide(&save(visit), &facts, &adult(), Some(&there(&adult())), half_past) {
            Ok(Decision::KeepDraft(draft)) => draft.read_at,
            other => panic!("{other:?}"),
        }
    };
    assert_eq!(kept_at(&Visit { note: Note::new("More").ok(), ..read.clone() }), Some(earlier));
    assert_eq!(kept_at(&Visit { ec: Some(ec(1.1)), ..read }), Some(half_past));
    assert_eq!(kept_at(&Visit { note: Note::new("Only this").ok(), ..Visit::default() }), None);
}

fn half_done(command: Command, facts: SystemFacts, actor: &Actor) -> String {
    code(decide(&command, &Facts::System(Box::new(facts)), actor, Some(&there(actor)), at(NOW)))
}

#[test]
fn a_visit_half_done_is_saved_on_top_of_what_was_seen_and_taken_away_as_it_was_seen() {
    let save = |version: i64, text: &str| Command::SaveDraft {
        system: Uuid::from_u128(9),
        id: Uuid::from_u128(77),
        version,
        visit: Box::new(note(text)),
    };
    let saved = || SystemFacts { draft: Some(draft(2, note("Second"))), ..at_tub() };
    assert_eq!(half_done(save(0, "First"), at_tub(), &adult()), "keepdraft");
    assert_eq!(half_done(save(1, "Second"), saved(), &adult()), "already", "a retry");
    assert_eq!(half_done(save(1, "Third"), saved(), &adult()), "conflict: Draft");
    assert_eq!(half_done(save(2, "Third"), saved(), &adult()), "keepdraft");
    let closed = SystemFacts { entry: Some(logged(&new_entry(fine()), at(NOW))), ..at_tub() };
    assert_eq!(half_done(save(2, "Third"), closed, &adult()), "visit_closed");
    let drop = |id: u128, version: i64| {
        Command::DropDraft(Seen { system: Uuid::from_u128(9), id: Uuid::from_u128(id), version })
    };
    assert_eq!(half_done(drop(77, 1), saved(), &adult()), "conflict: Draft");
    assert_eq!(half_done(drop(77, 2), saved(), &adult()), "remove");
    assert_eq!(half_done(drop(77, 2), at_tub(), &adult()), "already");
    assert_eq!(half_done(drop(66, 1), saved(), &adult()), "already", "another visit is left alone");
}

fn run(volume: Option<f64>) -> ChangeRun {
    let mut run: ChangeRun =
        serde_json::from_value(serde_json::json!({ "extent": "full", "parts": { "steps": {} } })).unwrap();
    assert_eq!(run.extent, ChangeExtent::Full);
    run.volume_after = volume.map(l);
    run
}

/// A change with every step of the tub's done.
fn ready() -> ChangeRun {
    let mut run = run(Some(28.0));
    let mark = StepMark { at: at(NOW), left_out: None };
    let steps = steps_of(&tub(), run.extent, &run.parts, true);
    run.parts.steps = steps.into_iter().map(|step| (step, mark.clone())).collect();
    run
}

fn under_way(version: i64, run: ChangeRun) -> SystemFacts {
    let who = adult().person.unwrap();
    let (id, system) = (Uuid::from_u128(77), Uuid::from_u128(9));
    let run = StoredRun { id, system, who, version, run, started: at(NOW), at: at(NOW) };
    SystemFacts { run: Some(run), ..at_tub() }
}

#[test]
fn a_change_is_kept_by_adults_one_at_a_time_and_ends_once() {
    let system = Uuid::from_u128(9);
    let save = |id: u128, version: i64, litres: f64| Command::SaveChange {
        system,
        id: Uuid::from_u128(id),
        version,
        run: Box::new(run(Some(litres))),
    };
    assert_eq!(half_done(save(77, 0, 28.0), at_tub(), &adult()), "keeprun");
    assert_ne!(half_done(save(77, 0, 28.0), at_tub(), &child()), "keeprun", "no change for a child");
    assert_eq!(half_done(save(77, 2, 28.0), at_tub(), &adult()), "change_given_up");
    assert_eq!(half_done(save(66, 0, 28.0), under_way(1, run(None)), &adult()), "conflict: Run");
    assert_eq!(half_done(save(77, 1, 28.0), under_way(2, run(Some(28.0))), &adult()), "already");
    assert_eq!(half_done(save(77, 1, 20.0), under_way(2, run(Some(28.0))), &adult()), "conflict: Run");
    let finish = |id: u128| Command::FinishChange { system, id: Uuid::from_u128(id), at: None };
    assert_eq!(half_done(finish(66), under_way(1, run(Some(28.0))), &adult()), "no change under way");
    let ended = SystemFacts { entry: Some(logged(&new_entry(fine()), at(NOW))), ..at_tub() };
    assert_eq!(half_done(finish(77), ended.clone(), &adult()), "already");
    assert_eq!(half_done(save(77, 1, 28.0), ended, &adult()), "change_closed");
    let put_away = SystemFacts { archived: true, ..under_way(1, run(Some(28.0))) };
    assert_eq!(half_done(finish(77), put_away, &adult()), "system_put_away");
    let drop = |version: i64| Command::DropChange(Seen { system, id: Uuid::from_u128(77), version });
    assert_eq!(half_done(drop(1), under_way(2, run(None)), &adult()), "conflict: Run");
    assert_eq!(half_done(drop(2), under_way(2, run(None)), &adult()), "remove");
    assert_eq!(half_done(drop(2), under_way(2, run(None)), &child()), "for_adults");
}

#[test]
fn a_change_may_have_been_done_earlier_but_not_later_than_now() {
    let finish =
        |when: &str| Command::FinishChange { system: Uuid::from_u128(9), id: Uuid::from_u128(77), at: Some(at(when)) };
    let done = || under_way(1, ready());
    assert_eq!(half_done(finish("2027-03-08 19:00"), done(), &adult()), "append");
    assert_eq!(half_done(finish("2027-03-10 19:00"), done(), &adult()), "time_to_come");
    assert_eq!(half_done(finish("2020-03-08 19:00"), done(), &adult()), "before_system");
}

#[test]
fn only_advice_that_stands_there_is_set_aside_and_never_by_a_child() {
    let aside = |subject: Subject| {
        let overruled = [(subject, Note::new("Known, and harmless").unwrap())].into();
        Command::Add(Uuid::from_u128(9), Box::new(new_entry(Visit { overruled, ..Visit::default() })))
    };
    let green = Visit { glass: Some(WaterGlass { clarity: Clarity::Green, smell: None }), ..Visit::default() };
    let found = || SystemFacts { known: known(&[visit("2027-03-08 08:00", green.clone())], &tub()), ..at_tub() };
    assert_eq!(half_done(aside(Subject::Glass), found(), &adult()), "append");
    assert_eq!(half_done(aside(Subject::Ph), found(), &adult()), "nothing_to_set_aside");
    assert_eq!(half_done(aside(Subject::Glass), found(), &child()), "child_sets_aside");
    let leak: Visit = serde_json::from_value(serde_json::json!({ "running": { "dry_floor": false } })).unwrap();
    let found = || SystemFacts { known: known(&[visit("2027-03-08 08:00", leak.clone())], &tub()), ..at_tub() };
    assert_eq!(half_done(aside(Subject::Running), found(), &adult()), "danger_set_aside");
    let dry: Visit = serde_json::from_value(serde_json::json!({ "running": { "dry_floor": true } })).unwrap();
    let says = || Command::Add(Uuid::from_u128(9), Box::new(new_entry(dry.clone())));
    let lit = || {
        let mut lit = tub();
        lit.traits.light = true;
        SystemFacts { history: Timeline::always(lit), ..found() }
    };
    assert_eq!(half_done(says(), lit(), &child()), "child_closes_danger");
    assert_eq!(half_done(says(), lit(), &adult()), "append");
    let timer: Visit = serde_json::from_value(serde_json::json!({ "running": { "timer_right": false } })).unwrap();
    let found = || SystemFacts { known: known(&[visit("2027-03-08 08:00", timer.clone())], &tub()), ..at_tub() };
    assert_eq!(half_done(aside(Subject::Running), found(), &adult()), "append");
}

#[test]
fn a_visit_sets_aside_only_what_it_finds_or_what_stands_there() {
    let add = |visit: Visit, facts: SystemFacts| {
        let command = Command::Add(Uuid::from_u128(9), Box::new(new_entry(visit)));
        half_done(command, facts, &adult())
    };
    let aside = |subject: Subject| [(subject, Note::new("Seen, and known").unwrap())].into();
    let read = |overruled| Visit { ph: Some(ph(7.4)), overruled, ..Visit::default() };
    assert_eq!(add(read(aside(Subject::Ph)), at_tub()), "append");
    assert_eq!(add(read(aside(Subject::Roots)), at_tub()), "nothing_to_set_aside", "it has not looked at them");
}

#[test]
fn nothing_is_all_fine_over_a_fault_until_the_part_itself_was_seen_right() {
    let seen = |dry: bool| Running { dry_floor: Some(dry), ..Running::default() };
    let look = |running: Running| Visit { running: Some(running), ..Visit::default() };
    let log = [visit("2027-03-07 08:00", look(seen(false)))];
    let add = |visit: Visit| {
        let facts = SystemFacts { known: known(&log, &tub()), ..at_tub() };
        half_done(Command::Add(Uuid::from_u128(9), Box::new(new_entry(visit))), facts, &adult())
    };
    let fine_with = |running: Running| Visit { running: Some(running), ..fine() };
    assert_eq!(add(fine()), "all_fine_over_fault");
    assert_eq!(add(fine_with(seen(true))), "append");
    // One that came by an older program does not take the fault away either.
    let after = known(&[log[0].clone(), visit("2027-03-08 08:00", fine())], &tub());
    let running = after.readings.running.unwrap();
    assert!(running.value.any_fault() && running.at == at("2027-03-07 08:00"), "{running:?}");
}

#[test]
fn nothing_is_all_fine_over_an_open_case_nor_made_so_by_an_amendment() {
    let ill = Roots { answers: RootAnswers { stick_together: Some(true), ..RootAnswers::default() }, ports: None };
    let case = || known(&[visit("2027-03-07 08:00", Visit { roots: Some(ill.clone()), ..Visit::default() })], &tub());
    let add = |new: NewEntry, facts| half_done(Command::Add(Uuid::from_u128(9), Box::new(new)), facts, &adult());
    let open = || SystemFacts { known: case(), ..at_tub() };
    assert_eq!(add(new_entry(fine()), open()), "all_fine_over_case");
    let earlier = NewEntry { at: Some(at("2027-03-06 08:00")), ..new_entry(fine()) };
    assert_eq!(add(earlier, open()), "append", "before it was found it was fine");
    let amends =
        || NewEntry { amends: Some(Uuid::from_u128(70)), reason: Note::new("Typed twice").ok(), ..new_entry(fine()) };
    let of = |visit: Visit| SystemFacts { amended: Some(logged(&new_entry(visit), at("2027-03-08 08:00"))), ..open() };
    assert_eq!(add(amends(), of(note("The lid was ajar"))), "all_fine_over_case");
    assert_eq!(add(amends(), of(fine())), "append", "a note on what was said before is no new word");
}

#[test]
fn a_first_filling_is_begun_once_and_a_treatment_takes_all_of_the_water() {
    let save = |parts: ChangeParts, extent: ChangeExtent, facts: SystemFacts| {
        let run = Box::new(ChangeRun { parts, extent, ..ChangeRun::default() });
        let command = Command::SaveChange { system: Uuid::from_u128(9), id: Uuid::from_u128(77), version: 0, run };
        half_done(command, facts, &adult())
    };
    let first = || ChangeParts { first: true, ..ChangeParts::default() };
    let treats = || ChangeParts { treats: true, ..ChangeParts::default() };
    let told = || SystemFacts { known: known(&[visit("2027-03-08 08:00", level(20.0))], &tub()), ..at_tub() };
    assert_eq!(save(first(), ChangeExtent::Full, at_tub()), "keeprun");
    assert_eq!(save(first(), ChangeExtent::Full, told()), "first_fill_is_past");
    let begun = ChangeRun { parts: first(), ..ChangeRun::default() };
    let meanwhile = SystemFacts { run: under_way(1, begun).run, ..told() };
    let on = Command::SaveChange {
        system: Uuid::from_u128(9),
        id: Uuid::from_u128(77),
        version: 1,
        run: Box::new(ChangeRun { parts: first(), volume_after: Some(l(28.0)), ..ChangeRun::default() }),
    };
    assert_eq!(half_done(on, meanwhile, &adult()), "keeprun", "what is in hand goes on");
    assert_eq!(save(treats(), ChangeExtent::Full, told()), "keeprun");
    assert_eq!(save(treats(), ChangeExtent::Partial, told()), "treats_in_part");
}

#[test]
fn a_second_dose_begins_the_wait_anew_and_baths_run_side_by_side() {
    let system = Some(Uuid::from_u128(9));
    let start = |what: WaitFor, beside: Vec<Timer>| {
        let label = Name::new("Measure again").unwrap();
        let command = Command::StartTimer { id: Uuid::from_u128(50), system, what, label, minutes: 20 };
        let facts = TimerFacts { beside, system_there: true, ..TimerFacts::default() };
        match decide(&command, &Facts::Timer(facts), &adult(), Some(&there(&adult())), at(NOW)) {
            Ok(Decision::KeepTimer(timer, replaces)) => (timer.ends, replaces.len()),
            other => panic!("{other:?}"),
        }
    };
    let running = |what: WaitFor, ends: &str| Timer {
        id: Uuid::from_u128(40),
        system,
        what,
        label: "Measure again".into(),
        started: at("2027-03-09 08:13"),
        ends: at(ends),
        account: None,
    };
    let (soon, late) = ("2027-03-09 08:33", "2027-03-09 09:15");
    let begun = at("2027-03-09 08:50");
    assert_eq!(start(WaitFor::Remeasure, vec![running(WaitFor::Remeasure, soon)]), (begun, 1));
    assert_eq!(start(WaitFor::Remeasure, vec![running(WaitFor::Remeasure, late)]), (at(late), 1), "never shortened");
    assert_eq!(start(WaitFor::RootBath, vec![running(WaitFor::RootBath, soon)]), (begun, 0));
}

fn home() -> StoredCard {
    let card = Card::Place(Place {
        closures: vec![],
        name: Name::new("Tern Street flat").unwrap(),
        zone: "Europe/London".into(),
        open_days: Weekday::ALL.to_vec(),
        units: UnitSystem::Metric,
        containers: vec![],
        tools: vec![],
    });
    StoredCard { id: place(), parent: None, version: 1, archived: false, holds: Holds::Always, card }
}

fn for_card(there: Option<StoredCard>, parent: Option<StoredCard>) -> CardFacts {
    let made = jiff::Timestamp::MIN;
    let version =
        |stored: &StoredCard| Version { holds: Holds::Always, archived: false, made, says: stored.card.clone() };
    CardFacts {
        closed_off: None,
        versions: there.iter().map(version).collect(),
        there,
        made_so: false,
        place: parent.as_ref().map(|parent| parent.id),
        parent,
        zone: zone(),
        named: Named::default(),
        plantings: vec![],
        cards: 12,
    }
}

fn stored(system: System) -> StoredCard {
    let (id, parent) = (Uuid::from_u128(9), Some(place()));
    StoredCard { id, parent, version: 1, archived: false, holds: Holds::Always, card: Card::System(system) }
}

fn edit(version: i64, to: System, holds: Option<Holds>, facts: CardFacts) -> Result<Decision, Refused> {
    let card = Some(Box::new(Card::System(to)));
    let command = Command::EditCard { id: Uuid::from_u128(9), version, card, archived: None, holds };
    decide(&command, &Facts::Card(Box::new(facts)), &adult(), Some(&there(&adult())), at(NOW))
}

#[test]
fn an_edit_holds_from_today_unless_it_says_otherwise_and_never_from_tomorrow_or_before_the_start() {
    let facts = || for_card(Some(stored(tub())), Some(home()));
    let larger = System { reservoir: boxed(600.0, 360.0, 200.0, [8.0, 28.0, 34.0]), ..tub() };
    let held = |holds: Option<Holds>| edit(1, larger.clone(), holds, facts());
    let Ok(Decision::KeepCard(write)) = held(None) else { panic!("not kept") };
    assert_eq!((write.card.version, write.card.holds), (2, Holds::From("2027-03-09".parse().unwrap())));
    let from = |day: &str| Some(Holds::From(day.parse().unwrap()));
    assert_eq!(code(held(from("2027-02-01"))), "keepcard");
    assert_eq!(code(held(Some(Holds::Always))), "keepcard");
    for edge in ["2027-03-09", "2027-01-01"] {
        assert_eq!(code(held(from(edge))), "keepcard", "today, and the day it began, are days of its own");
    }
    assert_eq!(code(held(from("2027-03-10"))), "edit_to_come");
    assert_eq!(code(held(from("2026-12-31"))), "edit_before_start");
}

#[test]
fn an_edit_meets_another_edit_and_a_retry_meets_itself() {
    let renamed = |name: &str| System { name: Name::new(name).unwrap(), ..tub() };
    let second = StoredCard { version: 2, ..stored(renamed("Window crate")) };
    let facts = || for_card(Some(second.clone()), Some(home()));
    assert_eq!(code(edit(1, renamed("Window crate"), None, facts())), "already");
    assert_eq!(code(edit(1, renamed("Sill crate"), None, facts())), "conflict: Card");
    assert_eq!(code(edit(2, renamed("Sill crate"), None, facts())), "keepcard");
    assert_eq!(code(edit(1, tub(), None, for_card(None, Some(home())))), "no card");
}

#[test]
fn ports_are_not_taken_from_under_a_planting() {
    let mut facts = for_card(Some(stored(tub())), Some(home()));
    facts.plantings = vec![planting("Pak choi", (1, 6), Stage::Vegetative)];
    let ports = |n: u16| System { ports: n, ..tub() };
    assert_eq!(code(edit(1, ports(4), None, facts.clone())), "ports_below_planting");
    assert_ne!(code(edit(1, ports(8), None, facts)), "ports_below_planting");
}

#[test]
fn cards_are_made_by_adults_where_they_belong_and_not_without_end() {
    let person = |role: Role, name: &str| {
        Card::Person(Person {
            name: Name::new(name).unwrap(),
            role,
            units: None,
            ec_scale: None,
            lifts_kg: None,
            feed: None,
            away: vec![],
        })
    };
    let make = |card: Card, facts: CardFacts, actor: &Actor| {
        let parent = facts.parent.as_ref().map(|stored| stored.id);
        let new = NewCard { id: Uuid::from_u128(40), parent, card };
        let command = Command::MakeCard(Box::new(new));
        code(decide(&command, &Facts::Card(Box::new(facts)), actor, Some(&there(actor)), at(NOW)))
    };
    let at_home = || for_card(None, Some(home()));
    assert_eq!(make(person(Role::Helper, "Ansa"), at_home(), &adult()), "keepcard");
    assert_eq!(make(person(Role::Helper, "Ansa"), at_home(), &child()), "for_adults");
    assert_eq!(make(person(Role::Helper, "Ansa"), for_card(None, None), &adult()), "wrong_parent");
    assert_eq!(make(person(Role::Child, "Marigold"), at_home(), &adult()), "child_by_name");
    let full = CardFacts { cards: MOST_CARDS, ..at_home() };
    assert_eq!(make(person(Role::Helper, "Ansa"), full, &adult()), "too_many_cards");
    let again = CardFacts { made_so: true, ..for_card(Some(stored(tub())), Some(home())) };
    assert_eq!(make(person(Role::Helper, "Ansa"), again.clone(), &adult()), "already");
    assert_eq!(make(person(Role::Helper, "Ansa"), CardFacts { made_so: false, ..again }, &adult()), "id taken");
}

#[test]
fn timers_are_of_a_day_at_most_and_not_without_end() {
    let start = |minutes: u32, facts: TimerFacts, system: Option<Uuid>| {
        let command = Command::StartTimer {
            id: Uuid::from_u128(50),
            system,
            what: WaitFor::Remeasure,
            label: Name::new("Measure again").unwrap(),
            minutes,
        };
        decide(&command, &Facts::Timer(facts), &adult(), Some(&there(&adult())), at(NOW))
    };
    let Ok(Decision::KeepTimer(timer, _)) = start(20, TimerFacts::default(), None) else { panic!("not started") };
    assert_eq!(timer.ends, at("2027-03-09 08:50"));
    for minutes in [0, 1441, u32::MAX] {
        assert_eq!(code(start(minutes, TimerFacts::default(), None)), "timer_minutes");
    }
    let many = TimerFacts { running: MOST_TIMERS, ..TimerFacts::default() };
    assert_eq!(code(start(20, many, None)), "too_many_timers");
    assert_eq!(code(start(20, TimerFacts::default(), Some(Uuid::from_u128(9)))), "no system");
    let same = |label: &str| TimerFacts {
        there: Some(Timer { label: label.to_owned(), ..(*timer).clone() }),
        ..TimerFacts::default()
    };
    assert_eq!(code(start(20, same("Measure again"), None)), "already");
    assert_eq!(code(start(20, same("Another"), None)), "id taken");
}
