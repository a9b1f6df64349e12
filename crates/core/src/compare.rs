//! Several systems, plantings or cycles beside each other: what each drinks, eats and reads along its own days, by how much
//! they differ, and whether what was read can carry that.
//!
//! Two rows of values are held against each other by the median of all differences between them (Hodges and Lehmann), with the
//! range that the rank-sum test of Wilcoxon gives it at 95 of 100. Where that range holds zero, it may be chance; with fewer
//! than four values on a side nothing is said. Where the highest and the lowest of several are picked out, the range is
//! widened by as many pairs as there were to pick from (Bonferroni). What differs besides (the place, the season, the hands)
//! no figure here knows.

use crate::calendar::{days_between, local_date};
use crate::fact::{Body, Entry, effective};
use crate::figures::FIGURES;
use crate::message::{Message, Param, Unit, count};
use crate::quantity::Name;
use crate::say;
use crate::situation::Situation;
use crate::statistics::{apart, median, quantile};
use crate::story::share;
use crate::system::PortSet;
use crate::trend::history::{Span, over};
use crate::trend::{Measured, Point};
use jiff::Timestamp;
use serde::Serialize;
use uuid::Uuid;

/// What is compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, serde::Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Compared {
    /// Litres drunk a day.
    Drunk,
    /// Grams of nutrients taken up a day.
    Eaten,
    /// pH.
    Ph,
    /// EC.
    Ec,
    /// The water's temperature.
    Temperature,
    /// Grams picked so far.
    Picked,
}

impl Compared {
    /// Each of them.
    pub const ALL: [Self; 6] = [Self::Drunk, Self::Eaten, Self::Ph, Self::Ec, Self::Temperature, Self::Picked];

    fn measured(self) -> Option<Measured> {
        match self {
            Self::Drunk => Some(Measured::Drunk),
            Self::Eaten => Some(Measured::Eaten),
            Self::Ph => Some(Measured::Ph),
            Self::Ec => Some(Measured::Ec),
            Self::Temperature => Some(Measured::Temperature),
            Self::Picked => None,
        }
    }

    /// Whether it is shared by the ports: two plants drink twice of what one drinks.
    #[must_use]
    pub fn by_ports(self) -> bool {
        matches!(self, Self::Drunk | Self::Eaten | Self::Picked)
    }

    /// Of a difference.
    fn unit_apart(self) -> Unit {
        if self == Self::Temperature { Unit::Degrees } else { self.unit() }
    }

    fn unit(self) -> Unit {
        match self {
            Self::Drunk => Unit::LitresADay,
            Self::Eaten => Unit::Grams,
            Self::Ph => Unit::Ph,
            Self::Ec => Unit::MilliSiemens,
            Self::Temperature => Unit::Celsius,
            Self::Picked => Unit::Grams,
        }
    }
}

/// One of those that are compared.
#[derive(Debug, Clone, Copy)]
pub struct Subject<'a> {
    /// From which moment on it is looked at.
    pub span: Span,
    /// Of which planting, where it is one: its ports, by their share.
    pub planting: Option<(Uuid, &'a PortSet)>,
    /// Whether amounts are told for one planted port.
    pub a_port: bool,
}

/// A value along the days.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Along {
    /// Days since it began.
    pub day: f64,
    /// When that was.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// Lowest value that the reading allows.
    pub low: f64,
    /// Highest value that the reading allows.
    pub high: f64,
}

/// What one of them comes to in one quantity.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Row {
    /// Along its days.
    pub points: Vec<Along>,
    /// How many values there are.
    pub values: usize,
    /// Their median; of what was picked, all of it. Absent where nothing was read.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub usual: Option<f64>,
    /// The tenth of a hundred.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub low: Option<f64>,
    /// The ninetieth.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub high: Option<f64>,
}

/// Ports that were planted at a moment; `None` where none was.
fn planted(at: Timestamp, s: &Situation<'_>) -> Option<f64> {
    let ports: usize = s.planted.at(at, local_date(at, s.now)).map(|planting| planting.ports.len()).sum();
    (ports > 0).then_some(ports as f64)
}

/// By what an amount of the whole system is told; `None` where it is told for a port and none was planted.
fn part(what: Compared, at: Timestamp, subject: &Subject<'_>, s: &Situation<'_>) -> Option<f64> {
    if !what.by_ports() {
        return Some(1.0);
    }
    // What was picked is that planting's already.
    let whose = subject.planting.filter(|_| what != Compared::Picked);
    let share = whose.map_or(1.0, |(_, ports)| share(ports, at, s));
    let own = subject.planting.map(|(_, ports)| ports.len().max(1) as f64);
    Some(share / if subject.a_port { own.or_else(|| planted(at, s))? } else { 1.0 })
}

