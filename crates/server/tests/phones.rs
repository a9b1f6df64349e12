//! Phones that were without a connection at one tank: all that was saved on them arrives once, dated when it was done, in
//! whichever order it comes, doubled, and with the server killed in between.

use crate::common::{Running, soak};
use jiff::{Timestamp, ToSpan};
use mopsel_store::Store;
use serde_json::{Value, json};
use std::collections::BTreeMap;
use uuid::Uuid;

/// What one phone still has to send: in its own order, one after the other.
type Queue = Vec<(Uuid, Timestamp, Value)>;

/// The queues of two phones, saved over the last hours: visits with a level, a pH or nothing but a look.
fn two_phones(dice: &mut fastrand::Rng, now: Timestamp, person: &str) -> [Queue; 2] {
    std::array::from_fn(|_| {
        let mut at = now - 300.minutes();
        (0..dice.usize(1..5))
            .map(|_| {
                at += dice.i64(1..70).minutes();
                let body = match dice.u8(0..3) {
                    0 => json!({ "kind": "visit", "level": { "by": "height", "height_mm": dice.u32(40..120) } }),
                    1 => {
                        json!({ "kind": "visit", "ph": { "by": "meter", "value": f64::from(dice.u32(52..70)) / 10.0 } })
                    }
                    _ => json!({ "kind": "visit", "all_fine": true }),
                };
                let id = Uuid::now_v7();
                (id, at, json!({ "id": id, "by": person, "body": body, "saved": at.to_string() }))
            })
            .collect()
    })
}

#[actix_web::test]
async fn two_phones_at_one_tank_lose_nothing_and_change_no_date() {
    let mut server = Running::empty();
    let (person, system) = server.first_system().await;
    let (path, person) = (format!("/api/systems/{system}/entries"), person.to_string());
    let mut all: BTreeMap<Uuid, Timestamp> = BTreeMap::new();
    for seed in soak::seeds("two phones", 100, 8) {
        let mut dice = fastrand::Rng::with_seed(seed);
        let mut queues = two_phones(&mut dice, Timestamp::now(), &person);
        queues.iter_mut().for_each(|queue| queue.reverse());
        while queues.iter().any(|queue| !queue.is_empty()) {
            let which = dice.usize(0..2);
            let Some((id, at, entry)) = queues[which].last().cloned() else { continue };
            if dice.u8(0..12) == 0 {
                // What was on its way when the power went is sent again.
                server = server.killed_and_restarted();
            }
            let (status, said) = server.told(&path, &entry).await;
            assert!(status == 201 || status == 200, "seed {seed}: {status} {said}");
            all.insert(id, at);
            // An answer that was lost: the phone sends it once more, or goes on.
            if dice.u8(0..4) > 0 {
                queues[which].pop();
            }
        }
    }
    let mut found: Vec<(Timestamp, Uuid)> = Vec::new();
    let mut mark = String::new();
    loop {
        let page = server.get(&format!("/api/systems/{system}/log?limit=100{mark}")).await;
        for thread in page["threads"].as_array().unwrap() {
            let head = &thread["head"];
            let at = head["at"].as_str().unwrap().parse().unwrap();
            found.push((at, head["id"].as_str().unwrap().parse().unwrap()));
        }
        match page["next"].as_str() {
            Some(next) => mark = format!("&before={next}"),
            None => break,
        }
    }
    assert_eq!(found.len(), all.len(), "each once");
    for (at, id) in &found {
        let saved = all[id];
        assert_eq!(at.as_millisecond(), saved.as_millisecond(), "{id} is dated when it was done");
    }
    assert!(found.is_sorted_by(|a, b| a.0 >= b.0), "the log stands in the order of what was done");
    let store = Store::open(&server.file).await.unwrap();
    let (kept, folded) = (store.kept(system).await.unwrap(), store.folded(system).await.unwrap());
    assert_eq!(kept.as_ref(), Some(&folded), "the estimate follows the order in which it was done");
    println!("{} entries of two phones, each once and dated when it was done", found.len());
}
