//! A whole file of readings brought in, all or nothing.

use super::lines::{Piece, every};
use crate::problem::LineFault;
use jiff::Timestamp;
use mopsel_core::columns::{Fault, How, Known, Line, LineReader, WrittenBy};
use mopsel_core::fact::upcast::ENTRY_VERSION;
use mopsel_core::fact::{Actor, Body, Entry};
use mopsel_core::gate::brought_entry;
use mopsel_core::{Refusal, refuse};
use mopsel_store::{ArchivedEntry, Brings, Delivered, NewDelivery, SensedLine, Store, StoreError};
use std::fs::File;
use std::io::{BufReader, Seek, SeekFrom};
use std::sync::mpsc::{SyncSender, sync_channel};
use std::sync::{Arc, Mutex, PoisonError};
use uuid::Uuid;

/// What came of a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Came {
    /// Readings or visits that are new.
    pub new: u64,
    /// Those that were there already, and the same.
    pub there: u64,
}

impl Came {
    /// What came of a delivery.
    #[must_use]
    pub fn of(came: &Delivered) -> Self {
        // The same request again finds what it brought.
        if came.again {
            Self { new: 0, there: came.new + came.there }
        } else {
            Self { new: came.new, there: came.there }
        }
    }
}

/// Why nothing of a file was taken.
#[derive(Debug)]
pub enum NotTaken {
    /// The file, or how it is to be read.
    Whole(Refusal),
    /// Some of its lines: how many are wrong, and the first of them.
    Lines(usize, Vec<LineFault>),
    /// The data file.
    Store(StoreError),
}

impl From<Refusal> for NotTaken {
    fn from(refusal: Refusal) -> Self {
        Self::Whole(refusal)
    }
}

/// Lines that are handed on at once.
const AT_ONCE: usize = 2000;
/// Faults that are told.
const MOST_TOLD: usize = 500;
/// Cells of a line that are told.
const MOST_CELLS: usize = 40;

/// What is wrong with the lines of a file.
#[derive(Default)]
struct Faults {
    all: usize,
    told: Vec<LineFault>,
}

impl Faults {
    fn add(&mut self, piece: &Piece<'_>, fault: Fault) {
        self.all += 1;
        if self.told.len() < MOST_TOLD {
            self.told.push(told(piece, fault.column, fault.refusal));
        }
    }
}

fn told(piece: &Piece<'_>, column: Option<usize>, refusal: Refusal) -> LineFault {
    let cells = piece.cells.iter().take(MOST_CELLS).map(|cell| (*cell).to_owned()).collect();
    LineFault { line: piece.line, column, offset: piece.offset, length: piece.length, cells, refusal }
}

/// A line that says something, with what it is brought as.
enum Says {
    Read(SensedLine),
    Visit(Box<ArchivedEntry>, String),
}

/// What a person wrote down as an entry: its id is made of the line as written, so that the same line twice is one, also
/// where another release understood it otherwise.
fn entry_of(line: &Line, known: &Known, (by, file): (Uuid, &str), now: Timestamp) -> Result<ArchivedEntry, Refusal> {
    let (at, body) = (line.read.at, Body::Visit(line.visit()));
    let raw = |body: &Body| serde_json::value::to_raw_value(body).map_err(|_| refuse!("file_no_text"));
    let text = raw(&body)?;
    let written = raw(&Body::Visit(line.as_written()))?;
    let id = Uuid::new_v5(&known.id, format!("{at} {}", written.get()).as_bytes());
    let entry = Entry { id, at, by, body, amends: None, reason: None };
    brought_entry(&entry, now, &known.history, now)?;
    let (device, amends, reason) = (Some(file.to_owned()), None, None);
    Ok(ArchivedEntry {
        files: Vec::new(),
        id,
        system: known.id,
        at,
        recorded: now,
        by,
        device,
        amends,
        reason,
        shape: ENTRY_VERSION,
        body: text,
    })
}

struct Reading<'a> {
    how: &'a How,
    systems: &'a [Known],
    by: Uuid,
    file: String,
    now: Timestamp,
}

impl Reading<'_> {
    /// What every line says; once one is at fault, the others are only looked over.
    fn all(&self, file: File, mut on: impl FnMut(Says) -> bool) -> Result<Faults, Refusal> {
        let mut reader = LineReader::new(self.how, self.systems)?;
        let mut faults = Faults::default();
        let (mut lines, mut seen) = (Vec::new(), 0u64);
        let head = u64::from(self.how.head.clamp(1, MOST_HEAD));
        let mut rows = 0u64;
        every(BufReader::new(file), self.how.separator, |piece| {
            rows += 1;
            if rows <= head {
                return true;
            }
            seen += 1;
            if let Err(all) = reader.read(&piece.cells, self.now, &mut lines) {
                // One line is one fault to count, whatever is wrong with it.
                all.into_iter().take(1).for_each(|fault| faults.add(&piece, fault));
                return true;
            }
            for line in &lines {
                let known = &self.systems[line.system];
                let says = match self.how.by {
                    WrittenBy::Logger => Says::Read(SensedLine { system: known.id, line: piece.line, read: line.read }),
                    WrittenBy::People => match entry_of(line, known, (self.by, &self.file), self.now) {
                        Ok(entry) => Says::Visit(Box::new(entry), format!("line.{}", piece.line)),
                        Err(refusal) => {
                            let field = refusal.field.trim_start_matches("body.");
                            let column = reader.column_of(field, line.system, Some(line.system));
                            faults.add(&piece, Fault { column, refusal });
                            continue;
                        }
                    },
                };
                if faults.all == 0 && !on(says) {
                    return false;
                }
            }
            true
        })?;
        if seen == 0 {
            return Err(refuse!("file_empty"));
        }
        Ok(faults)
    }
}

