//! Pictures: told by their bytes, encoded anew without their place, kept once, erased by adults.

use crate::common::Running;
use image::{DynamicImage, ImageFormat, Rgb, RgbImage};
use reqwest::StatusCode;
use serde_json::Value;
use std::io::Cursor;
use uuid::Uuid;

/// A leaf as a camera might see it: a gradient with grain, so that it does not shrink to nothing.
fn drawn(width: u32, height: u32) -> DynamicImage {
    DynamicImage::ImageRgb8(RgbImage::from_fn(width, height, |x, y| {
        let grain = ((x * 7919 + y * 104_729) % 61) as u8;
        Rgb([(x * 255 / width) as u8 ^ grain, (y * 255 / height) as u8, grain * 4])
    }))
}

fn as_format(picture: &DynamicImage, format: ImageFormat) -> Vec<u8> {
    let mut bytes = Cursor::new(Vec::new());
    picture.write_to(&mut bytes, format).unwrap();
    bytes.into_inner()
}

/// A JPEG as a phone writes it: lying on its side, and with its place beside the picture.
fn from_a_phone(picture: &DynamicImage) -> Vec<u8> {
    let jpeg = as_format(picture, ImageFormat::Jpeg);
    // Orientation 6 (turned right), and an entry that points to a place.
    let mut tiff = b"II*\x00\x08\x00\x00\x00\x02\x00".to_vec();
    tiff.extend_from_slice(&[0x12, 0x01, 3, 0, 1, 0, 0, 0, 6, 0, 0, 0]);
    tiff.extend_from_slice(&[0x25, 0x88, 4, 0, 1, 0, 0, 0, 38, 0, 0, 0]);
    tiff.extend_from_slice(&[0, 0, 0, 0]);
    tiff.extend_from_slice(b"GPS 51.5007 N 0.1246 W");
    let exif = [b"Exif\x00\x00".as_slice(), &tiff].concat();
    let length = u16::try_from(exif.len() + 2).unwrap().to_be_bytes();
    [&jpeg[..2], &[0xff, 0xe1], &length, &exif, &jpeg[2..]].concat()
}

/// The most memory that the program took so far, in MB, as the system counts it.
fn most_memory(pid: u32) -> u64 {
    let status = std::fs::read_to_string(format!("/proc/{pid}/status")).unwrap();
    let line = status.lines().find(|line| line.starts_with("VmHWM:")).unwrap();
    line.split_whitespace().nth(1).unwrap().parse::<u64>().unwrap() / 1024
}

#[actix_web::test]
async fn two_pictures_of_fifty_million_pixels_take_no_more_memory_than_is_said() {
    let raft = Raft::new().await;
    let white = DynamicImage::ImageRgba8(image::RgbaImage::from_pixel(7000, 7000, image::Rgba([250; 4])));
    let png = as_format(&white, ImageFormat::Png);
    assert!(png.len() < 1_000_000, "small on the wire: {}", png.len());
    let (one, other) = tokio::join!(
        raft.send(Uuid::now_v7(), "", "image/png", png.clone()),
        raft.send(Uuid::now_v7(), "", "image/png", png)
    );
    assert_eq!((one.0, other.0), (StatusCode::CREATED, StatusCode::CREATED), "{one:?} {other:?}");
    let most = most_memory(raft.server.pid());
    assert!(most < 400, "{most} MB");
}

struct Raft {
    server: Running,
    system: String,
    by: String,
    child: String,
}

impl Raft {
    async fn new() -> Self {
        let server = Running::demo();
        let system = server.system("Corner tower").await;
        let view = server.get(&format!("/api/systems/{system}")).await;
        let person = |name: &str| {
            let people = view["people"].as_array().unwrap();
            people.iter().find(|p| p["body"]["name"] == name).unwrap()["id"].as_str().unwrap().to_owned()
        };
        Self { by: person("Wren"), child: person("J. T."), system: system.to_string(), server }
    }

    async fn send(&self, id: Uuid, query: &str, kind: &str, bytes: Vec<u8>) -> (StatusCode, Value) {
        let url = format!("{}/api/systems/{}/pictures?picture={id}{query}", self.server.base, self.system);
        let request = self.server.client.post(url).header("Content-Type", kind).header("Mopsel-Person", &self.by);
        let answer = request.body(bytes).send().await.unwrap();
        (answer.status(), answer.json().await.unwrap())
    }

    async fn bytes(&self, id: Uuid, small: bool) -> (StatusCode, Vec<u8>) {
        let url = format!("{}/api/pictures/{id}?small={small}", self.server.base);
        let answer = self.server.client.get(url).send().await.unwrap();
        (answer.status(), answer.bytes().await.unwrap().to_vec())
    }

    async fn listed(&self) -> Vec<Value> {
        let all = self.server.get(&format!("/api/systems/{}/pictures", self.system)).await;
        all.as_array().unwrap().clone()
    }

