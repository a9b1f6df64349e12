//! The command line: serve, demo, check, backup, restore, export, import, person, openapi.

use clap::{Args, Parser, Subcommand};
use jiff::civil::Date;
use mopsel::archive::{Cancelled, NotBrought, Wanted, bring, write};
use mopsel::post::Post;
use mopsel::tls::Identity;
use mopsel::{Clock, Door, Hosts, Reach, app, demo, link_address, network, new_link, secrets, tls};
use mopsel_core::fact::Account;
use mopsel_core::words::{Reader, Speaker};
use mopsel_store::{Brought, Rebuilding, Store};
use qrcode::QrCode;
use qrcode::render::unicode;
use std::error::Error;
use std::fs::File;
use std::io::Write;
use std::net::{IpAddr, TcpListener};
use std::path::{Path, PathBuf};
use std::process::ExitCode;
use std::sync::Arc;
use tracing::level_filters::LevelFilter;

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
        /// Where the demo's file is made; one of an earlier demo is replaced, and no other.
        #[arg(long)]
        db: Option<PathBuf>,
        /// Go on with the demo that is in the file, instead of making it again.
        #[arg(long, requires = "db")]
        keep: bool,
        #[command(flatten)]
        listen: Listen,
    },
    /// Look whether a data file is sound: its structure, every card, and what is kept against the log.
    Check {
        /// The data file.
        file: PathBuf,
    },
    /// Write a whole copy of a data file, also while it is served.
    Backup {
        /// The data file.
        file: PathBuf,
        /// Where the copy goes; a file that is not there yet.
        to: PathBuf,
    },
    /// Put a backup in the place of a data file. What stood there is kept beside it.
    Restore {
        /// The data file.
        file: PathBuf,
        /// The backup.
        from: PathBuf,
    },
    /// Write everything in a data file as one archive of open formats, also while it is served.
    Export {
        /// The data file.
        file: PathBuf,
        /// Where the archive goes; a file that is not there yet.
        to: PathBuf,
    },
    /// Bring an archive into a data file, all or nothing; an empty file is made when it is not there.
    Import {
        /// The data file.
        file: PathBuf,
        /// The archive.
        from: PathBuf,
    },
    /// The accounts of a data file, or a new link for one of them.
    Person {
        /// What to do.
        #[command(subcommand)]
        what: Person,
    },
    /// Print the API's description.
    Openapi,
}

#[derive(Subcommand)]
enum Person {
    /// List the accounts.
    List {
        /// The data file.
        file: PathBuf,
    },
    /// Make a link with which somebody chooses a new password, when nobody else can let them in.
    Reset {
        /// The data file.
        file: PathBuf,
        /// The name with which they sign in.
        name: String,
    },
}

#[derive(Args)]
struct Listen {
    /// The address to listen on; this machine only, unless others are let in with --lan or --behind-proxy.
    #[arg(long)]
    address: Option<String>,
    /// Answer phones and tablets on the local network too: with TLS, and for people who sign in.
    #[arg(long)]
    lan: bool,
    /// A certificate chain of your own (PEM), in place of Mopsel's own authority.
    #[arg(long, requires_all = ["key", "lan"])]
    cert: Option<PathBuf>,
    /// The key of that certificate (PEM).
    #[arg(long, requires = "cert")]
    key: Option<PathBuf>,
    /// Stand behind a reverse proxy that speaks TLS: people sign in, and X-Forwarded-For is believed.
    #[arg(long, conflicts_with = "lan")]
    behind_proxy: bool,
    /// The port; 0 takes a free one.
    #[arg(long, default_value_t = 4180)]
    port: u16,
    /// A further host name under which it may be asked.
    #[arg(long = "allow-host")]
    allow_hosts: Vec<String>,
    /// Where people open it, for the links in letters: `https://garden.example`.
    #[arg(long)]
    at: Option<String>,
}

#[actix_web::main]
async fn main() -> ExitCode {
    let level = std::env::var("MOPSEL_LOG").ok().and_then(|level| level.parse().ok()).unwrap_or(LevelFilter::INFO);
    tracing_subscriber::fmt().with_max_level(level).with_writer(std::io::stderr).init();
    match run(Cli::parse().command).await {
        Ok(code) => code,
        Err(error) => {
            // In a sentence for people; never as the program writes it to itself.
            eprintln!("{}.", error.to_string().trim_end_matches('.'));
            ExitCode::FAILURE
        }
    }
}

