//! TLS on the local network. Without a certificate that was given, Mopsel is its own authority: made once, kept beside
//! the data file, and good for names and addresses of local networks only, so that a phone that trusts it trusts it for
//! nothing else. The certificate of the server is made anew at every start, for the names that it has then.

use rcgen::{
    BasicConstraints, CertificateParams, CidrSubnet, DnType, ExtendedKeyUsagePurpose, GeneralSubtree, IsCa, Issuer,
    KeyPair, KeyUsagePurpose, NameConstraints,
};
use rustls::ServerConfig;
use rustls::pki_types::pem::PemObject;
use rustls::pki_types::{CertificateDer, PrivateKeyDer};
use sha2::{Digest, Sha256};
use std::fs;
use std::io::Write;
use std::net::IpAddr;
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime};

/// The endings of names that the authority may speak for, besides the machine's own.
const LOCAL_NAMES: [&str; 5] = ["local", "localhost", "lan", "home", "home.arpa"];
/// So long the certificate of the server is good; it is made anew at every start.
const SERVER_DAYS: u64 = 397;
/// So long the authority is good.
const AUTHORITY_DAYS: u64 = 3650;

/// What the server shows of itself.
#[derive(Debug)]
pub struct Identity {
    /// How it speaks TLS.
    pub config: ServerConfig,
    /// The certificate of the authority, to be installed on phones; none where a certificate was given.
    pub authority: Option<Authority>,
}

/// Mopsel's own authority, as far as it is shown.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Authority {
    /// Its certificate, as PEM.
    pub pem: String,
    /// The SHA-256 of that, in pairs: what a phone shows too.
    pub fingerprint: String,
}

