//! The log over all systems, over the API.

use crate::common::Running;
use serde_json::{Value, json};
use uuid::Uuid;

fn threads(page: &Value) -> &Vec<Value> {
    page["threads"].as_array().unwrap()
}

#[actix_web::test]
async fn pages_of_the_whole_log_neither_skip_nor_repeat_and_stand_in_their_time() {
    let server = Running::demo();
    let (mut ids, mut times, mut before) = (Vec::new(), Vec::new(), String::new());
    loop {
        let page = server.get(&format!("/api/log?limit=100{before}")).await;
        for thread in threads(&page) {
            ids.push(thread["head"]["id"].as_str().unwrap().to_owned());
            times.push(thread["head"]["at"].as_str().unwrap().to_owned());
        }
        match page["next"].as_str() {
            Some(next) => before = format!("&before={next}"),
            None => break,
        }
    }
    assert!(ids.len() > 300, "{}", ids.len());
    assert!(times.windows(2).all(|pair| pair[0] >= pair[1]), "newest first");
    let count = ids.len();
    ids.sort_unstable();
    ids.dedup();
    assert_eq!(ids.len(), count);
}

#[actix_web::test]
async fn what_was_recorded_a_moment_ago_is_found_and_what_was_taken_back_is_told_so() {
    let server = Running::demo();
    let raft = server.system("Blue raft").await;
    let by = server.person(&raft, "Wren").await;
    let id = Uuid::now_v7();
    let entry = json!({ "id": id, "by": by, "body": { "kind": "visit", "note": "Kingfisher at the window" } });
    assert_eq!(server.told(&format!("/api/systems/{raft}/entries"), &entry).await.0, 201);
    let found = server.get("/api/log?words=kingfish%20window").await;
    assert_eq!(threads(&found).len(), 1, "{found}");
    assert_eq!(threads(&found)[0]["head"]["id"], json!(id));
    assert_eq!(threads(&found)[0]["system_name"], "Blue raft");
    assert_eq!(threads(&found)[0]["sorts"], json!(["note"]));
    let back =
        json!({ "id": Uuid::now_v7(), "by": by, "amends": id, "reason": "No bird", "body": { "kind": "withdrawn" } });
    assert_eq!(server.told(&format!("/api/systems/{raft}/entries"), &back).await.0, 201);
    assert!(threads(&server.get("/api/log?words=kingfisher").await).is_empty());
    let taken = server.get("/api/log?words=bird&sorts=withdrawn").await;
    assert_eq!(threads(&taken)[0]["earlier"][0]["id"], json!(id));
}

#[actix_web::test]
async fn what_cannot_be_looked_for_is_told_at_its_field() {
    let server = Running::demo();
    let long = "w".repeat(201);
    for (query, field, code) in [
        ("sorts=harvests", "sorts", "log_sort"),
        ("people=wren", "people", "log_id"),
        ("from=2027-03-09&to=2027-03-01", "to", "log_ends_first"),
        ("limit=0", "limit", "page_limit"),
        ("limit=101", "limit", "page_limit"),
        ("before=x", "before", "page_mark"),
        (&format!("words={long}"), "words", "log_words"),
    ] {
        let (status, problem) = server.asked(&format!("/api/log?{query}")).await;
        assert_eq!(status, 422, "{query}: {problem}");
        assert_eq!((&problem["fields"][0]["field"], &problem["fields"][0]["code"]), (&json!(field), &json!(code)));
    }
    for query in
        ["words=%22%28NEAR%20%2A%20-", "words=%00", "words=said%3Aroot", "places=00000000-0000-0000-0000-000000000000"]
    {
        assert_eq!(server.asked(&format!("/api/log?{query}")).await.0, 200, "{query}");
    }
    for query in ["from=yesterday", "colour=red"] {
        assert_eq!(server.asked(&format!("/api/log?{query}")).await.0, 422, "{query}");
    }
}

#[actix_web::test]
async fn days_are_those_of_the_place_that_is_asked_about() {
    let server = Running::demo();
    let raft = server.system("Blue raft").await;
    let day = server.get(&format!("/api/log?systems={raft}&from=2027-03-05&to=2027-03-05&limit=100")).await;
    assert!(!threads(&day).is_empty());
    assert!(
        threads(&day).iter().all(|thread| thread["on"] == "2027-03-05" && thread["system"] == json!(raft)),
        "{day}"
    );
}

