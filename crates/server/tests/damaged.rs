//! One thing that cannot be read, and long work: the rest goes on, and whoever asks is told what is so.

use crate::common::{Running, aside, program, sqlite};
use serde_json::{Value, json};
use std::io::{Cursor, Read, Write};
use std::net::TcpStream;
use std::time::{Duration, Instant};
use tempfile::tempdir;
use uuid::Uuid;

const CHANGED_BY_HAND: &str = "DROP TRIGGER entry_is_never_changed;";

fn names(archive: &[u8]) -> Vec<String> {
    zip::ZipArchive::new(Cursor::new(archive)).unwrap().file_names().map(|name| name.unwrap().into_owned()).collect()
}

fn unpacked(archive: &[u8], name: &str) -> String {
    let mut zip = zip::ZipArchive::new(Cursor::new(archive)).unwrap();
    let mut text = String::new();
    zip.by_name(name).unwrap().read_to_string(&mut text).unwrap();
    text
}

#[actix_web::test]
async fn one_unreadable_entry_stands_apart_and_its_system_and_the_archive_go_on_without_it() {
    let mut server = Running::start(&["demo"], tempdir().unwrap());
    let raft = server.system("Blue raft").await;
    let before = server.get(&format!("/api/systems/{raft}/log?limit=100")).await;
    let broken = before["threads"][1]["head"]["id"].as_str().unwrap().to_owned();
    server.stop();
    let file = server.file.clone();
    let text = r#"{"kind":"visit","ph":{"by":"me"#;
    aside(|| {
        sqlite(&file, &format!("{CHANGED_BY_HAND} UPDATE entry SET body = '{text}' WHERE id = '{broken}';"));
    });
    let checked = aside(|| program(&["check"]).arg(&file).output().unwrap());
    let said = String::from_utf8_lossy(&checked.stdout) + String::from_utf8_lossy(&checked.stderr);
    assert!(!checked.status.success() && said.contains(&format!("Entry {broken} of the log cannot be read")), "{said}");
    let again = Running::on(&file);
    let log = again.get(&format!("/api/systems/{raft}/log?limit=100")).await;
    assert_eq!(log["threads"].as_array().unwrap().len(), before["threads"].as_array().unwrap().len());
    assert_eq!(
        log["threads"][1]["head"]["lines"],
        json!(["This entry is damaged in the data file and cannot be read."])
    );
    again.get(&format!("/api/systems/{raft}")).await;
    assert_eq!(again.get("/api/round").await["systems"].as_array().unwrap().len(), 10);
    let health = again.get("/healthz").await;
    assert_eq!(
        (&health["status"], &health["unreadable_entries"]),
        (&json!("partly_unreadable"), &json!(1)),
        "{health}"
    );
    let archive = again.client.get(format!("{}/api/archive", again.base)).send().await.unwrap().bytes().await.unwrap();
    assert!(!unpacked(&archive, "entries.jsonl").contains(&broken));
    let apart: Value = serde_json::from_str(&unpacked(&archive, "unreadable.jsonl")).unwrap();
    assert_eq!((&apart["id"], &apart["text"]), (&json!(broken), &json!(text)), "as it was found");
}

#[actix_web::test]
async fn one_unreadable_place_is_shown_by_its_id_and_its_systems_are_looked_after() {
    let mut server = Running::start(&["demo"], tempdir().unwrap());
    let round = server.get("/api/round").await;
    let raft = server.system("Blue raft").await;
    let place = server.get(&format!("/api/systems/{raft}")).await["place"]["id"].as_str().unwrap().to_owned();
    server.stop();
    let file = server.file.clone();
    aside(|| {
        sqlite(
            &file,
            &format!(
                "UPDATE card SET body = '{{' WHERE id = '{place}'; UPDATE card_version SET body = '{{' WHERE card = '{place}';"
            ),
        )
    });
    let again = Running::on(&file);
    let now = again.get("/api/round").await;
    assert_eq!(now["systems"].as_array().unwrap().len(), round["systems"].as_array().unwrap().len());
    assert!(again.get("/api/log").await["threads"].as_array().unwrap().len() > 20, "every place's log is read");
    let view = again.get(&format!("/api/systems/{raft}")).await;
    assert_eq!(view["place_body"]["name"], "A place that cannot be read");
    assert_eq!(again.get("/healthz").await["broken"][0]["kind"], "place");
    let archive = again.client.get(format!("{}/api/archive", again.base)).send().await.unwrap().bytes().await.unwrap();
    assert!(names(&archive).contains(&"unreadable.jsonl".to_owned()), "the rest is exported");
}

