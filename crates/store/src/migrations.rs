//! Bringing a file to the present schema.

use crate::{Result, StoreError};
use mopsel_core::fact::upcast::ENTRY_VERSION;
use sqlx::SqlSafeStr;
use sqlx::migrate::{MigrateError, Migration, MigrationType, Migrator};
use sqlx::sqlite::SqlitePool;

/// The migrations in their order; one that begins with "-- no-transaction" runs outside of one.
const MIGRATIONS: [(i64, &str, &str); 13] = [
    (1, "first", include_str!("../migrations/0001_first.sql")),
    (2, "water", include_str!("../migrations/0002_water.sql")),
    (3, "dated facts", include_str!("../migrations/0003_dated_facts.sql")),
    (4, "the file", include_str!("../migrations/0004_file.sql")),
    (5, "when a visit was read", include_str!("../migrations/0005_read_at.sql")),
    (6, "pictures", include_str!("../migrations/0006_pictures.sql")),
    (7, "what an entry is found by", include_str!("../migrations/0007_words.sql")),
    (8, "what loggers read", include_str!("../migrations/0008_sensed.sql")),
    (9, "the index of words in one piece", include_str!("../migrations/0009_gathered.sql")),
    (10, "who else brought it", include_str!("../migrations/0010_whose.sql")),
    (11, "accounts", include_str!("../migrations/0011_accounts.sql")),
    (12, "who edited", include_str!("../migrations/0012_editors.sql")),
    (13, "reminders", include_str!("../migrations/0013_reminders.sql")),
];

/// Applies what the file has not seen yet.
pub(crate) async fn run(pool: &SqlitePool) -> Result<()> {
    let migration = |(version, name, sql): (i64, &'static str, &'static str)| {
        let outside = sql.starts_with("-- no-transaction");
        Migration::new(version, name.into(), MigrationType::Simple, sql.into_sql_str(), outside)
    };
    let migrator = Migrator::with_migrations(MIGRATIONS.into_iter().map(migration).collect());
    migrator.run(pool).await.map_err(|error| match error {
        MigrateError::Execute(error) | MigrateError::ExecuteMigration(error, _) => StoreError::Database(error),
        MigrateError::VersionMissing(_) => StoreError::Unfit(
            "this file was made by a newer Mopsel; open it with that one. Nothing was changed".to_owned(),
        ),
        error => StoreError::Unfit(format!("the file could not be brought up to date: {error}")),
    })
}

/// Whether the file has seen all of them, and none of a newer release.
pub(crate) async fn are_done(pool: &SqlitePool) -> Result<bool> {
    let last: Option<i64> = sqlx::query_scalar("SELECT max(version) FROM _sqlx_migrations").fetch_one(pool).await?;
    Ok(last == MIGRATIONS.last().map(|(version, ..)| *version))
}

/// Why the file can only be read, if entries of a newer release are in it.
pub(crate) async fn newer_entries(pool: &SqlitePool) -> Result<Option<String>> {
    let newest: i64 = sqlx::query_scalar("SELECT entry FROM newest_shape").fetch_one(pool).await?;
    Ok((newest > ENTRY_VERSION).then(|| {
        "this file holds entries of a newer Mopsel: it is opened for reading, and nothing is written to it. \
         Use the newer Mopsel to go on"
            .to_owned()
    }))
}
