//! How the cost of the round, of a plan and of opening a file grows: `make bench`. Prints ratios
//! within this one run; seconds depend on the machine and mean nothing by themselves.
//!
//! The generator makes N systems with a stretch of plausible care each: daily look-ins, readings
//! every third day, weekly levels and top-offs, a change every other week.

mod common;

use common::{Line, Result, begun, fill, id, median, memory, now, serve, serve_nothing};
use mopsel::Clock;
use mopsel::book::Book;
use mopsel::secrets;
use mopsel::view::{round, system_view};
use mopsel_core::care::judging::judging_table;
use mopsel_core::fact::Actor;
use mopsel_store::Store;
use std::error::Error;
use std::time::{Duration, Instant};

const SYSTEMS: usize = 1000;
/// Three years.
const DAYS: i64 = 1095;
const RUNS: usize = 41;

/// The round as the server answers it: what changed, every rule for every system, the JSON.
async fn answer(book: &Book) -> Result<usize> {
    let pages = book.whole().await?;
    Ok(serde_json::to_vec(&round(&pages, now()?, &Actor::default(), &[])?)?.len())
}

/// The rows that a round needs, fetched bare.
async fn bare(store: &Store) -> Result<usize> {
    let cards = sqlx::query("SELECT id, parent, version, archived, body FROM card").fetch_all(store.reader()).await?;
    let folds = sqlx::query("SELECT system, part, body FROM projection").fetch_all(store.reader()).await?;
    Ok(cards.len() + folds.len())
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
    let (folder, asked) = begun()?;
    // `cargo bench --bench ratios -- plans` measures the plans alone; `grid`, how due dates grow; `door`, what
    // tells a name that is known from one that is not, and what a device takes along.
    let all = !asked("plans") && !asked("grid") && !asked("door");
    if all {
        rounds(&folder).await?;
    }
    if all || asked("plans") {
        previews(&folder).await?;
    }
    if all || asked("grid") {
        grid(&folder).await?;
    }
    if all || asked("door") {
        door().await?;
        taken_along(&folder).await?;
    }
    std::fs::remove_dir_all(&folder)?;
    Ok(())
}

/// A wrong password for a name that is known, and for one that is not: who guesses learns nothing from the time. The two
/// are asked in turn.
async fn door() -> Result<()> {
    const TRIES: usize = 60;
    let said = |problem: mopsel::Problem| problem.to_string();
    let kept = secrets::hash("four words in a row".to_owned()).await.map_err(said)?;
    let mut times: [Vec<Duration>; 2] = Default::default();
    for _ in 0..TRIES {
        for (known, times) in [Some(kept.clone()), None].into_iter().zip(&mut times) {
            let clock = Instant::now();
            assert!(!secrets::fits("a wrong guess of it".to_owned(), known).await.map_err(said)?, "it is wrong");
            times.push(clock.elapsed());
        }
    }
    let noise = p95(&mut times[0]) / median(&mut times[0]);
    let [known, unknown] = times.each_mut().map(|times| median(times));
    println!(
        "a wrong password, unknown / known name:          {:.3}  (p95 / median of one: {noise:.2})",
        unknown / known
    );
    Ok(())
}

/// What a device takes along of a system to judge numbers by, beside the page of that system.
async fn taken_along(folder: &std::path::Path) -> Result<()> {
    const TRIES: usize = 40;
    let store = Store::open(&folder.join("along.db")).await?;
    fill(&store, 12, 200).await?;
    let book = Book::new(store, Clock::Standing(now()?));
    let (pages, actor) = (book.whole().await?, Actor::default());
    let around = pages.around();
    let mut times: [Vec<Duration>; 2] = Default::default();
    for _ in 0..TRIES {
        for file in pages.systems.values() {
            let said = |problem: mopsel::Problem| problem.to_string();
            let place = pages.place_of(file).map_err(said)?;
            let at = now()?.to_zoned(place.zone.clone());
            let situation = pages.situation(&actor, file, place, &at, &around);
            let clock = Instant::now();
            std::hint::black_box(judging_table(&situation));
            times[0].push(clock.elapsed());
            let clock = Instant::now();
            std::hint::black_box(system_view(&pages, file.card.id, &[], now()?, &actor).map_err(said)?);
            times[1].push(clock.elapsed());
        }
    }
    let [table, page] = times.each_mut().map(|times| median(times));
    println!(
        "a judging table / the page of its system:        {:.2}  (of the machine: {:.1} ms)",
        table / page,
        table * 1e3
    );
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
            let pages = book.whole().await?;
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
        round(&*long_book.whole().await?, now()?, &Actor::default(), &[])?;
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
