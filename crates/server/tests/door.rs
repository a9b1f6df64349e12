//! Who comes in: accounts, sessions and links, what each role may ask for, and that nothing of a place is seen by who
//! does not belong to it.

use crate::common::{Running, program};
use mopsel::permits::{Need, PERMITS};
use mopsel_core::fact::card::Role;
use reqwest::{Method, Response};
use serde_json::{Value, json};
use std::collections::BTreeSet;
use strum::VariantArray;
use uuid::Uuid;

const PASSWORD: &str = "four words in a row";

/// The demo with sign-in: everybody who is somebody there.
struct Garden {
    app: Running,
    owner: String,
}

/// The cookie of an answer.
fn cookie(answer: &Response) -> String {
    let set = answer.headers()["set-cookie"].to_str().unwrap();
    assert!(set.contains("HttpOnly") && set.contains("SameSite=Strict") && set.contains("Path=/"), "{set}");
    set.split(';').next().unwrap().to_owned()
}

impl Garden {
    async fn new() -> Self {
        let app = Running::demo();
        let body = json!({ "id": Uuid::now_v7(), "name": "Wren", "password": PASSWORD });
        let answer = app.post("/api/session/first", &body).await;
        assert_eq!(answer.status(), 200);
        let owner = cookie(&answer);
        Self { app, owner }
    }

    async fn ask(&self, method: Method, path: &str, cookie: &str, body: Option<&Value>) -> (u16, Value) {
        let request = self.app.client.request(method, format!("{}{path}", self.app.base)).header("cookie", cookie);
        let request = if let Some(body) = body { request.json(body) } else { request };
        let answer = request.send().await.unwrap();
        let status = answer.status().as_u16();
        (status, serde_json::from_str(&answer.text().await.unwrap()).unwrap_or_default())
    }

    async fn get(&self, path: &str, cookie: &str) -> (u16, Value) {
        self.ask(Method::GET, path, cookie, None).await
    }

    /// A person at a place, made by the owner.
    async fn person(&self, place: &str, name: &str, role: &str) -> String {
        let id = Uuid::now_v7().to_string();
        let body = json!({ "id": id, "parent": place, "body": { "card": "person", "name": name, "role": role } });
        let (status, said) = self.ask(Method::POST, "/api/cards", &self.owner, Some(&body)).await;
        assert_eq!(status, 201, "{said}");
        id
    }

    /// An account that is a person, with the link by which it chooses a password.
    async fn account(&self, name: &str, people: &[String], owner: bool) -> (String, String) {
        let id = Uuid::now_v7().to_string();
        let body = json!({ "version": 0, "name": name, "people": people, "owner": owner });
        let path = format!("/api/accounts/{id}");
        let (status, said) = self.ask(Method::PUT, &path, &self.owner, Some(&body)).await;
        assert_eq!(status, 200, "{said}");
        let link = self.link(&id).await;
        (id, link)
    }

    async fn link(&self, account: &str) -> String {
        let path = format!("/api/accounts/{account}/link?at=https://192.168.7.3:4180");
        let (status, made) = self.ask(Method::POST, &path, &self.owner, None).await;
        assert_eq!(status, 200, "{made}");
        made["address"].as_str().unwrap().strip_prefix("/welcome#").unwrap().to_owned()
    }

    async fn redeem(&self, token: &str, password: &str) -> Response {
        self.app.post("/api/session/redeem", &json!({ "token": token, "password": password })).await
    }

    async fn sign_in(&self, name: &str, password: &str) -> Response {
        self.app.post("/api/session", &json!({ "name": name, "password": password })).await
    }

    /// Somebody with a role at a place, signed in.
    async fn somebody(&self, place: &str, name: &str, role: &str) -> String {
        let person = self.person(place, name, role).await;
        let (_, link) = self.account(name, &[person], false).await;
        cookie(&self.redeem(&link, PASSWORD).await)
    }

    async fn places(&self) -> Vec<Value> {
        self.get("/api/places", &self.owner).await.1.as_array().unwrap().clone()
    }
}

fn id(card: &Value) -> String {
    card["id"].as_str().unwrap().to_owned()
}

