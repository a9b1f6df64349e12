//! Labels for vessels: each a QR code (ISO/IEC 18004) that opens its system's visit.

use crate::Problem;
use crate::book::{Pages, SystemFile};
use mopsel_core::fact::Actor;
use mopsel_core::refuse;
use mopsel_core::words::Speaker;
use qrcode::{Color, EcLevel, QrCode};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// A label.
#[derive(Debug, Serialize, ToSchema)]
pub struct LabelView {
    /// Of which system.
    pub system: Uuid,
    /// What it is called.
    pub name: String,
    /// Its kind, in words.
    pub kind_name: String,
    /// Its place.
    pub place_name: String,
    /// What the code opens.
    pub opens: String,
    /// Modules along a side, without the quiet zone of four that belongs around them.
    pub size: usize,
    /// The dark modules as the path of a drawing, one unit a module.
    pub path: String,
}

/// The labels of some places, or of all, for an address under which they are opened.
///
/// # Errors
/// Not found; or a code that cannot be drawn, for an address that is too long.
pub fn labels(pages: &Pages, places: &[Uuid], origin: &str, actor: &Actor) -> Result<Vec<LabelView>, Problem> {
    if let Some(missing) = places.iter().find(|id| !pages.places.contains_key(id)) {
        return Err(Problem::not_found(&format!("place with the id {missing}")));
    }
    let wanted = |file: &&SystemFile| {
        let alive = pages.places.get(&file.place).is_some_and(|place| !place.card.archived);
        alive && !file.card.archived && (places.is_empty() || places.contains(&file.place))
    };
    let label = |file: &SystemFile| {
        let place = pages.place_of(file)?;
        let speaker = Speaker::new(pages.reader(actor, file, place));
        let opens = format!("{origin}/system/{}/visit", file.card.id);
        // A quarter of the code may be wet, torn or dirty.
        let code = QrCode::with_error_correction_level(&opens, EcLevel::Q)
            .map_err(|_| Problem::from(refuse!("label_address").at("at")))?;
        Ok(LabelView {
            system: file.card.id,
            name: file.system.name.as_str().to_owned(),
            kind_name: speaker.say(&file.system.kind.name()),
            place_name: place.place.name.as_str().to_owned(),
            opens,
            size: code.width(),
            path: path(&code),
        })
    };
    let mut all: Vec<LabelView> = pages.every_system().filter(wanted).map(label).collect::<Result<_, Problem>>()?;
    all.sort_by(|a, b| (&a.place_name, &a.name).cmp(&(&b.place_name, &b.name)));
    Ok(all)
}

/// The dark modules, a stroke for each run along a row.
pub(crate) fn path(code: &QrCode) -> String {
    let (size, colours) = (code.width(), code.to_colors());
    let mut path = String::new();
    for (y, row) in colours.chunks(size).enumerate() {
        let mut x = 0;
        while x < size {
            let run = row[x..].iter().take_while(|module| **module == Color::Dark).count();
            if run > 0 {
                path.push_str(&format!("M{x} {y}h{run}v1h-{run}z"));
            }
            x += run.max(1);
        }
    }
    path
}
