//! The file keeps what it acknowledged, once, and never overwrites silently.
#![allow(clippy::unwrap_used, missing_docs)]

use jiff::{SignedDuration, Timestamp};
use mopsel_core::calendar::Weekday;
use mopsel_core::card::{Card, Person, Place, Role};
use mopsel_core::log::{Body, Entry, State, TopOff, TopOffWater, Visit, fold};
use mopsel_core::quantity::{Conductivity, Litres, Name, Note, UnitSystem};
use mopsel_core::reservoir::{LevelReading, Reservoir, Shape};
use mopsel_core::system::{Kind, Measuring, System};
use mopsel_store::{Draft, NewCard, NewEntry, Store, StoreError};
use std::collections::BTreeMap;
use tempfile::TempDir;
use uuid::Uuid;

struct Fixture {
    store: Store,
    _folder: TempDir,
    place: Uuid,
    person: Uuid,
    system_id: Uuid,
    system: System,
}

fn now() -> Timestamp {
    "2027-03-09T08:30:00Z".parse().unwrap()
}

fn row(name: &str) -> System {
    let kind = Kind::BucketChain;
    System {
        name: Name::new(name).unwrap(),
        kind,
        traits: kind.facts().traits,
        reservoir: Reservoir::suggested(Shape::Stated { litres: Litres::new(140.0).unwrap() }),
        ports: 6,
        measuring: Measuring::Meter,
        meter: None,
        refill: kind.facts().refill,
        change_days: 14,
        source_ec: Conductivity::new(0.3).unwrap(),
        methods: Default::default(),
        intervals: BTreeMap::new(),
        since: "2027-01-01".parse().unwrap(),
        note: None,
    }
}

async fn fixture() -> Fixture {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("mopsel.db")).await.unwrap();
    let (place, person, system_id) = (Uuid::now_v7(), Uuid::now_v7(), Uuid::now_v7());
    let system = row("Bucket row");
    let card = |id, parent, card| NewCard { id, parent, card };
    let home = Place {
        name: Name::new("Long Acre polytunnel").unwrap(),
        zone: "Europe/London".into(),
        open_days: Weekday::ALL.to_vec(),
        units: UnitSystem::Us,
        containers: vec![],
        tools: vec![],
    };
    store.create_card(&card(place, None, Card::Place(home)), now()).await.unwrap();
    store
        .create_card(&card(person, Some(place), Card::Person(Person { name: Name::new("Wren").unwrap(), role: Role::Caretaker, units: None, ec_scale: None })), now())
        .await
        .unwrap();
    store.create_card(&card(system_id, Some(place), Card::System(system.clone())), now()).await.unwrap();
    Fixture { store, _folder: folder, place, person, system_id, system }
}

impl Fixture {
    fn visit(&self, hours: i64, litres: f64) -> NewEntry {
        let visit = Visit {
            level: Some(LevelReading::Volume { litres: Litres::new(litres).unwrap(), pump_ran: true }),
            top_off: Some(TopOff { litres: Litres::new(3.3).unwrap(), water: TopOffWater::Plain }),
            ..Visit::default()
        };
        let entry = Entry { id: Uuid::now_v7(), at: now() - SignedDuration::from_hours(hours), by: self.person, body: Body::Visit(visit), amends: None, reason: None };
        NewEntry { system: self.system_id, entry }
    }

    async fn append(&self, new: &NewEntry) -> Result<mopsel_store::Appended, StoreError> {
        self.store.append(new, &self.system, now()).await
    }

    fn amendment(&self, of: &NewEntry, litres: f64) -> NewEntry {
        let mut new = self.visit(0, litres);
        new.entry.at = of.entry.at;
        new.entry.amends = Some(of.entry.id);
        new.entry.reason = Note::new("misread").ok();
        new
    }

    async fn rebuilt(&self) -> State {
        fold(&self.store.entries_since(self.system_id, Timestamp::MIN).await.unwrap(), &self.system)
    }
}

#[tokio::test]
async fn a_repeated_entry_is_one_entry() {
    let f = fixture().await;
    let new = f.visit(5, 100.0);
    let first = f.append(&new).await.unwrap();
    let again = f.append(&new).await.unwrap();
    assert!(!first.repeated && again.repeated);
    assert_eq!(first.entry, again.entry);
    assert_eq!(f.store.log_page(f.system_id, None, 10).await.unwrap().len(), 1);
    assert_eq!(f.store.cached_state(f.system_id).await.unwrap().unwrap().entries, 1);
}

