//! Water worked out and guided, walked through with the demo over the API.

use crate::common::Running;
use serde_json::{Value, json};
use uuid::Uuid;

struct At<'a> {
    server: &'a Running,
    system: String,
    by: String,
}

impl<'a> At<'a> {
    async fn new(server: &'a Running, name: &str) -> Self {
        let system = server.system(name).await;
        let by = server.person(&system, "Wren").await;
        Self { server, system, by }
    }

    async fn plan(&self, ask: Value) -> (u16, Value) {
        self.server.told("/api/bench/plan", &json!({ "system": self.system, "by": self.by, "ask": ask })).await
    }

    async fn planned(&self, ask: Value) -> Value {
        let (status, plan) = self.plan(ask).await;
        assert_eq!(status, 200, "{plan}");
        plan
    }

    async fn log(&self, body: &Value, at: Option<&str>) -> Value {
        let entry = json!({ "id": Uuid::now_v7(), "by": self.by, "body": body, "at": at });
        let (status, answer) = self.server.told(&format!("/api/systems/{}/entries", self.system), &entry).await;
        assert_eq!(status, 201, "{answer}");
        answer
    }
}

fn lines(entry: &Value) -> String {
    entry["lines"].as_array().unwrap().iter().map(|l| l.as_str().unwrap()).collect::<Vec<_>>().join("\n")
}

fn near(found: &Value, wanted: f64, within: f64) {
    assert!((found.as_f64().unwrap() - wanted).abs() <= within, "{found} is not {wanted}");
}

#[actix_web::test]
async fn a_fresh_fill_of_corner_tower_with_a_two_part_feed() {
    let server = Running::demo();
    let tower = At::new(&server, "Corner tower").await;
    let plan = tower.planned(json!({ "purpose": { "for": "fresh_fill" } })).await;
    let names: Vec<&str> = plan["doses"].as_array().unwrap().iter().map(|d| d["name"].as_str().unwrap()).collect();
    assert_eq!(names, ["Leaf feed A", "Leaf feed B", "pH down"], "put right before roots meet it");
    // 64 L once the pump runs and 3 L that run into the pipes; as printed 1.7, and the three crops meet at 1.2–1.6.
    near(&plan["doses"][0]["amount"]["value"], 4.0 * 67.0 * 1.1 / 1.4, 1e-6);
    assert!(plan["warnings"].to_string().contains("As printed it would come to about 1.70"), "{}", plan["warnings"]);
    assert!(plan["warnings"].to_string().contains("Fill with the pump off: 67.0 L in all"), "{}", plan["warnings"]);
    // Eight cans are too many to carry: it is mixed in the vessel, and in cans where that is wished.
    assert_eq!((&plan["in_vessel"], &plan["carry_kg"]), (&json!(true), &json!(0.0)));
    let cans = tower.planned(json!({ "purpose": { "for": "fresh_fill" }, "mix_in": "cans" })).await;
    let fillings: Vec<f64> = cans["shares"].as_array().unwrap().iter().map(|s| s["litres"].as_f64().unwrap()).collect();
    assert!((fillings.iter().sum::<f64>() - 67.0).abs() < 1e-9 && fillings.len() == 8, "{fillings:?}");
    assert!(fillings.iter().all(|litres| (8.0..=8.5).contains(litres)), "as even as the cans take it: {fillings:?}");
    assert!(
        plan["doses"][0]["portions"][0]["measured"].as_str().unwrap().contains("syringe")
            || plan["doses"][0]["portions"][0]["measured"].as_str().unwrap().contains("cylinder")
    );
    let logged = tower.log(&plan["entry"], None).await;
    assert!(lines(&logged).contains("Mixed into 67.0 L: 211 mL Leaf feed A, 211 mL Leaf feed B"), "{}", lines(&logged));
}

