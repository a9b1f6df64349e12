//! What cannot be is refused as the rest is: at its field, with what was found, what is allowed and how to mend
//! it, in people's language; and nothing of it is stored.

use crate::common::Running;
use serde_json::{Value, json};
use uuid::Uuid;

/// Words that a parser says and a person does not.
const PARSER: [&str; 9] = [
    "variant",
    "invalid type",
    "invalid value",
    "a sequence",
    "internally tagged",
    "EOF",
    "missing field",
    "struct ",
    "UUID parsing",
];

fn plain(answer: &Value) {
    let said = answer.to_string();
    for word in PARSER {
        assert!(!said.contains(word), "“{word}” is a parser's word: {said}");
    }
}

#[actix_web::test]
async fn nonsense_in_an_entry_is_refused_at_its_field_and_nothing_is_stored() {
    let server = Running::empty();
    let (person, system) = server.first_system().await;
    let visit = |more: Value| {
        let mut body = json!({ "kind": "visit" });
        body.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        json!({ "id": Uuid::now_v7(), "by": person, "body": body })
    };
    let at = |when: &str| {
        let mut entry = visit(json!({ "all_fine": true }));
        entry["at"] = json!(when);
        entry
    };
    let cases = [
        ("a note that nobody sees", visit(json!({ "note": "\u{200b}\u{2060}" })), "body"),
        ("an empty note", visit(json!({ "note": "  " })), "body"),
        ("a check twice", visit(json!({ "done": ["wipe_down", "wipe_down"] })), "body.done"),
        ("a verdict on nothing", visit(json!({ "overruled": { "weather": "hot" } })), "body.overruled"),
        ("a key that no level has", visit(json!({ "level": { "by": "volume", "litres": 9, "hue": 1 } })), "body.level"),
        ("a key that no pH has", visit(json!({ "ph": { "by": "meter", "value": 6, "x": 1 } })), "body.ph"),
        (
            "a key that no top-off has",
            visit(json!({ "top_off": { "water": "plain", "litres": 1, "x": 2 } })),
            "body.top_off.x",
        ),
        (
            "an EC of plain water",
            visit(json!({ "top_off": { "water": "plain", "litres": 1, "ec": 2 } })),
            "body.top_off.ec",
        ),
        ("a word for a number", visit(json!({ "temperature": "warm" })), "body.temperature"),
        ("a word for a list", visit(json!({ "done": "stone" })), "body.done"),
        ("a word that is none of those", visit(json!({ "glass": { "clarity": "purple" } })), "body.glass.clarity"),
        ("a day without end", at("9999-12-30T22:00:00Z"), "at"),
        ("a day before all days", at("-009999-01-01T00:00:00Z"), "at"),
        ("a day that is a word", at("yesterday"), "at"),
    ];
    for (what, entry, field) in cases {
        let (status, answer) = server.told(&format!("/api/systems/{system}/entries"), &entry).await;
        assert_eq!((status, answer["fields"][0]["field"].as_str()), (422, Some(field)), "{what}: {answer}");
        plain(&answer);
    }
    let log = server.get(&format!("/api/systems/{system}/log")).await;
    assert!(log["threads"].as_array().unwrap().is_empty(), "nothing of it is stored");
}