#[test]
fn every_address_has_a_line_and_every_line_an_address() {
    let description: Value = serde_json::from_str(&mopsel::description()).unwrap();
    let mut described = BTreeSet::new();
    for (path, item) in description["paths"].as_object().unwrap() {
        for method in item.as_object().unwrap().keys() {
            described.insert((method.to_uppercase(), path.clone()));
        }
    }
    // What is no part of the API.
    described.insert(("GET".to_owned(), "/api/openapi.json".to_owned()));
    described.insert(("GET".to_owned(), "/mopsel-authority.crt".to_owned()));
    let lines: BTreeSet<_> = PERMITS.iter().map(|(method, path, _)| (method.to_string(), path.to_string())).collect();
    assert_eq!(lines, described);
    assert_eq!(lines.len(), PERMITS.len(), "no address has two lines");
}

/// An address with something in its gaps.
fn filled(path: &str) -> String {
    path.replace("{id}", &Uuid::now_v7().to_string()).replace("{code}", "level")
}

#[actix_web::test]
async fn every_role_gets_what_its_line_says_and_the_signed_out_nothing() {
    let garden = Garden::new().await;
    let place = id(&garden.places().await[0]["card"]);
    let mut roles = Vec::new();
    for role in Role::VARIANTS.iter().filter(|role| **role != Role::Child) {
        let code = serde_json::to_value(role).unwrap();
        let code = code.as_str().unwrap().to_owned();
        roles.push((*role, garden.somebody(&place, &format!("A {code}"), &code).await));
    }
    for (method, path, need) in PERMITS {
        // What signs out, ends what the rest is asked with; that is tried by itself.
        if path.starts_with("/api/session") {
            continue;
        }
        let method: Method = method.parse().unwrap();
        let body = (method != Method::GET).then(|| json!({}));
        let (status, said) = garden.ask(method.clone(), &filled(path), "", body.as_ref()).await;
        assert_eq!(status == 401, *need != Need::Nothing, "{method} {path}, signed out: {status} {said}");
        for (role, cookie) in &roles {
            let (status, said) = garden.ask(method.clone(), &filled(path), cookie, body.as_ref()).await;
            let refused = status == 403;
            let may = match need {
                Need::May(act) => role.may(*act) && *act != mopsel_core::fact::Act::House,
                Need::Nothing | Need::SignedIn => true,
            };
            assert_eq!(!refused, may, "{method} {path} as {role:?}: {status} {said}");
            assert_ne!(status, 401, "{method} {path} as {role:?}");
            assert!(status < 500, "{method} {path} as {role:?}: {status} {said}");
        }
    }
}