#[actix_web::test]
async fn a_change_of_propagation_tote_by_the_guide_with_its_heel_and_two_cans() {
    let server = Running::demo();
    let tote = At::new(&server, "Propagation tote").await;
    let path = format!("/api/systems/{}/change", tote.system);
    let plan = tote
        .planned(
            json!({ "purpose": { "for": "change", "heel_ec": { "value": 0.9, "scale": "ms_cm" } }, "recipe": null }),
        )
        .await;
    near(&plan["batch"], 32.0, 1e-9);
    assert_eq!(
        plan["shares"].as_array().unwrap().iter().map(|s| s["container"].as_str().unwrap()).collect::<Vec<_>>(),
        ["grey can", "blue can"]
    );
    assert_eq!(
        plan["doses"].as_array().unwrap().iter().map(|d| d["what"].as_str().unwrap()).collect::<Vec<_>>(),
        ["micro", "grow", "bloom"]
    );
    let begun = server.get(&path).await;
    assert!(begun["under_way"].is_null());
    let steps: Vec<String> =
        begun["guide"]["steps"].as_array().unwrap().iter().map(|s| s["step"].as_str().unwrap().to_owned()).collect();
    assert!(steps.contains(&"heel".to_owned()) && steps.contains(&"power_on".to_owned()));
    let id = Uuid::now_v7();
    let save = |version: i64, run: Value| json!({ "id": id, "by": tote.by, "version": version, "run": run });
    let half = json!({ "extent": "full", "heel": 3.0, "batch": plan["entry"]["batch"], "parts": { "steps": { "prepare": { "at": "2027-03-09T08:00:00Z" } }, "tank_temperature": 22.0, "batch_temperature": 18.5 } });
    assert_eq!(server.put(&path, &save(0, half.clone())).await.status(), 200);
    assert_eq!(
        server.get("/api/round").await["systems"]
            .as_array()
            .unwrap()
            .iter()
            .find(|s| s["name"] == "Propagation tote")
            .unwrap()["changing"],
        true
    );
    let paused = server.get(&path).await;
    assert_eq!((&paused["under_way"]["version"], &paused["under_way"]["run"]["heel"]), (&json!(1), &json!(3.0)));
    assert!(paused["guide"]["steps"][1]["finding"].as_str().unwrap().contains("3.5 °C colder"));
    let other = server.put(&path, &save(0, json!({ "extent": "partial" }))).await;
    assert_eq!(other.status(), 409, "another device does not overwrite it");

    let (status, early) = server.told(&format!("{path}/finish"), &json!({ "id": id, "by": tote.by })).await;
    assert_eq!(status, 422, "{early}");
    let mut all = half;
    all["volume_after"] = json!(34.0);
    all["ec"] = json!({ "value": 0.92, "scale": "ms_cm" });
    for step in &steps {
        all["parts"]["steps"][step] = json!({ "at": "2027-03-09T08:20:00Z" });
    }
    assert_eq!(server.put(&path, &save(1, all)).await.status(), 200);
    let (status, entry) = server.told(&format!("{path}/finish"), &json!({ "id": id, "by": tote.by })).await;
    assert_eq!(status, 201, "{entry}");
    assert!(
        lines(&entry).contains("3.0 L of old water left in") && lines(&entry).contains("By the guide"),
        "{}",
        lines(&entry)
    );
    let (again, same) = server.told(&format!("{path}/finish"), &json!({ "id": id, "by": tote.by })).await;
    assert_eq!((again, &same["id"]), (200, &entry["id"]), "a repeated request makes one entry");
    assert!(server.get(&path).await["under_way"].is_null());
}

#[actix_web::test]
async fn a_dry_batch_and_a_two_step_top_off_of_bucket_row_in_us_units() {
    let server = Running::demo();
    let row = At::new(&server, "Bucket row").await;
    let dry = row.planned(json!({ "purpose": { "for": "change" }, "as_printed": true, "stage": "vegetative" })).await;
    assert!(dry["doses"][0]["said"].as_str().unwrap().starts_with("2.65 oz"), "{}", dry["doses"][0]["said"]);
    assert!(dry["answer"].as_str().unwrap().contains("gal") && dry["carry"].as_str().unwrap().ends_with("lb to carry"));
    let two = row.planned(json!({ "purpose": { "for": "top_off", "from": 95.0, "ec": { "value": 1200, "scale": "ppm500" }, "method": "measured", "batch": 8.0 }, "target": { "value": 1200, "scale": "ppm500" } })).await;
    near(&two["plain"], 15.0, 1e-9);
    near(&two["after_ec"]["value"], 2.4, 1e-9);
    assert!(two["batch_ec"]["said"].as_str().unwrap().contains("ppm (500)"));
    let logged = row.log(&two["entry"], None).await;
    assert!(lines(&logged).contains("Topped off 6.1 gal of feed at"), "{}", lines(&logged));
    let view = server.get(&format!("/api/systems/{}", row.system)).await;
    assert!(view["top_off"]["finding"].is_string(), "two stretches are known: {}", view["top_off"]);
}

#[actix_web::test]
async fn a_refill_of_window_crate_is_refused_above_its_line() {
    let server = Running::demo();
    let crate_ = At::new(&server, "Window crate").await;
    let (status, problem) = crate_.plan(json!({ "purpose": { "for": "top_off", "to": 15.9 } })).await;
    assert_eq!((status, &problem["fields"][0]["field"]), (422, &json!("ask.purpose.to")), "{problem}");
    assert!(problem["fields"][0]["mend"].as_str().unwrap().contains("refills, seven days apart"), "{problem}");
    let fits = crate_.planned(json!({ "purpose": { "for": "top_off" } })).await;
    let view = server.get(&format!("/api/systems/{}", crate_.system)).await;
    near(&fits["after"], view["room"]["up_to"].as_f64().unwrap(), 1e-9);
}