/// The head stands no lower.
const MOST_HEAD: u32 = 50;

/// Some lines; none at the end, so that a reader that broke off is not taken for one that came to it.
type Chunk = Result<Vec<Says>, NotTaken>;

/// Brings a file in. Call it where waiting for the disk holds nobody up.
///
/// # Errors
/// What is wrong with the file or with its lines; when the data file cannot be written. Nothing is kept then.
pub fn bring(
    file: File,
    (how, systems): (How, Vec<Known>),
    store: &Store,
    (new, actor, now): (&NewDelivery, &Actor, Timestamp),
) -> Result<Came, NotTaken> {
    let again = file.try_clone().map_err(|error| NotTaken::Store(StoreError::Unfit(error.to_string())))?;
    let (by, by_logger) = (actor.person.unwrap_or_default(), how.by == WrittenBy::Logger);
    let (kept_how, source) = (how.clone(), new.source.as_str().to_owned());
    let (to, from) = sync_channel::<Chunk>(2);
    let reading = std::thread::spawn(move || {
        let reading = Reading { how: &how, systems: &systems, by, file: source, now };
        let mut some = Vec::with_capacity(AT_ONCE);
        let put = |some: &mut Vec<Says>, to: &SyncSender<Chunk>| {
            let full = std::mem::replace(some, Vec::with_capacity(AT_ONCE));
            full.is_empty() || to.send(Ok(full)).is_ok()
        };
        let read = reading.all(file, |says| {
            some.push(says);
            some.len() < AT_ONCE || put(&mut some, &to)
        });
        match read {
            Ok(faults) if faults.all > 0 => drop(to.send(Err(NotTaken::Lines(faults.all, faults.told)))),
            Ok(_) => drop(put(&mut some, &to) && to.send(Ok(Vec::new())).is_ok()),
            Err(refusal) => drop(to.send(Err(NotTaken::Whole(refusal)))),
        }
    });
    let not = Arc::new(Mutex::new(None));
    let why = Arc::clone(&not);
    let runtime = tokio::runtime::Handle::current();
    let came = {
        let chunk = move || match from.recv().ok() {
            None => {
                let broken = mopsel_store::Fault::Other;
                Err(StoreError::Fault(broken, broken.said(store.file())))
            }
            Some(Ok(some)) => Ok(Some(some).filter(|some| !some.is_empty())),
            Some(Err(wrong)) => {
                // Ends the transaction; why is told apart.
                why.lock().unwrap_or_else(PoisonError::into_inner).replace(wrong);
                Err(StoreError::IdTaken)
            }
        };
        if by_logger {
            let read = |says: Says| if let Says::Read(line) = says { Some(line) } else { None };
            let mut next = move || Ok(chunk()?.map(|some: Vec<Says>| some.into_iter().filter_map(read).collect()));
            let came = runtime.block_on(store.deliver(new, actor, now, &mut next));
            came.map(|came| came.map(|came| Came::of(&came)))
        } else {
            let mut waiting = Vec::new().into_iter();
            let mut next = move || loop {
                match waiting.next() {
                    Some(Says::Visit(entry, place)) => return Ok(Some((place, Brings::Entry(*entry)))),
                    Some(Says::Read(_)) => {}
                    None => match chunk()? {
                        Some(some) => waiting = some.into_iter(),
                        None => return Ok(None),
                    },
                }
            };
            let came = runtime.block_on(store.bring_visits(new, actor, now, &mut next));
            came.map(|came| Ok(Came::of(&came)))
        }
    };
    reading.join().ok();
    let not = not.lock().unwrap_or_else(PoisonError::into_inner).take();
    match (not, came) {
        (Some(why), _) => Err(why),
        (None, Ok(Ok(came))) => Ok(came),
        (None, Ok(Err(differs))) => Err(differing(again, &kept_how, &differs)),
        (None, Err(error)) => Err(NotTaken::Store(error)),
    }
}

/// The lines that say something else than is there, as they stand in the file.
fn differing(mut file: File, how: &How, differs: &[(u64, &'static str)]) -> NotTaken {
    let mut all = Vec::new();
    if file.seek(SeekFrom::Start(0)).is_ok() {
        every(BufReader::new(file), how.separator, |piece| {
            if differs.iter().any(|(line, _)| *line == piece.line) {
                all.push(told(&piece, None, refuse!("line_differs")));
            }
            all.len() < MOST_TOLD
        })
        .ok();
    }
    NotTaken::Lines(all.len(), all)
}
