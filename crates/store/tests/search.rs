//! Entries are found over all systems, by what they say and by what they are, and no others.

use crate::common::{Fixture, now, row};
use jiff::{SignedDuration, Timestamp};
use mopsel_core::fact::card::Card;
use mopsel_core::fact::{Body, Entry, Sort, Visit};
use mopsel_core::gate::{Command, NewEntry};
use mopsel_core::quantity::Note;
use mopsel_store::{Rebuilding, Sought, SoughtWord, Store, Thread};
use uuid::Uuid;

fn word(text: &str) -> SoughtWord {
    SoughtWord { word: text.to_owned(), systems: vec![], people: vec![] }
}

fn words(text: &str) -> Sought {
    Sought { words: mopsel_core::words::searched(text).iter().map(|one| word(one)).collect(), ..Sought::default() }
}

fn noted(hours: i64, note: &str) -> NewEntry {
    let visit = Visit { note: Note::new(note).ok(), ..Visit::default() };
    let at = Some(now() - SignedDuration::from_hours(hours));
    NewEntry { id: Uuid::now_v7(), at, body: Body::Visit(visit), amends: None, reason: None, closes: None, saved: None }
}

async fn found(store: &Store, sought: &Sought) -> Vec<Uuid> {
    page(store, sought, None, 100).await.into_iter().map(|thread| thread.head.entry.id).collect()
}

async fn page(store: &Store, sought: &Sought, before: Option<(Timestamp, i64)>, limit: u32) -> Vec<Thread> {
    store.threads(&store.find(sought, before, limit).await.unwrap()).await.unwrap()
}

#[tokio::test]
async fn words_are_found_by_their_beginnings_without_case_or_accents_and_an_operator_is_no_operator() {
    let f = Fixture::new().await;
    let (moss, pump) = (noted(5, "Brown Möss at the inlet"), noted(3, "the pump rattles"));
    f.append(&moss).await.unwrap();
    f.append(&pump).await.unwrap();
    for (text, hits) in [
        ("moss", vec![moss.id]),
        ("MÖSS inl", vec![moss.id]),
        ("inlet pump", vec![]),
        ("pump\" OR \"moss", vec![]),
        ("rattles NOT pump", vec![]),
        ("said:moss", vec![]),
        ("(((", vec![pump.id, moss.id]),
        ("*", vec![pump.id, moss.id]),
        ("the", vec![pump.id, moss.id]),
    ] {
        assert_eq!(found(&f.store, &words(text)).await, hits, "{text}");
    }
}

#[tokio::test]
async fn what_was_amended_is_found_as_it_stands_and_late_entries_stand_in_their_time() {
    let f = Fixture::new().await;
    let (first, late) = (noted(2, "green water"), noted(40, "green lid"));
    f.append(&first).await.unwrap();
    f.append(&late).await.unwrap();
    assert_eq!(found(&f.store, &words("green")).await, [first.id, late.id], "by when it happened");
    let amended =
        NewEntry { amends: Some(first.id), reason: Note::new("looked again").ok(), ..noted(2, "clear water") };
    f.append(&amended).await.unwrap();
    assert_eq!(found(&f.store, &words("green")).await, [late.id]);
    assert_eq!(found(&f.store, &words("clear")).await, [amended.id]);
    assert_eq!(found(&f.store, &words("looked again")).await, [amended.id], "by the reason as well");
    let threads = page(&f.store, &words("clear"), None, 10).await;
    assert_eq!(threads[0].earlier[0].entry.id, first.id, "with what it replaced");
}

