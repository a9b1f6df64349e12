//! Taking an archive in: looked over whole before anything of it is believed, then brought in, all or nothing.
//!
//! Nothing is ever unpacked onto the disk: files are known by their names in the manifest, and read in pieces. What claims to
//! be larger than it can be, what differs from its checksum, a link or a name that leads elsewhere ends it before the first row.

use super::manifest::{Manifest, hex};
use super::{
    CARDS, DELIVERIES, ENTRIES, FORMAT, LOGGERS, MANIFEST, PICTURES, VERSION, WITH_LOGGERS, image_name, logger,
    small_name,
};
use jiff::Timestamp;
use mopsel_core::message::{count, typed};
use mopsel_core::{Refusal, refuse};
use mopsel_store::{ArchivedPicture, Brings, Brought, Store, StoreError};
use serde::de::DeserializeOwned;
use sha2::{Digest, Sha256};
use std::collections::HashMap;
use std::fs::File;
use std::io::{BufRead, BufReader, Read};
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use zip::ZipArchive;

/// Why an archive was not brought in; nothing of it was kept.
#[derive(Debug)]
pub enum NotBrought {
    /// The archive is at fault.
    Archive(Refusal),
    /// The file is.
    File(StoreError),
}

impl From<Refusal> for NotBrought {
    fn from(refusal: Refusal) -> Self {
        Self::Archive(refusal)
    }
}

/// A manifest is no larger, in bytes.
const MOST_MANIFEST: u64 = 32 * 1024 * 1024;
/// A line is no longer, in bytes.
const MOST_LINE: u64 = 1024 * 1024;
/// No file in an archive unpacks to more, in bytes.
const MOST_FILE: u64 = 16 * 1024 * 1024 * 1024;
/// What unpacks to more than so many times its size was made to do harm.
const MOST_TIMES: u64 = 400;
/// A picture is no larger, in bytes.
const MOST_PICTURE: u64 = 4 * 1024 * 1024;
/// Lines that are read ahead.
const AHEAD: usize = 64;

type Archive = ZipArchive<File>;

fn odd(why: impl ToString) -> Refusal {
    refuse!("archive_damaged", why = typed(&why.to_string()))
}

/// Opens an archive and looks over its names.
fn opened(file: File) -> Result<Archive, NotBrought> {
    let mut archive = ZipArchive::new(file).map_err(|_| refuse!("archive_not_one"))?;
    for n in 0..archive.len() {
        let entry = archive.by_index_raw(n).map_err(odd)?;
        let name = entry.name().map_err(odd)?.into_owned();
        let name = name.as_str();
        let elsewhere = name.contains("..") || name.starts_with('/') || name.contains('\\') || name.contains(':');
        if elsewhere || entry.is_symlink() || entry.encrypted() {
            return Err(refuse!("archive_odd_name", name = typed(name)).into());
        }
        if entry.size() > MOST_FILE || entry.size() > entry.compressed_size().saturating_mul(MOST_TIMES).max(MOST_LINE)
        {
            return Err(refuse!("archive_bomb", name = typed(name)).into());
        }
    }
    Ok(archive)
}

fn manifest(archive: &mut Archive) -> Result<Manifest, NotBrought> {
    let file = archive.by_name(MANIFEST).map_err(|_| refuse!("archive_not_one"))?;
    let mut text = String::new();
    file.take(MOST_MANIFEST).read_to_string(&mut text).map_err(odd)?;
    let manifest: Manifest = serde_json::from_str(&text).map_err(|_| refuse!("archive_not_one"))?;
    if manifest.format != FORMAT {
        return Err(refuse!("archive_not_one").into());
    }
    if manifest.version > VERSION {
        return Err(refuse!("archive_newer", what = typed("archive")).into());
    }
    Ok(manifest)
}

/// Holds every file that is brought in against its size and its checksum; gives how many lines there are.
fn sound(archive: &mut Archive, manifest: &Manifest) -> Result<u64, NotBrought> {
    let told: HashMap<&str, (u64, &str)> =
        manifest.files.iter().map(|file| (file.name.as_str(), (file.bytes, file.sha256.as_str()))).collect();
    let with_loggers: &[&str] = if manifest.version >= WITH_LOGGERS { &[DELIVERIES, LOGGERS] } else { &[] };
    let lists = [&[CARDS, ENTRIES, PICTURES], with_loggers].concat();
    for name in &lists {
        if !told.contains_key(name) {
            return Err(refuse!("archive_missing", name = typed(name)).into());
        }
    }
    let mut lines = 0;
    let brought = |name: &&str| lists.contains(name) || name.starts_with("pictures/");
    for (name, (bytes, sum)) in told.iter().filter(|(name, _)| brought(name)) {
        let mut file = archive.by_name(name).map_err(|_| refuse!("archive_missing", name = typed(name)))?;
        // What it claims was looked at already: it can be no larger than that.
        if file.size() != *bytes {
            return Err(refuse!("archive_changed", name = typed(name)).into());
        }
        let (mut read, mut summed, mut piece) = (0u64, Sha256::new(), vec![0u8; 64 * 1024]);
        loop {
            // A file that was changed fails its own check here, or that of the manifest below.
            let length = file.read(&mut piece).map_err(|_| refuse!("archive_changed", name = typed(name)))?;
            if length == 0 {
                break;
            }
            read += length as u64;
            if read > *bytes {
                break;
            }
            summed.update(&piece[..length]);
            if lists.contains(name) {
                lines += piece[..length].iter().filter(|byte| **byte == b'\n').count() as u64;
            }
        }
        if read != *bytes || hex(&summed.finalize()) != sum.to_lowercase() {
            return Err(refuse!("archive_changed", name = typed(name)).into());
        }
    }
    Ok(lines)
}

