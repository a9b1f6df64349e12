//! Tasks that are moved or skipped, over the API.

use crate::common::Running;
use serde_json::{Value, json};
use uuid::Uuid;

async fn log(server: &Running, system: &str, by: &str, body: Value) -> (u16, Value) {
    let entry = json!({ "id": Uuid::now_v7(), "by": by, "body": body });
    server.told(&format!("/api/systems/{system}/entries"), &entry).await
}

async fn change(server: &Running, raft: &str) -> Value {
    let view = server.get(&format!("/api/systems/{raft}")).await;
    view["tasks"]
        .as_array()
        .unwrap()
        .iter()
        .find(|task| task["code"] == "change")
        .unwrap_or_else(|| panic!("{}", view["tasks"]))
        .clone()
}

fn moved(from: &str, to: &str) -> Value {
    json!({ "kind": "visit", "put_off": [{ "chore": { "of": "check", "check": "change" }, "how": "moved", "from": from, "to": to }] })
}

#[actix_web::test]
async fn a_change_is_moved_within_its_margin_and_no_further_and_two_who_move_it_do_not_pass_each_other() {
    let server = Running::demo();
    let raft = server.system("Blue raft").await;
    let by = server.person(&raft, "Wren").await;
    let offered = server.get(&format!("/api/systems/{raft}/put-off/change")).await;
    assert_eq!(offered["due_on"], "2027-03-10");
    let days = offered["days"].as_array().unwrap();
    assert!(days.contains(&json!("2027-03-12")) && !days.contains(&json!("2027-03-13")), "{offered}");
    for (to, code) in
        [("2027-03-16", "moved_past_margin"), ("2027-03-13", "moved_to_closed"), ("2027-03-01", "moved_to_past")]
    {
        let (status, problem) = log(&server, &raft, &by, moved("2027-03-10", to)).await;
        assert_eq!((status, problem["fields"][0]["code"].as_str()), (422, Some(code)), "{to}: {problem}");
        assert_eq!(problem["fields"][0]["field"], "body.put_off.0.to");
    }
    assert_eq!(change(&server, &raft).await["due_on"], "2027-03-10", "nothing was half done");
    let first = moved("2027-03-10", "2027-03-11");
    let second = moved("2027-03-10", "2027-03-12");
    let (one, other) = tokio::join!(log(&server, &raft, &by, first), log(&server, &raft, &by, second));
    let mut answers = [one.0, other.0];
    answers.sort_unstable();
    assert_eq!(answers, [201, 422], "{one:?} {other:?}");
    let stands = change(&server, &raft).await;
    assert!(stands["reason"].as_str().unwrap().starts_with("Moved to "), "{stands}");
    // The change is what is due on the round of that day as well, and the change itself ends the move.
    let wanted = json!({ "kind": "change", "extent": "full", "volume_after": 45 });
    assert_eq!(log(&server, &raft, &by, wanted).await.0, 201);
    assert!(!change(&server, &raft).await["reason"].as_str().unwrap().contains("Moved"));
}

#[actix_web::test]
async fn children_put_nothing_off_and_what_is_not_there_has_no_choices() {
    let server = Running::demo();
    let raft = server.system("Blue raft").await;
    for path in [
        format!("/api/systems/{raft}/put-off/calibrate"),
        format!("/api/systems/{raft}/put-off/nothing"),
        "/api/systems/x/put-off/change".to_owned(),
    ] {
        assert_eq!(server.client.get(format!("{}{path}", server.base)).send().await.unwrap().status(), 404, "{path}");
    }
    let child = server.person(&raft, "M. K.").await;
    let (status, problem) = log(&server, &raft, &child, moved("2027-03-10", "2027-03-11")).await;
    assert_eq!((status, problem["fields"][0]["code"].as_str()), (422, Some("child_puts_off")), "{problem}");
}

#[actix_web::test]
async fn the_weeks_ahead_of_a_place_follow_what_is_moved_and_refuse_a_span_that_cannot_be() {
    let server = Running::demo();
    let raft = server.system("Blue raft").await;
    let by = server.person(&raft, "Wren").await;
    let place = server.get(&format!("/api/systems/{raft}")).await["place"]["id"].as_str().unwrap().to_owned();
    let weeks = server.get(&format!("/api/places/{place}/ahead?days=14")).await;
    let days = weeks["days"].as_array().unwrap();
    assert_eq!((days.len(), days[0]["on"].as_str(), days[4]["open"].as_bool()), (14, Some("2027-03-09"), Some(false)));
    let change = |weeks: &Value| {
        let coming = weeks["systems"][0]["coming"].as_array().unwrap().clone();
        coming.into_iter().find(|one| one["code"] == "change" && one["first"] == true).unwrap()
    };
    assert_eq!(
        (change(&weeks)["on"].as_str(), change(&weeks)["until"].as_str()),
        (Some("2027-03-10"), Some("2027-03-14"))
    );
    assert_eq!(log(&server, &raft, &by, moved("2027-03-10", "2027-03-12")).await.0, 201);
    let after = server.get(&format!("/api/places/{place}/ahead?days=14")).await;
    assert_eq!(
        (change(&after)["on"].as_str(), change(&after)["until"].as_str()),
        (Some("2027-03-12"), Some("2027-03-14"))
    );
    let sum = |weeks: &Value| {
        weeks["days"].as_array().unwrap().iter().map(|day| day["minutes"].as_u64().unwrap()).sum::<u64>()
    };
    assert!(sum(&weeks) > 60 && sum(&after) > 60);
    for bad in ["days=0", "days=113", "days=-1", "days=x", "weeks=2"] {
        let answer = server.client.get(format!("{}/api/places/{place}/ahead?{bad}", server.base)).send().await.unwrap();
        assert_eq!(answer.status(), 422, "{bad}");
    }
}

