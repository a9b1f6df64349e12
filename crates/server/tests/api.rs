//! The API as a client meets it: what it accepts, what it refuses, and what it keeps.

use crate::common::{Running, tub};
use serde_json::{Value, json};
use uuid::Uuid;

fn field(problem: &Value) -> &str {
    problem["fields"][0]["field"].as_str().unwrap_or("")
}

#[actix_web::test]
async fn an_empty_file_serves_an_empty_round_and_takes_the_first_system() {
    let server = Running::empty();
    assert_eq!(server.get("/api/round").await["systems"], json!([]));
    let (person, system) = server.first_system().await;
    let round = server.get("/api/round").await;
    assert_eq!(round["systems"][0]["name"], "Window crate");
    assert_eq!(round["systems"][0]["pressing"]["standing"], "today", "the first level and readings are wanted at once");
    let entry = json!({ "id": Uuid::now_v7(), "by": person, "body": { "kind": "visit", "level": { "by": "height", "height_mm": 100 }, "ph": { "by": "meter", "value": 6.0 } } });
    assert_eq!(server.told(&format!("/api/systems/{system}/entries"), &entry).await.0, 201);
    let view = server.get(&format!("/api/systems/{system}")).await;
    assert_eq!(view["section"]["litres"], 18.72);
    let level = view["tasks"].as_array().unwrap().iter().find(|t| t["code"] == "level").unwrap();
    assert!(level["days_late"].as_i64().unwrap() < 0, "the next date has moved: {level}");
}

#[actix_web::test]
async fn what_cannot_be_is_refused_at_its_field_and_nothing_is_stored() {
    let server = Running::empty();
    let (person, system) = server.first_system().await;
    let path = format!("/api/systems/{system}/entries");
    let visit = |body: Value| {
        let mut body = body;
        body["kind"] = json!("visit");
        json!({ "id": Uuid::now_v7(), "by": person, "body": body })
    };
    let with = |extra: Value| {
        let mut entry = visit(json!({ "all_fine": true }));
        for (key, value) in extra.as_object().unwrap() {
            entry[key] = value.clone();
        }
        entry
    };
    let cases = [
        (visit(json!({ "level": { "by": "height", "height_mm": 260 } })), "body.level.height_mm"),
        (visit(json!({ "level": { "by": "height", "height_mm": -5 } })), "body.level"),
        (visit(json!({ "level": { "by": "volume", "litres": 1e9 } })), "body.level"),
        (visit(json!({ "level": { "by": "gallons", "gallons": 4 } })), "body.level.by"),
        (visit(json!({ "ph": { "by": "meter", "value": 14.6 } })), "body.ph"),
        (visit(json!({ "ec": { "value": 25, "scale": "ms_cm" } })), "body.ec"),
        (visit(json!({ "ec": { "value": -1, "scale": "ms_cm" } })), "body.ec"),
        (visit(json!({ "ec": { "value": 800, "scale": "ppm" } })), "body.ec.scale"),
        (visit(json!({ "ec": { "value": 800 } })), "body.ec"),
        (visit(json!({ "temperature": 200 })), "body.temperature"),
        (visit(json!({ "temperature": "warm" })), "body.temperature"),
        (visit(json!({ "note": "x".repeat(3000) })), "body.note"),
        (visit(json!({ "top_off": { "litres": 0, "water": "plain" } })), "body.top_off.litres"),
        (visit(json!({ "done": ["stone"] })), "body.done"),
        (visit(json!({})), "body"),
        (visit(json!({ "colour": "red" })), "body.colour"),
        (with(json!({ "at": "2126-01-01T00:00:00Z" })), "at"),
        (with(json!({ "at": "2025-06-01T00:00:00Z" })), "at"),
        (with(json!({ "at": "yesterday" })), "at"),
        (with(json!({ "by": Uuid::now_v7() })), "actor"),
        (with(json!({ "amends": Uuid::now_v7() })), "reason"),
        (with(json!({ "body": { "kind": "party" } })), "body.kind"),
        (with(json!({ "body": { "kind": "withdrawn" } })), "amends"),
    ];
    for (entry, at) in cases {
        let (status, problem) = server.told(&path, &entry).await;
        assert_eq!((status, field(&problem)), (422, at), "{entry} gave {problem}");
        for part in ["found", "allowed", "mend"] {
            assert!(!problem["fields"][0][part].as_str().unwrap().is_empty(), "{problem}");
        }
    }
    assert_eq!(server.get(&format!("/api/systems/{system}/log")).await["threads"], json!([]));
}

