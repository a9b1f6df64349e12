//! Readings in bulk: of a logger's script and of files. All of it or nothing, twice is once, and each line that cannot be
//! taken is told with where it stands.

use crate::common::Running;
use jiff::{SignedDuration, Timestamp};
use serde_json::{Value, json};
use uuid::Uuid;

struct Tower {
    app: Running,
    system: String,
    wren: String,
}

impl Tower {
    async fn new() -> Self {
        let app = Running::demo();
        let system = app.system("Corner tower").await;
        let wren = app.person(&system, "Wren").await;
        Self { app, system, wren }
    }

    async fn send(&self, path: &str, kind: &str, body: impl Into<reqwest::Body>) -> (u16, Value) {
        let request = self.app.client.post(format!("{}{path}", self.app.base));
        let request = request.header("Mopsel-Person", &self.wren).header("Content-Type", kind);
        let answer = request.body(body).send().await.unwrap();
        (answer.status().as_u16(), answer.json().await.unwrap())
    }

    async fn look(&self, text: &str) -> Value {
        let (status, looked) = self.send("/api/readings/look", "text/csv", text.to_owned()).await;
        assert_eq!(status, 200, "{looked}");
        looked
    }

    async fn file(&self, text: impl Into<reqwest::Body>, how: &Value) -> (u16, Value) {
        let query = [("how", how.to_string()), ("id", Uuid::now_v7().to_string()), ("source", "tower.csv".to_owned())];
        let query: Vec<String> = query.iter().map(|(name, value)| format!("{name}={}", escaped(value))).collect();
        self.send(&format!("/api/readings/file?{}", query.join("&")), "text/csv", text).await
    }

    async fn post(&self, readings: Value) -> (u16, Value) {
        let body = json!({ "id": Uuid::now_v7(), "source": "Logger 1", "readings": readings });
        self.send("/api/readings", "application/json", body.to_string()).await
    }

    /// How many readings there are.
    async fn kept(&self) -> usize {
        let page = self.app.get(&format!("/api/systems/{}/readings?limit=10000", self.system)).await;
        page["readings"].as_array().unwrap().len()
    }

    async fn view(&self) -> Value {
        self.app.get(&format!("/api/systems/{}", self.system)).await
    }
}

pub(crate) fn escaped(text: &str) -> String {
    text.bytes()
        .map(|byte| if byte.is_ascii_alphanumeric() { char::from(byte).to_string() } else { format!("%{byte:02X}") })
        .collect()
}

/// Days of five-minute readings up to the demo's morning.
fn logger(days: i64, ph: impl Fn(i64) -> f64) -> String {
    let start: Timestamp = "2027-03-09T08:30:00Z".parse().unwrap();
    let mut text = "Time;System;pH;EC (mS/cm);Water temperature (°C)\n".to_owned();
    for n in 0..days * 288 {
        let at = start - SignedDuration::from_mins(5 * (days * 288 - n));
        let at = at.strftime("%Y-%m-%d %H:%M");
        let line = format!("{at};Corner tower;{:.2};1.50;{:.1}\n", ph(n), 20.0 + (n % 5) as f64 / 10.0);
        text.push_str(&line.replace('.', ","));
    }
    text
}

fn codes(answer: &Value) -> Vec<(u64, &str)> {
    let lines = answer["lines"].as_array().unwrap();
    lines.iter().map(|line| (line["line"].as_u64().unwrap(), line["why"]["code"].as_str().unwrap())).collect()
}

#[actix_web::test]
async fn a_loggers_file_is_understood_kept_judged_and_twice_is_once() {
    let tower = Tower::new().await;
    let text = logger(10, |_| 7.3);
    let looked = tower.look(&text[..20_000]).await;
    assert_eq!(looked["how"]["by"], "logger");
    assert_eq!(looked["rows"][0]["system"], tower.system.as_str());
    assert_eq!(tower.kept().await, 0, "a look keeps nothing");
    assert_eq!(tower.file(text.clone(), &looked["how"]).await, (200, json!({ "new": 2880, "there": 0 })));
    assert_eq!(tower.file(text, &looked["how"]).await, (200, json!({ "new": 0, "there": 2880 })));
    assert_eq!(tower.kept().await, 2880);
    // What it read this morning is what is judged by.
    let view = tower.view().await;
    let ph =
        view["verdicts"].as_array().unwrap().iter().find(|one| one["verdict"]["subject"] == "ph").unwrap().to_string();
    assert!(ph.contains("7.3"), "{ph}");
    let trends = tower.app.get(&format!("/api/systems/{}/trends", tower.system)).await;
    let ph = trends["trends"].as_array().unwrap().iter().find(|trend| trend["quantity"] == "ph").unwrap().clone();
    assert!(ph["readings"].as_u64().unwrap() > 2880, "{}", ph["readings"]);
    assert!(ph["points"].as_array().unwrap().len() <= 2000);
}