#[actix_web::test]
async fn nothing_of_a_place_is_seen_by_who_does_not_belong_to_it() {
    let garden = Garden::new().await;
    let places = garden.places().await;
    let (own, others): (Vec<&Value>, Vec<&Value>) =
        places.iter().partition(|place| place["card"]["body"]["name"] == "Gullhaven Library, seed loft");
    let cookie = garden.somebody(&id(&own[0]["card"]), "Ines", "caretaker").await;
    // Names and ids of what she has no business with; what is called alike at her own place says nothing.
    let texts = |place: &Value| {
        let cards = ["systems", "people", "meters"].map(|kind| place[kind].as_array().unwrap().clone()).concat();
        let cards: Vec<Value> = cards.into_iter().chain([place["card"].clone()]).collect();
        cards.into_iter().flat_map(|card| [card["id"].clone(), card["body"]["name"].clone()]).collect::<Vec<Value>>()
    };
    let known: BTreeSet<String> = texts(own[0]).iter().map(|text| text.as_str().unwrap().to_owned()).collect();
    let foreign: BTreeSet<String> =
        others.iter().flat_map(|place| texts(place)).map(|t| t.as_str().unwrap().to_owned()).collect();
    let foreign: Vec<&String> = foreign.difference(&known).collect();
    assert!(foreign.len() > 20);
    let seen = [
        "/api/round",
        "/api/places",
        "/api/log",
        "/api/log?words=crate",
        "/api/labels?at=http://localhost",
        "/api/outing",
        "/api/round/fit?minutes=60",
        "/api/compare/choices",
        "/api/timers",
        "/api/shelf",
        "/api/readings/deliveries",
        "/api/accounts",
        "/api/session",
        "/api/knowledge",
    ];
    for path in seen {
        let (status, said) = garden.get(path, &cookie).await;
        assert_eq!(status, 200, "{path}: {said}");
        let text = said.to_string();
        let found: Vec<&&String> = foreign.iter().filter(|name| text.contains(name.as_str())).collect();
        assert!(found.is_empty(), "{path} tells of {found:?}");
    }
    // Asked for by id, it is not there: neither for a look nor for a write.
    let foreign_place = others.iter().find(|place| !place["systems"].as_array().unwrap().is_empty()).unwrap();
    let system = id(&foreign_place["systems"][0]);
    let place = id(&foreign_place["card"]);
    for (method, path, _) in PERMITS.iter().filter(|(_, path, _)| path.contains("{id}")) {
        let which = if path.starts_with("/api/places") { &place } else { &system };
        if !path.starts_with("/api/systems") && !path.starts_with("/api/places") {
            continue;
        }
        let path = path.replace("{id}", which).replace("{code}", "level");
        let (status, said) = garden.ask(method.parse().unwrap(), &path, &cookie, Some(&json!({}))).await;
        assert!(matches!(status, 404 | 422 | 400 | 403), "{method} {path}: {status} {said}");
        let text = said.to_string();
        assert!(
            !foreign.iter().any(|name| !path.contains(name.as_str()) && text.contains(name.as_str())),
            "{path}: {text}"
        );
    }
    let entry = json!({ "id": Uuid::now_v7(), "body": { "kind": "visit", "all_fine": true } });
    let path = format!("/api/systems/{system}/entries");
    let (status, said) = garden.ask(Method::POST, &path, &cookie, Some(&entry)).await;
    assert!(matches!(status, 404 | 422), "{status} {said}");
    let new = json!({ "id": Uuid::now_v7(), "parent": place, "body": { "card": "meter", "name": "Pen", "scale": "ms_cm", "compensated": true } });
    let (status, said) = garden.ask(Method::POST, "/api/cards", &cookie, Some(&new)).await;
    assert_eq!((status, &said["fields"][0]["code"]), (422, &json!("not_of_this_place")), "{said}");
    // And the log of the place is as long as it was.
    let (_, log) = garden.get(&format!("/api/systems/{system}/log"), &garden.owner).await;
    assert!(!log.to_string().contains("Ines"));
}

#[actix_web::test]
async fn a_picture_of_another_place_is_not_given_out() {
    let garden = Garden::new().await;
    let places = garden.places().await;
    let at = |name: &str| places.iter().find(|place| place["card"]["body"]["name"] == name).unwrap();
    let flat = at("Tern Street flat");
    let system = id(&flat["systems"][0]);
    let wren = flat["people"].as_array().unwrap().iter().find(|one| one["body"]["name"] == "Wren").unwrap();
    let (_, accounts) = garden.get("/api/accounts", &garden.owner).await;
    let mine = &accounts[0];
    let body = json!({ "version": mine["version"], "name": "Wren", "owner": true, "people": [wren["id"]] });
    let path = format!("/api/accounts/{}", mine["id"].as_str().unwrap());
    assert_eq!(garden.ask(Method::PUT, &path, &garden.owner, Some(&body)).await.0, 200);
    let mut jpeg = std::io::Cursor::new(Vec::new());
    image::DynamicImage::new_rgb8(40, 30).write_to(&mut jpeg, image::ImageFormat::Jpeg).unwrap();
    let picture = Uuid::now_v7();
    let path = format!("{}/api/systems/{system}/pictures?picture={picture}", garden.app.base);
    let request = garden.app.client.post(path).header("cookie", &garden.owner).header("content-type", "image/jpeg");
    let kept = request.body(jpeg.into_inner()).send().await.unwrap();
    assert_eq!(kept.status(), 201, "{}", kept.text().await.unwrap());
    let stranger = garden.somebody(&id(&at("Gullhaven Library, seed loft")["card"]), "Ines", "caretaker").await;
    assert_eq!(garden.get(&format!("/api/pictures/{picture}"), &garden.owner).await.0, 200);
    assert_eq!(garden.get(&format!("/api/pictures/{picture}"), &stranger).await.0, 404);
    assert_eq!(garden.get(&format!("/api/pictures/{picture}"), "").await.0, 401);
}

