//! When things break: a full disk, a copied file, a wrong clock, another program's file. Each with the real
//! fault.

use crate::common::{Running, aside, program, sqlite};
use serde_json::{Value, json};
use std::collections::BTreeSet;
use std::io::{Read, Write};
use std::net::TcpStream;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use tempfile::TempDir;
use uuid::Uuid;

fn visit(by: Uuid, note: &str) -> Value {
    json!({ "id": Uuid::now_v7(), "by": by, "body": { "kind": "visit", "note": note } })
}

fn said(output: &Output) -> String {
    String::from_utf8_lossy(&output.stdout).into_owned() + &String::from_utf8_lossy(&output.stderr)
}

/// Runs the program to its end.
fn ran(arguments: &[&str]) -> (bool, String) {
    let output = program(arguments).output().unwrap();
    (output.status.success(), said(&output))
}

fn text(path: &Path) -> &str {
    path.to_str().unwrap()
}

/// Every entry of a system's log.
async fn ids(server: &Running, system: Uuid) -> BTreeSet<String> {
    let (mut all, mut mark) = (BTreeSet::new(), String::new());
    loop {
        let page = server.get(&format!("/api/systems/{system}/log?limit=100{mark}")).await;
        let threads = page["threads"].as_array().unwrap();
        all.extend(threads.iter().map(|thread| thread["head"]["id"].as_str().unwrap().to_owned()));
        match page["next"].as_str() {
            Some(next) => mark = format!("&before={next}"),
            None => return all,
        }
    }
}

/// A disk of a few megabytes, taken away at the end.
struct SmallDisk(TempDir);

/// Mounting wants root, or `sudo` that does not ask.
fn as_root(command: &str, arguments: &[&str]) -> bool {
    let done = |mut command: Command| command.args(arguments).status().is_ok_and(|status| status.success());
    let mut sudo = Command::new("sudo");
    sudo.args(["-n", command]);
    done(Command::new(command)) || done(sudo)
}

impl SmallDisk {
    fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let mounted = as_root("mount", &["-t", "tmpfs", "-o", "size=3m,mode=777", "tmpfs", text(folder.path())]);
        assert!(mounted, "a small disk to fill is mounted as root, or by `sudo -n mount`: neither is allowed here");
        Self(folder)
    }
    fn at(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }
}

impl Drop for SmallDisk {
    fn drop(&mut self) {
        as_root("umount", &["-l", text(self.0.path())]);
    }
}

#[actix_web::test]
async fn a_full_disk_is_said_loses_nothing_and_writing_works_again_by_itself_once_there_is_room() {
    let disk = SmallDisk::new();
    let server = Running::on(&disk.at("garden.db"));
    let (person, system) = server.first_system().await;
    let path = format!("/api/systems/{system}/entries");
    let first = visit(person, "before");
    assert_eq!(server.told(&path, &first).await.0, 201);
    let ballast = disk.at("ballast");
    let mut file = std::fs::File::create(&ballast).unwrap();
    while file.write_all(&[7; 4096]).is_ok() {}
    drop(file);
    // Small entries may still find room in the log beside the file; not for long.
    let (mut kept, mut refused) = (1, None);
    for n in 0..400 {
        let (status, answer) = server.told(&path, &visit(person, &format!("{n} {}", "x".repeat(1500)))).await;
        match status {
            201 => kept += 1,
            503 => {
                refused = Some(answer);
                break;
            }
            other => panic!("{other}: {answer}"),
        }
    }
    let refused = refused.expect("the disk was never full");
    assert_eq!(refused["type"], "/problems/disk-full", "{refused}");
    assert!(refused["detail"].as_str().unwrap().contains("garden.db is full"), "{refused}");
    let archive = server.client.post(format!("{}/api/archive", server.base)).header("Content-Type", "application/zip");
    let archive = archive.header("Mopsel-Person", person.to_string()).body(vec![7; 400_000]).send().await.unwrap();
    let (status, said) = (archive.status(), archive.json::<Value>().await.unwrap());
    assert_eq!((status.as_u16(), &said["type"]), (503, &refused["type"]), "what is only sent there as well: {said}");
    assert_eq!(server.told(&path, &first).await.0, 200, "what was acknowledged is still told so");
    assert_eq!(server.client.get(format!("{}/api/round", server.base)).send().await.unwrap().status(), 200);
    std::fs::remove_file(&ballast).unwrap();
    for n in 0..20 {
        let (status, answer) = server.told(&path, &visit(person, &format!("after {n}"))).await;
        assert_eq!(status, 201, "{answer}");
        kept += 1;
    }
    let all = ids(&server, system).await.len();
    assert_eq!(all, kept, "every acknowledged entry is there, and none that was refused");
    // Full once more, and stopped while it is: what it puts into the file on its way out breaks off in the middle.
    let mut file = std::fs::File::create(&ballast).unwrap();
    while file.write_all(&[7; 4096]).is_ok() {}
    drop(file);
    let garden = server.file.clone();
    let mut server = server;
    server.stop();
    std::fs::remove_file(&ballast).unwrap();
    let (fine, said) = aside(|| ran(&["check", text(&garden)]));
    assert!(fine, "{said}");
    let server = Running::on(&garden);
    assert_eq!(ids(&server, system).await.len(), kept);
    assert_eq!(server.told(&path, &visit(person, "once more")).await.0, 201);
}

