//! The generic products and recipes that ship, read from `data/products.toml`. Their ids are made
//! from their keys, so that they are the same in every file and every release.

use super::{Product, Recipe, RecipeLine, StageParts};
use crate::quantity::{Name, Note};
use serde::Deserialize;
use std::sync::LazyLock;
use uuid::Uuid;

/// The id of a shipped product or recipe.
#[must_use]
pub fn shipped_id(key: &str) -> Uuid {
    Uuid::new_v5(&Uuid::NAMESPACE_URL, format!("mopsel/{key}").as_bytes())
}

/// The peroxide that a treatment is worked out for where no other is picked.
#[must_use]
pub fn usual_peroxide() -> Uuid {
    shipped_id("root_oxygen_3")
}

#[derive(Deserialize)]
struct File {
    product: Vec<KeyedProduct>,
    recipe: Vec<KeyedRecipe>,
}

#[derive(Deserialize)]
struct KeyedProduct {
    key: String,
    label: Product,
}

#[derive(Deserialize)]
struct KeyedRecipe {
    key: String,
    name: Name,
    note: Option<Note>,
    lines: Vec<KeyedLine>,
}

#[derive(Deserialize)]
struct KeyedLine {
    product: String,
    parts: StageParts,
}

struct Library {
    products: Vec<(Uuid, Product)>,
    recipes: Vec<(Uuid, Recipe)>,
}

static LIBRARY: LazyLock<Library> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    let file: File =
        toml::from_str(include_str!("../../data/products.toml")).expect("data/products.toml is well formed");
    let line = |line: KeyedLine| RecipeLine { product: shipped_id(&line.product), parts: line.parts, rate: None };
    let recipe = |recipe: KeyedRecipe| {
        let lines = recipe.lines.into_iter().map(line).collect();
        (shipped_id(&recipe.key), Recipe { name: recipe.name, note: recipe.note, lines })
    };
    Library {
        products: file.product.into_iter().map(|p| (shipped_id(&p.key), p.label)).collect(),
        recipes: file.recipe.into_iter().map(recipe).collect(),
    }
});

/// The shipped products with their ids.
#[must_use]
pub fn products() -> &'static [(Uuid, Product)] {
    &LIBRARY.products
}

/// The shipped recipes with their ids.
#[must_use]
pub fn recipes() -> &'static [(Uuid, Recipe)] {
    &LIBRARY.recipes
}
