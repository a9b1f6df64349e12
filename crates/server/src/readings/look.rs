//! What a file of readings is taken for, looked at by its beginning.

use super::{beginning, systems};
use crate::Problem;
use crate::book::Pages;
use jiff::Timestamp;
use mopsel_core::columns::{
    self, Column, ColumnIs, ColumnUnit, Fault, How, Known, Line, LineReader, MOST_COLUMNS, Question, head_line,
    separator, unknown_names,
};
use mopsel_core::fact::Actor;
use mopsel_core::message::count;
use mopsel_core::refuse;
use mopsel_core::words::{Reader, RefusalSaid, Speaker};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// A line as it is understood.
#[derive(Debug, Serialize, ToSchema)]
pub struct RowView {
    /// Its cells.
    pub cells: Vec<String>,
    /// What is wrong with it; none where it can be taken.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub why: Option<RefusalSaid>,
    /// In which column, from 0.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub column: Option<usize>,
    /// When it was, as it is understood: in UTC.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = DateTime)]
    pub at: Option<Timestamp>,
    /// At which system.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub system: Option<Uuid>,
}

/// A system that a file can be about.
#[derive(Debug, Serialize, ToSchema)]
pub struct MeantView {
    /// Its id.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// The clock of its place.
    pub zone: String,
}

/// What a column can be.
#[derive(Debug, Serialize, ToSchema)]
pub struct ColumnKind {
    /// What.
    pub is: ColumnIs,
    /// The units that it can be in; none where it has none.
    pub units: Vec<ColumnUnit>,
    /// Whether it holds something of a system, and no time or name.
    pub reads: bool,
    /// Whether a logger cannot say it.
    pub only_people: bool,
}

/// What a file is taken for.
#[derive(Debug, Serialize, ToSchema)]
pub struct LookedView {
    /// How it is read.
    pub how: How,
    /// What is not plain.
    pub asks: Vec<Question<String>>,
    /// What stands in the head.
    pub head: Vec<String>,
    /// The first lines.
    pub rows: Vec<RowView>,
    /// Names in it that are no system's.
    pub unknown: Vec<String>,
    /// The systems that it can be about.
    pub systems: Vec<MeantView>,
    /// What a column can be.
    pub kinds: Vec<ColumnKind>,
    /// Why it cannot be read so, if it cannot.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub why: Option<RefusalSaid>,
}

/// Lines by which a file is guessed.
const LOOKED_AT: usize = 200;
/// Lines that are shown.
const SHOWN: usize = 8;

/// What a file is taken for by its beginning, and how its first lines are understood; `cut` where it goes on behind it.
///
/// # Errors
/// A refusal of what is no file of readings.
pub fn looked(
    (pages, actor): (&Pages, &Actor),
    reader: Reader,
    (bytes, cut): (&[u8], bool),
    wanted: Option<How>,
    at: Timestamp,
) -> Result<LookedView, Problem> {
    let speaker = Speaker::new(reader);
    let ends = if cut { bytes.iter().rposition(|byte| *byte == b'\n').unwrap_or(bytes.len()) } else { bytes.len() };
    let bytes = &bytes[..ends];
    let text = std::str::from_utf8(bytes).map_err(|_| refuse!("file_no_text"))?;
    let known = systems(pages, actor);
    let between = wanted.as_ref().map_or_else(|| separator(text), |how| how.separator);
    let mut rows = beginning(bytes, between, LOOKED_AT)?;
    let head_at = wanted.as_ref().map_or_else(|| head_line(&rows), |how| how.head).max(1) as usize;
    if rows.len() < head_at {
        return Err(refuse!("file_empty").into());
    }
    let rows = rows.split_off(head_at - 1);
    let Some((head, rows)) = rows.split_first() else { return Err(refuse!("file_empty").into()) };
    if head.len() > MOST_COLUMNS {
        return Err(refuse!("columns_too_many", found = count(head.len()), most = count(MOST_COLUMNS)).into());
    }
    let cells: Vec<Vec<&str>> = rows.iter().map(|row| row.iter().map(String::as_str).collect()).collect();
    let headers: Vec<&str> = head.iter().map(String::as_str).collect();
    let guess = columns::guess(between, &headers, &cells, &known);
    let guessed = wanted.is_none();
    let mut how = wanted.unwrap_or(How { head: head_at as u32, ..guess.how });
    how.columns.resize(head.len(), Column::of(ColumnIs::LeftOut));
    let unknown = unknown_names(&how, &cells, &known);
    let (shown, why) = match LineReader::new(&how, &known) {
        Ok(mut reader) => {
            (cells.iter().take(SHOWN).map(|row| row_view(&mut reader, row, &known, at, &speaker)).collect(), None)
        }
        Err(refusal) => (cells.iter().take(SHOWN).map(|row| plain_row(row)).collect(), Some(speaker.refuse(&refusal))),
    };
    Ok(LookedView {
        asks: if guessed {
            guess.asks.into_iter().map(|ask| ask.map(&|said| speaker.say(&said))).collect()
        } else {
            vec![]
        },
        how,
        head: head.clone(),
        rows: shown,
        unknown,
        systems: known
            .into_iter()
            .map(|known| MeantView {
                id: known.id,
                zone: known.zone.iana_name().unwrap_or("UTC").to_owned(),
                name: known.name,
            })
            .collect(),
        kinds: ColumnIs::ALL
            .map(|is| ColumnKind { is, units: is.units().to_vec(), reads: is.reads(), only_people: is.only_people() })
            .into(),
        why,
    })
}

fn plain_row(cells: &[&str]) -> RowView {
    let cells = cells.iter().map(|cell| (*cell).to_owned()).collect();
    RowView { cells, why: None, column: None, at: None, system: None }
}

fn row_view(reader: &mut LineReader<'_>, cells: &[&str], known: &[Known], at: Timestamp, speaker: &Speaker) -> RowView {
    let mut lines: Vec<Line> = Vec::new();
    let row = plain_row(cells);
    match reader.read(cells, at, &mut lines) {
        Ok(()) => {
            let first = lines.first();
            let system = first.and_then(|line| known.get(line.system)).map(|known| known.id);
            RowView { at: first.map(|line| line.read.at), system, ..row }
        }
        Err(faults) => {
            let Some(Fault { column, refusal }) = faults.into_iter().next() else { return row };
            RowView { column, why: Some(speaker.refuse(&refusal)), ..row }
        }
    }
}
