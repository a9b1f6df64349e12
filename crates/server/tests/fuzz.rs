//! Every parser of what comes from outside, fed deep, long, cut and mutated inputs in a process of its own: JSON, CSV, ZIP,
//! calendars and pictures. A small seeded portion each time, ten minutes of each by `make soak`. Whatever comes, the program
//! answers within two seconds, never by a fault of its own, in no more than 200 MB more than it needs idle, and lives on.

use crate::common::Running;
use crate::common::soak::{seeds, soaking};
use crate::readings::escaped;
use fastrand::Rng;
use serde_json::{Value, json};
use sha2::{Digest, Sha256};
use std::io::{Cursor, Read, Write};
use std::time::{Duration, Instant};
use uuid::Uuid;

/// No answer takes longer.
const SLOWEST: Duration = Duration::from_secs(2);
/// What a run may take in memory beyond an idle program, in MB. A picture is unpacked in 300 by its own limit.
const MOST_MEMORY: u64 = 200;

type Pack = fn(&[u8]) -> Vec<u8>;

/// A parser, as the world reaches it.
struct Target {
    name: &'static str,
    kind: &'static str,
    /// Sound inputs, and those that once broke it.
    corpus: Vec<Vec<u8>>,
    /// Pieces that mean something to it.
    words: &'static [&'static str],
    path: Box<dyn Fn(&mut Rng) -> String>,
    /// Packs a changed input so that it gets past what is checked first.
    packed: Option<Pack>,
    memory: u64,
}

/// One change; several of them make an input.
fn change(input: &mut Vec<u8>, rng: &mut Rng, words: &[&str], corpus: &[Vec<u8>]) {
    let at = rng.usize(..=input.len());
    let span = |rng: &mut Rng, len: usize| {
        let from = rng.usize(..=len);
        from..(from + rng.usize(..64)).min(len)
    };
    match rng.u8(..11) {
        0 if !input.is_empty() => {
            let at = rng.usize(..input.len());
            input[at] ^= 1 << rng.u8(..8);
        }
        1 if !input.is_empty() => {
            let at = rng.usize(..input.len());
            input[at] = *rng.choice(&[0, 9, 10, 13, 34, 44, 45, 58, 59, 91, 93, 123, 125, 127, 128, 255]).unwrap();
        }
        2 => input.truncate(at),
        3 => drop(input.drain(span(rng, input.len()))),
        4 => {
            let piece = input[span(rng, input.len())].to_vec();
            input.splice(at..at, piece.repeat(rng.usize(1..40)));
        }
        5 => {
            let other = rng.choice(corpus).unwrap();
            let cut = rng.usize(..=other.len());
            input.truncate(at);
            input.extend_from_slice(&other[cut..]);
        }
        6 => {
            let deep = *rng.choice(&["[", "{\"a\":", "(", "BEGIN:VEVENT\r\n", "\"", "<"]).unwrap();
            input.splice(at..at, deep.repeat(rng.usize(1..30_000)).bytes());
        }
        7 => {
            let long = *rng.choice(&["9", "é", " ", "\r\n", ",", "\u{301}", "-", "0"]).unwrap();
            input.splice(at..at, long.repeat(rng.usize(1..60_000)).bytes());
        }
        8 => {
            let numbers =
                ["-1", "0", "1e308", "-0.0", "99999999999999999999", "NaN", "2147483648", "1e-320", "-9999-01-01"];
            input.splice(at..at, rng.choice(numbers).unwrap().bytes());
        }
        _ => {
            if let Some(word) = rng.choice(words) {
                input.splice(at..at, word.bytes());
            }
        }
    }
}

fn files(archive: &[u8]) -> Vec<(String, Vec<u8>)> {
    let mut zip = zip::ZipArchive::new(Cursor::new(archive)).unwrap();
    let all = zip.len();
    let read = |n: usize| {
        let mut file = zip.by_index(n).unwrap();
        let mut bytes = Vec::new();
        file.read_to_end(&mut bytes).unwrap();
        (file.name().unwrap().into_owned(), bytes)
    };
    (0..all).map(read).collect()
}

/// An archive that holds some lines where entries stand, cards where it holds them, and the sums that fit.
fn with_lines(lines: &[u8]) -> Vec<u8> {
    let empty: &[u8] = b"";
    let is_card = lines.windows(6).any(|part| part == b"\"card\"");
    let (cards, entries) = if is_card { (lines, empty) } else { (empty, lines) };
    let loggers: &[u8] = b"system,delivery,at,ph,ec_ms_cm_25c,celsius,litres\n";
    let files = [
        ("cards.jsonl", cards),
        ("entries.jsonl", entries),
        ("pictures.jsonl", empty),
        ("deliveries.jsonl", empty),
        ("loggers.csv", loggers),
    ];
    let sum = |bytes: &[u8]| Sha256::digest(bytes).iter().map(|byte| format!("{byte:02x}")).collect::<String>();
    let listed: Vec<Value> =
        files.iter().map(|(name, bytes)| json!({ "name": name, "bytes": bytes.len(), "sha256": sum(bytes) })).collect();
    let manifest = json!({
        "format": "mopsel-archive", "version": 3, "program": "0.1.0", "made": "2027-03-09T08:30:00Z", "files": listed,
    });
    let mut out = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let manifest = manifest.to_string().into_bytes();
    for (name, bytes) in files.iter().copied().chain([("manifest.json", manifest.as_slice())]) {
        out.start_file(name, zip::write::SimpleFileOptions::default()).unwrap();
        out.write_all(bytes).unwrap();
    }
    out.finish().unwrap().into_inner()
}