#[actix_web::test]
async fn a_correction_of_loft_rails_is_learnt_from_when_it_is_measured_again() {
    let server = Running::demo();
    let rails = At::new(&server, "Loft rails").await;
    let ask = |ph: f64| json!({ "purpose": { "for": "ph", "litres": 92.0, "ph": { "by": "meter", "value": ph } } });
    // Its meter is past its date, and no dose is worked out by it until it was held against its buffers.
    let (status, refused) = rails.plan(ask(6.9)).await;
    assert!(status == 422 && refused["detail"].as_str().unwrap().contains("calibrated 41 days ago"), "{refused}");
    rails.log(&json!({ "kind": "visit", "done": ["calibrate"] }), Some("2027-03-09T07:50:00Z")).await;
    let first = rails.planned(ask(6.9)).await;
    let estimate = &first["ph_estimate"];
    assert_eq!(
        (&estimate["source"], &estimate["part"], &estimate["wait_minutes"]),
        (&json!("history"), &json!("half"), &json!(20)),
        "{estimate}"
    );
    assert!(first["sure"].as_str().unwrap().contains("3 corrections"));
    rails.log(&first["entry"], Some("2027-03-09T08:00:00Z")).await;
    let timer = json!({ "id": Uuid::now_v7(), "system": rails.system, "what": "remeasure", "label": "Measure pH again", "minutes": 20 });
    assert_eq!(server.post("/api/timers", &timer).await.status(), 201);
    assert_eq!(server.post("/api/timers", &timer).await.status(), 201, "a retry starts no second one");
    let running = server.get("/api/timers").await;
    assert_eq!(
        (running.as_array().unwrap().len(), &running[0]["system_name"], &running[0]["seconds_left"]),
        (1, &json!("Loft rails"), &json!(1200))
    );
    rails.log(&json!({ "kind": "visit", "ph": { "by": "meter", "value": 6.5 } }), Some("2027-03-09T08:25:00Z")).await;
    let rest = rails.planned(ask(6.6)).await;
    assert_eq!(rest["ph_estimate"]["part"], "rest");
    assert!(rest["sure"].as_str().unwrap().contains("4 corrections"), "{}", rest["sure"]);
    let (status, base) = rails.plan(ask(5.2)).await;
    assert!(status == 422 && base["detail"].as_str().unwrap().contains("cid poured today"), "{base}");
    let deleted = server
        .client
        .delete(format!("{}/api/timers/{}", server.base, running[0]["id"].as_str().unwrap()))
        .send()
        .await
        .unwrap();
    assert_eq!(deleted.status(), 204);
    assert_eq!(server.get("/api/timers").await, json!([]));
}

#[actix_web::test]
async fn plain_calculations_need_no_system_and_store_nothing() {
    let server = Running::empty();
    let calculated = |ask: Value| {
        let server = &server;
        async move {
            server.told("/api/bench/plan", &json!({ "units": "imperial", "ec_scale": "ppm700", "ask": ask })).await
        }
    };
    let (status, plan) = calculated(
        json!({ "purpose": { "for": "change", "litres": 46.0, "heel": 4.0, "heel_ec": { "value": 2.6, "scale": "ms_cm" } }, "target": { "value": 1.8, "scale": "ms_cm" } }),
    )
    .await;
    assert_eq!(status, 200, "{plan}");
    near(&plan["batch_ec"]["value"], 1.724, 5e-4);
    assert!(
        plan["answer"].as_str().unwrap().contains("9.2 gal at 1207 ppm (700)") && plan["entry"].is_null(),
        "{}",
        plan["answer"]
    );
    let (_, thin) =
        calculated(json!({ "purpose": { "for": "dilution", "from_percent": 12, "to_percent": 3, "litres": 1 } })).await;
    assert!(thin["answer"].as_str().unwrap().contains("1 part and 3 of water"));
    for (ask, field) in [
        (json!({ "purpose": { "for": "jug", "litres": 0 } }), "ask.purpose.litres"),
        (json!({ "purpose": { "for": "jug", "litres": -4 } }), "ask.purpose"),
        (json!({ "purpose": { "for": "jug", "litres": "ten" } }), "ask.purpose"),
        (json!({ "purpose": { "for": "jug", "litres": 1e-9 } }), "ask.purpose.litres"),
        (json!({ "purpose": { "for": "ph", "litres": 10, "ph": { "by": "meter", "value": 13 } } }), "ask.purpose.ph"),
        (
            json!({ "purpose": { "for": "dilution", "from_percent": 70, "to_percent": 3, "litres": 1 } }),
            "ask.purpose.from_percent",
        ),
        (
            json!({ "purpose": { "for": "jug", "litres": 10 }, "target": { "value": 0.1, "scale": "ms_cm" } }),
            "ask.target",
        ),
        (
            json!({ "purpose": { "for": "jug", "litres": 10 }, "target": { "value": 800, "scale": "ppm" } }),
            "ask.target.scale",
        ),
        (json!({ "purpose": { "for": "dilution", "from_percent": 3, "to_percent": 12, "litres": 1 } }), "ask.purpose"),
        (json!({ "purpose": { "for": "change", "litres": 10, "heel": 12 } }), "ask.purpose.heel"),
        (json!({ "purpose": { "for": "soup", "litres": 10 } }), "ask.purpose.for"),
        (
            json!({ "purpose": { "for": "jug", "litres": 10 }, "tools": [{ "name": "x", "unit": "ml", "holds": 0, "marked_each": 1 }] }),
            "ask.tools.0",
        ),
    ] {
        let (status, problem) = calculated(ask.clone()).await;
        assert_eq!((status, problem["fields"][0]["field"].as_str().unwrap()), (422, field), "{ask} gave {problem}");
    }
}