#[actix_web::test]
async fn a_link_is_good_once_and_a_password_that_is_chosen_signs_others_out() {
    let garden = Garden::new().await;
    let (account, link) = garden.account("Ansa", &[], false).await;
    let (first, second) = tokio::join!(garden.redeem(&link, PASSWORD), garden.redeem(&link, "another four words"));
    let good: Vec<Response> = [first, second].into_iter().filter(|answer| answer.status() == 200).collect();
    assert_eq!(good.len(), 1, "two at once, and one gets it");
    let phone = cookie(&good[0]);
    let said: Value = garden.redeem(&link, PASSWORD).await.json().await.unwrap();
    assert_eq!(said["fields"][0]["code"], "link_used_up", "{said}");
    assert_eq!(garden.get("/api/session", &phone).await.1["account"]["name"], "Ansa");
    // Of two links the newer one counts, and choosing another password ends what was signed in with the old one.
    let (old, new) = (garden.link(&account).await, garden.link(&account).await);
    assert_eq!(garden.redeem(&old, PASSWORD).await.status(), 422);
    let short: Value = garden.redeem(&new, "short").await.json().await.unwrap();
    assert_eq!(short["fields"][0]["field"], "password", "{short}");
    let tablet = cookie(&garden.redeem(&new, "a third one of four").await);
    assert_eq!(garden.get("/api/session", &phone).await.1["account"], Value::Null);
    assert_eq!(garden.get("/api/round", &phone).await.0, 401);
    let change = json!({ "before": "not that", "password": "a fourth one of four" });
    let (status, said) = garden.ask(Method::PUT, "/api/session/password", &tablet, Some(&change)).await;
    assert_eq!((status, &said["fields"][0]["field"]), (422, &json!("before")), "{said}");
    assert_eq!(garden.sign_in("ansa", "a third one of four").await.status(), 200, "whatever the case of the name");
    assert_eq!(garden.sign_in("Ansa", PASSWORD).await.status(), 401);
}

#[actix_web::test]
async fn who_is_put_away_is_out_at_once_and_a_role_that_changes_holds_at_once() {
    let garden = Garden::new().await;
    let places = garden.places().await;
    let place = places.iter().find(|place| !place["systems"].as_array().unwrap().is_empty()).unwrap();
    let system = id(&place["systems"][0]);
    let person = garden.person(&id(&place["card"]), "Ines", "helper").await;
    let (account, link) = garden.account("Ines", std::slice::from_ref(&person), false).await;
    let ines = cookie(&garden.redeem(&link, PASSWORD).await);
    let visit = |note: &str| json!({ "id": Uuid::now_v7(), "body": { "kind": "visit", "note": note } });
    let entries = format!("/api/systems/{system}/entries");
    let (status, said) = garden.ask(Method::POST, &entries, &ines, Some(&visit("all quiet"))).await;
    assert_eq!(status, 201, "{said}");
    assert_eq!(said["by"], person.as_str(), "it is she who recorded it, though no header said so");
    // Somebody else's name on a write is refused; on a device that somebody else typed on it waits.
    let other = places.iter().flat_map(|place| place["people"].as_array().unwrap().clone()).next().unwrap();
    let request = garden.app.client.post(format!("{}{entries}", garden.app.base)).header("cookie", &ines);
    let answer = request.header("Mopsel-Person", other["id"].as_str().unwrap()).json(&visit("not mine")).send().await;
    let said: Value = answer.unwrap().json().await.unwrap();
    assert_eq!(said["fields"][0]["code"], "person_not_yours", "{said}");
    let edit = json!({ "version": 1, "body": { "card": "person", "name": "Ines", "role": "reader" } });
    let (status, said) = garden.ask(Method::PUT, &format!("/api/cards/{person}"), &garden.owner, Some(&edit)).await;
    assert_eq!(status, 200, "{said}");
    assert_eq!(garden.ask(Method::POST, &entries, &ines, Some(&visit("late"))).await.0, 403);
    assert_eq!(garden.get(&format!("/api/systems/{system}"), &ines).await.0, 200);
    let away = json!({ "version": 2, "archived": true });
    assert_eq!(garden.ask(Method::PUT, &format!("/api/cards/{person}"), &garden.owner, Some(&away)).await.0, 200);
    assert_eq!(garden.get(&format!("/api/systems/{system}"), &ines).await.0, 403, "she is nobody anywhere");
    let end = json!({ "version": 1, "name": "Ines", "people": [person], "archived": true });
    let (status, said) = garden.ask(Method::PUT, &format!("/api/accounts/{account}"), &garden.owner, Some(&end)).await;
    assert_eq!(status, 200, "{said}");
    assert_eq!(garden.get("/api/round", &ines).await.0, 401);
    assert_eq!(garden.sign_in("Ines", PASSWORD).await.status(), 401);
}