#[test]
fn of_a_file_with_a_damaged_page_everything_else_is_exported() {
    let mut server = Running::demo();
    let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build().unwrap();
    runtime.block_on(server.get("/healthz"));
    server.stop();
    let mut bytes = std::fs::read(&server.file).unwrap();
    // A leaf of the log: a page of rows with visits in it.
    let visits = |page: &[u8]| page.windows(14).filter(|text| text == b"\"kind\":\"visit\"").count();
    let pages = bytes.len() / 4096;
    let leaf = (pages / 2..pages).find(|n| bytes[n * 4096] == 0x0d && visits(&bytes[n * 4096..][..4096]) > 3).unwrap();
    bytes[leaf * 4096..][..200].fill(0xff);
    let folder = tempdir().unwrap();
    let (damaged, archive) = (folder.path().join("damaged.db"), folder.path().join("all.zip"));
    std::fs::write(&damaged, bytes).unwrap();
    let done = program(&["export"]).arg(&damaged).arg(&archive).output().unwrap();
    let said = String::from_utf8_lossy(&done.stdout).into_owned() + &String::from_utf8_lossy(&done.stderr);
    assert!(done.status.success() && said.contains("everything that can be read"), "{said}");
    let archive = std::fs::read(archive).unwrap();
    let lines = |name: &str| unpacked(&archive, name).lines().count();
    let (kept, lost) = (lines("entries.jsonl"), lines("unreadable.jsonl"));
    assert!(lost > 3 && lost < 60 && kept > 600, "{kept} kept, {lost} lost");
    assert_eq!(lines("cards.jsonl"), 47);
}

/// An archive of the demo, with each entry of one system so many times.
fn large(archive: &[u8], times: usize) -> Vec<u8> {
    use sha2::{Digest, Sha256};
    let mut zip = zip::ZipArchive::new(Cursor::new(archive)).unwrap();
    let mut files: Vec<(String, Vec<u8>)> = Vec::new();
    for n in 0..zip.len() {
        let mut file = zip.by_index(n).unwrap();
        let mut bytes = Vec::new();
        file.read_to_end(&mut bytes).unwrap();
        files.push((file.name().unwrap().into_owned(), bytes));
    }
    let lines = files.iter_mut().find(|(name, _)| name == "entries.jsonl").unwrap();
    let many: String = String::from_utf8(lines.1.clone())
        .unwrap()
        .lines()
        .filter(|line| !line.contains("\"amends\"") && !line.contains("\"harvests\""))
        .flat_map(|line| {
            (0..times).map(move |_| {
                let mut entry: Value = serde_json::from_str(line).unwrap();
                entry["id"] = json!(Uuid::now_v7());
                format!("{entry}\n")
            })
        })
        .collect();
    lines.1 = many.into_bytes();
    let mut manifest: Value =
        serde_json::from_slice(&files.iter().find(|(name, _)| name == "manifest.json").unwrap().1).unwrap();
    let sums: Vec<Value> = files
        .iter()
        .filter(|(name, _)| name != "manifest.json")
        .map(|(name, bytes)| {
            let sum: String = Sha256::digest(bytes).iter().map(|byte| format!("{byte:02x}")).collect();
            json!({ "name": name, "bytes": bytes.len(), "sha256": sum })
        })
        .collect();
    manifest["files"] = json!(sums);
    let mut out = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for (name, bytes) in &files {
        out.start_file(name.as_str(), zip::write::SimpleFileOptions::default()).unwrap();
        if name == "manifest.json" { out.write_all(manifest.to_string().as_bytes()) } else { out.write_all(bytes) }
            .unwrap();
    }
    out.finish().unwrap().into_inner()
}

#[actix_web::test]
async fn a_long_import_says_how_far_it_is_and_a_save_meanwhile_is_told_so_and_arrives_later() {
    let server = Running::demo();
    let raft = server.system("Blue raft").await;
    let wren = server.person(&raft, "Wren").await;
    let archive =
        server.client.get(format!("{}/api/archive", server.base)).send().await.unwrap().bytes().await.unwrap();
    let archive = large(&archive, 12);
    let url = format!("{}/api/archive", server.base);
    let importing = server.client.post(url).header("Content-Type", "application/zip").header("Mopsel-Person", &wren);
    let entry = json!({ "id": Uuid::now_v7(), "by": wren, "body": { "kind": "visit", "note": "Meanwhile" } });
    let (imported, (seen, refused, slowest)) = tokio::join!(importing.body(archive).send(), async {
        let (mut seen, mut refused, mut slowest) = (Vec::new(), 0, Duration::ZERO);
        let begun = Instant::now();
        loop {
            let health = server.get("/healthz").await;
            seen.extend(health["busy"]["percent"].as_u64());
            if !health["busy"].is_null() {
                let asked = Instant::now();
                let (status, answer) = server.told(&format!("/api/systems/{raft}/entries"), &entry).await;
                slowest = slowest.max(asked.elapsed());
                match status {
                    503 => {
                        assert_eq!(answer["type"], "/problems/busy", "{answer}");
                        assert!(answer["detail"].as_str().unwrap().contains("is being imported"), "{answer}");
                        refused += 1;
                    }
                    201 => break,
                    200 => break,
                    other => panic!("{other}: {answer}"),
                }
            } else if !seen.is_empty() || begun.elapsed() > Duration::from_secs(60) {
                break;
            }
            tokio::time::sleep(Duration::from_millis(20)).await;
        }
        (seen, refused, slowest)
    });
    let imported = imported.unwrap();
    assert_eq!(imported.status(), 200, "{}", imported.text().await.unwrap());
    assert!(
        refused > 0 && seen.is_sorted() && seen.last().is_some_and(|last| *last > 0),
        "{refused} refused, seen {seen:?}"
    );
    assert!(slowest < Duration::from_secs(8), "nobody hangs: {slowest:?}");
    let (status, _) = server.told(&format!("/api/systems/{raft}/entries"), &entry).await;
    assert!([200, 201].contains(&status), "sent again it arrives, once");
}