/// Why there is no TLS.
#[derive(Debug, thiserror::Error)]
pub enum TlsError {
    /// A file cannot be read or written.
    #[error("{0} cannot be read or written: {1}")]
    File(PathBuf, std::io::Error),
    /// A certificate or its key is none, or they do not belong together.
    #[error("{0} is no certificate with its key: {1}")]
    Unfit(PathBuf, String),
    /// A certificate cannot be made.
    #[error("no certificate could be made: {0}")]
    NotMade(#[from] rcgen::Error),
}

fn at(path: &Path) -> impl Fn(std::io::Error) -> TlsError {
    let path = path.to_owned();
    move |error| TlsError::File(path.clone(), error)
}

/// How TLS is spoken with a certificate chain and its key.
fn config(
    chain: Vec<CertificateDer<'static>>,
    key: PrivateKeyDer<'static>,
    from: &Path,
) -> Result<ServerConfig, TlsError> {
    let unfit = |error: rustls::Error| TlsError::Unfit(from.to_owned(), error.to_string());
    let provider = rustls::crypto::ring::default_provider().into();
    let config = ServerConfig::builder_with_provider(provider).with_safe_default_protocol_versions().map_err(unfit)?;
    config.with_no_client_auth().with_single_cert(chain, key).map_err(unfit)
}

/// With a certificate and its key that were given, as PEM.
///
/// # Errors
/// Where they cannot be read, or do not belong together.
pub fn given(chain: &Path, key: &Path) -> Result<Identity, TlsError> {
    let unfit = |path: &Path, why: String| TlsError::Unfit(path.to_owned(), why);
    let text = fs::read(chain).map_err(at(chain))?;
    let certificates: Vec<_> = CertificateDer::pem_slice_iter(&text)
        .collect::<Result<_, _>>()
        .map_err(|error| unfit(chain, error.to_string()))?;
    let text = fs::read(key).map_err(at(key))?;
    let key = PrivateKeyDer::from_pem_slice(&text).map_err(|error| unfit(key, error.to_string()))?;
    Ok(Identity { config: config(certificates, key, chain)?, authority: None })
}

/// Where the authority of a data file is kept: beside it.
#[must_use]
pub fn folder_of(file: &Path) -> PathBuf {
    let mut folder = file.as_os_str().to_owned();
    folder.push(".tls");
    PathBuf::from(folder)
}

/// A file that only its owner reads, whole or not at all.
fn keep_secret(path: &Path, text: &str) -> Result<(), TlsError> {
    let folder = path.parent().unwrap_or(Path::new("."));
    // A temporary file is its owner's alone from the first moment.
    let mut file = tempfile::NamedTempFile::new_in(folder).map_err(at(path))?;
    file.write_all(text.as_bytes()).and_then(|()| file.as_file().sync_all()).map_err(at(path))?;
    file.persist(path).map_err(|error| TlsError::File(path.to_owned(), error.error))?;
    Ok(())
}

fn spans(params: &mut CertificateParams, days: u64) {
    // A clock that is a little behind is no reason to be turned away.
    let now = SystemTime::now();
    let day = Duration::from_secs(24 * 3600);
    params.not_before = (now - day).into();
    params.not_after = (now + day * u32::try_from(days).unwrap_or(1)).into();
}

/// Networks that are nobody's but one's own, each with the length of its prefix.
const LOCAL_NETWORKS: [(&str, u8); 8] = [
    ("10.0.0.0", 8),
    ("172.16.0.0", 12),
    ("192.168.0.0", 16),
    ("169.254.0.0", 16),
    ("127.0.0.0", 8),
    ("fc00::", 7),
    ("fe80::", 10),
    ("::1", 128),
];

fn network(address: IpAddr, prefix: u8) -> CidrSubnet {
    match address {
        IpAddr::V4(v4) => CidrSubnet::from_v4_prefix(v4.octets(), prefix),
        IpAddr::V6(v6) => CidrSubnet::from_v6_prefix(v6.octets(), prefix),
    }
}

/// Whether an address lies in a network.
fn lies_in(address: IpAddr, (network, prefix): (&str, u8)) -> bool {
    match (address, network.parse()) {
        (IpAddr::V4(one), Ok(IpAddr::V4(of))) => (u32::from(one) ^ u32::from(of)) >> (32 - u32::from(prefix)) == 0,
        (IpAddr::V6(one), Ok(IpAddr::V6(of))) => (u128::from(one) ^ u128::from(of)) >> (128 - u32::from(prefix)) == 0,
        _ => false,
    }
}

/// Whether every authority may speak for a name or an address.
fn is_local(name: &str) -> bool {
    match name.parse::<IpAddr>() {
        Ok(address) => LOCAL_NETWORKS.iter().any(|network| lies_in(address, *network)),
        Err(_) => LOCAL_NAMES.iter().any(|local| name == *local || name.ends_with(&format!(".{local}"))),
    }
}

/// What the authority may speak for: what is local, and what this machine was called when it was made.
fn bounds(own: &[String]) -> NameConstraints {
    let named = LOCAL_NAMES.iter().map(|name| GeneralSubtree::DnsName((*name).to_owned()));
    let networks = LOCAL_NETWORKS.iter().filter_map(|(address, prefix)| Some(network(address.parse().ok()?, *prefix)));
    let own = own.iter().map(|name| match name.parse::<IpAddr>() {
        Ok(address) => GeneralSubtree::IpAddress(network(address, if address.is_ipv4() { 32 } else { 128 })),
        Err(_) => GeneralSubtree::DnsName(name.clone()),
    });
    let permitted_subtrees = named.chain(networks.map(GeneralSubtree::IpAddress)).chain(own).collect();
    NameConstraints { permitted_subtrees, excluded_subtrees: vec![] }
}

/// The authority of a folder, with its key: the one that is kept there, or a new one.
///
/// Beside them stands which names, besides local ones, it may speak for.
fn authority(folder: &Path, names: &[String]) -> Result<(String, KeyPair, Vec<String>), TlsError> {
    let (certificate, key) = (folder.join("authority.pem"), folder.join("authority.key"));
    let own = folder.join("authority.names");
    if certificate.exists() && key.exists() {
        let pem = fs::read_to_string(&certificate).map_err(at(&certificate))?;
        let kept = fs::read_to_string(&key).map_err(at(&key))?;
        let kept = KeyPair::from_pem(&kept).map_err(|error| TlsError::Unfit(key, error.to_string()))?;
        let own = fs::read_to_string(&own).map_err(at(&own))?;
        return Ok((pem, kept, own.lines().map(str::to_owned).collect()));
    }
    fs::create_dir_all(folder).map_err(at(folder))?;
    let mut params = CertificateParams::default();
    params.distinguished_name.push(DnType::CommonName, "Mopsel on this network");
    params.is_ca = IsCa::Ca(BasicConstraints::Constrained(0));
    params.key_usages = vec![KeyUsagePurpose::KeyCertSign, KeyUsagePurpose::CrlSign];
    let more: Vec<String> = names.iter().filter(|name| !is_local(name)).cloned().collect();
    params.name_constraints = Some(bounds(&more));
    spans(&mut params, AUTHORITY_DAYS);
    let pair = KeyPair::generate()?;
    let pem = params.self_signed(&pair)?.pem();
    keep_secret(&own, &more.join("\n"))?;
    keep_secret(&key, &pair.serialize_pem())?;
    keep_secret(&certificate, &pem)?;
    Ok((pem, pair, more))
}

fn fingerprint(certificate: &[u8]) -> String {
    Sha256::digest(certificate).iter().map(|byte| format!("{byte:02X}")).collect::<Vec<_>>().join(":")
}

/// As one's own authority, for the names and addresses that this machine has.
///
/// # Errors
/// Where the authority cannot be read, made or kept.
pub fn own(folder: &Path, names: &[String]) -> Result<Identity, TlsError> {
    let (pem, key, more) = authority(folder, names)?;
    // One name that it may not speak for would spoil the whole certificate.
    let covered: Vec<String> = names.iter().filter(|name| is_local(name) || more.contains(name)).cloned().collect();
    if covered.len() < names.len() {
        let left: Vec<&str> = names.iter().filter(|name| !covered.contains(name)).map(String::as_str).collect();
        tracing::warn!(
            "phones will warn at {}: Mopsel's authority was made before this machine was called so. To make it anew, \
             take {} away and install the new one on each phone",
            left.join(", "),
            folder.display()
        );
    }
    let unfit = |why: String| TlsError::Unfit(folder.join("authority.pem"), why);
    let of_authority = CertificateDer::from_pem_slice(pem.as_bytes()).map_err(|error| unfit(error.to_string()))?;
    let issuer = Issuer::from_ca_cert_der(&of_authority, key)?;
    let mut params = CertificateParams::new(covered)?;
    params.distinguished_name.push(DnType::CommonName, "Mopsel");
    params.key_usages = vec![KeyUsagePurpose::DigitalSignature];
    params.extended_key_usages = vec![ExtendedKeyUsagePurpose::ServerAuth];
    params.use_authority_key_identifier_extension = true;
    spans(&mut params, SERVER_DAYS);
    let key = KeyPair::generate()?;
    let certificate = params.signed_by(&key, &issuer)?;
    let secret = PrivateKeyDer::try_from(key.serialize_der()).map_err(|error| unfit(error.to_owned()))?;
    let shown = Authority { fingerprint: fingerprint(&of_authority), pem };
    let chain = vec![certificate.der().clone(), of_authority];
    Ok(Identity { config: config(chain, secret, folder)?, authority: Some(shown) })
}

#[cfg(test)]
#[allow(clippy::unwrap_used, reason = "a test fails where it unwraps")]
mod tests {
    use super::*;

