//! A week of a class, over the API.

use crate::common::Running;
use serde_json::{Value, json};
use uuid::Uuid;

async fn place_of(server: &Running, system: &str) -> String {
    let id = server.system(system).await;
    server.get(&format!("/api/systems/{id}")).await["place"]["id"].as_str().unwrap().to_owned()
}

fn cells(week: &Value, code: &str) -> Vec<(bool, Value)> {
    let rows = week["systems"][0]["rows"].as_array().unwrap();
    let row = rows.iter().find(|row| row["code"] == code).unwrap_or_else(|| panic!("{code} in {rows:?}"));
    row["cells"].as_array().unwrap().iter().map(|cell| (cell["due"] == true, cell["who"].clone())).collect()
}

#[actix_web::test]
async fn a_week_names_initials_for_what_children_can_do_and_copes_with_the_absent() {
    let server = Running::demo();
    let place = place_of(&server, "Blue raft").await;
    let week = server.get(&format!("/api/places/{place}/week")).await;
    let days: Vec<&str> = week["days"].as_array().unwrap().iter().map(|day| day["on"].as_str().unwrap()).collect();
    assert_eq!(days, ["2027-03-08", "2027-03-09", "2027-03-10", "2027-03-11", "2027-03-12"]);
    assert_eq!(week["span"], "Mon 8 Mar to Sun 14 Mar");
    let child = week["hands"][0]["id"].clone();
    let looks = cells(&week, "look_in");
    assert_eq!(looks[0], (false, Value::Null), "what was due on Monday is past");
    assert!(looks[1..].iter().all(|(due, who)| *due && *who == child), "{looks:?}");
    let codes = week["systems"][0]["rows"].to_string();
    assert!(!codes.contains("\"change\"") && !codes.contains("filters") && !codes.contains("calibrate"), "{codes}");
    // Absent on Wednesday, and nobody else there: the job is nobody's.
    let raft = server.system("Blue raft").await;
    let by = server.person(&raft, "Wren").await;
    let people = server.get("/api/places").await;
    let here = people.as_array().unwrap().iter().find(|one| one["card"]["id"] == place.as_str()).unwrap().clone();
    let card = here["people"].as_array().unwrap().iter().find(|one| one["id"] == child).unwrap().clone();
    let mut body = card["body"].clone();
    body["away"] = json!([{ "from": "2027-03-10", "to": "2027-03-10" }]);
    let edit = json!({ "version": card["version"], "body": body });
    let put = server.client.put(format!("{}/api/cards/{}", server.base, child.as_str().unwrap()));
    assert_eq!(put.header("Mopsel-Person", &by).json(&edit).send().await.unwrap().status(), 200);
    let week = server.get(&format!("/api/places/{place}/week")).await;
    assert_eq!(week["hands"][0]["away"], json!(["2027-03-10"]));
    assert_eq!(cells(&week, "look_in")[2], (true, Value::Null));
    // What an absence cannot be.
    body["away"] = json!([{ "from": "2027-03-12", "to": "2027-03-10" }]);
    let edit = json!({ "version": 2, "body": body });
    let put = server.client.put(format!("{}/api/cards/{}", server.base, child.as_str().unwrap()));
    let refused = put.header("Mopsel-Person", &by).json(&edit).send().await.unwrap();
    assert_eq!(refused.status(), 422);
    assert_eq!(refused.json::<Value>().await.unwrap()["fields"][0]["field"], "body.away.0.to");
}

#[actix_web::test]
async fn a_rota_with_nobody_in_it_says_so_and_a_week_too_far_is_refused() {
    let server = Running::demo();
    let place = place_of(&server, "Loft rails").await;
    let week = server.get(&format!("/api/places/{place}/week?from=2027-03-15")).await;
    assert!(week["nobody"].as_str().unwrap().starts_with("No children stand here by their initials"), "{week}");
    assert_eq!((week["hands"].as_array().unwrap().len(), week["systems"].as_array().unwrap().len()), (0, 3));
    let closed = place_of(&server, "Corner tower").await;
    let holiday = server.get(&format!("/api/places/{closed}/week?from=2027-03-17")).await;
    assert_eq!(
        (holiday["days"].as_array().unwrap().len(), holiday["nobody"].as_str()),
        (0, Some("The place is closed in this week."))
    );
    for bad in ["from=2029-01-01", "from=9999-12-31", "from=x", "week=1"] {
        let answer = server.client.get(format!("{}/api/places/{place}/week?{bad}", server.base)).send().await.unwrap();
        assert_eq!(answer.status(), 422, "{bad}");
    }
    let nowhere = format!("{}/api/places/{}/week", server.base, Uuid::now_v7());
    assert_eq!(server.client.get(nowhere).send().await.unwrap().status(), 404);
}