fn picked(entries: &[Entry], subject: &Subject<'_>, s: &Situation<'_>) -> Vec<Point> {
    let mut sum = 0.0;
    let mut points = Vec::new();
    for entry in effective(entries).into_iter().filter(|entry| subject.span.holds(entry.at)) {
        let Body::Visit(visit) = &entry.body else { continue };
        let of = |planting: Uuid| subject.planting.is_none_or(|(id, _)| id == planting);
        let all = visit.harvests.iter().filter(|one| of(one.planting)).filter_map(|one| one.grams);
        let grams: f64 = all.map(crate::quantity::Grams::get).sum();
        if grams > 0.0 {
            sum += grams * part(Compared::Picked, entry.at, subject, s).unwrap_or(1.0);
            points.push(Point::new(entry.at, sum, sum));
        }
    }
    points
}

/// What a subject comes to in each quantity. `entries` is the whole log of its system, with what a logger's days came to.
#[must_use]
pub fn rows(entries: &[Entry], subject: &Subject<'_>, most: usize, s: &Situation<'_>) -> Vec<(Compared, Row)> {
    let drawn = over(entries, &[], subject.span, most, s);
    let row = |what: Compared| {
        let points = match what.measured() {
            Some(measured) => {
                let trend = drawn.iter().find(|trend| trend.quantity == measured);
                trend.map(|trend| trend.points.clone()).unwrap_or_default()
            }
            None => picked(entries, subject, s),
        };
        let along = |point: &Point| {
            let by = if what == Compared::Picked { 1.0 } else { part(what, point.at, subject, s)? };
            let day = days_between(subject.span.from, point.at);
            Some(Along { day, at: point.at, low: point.low * by, high: point.high * by })
        };
        let points: Vec<Along> = points.iter().filter_map(along).collect();
        let values = middles(&points);
        let spread = |q: f64| quantile(&values, q).filter(|_| what != Compared::Picked);
        let usual = if what == Compared::Picked { values.last().copied() } else { median(&values) };
        (what, Row { values: points.len(), points, usual, low: spread(0.1), high: spread(0.9) })
    };
    Compared::ALL.map(row).into()
}

fn middles(points: &[Along]) -> Vec<f64> {
    points.iter().map(|point| f64::midpoint(point.low, point.high)).collect()
}

/// Less apart than this share is the same to everybody.
const SAME: f64 = 0.01;

/// What differs in one quantity, by how much, and whether what was read can carry it.
#[must_use]
pub fn told(what: Compared, rows: &[(Name, &Row)]) -> Message {
    let mut read: Vec<(&Name, &Row, f64)> =
        rows.iter().filter_map(|(name, row)| Some((name, *row, row.usual?))).collect();
    read.sort_by(|a, b| b.2.total_cmp(&a.2));
    let (Some((most, high, much)), Some((least, low, little))) = (read.first(), read.last()) else {
        return say!("compare.nothing");
    };
    if read.len() < 2 {
        return say!("compare.alone", name = *most);
    }
    let unit = what.unit();
    let number = |value: f64| Param::Number(value, unit);
    let (much_of, little_of, much_said) = (*much, *little, number(*much));
    let (most, much, least, little) = (*most, number(*much), *least, number(*little));
    let all = match what {
        Compared::Drunk => say!("compare.drinks", most = most, much = much, least = least, little = little),
        Compared::Eaten => say!("compare.eats", most = most, much = much, least = least, little = little),
        Compared::Picked => say!("compare.gave", most = most, much = much, least = least, little = little),
        _ => say!("compare.stands", most = most, much = much, least = least, little = little),
    };
    let all = Param::from(all);
    if what == Compared::Picked {
        return say!("compare.picked", both = all);
    }
    let (a, b) = (middles(&high.points), middles(&low.points));
    let enough = FIGURES.compare.least_values;
    if (a.len().min(b.len()) as f64) < enough {
        let found = count(a.len().min(b.len()));
        return say!("compare.few", both = all, found = found, least = count(enough as u32));
    }
    match apart(&a, &b, read.len()) {
        Some((by, Some((from, to)))) if from > 0.0 || to < 0.0 => {
            let unit = what.unit_apart();
            let (from, to) = (from.abs().min(to.abs()), from.abs().max(to.abs()));
            let range = Param::Band(from, to, unit);
            say!("compare.apart", both = all, by = Param::Number(by.abs(), unit), range = range)
        }
        _ if (much_of - little_of).abs() <= much_of.abs() * SAME => {
            say!("compare.same", most = most, least = least, much = much_said)
        }
        _ => say!("compare.chance", both = all),
    }
}