type Outcome<T> = Result<T, Box<dyn Error>>;

async fn run(command: Command) -> Outcome<ExitCode> {
    match command {
        Command::Openapi => println!("{}", mopsel::description()),
        Command::Serve { db, listen } => {
            let listener = listener(&listen)?;
            let store = opened(&db).await?;
            store.mark_as_used().await?;
            serve(listener, store, Clock::Live, &listen, &db, false).await?;
        }
        Command::Demo { today, db, keep, listen } => {
            // The address first: nothing is touched for a demo that cannot be shown.
            let listener = listener(&listen)?;
            let own = std::env::temp_dir().join(format!("mopsel-demo-{}.db", listener.local_addr()?.port()));
            let file = db.unwrap_or_else(|| own.clone());
            let clock = today.map_or(Ok(Clock::Live), demo::standing_clock)?;
            let keep = keep && mopsel_store::look(&file).await.is_ok_and(|look| look.demo);
            if !keep {
                make_way(&file, file == own).await?;
            }
            let store = Store::open(&file).await?;
            if !keep {
                store.mark_as_demo().await?;
                demo::fill(&store, clock.now()).await?;
            }
            serve(listener, store, clock, &listen, &file, true).await?;
        }
        Command::Check { file } => return check(&file).await,
        Command::Backup { file, to } => {
            mopsel_store::backup(&file, &to).await?;
            println!("{} is a whole copy of {}.", to.display(), file.display());
        }
        Command::Export { file, to } => export(&file, &to).await?,
        Command::Import { file, from } => {
            let archive = File::open(&from).map_err(|error| format!("{} cannot be read: {error}", from.display()))?;
            let store = opened(&file).await?;
            let bringing = store.clone();
            let now = Clock::Live.now();
            let brought = tokio::task::spawn_blocking(move || bring(archive, &bringing, now)).await?;
            store.close().await;
            let brought = brought.map_err(|not| match not {
                NotBrought::Archive(refusal) => Speaker::new(Reader::default()).refuse(&refusal).in_full(),
                NotBrought::File(error) => error.to_string(),
            })?;
            let Brought { cards, entries, pictures, readings, there } = brought;
            println!(
                "Brought {cards} set-up records, {entries} entries, {readings} readings of loggers and {pictures} \
                 pictures; {there} were there already."
            );
        }
        Command::Person { what } => person(what).await?,
        Command::Restore { file, from } => {
            let before = mopsel_store::restore(&file, &from).await?;
            println!("{} is now what {} is.", file.display(), from.display());
            if let Some(before) = before {
                println!("What stood there before is kept as {}.", before.display());
            }
        }
    }
    Ok(ExitCode::SUCCESS)
}

/// Writes an archive beside where it goes, and puts it there once it is whole.
async fn export(file: &Path, to: &Path) -> Outcome<()> {
    if to.exists() {
        return Err(format!("{} is there already; name a file that is not", to.display()).into());
    }
    let store = opened(file).await?;
    let folder = to.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut whole = tempfile::NamedTempFile::new_in(folder)?;
    let mut failed = None;
    let send = async |piece: Vec<u8>| {
        whole.write_all(&piece).map_err(|error| {
            failed = Some(error);
            Cancelled
        })
    };
    let made = write(&store, Wanted::default(), Clock::Live.now(), send).await;
    store.close().await;
    let Ok(lost) = made? else {
        return Err(failed.map_or_else(|| "it was cancelled".to_owned(), |error| error.to_string()).into());
    };
    whole.as_file().sync_all()?;
    whole.persist_noclobber(to)?;
    if lost == 0 {
        println!("{} holds everything that is in {}.", to.display(), file.display());
    } else {
        println!(
            "{} holds everything that can be read in {}. {lost} rows cannot be read; they are listed in \
             unreadable.jsonl in it.",
            to.display(),
            file.display()
        );
    }
    Ok(())
}

