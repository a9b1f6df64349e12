//! A person's calendar, read as any calendar program would.

use crate::common::Running;
use icalendar::parser::{read_calendar, unfold};
use serde_json::json;
use std::collections::BTreeMap;
use uuid::Uuid;

/// Gives a person of a system's place a calendar, or ends it; the card's id.
async fn feed(server: &Running, system: &str, name: &str, secret: Option<Uuid>) -> String {
    let by = server.person(system, "Wren").await;
    let view = server.get(&format!("/api/systems/{system}")).await;
    let card = view["people"].as_array().unwrap().iter().find(|p| p["body"]["name"] == name).unwrap().clone();
    let mut body = card["body"].clone();
    body["feed"] = json!(secret);
    let id = card["id"].as_str().unwrap().to_owned();
    let edit = json!({ "version": card["version"], "by": by, "body": body });
    let answer = server.put(&format!("/api/cards/{id}"), &edit).await;
    assert_eq!(answer.status(), 200, "{}", answer.text().await.unwrap());
    id
}

async fn read(server: &Running, secret: Uuid) -> (u16, String) {
    let answer = server.client.get(format!("{}/calendar/{secret}.ics", server.base)).send().await.unwrap();
    let kind = answer.headers().get("content-type").unwrap().to_str().unwrap().to_owned();
    let status = answer.status().as_u16();
    assert!(status != 200 || kind.starts_with("text/calendar"), "{kind}");
    (status, answer.text().await.unwrap())
}

/// The events by their UIDs: what each says.
fn events(text: &str) -> BTreeMap<String, BTreeMap<String, String>> {
    let unfolded = unfold(text);
    let calendar = read_calendar(&unfolded).unwrap_or_else(|error| panic!("{error}\n{text}"));
    let said = |event: &icalendar::parser::Component<'_>| -> BTreeMap<String, String> {
        event.properties.iter().map(|p| (p.name.to_string(), p.val.to_string())).collect()
    };
    let all: Vec<_> = calendar.components.iter().filter(|c| c.name == "VEVENT").map(said).collect();
    let count = all.len();
    let by_id: BTreeMap<_, _> = all.into_iter().map(|event| (event["UID"].clone(), event)).collect();
    assert_eq!(by_id.len(), count, "each UID once");
    by_id
}

#[actix_web::test]
async fn what_is_due_stands_in_it_as_whole_days_and_moves_with_what_is_done() {
    let server = Running::demo();
    let rails = server.system("Loft rails").await;
    let secret = Uuid::new_v4();
    feed(&server, &rails, "Wren", Some(secret)).await;
    let (status, text) = read(&server, secret).await;
    assert_eq!(status, 200);
    assert!(text.starts_with("BEGIN:VCALENDAR\r\n") && text.ends_with("END:VCALENDAR\r\n"), "{text}");
    assert!(text.lines().all(|line| line.len() <= 75), "folded at 75 octets");
    // Survives a round trip through another program's parser.
    let before = events(&text);
    let again = read_calendar(&unfold(&text)).unwrap().to_string();
    assert_eq!(events(&again), before);
    let uid = format!("{rails}.filters@mopsel");
    assert_eq!(
        (before[&uid]["SUMMARY"].as_str(), before[&uid]["DTSTART"].as_str()),
        ("Loft rails: Rinse the mesh filters", "20270309")
    );
    assert_eq!(before[&uid]["DTEND"], "20270310");
    assert!(text.contains("DTSTART;VALUE=DATE:20270309"), "a whole day, in no zone");
    // The same calendar, asked for again, is the same.
    assert_eq!(events(&read(&server, secret).await.1), before);
    let by = server.person(&rails, "Wren").await;
    let entry = json!({ "id": Uuid::now_v7(), "by": by, "body": { "kind": "visit", "done": ["filters"] } });
    assert_eq!(server.told(&format!("/api/systems/{rails}/entries"), &entry).await.0, 201);
    let after = events(&read(&server, secret).await.1);
    assert_eq!(after[&uid]["DTSTART"], "20270310", "one day later, under the same UID");
    let number = |events: &BTreeMap<String, BTreeMap<String, String>>| events[&uid]["SEQUENCE"].parse::<i64>().unwrap();
    assert!(number(&after) > number(&before), "a newer one");
    // A closure moves it without an entry, and an entry that is withdrawn makes nothing older.
    let view = server.get(&format!("/api/systems/{rails}")).await;
    let mut body = view["place_body"].clone();
    body["card"] = json!("place");
    body["closures"] = json!([{ "from": "2027-03-10", "to": "2027-03-12" }]);
    let edit = json!({ "version": view["place"]["version"], "by": by, "body": body });
    let card = format!("/api/cards/{}", view["place"]["id"].as_str().unwrap());
    assert_eq!(server.put(&card, &edit).await.status(), 200);
    let closed = events(&read(&server, secret).await.1);
    assert!(closed[&uid]["DTSTART"] != after[&uid]["DTSTART"] && number(&closed) > number(&after), "{closed:?}");
    let back = json!({ "id": Uuid::now_v7(), "by": by, "amends": entry["id"], "reason": "Not rinsed", "body": { "kind": "withdrawn" } });
    assert_eq!(server.told(&format!("/api/systems/{rails}/entries"), &back).await.0, 201);
    assert!(number(&events(&read(&server, secret).await.1)) > number(&closed));
}

#[actix_web::test]
async fn another_secret_ends_the_address_and_a_child_is_told_of_no_adults_work() {
    let server = Running::demo();
    let tower = server.system("Corner tower").await;
    let (old, new) = (Uuid::new_v4(), Uuid::new_v4());
    feed(&server, &tower, "J. T.", Some(old)).await;
    let child = events(&read(&server, old).await.1);
    assert!(
        !child.is_empty() && !child.keys().any(|uid| uid.contains(".change@") || uid.contains(".ph@")),
        "{child:?}"
    );
    feed(&server, &tower, "J. T.", Some(new)).await;
    assert_eq!((read(&server, old).await.0, read(&server, new).await.0), (404, 200));
    feed(&server, &tower, "J. T.", None).await;
    assert_eq!(read(&server, new).await.0, 404);
    assert_eq!(read(&server, Uuid::nil()).await.0, 404);
    let odd = server.client.get(format!("{}/calendar/%2e%2e.ics", server.base)).send().await.unwrap();
    assert_eq!(odd.status(), 404);
}