#[actix_web::test]
async fn killed_as_the_checkpoint_of_an_import_begins_the_file_opens_whole() {
    let times = if std::env::var_os("MOPSEL_SOAK").is_some() { 40 } else { 4 };
    for time in 0..times {
        let mut server = Running::demo();
        let tower = server.system("Corner tower").await;
        let wren = server.person(&tower, "Wren").await;
        let begins: jiff::Timestamp = "2027-01-01T00:00:00Z".parse().unwrap();
        let one = |n: i64| {
            let at = begins + jiff::SignedDuration::from_mins(4 * n);
            json!({ "system": tower, "at": at.to_string(), "ph": 6.0 + (n % 10) as f64 / 10.0 })
        };
        let readings: Vec<Value> = (0..10_000).map(one).collect();
        let body = json!({ "by": wren, "id": Uuid::now_v7(), "source": "logger", "readings": readings });
        let (status, answer) = server.told("/api/readings", &body).await;
        assert_eq!(status, 200, "{answer}");
        // The checkpoint follows the answer at once: a moment of it later each time.
        tokio::time::sleep(std::time::Duration::from_micros(150 * time)).await;
        server.kill();
        let file = server.file.clone();
        let (fine, said) = aside(|| ran(&["check", text(&file)]));
        assert!(fine, "{said}");
        let again = Running::on(&file);
        let kept = again.get(&format!("/api/systems/{tower}/readings?limit=10000")).await;
        assert_eq!(kept["readings"].as_array().unwrap().len(), 10_000, "what was acknowledged is there");
    }
}

#[actix_web::test]
async fn a_file_in_a_place_where_nothing_can_be_written_is_shown_exported_and_copied() {
    let disk = SmallDisk::new();
    let mut demo = Running::demo();
    demo.get("/healthz").await;
    demo.stop();
    let file = disk.at("garden.db");
    std::fs::copy(&demo.file, &file).unwrap();
    assert!(as_root("mount", &["-o", "remount,ro", text(disk.0.path())]));
    let folder = tempfile::tempdir().unwrap();
    let to = |name: &str| folder.path().join(name);
    for (command, from, into) in
        [("export", &file, to("all.zip")), ("backup", &file, to("copy.db")), ("restore", &to("new.db"), file.clone())]
    {
        let (fine, said) = aside(|| ran(&[command, text(from), text(&into)]));
        assert!(fine, "{command}: {said}");
    }
    assert!(aside(|| ran(&["check", text(&to("copy.db"))])).0 && aside(|| ran(&["check", text(&file)])).0);
    let server = Running::on(&file);
    assert_eq!(server.get("/api/round").await["systems"].as_array().unwrap().len(), 10);
    let health = server.get("/healthz").await;
    assert!(health["read_only"].as_str().unwrap().contains("nothing can be written"), "{health}");
    let raft = server.system("Blue raft").await;
    let wren = Uuid::parse_str(&server.person(&raft, "Wren").await).unwrap();
    let (status, answer) = server.told(&format!("/api/systems/{raft}/entries"), &visit(wren, "no")).await;
    assert_eq!(status, 403, "{answer}");
}