#[tokio::test]
async fn an_id_is_never_reused_for_something_else() {
    let f = fixture().await;
    let new = f.visit(5, 100.0);
    f.append(&new).await.unwrap();
    let mut other = f.visit(4, 90.0);
    other.entry.id = new.entry.id;
    assert!(matches!(f.append(&other).await, Err(StoreError::IdTaken)));
    let card = NewCard { id: f.place, parent: Some(f.place), card: Card::System(row("Other")) };
    assert!(matches!(f.store.create_card(&card, now()).await, Err(StoreError::IdTaken)));
}

#[tokio::test]
async fn the_cached_state_equals_a_rebuilt_one_whatever_came_late_or_was_amended() {
    let f = fixture().await;
    let entries: Vec<_> = [50, 40, 30, 20].iter().map(|h| f.visit(*h, 60.0 + *h as f64 / 3.0)).collect();
    for new in &entries {
        f.append(new).await.unwrap();
        assert_eq!(f.store.cached_state(f.system_id).await.unwrap().unwrap(), f.rebuilt().await);
    }
    f.append(&f.visit(45, 81.7)).await.unwrap();
    f.append(&f.amendment(&entries[1], 77.1)).await.unwrap();
    assert_eq!(f.store.cached_state(f.system_id).await.unwrap().unwrap(), f.rebuilt().await);
    assert_eq!(f.store.rebuild(f.system_id, &f.system).await.unwrap(), f.rebuilt().await);
}

#[tokio::test]
async fn editing_the_vessel_folds_the_log_anew() {
    let f = fixture().await;
    f.append(&f.visit(5, 100.0)).await.unwrap();
    let smaller = System { reservoir: Reservoir::suggested(Shape::Stated { litres: Litres::new(80.0).unwrap() }), ..f.system.clone() };
    f.store.edit_card(f.system_id, 1, Some(&Card::System(smaller)), None, now()).await.unwrap();
    let state = f.store.cached_state(f.system_id).await.unwrap().unwrap();
    assert!(state.volumes.iter().all(|p| p.before.is_none()), "100 L no longer fit the vessel as it is set up now");
}

#[tokio::test]
async fn an_amendment_keeps_the_original_and_the_second_one_is_refused_with_what_stands() {
    let f = fixture().await;
    let original = f.visit(5, 100.0);
    f.append(&original).await.unwrap();
    let mine = f.amendment(&original, 90.0);
    f.append(&mine).await.unwrap();
    let theirs = f.amendment(&original, 80.0);
    match f.append(&theirs).await {
        Err(StoreError::Amended(current)) => assert_eq!(current.entry.id, mine.entry.id),
        other => panic!("{other:?}"),
    }
    let threads = f.store.log_page(f.system_id, None, 10).await.unwrap();
    assert_eq!(threads.len(), 1);
    assert_eq!((threads[0].head.entry.id, threads[0].earlier[0].entry.id), (mine.entry.id, original.entry.id));
    let mut stray = f.amendment(&original, 70.0);
    stray.entry.amends = Some(Uuid::now_v7());
    assert!(matches!(f.append(&stray).await, Err(StoreError::NotFound(_))));
}

#[tokio::test]
async fn an_edit_on_top_of_an_old_version_is_refused_with_the_present_one() {
    let f = fixture().await;
    let renamed = |name| Card::System(row(name));
    f.store.edit_card(f.system_id, 1, Some(&renamed("North row")), None, now()).await.unwrap();
    match f.store.edit_card(f.system_id, 1, Some(&renamed("South row")), None, now()).await {
        Err(StoreError::Changed(current)) => assert_eq!((current.version, current.card.name()), (2, "North row")),
        other => panic!("{other:?}"),
    }
    let retried = f.store.edit_card(f.system_id, 1, Some(&renamed("North row")), None, now()).await.unwrap();
    assert_eq!(retried.version, 2, "the same edit again is the same edit");
}

#[tokio::test]
async fn the_log_cannot_be_changed_or_erased_even_by_hand() {
    let f = fixture().await;
    f.append(&f.visit(5, 100.0)).await.unwrap();
    for sql in ["UPDATE entry SET at = 0", "DELETE FROM entry"] {
        let error = sqlx::query(sqlx::AssertSqlSafe(sql)).execute(f.store.reader()).await.unwrap_err();
        assert!(error.to_string().contains("append-only"), "{error}");
    }
}

