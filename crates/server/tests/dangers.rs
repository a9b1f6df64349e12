//! Whatever danger is found at whatever system, by an adult or a child: it is first on every list, and stays until somebody
//! saw it put right.

use crate::common::Running;
use serde_json::{Value, json};
use uuid::Uuid;

/// What is found, how it is called, whether people are in danger, and how it is put right.
struct Danger {
    code: &'static str,
    found: Value,
    people: bool,
    mended: Value,
}

/// The dangers that a system can have.
fn dangers(view: &Value, children: bool) -> Vec<Danger> {
    let litres = |litres: f64| json!({ "level": { "by": "volume", "litres": litres, "pump_ran": true } });
    let (minimum, working) = (&view["system"]["reservoir"]["minimum"], &view["system"]["reservoir"]["working"]);
    let (minimum, working) = (minimum.as_f64().unwrap(), working.as_f64().unwrap());
    let mains = view["runs"].as_array().unwrap().iter().any(|part| part["key"] == "plug_right");
    let mut all: Vec<Danger> = [("dry_floor", mains), ("plug_right", true), ("bottles_away", true)]
        .into_iter()
        .chain([("bubbles", false), ("water_sounds_right", false), ("outlets_wet", false)])
        .filter(|(part, _)| view["runs"].as_array().unwrap().iter().any(|run| run["key"] == *part))
        .map(|(part, people)| {
            let seen = |right: bool| json!({ "running": { part: right } });
            Danger { code: "running", found: seen(false), people, mended: seen(true) }
        })
        .collect();
    assert_eq!(all.iter().any(|danger| danger.found["running"]["bottles_away"].is_boolean()), children);
    all.push(Danger { code: "level", found: litres(minimum * 0.3), people: false, mended: litres(working) });
    if view["system"]["traits"]["top_off_reservoir"] == true {
        let supply = |litres: f64| json!({ "supply": litres });
        all.push(Danger { code: "supply", found: supply(0.0), people: false, mended: supply(60.0) });
    }
    all
}

/// The code of what stands first for a system on each list that it is on.
async fn firsts(server: &Running, id: &str, place: &str) -> Vec<(&'static str, String)> {
    let said = |value: &Value| value.as_str().unwrap_or("nothing").to_owned();
    let round = server.get("/api/round").await;
    let (first, task) = (&round["systems"][0], &round["tasks"][0]);
    let here = |at: bool, code: &Value| if at { said(code) } else { "another system".to_owned() };
    let outing = server.get("/api/outing").await;
    let fit = server.get("/api/round/fit?minutes=10").await;
    let sheet = server.get(&format!("/api/systems/{id}/sheet")).await;
    let view = server.get(&format!("/api/systems/{id}")).await;
    let ahead = server.get(&format!("/api/places/{place}/ahead?days=7")).await;
    let coming = ahead["systems"].as_array().unwrap().iter().find(|system| system["id"] == id).unwrap();
    let chosen = &fit["chosen"][0];
    vec![
        ("round", here(first["id"] == id, &first["pressing"]["code"])),
        ("today", here(round["systems"][task["at"].as_u64().unwrap() as usize]["id"] == id, &task["task"]["code"])),
        ("stops", here(outing["stops"][0]["system"] == id, &outing["stops"][0]["tasks"][0]["code"])),
        ("ten minutes", here(chosen["system"] == id, &chosen["task"]["code"])),
        ("paper", said(&sheet["due"][0]["code"])),
        ("page", said(&view["tasks"][0]["code"])),
        ("weeks", said(&coming["coming"][0]["code"])),
    ]
}

#[actix_web::test]
async fn every_danger_is_first_on_every_list_until_it_is_mended() {
    let server = Running::demo();
    let record = async |id: &str, by: &str, visit: &Value| {
        let mut body = visit.clone();
        body["kind"] = json!("visit");
        server
            .told(&format!("/api/systems/{id}/entries"), &json!({ "id": Uuid::now_v7(), "by": by, "body": body }))
            .await
    };
    let round = server.get("/api/round").await;
    let systems: Vec<String> =
        round["systems"].as_array().unwrap().iter().map(|one| one["id"].as_str().unwrap().to_owned()).collect();
    // The demo's own danger is out of the way.
    let row = server.system("Bucket row").await;
    let view = server.get(&format!("/api/systems/{row}")).await;
    let adult = |view: &Value| {
        let mut people = view["people"].as_array().unwrap().iter();
        people.find(|one| one["body"]["role"] != "child").unwrap()["id"].as_str().unwrap().to_owned()
    };
    record(&row, &adult(&view), &json!({ "supply": 60.0 })).await;
    let mut tried = 0;
    for id in &systems {
        let view = server.get(&format!("/api/systems/{id}")).await;
        let place = view["place"]["id"].as_str().unwrap().to_owned();
        let child = view["people"].as_array().unwrap().iter().find(|one| one["body"]["role"] == "child");
        let child = child.map(|one| one["id"].as_str().unwrap().to_owned());
        for by in [Some(adult(&view)), child.clone()].into_iter().flatten() {
            for danger in dangers(&view, child.is_some()) {
                let (status, said) = record(id, &by, &danger.found).await;
                assert_eq!(status, 201, "{} {}: {said}", view["system"]["name"], danger.found);
                tried += 1;
                let what = format!("{} at {}", danger.found, view["system"]["name"]);
                for (list, code) in firsts(&server, id, &place).await {
                    assert!(code == danger.code || code == "put_right", "{list}: {code} before {what}");
                }
                let week = server.get(&format!("/api/places/{place}/week")).await;
                let here = week["systems"].as_array().unwrap().iter().find(|system| system["id"] == *id);
                let due = |row: &Value| row["cells"].as_array().unwrap().iter().any(|cell| cell["due"] == true);
                let sent = |here: &Value| here["rows"].as_array().unwrap().iter().any(due);
                assert!(!danger.people || here.is_none_or(|here| !sent(here)), "children are sent to {what}");
                // Somebody does other work, and says nothing of it.
                record(id, &adult(&view), &json!({ "note": "Swept the floor." })).await;
                let after = server.get(&format!("/api/systems/{id}")).await;
                assert_ne!(after["tasks"][0]["rank"], "routine", "{what} stays");
                let (status, said) = record(id, &adult(&view), &danger.mended).await;
                assert_eq!(status, 201, "{what}: {said}");
                let page = server.get(&format!("/api/systems/{id}")).await;
                assert_ne!(page["tasks"][0]["code"], danger.code, "{what} is mended");
            }
        }
    }
    assert!(tried >= 40, "{tried}");
}
