//! How the cost of the round, of a plan and of opening a file grows: `make bench`. Prints ratios
//! within this one run; seconds depend on the machine and mean nothing by themselves.
//!
//! The generator makes N systems with a stretch of plausible care each: daily look-ins, readings
//! every third day, weekly levels and top-offs, a change every other week.

use actix_web::{App, HttpResponse, HttpServer, web};
use jiff::{SignedDuration, Timestamp};
use mopsel::Clock;
use mopsel::Hosts;
use mopsel::book::Book;
use mopsel::view::round;
use mopsel_core::calendar::Weekday;
use mopsel_core::crop::{CropGroup, Planting, Stage};
use mopsel_core::fact::card::{Card, Person, Place, Role};
use mopsel_core::fact::{Actor, Body, Change, Entry, NewCard, Roots, TopOff, TopOffWater, Visit};
use mopsel_core::gate::Command;
use mopsel_core::quantity::{Celsius, Conductivity, EcReading, EcScale, Litres, Name, Ph, PhReading, UnitSystem};
use mopsel_core::reservoir::{LevelReading, Reservoir, Shape};
use mopsel_core::system::{Measuring, PortSet, System, kinds};
use mopsel_store::Store;
use std::error::Error;
use std::io::{Read, Write};
use std::net::TcpStream;
use std::time::{Duration, Instant};
use uuid::Uuid;

type Result<T> = std::result::Result<T, Box<dyn Error>>;

const SYSTEMS: usize = 1000;
/// Three years.
const DAYS: i64 = 1095;
const RUNS: usize = 41;

fn id(name: &str) -> Uuid {
    Uuid::new_v5(&Uuid::NAMESPACE_OID, name.as_bytes())
}

fn now() -> Result<Timestamp> {
    Ok("2027-03-09T08:30:00Z".parse()?)
}

fn system(n: usize) -> Result<System> {
    let facts = &kinds()[n % kinds().len()];
    Ok(System {
        name: Name::new(&format!("System {n}"))?,
        kind: facts.key,
        traits: facts.traits,
        reservoir: Reservoir::suggested(
            Shape::Stated { litres: Litres::new(60.0 + (n % 40) as f64)? },
            facts.traits.drain_back,
        ),
        ports: facts.ports,
        measuring: Measuring::Meter,
        meter: None,
        refill: facts.refill,
        change_days: 14,
        source_ec: Conductivity::new(0.3)?,
        methods: mopsel_core::system::Methods::default(),
        ec_band: None,
        ph_band: None,
        intervals: std::collections::BTreeMap::new(),
        slacks: std::collections::BTreeMap::new(),
        rules: vec![],
        turn: None,
        since: "2024-01-01".parse()?,
        note: None,
    })
}

/// `days` of care up to now.
fn care(n: usize, days: i64, system: &System, by: Uuid) -> Result<Vec<Entry>> {
    let working = system.reservoir.working;
    let mut entries = Vec::new();
    for day in (1..=days).rev() {
        let wave = ((day as f64 + n as f64) * 0.7).sin();
        let mut visit = Visit { all_fine: true, ..Visit::default() };
        if day % 3 == 0 {
            visit.ph = Some(PhReading::Meter(Ph::new(6.0 + 0.2 * wave)?));
            visit.ec = Some(EcReading { value: 1.4 + 0.1 * wave, scale: EcScale::MilliSiemens, compensated: true });
            visit.temperature = Some(Celsius::new(20.5 + wave)?);
        }
        if day % 7 == 0 {
            visit.level = Some(LevelReading::Volume { litres: working * (0.75 + 0.05 * wave), pump_ran: true });
            visit.top_off = Some(TopOff { litres: working * 0.2, water: TopOffWater::Plain });
            visit.roots = Some(Roots::default());
        }
        let at = now()? - SignedDuration::from_hours(day * 24);
        let body =
            if day % 14 == 8 { Body::Change(Change::full(system.reservoir.working)) } else { Body::Visit(visit) };
        entries.push(Entry { id: id(&format!("{n}/{day}")), at, by, body, amends: None, reason: None });
    }
    Ok(entries)
}

