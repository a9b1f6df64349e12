//! The house has floors, and no module looks up.
use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

/// The floors from the ground up. Modules of one floor may use each other, without a circle.
const FLOORS: [&[&str]; 10] = [
    &["message", "refusal", "statistics"],
    &["quantity"],
    &["figures"],
    &["band", "calendar", "reservoir", "system", "crop", "mixing"],
    &["fact"],
    &["projection"],
    &["situation"],
    &[
        "forecast",
        "reach",
        "remind",
        "refill",
        "dosing",
        "diagnosis",
        "verdict",
        "care",
        "guide",
        "bench",
        "drawing",
        "columns",
        "compare",
        "trend",
        "story",
        "way",
    ],
    &["gate"],
    &["words"],
];

fn sources(folder: &Path, into: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            sources(&path, into);
        } else if path.extension().is_some_and(|ending| ending == "rs") {
            into.push(path);
        }
    }
}

/// The module that a name behind `crate::` belongs to; macros and the crate's own names are of the ground.
fn module(name: &str) -> &str {
    match name {
        "say" => "message",
        "refuse" | "Refusal" => "refusal",
        name => name,
    }
}

/// Every `crate::name` in a text, and the names in `crate::{a, b::c}`, tests left out.
fn used(text: &str) -> BTreeSet<String> {
    let code = text.split("#[cfg(test)]\nmod tests").next().unwrap_or_default();
    let lines = code.lines().filter(|line| !line.trim_start().starts_with("//"));
    let mut names = BTreeSet::new();
    for line in lines {
        for (at, found) in line.match_indices("crate::") {
            if line[..at].ends_with('$') {
                continue;
            }
            let rest = &line[at + found.len()..];
            let first: String = rest.chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect();
            if let Some(list) = rest.strip_prefix('{') {
                let list = list.split('}').next().unwrap_or_default();
                names.extend(list.split(',').map(|part| module(part.trim().split("::").next().unwrap()).to_owned()));
            } else if !first.is_empty() {
                names.insert(module(&first).to_owned());
            }
        }
    }
    names.remove("");
    names
}

fn graph() -> BTreeMap<String, BTreeSet<String>> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let mut files = Vec::new();
    sources(&root, &mut files);
    let mut graph: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for file in files {
        let inside = file.strip_prefix(&root).unwrap();
        let name = inside.components().next().unwrap().as_os_str().to_string_lossy().replace(".rs", "");
        if name == "lib" {
            continue;
        }
        let uses = used(&fs::read_to_string(&file).unwrap());
        graph.entry(name.clone()).or_default().extend(uses.into_iter().filter(|other| *other != name));
    }
    graph
}

fn floor(module: &str) -> usize {
    FLOORS.iter().position(|floor| floor.contains(&module)).unwrap_or_else(|| panic!("{module} has no floor"))
}

#[test]
fn no_module_uses_one_of_a_floor_above() {
    let mut upward = Vec::new();
    for (module, uses) in graph() {
        let above = uses.into_iter().filter(|used| floor(used) > floor(&module));
        upward.extend(above.map(|used| format!("{module} uses {used}")));
    }
    assert_eq!(upward, Vec::<String>::new());
}

#[test]
fn no_modules_use_each_other_in_a_circle() {
    let graph = graph();
    // Take away what uses nothing that is left, until nothing is left: what stays is in a circle.
    let mut left: BTreeSet<&String> = graph.keys().collect();
    loop {
        let free: Vec<&String> =
            left.iter().copied().filter(|module| graph[*module].iter().all(|used| !left.contains(used))).collect();
        if free.is_empty() {
            break;
        }
        left.retain(|module| !free.contains(module));
    }
    assert!(left.is_empty(), "in a circle, or above one: {left:?}");
}

#[test]
fn every_floor_is_there() {
    let graph = graph();
    for module in FLOORS.iter().copied().flatten() {
        assert!(graph.contains_key(*module), "{module} is gone: take it off the floors");
    }
}