#[tokio::test]
async fn pages_of_the_log_meet_without_gap_or_repeat() {
    let f = fixture().await;
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
    let f = fixture().await;
    let all = f.store.changes_since(0).await.unwrap();
    assert_eq!((all.cards.len(), all.states.len()), (3, 1));
    assert!(f.store.changes_since(all.tick).await.unwrap().cards.is_empty());
    f.append(&f.visit(5, 100.0)).await.unwrap();
    let news = f.store.changes_since(all.tick).await.unwrap();
    assert_eq!((news.cards.len(), news.states.len()), (0, 1));
}

#[tokio::test]
async fn a_draft_survives_reopening_and_two_devices_do_not_overwrite_each_other() {
    let f = fixture().await;
    let draft = Draft { id: Uuid::now_v7(), system: f.system_id, who: f.person, version: 0, visit: Visit { all_fine: true, ..Visit::default() }, at: now() };
    let saved = f.store.save_draft(&draft).await.unwrap();
    assert_eq!(saved.version, 1);
    f.store.close().await;
    let store = Store::open(&f._folder.path().join("mopsel.db")).await.unwrap();
    assert_eq!(store.draft(f.system_id, f.person).await.unwrap(), Some(saved.clone()));
    let elsewhere = Draft { version: 0, visit: Visit::default(), ..draft.clone() };
    assert!(matches!(store.save_draft(&elsewhere).await, Err(StoreError::DraftChanged(_))));
    let mut closing = f.visit(1, 90.0);
    closing.entry.id = draft.id;
    store.append(&closing, &f.system, now()).await.unwrap();
    assert_eq!(store.draft(f.system_id, f.person).await.unwrap(), None, "closing the visit puts its draft away");
}

#[tokio::test]
async fn something_that_is_no_database_is_refused() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("shopping.txt");
    std::fs::write(&file, "pak choi, mizuna, sorrel".repeat(300)).unwrap();
    assert!(Store::open(&file).await.is_err());
}

fn timer(f: &Fixture, label: &str, minutes: i64) -> mopsel_store::Timer {
    let ends = now() + SignedDuration::from_mins(minutes);
    mopsel_store::Timer { id: Uuid::now_v7(), system: Some(f.system_id), what: mopsel_core::bench::WaitFor::Remeasure, label: label.into(), started: now(), ends }
}

#[tokio::test]
async fn a_timer_runs_once_is_seen_until_it_is_put_away_and_survives_a_restart() {
    let f = fixture().await;
    let (long, short) = (timer(&f, "Measure pH again", 45), timer(&f, "Let it mix", 15));
    for timer in [&long, &short, &short] {
        f.store.start_timer(timer).await.unwrap();
    }
    assert_eq!(f.store.timers(now()).await.unwrap(), [short.clone(), long.clone()], "the next to end first, each once");
    let other = mopsel_store::Timer { label: "Something else".into(), ..short.clone() };
    assert!(matches!(f.store.start_timer(&other).await, Err(StoreError::IdTaken)));
    f.store.close().await;
    let store = Store::open(&f._folder.path().join("mopsel.db")).await.unwrap();
    assert_eq!(store.timers(now() + SignedDuration::from_hours(1)).await.unwrap().len(), 2, "over, but nobody has put them away");
    store.dismiss_timer(short.id, now()).await.unwrap();
    assert_eq!(store.timers(now()).await.unwrap(), [long]);
    assert!(store.timers(now() + SignedDuration::from_hours(24)).await.unwrap().is_empty(), "forgotten ones do not stay for ever");
}

