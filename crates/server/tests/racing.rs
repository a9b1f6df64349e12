//! Two writers at once, over HTTP, for each pair: what was acknowledged is there, nothing
//! is left that never ends, and what is kept of a system is what its log comes to.

use crate::common::{Running, tub};
use mopsel_store::Store;
use serde_json::{Value, json};
use uuid::Uuid;

/// How often each pair is raced: the first of the two is the other one every other time.
fn trials() -> usize {
    crate::common::soak::times(200, 20) as usize
}

/// A server, someone who records, and the tub they look after.
struct Race {
    server: Running,
    person: Uuid,
    system: Uuid,
}

impl Race {
    async fn new() -> Self {
        let server = Running::empty();
        let (person, system) = server.first_system().await;
        Self { server, person, system }
    }

    fn path(&self, rest: &str) -> String {
        format!("/api/systems/{}/{rest}", self.system)
    }

    fn entry(&self, id: Uuid, body: Value) -> Value {
        json!({ "id": id, "by": self.person, "body": body })
    }

    async fn add(&self, entry: &Value) -> u16 {
        self.server.post(&self.path("entries"), entry).await.status().as_u16()
    }

    async fn put(&self, path: &str, body: &Value) -> u16 {
        self.server.put(path, body).await.status().as_u16()
    }

    /// All that the log holds, newest first.
    async fn threads(&self) -> Vec<Value> {
        let (mut threads, mut mark) = (Vec::new(), String::new());
        loop {
            let page = self.server.get(&self.path(&format!("log?limit=100{mark}"))).await;
            threads.extend(page["threads"].as_array().unwrap().iter().cloned());
            match page["next"].as_str() {
                Some(next) => mark = format!("&before={next}"),
                None => return threads,
            }
        }
    }

    /// What is kept of the system is what its log comes to, read from the file itself.
    async fn kept_is_folded(&self) {
        let store = Store::open(&self.server.file).await.unwrap();
        let (kept, folded) = (store.kept(self.system).await.unwrap(), store.folded(self.system).await.unwrap());
        assert_eq!(kept.as_ref(), Some(&folded));
        store.close().await;
    }
}

#[actix_web::test]
async fn an_entry_beside_an_edit_of_the_vessel() {
    let race = Race::new().await;
    let card = format!("/api/cards/{}", race.system);
    let (mut version, mut acknowledged) = (1, Vec::new());
    let store = Store::open(&race.server.file).await.unwrap();
    for n in 0..trials() {
        let mut body = tub();
        body["reservoir"]["shape"]["length_mm"] = json!(500 + n % 40);
        let holds = if n % 2 == 0 { json!("always") } else { json!({ "from": "2026-11-01" }) };
        let edit = json!({ "version": version, "by": race.person, "body": body, "holds": holds });
        let id = Uuid::now_v7();
        let level =
            json!({ "kind": "visit", "level": { "by": "height", "height_mm": 100 + n % 40 }, "note": format!("{n}") });
        let entry = race.entry(id, level);
        let (edited, added) = tokio::join!(race.put(&card, &edit), race.add(&entry));
        assert_eq!((edited, added), (200, 201));
        version += 1;
        acknowledged.push(id);
        let (kept, folded) = (store.kept(race.system).await.unwrap(), store.folded(race.system).await.unwrap());
        assert_eq!(kept.as_ref(), Some(&folded), "trial {n}");
    }
    store.close().await;
    let threads = race.threads().await;
    assert_eq!(threads.len(), trials());
    for id in acknowledged {
        assert!(threads.iter().any(|thread| thread["head"]["id"] == json!(id)));
    }
}

#[actix_web::test]
async fn a_saved_change_beside_its_finish() {
    let race = Race::new().await;
    let path = race.path("change");
    let guide = race.server.get(&path).await;
    let steps = guide["guide"]["steps"].as_array().unwrap();
    let marks: serde_json::Map<String, Value> = steps
        .iter()
        .map(|step| (step["step"].as_str().unwrap().to_owned(), json!({ "at": "2026-11-01T08:00:00Z" })))
        .collect();
    let (mut finished_first, mut saved_first) = (0, 0);
    for n in 0..trials() {
        let id = Uuid::now_v7();
        let run = |litres: f64| json!({ "extent": "full", "volume_after": litres, "ec": { "value": 1.2, "scale": "ms_cm" }, "parts": { "steps": marks } });
        let save =
            |version: i64, litres: f64| json!({ "id": id, "by": race.person, "version": version, "run": run(litres) });
        assert_eq!(race.put(&path, &save(0, 20.0)).await, 200, "trial {n}");
        let finish = json!({ "id": id, "by": race.person });
        // Each is the first to be sent every other time.
        let finishing = || async { race.server.told(&format!("{path}/finish"), &finish).await };
        let saving = save(1, 25.0);
        let (saved, (finished, entry)) = if n % 2 == 0 {
            tokio::join!(race.put(&path, &saving), finishing())
        } else {
            let (finished, saved) = tokio::join!(finishing(), race.put(&path, &saving));
            (saved, finished)
        };
        assert_eq!(finished, 201, "{entry}");
        let poured = entry["body"]["volume_after"].as_f64().unwrap();
        match saved {
            200 => {
                saved_first += 1;
                assert!((poured - 25.0).abs() < 1e-9, "trial {n}: the save was acknowledged, the entry has {poured} L");
            }
            422 => finished_first += 1,
            status => panic!("trial {n}: {status}"),
        }
        assert!(race.server.get(&path).await["under_way"].is_null(), "trial {n}: a change that never ends");
    }
    assert_eq!(race.threads().await.len(), trials());
    assert!(finished_first + saved_first == trials() && saved_first > 0 && finished_first > 0);
    race.kept_is_folded().await;
}