#[actix_web::test]
async fn the_round_is_walked_with_suspects_last_and_the_kit_holds_what_its_stops_pour() {
    let server = Running::demo();
    let all = server.get("/api/outing").await;
    let names: Vec<&str> = all["stops"].as_array().unwrap().iter().map(|stop| stop["name"].as_str().unwrap()).collect();
    assert_eq!(names.last(), Some(&"Propagation tote"), "root rot is open there: {names:?}");
    assert!(all["kit"]["mixes"][0]["shares"].to_string().contains("Bucket row"), "{}", all["kit"]);
    assert!(
        all["kit"]["products"].to_string().contains("Root oxygen"),
        "the dose that is due is packed: {}",
        all["kit"]
    );
    let tote = server.system("Propagation tote").await;
    let place = server.get(&format!("/api/systems/{tote}")).await["place"]["id"].as_str().unwrap().to_owned();
    let library = server.get(&format!("/api/outing?places={place}")).await;
    assert!(library["last_why"].as_str().unwrap().contains("visited last all the same"), "{library}");
    assert!(library["stops"].as_array().unwrap().iter().all(|stop| stop["place"] == place.as_str()));
    for (bad, status) in [("places=x", 404), ("places=0190a000-0000-7000-8000-000000000000", 404), ("place=x", 422)] {
        let answer = server.client.get(format!("{}/api/outing?{bad}", server.base)).send().await.unwrap();
        assert_eq!(answer.status(), status, "{bad}");
    }
    // A child is given nothing to mix, and no adult's task.
    let raft = server.system("Blue raft").await;
    let child = server.person(&raft, "M. K.").await;
    let seen = server.get(&format!("/api/outing?by={child}")).await;
    assert_eq!(
        (&seen["child"], &seen["kit"]["mixes"], &seen["kit"]["products"]),
        (&json!(true), &json!([]), &json!([]))
    );
    assert!(!seen["stops"].to_string().contains("Next peroxide dose"), "{seen}");
}

#[actix_web::test]
async fn a_rule_by_a_sign_or_a_stage_names_one_that_there_is() {
    let server = Running::demo();
    let raft = server.system("Blue raft").await;
    let by = server.person(&raft, "Wren").await;
    let view = server.get(&format!("/api/systems/{raft}")).await;
    let edit = |every: Value| {
        let mut body = view["card"]["body"].clone();
        body["rules"] = json!([{ "id": Uuid::now_v7(), "name": "Rinse the roots", "every": every, "slack_days": 2 }]);
        json!({ "version": view["card"]["version"], "body": body })
    };
    for (every, status, code) in [
        (json!({ "by": "sign", "sign": "purple_spots" }), 422, Some("rule_sign")),
        (json!({ "by": "stage", "stage": "teenage" }), 422, Some("rule_sign")),
        (json!({ "by": "minimum", "before": 15 }), 422, Some("rule_before")),
        (json!({ "by": "days", "days": 0 }), 422, Some("rule_every")),
        (json!({ "by": "stage", "stage": "flowering" }), 200, None),
    ] {
        let put = server.client.put(format!("{}/api/cards/{raft}", server.base)).header("Mopsel-Person", &by);
        let answer = put.json(&edit(every.clone())).send().await.unwrap();
        let (found, said): (u16, Value) = (answer.status().as_u16(), answer.json().await.unwrap());
        assert_eq!((found, said["fields"][0]["code"].as_str()), (status, code), "{every}: {said}");
    }
}

#[actix_web::test]
async fn an_amendment_is_no_way_around_the_margin() {
    let server = Running::demo();
    let raft = server.system("Blue raft").await;
    let by = server.person(&raft, "Wren").await;
    let (status, first) = log(&server, &raft, &by, moved("2027-03-10", "2027-03-11")).await;
    assert_eq!(status, 201);
    let amend =
        |body: Value| json!({ "id": Uuid::now_v7(), "by": by, "amends": first["id"], "reason": "Slip", "body": body });
    let path = format!("/api/systems/{raft}/entries");
    let (status, problem) = server.told(&path, &amend(moved("2027-03-10", "2027-04-30"))).await;
    assert_eq!((status, problem["fields"][0]["code"].as_str()), (422, Some("put_off_by_amendment")), "{problem}");
    assert_eq!(change(&server, &raft).await["due_on"], "2027-03-11");
    let mut same = moved("2027-03-10", "2027-03-11");
    same["note"] = json!("Parents' evening");
    assert_eq!(server.told(&path, &amend(same)).await.0, 201, "what stood there may stay");
}