async fn fill(store: &Store, systems: usize, days: i64) -> Result<()> {
    let (place, person) = (id("place"), id("person"));
    let home = Place {
        closures: vec![],
        name: Name::new("Long Acre polytunnel")?,
        zone: "Europe/London".into(),
        open_days: Weekday::ALL.to_vec(),
        units: UnitSystem::Metric,
        containers: vec![],
        tools: vec![],
    };
    let make = async |id: Uuid, parent: Option<Uuid>, card: Card| -> Result<()> {
        let card = Command::MakeCard(Box::new(NewCard { id, parent, card }));
        store.submit(&card, &Actor::default(), now()?).await?;
        Ok(())
    };
    let wren = Person {
        name: Name::new("Wren")?,
        role: Role::Caretaker,
        units: None,
        ec_scale: None,
        lifts_kg: None,
        feed: None,
        away: vec![],
    };
    make(place, None, Card::Place(home)).await?;
    make(person, Some(place), Card::Person(wren)).await?;
    for n in 0..systems {
        let (system_id, system) = (id(&format!("system {n}")), system(n)?);
        let planting = Planting {
            crop: Name::new("Kale")?,
            group: CropGroup::Leafy,
            ports: PortSet::range(1, system.ports.min(4)),
            stage: Stage::Vegetative,
            sown_on: None,
            planted_on: "2027-01-20".parse()?,
            ec_band: None,
            ph_band: None,
            note: None,
        };
        make(system_id, Some(place), Card::System(system.clone())).await?;
        make(id(&format!("planting {n}")), Some(system_id), Card::Planting(planting)).await?;
        store.fill(system_id, &care(n, days, &system, person)?, now()?).await?;
    }
    Ok(())
}

/// The median of some times, in seconds.
fn median(times: &mut [Duration]) -> f64 {
    times.sort();
    times[times.len() / 2].as_secs_f64()
}

/// The round as the server answers it: what changed, every rule for every system, the JSON.
async fn answer(book: &Book) -> Result<usize> {
    let pages = book.open().await?;
    Ok(serde_json::to_vec(&round(&pages, now()?, &Actor::default(), &[])?)?.len())
}

/// The rows that a round needs, fetched bare.
async fn bare(store: &Store) -> Result<usize> {
    let cards = sqlx::query("SELECT id, parent, version, archived, body FROM card").fetch_all(store.reader()).await?;
    let folds = sqlx::query("SELECT system, part, body FROM projection").fetch_all(store.reader()).await?;
    Ok(cards.len() + folds.len())
}

/// A client that keeps its connection: the time of an answer and next to nothing else.
struct Line {
    stream: TcpStream,
    host: String,
}

impl Line {
    fn to(base: &str) -> Result<Self> {
        let host = base.trim_start_matches("http://").to_owned();
        let stream = TcpStream::connect(&host)?;
        stream.set_nodelay(true)?;
        Ok(Self { stream, host })
    }

    /// Posts, reads the whole answer, and gives its status.
    fn post(&mut self, path: &str, body: &str) -> Result<u16> {
        write!(
            self.stream,
            "POST {path} HTTP/1.1\r\nHost: {}\r\nContent-Type: application/json\r\nContent-Length: {}\r\n\r\n{body}",
            self.host,
            body.len()
        )?;
        let mut answer = Vec::new();
        let mut piece = [0u8; 16 * 1024];
        loop {
            let read = self.stream.read(&mut piece)?;
            answer.extend_from_slice(&piece[..read]);
            let head = answer.windows(4).position(|w| w == b"\r\n\r\n");
            let Some(head) = head.filter(|_| read > 0) else { continue };
            let text = String::from_utf8_lossy(&answer[..head]).to_lowercase();
            let length = text
                .lines()
                .find_map(|line| line.strip_prefix("content-length: "))
                .map_or(0, |n| n.parse().unwrap_or(0));
            if answer.len() >= head + 4 + length {
                return Ok(text[9..12].parse()?);
            }
        }
    }
}

/// A server on a free port, in this process.
fn serve(store: &Store) -> Result<String> {
    let listener = std::net::TcpListener::bind("127.0.0.1:0")?;
    let base = format!("http://{}", listener.local_addr()?);
    actix_web::rt::spawn(mopsel::app::run(listener, store.clone(), Clock::Standing(now()?), Hosts::local_and(&[]))?);
    Ok(base)
}

