//! Looking after the file: a check of all that is in it, backups while it is in use, and bringing one back.

use crate::{Fault, Result, Store, StoreError, log_beside, look, migrations, rows, said_for};
use mopsel_core::projection::Part;
use sqlx::sqlite::{SqliteConnectOptions, SqliteConnection};
use sqlx::{ConnectOptions, Connection};
use std::path::{Path, PathBuf};

/// What a check found.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Checked {
    /// Systems whose projections were compared with their folds.
    pub systems: usize,
    /// Entries of the log.
    pub entries: i64,
    /// What is wrong, each in a sentence; empty for a sound file.
    pub wrong: Vec<String>,
    /// What is worth knowing.
    pub notes: Vec<String>,
}

/// Checks a file: its structure, every card, every entry, and every projection against its fold. Changes
/// nothing of it: one of an earlier release is brought up to date in a copy.
///
/// # Errors
/// `Unfit` for what is no Mopsel file, or is not there.
pub async fn check(file: &Path) -> Result<Checked> {
    if !look(file).await?.there {
        return Err(StoreError::Unfit(format!("There is no file {}", file.display())));
    }
    let found = match Store::open_to_look(file).await {
        Ok((store, _copy)) => {
            let found = checked(&store).await;
            store.close().await;
            found.map_err(|error| said_for(error, file))
        }
        Err(error) => Err(error),
    };
    match found {
        Err(StoreError::Fault(Fault::Damaged, _)) => {
            let wrong = vec![format!("{} is damaged: a part of it cannot be read at all", file.display())];
            Ok(Checked { wrong, ..Checked::default() })
        }
        found => found,
    }
}

async fn checked(store: &Store) -> Result<Checked> {
    let mut found = Checked { notes: store.notes().to_vec(), ..Checked::default() };
    found.wrong.extend(store.damage().map(str::to_owned));
    found.wrong.extend(migrations::newer_entries(store.reader()).await.ok().flatten());
    let said: Vec<String> = sqlx::query_scalar("PRAGMA integrity_check(20)").fetch_all(store.reader()).await?;
    found.wrong.extend(said.into_iter().filter(|said| said != "ok").map(|said| format!("Structure: {said}")));
    let loose: i64 =
        sqlx::query_scalar("SELECT count(*) FROM pragma_foreign_key_check").fetch_one(store.reader()).await?;
    if loose > 0 {
        found.wrong.push(format!("{loose} rows name something that is not there"));
    }
    let news = store.news_since(0).await?;
    found.wrong.extend(news.broken.iter().map(|broken| format!("A {} cannot be read: {}", broken.kind, broken.why)));
    found.entries = sqlx::query_scalar("SELECT count(*) FROM entry").fetch_one(store.reader()).await?;
    let unreadable = store.look_for_unreadable().await?;
    found.wrong.extend(unreadable.iter().map(|id| format!("Entry {id} of the log cannot be read")));
    let systems: Vec<String> =
        sqlx::query_scalar("SELECT id FROM card WHERE kind = 'system' ORDER BY id").fetch_all(store.reader()).await?;
    for id in systems {
        let system = rows::id(&id)?;
        found.systems += 1;
        match (store.kept(system).await, store.folded(system).await) {
            (Ok(Some(kept)), Ok(folded)) => {
                let differ = Part::ALL.into_iter().filter(|part| !kept.same(&folded, *part)).map(Part::name);
                let differ: Vec<&str> = differ.collect();
                if !differ.is_empty() {
                    let differ = differ.join(", ");
                    found.wrong.push(format!("System {id}: kept {differ} are not what its log comes to"));
                }
            }
            (Ok(None), _) => found.wrong.push(format!("System {id}: what is kept of its log cannot be read")),
            (Err(error), _) | (_, Err(error)) => found.wrong.push(format!("System {id}: {error}")),
        }
    }
    Ok(found)
}

async fn connect(file: &Path) -> Result<SqliteConnection> {
    let options = SqliteConnectOptions::new().filename(file).busy_timeout(std::time::Duration::from_secs(10));
    match options.clone().connect().await {
        Ok(connection) => Ok(connection),
        // It lies where nothing can be written, and nobody writes to it: it is read as it stands.
        Err(error) if Fault::of(&error) == Fault::Unreachable && !log_beside(file).exists() => {
            let connection = options.read_only(true).immutable(true).connect().await;
            connection.map_err(|error| said_for(error.into(), file))
        }
        Err(error) => Err(said_for(error.into(), file)),
    }
}

