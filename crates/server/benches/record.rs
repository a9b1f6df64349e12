//! What the record costs: a million readings of loggers in and out, a year of them drawn, and the log found by words at a
//! million entries. `make bench`; ratios within this one run.
//!
//! In and out are held against the shell of SQLite, `sqlite3`, which has to be installed for it: `.import` of the same CSV
//! into a table with the same index, and `.dump` of the same table.

mod common;

use common::{Line, Result, begun, fill, id, median, memory, now, serve, serve_nothing};
use jiff::SignedDuration;
use mopsel::Clock;
use mopsel::archive::{Cancelled, Wanted, write};
use mopsel::book::Book;
use mopsel::readings::{beginning, bring, systems};
use mopsel::view::trends_view;
use mopsel_core::calendar::{add_days, start_of};
use mopsel_core::columns::{guess, separator};
use mopsel_core::fact::Actor;
use mopsel_core::fact::card::Role;
use mopsel_core::quantity::Note;
use mopsel_store::{NewDelivery, Store};
use std::fs::File;
use std::io::{BufWriter, Write};
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};
use uuid::Uuid;

/// Loggers, and what each of them reads in a year of five minutes.
const LOGGERS: usize = 10;
const A_YEAR: i64 = 365 * 288;
/// Entries of the log.
const ENTRIES: i64 = 1_000_000;
const TURNS: usize = 21;

/// A logger's year for each of ten systems, as one CSV.
fn csv(file: &Path) -> Result<i64> {
    let mut out = BufWriter::new(File::create(file)?);
    writeln!(out, "Time,System,pH,EC (mS/cm),Water temperature (°C)")?;
    let mut lines = 0;
    for logger in 0..LOGGERS {
        for n in 0..A_YEAR.min(1_000_000 / LOGGERS as i64) {
            let at = now()? - SignedDuration::from_mins(5 * (A_YEAR - n));
            // As noisy as a probe: what repeats itself packs too well.
            let noise = (n.wrapping_mul(2_654_435_761) % 1000) as f64 / 5000.0 - 0.1;
            let wave = (n as f64 / 45.0).sin() + noise;
            let at = at.strftime("%Y-%m-%dT%H:%M:%SZ");
            writeln!(
                out,
                "{at},System {logger},{:.2},{:.2},{:.1}",
                6.0 + 0.2 * wave,
                1.5 + 0.1 * wave,
                20.0 + 2.0 * wave
            )?;
            lines += 1;
        }
    }
    out.flush()?;
    Ok(lines)
}

/// What the shell takes for some lines, on a file of its own.
fn shell(file: &Path, lines: &str, quiet: bool) -> Result<Duration> {
    let clock = Instant::now();
    let out = if quiet { Stdio::null() } else { Stdio::inherit() };
    let mut child = Command::new("sqlite3").arg(file).stdin(Stdio::piped()).stdout(out).spawn()?;
    child.stdin.take().ok_or("no input")?.write_all(lines.as_bytes())?;
    if !child.wait()?.success() {
        return Err("sqlite3 failed".into());
    }
    Ok(clock.elapsed())
}

async fn bring_in(store: &Store, file: &Path) -> Result<(Duration, u64)> {
    let book = Book::new(store.clone(), Clock::Standing(now()?));
    let known = systems(&*book.whole().await?, &Actor::default());
    let begins = std::fs::read(file)?[..100_000].to_vec();
    let text = String::from_utf8_lossy(&begins).into_owned();
    let rows = beginning(&begins[..text.rfind('\n').unwrap_or(0)], separator(&text), 100)?;
    let rows: Vec<Vec<&str>> = rows.iter().map(|row| row.iter().map(String::as_str).collect()).collect();
    let how = guess(separator(&text), &rows[0], &rows[1..], &known).how;
    let (file, store) = (File::open(file)?, store.clone());
    let actor = Actor::new(id("person"), Role::Caretaker, id("place"));
    let at = now()?;
    let clock = Instant::now();
    let came = tokio::task::spawn_blocking(move || {
        let new = NewDelivery { id: Uuid::from_u128(1), source: Note::new("bench").unwrap_or_else(|_| unreachable!()) };
        bring(file, (how, known), &store, (&new, &actor, at)).map_err(|why| format!("{why:?}"))
    })
    .await??;
    Ok((clock.elapsed(), came.new))
}

