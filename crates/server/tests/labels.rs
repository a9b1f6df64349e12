//! Labels: what a camera reads off them.

use crate::common::Running;
use serde_json::Value;

/// Draws the path of a label with its quiet zone, some pixels a module, and reads it as a camera would.
fn read(label: &Value, blots: &[(usize, usize)]) -> Option<String> {
    const PIXELS: usize = 6;
    let size = usize::try_from(label["size"].as_u64().unwrap()).unwrap();
    let mut dark = vec![vec![false; size + 8]; size + 8];
    for stroke in label["path"].as_str().unwrap().split_terminator('z') {
        let (from, rest) = stroke.strip_prefix('M').unwrap().split_once('h').unwrap();
        let (x, y) = from.split_once(' ').unwrap();
        let run: usize = rest.split_once('v').unwrap().0.parse().unwrap();
        let (x, y): (usize, usize) = (x.parse().unwrap(), y.parse().unwrap());
        dark[y + 4][x + 4..x + 4 + run].fill(true);
    }
    for (x, y) in blots {
        dark[*y][*x] = !dark[*y][*x];
    }
    let wide = (size + 8) * PIXELS;
    let pixel = |x: usize, y: usize| if dark[y / PIXELS][x / PIXELS] { 0 } else { 255 };
    let mut image = rqrr::PreparedImage::prepare_from_greyscale(wide, wide, pixel);
    let grids = image.detect_grids();
    grids.first()?.decode().ok().map(|(_, text)| text)
}

#[actix_web::test]
async fn a_camera_reads_the_visit_of_its_system_off_each_label_even_where_some_of_it_is_dirty() {
    let server = Running::demo();
    let labels = server.get(&format!("/api/labels?at={}", server.base)).await;
    let labels = labels.as_array().unwrap();
    assert_eq!(labels.len(), 10);
    for label in labels {
        let opens = format!("{}/system/{}/visit", server.base, label["system"].as_str().unwrap());
        assert_eq!(read(label, &[]).as_deref(), Some(opens.as_str()), "{}", label["name"]);
        // A drop of water on a few modules.
        let wet: Vec<(usize, usize)> = (22..26).flat_map(|x| (22..26).map(move |y| (x, y))).collect();
        assert_eq!(read(label, &wet).as_deref(), Some(opens.as_str()));
    }
    let raft = server.system("Blue raft").await;
    let place = server.get(&format!("/api/systems/{raft}")).await["place"]["id"].as_str().unwrap().to_owned();
    let one = server.get(&format!("/api/labels?at={}&places={place}", server.base)).await;
    assert_eq!(one.as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn a_label_opens_this_server_and_no_other() {
    let server = Running::demo();
    for bad in [
        "http://evil.example",
        "javascript:alert(1)",
        "http://localhost@evil.example",
        "http://localhost/x",
        "",
        "ftp://localhost",
    ] {
        let address = format!("{}/api/labels", server.base);
        let answer = server.client.get(address).query(&[("at", bad)]).send().await.unwrap();
        assert_eq!(answer.status(), 422, "{bad}");
    }
    let nowhere = format!("{}/api/labels?at={}&places=0190a000-0000-7000-8000-000000000000", server.base, server.base);
    assert_eq!(server.client.get(nowhere).send().await.unwrap().status(), 404);
}