    async fn erase(&self, id: Uuid, by: &str) -> StatusCode {
        let url = format!("{}/api/pictures/{id}?system={}", self.server.base, self.system);
        self.server.client.delete(url).header("Mopsel-Person", by).send().await.unwrap().status()
    }
}

#[actix_web::test]
async fn a_picture_is_turned_upright_made_small_and_loses_its_place() {
    let raft = Raft::new().await;
    let before = raft.listed().await.len();
    let id = Uuid::now_v7();
    let sent = from_a_phone(&drawn(3000, 2000));
    assert!(sent.windows(3).any(|part| part == b"GPS"));
    let (status, kept) = raft.send(id, "&ports=5-6&note=two%20leaves", "image/jpeg", sent.clone()).await;
    assert_eq!(status, StatusCode::CREATED, "{kept}");
    assert!(kept["width"].as_u64() < kept["height"].as_u64(), "upright: {kept}");
    assert!(kept["height"].as_u64().unwrap() <= 1280 && kept["ports"] == "5-6" && kept["note"] == "two leaves");
    let (_, image) = raft.bytes(id, false).await;
    assert!(image.len() <= 400 * 1024, "{} bytes", image.len());
    for gone in [b"GPS".as_slice(), b"Exif", b"51.5"] {
        assert!(!image.windows(gone.len()).any(|part| part == gone));
    }
    let (_, small) = raft.bytes(id, true).await;
    let small = image::load_from_memory(&small).unwrap();
    assert!(small.width().max(small.height()) == 320);
    // Sent again, it is the same one.
    assert_eq!(raft.send(id, "", "image/jpeg", sent).await.0, StatusCode::CREATED);
    assert_eq!(raft.listed().await.len(), before + 1);
    // Not by children, and for good.
    assert_eq!(raft.erase(id, &raft.child).await, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(raft.erase(id, &raft.by).await, StatusCode::NO_CONTENT);
    assert_eq!(raft.bytes(id, false).await.0, StatusCode::NOT_FOUND);
    assert_eq!(raft.erase(id, &raft.by).await, StatusCode::NO_CONTENT, "and once more");
}

#[actix_web::test]
async fn what_is_no_picture_is_refused_by_its_bytes_whatever_it_says_it_is() {
    let raft = Raft::new().await;
    let before = raft.listed().await.len();
    let whole = as_format(&drawn(400, 300), ImageFormat::Png);
    let bomb = {
        // 30000 × 30000 pixels said in a few bytes.
        let mut png = whole.clone();
        png[16..24].copy_from_slice(&[0, 0, 0x75, 0x30, 0, 0, 0x75, 0x30]);
        png
    };
    for (what, kind, bytes) in [
        ("text", "image/png", b"<svg onload=alert(1)>".to_vec()),
        ("nothing", "image/jpeg", vec![]),
        ("half of one", "image/png", whole[..whole.len() / 3].to_vec()),
        ("a bomb", "image/png", bomb),
    ] {
        let (status, problem) = raft.send(Uuid::now_v7(), "", kind, bytes).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{what}: {problem}");
        let field = &problem["fields"][0];
        assert!(field["field"] == "body" && !field["mend"].as_str().unwrap().is_empty(), "{what}: {problem}");
    }
    let (status, problem) = raft.send(Uuid::now_v7(), "", "application/json", whole.clone()).await;
    assert!(status == StatusCode::UNSUPPORTED_MEDIA_TYPE && problem["type"].is_string(), "{problem}");
    // Named otherwise than it is: its bytes tell.
    let (status, kept) = raft.send(Uuid::now_v7(), "", "image/webp", whole.clone()).await;
    assert_eq!(status, StatusCode::CREATED, "{kept}");
    let (status, problem) = raft.send(Uuid::now_v7(), "&ports=99", "image/png", whole.clone()).await;
    assert_eq!(
        (status, &problem["fields"][0]["field"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &"ports".into()),
        "{problem}"
    );
    let (status, _) = raft.send(Uuid::now_v7(), "&at=2031-01-01T00:00:00Z", "image/png", whole).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "not in a year to come");
    assert_eq!(raft.listed().await.len(), before + 1);
}

#[actix_web::test]
async fn sixty_megabytes_are_refused_before_they_are_read() {
    let raft = Raft::new().await;
    let url = format!("{}/api/systems/{}/pictures?picture={}", raft.server.base, raft.system, Uuid::now_v7());
    let request = raft.server.client.post(url).header("Content-Type", "image/jpeg").header("Mopsel-Person", &raft.by);
    match request.body(vec![0xff; 60 * 1024 * 1024]).send().await {
        Ok(answer) => {
            assert_eq!(answer.status(), StatusCode::PAYLOAD_TOO_LARGE);
            assert!(answer.text().await.unwrap().contains("16 MB"));
        }
        // The answer may come while the client is still writing; then its write breaks off.
        Err(error) => assert!(error.is_request() || error.is_body(), "{error}"),
    }
    assert!(raft.server.get("/healthz").await.is_object());
}
