//! What the fields of cards are called where their edits are told, and how their values are read.

use crate::message::{Message, Param, Unit};
use std::borrow::Cow;

/// How a value is said.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reads {
    /// As somebody typed it.
    AsTyped,
    /// Yes or no.
    YesNo,
    /// A number of something.
    Number(Unit),
    /// A low and a high end of something.
    Band(Unit),
    /// One of a list that can be chosen from.
    OneOf(&'static str),
    /// A kind of system.
    Kind,
    /// Not said in a line: that it is another is all.
    Whole,
}

/// A value of a field, as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub enum Kept {
    /// A number.
    Number(f64),
    /// A low and a high end.
    Band(f64, f64),
    /// What was typed, or a code.
    Text(String),
    /// Yes or no.
    Flag(bool),
}

/// A field of a card.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct CardField {
    /// Which, with a dot before what stands in a part of the card.
    pub path: &'static str,
    /// How its value is said.
    pub reads: Reads,
}

use Reads::{AsTyped, Band, Kind, Number, OneOf, Whole, YesNo};

const fn field(path: &'static str, reads: Reads) -> CardField {
    CardField { path, reads }
}

/// The fields of all cards; what is called the same is the same.
pub const CARD_FIELDS: &[CardField] = &[
    field("name", AsTyped),
    field("crop", AsTyped),
    field("zone", AsTyped),
    field("open_days", Whole),
    field("closures", Whole),
    field("units", OneOf("unit_system")),
    field("containers", Whole),
    field("tools", Whole),
    field("role", OneOf("role")),
    field("ec_scale", OneOf("ec_scale")),
    field("lifts_kg", Number(Unit::Kilograms)),
    field("feed", Whole),
    field("away", Whole),
    field("scale", OneOf("ec_scale")),
    field("compensated", YesNo),
    field("kind", Kind),
    field("traits.circulates", YesNo),
    field("traits.aerated", YesNo),
    field("traits.channels", YesNo),
    field("traits.sprayers", YesNo),
    field("traits.mesh_filters", YesNo),
    field("traits.top_off_reservoir", YesNo),
    field("traits.to_waste", YesNo),
    field("traits.controller", YesNo),
    field("traits.light", YesNo),
    field("traits.opaque", YesNo),
    field("traits.drain_back", Number(Unit::Litres)),
    field("traits.heel", Number(Unit::Litres)),
    field("reservoir.shape", Whole),
    field("reservoir.minimum", Number(Unit::Litres)),
    field("reservoir.working", Number(Unit::Litres)),
    field("reservoir.maximum", Number(Unit::Litres)),
    field("ports", Whole),
    field("measuring", OneOf("measuring")),
    field("meter", Whole),
    field("refill", OneOf("refill")),
    field("change_days", Number(Unit::Days)),
    field("source_ec", Number(Unit::MilliSiemens)),
    field("methods.top_off", OneOf("top_off_method")),
    field("methods.ph", OneOf("ph_method")),
    field("methods.root_rot", OneOf("root_rot_method")),
    field("methods.ripening", OneOf("ripening")),
    field("methods.lamp", OneOf("lamp")),
    field("methods.flower_light", OneOf("flower_light")),
    field("methods.change", OneOf("change_method")),
    field("methods.recipe", Whole),
    field("methods.source", OneOf("source_water")),
    field("methods.source_ph", Number(Unit::Ph)),
    field("methods.alkalinity", Number(Unit::Plain)),
    field("ec_band", Band(Unit::MilliSiemens)),
    field("ph_band", Band(Unit::Ph)),
    field("intervals", Whole),
    field("slacks", Whole),
    field("rules", Whole),
    field("equipment", Whole),
    field("drum", Whole),
    field("drum_of", Whole),
    field("drum_share", Whole),
    field("feeding", Whole),
    field("turn", Whole),
    field("since", AsTyped),
    field("note", AsTyped),
    field("group", OneOf("crop_group")),
    field("stage", OneOf("stage")),
    field("sown_on", AsTyped),
    field("planted_on", AsTyped),
    field("came", Whole),
];

impl CardField {
    /// The field at a path; what has no name of its own is called “something else”.
    #[must_use]
    pub fn at(path: &str) -> Self {
        CARD_FIELDS.iter().find(|field| field.path == path).copied().unwrap_or(field("else", Whole))
    }

    /// What it is called.
    #[must_use]
    pub fn name(self) -> Message {
        let code = self.path.replace('.', "_");
        Message { code: Cow::Owned(format!("card_field.{code}")), params: Vec::new() }
    }

    /// A value of it; `None` where it is not said in a line.
    #[must_use]
    pub fn say(self, value: Option<&Kept>) -> Option<Message> {
        let said = |value: Param| Message::new("sentences").with("all", value);
        Some(match (self.reads, value) {
            (Whole, _) => return None,
            (_, None) => Message::new("card_field.nothing"),
            (YesNo, Some(Kept::Flag(true))) => Message::new("card_field.yes"),
            (YesNo, Some(Kept::Flag(false))) => Message::new("card_field.no"),
            (Number(unit), Some(Kept::Number(value))) => said(Param::Number(*value, unit)),
            (Band(unit), Some(Kept::Band(low, high))) => said(Param::Band(*low, *high, unit)),
            (OneOf(list), Some(Kept::Text(code))) => said(Param::Term(Cow::Owned(format!("choice.{list}.{code}")))),
            (Kind, Some(Kept::Text(code))) => {
                Message { code: Cow::Owned(format!("kind.{code}.name")), params: Vec::new() }
            }
            (AsTyped, Some(Kept::Text(text))) => said(Param::Text(text.clone())),
            _ => return None,
        })
    }
}
