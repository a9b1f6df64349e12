//! The command line: `mopsel serve`, `mopsel demo`, `mopsel openapi`.

use clap::{Args, Parser, Subcommand};
use jiff::civil::Date;
use mopsel::{Clock, Hosts, app, demo};
use mopsel_store::Store;
use std::error::Error;
use std::net::TcpListener;
use std::path::PathBuf;

#[derive(Parser)]
#[command(
    name = "mopsel",
    version,
    about = "Looks after hydroponic systems: what to do next, how much of what, and why."
)]
struct Cli {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    /// Serve a data file; an empty one is made when it is not there.
    Serve {
        /// The data file.
        #[arg(long)]
        db: PathBuf,
        #[command(flatten)]
        listen: Listen,
    },
    /// Serve the demo scenario from a fresh file.
    Demo {
        /// The day of the demo. With it the clock stands still at 8:30 of that day, and everything
        /// is the same to the digit each time; without it the demo runs from now.
        #[arg(long)]
        today: Option<Date>,
        /// Where the demo's file is made; an old one of an earlier demo is replaced.
        #[arg(long)]
        db: Option<PathBuf>,
        #[command(flatten)]
        listen: Listen,
    },
    /// Print the API's description.
    Openapi,
}

#[derive(Args)]
struct Listen {
    /// The address to listen on. Mopsel has no sign-in yet: keep it on this machine.
    #[arg(long, default_value = "127.0.0.1")]
    address: String,
    /// The port; 0 takes a free one.
    #[arg(long, default_value_t = 4180)]
    port: u16,
    /// A further host name under which it may be asked.
    #[arg(long = "allow-host")]
    allow_hosts: Vec<String>,
}

#[actix_web::main]
async fn main() -> Result<(), Box<dyn Error>> {
    tracing_subscriber::fmt()
        .with_env_filter(tracing_subscriber::EnvFilter::try_from_default_env().unwrap_or_else(|_| "warn".into()))
        .with_writer(std::io::stderr)
        .init();
    match Cli::parse().command {
        Command::Openapi => println!("{}", mopsel::description()),
        Command::Serve { db, listen } => {
            let store = Store::open_with(&db, &mut |made| {
                eprintln!("Bringing the file up to date: {} of {} systems", made.done, made.of);
            })
            .await?;
            if let Some(why) = store.read_only() {
                eprintln!("{why}");
            }
            serve(store, Clock::Live, &listen).await?;
        }
        Command::Demo { today, db, listen } => {
            let file = db.unwrap_or_else(|| std::env::temp_dir().join(format!("mopsel-demo-{}.db", listen.port)));
            for suffix in ["", "-wal", "-shm"] {
                let mut old = file.clone().into_os_string();
                old.push(suffix);
                if let Err(error) = std::fs::remove_file(&old)
                    && error.kind() != std::io::ErrorKind::NotFound
                {
                    return Err(error.into());
                }
            }
            let clock = today.map_or(Ok(Clock::Live), demo::standing_clock)?;
            let store = Store::open(&file).await?;
            demo::fill(&store, clock.now()).await?;
            serve(store, clock, &listen).await?;
        }
    }
    Ok(())
}

async fn serve(store: Store, clock: Clock, listen: &Listen) -> Result<(), Box<dyn Error>> {
    let listener = TcpListener::bind((listen.address.as_str(), listen.port)).map_err(|error| {
        format!("cannot listen on {}:{}: {error}. Choose another --port.", listen.address, listen.port)
    })?;
    println!("Mopsel is at http://{}", listener.local_addr()?);
    app::run(listener, store.clone(), clock, Hosts::local_and(&listen.allow_hosts))?.await?;
    store.close().await;
    Ok(())
}
