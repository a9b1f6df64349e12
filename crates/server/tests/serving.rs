//! What the server hands out besides care: knowledge, previews, pages, caching, and odd requests.

use crate::common::{Running, tub};
use reqwest::StatusCode;
use serde_json::{Value, json};
use uuid::Uuid;

#[actix_web::test]
async fn knowledge_names_every_kind_crop_check_sign_and_unit() {
    let server = Running::empty();
    let known = server.get("/api/knowledge").await;
    assert_eq!(known["kinds"].as_array().unwrap().len(), 12);
    assert_eq!(known["checks"].as_array().unwrap().len(), 19);
    assert!(known["signs"].as_array().unwrap().iter().all(|s| !s["say"].as_str().unwrap().contains('.')));
    let parts: Vec<&Value> = known["choices"]["plant_part"].as_array().unwrap().iter().map(|p| &p["key"]).collect();
    assert!(known["signs"].as_array().unwrap().iter().all(|s| parts.contains(&&s["where"])), "each sign has its part");
    assert_eq!(known["bench"]["purposes"].as_array().unwrap().len(), 11);
    assert_eq!(known["bench"]["usual_peroxide"], "Root oxygen 3 %");
    assert!(known["crops"].as_array().unwrap().iter().any(|c| c["name"] == "Watercress" && c["fast"] == true));
    assert_eq!(known["units"][1]["litres_per_unit"], 3.785411784);
    assert_eq!(
        known["scales"].as_array().unwrap().iter().map(|s| s["per_ms_cm"].as_f64().unwrap()).collect::<Vec<_>>(),
        [1.0, 1000.0, 500.0, 640.0, 700.0]
    );
}

#[actix_web::test]
async fn a_vessel_is_worked_out_without_being_stored() {
    let server = Running::empty();
    let (status, preview) = server
        .told("/api/shape/preview", &json!({ "form": "box", "length_mm": 520, "width_mm": 360, "height_mm": 200 }))
        .await;
    assert_eq!((status, &preview["capacity"]), (200, &json!(37.44)));
    assert_eq!(preview["suggested"]["working"], 31.82);
    let wrong = [
        (json!({ "form": "box", "length_mm": 520, "width_mm": 360 }), "height_mm"),
        (json!({ "form": "box", "length_mm": 2, "width_mm": 360, "height_mm": 200 }), "length_mm"),
        (json!({ "form": "marks", "marks": [] }), "marks"),
        (json!({ "form": "bowl" }), "form"),
        (json!({ "form": "stated", "litres": 0 }), ""),
        (json!({ "form": "stated", "litres": -4 }), ""),
    ];
    for (shape, field) in wrong {
        let (status, problem) = server.told("/api/shape/preview", &shape).await;
        let text = problem.to_string();
        assert!(status == 422 && text.contains(field), "{shape} gave {problem}");
    }
    assert_eq!(server.get("/api/places").await, json!([]));
}

#[actix_web::test]
async fn every_view_is_the_one_page_and_files_are_kept_by_the_browser() {
    let server = Running::empty();
    let fetch = |path: String| {
        let request = server.client.get(format!("{}{path}", server.base));
        async move { request.send().await.unwrap() }
    };
    let page = fetch("/".into()).await;
    assert_eq!(page.headers()["cache-control"], "no-cache");
    assert_eq!(page.headers()["x-content-type-options"], "nosniff");
    let html = page.text().await.unwrap();
    assert_eq!(fetch(format!("/system/{}/visit", Uuid::now_v7())).await.text().await.unwrap(), html);
    let script = html.split("src=\"").nth(1).unwrap().split('"').next().unwrap().to_owned();
    let asset = fetch(script.clone()).await;
    assert!(asset.headers()["cache-control"].to_str().unwrap().contains("immutable"));
    let tag = asset.headers()["etag"].to_str().unwrap().to_owned();
    let again =
        server.client.get(format!("{}{script}", server.base)).header("if-none-match", tag).send().await.unwrap();
    assert_eq!(again.status(), StatusCode::NOT_MODIFIED);
    assert_eq!(fetch("/assets/missing.js".into()).await.status(), StatusCode::NOT_FOUND);
    assert_eq!(fetch("/../Cargo.toml".into()).await.text().await.unwrap(), html, "no path leads out of the pages");
    assert!(!html.contains("http://") && !html.contains("https://"), "everything ships with the program");
}