#[tokio::test]
async fn sorts_systems_people_and_days_narrow_it_and_pages_neither_skip_nor_repeat() {
    let f = Fixture::new().await;
    let other = Uuid::now_v7();
    f.make(other, Some(f.place), Card::System(row("Other row"))).await.unwrap();
    for hours in 1..=25 {
        f.append(&f.visit(hours * 10, 100.0)).await.unwrap();
    }
    let there = noted(7, "elsewhere");
    f.submit(&Command::Add(other, Box::new(there.clone()))).await.unwrap();
    let topped = Sought { sorts: vec![Sort::TopOff], ..Sought::default() };
    assert_eq!(found(&f.store, &topped).await.len(), 25);
    let at_other = Sought { systems: Some(vec![other]), ..Sought::default() };
    assert_eq!(found(&f.store, &at_other).await, [there.id]);
    assert_eq!(found(&f.store, &Sought { systems: Some(vec![]), ..Sought::default() }).await, Vec::<Uuid>::new());
    let stranger = Sought { people: vec![Uuid::now_v7()], ..Sought::default() };
    assert_eq!(found(&f.store, &stranger).await, Vec::<Uuid>::new());
    let day = Sought { from: Some(now() - SignedDuration::from_hours(30)), until: Some(now()), ..topped.clone() };
    assert_eq!(found(&f.store, &day).await.len(), 3, "10, 20 and 30 hours ago");
    for sought in [topped, Sought::default()] {
        let (mut all, mut before) = (Vec::new(), None);
        loop {
            let threads = page(&f.store, &sought, before, 4).await;
            before = threads.last().map(|thread| (thread.head.entry.at, thread.head.seq));
            all.extend(threads.into_iter().map(|thread| thread.head.entry.id));
            if all.len() % 4 != 0 || before.is_none() || all.len() > 40 {
                break;
            }
        }
        assert_eq!(all, found(&f.store, &sought).await);
    }
}

#[tokio::test]
async fn a_name_is_found_as_it_is_called_now() {
    let f = Fixture::new().await;
    let visit = noted(2, "quiet");
    f.append(&visit).await.unwrap();
    let by_name = |systems, people| Sought {
        words: vec![SoughtWord { word: "bucket".to_owned(), systems, people }],
        ..Sought::default()
    };
    assert_eq!(found(&f.store, &by_name(vec![f.system_id], vec![])).await, [visit.id]);
    assert_eq!(found(&f.store, &by_name(vec![], vec![f.person])).await, [visit.id]);
    assert_eq!(found(&f.store, &by_name(vec![], vec![])).await, Vec::<Uuid>::new());
}

#[tokio::test]
async fn an_index_of_another_version_is_made_anew_and_comes_to_the_same() {
    let f = Fixture::new().await;
    let entries: Vec<Entry> = (0..12_003)
        .map(|n| {
            let at = now() - SignedDuration::from_mins(n);
            let note = Note::new(if n % 1000 == 0 { "a rare heron" } else { "quiet" }).ok();
            let body = Body::Visit(Visit { note, ..Visit::default() });
            Entry { id: Uuid::now_v7(), at, by: f.person, body, amends: None, reason: None }
        })
        .collect();
    f.store.fill(f.system_id, &entries, now()).await.unwrap();
    let before = found(&f.store, &words("heron")).await;
    assert_eq!(before.len(), 13);
    // As an earlier release left it, and ended on its way.
    for spoilt in ["UPDATE words_kept SET version = 0", "DELETE FROM entry_words WHERE rowid > 0"] {
        sqlx::query(spoilt).execute(f.store.writer()).await.unwrap();
    }
    assert_eq!(found(&f.store, &words("heron")).await.len(), 0);
    f.store.close().await;
    let mut told = Vec::new();
    let again = Store::open_with(&f.file(), &mut |made| told.push(made)).await.unwrap();
    assert_eq!(found(&again, &words("heron")).await, before);
    assert_eq!(told.last(), Some(&Rebuilding::Gathering), "it has grown: it is gathered into one piece");
    // What comes after is found beside it, and a few more are no reason to gather it again.
    let late = Entry { id: Uuid::now_v7(), at: now(), ..entries[1000].clone() };
    again.fill(f.system_id, std::slice::from_ref(&late), now()).await.unwrap();
    again.close().await;
    let mut told = 0;
    let again = Store::open_with(&f.file(), &mut |_| told += 1).await.unwrap();
    assert_eq!(told, 0);
    assert_eq!(found(&again, &words("heron")).await, [vec![late.id], before].concat());
}