#[test]
fn a_demo_takes_no_file_but_a_demos_and_none_before_it_has_its_address() {
    let folder = tempfile::tempdir().unwrap();
    let garden = folder.path().join("garden.db");
    let mut server = Running::on(&garden);
    let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build().unwrap();
    runtime.block_on(server.first_system());
    server.stop();
    let before = std::fs::read(&garden).unwrap();
    let (fine, said) = ran(&["demo", "--port", "0", "--db", text(&garden)]);
    assert!(!fine && said.contains("not a demo's file") && said.contains("garden.db"), "{said}");
    assert_eq!(std::fs::read(&garden).unwrap(), before);
    // A demo on a taken port leaves the demo that is shown there as it is.
    let demo = Running::demo();
    let port = demo.base.rsplit(':').next().unwrap().to_owned();
    let size = std::fs::metadata(&demo.file).unwrap().len();
    let (fine, said) = ran(&["demo", "--port", &port, "--db", text(&demo.file)]);
    assert!(!fine && said.contains("Cannot listen"), "{said}");
    assert_eq!(std::fs::metadata(&demo.file).unwrap().len(), size);
    let round = runtime.block_on(demo.get("/api/round"));
    assert_eq!(round["systems"].as_array().unwrap().len(), 10);
}

#[test]
fn a_file_of_another_program_gains_nothing_and_is_named() {
    let folder = tempfile::tempdir().unwrap();
    let foreign = folder.path().join("notes.db");
    sqlite(&foreign, "CREATE TABLE note (said TEXT); INSERT INTO note VALUES ('mine')");
    let text_file = folder.path().join("letter.txt");
    std::fs::write(&text_file, "Dear all, this is longer than sixteen bytes.").unwrap();
    for file in [&foreign, &text_file] {
        let before = std::fs::read(file).unwrap();
        for arguments in [vec!["serve", "--port", "0", "--db", text(file)], vec!["check", text(file)]] {
            let (fine, said) = ran(&arguments);
            assert!(!fine && said.contains("is not a Mopsel file") && said.contains(text(file)), "{said}");
            assert!(!said.contains("Error {") && !said.contains("Database("), "no debug text: {said}");
        }
        assert_eq!(std::fs::read(file).unwrap(), before, "it was left as it was");
    }
    let (fine, said) = ran(&["serve", "--port", "0", "--db", text(folder.path())]);
    assert!(!fine && said.contains("is a folder"), "{said}");
    let (fine, said) = ran(&["serve", "--port", "0", "--db", "/nowhere/at/all/garden.db"]);
    assert!(!fine && said.contains("cannot be opened") && said.contains("/nowhere/at/all"), "{said}");
    let (fine, said) = ran(&["serve", "--port", "0", "--address", "0.0.0.0", "--db", text(&foreign)]);
    assert!(!fine && said.contains("with --lan, over TLS and with a sign-in"), "{said}");
}

#[test]
fn a_damaged_file_is_named_and_not_written_to() {
    let mut demo = Running::start(&["demo"], tempfile::tempdir().unwrap());
    demo.stop();
    let whole = std::fs::read(&demo.file).unwrap();
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("garden.db");
    let torn = |from: usize, to: usize| {
        let mut bytes = whole.clone();
        bytes[from..to].iter_mut().enumerate().for_each(|(n, byte)| *byte = (n * 37 % 251) as u8);
        bytes
    };
    let middle = whole.len() / 2 / 4096 * 4096;
    for bytes in [torn(4096, 8192), torn(middle, middle + 4096), whole[..middle].to_vec()] {
        std::fs::write(&file, &bytes).unwrap();
        let (fine, said) = ran(&["check", text(&file)]);
        assert!(!fine && said.contains("garden.db") && said.contains("mopsel restore"), "{said}");
        assert!(!said.contains("Error {") && !said.contains("code:"), "no debug text: {said}");
        assert_eq!(std::fs::read(&file).unwrap().len(), bytes.len());
    }
}