#[actix_web::test]
async fn own_products_and_recipes_are_made_and_wrong_ones_refused() {
    let server = Running::empty();
    let make = |body: Value| {
        let server = &server;
        async move {
            let id = Uuid::now_v7();
            let (status, answer) = server.told("/api/cards", &json!({ "id": id, "body": body })).await;
            (id, status, answer)
        }
    };
    let label = json!({ "card": "product", "name": "Shed feed", "what": "one_part", "unit": "ml", "rate": { "value": 2, "amount": "own_measure", "measure": "my cap", "per": 5, "volume": "us_gallon" }, "measures": [{ "name": "my cap", "holds": 4 }] });
    let (product, status, answer) = make(label.clone()).await;
    assert_eq!(status, 201, "{answer}");
    let mut only_label = label;
    only_label.as_object_mut().unwrap().remove("card");
    let (_, read) = server.told("/api/bench/rate", &only_label).await;
    near(&read["per_litre"]["value"], 8.0 / 18.927_058_92, 1e-9);
    assert_eq!(read["said"], "2 my cap per 5 US gal");
    let parts = json!({ "seedling": 0.5, "vegetative": 1, "flowering": 1, "ripening": 0.5 });
    let (recipe, status, answer) =
        make(json!({ "card": "recipe", "name": "Shed", "lines": [{ "product": product, "parts": parts }] })).await;
    assert_eq!(status, 201, "{answer}");
    let ask = json!({ "ask": { "purpose": { "for": "jug", "litres": 20 }, "recipe": recipe } });
    let (status, plan) = server.told("/api/bench/plan", &ask).await;
    assert_eq!(status, 200, "{plan}");
    assert!(plan["batch_ec"].is_null(), "no rise is known yet");
    let (status, refused) =
        server.told("/api/bench/plan", &json!({ "ask": { "purpose": { "for": "jug", "litres": 20 }, "recipe": recipe, "target": { "value": 1.2, "scale": "ms_cm" } } })).await;
    assert!(status == 422 && refused["fields"][0]["mend"].as_str().unwrap().contains("log it"), "{refused}");
    for (body, field) in [
        (
            json!({ "card": "product", "name": "Gel", "what": "one_part", "unit": "ml", "rate": { "value": 2, "amount": "grams", "volume": "litre" } }),
            "body.rate",
        ),
        (json!({ "card": "product", "name": "Bleaching", "what": "peroxide", "unit": "ml" }), "body.percent"),
        (
            json!({ "card": "product", "name": "Salt", "what": "dry_base", "unit": "g", "rate": { "value": -2, "amount": "grams", "volume": "litre" } }),
            "body.rate",
        ),
        (json!({ "card": "recipe", "name": "Empty", "lines": [] }), "body.lines"),
        (
            json!({ "card": "recipe", "name": "Twice", "lines": [{ "product": product, "parts": parts }, { "product": product, "parts": parts }] }),
            "body.lines.1.product",
        ),
        (
            json!({ "card": "recipe", "name": "Unknown", "lines": [{ "product": Uuid::now_v7(), "parts": parts }] }),
            "body.lines.0.product",
        ),
    ] {
        let (_, status, problem) = make(body.clone()).await;
        assert_eq!((status, problem["fields"][0]["field"].as_str().unwrap()), (422, field), "{body} gave {problem}");
    }
    let shelf = server.get("/api/shelf").await;
    assert!(
        shelf["products"].as_array().unwrap().iter().any(|p| p["label"]["name"] == "Shed feed" && !p["card"].is_null())
    );
    assert!(shelf["recipes"].as_array().unwrap().len() > 6);
}

