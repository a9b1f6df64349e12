//! What is told by mail: once, in time, and at night only a danger to people.

use crate::common::{at, zone};
use jiff::civil::time;
use jiff::{ToSpan, Zoned};
use mopsel_core::remind::{Asking, ReminderWish};
use mopsel_core::verdict::Rank;
use std::collections::BTreeSet;
use uuid::Uuid;

fn wish() -> ReminderWish {
    ReminderWish {
        address: "wren@garden.example".to_owned(),
        digest: Some(time(7, 0, 0, 0)),
        urgent: true,
        quiet_from: time(21, 0, 0, 0),
        quiet_to: time(6, 30, 0, 0),
    }
}

fn asks(code: &str, rank: Rank, hand: bool) -> Asking<'_> {
    Asking { system: Uuid::from_u128(1), code, rank, hand }
}

fn on(when: &str) -> Zoned {
    at(when).to_zoned(zone())
}

#[test]
fn a_day_has_one_digest_in_time_and_none_where_nothing_is_due() {
    let (wish, mut told) = (wish(), BTreeSet::new());
    let list = [asks("level", Rank::Routine, false)];
    assert!(wish.letter(&on("2027-03-09 06:59"), &list, &told).is_empty());
    assert!(wish.letter(&on("2027-03-09 07:00"), &[], &told).is_empty(), "nothing due, nothing told");
    let first = wish.letter(&on("2027-03-09 07:20"), &list, &told);
    assert!(first.digest && first.urgent.is_empty());
    told.extend(first.told);
    assert!(wish.letter(&on("2027-03-09 07:21"), &list, &told).is_empty());
    assert!(wish.letter(&on("2027-03-10 07:00"), &list, &told).digest, "the next day has its own");
    assert!(!wish.letter(&on("2027-03-10 11:01"), &list, &told).digest, "a list of the morning is of no use at noon");
}

#[test]
fn what_cannot_wait_is_told_once_and_waits_for_the_morning_unless_people_are_in_danger() {
    let wish = ReminderWish { digest: None, ..wish() };
    let list = [asks("below", Rank::Hours, true), asks("leak", Rank::People, true), asks("wipe", Rank::Routine, false)];
    let night = wish.letter(&on("2027-03-09 23:30"), &list, &BTreeSet::new());
    assert_eq!(night.urgent, [1], "at night only the danger to people");
    let told: BTreeSet<String> = night.told.into_iter().collect();
    let morning = wish.letter(&on("2027-03-10 06:30"), &list, &told);
    assert_eq!(morning.urgent, [0]);
    let told: BTreeSet<String> = told.into_iter().chain(morning.told).collect();
    assert!(wish.letter(&on("2027-03-10 12:00"), &list, &told).is_empty());
    // What is over and comes again is told again, the same day too.
    let mended = wish.letter(&on("2027-03-10 13:00"), &list[2..], &told);
    assert_eq!(mended.over.len(), 2);
    let told: BTreeSet<String> = told.into_iter().filter(|key| !mended.over.contains(key)).collect();
    assert_eq!(wish.letter(&on("2027-03-10 14:00"), &list, &told).urgent, [0, 1]);
}

#[test]
fn a_task_that_waits_for_weeks_is_told_once_and_once_more_where_it_becomes_a_danger() {
    let wish = ReminderWish { digest: None, ..wish() };
    let (mut now, mut told, mut words) = (on("2027-03-09 12:00"), BTreeSet::new(), 0);
    for day in 0..40 {
        let rank = if day < 20 { Rank::Routine } else { Rank::Hours };
        // A task goes in and out of what costs plants as the estimate moves; it stays on the list.
        let letter = wish.letter(&now, &[asks("level", rank, day % 3 > 0)], &told);
        words += letter.urgent.len();
        assert_eq!(letter.over, Vec::<String>::new());
        told.extend(letter.told);
        now = now.checked_add(1.day()).unwrap();
    }
    assert_eq!(words, 2);
}

#[test]
fn what_stood_in_the_digest_is_not_told_once_more() {
    let wish = wish();
    let list = [asks("change", Rank::Routine, true)];
    let morning = wish.letter(&on("2027-03-09 07:00"), &list, &BTreeSet::new());
    assert!(morning.digest && morning.urgent == [0], "one letter says both");
    let told: BTreeSet<String> = morning.told.into_iter().collect();
    assert!(wish.letter(&on("2027-03-09 09:00"), &list, &told).is_empty());
    // Whoever wants no words by themselves is not sent one for what is new after the digest.
    let calm = ReminderWish { urgent: false, ..wish };
    assert!(calm.letter(&on("2027-03-09 13:00"), &list, &BTreeSet::new()).is_empty());
}

#[test]
fn a_day_on_which_the_clocks_turn_has_its_digest_too() {
    let list = [asks("level", Rank::Routine, false)];
    let wish = ReminderWish { digest: Some(time(1, 30, 0, 0)), ..wish() };
    // In the night to 28 March the clock skips from one to two.
    let (mut now, end) = (on("2027-03-27 12:00"), on("2027-03-29 12:00"));
    let (mut told, mut digests) = (BTreeSet::new(), 0);
    while now < end {
        let letter = wish.letter(&now, &list, &told);
        digests += u32::from(letter.digest);
        told.extend(letter.told);
        now = now.checked_add(1.minute()).unwrap();
    }
    assert_eq!(digests, 2);
}

#[test]
fn an_address_that_cannot_be_one_is_refused() {
    let with = |address: &str| ReminderWish { address: address.to_owned(), ..wish() }.check();
    assert!(with("wren@garden.example").is_ok());
    for wrong in ["", "wren", "@garden.example", "wren@", "a b@c.de", "a@b@c", "a@b.c\r\nBcc: x@y.zz", "<a@b.cc>"] {
        assert_eq!(with(wrong).unwrap_err().code, "mail_address", "{wrong}");
    }
}
