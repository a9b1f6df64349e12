//! Systems, plantings and cycles beside each other.

use super::{Acting, now};
use crate::actor::Who;
use crate::book::Book;
use crate::problem::ProblemSaid;
use crate::view::{CompareView, Side, SideChoice, compare_choices, compare_view, system_of};
use crate::{Clock, Problem};
use actix_web::web;
use jiff::Timestamp;
use jiff::civil::Date;
use mopsel_core::calendar::add_days;
use mopsel_core::message::{count, typed};
use mopsel_core::refuse;
use serde::Deserialize;
use uuid::Uuid;

/// What is compared.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Beside {
    /// With commas between: `system:` with the id of a system, `planting:` with that of a planting, `cycles:` with a
    /// system's id for its last cycles between two changes.
    #[param(pattern = "^(system|planting|cycles):")]
    of: String,
    /// Systems from this day on; ten weeks when absent.
    #[serde(default)]
    #[param(value_type = Option<String>, format = Date)]
    from: Option<Date>,
    /// Systems up to this day, with it; today when absent.
    #[serde(default)]
    #[param(value_type = Option<String>, format = Date)]
    to: Option<Date>,
    /// Whether amounts are told for one planted port.
    #[serde(default)]
    a_port: bool,
}

/// So many are held beside each other.
const MOST: usize = 6;
/// Days of a system, unless others are asked for.
const USUAL_DAYS: i64 = 70;
/// No more, in days.
const MOST_DAYS: i64 = 3660;

fn side(text: &str) -> Result<Side, Problem> {
    let unknown = || refuse!("compare_side", found = typed(text)).at("of");
    let (kind, id) = text.trim().split_once(':').ok_or_else(unknown)?;
    let id: Uuid = id.parse().map_err(|_| unknown())?;
    match kind {
        "system" => Ok(Side::System(id)),
        "planting" => Ok(Side::Planting(id)),
        "cycles" => Ok(Side::Cycles(id)),
        _ => Err(unknown().into()),
    }
}

/// Everything that can be compared.
#[utoipa::path(get, path = "/api/compare/choices", params(Acting), responses((status = 200, body = Vec<SideChoice>)))]
pub async fn compare_with(Who(actor): Who, book: web::Data<Book>) -> web::Json<Vec<SideChoice>> {
    web::Json(compare_choices(&*book.as_opened(&actor).await))
}

/// Several systems, plantings or cycles beside each other: along their days what each drinks, eats, reads and gives, what
/// differs by how much, and whether what was read can carry that.
#[utoipa::path(get, path = "/api/compare", params(Beside, Acting), responses((status = 200, body = CompareView), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn compare(
    asked: web::Query<Beside>,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<CompareView>, Problem> {
    let at = now(&clock);
    let mut sides: Vec<Side> = Vec::new();
    for text in asked.of.split(',').filter(|text| !text.trim().is_empty()) {
        let side = side(text)?;
        if !sides.contains(&side) {
            sides.push(side);
        }
    }
    if sides.len() > MOST {
        return Err(refuse!("compare_many", found = count(sides.len()), most = count(MOST)).at("of").into());
    }
    let (systems, days) = {
        let pages = book.as_opened(&actor).await;
        let systems = sides.iter().map(|side| system_of(&pages, *side)).collect::<Result<Vec<Uuid>, Problem>>()?;
        let zone = match systems.first() {
            Some(first) => pages.place_of(pages.system(*first)?)?.zone.clone(),
            None => jiff::tz::TimeZone::UTC,
        };
        let to = asked.to.unwrap_or_else(|| at.to_zoned(zone).date());
        (systems, (asked.from.unwrap_or_else(|| add_days(to, -USUAL_DAYS)), to))
    };
    if !(0..=MOST_DAYS).contains(&i64::from((days.1 - days.0).get_days())) {
        let (from, to) = (typed(&days.0.to_string()), typed(&days.1.to_string()));
        return Err(refuse!("trend_days", from = from, to = to, most = count(MOST_DAYS as u32)).at("to").into());
    }
    let mut logs = Vec::with_capacity(sides.len());
    for (side, system) in sides.into_iter().zip(systems) {
        logs.push((side, book.store().entries_since(system, Timestamp::MIN).await?));
    }
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(compare_view(&pages, &logs, days, asked.a_port, (at, &actor))?))
}
