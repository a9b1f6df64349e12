//! What stands on the shelf, for everybody: products and recipes, with what was learnt of them.

use crate::book::Pages;
use mopsel_core::fact::card::Card;
use mopsel_core::mixing::{BatchPoint, FeedFacts, Learnt, Product, Recipe, learnt_rise, products, recipes};
use std::collections::BTreeMap;
use uuid::Uuid;

/// Products and recipes, shipped and own, with what was learnt of them.
#[derive(Debug, Default)]
pub struct ShelfPages {
    /// Products by id, without what was put away.
    pub products: BTreeMap<Uuid, Product>,
    /// Recipes by id, without what was put away.
    pub recipes: BTreeMap<Uuid, Recipe>,
    /// EC rises learnt from the batches of all systems.
    pub learnt: BTreeMap<Uuid, Learnt>,
}

impl ShelfPages {
    /// What a recipe feeds; nothing is told where there is none.
    pub(crate) fn feed(&self, recipe: Option<Uuid>) -> FeedFacts {
        let recipe = recipe.and_then(|id| self.recipes.get(&id));
        recipe.map(|recipe| FeedFacts::of(recipe, |id| self.products.get(&id))).unwrap_or_default()
    }

    pub(crate) fn of(pages: &Pages) -> Self {
        let own = || pages.every_other().filter(|stored| !stored.archived);
        let own_products = own().filter_map(|stored| match &stored.card {
            Card::Product(product) => Some((stored.id, product.clone())),
            _ => None,
        });
        let own_recipes = own().filter_map(|stored| match &stored.card {
            Card::Recipe(recipe) => Some((stored.id, recipe.clone())),
            _ => None,
        });
        let products: BTreeMap<Uuid, Product> = products().iter().cloned().chain(own_products).collect();
        let recipes = recipes().iter().cloned().chain(own_recipes).collect();
        let batches: Vec<&BatchPoint> = pages.every_system().flat_map(|file| &file.known.lessons.batches).collect();
        let given = |id: Uuid| products.get(&id).and_then(|product| product.rise);
        let learnt = products.keys().filter_map(|id| Some((*id, learnt_rise(*id, &batches, given)?))).collect();
        Self { products, recipes, learnt }
    }
}
