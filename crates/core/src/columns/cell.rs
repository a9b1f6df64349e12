//! One cell that holds a number or a tick.

use super::DecimalMark;
use crate::message::typed;
use crate::refusal::Refusal;
use crate::refuse;

/// What loggers and people write where nothing was read.
const NOTHING: [&str; 9] = ["", "nan", "n/a", "na", "-", "--", "---", "null", "none"];
/// What stands for a tick, and for none.
const YES: [&str; 9] = ["x", "✓", "✔", "yes", "y", "1", "true", "done", "ok"];
const NO: [&str; 4] = ["no", "n", "0", "false"];

/// Whether nothing was read.
pub(super) fn is_nothing(text: &str) -> bool {
    text.len() <= 4 && NOTHING.contains(&text.to_ascii_lowercase().as_str())
}

fn shown(text: &str) -> crate::message::Param {
    typed(&text.chars().take(60).collect::<String>())
}

/// A number as it stands in a file; nothing where nothing was read.
///
/// # Errors
/// A refusal of a formula, of a comma and a point in one number, of the other decimal mark, of what is no number.
pub(super) fn number(text: &str, mark: DecimalMark) -> Result<Option<f64>, Refusal> {
    let text = text.trim();
    if is_nothing(text) {
        return Ok(None);
    }
    if text.starts_with(['=', '@']) {
        return Err(refuse!("cell_formula", found = shown(text)));
    }
    let (mut points, mut commas, mut others) = (0, 0, 0);
    for byte in text.bytes() {
        match byte {
            b'.' => points += 1,
            b',' => commas += 1,
            b'0'..=b'9' | b'+' | b'-' | b'e' | b'E' => {}
            _ => others += 1,
        }
    }
    if others > 0 {
        return Err(refuse!("cell_no_number", found = shown(text)));
    }
    if points + commas > 1 {
        return Err(refuse!("cell_comma_and_point", found = shown(text)));
    }
    let value = match (mark, commas, points) {
        (DecimalMark::Point, 1, _) => return Err(refuse!("cell_comma", found = shown(text))),
        (DecimalMark::Comma, _, 1) => return Err(refuse!("cell_point", found = shown(text))),
        (DecimalMark::Comma, 1, _) => text.replace(',', ".").parse::<f64>(),
        _ => text.parse::<f64>(),
    };
    match value {
        Ok(value) if value.is_finite() => Ok(Some(value)),
        _ => Err(refuse!("cell_no_number", found = shown(text))),
    }
}

/// Whether something was ticked.
///
/// # Errors
/// A refusal of what is neither a tick nor none.
pub(super) fn ticked(text: &str) -> Result<bool, Refusal> {
    let text = text.trim().to_lowercase();
    if YES.contains(&text.as_str()) {
        return Ok(true);
    }
    if is_nothing(&text) || NO.contains(&text.as_str()) {
        return Ok(false);
    }
    Err(refuse!("cell_no_tick", found = shown(&text)))
}