async fn in_and_out(folder: &Path) -> Result<Store> {
    let (file, ours, theirs) = (folder.join("year.csv"), folder.join("ours.db"), folder.join("theirs.db"));
    let lines = csv(&file)?;
    let store = Store::open(&ours).await?;
    fill(&store, LOGGERS, 400).await?;
    let import = format!(
        "CREATE TABLE sensed (at TEXT, system TEXT, ph REAL, ec REAL, temperature REAL, PRIMARY KEY (system, at)) STRICT, WITHOUT ROWID;\n\
         .import --csv --skip 1 {} sensed\n",
        file.display()
    );
    let before = memory();
    let (took, new) = bring_in(&store, &file).await?;
    let after = memory();
    println!("readings of loggers brought in:                  {new} of {lines}");
    if let (Some(before), Some(after)) = (before, after) {
        println!("this process holds before and after:             {before:.0} and {after:.0} MB  (wanted: under 200)");
    }
    match shell(&theirs, &import, true) {
        Ok(shell) => println!(
            "brought in, with folding / the shell's .import:  {:.2}  (wanted: under 2)",
            took.as_secs_f64() / shell.as_secs_f64()
        ),
        Err(error) => println!("the shell of SQLite is not here: {error}"),
    }
    println!("(of the machine: {:.1} s)", took.as_secs_f64());
    let clock = Instant::now();
    let mut bytes = 0;
    let send = async |piece: Vec<u8>| {
        bytes += piece.len();
        Ok::<_, Cancelled>(())
    };
    let made = write(&store, Wanted::default(), now()?, send).await?;
    made.map_err(|_| "cancelled")?;
    let took = clock.elapsed();
    if let Ok(shell) = shell(&ours, ".dump\n", true) {
        println!(
            "everything out ({} MB) / the shell's .dump:        {:.2}  (wanted: under 2)",
            bytes / 1_000_000,
            took.as_secs_f64() / shell.as_secs_f64()
        );
    }
    Ok(store)
}

/// A year of five-minute readings of one system, as the page asks for it.
async fn a_year(store: &Store) -> Result<()> {
    let book = Book::new(store.clone(), Clock::Standing(now()?));
    let (system, zone) = (id("system 0"), jiff::tz::TimeZone::get("Europe/London")?);
    let to = now()?.to_zoned(zone.clone()).date();
    let from = add_days(to, -366);
    let (begins, ends) = (start_of(from, &zone), start_of(add_days(to, 1), &zone));
    let mut times: [Vec<Duration>; 2] = Default::default();
    let mut readings = 0;
    for _ in 0..TURNS {
        let clock = Instant::now();
        let bare = sqlx::query("SELECT at, ph, ec, temperature, litres FROM sensed WHERE system = 1 ORDER BY at");
        readings = bare.fetch_all(store.reader()).await?.len();
        times[0].push(clock.elapsed());
        let clock = Instant::now();
        let entries = store.entries_since(system, jiff::Timestamp::MIN).await?;
        let sensed = store.sensed(system, begins, ends).await?;
        let pages = book.whole().await?;
        let view = trends_view(&pages, system, (&entries, &sensed), (from, to), 1500, now()?, &Actor::default());
        serde_json::to_vec(&view.map_err(|why| why.to_string())?)?;
        times[1].push(clock.elapsed());
    }
    let [bare, drawn] = times.each_mut().map(|times| median(times));
    println!("trends of {readings} readings / a bare SELECT of them: {:.2}  (wanted: under 3)", drawn / bare);
    Ok(())
}

/// The log's first page by words, at a million entries: as it is asked for again, and up to a day that nobody looked at yet.
async fn found(folder: &Path) -> Result<()> {
    let (file, days) = (folder.join("million.db"), 2500);
    let store = Store::open(&file).await?;
    let count = usize::try_from(ENTRIES / days)?;
    fill(&store, count, days).await?;
    store.close().await;
    // As after a start: what was written since the last one is gathered.
    let store = Store::open(&file).await?;
    let (nothing, log) = (serve_nothing()?, serve(&store)?);
    let asks = ["words=root", "words=top%20off&sorts=top_off", "words=change"];
    let (mut empty, times) = tokio::task::spawn_blocking(move || -> std::result::Result<_, String> {
        let said = |error: Box<dyn std::error::Error>| error.to_string();
        let mut lines = [Line::to(&nothing).map_err(said)?, Line::to(&log).map_err(said)?];
        let (mut empty, mut times) = (Vec::new(), vec![<[Vec<Duration>; 2]>::default(); asks.len()]);
        for round in 0..220 {
            let mut took = |into: &mut Vec<Duration>, ask: Option<String>| {
                let clock = Instant::now();
                let status = match ask {
                    None => lines[0].post("/empty", "{}"),
                    Some(ask) => lines[1].get(&ask),
                };
                if status.map_err(said)? != 200 {
                    return Err("not answered with 200".to_owned());
                }
                if round >= 20 {
                    into.push(clock.elapsed());
                }
                Ok(())
            };
            took(&mut empty, None)?;
            let day = jiff::civil::date(2020, 6, 1).saturating_add(jiff::Span::new().days(round * 8));
            for (ask, [again, new]) in asks.iter().zip(&mut times) {
                took(again, Some(format!("/api/log?{ask}")))?;
                took(new, Some(format!("/api/log?{ask}&to={day}")))?;
            }
        }
        Ok((empty, times))
    })
    .await??;
    let empty = median(&mut empty);
    for (ask, [mut again, mut new]) in asks.iter().zip(times) {
        let (again, new) = (median(&mut again) / empty, median(&mut new) / empty);
        println!("/api/log?{ask} at a million entries / empty handler: {again:.2}  (wanted: under 5)");
        println!("  up to a day that nobody looked at yet:             {new:.2}");
    }
    Ok(())
}

#[actix_web::main]
async fn main() -> Result<()> {
    let (folder, asked) = begun()?;
    // `cargo bench --bench record -- loggers` measures the readings alone; `log`, what is found by words.
    if !asked("log") {
        let store = in_and_out(&folder).await?;
        a_year(&store).await?;
    }
    if !asked("loggers") {
        found(&folder).await?;
    }
    std::fs::remove_dir_all(&folder)?;
    Ok(())
}