/// A server that answers at once, for everything that is not the work itself.
fn serve_nothing() -> Result<String> {
    let listener = std::net::TcpListener::bind("127.0.0.1:0")?;
    let base = format!("http://{}", listener.local_addr()?);
    let server = HttpServer::new(|| {
        App::new().route(
            "/empty",
            web::post().to(|body: web::Bytes| async move { HttpResponse::Ok().body(format!("{}", body.len())) }),
        )
    });
    actix_web::rt::spawn(server.workers(2).listen(listener)?.run());
    Ok(base)
}

const PREVIEWS: usize = 2000;

/// The 95th of a hundred, in seconds.
fn p95(times: &mut [Duration]) -> f64 {
    times.sort();
    times[times.len() * 95 / 100].as_secs_f64()
}

/// A plan for a system with five years of log, beside one with two months and an empty handler.
async fn previews(folder: &std::path::Path) -> Result<()> {
    let (long, short) = (Store::open(&folder.join("five.db")).await?, Store::open(&folder.join("two.db")).await?);
    fill(&long, 10, 1826).await?;
    fill(&short, 10, 61).await?;
    let (nothing, five, two) = (serve_nothing()?, serve(&long)?, serve(&short)?);
    // System 2 is a bucket chain: a change around its heel, by a three-part recipe, over containers.
    let ask = format!(
        r#"{{"system":"{}","ask":{{"purpose":{{"for":"change","heel":4.0}},"recipe":"{}","target":{{"value":1.6,"scale":"ms_cm"}}}}}}"#,
        id("system 2"),
        mopsel_core::mixing::shipped_id("three_part")
    );
    let times = tokio::task::spawn_blocking(move || -> std::result::Result<[Vec<Duration>; 3], String> {
        let said = |error: Box<dyn Error>| error.to_string();
        let mut lines =
            [Line::to(&nothing).map_err(said)?, Line::to(&five).map_err(said)?, Line::to(&two).map_err(said)?];
        let mut times: [Vec<Duration>; 3] = Default::default();
        for round in 0..PREVIEWS + 50 {
            for (i, line) in lines.iter_mut().enumerate() {
                let clock = Instant::now();
                let status = line.post(if i == 0 { "/empty" } else { "/api/bench/plan" }, &ask).map_err(said)?;
                if status != 200 {
                    return Err(format!("a plan was answered with {status}"));
                }
                if round >= 50 {
                    times[i].push(clock.elapsed());
                }
            }
        }
        Ok(times)
    })
    .await?;
    let mut times = times?;
    let [empty, years, months] = times.each_mut().map(|t| p95(t));
    println!("plan on five years of log / empty handler, p95: {:.2}  (wanted: under 3)", years / empty);
    println!("plan on five years / on two months, p95:       {:.2}  (wanted: under 1.3)", years / months);
    Ok(())
}

/// What this process holds in memory now, in MB, where the system says it.
fn memory() -> Option<f64> {
    let status = std::fs::read_to_string("/proc/self/status").ok()?;
    let line = status.lines().find_map(|line| line.strip_prefix("VmRSS:"))?;
    Some(line.split_whitespace().next()?.parse::<f64>().ok()? / 1024.0)
}

/// Opening a file whose projections are current, and the same file when all of them are of another
/// version and are made anew.
async fn opening(file: &std::path::Path) -> Result<()> {
    let mut times: [Vec<Duration>; 2] = Default::default();
    for _ in 0..5 {
        let clock = Instant::now();
        Store::open(file).await?.close().await;
        times[0].push(clock.elapsed());
    }
    let store = Store::open(file).await?;
    let entries: i64 = sqlx::query_scalar("SELECT count(*) FROM entry").fetch_one(store.reader()).await?;
    sqlx::query("UPDATE projection SET version = 0").execute(store.writer()).await?;
    store.close().await;
    let clock = Instant::now();
    let rebuilt = Store::open(file).await?;
    times[1].push(clock.elapsed());
    // The least that making anew could cost: to read each entry's row.
    let clock = Instant::now();
    let rows = sqlx::query("SELECT * FROM entry ORDER BY system, at").fetch_all(rebuilt.reader()).await?;
    let scan = clock.elapsed().as_secs_f64();
    rebuilt.close().await;
    let [current, anew] = times.each_mut().map(|t| median(t));
    println!("opening a file of {entries} entries, current / anew:  {:.4}", current / anew);
    println!("all projections anew / bare SELECT of {} rows: {:.2}", rows.len(), anew / scan);
    println!("(of the machine: opening current {current:.3} s, all anew {anew:.1} s)");
    Ok(())
}