#[actix_web::test]
async fn what_waited_for_a_connection_happened_when_it_was_saved() {
    let server = Running::demo();
    let raft = server.system("Blue raft").await;
    let wren = server.person(&raft, "Wren").await;
    let path = format!("/api/systems/{raft}/entries");
    let entry = |saved: &str| {
        let body = json!({ "kind": "visit", "note": "Saved without a connection" });
        json!({ "id": Uuid::now_v7(), "by": wren, "body": body, "saved": saved })
    };
    let (status, kept) = server.told(&path, &entry("2027-03-09T07:10:00Z")).await;
    assert_eq!((status, &kept["at"]), (201, &json!("2027-03-09T07:10:00Z")), "{kept}");
    // A device whose clock is ahead saves nothing in the future.
    let (status, kept) = server.told(&path, &entry("2027-03-09T11:00:00Z")).await;
    assert_eq!((status, &kept["at"]), (201, &json!("2027-03-09T08:30:00Z")), "{kept}");
    // What says when it was is not moved.
    let mut said = entry("2027-03-09T07:10:00Z");
    said["at"] = json!("2027-03-08T18:00:00Z");
    assert_eq!(server.told(&path, &said).await.1["at"], "2027-03-08T18:00:00Z");
}

#[actix_web::test]
async fn a_visit_that_was_put_away_does_not_come_back_by_a_late_save() {
    let server = Running::demo();
    let raft = server.system("Blue raft").await;
    let wren = server.person(&raft, "Wren").await;
    let path = format!("/api/systems/{raft}/draft");
    let id = Uuid::now_v7();
    let save = |version: i64| json!({ "by": wren, "id": id, "version": version, "visit": { "note": "half done" } });
    assert_eq!(server.put(&path, &save(0)).await.status(), 200);
    assert_eq!(server.delete(&format!("{path}?id={id}&version=1"), &wren).await.status(), 204);
    for version in [0, 1] {
        let late = server.put(&path, &save(version)).await;
        assert_eq!(late.status(), 422);
        let late: Value = late.json().await.unwrap();
        assert_eq!(late["fields"][0]["code"], "visit_put_away");
        assert_eq!(late["yours"]["lines"], json!(["half done"]), "what was typed is said back");
    }
    assert!(server.get(&format!("{path}?by={wren}")).await["draft"].is_null());
}

#[test]
fn a_file_that_dribbles_in_is_not_waited_for_without_end() {
    let server = Running::empty();
    let host = server.base.trim_start_matches("http://").to_owned();
    let mut open = TcpStream::connect(&host).unwrap();
    let head = format!(
        "POST /api/archive HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/zip\r\nContent-Length: 50000\r\n\r\nPK"
    );
    open.write_all(head.as_bytes()).unwrap();
    open.set_read_timeout(Some(Duration::from_secs(40))).unwrap();
    let mut answer = String::new();
    open.read_to_string(&mut answer).ok();
    assert!(answer.starts_with("HTTP/1.1 408") && answer.contains("stopped arriving"), "{answer}");
}

#[actix_web::test]
async fn a_file_that_began_as_a_demo_and_is_used_is_never_made_anew() {
    let mut demo = Running::demo();
    demo.stop();
    let file = demo.file.clone();
    let mut used = Running::on(&file);
    assert_eq!(used.get("/api/round").await["systems"].as_array().unwrap().len(), 10);
    used.stop();
    let before = std::fs::read(&file).unwrap();
    let tried = program(&["demo", "--port", "0", "--db"]).arg(&file).output().unwrap();
    assert!(!tried.status.success() && String::from_utf8_lossy(&tried.stderr).contains("not a demo's file"));
    assert_eq!(std::fs::read(&file).unwrap(), before);
}
