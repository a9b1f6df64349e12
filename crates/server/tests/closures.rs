//! Closures read from calendar files, and the cover plan, over the API.

use crate::common::Running;
use serde_json::{Value, json};
use std::time::{Duration, Instant};

const HEAD: &str = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Pellworth//Terms//EN\r\n";

fn calendar(events: &str) -> String {
    format!("{HEAD}{}END:VCALENDAR\r\n", events.replace('\n', "\r\n"))
}

fn event(lines: &str) -> String {
    format!("BEGIN:VEVENT\nUID:1@pellworth\nDTSTAMP:20270101T000000Z\n{lines}\nEND:VEVENT\n")
}

async fn read(server: &Running, text: String) -> (u16, Value) {
    let address = format!("{}/api/closures/read", server.base);
    let request = server.client.post(address).header("Content-Type", "text/calendar").body(text);
    let answer = request.send().await.unwrap();
    (answer.status().as_u16(), answer.json().await.unwrap())
}

fn spans(read: &Value) -> Vec<(String, String, String)> {
    let text = |value: &Value| value.as_str().unwrap_or_default().to_owned();
    let closures = read["closures"].as_array().unwrap();
    closures.iter().map(|c| (text(&c["name"]), text(&c["from"]), text(&c["to"]))).collect()
}

#[actix_web::test]
async fn whole_days_and_their_repetitions_are_closures() {
    let server = Running::demo();
    let all = [
        event("SUMMARY:Easter break\nDTSTART;VALUE=DATE:20270326\nDTEND;VALUE=DATE:20270412"),
        event("SUMMARY:May day\nDTSTART;VALUE=DATE:20270503\nRRULE:FREQ=YEARLY;COUNT=2"),
        event("SUMMARY:Inset day\nDTSTART;VALUE=DATE:20270319\nRRULE:FREQ=WEEKLY;COUNT=3\nEXDATE;VALUE=DATE:20270326"),
        event("SUMMARY:Last year\nDTSTART;VALUE=DATE:20260503"),
        event("SUMMARY:Folded na\n me\\, with a comma\nDTSTART;VALUE=DATE:20270601\nDURATION:P2D"),
    ];
    let (status, told) = read(&server, format!("\u{feff}{}", calendar(&all.concat()))).await;
    assert_eq!(status, 200, "{told}");
    let wanted = [
        ("Inset day", "2027-03-19", "2027-03-19"),
        ("Easter break", "2027-03-26", "2027-04-11"),
        ("Inset day", "2027-04-02", "2027-04-02"),
        ("May day", "2027-05-03", "2027-05-03"),
        ("Folded name, with a comma", "2027-06-01", "2027-06-02"),
        ("May day", "2028-05-03", "2028-05-03"),
    ];
    let wanted: Vec<_> = wanted.iter().map(|(a, b, c)| ((*a).to_owned(), (*b).to_owned(), (*c).to_owned())).collect();
    assert_eq!(spans(&told), wanted);
    assert_eq!(told["past"], 1);
}

#[actix_web::test]
async fn what_is_no_whole_day_is_named_with_its_reason_and_endless_ones_end() {
    let server = Running::demo();
    let all = [
        event("SUMMARY:Staff meeting\nDTSTART:20270315T140000Z\nDTEND:20270315T150000Z"),
        event(
            "SUMMARY:In a foreign zone\nDTSTART;TZID=Moon/Tycho:20270316T090000\nDTEND;TZID=Moon/Tycho:20270316T100000",
        ),
        event("SUMMARY:No beginning"),
        event("SUMMARY:Backwards\nDTSTART;VALUE=DATE:20270320\nDTEND;VALUE=DATE:20270310"),
        event("SUMMARY:No rule\nDTSTART;VALUE=DATE:20270320\nRRULE:FREQ=SOMETIMES"),
        event("SUMMARY:No day\nDTSTART;VALUE=DATE:20270231"),
        event("SUMMARY:Off\nSTATUS:CANCELLED\nDTSTART;VALUE=DATE:20270321"),
        event("SUMMARY:Every Friday for ever\nDTSTART;VALUE=DATE:20270312\nRRULE:FREQ=WEEKLY"),
        event("SUMMARY:Every second for ever\nDTSTART;VALUE=DATE:20270312\nRRULE:FREQ=SECONDLY"),
    ];
    let (status, told) = read(&server, calendar(&all.concat())).await;
    assert_eq!(status, 200, "{told}");
    let fridays = spans(&told).iter().filter(|(name, ..)| name == "Every Friday for ever").count();
    assert!((100..=105).contains(&fridays), "two years of them: {fridays}");
    let left: Vec<String> = told["left_out"].as_array().unwrap().iter().map(ToString::to_string).collect();
    for (what, why) in [
        ("Staff meeting", "only whole days"),
        ("In a foreign zone", "only whole days"),
        ("No beginning", "no beginning"),
        ("Backwards", "lasts -10 days"),
        ("No rule", "repetition cannot be read"),
        ("No day", "beginning cannot be read"),
        ("Off", "cancelled"),
        ("Every second for ever", "only whole days"),
    ] {
        assert!(left.iter().any(|line| line.contains(what) && line.contains(why)), "{what}: {left:?}");
    }
}

