//! The demo tells its stories, the same each time.

use crate::common::Running;
use serde_json::{Value, json};
use uuid::Uuid;

async fn systems(server: &Running) -> Vec<Value> {
    server.get("/api/round").await["systems"].as_array().unwrap().clone()
}

async fn task(server: &Running, name: &str, code: &str) -> Value {
    let view = server.get(&format!("/api/systems/{}", server.system(name).await)).await;
    view["tasks"]
        .as_array()
        .unwrap()
        .iter()
        .find(|t| t["code"] == code)
        .unwrap_or_else(|| panic!("{name} has no task {code}"))
        .clone()
}

#[actix_web::test]
async fn the_demo_is_the_same_to_the_digit() {
    let (a, b) = (Running::demo(), Running::demo());
    assert_eq!(a.get("/api/round").await, b.get("/api/round").await);
    let system = a.system("Bucket row").await;
    assert_eq!(a.get(&format!("/api/systems/{system}")).await, b.get(&format!("/api/systems/{system}")).await);
}

#[actix_web::test]
async fn every_system_tells_its_story() {
    let server = Running::demo();
    let all = systems(&server).await;
    assert_eq!(all.len(), 10);
    // A reservoir that was found empty is a matter of hours, root rot with a dose due today one of days.
    assert_eq!((&all[0]["name"], &all[0]["pressing"]["code"]), (&json!("Bucket row"), &json!("supply")));
    assert_eq!(all[1]["name"], "Propagation tote");
    assert_eq!(
        (&all[1]["pressing"]["code"], &all[1]["suspect"], &all[1]["section"]["roots"]),
        (&json!("peroxide"), &json!(true), &json!(2))
    );
    let row = task(&server, "Bucket row", "level").await;
    assert!(row["reason"].as_str().unwrap().contains("gal a day"), "{row}");
    assert!(row["reason"].as_str().unwrap().contains("tomorrow"), "{row}");
    assert_eq!(task(&server, "Corner tower", "wipe_down").await["days_late"], 5);
    assert!(task(&server, "Corner tower", "ph").await["reason"].as_str().unwrap().contains("7.0–7.5 by drop kit"));
    assert!(task(&server, "Shelf jars (4)", "change").await["reason"].as_str().unwrap().contains("green water"));
    assert_eq!(task(&server, "Bean table", "nitrogen_short").await["name"], "Look again: Nitrogen short");
    assert_eq!(task(&server, "Loft rails", "filters").await["standing"], "today");
    assert_eq!(task(&server, "Loft rails", "calibrate").await["days_late"], 11);
    let change = task(&server, "Blue raft", "change").await;
    assert!(
        change["days_late"] == -1 && change["reason"].as_str().unwrap().starts_with("By the 14-day rule"),
        "{change}"
    );
    let bench = server.get(&format!("/api/systems/{}", server.system("Mat bench").await)).await;
    assert!(bench["tasks"].as_array().unwrap().iter().all(|t| t["days_late"].as_i64().unwrap() < 0), "nothing is due");
    let window = systems(&server).await.into_iter().find(|s| s["name"] == "Window crate").unwrap();
    assert!(window["section"]["limit"].as_f64().unwrap() > window["section"]["water"].as_f64().unwrap());
}

#[actix_web::test]
async fn the_round_and_todays_list_go_by_rank_and_then_by_margin() {
    let server = Running::demo();
    let round = server.get("/api/round").await;
    let ranks = ["people", "hours", "days", "routine"];
    let order = |task: &Value| {
        let rank = ranks.iter().position(|rank| task["rank"] == *rank).unwrap_or_else(|| panic!("{task}"));
        (rank, task["margin_days"].as_f64().unwrap())
    };
    let shelf: Vec<_> = round["systems"].as_array().unwrap().iter().map(|s| order(&s["pressing"])).collect();
    assert!(shelf.is_sorted(), "{shelf:?}");
    let tasks: Vec<&Value> = round["tasks"].as_array().unwrap().iter().map(|t| &t["task"]).collect();
    assert!(tasks.is_sorted_by_key(|task| order(task)));
    assert!(tasks.iter().all(|task| task["days_late"].as_i64().unwrap() >= 0 || task["urgency"] == "hand"));
    let hands = |list: &[&Value]| list.iter().filter(|task| task["urgency"] == "hand").count();
    let shelf: Vec<&Value> = round["systems"].as_array().unwrap().iter().map(|s| &s["pressing"]).collect();
    assert!(hands(&tasks) >= hands(&shelf), "whatever needs a hand stands on today's list");
}

#[actix_web::test]
async fn a_visit_is_judged_as_it_is_typed_and_stores_nothing() {
    let server = Running::demo();
    let tower = server.system("Corner tower").await;
    let judge = |visit: Value| {
        let path = format!("/api/systems/{tower}/judge");
        let server = &server;
        async move { server.told(&path, &json!({ "visit": visit })).await.1 }
    };
    let high =
        judge(json!({ "ph": { "by": "kit", "low": 7.0, "high": 7.5 }, "level": { "by": "height", "height_mm": 150 } }))
            .await;
    assert_eq!(high["volume"], 31.0);
    let verdicts = high["verdicts"].as_array().unwrap();
    assert_eq!(verdicts.len(), 2);
    assert!(
        verdicts.iter().all(|v| !v["finding"].as_str().unwrap().is_empty() && !v["next"].as_str().unwrap().is_empty())
    );
    let rim = judge(json!({ "level": { "by": "height", "height_mm": 400 } })).await;
    assert_eq!(rim["faults"][0]["field"], "visit.level.height_mm");
    let child = server.person(&tower, "J. T.").await;
    let told = server
        .told(
            &format!("/api/systems/{tower}/judge"),
            &json!({ "by": child, "visit": { "ph": { "by": "kit", "low": 7.0, "high": 7.5 } } }),
        )
        .await
        .1;
    assert!(told["verdicts"][0]["next"].as_str().unwrap().starts_with("Tell an adult"));
}

