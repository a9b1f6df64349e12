//! The examples of docs/open-doors.md, run as they stand there. They need sh, curl and python3.

use crate::common::Running;
use std::path::PathBuf;
use std::process::{Command, Output};

fn example(name: &str) -> String {
    let folder = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../docs/examples");
    folder.join(name).to_str().unwrap().to_owned()
}

fn run(program: &str, arguments: &[&str], with: &[(&str, &str)]) -> Output {
    let mut command = Command::new(program);
    command.args(arguments).envs(with.iter().copied());
    command.output().unwrap_or_else(|error| panic!("{program} is needed for this: {error}"))
}

fn said(output: &Output) -> String {
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8_lossy(&output.stdout).into_owned()
}

async fn tower() -> (Running, String, String) {
    let app = Running::demo();
    let system = app.system("Corner tower").await;
    let wren = app.person(&system, "Wren").await;
    (app, system, wren)
}

#[actix_web::test]
async fn the_shell_posts_a_reading_and_twice_is_once() {
    let (app, system, wren) = tower().await;
    let with = [("MOPSEL", app.base.as_str()), ("PERSON", &wren), ("SYSTEM", &system)];
    let script = example("post-readings.sh");
    let post = |ph: &str| run("sh", &[&script, "2027-03-09T08:00:00Z", ph, "1.45", "20.5"], &with);
    assert_eq!(said(&post("6.1")), r#"{"new":1,"there":0}"#);
    assert_eq!(said(&post("6.1")), r#"{"new":0,"there":1}"#);
    let page = app.get(&format!("/api/systems/{system}/readings")).await;
    assert_eq!((&page["readings"][0]["ph"], page["readings"].as_array().unwrap().len()), (&6.1.into(), 1));
    // What is refused is told, and the script fails by it.
    let refused = run("sh", &[&script, "2037-03-09T08:00:00Z", "6.1", "1.45", "20.5"], &with);
    assert!(!refused.status.success());
    assert!(String::from_utf8_lossy(&refused.stdout).contains("time_to_come"), "{refused:?}");
}

#[actix_web::test]
async fn python_posts_in_bulk_and_reads_all_of_it_by_pages() {
    let (app, system, wren) = tower().await;
    let script = example("logger.py");
    let post = |until: &str, count: &str| run("python3", &[&script, &app.base, &wren, &system, until, count], &[]);
    assert_eq!(said(&post("2027-03-09T08:00:00+00:00", "12")).trim(), "12 new, 0 there already");
    assert_eq!(said(&post("2027-03-09T08:10:00+00:00", "12")).trim(), "2 new, 10 there already");
    let refused = post("2037-03-09T08:00:00+00:00", "1");
    assert!(!refused.status.success());
    assert!(String::from_utf8_lossy(&refused.stderr).contains("still to come"), "{refused:?}");
    let all = said(&run("python3", &[&example("read-everything.py"), &app.base], &[]));
    let lines: Vec<serde_json::Value> = all.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let of = |kind: &str| lines.iter().filter(|line| line["kind"] == kind).count();
    assert_eq!(of("reading"), 14);
    let log = app.get("/api/round").await;
    assert!(of("card") > log["systems"].as_array().unwrap().len());
    assert!(of("entry") > 300, "{}", of("entry"));
}

#[actix_web::test]
async fn three_months_of_five_minute_readings_come_in_by_their_file() {
    let (app, system, wren) = tower().await;
    let text = said(&run("python3", &[&example("logger-file.py"), "Corner tower", "2027-03-09T08:00"], &[]));
    assert_eq!(text.lines().count(), 1 + 92 * 288);
    let send = |path: String, body: String| {
        let request = app.client.post(format!("{}{path}", app.base)).header("Mopsel-Person", &wren);
        request.header("Content-Type", "text/csv").body(body)
    };
    let begins = text.lines().take(300).collect::<Vec<_>>().join("\n");
    let looked: serde_json::Value =
        send("/api/readings/look".into(), begins).send().await.unwrap().json().await.unwrap();
    let how: String = looked["how"]
        .to_string()
        .bytes()
        .map(|byte| if byte.is_ascii_alphanumeric() { char::from(byte).to_string() } else { format!("%{byte:02X}") })
        .collect();
    let path = format!("/api/readings/file?how={how}&id={}&source=tower.csv", uuid::Uuid::now_v7());
    let came: serde_json::Value = send(path, text).send().await.unwrap().json().await.unwrap();
    assert_eq!(came, serde_json::json!({ "new": 92 * 288, "there": 0 }));
    let drawn = app.get(&format!("/api/systems/{system}/trends?from=2026-12-01&to=2027-03-09")).await;
    let ph = &drawn["trends"][0];
    assert!(ph["readings"].as_u64().unwrap() >= 92 * 288 && ph["points"].as_array().unwrap().len() <= 2000);
}
