//! Whether the program is well, for whoever watches over it.

use crate::Problem;
use crate::book::Book;
use crate::problem::ProblemSaid;
use actix_web::web;
use serde::Serialize;
use utoipa::ToSchema;

/// A card that cannot be read: it stands apart, and the rest is served.
#[derive(Serialize, ToSchema)]
pub struct BrokenCard {
    /// Its id, as far as that can be read.
    pub id: String,
    /// What kind of card it is.
    pub kind: String,
    /// Why it cannot be read.
    pub why: String,
}

/// Long work that is under way.
#[derive(Serialize, ToSchema)]
pub struct BusyWith {
    /// What it is, in a few words.
    pub what: &'static str,
    /// How many lines or readings are in.
    pub done: u64,
    /// How far it is, in per cent, where that is known.
    pub percent: Option<u64>,
}

/// How the program is.
#[derive(Serialize, ToSchema)]
pub struct Health {
    /// `ok`; `read_only` where nothing is written; `partly_unreadable` where something in the file cannot be read and the
    /// rest is served.
    pub status: &'static str,
    /// The version of the program.
    pub version: &'static str,
    /// Why nothing is written, if so.
    pub read_only: Option<String>,
    /// What was noticed when the file was opened.
    pub notes: Vec<String>,
    /// What keeps everybody from saving just now, where something does.
    pub busy: Option<BusyWith>,
    /// Cards that cannot be read.
    pub broken: Vec<BrokenCard>,
    /// Entries of the log that cannot be read: how many were found since the program was started.
    pub unreadable_entries: usize,
}

/// How the program is: reads from the file, and says what is amiss with it.
#[utoipa::path(get, path = "/healthz", responses((status = 200, body = Health), (status = 503, body = ProblemSaid)))]
pub async fn health(book: web::Data<Book>) -> Result<web::Json<Health>, Problem> {
    let pages = book.whole().await?;
    let read_only = book.store().read_only().map(str::to_owned);
    let broken = pages.broken.values().map(|broken| BrokenCard {
        id: broken.id.clone(),
        kind: broken.kind.clone(),
        why: broken.why.clone(),
    });
    let unreadable_entries = book.store().unreadable();
    let partly = unreadable_entries > 0 || !pages.broken.is_empty();
    Ok(web::Json(Health {
        status: match read_only {
            Some(_) => "read_only",
            None if partly => "partly_unreadable",
            None => "ok",
        },
        unreadable_entries,
        busy: book.store().long_work().map(|work| BusyWith {
            what: work.what.said(),
            done: work.done,
            percent: work.percent(),
        }),
        version: env!("CARGO_PKG_VERSION"),
        read_only,
        notes: book.store().notes().to_vec(),
        broken: broken.collect(),
    }))
}
