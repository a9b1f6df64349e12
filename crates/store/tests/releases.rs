//! Files of every earlier release open, lose nothing, and come to what their log says; one of a
//! release to come is read and not written to.

use crate::common::{Fixture, now};
use mopsel_core::fact::card::Card;
use mopsel_core::fact::{Body, Holds, Sort};
use mopsel_core::gate::Command;
use mopsel_store::{Rebuilding, Sought, Store, StoreError};
use std::path::{Path, PathBuf};
use tempfile::TempDir;

/// A copy of a file that an earlier release made: its demo, as its last commit fills it.
fn release(number: u8) -> (TempDir, PathBuf) {
    let folder = tempfile::tempdir().unwrap();
    let kept = Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("tests/files/release-{number}.mopsel"));
    let file = folder.path().join("garden.db");
    std::fs::copy(kept, &file).unwrap();
    (folder, file)
}

#[tokio::test]
async fn a_file_of_each_earlier_release_opens_and_comes_to_what_its_log_says() {
    for number in [1, 2] {
        let (_folder, file) = release(number);
        let mut told = Vec::new();
        let store = Store::open_with(&file, &mut |progress| told.push(progress)).await.unwrap();
        let systems = told.contains(&Rebuilding::Systems { done: 10, of: 10 });
        assert!(systems, "release {number}: a line of progress for what is made anew: {told:?}");
        assert!(matches!(told.last(), Some(Rebuilding::Words { done, of }) if done == of), "{told:?}");
        let roots = Sought { sorts: vec![Sort::Roots], ..Sought::default() };
        assert!(!store.find(&roots, None, 10).await.unwrap().is_empty(), "release {number}: its log is found by sorts");
        let news = store.news_since(0).await.unwrap();
        assert!(news.cards.len() >= 40, "release {number}: {} cards", news.cards.len());
        assert!(news.cards.iter().all(|card| card.holds == Holds::Always), "what was set up was always so");
        let mut entries = 0;
        for card in news.cards.iter().filter(|card| matches!(card.card, Card::System(_))) {
            let kept = store.kept(card.id).await.unwrap().unwrap();
            entries += kept.done.entries;
            assert_eq!(kept, store.folded(card.id).await.unwrap(), "release {number}: {}", card.card.name());
        }
        assert!(entries > 300, "release {number}: {entries} entries");
        let channels = news.cards.iter().any(|card| matches!(&card.card, Card::System(s) if s.traits.channels));
        assert!(channels, "the film channel of release {number} has its trait");
    }
}

#[tokio::test]
async fn a_file_that_is_up_to_date_makes_nothing_anew() {
    let (_folder, file) = release(2);
    Store::open(&file).await.unwrap().close().await;
    let mut told = 0;
    Store::open_with(&file, &mut |_| told += 1).await.unwrap();
    assert_eq!(told, 0);
}

#[tokio::test]
async fn a_projection_of_another_version_is_made_anew_and_no_other() {
    let f = Fixture::new().await;
    f.append(&f.visit(5, 100.0)).await.unwrap();
    for spoilt in [
        "UPDATE projection SET version = 0, body = '{}' WHERE part = 'tank'",
        "DELETE FROM projection WHERE part = 'cases'",
        "UPDATE projection SET body = '{\"entries\":77,\"first_at\":null,\"last_at\":null,\"last\":{}}' WHERE part = 'done'",
    ] {
        sqlx::query(sqlx::AssertSqlSafe(spoilt)).execute(f.store.reader()).await.unwrap();
    }
    f.store.close().await;
    let f = Fixture { store: Store::open(&f.file()).await.unwrap(), ..f };
    let (kept, folded) =
        (f.store.kept(f.system_id).await.unwrap().unwrap(), f.store.folded(f.system_id).await.unwrap());
    assert_eq!((kept.tank, kept.cases), (folded.tank, folded.cases), "outdated and missing: made anew");
    assert_eq!(kept.done.entries, 77, "a part of the right version is taken as it stands");
}

#[tokio::test]
async fn an_entry_of_a_release_to_come_is_read_around_and_nothing_is_written() {
    let f = Fixture::new().await;
    f.append(&f.visit(5, 100.0)).await.unwrap();
    let newer = "INSERT INTO entry (id, system, at, recorded, who, body, shape) SELECT
        '0197f0a0-0000-7000-8000-00000000ffff', system, at + 1, recorded, who, '{\"kind\":\"hologram\"}', 99 FROM entry";
    sqlx::query(newer).execute(f.store.reader()).await.unwrap();
    f.store.close().await;
    let f = Fixture { store: Store::open(&f.file()).await.unwrap(), ..f };
    assert!(f.store.read_only().unwrap().contains("newer Mopsel"));
    let threads = f.store.log_page(f.system_id, None, 10).await.unwrap();
    assert_eq!(threads.len(), 2);
    assert_eq!(threads[0].head.entry.body, Body::FromNewer, "it is there, and not understood");
    assert!(f.store.folded(f.system_id).await.unwrap().tank.last_volume().is_some(), "the rest is read");
    let add = Command::Add(f.system_id, Box::new(f.visit(1, 90.0)));
    match f.store.submit(&add, &f.wren(), now()).await {
        Err(StoreError::ReadOnly(why)) => assert!(why.contains("newer Mopsel"), "{why}"),
        other => panic!("{other:?}"),
    }
}

#[tokio::test]
async fn a_file_of_a_schema_to_come_is_refused_in_plain_words() {
    let f = Fixture::new().await;
    let newer = "INSERT INTO _sqlx_migrations (version, description, success, checksum, execution_time)
        VALUES (99, 'to come', 1, x'00', 0)";
    sqlx::query(newer).execute(f.store.reader()).await.unwrap();
    f.store.close().await;
    match Store::open(&f.file()).await {
        Err(StoreError::Unfit(why)) => assert!(why.contains("newer Mopsel"), "{why}"),
        other => panic!("{other:?}"),
    }
}