    #[test]
    fn the_authority_is_made_once_and_is_its_owners_alone() {
        let folder = tempfile::tempdir().unwrap();
        let names = ["localhost".to_owned(), "192.168.7.3".to_owned()];
        let first = own(folder.path(), &names).unwrap().authority.unwrap();
        let again = own(folder.path(), &["mopsel.local".to_owned()]).unwrap().authority.unwrap();
        assert_eq!(first, again);
        assert_eq!(first.fingerprint.split(':').count(), 32);
        #[cfg(unix)]
        {
            use std::os::unix::fs::PermissionsExt;
            let mode = fs::metadata(folder.path().join("authority.key")).unwrap().permissions().mode();
            assert_eq!(mode & 0o077, 0);
        }
    }

    #[test]
    fn a_certificate_of_ones_own_is_taken_and_one_that_does_not_fit_its_key_is_not() {
        let folder = tempfile::tempdir().unwrap();
        let [chain, key, other] = ["chain.pem", "key.pem", "other.pem"].map(|name| folder.path().join(name));
        let own = rcgen::generate_simple_self_signed(["garden.example".to_owned()]).unwrap();
        fs::write(&chain, own.cert.pem()).unwrap();
        fs::write(&key, own.signing_key.serialize_pem()).unwrap();
        fs::write(&other, KeyPair::generate().unwrap().serialize_pem()).unwrap();
        assert!(given(&chain, &key).unwrap().authority.is_none());
        assert!(given(&chain, &other).is_err());
    }

    #[test]
    fn what_is_local_is_spoken_for_and_nothing_else() {
        for name in ["localhost", "mopsel.local", "192.168.7.3", "10.1.2.3", "172.31.0.1", "fd00::2", "::1"] {
            assert!(is_local(name), "{name}");
        }
        for name in ["example.com", "local.example", "172.32.0.1", "11.0.0.1", "2001:db8::1", "notlocal"] {
            assert!(!is_local(name), "{name}");
        }
    }

    #[test]
    fn a_key_that_is_none_is_said_with_its_file() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("server.pem");
        fs::write(&path, "nothing").unwrap();
        let said = given(&path, &path).unwrap_err().to_string();
        assert!(said.contains("server.pem") && said.contains("no certificate with its key"), "{said}");
    }
}