#[actix_web::test]
async fn bodies_that_are_no_single_small_json_object_are_refused() {
    let server = Running::empty();
    let send = |body: Vec<u8>, kind: &'static str| {
        let request = server.client.post(format!("{}/api/cards", server.base)).header("content-type", kind).body(body);
        async move {
            let response = request.send().await.unwrap();
            assert_eq!(response.headers()["content-type"], "application/problem+json");
            (response.status().as_u16(), response.json::<Value>().await.unwrap()["detail"].as_str().unwrap().to_owned())
        }
    };
    assert_eq!(send(b"{}".to_vec(), "text/plain").await.0, 415);
    assert_eq!(send(b"{\"id\":".to_vec(), "application/json").await.0, 400);
    assert_eq!(send(b"name=Blue+raft".to_vec(), "application/x-www-form-urlencoded").await.0, 415);
    let (status, detail) = send(vec![b'['; 1_000_000], "application/json").await;
    assert!(status == 413 && detail.contains("64 KB"), "{detail}");
    let many: Vec<Value> = (0..10_000).map(|_| json!({ "id": Uuid::now_v7(), "body": tub() })).collect();
    assert_eq!(send(serde_json::to_vec(&many).unwrap(), "application/json").await.0, 413);
    assert_eq!(send(serde_json::to_vec(&many[..20]).unwrap(), "application/json").await.0, 422);
    assert_eq!(server.get("/api/places").await, json!([]));
}

#[actix_web::test]
async fn cards_are_refused_at_their_field() {
    let server = Running::empty();
    let (_, system) = server.first_system().await;
    let place = server.get("/api/places").await[0]["card"]["id"].clone();
    let changed = |path: &str, value: Value| {
        let mut body = tub();
        let mut at = &mut body;
        for part in path.split('.') {
            at = &mut at[part];
        }
        *at = value;
        json!({ "id": Uuid::now_v7(), "parent": place, "body": body })
    };
    let person = |name: &str, role: &str| json!({ "id": Uuid::now_v7(), "parent": place, "body": { "card": "person", "name": name, "role": role } });
    let home = |zone: &str, days: Value| json!({ "id": Uuid::now_v7(), "body": { "card": "place", "name": "Hall", "zone": zone, "open_days": days } });
    let cases = [
        (changed("reservoir.working", json!(90)), "body.reservoir.working"),
        (changed("reservoir.minimum", json!(-3)), "body.reservoir.minimum"),
        (changed("ports", json!(0)), "body.ports"),
        (changed("refill", json!("no_limit")), "body.refill"),
        (changed("kind", json!("aquarium")), "body.kind"),
        (changed("since", json!("2126-01-01")), "body.since"),
        (changed("meter", json!(Uuid::now_v7())), "body.meter"),
        (changed("name", json!("")), "body.name"),
        (changed("change_days", json!(0)), "body.change_days"),
        (person("Margaret Kettle", "child"), "body.name"),
        (home("Middle/Earth", json!(["monday"])), "body.zone"),
        (home("Europe/London", json!([])), "body.open_days"),
        (json!({ "id": Uuid::now_v7(), "parent": Uuid::now_v7(), "body": tub() }), "parent"),
        (
            json!({ "id": Uuid::now_v7(), "parent": system, "body": { "card": "planting", "crop": "Mizuna", "group": "leafy", "ports": "1-9", "stage": "seedling", "planted_on": "2026-03-01" } }),
            "body.ports",
        ),
    ];
    for (card, at) in cases {
        let (status, problem) = server.told("/api/cards", &card).await;
        assert_eq!((status, field(&problem)), (422, at), "{card} gave {problem}");
    }
    let html = person("<img src=x onerror=alert(1)>", "helper");
    assert_eq!(
        server.told("/api/cards", &html).await.0,
        201,
        "markup in a name is text, and is only ever shown as text"
    );
}