#[actix_web::test]
async fn devices_are_listed_and_signed_out_one_by_one_or_all() {
    let garden = Garden::new().await;
    let phone = cookie(&garden.sign_in("Wren", PASSWORD).await);
    let tablet = cookie(&garden.sign_in("wren", PASSWORD).await);
    let devices = async |cookie: &str| garden.get("/api/session/devices", cookie).await.1.as_array().unwrap().clone();
    let all = devices(&garden.owner).await;
    assert_eq!(all.len(), 3);
    assert_eq!(all.iter().filter(|one| one["this"] == true).count(), 1);
    let of_phone = devices(&phone).await.into_iter().find(|one| one["this"] == true).unwrap();
    let path = format!("/api/session/devices/{}", id(&of_phone));
    assert_eq!(garden.ask(Method::DELETE, &path, &garden.owner, None).await.0, 204);
    assert_eq!(garden.get("/api/round", &phone).await.0, 401);
    assert_eq!(garden.get("/api/round", &tablet).await.0, 200);
    assert_eq!(garden.ask(Method::DELETE, "/api/session/devices", &garden.owner, None).await.0, 204);
    assert_eq!(garden.get("/api/round", &tablet).await.0, 401);
    assert_eq!(garden.ask(Method::DELETE, "/api/session", &garden.owner, None).await.0, 204);
    assert_eq!(garden.get("/api/round", &garden.owner).await.0, 401);
    for forged in ["mopsel-session=", "mopsel-session=abc", "mopsel-session=%00", "other=1"] {
        assert_eq!(garden.get("/api/round", forged).await.0, 401, "{forged}");
    }
}

#[actix_web::test]
async fn guessing_is_slowed_and_says_after_how_long_the_next_try_is_allowed() {
    let garden = Garden::new().await;
    let mut told = BTreeSet::new();
    for n in 0..8 {
        let answer = garden.sign_in("Wren", &format!("guess number {n}")).await;
        told.insert(answer.status().as_u16());
        if answer.status() == 429 {
            let said: Value = answer.json().await.unwrap();
            assert!(said["fields"][0]["mend"].as_str().unwrap().starts_with("Wait "), "{said}");
        }
    }
    assert_eq!(told, BTreeSet::from([401, 429]));
    assert_eq!(garden.get("/api/round", &garden.owner).await.0, 200, "who is in stays in");
}

#[actix_web::test]
async fn where_nobody_signs_in_nothing_is_asked_and_the_first_account_is_made_once() {
    let app = Running::demo();
    assert_eq!(app.get("/api/session").await, json!({ "asked": false, "any_account": false }));
    assert!(app.get("/api/round").await["systems"].as_array().unwrap().len() > 3);
    let body = |name: &str| json!({ "id": Uuid::now_v7(), "name": name, "password": PASSWORD });
    let (one, other) = (body("Wren"), body("Ansa"));
    let (one, other) = tokio::join!(app.post("/api/session/first", &one), app.post("/api/session/first", &other));
    let done: BTreeSet<u16> = [one.status().as_u16(), other.status().as_u16()].into();
    assert_eq!(done, BTreeSet::from([200, 422]));
    assert_eq!(app.asked("/api/round").await.0, 401);
    // What acted without a sign-in a moment ago does so no more.
    let (status, _) = app.told("/api/cards", &json!({ "id": Uuid::now_v7(), "body": {} })).await;
    assert_eq!(status, 401);
}

