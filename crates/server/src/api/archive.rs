//! Everything out, and in.

use super::{Acting, now};
use crate::actor::Who;
use crate::archive::{Cancelled, NotBrought, Wanted, bring, write};
use crate::book::Book;
use crate::input::sent_to_disk;
use crate::problem::ProblemSaid;
use crate::{Clock, Problem};
use actix_web::http::StatusCode;
use actix_web::http::header::{CONTENT_DISPOSITION, CONTENT_ENCODING, HeaderValue};
use actix_web::rt::time::timeout;
use actix_web::web::Bytes;
use actix_web::{HttpMessage, HttpRequest, HttpResponse, web};
use mopsel_core::fact::Act;
use mopsel_core::quantity::{EcScale, UnitSystem};
use mopsel_store::Brought;
use serde::{Deserialize, Serialize};
use std::time::Duration;
use tokio::sync::{Semaphore, mpsc};
use utoipa::ToSchema;

/// The units of the tables.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Tables {
    /// Of volumes and temperatures in the CSV; metric when absent.
    #[serde(default)]
    pub units: UnitSystem,
    /// Of EC in the CSV; mS/cm when absent.
    #[serde(default)]
    pub scale: EcScale,
}

/// Who takes nothing for so long has gone away: what they hold of the file is let go.
const STALLED: Duration = Duration::from_secs(120);
/// Archives that are made at the same time; others wait for their turn.
static MAKING: Semaphore = Semaphore::const_new(2);
/// Pieces that wait to be sent.
const AHEAD: usize = 4;

/// The bytes of an archive.
#[derive(ToSchema)]
#[schema(value_type = String, format = Binary)]
#[allow(dead_code, reason = "it stands for bytes in the description")]
pub struct ArchiveBytes(Vec<u8>);

/// Everything in the file as one archive: JSON Lines with their schemas, CSV, pictures, a manifest with checksums. It is
/// sent while it is made, as the file stood when it was asked for.
#[utoipa::path(get, path = "/api/archive", params(Tables, Acting), responses((status = 200, description = "A ZIP file", content_type = "application/zip", body = ArchiveBytes)))]
pub async fn read_archive(
    Who(actor): Who,
    tables: web::Query<Tables>,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<HttpResponse, Problem> {
    actor.may(Act::House, None).map_err(Problem::not_permitted)?;
    let (store, at) = (book.store().clone(), now(&clock));
    let wanted = Wanted { units: tables.units, scale: tables.scale };
    let (to, mut from) = mpsc::channel::<Result<Bytes, std::io::Error>>(AHEAD);
    // Packing keeps a core busy: it is done beside those who answer, two at a time.
    let ready = MAKING.acquire().await.map_err(|error| unsent(&error.to_string()))?;
    let runtime = tokio::runtime::Handle::current();
    tokio::task::spawn_blocking(move || {
        runtime.block_on(async {
            let _ready = ready;
            let send = async |piece: Vec<u8>| {
                let sent = timeout(STALLED, to.send(Ok(Bytes::from(piece)))).await;
                sent.map_err(|_| Cancelled)?.map_err(|_| Cancelled)
            };
            if let Err(error) = write(&store, wanted, at, send).await {
                tracing::warn!("the archive broke off: {error}");
                // The connection breaks: half an archive is not taken for a whole one.
                to.send(Err(std::io::Error::other(error.to_string()))).await.ok();
            }
        });
    });
    let name = format!("attachment; filename=\"mopsel-{}.zip\"", at.strftime("%Y-%m-%d"));
    let mut answer = HttpResponse::Ok();
    answer.content_type("application/zip").insert_header((CONTENT_DISPOSITION, name));
    // It is packed already.
    answer.insert_header((CONTENT_ENCODING, HeaderValue::from_static("identity")));
    Ok(answer.streaming(futures_util::stream::poll_fn(move |context| from.poll_recv(context))))
}

/// What was brought in.
#[derive(Serialize, ToSchema)]
pub struct BroughtView {
    /// Versions of cards that are new.
    pub cards: usize,
    /// Entries that are new.
    pub entries: usize,
    /// Pictures that are new.
    pub pictures: usize,
    /// Readings of loggers that are new.
    pub readings: usize,
    /// What was there already, and the same.
    pub there: usize,
}

impl From<Brought> for BroughtView {
    fn from(brought: Brought) -> Self {
        let Brought { cards, entries, pictures, readings, there } = brought;
        Self { cards, entries, pictures, readings, there }
    }
}

impl From<NotBrought> for Problem {
    fn from(not: NotBrought) -> Self {
        match not {
            NotBrought::Archive(refusal) => refusal.into(),
            NotBrought::File(error) => error.into(),
        }
    }
}

fn unsent(why: &str) -> Problem {
    let detail = format!("The archive could not be brought in: {why}. Nothing of it was; send it again.");
    Problem::new(StatusCode::BAD_REQUEST, "broke-off", "Broke off", detail)
}

/// Brings an archive in, all or nothing: into an empty file, or beside what is there. What is there already is passed
/// over, so that the same archive twice is once.
#[utoipa::path(post, path = "/api/archive", params(Acting), request_body(content = ArchiveBytes, content_type = "application/zip"), responses((status = 200, body = BroughtView), (status = 400, body = ProblemSaid), (status = 413, body = ProblemSaid), (status = 415, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn bring_archive(
    request: HttpRequest,
    Who(actor): Who,
    payload: web::Payload,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<BroughtView>, Problem> {
    actor.may(Act::House, None).map_err(Problem::not_permitted)?;
    if request.content_type() != "application/zip" {
        let detail = format!("Found a body of the type {}; allowed is application/zip.", request.content_type());
        return Err(Problem::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "wrong-type", "Of another type", detail));
    }
    let (store, at) = (book.store().clone(), now(&clock));
    let kept = sent_to_disk(payload, store.file()).await?;
    let brought = tokio::task::spawn_blocking(move || bring(kept, &store, at)).await;
    let brought = brought.map_err(|error| unsent(&error.to_string()))??;
    Ok(web::Json(brought.into()))
}