#[actix_web::test]
async fn every_line_at_fault_is_told_with_where_it_stands_and_mended_it_goes_in() {
    let tower = Tower::new().await;
    let mut text = logger(1, |_| 6.0);
    let how = tower.look(&text).await["how"].clone();
    let lines: Vec<&str> = text.lines().collect();
    let bad = [
        "2027-03-08 12:00;Corner tower;=6+1;1,5;20",
        "2027-03-08 12:01;Pond;6,0;1,5;20",
        "2027-03-08 12:02;Corner tower;1.234,5;1,5;20",
    ];
    text = [&lines[..10], &bad[..], &lines[10..]].concat().join("\n");
    let (status, answer) = tower.file(text.clone(), &how).await;
    assert_eq!(status, 422);
    assert_eq!(codes(&answer), [(11, "cell_formula"), (12, "line_system"), (13, "cell_comma_and_point")]);
    assert_eq!(tower.kept().await, 0, "nothing half brought in");
    // A page mends a line where it stands in the file.
    let line = &answer["lines"][0];
    let (offset, length) = (line["offset"].as_u64().unwrap() as usize, line["length"].as_u64().unwrap() as usize);
    assert_eq!(&text[offset..offset + length], format!("{}\n", bad[0]));
    let mended: String = text.lines().filter(|line| !bad.contains(line)).collect::<Vec<_>>().join("\n");
    assert_eq!(tower.file(mended, &how).await.1, json!({ "new": 288, "there": 0 }));
}

#[actix_web::test]
async fn another_value_for_the_same_moment_is_told_and_a_delivery_is_taken_back() {
    let tower = Tower::new().await;
    let before = tower.view().await;
    let text = logger(1, |_| 7.4);
    let how = tower.look(&text).await["how"].clone();
    assert_eq!(tower.file(text, &how).await.0, 200);
    let (status, answer) = tower.file(logger(1, |n| if n == 100 { 6.0 } else { 7.4 }), &how).await;
    assert_eq!((status, codes(&answer)), (422, vec![(102, "line_differs")]));
    let all = tower.app.get("/api/readings/deliveries").await;
    assert_eq!(all.as_array().unwrap().len(), 1, "what came to nothing is no delivery: {all}");
    assert_eq!((&all[0]["readings"], &all[0]["by"]), (&json!(288), &json!("Wren")));
    let path = format!("/api/readings/deliveries/{}/take-back", all[0]["id"].as_str().unwrap());
    let said = |reason: &str| json!({ "reason": reason }).to_string();
    assert_eq!(tower.send(&path, "application/json", said("")).await.0, 422);
    let (status, taken) = tower.send(&path, "application/json", said("of another tower")).await;
    assert_eq!((status, &taken["reason"]), (200, &json!("of another tower")));
    assert_eq!(tower.kept().await, 0);
    assert_eq!(tower.view().await["verdicts"], before["verdicts"], "judged as if it had never come");
}

/// Takes the delivery of a source back.
async fn take_back(tower: &Tower, source: &str) -> Value {
    let all = tower.app.get("/api/readings/deliveries").await;
    let one =
        all.as_array().unwrap().iter().find(|one| one["source"] == source && one["taken_back"].is_null()).unwrap();
    let path = format!("/api/readings/deliveries/{}/take-back", one["id"].as_str().unwrap());
    let (status, taken) = tower.send(&path, "application/json", json!({ "reason": "wrong" }).to_string()).await;
    assert_eq!(status, 200, "{taken}");
    taken
}

