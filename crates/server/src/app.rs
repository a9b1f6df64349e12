//! The application: its routes as a sitemap, and how it is started on a listener that the caller
//! brings, so that a test starts the real thing on port 0.

use crate::api::{bench, cards, care, changes, description, entries, knowledge, timers};
use crate::book::Book;
use crate::guard::{Hosts, guard};
use crate::{Clock, Problem, web as pages};
use actix_web::dev::Server;
use actix_web::middleware::{Compress, from_fn};
use actix_web::web::{self, Data, delete, get, post, put};
use actix_web::{App, HttpResponse, HttpServer};
use mopsel_core::message::typed;
use mopsel_store::Store;
use std::net::TcpListener;

fn routes(config: &mut web::ServiceConfig) {
    config
        .route("/api/openapi.json", get().to(openapi))
        .route("/api/knowledge", get().to(knowledge::knowledge))
        .route("/api/shape/preview", post().to(knowledge::preview_shape))
        .route("/api/shelf", get().to(bench::read_shelf))
        .route("/api/bench/plan", post().to(bench::plan_mix))
        .route("/api/bench/rate", post().to(bench::preview_rate))
        .service(
            web::resource("/api/timers").route(get().to(timers::list_timers)).route(post().to(timers::start_timer)),
        )
        .route("/api/timers/{id}", delete().to(timers::dismiss_timer))
        .service(
            web::resource("/api/systems/{id}/change")
                .route(get().to(changes::read_change))
                .route(put().to(changes::save_change))
                .route(delete().to(changes::drop_change)),
        )
        .route("/api/systems/{id}/change/guide", post().to(changes::guide_change))
        .route("/api/systems/{id}/change/finish", post().to(changes::finish_change))
        .route("/api/round", get().to(care::read_round))
        .route("/api/places", get().to(cards::list_places))
        .route("/api/cards", post().to(cards::create_card))
        .route("/api/cards/{id}", put().to(cards::edit_card))
        .route("/api/systems/{id}", get().to(care::read_system))
        .route("/api/systems/{id}/judge", post().to(care::judge))
        .route("/api/systems/{id}/log", get().to(entries::read_log))
        .route("/api/systems/{id}/entries", post().to(entries::append))
        .service(
            web::resource("/api/systems/{id}/draft")
                .route(get().to(entries::read_draft))
                .route(put().to(entries::save_draft))
                .route(delete().to(entries::drop_draft)),
        )
        .route(
            "/api/{rest:.*}",
            web::route().to(|| async { Err::<HttpResponse, _>(Problem::not_found("such address")) }),
        )
        .default_service(get().to(pages::page));
}

async fn openapi() -> HttpResponse {
    HttpResponse::Ok().content_type("application/json").body(description())
}

/// Starts the server on a listener. Awaiting it runs it until the process is told to stop.
///
/// # Errors
/// When the listener cannot be used.
pub fn run(listener: TcpListener, store: Store, clock: Clock, hosts: Hosts) -> std::io::Result<Server> {
    let (book, clock, hosts) = (Data::new(Book::new(store)), Data::new(clock), Data::new(hosts));
    let server = HttpServer::new(move || {
        App::new()
            .app_data(book.clone())
            .app_data(clock.clone())
            .app_data(hosts.clone())
            .app_data(web::PayloadConfig::new(crate::input::LIMIT))
            .app_data(web::QueryConfig::default().error_handler(|error, _| unreadable(&error.to_string()).into()))
            .wrap(from_fn(guard))
            .wrap(Compress::default())
            .configure(routes)
    });
    Ok(server.workers(2).shutdown_timeout(5).listen(listener)?.run())
}

/// A query that cannot be read.
fn unreadable(found: &str) -> Problem {
    mopsel_core::refuse!("query_unreadable", found = typed(found)).into()
}