#[actix_web::test]
async fn pages_of_the_log_are_bounded() {
    let server = Running::demo();
    let system = server.system("Window crate").await;
    let first = server.get(&format!("/api/systems/{system}/log?limit=5")).await;
    assert_eq!(first["threads"].as_array().unwrap().len(), 5);
    let next =
        server.get(&format!("/api/systems/{system}/log?limit=5&before={}", first["next"].as_str().unwrap())).await;
    assert_ne!(first["threads"][4]["head"]["id"], next["threads"][0]["head"]["id"]);
    for query in ["limit=0", "limit=101", "before=yesterday", "before=1.x"] {
        let response =
            server.client.get(format!("{}/api/systems/{system}/log?{query}", server.base)).send().await.unwrap();
        assert_eq!(response.status(), StatusCode::UNPROCESSABLE_ENTITY, "{query}");
    }
}

#[actix_web::test]
async fn a_card_keeps_its_kind_and_its_id_keeps_its_card() {
    let server = Running::empty();
    let (person, system) = server.first_system().await;
    let as_person = json!({ "version": 1, "body": { "card": "person", "name": "Ode", "role": "helper" } });
    assert_eq!(server.put(&format!("/api/cards/{system}"), &as_person).await.status(), 422);
    assert_eq!(server.put(&format!("/api/cards/{}", Uuid::now_v7()), &as_person).await.status(), 404);
    let place = server.get("/api/places").await[0]["card"]["id"].clone();
    let same =
        json!({ "id": person, "parent": place, "body": { "card": "person", "name": "Wren", "role": "caretaker" } });
    assert_eq!(server.told("/api/cards", &same).await.0, 201, "the same request again is the same card");
    let other =
        json!({ "id": person, "parent": place, "body": { "card": "person", "name": "Ansa", "role": "caretaker" } });
    let (status, problem) = server.told("/api/cards", &other).await;
    assert_eq!((status, &problem["fields"][0]["field"]), (409, &json!("id")));
    assert_eq!(server.get("/api/places").await[0]["people"].as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn people_record_at_their_own_place_only() {
    let server = Running::demo();
    let (rails, tower) = (server.system("Loft rails").await, server.system("Corner tower").await);
    let ansa = server.person(&rails, "Ansa").await;
    let fine = |by: &str| json!({ "id": Uuid::now_v7(), "by": by, "body": { "kind": "visit", "all_fine": true } });
    assert_eq!(server.told(&format!("/api/systems/{rails}/entries"), &fine(&ansa)).await.0, 201);
    let (status, problem) = server.told(&format!("/api/systems/{tower}/entries"), &fine(&ansa)).await;
    assert_eq!((status, &problem["fields"][0]["field"]), (422, &json!("actor")));
}

#[actix_web::test]
async fn a_visit_can_be_entered_late_and_the_dates_follow_its_own_time() {
    let server = Running::demo();
    let rails = server.system("Loft rails").await;
    let wren = server.person(&rails, "Wren").await;
    let path = format!("/api/systems/{rails}/entries");
    let late = json!({ "id": Uuid::now_v7(), "at": "2027-02-20T09:00:00Z", "by": wren, "body": { "kind": "visit", "done": ["calibrate"] } });
    assert_eq!(server.told(&path, &late).await.0, 201);
    let view = server.get(&format!("/api/systems/{rails}")).await;
    let calibrate = view["tasks"].as_array().unwrap().iter().find(|t| t["code"] == "calibrate").unwrap();
    assert_eq!(
        calibrate["due_on"], "2027-03-23",
        "30 days after 20 February is a Monday, closed; the day after has slack enough"
    );
    assert_eq!(server.get("/api/round").await["today"], "Tuesday 9 March 2027", "and the demo's clock stands still");
}

#[actix_web::test]
async fn an_edit_of_the_vessel_moves_the_drawing_at_once() {
    let server = Running::empty();
    let (person, system) = server.first_system().await;
    let read = json!({ "id": Uuid::now_v7(), "by": person, "body": { "kind": "visit", "level": { "by": "height", "height_mm": 100 } } });
    server.told(&format!("/api/systems/{system}/entries"), &read).await;
    let mut body = tub();
    body["reservoir"]["shape"]["width_mm"] = json!(400);
    assert_eq!(server.put(&format!("/api/cards/{system}"), &json!({ "version": 1, "body": body })).await.status(), 200);
    assert_eq!(server.get(&format!("/api/systems/{system}")).await["section"]["litres"], 20.8);
}

#[actix_web::test]
async fn round_trips_are_small_when_asked_to_be() {
    let server = Running::demo();
    let plain =
        server.client.get(format!("{}/api/round", server.base)).send().await.unwrap().bytes().await.unwrap().len();
    let small = server
        .client
        .get(format!("{}/api/round", server.base))
        .header("accept-encoding", "gzip")
        .send()
        .await
        .unwrap()
        .bytes()
        .await
        .unwrap()
        .len();
    assert!(small * 3 < plain, "{small} of {plain} bytes");
}

#[actix_web::test]
async fn methods_that_are_not_offered_change_nothing() {
    let server = Running::empty();
    let (_, system) = server.first_system().await;
    for path in [format!("/api/cards/{system}"), format!("/api/systems/{system}"), "/api/round".to_owned()] {
        let response = server.client.delete(format!("{}{path}", server.base)).send().await.unwrap();
        assert!(response.status().is_client_error(), "{path}: {}", response.status());
        assert_eq!(response.headers()["content-type"], "application/problem+json");
    }
    assert_eq!(server.get("/api/round").await["systems"].as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn the_description_shows_every_address_with_its_answers() {
    let server = Running::empty();
    let description = server.get("/api/openapi.json").await;
    let paths = description["paths"].as_object().unwrap();
    for path in [
        "/api/round",
        "/api/cards",
        "/api/cards/{id}",
        "/api/systems/{id}",
        "/api/systems/{id}/judge",
        "/api/systems/{id}/entries",
        "/api/systems/{id}/log",
        "/api/systems/{id}/draft",
    ] {
        assert!(paths.contains_key(path), "{path}");
    }
    let schemas = description["components"]["schemas"].as_object().unwrap();
    assert_eq!(schemas["Ph"]["maximum"].as_f64(), Some(14.0));
    assert!(schemas.values().all(|schema: &Value| schema.is_object()));
}

#[actix_web::test]
async fn the_round_of_five_hundred_systems_stays_light() {
    let server = Running::empty();
    let (person, _) = server.first_system().await;
    let place = server.get("/api/places").await[0]["card"]["id"].clone();
    let kinds = server.get("/api/knowledge").await["kinds"].clone();
    let kinds = kinds.as_array().unwrap();
    for n in 0..500 {
        let (kind, id, litres) = (&kinds[n % kinds.len()], Uuid::now_v7(), 60.0 + (n % 40) as f64);
        // What runs home has to fit below the rim.
        let rim = litres * 0.9 + kind["traits"]["drain_back"].as_f64().unwrap_or(0.0) + 1.0;
        let body = json!({
            "card": "system", "name": format!("System {n}"), "kind": kind["key"], "traits": kind["traits"],
            "ports": kind["ports"], "measuring": "meter", "refill": kind["refill"].as_str().unwrap_or("no_limit"),
            "change_days": 14, "since": "2026-01-01", "methods": { "top_off": kind["top_off"] },
            "reservoir": { "shape": { "form": "stated", "litres": rim },
                "minimum": litres * 0.3, "working": litres * 0.8, "maximum": litres * 0.9 }
        });
        let (status, answer) = server.told("/api/cards", &json!({ "id": id, "parent": place, "body": body })).await;
        assert_eq!(status, 201, "{answer}");
        let visit = json!({ "kind": "visit", "ph": { "by": "meter", "value": 5.0 + (n % 30) as f64 / 10.0 },
            "ec": { "value": 0.5 + (n % 20) as f64 / 10.0, "scale": "ms_cm" },
            "level": { "by": "volume", "litres": litres * (0.3 + (n % 50) as f64 / 100.0) } });
        let entry = json!({ "id": Uuid::now_v7(), "by": person, "body": visit });
        assert_eq!(server.told(&format!("/api/systems/{id}/entries"), &entry).await.0, 201);
    }
    let asked = server.client.get(format!("{}/api/round", server.base)).header("Accept-Encoding", "gzip");
    let light = asked.send().await.unwrap().bytes().await.unwrap().len();
    assert!(light < 60 * 1024, "{} KB gzipped", light / 1024);
}
