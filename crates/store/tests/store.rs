//! The file keeps what it acknowledged, once, and never overwrites silently.

use crate::common::{Fixture, litres, now, person, row, vessel};
use jiff::SignedDuration;
use mopsel_core::fact::card::{Card, Role};
use mopsel_core::fact::{Actor, ChangeRun, Draft, NewPicture, Timer, Visit, WaitFor};
use mopsel_core::gate::{Command, MOST_TIMERS, Seen};
use mopsel_core::projection::Part;
use mopsel_core::quantity::Name;
use mopsel_core::system::System;
use mopsel_store::{Outcome, Standing, Store, StoreError};
use uuid::Uuid;

#[tokio::test]
async fn a_repeated_entry_is_one_entry_whatever_the_clock_says() {
    let f = Fixture::new().await;
    let new = f.visit(5, 100.0);
    let (first, repeated) = f.append(&new).await.unwrap();
    let command = Command::Add(f.system_id, Box::new(new));
    let years_later = now() + SignedDuration::from_hours(24 * 365 * 9);
    let Outcome::Entry(again, true) = f.store.submit(&command, &f.wren(), years_later).await.unwrap() else {
        panic!("the same request again is the same entry")
    };
    assert_eq!((first, repeated), (*again, false));
    assert_eq!(f.store.log_page(f.system_id, None, 10).await.unwrap().len(), 1);
    assert_eq!(f.store.kept(f.system_id).await.unwrap().unwrap().done.entries, 1);
}

#[tokio::test]
async fn an_id_is_never_reused_for_something_else() {
    let f = Fixture::new().await;
    let new = f.visit(5, 100.0);
    f.append(&new).await.unwrap();
    let mut other = f.visit(4, 90.0);
    other.id = new.id;
    assert!(matches!(f.append(&other).await, Err(StoreError::IdTaken)));
    let taken = f.make(f.place, Some(f.place), Card::System(row("Other"))).await;
    assert!(matches!(taken, Err(StoreError::IdTaken)));
}

#[tokio::test]
async fn what_is_kept_is_what_the_log_comes_to_whatever_came_late_or_was_amended() {
    let f = Fixture::new().await;
    let entries: Vec<_> = [50, 40, 30, 20].iter().map(|h| f.visit(*h, 60.0 + *h as f64 / 3.0)).collect();
    for new in &entries {
        f.append(new).await.unwrap();
        f.holds_together().await;
    }
    f.append(&f.visit(45, 81.7)).await.unwrap();
    f.holds_together().await;
    f.append(&f.amendment(&entries[1], 77.1)).await.unwrap();
    f.holds_together().await;
}

#[tokio::test]
async fn an_amendment_keeps_the_original_and_the_second_one_is_refused_with_what_stands() {
    let f = Fixture::new().await;
    let original = f.visit(5, 100.0);
    f.append(&original).await.unwrap();
    let mine = f.amendment(&original, 90.0);
    f.append(&mine).await.unwrap();
    match f.append(&f.amendment(&original, 80.0)).await {
        Err(StoreError::Conflict(Standing::Entry(there))) => assert_eq!(there.entry.id, mine.id),
        other => panic!("{other:?}"),
    }
    let threads = f.store.log_page(f.system_id, None, 10).await.unwrap();
    assert_eq!(threads.len(), 1);
    assert_eq!((threads[0].head.entry.id, threads[0].earlier[0].entry.id), (mine.id, original.id));
    let mut stray = f.amendment(&original, 70.0);
    stray.amends = Some(Uuid::now_v7());
    assert!(matches!(f.append(&stray).await, Err(StoreError::NotFound(_))));
}

