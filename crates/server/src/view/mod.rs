//! What the API answers with: the shapes, and how each is made from the book. This is where messages
//! become sentences, for the reader of the answer.

mod ahead;
mod card;
mod cases;
mod compare;
mod cover;
mod edits;
mod fit;
mod labels;
mod log;
mod outing;
mod round;
mod story;
mod system;
mod trends;
mod week;

pub use ahead::{AheadView, ahead_view};
pub use card::{CardView, PlaceView, children_at, people_for, people_of, places};
pub use compare::{CompareView, Side, SideChoice, choices as compare_choices, compare_view, system_of};
pub use cover::{CoverView, cover_view};
pub use edits::{EditView, edit_view};
pub use fit::{Fit, fitting};
pub(crate) use labels::path as qr_path;
pub use labels::{LabelView, labels};
pub use log::{DraftView, EntryView, LogAcross, LogPage, draft_view, entry_view, lines_of, log_page, piece_of};
pub use outing::{OutingView, outing};
pub use round::{Round, round};
pub use story::{Chapter, Elsewhere, Stood, StoryView, story_view};
pub use system::{PaperView, SystemView, paper_view, system_view};
pub use trends::{TrendsView, trends_view};
pub use week::{WeekView, remembered_from, systems_of, today_at, week_view};

use crate::Problem;
use crate::book::{Pages, SystemFile};
use mopsel_core::fact::Actor;
use mopsel_core::words::Speaker;

/// A speaker for the reader of a system's words.
///
/// # Errors
/// Not found.
pub fn speaker(pages: &Pages, actor: &Actor, file: &SystemFile) -> Result<Speaker, Problem> {
    Ok(Speaker::new(pages.reader(actor, file, pages.place_of(file)?)))
}
