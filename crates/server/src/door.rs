//! Who comes in. Where nobody ever made an account, and only this machine is answered, everybody does. From the first
//! account on, or as soon as others on the network are answered, a session is asked for: a cookie, whose hash stands in
//! the file with the account that it belongs to.

use crate::book::{Book, Pages};
use crate::limits::Limits;
use crate::permits::{Need, known, need, of_class};
use crate::tls::Authority;
use crate::{Clock, Problem, secrets};
use actix_web::body::{BoxBody, MessageBody};
use actix_web::cookie::time::Duration as CookieAge;
use actix_web::cookie::{Cookie, SameSite};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::middleware::Next;
use actix_web::{HttpMessage, HttpRequest, web};
use jiff::{SignedDuration, Timestamp};
use mopsel_core::fact::{Account, Actor, Grant};
use mopsel_store::{Class, Session};
use std::net::{IpAddr, Ipv4Addr};
use std::sync::Arc;
use uuid::Uuid;

/// The cookie in which a device says who is signed in on it.
pub const COOKIE: &str = "mopsel-session";
/// Addresses that are not there.
const NOWHERE: &str = "/api/{rest:.*}";
/// So many days after it was last used a session ends by itself.
const SESSION_DAYS: i64 = 60;
/// A session's last use is taken down once in so many minutes.
const SEEN_MINUTES: i64 = 60;

/// Where others on the network find this.
#[derive(Debug, Clone, Default)]
pub struct Reach {
    /// Addresses, the surest first; none where only this machine is answered.
    pub addresses: Vec<String>,
    /// Mopsel's own authority, where it is one.
    pub authority: Option<Authority>,
}

/// How the door is kept.
#[derive(Debug, Default)]
pub struct Door {
    /// Where others find this.
    pub reach: Reach,
    /// Whether a session is asked for even while there is no account: others than this machine are answered.
    pub others: bool,
    /// Whether a proxy stands before this, which says from where somebody came.
    pub behind_proxy: bool,
    /// Whether everybody comes over TLS, so that the cookie goes over nothing else.
    pub secure: bool,
    /// How often somebody may try.
    pub limits: Limits,
}

impl Door {
    /// Whether a session is asked for.
    #[must_use]
    pub fn closed(&self, pages: &Pages) -> bool {
        self.others || pages.any_account
    }

    /// From which address a request came.
    #[must_use]
    pub fn address(&self, request: &HttpRequest) -> IpAddr {
        // The proxy writes whom it answers at the end; what stands before that anybody may have written.
        let header = request.headers().get("x-forwarded-for").filter(|_| self.behind_proxy);
        let last = header.and_then(|value| value.to_str().ok()?.rsplit(',').next()?.trim().parse().ok());
        last.or_else(|| request.peer_addr().map(|peer| peer.ip())).unwrap_or(IpAddr::V4(Ipv4Addr::UNSPECIFIED))
    }

    /// The cookie of a session.
    #[must_use]
    pub fn cookie(&self, token: String) -> Cookie<'static> {
        Cookie::build(COOKIE, token)
            .path("/")
            .http_only(true)
            .secure(self.secure)
            .same_site(SameSite::Strict)
            .max_age(CookieAge::days(SESSION_DAYS))
            .finish()
    }

    /// The cookie that ends one.
    #[must_use]
    pub fn no_cookie(&self) -> Cookie<'static> {
        let mut cookie = self.cookie(String::new());
        cookie.make_removal();
        cookie
    }
}

/// Who came in with a request.
#[derive(Debug, Clone, Default)]
pub struct Caller {
    /// Whether a session was asked for.
    pub closed: bool,
    /// The session.
    pub session: Option<Session>,
    /// The account.
    pub account: Option<Account>,
    /// The class that the device is of.
    pub class: Option<Class>,
    /// What it may.
    pub grant: Option<Arc<Grant>>,
}

impl Caller {
    /// Whoever came in with a request.
    #[must_use]
    pub fn of(request: &HttpRequest) -> Self {
        request.extensions().get::<Self>().cloned().unwrap_or_default()
    }