#[tokio::test]
async fn an_edit_on_top_of_an_old_version_is_refused_with_the_present_one() {
    let f = Fixture::new().await;
    let renamed = |name| Some(Card::System(row(name)));
    f.edit(f.system_id, 1, renamed("North row"), None).await.unwrap();
    match f.edit(f.system_id, 1, renamed("South row"), None).await {
        Err(StoreError::Conflict(Standing::Card(there))) => {
            assert_eq!((there.version, there.card.name()), (2, "North row"));
        }
        other => panic!("{other:?}"),
    }
    let retried = f.edit(f.system_id, 1, renamed("North row"), None).await.unwrap();
    assert_eq!(retried.version, 2, "the same edit again is the same edit");
}

#[tokio::test]
async fn the_log_cannot_be_changed_or_erased_even_by_hand() {
    let f = Fixture::new().await;
    f.append(&f.visit(5, 100.0)).await.unwrap();
    for sql in ["UPDATE entry SET at = 0", "DELETE FROM entry"] {
        let error = sqlx::query(sqlx::AssertSqlSafe(sql)).execute(f.store.reader()).await.unwrap_err();
        assert!(error.to_string().contains("append-only"), "{error}");
    }
}

#[tokio::test]
async fn pages_of_the_log_meet_without_gap_or_repeat() {
    let f = Fixture::new().await;
    for hour in 0..25 {
        f.append(&f.visit(100 - hour / 2, 90.0)).await.unwrap();
    }
    let (mut seen, mut mark) = (Vec::new(), None);
    loop {
        let page = f.store.log_page(f.system_id, mark, 4).await.unwrap();
        let Some(last) = page.last() else { break };
        mark = Some((last.head.entry.at, last.head.seq));
        seen.extend(page.iter().map(|t| t.head.seq));
    }
    assert_eq!(seen, (1..=25).rev().collect::<Vec<_>>());
}

#[tokio::test]
async fn a_reader_is_told_only_what_changed() {
    let f = Fixture::new().await;
    let all = f.store.news_since(0).await.unwrap();
    assert_eq!((all.cards.len(), all.projections.len()), (3, Part::ALL.len()));
    assert!(f.store.news_since(all.tick).await.unwrap().cards.is_empty());
    f.append(&f.visit(5, 100.0)).await.unwrap();
    let news = f.store.news_since(all.tick).await.unwrap();
    let parts: Vec<&str> = news.projections.iter().map(|(_, part, _)| part.name()).collect();
    assert_eq!((news.cards.len(), parts), (0, vec!["done", "tank", "water"]), "a level moves just these");
}

async fn save(f: &Fixture, id: Uuid, version: i64, visit: Visit) -> Result<Draft, StoreError> {
    let command = Command::SaveDraft { system: f.system_id, id, version, visit: Box::new(visit) };
    match f.submit(&command).await? {
        Outcome::Draft(draft) => Ok(*draft),
        other => panic!("{other:?}"),
    }
}

fn fine() -> Visit {
    Visit { all_fine: true, ..Visit::default() }
}

#[tokio::test]
async fn a_draft_survives_reopening_and_two_devices_do_not_overwrite_each_other() {
    let f = Fixture::new().await;
    let mut closing = f.visit(1, 90.0);
    let saved = save(&f, closing.id, 0, fine()).await.unwrap();
    assert_eq!(saved.version, 1);
    f.store.close().await;
    let f = Fixture { store: Store::open(&f.file()).await.unwrap(), ..f };
    assert_eq!(f.store.draft(f.system_id, f.person).await.unwrap(), Some(saved));
    let elsewhere = save(&f, closing.id, 0, Visit::default()).await;
    assert!(matches!(elsewhere, Err(StoreError::Conflict(Standing::Draft(_)))));
    let unseen = f.append(&closing).await;
    assert!(
        matches!(unseen, Err(StoreError::Conflict(Standing::Draft(_)))),
        "what another device saved last is not lost by closing"
    );
    closing.closes = Some(1);
    f.append(&closing).await.unwrap();
    assert_eq!(f.store.draft(f.system_id, f.person).await.unwrap(), None, "closing the visit puts its draft away");
    match save(&f, closing.id, 1, fine()).await {
        Err(StoreError::Refused(refusal)) => assert_eq!(refusal.code, "visit_closed"),
        other => panic!("{other:?}"),
    }
}

