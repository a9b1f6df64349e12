//! The application: its routes as a sitemap, and how it is started on a listener that the caller
//! brings, so that a test starts the real thing on port 0.

use crate::api::reminders::Posting;
use crate::api::{
    accounts, archive, bench, cards, care, carries, changes, classes, compare, cover, description, devices, edits,
    entries, health, knowledge, log, pictures, readings, reminders, session, story, timers,
};
use crate::book::Book;
use crate::door::{Door, door};
use crate::guard::{Hosts, guard};
use crate::post::{Post, deliver};
use crate::{Clock, Problem, web as pages};
use actix_web::dev::Server;
use actix_web::http::StatusCode;
use actix_web::http::header::{ALLOW, HeaderValue};
use actix_web::middleware::{Compress, from_fn};
use actix_web::web::{self, Data, delete, get, post, put};
use actix_web::{App, HttpResponse, HttpServer, Resource, ResponseError};
use mopsel_core::message::typed;
use mopsel_store::Store;
use rustls::ServerConfig;
use std::net::TcpListener;
use std::sync::Arc;
use std::time::Duration;

/// An address, with the methods that it has; any other is told which those are. `HEAD` goes where `GET` goes.
fn at(path: &str, methods: &'static str) -> Resource {
    web::resource(path).default_service(web::to(move || async move { wrong_method(methods) }))
}

fn wrong_method(methods: &'static str) -> HttpResponse {
    let detail = format!("This address takes {methods}. Nothing was done.");
    let problem = Problem::new(StatusCode::METHOD_NOT_ALLOWED, "wrong-method", "Wrong method", detail);
    let mut answer = problem.error_response();
    answer.headers_mut().insert(ALLOW, HeaderValue::from_static(methods));
    answer
}

