//! The pages, embedded in the program.

use crate::Problem;
use actix_web::http::StatusCode;
use actix_web::http::header::{CACHE_CONTROL, ETAG, IF_NONE_MATCH};
use actix_web::{HttpRequest, HttpResponse, Responder};
use rust_embed::{Embed, EmbeddedFile};
use std::fmt::Write;

#[derive(Embed)]
#[folder = "../../web/dist"]
#[allow(missing_docs, reason = "private")]
struct Pages;

/// Serves a built file; any other address is a view of the one page, unless it is the API's.
pub async fn page(request: HttpRequest) -> impl Responder {
    let path = request.path().trim_start_matches('/');
    if path.starts_with("api/") {
        return Err(Problem::not_found("such address"));
    }
    if let Some(file) = Pages::get(path) {
        return Ok(answer(&request, path, &file));
    }
    match Pages::get("index.html") {
        Some(file) if !path.starts_with("assets/") => Ok(answer(&request, "index.html", &file)),
        Some(_) => Err(Problem::not_found("such file")),
        None => Err(Problem::new(
            StatusCode::SERVICE_UNAVAILABLE,
            "no-pages",
            "Pages not built",
            "This program was built without its pages. Build it with `make build`.",
        )),
    }
}

fn answer(request: &HttpRequest, path: &str, file: &EmbeddedFile) -> HttpResponse {
    let mut tag = String::from("\"");
    for byte in &file.metadata.sha256_hash()[..12] {
        let _ = write!(tag, "{byte:02x}");
    }
    tag.push('"');
    let caching = if path.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    if request.headers().get(IF_NONE_MATCH).and_then(|v| v.to_str().ok()) == Some(&tag) {
        return HttpResponse::NotModified().insert_header((ETAG, tag)).finish();
    }
    let kind = mime_guess::from_path(path).first_or_octet_stream();
    HttpResponse::Ok()
        .content_type(kind.as_ref())
        .insert_header((CACHE_CONTROL, caching))
        .insert_header((ETAG, tag))
        .body(file.data.clone().into_owned())
}