    /// The account and the session that must be there.
    ///
    /// # Errors
    /// Signed out.
    pub fn signed_in(&self) -> Result<(&Account, &Session), Problem> {
        self.account.as_ref().zip(self.session.as_ref()).ok_or_else(Problem::signed_out)
    }
}

/// A session that begins now.
#[must_use]
pub fn session(account: Uuid, device: String, now: Timestamp) -> Session {
    Session { id: Uuid::now_v7(), account, device, began: now, seen: now, ends: ends(now) }
}

fn ends(now: Timestamp) -> Timestamp {
    now.saturating_add(SignedDuration::from_hours(24 * SESSION_DAYS)).unwrap_or(Timestamp::MAX)
}

/// Who comes with a cookie.
async fn caller(
    (book, pages): (&Book, &Pages),
    door: &Door,
    now: Timestamp,
    cookie: Option<Cookie<'_>>,
) -> Result<Caller, Problem> {
    let nobody = Caller { closed: door.closed(pages), ..Caller::default() };
    let Some(cookie) = cookie.filter(|cookie| nobody.closed && !cookie.value().is_empty()) else { return Ok(nobody) };
    let token = secrets::kept(cookie.value());
    let Some(session) = book.store().session(&token, now).await? else {
        let class = book.store().class_of(&token, now).await?;
        let grant = class.as_ref().map(|class| Arc::new(pages.class_grant((class.id, class.place))));
        return Ok(Caller { class, grant, ..nobody });
    };
    let Some(account) = pages.accounts.get(&session.account).cloned() else { return Ok(nobody) };
    if now.duration_since(session.seen).as_mins() >= SEEN_MINUTES
        && book.store().read_only().is_none()
        && let Err(error) = book.store().used(session.id, now, ends(now)).await
    {
        tracing::warn!(%error, "when a session was used could not be taken down");
    }
    let grant = Some(Arc::new(pages.grant(&account)));
    Ok(Caller { session: Some(session), account: Some(account), grant, ..nobody })
}

/// Lets in who may, and tells everybody else why not.
///
/// # Errors
/// Signed out, or not permitted.
pub async fn door(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<BoxBody>, actix_web::Error> {
    let pattern = request.match_pattern().unwrap_or_default();
    let method = request.method().as_str().to_owned();
    let wanted = if is_page(&pattern) { Some(Need::Nothing) } else { need(&method, &pattern) };
    let admitted = async {
        let missing = || Problem::not_found("door");
        let book = request.app_data::<web::Data<Book>>().ok_or_else(missing)?;
        let door = request.app_data::<web::Data<Door>>().ok_or_else(missing)?;
        let clock = request.app_data::<web::Data<Clock>>().ok_or_else(missing)?;
        if is_page(&pattern) {
            return Ok(());
        }
        let pages = book.whole().await?;
        let caller = caller((book, &pages), door, clock.now(), request.cookie(COOKIE)).await?;
        // The book is opened once for each request.
        request.extensions_mut().insert(pages);
        let permitted = match wanted {
            _ if !caller.closed => Ok(()),
            Some(Need::Nothing) => Ok(()),
            Some(_) if caller.class.is_some() => {
                if of_class(&method, &pattern) {
                    Ok(())
                } else {
                    Err(Problem::not_found("such address"))
                }
            }
            _ if caller.session.is_none() => Err(Problem::signed_out()),
            Some(Need::SignedIn) => Ok(()),
            // What is not there, or not with this method, is told so; what nobody thought about stays closed.
            None if pattern == NOWHERE || known(&pattern) => Ok(()),
            None => Err(Problem::not_found("such address")),
            Some(Need::May(act)) => {
                let actor = Actor { grant: caller.grant.clone(), ..Actor::default() };
                actor.may(act, None).map_err(Problem::not_permitted)
            }
        };
        request.extensions_mut().insert(caller);
        permitted
    };
    match admitted.await {
        Ok(()) => Ok(next.call(request).await?.map_into_boxed_body()),
        Err(problem) => Ok(request.error_response(problem).map_into_boxed_body()),
    }
}

/// Pages, scripts and type are the same for everybody, and say nothing of anybody.
fn is_page(pattern: &str) -> bool {
    pattern.is_empty() || pattern == "/{page:.*}"
}