#[tokio::test]
async fn a_change_under_way_is_one_for_a_system_and_two_devices_do_not_overwrite_each_other() {
    let f = fixture().await;
    let run = mopsel_store::StoredRun { id: Uuid::now_v7(), system: f.system_id, who: f.person, version: 0, run: Default::default(), started: now(), at: now() };
    let first = f.store.save_change_run(&run).await.unwrap();
    assert_eq!(first.version, 1);
    let further = mopsel_store::StoredRun { run: mopsel_core::changing::ChangeRun { heel: Litres::new(4.0).ok(), ..Default::default() }, version: 1, ..run.clone() };
    assert_eq!(f.store.save_change_run(&further).await.unwrap().version, 2);
    assert_eq!(f.store.save_change_run(&further).await.unwrap().version, 2, "the same again is the same");
    let elsewhere = mopsel_store::StoredRun { run: mopsel_core::changing::ChangeRun { heel: Litres::new(9.0).ok(), ..Default::default() }, version: 1, ..run.clone() };
    let Err(StoreError::RunChanged(there)) = f.store.save_change_run(&elsewhere).await else { panic!("a silent overwrite") };
    assert_eq!(there.run.heel, Litres::new(4.0).ok());
    let mut entry = f.visit(0, 90.0);
    entry.entry.id = run.id;
    f.append(&entry).await.unwrap();
    assert_eq!(f.store.change_run(f.system_id).await.unwrap(), None, "the entry that it ends in puts it away");
}

#[tokio::test]
async fn a_file_of_the_first_release_is_brought_up_to_date_and_loses_nothing() {
    let folder = tempfile::tempdir().unwrap();
    let (migrations, file) = (folder.path().join("migrations"), folder.path().join("old.db"));
    std::fs::create_dir(&migrations).unwrap();
    std::fs::copy(concat!(env!("CARGO_MANIFEST_DIR"), "/migrations/0001_first.sql"), migrations.join("0001_first.sql")).unwrap();
    let options = sqlx::sqlite::SqliteConnectOptions::new().filename(&file).create_if_missing(true).foreign_keys(true);
    let pool = sqlx::sqlite::SqlitePool::connect_with(options).await.unwrap();
    sqlx::migrate::Migrator::new(migrations).await.unwrap().run(&pool).await.unwrap();
    let (place, person, system_id) = (Uuid::now_v7(), Uuid::now_v7(), Uuid::now_v7());
    let mut old_system = serde_json::to_value(Card::System(row("Bucket row"))).unwrap();
    old_system.as_object_mut().unwrap().remove("methods");
    for (id, kind, parent, body) in [
        (place, "place", None, r#"{"card":"place","name":"Long Acre","zone":"Europe/London","open_days":["monday"],"units":"us"}"#.to_owned()),
        (person, "person", Some(place), r#"{"card":"person","name":"Wren","role":"caretaker"}"#.to_owned()),
        (system_id, "system", Some(place), old_system.to_string()),
    ] {
        sqlx::query("INSERT INTO card VALUES (?, ?, ?, 1, 0, ?, '{}', 1)")
            .bind(id.to_string())
            .bind(kind)
            .bind(parent.map(|p: Uuid| p.to_string()))
            .bind(body)
            .execute(&pool)
            .await
            .unwrap();
    }
    let visit = r#"{"kind":"visit","level":{"by":"volume","litres":100.0,"pump_ran":true}}"#;
    sqlx::query("INSERT INTO entry (id, system, at, recorded, who, body) VALUES (?, ?, 1800000000000, 1800000000000, ?, ?)")
        .bind(Uuid::now_v7().to_string())
        .bind(system_id.to_string())
        .bind(person.to_string())
        .bind(visit)
        .execute(&pool)
        .await
        .unwrap();
    sqlx::query("INSERT INTO fold VALUES (?, '{\"entries\":1}', 1)").bind(system_id.to_string()).execute(&pool).await.unwrap();
    pool.close().await;
    let store = Store::open(&file).await.unwrap();
    assert_eq!(store.changes_since(0).await.unwrap().cards.len(), 3);
    let state = store.cached_state(system_id).await.unwrap().unwrap();
    assert_eq!((state.entries, state.last_volume().unwrap().after), (1, Litres::new(100.0).unwrap()), "the state was made anew");
    let recipe = mopsel_core::mixing::recipes()[0].1.clone();
    store.create_card(&NewCard { id: Uuid::now_v7(), parent: None, card: Card::Recipe(recipe) }, now()).await.unwrap();
    let orphan = NewCard {
        id: Uuid::now_v7(),
        parent: Some(Uuid::now_v7()),
        card: Card::Person(Person { name: Name::new("Ode").unwrap(), role: Role::Helper, units: None, ec_scale: None }),
    };
    assert!(store.create_card(&orphan, now()).await.is_err(), "foreign keys hold again");
}