fn picture(format: image::ImageFormat) -> Vec<u8> {
    let drawn = image::RgbImage::from_fn(48, 32, |x, y| image::Rgb([(x * 5) as u8, (y * 7) as u8, (x ^ y) as u8]));
    let mut bytes = Cursor::new(Vec::new());
    image::DynamicImage::ImageRgb8(drawn).write_to(&mut bytes, format).unwrap();
    bytes.into_inner()
}

const TABLE: &str = "Date,System,pH,Level (L),Added (L),Sprayers,Notes\n2027-03-01,Corner tower,6.1,18,2,x,\"brown, rinsed\"\n2027-03-02,Window crate,5.9,,,,\n";
const CALENDAR: &str = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:1\r\nSUMMARY:Term break\r\nDTSTART;VALUE=DATE:20270326\r\nDURATION:P2D\r\nRRULE:FREQ=WEEKLY;COUNT=3\r\nEXDATE;VALUE=DATE:20270402\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n";
/// A line of which the parser could not say where it broke off.
fn without_end() -> Vec<u8> {
    format!("BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nSUMMARY;{}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n", "9".repeat(70_000))
        .into_bytes()
}

/// Inputs that once ended, blocked or panicked the program.
const BROKE: [&str; 4] = [
    "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART:20270215T000000\r\nRRULE:FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=30\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
    "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART;VALUE=DATE:20270326\r\nDURATION:PPPPP\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
    "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART;VALUE=DATE:20270326\r\nDURATION:P1é\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
    "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART:20150103\r\nRRULE:FREQ=WEEKLY\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
];

async fn targets(server: &Running) -> Vec<Target> {
    let tower = server.system("Corner tower").await;
    let archive =
        server.client.get(format!("{}/api/archive", server.base)).send().await.unwrap().bytes().await.unwrap();
    let files = files(&archive);
    let lines = |name: &str| files.iter().find(|(file, _)| file == name).unwrap().1.clone();
    let some = |name: &str, most: usize| -> Vec<Vec<u8>> {
        let lines = lines(name);
        let all: Vec<&[u8]> = lines.split_inclusive(|byte| *byte == b'\n').collect();
        all.chunks(all.len().div_ceil(most).max(1)).map(|some| some[0].to_vec()).collect()
    };
    let bodies: Vec<Vec<u8>> = some("entries.jsonl", 40)
        .iter()
        .map(|line| {
            let entry: Value = serde_json::from_slice(line).unwrap();
            json!({ "id": Uuid::now_v7(), "body": entry["body"] }).to_string().into_bytes()
        })
        .collect();
    let cards: Vec<Vec<u8>> = some("cards.jsonl", 30)
        .iter()
        .map(|line| {
            let card: Value = serde_json::from_slice(line).unwrap();
            json!({ "id": Uuid::now_v7(), "parent": card["parent"], "body": card["card"] }).to_string().into_bytes()
        })
        .collect();
    let csv = vec![
        b"Time,pH,EC (ppm),Temp,Level\n2027-03-01 08:00,6.1,750,20.5,31\n2027-03-01 08:05,6.2,760,20.4,30.8\n".to_vec(),
        b"Date;System;pH;Level (L);Sprayers;Notes\n01.03.2027;Corner tower;6,1;18;x;\"brown; rinsed\"\n".to_vec(),
    ];
    let look = server.client.post(format!("{}/api/readings/look", server.base)).header("Content-Type", "text/csv");
    let looked: Value = look.body(TABLE).send().await.unwrap().json().await.unwrap();
    let fixed = |path: String| -> Box<dyn Fn(&mut Rng) -> String> { Box::new(move |_| path.clone()) };
    let picture_path = format!("/api/systems/{tower}/pictures?picture=");
    let words = &[
        "\"kind\":\"visit\"",
        "null",
        "true",
        "{}",
        "[]",
        "\\u0000",
        "\\ud800",
        "\"by\":\"kit\"",
        "\"ports\":\"1-9999999\"",
    ];
    let taken = format!("/api/readings/file?how={}&source=f.csv&id=", escaped(&looked["how"].to_string()));
    let target =
        |name, kind, corpus, words, path, packed, memory| Target { name, kind, corpus, words, path, packed, memory };
    vec![
        target(
            "entries",
            "application/json",
            bodies,
            words,
            fixed(format!("/api/systems/{tower}/entries")),
            None,
            MOST_MEMORY,
        ),
        target("cards", "application/json", cards, words, fixed("/api/cards".into()), None, MOST_MEMORY),
        target(
            "calendars",
            "text/calendar",
            [CALENDAR].iter().chain(&BROKE).map(|text| text.as_bytes().to_vec()).chain([without_end()]).collect(),
            &[
                "RRULE:FREQ=SECONDLY",
                ";INTERVAL=0",
                ";BYDAY=5MO,-5SU",
                "DURATION:P99999W",
                "RDATE:20270101,20270102",
                "TZID=Nowhere",
                "BEGIN:VTIMEZONE\r\n",
                "UNTIL=00010101",
            ],
            fixed("/api/closures/read".into()),
            None,
            MOST_MEMORY,
        ),
        target(
            "tables, looked at",
            "text/csv",
            csv,
            &["\"", ";", "\t", "NaN", "31.12.9999", "\u{feff}"],
            fixed("/api/readings/look".into()),
            None,
            MOST_MEMORY,
        ),
        target(
            "tables, taken in",
            "text/csv",
            vec![TABLE.as_bytes().to_vec()],
            &["\"", ",", "x", "2027-02-30", "24:61"],
            Box::new(move |rng| format!("{taken}{}", Uuid::from_u128(rng.u128(..)))),
            None,
            MOST_MEMORY,
        ),
        target(
            "archives",
            "application/zip",
            vec![archive.to_vec(), with_lines(b"")],
            &["PK\u{3}\u{4}", "manifest.json"],
            fixed("/api/archive".into()),
            None,
            MOST_MEMORY,
        ),
        target(
            "lines of archives",
            "application/zip",
            [some("entries.jsonl", 30), some("cards.jsonl", 30)].concat(),
            words,
            fixed("/api/archive".into()),
            Some(with_lines),
            MOST_MEMORY,
        ),
        target(
            "pictures",
            "image/png",
            [image::ImageFormat::Png, image::ImageFormat::Jpeg, image::ImageFormat::WebP].map(picture).to_vec(),
            &["IDAT", "IHDR", "Exif\u{0}\u{0}", "VP8X", "\u{ff}\u{d8}"],
            Box::new(move |rng| format!("{picture_path}{}", Uuid::from_u128(rng.u128(..)))),
            None,
            300 + MOST_MEMORY,
        ),
    ]
}

