//! How often somebody may try to get in: for each name and address together, for each address, and for each name.
//!
//! What is guessed at from one address is refused there, and the right person gets in from theirs. A name that is
//! guessed at from very many addresses is closed to all but those from which it was let in before.

use crate::Problem;
use governor::clock::{Clock as _, DefaultClock};
use governor::{DefaultKeyedRateLimiter, Quota, RateLimiter};
use mopsel_core::words::plain;
use std::collections::HashSet;
use std::net::IpAddr;
use std::num::NonZeroU32;
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

/// So many tries of one name from one address at once.
const NAME_HERE: NonZeroU32 = NonZeroU32::new(5).unwrap();
/// So many tries from one address at once, whatever the name: a family or a class behind one.
const HERE: NonZeroU32 = NonZeroU32::new(30).unwrap();
/// So many tries of one name from everywhere at once.
const NAME: NonZeroU32 = NonZeroU32::new(50).unwrap();
/// So many addresses are remembered from which somebody was let in.
const MOST_REMEMBERED: usize = 10_000;

/// The limits, as long as the program runs.
#[derive(Debug)]
pub struct Limits {
    name_here: DefaultKeyedRateLimiter<(String, IpAddr)>,
    here: DefaultKeyedRateLimiter<IpAddr>,
    name: DefaultKeyedRateLimiter<String>,
    let_in: Mutex<HashSet<(String, IpAddr)>>,
}

impl Default for Limits {
    fn default() -> Self {
        let one_in = |seconds: u64, at_once: NonZeroU32| {
            let quota = Quota::with_period(Duration::from_secs(seconds)).unwrap_or(Quota::per_minute(at_once));
            quota.allow_burst(at_once)
        };
        Self {
            name_here: RateLimiter::keyed(one_in(20, NAME_HERE)),
            here: RateLimiter::keyed(one_in(5, HERE)),
            name: RateLimiter::keyed(one_in(10, NAME)),
            let_in: Mutex::default(),
        }
    }
}

/// An address as far as it tells one network from another: of the newer kind somebody has as many as they like.
fn network(address: IpAddr) -> IpAddr {
    match address.to_canonical() {
        IpAddr::V6(v6) => IpAddr::V6((u128::from(v6) & !u128::from(u64::MAX)).into()),
        v4 => v4,
    }
}

impl Limits {
    /// Whether one more try is allowed; where it is not, after how many seconds.
    ///
    /// # Errors
    /// A problem that says how long to wait.
    pub fn try_once(&self, name: &str, from: IpAddr) -> Result<(), Problem> {
        let (name, from) = (plain(name), network(from));
        if self.name_here.len() > MOST_REMEMBERED {
            self.name_here.retain_recent();
            self.here.retain_recent();
            self.name.retain_recent();
        }
        let known = self.let_in.lock().unwrap_or_else(PoisonError::into_inner).contains(&(name.clone(), from));
        let now = DefaultClock::default().now();
        let pair = (name.clone(), from);
        // One after the other: what is refused already takes nothing from others, behind the same address or elsewhere.
        let asked = || {
            self.name_here.check_key(&pair).map_err(|no| no.wait_time_from(now))?;
            self.here.check_key(&from).map_err(|no| no.wait_time_from(now))?;
            let everywhere = self.name.check_key(&name).map_err(|no| no.wait_time_from(now));
            if known { Ok(()) } else { everywhere }
        };
        match asked().err() {
            Some(wait) => Err(Problem::too_many(wait.as_secs() + 1)),
            None => Ok(()),
        }
    }

    /// The same for a code that many type at once behind one address: so many tries there, and so many from everywhere.
    ///
    /// # Errors
    /// A problem that says how long to wait.
    pub fn try_code(&self, what: &str, from: IpAddr) -> Result<(), Problem> {
        let now = DefaultClock::default().now();
        let here = self.here.check_key(&network(from)).err().map(|no| no.wait_time_from(now));
        let all = self.name.check_key(&what.to_owned()).err().map(|no| no.wait_time_from(now));
        match here.into_iter().chain(all).max() {
            Some(wait) => Err(Problem::too_many(wait.as_secs() + 1)),
            None => Ok(()),
        }
    }

    /// Takes down that somebody was let in.
    pub fn let_in(&self, name: &str, from: IpAddr) {
        let mut known = self.let_in.lock().unwrap_or_else(PoisonError::into_inner);
        if known.len() < MOST_REMEMBERED {
            known.insert((plain(name), network(from)));
        }
    }
}

#[cfg(test)]
#[allow(clippy::unwrap_used, reason = "a test fails where it unwraps")]
mod tests {
    use super::*;

    fn at(text: &str) -> IpAddr {
        text.parse().unwrap()
    }

    #[test]
    fn who_guesses_is_slowed_where_they_are_and_the_right_person_gets_in() {
        let limits = Limits::default();
        let (thief, home) = (at("192.0.2.7"), at("192.0.2.8"));
        let let_through = (0..1000).filter(|_| limits.try_once("Wren", thief).is_ok()).count();
        assert_eq!(let_through, 5);
        assert!(limits.try_once("wren", home).is_ok(), "from home it is another matter");
        assert!(limits.try_once("Ansa", thief).is_ok(), "and the thief may be somebody's neighbour");
    }

    #[test]
    fn a_name_that_is_guessed_at_from_everywhere_is_open_where_it_was_let_in_before() {
        let limits = Limits::default();
        limits.let_in("Wren", at("192.0.2.8"));
        for n in 0..1000_u32 {
            limits.try_once("Wren", IpAddr::V4((0x0a00_0000 + n).into())).ok();
        }
        assert!(limits.try_once("Wren", at("198.51.100.1")).is_err());
        assert!(limits.try_once("Wren", at("192.0.2.8")).is_ok());
    }

    #[test]
    fn many_addresses_of_one_network_are_one() {
        let limits = Limits::default();
        let let_through = (0..1000_u128)
            .filter(|n| limits.try_once("Wren", IpAddr::V6((0x2001_0db8_u128 << 96 | n).into())).is_ok())
            .count();
        assert_eq!(let_through, 5);
    }
}