#[actix_web::test]
async fn unknown_addresses_and_ids_are_problems_not_pages() {
    let server = Running::empty();
    for path in ["/api/systems/nothing", "/api/nowhere", &format!("/api/systems/{}", Uuid::now_v7())] {
        let response = server.client.get(format!("{}{path}", server.base)).send().await.unwrap();
        assert_eq!(
            (response.status().as_u16(), response.headers()["content-type"].to_str().unwrap()),
            (404, "application/problem+json"),
            "{path}"
        );
    }
    let odd = server
        .client
        .get(format!("{}/api/systems/{}/log?limit=many", server.base, Uuid::now_v7()))
        .send()
        .await
        .unwrap();
    assert_eq!(odd.headers()["content-type"], "application/problem+json");
}

#[actix_web::test]
async fn it_answers_its_own_machine_only_and_sends_a_strict_policy() {
    let server = Running::empty();
    let get = |headers: Vec<(&'static str, String)>| {
        let request = headers
            .into_iter()
            .fold(server.client.get(format!("{}/api/round", server.base)), |r, (k, v)| r.header(k, v));
        async move { request.send().await.unwrap() }
    };
    assert_eq!(get(vec![("host", "evil.example".into())]).await.status(), 403);
    assert_eq!(get(vec![("origin", "http://evil.example".into())]).await.status(), 403);
    assert_eq!(get(vec![("origin", "null".into())]).await.status(), 403);
    let own = get(vec![("origin", server.base.clone())]).await;
    assert_eq!(own.status(), 200);
    let policy = own.headers()["content-security-policy"].to_str().unwrap();
    assert!(
        policy.contains("default-src 'none'") && policy.contains("script-src 'self'") && !policy.contains("unsafe"),
        "{policy}"
    );
}

#[actix_web::test]
async fn two_people_do_not_overwrite_each_other() {
    let server = Running::empty();
    let (person, system) = server.first_system().await;
    let rename = |name: &str| {
        let mut body = tub();
        body["name"] = json!(name);
        json!({ "version": 1, "body": body })
    };
    assert_eq!(server.put(&format!("/api/cards/{system}"), &rename("North crate")).await.status(), 200);
    let second = server.put(&format!("/api/cards/{system}"), &rename("South crate")).await;
    assert_eq!(second.status(), 409);
    let problem: Value = second.json().await.unwrap();
    assert_eq!(
        (&problem["current"]["body"]["name"], &problem["yours"]["name"]),
        (&json!("North crate"), &json!("South crate"))
    );

    let path = format!("/api/systems/{system}/entries");
    let original = Uuid::now_v7();
    server.told(&path, &json!({ "id": original, "by": person, "body": { "kind": "visit", "ph": { "by": "meter", "value": 7.6 } } })).await;
    let amend = |value: f64| json!({ "id": Uuid::now_v7(), "by": person, "amends": original, "reason": "misread", "body": { "kind": "visit", "ph": { "by": "meter", "value": value } } });
    assert_eq!(server.told(&path, &amend(6.7)).await.0, 201);
    let (status, problem) = server.told(&path, &amend(6.1)).await;
    assert_eq!(status, 409);
    assert_eq!(
        (&problem["current"]["body"]["ph"]["value"], &problem["yours"]["body"]["ph"]["value"]),
        (&json!(6.7), &json!(6.1))
    );
    let log = server.get(&format!("/api/systems/{system}/log")).await;
    assert_eq!(log["threads"][0]["earlier"][0]["body"]["ph"]["value"], 7.6, "the original stays in sight");
}