#[actix_web::test]
async fn a_reader_with_units_of_their_own_is_answered_in_them() {
    let server = Running::demo();
    let rails = At::new(&server, "Loft rails").await;
    let places = server.get("/api/places").await;
    let ansa = places
        .as_array()
        .unwrap()
        .iter()
        .flat_map(|p| p["people"].as_array().unwrap())
        .find(|p| p["body"]["name"] == "Ansa")
        .unwrap()
        .clone();
    let mut body = ansa["body"].clone();
    body["units"] = json!("us");
    body["ec_scale"] = json!("ppm700");
    let id = ansa["id"].as_str().unwrap();
    assert_eq!(
        server.put(&format!("/api/cards/{id}"), &json!({ "version": ansa["version"], "body": body })).await.status(),
        200
    );
    let view = server.get(&format!("/api/systems/{}?by={id}", rails.system)).await;
    assert_eq!((&view["units"], &view["ec_scale"]), (&json!("us"), &json!("ppm700")));
    assert!(view["last"].as_array().unwrap().iter().any(|l| l["said"].as_str().unwrap().contains("ppm (700)")));
    assert_eq!(server.get(&format!("/api/systems/{}", rails.system)).await["units"], "metric");
    let (_, plan) = server
        .told(
            "/api/bench/plan",
            &json!({ "system": rails.system, "by": id, "ask": { "purpose": { "for": "fresh_fill" } } }),
        )
        .await;
    assert!(plan["answer"].as_str().unwrap().contains("gal at"), "{}", plan["answer"]);
}

#[actix_web::test]
async fn a_child_gets_no_mix_and_leads_no_change() {
    let server = Running::demo();
    let tower = server.system("Corner tower").await;
    let child = server.person(&tower, "J. T.").await;
    let (status, problem) = server
        .told(
            "/api/bench/plan",
            &json!({ "system": tower, "by": child, "ask": { "purpose": { "for": "jug", "litres": 5 } } }),
        )
        .await;
    assert_eq!((status, &problem["fields"][0]["field"]), (422, &json!("actor")));
    let run = json!({ "id": Uuid::now_v7(), "by": child, "version": 0, "run": { "extent": "full" } });
    assert_eq!(server.put(&format!("/api/systems/{tower}/change"), &run).await.status(), 422);
    let looked = server.get(&format!("/api/systems/{tower}/change?by={child}")).await;
    assert_eq!(looked["guide"]["steps"], json!([]), "no step with mains is told to a child who looks on");
    let bleach =
        json!({ "run": { "extent": "full", "parts": { "reset": true, "sanitisers": ["bleach", "vinegar"] } } });
    let (status, refused) = server.told(&format!("/api/systems/{tower}/change/guide"), &bleach).await;
    assert!(status == 422 && refused["detail"].as_str().unwrap().contains("chlorine gas"), "{refused}");
    let (status, refused) =
        server.told("/api/timers", &json!({ "id": Uuid::now_v7(), "what": "mix", "label": "x", "minutes": 0 })).await;
    assert_eq!((status, &refused["fields"][0]["field"]), (422, &json!("minutes")));
}

/// The example of a request in the description: at the request itself, or at its schema.
fn example(description: &Value, operation: &Value) -> Option<Value> {
    let content = &operation["requestBody"]["content"]["application/json"];
    if !content["example"].is_null() {
        return Some(content["example"].clone());
    }
    let name = content["schema"]["$ref"].as_str()?.rsplit('/').next()?;
    let schema = &description["components"]["schemas"][name];
    (!schema["example"].is_null()).then(|| schema["example"].clone())
}

#[actix_web::test]
async fn every_computation_is_described_with_an_example_that_works_and_stores_nothing() {
    let server = Running::demo();
    let system = server.system("Loft rails").await;
    let description = server.get("/api/openapi.json").await;
    let computations = [
        "/api/shape/preview",
        "/api/bench/plan",
        "/api/bench/rate",
        "/api/systems/{id}/judge",
        "/api/systems/{id}/change/guide",
    ];
    let before = server.get(&format!("/api/systems/{system}/log?limit=100")).await;
    for path in computations {
        let operation = &description["paths"][path]["post"];
        let example = example(&description, operation).unwrap_or_else(|| panic!("{path} has no example"));
        let (status, answer) = server.told(&path.replace("{id}", &system), &example).await;
        assert_eq!(status, 200, "{path}: {answer}");
    }
    assert_eq!(server.get(&format!("/api/systems/{system}/log?limit=100")).await, before);
    assert!(server.get(&format!("/api/systems/{system}/change")).await["under_way"].is_null());
    let timer = example(&description, &description["paths"]["/api/timers"]["post"]).unwrap();
    assert_eq!(server.post("/api/timers", &timer).await.status(), 201);
}