fn memory(pid: u32, line: &str) -> u64 {
    let status = std::fs::read_to_string(format!("/proc/{pid}/status")).unwrap_or_default();
    let found = status.lines().find(|found| found.starts_with(line)).unwrap_or_default();
    found.split_whitespace().nth(1).and_then(|kb| kb.parse::<u64>().ok()).unwrap_or(0) / 1024
}

#[actix_web::test]
async fn no_input_ends_the_program_or_keeps_it_or_makes_it_large() {
    let long = Duration::from_secs(if soaking() { 600 } else { 2 });
    let seed = *seeds("mutated inputs", 1, 1).start();
    let first = Running::demo();
    // One of them alone, for whoever looks into it.
    let only = std::env::var("MOPSEL_FUZZ").ok();
    for target in targets(&first).await.into_iter().filter(|one| only.as_ref().is_none_or(|only| one.name == only)) {
        let server = Running::demo();
        let tower = server.system("Corner tower").await;
        let wren = server.person(&tower, "Wren").await;
        let (mut rng, idle) = (Rng::with_seed(seed), memory(server.pid(), "VmRSS:"));
        let (begun, mut runs, mut slowest) = (Instant::now(), 0u32, Duration::ZERO);
        while begun.elapsed() < long || runs < 20 {
            let mut input = rng.choice(&target.corpus).unwrap().clone();
            for _ in 0..rng.usize(..6) {
                change(&mut input, &mut rng, target.words, &target.corpus);
            }
            input.truncate(2_000_000);
            let sent = target.packed.map_or_else(|| input.clone(), |pack| pack(&input));
            let path = (target.path)(&mut rng);
            let request = server.client.post(format!("{}{path}", server.base)).header("Mopsel-Person", &wren);
            let asked = Instant::now();
            let answer = request.header("Content-Type", target.kind).body(sent).send().await;
            let took = asked.elapsed();
            let kept = || {
                let name = std::env::temp_dir().join(format!("mopsel-broke-{}-{runs}", target.name.replace(' ', "-")));
                std::fs::write(&name, &input).unwrap();
                format!("{}, seed {seed}, run {runs}, the input is in {}", target.name, name.display())
            };
            let status = answer.unwrap_or_else(|error| panic!("{}: {error}", kept())).status().as_u16();
            assert!(status < 500, "{status}: {}", kept());
            assert!(took < SLOWEST, "{took:?}: {}", kept());
            (runs, slowest) = (runs + 1, slowest.max(took));
        }
        let most = memory(server.pid(), "VmHWM:");
        println!("{}: {runs} inputs, slowest {slowest:?}, {idle} MB idle, {most} MB at most", target.name);
        assert!(most < idle + target.memory, "{}: {most} MB", target.name);
        assert_eq!(server.get("/healthz").await["status"], "ok", "{}", target.name);
    }
}
