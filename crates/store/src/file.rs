//! The file itself: looked at before it is opened for good, so that nothing is done to one that is
//! damaged, foreign, or beside a log that is not its own.

use crate::{Fault, Result, StoreError};
use sqlx::sqlite::{SqliteConnectOptions, SqliteConnection};
use sqlx::{ConnectOptions, Connection, Row};
use std::io::Read;
use std::path::{Path, PathBuf};

/// How a Mopsel file marks itself in its first page.
const APPLICATION: i64 = 1_299_148_915;

/// What a look at a file found.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Look {
    /// Whether there is anything in it yet.
    pub there: bool,
    /// Whether it was made as a demo.
    pub demo: bool,
    /// Why nothing is to be written to it, if so.
    pub damage: Option<String>,
    /// Whether a damaged file is read together with the log beside it.
    pub with_log: bool,
    /// What whoever opens it should know.
    pub notes: Vec<String>,
}

/// The write-ahead log beside a file.
#[must_use]
pub fn log_beside(file: &Path) -> PathBuf {
    let mut name = file.as_os_str().to_owned();
    name.push("-wal");
    PathBuf::from(name)
}

fn size(file: &Path) -> Option<u64> {
    std::fs::metadata(file).ok().map(|found| found.len())
}

/// Looks at a file without changing anything of it.
///
/// # Errors
/// `Unfit` for what is no Mopsel file or cannot be read.
pub async fn look(file: &Path) -> Result<Look> {
    if file.is_dir() {
        return Err(StoreError::Unfit(format!("{} is a folder. Name a file in it", file.display())));
    }
    if size(file).is_none_or(|size| size == 0) {
        return Ok(Look::default());
    }
    let foreign = || StoreError::Unfit(Fault::Foreign.said(file));
    let mut head = [0; 16];
    let read = std::fs::File::open(file).and_then(|mut open| open.read_exact(&mut head));
    if let Err(error) = read {
        let cannot = error.kind() == std::io::ErrorKind::PermissionDenied;
        return Err(if cannot { StoreError::Unfit(Fault::Unreachable.said(file)) } else { foreign() });
    }
    if &head != b"SQLite format 3\0" {
        return Err(foreign());
    }
    let log = log_beside(file);
    let options = SqliteConnectOptions::new().filename(file).read_only(true);
    // The file alone, as if there were no log beside it.
    let alone = options.clone().immutable(true);
    let mut look = Look { there: true, ..Look::default() };
    if size(&log).is_none_or(|size| size == 0) {
        match Inside::read(alone).await {
            Ok(inside) if !inside.ours => return Err(foreign()),
            Ok(inside) => {
                look.demo = inside.demo;
                look.notes.extend((inside.in_use && !log.exists()).then(|| copied_in_use(file, &log)));
            }
            Err(_) => look.damage = Some(Fault::Damaged.said(file)),
        }
        return Ok(look);
    }
    // A checkpoint that was broken off leaves a file whose pages are of two moments: only with its log is it what
    // was acknowledged. So the two are judged together, as SQLite reads them, and the file alone only where that fails.
    let (by_itself, with_log) = (Inside::read(alone.clone()).await, Inside::read(options.clone()).await);
    let ours = |inside: &std::result::Result<Inside, String>| inside.as_ref().is_ok_and(|inside| inside.ours);
    if !ours(&by_itself) && with_log.as_ref().is_ok_and(|inside| !inside.ours) {
        return Err(foreign());
    }
    let one_file = match (&by_itself, &with_log) {
        (Ok(alone), Ok(both)) => alone.identity.is_none() || alone.identity == both.identity,
        _ => true,
    };
    if ours(&with_log) && one_file && Inside::sound(options).await {
        look.demo = with_log.is_ok_and(|inside| inside.demo);
    } else if ours(&by_itself) && (!one_file || Inside::sound(alone).await) {
        look.demo = by_itself.is_ok_and(|inside| inside.demo);
        look.damage = Some(foreign_log(file, &log));
    } else {
        look.damage = Some(Fault::Damaged.said(file));
        look.with_log = with_log.is_ok();
    }
    Ok(look)
}