#[tokio::test]
async fn something_that_is_no_database_is_refused() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("shopping.txt");
    std::fs::write(&file, "pak choi, mizuna, sorrel".repeat(300)).unwrap();
    assert!(Store::open(&file).await.is_err());
}

fn start(f: &Fixture, id: Uuid, label: &str, minutes: u32) -> Command {
    let label = Name::new(label).unwrap();
    let what = if label.as_str() == "Let it mix" { WaitFor::Mix } else { WaitFor::Remeasure };
    Command::StartTimer { id, system: Some(f.system_id), what, label, minutes }
}

async fn timer(f: &Fixture, id: Uuid, label: &str, minutes: u32) -> Result<Timer, StoreError> {
    match f.submit(&start(f, id, label, minutes)).await? {
        Outcome::Timer(timer) => Ok(*timer),
        other => panic!("{other:?}"),
    }
}

#[tokio::test]
async fn a_timer_runs_once_is_seen_until_it_is_put_away_and_survives_a_restart() {
    let f = Fixture::new().await;
    let (long, short) = (Uuid::now_v7(), Uuid::now_v7());
    let long = timer(&f, long, "Measure pH again", 45).await.unwrap();
    for _ in 0..2 {
        timer(&f, short, "Let it mix", 15).await.unwrap();
    }
    let shown: Vec<Uuid> = f.store.timers(now()).await.unwrap().iter().map(|timer| timer.id).collect();
    assert_eq!(shown, [short, long.id], "the next to end first, each once");
    assert!(matches!(timer(&f, short, "Something else", 15).await, Err(StoreError::IdTaken)));
    f.store.close().await;
    let f = Fixture { store: Store::open(&f.file()).await.unwrap(), ..f };
    let later = f.store.timers(now() + SignedDuration::from_hours(1)).await.unwrap();
    assert_eq!(later.len(), 2, "over, but nobody has put them away");
    f.submit(&Command::DismissTimer(short)).await.unwrap();
    assert_eq!(f.store.timers(now()).await.unwrap(), [long]);
    let forgotten = f.store.timers(now() + SignedDuration::from_hours(24)).await.unwrap();
    assert!(forgotten.is_empty(), "forgotten ones do not stay for ever");
}

#[tokio::test]
async fn what_is_poured_meanwhile_begins_the_wait_before_a_reading_anew() {
    let f = Fixture::new().await;
    let first = timer(&f, Uuid::now_v7(), "Measure pH again", 20).await.unwrap();
    timer(&f, Uuid::now_v7(), "Let it mix", 15).await.unwrap();
    let second = timer(&f, Uuid::now_v7(), "Measure EC again", 45).await.unwrap();
    let shown: Vec<String> = f.store.timers(now()).await.unwrap().into_iter().map(|timer| timer.label).collect();
    assert_eq!(shown, ["Let it mix", "Measure EC again"], "one wait before the water is read");
    assert!(second.ends > first.ends);
}

#[tokio::test]
async fn no_more_timers_run_than_anybody_could_mind() {
    let f = Fixture::new().await;
    for _ in 0..MOST_TIMERS {
        timer(&f, Uuid::now_v7(), "Let it mix", 15).await.unwrap();
    }
    let one_more = timer(&f, Uuid::now_v7(), "Let it mix", 15).await;
    assert!(matches!(one_more, Err(StoreError::Refused(refusal)) if refusal.code == "too_many_timers"));
}

async fn keep(f: &Fixture, id: Uuid, version: i64, heel: Option<f64>) -> Result<i64, StoreError> {
    let run = ChangeRun { heel: heel.map(litres), ..ChangeRun::default() };
    match f.submit(&Command::SaveChange { system: f.system_id, id, version, run: Box::new(run) }).await? {
        Outcome::Run(run) => Ok(run.version),
        other => panic!("{other:?}"),
    }
}