#[actix_web::test]
async fn timers_and_a_change_under_way_survive_kill_minus_nine() {
    let server = Running::empty();
    let (person, system) = server.first_system().await;
    let timer = json!({ "id": Uuid::now_v7(), "system": system, "what": "root_bath", "label": "Roots out of the bath", "minutes": 12 });
    assert_eq!(server.post("/api/timers", &timer).await.status(), 201);
    let run = json!({ "id": Uuid::now_v7(), "by": person, "version": 0, "run": { "extent": "full", "parts": { "swap": true } } });
    assert_eq!(server.put(&format!("/api/systems/{system}/change"), &run).await.status(), 200);
    let server = server.killed_and_restarted();
    let timers = server.get("/api/timers").await;
    assert_eq!(
        (&timers[0]["label"], &timers[0]["system_name"]),
        (&json!("Roots out of the bath"), &json!("Window crate"))
    );
    assert!((600..=720).contains(&timers[0]["seconds_left"].as_i64().unwrap()));
    let under_way = server.get(&format!("/api/systems/{system}/change")).await;
    assert_eq!(
        (&under_way["under_way"]["run"]["parts"]["swap"], &under_way["under_way"]["who_name"]),
        (&json!(true), &json!("Wren"))
    );
    let run = server.get(&format!("/api/systems/{system}/change")).await["under_way"].clone();
    let seen = format!("id={}&version={}", run["id"].as_str().unwrap(), run["version"]);
    let dropped = server.delete(&format!("/api/systems/{system}/change?{seen}"), &person.to_string()).await;
    assert_eq!(dropped.status(), 204);
    assert!(server.get(&format!("/api/systems/{system}/change")).await["under_way"].is_null());
}

#[actix_web::test]
async fn what_was_really_used_is_logged_and_teaches_the_shelf() {
    let server = Running::demo();
    let rails = At::new(&server, "Loft rails").await;
    let learnt = |shelf: &Value| {
        shelf["products"].as_array().unwrap().iter().find(|p| p["label"]["name"] == "Leaf feed A").unwrap().clone()
    };
    assert!(learnt(&server.get("/api/shelf").await)["learnt_rise"].is_null());
    let first = rails.planned(json!({ "purpose": { "for": "change" } })).await;
    for _ in 0..2 {
        let mut body = first["entry"].clone();
        // Mixed as planned for 1.40, but it measured a tenth of the feed less.
        body["batch"]["ec"] = json!({ "value": 1.29, "scale": "ms_cm" });
        body["batch"]["source_ec"] = json!(0.3);
        rails.log(&body, None).await;
    }
    let taught = learnt(&server.get("/api/shelf").await);
    assert_eq!(taught["batches"], 2);
    let rise = taught["learnt_rise"].as_f64().unwrap();
    assert!(rise < 0.19 && rise > 0.15, "{rise}");
    let next = rails.planned(json!({ "purpose": { "for": "change" } })).await;
    assert!(next["sure"].as_str().unwrap().contains("learnt from logged batches"), "{}", next["sure"]);
    near(&next["strength"], first["strength"].as_f64().unwrap() * 0.19 / rise, 1e-9);
}

#[actix_web::test]
async fn feed_mixed_ahead_is_kept_with_its_strength_and_drawn_from() {
    let server = Running::demo();
    let rails = At::new(&server, "Loft rails").await;
    let mut jug = rails.planned(json!({ "purpose": { "for": "jug", "litres": 20 } })).await["entry"].clone();
    jug["ec"] = json!({ "value": 1.38, "scale": "ms_cm" });
    rails.log(&jug, None).await;
    let view = server.get(&format!("/api/systems/{}", rails.system)).await;
    assert!(
        view["last"]
            .as_array()
            .unwrap()
            .iter()
            .any(|l| l["subject"] == "premixed" && l["said"].as_str().unwrap().contains("20.0 L"))
    );
    let plan =
        rails.planned(json!({ "purpose": { "for": "top_off", "from": 90, "to": 96, "method": "premixed" } })).await;
    assert!(plan["answer"].as_str().unwrap().starts_with("Add 6.0 L at 1.38"), "{}", plan["answer"]);
    rails.log(&plan["entry"], None).await;
    let (status, gone) =
        rails.plan(json!({ "purpose": { "for": "top_off", "from": 60, "to": 90, "method": "premixed" } })).await;
    assert!(status == 422 && gone["detail"].as_str().unwrap().contains("14.0 L left"), "{gone}");
}