#[actix_web::test]
async fn children_record_visits_but_nothing_with_concentrates_or_mains() {
    let server = Running::demo();
    let tower = server.system("Corner tower").await;
    let child = server.person(&tower, "J. T.").await;
    let path = format!("/api/systems/{tower}/entries");
    let entry = |body: Value| json!({ "id": Uuid::now_v7(), "by": child, "body": body });
    assert_eq!(server.told(&path, &entry(json!({ "kind": "visit", "all_fine": true }))).await.0, 201);
    for body in [
        json!({ "kind": "treatment", "what": "peroxide_dose" }),
        json!({ "kind": "change", "extent": "full", "volume_after": 60 }),
    ] {
        let (status, problem) = server.told(&path, &entry(body)).await;
        assert!(status == 422 && problem["detail"].as_str().unwrap().contains("adult"), "{problem}");
    }
}

#[actix_web::test]
async fn doing_a_task_moves_its_date_and_taking_it_back_restores_it() {
    let server = Running::demo();
    let rails = server.system("Loft rails").await;
    let wren = server.person(&rails, "Wren").await;
    let path = format!("/api/systems/{rails}/entries");
    let before = task(&server, "Loft rails", "filters").await;
    let id = Uuid::now_v7();
    server.told(&path, &json!({ "id": id, "by": wren, "body": { "kind": "visit", "done": ["filters"] } })).await;
    assert_eq!(task(&server, "Loft rails", "filters").await["due_on"], "2027-03-10");
    let undo = json!({ "id": Uuid::now_v7(), "by": wren, "amends": id, "reason": "Undone right away.", "body": { "kind": "withdrawn" } });
    assert_eq!(server.told(&path, &undo).await.0, 201);
    assert_eq!(task(&server, "Loft rails", "filters").await, before);
    let head = &server.get(&format!("/api/systems/{rails}/log")).await["threads"][0];
    assert!(head["head"]["lines"][0].as_str().unwrap().contains("Withdrawn") && head["earlier"][0]["id"] == json!(id));
}

/// The demo is opened on any weekday: what falls on a closed day was done on the next open one, so no
/// system is shown as left alone for weeks.
#[actix_web::test]
async fn on_every_weekday_the_garden_was_cared_for() {
    for day in 8..15 {
        let server = Running::demo_on(&format!("2027-03-{day:02}"));
        let all = systems(&server).await;
        let mut first = [all[0]["name"].as_str().unwrap(), all[1]["name"].as_str().unwrap()];
        first.sort_unstable();
        assert_eq!(first, ["Bucket row", "Propagation tote"], "on the {day}th");
        for system in &all {
            let pressing = &system["pressing"];
            let margin = pressing["margin_days"].as_f64().unwrap();
            assert!(margin > 0.0, "on the {day}th {} is at risk for {margin} days: {pressing}", system["name"]);
        }
    }
}

async fn page(server: &Running, name: &str) -> Value {
    server.get(&format!("/api/systems/{}", server.system(name).await)).await
}

/// What ails each system is told through causes and cases.
#[actix_web::test]
async fn causes_and_cases_tell_the_stories() {
    let server = Running::demo();
    let beans = page(&server, "Bean table").await;
    assert_eq!(beans["explanation"]["causes"][0]["key"], "nitrogen_short");
    let reasons = beans["explanation"]["causes"][0]["speaks_for"].to_string();
    assert!(reasons.contains("ppm (500)"), "in the reader's scale: {reasons}");
    let case = &beans["cases"][0];
    assert!(case["open"] == true && case["ports"] == "3-11", "{case}");
    assert_eq!(case["planned"].as_array().unwrap().len(), 2, "{case}");

    let raft = page(&server, "Blue raft").await;
    let aphids = &raft["cases"][0];
    assert!(aphids["open"] == false && aphids["name"] == "Aphids", "{aphids}");
    let looks: Vec<&str> = aphids["looks"].as_array().unwrap().iter().map(|l| l["said"].as_str().unwrap()).collect();
    assert_eq!(looks, ["opened", "better", "gone", "gone"]);
    assert!(aphids["state"].as_str().unwrap().contains("13 days"), "{aphids}");
    assert!(raft["explanation"].is_null() && raft["suspect_why"].is_null());

    let tote = page(&server, "Propagation tote").await;
    assert!(tote["cases"][0]["key"] == "root_rot" && tote["cases"][0]["open"] == true);
    assert!(tote["suspect_why"].as_str().unwrap().contains("visit it last"));
    assert_eq!(tote["explanation"]["causes"][0]["key"], "root_rot");
    let jars = page(&server, "Shelf jars (4)").await;
    let causes: Vec<&Value> = jars["explanation"]["causes"].as_array().unwrap().iter().map(|c| &c["key"]).collect();
    assert!(causes.contains(&&json!("algae")), "{causes:?}");
}