#[actix_web::test]
async fn nonsense_on_a_card_a_timer_a_plan_and_a_change_is_refused_too() {
    let server = Running::empty();
    let (person, system) = server.first_system().await;
    let place = server.get("/api/places").await[0]["card"]["id"].clone();
    let card = |parent: &Value, body: Value| json!({ "id": Uuid::now_v7(), "parent": parent, "body": body });
    let named = |name: &str| json!({ "card": "person", "name": name, "role": "helper" });
    let planted = |day: &str| json!({ "card": "planting", "crop": "Kale", "group": "leafy", "ports": "1", "stage": "seedling", "planted_on": day });
    let here = json!(system);
    let timer =
        |minutes: Value| json!({ "id": Uuid::now_v7(), "what": "remeasure", "label": "Measure", "minutes": minutes });
    let change = format!("/api/systems/{system}/change/guide");
    let marked = |at: &str| json!({ "by": person, "run": { "extent": "full", "parts": { "steps": { "drain": { "at": at } } } } });
    let cases = [
        ("/api/cards", card(&place, named("\u{200b}\u{2060}")), "body.name"),
        ("/api/cards", card(&place, named("\u{202e}nosrep")), "body.name"),
        ("/api/cards", card(&here, planted("9999-12-31")), "body.planted_on"),
        ("/api/cards", card(&here, planted("2027-02-30")), "body.planted_on"),
        ("/api/timers", timer(json!(0)), "minutes"),
        ("/api/timers", timer(json!(-5)), "minutes"),
        ("/api/timers", timer(json!(2.5)), "minutes"),
        ("/api/timers", timer(json!(1441)), "minutes"),
        ("/api/bench/plan", json!({ "ask": { "purpose": { "for": "jug", "litres": 5, "zzz": 1 } } }), "ask.purpose"),
        ("/api/bench/plan", json!({ "ask": { "purpose": "x" } }), "ask.purpose"),
        ("/api/shape/preview", json!({ "form": "cone" }), "form"),
        (change.as_str(), marked("9999-12-30T00:00:00Z"), "run.parts.steps.drain.at"),
    ];
    for (path, body, field) in cases {
        let (status, answer) = server.told(path, &body).await;
        assert_eq!((status, answer["fields"][0]["field"].as_str()), (422, Some(field)), "{body}: {answer}");
        plain(&answer);
    }
    let (status, answer) = server.told("/api/cards", &json!([1])).await;
    assert_eq!((status, &answer["fields"][0]["found"]), (422, &json!("found a list")));
}

#[actix_web::test]
async fn a_change_of_a_system_that_was_put_away_does_not_end_in_its_log() {
    let server = Running::empty();
    let (person, system) = server.first_system().await;
    let path = format!("/api/systems/{system}/change");
    let id = Uuid::now_v7();
    let run = json!({ "id": id, "by": person, "version": 0, "run": { "extent": "full", "volume_after": 20.0 } });
    assert_eq!(server.put(&path, &run).await.status(), 200);
    let away = json!({ "by": person, "version": 1, "archived": true });
    assert_eq!(server.put(&format!("/api/cards/{system}"), &away).await.status(), 200);
    let (status, answer) = server.told(&format!("{path}/finish"), &json!({ "id": id, "by": person })).await;
    assert_eq!((status, &answer["fields"][0]["code"]), (422, &json!("system_put_away")), "{answer}");
}

#[actix_web::test]
async fn a_day_of_no_year_is_refused_on_every_road_and_ends_no_page() {
    let server = Running::demo();
    let tower = server.system("Corner tower").await;
    let wren = server.person(&tower, "Wren").await;
    let view = server.get(&format!("/api/systems/{tower}")).await;
    let planting = &view["plantings"][0];
    for day in ["-009999-01-01", "9999-12-31", "1899-12-31", "2200-01-01"] {
        let mut body = planting["body"].clone();
        body["planted_on"] = json!(day);
        let edit = json!({ "version": planting["version"], "by": wren, "body": body });
        let refused = server.put(&format!("/api/cards/{}", planting["id"].as_str().unwrap()), &edit).await;
        let (status, problem) = (refused.status().as_u16(), refused.json::<Value>().await.unwrap());
        assert_eq!((status, &problem["fields"][0]["code"]), (422, &json!("day_out_of_bounds")), "{day}: {problem}");
        assert_eq!(problem["fields"][0]["field"], "body.planted_on");
        let card = json!({ "id": Uuid::now_v7(), "parent": tower, "by": wren, "body": body });
        assert_eq!(server.told("/api/cards", &card).await.0, 422);
        let moved = json!({ "kind": "put_off", "chore": { "check": { "check": "wipe_down" } }, "instead": { "how": "moved", "from": day, "to": "2027-03-10" } });
        let entry = json!({ "id": Uuid::now_v7(), "by": wren, "body": moved });
        assert_eq!(server.told(&format!("/api/systems/{tower}/entries"), &entry).await.0, 422, "{day}");
    }
    for path in ["/api/round", "/api/outing", "/api/places"] {
        server.get(path).await;
    }
    for day in ["-009999-01-01", "9999-12-31"] {
        for path in [
            "trends/T?from=D&to=D",
            "weeks/P?from=D",
            "places/P/weeks?from=D",
            "places/P/cover?from=D",
            "log?from=D&to=D",
            "compare?of=system:T&from=D&to=D",
        ] {
            let place = view["place"]["id"].as_str().unwrap();
            let path = format!("/api/{}", path.replace('T', &tower).replace('P', place).replace('D', day));
            let status = server.client.get(format!("{}{path}", server.base)).send().await.unwrap().status();
            assert!(status.as_u16() < 500, "{path}: {status}");
        }
    }
}