fn routes(config: &mut web::ServiceConfig) {
    config
        .service(at("/healthz", "GET, HEAD").route(get().to(health::health)))
        .service(at("/api/openapi.json", "GET, HEAD").route(get().to(openapi)))
        .service(
            at("/api/session", "GET, HEAD, POST, DELETE")
                .route(get().to(session::read_session))
                .route(post().to(session::sign_in))
                .route(delete().to(session::sign_out)),
        )
        .service(at("/api/session/reach", "GET, HEAD").route(get().to(session::read_reach)))
        .service(at("/mopsel-authority.crt", "GET, HEAD").route(get().to(session::authority)))
        .service(at("/api/session/join", "POST").route(post().to(classes::join_class)))
        .service(
            at("/api/classes", "GET, HEAD, POST")
                .route(get().to(classes::list_classes))
                .route(post().to(classes::open_class)),
        )
        .service(at("/api/classes/{id}", "DELETE").route(delete().to(classes::end_class)))
        .service(at("/api/session/first", "POST").route(post().to(session::make_first)))
        .service(at("/api/session/link", "POST").route(post().to(session::look_at_link)))
        .service(at("/api/session/redeem", "POST").route(post().to(session::redeem_link)))
        .service(at("/api/session/password", "PUT").route(put().to(devices::change_password)))
        .service(
            at("/api/session/devices", "GET, HEAD, DELETE")
                .route(get().to(devices::list_devices))
                .route(delete().to(devices::end_other_devices)),
        )
        .service(at("/api/session/devices/{id}", "DELETE").route(delete().to(devices::end_device)))
        .service(
            at("/api/reminders", "GET, HEAD, PUT, DELETE")
                .route(get().to(reminders::read_reminder))
                .route(put().to(reminders::wish_reminder))
                .route(delete().to(reminders::end_reminder)),
        )
        .service(at("/api/reminders/yes", "POST").route(post().to(reminders::say_yes)))
        .service(at("/api/mailbox", "GET, HEAD").route(get().to(reminders::read_mailbox)))
        .service(at("/api/accounts", "GET, HEAD").route(get().to(accounts::list_accounts)))
        .service(at("/api/accounts/{id}", "PUT").route(put().to(accounts::keep_account)))
        .service(at("/api/accounts/{id}/link", "POST").route(post().to(accounts::make_link)))
        .service(at("/api/knowledge", "GET, HEAD").route(get().to(knowledge::knowledge)))
        .service(at("/api/shape/preview", "POST").route(post().to(knowledge::preview_shape)))
        .service(at("/api/shelf", "GET, HEAD").route(get().to(bench::read_shelf)))
        .service(at("/api/bench/plan", "POST").route(post().to(bench::plan_mix)))
        .service(at("/api/bench/rate", "POST").route(post().to(bench::preview_rate)))
        .service(
            at("/api/timers", "GET, HEAD, POST")
                .route(get().to(timers::list_timers))
                .route(post().to(timers::start_timer)),
        )
        .service(at("/api/timers/{id}", "DELETE").route(delete().to(timers::dismiss_timer)))
        .service(
            at("/api/systems/{id}/change", "GET, HEAD, PUT, DELETE")
                .route(get().to(changes::read_change))
                .route(put().to(changes::save_change))
                .route(delete().to(changes::drop_change)),
        )
        .service(at("/api/systems/{id}/change/guide", "POST").route(post().to(changes::guide_change)))
        .service(at("/api/systems/{id}/change/finish", "POST").route(post().to(changes::finish_change)))
        .service(at("/api/round", "GET, HEAD").route(get().to(care::read_round)))
        .service(at("/api/compare/choices", "GET, HEAD").route(get().to(compare::compare_with)))
        .service(at("/api/compare", "GET, HEAD").route(get().to(compare::compare)))
        .service(at("/api/readings", "POST").route(post().to(readings::take_readings)))
        .service(at("/api/readings/look", "POST").route(post().to(readings::look_at_file)))
        .service(at("/api/readings/file", "POST").route(post().to(readings::take_file)))
        .service(at("/api/readings/deliveries", "GET, HEAD").route(get().to(readings::list_deliveries)))
        .service(at("/api/readings/deliveries/{id}/take-back", "POST").route(post().to(readings::take_delivery_back)))
        .service(at("/api/systems/{id}/readings", "GET, HEAD").route(get().to(readings::read_sensed)))
        .service(
            at("/api/archive", "GET, HEAD, POST")
                .route(get().to(archive::read_archive))
                .route(post().to(archive::bring_archive)),
        )
        .service(at("/api/log", "GET, HEAD").route(get().to(log::read_log_across)))
        .service(at("/api/labels", "GET, HEAD").route(get().to(care::read_labels)))
        .service(at("/api/outing", "GET, HEAD").route(get().to(care::read_outing)))
        .service(at("/api/round/fit", "GET, HEAD").route(get().to(care::read_fit)))
        .service(at("/api/places", "GET, HEAD").route(get().to(cards::list_places)))
        .service(at("/api/places/{id}/cover", "GET, HEAD").route(get().to(cover::read_cover)))
        .service(at("/api/places/{id}/week", "GET, HEAD").route(get().to(cover::read_week)))
        .service(at("/api/places/{id}/ahead", "GET, HEAD").route(get().to(cover::read_ahead)))
        .service(at("/calendar/{id}.ics", "GET, HEAD").route(get().to(cover::read_calendar)))
        .service(at("/api/closures/read", "POST").route(post().to(cover::read_closures)))
        .service(at("/api/cards", "POST").route(post().to(cards::create_card)))
        .service(at("/api/cards/{id}", "PUT").route(put().to(cards::edit_card)))
        .service(at("/api/cards/{id}/edits", "GET, HEAD").route(get().to(edits::list_edits)))
        .service(at("/api/systems/{id}", "GET, HEAD").route(get().to(care::read_system)))
        .service(at("/api/systems/{id}/sheet", "GET, HEAD").route(get().to(care::read_sheet)))
        .service(at("/api/systems/{id}/judging", "GET, HEAD").route(get().to(care::read_judging)))
        .service(at("/api/systems/{id}/put-off/{code}", "GET, HEAD").route(get().to(care::read_choices)))
        .service(at("/api/plantings/{id}/story", "GET, HEAD").route(get().to(story::read_story)))
        .service(at("/api/systems/{id}/carries", "POST").route(post().to(carries::judge_planting)))
        .service(at("/api/systems/{id}/judge", "POST").route(post().to(care::judge)))
        .service(at("/api/systems/{id}/doubts", "POST").route(post().to(care::doubt)))
        .service(
            at("/api/systems/{id}/pictures", "GET, HEAD, POST")
                .route(get().to(pictures::list_pictures))
                .route(post().to(pictures::keep_picture)),
        )
        .service(
            at("/api/pictures/{id}", "GET, HEAD, DELETE")
                .route(get().to(pictures::read_picture))
                .route(delete().to(pictures::erase_picture)),
        )
        .service(at("/api/systems/{id}/trends", "GET, HEAD").route(get().to(log::read_trends)))
        .service(at("/api/systems/{id}/log", "GET, HEAD").route(get().to(entries::read_log)))
        .service(at("/api/systems/{id}/entries", "POST").route(post().to(entries::append)))
        .service(
            at("/api/systems/{id}/draft", "GET, HEAD, PUT, DELETE")
                .route(get().to(entries::read_draft))
                .route(put().to(entries::save_draft))
                .route(delete().to(entries::drop_draft)),
        )
        .service(
            web::resource("/api/{rest:.*}")
                .default_service(web::to(|| async { Err::<HttpResponse, _>(Problem::not_found("such address")) })),
        )
        .service(at("/{page:.*}", "GET, HEAD").route(get().to(pages::page)));
}