#[actix_web::test]
async fn lengths_are_read_as_the_standard_writes_them_and_no_letter_ends_a_request() {
    let server = Running::demo();
    let lasting =
        |duration: &str| event(&format!("SUMMARY:{duration}\nDTSTART;VALUE=DATE:20270320\nDURATION:{duration}"));
    let good = [
        ("P3D", "2027-03-22"),
        ("P1W", "2027-03-26"),
        ("PT24H", "2027-03-20"),
        ("P1DT0H", "2027-03-20"),
        ("P1DT24H", "2027-03-21"),
    ];
    for (duration, to) in good {
        let (_, told) = read(&server, calendar(&lasting(duration))).await;
        assert_eq!(spans(&told).first().map(|span| span.2.clone()).as_deref(), Some(to), "{duration}: {told}");
    }
    for duration in ["PPP", "PPPPP", "P1é", "é", "P", "PT36H", "-P1D", "P99999999999999999999D", "P1Y"] {
        let (status, told) = read(&server, calendar(&lasting(duration))).await;
        assert_eq!((status, told["left_out"].as_array().map(Vec::len)), (200, Some(1)), "{duration}: {told}");
    }
}

#[actix_web::test]
async fn no_calendar_ends_the_program_or_keeps_it_from_others() {
    let server = Running::demo();
    let deep = format!("BEGIN:VCALENDAR\r\n{}", "BEGIN:VEVENT\r\n".repeat(1532));
    let (status, problem) = read(&server, deep).await;
    assert_eq!((status, &problem["fields"][0]["code"]), (422, &json!("no_calendar_file")), "{problem}");
    let never = "SUMMARY:Never\nDTSTART;VALUE=DATE:20270312\nRRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30";
    let began = Instant::now();
    let slow = read(&server, calendar(&event(never).repeat(6000)));
    let round = async {
        let answer = server.get("/api/round").await;
        (answer["systems"].as_array().unwrap().len(), began.elapsed())
    };
    let ((status, told), (systems, waited)) = tokio::join!(slow, round);
    assert_eq!((status, systems), (200, 10), "{told}");
    assert!(waited < Duration::from_secs(5), "the round waited for {waited:?}");
    // Two seconds in an optimised build; this one is not.
    assert!(began.elapsed() < Duration::from_secs(40), "{:?}", began.elapsed());
}

#[actix_web::test]
async fn a_series_that_began_long_ago_still_closes_its_days() {
    let server = Running::demo();
    let fridays = event("SUMMARY:Fridays\nDTSTART;VALUE=DATE:20150102\nRRULE:FREQ=WEEKLY");
    let (_, told) = read(&server, calendar(&fridays)).await;
    let found = spans(&told);
    assert_eq!(found.first().map(|(_, from, _)| from.as_str()), Some("2027-03-12"), "{told}");
    assert!((100..=105).contains(&found.len()), "two years of them: {}", found.len());
}