/// What a line says, with where it stands.
type Line = Result<(String, Brings), Refusal>;

/// Reads the lines of a file, one after the other.
fn lines<T: DeserializeOwned>(
    archive: &mut Archive,
    name: &'static str,
    mut each: impl FnMut(String, Result<T, Refusal>) -> bool,
) {
    let Ok(file) = archive.by_name(name) else { return };
    let mut reader = BufReader::new(file);
    for n in 1.. {
        let mut text = Vec::new();
        let read = reader.by_ref().take(MOST_LINE).read_until(b'\n', &mut text);
        let line = match read {
            Ok(0) => return,
            Ok(length) if length as u64 >= MOST_LINE => Err(refuse!("archive_long_line", most = count(1u32))),
            Ok(_) => serde_json::from_slice(&text).map_err(|why| {
                let why = why.to_string();
                Refusal::carried(&why).unwrap_or_else(|| refuse!("archive_unreadable", why = typed(&why)))
            }),
            Err(error) => Err(odd(error)),
        };
        let ends = line.is_err();
        if !each(format!("{name}.{n}"), line) || ends {
            return;
        }
    }
}

fn picture(archive: &mut Archive, mut picture: ArchivedPicture) -> Result<Brings, Refusal> {
    let mut bytes = |name: String| -> Result<Vec<u8>, Refusal> {
        let file = archive.by_name(&name).map_err(|_| refuse!("archive_missing", name = typed(&name)))?;
        let mut bytes = Vec::new();
        file.take(MOST_PICTURE + 1).read_to_end(&mut bytes).map_err(odd)?;
        if bytes.len() as u64 > MOST_PICTURE || !crate::picture::is_plain_jpeg(&bytes) {
            return Err(refuse!("archive_picture", name = typed(&name)));
        }
        Ok(bytes)
    };
    picture.image = bytes(image_name(picture.id))?;
    picture.small = bytes(small_name(picture.id))?;
    Ok(Brings::Picture(Box::new(picture)))
}

/// Reads everything, and hands it on as it is wanted.
fn read_all(mut archive: Archive, to: &SyncSender<Line>) {
    fn put(to: &SyncSender<Line>, at: String, brings: Result<Brings, Refusal>) -> bool {
        let line = match brings {
            Ok(brings) => Ok((at, brings)),
            Err(refusal) => Err(refusal.at(&at)),
        };
        to.send(line).is_ok()
    }
    let mut on = true;
    lines(&mut archive, CARDS, |at, line| {
        on = put(to, at, line.map(Brings::Card));
        on
    });
    if on {
        lines(&mut archive, ENTRIES, |at, line| {
            on = put(to, at, line.map(Brings::Entry));
            on
        });
    }
    if on {
        lines(&mut archive, DELIVERIES, |at, line| {
            on = put(to, at, line.map(Brings::Delivery));
            on
        });
    }
    if let (true, Ok(file)) = (on, archive.by_name(LOGGERS)) {
        logger::every(BufReader::new(file), |line, some| {
            on = put(to, format!("{LOGGERS}.{line}"), some.map(Brings::Sensed));
            on
        });
    }
    let mut pictures = Vec::new();
    if on {
        lines(&mut archive, PICTURES, |at, line| {
            pictures.push((at, line));
            true
        });
    }
    for (at, line) in pictures {
        if !put(to, at, line.and_then(|one| picture(&mut archive, one))) {
            return;
        }
    }
}

/// Brings an archive into a file. Call it where waiting for the disk holds nobody up.
///
/// # Errors
/// What is wrong with the archive, with the line where it is; when the file cannot be written. Nothing is kept then.
pub fn bring(file: File, store: &Store, now: Timestamp) -> Result<Brought, NotBrought> {
    let mut archive = opened(file)?;
    let manifest = manifest(&mut archive)?;
    let lines = sound(&mut archive, &manifest)?;
    let (to, from): (SyncSender<Line>, Receiver<Line>) = sync_channel(AHEAD);
    let reading = std::thread::spawn(move || read_all(archive, &to));
    let mut next = move || from.recv().ok().transpose().map_err(StoreError::Refused);
    let brought = tokio::runtime::Handle::current().block_on(store.bring(now, Some(lines), &mut next));
    // Where it ended early, the reader is let go.
    drop(next);
    reading.join().ok();
    brought.map_err(|error| match error {
        StoreError::Refused(refusal) => NotBrought::Archive(refusal),
        error => NotBrought::File(error),
    })
}