#[tokio::test]
async fn a_change_under_way_is_one_for_a_system_and_two_devices_do_not_overwrite_each_other() {
    let f = Fixture::new().await;
    let id = Uuid::now_v7();
    assert_eq!(keep(&f, id, 0, None).await.unwrap(), 1);
    assert_eq!(keep(&f, id, 1, Some(4.0)).await.unwrap(), 2);
    assert_eq!(keep(&f, id, 1, Some(4.0)).await.unwrap(), 2, "the same again is the same");
    let Err(StoreError::Conflict(Standing::Run(there))) = keep(&f, id, 1, Some(9.0)).await else {
        panic!("a silent overwrite")
    };
    assert_eq!(there.run.heel, Some(litres(4.0)));
    let seen = |version: i64| Command::DropChange(Seen { system: f.system_id, id, version });
    let Err(StoreError::Conflict(Standing::Run(there))) = f.submit(&seen(1)).await else {
        panic!("what was saved meanwhile was taken away unseen")
    };
    assert_eq!(there.version, 2);
    f.submit(&seen(2)).await.unwrap();
    f.submit(&seen(2)).await.expect("to give it up again is no mistake");
    assert_eq!(f.store.change_run(f.system_id).await.unwrap(), None);
    match keep(&f, id, 2, Some(4.0)).await {
        Err(StoreError::Refused(refusal)) => assert_eq!(refusal.code, "change_given_up"),
        other => panic!("a change that was given up came back by a save that was on its way: {other:?}"),
    }
}

#[tokio::test]
async fn whoever_was_put_away_records_no_more() {
    let f = Fixture::new().await;
    f.append(&f.visit(5, 100.0)).await.unwrap();
    f.put_away(f.person, 1).await;
    match f.append(&f.visit(4, 99.0)).await {
        Err(StoreError::Refused(refusal)) => assert_eq!(refusal.code, "person_put_away"),
        other => panic!("{other:?}"),
    }
}

#[tokio::test]
async fn a_role_that_was_changed_holds_at_once_whatever_the_request_believes() {
    let f = Fixture::new().await;
    f.edit(f.person, 1, Some(person("W. R.", Role::Child)), None).await.unwrap();
    let run = Command::SaveChange { system: f.system_id, id: Uuid::now_v7(), version: 0, run: Box::default() };
    match f.store.submit(&run, &Actor::new(f.person, Role::Caretaker, f.place), now()).await {
        Err(StoreError::Refused(refusal)) => assert_eq!(refusal.code, "child_leads_change"),
        other => panic!("{other:?}"),
    }
    let rename = f.edit(f.system_id, 1, Some(Card::System(row("Mine"))), None).await;
    assert!(matches!(rename, Err(StoreError::Refused(refusal)) if refusal.code == "for_adults"));
}

#[tokio::test]
async fn an_actor_put_away_in_the_middle_of_a_change_leaves_it_to_be_taken_up() {
    let f = Fixture::new().await;
    let id = Uuid::now_v7();
    keep(&f, id, 0, Some(4.0)).await.unwrap();
    f.put_away(f.person, 1).await;
    assert!(matches!(keep(&f, id, 1, Some(5.0)).await, Err(StoreError::Refused(_))));
    let stands = f.store.change_run(f.system_id).await.unwrap().unwrap();
    assert_eq!((stands.version, stands.run.heel), (1, Some(litres(4.0))), "what was saved stays");
    let ode = Uuid::now_v7();
    f.make(ode, Some(f.place), person("Ode", Role::Helper)).await.unwrap();
    let run = ChangeRun { heel: Some(litres(5.0)), ..ChangeRun::default() };
    let command = Command::SaveChange { system: f.system_id, id, version: 1, run: Box::new(run) };
    f.store.submit(&command, &Actor::new(ode, Role::Helper, f.place), now()).await.unwrap();
}

