//! Systems, plantings and cycles beside each other, as the API tells them.

use crate::common::Running;
use serde_json::{Value, json};
use uuid::Uuid;

fn said(view: &Value, what: &str) -> String {
    let all = view["differs"].as_array().unwrap();
    all.iter().find(|one| one["what"] == what).map_or(String::new(), |one| one["said"].as_str().unwrap().to_owned())
}

fn usual(view: &Value, side: usize, what: &str) -> Option<f64> {
    let rows = view["sides"][side]["rows"].as_array().unwrap();
    rows.iter().find(|row| row["what"] == what).unwrap()["usual"].as_f64()
}

#[actix_web::test]
async fn two_systems_are_held_beside_each_other_over_the_same_days() {
    let app = Running::demo();
    let (tower, raft) = (app.system("Corner tower").await, app.system("Blue raft").await);
    let view = app.get(&format!("/api/compare?of=system:{tower},system:{raft}")).await;
    let names: Vec<&str> = view["sides"].as_array().unwrap().iter().map(|s| s["name"].as_str().unwrap()).collect();
    assert_eq!(names, ["Corner tower", "Blue raft"]);
    assert!(said(&view, "drunk").starts_with("Corner tower drinks most"), "{}", said(&view, "drunk"));
    assert!(said(&view, "drunk").ends_with("more than chance."));
    assert!(said(&view, "ph").contains("nothing to hold it against"));
    // A port's share of it is what it is over the ports that stood there.
    let port = app.get(&format!("/api/compare?of=system:{tower},system:{raft}&a_port=true")).await;
    let times = usual(&view, 0, "drunk").unwrap() / usual(&port, 0, "drunk").unwrap();
    assert!(times > 3.0, "{times}");
    // In days in which nothing was read there is nothing to tell.
    let early = app.get(&format!("/api/compare?of=system:{tower}&from=2020-01-01&to=2020-02-01")).await;
    assert_eq!(early["differs"], json!([]));
}

#[actix_web::test]
async fn cycles_begin_where_the_water_was_changed_and_plantings_where_they_were_planted() {
    let app = Running::demo();
    let row = app.system("Bucket row").await;
    let view = app.get(&format!("/api/compare?of=cycles:{row}")).await;
    let sides = view["sides"].as_array().unwrap();
    assert_eq!(sides.len(), 4);
    for pair in sides.windows(2) {
        assert_eq!(pair[0]["to"], pair[1]["from"], "one ends where the next begins");
    }
    let choices = app.get("/api/compare/choices").await;
    let planting =
        choices.as_array().unwrap().iter().find(|one| one["name"].as_str().unwrap().starts_with("Swiss chard"));
    let key = planting.unwrap()["key"].as_str().unwrap();
    let view = app.get(&format!("/api/compare?of={key}")).await;
    assert!(usual(&view, 0, "picked").unwrap() > 0.0, "what was weighed of it");
    assert!(
        view["sides"][0]["rows"][0]["points"]
            .as_array()
            .unwrap()
            .iter()
            .all(|point| point["day"].as_f64().unwrap() >= 0.0)
    );
}

#[actix_web::test]
async fn what_cannot_be_compared_is_refused_in_a_sentence() {
    let app = Running::demo();
    let tower = app.system("Corner tower").await;
    let code = async |path: String| {
        let (status, body) = app.asked(&path).await;
        (status, body["fields"][0]["code"].as_str().unwrap_or_default().to_owned())
    };
    assert_eq!(code("/api/compare?of=".into()).await, (422, "compare_nothing".into()));
    assert_eq!(code("/api/compare?of=ghost".into()).await, (422, "compare_side".into()));
    assert_eq!(code(format!("/api/compare?of=ghost:{tower}")).await, (422, "compare_side".into()));
    assert_eq!(code(format!("/api/compare?of=system:{}", Uuid::now_v7())).await.0, 404);
    assert_eq!(code(format!("/api/compare?of=planting:{tower}")).await.0, 404);
    let many: Vec<String> = (0..7).map(|_| format!("planting:{}", Uuid::now_v7())).collect();
    assert_eq!(code(format!("/api/compare?of={}", many.join(","))).await, (422, "compare_many".into()));
    let back = format!("/api/compare?of=system:{tower}&from=2027-03-01&to=2027-01-01");
    assert_eq!(code(back).await, (422, "trend_days".into()));
    // Never changed: it has no cycle.
    let other = Running::empty();
    let (_, tub) = other.first_system().await;
    let (status, body) = other.asked(&format!("/api/compare?of=cycles:{tub}")).await;
    assert_eq!((status, body["fields"][0]["code"].as_str()), (422, Some("compare_nothing")));
}

#[actix_web::test]
async fn a_product_has_the_price_of_its_pack_and_no_other() {
    let app = Running::demo();
    let places = app.get("/api/places").await;
    let by = places[0]["people"].as_array().unwrap().iter().find(|p| p["body"]["role"] == "caretaker").unwrap()["id"]
        .clone();
    let product = |price: Value| {
        let body = json!({ "card": "product", "name": "Leaf feed", "what": "one_part", "unit": "ml", "price": price });
        json!({ "id": Uuid::now_v7(), "by": by, "body": body })
    };
    assert_eq!(app.told("/api/cards", &product(json!({ "paid": 12.5, "money": "€", "holds": 1000 }))).await.0, 201);
    for (price, field) in [
        (json!({ "paid": -1, "money": "€", "holds": 1000 }), "body.price.paid"),
        (json!({ "paid": 1, "money": "€", "holds": 0 }), "body.price.holds"),
        (json!({ "paid": 1, "money": "thalers", "holds": 1 }), "body.price.money"),
    ] {
        let (status, answer) = app.told("/api/cards", &product(price)).await;
        assert_eq!((status, answer["fields"][0]["field"].as_str().unwrap()), (422, field), "{answer}");
    }
}