#[actix_web::test]
async fn whoever_sits_at_the_machine_makes_a_new_link() {
    let garden = Garden::new().await;
    let file = garden.app.file.to_str().unwrap();
    let ran = |arguments: &[&str]| {
        let output = program(arguments).output().unwrap();
        (
            output.status.success(),
            String::from_utf8_lossy(&output.stdout).into_owned() + &String::from_utf8_lossy(&output.stderr),
        )
    };
    assert_eq!(ran(&["person", "list", file]), (true, "Wren\towner\thas a password\n".to_owned()));
    let (fine, said) = ran(&["person", "reset", file, "Nobody"]);
    assert!(!fine && said.contains("Nobody signs in as Nobody"), "{said}");
    // The demo's clock stands in another year: its link is made for the clock of the machine.
    let (fine, said) = ran(&["person", "reset", file, "wren"]);
    assert!(fine && said.contains("/welcome#"), "{said}");
}

#[actix_web::test]
async fn what_is_kept_of_secrets_lets_nobody_in() {
    let garden = Garden::new().await;
    let (_, link) = garden.account("Ansa", &[], false).await;
    let token = garden.owner.split('=').nth(1).unwrap();
    let mut all = std::fs::read(&garden.app.file).unwrap();
    let mut log = garden.app.file.clone().into_os_string();
    log.push("-wal");
    all.extend(std::fs::read(log).unwrap_or_default());
    let stands = |secret: &str| all.windows(secret.len()).any(|part| part == secret.as_bytes());
    assert!(stands("argon2id"), "the file was read");
    for secret in [PASSWORD, token, &link] {
        assert!(!stands(secret), "{secret} stands in the file");
    }
}