#[actix_web::test]
async fn a_file_that_another_program_holds_is_said_to_be_locked() {
    let mut server = Running::empty();
    server.first_system().await;
    server.stop();
    use sqlx::{ConnectOptions, Connection};
    let options = sqlx::sqlite::SqliteConnectOptions::new().filename(&server.file);
    let mut other = options.connect().await.unwrap();
    sqlx::raw_sql("BEGIN IMMEDIATE; UPDATE tick SET value = value").execute(&mut other).await.unwrap();
    let file = server.file.clone();
    let (fine, said) = aside(|| ran(&["serve", "--port", "0", "--db", text(&file)]));
    assert!(!fine && said.contains("locked by another program") && said.contains("mopsel.db"), "{said}");
    sqlx::raw_sql("ROLLBACK").execute(&mut other).await.unwrap();
    other.close().await.unwrap();
    let again = Running::on(&file);
    assert_eq!(again.get("/healthz").await["status"], "ok");
}

#[actix_web::test]
async fn a_copy_without_the_log_beside_it_says_so_and_one_beside_a_foreign_log_is_not_written_to() {
    let mut server = Running::empty();
    let (person, system) = server.first_system().await;
    let path = format!("/api/systems/{system}/entries");
    assert_eq!(server.told(&path, &visit(person, "one")).await.0, 201);
    let folder = tempfile::tempdir().unwrap();
    let copy = folder.path().join("copy.db");
    std::fs::copy(&server.file, &copy).unwrap();
    let copied = Running::on(&copy);
    let health = copied.get("/healthz").await;
    assert_eq!(health["status"], "ok");
    let note = health["notes"][0].as_str().unwrap_or_default();
    assert!(note.contains("without the log beside it") && note.contains("copy.db-wal"), "{health}");
    drop(copied);
    // The log of another garden beside this one.
    let other = Running::empty();
    other.first_system().await;
    server.stop();
    let mixed = folder.path().join("mixed.db");
    std::fs::copy(&server.file, &mixed).unwrap();
    let beside = |file: &Path| PathBuf::from(format!("{}-wal", file.display()));
    std::fs::copy(beside(&other.file), beside(&mixed)).unwrap();
    assert!(std::fs::metadata(beside(&mixed)).unwrap().len() > 0);
    let before = std::fs::read(&mixed).unwrap();
    let mixed_up = Running::on(&mixed);
    let health = mixed_up.get("/healthz").await;
    assert_eq!(health["status"], "read_only", "{health}");
    assert!(health["read_only"].as_str().unwrap().contains("mixed.db-wal"), "{health}");
    let (status, answer) = mixed_up.told(&path, &visit(person, "two")).await;
    assert_eq!((status, &answer["type"]), (403, &json!("/problems/read-only")), "{answer}");
    assert_eq!(mixed_up.get("/api/round").await["systems"].as_array().unwrap().len(), 1, "it can be looked at");
    drop(mixed_up);
    assert_eq!(std::fs::read(&mixed).unwrap(), before, "nothing was written to it");
}

#[actix_web::test]
async fn one_broken_card_and_one_broken_projection_block_nothing_else() {
    let mut server = Running::start(&["demo"], tempfile::tempdir().unwrap());
    let (tote, raft) = (server.system("Propagation tote").await, server.system("Blue raft").await);
    let before = server.get(&format!("/api/systems/{tote}")).await;
    server.stop();
    let file = server.file.clone();
    aside(|| {
        sqlite(
            &file,
            &format!(
                "UPDATE card SET body = '{{\"card\":\"system\",\"name\":' WHERE id = '{raft}';
                 UPDATE projection SET body = 'no json' WHERE system = '{tote}' AND part = 'cases';"
            ),
        );
    });
    let (fine, said) = aside(|| ran(&["check", text(&file)]));
    assert!(!fine && said.contains("A system cannot be read") && said.contains("what is kept of its log"), "{said}");
    let again = Running::on(&file);
    let health = again.get("/healthz").await;
    assert_eq!(
        (&health["status"], &health["broken"][0]["id"]),
        (&json!("partly_unreadable"), &json!(raft)),
        "{health}"
    );
    let round = again.get("/api/round").await;
    assert_eq!(round["systems"].as_array().unwrap().len(), 9, "the rest serves");
    let tote_now = round["systems"].as_array().unwrap().iter().find(|s| s["id"] == json!(tote)).unwrap();
    assert_eq!(tote_now["suspect"], true, "the open case was made anew from the log");
    assert_eq!(
        again.get(&format!("/api/systems/{tote}")).await["last"].as_array().map(Vec::len),
        before["last"].as_array().map(Vec::len)
    );
    let answer = again.client.get(format!("{}/api/systems/{raft}", again.base)).send().await.unwrap();
    assert_eq!(answer.status(), 404);
}

