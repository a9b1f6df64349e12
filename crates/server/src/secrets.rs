//! Passwords and tokens: made here, compared here, and never kept as they are.
//!
//! Passwords go through argon2id with the parameters that its crate recommends (19 MiB, two passes). Tokens are 256 bits
//! of chance; of those a plain hash is enough, for nobody guesses them.

use crate::Problem;
use actix_web::http::StatusCode;
use argon2::Argon2;
use argon2::password_hash::{PasswordHash, PasswordHasher, PasswordVerifier, SaltString};
use base64::Engine;
use base64::engine::general_purpose::URL_SAFE_NO_PAD;
use mopsel_core::message::count;
use mopsel_core::{Refusal, refuse};
use sha2::{Digest, Sha256};
use std::sync::LazyLock;
use tokio::sync::Semaphore;

/// The shortest password, in characters. Length is what counts; nothing else is asked of it.
pub const SHORTEST: usize = 10;
/// The longest one, in characters.
const LONGEST: usize = 200;

/// Hashing takes 19 MiB and a core for a moment: so many at once, and whoever guesses waits in line.
static HASHING: Semaphore = Semaphore::const_new(2);

/// The hash of a password that nobody has: a name that is not known costs the same as one that is.
static NOBODYS: LazyLock<String> = LazyLock::new(|| hashed(&token()).unwrap_or_default());

fn failed(why: &str) -> Problem {
    tracing::error!(why, "a password could not be worked on");
    let detail = "This computer could not work on a password just now. Nothing was changed; try again in a moment.";
    Problem::new(StatusCode::SERVICE_UNAVAILABLE, "no-passwords", "Not now", detail)
}

/// A new token, as it is handed out.
pub fn token() -> String {
    let mut bytes = [0; 32];
    // Without chance nothing here is safe; the system always has some.
    getrandom::fill(&mut bytes).unwrap_or_else(|error| {
        tracing::error!(%error, "this machine has no random numbers");
        std::process::abort()
    });
    URL_SAFE_NO_PAD.encode(bytes)
}

/// Letters and digits that nobody takes for each other.
const PLAIN: &[u8; 31] = b"23456789ABCDEFGHJKMNPQRSTUVWXYZ";

/// A code that is read off a board: six of 31 signs. It is good for an hour or two, and tries are few.
pub fn short_code() -> String {
    let mut signs = String::new();
    while signs.len() < 6 {
        for byte in URL_SAFE_NO_PAD.decode(token()).unwrap_or_default() {
            // Signs past the last whole round of 31 would come up more often.
            if byte < 248 && signs.len() < 6 {
                signs.push(char::from(PLAIN[usize::from(byte) % PLAIN.len()]));
            }
        }
    }
    signs
}

/// What is kept of a token.
pub fn kept(token: &str) -> String {
    URL_SAFE_NO_PAD.encode(Sha256::digest(token.as_bytes()))
}

fn hashed(password: &str) -> Option<String> {
    let mut salt = [0; 16];
    getrandom::fill(&mut salt).ok()?;
    let salt = SaltString::encode_b64(&salt).ok()?;
    Some(Argon2::default().hash_password(password.as_bytes(), &salt).ok()?.to_string())
}

/// Whether a password may be chosen.
///
/// # Errors
/// A refusal that says how long it should be.
pub fn check(password: &str) -> Result<(), Refusal> {
    let found = password.chars().count();
    if (SHORTEST..=LONGEST).contains(&found) {
        return Ok(());
    }
    Err(refuse!("password_length", found = count(found), least = count(SHORTEST), most = count(LONGEST)).at("password"))
}

/// What is kept of a password.
///
/// # Errors
/// Where it may not be chosen.
pub async fn hash(password: String) -> Result<String, Problem> {
    check(&password)?;
    let _turn = HASHING.acquire().await.map_err(|error| failed(&error.to_string()))?;
    let hash =
        tokio::task::spawn_blocking(move || hashed(&password)).await.map_err(|error| failed(&error.to_string()))?;
    hash.ok_or_else(|| failed("no hash"))
}

/// Whether a password is the one whose hash is kept. With none kept it takes as long, and is not.
///
/// # Errors
/// When the machine cannot work on it.
pub async fn fits(password: String, kept: Option<String>) -> Result<bool, Problem> {
    let _turn = HASHING.acquire().await.map_err(|error| failed(&error.to_string()))?;
    let fits = move || {
        let known = kept.is_some();
        let hash = kept.unwrap_or_else(|| NOBODYS.clone());
        let parsed = PasswordHash::new(&hash);
        let same = parsed.is_ok_and(|hash| Argon2::default().verify_password(password.as_bytes(), &hash).is_ok());
        known && same
    };
    tokio::task::spawn_blocking(fits).await.map_err(|error| failed(&error.to_string()))
}

#[cfg(test)]
#[allow(clippy::unwrap_used, reason = "a test fails where it unwraps")]
mod tests {
    use super::*;

    #[actix_web::test]
    async fn a_password_is_known_again_and_its_neighbours_are_not() {
        let kept = hash("nine green lettuces".to_owned()).await.unwrap();
        assert!(kept.starts_with("$argon2id$") && !kept.contains("lettuces"));
        assert!(fits("nine green lettuces".to_owned(), Some(kept.clone())).await.unwrap());
        assert!(!fits("nine green lettuce".to_owned(), Some(kept)).await.unwrap());
        assert!(!fits("nine green lettuces".to_owned(), None).await.unwrap(), "nobody's password fits nothing");
    }

    #[test]
    fn tokens_are_long_never_alike_and_kept_as_something_else() {
        let (one, other) = (token(), token());
        assert_ne!(one, other);
        assert_eq!(URL_SAFE_NO_PAD.decode(&one).unwrap().len() * 8, 256);
        assert_ne!(kept(&one), one);
        assert_eq!(kept(&one), kept(&one));
    }

    #[test]
    fn a_short_code_is_six_plain_signs_and_another_each_time() {
        let codes: std::collections::BTreeSet<String> = (0..200).map(|_| short_code()).collect();
        assert!(codes.len() > 195);
        assert!(codes.iter().all(|code| code.len() == 6 && code.bytes().all(|sign| PLAIN.contains(&sign))));
    }

    #[test]
    fn length_is_all_that_is_asked_of_a_password() {
        assert!(check("short").is_err() && check(&"x".repeat(201)).is_err());
        assert!(check("aaaaaaaaaa").is_ok() && check("gröne Salate").is_ok());
    }
}
