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

/// How the program is.
#[derive(Serialize, ToSchema)]
pub struct Health {
    /// `ok`, or `read_only` where nothing is written.
    pub status: &'static str,
    /// The version of the program.
    pub version: &'static str,
    /// Why nothing is written, if so.
    pub read_only: Option<String>,
    /// What was noticed when the file was opened.
    pub notes: Vec<String>,
    /// Cards that cannot be read.
    pub broken: Vec<BrokenCard>,
}

/// How the program is: reads from the file, and says what is amiss with it.
#[utoipa::path(get, path = "/healthz", responses((status = 200, body = Health), (status = 503, body = ProblemSaid)))]
pub async fn health(book: web::Data<Book>) -> Result<web::Json<Health>, Problem> {
    let pages = book.open().await?;
    let read_only = book.store().read_only().map(str::to_owned);
    let broken = pages.broken.values().map(|broken| BrokenCard {
        id: broken.id.clone(),
        kind: broken.kind.clone(),
        why: broken.why.clone(),
    });
    Ok(web::Json(Health {
        status: if read_only.is_some() { "read_only" } else { "ok" },
        version: env!("CARGO_PKG_VERSION"),
        read_only,
        notes: book.store().notes().to_vec(),
        broken: broken.collect(),
    }))
}