async fn openapi() -> HttpResponse {
    HttpResponse::Ok().content_type("application/json").body(description())
}

/// Starts the server on a listener. Awaiting it runs it until the process is told to stop.
///
/// # Errors
/// When the listener cannot be used.
pub fn run(listener: TcpListener, store: Store, clock: Clock, hosts: Hosts) -> std::io::Result<Server> {
    serve(listener, store, clock, hosts, Door::default(), None, None)
}

/// The same, with a door that is kept, TLS where a certificate is given, and letters where there is a way for them.
///
/// # Errors
/// When the listener cannot be used.
pub fn serve(
    listener: TcpListener,
    store: Store,
    clock: Clock,
    hosts: Hosts,
    kept: Door,
    tls: Option<ServerConfig>,
    post: Option<Arc<Post>>,
) -> std::io::Result<Server> {
    let (book, now, hosts) = (Data::new(Book::new(store, clock)), Data::new(clock), Data::new(hosts));
    let kept = Data::new(kept);
    if let Some(post) = &post {
        actix_web::rt::spawn(deliver(post.clone(), book.clone(), clock));
    }
    let posting = Data::new(Posting(post));
    let server = HttpServer::new(move || {
        App::new()
            .app_data(book.clone())
            .app_data(now.clone())
            .app_data(posting.clone())
            .app_data(hosts.clone())
            .app_data(kept.clone())
            .app_data(web::PayloadConfig::new(crate::input::LIMIT))
            .app_data(web::QueryConfig::default().error_handler(|_, request| unreadable(request.query_string()).into()))
            .wrap(from_fn(door))
            .wrap(from_fn(guard))
            .wrap(Compress::default())
            .configure(routes)
    });
    // A browser uses a connection again after a minute; one that was closed under its next request looks like a lost one.
    let server = server.workers(2).keep_alive(Duration::from_secs(75)).shutdown_timeout(5);
    Ok(match tls {
        Some(tls) => server.listen_rustls_0_23(listener, tls)?.run(),
        None => server.listen(listener)?.run(),
    })
}

/// A query that cannot be read.
fn unreadable(found: &str) -> Problem {
    mopsel_core::refuse!("query_unreadable", found = typed(found)).into()
}