#[actix_web::test]
async fn what_two_deliveries_brought_stays_until_both_are_taken_back() {
    let tower = Tower::new().await;
    let readings = |from: i64, to: i64, field: &str| -> Value {
        let at = |n: i64| "2027-03-09T06:00:00Z".parse::<Timestamp>().unwrap() + SignedDuration::from_mins(5 * n);
        (from..to).map(|n| json!({ "system": tower.system, "at": at(n).to_string(), field: 6.0 })).collect()
    };
    let bring = async |source: &str, readings: Value| {
        let body = json!({ "id": Uuid::now_v7(), "source": source, "readings": readings });
        tower.send("/api/readings", "application/json", body.to_string()).await.1
    };
    assert_eq!(bring("A", readings(0, 20, "ph")).await, json!({ "new": 20, "there": 0 }));
    assert_eq!(bring("B", readings(10, 30, "ph")).await, json!({ "new": 10, "there": 10 }));
    assert_eq!(bring("C", readings(0, 5, "temperature")).await, json!({ "new": 5, "there": 0 }));
    take_back(&tower, "A").await;
    assert_eq!(tower.kept().await, 25, "10 to 30 of B, and the temperatures of C");
    // What is taken back can come again, and is what it was.
    assert_eq!(bring("A", readings(0, 20, "ph")).await, json!({ "new": 10, "there": 10 }));
    take_back(&tower, "B").await;
    assert_eq!(tower.kept().await, 20);
    // An archive says whose they are: brought into an empty file, taking back comes to the same there.
    let bytes = tower.app.client.get(format!("{}/api/archive", tower.app.base)).send().await.unwrap();
    let bytes = bytes.bytes().await.unwrap();
    let other = Running::demo();
    let wren = tower.wren.clone();
    let request = other.client.post(format!("{}/api/archive", other.base)).header("Content-Type", "application/zip");
    assert_eq!(request.body(bytes).send().await.unwrap().status(), 200);
    let other = Tower { app: other, system: tower.system.clone(), wren };
    take_back(&other, "A").await;
    assert_eq!(other.kept().await, 5, "the temperatures of C");
}

#[actix_web::test]
async fn a_visit_that_two_files_brought_stays_until_both_are_taken_back() {
    let tower = Tower::new().await;
    let (first, second) = ("2027-03-01,Corner tower,6.1,a magpie\n", "2027-03-02,Corner tower,6.2,a heron\n");
    let sheet = |lines: &str| format!("Date,System,pH,Notes\n{lines}");
    let how = tower.look(&sheet(first)).await["how"].clone();
    let bring = async |source: &str, text: String| {
        let query = [("how", how.to_string()), ("id", Uuid::now_v7().to_string()), ("source", source.to_owned())];
        let query: Vec<String> = query.iter().map(|(name, value)| format!("{name}={}", escaped(value))).collect();
        tower.send(&format!("/api/readings/file?{}", query.join("&")), "text/csv", text).await.1
    };
    let standing = async |word: &str| {
        let log = tower.app.get(&format!("/api/log?words={word}&sorts=reading")).await;
        log["threads"].as_array().unwrap().len()
    };
    assert_eq!(bring("desk.csv", sheet(first)).await, json!({ "new": 1, "there": 0 }));
    assert_eq!(bring("shed.csv", sheet(&(first.to_owned() + second))).await, json!({ "new": 1, "there": 1 }));
    take_back(&tower, "desk.csv").await;
    assert_eq!((standing("magpie").await, standing("heron").await), (1, 1), "the other sheet brought it too");
    take_back(&tower, "shed.csv").await;
    assert_eq!((standing("magpie").await, standing("heron").await), (0, 0));
}

#[actix_web::test]
async fn a_sheet_that_an_earlier_release_took_otherwise_is_there_already() {
    let tower = Tower::new().await;
    let text = "Time,System,Added (L),Look in\n2027-03-01T12:00:00Z,Corner tower,4,x\n";
    let how = tower.look(text).await["how"].clone();
    let bring = async || tower.file(text, &how).await.1;
    // As it was before a tick at a look meant a sound look: the bare tick, under the id that its words give.
    let at = "2027-03-01T12:00:00Z";
    let then = json!({ "kind": "visit", "top_off": { "litres": 4.0, "water": "plain" }, "done": ["look_in"] });
    let words = format!(
        "{at} {}",
        r#"{"kind":"visit","all_fine":false,"top_off":{"litres":4.0,"water":"plain"},"done":["look_in"]}"#
    );
    let id = Uuid::new_v5(&tower.system.parse().unwrap(), words.as_bytes());
    let path = format!("/api/systems/{}/entries", tower.system);
    let entry = json!({ "id": id, "at": at, "body": then }).to_string();
    assert_eq!(tower.send(&path, "application/json", entry).await.0, 201);
    assert_eq!(bring().await, json!({ "new": 0, "there": 1 }), "the 4 L went in once");
}