#[actix_web::test]
async fn a_backup_taken_while_eight_clients_write_is_whole_and_can_be_brought_back() {
    let mut server = Running::empty();
    let (person, system) = server.first_system().await;
    let path = format!("/api/systems/{system}/entries");
    let folder = tempfile::tempdir().unwrap();
    let (file, copy) = (server.file.clone(), folder.path().join("backup.db"));
    let writing: Vec<_> = (0..8)
        .map(|client| {
            let entries: Vec<_> =
                (0..30).map(|n| server.posting(&path, &visit(person, &format!("{client}/{n}")))).collect();
            actix_web::rt::spawn(async move {
                for entry in entries {
                    assert_eq!(entry.send().await.unwrap().status(), 201);
                }
            })
        })
        .collect();
    let backup = std::thread::spawn({
        let (file, copy) = (file.clone(), copy.clone());
        move || ran(&["backup", text(&file), text(&copy)])
    });
    for writer in writing {
        writer.await.unwrap();
    }
    let (fine, said) = backup.join().unwrap();
    assert!(fine, "{said}");
    let (fine, said) = aside(|| ran(&["backup", text(&file), text(&copy)]));
    assert!(!fine && said.contains("is there already"), "{said}");
    let (fine, said) = aside(|| ran(&["check", text(&copy)]));
    assert!(fine && said.contains("is sound: 1 systems"), "{said}");
    let (fine, said) = aside(|| ran(&["restore", text(&file), text(&copy)]));
    assert!(!fine && said.contains("locked by another program"), "not while it is served: {said}");
    let all = ids(&server, system).await;
    assert_eq!(all.len(), 240);
    server.stop();
    let (fine, said) = aside(|| ran(&["restore", text(&file), text(&copy)]));
    assert!(fine && said.contains("before-restore-1"), "{said}");
    let (fine, said) = aside(|| ran(&["check", &format!("{}.before-restore-1", file.display())]));
    assert!(fine && said.contains("240 entries"), "what stood there is kept: {said}");
    let restored = Running::on(&file);
    let back = ids(&restored, system).await;
    assert!(back.is_subset(&all), "the backup holds what was written and nothing else");
    assert_eq!(restored.told(&path, &visit(person, "goes on")).await.0, 201);
}

#[actix_web::test]
async fn a_doubtful_clock_is_asked_about_and_whoever_was_asked_goes_on() {
    let mut server = Running::empty();
    let (person, system) = server.first_system().await;
    let path = format!("/api/systems/{system}/entries");
    let send = async |server: &Running, headers: &[(&str, &str)]| {
        let mut request = server.posting(&path, &visit(person, "now"));
        for (name, value) in headers {
            request = request.header(*name, *value);
        }
        let answer = request.send().await.unwrap();
        (answer.status().as_u16(), answer.json::<Value>().await.unwrap())
    };
    let (status, answer) = send(&server, &[("Mopsel-Clock", "2019-01-01T08:00:00Z")]).await;
    assert_eq!((status, &answer["fields"][0]["code"]), (422, &json!("clocks_apart")), "{answer}");
    let sure = [("Mopsel-Clock", "2019-01-01T08:00:00Z"), ("Mopsel-Clock-Is-Right", "yes")];
    assert_eq!(send(&server, &sure).await.0, 201);
    server.stop();
    // Something was written under a clock that was three years ahead.
    let file = server.file.clone();
    let years = 3 * 365 * 24 * 3_600_000_i64;
    aside(|| {
        sqlite(
            &file,
            &format!(
                "INSERT INTO entry (id, system, at, recorded, who, body, shape)
                 SELECT '0197f0a0-0000-7000-8000-0000000000aa', system, at + {years}, recorded + {years}, who,
                 '{{\"kind\":\"visit\",\"all_fine\":true,\"level\":{{\"by\":\"volume\",\"litres\":20.0,\"pump_ran\":true}}}}', 2
                 FROM entry LIMIT 1;
                 UPDATE file_facts SET last_written = last_written + {years};
                 UPDATE projection SET version = 0"
            ),
        );
    });
    let again = Running::on(&file);
    let tasks = again.get(&format!("/api/systems/{system}")).await["tasks"].clone();
    let level = tasks.as_array().unwrap().iter().find(|task| task["code"] == "level").unwrap();
    assert!(level["days_late"].as_i64().unwrap() > -30, "an entry to come is not the last: {level}");
    let (status, answer) = send(&again, &[]).await;
    assert_eq!((status, &answer["fields"][0]["code"]), (422, &json!("clock_behind")), "{answer}");
    assert_eq!(send(&again, &[("Mopsel-Clock-Is-Right", "yes")]).await.0, 201);
    assert_eq!(send(&again, &[]).await.0, 201, "it was asked once");
}