#[actix_web::test]
async fn a_saved_draft_beside_its_close() {
    let race = Race::new().await;
    let path = race.path("draft");
    let by = race.person;
    for n in 0..trials() {
        let id = Uuid::now_v7();
        let draft =
            |version: i64, note: &str| json!({ "id": id, "by": by, "version": version, "visit": { "note": note } });
        assert_eq!(race.put(&path, &draft(0, "first")).await, 200);
        let mut close = race.entry(id, json!({ "kind": "visit", "note": "first" }));
        close["closes"] = json!(1);
        let second = draft(1, "second");
        let (saved, closed) = tokio::join!(race.put(&path, &second), race.add(&close));
        let there = race.server.get(&format!("{path}?by={by}")).await["draft"].clone();
        match (saved, closed) {
            // The save came first: the close is told of it, and what was saved is still there.
            (200, 409) => {
                assert_eq!((&there["visit"]["note"], &there["version"]), (&json!("second"), &json!(2)), "trial {n}");
                let mut again = race.entry(id, json!({ "kind": "visit", "note": "second" }));
                again["closes"] = json!(2);
                assert_eq!(race.add(&again).await, 201);
            }
            (422, 201) => assert!(there.is_null(), "trial {n}: a closed visit is open again"),
            other => panic!("trial {n}: {other:?}"),
        }
    }
    assert_eq!(race.threads().await.len(), trials());
    race.kept_is_folded().await;
}

#[actix_web::test]
async fn two_amendments_of_one_entry() {
    let race = Race::new().await;
    for n in 0..trials() {
        let first = Uuid::now_v7();
        assert_eq!(race.add(&race.entry(first, json!({ "kind": "visit", "note": format!("{n}") }))).await, 201);
        let amend = |note: &str| {
            let mut entry = race.entry(Uuid::now_v7(), json!({ "kind": "visit", "note": note }));
            entry["amends"] = json!(first);
            entry["reason"] = json!("misread");
            entry
        };
        let (one, two) = (amend("one"), amend("two"));
        let mut answers = [0, 0];
        (answers[0], answers[1]) = tokio::join!(race.add(&one), race.add(&two));
        answers.sort_unstable();
        assert_eq!(answers, [201, 409], "trial {n}: one is kept, the other is told of it");
    }
    let threads = race.threads().await;
    assert_eq!(threads.len(), trials());
    for thread in &threads {
        assert_eq!(thread["earlier"].as_array().unwrap().len(), 1, "{thread}");
    }
    race.kept_is_folded().await;
}

#[actix_web::test]
async fn one_id_from_fifty_clients_is_one_entry() {
    let race = Race::new().await;
    for n in 0..trials() {
        let entry = race.entry(Uuid::now_v7(), json!({ "kind": "visit", "all_fine": true }));
        let sent: Vec<_> =
            (0..50).map(|_| actix_web::rt::spawn(race.server.posting(&race.path("entries"), &entry).send())).collect();
        let mut made = 0;
        for answer in sent {
            let status = answer.await.unwrap().unwrap().status().as_u16();
            assert!(status == 200 || status == 201, "{status}");
            made += usize::from(status == 201);
        }
        assert_eq!(made, 1, "trial {n}");
    }
    assert_eq!(race.threads().await.len(), trials());
    race.kept_is_folded().await;
}

#[actix_web::test]
async fn somebody_put_away_in_the_middle_of_a_change_records_nothing_more_and_another_ends_it() {
    let race = Race::new().await;
    let (path, place) = (race.path("change"), race.server.get("/api/places").await[0]["card"]["id"].clone());
    let other = Uuid::now_v7();
    let card =
        json!({ "id": other, "parent": place, "body": { "card": "person", "name": "Ansa", "role": "caretaker" } });
    assert_eq!(race.server.told("/api/cards", &card).await.0, 201);
    let id = Uuid::now_v7();
    let save = |by: Uuid, version: i64| json!({ "id": id, "by": by, "version": version, "run": { "extent": "full", "volume_after": 20.0 + version as f64 } });
    assert_eq!(race.put(&path, &save(race.person, 0)).await, 200);
    let away = json!({ "by": other, "version": 1, "archived": true });
    assert_eq!(race.put(&format!("/api/cards/{}", race.person), &away).await, 200);
    for (status, problem) in [
        race.server
            .told(
                &path.replace("/change", "/entries"),
                &race.entry(Uuid::now_v7(), json!({ "kind": "visit", "all_fine": true })),
            )
            .await,
        {
            let refused = race.server.put(&path, &save(race.person, 1)).await;
            (refused.status().as_u16(), refused.json().await.unwrap())
        },
    ] {
        assert_eq!((status, &problem["fields"][0]["code"]), (422, &json!("person_put_away")), "{problem}");
    }
    assert_eq!(race.put(&path, &save(other, 1)).await, 200, "whoever is there takes it up");
    assert_eq!(race.server.get(&path).await["under_way"]["version"], 2);
}

#[actix_web::test]
async fn a_port_that_the_system_does_not_have_is_refused_on_every_road() {
    let race = Race::new().await;
    for body in [
        json!({ "kind": "treatment", "what": "plants_removed", "ports": "399" }),
        json!({ "kind": "visit", "plants": { "signs": ["wilts_with_water"], "ports": "399" } }),
    ] {
        let (status, problem) = race.server.told(&race.path("entries"), &race.entry(Uuid::now_v7(), body)).await;
        assert_eq!(status, 422, "{problem}");
        assert!(problem["detail"].as_str().unwrap().contains("399"), "{problem}");
    }
    assert!(race.threads().await.is_empty());
}