async fn opened(file: &Path) -> Outcome<Store> {
    let store = Store::open_with(file, &mut |made| {
        let done = match made {
            Rebuilding::Systems { done, of } => format!("{done} of {of} systems"),
            Rebuilding::Words { done, of } => format!("{done} of {of} entries of the log"),
            Rebuilding::Gathering => "the index of the log".to_owned(),
        };
        eprintln!("Bringing the file up to date: {done}");
    })
    .await?;
    for note in store.notes() {
        eprintln!("{note}.");
    }
    if let Some(why) = store.read_only() {
        eprintln!("{why}. It can be looked at meanwhile.");
    }
    Ok(store)
}

/// Takes an earlier demo's file away, and touches no other.
async fn make_way(file: &Path, own: bool) -> Outcome<()> {
    let look = mopsel_store::look(file).await;
    let nothing_there = !file.exists() || look.as_ref().is_ok_and(|look| !look.there);
    if !nothing_there && !own && !look.is_ok_and(|look| look.demo) {
        let file = file.display();
        return Err(format!("{file} is not a demo's file, and was left as it is. Choose another --db").into());
    }
    for suffix in ["", "-wal", "-shm"] {
        let mut old = file.as_os_str().to_owned();
        old.push(suffix);
        match std::fs::remove_file(&old) {
            Err(error) if error.kind() != std::io::ErrorKind::NotFound => return Err(error.into()),
            _ => {}
        }
    }
    Ok(())
}

async fn check(file: &Path) -> Outcome<ExitCode> {
    let found = mopsel_store::check(file).await?;
    for note in found.notes.iter().chain(&found.wrong) {
        println!("{note}.");
    }
    let (systems, entries) = (found.systems, found.entries);
    if found.wrong.is_empty() {
        println!("{} is sound: {systems} systems, {entries} entries.", file.display());
        return Ok(ExitCode::SUCCESS);
    }
    println!("{} is not sound. Bring back the last backup with `mopsel restore`.", file.display());
    Ok(ExitCode::FAILURE)
}

/// Accounts, for whoever sits at the machine.
async fn person(what: Person) -> Outcome<()> {
    match what {
        Person::List { file } => {
            let store = opened(&file).await?;
            for account in store.accounts().await? {
                let role = if account.owner { "owner" } else { "" };
                let state = match (account.archived, account.ready) {
                    (true, _) => "ended",
                    (false, true) => "has a password",
                    (false, false) => "has not chosen a password yet",
                };
                println!("{}\t{role}\t{state}", account.name.as_str());
            }
            store.close().await;
        }
        Person::Reset { file, name } => {
            let store = opened(&file).await?;
            let all = store.accounts().await?;
            let called = |account: &&Account| !account.archived && account.name.as_str().eq_ignore_ascii_case(&name);
            let Some(account) = all.iter().find(called) else {
                store.close().await;
                return Err(format!("Nobody signs in as {name}. See who does with `mopsel person list`").into());
            };
            let now = Clock::Live.now();
            let (token, link) = new_link(Some(account.id), now);
            store.make_link(&secrets::kept(&token), &link, now).await?;
            store.close().await;
            println!("Open this behind the address of your Mopsel, within seven days, and choose a new password:");
            println!("{}", link_address(&token));
        }
    }
    Ok(())
}

/// This machine only, unless people sign in: then others too.
fn listener(listen: &Listen) -> Outcome<TcpListener> {
    let address = match (&listen.address, listen.lan) {
        (Some(address), _) => address.as_str(),
        (None, true) => "0.0.0.0",
        (None, false) => "127.0.0.1",
    };
    let port = listen.port;
    let own = address == "localhost" || address.parse::<IpAddr>().is_ok_and(|address| address.is_loopback());
    if !own && !listen.lan && !listen.behind_proxy {
        return Err(format!(
            "Others are let in with --lan, over TLS and with a sign-in. Add it, or leave --address {address} out"
        )
        .into());
    }
    let found = TcpListener::bind((address, port));
    found.map_err(|error| format!("Cannot listen on {address}:{port}: {error}. Choose another --port").into())
}

/// What this machine is called on its network, how it speaks TLS there, and where it is found.
fn on_network(listen: &Listen, port: u16, db: &Path) -> Outcome<(Vec<String>, Identity, Reach)> {
    let names = network::names(&listen.allow_hosts);
    let identity = match (&listen.cert, &listen.key) {
        (Some(cert), Some(key)) => tls::given(cert, key)?,
        _ => tls::own(&tls::folder_of(db), &names)?,
    };
    let own = network::addresses().into_iter().map(|address| address.to_string());
    let reached = listen.allow_hosts.iter().cloned().chain(own).chain([network::FOUND_AS.to_owned()]);
    let addresses = reached.map(|name| format!("https://{}:{port}", network::in_link(&name))).collect();
    let reach = Reach { addresses, authority: identity.authority.clone() };
    let hosts = names.iter().map(|name| network::in_link(name)).collect();
    Ok((hosts, identity, reach))
}