#[actix_web::test]
async fn a_half_done_visit_survives_a_restart_and_knows_two_devices() {
    let server = Running::empty();
    let (person, system) = server.first_system().await;
    let path = format!("/api/systems/{system}/draft");
    let draft = |version: i64, id: Uuid, ph: f64| json!({ "id": id, "by": person, "version": version, "visit": { "ph": { "by": "meter", "value": ph } } });
    let id = Uuid::now_v7();
    assert_eq!(server.put(&path, &draft(0, id, 6.2)).await.status(), 200);
    assert_eq!(server.put(&path, &draft(0, id, 6.3)).await.status(), 409);
    let server = server.killed_and_restarted();
    let kept = server.get(&format!("{path}?by={person}")).await;
    assert_eq!((&kept["draft"]["visit"]["ph"]["value"], &kept["draft"]["version"]), (&json!(6.2), &json!(1)));
    let entry = json!({ "id": id, "by": person, "body": { "kind": "visit", "ph": { "by": "meter", "value": 6.2 } } });
    assert_eq!(server.told(&format!("/api/systems/{system}/entries"), &entry).await.0, 201);
    assert_eq!(server.get(&format!("{path}?by={person}")).await["draft"], Value::Null);
    assert_eq!(
        server.put(&path, &draft(1, id, 6.2)).await.status(),
        422,
        "a closed visit is not reopened by a late save"
    );
}

#[actix_web::test]
async fn every_acknowledged_entry_survives_kill_minus_nine_and_a_retry_makes_one() {
    let mut server = Running::empty();
    let (person, system) = server.first_system().await;
    let path = format!("/api/systems/{system}/entries");
    let make = |n: usize| json!({ "id": Uuid::now_v7(), "by": person, "body": { "kind": "visit", "note": format!("visit {n}") } });
    let (mut acknowledged, mut in_doubt) = (Vec::new(), Vec::new());
    for n in 0..500 {
        let entry = make(n);
        if n == 317 {
            // The power goes while this one is on its way.
            let flying = actix_web::rt::spawn(server.posting(&path, &entry).send());
            server.kill();
            let _ = flying.await;
            in_doubt.push(entry);
            server = server.killed_and_restarted_after_kill();
            continue;
        }
        let (status, _) = server.told(&path, &entry).await;
        assert_eq!(status, 201);
        acknowledged.push(entry);
    }
    for entry in in_doubt.iter().chain(&acknowledged[..20]) {
        let status = server.post(&path, entry).await.status().as_u16();
        assert!(status == 200 || status == 201, "{status}");
    }
    let mut ids = Vec::new();
    let mut mark = String::new();
    loop {
        let page = server.get(&format!("/api/systems/{system}/log?limit=100{mark}")).await;
        ids.extend(page["threads"].as_array().unwrap().iter().map(|t| t["head"]["id"].as_str().unwrap().to_owned()));
        match page["next"].as_str() {
            Some(next) => mark = format!("&before={next}"),
            None => break,
        }
    }
    assert_eq!(ids.len(), 500, "none lost, none doubled");
    for entry in &acknowledged {
        assert!(ids.contains(&entry["id"].as_str().unwrap().to_owned()));
    }
}

impl Running {
    fn killed_and_restarted_after_kill(self) -> Self {
        self.killed_and_restarted()
    }
}

#[actix_web::test]
async fn putting_away_keeps_the_log_and_takes_the_system_off_the_round() {
    let server = Running::empty();
    let (person, system) = server.first_system().await;
    let path = format!("/api/systems/{system}/entries");
    let fine = || json!({ "id": Uuid::now_v7(), "by": person, "body": { "kind": "visit", "all_fine": true } });
    server.told(&path, &fine()).await;
    assert_eq!(
        server.put(&format!("/api/cards/{system}"), &json!({ "version": 1, "archived": true })).await.status(),
        200
    );
    assert_eq!(server.get("/api/round").await["systems"], json!([]));
    assert_eq!(server.told(&path, &fine()).await.0, 422);
    assert_eq!(server.get(&format!("/api/systems/{system}/log")).await["threads"].as_array().unwrap().len(), 1);
    assert_eq!(
        server.put(&format!("/api/cards/{system}"), &json!({ "version": 2, "archived": false })).await.status(),
        200
    );
    assert_eq!(server.get("/api/round").await["systems"].as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn the_description_in_the_repository_is_the_one_that_is_served() {
    let server = Running::empty();
    let kept: Value = serde_json::from_str(include_str!("../../../docs/openapi.json")).unwrap();
    // Compared, not shown: two descriptions fill screens.
    let same = server.get("/api/openapi.json").await == kept;
    assert!(same, "run `make api` to bring docs/openapi.json and the types in step");
}
