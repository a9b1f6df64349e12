//! What an archive says of itself.

use serde::{Deserialize, Serialize};

/// The manifest.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct Manifest {
    /// [`super::FORMAT`].
    pub format: String,
    /// The version of the format.
    pub version: u32,
    /// Which release made it.
    pub program: String,
    /// When.
    pub made: String,
    /// Every file but this one.
    pub files: Vec<FileFacts>,
}

/// A file of an archive.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct FileFacts {
    /// Its name.
    pub name: String,
    /// Its size, unpacked.
    pub bytes: u64,
    /// Its SHA-256, in hexadecimal.
    pub sha256: String,
}

/// A checksum as text.
pub fn hex(sum: &[u8]) -> String {
    sum.iter().map(|byte| format!("{byte:02x}")).collect()
}