#[actix_web::test]
async fn the_methods_of_a_system_are_checked_where_they_are_set() {
    let server = Running::demo();
    let places = server.get("/api/places").await;
    let card = |name: &str| {
        places
            .as_array()
            .unwrap()
            .iter()
            .flat_map(|p| p["systems"].as_array().unwrap())
            .find(|s| s["body"]["name"] == name)
            .unwrap()
            .clone()
    };
    let raft = card("Blue raft");
    for (methods, field) in [
        (json!({ "ph": "reservoir" }), "body.methods.ph"),
        (json!({ "top_off": "reservoir" }), "body.methods.top_off"),
        (json!({ "alkalinity": -5 }), "body.methods.alkalinity"),
        (json!({ "alkalinity": 1e9 }), "body.methods.alkalinity"),
        (json!({ "recipe": Uuid::now_v7() }), "body.methods.recipe"),
        (json!({ "source_ph": 15 }), "body.methods.source_ph"),
        (json!({ "source": "sea" }), "body.methods.source"),
    ] {
        let mut body = raft["body"].clone();
        body["methods"] = methods.clone();
        let answer = server
            .put(
                &format!("/api/cards/{}", raft["id"].as_str().unwrap()),
                &json!({ "version": raft["version"], "body": body }),
            )
            .await;
        assert_eq!(answer.status(), 422);
        let problem: Value = answer.json().await.unwrap();
        assert_eq!(problem["fields"][0]["field"], field, "{methods} gave {problem}");
    }
    let place =
        places.as_array().unwrap().iter().find(|p| p["card"]["body"]["name"] == "Tern Street flat").unwrap()["card"]
            .clone();
    for (containers, tools, field) in [
        (json!([{ "name": "thimble", "holds": 0.001 }]), json!([]), "body.containers.0.holds"),
        (json!([]), json!([{ "name": "syringe", "unit": "ml", "holds": 20, "marked_each": 30 }]), "body.tools.0"),
        (json!([]), json!([{ "name": "syringe", "unit": "cups", "holds": 20, "marked_each": 1 }]), "body.tools.0.unit"),
    ] {
        let mut body = place["body"].clone();
        (body["containers"], body["tools"]) = (containers, tools);
        let answer = server
            .put(
                &format!("/api/cards/{}", place["id"].as_str().unwrap()),
                &json!({ "version": place["version"], "body": body }),
            )
            .await;
        let problem: Value = answer.json().await.unwrap();
        assert_eq!((&problem["status"], &problem["fields"][0]["field"]), (&json!(422), &json!(field)), "{problem}");
    }
}

#[actix_web::test]
async fn entries_of_the_bench_are_checked_at_their_fields() {
    let server = Running::demo();
    let rails = At::new(&server, "Loft rails").await;
    let dosed = |value: f64, what: &str| json!({ "product": Uuid::now_v7(), "name": "pH down", "what": what, "amount": { "value": value, "unit": "ml" } });
    let correction = |dosed: Value, litres: f64| json!({ "kind": "correction", "from": { "by": "meter", "value": 6.9 }, "aim": 6, "litres": litres, "dosed": dosed });
    let path = format!("/api/systems/{}/entries", rails.system);
    for (body, field) in [
        (correction(dosed(0.0, "ph_down"), 90.0), "body.dosed.amount"),
        (correction(dosed(-3.0, "ph_down"), 90.0), "body.dosed.amount"),
        (correction(dosed(5.0, "leaf"), 90.0), "body.dosed.what"),
        (correction(dosed(5.0, "part_a"), 90.0), "body.dosed"),
        (correction(dosed(5.0, "ph_down"), 900.0), "body.litres"),
        (json!({ "kind": "premix", "into": "jug", "litres": 0 }), "body.litres"),
        (json!({ "kind": "premix", "into": "sink", "litres": 5 }), "body.into"),
        (json!({ "kind": "change", "extent": "full", "volume_after": 90, "heel": 95 }), "body.heel"),
        (json!({ "kind": "visit", "drained": 500 }), "body.drained"),
        (
            json!({ "kind": "visit", "batch": { "fresh": 10, "used": [], "ec": { "value": 900, "scale": "ms_cm" } } }),
            "body.batch.ec",
        ),
    ] {
        let entry = json!({ "id": Uuid::now_v7(), "by": rails.by, "body": body });
        let (status, problem) = server.told(&path, &entry).await;
        assert_eq!((status, problem["fields"][0]["field"].as_str().unwrap()), (422, field), "{body} gave {problem}");
    }
}

#[actix_web::test]
async fn advice_that_stands_is_set_aside_by_itself_and_nothing_else_is() {
    let server = Running::demo();
    let jars = At::new(&server, "Shelf jars (4)").await;
    let path = format!("/api/systems/{}/entries", jars.system);
    let send = async |subject: &str| {
        let body = json!({ "kind": "visit", "overruled": { subject: "Known, and harmless" } });
        server.told(&path, &json!({ "id": Uuid::now_v7(), "by": jars.by, "body": body })).await
    };
    let found = async || {
        let view = server.get(&format!("/api/systems/{}", jars.system)).await;
        let all = view["verdicts"].as_array().unwrap().clone();
        all.iter().map(|one| one["verdict"]["subject"].as_str().unwrap().to_owned()).collect::<Vec<_>>()
    };
    assert!(found().await.contains(&"glass".to_owned()));
    assert_eq!(send("glass").await.0, 201);
    assert!(!found().await.contains(&"glass".to_owned()));
    let (status, problem) = send("glass").await;
    assert_eq!((status, &problem["fields"][0]["code"]), (422, &json!("nothing_to_set_aside")), "once is enough");
    assert_eq!(send("roots").await.0, 422, "none of that kind stands there");
}

