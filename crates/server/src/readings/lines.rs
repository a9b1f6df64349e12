//! The lines of a file as cells, within limits.

use csv::{ReaderBuilder, StringRecord};
use mopsel_core::columns::Separator;
use mopsel_core::message::count;
use mopsel_core::{Refusal, refuse};
use std::cell::Cell;
use std::io::{Error, ErrorKind, Read};
use std::rc::Rc;

/// No line is longer, in bytes; a quotation mark that is never closed ends here.
const MOST_LINE: u64 = 64 * 1024;
/// What the reader of cells reads ahead.
const AHEAD: u64 = 16 * 1024;
/// A mark by which some programs begin a text.
const BYTE_ORDER_MARK: &[u8] = &[0xef, 0xbb, 0xbf];

/// Bytes that were read since the last line began.
#[derive(Clone, Default)]
struct Since(Rc<Cell<u64>>);

struct Limited<R> {
    inner: R,
    since: Since,
}

impl<R: Read> Read for Limited<R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let length = self.inner.read(into)?;
        self.since.0.set(self.since.0.get() + length as u64);
        if self.since.0.get() > MOST_LINE + AHEAD {
            return Err(Error::new(ErrorKind::InvalidData, TOO_LONG));
        }
        Ok(length)
    }
}

const TOO_LONG: &str = "a line without an end";

/// A line with where it stands.
pub struct Piece<'a> {
    /// Which, from 1.
    pub line: u64,
    /// Where it begins, in bytes.
    pub offset: u64,
    /// How long it is, with its end.
    pub length: u64,
    /// Its cells.
    pub cells: Vec<&'a str>,
}

fn wrong(error: &csv::Error) -> Refusal {
    match error.kind() {
        csv::ErrorKind::Io(io) if io.to_string() == TOO_LONG => refuse!("line_long", most = count(MOST_LINE as u32)),
        _ => refuse!("file_no_text"),
    }
}

/// Reads every line of a file, the head among them, until `each` has seen enough.
///
/// # Errors
/// A refusal of what is no text, and of a line without an end.
pub fn every(
    mut file: impl Read,
    separator: Separator,
    mut each: impl FnMut(Piece<'_>) -> bool,
) -> Result<(), Refusal> {
    let mut begins = [0u8; 3];
    let mut read = 0;
    while read < 3 {
        match file.read(&mut begins[read..]) {
            Ok(0) => break,
            Ok(length) => read += length,
            Err(_) => return Err(refuse!("file_no_text")),
        }
    }
    let marked = begins[..read] == *BYTE_ORDER_MARK;
    if begins[..read].starts_with(&[0xff, 0xfe]) || begins[..read].starts_with(&[0xfe, 0xff]) {
        return Err(refuse!("file_no_text"));
    }
    let (skipped, kept): (u64, &[u8]) = if marked { (3, &[]) } else { (0, &begins[..read]) };
    let since = Since::default();
    let limited = Limited { inner: kept.chain(file), since: since.clone() };
    let mut reader =
        ReaderBuilder::new().delimiter(separator.byte()).has_headers(false).flexible(true).from_reader(limited);
    let mut record = StringRecord::new();
    let (mut line, mut offset) = (1, 0);
    loop {
        since.0.set(0);
        if !reader.read_record(&mut record).map_err(|error| wrong(&error))? {
            return Ok(());
        }
        let next = reader.position();
        let begun = record.position().map_or((line, offset), |at| (at.line(), at.byte()));
        let cells: Vec<&str> = record.iter().collect();
        if cells.iter().any(|cell| cell.contains('\0')) {
            return Err(refuse!("file_no_text"));
        }
        let piece = Piece { line: begun.0, offset: skipped + begun.1, length: next.byte() - begun.1, cells };
        if !each(piece) {
            return Ok(());
        }
        (line, offset) = (next.line(), next.byte());
    }
}

/// The first lines of a file, of the beginning that there is of it.
///
/// # Errors
/// As [`every`].
pub fn beginning(bytes: &[u8], separator: Separator, most: usize) -> Result<Vec<Vec<String>>, Refusal> {
    let mut rows = Vec::new();
    every(bytes, separator, |piece| {
        rows.push(piece.cells.iter().map(|cell| (*cell).to_owned()).collect());
        rows.len() < most
    })?;
    Ok(rows)
}
