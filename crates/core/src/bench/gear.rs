//! What stands on a bench that nobody has described yet.

use crate::mixing::{Container, Tool};
use crate::quantity::{AmountUnit, Litres, Name, TABLESPOON_ML, TEASPOON_ML, UnitSystem};

fn name(text: &str) -> Option<Name> {
    Name::new(text).ok()
}

/// Two cans and a bucket.
#[must_use]
pub fn usual_containers(units: UnitSystem) -> Vec<Container> {
    let list: &[(&str, f64)] = match units {
        UnitSystem::Metric => &[("10 L can", 10.0), ("10 L bucket", 10.0)],
        UnitSystem::Us | UnitSystem::Imperial => &[("5 gal bucket", 4.5), ("3 gal can", 3.0)],
    };
    let container = |(says, size): &(&str, f64)| {
        Some(Container::carried(name(says)?, Litres::new(size * units.litres_per_unit()).ok()?))
    };
    list.iter().filter_map(container).collect()
}

/// Syringes, a cylinder and a scale; with US or imperial units spoons too.
#[must_use]
pub fn usual_tools(units: UnitSystem) -> Vec<Tool> {
    let mut list = vec![
        ("5 mL syringe", AmountUnit::Ml, 5.0, 0.2),
        ("20 mL syringe", AmountUnit::Ml, 20.0, 1.0),
        ("100 mL cylinder", AmountUnit::Ml, 100.0, 2.0),
        ("scale", AmountUnit::G, 500.0, 0.1),
    ];
    if units != UnitSystem::Metric {
        list.push(("teaspoon", AmountUnit::Ml, TEASPOON_ML, TEASPOON_ML / 4.0));
        list.push(("tablespoon", AmountUnit::Ml, TABLESPOON_ML, TABLESPOON_ML / 2.0));
    }
    let tool = |(says, unit, holds, marked_each)| Some(Tool { name: name(says)?, unit, holds, marked_each });
    list.into_iter().filter_map(tool).collect()
}
