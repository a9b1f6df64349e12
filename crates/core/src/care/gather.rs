//! The looks and cleanings of a system gather on one visit, so that a person comes once and not four times a week.
//!
//! Two properties hold: **the end of a margin stays where it is**, as for what a person moves; and nothing goes further
//! than two days from its own day. Done together once, they are due together from then on.

use super::routine::{Due, interval};
use crate::calendar::{add_days, after, day, end_of};
use crate::figures::FIGURES;
use crate::message::Param;
use crate::say;
use crate::situation::Situation;
use crate::system::Check;
use crate::verdict::Rank;
use jiff::SignedDuration;
use jiff::civil::Date;

/// Days to either side of its own within which a check is done along.
pub(super) fn within() -> i64 {
    FIGURES.gather.within.round() as i64
}

/// Whether a check is done along with others: a look or a cleaning of the week, which nobody moved by hand.
pub(super) fn gathers(check: Check, s: &Situation<'_>) -> bool {
    let weekly = interval(check, s).is_some_and(|every| f64::from(every) >= FIGURES.gather.weekly);
    weekly && check.facts().gathers
}

/// The same checks, those that gather each on the day of their visit.
pub(super) fn gathered(mut dues: Vec<Due>, s: &Situation<'_>) -> Vec<Due> {
    let changes: Vec<Date> = dues.iter().filter(|due| due.check == Check::Change).map(|due| due.on).collect();
    let free = |due: &Due| {
        due.rank == Rank::Routine && gathers(due.check, s) && !s.known.done.moved.contains_key(due.check.code())
    };
    let mut left: Vec<usize> = (0..dues.len()).filter(|n| free(&dues[*n])).collect();
    while let Some(first) = left.iter().map(|n| dues[*n].on).min() {
        let days: Vec<(Date, Date)> = left.iter().map(|n| (dues[*n].on, last_day(&dues[*n], s))).collect();
        let on = day_of_visit(first, &days, &changes, s);
        let (together, later) = left.into_iter().partition(|n| dues[*n].on <= add_days(on, within()));
        left = later;
        for n in together {
            // What is late stays so.
            let free = dues[n].on != on && dues[n].on >= s.today();
            if free && lies_behind(dues[n].check, on, s) && not_asked_again(&dues[n], on, s) {
                dues[n] = moved(&dues[n], on, s);
            }
        }
    }
    dues
}

/// Whether most of an interval lies behind: a closure may have brought it forward already.
fn lies_behind(check: Check, on: Date, s: &Situation<'_>) -> bool {
    let every = interval(check, s).map_or(0, i64::from);
    let done = s.known.done.of(check).map(|at| s.date(at));
    done.is_none_or(|done| add_days(done, every - within()) <= on)
}

/// Whether it is not asked for again until after its own day: before a closure what was done two days early would be.
fn not_asked_again(due: &Due, on: Date, s: &Situation<'_>) -> bool {
    let every = interval(due.check, s).map_or(0, i64::from);
    s.calendar.settle(add_days(on, every), due.slack_days) > due.on
}

/// The last day within a margin.
fn last_day(due: &Due, s: &Situation<'_>) -> Date {
    s.date(after(due.from, due.slack_days) - SignedDuration::from_hours(2))
}

/// The day on which the most can be done together: that of a change, where one falls near, else the first of equals. What
/// is late or due today is done today, or where that is closed on the next open day.
fn day_of_visit(first: Date, days: &[(Date, Date)], changes: &[Date], s: &Situation<'_>) -> Date {
    if first <= s.today() {
        return s.calendar.open_on_or_after(s.today());
    }
    let allows = |on: &Date| {
        s.calendar.is_open(*on)
            && days.iter().all(|(own, last)| own >= on || add_days(*own, within()) < *on || last >= on)
    };
    let many = |on: &Date| days.iter().filter(|(own, _)| *own <= add_days(*on, within())).count();
    // A change is the longest visit of all, and sees to roots and stone by itself.
    let earlier = changes.iter().filter(|on| (add_days(first, -within())..first).contains(on) && **on >= s.today());
    if let Some(on) = earlier.copied().max() {
        return on;
    }
    let could = (0..=within()).map(|n| add_days(first, n)).filter(allows);
    could.max_by_key(|on| (many(on), changes.contains(on), std::cmp::Reverse(*on))).unwrap_or(first)
}

fn moved(due: &Due, on: Date, s: &Situation<'_>) -> Due {
    let by = f64::from((on - due.on).get_days());
    let said = say!("gather.moved", own = day(due.on, s.today()));
    Due {
        on,
        from: end_of(on, s.now.time_zone()),
        slack_days: (due.slack_days - by).max(0.0),
        reason: say!("sentences", all = Param::Sentences(vec![due.reason.clone(), said])),
        ..due.clone()
    }
}
