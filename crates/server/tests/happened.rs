//! Harvests, contacts between systems and closing off, over the API.

use crate::common::Running;
use serde_json::{Value, json};
use uuid::Uuid;

async fn log(server: &Running, system: &str, by: &str, body: Value) -> (u16, Value) {
    let entry = json!({ "id": Uuid::now_v7(), "by": by, "body": body });
    server.told(&format!("/api/systems/{system}/entries"), &entry).await
}

async fn on_the_round(server: &Running, name: &str) -> Value {
    let round = server.get("/api/round").await;
    round["systems"].as_array().unwrap().iter().find(|s| s["name"] == name).unwrap().clone()
}

#[actix_web::test]
async fn scissors_from_an_ill_system_make_a_suspect_on_the_round_that_survives_a_power_cut() {
    let server = Running::demo();
    let (rails, tote) = (server.system("Loft rails").await, server.system("Propagation tote").await);
    let by = server.person(&rails, "Wren").await;
    assert_eq!(on_the_round(&server, "Loft rails").await["suspect"], false);
    let tools = json!({ "what": "came_from", "carried": "tools", "system": tote, "name": "Propagation tote" });
    let (status, answer) = log(&server, &rails, &by, json!({ "kind": "visit", "events": [tools] })).await;
    assert_eq!(status, 201, "{answer}");
    assert_eq!(answer["lines"], json!(["Tools from Propagation tote"]));
    let suspect = on_the_round(&server, "Loft rails").await;
    assert_eq!(suspect["suspect"], true);
    assert!(suspect["suspect_why"].as_str().unwrap().contains("Propagation tote has Root rot"), "{suspect}");
    let view = server.get(&format!("/api/systems/{rails}")).await;
    let look = view["tasks"].as_array().unwrap().iter().find(|task| task["code"] == "suspect_roots").unwrap();
    assert_eq!((look["way"]["to"].as_str(), look["way"]["part"].as_str()), (Some("visit"), Some("roots")));
    let server = server.killed_and_restarted();
    let log = server.get(&format!("/api/systems/{rails}/log")).await;
    assert!(log.to_string().contains("Tools from Propagation tote"));
}

#[actix_web::test]
async fn what_does_not_grow_here_is_not_picked_and_nothing_comes_from_nowhere() {
    let server = Running::demo();
    let (raft, tote) = (server.system("Blue raft").await, server.system("Propagation tote").await);
    let by = server.person(&raft, "Wren").await;
    let view = server.get(&format!("/api/systems/{raft}")).await;
    let chard = view["plantings"].as_array().unwrap().iter().find(|p| p["body"]["crop"] == "Swiss chard").unwrap();
    let harvest = |planting: &Value| json!({ "kind": "visit", "harvests": [{ "planting": planting, "crop": "Swiss chard", "grams": 200 }] });
    let (status, _) = log(&server, &raft, &by, harvest(&chard["id"])).await;
    assert_eq!(status, 201);
    let foreign = server.get(&format!("/api/systems/{tote}")).await["plantings"][0]["id"].clone();
    for planting in [foreign, json!(Uuid::now_v7())] {
        let (status, problem) = log(&server, &raft, &by, harvest(&planting)).await;
        assert_eq!(status, 422, "{problem}");
        assert_eq!(problem["fields"][0]["field"], "body.harvests.0.planting");
    }
    for system in [raft.clone(), Uuid::now_v7().to_string()] {
        let event = json!({ "what": "came_from", "carried": "water", "system": system, "name": "Nowhere" });
        let (status, problem) = log(&server, &raft, &by, json!({ "kind": "visit", "events": [event] })).await;
        assert_eq!(status, 422, "{problem}");
        assert_eq!(problem["fields"][0]["code"], "came_from_nowhere");
    }
    let told = server.get(&format!("/api/plantings/{}/story", chard["id"].as_str().unwrap())).await;
    assert_eq!(told["system_name"], "Blue raft");
    assert_eq!(told["story"]["harvest"], "Picked 3 times: 765 g.");
    assert!(told["story"]["cases"].to_string().contains("Aphids"), "{told}");
    let nobody = server.client.get(format!("{}/api/plantings/{}/story", server.base, Uuid::now_v7())).send().await;
    assert_eq!(nobody.unwrap().status(), 404);
}

#[actix_web::test]
async fn nothing_is_planted_in_a_system_that_is_closed_off() {
    let server = Running::demo();
    let tote = server.system("Propagation tote").await;
    let by = server.person(&tote, "Wren").await;
    let plant = || {
        let body = json!({ "card": "planting", "crop": "Mint", "group": "herb", "ports": "5", "stage": "seedling", "planted_on": "2027-03-09" });
        json!({ "id": Uuid::now_v7(), "parent": tote, "by": by, "body": body })
    };
    assert_eq!(server.told("/api/cards", &plant()).await.0, 201);
    let (status, _) = log(&server, &tote, &by, json!({ "kind": "visit", "events": [{ "what": "closed_off" }] })).await;
    assert_eq!(status, 201);
    let (status, problem) = server.told("/api/cards", &plant()).await;
    assert_eq!(status, 422, "{problem}");
    assert_eq!(problem["fields"][0]["code"], "planted_in_closed");
    let view = server.get(&format!("/api/systems/{tote}")).await;
    assert_eq!(view["closed_off"], true);
    assert!(view["suspect_why"].as_str().unwrap().starts_with("Closed off since today."), "{}", view["suspect_why"]);
    let (status, _) = log(&server, &tote, &by, json!({ "kind": "visit", "events": [{ "what": "opened" }] })).await;
    assert_eq!(status, 201);
    assert_eq!(server.told("/api/cards", &plant()).await.0, 201);
}

#[actix_web::test]
async fn what_fits_in_ten_minutes_wins_the_most_margin_and_what_is_ill_comes_last() {
    let server = Running::demo();
    let within = async |minutes: u16| server.get(&format!("/api/round/fit?minutes={minutes}")).await;
    let (ten, hour) = (within(10).await, within(60).await);
    assert!(ten["minutes"].as_u64().unwrap() <= 10 && hour["minutes"].as_u64().unwrap() <= 60, "{ten}");
    let chosen = |fit: &Value| fit["chosen"].as_array().unwrap().len();
    assert!(chosen(&ten) >= 1 && chosen(&hour) > chosen(&ten));
    let last: Vec<bool> = hour["chosen"].as_array().unwrap().iter().map(|l| l["last"].as_bool().unwrap()).collect();
    assert!(last.is_sorted(), "suspects last: {hour}");
    let all = hour["chosen"].as_array().unwrap().iter().chain(hour["waits"].as_array().unwrap());
    assert!(all.clone().all(|line| line["task"]["check"] != "look_in"));
    for wrong in ["", "?minutes=-1", "?minutes=ten", "?minutes=70000", "?minutes=10&more=1"] {
        let answer = server.client.get(format!("{}/api/round/fit{wrong}", server.base)).send().await.unwrap();
        assert_eq!(answer.status(), 422, "{wrong}");
    }
}
