//! What was edited of the set-up is told, by whom, and taken back.

use crate::common::Running;
use serde_json::{Value, json};

async fn read(app: &Running, path: &str) -> Value {
    app.get(path).await
}

/// A system of the demo, by its name, with its place and somebody there.
async fn system(app: &Running, name: &str) -> (Value, String, String) {
    let places = read(app, "/api/places").await;
    for place in places.as_array().unwrap() {
        let found = place["systems"].as_array().unwrap().iter().find(|system| system["body"]["name"] == name);
        if let Some(found) = found {
            let person = place["people"].as_array().unwrap().iter().find(|one| one["body"]["role"] == "caretaker");
            let person = person.unwrap()["id"].as_str().unwrap().to_owned();
            return (found.clone(), place["card"]["id"].as_str().unwrap().to_owned(), person);
        }
    }
    panic!("{name} is in the demo");
}

/// Puts an edit, as somebody of the place.
async fn put(app: &Running, card: &Value, person: &str, edit: Value) -> Value {
    let path = format!("{}/api/cards/{}", app.base, card["id"].as_str().unwrap());
    let answer = app.client.put(path).header("mopsel-person", person).json(&edit).send().await.unwrap();
    let (status, said) = (answer.status(), answer.json::<Value>().await.unwrap());
    assert_eq!(status, 200, "{said}");
    said
}

async fn newest(app: &Running, id: &str) -> Value {
    read(app, &format!("/api/cards/{id}/edits")).await["edits"][0].clone()
}

#[actix_web::test]
async fn an_edit_is_told_with_before_and_after_and_is_taken_back_without_what_came_later() {
    let app = Running::demo();
    let (card, place, wren) = system(&app, "Loft rails").await;
    let id = card["id"].as_str().unwrap().to_owned();
    let mut body = card["body"].clone();
    let was = body["change_days"].clone();
    body["change_days"] = json!(21);
    let first = put(&app, &card, &wren, json!({ "version": card["version"], "body": body })).await;
    body["name"] = json!("Loft rails, north");
    let second = put(&app, &card, &wren, json!({ "version": first["version"], "body": body })).await;

    let edits = read(&app, &format!("/api/cards/{id}/edits")).await["edits"].clone();
    let told = &edits[1];
    assert_eq!(told["fields"][0]["name"], "Days between changes");
    assert_eq!(told["fields"][0]["after"], "21 days");
    assert!(told["by_name"].is_string() && told["says"] == "Changed" && told["name"] == "Loft rails, north", "{told}");
    // The same stands in the edits of its place.
    assert_eq!(newest(&app, &place).await["version"], second["version"]);

    // Only the days go back; the name that was given later stays.
    let undo = told["undo"].clone();
    let third = put(&app, &card, &wren, undo).await;
    assert_eq!(third["body"]["change_days"], was);
    assert_eq!(third["body"]["name"], "Loft rails, north");
    // What was edited once more since has no way back of its own.
    let edits = read(&app, &format!("/api/cards/{id}/edits")).await["edits"].clone();
    assert!(edits[2]["undo"].is_null() && edits[0]["undo"].is_object(), "{edits}");
}

#[actix_web::test]
async fn what_was_set_up_goes_back_into_the_archive_and_nobody_reads_a_place_that_is_not_there() {
    let app = Running::demo();
    let (_, place, wren) = system(&app, "Loft rails").await;
    let id = uuid::Uuid::now_v7();
    let meter = json!({ "card": "meter", "name": "Pen", "scale": "ms_cm", "compensated": true });
    let made = json!({ "id": id, "parent": place, "body": meter });
    let answer = app.client.post(format!("{}/api/cards", app.base)).header("mopsel-person", &wren).json(&made);
    let card: Value = answer.send().await.unwrap().json().await.unwrap();
    let told = newest(&app, &place).await;
    assert_eq!((told["says"].as_str(), told["undo"]["archived"].as_bool()), (Some("Set up"), Some(true)));
    let after = put(&app, &card, &wren, told["undo"].clone()).await;
    assert_eq!(after["archived"], true);
    assert_eq!(newest(&app, &place).await["says"], "Archived");
    assert_eq!(app.asked(&format!("/api/cards/{}/edits", uuid::Uuid::now_v7())).await.0, 404);
}

#[actix_web::test]
async fn what_an_entry_turned_is_told_and_is_taken_back_in_the_log() {
    let app = Running::demo();
    let system = app.system("Loft rails").await;
    let wren = app.person(&system, "Wren").await;
    let view = read(&app, &format!("/api/systems/{system}")).await;
    let planting = view["plantings"].as_array().unwrap().iter().find(|one| one["archived"] == false).unwrap().clone();
    let (id, crop) = (planting["id"].as_str().unwrap(), planting["body"]["crop"].as_str().unwrap());
    let harvest = json!({ "planting": id, "crop": crop, "grams": 200, "whole": true });
    let body = json!({ "kind": "visit", "harvests": [harvest] });
    let entry = json!({ "id": uuid::Uuid::now_v7(), "by": wren, "body": body });
    let (status, said) = app.told(&format!("/api/systems/{system}/entries"), &entry).await;
    assert_eq!(status, 201, "{said}");
    let told = newest(&app, &system).await;
    assert_eq!((told["card"].as_str(), told["says"].as_str()), (Some(id), Some("Changed by an entry in the log")));
    assert!(told["undo"].is_null(), "the harvest would stay, and the plant with it: {told}");
}

#[actix_web::test]
async fn the_whole_demo_is_told_page_by_page() {
    let app = Running::demo();
    for place in read(&app, "/api/places").await.as_array().unwrap() {
        let id = place["card"]["id"].as_str().unwrap();
        let (mut skip, mut told) = (Some(0), 0);
        while let Some(from) = skip {
            let page = read(&app, &format!("/api/cards/{id}/edits?skip={from}")).await;
            told += page["edits"].as_array().unwrap().len();
            skip = page["next"].as_u64();
        }
        let hangs = |what: &str| place[what].as_array().unwrap().len();
        assert!(told > hangs("people") + hangs("meters") + hangs("systems"), "{told}");
    }
}