#[actix_web::test]
async fn a_script_posts_readings_and_a_repeated_post_is_one() {
    let tower = Tower::new().await;
    let one = |at: &str, ph: f64| json!({ "system": tower.system, "at": at, "ph": ph, "temperature": 20.5, "ec": { "value": 750, "scale": "ppm500" } });
    let body = json!({ "id": Uuid::now_v7(), "source": "Logger 1", "readings": [one("2027-03-09T08:00:00Z", 6.1), one("2027-03-09T08:05:00Z", 6.2)] });
    for (new, there) in [(2, 0), (0, 2)] {
        let came = tower.send("/api/readings", "application/json", body.to_string()).await;
        assert_eq!(came, (200, json!({ "new": new, "there": there })));
    }
    let page = tower.app.get(&format!("/api/systems/{}/readings?limit=1", tower.system)).await;
    assert_eq!(page["readings"][0], json!({ "at": "2027-03-09T08:00:00Z", "ph": 6.1, "ec": 1.5, "temperature": 20.5 }));
    assert_eq!(page["next"], "2027-03-09T08:05:00Z");
    // What comes first and late is put in its place.
    assert_eq!(tower.post(json!([one("2027-03-09T07:00:00Z", 6.0)])).await.1["new"], 1);
    let wrong = tower.post(json!([one("2027-03-09T07:05:00Z", 6.0), one("2027-03-10T07:00:00Z", 6.0)])).await;
    assert_eq!((wrong.0, codes(&wrong.1)), (422, vec![(1, "time_to_come")]));
    let field = tower.post(json!([one("2027-03-09T07:05:00Z", 99.0)])).await;
    assert_eq!((field.0, field.1["fields"][0]["field"].as_str().unwrap()), (422, "readings.0.ph"));
    assert_eq!(tower.post(json!([])).await.0, 422);
    assert_eq!(tower.kept().await, 3);
}

#[actix_web::test]
async fn what_is_no_file_of_readings_is_refused_in_a_sentence() {
    let tower = Tower::new().await;
    let how = tower.look(&logger(1, |_| 6.0)).await["how"].clone();
    let code = |answer: &Value| answer["fields"][0]["code"].as_str().unwrap_or_default().to_owned();
    let cases: Vec<(&str, Vec<u8>, &str)> = vec![
        ("nothing", vec![], "file_empty"),
        ("a head alone", b"Time;System;pH;EC;T\n".to_vec(), "file_empty"),
        ("a picture", vec![0xff, 0xd8, 0xff, 0xe0, 0, 16, 74, 70], "file_no_text"),
        (
            "two bytes a letter",
            [0xff, 0xfe].into_iter().chain("Time".bytes().flat_map(|b| [b, 0])).collect(),
            "file_no_text",
        ),
        ("no line end", vec![b'7'; 3_000_000], "line_long"),
        (
            "a quotation mark that is never closed",
            format!("a;b;c;d;e\n\"{}", "x;y\n".repeat(100_000)).into_bytes(),
            "line_long",
        ),
        ("very many columns", [b"a;b;c;d;e\n".to_vec(), vec![b';'; 10_000_000]].concat(), "line_long"),
        ("another separator", logger(1, |_| 6.0).replace(';', "|").into_bytes(), "lines_at_fault"),
    ];
    for (what, bytes, wanted) in cases {
        let (status, answer) = tower.file(bytes, &how).await;
        assert_eq!((status, code(&answer).as_str()), (422, wanted), "{what}: {answer}");
    }
    let wide = format!("Time{}\n", ",x".repeat(5000));
    let (status, answer) = tower.send("/api/readings/look", "text/csv", wide).await;
    assert_eq!((status, code(&answer).as_str()), (422, "columns_too_many"));
    let (status, _) = tower.send("/api/readings/look", "text/csv", vec![b'x'; 300_000]).await;
    assert_eq!(status, 413);
    assert_eq!(tower.send("/api/readings/look", "image/png", "x").await.0, 415);
    assert_eq!(tower.file("x", &json!({ "by": "ghost" })).await.0, 422);
    assert_eq!(tower.kept().await, 0);
    // A mark at its beginning is no part of it.
    let marked = [b"\xef\xbb\xbf".to_vec(), logger(1, |_| 6.0).into_bytes()].concat();
    assert_eq!(tower.file(marked, &how).await.1["new"], 288);
}

