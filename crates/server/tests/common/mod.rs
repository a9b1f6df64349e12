//! The real program on a free port, and a client to talk to it.

#[path = "../../../core/tests/common/soak.rs"]
#[allow(dead_code, reason = "shared with the core's tests")]
pub mod soak;

use reqwest::{Client, RequestBuilder, Response};
use serde_json::{Value, json};
use std::io::{BufRead, BufReader, Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, ExitStatus, Stdio};
use std::sync::OnceLock;
use tempfile::TempDir;
use uuid::Uuid;

/// The day of the demo; its clock stands still at half past eight.
const TODAY: &str = "2027-03-09";

pub struct Running {
    child: Child,
    pub base: String,
    pub file: PathBuf,
    pub client: Client,
    folder: Option<TempDir>,
}

/// A client that keeps no connection: one that waits for its next request may be closed by the server just then.
fn client() -> Client {
    Client::builder().pool_max_idle_per_host(0).build().unwrap()
}

/// A request with a body. Who acts is never in it: `by` is said in the header.
fn said(request: RequestBuilder, body: &Value) -> RequestBuilder {
    let mut body = body.clone();
    let by = body.as_object_mut().and_then(|body| body.remove("by"));
    let request = request.json(&body);
    match by.as_ref().map(|by| by.as_str().unwrap_or_default()) {
        Some(by) => request.header("Mopsel-Person", by),
        None => request,
    }
}

/// The program with some arguments, quiet but for errors.
pub fn program(arguments: &[&str]) -> Command {
    let mut program = Command::new(env!("CARGO_BIN_EXE_mopsel"));
    program.args(arguments).env("MOPSEL_LOG", "error");
    program
}

/// Works on a file with another program.
pub fn sqlite(file: &Path, statement: &str) {
    let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build().unwrap();
    runtime.block_on(async {
        use sqlx::{ConnectOptions, Connection};
        let options = sqlx::sqlite::SqliteConnectOptions::new().filename(file).create_if_missing(true);
        let mut connection = options.connect().await.unwrap();
        sqlx::raw_sql(sqlx::AssertSqlSafe(statement)).execute(&mut connection).await.unwrap();
        connection.close().await.unwrap();
    });
}

/// Threads of a runtime cannot start another: work on a file from beside it.
pub fn aside<T: Send>(work: impl FnOnce() -> T + Send) -> T {
    std::thread::scope(|scope| scope.spawn(work).join().unwrap())
}

impl Running {
    pub fn start(arguments: &[&str], folder: TempDir) -> Self {
        let file = folder.path().join("mopsel.db");
        let mut child = Command::new(env!("CARGO_BIN_EXE_mopsel"))
            .args(arguments)
            .args(["--port", "0", "--db"])
            .arg(&file)
            .env("MOPSEL_LOG", "error")
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        let mut line = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let base = line.trim().rsplit(' ').next().unwrap().to_owned();
        assert!(base.starts_with("http://127.0.0.1:"), "{line}");
        Self { child, base, file, client: client(), folder: Some(folder) }
    }

    pub fn empty() -> Self {
        Self::start(&["serve"], tempfile::tempdir().unwrap())
    }

    /// The demo of one fixed day, on a copy of a file that is made once: a copy costs milliseconds.
    pub fn demo() -> Self {
        static READY: OnceLock<Vec<u8>> = OnceLock::new();
        let ready = READY.get_or_init(|| {
            let mut made = Self::demo_on(TODAY);
            // Once it answers, it can be asked to stop, and puts everything into the one file.
            std::net::TcpStream::connect(made.base.trim_start_matches("http://"))
                .and_then(|mut open| {
                    open.write_all(b"GET /healthz HTTP/1.0\r\nHost: localhost\r\n\r\n")?;
                    open.read_to_end(&mut Vec::new())
                })
                .unwrap();
            assert!(made.stop().success());
            std::fs::read(&made.file).unwrap()
        });
        let folder = tempfile::tempdir().unwrap();
        std::fs::write(folder.path().join("mopsel.db"), ready).unwrap();
        Self::start(&["demo", "--keep", "--today", TODAY], folder)
    }

    /// The demo as it stands on a day of one's own choice.
    pub fn demo_on(day: &str) -> Self {
        Self::start(&["demo", "--today", day], tempfile::tempdir().unwrap())
    }

    /// Kills the process as a power cut would, and starts another on the same file.
    pub fn killed_and_restarted(self) -> Self {
        self.killed_and_started(&["serve"])
    }

    /// The same, with the demo going on.
    pub fn killed_and_going_on(self) -> Self {
        self.killed_and_started(&["demo", "--keep", "--today", TODAY])
    }