#[tokio::test]
async fn a_system_that_was_put_away_takes_no_entries_and_ends_no_change() {
    let f = Fixture::new().await;
    let id = Uuid::now_v7();
    keep(&f, id, 0, None).await.unwrap();
    f.put_away(f.system_id, 1).await;
    let code = |result: Result<Outcome, StoreError>| match result {
        Err(StoreError::Refused(refusal)) => refusal.code.to_string(),
        other => panic!("{other:?}"),
    };
    let add = Command::Add(f.system_id, Box::new(f.visit(1, 90.0)));
    let finish = Command::FinishChange { system: f.system_id, id, at: None };
    let draft = Command::SaveDraft { system: f.system_id, id, version: 0, visit: Box::new(fine()) };
    for command in [add, finish, draft] {
        assert_eq!(code(f.submit(&command).await), "system_put_away", "{command:?}");
    }
}

#[tokio::test]
async fn a_full_disk_and_then_room_again_needs_no_restart() {
    let f = Fixture::new().await;
    f.append(&f.visit(9, 100.0)).await.unwrap();
    // The pages that the file may have are its disk: no more than it has now, then as many as it likes.
    let store = &f.store;
    let room = |pages: &'static str| async move {
        sqlx::query(sqlx::AssertSqlSafe(pages)).execute(store.writer()).await.unwrap();
    };
    room("PRAGMA max_page_count = 1").await;
    let mut refused = 0;
    for hour in 0..200 {
        refused += u32::from(f.append(&f.visit(hour % 8, 90.0)).await.is_err());
    }
    assert!(refused > 0, "the disk was full");
    for hour in 1..8 {
        f.append(&f.visit(hour, 80.0)).await.unwrap();
    }
    f.holds_together().await;
}

#[tokio::test]
async fn a_card_is_made_of_what_is_there() {
    let f = Fixture::new().await;
    let orphan = f.make(Uuid::now_v7(), Some(Uuid::now_v7()), person("Ode", Role::Helper)).await;
    assert!(matches!(orphan, Err(StoreError::Refused(refusal)) if refusal.field == "parent"));
    let no_meter = System { meter: Some(Uuid::now_v7()), ..row("Other") };
    let no_meter = f.make(Uuid::now_v7(), Some(f.place), Card::System(no_meter)).await;
    assert!(matches!(no_meter, Err(StoreError::Refused(refusal)) if refusal.field == "body.meter"));
    let large = System { reservoir: vessel(80.0), ..row("Third row") };
    assert!(f.make(Uuid::now_v7(), Some(f.place), Card::System(large)).await.is_ok());
}

/// A picture may show what nobody wanted kept: once erased, its bytes are nowhere in the file.
#[tokio::test]
async fn an_erased_picture_leaves_no_bytes_behind() {
    let f = Fixture::new().await;
    let image: Vec<u8> = (0..60_000_u32).map(|n| (n.wrapping_mul(2_654_435_761) >> 13) as u8).collect();
    let id = Uuid::now_v7();
    let new = NewPicture {
        id,
        at: None,
        ports: None,
        note: None,
        width: 10,
        height: 10,
        image: image.clone(),
        small: image[..900].to_vec(),
    };
    f.submit(&Command::KeepPicture(f.system_id, Box::new(new))).await.unwrap();
    let (system, bytes) = f.store.picture_bytes(id, false).await.unwrap().unwrap();
    assert_eq!((system, bytes.as_slice()), (f.system_id, image.as_slice()));
    f.store.checkpoint().await.unwrap();
    let inside = || std::fs::read(f.file()).unwrap().windows(64).any(|part| part == &image[30_000..30_064]);
    assert!(inside(), "kept in the same file as all else");
    f.submit(&Command::ErasePicture { system: f.system_id, id }).await.unwrap();
    f.store.close().await;
    assert!(!inside());
}