#[actix_web::main]
async fn main() -> Result<()> {
    let folder = std::env::temp_dir().join(format!("mopsel-bench-{}", std::process::id()));
    std::fs::create_dir_all(&folder)?;
    // `cargo bench --bench ratios -- plans` measures the plans alone; `grid`, how due dates grow.
    let asked = |name: &str| std::env::args().any(|argument| argument == name);
    let all = !asked("plans") && !asked("grid");
    if all {
        rounds(&folder).await?;
    }
    if all || asked("plans") {
        previews(&folder).await?;
    }
    if all || asked("grid") {
        grid(&folder).await?;
    }
    std::fs::remove_dir_all(&folder)?;
    Ok(())
}

/// Due dates and margins of every rule, over 250, 500 and 1,000 systems with one, two and four years of log each: they grow
/// with the systems, not with the years.
async fn grid(folder: &std::path::Path) -> Result<()> {
    const SIZES: [(usize, i64); 5] = [(250, 366), (250, 731), (250, 1461), (500, 366), (1000, 366)];
    let mut books = Vec::new();
    for (systems, days) in SIZES {
        let store = Store::open(&folder.join(format!("grid-{systems}-{days}.db"))).await?;
        fill(&store, systems, days).await?;
        books.push(Book::new(store, Clock::Standing(now()?)));
    }
    let mut times: [Vec<Duration>; 5] = Default::default();
    for _ in 0..RUNS {
        for (book, times) in books.iter().zip(&mut times) {
            let pages = book.open().await?;
            let clock = Instant::now();
            round(&pages, now()?, &Actor::default(), &[])?;
            times.push(clock.elapsed());
        }
    }
    let times = times.each_mut().map(|times| median(times));
    let [one, two, four, twice, four_times] = times.map(|time| time / times[0]);
    println!("due dates, 250 systems, 1 : 2 : 4 years:         {one:.2} : {two:.2} : {four:.2}  (wanted: flat)");
    println!(
        "due dates, one year, 250 : 500 : 1,000 systems:  {one:.2} : {twice:.2} : {four_times:.2}  (wanted: 1 : 2 : 4)"
    );
    Ok(())
}

/// The round, and opening a file.
async fn rounds(folder: &std::path::Path) -> Result<()> {
    let (long, short) = (Store::open(&folder.join("years.db")).await?, Store::open(&folder.join("months.db")).await?);
    fill(&long, SYSTEMS, DAYS).await?;
    fill(&short, SYSTEMS, 61).await?;
    let (long_book, short_book) =
        (Book::new(long.clone(), Clock::Standing(now()?)), Book::new(short.clone(), Clock::Standing(now()?)));
    println!(
        "{SYSTEMS} systems: a round is {} KB of JSON, from {} rows",
        answer(&long_book).await? / 1024,
        bare(&long).await?
    );
    if let Some(memory) = memory() {
        println!("with both books read this process holds:       {memory:.0} MB");
    }
    // The six are run in turn, so that what else the machine does falls on all of them alike.
    let mut times: [Vec<Duration>; 6] = Default::default();
    for _ in 0..RUNS {
        let mut clock = Instant::now();
        let mut lap = |times: &mut Vec<Duration>| {
            times.push(clock.elapsed());
            clock = Instant::now();
        };
        bare(&long).await?;
        lap(&mut times[0]);
        answer(&long_book).await?;
        lap(&mut times[1]);
        answer(&short_book).await?;
        lap(&mut times[2]);
        answer(&Book::new(long.clone(), Clock::Standing(now()?))).await?;
        lap(&mut times[3]);
        answer(&Book::new(short.clone(), Clock::Standing(now()?))).await?;
        lap(&mut times[4]);
        round(&*long_book.open().await?, now()?, &Actor::default(), &[])?;
        lap(&mut times[5]);
    }
    long.close().await;
    short.close().await;
    let [select, years, months, cold_years, cold_months, rules] = times.each_mut().map(|t| median(t));
    println!(
        "round of three years / bare SELECT of its rows:  {:.2}  (wanted: under 3), of it the rules {:.2}",
        years / select,
        rules / select
    );
    println!("round of three years / round of two months:      {:.2}  (wanted: under 1.3)", years / months);
    println!("first round after a start / bare SELECT:       {:.2}", cold_years / select);
    println!("the same, three years / two months:              {:.2}", cold_years / cold_months);
    opening(&folder.join("years.db")).await
}