fn copied_in_use(file: &Path, log: &Path) -> String {
    format!(
        "{} is a copy that was made while it was in use, without the log beside it ({}). What was recorded in the \
         last moments before the copy may be missing. `mopsel backup` makes whole copies",
        file.display(),
        log.display()
    )
}

fn foreign_log(file: &Path, log: &Path) -> String {
    format!(
        "{} does not fit the log beside it ({}): that belongs to another file, or one of them is damaged. Nothing \
         is written. Put the right one beside it, or take it away to go on without what it holds, or bring back a \
         backup with `mopsel restore`",
        file.display(),
        log.display()
    )
}

/// A copy of a file in a folder of its own, that goes with it.
#[derive(Debug)]
pub(crate) struct Copied {
    folder: PathBuf,
    /// The copy.
    pub(crate) file: PathBuf,
}

impl Copied {
    /// Copies a file and the log beside it.
    pub(crate) fn of(file: &Path) -> Result<Self> {
        let folder = std::env::temp_dir().join(format!("mopsel-look-{}", uuid::Uuid::now_v7()));
        let copied = Self { file: folder.join("copy.mopsel"), folder };
        let copy = || {
            std::fs::create_dir(&copied.folder)?;
            std::fs::copy(file, &copied.file)?;
            let log = log_beside(file);
            if log.exists() {
                std::fs::copy(log, log_beside(&copied.file))?;
            }
            Ok(())
        };
        copy().map_err(|error: std::io::Error| {
            StoreError::Unfit(format!("{} could not be copied to be looked at: {error}", file.display()))
        })?;
        Ok(copied)
    }
}

impl Drop for Copied {
    fn drop(&mut self) {
        std::fs::remove_dir_all(&self.folder).ok();
    }
}

/// What stands in a file.
#[derive(Debug, Clone, Default)]
struct Inside {
    ours: bool,
    identity: Option<String>,
    demo: bool,
    in_use: bool,
}

impl Inside {
    async fn read(options: SqliteConnectOptions) -> std::result::Result<Self, String> {
        async fn inside(connection: &mut SqliteConnection) -> sqlx::Result<Inside> {
            let application: i64 = sqlx::query_scalar("PRAGMA application_id").fetch_one(&mut *connection).await?;
            let tables: Vec<String> = sqlx::query_scalar("SELECT name FROM sqlite_master WHERE type = 'table'")
                .fetch_all(&mut *connection)
                .await?;
            let has = |name: &str| tables.iter().any(|table| table == name);
            // Files of the first releases bear no mark; theirs are the tables.
            let early = has("_sqlx_migrations") && has("card") && has("entry");
            let mut found = Inside { ours: application == APPLICATION || early, ..Inside::default() };
            if has("file_facts") {
                let row =
                    sqlx::query("SELECT identity, demo, in_use FROM file_facts").fetch_one(&mut *connection).await?;
                found.identity = row.try_get("identity")?;
                found.demo = row.try_get::<i64, _>("demo")? != 0;
                found.in_use = row.try_get::<i64, _>("in_use")? != 0;
            }
            Ok(found)
        }
        let mut connection = options.connect().await.map_err(|error| error.to_string())?;
        let found = inside(&mut connection).await.map_err(|error| error.to_string());
        let closed = connection.close().await.map_err(|error| error.to_string());
        found.and_then(|found| closed.map(|()| found))
    }

    /// Whether the structure of the file holds together.
    async fn sound(options: SqliteConnectOptions) -> bool {
        let Ok(mut connection) = options.connect().await else { return false };
        let said: sqlx::Result<String> = sqlx::query_scalar("PRAGMA quick_check(1)").fetch_one(&mut connection).await;
        let closed = connection.close().await;
        said.is_ok_and(|said| said == "ok") && closed.is_ok()
    }
}