#[actix_web::test]
async fn what_is_no_calendar_or_too_large_is_refused_and_says_how_to_mend_it() {
    let server = Running::demo();
    for broken in [
        "",
        "name,from,to\nEaster,2027-03-26,2027-04-11",
        "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nSUMMARY:Cut off",
        "BEGIN:VCALENDAR\r\nno colon\r\nEND:VCALENDAR\r\n",
    ] {
        let (status, problem) = read(&server, broken.to_owned()).await;
        assert_eq!(status, 422, "{broken}: {problem}");
        assert_eq!(problem["fields"][0]["code"], "no_calendar_file");
    }
    let large = calendar(&event("SUMMARY:Large\nDTSTART;VALUE=DATE:20270326").repeat(200_000));
    assert!(large.len() > 20_000_000);
    let (status, problem) = read(&server, large).await;
    assert_eq!((status, problem["type"].as_str()), (413, Some("/problems/too-large")));
    assert!(problem["detail"].as_str().unwrap().contains("allowed is 1024 KB"), "{problem}");
    let json = server.post("/api/closures/read", &json!({ "text": "BEGIN:VCALENDAR" })).await;
    assert_eq!(json.status(), 415);
}

#[actix_web::test]
async fn a_closure_moves_what_is_due_and_its_plan_follows() {
    let server = Running::demo();
    let crate_ = server.system("Window crate").await;
    let by = server.person(&crate_, "Wren").await;
    let view = server.get(&format!("/api/systems/{crate_}")).await;
    let (place, version, mut body) =
        (view["place"]["id"].as_str().unwrap(), view["place"]["version"].clone(), view["place_body"].clone());
    body["card"] = json!("place");
    let plan = server.get(&format!("/api/places/{place}/cover")).await;
    assert_eq!((plan["closures"].as_array().unwrap().len(), plan.get("plan")), (0, None));
    body["closures"] = json!([{ "name": "Away", "from": "2027-03-12", "to": "2027-03-26" }, { "from": "2027-03-20", "to": "2027-03-28" }]);
    let edit = json!({ "version": version, "by": by, "body": body });
    let answer = server.put(&format!("/api/cards/{place}"), &edit).await;
    assert_eq!(answer.status(), 200, "{}", answer.text().await.unwrap());
    let told = server.get(&format!("/api/places/{place}/cover")).await;
    assert_eq!(told["plan"]["closed"]["said"], "Fri 12 Mar to Sun 28 Mar, 17 days");
    assert_eq!(told["plan"]["last_open"], "Thu 11 Mar");
    assert_eq!(told["plan"]["systems"].as_array().unwrap().len(), 2);
    let round = server.get("/api/round").await;
    assert!(round["closures"].to_string().contains("Tern Street flat is closed Fri 12 Mar"), "{}", round["closures"]);
    let closed = |task: &&Value| ("2027-03-12".."2027-03-29").contains(&task["due_on"].as_str().unwrap());
    let view = server.get(&format!("/api/systems/{crate_}")).await;
    assert_eq!(view["tasks"].as_array().unwrap().iter().find(closed), None, "nothing is due while nobody is there");
    // Moved by a week, the plan follows.
    let mut later = view["place_body"].clone();
    later["card"] = json!("place");
    later["closures"] = json!([{ "from": "2027-03-19", "to": "2027-03-21" }]);
    let edit = json!({ "version": view["place"]["version"], "by": by, "body": later });
    assert_eq!(server.put(&format!("/api/cards/{place}"), &edit).await.status(), 200);
    let told = server.get(&format!("/api/places/{place}/cover")).await;
    assert_eq!(told["plan"]["closed"]["said"], "Fri 19 Mar to Sun 21 Mar, 3 days");
    let wrong =
        server.client.get(format!("{}/api/places/{place}/cover?from=tomorrow", server.base)).send().await.unwrap();
    assert_eq!(wrong.status(), 422);
}

#[actix_web::test]
async fn a_child_is_told_whom_to_ask_and_is_given_no_step_with_feed_or_acid() {
    let server = Running::demo();
    let tower = server.system("Corner tower").await;
    let (adult, child) = (server.person(&tower, "Wren").await, server.person(&tower, "J. T.").await);
    let view = server.get(&format!("/api/systems/{tower}")).await;
    let place = view["place"]["id"].as_str().unwrap();
    for (who, planned) in [(adult, true), (child, false)] {
        let request = server.client.get(format!("{}/api/places/{place}/cover", server.base));
        let told: Value = request.header("Mopsel-Person", who).send().await.unwrap().json().await.unwrap();
        assert_eq!((told.get("plan").is_some(), told.get("none").is_some()), (planned, !planned), "{told}");
        assert!(planned || !told.to_string().contains("EC"), "{told}");
    }
}