#[actix_web::test]
async fn a_tablet_of_a_class_sees_the_childrens_tasks_of_its_room_and_nothing_else() {
    let garden = Garden::new().await;
    let places = garden.places().await;
    let at = |name: &str| places.iter().find(|place| place["card"]["body"]["name"] == name).unwrap();
    let room = at("Cobble Row School, room 6");
    let open = |place: &Value, minutes: u32| json!({ "id": Uuid::now_v7(), "place": place["card"]["id"], "minutes": minutes, "at": "https://192.168.7.3:4180" });
    let (status, said) =
        garden.ask(Method::POST, "/api/classes", &garden.owner, Some(&open(at("Tern Street flat"), 60))).await;
    assert_eq!((status, &said["fields"][0]["code"]), (422, &json!("class_without_children")), "{said}");
    let (status, said) = garden.ask(Method::POST, "/api/classes", &garden.owner, Some(&open(room, 600))).await;
    assert_eq!((status, &said["fields"][0]["code"]), (422, &json!("class_minutes")), "{said}");
    let (status, opened) = garden.ask(Method::POST, "/api/classes", &garden.owner, Some(&open(room, 60))).await;
    assert_eq!(status, 201, "{opened}");
    let code = opened["code"].as_str().unwrap();
    let wrong: Value = garden.app.post("/api/session/join", &json!({ "code": "AAAAAA" })).await.json().await.unwrap();
    assert_eq!(wrong["fields"][0]["code"], "no_such_class", "{wrong}");
    // As it is typed by a child: small letters, a blank between.
    let typed = format!("{} {}", &code[..3].to_lowercase(), &code[3..]);
    let joined = garden.app.post("/api/session/join", &json!({ "code": typed })).await;
    let tablet = cookie(&joined);
    let class: Value = joined.json().await.unwrap();
    let initials: Vec<&Value> =
        class["class"]["children"].as_array().unwrap().iter().map(|one| &one["initials"]).collect();
    assert_eq!(initials, ["J. T."]);
    let child = id(&class["class"]["children"][0]);
    // No name of an adult, and no other place, in anything that it may ask for; and most it may not ask for at all.
    let system = id(&room["systems"][0]);
    for path in
        ["/api/round".to_owned(), format!("/api/systems/{system}"), "/api/session".to_owned(), "/api/timers".to_owned()]
    {
        let (status, said) = garden.get(&path, &tablet).await;
        assert_eq!(status, 200, "{path}: {said}");
        for name in ["Wren", "Ode", "Ansa", "Window crate", "Gullhaven"] {
            assert!(!said.to_string().contains(name), "{path} tells of {name}");
        }
    }
    for (method, path, need) in PERMITS.iter().filter(|(method, path, _)| !mopsel::permits::of_class(method, path)) {
        if *need == Need::Nothing {
            continue;
        }
        let path = path.replace("{id}", &system).replace("{code}", "level");
        let (status, said) = garden.ask(method.parse().unwrap(), &path, &tablet, Some(&json!({}))).await;
        assert_eq!(status, 404, "{method} {path}: {said}");
    }
    // A child records under its initials; nobody's and an adult's are refused.
    let entries = format!("{}/api/systems/{system}/entries", garden.app.base);
    let visit = |by: Option<&str>| {
        let entry = json!({ "id": Uuid::now_v7(), "body": { "kind": "visit", "note": "The leaves look good" } });
        let request = garden.app.client.post(&entries).header("cookie", &tablet).json(&entry);
        if let Some(by) = by { request.header("Mopsel-Person", by) } else { request }.send()
    };
    assert_eq!(visit(Some(&child)).await.unwrap().status(), 201);
    assert_eq!(visit(None).await.unwrap().status(), 422);
    let wren = room["people"].as_array().unwrap().iter().find(|one| one["body"]["name"] == "Wren").unwrap();
    assert_eq!(visit(Some(wren["id"].as_str().unwrap())).await.unwrap().status(), 403);
    let other = id(&at("Tern Street flat")["systems"][0]);
    assert_eq!(garden.get(&format!("/api/systems/{other}"), &tablet).await.0, 404);
    // The teacher's tap ends it, also for what is on its way.
    let path = format!("/api/classes/{}", opened["class"]["id"].as_str().unwrap());
    assert_eq!(garden.ask(Method::DELETE, &path, &garden.owner, None).await.0, 204);
    assert_eq!(garden.get("/api/round", &tablet).await.0, 401);
    assert_eq!(visit(Some(&child)).await.unwrap().status(), 401);
    assert_eq!(garden.app.post("/api/session/join", &json!({ "code": code })).await.status(), 422);
}

#[actix_web::test]
async fn a_second_class_in_a_room_ends_the_first_and_a_helper_opens_none() {
    let garden = Garden::new().await;
    let places = garden.places().await;
    let room = places.iter().find(|place| place["card"]["body"]["name"] == "Cobble Row School, room 6").unwrap();
    let open = || json!({ "id": Uuid::now_v7(), "place": room["card"]["id"], "minutes": 60, "at": "https://a" });
    let code = async || {
        let (status, opened) = garden.ask(Method::POST, "/api/classes", &garden.owner, Some(&open())).await;
        assert_eq!(status, 201, "{opened}");
        opened["code"].as_str().unwrap().to_owned()
    };
    let (first, second) = (code().await, code().await);
    let join = async |code: &str| garden.app.post("/api/session/join", &json!({ "code": code })).await.status();
    assert_eq!((join(&first).await.as_u16(), join(&second).await.as_u16()), (422, 200));
    let helper = garden.somebody(&id(&room["card"]), "Ines", "helper").await;
    assert_eq!(garden.ask(Method::POST, "/api/classes", &helper, Some(&open())).await.0, 403);
    assert_eq!(garden.get("/api/classes", &garden.owner).await.1[0]["devices"], 1);
    let mut guesses = BTreeSet::new();
    for n in 0..60 {
        guesses.insert(join(&format!("ZZZZ{n:02}")).await.as_u16());
    }
    assert_eq!(guesses, BTreeSet::from([422, 429]), "codes are short: tries are few");
}
