//! Who may talk to this server. Without sign-in it answers its own machine only: a request that was
//! lured here by another page carries a foreign Host or Origin, and is refused.

use crate::{Clock, Problem};
use actix_web::body::{BoxBody, MessageBody};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::{Method, StatusCode, header};
use actix_web::middleware::Next;
use actix_web::{HttpMessage, ResponseError, web};
use futures_util::FutureExt;
use mopsel_core::words::Reader;
use std::panic::AssertUnwindSafe;
use std::time::Instant;
use uuid::Uuid;

/// The host names under which the server answers.
#[derive(Debug, Clone)]
pub struct Hosts(Vec<String>);

impl Hosts {
    /// The machine's own names, and those that were allowed besides.
    #[must_use]
    pub fn local_and(more: &[String]) -> Self {
        Self(["localhost", "127.0.0.1", "[::1]"].iter().map(|h| (*h).to_owned()).chain(more.iter().cloned()).collect())
    }

    /// Whether the server answers under such a name, with or without a port.
    #[must_use]
    pub fn allows(&self, authority: &str) -> bool {
        let host = match authority.rsplit_once(':') {
            Some((host, port)) if port.chars().all(|c| c.is_ascii_digit()) => host,
            _ => authority,
        };
        self.0.iter().any(|known| known.eq_ignore_ascii_case(host))
    }
}

const POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

/// Tells a problem to its reader, whose units and role the request brought along.
fn told(response: ServiceResponse<BoxBody>) -> ServiceResponse<BoxBody> {
    let reader = response.request().extensions().get::<Reader>().copied();
    let said = response.response().error().and_then(|error| error.as_error::<Problem>()).zip(reader);
    match said.map(|(problem, reader)| problem.said_to(reader)) {
        Some(said) => response.into_response(said),
        None => response,
    }
}

/// What is told where the program made a mistake: it ends this one answer, and nothing else.
fn own_fault(id: Uuid) -> Problem {
    let detail = format!(
        "Something in Mopsel went wrong while answering this. Everything else goes on. Whether it was recorded is not \
         known; sending it again makes nothing twice. Tell whoever looks after Mopsel the number {id}."
    );
    Problem::new(StatusCode::INTERNAL_SERVER_ERROR, "own-fault", "A mistake in Mopsel", detail)
}

/// Refuses foreign hosts and origins, and sets the headers that every answer carries.
pub async fn guard(
    mut request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<BoxBody>, actix_web::Error> {
    let hosts = request.app_data::<web::Data<Hosts>>().cloned();
    let clock = request.app_data::<web::Data<Clock>>().cloned();
    let text =
        |name: header::HeaderName| request.headers().get(name).and_then(|value| value.to_str().ok()).map(str::to_owned);
    let host = text(header::HOST).or_else(|| request.uri().host().map(str::to_owned)).unwrap_or_default();
    let origin = text(header::ORIGIN);
    let foreign_origin =
        origin.as_deref().is_some_and(|origin| origin.split_once("://").is_none_or(|(_, authority)| authority != host));
    let allowed = hosts.is_some_and(|hosts| hosts.allows(&host)) && !foreign_origin;
    let (id, begun) = (Uuid::now_v7(), Instant::now());
    let asked = (request.method().clone(), request.path().to_owned());
    if request.method() == Method::HEAD {
        // What is answered is the same; the connection leaves its body out.
        request.head_mut().method = Method::GET;
    }
    let mut response = if allowed {
        match AssertUnwindSafe(next.call(request)).catch_unwind().await {
            Ok(answered) => told(answered?.map_into_boxed_body()),
            Err(_) => {
                tracing::error!(%id, method = %asked.0, path = asked.1, "a panic while answering");
                return Err(own_fault(id).into());
            }
        }
    } else {
        let problem = Problem::new(
            StatusCode::FORBIDDEN,
            "foreign-host",
            "Not from here",
            "Found a request under another host or from another site; allowed are this machine's own names. Start with --allow-host NAME to serve under a name.",
        );
        request.extensions_mut().clear();
        request.into_response(problem.error_response())
    };
    let (method, path) = asked;
    let (status, ms) = (response.status().as_u16(), begun.elapsed().as_millis());
    tracing::info!(%id, %method, path, status, ms, "request");
    let headers = response.headers_mut();
    if let Ok(id) = header::HeaderValue::from_str(&id.to_string()) {
        headers.insert(header::HeaderName::from_static("x-request-id"), id);
    }
    // Pages reckon "an hour ago" from this clock, for the device's own may be wrong.
    if let Some(now) = clock.and_then(|clock| header::HeaderValue::from_str(&clock.now().to_string()).ok()) {
        headers.insert(header::HeaderName::from_static("mopsel-now"), now);
    }
    for (name, value) in [
        (header::CONTENT_SECURITY_POLICY, POLICY),
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
        (header::REFERRER_POLICY, "no-referrer"),
        (header::X_FRAME_OPTIONS, "DENY"),
        (header::HeaderName::from_static("cross-origin-resource-policy"), "same-origin"),
    ] {
        headers.insert(name, header::HeaderValue::from_static(value));
    }
    Ok(response)
}

#[cfg(test)]
#[allow(clippy::unwrap_used, clippy::panic, reason = "a test fails where it unwraps")]
mod tests {
    use super::*;
    use actix_web::middleware::from_fn;
    use actix_web::{App, HttpResponse, test};

    async fn breaks() -> HttpResponse {
        panic!("a rule that nobody thought through")
    }

    #[actix_web::test]
    async fn a_mistake_of_the_program_ends_one_answer_and_nothing_else() {
        let app = App::new()
            .app_data(web::Data::new(Hosts::local_and(&[])))
            .wrap(from_fn(guard))
            .route("/breaks", web::get().to(breaks))
            .route("/holds", web::get().to(HttpResponse::Ok));
        let app = test::init_service(app).await;
        let ask = |path: &str| test::TestRequest::get().uri(path).insert_header(("host", "localhost")).to_request();
        let error = test::try_call_service(&app, ask("/breaks")).await.unwrap_err();
        assert_eq!(error.as_response_error().status_code(), StatusCode::INTERNAL_SERVER_ERROR);
        assert!(error.to_string().contains("sending it again makes nothing twice"), "{error}");
        assert_eq!(test::call_service(&app, ask("/holds")).await.status(), StatusCode::OK);
    }
}