/// Says where phones find this.
fn tell_reach(reach: &Reach) {
    for address in &reach.addresses {
        println!("On this network Mopsel is at {address}");
    }
    let code = reach.addresses.first().and_then(|first| QrCode::new(first).ok());
    if let Some(code) = code {
        println!("{}", code.render::<unicode::Dense1x2>().build());
    }
    if let Some(authority) = &reach.authority {
        println!(
            "A phone does not know Mopsel's certificate at first, and warns. To end that, open /mopsel-authority.crt"
        );
        println!("there and install it, if its SHA-256 is {}", authority.fingerprint);
    }
}

/// Where nobody has an account yet and somebody needs one: the link that makes the first, once.
async fn tell_first(store: &Store, clock: Clock, base: &str) -> Outcome<()> {
    if store.read_only().is_none() && store.accounts().await?.is_empty() {
        let now = clock.now();
        let (token, link) = new_link(None, now);
        store.make_link(&secrets::kept(&token), &link, now).await?;
        println!("Nobody can sign in yet. Open this once, within seven days, and make your account:");
        println!("{base}{}", link_address(&token));
    }
    Ok(())
}

/// How often what stands in the log beside the file is brought into the file itself.
const CHECKPOINT_SECONDS: u64 = 20;

/// The way letters go: through the mail server named in MOPSEL_SMTP, in the demo into a mailbox of its own, else none.
async fn way_of_letters(home: &str, demo: bool) -> Outcome<Option<Arc<Post>>> {
    if let Ok(server) = std::env::var("MOPSEL_SMTP") {
        let from = std::env::var("MOPSEL_MAIL_FROM");
        let from = from.map_err(|_| "MOPSEL_SMTP names a mail server; name the sender in MOPSEL_MAIL_FROM")?;
        return Ok(Some(Arc::new(Post::new(&server, &from, home)?)));
    }
    Ok(if demo { Some(Arc::new(Post::into_mailbox(home).await?)) } else { None })
}

async fn serve(
    listener: TcpListener,
    store: Store,
    clock: Clock,
    listen: &Listen,
    db: &Path,
    demo: bool,
) -> Outcome<()> {
    let at = listener.local_addr()?;
    let mut home = format!("http://{at}");
    let mut hosts = listen.allow_hosts.clone();
    let mut door = Door { behind_proxy: listen.behind_proxy, secure: listen.behind_proxy, ..Door::default() };
    door.others = listen.lan || listen.behind_proxy;
    let (mut tls, mut found) = (None, None);
    if listen.lan {
        let (own, identity, reach) = on_network(listen, at.port(), db)?;
        println!("Mopsel is at https://localhost:{}", at.port());
        tell_reach(&reach);
        tell_first(&store, clock, reach.addresses.first().map_or("", String::as_str)).await?;
        hosts.extend(own);
        home = reach.addresses.first().cloned().unwrap_or(home);
        (door.reach, door.secure, tls) = (reach, true, Some(identity.config));
        found = network::be_found(at.port());
    } else {
        println!("Mopsel is at http://{at}");
        if listen.behind_proxy {
            tell_first(&store, clock, listen.at.as_deref().unwrap_or("")).await?;
        }
    }
    if store.read_only().is_none() {
        let store = store.clone();
        actix_web::rt::spawn(async move {
            loop {
                actix_web::rt::time::sleep(std::time::Duration::from_secs(CHECKPOINT_SECONDS)).await;
                if let Err(error) = store.checkpoint().await {
                    tracing::warn!(%error, "the log beside the file could not be brought into it");
                }
            }
        });
    }
    let post = way_of_letters(listen.at.as_deref().unwrap_or(&home), demo).await?;
    app::serve(listener, store.clone(), clock, Hosts::local_and(&hosts), door, tls, post)?.await?;
    if let Some(found) = found {
        found.shutdown().ok();
    }
    store.close().await;
    Ok(())
}
