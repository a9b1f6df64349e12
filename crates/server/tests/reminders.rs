//! Reminders by mail, through the mailbox that stands in for a mail server.

use crate::common::Running;
use serde_json::{Value, json};
use std::time::{Duration, Instant};

fn wish(address: &str, digest: Option<&str>, urgent: bool) -> Value {
    json!({ "address": address, "digest": digest, "urgent": urgent, "quiet_from": "21:00:00", "quiet_to": "06:00:00" })
}

async fn put(app: &Running, person: &str, wish: &Value) -> (u16, Value) {
    let request = app.client.put(format!("{}/api/reminders", app.base)).header("mopsel-person", person).json(wish);
    let answer = request.send().await.unwrap();
    (answer.status().as_u16(), answer.json().await.unwrap_or_default())
}

/// The letters, once there are so many.
async fn letters(app: &Running, at_least: usize) -> Vec<Value> {
    let begun = Instant::now();
    loop {
        let found = app.get("/api/mailbox").await.as_array().unwrap().clone();
        if found.len() >= at_least || begun.elapsed() > Duration::from_secs(20) {
            assert!(found.len() >= at_least, "{found:?}");
            return found;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
}

/// A leak is found: people are in danger.
async fn leak(app: &Running, system: &str, person: &str) {
    let found = json!({ "id": uuid::Uuid::now_v7(), "by": person, "body": { "kind": "visit", "running": { "dry_floor": false } } });
    let (status, said) = app.told(&format!("/api/systems/{system}/entries"), &found).await;
    assert_eq!(status, 201, "{said}");
}

/// The secret in a letter that asks.
fn token(letter: &Value) -> String {
    let text = letter["text"].as_str().unwrap();
    text.split("/remind#").nth(1).unwrap().split_whitespace().next().unwrap().to_owned()
}

#[actix_web::test]
async fn nothing_is_sent_to_an_address_that_has_not_said_yes_and_then_each_thing_once() {
    let app = Running::demo();
    let system = app.system("Loft rails").await;
    let wren = app.person(&system, "Wren").await;
    let (status, said) = put(&app, &wren, &wish("wren@garden.example", Some("08:00:00"), true)).await;
    assert_eq!((status, said["confirmed"].as_bool(), said["stand_in"].as_bool()), (200, Some(false), Some(true)));
    let asked = letters(&app, 1).await;
    assert_eq!((asked.len(), asked[0]["to"].as_str()), (1, Some("wren@garden.example")));
    assert_eq!(app.post("/api/reminders/yes", &json!({ "token": "made up" })).await.status(), 404);
    assert_eq!(app.post("/api/reminders/yes", &json!({ "token": token(&asked[0]) })).await.status(), 204);

    // It is half past eight: the list of the day comes, with what cannot wait before it, and links that open the systems.
    let told = letters(&app, 2).await[0].clone();
    let text = told["text"].as_str().unwrap();
    assert!(text.contains("/system/") && text.contains("/people"), "{text}");
    let round: Vec<Value> = app.get("/api/round").await["tasks"].as_array().unwrap().clone();
    assert!(!round.is_empty());
    // What is changed in the wish sends nothing once more, and needs no second yes.
    let (_, said) = put(&app, &wren, &wish("wren@garden.example", Some("08:15:00"), true)).await;
    assert_eq!(said["confirmed"], true);
    // The next letter is about what is new, and nothing else.
    leak(&app, &system, &wren).await;
    put(&app, &wren, &wish("wren@garden.example", Some("08:20:00"), true)).await;
    let all = letters(&app, 3).await;
    assert_eq!((all.len(), all[0]["subject"].as_str()), (3, Some("Loft rails: See to it: a leak")), "{all:?}");
    assert!(!all[0]["text"].as_str().unwrap().contains("What is due today"), "{all:?}");
}

#[actix_web::test]
async fn what_was_told_before_the_program_was_killed_is_not_told_after() {
    let app = Running::demo();
    let system = app.system("Loft rails").await;
    let wren = app.person(&system, "Wren").await;
    put(&app, &wren, &wish("wren@garden.example", Some("08:00:00"), true)).await;
    let yes = token(&letters(&app, 1).await[0]);
    app.post("/api/reminders/yes", &json!({ "token": yes })).await;
    letters(&app, 2).await;
    let app = app.killed_and_going_on();
    // A new wish wakes the sender: what it told was told, and what is new is not.
    leak(&app, &system, &wren).await;
    put(&app, &wren, &wish("wren@garden.example", Some("08:10:00"), true)).await;
    let all = letters(&app, 1).await;
    assert_eq!((all.len(), all[0]["subject"].as_str()), (1, Some("Loft rails: See to it: a leak")), "{all:?}");
}

#[actix_web::test]
async fn children_and_addresses_that_cannot_be_are_refused_and_an_end_is_an_end() {
    let app = Running::demo();
    let system = app.system("Loft rails").await;
    let wren = app.person(&system, "Wren").await;
    let (status, said) = put(&app, &wren, &wish("wren@garden.example\r\nBcc: all@town.example", None, true)).await;
    assert_eq!((status, said["fields"][0]["code"].as_str()), (422, Some("mail_address")));
    let mut late = wish("wren@garden.example", None, true);
    late["quiet_from"] = json!("25:00");
    assert_eq!(put(&app, &wren, &late).await.0, 422);
    put(&app, &wren, &wish("wren@garden.example", Some("08:00:00"), false)).await;
    assert_eq!(app.delete("/api/reminders", &wren).await.status(), 204);
    let yes = token(&letters(&app, 1).await[0]);
    assert_eq!(app.post("/api/reminders/yes", &json!({ "token": yes })).await.status(), 404, "it was ended before");
    let places = app.get("/api/places").await;
    let people = places.as_array().unwrap().iter().flat_map(|place| place["people"].as_array().unwrap().clone());
    let child = people.into_iter().find(|one| one["body"]["role"] == "child").unwrap();
    let (status, _) = put(&app, child["id"].as_str().unwrap(), &wish("kid@school.example", None, true)).await;
    assert_eq!(status, 422);
}

#[actix_web::test]
async fn without_a_mail_server_there_is_no_mailbox_and_no_wish() {
    let app = Running::empty();
    assert_eq!(app.asked("/api/mailbox").await.0, 404);
    let (person, _) = app.first_system().await;
    let (status, said) = put(&app, &person.to_string(), &wish("wren@garden.example", None, true)).await;
    assert_eq!((status, said["fields"][0]["code"].as_str()), (422, Some("no_mail")));
}