#[actix_web::test]
async fn a_child_and_nobody_bring_nothing_in() {
    let mut tower = Tower::new().await;
    let how = tower.look(&logger(1, |_| 6.0)).await["how"].clone();
    let places = tower.app.get("/api/places").await;
    let people = places.as_array().unwrap().iter().flat_map(|place| place["people"].as_array().unwrap().clone());
    let child = people.into_iter().find(|person| person["body"]["role"] == "child").unwrap();
    child["id"].as_str().unwrap().clone_into(&mut tower.wren);
    assert_eq!(tower.file(logger(1, |_| 6.0), &how).await.0, 403);
    tower.wren = Uuid::now_v7().to_string();
    assert!(tower.file(logger(1, |_| 6.0), &how).await.0 >= 400);
    assert_eq!(tower.kept().await, 0);
}

#[actix_web::test]
async fn a_checklist_typed_in_from_paper_is_visits_and_twice_is_once() {
    let tower = Tower::new().await;
    let text = "Date,System,pH,Level (L),Added (L),Sprayers,Notes\n\
                2027-03-01,Corner tower,6.1,18,2,x,\"Nozzle was brown, rinsed it\"\n\
                2027-03-02,Window crate,5.9,,,,\n";
    let looked = tower.look(text).await;
    assert_eq!(looked["how"]["by"], "people");
    assert_eq!(tower.file(text, &looked["how"]).await, (200, json!({ "new": 2, "there": 0 })));
    assert_eq!(tower.file(text, &looked["how"]).await, (200, json!({ "new": 0, "there": 2 })));
    let log = tower.app.get("/api/log?words=brown%20rinsed").await.to_string();
    assert!(log.contains("Nozzle was brown, rinsed it"), "{log}");
    // Taken back, all of it is withdrawn with the reason, and stays in the log.
    let all = tower.app.get("/api/readings/deliveries").await;
    for (delivery, new, there) in [(&all[0], 0, 2), (&all[1], 2, 0)] {
        let path = format!("/api/readings/deliveries/{}/take-back", delivery["id"].as_str().unwrap());
        let taken = tower.send(&path, "application/json", json!({ "reason": "last year's sheet" }).to_string()).await;
        assert_eq!((taken.0, &taken.1["readings"], &taken.1["there"]), (200, &json!(new), &json!(there)));
    }
    assert!(!tower.app.get("/api/log?words=brown%20rinsed").await.to_string().contains("\"visit\",\"all_fine"));
    let log = tower.app.get("/api/log?words=last%20year").await;
    assert_eq!(log["threads"].as_array().unwrap().len(), 2, "{log}");
    assert_eq!(tower.file(text, &looked["how"]).await, (200, json!({ "new": 2, "there": 0 })), "it can come again");
    // Another sheet of the same name, on a clock that stands still: taken back, it takes nothing of the first along.
    let second = "Date,System,pH,Notes\n2027-03-03,Corner tower,6.2,a heron looked in\n";
    let how = tower.look(second).await["how"].clone();
    assert_eq!(tower.file(second, &how).await, (200, json!({ "new": 1, "there": 0 })));
    let all = tower.app.get("/api/readings/deliveries").await;
    let path = format!("/api/readings/deliveries/{}/take-back", all[0]["id"].as_str().unwrap());
    let taken = tower.send(&path, "application/json", json!({ "reason": "no heron" }).to_string()).await;
    assert_eq!((taken.0, &taken.1["readings"]), (200, &json!(1)));
    let log = tower.app.get("/api/log?words=no%20heron&sorts=withdrawn").await;
    assert_eq!(log["threads"].as_array().unwrap().len(), 1, "{log}");
    assert_eq!(
        tower.file(text, &looked["how"]).await,
        (200, json!({ "new": 0, "there": 2 })),
        "the first still stands"
    );
    let over = text.replace("6.1,18,2", "6.1,9000,2");
    let (status, answer) = tower.file(over, &looked["how"]).await;
    assert_eq!(
        (status, answer["lines"][0]["line"].as_u64(), answer["lines"][0]["column"].as_u64()),
        (422, Some(2), Some(3))
    );
}

