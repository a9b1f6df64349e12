//! The names and addresses of this machine on its own network, and being found there.

use mdns_sd::{ServiceDaemon, ServiceInfo};
use std::collections::BTreeSet;
use std::net::IpAddr;

/// The name under which Mopsel is found where multicast DNS works.
pub const FOUND_AS: &str = "mopsel.local";

/// What this machine calls itself, as far as that may stand in a certificate and in an address.
fn own_name() -> Option<String> {
    let name = gethostname::gethostname().into_string().ok()?.to_ascii_lowercase();
    let name = name.split('.').next().unwrap_or_default().to_owned();
    let plain = !name.is_empty() && name.len() <= 63 && name.chars().all(|c| c.is_ascii_alphanumeric() || c == '-');
    (plain && name != "localhost").then_some(name)
}

/// Addresses on local networks, those of the older kind first; no loopback.
#[must_use]
pub fn addresses() -> Vec<IpAddr> {
    let found = if_addrs::get_if_addrs().unwrap_or_default();
    let all: BTreeSet<IpAddr> = found.iter().filter(|one| !one.is_loopback()).map(if_addrs::Interface::ip).collect();
    // An address that is good on one wire only has no place in a link.
    let linked = |address: &IpAddr| matches!(address, IpAddr::V6(v6) if v6.is_unicast_link_local());
    all.into_iter().filter(|address| !linked(address)).collect()
}

/// Every name and address under which this machine is asked: its own, those of the network, and those that are given.
#[must_use]
pub fn names(given: &[String]) -> Vec<String> {
    let own = own_name();
    let named = own.iter().flat_map(|name| [name.clone(), format!("{name}.local")]);
    let always = ["localhost", "127.0.0.1", "::1", FOUND_AS].map(str::to_owned);
    let mut seen = BTreeSet::new();
    let all = always.into_iter().chain(named).chain(addresses().into_iter().map(|address| address.to_string()));
    all.chain(given.iter().cloned()).filter(|name| seen.insert(name.clone())).collect()
}

/// A name or an address as it stands in a link.
#[must_use]
pub fn in_link(name: &str) -> String {
    if name.parse::<IpAddr>().is_ok_and(|address| address.is_ipv6()) { format!("[{name}]") } else { name.to_owned() }
}

/// Lets Mopsel be found by its name; `None` where this network knows nothing of that. It is found as long as what is
/// given back is held.
#[must_use]
pub fn be_found(port: u16) -> Option<ServiceDaemon> {
    let daemon = ServiceDaemon::new().ok()?;
    let host = format!("{FOUND_AS}.");
    let info = ServiceInfo::new("_https._tcp.local.", "Mopsel", &host, addresses().as_slice(), port, None).ok()?;
    daemon.register(info).ok()?;
    Some(daemon)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_name_stands_once_and_those_that_are_given_too() {
        let all = names(&["garden.example".to_owned(), "localhost".to_owned()]);
        let once: BTreeSet<&String> = all.iter().collect();
        assert_eq!(once.len(), all.len());
        assert!(all.iter().any(|name| name == FOUND_AS) && all.iter().any(|name| name == "garden.example"));
    }

    #[test]
    fn an_address_of_the_newer_kind_stands_in_brackets() {
        assert_eq!(in_link("fd00::7"), "[fd00::7]");
        assert_eq!(in_link("192.168.7.3"), "192.168.7.3");
        assert_eq!(in_link("mopsel.local"), "mopsel.local");
    }
}
