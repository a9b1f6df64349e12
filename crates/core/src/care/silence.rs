//! After a long silence nothing single is late: one look says how it stands, and on lists what that look answers waits.

use super::Task;
use crate::calendar::{day, days_between};
use crate::fact::Subject;
use crate::forecast::minimum_reached;
use crate::message::days;
use crate::say;
use crate::situation::Situation;
use crate::system::Check;
use crate::verdict::Rank;

/// The code of the one task after a long silence.
pub(super) const CATCH_UP: &str = "catch_up";

/// Days without any entry after which nothing single is late: someone has to look how it stands.
const SILENT_DAYS: f64 = 21.0;

/// After a long silence one task stands before all others, with what is likely by the estimate.
pub(super) fn catch_up(tasks: &[Task], s: &Situation<'_>) -> Option<Task> {
    let last = s.known.done.last_at?;
    let ago = days_between(last, s.now.timestamp());
    if ago < SILENT_DAYS {
        return None;
    }
    let likely = match (s.water().litres(), minimum_reached(s)) {
        (None, _) => say!("catch_up.unread"),
        (Some(_), Some(minimum)) if minimum.at < s.now.timestamp() => {
            say!("catch_up.below", since = day(s.date(minimum.at), s.today()))
        }
        (Some(about), _) => say!("catch_up.level", litres = about.value),
    };
    let reason = say!("catch_up.reason", ago = days(ago.floor()), likely = likely);
    let first = tasks.iter().map(|task| task.margin_days).fold(0.0, f64::min);
    let (name, doing) = (say!("catch_up.name"), say!("catch_up.doing"));
    let task = Task::new(CATCH_UP, name, doing, reason, s.today(), s.now.timestamp(), s);
    Some(task.slack(first - A_MOMENT, s).about(Subject::Level).ranked(Rank::Hours))
}

/// Before all others, by a moment.
const A_MOMENT: f64 = 0.01;

/// Whether one look after a long silence answers it, or says when it is due anew: routine, save what is a matter of hours,
/// and the change, for old water does not wait to be looked at.
pub(super) fn answered_by_a_look(task: &Task) -> bool {
    let routine = task.rule.is_some() || task.check.is_some_and(|check| check != Check::Change);
    routine && task.rank > Rank::Hours
}