/// What a page of the log says to somebody, in the order of its entries.
async fn lines(server: &Running, query: &str, to: &str) -> Vec<String> {
    let asked = server.client.get(format!("{}/api/log?{query}", server.base)).header("Mopsel-Person", to);
    let page: Value = asked.send().await.unwrap().json().await.unwrap();
    threads(&page).iter().map(|thread| format!("{} {}", thread["system_name"], thread["head"]["lines"])).collect()
}

#[actix_web::test]
async fn what_was_said_to_one_reader_is_not_said_to_another_nor_after_a_card_was_edited() {
    let server = Running::demo();
    let rack = server.system("Reading-room rack").await;
    let (wren, ansa) = (server.person(&rack, "Wren").await, server.person(&rack, "Ansa").await);
    let edited = async |id: &str, body: &Value, version: &Value| {
        let edit = json!({ "by": wren, "version": version, "body": body });
        let answer = server.put(&format!("/api/cards/{id}"), &edit).await;
        assert_eq!(answer.status(), 200, "{}", answer.text().await.unwrap());
    };
    let poured = format!("systems={rack}&sorts=top_off,change");
    let metric = lines(&server, &poured, &wren).await;
    assert!(metric.len() > 2 && metric.iter().any(|said| said.contains(" L")), "{metric:?}");
    // Somebody who reads gallons, right after somebody who reads litres, and back.
    let view = server.get(&format!("/api/systems/{rack}")).await;
    let card = view["people"].as_array().unwrap().iter().find(|one| one["id"] == ansa.as_str()).unwrap().clone();
    let mut body = card["body"].clone();
    body["units"] = json!("us");
    edited(&ansa, &body, &card["version"]).await;
    for _ in 0..2 {
        let gallons = lines(&server, &poured, &ansa).await;
        assert!(gallons.iter().any(|said| said.contains(" gal")) && gallons != metric, "{gallons:?}");
        assert_eq!(lines(&server, &poured, &wren).await, metric);
    }
    // They go back to litres themselves.
    body["units"] = json!("metric");
    edited(&ansa, &body, &json!(card["version"].as_i64().unwrap() + 1)).await;
    assert!(lines(&server, &poured, &ansa).await.iter().all(|said| !said.contains(" gal")));
    // The system is called something else: what was said under its old name is not said again.
    let mut named = view["card"]["body"].clone();
    named["name"] = json!("Green rack");
    edited(&rack, &named, &view["card"]["version"]).await;
    let renamed = lines(&server, &poured, &wren).await;
    assert!(renamed.iter().all(|said| said.starts_with("\"Green rack\"")), "{renamed:?}");
    assert_eq!(renamed.len(), metric.len());
    assert!(lines(&server, "words=gree%20rack", &wren).await.len() >= 30, "found by what it is called now");
}

#[actix_web::test]
async fn trends_stay_within_their_days_and_what_cannot_be_drawn_is_told() {
    let server = Running::demo();
    let row = server.system("Bucket row").await;
    let view = server.get(&format!("/api/systems/{row}/trends?from=2027-02-01&to=2027-02-20")).await;
    let trends = view["trends"].as_array().unwrap();
    assert_eq!(trends.len(), 7);
    for point in trends.iter().flat_map(|trend| trend["points"].as_array().unwrap()) {
        let at = point["at"].as_str().unwrap();
        assert!(("2027-02-01"..="2027-02-21").contains(&at), "{at}");
    }
    assert!(view["deeds"].as_array().unwrap().iter().any(|deed| deed["what"] == "change"), "{}", view["deeds"]);
    assert!(view["deeds"].as_array().unwrap().iter().all(|deed| !deed["said"].as_str().unwrap().is_empty()));
    for (query, code) in [
        ("from=2027-03-02&to=2027-03-01", "trend_days"),
        ("from=2001-01-01", "trend_days"),
        ("points=9", "trend_points"),
    ] {
        let (status, problem) = server.asked(&format!("/api/systems/{row}/trends?{query}")).await;
        assert_eq!((status, &problem["fields"][0]["code"]), (422, &json!(code)), "{query}: {problem}");
    }
    let (status, _) = server.asked(&format!("/api/systems/{}/trends", Uuid::now_v7())).await;
    assert_eq!(status, 404);
}
