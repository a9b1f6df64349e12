//! What the database said, as something that a person can do something about.

use std::io::{self, ErrorKind};
use std::path::Path;

/// Why a file cannot be read or written just now.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fault {
    /// There is no room left on the disk.
    Full,
    /// Another program holds the file.
    Locked,
    /// The file holds something that no database wrote.
    Damaged,
    /// The disk, the folder or the file lets nobody write.
    WriteProtected,
    /// It cannot be opened at all: a wrong path, or no right to it.
    Unreachable,
    /// It is no file of this kind.
    Foreign,
    /// The disk itself failed, or something else did.
    Other,
}

impl Fault {
    /// What an error of the database means.
    #[must_use]
    pub fn of(error: &sqlx::Error) -> Self {
        let code = match error {
            sqlx::Error::Database(error) => error.code().and_then(|code| code.parse::<i64>().ok()),
            sqlx::Error::PoolTimedOut => return Self::Locked,
            // Text of which not even the letters can be read was written by no program.
            sqlx::Error::ColumnDecode { source, .. } if source.is::<std::str::Utf8Error>() => return Self::Damaged,
            sqlx::Error::Decode(source) if source.is::<std::str::Utf8Error>() => return Self::Damaged,
            _ => None,
        };
        // The primary code of SQLite is the lowest byte of the extended one.
        match code.map(|code| code & 0xff) {
            Some(5 | 6) => Self::Locked,
            Some(8) => Self::WriteProtected,
            Some(11) => Self::Damaged,
            Some(13) => Self::Full,
            Some(14) => Self::Unreachable,
            Some(26) => Self::Foreign,
            _ => Self::Other,
        }
    }

    /// What an error of the disk itself means.
    #[must_use]
    pub fn of_disk(error: &io::Error) -> Self {
        match error.kind() {
            ErrorKind::StorageFull | ErrorKind::QuotaExceeded | ErrorKind::FileTooLarge => Self::Full,
            ErrorKind::PermissionDenied | ErrorKind::ReadOnlyFilesystem => Self::WriteProtected,
            _ => Self::Other,
        }
    }

    /// In a sentence, with what to do.
    #[must_use]
    pub fn said(self, file: &Path) -> String {
        let file = file.display();
        match self {
            Self::Full => format!(
                "The disk under {file} is full. Nothing was half-written. Make room, then try again: \
                 writing works again by itself"
            ),
            Self::Locked => format!(
                "{file} is locked by another program. Close that one, or wait until it has finished, then try again"
            ),
            Self::Damaged => format!(
                "{file} is damaged. Nothing more is written to it. Look with `mopsel check`, and bring back the \
                 last backup with `mopsel restore`"
            ),
            Self::WriteProtected => {
                format!("{file} cannot be written: the file, its folder or the disk is write-protected")
            }
            Self::Unreachable => {
                format!("{file} cannot be opened. Look whether its folder is there and may be written to")
            }
            Self::Foreign => format!("{file} is not a Mopsel file. Name another one; this one was left as it is"),
            Self::Other => format!("{file} could not be read or written. Nothing was half-written. Try again"),
        }
    }
}