#[actix_web::test]
async fn what_nothing_is_known_to_have_changed_is_not_sent_again() {
    let server = Running::demo();
    let get = async |tag: Option<&str>| {
        let mut request = server.client.get(format!("{}/api/round", server.base));
        if let Some(tag) = tag {
            request = request.header("If-None-Match", tag);
        }
        request.send().await.unwrap()
    };
    let first = get(None).await;
    let tag = first.headers()["etag"].to_str().unwrap().to_owned();
    let second = get(Some(&tag)).await;
    assert_eq!((second.status().as_u16(), second.bytes().await.unwrap().len()), (304, 0));
    let raft = server.system("Blue raft").await;
    let wren = server.person(&raft, "Wren").await;
    let fine = json!({ "id": Uuid::now_v7(), "by": wren, "body": { "kind": "visit", "all_fine": true } });
    assert_eq!(server.told(&format!("/api/systems/{raft}/entries"), &fine).await.0, 201);
    assert_eq!(get(Some(&tag)).await.status(), 200);
}

/// A request as bytes, and the answer as text.
fn raw(server: &Running, request: &str) -> String {
    let mut stream = TcpStream::connect(server.base.trim_start_matches("http://")).unwrap();
    stream.write_all(request.as_bytes()).unwrap();
    let mut answer = String::new();
    let _ = stream.read_to_string(&mut answer);
    answer
}

#[actix_web::test]
async fn head_asks_for_the_head_and_a_wrong_method_is_told_the_right_ones() {
    let server = Running::empty();
    let host = server.base.trim_start_matches("http://").to_owned();
    let head = raw(&server, &format!("HEAD /api/round HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n"));
    assert!(
        head.starts_with("HTTP/1.1 200") && head.to_lowercase().contains("content-type: application/json"),
        "{head}"
    );
    assert!(head.ends_with("\r\n\r\n"), "no body: {head}");
    assert!(head.to_lowercase().contains("x-request-id: "), "{head}");
    for (method, path, allowed) in [
        ("PATCH", "/api/round", "GET, HEAD"),
        ("DELETE", "/api/cards/0197f0a0-0000-7000-8000-000000000001", "PUT"),
        ("GET", "/api/bench/plan", "POST"),
        ("POST", "/healthz", "GET, HEAD"),
        ("PUT", "/set-up", "GET, HEAD"),
    ] {
        let method = reqwest::Method::from_bytes(method.as_bytes()).unwrap();
        let answer = server.client.request(method, format!("{}{path}", server.base)).send().await.unwrap();
        assert_eq!((answer.status().as_u16(), answer.headers()["allow"].to_str().unwrap()), (405, allowed), "{path}");
        assert_eq!(answer.headers()["content-type"], "application/problem+json");
        assert!(answer.json::<Value>().await.unwrap()["detail"].as_str().unwrap().contains(allowed));
    }
}

#[test]
fn a_body_that_does_not_arrive_is_not_waited_for_without_end() {
    let server = Running::empty();
    let host = server.base.trim_start_matches("http://").to_owned();
    let half = format!(
        "POST /api/cards HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/json\r\nContent-Length: 500\r\n\r\n{{\"id\""
    );
    let answer = raw(&server, &half);
    assert!(answer.starts_with("HTTP/1.1 408") && answer.contains("did not arrive"), "{answer}");
}