#[actix_web::test]
async fn what_was_taken_in_survives_a_power_cut() {
    let tower = Tower::new().await;
    let text = logger(3, |_| 6.4);
    let how = tower.look(&text).await["how"].clone();
    assert_eq!(tower.file(text, &how).await.0, 200);
    let Tower { app, system, wren } = tower;
    let tower = Tower { app: app.killed_and_restarted(), system, wren };
    assert_eq!(tower.kept().await, 864);
}

/// The pH that a system is judged by.
async fn judged(tower: &Tower) -> String {
    let view = tower.view().await;
    let ph = view["verdicts"].as_array().unwrap().iter().find(|one| one["verdict"]["subject"] == "ph").unwrap().clone();
    ph["verdict"]["finding"].as_str().unwrap().to_owned()
}

#[actix_web::test]
async fn a_dose_that_was_poured_is_not_asked_for_again_by_what_the_probe_read_before_it() {
    let tower = Tower::new().await;
    let how = tower.look(&logger(1, |_| 7.4)).await["how"].clone();
    assert_eq!(tower.file(logger(1, |_| 7.4), &how).await.0, 200);
    let before = judged(&tower).await;
    assert!(before.contains("7.4"), "{before}");
    // Fresh water, written down for ten past eight when the probe had gone on reading the old until then.
    let id = Uuid::now_v7();
    let change = json!({
        "id": id, "by": tower.wren, "at": "2027-03-09T08:10:00Z",
        "body": { "kind": "change", "extent": "full", "volume_after": 60.0, "ph": { "by": "meter", "value": 5.9 } }
    });
    let (status, answer) = tower.app.told(&format!("/api/systems/{}/entries", tower.system), &change).await;
    assert_eq!(status, 201, "{answer}");
    assert!(judged(&tower).await.contains("5.9"), "what was read before it, and while it mixes, is over");
    let late = json!([{ "system": tower.system, "at": "2027-03-09T08:12:00Z", "ph": 7.3 }]);
    assert_eq!(tower.post(late).await.0, 200);
    assert!(judged(&tower).await.contains("5.9"), "it mixes still");
    // Taken back, the probe is what is known again.
    let undo = json!({
        "id": Uuid::now_v7(), "by": tower.wren, "amends": id, "reason": "another tower", "body": { "kind": "withdrawn" }
    });
    assert_eq!(tower.app.told(&format!("/api/systems/{}/entries", tower.system), &undo).await.0, 201);
    assert!(judged(&tower).await.contains("7.4"), "{}", judged(&tower).await);
}

#[actix_web::test]
async fn how_long_a_pour_mixes_is_the_systems_and_what_a_day_comes_to_follows_its_set_up() {
    let tower = Tower::new().await;
    let read = json!([{ "system": tower.system, "at": "2027-03-09T08:28:00Z", "ph": 7.3 }]);
    assert_eq!(tower.post(read).await.0, 200);
    let change = json!({
        "id": Uuid::now_v7(), "by": tower.wren, "at": "2027-03-09T08:05:00Z",
        "body": { "kind": "change", "extent": "full", "volume_after": 60.0, "ph": { "by": "meter", "value": 5.9 } }
    });
    assert_eq!(tower.app.told(&format!("/api/systems/{}/entries", tower.system), &change).await.0, 201);
    assert!(judged(&tower).await.contains("7.3"), "a pump has mixed it in 23 minutes");
    for (circulates, comes_to) in [(false, "5.9"), (true, "7.3")] {
        let card = tower.view().await["card"].clone();
        let mut body = card["body"].clone();
        body["traits"]["circulates"] = json!(circulates);
        body["traits"]["aerated"] = json!(true);
        let edit = json!({ "by": tower.wren, "version": card["version"], "body": body });
        let answer = tower.app.put(&format!("/api/cards/{}", tower.system), &edit).await;
        assert_eq!(answer.status(), 200, "{}", answer.text().await.unwrap());
        assert!(judged(&tower).await.contains(comes_to), "{circulates}: {}", judged(&tower).await);
    }
}

#[actix_web::test]
async fn a_clock_that_runs_a_little_ahead_is_no_wrong_date() {
    let tower = Tower::new().await;
    let one = |at: &str| json!([{ "system": tower.system, "at": at, "ph": 6.1 }]);
    assert_eq!(tower.post(one("2027-03-09T08:33:00Z")).await.1["new"], 1);
    assert_eq!(codes(&tower.post(one("2027-03-09T08:40:00Z")).await.1), [(0, "time_to_come")]);
}