/// Writes a whole copy of a file, as it stands at one moment, also while a server has it open.
///
/// # Errors
/// When the copy is there already, when the file is none of ours or is damaged, or when there is no room.
pub async fn backup(file: &Path, to: &Path) -> Result<()> {
    let found = look(file).await?;
    if !found.there {
        return Err(StoreError::Unfit(format!("There is no file {}", file.display())));
    }
    if let Some(damage) = found.damage {
        return Err(StoreError::Unfit(damage));
    }
    if to.exists() {
        return Err(StoreError::Unfit(format!(
            "{} is there already. Choose another name for the backup",
            to.display()
        )));
    }
    let half = beside(to, ".part");
    std::fs::remove_file(&half).ok();
    let mut connection = connect(file).await?;
    let written = sqlx::query("VACUUM INTO ?").bind(half.to_string_lossy()).execute(&mut connection).await;
    connection.close().await.ok();
    let finished = match written {
        Ok(_) => finish(&half, to).await,
        // From a place where nothing can be written, and where nobody writes to it, it is copied as it is.
        Err(error) if Fault::of(&error) == Fault::Unreachable && !log_beside(file).exists() => {
            match std::fs::copy(file, &half) {
                Ok(_) => finish(&half, to).await,
                Err(error) => Err(moved(file, &half, &error)),
            }
        }
        Err(error) => Err(said_for(error.into(), to)),
    };
    if finished.is_err() {
        std::fs::remove_file(&half).ok();
    }
    finished
}

/// A copy knows that nobody has it open, and stands under its own name only when it is whole.
async fn finish(half: &Path, to: &Path) -> Result<()> {
    let mut connection = connect(half).await?;
    let left = sqlx::query("UPDATE file_facts SET in_use = 0").execute(&mut connection).await;
    connection.close().await.ok();
    left.map_err(|error| said_for(error.into(), to))?;
    std::fs::File::open(half).and_then(|whole| whole.sync_all()).map_err(|error| moved(half, to, &error))?;
    std::fs::rename(half, to).map_err(|error| moved(half, to, &error))
}

fn moved(from: &Path, to: &Path, error: &std::io::Error) -> StoreError {
    StoreError::Unfit(format!("{} could not become {}: {error}", from.display(), to.display()))
}

fn beside(file: &Path, ending: &str) -> PathBuf {
    let mut name = file.as_os_str().to_owned();
    name.push(ending);
    PathBuf::from(name)
}

/// Puts a backup in the place of a file. What stood there before is kept beside it, and its name given back.
///
/// # Errors
/// When the backup is not sound, when a server has the file open, or when there is no room.
pub async fn restore(file: &Path, from: &Path) -> Result<Option<PathBuf>> {
    let wrong = check(from).await?.wrong;
    if let Some(first) = wrong.first() {
        return Err(StoreError::Unfit(format!("{} is not sound and was not put back: {first}", from.display())));
    }
    if file.exists() {
        // Whoever has it open keeps a lock that an exclusive one meets.
        let alone = exclusive(file).await?;
        if !alone {
            return Err(StoreError::Fault(Fault::Locked, Fault::Locked.said(file)));
        }
    }
    let half = beside(file, ".part");
    let put = || {
        std::fs::copy(from, &half).map_err(|error| moved(from, &half, &error))?;
        std::fs::File::open(&half).and_then(|whole| whole.sync_all()).map_err(|error| moved(&half, file, &error))?;
        let before = file.exists().then(|| set_aside(file)).transpose()?;
        std::fs::rename(&half, file).map_err(|error| moved(&half, file, &error))?;
        Ok(before)
    };
    let put = put();
    if put.is_err() {
        // On a full disk it would keep the disk full.
        std::fs::remove_file(&half).ok();
    }
    put
}

/// Gives a file a second name, so that at every moment of a restore there is a whole file under the first one:
/// a program that was killed in the middle would else begin with an empty one.
fn set_aside(file: &Path) -> Result<PathBuf> {
    let kept = (1..).map(|n| beside(file, &format!(".before-restore-{n}"))).find(|name| !name.exists());
    let kept = kept.unwrap_or_else(|| beside(file, ".before-restore"));
    let named = |from: &Path, to: &Path| {
        let linked = std::fs::hard_link(from, to).or_else(|_| std::fs::copy(from, to).map(drop));
        linked.map_err(|error| moved(from, to, &error))
    };
    let log = log_beside(file);
    if log.exists() {
        named(&log, &log_beside(&kept))?;
    }
    named(file, &kept)?;
    // What is put in the place of the file may not stand beside the log of the old one.
    std::fs::remove_file(&log).ok();
    std::fs::remove_file(beside(file, "-shm")).ok();
    Ok(kept)
}

/// Whether nobody else has the file open. A damaged one cannot say, and is taken to be alone.
async fn exclusive(file: &Path) -> Result<bool> {
    let options = SqliteConnectOptions::new().filename(file).busy_timeout(std::time::Duration::from_millis(200));
    let Ok(mut connection) = options.connect().await else { return Ok(true) };
    // Leaving the write-ahead log needs the file for oneself alone.
    let tried: sqlx::Result<String> =
        sqlx::query_scalar("PRAGMA journal_mode = DELETE").fetch_one(&mut connection).await;
    let alone = match &tried {
        Ok(mode) => mode == "delete",
        Err(error) => Fault::of(error) != Fault::Locked,
    };
    connection.close().await.ok();
    Ok(alone)
}
