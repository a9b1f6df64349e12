//! The readings of loggers as CSV: the one table that is brought in again, for there may be millions of them.

use csv::{ReaderBuilder, StringRecord};
use jiff::Timestamp;
use mopsel_core::fact::Sensed;
use mopsel_core::message::typed;
use mopsel_core::quantity::{Celsius, Conductivity, Litres, Ph, Quantity};
use mopsel_core::{Refusal, refuse};
use mopsel_store::ArchivedSensed;
use std::fmt::Write as _;
use std::io::Read;
use uuid::Uuid;

/// Its head.
const HEAD: [&str; 7] =
    ["system", "delivery", "time", "pH", "EC at 25 °C [mS/cm]", "water temperature [°C]", "volume [L]"];

/// The head as a line.
pub fn head() -> String {
    format!("{}\r\n", HEAD.join(","))
}

/// Writes lines, one after the other; those that begin alike are begun once.
#[derive(Default)]
pub struct Lines {
    of: Option<(Uuid, Uuid)>,
    begins: String,
}

impl Lines {
    /// Adds a line.
    pub fn add(&mut self, into: &mut String, one: &ArchivedSensed) {
        if self.of != Some((one.system, one.delivery)) {
            self.of = Some((one.system, one.delivery));
            self.begins = format!("{},{},", one.system, one.delivery);
        }
        into.push_str(&self.begins);
        line(into, one);
    }
}

fn line(into: &mut String, one: &ArchivedSensed) {
    fn cell<Q: Quantity>(into: &mut String, value: Option<Q>) {
        into.push(',');
        if let Some(value) = value {
            // The shortest text that reads as the same number.
            write!(into, "{}", value.number()).ok();
        }
    }
    let read = &one.read;
    write!(into, "{}", read.at).ok();
    cell(into, read.ph);
    cell(into, read.ec);
    cell(into, read.temperature);
    cell(into, read.litres);
    into.push_str("\r\n");
}

fn id(text: &str) -> Result<Uuid, Refusal> {
    Uuid::parse_str(text).map_err(|_| refuse!("archive_unreadable", why = typed(text)))
}

fn number<Q>(text: &str, of: impl Fn(f64) -> Result<Q, Refusal>) -> Result<Option<Q>, Refusal> {
    if text.is_empty() {
        return Ok(None);
    }
    let value: f64 = text.parse().map_err(|_| refuse!("cell_no_number", found = typed(text)))?;
    of(value).map(Some)
}

fn read_line(cells: &StringRecord) -> Result<ArchivedSensed, Refusal> {
    let cell = |n: usize| cells.get(n).unwrap_or_default();
    let at: Timestamp = cell(2).parse().map_err(|_| refuse!("cell_no_time", found = typed(cell(2))))?;
    let read = Sensed {
        at,
        ph: number(cell(3), Ph::new)?,
        ec: number(cell(4), Conductivity::new)?,
        temperature: number(cell(5), Celsius::new)?,
        litres: number(cell(6), Litres::new)?,
    };
    Ok(ArchivedSensed { system: id(cell(0))?, delivery: id(cell(1))?, read })
}

/// Readings that are handed on at once.
const AT_ONCE: usize = 2000;

/// Reads them all, some at a time, each time with the number of the line that the first of them stands in, until `each` has
/// enough or a line cannot be read.
pub fn every(file: impl Read, mut each: impl FnMut(u64, Result<Vec<ArchivedSensed>, Refusal>) -> bool) {
    let mut reader = ReaderBuilder::new().has_headers(false).from_reader(file);
    let mut record = StringRecord::new();
    let mut some = Vec::with_capacity(AT_ONCE);
    let mut line = 1;
    let mut first = 2;
    loop {
        match reader.read_record(&mut record) {
            Ok(true) if line == 1 => {
                if record != HEAD[..] {
                    each(line, Err(refuse!("archive_unreadable", why = typed("another head"))));
                    return;
                }
            }
            Ok(true) => match read_line(&record) {
                Ok(read) => some.push(read),
                Err(refusal) => {
                    each(line, Err(refusal));
                    return;
                }
            },
            Ok(false) => {
                if !some.is_empty() {
                    each(first, Ok(some));
                }
                return;
            }
            Err(error) => {
                each(line, Err(refuse!("archive_unreadable", why = typed(&error.to_string()))));
                return;
            }
        }
        line += 1;
        if some.len() == AT_ONCE {
            if !each(first, Ok(std::mem::take(&mut some))) {
                return;
            }
            first = line;
        }
    }
}
