//! What the benches share: a generator of gardens with plausible care, and a client that costs next to nothing.
#![allow(dead_code, reason = "each bench uses a part of it")]

use actix_web::{App, HttpResponse, HttpServer, web};
use jiff::{SignedDuration, Timestamp};
use mopsel::{Clock, Hosts};
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
use std::time::Duration;
use uuid::Uuid;

pub type Result<T> = std::result::Result<T, Box<dyn Error>>;

pub fn id(name: &str) -> Uuid {
    Uuid::new_v5(&Uuid::NAMESPACE_OID, name.as_bytes())
}

pub fn now() -> Result<Timestamp> {
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
        methods: mopsel_core::system::Methods { top_off: facts.top_off, ..mopsel_core::system::Methods::default() },
        ec_band: None,
        ph_band: None,
        intervals: std::collections::BTreeMap::new(),
        slacks: std::collections::BTreeMap::new(),
        rules: vec![],
        equipment: vec![],
        drum: None,
        drum_of: None,
        drum_share: None,
        feeding: None,
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
            visit.roots = Some(Roots::sound());
        }
        // Nobody stands at two systems at once.
        let at = now()? - SignedDuration::from_hours(day * 24) - SignedDuration::from_mins(n as i64);
        let body =
            if day % 14 == 8 { Body::Change(Change::full(system.reservoir.working)) } else { Body::Visit(visit) };
        entries.push(Entry { id: id(&format!("{n}/{day}")), at, by, body, amends: None, reason: None });
    }
    Ok(entries)
}

pub async fn fill(store: &Store, systems: usize, days: i64) -> Result<()> {
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
            came: None,
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
pub fn median(times: &mut [Duration]) -> f64 {
    times.sort();
    times[times.len() / 2].as_secs_f64()
}

/// A client that keeps its connection: the time of an answer and next to nothing else.
pub struct Line {
    stream: TcpStream,
    host: String,
}

impl Line {
    pub fn to(base: &str) -> Result<Self> {
        let host = base.trim_start_matches("http://").to_owned();
        let stream = TcpStream::connect(&host)?;
        stream.set_nodelay(true)?;
        Ok(Self { stream, host })
    }

    /// Posts, reads the whole answer, and gives its status.
    pub fn post(&mut self, path: &str, body: &str) -> Result<u16> {
        let (host, length) = (&self.host, body.len());
        write!(
            self.stream,
            "POST {path} HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/json\r\nContent-Length: {length}\r\n\r\n{body}",
        )?;
        self.answer()
    }

    /// Gets, reads the whole answer, and gives its status.
    pub fn get(&mut self, path: &str) -> Result<u16> {
        write!(self.stream, "GET {path} HTTP/1.1\r\nHost: {}\r\n\r\n", self.host)?;
        self.answer()
    }

    fn answer(&mut self) -> Result<u16> {
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
pub fn serve(store: &Store) -> Result<String> {
    let listener = std::net::TcpListener::bind("127.0.0.1:0")?;
    let base = format!("http://{}", listener.local_addr()?);
    actix_web::rt::spawn(mopsel::app::run(listener, store.clone(), Clock::Standing(now()?), Hosts::local_and(&[]))?);
    Ok(base)
}

/// A server that answers at once, for everything that is not the work itself.
pub fn serve_nothing() -> Result<String> {
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

/// What this process holds in memory now, in MB, where the system says it.
pub fn memory() -> Option<f64> {
    let status = std::fs::read_to_string("/proc/self/status").ok()?;
    let line = status.lines().find_map(|line| line.strip_prefix("VmRSS:"))?;
    Some(line.split_whitespace().next()?.parse::<f64>().ok()? / 1024.0)
}

/// A folder of this run's own, and whether something was asked for by its name: `cargo bench --bench ratios -- plans`.
pub fn begun() -> Result<(std::path::PathBuf, impl Fn(&str) -> bool)> {
    let folder = std::env::temp_dir().join(format!("mopsel-bench-{}", std::process::id()));
    std::fs::create_dir_all(&folder)?;
    Ok((folder, |name: &str| std::env::args().any(|argument| argument == name)))
}