#[actix_web::test]
async fn a_change_is_dated_by_when_it_was_done() {
    let server = Running::demo();
    let crate_ = At::new(&server, "Window crate").await;
    let (path, id) = (format!("/api/systems/{}/change", crate_.system), Uuid::now_v7());
    let (_, guide) =
        server.told(&format!("{path}/guide"), &json!({ "run": {"extent": "full"}, "by": crate_.by })).await;
    let mark = json!({ "at": "2027-03-08T19:00:00Z" });
    let steps: serde_json::Map<String, Value> = guide["steps"]
        .as_array()
        .unwrap()
        .iter()
        .map(|step| (step["step"].as_str().unwrap().to_owned(), mark.clone()))
        .collect();
    let fill = &guide["fill_to"];
    let run = json!({ "extent": "full", "parts": { "steps": steps }, "volume_after": fill });
    let saved = server.put(&path, &json!({ "id": id, "version": 0, "run": run, "by": crate_.by })).await;
    assert_eq!(saved.status(), 200);
    let ahead = json!({ "id": id, "by": crate_.by, "at": "2027-04-01T08:00:00Z" });
    assert_eq!(server.told(&format!("{path}/finish"), &ahead).await.0, 422, "nothing is recorded ahead of time");
    let done = json!({ "id": id, "by": crate_.by, "at": "2027-03-08T19:05:00Z" });
    let (status, entry) = server.told(&format!("{path}/finish"), &done).await;
    assert_eq!((status, &entry["at"]), (201, &json!("2027-03-08T19:05:00Z")), "{entry}");
}

/// The outlook of a system on one thing, as it is said.
async fn ahead(server: &Running, system: &str, of: &str) -> String {
    let view = server.get(&format!("/api/systems/{system}")).await;
    let found = view["outlook"].as_array().unwrap().iter().find(|one| one["of"] == of).cloned();
    found.map_or_else(String::new, |one| one["said"].as_str().unwrap().to_owned())
}

#[actix_web::test]
async fn one_drum_that_is_read_at_one_system_is_known_at_the_other() {
    let server = Running::demo();
    let (row, mat) = (At::new(&server, "Bucket row").await, At::new(&server, "Mat bench").await);
    let card = async |system: &str| server.get(&format!("/api/systems/{system}")).await;
    let edit = async |system: &str, change: &dyn Fn(&mut Value)| {
        let view = card(system).await;
        let mut body = view["card"]["body"].clone();
        change(&mut body);
        let edit = json!({ "version": view["card"]["version"], "body": body });
        let response = server.put(&format!("/api/cards/{system}"), &edit).await;
        (response.status().as_u16(), response.text().await.unwrap())
    };
    let share = |of: Option<&str>, part: f64| {
        let of = of.map(str::to_owned);
        move |body: &mut Value| {
            body["traits"]["top_off_reservoir"] = json!(true);
            body["drum_share"] = json!(part);
            if let Some(of) = &of {
                body["drum_of"] = json!(of);
            }
        }
    };
    // First the one that it belongs to says what part is its own.
    let (status, said) = edit(&mat.system, &share(Some(&row.system), 0.5)).await;
    assert_eq!(status, 422, "{said}");
    assert!(said.contains("drum_not_shared"), "{said}");
    assert_eq!(edit(&row.system, &share(None, 0.6)).await.0, 200);
    let (status, said) = edit(&mat.system, &share(Some(&row.system), 0.5)).await;
    assert!(status == 422 && said.contains("of which 40 % are left"), "{said}");
    assert_eq!(edit(&mat.system, &share(Some(&row.system), 0.4)).await.0, 200);
    // It cannot be taken from under the other.
    let (status, said) = edit(&row.system, &|body| body["drum_share"] = Value::Null).await;
    assert!(status == 422 && said.contains("drum_in_use"), "{said}");
    let view = card(&row.system).await;
    let put_away = json!({ "version": view["card"]["version"], "archived": true });
    let response = server.put(&format!("/api/cards/{}", row.system), &put_away).await;
    assert_eq!(response.status(), 422, "nobody would be told to fill it");
    // Read at its own system, it is known at both; at the other it is refused.
    let before = ahead(&server, &mat.system, "supply").await;
    row.log(&json!({ "kind": "premix", "into": "top_off_reservoir", "litres": 100.0 }), None).await;
    let after = ahead(&server, &mat.system, "supply").await;
    assert_ne!(before, after);
    assert_eq!(after, ahead(&server, &row.system, "supply").await, "one drum, one sentence");
    let entry = json!({ "id": Uuid::now_v7(), "by": mat.by, "body": { "kind": "visit", "supply": 20.0 } });
    let (status, said) = server.told(&format!("/api/systems/{}/entries", mat.system), &entry).await;
    assert!(status == 422 && said.to_string().contains("supply_elsewhere"), "{said}");
    let (status, said) = mat.plan(json!({ "purpose": { "for": "top_off_reservoir" } })).await;
    assert!(status == 422 && said.to_string().contains("supply_elsewhere"), "{said}");
}