    fn killed_and_started(mut self, arguments: &[&str]) -> Self {
        self.child.kill().unwrap();
        self.child.wait().unwrap();
        let folder = self.folder.take().unwrap();
        Self::start(arguments, folder)
    }

    pub fn pid(&self) -> u32 {
        self.child.id()
    }

    pub fn kill(&mut self) {
        self.child.kill().unwrap();
        self.child.wait().unwrap();
    }

    /// Starts on a file in any folder, that stays where it is.
    pub fn on(file: &std::path::Path) -> Self {
        let mut child = program(&["serve", "--port", "0", "--db"]).arg(file).stdout(Stdio::piped()).spawn().unwrap();
        let mut line = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let base = line.trim().rsplit(' ').next().unwrap().to_owned();
        assert!(base.starts_with("http://127.0.0.1:"), "{line}");
        Self { child, base, file: file.to_owned(), client: client(), folder: None }
    }

    /// Stops the program as a person would, and waits until it has closed its file.
    pub fn stop(&mut self) -> ExitStatus {
        let pid = self.child.id().to_string();
        assert!(Command::new("kill").args(["-TERM", &pid]).status().unwrap().success());
        self.child.wait().unwrap()
    }

    /// Gets an address; `?by=` is said in the header in which a device says who acts.
    pub async fn get(&self, path: &str) -> Value {
        let (path, by) = path.split_once("?by=").map_or((path, None), |(path, by)| (path, Some(by)));
        let request = self.client.get(format!("{}{path}", self.base));
        let request = if let Some(by) = by { request.header("Mopsel-Person", by) } else { request };
        let response = request.send().await.unwrap();
        assert!(response.status().is_success(), "{path}: {}", response.status());
        response.json().await.unwrap()
    }

    /// Gets an address, and gives the status with the body.
    pub async fn asked(&self, path: &str) -> (u16, Value) {
        let response = self.client.get(format!("{}{path}", self.base)).send().await.unwrap();
        (response.status().as_u16(), response.json().await.unwrap())
    }

    /// A request that is made, not yet sent.
    pub fn posting(&self, path: &str, body: &Value) -> RequestBuilder {
        said(self.client.post(format!("{}{path}", self.base)), body)
    }

    pub async fn post(&self, path: &str, body: &Value) -> Response {
        self.posting(path, body).send().await.unwrap()
    }

    pub async fn put(&self, path: &str, body: &Value) -> Response {
        said(self.client.put(format!("{}{path}", self.base)), body).send().await.unwrap()
    }

    /// Takes something away, as somebody.
    pub async fn delete(&self, path: &str, by: &str) -> Response {
        let request = self.client.delete(format!("{}{path}", self.base));
        request.header("Mopsel-Person", by).send().await.unwrap()
    }

    /// Posts, and gives the status with the body.
    pub async fn told(&self, path: &str, body: &Value) -> (u16, Value) {
        let response = self.post(path, body).await;
        (response.status().as_u16(), response.json().await.unwrap())
    }

    /// The id of a system of the demo by its name.
    pub async fn system(&self, name: &str) -> String {
        let round = self.get("/api/round").await;
        round["systems"].as_array().unwrap().iter().find(|s| s["name"] == name).unwrap()["id"]
            .as_str()
            .unwrap()
            .to_owned()
    }

    /// The id of a person at a system's place.
    pub async fn person(&self, system: &str, name: &str) -> String {
        let view = self.get(&format!("/api/systems/{system}")).await;
        view["people"].as_array().unwrap().iter().find(|p| p["body"]["name"] == name).unwrap()["id"]
            .as_str()
            .unwrap()
            .to_owned()
    }

    /// Sets up a place with a caretaker and a still-water tub; gives the person's and the system's id.
    pub async fn first_system(&self) -> (Uuid, Uuid) {
        let (place, person, system) = (Uuid::now_v7(), Uuid::now_v7(), Uuid::now_v7());
        for card in [
            json!({ "id": place, "body": { "card": "place", "name": "Tern Street flat", "zone": "Europe/London", "open_days": ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"] } }),
            json!({ "id": person, "parent": place, "body": { "card": "person", "name": "Wren", "role": "caretaker" } }),
            json!({ "id": system, "parent": place, "body": tub() }),
        ] {
            let (status, answer) = self.told("/api/cards", &card).await;
            assert_eq!(status, 201, "{answer}");
        }
        (person, system)
    }
}

pub fn tub() -> Value {
    json!({
        "card": "system", "name": "Window crate", "kind": "still_water", "traits": { "opaque": true }, "ports": 6,
        "reservoir": { "shape": { "form": "box", "length_mm": 520, "width_mm": 360, "height_mm": 200 }, "minimum": 8, "working": 28, "maximum": 34 },
        "measuring": "meter", "refill": "one_inch", "change_days": 21, "since": "2026-01-01"
    })
}

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
