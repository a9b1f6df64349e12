//! What a power cut leaves: a checkpoint that was broken off, a restore that was, a backup that is only looked at.
use crate::common::Fixture;
use mopsel_store::{Store, backup, check, log_beside, look, restore};
use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

/// A file with entries of which all stand in the log beside it, as a power cut leaves them: the two as bytes.
async fn cut_off(entries: i64) -> (Fixture, Vec<u8>, Vec<u8>) {
    let fixture = Fixture::new().await;
    for n in 0..entries {
        fixture.append(&fixture.visit(500 - n, 20.0)).await.unwrap();
    }
    let (file, log) = (fs::read(fixture.file()).unwrap(), fs::read(log_beside(&fixture.file())).unwrap());
    (fixture, file, log)
}

/// What a checkpoint writes, in its order: each page as it is last in the log, by its place in the file.
fn written_by_a_checkpoint(log: &[u8]) -> BTreeMap<usize, &[u8]> {
    let number = |at: usize| u32::from_be_bytes(log[at..at + 4].try_into().unwrap());
    let (page, salt) = (number(8) as usize, &log[16..24]);
    let mut pages = BTreeMap::new();
    let mut open: Vec<(usize, &[u8])> = Vec::new();
    let mut at = 32;
    while at + 24 + page <= log.len() && &log[at + 8..at + 16] == salt {
        open.push(((number(at) as usize - 1) * page, &log[at + 24..at + 24 + page]));
        // A frame that says how large the file is ends a transaction.
        if number(at + 4) != 0 {
            pages.extend(open.drain(..));
        }
        at += 24 + page;
    }
    pages
}

fn put(file: &mut Vec<u8>, at: usize, bytes: &[u8]) {
    if file.len() < at + bytes.len() {
        file.resize(at + bytes.len(), 0);
    }
    file[at..at + bytes.len()].copy_from_slice(bytes);
}

async fn opens_whole(file: &Path, entries: i64, said: &str) {
    let found = look(file).await.unwrap();
    assert_eq!((found.there, found.damage), (true, None), "{said}");
    let found = check(file).await.unwrap();
    assert_eq!((found.entries, found.wrong), (entries, vec![]), "{said}");
    let store = Store::open(file).await.unwrap();
    assert_eq!(store.read_only(), None, "{said}");
    store.close().await;
}

#[tokio::test]
async fn a_checkpoint_broken_off_at_any_of_its_writes_leaves_a_file_that_opens_whole() {
    // Some fifty moments each time; in a soak over two hundred.
    let soak = std::env::var_os("MOPSEL_SOAK").is_some();
    let entries = if soak { 500 } else { 60 };
    let sectors: &[usize] = if soak { &[4096, 512, 1024, 2048, 3584] } else { &[4096, 512] };
    let (fixture, file, log) = cut_off(entries).await;
    let folder = tempfile::tempdir().unwrap();
    let pages = written_by_a_checkpoint(&log);
    assert!(pages.len() > 20, "a checkpoint worth breaking off: {} pages", pages.len());
    for stop in 0..=pages.len() {
        // The last page that was begun is there whole, or the first sectors of it.
        for torn in sectors.iter().copied() {
            let mut broken = file.clone();
            for (n, (at, bytes)) in pages.iter().take(stop).enumerate() {
                put(&mut broken, *at, if n + 1 < stop { bytes } else { &bytes[..torn] });
            }
            let at = folder.path().join(format!("{stop}-{torn}.mopsel"));
            fs::write(&at, &broken).unwrap();
            fs::write(log_beside(&at), &log).unwrap();
            opens_whole(&at, entries, &format!("broken off at write {stop} of {}, torn: {torn}", pages.len())).await;
        }
    }
    println!("broken off at {} moments", sectors.len() * (pages.len() + 1));
    fixture.store.close().await;
}

#[tokio::test]
async fn a_log_that_belongs_to_another_file_is_still_told_and_what_no_reader_can_read_is_damaged() {
    let (fixture, file, _) = cut_off(20).await;
    let (other, _, foreign) = cut_off(30).await;
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path().join("garden.mopsel");
    fs::write(&at, &file).unwrap();
    fs::write(log_beside(&at), &foreign).unwrap();
    let damage = look(&at).await.unwrap().damage.unwrap();
    assert!(damage.contains("does not fit the log beside it"), "{damage}");
    let ruined: Vec<u8> = file[..4096].iter().copied().chain((4096..file.len()).map(|n| (n % 251) as u8)).collect();
    fs::write(&at, ruined).unwrap();
    fs::remove_file(log_beside(&at)).unwrap();
    assert!(look(&at).await.unwrap().damage.unwrap().contains("is damaged"));
    fixture.store.close().await;
    other.store.close().await;
}

#[tokio::test]
async fn a_backup_is_looked_at_and_put_back_without_a_change_of_it_also_where_nothing_can_be_written() {
    let (fixture, ..) = cut_off(10).await;
    let folder = tempfile::tempdir().unwrap();
    let (kept, back) = (folder.path().join("kept.mopsel"), folder.path().join("back.mopsel"));
    backup(&fixture.file(), &kept).await.unwrap();
    let old = folder.path().join("old.mopsel");
    fs::copy(Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/files/release-1.mopsel"), &old).unwrap();
    for file in [&kept, &old] {
        let before = fs::read(file).unwrap();
        assert_eq!(check(file).await.unwrap().wrong, Vec::<String>::new());
        restore(&back, file).await.unwrap();
        assert_eq!(fs::read(file).unwrap(), before, "{} was changed", file.display());
        assert_eq!(fs::read(&back).unwrap(), before);
        assert!(!log_beside(file).exists());
    }
    let names = || fs::read_dir(folder.path()).unwrap().map(|entry| entry.unwrap().file_name()).collect::<Vec<_>>();
    assert!(names().iter().any(|name| name == "back.mopsel.before-restore-1"), "{:?}", names());
    fixture.store.close().await;
}

#[tokio::test]
async fn a_file_with_entries_of_a_newer_release_is_not_called_sound_by_this_one() {
    let (fixture, ..) = cut_off(2).await;
    sqlx::query("UPDATE newest_shape SET entry = 99").execute(fixture.store.writer()).await.unwrap();
    fixture.store.close().await;
    let wrong = check(&fixture.file()).await.unwrap().wrong;
    assert!(wrong.iter().any(|line| line.contains("newer Mopsel")), "{wrong:?}");
}
